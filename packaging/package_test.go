// Package packaging holds what packages of the program are made of, and the test of one.
package packaging

import (
	"bufio"
	"context"
	"fmt"
	"io"
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

	"dapper.example/internal/pgtest"
)

func run(t *testing.T, name string, args ...string) string {
	t.Helper()
	command := exec.CommandContext(t.Context(), name, args...)
	command.Dir = ".."
	out, err := command.CombinedOutput()
	require.NoError(t, err, "%s %v: %s", name, args, out)
	return string(out)
}

// lines are those of a unit's file, or of the environment's, that set something.
func lines(t *testing.T, path string) map[string]string {
	t.Helper()
	file, err := os.Open(path)
	require.NoError(t, err)
	defer file.Close()
	set := make(map[string]string)
	for in := bufio.NewScanner(file); in.Scan(); {
		if name, value, found := strings.Cut(in.Text(), "="); found && !strings.HasPrefix(name, "#") {
			set[name] = value
		}
	}
	return set
}

// The package is installed into a root of its own; what its unit runs leads to the first page.
func TestAnInstalledPackageReachesBegin(t *testing.T) {
	if testing.Short() {
		t.Skip("make test-long packs it")
	}
	binary, err := filepath.Abs("../bin/dapper")
	require.NoError(t, err)
	if _, err := os.Stat(binary); err != nil {
		t.Skip("the program is not built; make test builds it first")
	}
	if _, err := exec.LookPath("dpkg-deb"); err != nil {
		t.Skip("dpkg-deb is not there: this is no Debian")
	}
	dist, root := t.TempDir(), t.TempDir()
	t.Setenv("VERSION", "1.2.3")
	run(t, "scripts/package", "pack", binary, dist)
	debs, err := filepath.Glob(dist + "/*.deb")
	require.NoError(t, err)
	require.Len(t, debs, 1)
	assert.Equal(t, "1.2.3\n", run(t, "dpkg-deb", "--field", debs[0], "Version"))
	assert.Contains(t, run(t, "dpkg-deb", "--ctrl-tarfile", debs[0]), "conffiles")
	run(t, "dpkg-deb", "--extract", debs[0], root)

	info, err := os.Stat(root + "/etc/dapper.env")
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), info.Mode().Perm(), "it holds the database's password")
	assert.FileExists(t, root+"/usr/share/man/man1/dapper.1.gz")
	for _, script := range []string{"after-install", "before-remove"} {
		run(t, "sh", "-n", "packaging/"+script)
	}

	unit, env := lines(t, root+"/usr/lib/systemd/system/dapper.service"), lines(t, root+"/etc/dapper.env")
	assert.Equal(t, "/etc/dapper.env", unit["EnvironmentFile"])
	free, err := net.Listen("tcp", "127.0.0.1:0")
	require.NoError(t, err)
	address := free.Addr().String()
	require.NoError(t, free.Close())
	env["DATABASE_URL"] = pgtest.EmptyURL(t)
	_, env["PORT"], _ = net.SplitHostPort(address)
	env["DAPPER_TOKEN_KEY_FILE"] = filepath.Join(t.TempDir(), "token-key")
	var environment []string
	for name, value := range env {
		environment = append(environment, name+"="+value)
	}
	command := func(ctx context.Context, line string) *exec.Cmd {
		words := strings.Fields(line)
		c := exec.CommandContext(ctx, root+words[0], words[1:]...)
		c.Env = environment
		return c
	}
	out, err := command(t.Context(), unit["ExecStartPre"]).CombinedOutput()
	require.NoError(t, err, "%s", out)

	ctx, stop := context.WithCancel(context.Background())
	served := command(ctx, unit["ExecStart"])
	served.Cancel = func() error { return served.Process.Signal(os.Interrupt) }
	served.WaitDelay = 20 * time.Second
	log, err := served.StderrPipe()
	require.NoError(t, err)
	require.NoError(t, served.Start())
	code := make(chan string, 1)
	go func() {
		for in := bufio.NewScanner(log); in.Scan(); {
			if _, rest, found := strings.Cut(in.Text(), `"setup code"=`); found {
				code <- rest
			}
		}
	}()
	var page string
	assert.Eventually(t, func() bool {
		answer, err := http.Get(fmt.Sprintf("http://%s/", address))
		if err != nil {
			return false
		}
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		page = string(text)
		return err == nil && answer.StatusCode == http.StatusOK
	}, time.Minute, 50*time.Millisecond)
	assert.Contains(t, page, "<html data-begin ")
	assert.Regexp(t, `^[2-9A-Z]{4}(-[2-9A-Z]{4}){3}$`, <-code)
	stop()
	_ = served.Wait() // always an error where it was told to end
	assert.True(t, served.ProcessState.Success(), "it ends well when it is told to: %s", served.ProcessState)
}
