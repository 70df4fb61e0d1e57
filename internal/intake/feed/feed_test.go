package feed_test

import (
	"fmt"
	"net/http"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/intake"
	"dapper.example/internal/intake/feed"
	"dapper.example/internal/limited"
	"dapper.example/internal/reach"
)

var noon = time.Date(2026, 11, 24, 16, 0, 0, 0, time.UTC)

const (
	rss = `<?xml version="1.0"?><rss version="2.0" xmlns:content="http://purl.org/rss/1.0/modules/content/"><channel><title>Ridge  weather</title>
<item><guid>b</guid><title>Fog</title><link>https://ridge.example/b</link><description>In short</description><content:encoded><![CDATA[<p>Fog in the <b>valley</b></p>]]></content:encoded>
<pubDate>Tue, 24 Nov 2026 10:00:00 +0100</pubDate><category>weather</category><author>vane@ridge.example (The keeper)</author><enclosure url="https://ridge.example/b.jpg" type="image/jpeg" length="1"/></item>
<item><title>Clear</title><link>https://ridge.example/a</link><description>&lt;p&gt;Clear&lt;/p&gt;</description></item>
<item><title>No link and no id</title></item><item></item></channel></rss>`
	atom = `<feed xmlns="http://www.w3.org/2005/Atom"><title>Ridge</title><entry><id>urn:1</id><title>Fog</title><link href="https://ridge.example/b"/><updated>2026-11-24T09:00:00Z</updated>
<author><name>Pell</name></author><content type="html">&lt;p&gt;Fog&lt;/p&gt;</content></entry></feed>`
	jsonFeed = `{"version":"https://jsonfeed.org/version/1.1","title":"Ridge","items":[{"id":"1","url":"https://ridge.example/b","title":"Fog","content_html":"<p>Fog</p>","date_published":"2026-11-24T09:00:00Z","image":"https://ridge.example/b.jpg","tags":["weather"]}]}`
)

func TestFeedsAreRead(t *testing.T) {
	t.Parallel()
	f, err := feed.Read([]byte(rss))
	require.NoError(t, err)
	assert.Equal(t, "Ridge weather", f.Title)
	require.Len(t, f.Lines, 3)
	fog := f.Lines[0]
	assert.Equal(t, intake.Article{Format: intake.HTML, Title: "Fog", Body: "<p>Fog in the <b>valley</b></p>", Excerpt: "In short", Tags: []string{"weather"}, Author: fog.Author, Date: "2026-11-24T09:00:00Z",
		Picture: "https://ridge.example/b.jpg", Link: "https://ridge.example/b"}, fog.Article)
	assert.Contains(t, fog.Author, "keeper")
	assert.Equal(t, []string{"b", "https://ridge.example/a"}, []string{fog.Key, f.Lines[1].Key}, "by the id, else by the link")
	assert.Len(t, f.Lines[2].Key, 16, "else by the title")

	for _, text := range []string{atom, jsonFeed} {
		f, err := feed.Read([]byte(text))
		require.NoError(t, err)
		require.Len(t, f.Lines, 1)
		assert.Equal(t, []string{"Fog", "<p>Fog</p>", "2026-11-24T09:00:00Z", "https://ridge.example/b"}, []string{f.Lines[0].Title, f.Lines[0].Body, f.Lines[0].Date, f.Lines[0].Link})
	}
}

func TestConditionalRequests(t *testing.T) {
	t.Parallel()
	var asked http.Header
	server := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		asked = r.Header
		w.Header().Set("ETag", `"1"`)
		w.Header().Set("Retry-After", "120")
		http.ServeContent(w, r, "", noon, strings.NewReader(rss))
	}))
	defer server.Close()
	client := feed.Client(reach.ParseAllowed("127.0.0.1"))
	first, err := feed.Fetch(t.Context(), client, server.URL, feed.Seen{}, noon)
	require.NoError(t, err)
	assert.Equal(t, feed.Seen{ETag: `"1"`, Modified: "Tue, 24 Nov 2026 16:00:00 GMT"}, first.Seen)
	assert.Equal(t, 2*time.Minute, first.Wait)
	assert.Len(t, first.Lines, 3)
	again, err := feed.Fetch(t.Context(), client, server.URL, first.Seen, noon)
	require.NoError(t, err)
	assert.True(t, again.Unchanged)
	assert.Equal(t, first.Seen, again.Seen)
	assert.Equal(t, []string{`"1"`, "Tue, 24 Nov 2026 16:00:00 GMT"}, []string{asked.Get("If-None-Match"), asked.Get("If-Modified-Since")})
}

func TestHarmfulFeeds(t *testing.T) {
	endless := func(w http.ResponseWriter, r *http.Request) {
		for r.Context().Err() == nil {
			if _, err := w.Write([]byte(strings.Repeat("<rss>", 1000))); err != nil {
				return
			}
		}
	}
	mux := http.NewServeMux()
	mux.HandleFunc("/endless", endless)
	mux.HandleFunc("/500", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Retry-After", noon.Add(time.Hour).Format(http.TimeFormat))
		w.WriteHeader(500)
	})
	mux.HandleFunc("/round", func(w http.ResponseWriter, r *http.Request) { http.Redirect(w, r, "/round", http.StatusFound) })
	mux.HandleFunc("/inside", func(w http.ResponseWriter, r *http.Request) {
		http.Redirect(w, r, "http://127.0.0.2:1/", http.StatusFound)
	})
	mux.HandleFunc("/file", func(w http.ResponseWriter, r *http.Request) {
		http.Redirect(w, r, "file:///etc/passwd", http.StatusFound)
	})
	mux.HandleFunc("/page", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, "<html><p>Not a feed") })
	mux.HandleFunc("/moved", func(w http.ResponseWriter, r *http.Request) {
		http.Redirect(w, r, "/feed", http.StatusMovedPermanently)
	})
	mux.HandleFunc("/feed", func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, atom) })
	server := httptest.NewServer(mux)
	defer server.Close()
	client := feed.Client(reach.ParseAllowed(strings.TrimPrefix(server.URL, "http://")))
	for path, why := range map[string]string{
		"/endless": "It has more than 5 MB.", "/500": "It answered 500 Internal Server Error.", "/round": "It could not be reached.", "/page": "It can't be read as a feed",
		"/inside": "127.0.0.2 is in this server's own network", "/file": "It could not be reached.", "/moved": "",
	} {
		_, err := feed.Fetch(t.Context(), client, server.URL+path, feed.Seen{}, noon)
		if why == "" {
			require.NoError(t, err)
			continue
		}
		var failed *feed.Failed
		if assert.ErrorAs(t, err, &failed, path) {
			assert.Contains(t, failed.Why, why, path)
		}
		if path == "/500" {
			assert.Equal(t, time.Hour, failed.Wait)
		}
	}
	_, err := feed.Fetch(t.Context(), feed.Client(nil), server.URL+"/feed", feed.Seen{}, noon)
	require.ErrorContains(t, err, "own network", "nor at once")

	for name, text := range map[string]string{
		"deep":       "<rss><channel>" + strings.Repeat("<a>", 500_000),
		"deep json":  `{"version":"https://jsonfeed.org/version/1.1","items":` + strings.Repeat("[", 500_000),
		"entities":   `<!DOCTYPE rss [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;&a;&a;">]><rss version="2.0"><channel><item><title>&b;</title></item></channel></rss>`,
		"many items": `<rss version="2.0"><channel>` + strings.Repeat("<item><title>x</title></item>", 150_000) + "</channel></rss>",
		"long title": `<rss version="2.0"><channel><item><guid>1</guid><title>` + strings.Repeat("x", 4<<20) + "</title></item></channel></rss>",
		"cut":        rss[:400],
		"binary":     strings.Repeat("\x00\xff", 100_000),
		"empty":      "",
	} {
		limited.Work(t, 900, func() {
			f, err := feed.Read([]byte(text))
			if err != nil {
				var failed *feed.Failed
				assert.ErrorAs(t, err, &failed, name)
			}
			assert.LessOrEqual(t, len(f.Lines), feed.MaxItems, name)
		})
	}
}
