package pgtest

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/stdlib"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/store"
)

// New returns a store on an empty database that no other test uses at the same time. Its ids count from 1.
//
// A database and its connections are lent to one test after another, and emptied in between: a new one takes several
// times as long, and so do the first statements of a connection. Where a test has left behind something other than
// rows, or somebody who is still at work, the database is dropped and the next test has a new one.
func New(t testing.TB) *store.Store {
	t.Helper()
	d, err := borrow(context.Background())
	require.NoError(t, err)
	pool := sql.OpenDB(d)
	t.Cleanup(func() {
		busy := pool.Stats().InUse > 0
		require.NoError(t, pool.Close())
		require.NoError(t, d.giveBack(context.Background(), busy || t.Failed()))
	})
	return store.Over(pool, d.url)
}

// Own returns a store on a database that is made for this test alone: for one that breaks it, or its connections.
func Own(t testing.TB) *store.Store {
	t.Helper()
	s, err := store.Open(context.Background(), URL(t))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

// lending is what this process has to lend.
var lending struct {
	sync.Mutex
	idle []*database
}

// database is one that tests use in turn. It connects their pools, and keeps the connections that they close.
type database struct {
	made      server
	url, name string
	config    *pgx.ConnConfig
	look      string // the statement that tells its state
	before    state  // as it was made

	mu   sync.Mutex
	open int // connections, those in use and those kept
	kept []*stdlib.Conn
}

// state is what tells a database that was lent from a new one.
type state struct {
	Filled  []string                   // tables that have rows and had none
	Bytes   int64                      // that all tables take up
	Counted []string                   // sequences that have given out a number
	Others  int                        // sessions but this one, and what they have locked
	Shape   json.RawMessage            // counts of what makes up the schema
	Rows    map[string]json.RawMessage // of the tables that had some at once
}

const (
	// lentPrefix begins the names of databases that are lent.
	lentPrefix = "test_lent_"
	// much is how large a database may have grown, in bytes, that is emptied and not dropped: what is deleted stays in
	// the way for a while.
	much = 4 << 20
	// keeps is how many connections are kept of each.
	keeps = 4
)

// borrow has a database for a test: one that another test has given back, or a new one.
func borrow(ctx context.Context) (*database, error) {
	lending.Lock()
	if n := len(lending.idle); n > 0 {
		d := lending.idle[n-1]
		lending.idle = lending.idle[:n-1]
		lending.Unlock()
		return d, nil
	}
	lending.Unlock()
	made, err := template()
	if err != nil {
		return nil, err
	}
	d := &database{made: made, name: lentPrefix + random()}
	d.url = withDatabase(made.url, d.name)
	if d.config, err = store.ConnConfig(d.url); err != nil {
		return nil, err
	}
	conn, err := pgx.Connect(ctx, withDatabase(made.url, "postgres"))
	if err != nil {
		return nil, err
	}
	defer conn.Close(ctx)
	for _, statement := range []string{fmt.Sprintf(`select pg_advisory_lock_shared(%d)`, making), // until somebody is connected to it
		fmt.Sprintf(`create database %s template %s strategy file_copy`, d.name, made.template)} {
		if _, err := conn.Exec(ctx, statement); err != nil {
			return nil, err
		}
	}
	return d, d.on(ctx, d.learn)
}

// Connect and Driver make it the connector of a pool.
func (d *database) Connect(ctx context.Context) (driver.Conn, error) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if n := len(d.kept); n > 0 {
		conn := d.kept[n-1]
		d.kept = d.kept[:n-1]
		return &lent{conn, d}, nil
	}
	conn, err := stdlib.GetConnector(*d.config).Connect(ctx)
	if err != nil {
		return nil, err
	}
	d.open++
	return &lent{conn.(*stdlib.Conn), d}, nil
}

func (d *database) Driver() driver.Driver { return stdlib.GetDefaultDriver() }

// lent is a connection that goes back to its database when it is closed.
type lent struct {
	*stdlib.Conn
	of *database
}

func (l *lent) Close() error {
	d, conn := l.of, l.Conn.Conn()
	d.mu.Lock()
	defer d.mu.Unlock()
	if !conn.IsClosed() && conn.PgConn().TxStatus() == 'I' { // no transaction is open
		d.kept = append(d.kept, l.Conn)
		return nil
	}
	d.open--
	return l.Conn.Close()
}

// on has something done on one of the database's connections.
func (d *database) on(ctx context.Context, do func(context.Context, *pgx.Conn) error) error {
	conn, err := d.Connect(ctx)
	if err != nil {
		return err
	}
	return errors.Join(do(ctx, conn.(*lent).Conn.Conn()), conn.Close())
}

// learn finds out what a new database is like.
func (d *database) learn(ctx context.Context, conn *pgx.Conn) error {
	var filled, empty []string
	all, err := conn.Query(ctx, `select format('%I', tablename) from pg_tables where schemaname = 'public' order by 1`)
	if err != nil {
		return err
	}
	names, err := pgx.CollectRows(all, pgx.RowTo[string])
	if err != nil {
		return err
	}
	for _, name := range names {
		var has bool
		if err := conn.QueryRow(ctx, `select exists (select from `+name+`)`).Scan(&has); err != nil {
			return err
		}
		if has {
			filled = append(filled, name)
		} else {
			empty = append(empty, name)
		}
	}
	var look strings.Builder
	look.WriteString(`select json_build_object('Filled', array_remove(array[null`)
	for _, name := range empty {
		fmt.Fprintf(&look, `, case when exists (select from %[1]s) then '%[1]s' end`, name)
	}
	look.WriteString(`], null), 'Rows', json_build_object(`)
	for i, name := range filled {
		fmt.Fprintf(&look, `%s'%[2]s', (select json_agg(r) from %[2]s r)`, strings.Repeat(", ", min(i, 1)), name)
	}
	look.WriteString(`),
		'Bytes', (select sum(pg_relation_size(oid)) from pg_class where relkind = 'r' and relnamespace = 'public'::regnamespace),
		'Counted', array(select format('%I.%I', schemaname, sequencename) from pg_sequences where last_value is not null),
		'Others', (select count(*) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()) +
			(select count(*) from pg_locks join pg_database on oid = database and datname = current_database() where locktype = 'advisory'),
		'Shape', json_build_array((select count(*) from pg_class), (select count(*) from pg_attribute), (select count(*) from pg_proc),
			(select count(*) from pg_trigger where tgenabled = 'O'), (select count(*) from pg_constraint), (select count(*) from pg_statistic),
			(select count(*) from pg_db_role_setting join pg_database on pg_database.oid = setdatabase and datname = current_database())))`)
	d.look = look.String()
	d.before, err = d.state(ctx, conn)
	return err
}

func (d *database) state(ctx context.Context, conn *pgx.Conn) (is state, err error) {
	return is, conn.QueryRow(ctx, d.look).Scan(&is)
}

// giveBack empties the database for the next test, or drops it.
func (d *database) giveBack(ctx context.Context, spoilt bool) error {
	if spoilt || d.on(ctx, d.empty) != nil {
		return d.drop(ctx)
	}
	d.mu.Lock()
	for len(d.kept) > keeps {
		d.kept[0].Close()
		d.kept = d.kept[1:]
		d.open--
	}
	d.mu.Unlock()
	lending.Lock()
	defer lending.Unlock()
	lending.idle = append(lending.idle, d)
	return nil
}

// empty makes the database what it was when it was new. Where that would take more than to delete rows it fails.
func (d *database) empty(ctx context.Context, conn *pgx.Conn) error {
	is, err := d.state(ctx, conn)
	if err != nil {
		return err
	}
	d.mu.Lock()
	ours := d.open - 1
	d.mu.Unlock()
	if is.Others != ours || is.Bytes > much || string(is.Shape) != string(d.before.Shape) {
		return errors.New("more than rows was left")
	}
	var do strings.Builder
	do.WriteString("begin; set local session_replication_role = replica;")
	for _, table := range is.Filled {
		fmt.Fprintf(&do, "delete from %s;", table)
	}
	for table, rows := range d.before.Rows {
		if string(is.Rows[table]) != string(rows) {
			fmt.Fprintf(&do, "delete from %[1]s; insert into %[1]s overriding system value select * from json_populate_recordset(null::%[1]s, %[2]s);",
				table, "'"+strings.ReplaceAll(string(rows), "'", "''")+"'")
		}
	}
	for _, sequence := range is.Counted {
		if !slices.Contains(d.before.Counted, sequence) {
			fmt.Fprintf(&do, "select setval(seqrelid, seqstart, false) from pg_sequence where seqrelid = '%s'::regclass;", sequence)
		}
	}
	do.WriteString("commit")
	_, err = conn.PgConn().Exec(ctx, do.String()).ReadAll()
	return err
}

func (d *database) drop(ctx context.Context) error {
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, conn := range d.kept {
		conn.Close()
	}
	d.kept = nil
	return admin(d.made.url, fmt.Sprintf(`drop database if exists %s with (force)`, d.name))
}

// sweep drops what processes that have ended had to lend. The caller holds the lock of making.
func sweep(ctx context.Context, conn *pgx.Conn) error {
	found, err := conn.Query(ctx, `select datname from pg_database where starts_with(datname, $1) and
		not exists (select from pg_stat_activity where pg_stat_activity.datname = pg_database.datname)`, lentPrefix)
	if err != nil {
		return err
	}
	names, err := pgx.CollectRows(found, pgx.RowTo[string])
	for _, name := range names {
		_, _ = conn.Exec(ctx, `drop database if exists `+name) // unless somebody is in it after all
	}
	return err
}
