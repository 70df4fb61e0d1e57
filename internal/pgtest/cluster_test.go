package pgtest_test

import (
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"

	"github.com/jmoiron/sqlx"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Whatever file of a cluster is missing, starting it deletes no data and says what is wrong.
func TestAStartNeverDeletesData(t *testing.T) {
	script, err := filepath.Abs("../../scripts/postgres")
	require.NoError(t, err)
	dir := filepath.Join(t.TempDir(), "pg")
	run := func(command string) (out, said string, err error) {
		var o, e strings.Builder
		cmd := exec.Command(script, command, dir, "fast")
		cmd.Stdout, cmd.Stderr = &o, &e
		err = cmd.Run()
		return strings.TrimSpace(o.String()), e.String(), err
	}
	t.Cleanup(func() { run("remove") })
	kept := func(url string) string {
		db, err := sqlx.Connect("pgx", url)
		require.NoError(t, err)
		defer db.Close()
		var text string
		require.NoError(t, db.Get(&text, `select text from diary`))
		return text
	}

	url, said, err := run("start")
	require.NoError(t, err, said)
	db, err := sqlx.Connect("pgx", url)
	require.NoError(t, err)
	db.MustExec(`create table diary as select 'years of work' as text`)
	require.NoError(t, db.Close())
	stop := func() {
		_, said, err := run("stop")
		require.NoError(t, err, said)
	}

	for _, missing := range []string{"made", "where", "port"} {
		stop()
		require.NoError(t, os.Remove(filepath.Join(dir, missing)))
		url, said, err := run("start")
		require.NoError(t, err, "without %s: %s", missing, said)
		assert.Equal(t, "years of work", kept(url), "without %s", missing)
	}

	where, err := os.ReadFile(filepath.Join(dir, "where"))
	require.NoError(t, err)
	data := strings.TrimSpace(string(where))
	for path, says := range map[string]string{
		filepath.Join(dir, "password"):    "password, is missing",
		filepath.Join(data, "PG_VERSION"): "PG_VERSION is missing",
		data:                              "missing or empty",
	} {
		stop()
		away := filepath.Join(t.TempDir(), "away")
		require.NoError(t, exec.Command("mv", path, away).Run())
		_, said, err := run("start")
		assert.Error(t, err, "without %s", path)
		assert.Contains(t, said, says)
		require.NoError(t, exec.Command("mv", away, path).Run())
		url, said, err := run("start")
		require.NoError(t, err, "with %s back: %s", path, said)
		assert.Equal(t, "years of work", kept(url))
	}
}
