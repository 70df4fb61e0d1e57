package sites

import (
	"context"
)

// IsSetUp tells whether the program has been set up: somebody has, or had, an account.
func (q Queries) IsSetUp(ctx context.Context) (bool, error) {
	var is bool
	err := q.run.One(ctx, &is, `select closed_at is not null from setup`)
	return is, err
}

// SetupCode returns the hash of the code by which the program is set up; nil where there is
// none, or no more.
func (q Queries) SetupCode(ctx context.Context) ([]byte, error) {
	var hash []byte
	err := q.run.One(ctx, &hash, `select code_hash from setup`)
	return hash, err
}

// FirstSetupCode keeps the hash of a code where there is none yet, and tells whether it did:
// of programs that start together, one does.
func (q Queries) FirstSetupCode(ctx context.Context, hash []byte) (bool, error) {
	done, err := q.run.Do(ctx, `update setup set code_hash = $1 where code_hash is null and closed_at is null`, hash)
	if err != nil {
		return false, err
	}
	n, err := done.RowsAffected()
	return n > 0, err
}

// SaveSetupCode keeps the hash of another code. It fails with db.ErrNotFound where the program
// has been set up.
func (q Queries) SaveSetupCode(ctx context.Context, hash []byte) error {
	return q.run.Exec(ctx, `update setup set code_hash = $1 where closed_at is null`, hash)
}

// LockSetup makes those who set the program up take turns. It fails with db.ErrNotFound where
// it has been set up. Adding a person is what sets it up.
func (t *Tx) LockSetup(ctx context.Context) error {
	var single bool
	return t.run.One(ctx, &single, `select single from setup where closed_at is null for update`)
}
