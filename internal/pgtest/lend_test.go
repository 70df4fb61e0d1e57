package pgtest_test

import (
	"context"
	"database/sql"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// One test after another has the same database, as if it were new. Each leaves something behind; where that is more than
// rows, the next one has another database.
func TestADatabaseIsLentAsIfItWereNew(t *testing.T) {
	var before string
	var leaked *sql.Conn
	var elsewhere *store.Store
	for _, step := range []struct {
		leaves string
		again  bool // the next one has this database
		leave  func(t *testing.T, w pgtest.World)
	}{
		{"rows", true, func(t *testing.T, w pgtest.World) { w.Draft(t, "Left behind") }},
		{"a row too few", true, func(t *testing.T, w pgtest.World) { w.DB().MustExec(`delete from setup`) }},
		{"a table", false, func(t *testing.T, w pgtest.World) { w.DB().MustExec(`create table diary (day date)`) }},
		{"a setting", false, func(t *testing.T, w pgtest.World) {
			w.DB().MustExec(`do $$ begin execute format('alter database %I set statement_timeout = 1', current_database()); end $$`)
		}},
		{"a lock", false, func(t *testing.T, w pgtest.World) { w.DB().MustExec(`select pg_advisory_lock(7)`) }},
		{"somebody at work", false, func(t *testing.T, w pgtest.World) {
			var err error
			leaked, err = w.DB().Conn(context.Background())
			require.NoError(t, err)
		}},
		{"somebody from elsewhere", false, func(t *testing.T, w pgtest.World) {
			var err error
			elsewhere, err = store.Open(context.Background(), w.URL())
			require.NoError(t, err)
		}},
		{"a closed pool", true, func(t *testing.T, w pgtest.World) { require.NoError(t, w.Close()) }},
		{"much", false, func(t *testing.T, w pgtest.World) {
			w.DB().MustExec(`insert into sessions (token, data, expiry)
				select n, convert_to(repeat('x', 1000), 'UTF8'), now() from generate_series(1, 6000) n`)
		}},
		{"nothing", true, func(*testing.T, pgtest.World) {}},
	} {
		t.Run(step.leaves, func(t *testing.T) {
			s := pgtest.New(t)
			if before != "" {
				assert.Equal(t, before, s.URL())
			}
			var posts int
			require.NoError(t, s.DB().Get(&posts, `select count(*) from posts`))
			assert.Zero(t, posts)
			var open bool // the first person there closes it
			require.NoError(t, s.DB().Get(&open, `select closed_at is null from setup`))
			assert.True(t, open, "what was there from the beginning")
			w := pgtest.NewWorld(t, s, "dome")
			assert.EqualValues(t, 1, w.Site.ID, "ids count from 1")
			assert.EqualValues(t, 1, w.Editor.ID, "ids count from 1")
			step.leave(t, w)
			before = s.URL()
		})
		if !step.again {
			gone, err := store.Open(t.Context(), before)
			if !assert.Error(t, err, "the database was dropped") {
				gone.Close()
			}
			before = ""
		}
	}
	assert.Error(t, leaked.PingContext(t.Context()))
	assert.Error(t, elsewhere.DB().PingContext(t.Context()))
	elsewhere.Close()
	leaked.Close()
}
