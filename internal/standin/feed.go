package standin

import (
	"bytes"
	"fmt"
	"net/http"
	"time"

	"github.com/gorilla/feeds"
	"github.com/jonboulle/clockwork"
)

// Ridge is a feed of the weather on a made-up ridge. It grows: every so long there is one more note in it.
type Ridge struct {
	clock clockwork.Clock
	// Every is from one note to the next.
	Every time.Duration
}

// NewRidge returns the feed by a clock.
func NewRidge(clock clockwork.Clock) *Ridge { return &Ridge{clock, 6 * time.Hour} }

// weatherShown is how many notes are in the feed.
const weatherShown = 12

var skies = []string{"Clear after midnight", "High cloud from the west", "Fog in the valley, stars above it", "Snow until four, then nothing", "A gale, and no roof open", "Clear, and cold enough for two hats",
	"Haze, but the planets don't mind", "Rain all night", "A hole in the clouds over Orion"}

// at is the feed as it is at a moment, and when its newest note came.
func (f *Ridge) at(now time.Time, home string) (*feeds.Feed, time.Time) {
	newest := now.Truncate(f.Every).UTC()
	all := &feeds.Feed{Title: "Ridge weather", Link: &feeds.Link{Href: home}, Description: "What the sky over the ridge is going to do", Author: &feeds.Author{Name: "The keeper of the vane"}, Created: newest, Updated: newest}
	for n := range weatherShown {
		when := newest.Add(-time.Duration(n) * f.Every)
		number := when.Unix() / int64(f.Every.Seconds())
		sky := skies[int(number)%len(skies)]
		link := fmt.Sprintf("%s%d", home, number)
		all.Add(&feeds.Item{Id: link, Title: fmt.Sprintf("%s (%s)", sky, when.Format("Mon 2 Jan, 15:04")), Link: &feeds.Link{Href: link}, Created: when,
			Description: sky + ".", Content: fmt.Sprintf("<p>%s.</p><p>The vane points to <b>%d</b> degrees.</p>", sky, number*37%360)})
	}
	return all, newest
}

// Handler serves the feed as RSS, Atom and JSON, with conditional requests (RFC 9110, section 13.1), and a page for each note.
func (f *Ridge) Handler() http.Handler {
	mux := http.NewServeMux()
	for path, write := range map[string]struct {
		kind string
		as   func(*feeds.Feed) (string, error)
	}{
		"/feed.rss": {"application/rss+xml", (*feeds.Feed).ToRss}, "/feed.atom": {"application/atom+xml", (*feeds.Feed).ToAtom}, "/feed.json": {"application/feed+json", (*feeds.Feed).ToJSON},
	} {
		mux.HandleFunc("GET "+path, func(w http.ResponseWriter, r *http.Request) {
			all, newest := f.at(f.clock.Now(), "http://"+r.Host+r.Header.Get("X-Forwarded-Prefix")+"/")
			text, err := write.as(all)
			if err != nil {
				http.Error(w, err.Error(), http.StatusInternalServerError)
				return
			}
			w.Header().Set("Content-Type", write.kind)
			w.Header().Set("ETag", fmt.Sprintf("%q", fmt.Sprint(newest.Unix())))
			http.ServeContent(w, r, "", newest, bytes.NewReader([]byte(text)))
		})
	}
	mux.HandleFunc("GET /{number}", func(w http.ResponseWriter, r *http.Request) {
		fmt.Fprintf(w, "Ridge weather, note %s.\n", r.PathValue("number"))
	})
	return mux
}
