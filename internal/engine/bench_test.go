package engine

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/sync/errgroup"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

const duePosts = 10_000

// scheduleMany adds due posts in one statement.
func scheduleMany(b *testing.B, w pgtest.World) {
	b.Helper()
	pgtest.Put(b, w.Store, `site_id, author_id, title, slug, body, status, due_at, pinned, created_at, updated_at`, `
		select $1::bigint, $2::bigint, 'Post ' || i, 'post-' || gen_random_uuid(), 'Some text.', 'scheduled', $3::timestamptz - make_interval(secs => i % 3600), true, $3, $3
		from generate_series(1, $4) i`, w.Site.ID, w.Editor.ID, pgtest.Noon, duePosts)
	// As autovacuum does by itself within a minute: without it the server knows nothing of
	// a table that was filled this moment, and plans by luck.
	_, err := w.DB().ExecContext(b.Context(), `analyze posts, texts`)
	require.NoError(b, err)
}

// BenchmarkPublish publishes 10,000 due posts with the engine, and makes the same
// writes in a plain loop of batched SQL statements, on the same server in the same run.
func BenchmarkPublish(b *testing.B) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	b.Run("engine", func(b *testing.B) {
		e, _ := engineAt(w.Store, pgtest.Noon)
		for b.Loop() {
			b.StopTimer()
			scheduleMany(b, w)
			b.StartTimer()
			for done := 0; done < duePosts; {
				n, err := e.Step(context.Background())
				require.NoError(b, err)
				done += n
			}
		}
		perSecond(b)
	})
	b.Run("plain SQL", func(b *testing.B) {
		for b.Loop() {
			b.StopTimer()
			scheduleMany(b, w)
			b.StartTimer()
			plainLoop(b, w)
		}
		perSecond(b)
	})
}

func perSecond(b *testing.B) {
	b.ReportMetric(float64(duePosts)*float64(b.N)/b.Elapsed().Seconds(), "posts/s")
}

// plainLoop is the least that has to be written: a hundred posts, their acts and the
// lines of those a transaction.
func plainLoop(b *testing.B, w pgtest.World) {
	b.Helper()
	for done := int64(0); done < duePosts; {
		tx, err := w.DB().BeginTxx(b.Context(), nil)
		require.NoError(b, err)
		result, err := tx.ExecContext(b.Context(), `
			with due as (
				update posts set status = 'published', published_at = $1, due_at = null, version = version + 1, updated_at = $1
				where id in (select id from posts where status = 'scheduled' and not held and due_at <= $1 order by due_at, id limit 100)
				returning site_id, id, nextval(pg_get_serial_sequence('acts', 'id')) as act
			), made as (
				insert into acts (id, site_id, at, why) overriding system value select act, site_id, $1, 'Scheduled for this time by hand.' from due
			)
			insert into logbook (site_id, at, deed, post_id, reason, before, after, act_id)
			select site_id, $1, 'publish', id, 'Scheduled for this time by hand.', '{"status":"scheduled"}', '{"status":"published"}', act from due`,
			pgtest.Noon.Add(time.Minute))
		require.NoError(b, err)
		n, err := result.RowsAffected()
		require.NoError(b, err)
		require.NoError(b, tx.Commit())
		done += n
	}
}

const (
	// idleSites are sites with a rule that has nothing to do today.
	idleSites = 10_000
	// busySites are sites each of which has a rule whose turn has come.
	busySites = 200
)

// manySites adds sites with a rhythm and an armed expiry rule each, which are to be asked
// about at a moment.
func manySites(b *testing.B, w pgtest.World, n int, asked time.Time) {
	b.Helper()
	for _, statement := range []string{
		`insert into sites (slug, title, zone, created_at) select 'many-' || i, 'Many ' || i, 'America/Halifax', $1::timestamptz from generate_series(1, $2::integer) i`,
		`insert into rhythms (site_id, name, gap_minutes, seed, updated_at)
			select id, 'The week', 60, 7, $1::timestamptz from sites where slug like 'many-%' and $2::integer > 0`,
		`insert into rules (site_id, kind, name, position, condition, cadence, settings, seed, armed_at, served_at, created_at, updated_at)
			select id, 'expire', 'Old', 0, '{"test": "age", "match": "over", "n": 900, "unit": "days"}', '{"by": "every", "n": 1, "unit": "days", "at": "04:00"}',
				'{"action": "archive"}', 1, $1::timestamptz, $1, $1, $1 from sites where slug like 'many-%' and $2::integer > 0`,
	} {
		_, err := w.DB().ExecContext(b.Context(), statement, pgtest.Noon, n)
		require.NoError(b, err)
	}
	_, err := w.DB().ExecContext(b.Context(), `delete from asks`)
	require.NoError(b, err)
	_, err = w.DB().ExecContext(b.Context(),
		`insert into asks (site_id, at) select id, $1 from sites where slug like 'many-%'`, asked)
	require.NoError(b, err)
	_, err = w.DB().ExecContext(b.Context(), `analyze`)
	require.NoError(b, err)
}

// BenchmarkIdle is what a step costs while 10,000 sites wait: it is taken every five seconds
// and at every change.
func BenchmarkIdle(b *testing.B) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	manySites(b, w, idleSites, pgtest.Noon.Add(time.Hour))
	e, _ := engineAt(w.Store, pgtest.Noon)
	b.ResetTimer()
	for b.Loop() {
		n, err := e.Step(b.Context())
		require.NoError(b, err)
		require.Zero(b, n)
	}
}

// BenchmarkTurns has one, two and four engines take the turns of 200 sites.
func BenchmarkTurns(b *testing.B) {
	for _, engines := range []int{1, 2, 4} {
		b.Run(fmt.Sprintf("%d engines", engines), func(b *testing.B) {
			w := pgtest.NewWorld(b, pgtest.New(b), "dome")
			manySites(b, w, busySites, pgtest.Noon)
			due := pgtest.Noon.AddDate(0, 0, 1)
			for b.Loop() {
				b.StopTimer()
				_, err := w.DB().ExecContext(b.Context(), `update asks set at = $1`, due)
				require.NoError(b, err)
				_, err = w.DB().ExecContext(b.Context(), `update rules set served_at = $1`, pgtest.Noon)
				require.NoError(b, err)
				b.StartTimer()
				var all errgroup.Group
				for range engines {
					e, _ := engineAt(w.Store, due)
					all.Go(func() error {
						for {
							if n, err := e.Step(context.Background()); n == 0 {
								return err
							}
						}
					})
				}
				require.NoError(b, all.Wait())
			}
			b.ReportMetric(float64(busySites)*float64(b.N)/b.Elapsed().Seconds(), "turns/s")
		})
	}
}

// BenchmarkExpiry has a rule archive 10,000 posts in one run: they are found, changed and written into the logbook in one
// transaction, so that a process that dies leaves none half done.
func BenchmarkExpiry(b *testing.B) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	pgtest.Put(b, w.Store, `site_id, author_id, category_id, title, slug, body, status, published_at, created_at, updated_at`, `
		select $1::bigint, $2::bigint, $3::bigint, 'Old ' || i, 'old-' || i, 'Text', 'published', $4::timestamptz - i * interval '1 hour', $4::timestamptz, $4::timestamptz
		from generate_series(1, 10000) i`, w.Site.ID, w.Editor.ID, w.Category, pgtest.Noon.AddDate(-1, 0, 0))
	_, err := w.InsertRule(b.Context(), store.Rule{SiteID: w.Site.ID, Kind: store.Expire, Name: "Old", Allowed: 1 << 30, CreatedAt: pgtest.Noon, ArmedAt: &pgtest.Noon, ServedAt: &pgtest.Noon,
		Condition: condition.Node{Test: condition.Age, Match: condition.MatchOver, N: 100, Unit: condition.Days},
		Cadence:   cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock("04:00")}, Settings: store.RuleSettings{Action: "archive"}})
	require.NoError(b, err)
	_, err = w.DB().ExecContext(b.Context(), `analyze`)
	require.NoError(b, err)
	due := pgtest.Noon.AddDate(0, 0, 1)
	e, _ := engineAt(w.Store, due)
	for b.Loop() {
		b.StopTimer()
		for _, again := range []string{`update posts set status = 'published', archived_at = null, notice = ''`, `update rules set served_at = $1, allowed = 1 << 29`, `delete from asks`} {
			args := []any{}
			if strings.Contains(again, "$1") {
				args = append(args, pgtest.Noon)
			}
			_, err := w.DB().ExecContext(b.Context(), again, args...)
			require.NoError(b, err)
		}
		require.NoError(b, w.Ask(b.Context(), w.Site.ID, due))
		b.StartTimer()
		n, err := e.Step(b.Context())
		require.NoError(b, err)
		require.Equal(b, 10_000, n)
	}
}
