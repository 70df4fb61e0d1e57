package standin

import (
	"cmp"
	"encoding/json"
	"html/template"
	"io"
	"net/http"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/microcosm-cc/bluemonday"

	"dapper.example/internal/core/address"
)

// Post is a post on a site of somebody's own, as it was handed over.
type Post struct {
	UID, Slug, Title string
	HTML             string
	Summary          string
	Categories       []string
	Published        string // as it was said (RFC 3339)
	Photo, Alt       string
	Deleted          bool
	Changes          int // after it was added

	key string
}

// sitePicture is a picture that was handed over.
type sitePicture struct {
	kind string
	data []byte
}

// mostPosts bounds what a stand-in keeps.
const mostPosts = 2000

// Posts lists the posts, those that were deleted too, the latest added first.
func (s *Site) Posts() []Post {
	s.mu.Lock()
	defer s.mu.Unlock()
	return slices.Clone(s.posts)
}

// Pictures counts the pictures that were handed over.
func (s *Site) Pictures() int {
	s.mu.Lock()
	defer s.mu.Unlock()
	return len(s.pictures)
}

// handed is what is posted as JSON (Micropub, sections 3.3.2, 3.4 and 3.5).
type handed struct {
	Type       []string                     `json:"type"`
	Properties map[string][]json.RawMessage `json:"properties"`
	Action     string                       `json:"action"`
	URL        string                       `json:"url"`
	Replace    map[string][]json.RawMessage `json:"replace"`
	Delete     []string                     `json:"delete"`
}

// text is the first value of a property: a string, or what a part of an object says.
func text(values []json.RawMessage, part string) string {
	if len(values) == 0 {
		return ""
	}
	var plain string
	if json.Unmarshal(values[0], &plain) == nil {
		return plain
	}
	var object map[string]string
	_ = json.Unmarshal(values[0], &object)
	return object[part]
}

// set has a post say what properties say.
func (p *Post) set(of map[string][]json.RawMessage) {
	for name, values := range of {
		switch name {
		case "name":
			p.Title = text(values, "value")
		case "content":
			p.HTML = text(values, "html")
		case "summary":
			p.Summary = text(values, "value")
		case "published":
			p.Published = text(values, "value")
		case "photo":
			p.Photo, p.Alt = text(values, "value"), text(values, "alt")
		case "category":
			p.Categories = nil
			for _, v := range values {
				p.Categories = append(p.Categories, text([]json.RawMessage{v}, "value"))
			}
		}
	}
}

// takePost adds, changes, deletes and brings back posts.
func (s *Site) takePost(w http.ResponseWriter, r *http.Request) {
	var h handed
	if err := json.NewDecoder(r.Body).Decode(&h); err != nil {
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_request", "error_description": "That is no JSON."})
		return
	}
	code, at, why := s.do(h, r)
	if s.After != nil && s.After(w, r) {
		return
	}
	if why != "" {
		answer(w, code, map[string]string{"error": "invalid_request", "error_description": why})
		return
	}
	if at != "" {
		w.Header().Set("Location", at)
	}
	w.WriteHeader(code)
}

func (s *Site) do(h handed, r *http.Request) (code int, at, why string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	base := home(r, "/notes") + "/posts/"
	if h.Action == "" {
		return s.add(h, strings.Trim(r.Header.Get("Idempotency-Key"), `"`), base)
	}
	n := slices.IndexFunc(s.posts, func(p Post) bool { return base+p.Slug == h.URL })
	if n < 0 {
		return http.StatusNotFound, "", "There is no such post."
	}
	p := &s.posts[n]
	switch h.Action {
	case "update":
		if p.Deleted {
			return http.StatusGone, "", "That post was deleted."
		}
		p.set(h.Replace)
		for _, name := range h.Delete {
			p.set(map[string][]json.RawMessage{name: nil})
		}
		p.Changes++
		return http.StatusNoContent, "", ""
	case "delete":
		p.Deleted = true
		return http.StatusNoContent, "", ""
	case "undelete":
		p.Deleted = false
		return http.StatusNoContent, "", ""
	}
	return http.StatusBadRequest, "", "There is no such action."
}

func (s *Site) add(h handed, key, base string) (code int, at, why string) {
	if !slices.Equal(h.Type, []string{"h-entry"}) || text(h.Properties["name"], "value") == "" {
		return http.StatusBadRequest, "", "A post is an h-entry and has a name."
	}
	if n := slices.IndexFunc(s.posts, func(p Post) bool { return p.key == key && key != "" }); n >= 0 {
		return http.StatusCreated, base + s.posts[n].Slug, ""
	}
	p := Post{UID: text(h.Properties["uid"], "value"), key: key}
	p.set(h.Properties)
	wish := cmp.Or(address.Slug(text(h.Properties["mp-slug"], "value")), newID())
	for p.Slug = wish; slices.ContainsFunc(s.posts, func(o Post) bool { return o.Slug == p.Slug }); {
		p.Slug = wish + "-" + newID()[:6]
	}
	s.posts = append([]Post{p}, s.posts[:min(len(s.posts), mostPosts-1)]...)
	return http.StatusCreated, base + p.Slug, ""
}

// tell answers what the site is asked (Micropub, section 3.7).
func (s *Site) tell(w http.ResponseWriter, r *http.Request) {
	if s.Trouble != nil && s.Trouble(w, r) || !s.known(w, r) {
		return
	}
	switch r.URL.Query().Get("q") {
	case "config":
		answer(w, http.StatusOK, map[string]string{"media-endpoint": home(r, "/notes") + "/media"})
	case "source":
		items := []any{}
		for _, p := range s.Posts()[:min(len(s.Posts()), 200)] {
			items = append(items, map[string]any{"type": []string{"h-entry"}, "properties": map[string][]string{
				"uid": {p.UID}, "name": {p.Title}, "url": {home(r, "/notes") + "/posts/" + p.Slug}}})
		}
		answer(w, http.StatusOK, map[string]any{"items": items})
	default:
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_request", "error_description": "The site can’t be asked that."})
	}
}

// takePicture takes a picture (Micropub, section 3.6.2).
func (s *Site) takePicture(w http.ResponseWriter, r *http.Request) {
	if s.Trouble != nil && s.Trouble(w, r) || !s.known(w, r) {
		return
	}
	file, _, err := r.FormFile("file")
	if err != nil {
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_request", "error_description": "There is no part named file."})
		return
	}
	defer file.Close()
	data, err := io.ReadAll(io.LimitReader(file, bodySize))
	kind := http.DetectContentType(data)
	if err != nil || !strings.HasPrefix(kind, "image/") {
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_request", "error_description": "That is no picture."})
		return
	}
	name := newID()
	s.mu.Lock()
	s.pictures[name] = sitePicture{kind, data}
	s.mu.Unlock()
	w.Header().Set("Location", home(r, "/media")+"/media/"+name)
	w.WriteHeader(http.StatusCreated)
}

func (s *Site) showPicture(w http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	p, known := s.pictures[chi.URLParam(r, "name")]
	s.mu.Unlock()
	if !known {
		http.NotFound(w, r)
		return
	}
	w.Header().Set("Content-Type", p.kind)
	_, _ = w.Write(p.data)
}

func (s *Site) showPost(w http.ResponseWriter, r *http.Request) {
	slug := chi.URLParam(r, "slug")
	posts := s.Posts()
	n := slices.IndexFunc(posts, func(p Post) bool { return p.Slug == slug })
	switch {
	case n < 0:
		http.NotFound(w, r)
		return
	case posts[n].Deleted:
		http.Error(w, "This post was deleted.", http.StatusGone)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", policy)
	templates.ExecuteTemplate(w, "site-post.html", map[string]any{"Post": posts[n],
		"HTML": template.HTML(bluemonday.UGCPolicy().Sanitize(posts[n].HTML))}) //nolint:gosec // it is made safe here
}
