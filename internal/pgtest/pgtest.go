// Package pgtest gives each test a PostgreSQL database for itself, with the current
// schema.
//
// The server is the one of TEST_DATABASE_URL, or else the project's own cluster for
// tests under .local/, which is started when it does not run. Only tests may use
// this package.
package pgtest

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io/fs"
	"log/slog"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/store"
)

// template is made once a process; other processes find it there.
var template = sync.OnceValues(makeTemplate)

type server struct {
	url      string
	template string
}

// URL returns the address of a fresh database, for tests that hand it to other
// processes.
func URL(t testing.TB) string {
	t.Helper()
	made, err := template()
	require.NoError(t, err)
	name := "test_" + random()
	require.NoError(t, admin(made.url, fmt.Sprintf(`create database %s template %s strategy file_copy`, name, made.template)))
	t.Cleanup(func() {
		require.NoError(t, admin(made.url, fmt.Sprintf(`drop database if exists %s with (force)`, name)))
	})
	return withDatabase(made.url, name)
}

// EmptyURL returns the address of a fresh database without any schema.
func EmptyURL(t testing.TB) string {
	t.Helper()
	made, err := template()
	require.NoError(t, err)
	name := "test_" + random()
	require.NoError(t, admin(made.url, "create database "+name))
	t.Cleanup(func() {
		require.NoError(t, admin(made.url, fmt.Sprintf(`drop database if exists %s with (force)`, name)))
	})
	return withDatabase(made.url, name)
}

// Filled is a database with the current schema and some content, from which tests clone
// theirs.
type Filled struct{ url, name string }

// Fill makes a filled database by a function, once for the tests of a process. The
// caller drops it at their end.
func Fill(fill func(context.Context, *store.Store) error) (Filled, error) {
	made, err := template()
	if err != nil {
		return Filled{}, err
	}
	f := Filled{made.url, "test_" + random()}
	if err := admin(f.url, fmt.Sprintf(`create database %s template %s strategy file_copy`, f.name, made.template)); err != nil {
		return f, err
	}
	s, err := store.Open(context.Background(), withDatabase(f.url, f.name))
	if err != nil {
		return f, errors.Join(err, f.Drop())
	}
	if err := errors.Join(fill(context.Background(), s), s.Close()); err != nil {
		return f, errors.Join(err, f.Drop())
	}
	return f, nil
}

// New returns a store on a clone of the filled database, which is dropped when the test
// ends.
func (f Filled) New(t testing.TB) *store.Store {
	t.Helper()
	name := "test_" + random()
	require.NoError(t, admin(f.url, fmt.Sprintf(`create database %s template %s strategy file_copy`, name, f.name)))
	t.Cleanup(func() { require.NoError(t, admin(f.url, fmt.Sprintf(`drop database if exists %s with (force)`, name))) })
	s, err := store.Open(t.Context(), withDatabase(f.url, name))
	require.NoError(t, err)
	t.Cleanup(func() { s.Close() })
	return s
}

// Drop drops the filled database.
func (f Filled) Drop() error {
	return admin(f.url, fmt.Sprintf(`drop database if exists %s with (force)`, f.name))
}

// Cluster is a PostgreSQL server that one test has for itself, to break.
type Cluster struct {
	t      testing.TB
	script string
	dir    string
	URL    string // of a database with the current schema
}

// NewCluster starts a server for this test alone; it is deleted when the test ends.
func NewCluster(t testing.TB) *Cluster {
	t.Helper()
	root, err := root()
	require.NoError(t, err)
	c := &Cluster{t: t, script: filepath.Join(root, "scripts/postgres"),
		dir: filepath.Join(root, ".local", "pg-"+random())}
	t.Cleanup(func() { c.run("remove") })
	c.URL = c.run("start", "safe")
	s, err := store.Open(t.Context(), c.URL)
	require.NoError(t, err)
	_, err = s.Migrate(t.Context())
	require.NoError(t, errors.Join(err, s.Close()))
	return c
}

// Crash stops the server as a power cut would, and starts it again.
func (c *Cluster) Crash() { c.t.Helper(); c.run("crash", "safe") }

func (c *Cluster) run(command string, more ...string) string {
	c.t.Helper()
	run := exec.Command(c.script, append([]string{command, c.dir}, more...)...)
	run.Stderr = os.Stderr
	out, err := run.Output()
	require.NoError(c.t, err, command)
	return strings.TrimSpace(string(out))
}

// Quiet is a log that says nothing, for what tests start.
func Quiet() *slog.Logger { return slog.New(slog.DiscardHandler) }

func random() string {
	var b [8]byte
	rand.Read(b[:])
	return hex.EncodeToString(b[:])
}

// admin runs one statement on the server's maintenance database.
func admin(serverURL, statement string) error {
	ctx := context.Background()
	conn, err := pgx.Connect(ctx, withDatabase(serverURL, "postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	_, err = conn.Exec(ctx, statement)
	return err
}

func withDatabase(serverURL, name string) string {
	u, err := url.Parse(serverURL)
	if err != nil {
		panic(err) // serverURL has been used to connect already
	}
	u.Path = "/" + name
	return u.String()
}

// making is the number of the lock that is held while databases are made that others might take for left over.
const making = 5_061_226

// makeTemplate makes the template database for the schema as it is now. Processes
// that run at once take turns, by a lock of the server's.
func makeTemplate() (server, error) {
	serverURL, err := serverURL()
	if err != nil {
		return server{}, err
	}
	root, err := root()
	if err != nil {
		return server{}, err
	}
	version, err := schemaVersion(filepath.Join(root, "internal/store/migrations"))
	if err != nil {
		return server{}, err
	}
	made := server{serverURL, "template_" + version}

	ctx := context.Background()
	conn, err := pgx.Connect(ctx, withDatabase(serverURL, "postgres"))
	if err != nil {
		return server{}, err
	}
	defer conn.Close(ctx)
	if _, err := conn.Exec(ctx, `select pg_advisory_lock($1)`, making); err != nil {
		return server{}, err
	}
	if err := sweep(ctx, conn); err != nil {
		return server{}, err
	}
	var exists bool
	if err := conn.QueryRow(ctx, `select exists (select from pg_database where datname = $1)`,
		made.template).Scan(&exists); err != nil || exists {
		return made, err
	}
	// Made under another name first: a template that exists is complete.
	draft := made.template + "_draft"
	for _, statement := range []string{`drop database if exists ` + draft, `create database ` + draft} {
		if _, err := conn.Exec(ctx, statement); err != nil {
			return server{}, err
		}
	}
	s, err := store.Open(ctx, withDatabase(serverURL, draft))
	if err != nil {
		return server{}, err
	}
	_, err = s.Migrate(ctx)
	if err := errors.Join(err, s.Close()); err != nil {
		return server{}, err
	}
	_, err = conn.Exec(ctx, fmt.Sprintf(`alter database %s rename to %s`, draft, made.template))
	return made, err
}

func serverURL() (string, error) {
	if u := os.Getenv("TEST_DATABASE_URL"); u != "" {
		return u, nil
	}
	root, err := root()
	if err != nil {
		return "", err
	}
	start := exec.Command(filepath.Join(root, "scripts/postgres"), "start", filepath.Join(root, ".local/pg-test"),
		"memory")
	start.Stderr = os.Stderr
	out, err := start.Output()
	if err != nil {
		return "", fmt.Errorf("starting PostgreSQL for tests: %w", err)
	}
	return strings.TrimSpace(string(out)), nil
}

// root is the project's folder: the nearest one above that holds go.mod.
func root() (string, error) {
	dir, err := os.Getwd()
	if err != nil {
		return "", err
	}
	for {
		if _, err := os.Stat(filepath.Join(dir, "go.mod")); err == nil {
			return dir, nil
		}
		if dir == filepath.Dir(dir) {
			return "", errors.New("tests must run inside the project's folder")
		}
		dir = filepath.Dir(dir)
	}
}

func schemaVersion(dir string) (string, error) {
	h := sha256.New()
	err := fs.WalkDir(os.DirFS(dir), ".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		text, err := os.ReadFile(filepath.Join(dir, path))
		fmt.Fprintf(h, "%s %d\n%s", path, len(text), text)
		return err
	})
	return hex.EncodeToString(h.Sum(nil))[:16], err
}
