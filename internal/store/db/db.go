// Package db runs the statements of the store's parts. Nobody else may: the architecture test
// holds that.
package db

import (
	"context"
	"database/sql"
	"errors"

	"github.com/jmoiron/sqlx"
	"golang.org/x/sync/errgroup"
)

// ErrNotFound is returned where the site has no such row.
var ErrNotFound = errors.New("not found")

// Runner runs statements on a pool or in a transaction.
type Runner struct {
	on sqlx.ExtContext
	// Within is a transaction, which has but one connection and may see what nobody else does.
	Within bool
}

// OnPool returns what runs statements on a pool.
func OnPool(pool *sqlx.DB) Runner { return Runner{on: pool} }

// InTx returns what runs statements in a transaction.
func InTx(tx *sqlx.Tx) Runner { return Runner{on: tx, Within: true} }

// Together does readings at the same time where they are on the pool, and one after the
// other in a transaction, which has but one connection. The first error ends them all.
func (r Runner) Together(ctx context.Context, readings ...func(context.Context) error) error {
	if r.Within {
		for _, read := range readings {
			if err := read(ctx); err != nil {
				return err
			}
		}
		return nil
	}
	group, ctx := errgroup.WithContext(ctx)
	for _, read := range readings {
		group.Go(func() error { return read(ctx) })
	}
	return group.Wait()
}

// One reads a single row into dest and turns its absence into ErrNotFound.
func (r Runner) One(ctx context.Context, dest any, query string, args ...any) error {
	err := sqlx.GetContext(ctx, r.on, dest, query, args...)
	if IsNoRows(err) {
		return ErrNotFound
	}
	return err
}

// Each reads rows one by one, for queries whose rows are many: scan reads the present one.
// It spares the reflection of all.
func (r Runner) Each(ctx context.Context, scan func(*sqlx.Rows) error, query string, args ...any) error {
	rows, err := r.on.QueryxContext(ctx, query, args...)
	if err != nil {
		return err
	}
	defer rows.Close()
	for rows.Next() {
		if err := scan(rows); err != nil {
			return err
		}
	}
	return rows.Err()
}

// All reads all rows into dest, a slice.
func (r Runner) All(ctx context.Context, dest any, query string, args ...any) error {
	return sqlx.SelectContext(ctx, r.on, dest, query, args...)
}

// Exec runs a statement that must touch at least one row, or else ErrNotFound.
func (r Runner) Exec(ctx context.Context, query string, args ...any) error {
	result, err := r.on.ExecContext(ctx, query, args...)
	if err != nil {
		return err
	}
	if n, err := result.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, ErrNotFound)
	}
	return nil
}

// Do runs a statement that may touch no row.
func (r Runner) Do(ctx context.Context, query string, args ...any) (sql.Result, error) {
	return r.on.ExecContext(ctx, query, args...)
}
