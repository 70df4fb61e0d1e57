package deliver

import (
	"context"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"os/exec"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// workerEnv makes the test binary a worker on the named database instead, until it is
// killed; mailEnv is where it hands in mail.
const (
	workerEnv = "DELIVER_TEST_WORKER"
	mailEnv   = "DELIVER_TEST_MAIL"
)

func TestMain(m *testing.M) {
	if url := os.Getenv(workerEnv); url != "" {
		workUntilKilled(url)
		return
	}
	os.Exit(m.Run())
}

func workUntilKilled(url string) {
	ctx := context.Background()
	s, err := store.Open(ctx, url)
	if err != nil {
		panic(err)
	}
	worker, err := NewWorker(ctx, Means{Store: s, Clock: clockwork.NewFakeClockAt(pgtest.Noon), Post: post(os.Getenv(mailEnv)), Box: pgtest.Box, Log: pgtest.Quiet()})
	if err != nil {
		panic(err)
	}
	panic(worker.Run(ctx))
}

func post(address string) PostOffice {
	return PostOffice{Address: address, From: "almanac@dome.example", Public: "https://dome.example"}
}

// A process is killed while it hands over a message and a mail: another takes both up
// again within two minutes.
func TestWhatAKilledProcessWasDoingIsTakenUpAgain(t *testing.T) {
	t.Parallel()
	h := newHouse(t)
	c, err := h.Channel(t.Context(), h.Site.ID, h.channel)
	require.NoError(t, err)

	// Both receivers take the call and never answer.
	called := make(chan string, 2)
	silent := httptest.NewServer(http.HandlerFunc(func(_ http.ResponseWriter, r *http.Request) {
		called <- "network"
		io.Copy(io.Discard, r.Body) // only then the server hears that the other side is gone
		<-r.Context().Done()
	}))
	t.Cleanup(silent.Close)
	require.NoError(t, h.MoveChannels(t.Context(), c.Kind, silent.URL))
	deaf, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	t.Cleanup(func() { deaf.Close() })
	go func() {
		if conn, err := deaf.Accept(); err == nil {
			called <- "mail"
			conn.Read(make([]byte, 1)) // until the other side is gone
			conn.Close()
		}
	}()
	id := h.outing("Out in the end")
	require.NoError(t, h.InTx(t.Context(), func(tx *store.Tx) error {
		return h.queue.Reset(t.Context(), tx, "dome@example.org")
	}))

	child := exec.Command(os.Args[0])
	child.Env = append(os.Environ(), workerEnv+"="+h.URL(), mailEnv+"="+deaf.Addr().String())
	require.NoError(t, child.Start())
	assert.NotEqual(t, <-called, <-called, "each is asked once")
	require.NoError(t, child.Process.Kill())
	child.Wait()
	states := func(state string) (n int) {
		require.NoError(t, h.DB().GetContext(t.Context(), &n,
			`select count(*) from river_job where kind in ('share', 'mail') and state = $1`, state))
		return n
	}
	require.Equal(t, 2, states("running"), "nobody noted the end")

	// Two minutes pass; River's leader is asked for anew after seconds.
	_, err = h.DB().ExecContext(t.Context(),
		`update river_job set attempted_at = attempted_at - interval '2 minutes' where state = 'running'`)
	require.NoError(t, err)
	_, err = h.DB().ExecContext(t.Context(), `delete from river_leader`)
	require.NoError(t, err)
	lantern := httptest.NewServer(h.lantern.Handler())
	t.Cleanup(lantern.Close)
	require.NoError(t, h.MoveChannels(t.Context(), c.Kind, lantern.URL))
	box, address := mailbox(t, clockwork.NewFakeClockAt(pgtest.Noon))

	ctx, stop := context.WithCancel(t.Context())
	worker, err := NewWorker(ctx, Means{Store: h.Store, Clock: clockwork.NewFakeClockAt(pgtest.Noon), Post: post(address), Box: pgtest.Box, Log: pgtest.Quiet()})
	require.NoError(t, err)
	ended := make(chan error)
	go func() { ended <- worker.Run(ctx) }()
	require.Eventually(t, func() bool { return states("completed") == 2 }, time.Minute, 20*time.Millisecond)
	stop()
	require.NoError(t, <-ended)
	assert.Equal(t, store.Sent, h.state(id).State)
	assert.Len(t, h.lantern.Messages(), 1)
	assert.Len(t, box.Mails(), 1)
}
