package blog_test

import (
	"net/http/httptest"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

// Without the built-in pages, readers are led on to where posts are.
func TestReadersAreLedOnWithoutThePages(t *testing.T) {
	r := newReader(t)
	there, nowhere := r.publish("There", pgtest.Noon.Add(-time.Hour)), r.publish("Nowhere", pgtest.Noon.Add(-time.Hour))
	ctx, site := t.Context(), r.world.Site.ID
	require.NoError(t, r.world.InTx(ctx, func(tx *store.Tx) error {
		id, err := tx.InsertDestination(ctx, store.Destination{SiteID: site, Kind: "folder", Name: "Static", Archived: store.KeepArchived, CreatedAt: pgtest.Noon,
			Setup: store.DestinationSetup{Folder: "f", Address: "https://lamps.example/notes/{slug}/"}})
		if err != nil {
			return err
		}
		if err := tx.MarkAll(ctx, site, id, false); err != nil {
			return err
		}
		for _, c := range []store.Copy{{Destination: id, Post: there.ID, State: store.CopyThere, URL: "https://lamps.example/notes/there/", Key: "k"}, {Destination: id, Post: nowhere.ID, State: store.CopyNone, Key: "k"}} {
			if err := tx.KeepCopy(ctx, c); err != nil {
				return err
			}
		}
		return tx.SavePages(ctx, site, false, "")
	}))
	_, err := r.world.DB().ExecContext(ctx, `insert into old_slugs (site_id, post_id, slug) values ($1, $2, 'formerly')`, site, there.ID)
	require.NoError(t, err)
	for path, want := range map[string]struct {
		code int
		to   string
	}{
		"/blog/dome/there":              {302, "https://lamps.example/notes/there/"},
		"/blog/dome/formerly":           {301, "/blog/dome/there"},
		"/blog/dome/":                   {302, "https://lamps.example/notes/"},
		"/blog/dome/nowhere":            {404, ""},
		"/blog/dome/never-was":          {404, ""},
		"/blog/dome/feed.atom":          {404, ""},
		"/blog/dome/sitemap.xml":        {404, ""},
		"/blog/dome/search":             {404, ""},
		"/blog/dome/category/sky-guide": {404, ""},
		"/blog/dome/look.css":           {200, ""},
	} {
		answer := httptest.NewRecorder()
		r.pages.ServeHTTP(answer, httptest.NewRequest("GET", path, nil))
		assert.Equal(t, want.code, answer.Code, path)
		assert.Equal(t, want.to, answer.Header().Get("Location"), path)
	}
}

// Feeds name the hub that is told of them, in each form and in a header.
func TestFeedsNameTheirHub(t *testing.T) {
	r := newReader(t)
	r.publish("One", pgtest.Noon.Add(-time.Hour))
	_, text := r.get("/blog/dome/feed.atom")
	assert.NotContains(t, text, `rel="hub"`)
	require.NoError(t, r.world.InTx(t.Context(), func(tx *store.Tx) error {
		return tx.SavePages(t.Context(), r.world.Site.ID, true, "https://hub.example/?a=1&b=2")
	}))
	for form, names := range map[string]string{
		"atom": `<link rel="hub" href="https://hub.example/?a=1&amp;b=2"></link>`,
		"rss":  `<atom:link rel="hub" href="https://hub.example/?a=1&amp;b=2"></atom:link>`,
		"json": `"hubs":[{"type":"WebSub","url":"https://hub.example/?a=1\u0026b=2"}]`,
	} {
		answer := httptest.NewRecorder()
		r.pages.ServeHTTP(answer, httptest.NewRequest("GET", "/blog/dome/feed."+form, nil))
		assert.Contains(t, answer.Body.String(), names, form)
		assert.Equal(t, []string{`<https://hub.example/?a=1&b=2>; rel="hub"`, `<https://dome.example/blog/dome/feed.` + form + `>; rel="self"`}, answer.Header().Values("Link"), form)
	}
	_, text = r.get("/blog/dome/category/sky-guide/feed.atom")
	assert.NotContains(t, text, `rel="hub"`, "the hub is not told of a category's feed")
}

// The sitemap says of a post that it changed when it came out, and when it came out again.
func TestTheSitemapMovesWhenAPostComesOut(t *testing.T) {
	r := newReader(t)
	p := r.world.Draft(t, "One")
	require.NoError(t, status.PublishNow(t.Context(), r.desk, p.ID, p.Version, pgtest.Noon.Add(time.Hour)))
	_, text := r.get("/blog/dome/sitemap.xml")
	assert.Contains(t, text, "<loc>https://dome.example/blog/dome/one</loc><lastmod>2026-11-24T17:00:00Z</lastmod>")
	p = r.world.Reload(t, p.ID)
	p.Stand(p.State().Republish(pgtest.Noon.Add(2 * time.Hour)))
	require.NoError(t, r.world.InTx(t.Context(), func(tx *store.Tx) error { return tx.SaveState(t.Context(), p, pgtest.Noon.Add(2*time.Hour)) }))
	_, text = r.get("/blog/dome/sitemap.xml")
	assert.Contains(t, text, "<loc>https://dome.example/blog/dome/one</loc><lastmod>2026-11-24T18:00:00Z</lastmod>")
}
