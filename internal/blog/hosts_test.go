package blog_test

import (
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/blog"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// atHosts are the pages of blogs, each at its own host, and what else there is.
func (r reader) atHosts() http.Handler {
	b := blog.New(blog.Config{Store: r.world.Store, Renderer: blog.NewRenderer(), Now: func() time.Time { return pgtest.Noon }, Log: pgtest.Quiet(),
		Public: "https://dome.example"})
	follow := func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("followed")) }
	return b.OwnHosts(follow)(http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) { _, _ = w.Write([]byte("the program")) }))
}

func ask(h http.Handler, address string) *httptest.ResponseRecorder {
	answer := httptest.NewRecorder()
	h.ServeHTTP(answer, httptest.NewRequest("GET", address, nil))
	return answer
}

// change changes the blog as its owners do.
func (r reader) change(change func(*store.Site)) {
	r.t.Helper()
	require.NoError(r.t, r.world.InTx(r.t.Context(), func(tx *store.Tx) error {
		site, err := tx.Site(r.t.Context(), r.world.Site.ID)
		if err != nil {
			return err
		}
		change(&site)
		if err := tx.SaveSite(r.t.Context(), site); err != nil {
			return err
		}
		return tx.SaveAppearance(r.t.Context(), site.ID, site.Appearance)
	}))
}

func TestABlogOnAHostOfItsOwn(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	second := r.publish("Another post", pgtest.Noon.Add(-2*time.Hour))
	r.world.Rewrite(t, second.ID, "Another post", "See [it](/blog/dome/a-post), ![a](/blog/dome/pictures/0123456789abcdef-1200x800.jpg) and [them](/blog/lanes/).")
	r.change(func(s *store.Site) { s.Host = "notes.example" })
	h := r.atHosts()

	front := ask(h, "http://notes.example/")
	assert.Equal(t, 200, front.Code)
	assert.Contains(t, front.Body.String(), `<a href="/a-post">`)
	assert.Contains(t, front.Body.String(), `<link rel="canonical" href="https://notes.example/">`)
	assert.NotContains(t, strings.ReplaceAll(front.Body.String(), "/blog/blog.css", ""), "/blog/")
	assert.NotEmpty(t, front.Header().Get("Content-Security-Policy"))

	page := ask(h, "http://NOTES.example:8080/another-post").Body.String()
	assert.Contains(t, page, `See <a href="/a-post">it</a>`)
	assert.Contains(t, page, `src="/pictures/0123456789abcdef-1200x800.jpg"`)
	assert.Contains(t, page, `srcset="/pictures/`)
	assert.NotContains(t, page, `"/blog/dome/`)

	feed := ask(h, "http://notes.example/feed.atom").Body.String()
	assert.Contains(t, feed, `href="https://notes.example/a-post"`)
	assert.Contains(t, feed, `https://notes.example/pictures/`)
	assert.Contains(t, feed, `https://dome.example/blog/lanes/`)
	assert.NotContains(t, feed, `dome.example/blog/dome`)
	assert.Contains(t, ask(h, "http://notes.example/sitemap.xml").Body.String(), "<loc>https://notes.example/a-post</loc>")

	for address, to := range map[string]string{
		"http://notes.example/blog/dome/a-post?x=1": "https://notes.example/a-post?x=1",
		"http://notes.example/blog/lanes/":          "https://dome.example/blog/lanes/",
	} {
		answer := ask(h, address)
		assert.Equal(t, 301, answer.Code, address)
		assert.Equal(t, to, answer.Header().Get("Location"), address)
	}
	assert.Equal(t, 200, ask(h, "http://notes.example/blog/blog.css").Code)
	assert.Equal(t, 200, ask(h, "http://notes.example/look.css").Code)
	assert.Equal(t, "followed", ask(h, "http://notes.example/s/abc").Body.String())
	for _, none := range []string{"/sign-in", "/api/v1/session", "/dome/settings", "/metrics"} {
		answer := ask(h, "http://notes.example"+none)
		assert.Equal(t, 404, answer.Code, none)
		assert.NotContains(t, answer.Body.String(), "the program", none)
	}
	for _, program := range []string{"dome.example", "localhost:8080", "127.0.0.1:8080", "[::1]:8080", "other.example", "", "notes.example.evil.example"} {
		assert.Equal(t, "the program", ask(h, "http://"+program+"/").Body.String(), program)
	}

	// Below the program's host it is read as before; search engines are told of its own.
	_, old := r.get("/blog/dome/another-post")
	assert.Contains(t, old, `<link rel="canonical" href="https://notes.example/another-post">`)
	assert.Contains(t, old, `See <a href="/blog/dome/a-post">it</a>`)
}

func TestAPageInFront(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	page := r.world.Page(t, "Welcome")
	r.change(func(s *store.Site) { s.FrontPage = &page.ID })
	_, front := r.get("/blog/dome/")
	assert.Contains(t, front, "A post", "while the page is a draft, the latest posts are in front")
	assert.NotContains(t, front, "All posts")
	assert.Equal(t, "/blog/dome/", r.leads("/blog/dome/archive/latest"))

	_, err := r.world.DB().Exec(`update posts set status = 'published', slug = 'welcome', published_at = $2, first_published_at = $2 where id = $1`, page.ID, pgtest.Noon)
	require.NoError(t, err)
	_, front = r.get("/blog/dome/")
	assert.Contains(t, front, "<h1>Welcome</h1>")
	assert.Contains(t, front, "<title>Notes from dome</title>")
	assert.Contains(t, front, `<a href="/blog/dome/archive/latest">All posts</a>`)
	assert.Contains(t, front, `<link rel="canonical" href="https://dome.example/blog/dome/">`)
	assert.NotContains(t, front, "A post")
	assert.Equal(t, "/blog/dome/", r.leads("/blog/dome/welcome"))
	code, latest := r.get("/blog/dome/archive/latest")
	assert.Equal(t, 200, code)
	assert.Contains(t, latest, "A post")
	_, feed := r.get("/blog/dome/feed.atom")
	assert.Contains(t, feed, "A post")
}

func TestTheMenuThatWasChosen(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	about, hidden := r.world.Page(t, "About"), r.world.Page(t, "Hidden")
	_, err := r.world.DB().Exec(`update posts set status = 'published', slug = 'about', published_at = $2, first_published_at = $2 where id = $1`, about.ID, pgtest.Noon)
	require.NoError(t, err)
	menu := func() string {
		_, page := r.get("/blog/dome/about")
		from := strings.Index(page, `<nav aria-label="The blog">`)
		if from < 0 {
			return ""
		}
		return page[from : from+strings.Index(page[from:], "</nav>")]
	}
	whole := menu()
	assert.Less(t, strings.Index(whole, "Sky Guide"), strings.Index(whole, `<a href="/blog/dome/about" aria-current="page">About</a>`))
	assert.NotContains(t, whole, "Hidden")
	chosen := func(m store.Menu) string {
		r.change(func(s *store.Site) { s.Menu = m })
		return menu()
	}
	two := chosen(store.Menu{{Kind: store.MenuPage, ID: about.ID}, {Kind: store.MenuPage, ID: hidden.ID}, {Kind: store.MenuCategory, ID: r.world.Category}})
	assert.Less(t, strings.Index(two, "About"), strings.Index(two, "Sky Guide"))
	assert.NotContains(t, two, "Hidden", "a draft is not led to")
	assert.Empty(t, chosen(store.Menu{}))
	assert.Equal(t, whole, chosen(nil))
	assert.NotContains(t, chosen(store.Menu{{Kind: store.MenuCategory, ID: about.ID}}), "About", "an id of another kind")
}

func TestTheLookThatWasChosen(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	logo, icon := r.world.Picture(t, "logo"), r.world.Picture(t, "icon")
	r.change(func(s *store.Site) {
		s.Look, s.Accent, s.Logo, s.Icon, s.DateStyle, s.Language = "broadside", "#7a2a5e", &logo.ID, &icon.ID, "full", "de"
	})
	_, page := r.get("/blog/dome/a-post")
	assert.Contains(t, page, `href="/blog/dome/look.css?accent=7a2a5e&amp;look=broadside"`)
	assert.Contains(t, page, `<img class="logo" src="/blog/dome/pictures/`+logo.Key)
	assert.Contains(t, page, `alt="Notes from dome"`)
	assert.Contains(t, page, `<link rel="icon" href="/blog/dome/pictures/`+icon.Key)
	assert.Contains(t, page, "Dienstag, 24. November 2026")
	_, style := r.get("/blog/dome/look.css")
	assert.Contains(t, style, "--link:#7a2a5e")
	assert.Contains(t, style, "Bodoni Moda")
	_, other := r.get("/blog/dome/look.css?look=plain&accent=ffff00")
	assert.NotContains(t, other, "ffff00;", "it would be too hard to read by day")
	assert.Contains(t, other, "Instrument Sans")
	code, _ := r.get("/blog/dome/look.css?look=../../etc/passwd")
	assert.Equal(t, 404, code)
	_, odd := r.get("/blog/dome/look.css?accent=%3B%7D*%7Bdisplay:none")
	assert.NotContains(t, odd, "display:none")
}
