package sites

import (
	"context"
	"time"
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

// Archive takes a site out of readers' sight, and pauses it.
func (t *Tx) Archive(ctx context.Context, siteID int64, now time.Time) error {
	return t.run.Exec(ctx, `
		update sites set archived_at = $2, paused_at = coalesce(paused_at, $2), version = version + 1
		where id = $1 and archived_at is null`, siteID, now)
}

// Unarchive shows a site to readers again. It stays paused.
func (t *Tx) Unarchive(ctx context.Context, siteID int64) error {
	return t.run.Exec(ctx, `
		update sites set archived_at = null, version = version + 1 where id = $1 and archived_at is not null`, siteID)
}

// MayAddSites tells whether somebody owns a site, or there is none.
func (q Queries) MayAddSites(ctx context.Context, user int64) (bool, error) {
	var may bool
	err := q.run.One(ctx, &may, `
		select exists (select from memberships where user_id = $1 and role = 'owner') or not exists (select from sites)`, user)
	return may, err
}

// Sites lists all sites, the oldest first.
func (q Queries) Sites(ctx context.Context) ([]Site, error) {
	var all []Site
	err := q.run.All(ctx, &all, `select * from sites order by id`)
	return all, err
}
