package blog_test

import (
	"encoding/json"
	"fmt"
	"net/http"
	"net/http/httptest"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

func (r reader) ask(path string, header ...string) *httptest.ResponseRecorder {
	r.t.Helper()
	request := httptest.NewRequest("GET", path, nil)
	for i := 0; i+1 < len(header); i += 2 {
		request.Header.Set(header[i], header[i+1])
	}
	answer := httptest.NewRecorder()
	r.pages.ServeHTTP(answer, request)
	return answer
}

func (r reader) write(p store.Post, text writing.Text) store.Post {
	r.t.Helper()
	p, err := writing.Write(r.t.Context(), r.desk, p.ID, p.Version, text, pgtest.Noon)
	require.NoError(r.t, err)
	return p
}

func TestListsByWhatPostsAreSortedUnder(t *testing.T) {
	r := newReader(t)
	p := r.told("Told", pgtest.Noon)
	r.publish("Older", pgtest.Noon.AddDate(0, -2, 0))
	none := r.publish("Unsorted", pgtest.Noon.Add(-time.Hour))
	no := int64(0)
	r.write(none, writing.Text{Category: &no})
	author := fmt.Sprintf("author/ines-abara-%d", r.world.Editor.ID)
	for path, want := range map[string][2][]string{ // what is there, and what is not
		"":                   {{"Told", "Older", "Unsorted"}, nil},
		"category/sky-guide": {{"Told", "Older"}, {"Unsorted"}},
		"tag/night-and-day":  {{"Told"}, {"Older", "Unsorted"}},
		author:               {{"Told", "Older", "Unsorted"}, nil},
		"archive/2026-09":    {{"Older"}, {"Told"}},
		"archive":            {{"November", "September", "2026"}, {"October"}},
		"search?q=pictures":  {{"Told"}, {"Older"}},
		"search?q=zebra":     {{"Nothing found"}, {"Older"}},
		"search":             {{"Search this blog"}, {"Nothing found"}},
	} {
		code, page := r.get("/blog/dome/" + path)
		assert.Equal(t, 200, code, path)
		for _, text := range want[0] {
			assert.Contains(t, page, text, path)
		}
		for _, text := range want[1] {
			assert.NotContains(t, page, ">"+text+"<", path)
		}
	}
	for _, path := range []string{"category/none", "tag/none", "author/nobody-1", "archive/2020-01", "archive/2026-13",
		"archive/x", "category/sky-guide?page=2", "feed"} {
		code, _ := r.get("/blog/dome/" + path)
		assert.Equal(t, 404, code, path)
	}
	_, page := r.get("/blog/dome/" + p.Slug)
	for _, path := range []string{"category/sky-guide", "tag/night-and-day", author} {
		assert.Contains(t, page, `href="/blog/dome/`+path+`"`)
	}
	assert.Contains(t, page, `rel="prev" href="/blog/dome/unsorted"`, "what came out before it")
	hostile := "/blog/dome/search?q=%22%3E%3Cscript%3Ealert(1)%3C/script%3E%00" + strings.Repeat("x", 5000)
	code, page := r.get(hostile)
	assert.Equal(t, 200, code)
	assert.NotContains(t, page, "<script>alert")
}

func TestPagesAndWhatStandsOnTop(t *testing.T) {
	r := newReader(t)
	kind, yes := "page", true
	about := r.world.Draft(t, "About us")
	about = r.write(about, writing.Text{Kind: &kind})
	require.NoError(t, status.PublishNow(t.Context(), r.desk, about.ID, about.Version, pgtest.Noon))
	r.write(r.publish("Kept on top", pgtest.Noon.AddDate(-1, 0, 0)), writing.Text{OnTop: &yes})
	r.publish("Newest", pgtest.Noon)
	_, front := r.get("/blog/dome/")
	assert.Less(t, strings.Index(front, ">Kept on top<"), strings.Index(front, ">Newest<"))
	assert.Equal(t, 1, strings.Count(front, ">Kept on top<"))
	assert.Regexp(t, `<li class="page"><a href="/blog/dome/about-us">About us</a></li>`, front)
	assert.NotContains(t, front, `<h2><a href="/blog/dome/about-us"`, "a page is in no list")
	_, feed := r.get("/blog/dome/feed.atom")
	assert.NotContains(t, feed, "About us")
	_, page := r.get("/blog/dome/about-us")
	assert.Contains(t, page, `aria-current="page">About us`)
	assert.NotContains(t, page, "<time")
	_, sitemap := r.get("/blog/dome/sitemap.xml")
	assert.Contains(t, sitemap, "about-us")
}

func TestWhatAPostSaysOfItselfToPrograms(t *testing.T) {
	r := newReader(t)
	r.told(`Told "so" </script>`, pgtest.Noon)
	_, page := r.get("/blog/dome/told-so-script")
	const address = "https://dome.example/blog/dome/told-so-script"
	assert.Contains(t, page, `<link rel="canonical" href="`+address+`">`)
	for property, content := range map[string]string{
		"og:type": "article", "og:url": address, "og:image": "https://dome.example/blog/dome/pictures/0123456789abcdef-1200x800.jpg", "og:image:alt": "A dome",
		"og:title": `Told &#34;so&#34; &lt;/script&gt;`, "article:published_time": "2026-11-24T16:00:00Z", "article:tag": "Night &amp; day",
	} {
		assert.Contains(t, page, `<meta property="`+property+`" content="`+content+`">`)
	}
	found := regexp.MustCompile(`(?s)<script type="application/ld\+json">(.*?)</script>`).FindStringSubmatch(page)
	require.Len(t, found, 2)
	var ld map[string]any
	require.NoError(t, json.Unmarshal([]byte(found[1]), &ld))
	assert.Equal(t, "BlogPosting", ld["@type"])
	assert.Equal(t, `Told "so" </script>`, ld["headline"])
	assert.Equal(t, "Ines Abara", ld["author"].(map[string]any)["name"])
	assert.Equal(t, 1, strings.Count(page, "<script"), "no script but that of data")
}

func TestCachesAreToldWhenThePlanBringsSomethingNew(t *testing.T) {
	r := newReader(t)
	first := r.told("First", pgtest.Noon)
	for _, path := range []string{"/blog/dome/", "/blog/dome/feed.atom", "/blog/dome/feed.rss", "/blog/dome/feed.json",
		"/blog/dome/sitemap.xml", "/blog/dome/category/sky-guide"} {
		answer := r.ask(path)
		tag, changed := answer.Header().Get("ETag"), answer.Header().Get("Last-Modified")
		require.NotEmpty(t, tag, path)
		assert.Equal(t, http.StatusNotModified, r.ask(path, "If-None-Match", tag).Code, path)
		if strings.HasPrefix(answer.Header().Get("Content-Type"), "text/html") {
			assert.Empty(t, changed, "%s shows settings and comments, too: only its tag tells that it is the same", path)
			continue
		}
		require.NotEmpty(t, changed, path)
		assert.Equal(t, http.StatusNotModified, r.ask(path, "If-Modified-Since", changed).Code, path)
	}
	answer := r.ask("/blog/dome/feed.atom")
	tag, changed := answer.Header().Get("ETag"), answer.Header().Get("Last-Modified")
	r.publish("Second", pgtest.Noon.Add(time.Hour))
	assert.Equal(t, 200, r.ask("/blog/dome/feed.atom", "If-None-Match", tag).Code)
	assert.Equal(t, 200, r.ask("/blog/dome/feed.atom", "If-Modified-Since", changed).Code)

	// Taking away is something new too.
	answer = r.ask("/blog/dome/feed.atom")
	changed = answer.Header().Get("Last-Modified")
	first = r.world.Reload(t, first.ID)
	require.NoError(t, status.Bin(t.Context(), r.desk, first.ID, first.Version, pgtest.Noon.Add(2*time.Hour)))
	assert.Equal(t, 200, r.ask("/blog/dome/feed.atom", "If-Modified-Since", changed).Code)
	gone := r.ask("/blog/dome/first")
	assert.Equal(t, 404, gone.Code)
	assert.Equal(t, "no-store", gone.Header().Get("Cache-Control"))
}

func TestTheBlogRunsNoScript(t *testing.T) {
	r := newReader(t)
	r.told("Told", pgtest.Noon)
	for _, path := range []string{"/blog/dome/", "/blog/dome/told", "/blog/dome/none", "/blog/blog.css"} {
		policy := r.ask(path).Header().Get("Content-Security-Policy")
		assert.Contains(t, policy, "default-src 'none'", path)
		assert.NotContains(t, policy, "script-src", path)
		assert.NotContains(t, policy, "unsafe", path)
	}
	font := r.ask("/blog/fonts/literata.woff2")
	assert.Equal(t, "font/woff2", font.Header().Get("Content-Type"))
	assert.Equal(t, 404, r.ask("/blog/fonts/LICENSE").Code)
	assert.Equal(t, 404, r.ask("/blog/fonts/none.woff2").Code)
}
