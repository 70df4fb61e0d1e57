package blog_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/comments"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// commenting opens the blog for comments.
func (r reader) commenting(c store.Commenting) {
	r.t.Helper()
	require.NoError(r.t, r.world.InTx(r.t.Context(), func(tx *store.Tx) error { return tx.SaveCommenting(r.t.Context(), r.world.Site.ID, c) }))
}

// send sends a form from a place, with a cookie where one is given.
func (r reader) send(path, from string, cookie *http.Cookie, form url.Values) *httptest.ResponseRecorder {
	ask := httptest.NewRequest("POST", path, strings.NewReader(form.Encode()))
	ask.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	ask.RemoteAddr = from
	if cookie != nil {
		ask.AddCookie(cookie)
	}
	answer := httptest.NewRecorder()
	r.pages.ServeHTTP(answer, ask)
	return answer
}

func (r reader) counts() map[comment.Status]int {
	r.t.Helper()
	counts, err := r.world.CountComments(r.t.Context(), r.world.Site.ID)
	require.NoError(r.t, err)
	return counts
}

var open = store.Commenting{Open: true, Hold: comment.HoldUnknown, Links: 2}

func form(name, text string) url.Values { return url.Values{"name": {name}, "text": {text}} }

func TestACommentWaitsIsApprovedAndIsSeen(t *testing.T) {
	r := newReader(t)
	post := r.publish("A post", pgtest.Noon.Add(-time.Hour))
	r.commenting(open)
	_, page := r.get("/blog/dome/a-post")
	assert.Contains(t, page, `<form id="comment" method="post" action="/blog/dome/a-post/comments#comment">`)

	answer := r.send("/blog/dome/a-post/comments", "192.0.2.1", nil, form(" Tam  Okonedo", "Lovely <b>night</b>.\n\nSee https://a.example/?x=1&y=2."))
	require.Equal(t, 303, answer.Code)
	assert.Equal(t, "/blog/dome/a-post?comment=held#comments", answer.Header().Get("Location"))
	require.Len(t, answer.Result().Cookies(), 1)
	cookie := answer.Result().Cookies()[0]
	assert.True(t, cookie.HttpOnly)
	assert.True(t, cookie.Secure)
	assert.Equal(t, "/blog/dome/", cookie.Path)
	_, page = r.get("/blog/dome/a-post?comment=held")
	assert.Contains(t, page, "once it has been approved")
	assert.NotContains(t, page, "Tam Okonedo")

	waiting, err := r.world.Comments(t.Context(), r.world.Site.ID, store.CommentFilter{Status: comment.Held}, 10)
	require.NoError(t, err)
	require.Len(t, waiting, 1)
	assert.NotContains(t, string(waiting[0].Reader), cookie.Value, "the secret itself is not kept")
	n, err := comments.Decide(t.Context(), r.desk, []int64{waiting[0].ID}, comment.Shown, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	_, page = r.get("/blog/dome/a-post")
	assert.Contains(t, page, "Tam Okonedo")
	assert.Contains(t, page, `<p dir="auto">Lovely &lt;b&gt;night&lt;/b&gt;.</p><p dir="auto">See <a rel="nofollow ugc noopener" href="https://a.example/?x=1&amp;y=2">`)
	assert.Contains(t, page, ">1 comment</h2>")
	_, front := r.get("/blog/dome/")
	assert.Contains(t, front, `<a href="/blog/dome/a-post#comments">1 comment</a>`)
	for _, feed := range []string{"/blog/dome/comments.atom", "/blog/dome/a-post/comments.atom"} {
		code, atom := r.get(feed)
		assert.Equal(t, 200, code)
		assert.Contains(t, atom, "<name>Tam Okonedo</name>", feed)
		assert.Contains(t, atom, fmt.Sprintf(`href="https://dome.example/blog/dome/a-post#comment-%d"`, waiting[0].ID))
		assert.Contains(t, atom, "tag:dome.example,2026-11-24:dome/comment/")
	}

	// Who has been approved once is seen at once, from whichever place; another browser waits.
	answer = r.send("/blog/dome/a-post/comments", "192.0.2.2", cookie, form("Tam", "Again."))
	assert.Contains(t, answer.Header().Get("Location"), "#comment-")
	r.send("/blog/dome/a-post/comments", "192.0.2.2", nil, form("Tam", "Somebody else."))
	assert.Equal(t, map[comment.Status]int{comment.Shown: 2, comment.Held: 1}, r.counts())

	// An answer stands below what it answers.
	_, err = comments.Answer(t.Context(), r.desk, r.world.Editor, waiting[0].ID, "Thank you.", pgtest.Noon)
	require.NoError(t, err)
	_, page = r.get("/blog/dome/a-post")
	assert.Regexp(t, `(?s)Lovely.*<ol>\n<li.*Ines Abara</strong> <span>for the blog</span>.*Thank you\..*Again\.`, page)
	assert.Contains(t, page, ">3 comments</h2>")
	shown, err := r.world.CommentsShown(t.Context(), []int64{post.ID})
	require.NoError(t, err)
	assert.Equal(t, map[int64]int{post.ID: 3}, shown)
}

func TestWhereNoCommentsAreTaken(t *testing.T) {
	r := newReader(t)
	post := r.publish("A post", pgtest.Noon.Add(-8*24*time.Hour))
	r.world.Scheduled(t, "To come", pgtest.Noon.Add(time.Hour))
	send := func() int {
		return r.send("/blog/dome/a-post/comments", "192.0.2.1", nil, form("Tam", "Hello.")).Code
	}
	_, page := r.get("/blog/dome/a-post")
	assert.NotContains(t, page, "omment", "where there never were any, nothing is said of them")
	assert.Equal(t, 403, send(), "the blog takes none")
	r.commenting(store.Commenting{Open: true, Days: 7, Hold: comment.HoldAll})
	assert.Equal(t, 403, send(), "too late")
	r.commenting(store.Commenting{Open: true, Days: 9, Hold: comment.HoldAll})
	assert.Equal(t, 303, send())
	_, err := comments.Decide(t.Context(), r.desk, []int64{1}, comment.Shown, pgtest.Noon)
	require.NoError(t, err)
	_, err = r.world.DB().Exec(`update posts set comments_open = false where id = $1`, post.ID)
	require.NoError(t, err)
	assert.Equal(t, 403, send(), "the post takes none")
	_, page = r.get("/blog/dome/a-post")
	assert.Contains(t, page, "Comments on this post are closed.")
	assert.Contains(t, page, "Hello.", "those there are stay")
	aboutPage := r.world.Page(t, "About")
	_, err = r.world.DB().Exec(`update posts set status = 'published', slug = 'about', published_at = $2, first_published_at = $2 where id = $1`, aboutPage.ID, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 403, r.send("/blog/dome/about/comments", "192.0.2.1", nil, form("Tam", "Hello.")).Code, "pages take none")
	_, about := r.get("/blog/dome/about")
	assert.NotContains(t, about, "<form id=\"comment\"")
	for _, path := range []string{"/blog/dome/to-come/comments", "/blog/dome/never-was/comments", "/blog/nowhere/a-post/comments"} {
		assert.Equal(t, 404, r.send(path, "192.0.2.1", nil, form("Tam", "Hello.")).Code, path)
	}
}

func TestBadComments(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	r.commenting(open)
	place := 0
	send := func(f url.Values) (int, string) {
		place++
		answer := r.send("/blog/dome/a-post/comments", fmt.Sprintf("198.51.100.%d", place), nil, f)
		return answer.Code, answer.Body.String()
	}
	for name, c := range map[string]struct {
		form url.Values
		code int
		says string
	}{
		"nothing":        {url.Values{}, 422, "Enter the name"},
		"a megabyte":     {form("Tam", strings.Repeat("x", 1<<20)), 413, "far longer than a comment may be"},
		"200 links":      {form("Tam", strings.Repeat("http://a.b ", 200)), 422, "2 links at most"},
		"a long comment": {form("Tam", strings.Repeat("x", 5001)), 422, "longer than 5000"},
		"a long name":    {form(strings.Repeat("x", 81), "Hello."), 422, "longer than 80"},
		"a script":       {form("<script>alert(1)</script>", ""), 422, "Write something"},
	} {
		code, page := send(c.form)
		assert.Equal(t, c.code, code, name)
		assert.Contains(t, page, c.says, name)
		assert.NotContains(t, page, "<script>alert", name)
		assert.Contains(t, page, "A post", "the post is there, too")
	}
	_, page := send(form("Tam", "Two\nlines "+strings.Repeat("www.x ", 3)))
	assert.Contains(t, page, "Two\nlines www.x", "what was written is still there")
	assert.Contains(t, page, `value="Tam"`)
	assert.Empty(t, r.counts())

	trapped := form("Tam", "Buy this.")
	trapped.Set("website", "http://spam.example")
	code, _ := send(trapped)
	assert.Equal(t, 303, code, "a program is not told")
	assert.Empty(t, r.counts())

	foreign := httptest.NewRequest("POST", "https://dome.example/blog/dome/a-post/comments", strings.NewReader(form("Tam", "Hello.").Encode()))
	foreign.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	foreign.Header.Set("Sec-Fetch-Site", "cross-site")
	answer := httptest.NewRecorder()
	r.pages.ServeHTTP(answer, foreign)
	assert.Equal(t, 403, answer.Code)
	assert.Empty(t, r.counts())
}

func TestCommentsSlowDown(t *testing.T) {
	r := newReader(t)
	r.publish("A post", pgtest.Noon.Add(-time.Hour))
	r.commenting(open)
	codes := map[int]int{}
	for range 50 {
		codes[r.send("/blog/dome/a-post/comments", "192.0.2.1", nil, form("Tam", "Hello.")).Code]++
	}
	assert.Equal(t, map[int]int{303: 5, 429: 45}, codes, "from one place")
	answer := r.send("/blog/dome/a-post/comments", "192.0.2.1", nil, form("Tam", "Hello again."))
	assert.Equal(t, "120", answer.Header().Get("Retry-After"))
	assert.Contains(t, answer.Body.String(), "again in 2 minutes")
	assert.Contains(t, answer.Body.String(), "Hello again.</textarea>")
	for range 5 {
		r.send("/blog/dome/a-post/comments", "2001:db8:1:2::1", nil, form("Tam", "Hello."))
	}
	assert.Equal(t, 429, r.send("/blog/dome/a-post/comments", "2001:db8:1:2:ffff::9", nil, form("Tam", "Hello.")).Code, "one line has many addresses")
	assert.Equal(t, 303, r.send("/blog/dome/a-post/comments", "2001:db8:1:3::1", nil, form("Tam", "Hello.")).Code)

	codes = map[int]int{}
	for i := range 100 {
		codes[r.send("/blog/dome/a-post/comments", fmt.Sprintf("198.51.100.%d", i), nil, form("Tam", "Hello.")).Code]++
	}
	assert.Equal(t, map[int]int{303: 49, 429: 51}, codes, "on one blog from all places: 60 in ten minutes")
	var keys []string
	require.NoError(t, r.world.DB().Select(&keys, `select key from tries`))
	for _, key := range keys {
		assert.NotRegexp(t, `192\.0\.2|198\.51|2001:`, key, "no address is kept in the clear")
	}
}

func TestManyCommentsAreTurned(t *testing.T) {
	r := newReader(t)
	post := r.publish("A post", pgtest.Noon.Add(-time.Hour))
	r.commenting(open)
	for i := range 205 {
		_, err := r.world.InsertComment(t.Context(), store.Comment{SiteID: r.world.Site.ID, Post: post.ID, Name: "Tam", Text: fmt.Sprintf("Number %d.", i), Status: comment.Shown, At: pgtest.Noon})
		require.NoError(t, err)
	}
	_, page := r.get("/blog/dome/a-post")
	assert.Contains(t, page, "Number 5.")
	assert.NotContains(t, page, "Number 4.")
	assert.Less(t, strings.Index(page, "Number 5."), strings.Index(page, "Number 204."))
	assert.Contains(t, page, `<a href="/blog/dome/a-post?before=6#comments">Earlier comments</a>`)
	_, page = r.get("/blog/dome/a-post?before=6")
	assert.Contains(t, page, "Number 4.")
	assert.NotContains(t, page, "Number 5.")
	assert.NotContains(t, page, "Earlier comments")
	code, _ := r.get("/blog/dome/a-post?before=x")
	assert.Equal(t, 200, code)
}
