package e2e

import (
	"encoding/json"
	"fmt"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// moving starts the program that is built with the clock that can be moved, on the app's
// database, and points the browser at it. It returns what moves the clock.
func (a *app) moving() (to func(time.Time) (did int)) {
	a.t.Helper()
	binary := filepath.Join(a.t.TempDir(), "dapper")
	build := exec.CommandContext(a.t.Context(), "go", "build", "-tags", "movingclock", "-o", binary, "./cmd/dapper")
	build.Dir = ".."
	out, err := build.CombinedOutput()
	require.NoError(a.t, err, string(out))
	l := listen(a.t)
	port := l.Addr().(*net.TCPAddr).Port
	require.NoError(a.t, l.Close())
	program := exec.CommandContext(a.t.Context(), binary, "serve", "--host", "127.0.0.1", "--port", fmt.Sprint(port))
	program.Env = append(os.Environ(), "DATABASE_URL="+a.store.URL(), "CLOCK_START="+start.Format(time.RFC3339),
		"DAPPER_LOG=warn")
	program.Stderr = a.t.Output()
	require.NoError(a.t, program.Start())
	a.t.Cleanup(func() { program.Process.Kill(); program.Wait() })
	a.url = fmt.Sprintf("http://127.0.0.1:%d", port)
	clock := a.url + "/debug/clock"
	require.Eventually(a.t, func() bool {
		answer, err := http.Get(clock)
		if err == nil {
			answer.Body.Close()
		}
		return err == nil && answer.StatusCode == http.StatusOK
	}, time.Minute, 100*time.Millisecond)
	return func(at time.Time) int {
		a.t.Helper()
		request, err := http.NewRequestWithContext(a.t.Context(), http.MethodPut, clock,
			strings.NewReader(fmt.Sprintf(`{"to": %q}`, at.Format(time.RFC3339))))
		require.NoError(a.t, err)
		answer, err := http.DefaultClient.Do(request)
		require.NoError(a.t, err)
		defer answer.Body.Close()
		require.Equal(a.t, http.StatusOK, answer.StatusCode)
		var got struct {
			Now time.Time
			Did int
		}
		require.NoError(a.t, json.NewDecoder(answer.Body).Decode(&got))
		assert.False(a.t, got.Now.Before(at))
		return got.Did
	}
}

// Half a year passes while one waits: what is scheduled comes out, rules share and bring out
// again, and the screens tell of it. The program that is shipped has no such clock.
func TestHalfAYearPasses(t *testing.T) {
	if testing.Short() {
		t.Skip("make test-long lives through it")
	}
	t.Parallel()
	a := newApp(t)
	answer, err := http.Get(a.url + "/debug/clock")
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	assert.NotEqual(t, "application/json", answer.Header.Get("Content-Type"),
		"the screens answer, as for any address that is none")

	to := a.moving()
	assert.Greater(t, to(start.AddDate(0, 6, 0)), 150)
	a.signIn("/quillmoor/logbook")
	a.sees("Shared on Lantern by the rule")
	a.open("/quillmoor")
	a.sees("May")
}
