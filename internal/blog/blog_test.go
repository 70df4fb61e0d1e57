package blog_test

import (
	"context"
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/blog"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

type reader struct {
	t     *testing.T
	world pgtest.World
	desk  act.Desk
	pages chi.Router
	asked *askers
}

// askers are whom mails would ask to confirm.
type askers []int64

func (a *askers) AskSubscriber(_ context.Context, _ *store.Tx, subscriber int64) error {
	*a = append(*a, subscriber)
	return nil
}

func newReader(t *testing.T) reader {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	r := reader{t, w, act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}, chi.NewRouter(), &askers{}}
	r.pages.Route("/blog", blog.New(blog.Config{
		Store: w.Store, Renderer: blog.NewRenderer(), Now: func() time.Time { return pgtest.Noon }, Log: pgtest.Quiet(), Public: "https://dome.example",
		From: func(r *http.Request) string { return r.RemoteAddr }, Asker: r.asked}).Routes)
	return r
}

func (r reader) get(path string) (int, string) {
	r.t.Helper()
	answer := httptest.NewRecorder()
	r.pages.ServeHTTP(answer, httptest.NewRequest("GET", path, nil))
	return answer.Code, answer.Body.String()
}

func (r reader) publish(title string, at time.Time) store.Post {
	r.t.Helper()
	p := r.world.Draft(r.t, title)
	require.NoError(r.t, status.PublishNow(r.t.Context(), r.desk, p.ID, p.Version, at))
	return r.world.Reload(r.t, p.ID)
}

func TestReadersSeeOnlyWhatIsOut(t *testing.T) {
	r := newReader(t)
	r.publish("Out & about <now>", pgtest.Noon)
	r.world.Draft(t, "Hidden draft")
	hidden := r.world.Scheduled(t, "Hidden plan", pgtest.Noon.Add(time.Hour))

	code, front := r.get("/blog/dome/")
	assert.Equal(t, 200, code)
	assert.Contains(t, front, "Out &amp; about &lt;now&gt;")
	assert.NotContains(t, front, "Hidden")
	code, page := r.get("/blog/dome/out-and-about-now")
	assert.Equal(t, 200, code)
	assert.Contains(t, page, "<p>Some text.</p>")
	assert.Contains(t, page, `datetime="2026-11-24T12:00:00-04:00"`)

	code, body := r.get("/blog/dome/" + hidden.Slug)
	assert.Equal(t, 404, code)
	assert.NotContains(t, body, "Hidden")
	_, never := r.get("/blog/dome/never-was")
	assert.Equal(t, never, body, "a scheduled post is as absent as one that never was")
	code, _ = r.get("/blog/nowhere/")
	assert.Equal(t, 404, code)
}

func TestFrontPageTurns(t *testing.T) {
	r := newReader(t)
	code, front := r.get("/blog/dome/")
	assert.Equal(t, 200, code)
	assert.Contains(t, front, "Nothing has been published here yet.")
	for i := range 15 {
		r.publish(fmt.Sprintf("Post %02d", i), pgtest.Noon.Add(time.Duration(i)*time.Minute))
	}
	_, front = r.get("/blog/dome/")
	assert.Less(t, strings.Index(front, "Post 14"), strings.Index(front, "Post 03"), "latest first")
	assert.NotContains(t, front, "Post 02")
	assert.Contains(t, front, "?page=2")
	_, second := r.get("/blog/dome/?page=2")
	assert.Contains(t, second, "Post 02")
	for _, page := range []string{"3", "0", "-1", "x", "999999999999999999999"} {
		code, _ = r.get("/blog/dome/?page=" + page)
		assert.Equal(t, 404, code, page)
	}
}

func htmlOf(t *testing.T, r *blog.Renderer, markdown string) string {
	laid, err := r.Lay(t.Context(), markdown)
	require.NoError(t, err)
	return string(laid.HTML)
}

func removedOf(t *testing.T, r *blog.Renderer, markdown string) []string {
	laid, err := r.Lay(t.Context(), markdown)
	require.NoError(t, err)
	return laid.Removed
}

func TestRendererKeepsWhatIsHarmless(t *testing.T) {
	r := blog.NewRenderer()
	for markdown, want := range map[string]string{
		"**bold** and ~~gone~~":             "<p><strong>bold</strong> and <del>gone</del></p>\n",
		"| a |\n|---|\n| b |":               "<td>b</td>",
		"<figure>x</figure>":                "<figure>x</figure>",
		"[a](https://example.org)":          `<a href="https://example.org">a</a>`,
		"a <script>alert(1)</script> b":     "<p>a  b</p>\n",
		"<iframe src='x'></iframe>":         "",
		"[x](javascript:alert(1))":          "<p>x</p>\n",
		"<img src=x onerror=alert(1)>":      `<img src="x" loading="lazy">`,
		"<a href='data:text/html,x'>y</a>":  "<p>y</p>\n",
		"<style>body{display:none}</style>": "",
	} {
		assert.Contains(t, htmlOf(t, r, markdown), want, markdown)
		if want == "" {
			assert.Empty(t, strings.TrimSpace(htmlOf(t, r, markdown)), markdown)
		}
	}
	assert.Empty(t, removedOf(t, r, "Plain *text* with `<script>` in code"))
	assert.Equal(t, []string{"<iframe>", "<script>", "onerror on <img>"},
		removedOf(t, r, "<img src=x onerror=y> <script>a</script> <iframe src=x></iframe> <script>b</script>"))
}
