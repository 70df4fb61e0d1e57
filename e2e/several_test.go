package e2e

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"os"
	"os/exec"
	"path/filepath"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/standin"
	"dapper.example/internal/store"
)

// machine is one of several that run the program.
type machine struct {
	t       *testing.T
	binary  string
	args    []string
	env     []string
	program *exec.Cmd
	url     string // of one that serves
}

func (m *machine) start() {
	m.program = exec.Command(m.binary, m.args...)
	m.program.Env = m.env
	m.program.Stderr = m.t.Output()
	require.NoError(m.t, m.program.Start())
}

// kill ends it as a power cut does, and starts it again.
func (m *machine) kill() {
	require.NoError(m.t, m.program.Process.Kill())
	m.program.Wait()
	m.start()
}

// editor works through several machines: where one does not answer, the next is asked.
type editor struct {
	machines []*machine
	http     *http.Client
	longest  atomic.Int64 // that an answer took, in nanoseconds
	did      atomic.Int64
}

// stuck is how long a screen may wait for an answer.
const stuck = 10 * time.Second

func newEditor(t *testing.T, machines ...*machine) *editor {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &editor{machines: machines, http: &http.Client{Jar: jar, Timeout: stuck}}
}

// call asks one machine after the other until one answers, and returns the answer.
func (e *editor) call(method, path string, body, result any) (int, error) {
	raw, err := json.Marshal(body)
	if err != nil {
		return 0, err
	}
	for try := 0; ; try++ {
		began := time.Now()
		request, err := http.NewRequest(method, e.machines[try%len(e.machines)].url+path, bytes.NewReader(raw))
		if err != nil {
			return 0, err
		}
		request.Header.Set("Content-Type", "application/json")
		answer, err := e.http.Do(request)
		if took := time.Since(began); err == nil && int64(took) > e.longest.Load() {
			e.longest.Store(int64(took))
		}
		if err != nil {
			if try < 200 && !os.IsTimeout(err) {
				time.Sleep(50 * time.Millisecond) // it is being started again
				continue
			}
			return 0, err
		}
		said, err := io.ReadAll(answer.Body)
		answer.Body.Close()
		if err != nil {
			continue // it was killed while it answered
		}
		if result != nil && answer.StatusCode < 300 {
			err = json.Unmarshal(said, result)
		}
		return answer.StatusCode, err
	}
}

// Several machines share one database: two that serve and two that work are killed by turns while 500 posts and 500 messages
// fall due and editors go on working. Every post comes out once, every message arrives once, and no screen is stuck.
func TestSeveralMachinesAreKilledByTurns(t *testing.T) {
	if testing.Short() {
		t.Skip("make test-long waits for it: some minutes of real time")
	}
	t.Parallel()
	const posts, messages = 500, 500
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	hash, err := argon2id.CreateHash("seventeen brass snails", &argon2id.Params{Memory: 8, Iterations: 1, Parallelism: 1, SaltLength: 8, KeyLength: 16})
	require.NoError(t, err)
	_, err = s.DB().Exec(`update users set password_hash = $1`, hash)
	require.NoError(t, err)
	lantern, err := standin.New(channel.Lantern, "", clockwork.NewRealClock())
	require.NoError(t, err)
	lantern.Rate = 0
	lantern.Admit("t", "dome")
	network := httptest.NewServer(lantern.Handler())
	t.Cleanup(network.Close)

	// Half of it is due already, half at the next minute.
	now := time.Now().UTC().Truncate(time.Minute)
	due := func(i int) time.Time { return now.Add(time.Duration(i%2) * time.Minute) }
	shared := w.Draft(t, "Shared")
	_, err = s.DB().Exec(`update posts set status = 'published', slug = 'shared', published_at = $2, first_published_at = $2 where id = $1`, shared.ID, now.Add(-time.Hour))
	require.NoError(t, err)
	for i := range posts {
		w.Scheduled(t, fmt.Sprintf("Post %d", i), due(i))
	}
	// A channel takes one message a minute, so there are many.
	lanes := make([]int64, messages/2)
	for i := range lanes {
		lanes[i], err = s.InsertChannel(t.Context(), store.Channel{SiteID: w.Site.ID, Kind: channel.Lantern, Name: fmt.Sprint("Lantern ", i), Address: network.URL, Token: "t", Apart: 1})
		require.NoError(t, err)
	}
	require.NoError(t, s.InTx(t.Context(), func(tx *store.Tx) error {
		for i := range messages {
			if _, err := tx.InsertPlanned(t.Context(), store.Outing{SiteID: w.Site.ID, Channel: lanes[i/2], Post: store.ID(shared.ID), At: due(i), Origin: store.ByHand,
				OwnText: fmt.Sprintf("Message %d {link}", i), Actor: &w.Editor.ID, CreatedAt: now}); err != nil {
				return err
			}
		}
		return tx.Queries.Ask(t.Context(), w.Site.ID, now)
	}))

	binary := filepath.Join(t.TempDir(), "dapper")
	build := exec.CommandContext(t.Context(), "go", "build", "-o", binary, "./cmd/dapper")
	build.Dir = ".."
	out, err := build.CombinedOutput()
	require.NoError(t, err, string(out))
	env := append(os.Environ(), "DATABASE_URL="+s.URL(), "DAPPER_LOG=error")
	var all []*machine
	for range 2 {
		l := listen(t)
		port := l.Addr().(*net.TCPAddr).Port
		require.NoError(t, l.Close())
		all = append(all, &machine{t: t, binary: binary, args: []string{"serve", "--host", "127.0.0.1", "--port", fmt.Sprint(port)}, env: env,
			url: fmt.Sprintf("http://127.0.0.1:%d", port)})
	}
	for range 2 {
		all = append(all, &machine{t: t, binary: binary, args: []string{"work"}, env: env})
	}
	for _, m := range all {
		m.start()
		t.Cleanup(func() { m.program.Process.Kill(); m.program.Wait() })
	}

	// Two editors write, each first through another machine.
	var working sync.WaitGroup
	var over atomic.Bool
	editors := []*editor{newEditor(t, all[0], all[1]), newEditor(t, all[1], all[0])}
	for i, e := range editors {
		working.Go(func() {
			if code, err := e.call("POST", "/api/v1/session", map[string]string{"email": w.Editor.Email, "password": "seventeen brass snails"}, nil); !assert.NoError(t, err) || !assert.Equal(t, 200, code) {
				return
			}
			for n := 0; !over.Load(); n++ {
				var plan map[string]any
				code, err := e.call("GET", "/api/v1/sites/dome/almanac", nil, &plan)
				if !assert.NoError(t, err) || !assert.Equal(t, 200, code) {
					return
				}
				var begun struct {
					ID      int64
					Version int
				}
				if code, err = e.call("POST", "/api/v1/sites/dome/posts", map[string]any{}, &begun); !assert.NoError(t, err) || !assert.Less(t, code, 300) {
					return
				}
				code, err = e.call("PATCH", fmt.Sprintf("/api/v1/sites/dome/posts/%d", begun.ID), map[string]any{"version": begun.Version,
					"title": fmt.Sprintf("Editor %d writes %d", i, n), "body": "Some words."}, nil)
				// Both begin with the same blank draft at times, and a machine that is killed may have saved what it did not
				// answer: then there is a newer version, and nothing is lost.
				if !assert.NoError(t, err) || !assert.Contains(t, []int{200, 409}, code) {
					return
				}
				e.did.Add(1)
			}
		})
	}

	count := func(query string) (n int) {
		require.NoError(t, s.DB().Get(&n, query))
		return n
	}
	done := func() bool {
		return count(`select count(*) from posts where status = 'scheduled'`) == 0 && count(`select count(*) from outings where state in ('planned', 'waiting')`) == 0
	}
	for turn := 0; !done(); turn++ {
		if turn == 90 {
			var left []string
			require.NoError(t, s.DB().Select(&left, `select state || ' ' || count(*) from outings group by state union all select status || ' ' || count(*) from posts group by status union all select 'job ' || state || ' ' || attempt || ' ' || count(*) from river_job group by state, attempt`))
			t.Fatalf("it is not done in three minutes: %v", left)
		}
		time.Sleep(2 * time.Second)
		all[turn%2].kill()
		all[2+turn%2].kill()
	}
	over.Store(true)
	working.Wait()

	assert.Equal(t, posts, count(`select count(*) from logbook where deed = 'publish'`), "each post comes out once")
	assert.Equal(t, posts, count(`select count(distinct post_id) from logbook where deed = 'publish'`))
	assert.Equal(t, messages, count(`select count(*) from outings where state = 'sent'`))
	texts := make(map[string]int)
	for _, m := range lantern.Messages() {
		texts[m.Text]++
	}
	assert.Len(t, texts, messages, "each message arrives")
	for text, n := range texts {
		assert.Equal(t, 1, n, "once: %s", text)
	}
	for i, e := range editors {
		t.Logf("editor %d wrote %d drafts; the longest answer took %v", i, e.did.Load(), time.Duration(e.longest.Load()))
		assert.Positive(t, e.did.Load())
	}
}
