package blog_test

import (
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// leads is where an address of the blog leads on to; "" where it does not.
func (r reader) leads(path string) string {
	answer := httptest.NewRecorder()
	r.pages.ServeHTTP(answer, httptest.NewRequest("GET", path, nil))
	if answer.Code != 301 {
		return ""
	}
	return answer.Header().Get("Location")
}

func TestOldNamesInAddressesLeadOn(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	require.NoError(t, r.world.InTx(t.Context(), func(tx *store.Tx) error {
		site := r.world.Site
		site.Slug = "observatory"
		if err := tx.SaveSite(t.Context(), site); err != nil {
			return err
		}
		return tx.SaveCategory(t.Context(), r.world.Site.ID, store.Category{ID: r.world.Category, Slug: "night-sky", Name: "Night Sky", Description: "What is <up>"})
	}))
	for from, to := range map[string]string{
		"/blog/dome/":                                    "/blog/observatory/",
		"/blog/dome/a-post?from=mail":                    "/blog/observatory/a-post?from=mail",
		"/blog/dome/feed.atom":                           "/blog/observatory/feed.atom",
		"/blog/dome/category/sky-guide":                  "/blog/observatory/category/sky-guide",
		"/blog/observatory/category/sky-guide":           "/blog/observatory/category/night-sky",
		"/blog/observatory/category/sky-guide/feed.atom": "/blog/observatory/category/night-sky/feed.atom",
		"/blog/nowhere/":                                 "",
		"/blog/observatory/":                             "",
		"/blog/observatory/category/night-sky":           "",
		"/blog/observatory/category/never-was":           "",
	} {
		assert.Equal(t, to, r.leads(from), from)
	}
	_, page := r.get("/blog/observatory/category/night-sky")
	assert.Contains(t, page, `<p class="about">What is &lt;up&gt;</p>`)
	code, _ := r.get("/blog/nowhere/")
	assert.Equal(t, 404, code)
}

func TestReadersOfAnArchivedBlogAreTold(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	require.NoError(t, r.world.InTx(t.Context(), func(tx *store.Tx) error { return tx.Archive(t.Context(), r.world.Site.ID, pgtest.Noon) }))
	for _, path := range []string{"", "a-post", "feed.rss", "category/sky-guide", "sitemap.xml", "archive", "never-was"} {
		code, page := r.get("/blog/dome/" + path)
		assert.Equal(t, 410, code, path)
		assert.Contains(t, page, "This blog is closed", path)
		assert.NotContains(t, page, "A post", path)
	}
}

func TestHowABlogIsRead(t *testing.T) {
	r := newReader(t)
	for _, title := range []string{"First", "Second", "Third"} {
		r.publish(title, pgtest.Noon.Add(-time.Hour))
	}
	_, feed := r.get("/blog/dome/feed.atom")
	assert.Contains(t, feed, "&lt;p&gt;Some text.&lt;/p&gt;")
	ids := regexp.MustCompile(`<id>tag:[^<]*</id>`).FindAllString(feed, -1)
	require.Len(t, ids, 3)
	require.NoError(t, r.world.InTx(t.Context(), func(tx *store.Tx) error {
		site := r.world.Site
		site.Slug, site.Reading = "observatory", store.Reading{PostsAPage: 2, DateStyle: "long", Footer: "Run by <volunteers>"}
		return tx.SaveSite(t.Context(), site)
	}))
	_, page := r.get("/blog/observatory/")
	assert.Equal(t, 2, strings.Count(page, "<article")+strings.Count(page, `<p class="when">`))
	assert.Contains(t, page, `<p class="line" dir="auto">Run by &lt;volunteers&gt;</p>`)
	_, feed = r.get("/blog/observatory/feed.atom")
	assert.Equal(t, ids, regexp.MustCompile(`<id>tag:[^<]*</id>`).FindAllString(feed, -1), "feed readers know the posts again")
}

func TestReadersSeeALineAboutAnAuthor(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	_, page := r.get("/blog/dome/a-post")
	assert.NotContains(t, page, `class="author"`)
	require.NoError(t, r.world.SaveName(t.Context(), r.world.Editor.ID, "Ines Abara", "Keeps the <dome>."))
	_, page = r.get("/blog/dome/a-post")
	assert.Contains(t, page, `Ines Abara</a>: Keeps the &lt;dome&gt;.</span></p>`)
	author := regexp.MustCompile(`/blog/dome/author/[a-z0-9-]+`).FindString(page)
	require.NotEmpty(t, author)
	_, page = r.get(author)
	assert.Contains(t, page, `<p class="about">Keeps the &lt;dome&gt;.</p>`)
	assert.NotContains(t, page, `class="face"`)

	face := r.world.Picture(t, "Ines")
	require.NoError(t, r.world.SetPortrait(t.Context(), r.world.Site.ID, r.world.Editor.ID, &face.ID))
	_, page = r.get(author)
	assert.Contains(t, page, `<img class="face" src="/blog/dome/pictures/`+face.Key)
	_, page = r.get("/blog/dome/a-post")
	assert.Contains(t, page, `<p class="author" dir="auto"><img src="/blog/dome/pictures/`+face.Key)
}
