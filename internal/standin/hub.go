package standin

import (
	"net/http"
	"net/url"
	"slices"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/jonboulle/clockwork"
)

// Told is something that a hub was told.
type Told struct {
	At    time.Time
	Topic string // the feed that has changed
}

// Hub is a simulated WebSub hub, which is told of feeds that have changed. Nobody subscribes to it.
type Hub struct {
	clock clockwork.Clock

	mu   sync.Mutex
	told []Told
}

// mostTold bounds what a hub remembers.
const mostTold = 200

// NewHub returns a hub that has been told nothing yet.
func NewHub(clock clockwork.Clock) *Hub { return &Hub{clock: clock} }

// Told lists what it was told, the latest first.
func (h *Hub) Told() []Told {
	h.mu.Lock()
	defer h.mu.Unlock()
	return slices.Clone(h.told)
}

// Handler takes news at /, and shows them there.
func (h *Hub) Handler() http.Handler {
	r := chi.NewRouter()
	r.Post("/", h.take)
	r.Get("/", func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Content-Security-Policy", policy)
		templates.ExecuteTemplate(w, "hub.html", map[string]any{"Home": home(r, "/") + "/", "Told": h.Told()})
	})
	return r
}

func (h *Hub) take(w http.ResponseWriter, r *http.Request) {
	r.Body = http.MaxBytesReader(w, r.Body, 64<<10)
	topic, err := url.Parse(r.PostFormValue("hub.url"))
	if r.PostFormValue("hub.mode") != "publish" || err != nil || topic.Host == "" {
		http.Error(w, "Say hub.mode=publish, and hub.url.", http.StatusBadRequest)
		return
	}
	h.mu.Lock()
	h.told = append([]Told{{h.clock.Now(), topic.String()}}, h.told[:min(len(h.told), mostTold-1)]...)
	h.mu.Unlock()
	w.WriteHeader(http.StatusNoContent)
}
