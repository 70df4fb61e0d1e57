package standin

import (
	"crypto/sha256"
	"crypto/subtle"
	"encoding/base64"
	"html/template"
	"io"
	"mime"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/jonboulle/clockwork"
)

// Note is a note on a site of somebody's own.
type Note struct {
	ID      string
	At      time.Time
	Content string
	Photos  int
}

// Site is a simulated site of somebody's own that speaks Micropub and IndieAuth.
type Site struct {
	clock clockwork.Clock

	mu       sync.Mutex
	notes    []Note
	posts    []Post
	pictures map[string]sitePicture // by their names
	codes    map[string]code
	tokens   map[string]bool

	// Trouble, where a test sets it, may answer what is posted instead; it tells whether it did.
	Trouble func(w http.ResponseWriter, r *http.Request) bool
	// After, where a test sets it, may answer in the place of the site after it has done what was asked.
	After func(w http.ResponseWriter, r *http.Request) bool
}

// NewSite returns a site without notes.
func NewSite(clock clockwork.Clock) *Site {
	return &Site{clock: clock, pictures: make(map[string]sitePicture), codes: make(map[string]code), tokens: make(map[string]bool)}
}

// Notes lists the notes, the latest first.
func (s *Site) Notes() []Note {
	s.mu.Lock()
	defer s.mu.Unlock()
	return append([]Note(nil), s.notes...)
}

// SignOut ends all tokens.
func (s *Site) SignOut() {
	s.mu.Lock()
	defer s.mu.Unlock()
	clear(s.tokens)
}

// Handler serves the site's page at /, and below it where one signs in and posts.
func (s *Site) Handler() http.Handler {
	r := chi.NewRouter()
	r.Get("/", s.show)
	r.Get("/sign-in", s.askPerson)
	r.Post("/sign-in", s.hearPerson)
	r.Post("/token", s.giveToken)
	r.Post("/notes", s.take)
	r.Get("/notes", s.tell)
	r.Post("/media", s.takePicture)
	r.Get("/media/{name}", s.showPicture)
	r.Get("/posts/{slug}", s.showPost)
	return r
}

func (s *Site) show(w http.ResponseWriter, r *http.Request) {
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", policy)
	type shown struct {
		Note
		HTML template.HTML
	}
	var notes []shown
	for _, n := range s.Notes() {
		var out strings.Builder
		hashtags(&out, n.Content)
		notes = append(notes, shown{n, template.HTML(out.String())})
	}
	templates.ExecuteTemplate(w, "site.html", map[string]any{"Home": home(r, "/") + "/", "Notes": notes, "Posts": s.Posts()})
}

// wanted is a request to sign in (IndieAuth, section 5.2).
func wanted(q url.Values) (c code, ok bool) {
	c = code{back: q.Get("redirect_uri"), program: q.Get("client_id"), challenge: q.Get("code_challenge")}
	back, err := url.Parse(c.back)
	program, err2 := url.Parse(c.program)
	return c, err == nil && err2 == nil && program.Host != "" && program.Host == back.Host && c.challenge != "" &&
		q.Get("code_challenge_method") == "S256" && q.Get("response_type") == "code"
}

func (s *Site) askPerson(w http.ResponseWriter, r *http.Request) {
	c, ok := wanted(r.URL.Query())
	if !ok {
		http.Error(w, "This is no complete request to sign in (IndieAuth, with PKCE).", http.StatusBadRequest)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", policy)
	templates.ExecuteTemplate(w, "site-signin.html", c.program)
}

func (s *Site) hearPerson(w http.ResponseWriter, r *http.Request) {
	c, ok := wanted(r.URL.Query())
	if !ok {
		http.Error(w, "This is no complete request to sign in.", http.StatusBadRequest)
		return
	}
	back, _ := url.Parse(c.back)
	q := back.Query()
	q.Set("state", r.URL.Query().Get("state"))
	if r.PostFormValue("answer") != "allow" {
		q.Set("error", "access_denied")
	} else {
		given := token()
		c.ends = s.clock.Now().Add(codeLifetime)
		s.mu.Lock()
		s.codes[given] = c
		s.mu.Unlock()
		q.Set("code", given)
	}
	back.RawQuery = q.Encode()
	http.Redirect(w, r, back.String(), http.StatusSeeOther)
}

func (s *Site) giveToken(w http.ResponseWriter, r *http.Request) {
	s.mu.Lock()
	defer s.mu.Unlock()
	given := r.PostFormValue("code")
	c, known := s.codes[given]
	delete(s.codes, given)
	sum := sha256.Sum256([]byte(r.PostFormValue("code_verifier")))
	proof := base64.RawURLEncoding.EncodeToString(sum[:])
	if !known || !s.clock.Now().Before(c.ends) || subtle.ConstantTimeCompare([]byte(proof), []byte(c.challenge)) != 1 ||
		c.back != r.PostFormValue("redirect_uri") || c.program != r.PostFormValue("client_id") {
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_grant"})
		return
	}
	access := token()
	s.tokens[access] = true
	w.Header().Set("Cache-Control", "no-store")
	answer(w, http.StatusOK, map[string]any{"access_token": access, "token_type": "Bearer", "scope": "create update delete undelete media", "me": home(r, "/token") + "/"})
}

// known tells whether a request has a token of the site; where it has not, it answers that.
func (s *Site) known(w http.ResponseWriter, r *http.Request) bool {
	given, _ := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
	s.mu.Lock()
	defer s.mu.Unlock()
	if !s.tokens[given] {
		answer(w, http.StatusUnauthorized, map[string]string{"error": "unauthorized"})
		return false
	}
	return true
}

// Let lets whoever has a token in.
func (s *Site) Let(token string) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.tokens[token] = true
}

// take takes a note, or a post (Micropub, section 3.3).
func (s *Site) take(w http.ResponseWriter, r *http.Request) {
	if s.Trouble != nil && s.Trouble(w, r) {
		return
	}
	if !s.known(w, r) {
		return
	}
	r.Body = http.MaxBytesReader(w, r.Body, bodySize)
	form, _, _ := mime.ParseMediaType(r.Header.Get("Content-Type"))
	if form == "application/json" {
		s.takePost(w, r)
		return
	}
	n := Note{ID: newID(), At: s.clock.Now()}
	kind := ""
	if form == "multipart/form-data" {
		parts, err := r.MultipartReader()
		for err == nil {
			part, next := parts.NextPart()
			if next != nil {
				break
			}
			text, cut := io.ReadAll(part)
			switch {
			case cut != nil:
				err = cut
			case part.FormName() == "h":
				kind = string(text)
			case part.FormName() == "content":
				n.Content = string(text)
			case strings.HasPrefix(part.FormName(), "photo") && strings.HasPrefix(http.DetectContentType(text), "image/"):
				n.Photos++
			}
		}
	} else {
		kind, n.Content = r.PostFormValue("h"), r.PostFormValue("content")
	}
	if kind != "entry" || strings.TrimSpace(n.Content) == "" {
		answer(w, http.StatusBadRequest, map[string]string{"error": "invalid_request", "error_description": "A note has a content."})
		return
	}
	s.mu.Lock()
	s.notes = append([]Note{n}, s.notes[:min(len(s.notes), shownOnWall-1)]...)
	s.mu.Unlock()
	w.Header().Set("Location", home(r, "/notes")+"/#"+n.ID)
	w.WriteHeader(http.StatusCreated)
}
