package standin

import (
	"embed"
	"fmt"
	"html/template"
	"net/http"
	"os"
	"regexp"
	"strings"

	"github.com/go-chi/chi/v5"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/message"
)

//go:embed pages/wall.html pages/receiver.html pages/site.html pages/site-signin.html pages/site-post.html pages/hub.html pages/mailbox.html pages/signin.html pages/index.html
var pages embed.FS

var templates = template.Must(template.New("").ParseFS(pages, "pages/wall.html", "pages/receiver.html", "pages/site.html", "pages/site-signin.html", "pages/site-post.html", "pages/hub.html", "pages/signin.html", "pages/index.html"))

const shownOnWall = 200

// policy keeps pages of stand-ins from loading anything from elsewhere.
const policy = "default-src 'none'; style-src 'unsafe-inline'; img-src 'self'"

func (n *Network) show(w http.ResponseWriter, page string, data any) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", policy)
	templates.ExecuteTemplate(w, page, data)
}

// entry is a message as a wall shows it, with what goes under it.
type entry struct {
	Message
	HTML    template.HTML
	Shown   []picture
	Replies []entry
}

type picture struct{ URL, Alt string }

func (n *Network) entryOf(r *http.Request, m Message) entry {
	e := entry{Message: m, HTML: n.links(m.Text)}
	for i, name := range m.Pictures {
		alt := ""
		if i < len(m.Alts) {
			alt = m.Alts[i]
		}
		e.Shown = append(e.Shown, picture{home(r, "/") + "/pictures/" + name, alt})
	}
	return e
}

// serveWall shows the messages, the latest first, each with the replies to it.
func (n *Network) serveWall(w http.ResponseWriter, r *http.Request) {
	messages := n.Messages()
	replies := make(map[string][]entry)
	var latest []entry
	for i := len(messages) - 1; i >= 0; i-- {
		m := messages[i]
		if m.InReplyTo != "" {
			replies[m.InReplyTo] = append([]entry{n.entryOf(r, m)}, replies[m.InReplyTo]...)
			continue
		}
		if len(latest) == shownOnWall {
			continue
		}
		e := n.entryOf(r, m)
		e.Replies = replies[m.ID]
		latest = append(latest, e)
	}
	n.show(w, "wall.html", map[string]any{"Name": n.network.Name(), "Kind": n.network.Kind(), "Messages": latest,
		"Weather": n.Weather(), "Weathers": Weathers, "Home": home(r, "/") + "/", "Crop": n.network.Crop()})
}

var pictureNames = regexp.MustCompile(`^[0-9a-f]{12}-[0-9]+$`)

func (n *Network) servePicture(w http.ResponseWriter, r *http.Request) {
	name := chi.URLParam(r, "name")
	if !pictureNames.MatchString(name) {
		http.NotFound(w, r)
		return
	}
	n.mu.Lock()
	data, have := n.pictures[name]
	n.mu.Unlock()
	if !have && n.dir != "" {
		var err error
		data, err = os.ReadFile(n.kept("picture-" + name))
		have = err == nil
	}
	kind := http.DetectContentType(data)
	if !have || !strings.HasPrefix(kind, "image/") {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", kind)
	w.Header().Set("X-Content-Type-Options", "nosniff")
	w.Write(data)
}

// links turns the links of a text into anchors, and its hashtags into marked words.
func (n *Network) links(text string) template.HTML { return linked(n.network.Limits().Links, text) }

func linked(l message.Links, text string) template.HTML {
	var out strings.Builder
	from := 0
	for _, link := range l.Find(text) {
		hashtags(&out, text[from:link.From])
		safe := template.HTMLEscapeString(text[link.From:link.To])
		fmt.Fprintf(&out, `<a href="%s" rel="noreferrer">%s</a>`, safe, safe)
		from = link.To
	}
	hashtags(&out, text[from:])
	return template.HTML(out.String())
}

// hashtags writes a text without links, its lines broken and its hashtags marked.
func hashtags(out *strings.Builder, text string) {
	for i, line := range strings.Split(text, "\n") {
		if i > 0 {
			out.WriteString("<br>")
		}
		for j, word := range strings.Split(line, " ") {
			if j > 0 {
				out.WriteByte(' ')
			}
			safe := template.HTMLEscapeString(word)
			if strings.HasPrefix(word, "#") {
				safe = "<b>" + safe + "</b>"
			}
			out.WriteString(safe)
		}
	}
}

// Handler serves networks, each below its kind, a mailbox below /mail, and a page that leads to
// them.
func Handler(networks []*Network, box *Mailbox) http.Handler {
	mux := http.NewServeMux()
	below := func(path string, handler http.Handler) {
		mux.Handle(path+"/", http.StripPrefix(path, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			r.Header.Set("X-Forwarded-Prefix", path)
			handler.ServeHTTP(w, r)
		})))
	}
	for _, n := range networks {
		below("/"+n.network.Kind(), n.Handler())
		below("/"+n.network.Kind()+"/"+channel.Practice, n.practice().Handler())
	}
	if len(networks) > 0 {
		below("/notes", NewSite(networks[0].clock).Handler())
		below("/weather", NewRidge(networks[0].clock).Handler())
		below("/hooks", NewReceiver(networks[0].clock).Handler())
		below("/hub", NewHub(networks[0].clock).Handler())
	}
	if box != nil {
		below("/mail", box.Handler())
	}
	mux.Handle("/{$}", index(networks))
	return mux
}

// practice is a wall of the same network that is kept nowhere, on which anybody may try a message.
func (n *Network) practice() *Network {
	p, _ := New(n.network.Kind(), "", n.clock) // the kind is known
	p.Admit(channel.Practice, channel.Practice)
	return p
}

// index is the page that leads to the networks.
func index(networks []*Network) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		type line struct {
			Path, Name string
			Weather    Weather
			N          int
		}
		var lines []line
		for _, n := range networks {
			lines = append(lines, line{"/" + n.network.Kind(), n.network.Name(), n.Weather(), len(n.Messages())})
		}
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		w.Header().Set("Content-Security-Policy", policy)
		templates.ExecuteTemplate(w, "index.html", lines)
	})
}
