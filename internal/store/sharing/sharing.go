// Package sharing keeps channels, outings, short links and clicks.
package sharing

import "dapper.example/internal/store/db"

// Queries runs its statements on a pool or in a transaction.
type Queries struct{ run db.Runner }

// On returns the statements on a pool or a transaction.
func On(run db.Runner) Queries { return Queries{run} }

// Tx has, beside them, those that want a transaction.
type Tx struct{ Queries }

// In returns the statements in a transaction.
func In(run db.Runner) Tx { return Tx{On(run)} }
