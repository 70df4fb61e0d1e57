package engine

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"sync"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// workUntilKilled does what is due at the moment in workerAtEnv, over and over.
func workUntilKilled(url, at string) {
	moment, err := time.Parse(time.RFC3339, at)
	if err != nil {
		panic(err)
	}
	s, err := store.Open(context.Background(), url)
	if err != nil {
		panic(err)
	}
	e := New(s, s.Changes(pgtest.Quiet()), clockwork.NewFakeClockAt(moment), outward(s), pgtest.Quiet())
	fmt.Println("working")
	for {
		if _, err := e.Step(context.Background()); err != nil {
			panic(err)
		}
	}
}

// comingDue adds n posts that come due over a span of time.
func comingDue(t *testing.T, w pgtest.World, n int, span time.Duration) []store.Post {
	posts := make([]store.Post, n)
	for i := range posts {
		posts[i] = w.Scheduled(t, fmt.Sprintf("Post %d", i), pgtest.Noon.Add(span*time.Duration(i)/time.Duration(n)))
	}
	return posts
}

// Workers are killed at random moments, two at a time, while 500 posts come due.
func TestWorkersKilledAtRandomMoments(t *testing.T) {
	if testing.Short() {
		t.Skip("two hundred processes")
	}
	t.Parallel()
	w, url := worldAt(t)
	const rounds = 200
	posts := comingDue(t, w, 500, rounds*time.Minute)
	chance := rand.New(rand.NewPCG(4, 2))
	for round := range rounds {
		at := pgtest.Noon.Add(time.Duration(round) * time.Minute)
		worker := exec.Command(os.Args[0])
		worker.Env = append(os.Environ(), workerEnv+"="+url, workerAtEnv+"="+at.Format(time.RFC3339))
		out, err := worker.StdoutPipe()
		require.NoError(t, err)
		require.NoError(t, worker.Start())
		_, err = out.Read(make([]byte, 16))
		require.NoError(t, err)
		<-time.After(time.Duration(chance.IntN(4000)) * time.Microsecond) // the random moment
		require.NoError(t, worker.Process.Kill())
		require.Error(t, worker.Wait())
	}
	finish(t, w, posts, pgtest.Noon.Add(rounds*time.Minute))
}

// finish lets one more engine do the rest and checks that each post is out once.
func finish(t *testing.T, w pgtest.World, posts []store.Post, at time.Time) {
	t.Helper()
	e, _ := engineAt(w.Store, at)
	require.Eventually(t, func() bool { // until the server has seen that the killed are gone
		_, err := e.Step(t.Context())
		require.NoError(t, err)
		b, err := w.BacklogAt(t.Context(), at)
		require.NoError(t, err)
		return b.Scheduled == 0
	}, time.Minute, 10*time.Millisecond)
	publishedOnce(t, w, posts)
}

// running starts n engines that share a clock, each with connections of its own.
func running(t *testing.T, url string, n int, clock clockwork.Clock) (stop func()) {
	t.Helper()
	ctx, cancel := context.WithCancel(context.Background())
	var wg sync.WaitGroup
	for range n {
		s, err := store.Open(t.Context(), url)
		require.NoError(t, err)
		changes := s.Changes(pgtest.Quiet())
		wg.Add(2)
		go func() { defer wg.Done(); changes.Run(ctx) }()
		go func() {
			defer wg.Done()
			defer s.Close()
			New(s, changes, clock, outward(s), pgtest.Quiet()).Run(ctx)
		}()
	}
	return func() { cancel(); wg.Wait() }
}

func (m *minutes) Now() time.Time { m.mu.Lock(); defer m.mu.Unlock(); return m.now }

// minutes is a clock whose time a test sets, forward and back, and whose timers run
// by real time, so that engines go on looking.
type minutes struct {
	clockwork.Clock
	mu  sync.Mutex
	now time.Time
}

func (m *minutes) set(to time.Time) { m.mu.Lock(); defer m.mu.Unlock(); m.now = to }

func (m *minutes) NewTimer(d time.Duration) clockwork.Timer {
	return m.Clock.NewTimer(min(d, 5*time.Millisecond))
}

func (m *minutes) Since(t time.Time) time.Duration { return m.Now().Sub(t) }

func clockAt(at time.Time) *minutes { return &minutes{Clock: clockwork.NewRealClock(), now: at} }

// drained waits until nothing is due at the moment any more.
func drained(t *testing.T, w pgtest.World, at time.Time) {
	t.Helper()
	require.Eventually(t, func() bool {
		b, err := w.BacklogAt(context.Background(), at)
		return err == nil && b.Overdue == 0
	}, time.Minute, 5*time.Millisecond)
}

// Four engines work while the server crashes and comes back in mid-batch.
func TestTheDatabaseCrashesInMidBatch(t *testing.T) {
	if testing.Short() {
		t.Skip("a server of its own")
	}
	t.Parallel()
	cluster := pgtest.NewCluster(t)
	s, err := store.Open(t.Context(), cluster.URL)
	require.NoError(t, err)
	defer s.Close()
	w := pgtest.NewWorld(t, s, "dome")
	posts := comingDue(t, w, 500, 100*time.Minute)
	clock := clockAt(pgtest.Noon)
	stop := running(t, cluster.URL, 4, clock)
	defer stop()
	for minute := range 101 {
		clock.set(pgtest.Noon.Add(time.Duration(minute) * time.Minute))
		if minute%25 == 13 {
			cluster.Crash()
		}
	}
	drained(t, w, clock.Now())
	stop()
	publishedOnce(t, w, posts)
}

// Connections are cut over and over while four engines work.
func TestConnectionsAreCut(t *testing.T) {
	t.Parallel()
	w, url := worldAt(t)
	posts := comingDue(t, w, 500, 100*time.Minute)
	clock := clockAt(pgtest.Noon)
	stop := running(t, url, 4, clock)
	defer stop()
	for minute := range 101 {
		clock.set(pgtest.Noon.Add(time.Duration(minute) * time.Minute))
		if minute%5 == 0 {
			// All but the one that asks.
			_, err := w.DB().ExecContext(t.Context(), `
				select pg_terminate_backend(pid) from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()`)
			require.NoError(t, err)
		}
	}
	drained(t, w, clock.Now())
	stop()
	publishedOnce(t, w, posts)
}

// The clock is set back two hours and forward a week while four engines work.
func TestTheClockIsSetBackAndForward(t *testing.T) {
	t.Parallel()
	w, url := worldAt(t)
	posts := comingDue(t, w, 500, 5*24*time.Hour)
	clock := clockAt(pgtest.Noon)
	stop := running(t, url, 4, clock)
	defer stop()

	clock.set(pgtest.Noon.Add(3 * time.Hour))
	drained(t, w, clock.Now())
	clock.set(pgtest.Noon.Add(time.Hour))
	waiting, err := w.BacklogAt(t.Context(), clock.Now())
	require.NoError(t, err)
	clock.set(pgtest.Noon.Add(2 * time.Hour))
	drained(t, w, clock.Now())
	after, err := w.BacklogAt(t.Context(), clock.Now())
	require.NoError(t, err)
	require.Equal(t, waiting, after, "what is out stays out, and nothing is due again")
	clock.set(pgtest.Noon.Add(7 * 24 * time.Hour))
	drained(t, w, clock.Now())
	stop()
	publishedOnce(t, w, posts)
}

func (w worldWith) choose(t *testing.T, catchUp deed.CatchUp, paused bool) {
	t.Helper()
	site := w.Site
	site.CatchUp, site.CatchUpMinutes = string(catchUp), 12*60
	if paused {
		site.PausedAt = &pgtest.Noon
	}
	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error { return tx.SaveSettings(t.Context(), site) }))
}

type worldWith struct{ pgtest.World }

func TestOverduePostsAreDealtWithAsTheSiteChose(t *testing.T) {
	for _, choice := range deed.CatchUps {
		t.Run(string(choice), func(t *testing.T) {
			t.Parallel()
			w := worldWith{pgtest.NewWorld(t, pgtest.New(t), "dome")}
			site, err := w.SiteBySlug(t.Context(), "dome")
			require.NoError(t, err)
			w.Site = site
			old := w.Scheduled(t, "Old", pgtest.Noon.Add(-30*time.Hour))
			recent := w.Scheduled(t, "Recent", pgtest.Noon.Add(-2*time.Hour))
			punctual := w.Scheduled(t, "Punctual", pgtest.Noon)
			w.choose(t, choice, true)
			e, _ := engineAt(w.Store, pgtest.Noon)
			n, err := e.Step(t.Context())
			require.NoError(t, err)
			require.Zero(t, n, "a paused site rests")

			w.choose(t, choice, false)
			for n = 1; n > 0; {
				n, err = e.Step(t.Context())
				require.NoError(t, err)
			}
			old, recent = w.Reload(t, old.ID), w.Reload(t, recent.ID)
			require.Equal(t, store.Published, w.Reload(t, punctual.ID).Status, "what is on time comes out in any case")
			switch choice {
			case deed.AtOnce:
				publishedOnce(t, w.World, nil)
				require.Equal(t, []store.Status{store.Published, store.Published},
					[]store.Status{old.Status, recent.Status})
			case deed.AtOnceIfFresh:
				require.True(t, old.Held)
				require.Equal(t, store.Published, recent.Status)
			case deed.HoldForMe:
				require.True(t, old.Held && recent.Held)
			case deed.SpreadOut:
				require.Equal(t, pgtest.Noon.Add(time.Hour), old.DueAt.UTC())
				require.Equal(t, pgtest.Noon.Add(2*time.Hour), recent.DueAt.UTC())
			case deed.NextSlots:
				require.True(t, old.DueAt.After(pgtest.Noon) && recent.DueAt.After(*old.DueAt))
				require.NotZero(t, old.Slot())
				require.False(t, old.Pinned)
			}
			for _, p := range []store.Post{old, recent} {
				lines, err := w.LogOf(t.Context(), w.Site.ID, p.ID)
				require.NoError(t, err)
				require.Len(t, lines, 1)
				require.Contains(t, lines[0].Reason, "overdue")
			}
		})
	}
}

func TestEnginesTellThatTheyLive(t *testing.T) {
	t.Parallel()
	url := pgtest.URL(t)
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer s.Close()
	stop := running(t, url, 2, clockAt(pgtest.Noon))
	require.Eventually(t, func() bool {
		beat, err := s.LastBeat(t.Context())
		require.NoError(t, err)
		return beat.Equal(pgtest.Noon)
	}, time.Minute, 5*time.Millisecond)
	stop()
	beat, err := s.LastBeat(t.Context())
	require.NoError(t, err)
	require.True(t, beat.IsZero(), "an engine that ends signs off")
}
