package engine

import (
	"bufio"
	"context"
	"fmt"
	"os"
	"os/exec"
	"slices"
	"sync"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/deliver"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

// workerEnv makes the test binary a worker on the named database instead.
// With a moment in workerAtEnv it works at that moment; without, it hangs after its
// first claim.
const (
	workerEnv   = "ENGINE_TEST_WORKER"
	workerAtEnv = "ENGINE_TEST_WORKER_AT"
)

func TestMain(m *testing.M) {
	if url, at := os.Getenv(workerEnv), os.Getenv(workerAtEnv); url != "" && at != "" {
		workUntilKilled(url, at)
	} else if url != "" {
		hangAfterClaim(url)
		return
	}
	os.Exit(m.Run())
}

// hangAfterClaim claims what is due, says so, and never gets to its effect.
func hangAfterClaim(url string) {
	s, err := store.Open(context.Background(), url)
	if err != nil {
		panic(err)
	}
	e := New(s, s.Changes(pgtest.Quiet()), clockwork.NewFakeClockAt(pgtest.Noon), outward(s), pgtest.Quiet())
	e.claimed = func(posts []int64) {
		fmt.Println("claimed", len(posts))
		select {}
	}
	e.Step(context.Background())
}

// worldAt is a world on a database of its own, with the address for other processes.
func worldAt(t *testing.T) (pgtest.World, string) {
	t.Helper()
	url := pgtest.URL(t)
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return pgtest.NewWorld(t, s, "dome"), url
}

// outward queues deliveries that nobody works on, and leads to a blog that is not there.
func outward(s *store.Store) Outward {
	queue, err := deliver.NewQueue(s)
	if err != nil {
		panic(err)
	}
	return Outward{Queue: queue, Public: "https://dome.example"}
}

func engineAt(s *store.Store, at time.Time) (*Engine, *clockwork.FakeClock) {
	clock := clockwork.NewFakeClockAt(at)
	return New(s, s.Changes(pgtest.Quiet()), clock, outward(s), pgtest.Quiet()), clock
}

// publishedOnce checks that each post is out and has one line in the logbook.
func publishedOnce(t *testing.T, w pgtest.World, posts []store.Post) {
	t.Helper()
	for _, p := range posts {
		now := w.Reload(t, p.ID)
		require.Equal(t, store.Published, now.Status, p.Title)
		require.False(t, now.PublishedAt.Before(*p.DueAt), "%s is early", p.Title)
		lines, err := w.LogOf(t.Context(), w.Site.ID, p.ID)
		require.NoError(t, err)
		require.Len(t, lines, 1, p.Title)
		require.Equal(t, store.DeedPublish, lines[0].Deed)
		require.Nil(t, lines[0].Actor)
	}
}

func TestPublishesAtItsMinuteAndNotBefore(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	post := w.Scheduled(t, "First light", pgtest.Noon.Add(time.Hour))
	e, clock := engineAt(w.Store, pgtest.Noon)

	clock.Advance(time.Hour - time.Millisecond)
	n, err := e.Step(t.Context())
	require.NoError(t, err)
	assert.Zero(t, n)
	assert.Equal(t, store.Scheduled, w.Reload(t, post.ID).Status)

	clock.Advance(time.Millisecond)
	n, err = e.Step(t.Context())
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	publishedOnce(t, w, []store.Post{post})
	lines, err := w.LogOf(t.Context(), w.Site.ID, post.ID)
	require.NoError(t, err)
	assert.Equal(t, "Scheduled for this time by hand.", lines[0].Reason)
	assert.JSONEq(t, `{"status":"scheduled","due_at":"2026-11-24T17:00:00Z","pinned":true}`, string(lines[0].Before))

	n, err = e.Step(t.Context())
	require.NoError(t, err)
	assert.Zero(t, n, "nothing is done twice")
}

func TestAWorkerKilledBetweenClaimAndCommitLosesNothing(t *testing.T) {
	t.Parallel()
	w, url := worldAt(t)
	var posts []store.Post
	for i := range 30 {
		posts = append(posts, w.Scheduled(t, fmt.Sprintf("Post %d", i), pgtest.Noon.Add(-time.Duration(i)*time.Minute)))
	}

	worker := exec.Command(os.Args[0])
	worker.Env = append(os.Environ(), workerEnv+"="+url)
	out, err := worker.StdoutPipe()
	require.NoError(t, err)
	require.NoError(t, worker.Start())
	line, err := bufio.NewReader(out).ReadString('\n')
	require.NoError(t, err)
	require.Equal(t, "claimed 30\n", line)

	e, _ := engineAt(w.Store, pgtest.Noon)
	n, err := e.Step(t.Context())
	require.NoError(t, err)
	assert.Zero(t, n, "the worker holds them all")

	require.NoError(t, worker.Process.Kill())
	require.Error(t, worker.Wait())
	// The server drops the dead worker's claims as soon as it sees the connection end; a step
	// that comes upon it in the middle finds some of them.
	require.Eventually(t, func() bool {
		_, err := e.Step(t.Context())
		require.NoError(t, err)
		return !slices.ContainsFunc(posts, func(p store.Post) bool {
			return w.Reload(t,
				p.ID).Status != store.Published
		})
	}, time.Minute, 10*time.Millisecond)
	publishedOnce(t, w, posts)
}

func TestFourEnginesAtOnceDoEachDeedOnce(t *testing.T) {
	t.Parallel()
	w, url := worldAt(t)
	many := 1250
	if testing.Short() {
		many = 400
	}
	var posts []store.Post
	for i := range many {
		posts = append(posts, w.Scheduled(t, fmt.Sprintf("Post %d", i), pgtest.Noon.Add(-time.Duration(i)*time.Second)))
	}
	var wg sync.WaitGroup
	total := make([]int, 4)
	for i := range total {
		wg.Add(1)
		go func() {
			defer wg.Done()
			own, err := store.Open(context.Background(), url)
			if !assert.NoError(t, err) {
				return
			}
			defer own.Close()
			e, _ := engineAt(own, pgtest.Noon)
			for {
				n, err := e.Step(context.Background())
				if !assert.NoError(t, err) || n == 0 {
					return
				}
				total[i] += n
			}
		}()
	}
	wg.Wait()
	assert.Equal(t, many, total[0]+total[1]+total[2]+total[3])
	publishedOnce(t, w, posts)
}

// A running engine wakes by itself when the next post is due, and when the plan
// changes so that something is due earlier.
func TestRunWakesWhenSomethingIsDueAndWhenThePlanChanges(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	e, clock := engineAt(w.Store, pgtest.Noon)
	ctx, stop := context.WithCancel(t.Context())
	var wg sync.WaitGroup
	defer wg.Wait()
	defer stop()
	wg.Add(2)
	go func() { defer wg.Done(); e.changes.Run(ctx) }()
	changed := e.changes.Subscribe(w.Site.ID)
	<-changed.C // listening
	go func() { defer wg.Done(); e.Run(ctx) }()

	overdue := w.Scheduled(t, "Overdue", pgtest.Noon.Add(-time.Minute))
	await(t, changed, func() bool { return w.Reload(t, overdue.ID).Status == store.Published })

	soon := w.Scheduled(t, "Soon", pgtest.Noon.Add(3*time.Second))
	// The engine rests for three seconds by its own clock, however it was woken.
	for w.Reload(t, soon.ID).Status != store.Published {
		require.NoError(t, clock.BlockUntilContext(ctx, 1))
		clock.Advance(time.Second)
		if clock.Now().Before(pgtest.Noon.Add(3 * time.Second)) {
			require.Equal(t, store.Scheduled, w.Reload(t, soon.ID).Status)
		}
	}
	publishedOnce(t, w, []store.Post{overdue, soon})
}

// await looks after each change whether it has come to what is awaited.
func await(t *testing.T, changed *store.Subscription, done func() bool) {
	t.Helper()
	for !done() {
		select {
		case <-changed.C:
		case <-time.After(time.Minute):
			require.FailNow(t, "nothing changed")
		}
	}
}

// A post that was held before its time does not come out at it; let go, it does.
func TestAHeldPostDoesNotComeOut(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	desk := act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}
	held, let := w.Draft(t, "Held"), w.Draft(t, "Let go")
	for _, p := range []store.Post{held, let} {
		_, err := status.Retime(t.Context(), desk, p.ID, p.Version, pgtest.Noon.Add(time.Hour), pgtest.Noon)
		require.NoError(t, err)
		require.NoError(t, status.Hold(t.Context(), desk, p.ID, w.Reload(t, p.ID).Version, pgtest.Noon))
	}
	require.NoError(t, status.Release(t.Context(), desk, let.ID, w.Reload(t, let.ID).Version, pgtest.Noon))
	e, clock := engineAt(w.Store, pgtest.Noon)
	clock.Advance(2 * time.Hour)
	e.Step(t.Context())
	assert.Equal(t, store.Published, w.Reload(t, let.ID).Status)
	assert.Equal(t, store.Scheduled, w.Reload(t, held.ID).Status)
	assert.True(t, w.Reload(t, held.ID).Held)
}
