package page_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/intake/page"
	"dapper.example/internal/reach"
)

const written = `<!doctype html><html><head><title>Tides | The Harbour Board</title><meta name="keywords" content="tides, harbour">
<script>var x = "Not this."</script></head><body><nav><a href="/">Home</a></nav>
<main><article><h1>When the harbour dries</h1><p>The harbour of Brae dries for two hours at each low tide.</p><aside>Buy a boat.</aside>
<p>Boats with two keels may stand on its sand.</p></article></main><footer>All rights kept.</footer></body></html>`

func serve(t *testing.T, answer http.HandlerFunc) string {
	server := httptest.NewServer(answer)
	t.Cleanup(server.Close)
	return server.URL
}

var inside = reach.ParseAllowed("127.0.0.1")

func TestAPageIsReadWithoutWhatStandsAroundIt(t *testing.T) {
	t.Parallel()
	at := serve(t, func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == "/old" {
			http.Redirect(w, r, "/tides", http.StatusMovedPermanently)
			return
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		fmt.Fprint(w, written)
	})
	p, err := page.Fetch(t.Context(), inside, at+"/old")
	require.NoError(t, err)
	assert.Equal(t, at+"/tides", p.Address)
	assert.Equal(t, "When the harbour dries", p.Title)
	assert.Equal(t, []string{"tides", "harbour"}, p.Tags)
	assert.Equal(t, "The harbour of Brae dries for two hours at each low tide.\n\nBoats with two keels may stand on its sand.", p.Text)
}

func TestPagesThatCannotBeRead(t *testing.T) {
	t.Parallel()
	html := func(body string) http.HandlerFunc {
		return func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "text/html")
			fmt.Fprint(w, body)
		}
	}
	for want, answer := range map[string]http.HandlerFunc{
		"It is no web page.": func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "application/pdf")
			fmt.Fprint(w, "%PDF-1.7")
		},
		"It answered 404 Not Found.": http.NotFound,
		"It has more than 2 MB.": func(w http.ResponseWriter, _ *http.Request) {
			w.Header().Set("Content-Type", "text/html")
			for range 50 {
				if _, err := fmt.Fprint(w, strings.Repeat("<p>much</p>", 100_000)); err != nil {
					return
				}
			}
		},
		"It could not be reached.": func(w http.ResponseWriter, r *http.Request) {
			http.Redirect(w, r, "/again"+r.URL.Path, http.StatusFound)
		},
		"Its HTML is nested too deeply.":         html(strings.Repeat("<div>", 5000)),
		"Its HTML has more than 60000 elements.": html(strings.Repeat("<b>x</b>", 40_000)),
	} {
		_, err := page.Fetch(t.Context(), inside, serve(t, answer))
		var failed *page.Failed
		require.ErrorAs(t, err, &failed, want)
		assert.Equal(t, want, failed.Why)
	}
	for address, want := range map[string]string{
		"harbour":                  "Enter an address that begins with https:// or http://.",
		"ftp://harbour.example/":   "Enter an address that begins with https:// or http://.",
		"https://me:pw@x.example/": "Leave the user name and the password out of the address.",
	} {
		_, err := page.Fetch(t.Context(), inside, address)
		assert.EqualError(t, err, want)
	}
	own := serve(t, html(written))
	_, err := page.Fetch(t.Context(), nil, own)
	assert.ErrorContains(t, err, "127.0.0.1", "the program's own network is not reached")
}

// A page without a title is called by its host, and one without text has none: its lines are written by hand.
func TestPagesOfLittle(t *testing.T) {
	t.Parallel()
	at := serve(t, func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "text/html")
	})
	p, err := page.Fetch(t.Context(), inside, at)
	require.NoError(t, err)
	assert.Equal(t, strings.TrimPrefix(at, "http://"), p.Title)
	assert.Empty(t, p.Text)
}
