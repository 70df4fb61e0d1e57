package main

import (
	"bytes"
	"context"
	"encoding/json"
	"io"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/alecthomas/kong"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// terminal runs commands on a database of its own.
type terminal struct {
	t   *testing.T
	url string
}

func (c terminal) run(stdin string, words ...string) (string, error) {
	c.t.Helper()
	var all cli
	parser, err := kong.New(&all)
	require.NoError(c.t, err)
	parsed, err := parser.Parse(append(words, "--database-url", c.url))
	if err != nil {
		return "", err
	}
	var out bytes.Buffer
	parsed.BindTo(c.t.Context(), (*context.Context)(nil))
	parsed.BindTo(&out, (*io.Writer)(nil))
	parsed.BindTo(strings.NewReader(stdin), (*io.Reader)(nil))
	parsed.Bind(pgtest.Quiet())
	err = parsed.Run()
	return out.String(), err
}

func (c terminal) does(stdin string, words ...string) string {
	c.t.Helper()
	out, err := c.run(stdin, words...)
	require.NoError(c.t, err, "%v", words)
	return out
}

func (c terminal) fails(says string, words ...string) {
	c.t.Helper()
	_, err := c.run("", words...)
	require.ErrorContains(c.t, err, says, "%v", words)
}

// A program is set up, and gets blogs and people, without a browser and without mail.
func TestBlogsAndPeopleByCommand(t *testing.T) {
	c := terminal{t, pgtest.URL(t)}
	code := strings.TrimSpace(c.does("", "setup-code"))
	assert.Len(t, code, 19)
	var told map[string]string
	require.NoError(t, json.Unmarshal([]byte(c.does("", "setup-code", "--json")), &told))
	assert.NotEqual(t, code, told["setupCode"])
	assert.Equal(t, "[]\n", c.does("", "site", "list", "--json"))

	c.fails("There is no account", "site", "add", "Garden Notes", "--zone", "Europe/Lisbon", "--owner", "ines@garden.example")
	out := c.does("seventeen brass snails\nmore", "person", "add", "Ines@Garden.example", "--name", "Ines Abara", "--password-stdin")
	assert.Equal(t, "Made the account of ines@garden.example.\n", out)
	c.fails("set up already", "setup-code")
	c.fails("There is an account", "person", "add", "ines@garden.example", "--name", "Ines")
	c.fails("not an e-mail address", "person", "add", "nobody", "--name", "Ines")
	c.fails("must be one of", "person", "add", "pell@garden.example", "--name", "Pell", "--role", "king")
	c.fails("there is no blog", "person", "add", "pell@garden.example", "--name", "Pell", "--site", "nowhere")

	out = c.does("", "site", "add", "Garden Notes", "--zone", "Europe/Lisbon", "--owner", "ines@garden.example", "--start", "daily")
	assert.Equal(t, "Added “Garden Notes” at /blog/garden-notes/.\n", out)
	c.fails("slug: Another blog", "site", "add", "Garden Notes", "--zone", "Europe/Lisbon", "--owner", "ines@garden.example")
	c.fails("zone: There is no time zone", "site", "add", "Other", "--zone", "Nowhere", "--owner", "ines@garden.example")
	var made siteView
	require.NoError(t, json.Unmarshal([]byte(c.does("", "site", "add", "Ponds", "--slug", "wet", "--zone", "UTC", "--language", "en-ca", "--owner",
		"ines@garden.example", "--json")), &made))
	assert.Equal(t, siteView{"wet", "Ponds", "UTC", "en-CA", "open"}, made)

	var pell personView
	require.NoError(t, json.Unmarshal([]byte(c.does("", "person", "add", "pell@garden.example", "--name", "Pell", "--site", "wet", "--role", "owner",
		"--public-url", "https://garden.example/", "--json")), &pell))
	assert.Equal(t, "owner", pell.Role)
	require.Regexp(t, `^https://garden\.example/reset#.{32}$`, pell.Link)
	s, err := store.Open(t.Context(), c.url)
	require.NoError(t, err)
	defer s.Close()
	house := people.House{Store: s}
	_, secret, _ := strings.Cut(pell.Link, "#")
	require.NoError(t, house.Reset(t.Context(), secret, "forty quiet lanterns", newClock().Now()))

	out = c.does("", "person", "reset", "pell@garden.example")
	assert.Contains(t, out, "/reset#")
	c.fails("There is no account", "person", "reset", "nobody@garden.example")
	c.does("", "person", "role", "ines@garden.example", "wet", "contributor")
	c.fails("only owner", "person", "role", "pell@garden.example", "wet", "editor")
	c.fails("there is no blog", "person", "role", "pell@garden.example", "dry", "editor")
	c.does("", "person", "role", "pell@garden.example", "garden-notes", "editor")

	c.does("", "site", "archive", "wet")
	list := c.does("", "site", "list")
	assert.Contains(t, list, "wet           archived  UTC            Ponds\n")
	assert.Contains(t, list, "garden-notes  open      Europe/Lisbon  Garden Notes\n")
	assert.Contains(t, c.does("", "site", "archive", "wet", "--back"), "It is paused")
	assert.Contains(t, c.does("", "site", "list"), "wet           paused")
	c.fails("there is no blog", "site", "archive", "dry")
}

// A blog and its tables are written to files, whole or not at all.
func TestABlogIsExported(t *testing.T) {
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	w.Draft(t, "Cables")
	c := terminal{t, w.URL()}
	dir := t.TempDir()
	in := func(name string) string { return filepath.Join(dir, name) }
	for name, begins := range map[string]string{"blog.zip": "PK", "blog.json": "{\n\"$schema\"", "posts.csv": "\ufeffid,title", "posts.xlsx": "PK", "plan.csv": "\ufeffwhen,weekday"} {
		words := []string{"export", "dome", in(name)}
		if what, _, _ := strings.Cut(name, "."); what != "blog" {
			words = append(words, "--what", what)
		}
		c.does("", words...)
		written, err := os.ReadFile(in(name))
		require.NoError(t, err)
		assert.True(t, strings.HasPrefix(string(written), begins), name)
	}
	c.fails("there already", "export", "dome", in("blog.zip"))
	c.does("", "export", "dome", in("blog.zip"), "--force")
	c.fails("no blog", "export", "elsewhere", in("x.zip"))
	c.fails("written as .zip", "export", "dome", in("x.csv"))
	c.fails("written as .csv or .xlsx", "export", "dome", in("x.zip"), "--what", "plan")
	c.fails("written as .csv or .xlsx", "export", "dome", "-", "--what", "plan")
	left, err := os.ReadDir(dir)
	require.NoError(t, err)
	assert.Len(t, left, 5, "nothing of what failed stays")
}

// Articles are brought in by command, or only looked at; a second time nothing comes twice.
func TestArticlesAreBroughtInByCommand(t *testing.T) {
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	c := terminal{t, w.URL()}
	sample := filepath.Join("..", "..", "docs", "samples", "winter-nights.zip")
	brought := func() (n int) {
		require.NoError(t, w.DB().GetContext(t.Context(), &n, `select count(*) from posts where import = 'winter-nights'`))
		return n
	}
	by := func(words ...string) []string {
		return append([]string{"import", "dome", sample, "--by", w.Editor.Email}, words...)
	}
	said := c.does("", by("--dry-run")...)
	assert.Contains(t, said, "12 lines read: 11 become posts, 0 change theirs, 0 unchanged, 0 changed on both sides, 1 left out.")
	assert.Contains(t, said, "members/empty.md: It is empty.")
	assert.Zero(t, brought())
	assert.Contains(t, c.does("", by("--as", "shelf")...), "Done: 11 posts brought in, 0 changed.")
	assert.Equal(t, 11, brought())
	assert.Contains(t, c.does("", by("--dry-run")...), "11 unchanged")
	c.fails("has the address", "import", "dome", sample, "--by", "nobody@dome.example")
	c.fails("no owner", "import", "dome", sample)
	c.fails("there is no setup", by("--setup", "none")...)
	c.fails("no such file", "import", "dome", "gone.zip", "--by", w.Editor.Email)
}
