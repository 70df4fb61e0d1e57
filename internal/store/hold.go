package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"fmt"
)

// holdImports parts the numbers of imports from others that PostgreSQL locks by number.
const holdImports = 0x1a4e

// HoldImport has one process at a time work on an import: ok is false where another one does. Release ends that; so does the end of
// the process, however it comes.
func (s *Store) HoldImport(ctx context.Context, id int64) (release func(), ok bool, err error) {
	conn, err := s.db.Conn(ctx)
	if err != nil {
		return nil, false, fmt.Errorf("holding import %d: %w", id, err)
	}
	key := int32(id) //nolint:gosec // one of two thousand million others would wait, and no more
	if err := conn.QueryRowContext(ctx, `select pg_try_advisory_lock($1::integer, $2::integer)`, holdImports, key).Scan(&ok); err != nil || !ok {
		return nil, false, closing(conn, err)
	}
	return func() {
		// Where it cannot be given back, the connection must not live on with it.
		if _, err := conn.ExecContext(context.WithoutCancel(ctx), `select pg_advisory_unlock($1::integer, $2::integer)`, holdImports, key); err != nil {
			_ = conn.Raw(func(any) error { return driver.ErrBadConn })
		}
		_ = conn.Close()
	}, true, nil
}

func closing(conn *sql.Conn, err error) error {
	if closed := conn.Close(); err == nil {
		return closed
	}
	return err
}
