package api_test

import (
	"io"
	"net/http"
	"net/http/cookiejar"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/api/accounts"
	"dapper.example/internal/api/blogs"
	"dapper.example/internal/deliver"
	"dapper.example/internal/founding"
	"dapper.example/internal/pgtest"
)

const mark = `<html data-begin lang="en">`

// unset is a program that nobody has set up yet, and its setup code.
func unset(t *testing.T) (*client, string) {
	t.Helper()
	s := pgtest.New(t)
	queue, err := deliver.NewQueue(s)
	require.NoError(t, err)
	code, err := founding.FirstCode(t.Context(), s.Queries)
	require.NoError(t, err)
	clock := clockwork.NewFakeClockAt(pgtest.Noon)
	web := fstest.MapFS{"index.html": {Data: []byte(`<!doctype html><html lang="en"><head></head></html>`)}, "assets/main-1.js": {Data: []byte("1")}}
	server := httptest.NewServer(api.New(t.Context(), api.Config{Store: s, Changes: s.Changes(pgtest.Quiet()), Clock: clock, Log: pgtest.Quiet(),
		Queue: queue, Mail: queue, Web: web}).Handler())
	t.Cleanup(server.Close)
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	return &client{t: t, url: server.URL, http: &http.Client{Jar: jar}, world: pgtest.World{Store: s}, clock: clock}, code
}

func (c *client) page(path string) (int, string) {
	c.t.Helper()
	answer, err := c.http.Get(c.url + path)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	text, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	return answer.StatusCode, string(text)
}

func TestEveryAddressIsBeginUntilThereIsAnOwner(t *testing.T) {
	c, code := unset(t)
	for _, path := range []string{"/", "/sign-in", "/dome/posts", "/blog/dome/", "/blog/dome/feed.atom", "/s/abc", "/calendar/x.ics", "/index.html", "/assets/none.js"} {
		status, page := c.page(path)
		assert.Equal(t, 200, status, path)
		assert.Contains(t, page, mark, path)
	}
	for _, path := range []string{"/healthz", "/readyz", "/assets/main-1.js", "/api/openapi.json"} {
		status, page := c.page(path)
		assert.Equal(t, 200, status, path)
		assert.NotContains(t, page, mark, path)
	}
	for _, path := range []string{"/api/v1/session", "/api/v1/sites/dome/status", "/api/nothing"} {
		said := c.fails("GET", path, nil, 503)
		assert.Contains(t, said.Detail, "Nobody has set this program up yet")
	}

	const codePath, setup = "/api/v1/setup/code", "/api/v1/setup"
	wrong := c.fails("POST", codePath, map[string]string{"code": "AAAA"}, 403)
	assert.Equal(t, "body.code", wrong.Errors[0].Location)
	c.call("POST", codePath, map[string]string{"code": code}, 204, nil)

	body := map[string]any{"code": code, "owner": map[string]string{"name": "Ines Abara", "email": "ines@garden.example", "password": "seventeen brass snails"},
		"blog": map[string]string{"title": "Garden Notes", "slug": "garden-notes", "zone": "Mars/Olympus", "language": "en-GB", "start": "daily"}}
	bad := c.fails("POST", setup, body, 422)
	assert.Equal(t, "body.blog.zone", bad.Errors[0].Location)
	body["blog"].(map[string]string)["zone"] = "Europe/Lisbon"
	var me accounts.Me
	c.call("POST", setup, body, 200, &me)
	require.Len(t, me.Sites, 1)
	assert.Equal(t, accounts.MySite{Slug: "garden-notes", Title: "Garden Notes", Zone: "Europe/Lisbon", Role: "owner"}, me.Sites[0])
	c.call("GET", "/api/v1/session", nil, 200, &me)

	c.fails("POST", setup, body, 410)
	c.fails("POST", codePath, map[string]string{"code": code}, 410)
	_, page := c.page("/")
	assert.NotContains(t, page, mark)
	status, page := c.page("/blog/garden-notes/")
	assert.Equal(t, 200, status)
	assert.Contains(t, page, `<html lang="en-GB">`)
}

func TestWhatANewBlogMayBeginWith(t *testing.T) {
	c, _ := unset(t)
	var begin blogs.BlogBeginning
	c.call("GET", "/api/v1/new-blog?title="+url.QueryEscape("Garden Notes")+"&zone=Asia/Tokyo", nil, 200, &begin)
	assert.Equal(t, "garden-notes", begin.Slug)
	assert.Contains(t, begin.Languages, blogs.Language{Tag: "pt-PT", Name: "português europeu"})
	require.Len(t, begin.Starts, 4)
	for _, s := range begin.Starts {
		require.Len(t, s.Week, 7)
		assert.Equal(t, "2026-11-23", s.Week[0].Date.String(), "from Monday")
	}
	require.Len(t, begin.Starts[2].Week[3].Slots, 1)
	minute := begin.Starts[2].Week[3].Slots[0].Minute
	assert.True(t, minute >= 7*60 && minute < 9*60+30, "a daily post comes out from 7:00 to 9:30: %d", minute)
	c.call("GET", "/api/v1/new-blog?zone=nowhere&title=%F0%9F%8C%B1", nil, 200, &begin)
	assert.Empty(t, begin.Slug)
	c.fails("GET", "/api/v1/new-blog?title="+strings.Repeat("x", 1001), nil, 422)
}

func TestABlogIsAddedArchivedBroughtBackAndDeleted(t *testing.T) {
	c := signedIn(t)
	_, err := c.world.DB().Exec(`update memberships set role = 'owner' where site_id = $1`, c.world.Site.ID)
	require.NoError(t, err)
	var added accounts.MySite
	body := map[string]string{"title": "Ponds", "slug": "ponds", "zone": "Europe/Lisbon", "language": "en-GB"}
	c.call("POST", "/api/v1/blogs", body, 201, &added)
	assert.Equal(t, "owner", added.Role)
	assert.Equal(t, "body.slug", c.fails("POST", "/api/v1/blogs", body, 422).Errors[0].Location)

	const ponds = "/api/v1/sites/ponds"
	status, _ := c.page("/blog/ponds/")
	assert.Equal(t, 200, status)
	c.call("POST", ponds+"/archive", nil, 204, nil)
	for _, path := range []string{"/blog/ponds/", "/blog/ponds/feed.atom", "/blog/ponds/a-post", "/blog/ponds/sitemap.xml"} {
		status, page := c.page(path)
		assert.Equal(t, 410, status, path)
		assert.Contains(t, page, "This blog is closed", path)
	}
	var settings map[string]any
	c.call("GET", ponds+"/settings", nil, 200, &settings)
	settings["paused"] = false
	assert.Equal(t, "body.paused", c.fails("PUT", ponds+"/settings", settings, 422).Errors[0].Location)
	var me accounts.Me
	c.call("GET", "/api/v1/session", nil, 200, &me)
	assert.True(t, me.Sites[1].Archived)
	c.call("DELETE", ponds+"/archive", nil, 204, nil)
	status, _ = c.page("/blog/ponds/")
	assert.Equal(t, 200, status)

	c.fails("DELETE", ponds+"?confirm=Pond", nil, 422)
	c.call("DELETE", ponds+"?confirm=Ponds", nil, 204, nil)
	c.fails("GET", ponds+"/settings", nil, 404)
	status, _ = c.page("/blog/ponds/")
	assert.Equal(t, 404, status)
	c.call("DELETE", site+"?confirm="+url.QueryEscape("Notes from dome"), nil, 204, nil)
	c.call("POST", "/api/v1/blogs", body, 201, nil) // whoever deletes the last one is not left outside
}
