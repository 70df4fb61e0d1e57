// Package standin is the simulated outside world that ships with the program: today
// the network Lantern, with a wall that one can read.
//
// It shares nothing with the program but HTTP: it keeps its messages in a file of its
// own. It is for trying the program out and for tests, not for the open network.
package standin

import (
	"bufio"
	"crypto/rand"
	"embed"
	"encoding/json"
	"errors"
	"fmt"
	"html/template"
	"io/fs"
	"math"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/jonboulle/clockwork"
	"golang.org/x/time/rate"

	"dapper.example/internal/channel"
)

//go:embed pages/wall.html pages/mailbox.html
var pages embed.FS

// Message is one message on the wall.
type Message struct {
	ID   string    `json:"id"`
	Key  string    `json:"key"`
	From string    `json:"from"`
	Text string    `json:"text"`
	At   time.Time `json:"at"`
	// InReplyTo is the message that it goes under; "": under none.
	InReplyTo string `json:"inReplyTo,omitempty"`
	// Alts say what its pictures show. The pictures themselves are not kept.
	Alts []string `json:"alts,omitempty"`
}

// Lantern is the network of short messages.
type Lantern struct {
	mu       sync.Mutex
	messages []Message
	keys     map[string]int
	file     *os.File // nil: nothing is kept
	limits   map[string]*rate.Limiter
	clock    clockwork.Clock
	wall     *template.Template

	// Trouble, where a test sets it, may answer a request instead; it tells whether it did.
	Trouble func(w http.ResponseWriter, r *http.Request) bool
	// Rate is how many messages a minute one sender may hand in; 0: any number.
	Rate int
}

const (
	// usualRate is how many messages a minute one sender may hand in.
	usualRate = 60
	// bodySize is room for the longest text with every byte escaped in JSON (RFC 8259,
	// section 7), and for pictures in base64 (RFC 4648).
	bodySize    = 24 << 20
	shownOnWall = 200
	keptIn      = "lantern.jsonl"
)

// NewLantern returns a Lantern that keeps its messages in a folder; with "", in memory.
func NewLantern(dir string, clock clockwork.Clock) (*Lantern, error) {
	l := &Lantern{keys: make(map[string]int), limits: make(map[string]*rate.Limiter), clock: clock, Rate: usualRate,
		wall: template.Must(template.New("wall.html").Funcs(template.FuncMap{"links": links}).ParseFS(pages,
			"pages/wall.html"))}
	if dir == "" {
		return l, nil
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	path := filepath.Join(dir, keptIn)
	if err := l.load(path); err != nil {
		return nil, fmt.Errorf("reading %s: %w", path, err)
	}
	file, err := os.OpenFile(path, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	l.file = file
	return l, err
}

// Seed has a Lantern that keeps its messages in a folder begin with some, the oldest
// first; those that it had are gone. Call it while none serves the folder.
func Seed(dir string, messages []Message) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	l := &Lantern{}
	var err error
	if l.file, err = os.OpenFile(filepath.Join(dir, keptIn), os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600); err != nil {
		return err
	}
	for _, m := range messages {
		if m.ID == "" {
			m.ID = newID()
		}
		if err := l.keep(m); err != nil {
			return errors.Join(err, l.Close())
		}
	}
	return l.Close()
}

func (l *Lantern) load(path string) error {
	file, err := os.Open(path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer file.Close()
	lines := bufio.NewScanner(file)
	for lines.Scan() {
		var m Message
		if err := json.Unmarshal(lines.Bytes(), &m); err != nil {
			continue // a line that a crash cut off
		}
		l.put(m)
	}
	return lines.Err()
}

func (l *Lantern) put(m Message) {
	l.keys[m.From+"\x00"+m.Key] = len(l.messages)
	l.messages = append(l.messages, m)
}

// Close closes the file.
func (l *Lantern) Close() error {
	if l.file == nil {
		return nil
	}
	return l.file.Close()
}

// Messages lists what is on the wall, oldest first.
func (l *Lantern) Messages() []Message {
	l.mu.Lock()
	defer l.mu.Unlock()
	return append([]Message(nil), l.messages...)
}

// Handler serves the wall at / and the API below /api.
func (l *Lantern) Handler() http.Handler {
	r := chi.NewRouter()
	r.Get("/", l.serveWall)
	r.Post("/api/messages", l.take)
	r.Get("/api/messages", func(w http.ResponseWriter, _ *http.Request) { answer(w, http.StatusOK, l.Messages()) })
	return r
}

func answer(w http.ResponseWriter, code int, body any) {
	w.Header().Set("Content-Type", "application/json")
	w.WriteHeader(code)
	json.NewEncoder(w).Encode(body)
}

// refuse answers with a problem (RFC 9457).
func refuse(w http.ResponseWriter, code int, detail string) {
	w.Header().Set("Content-Type", "application/problem+json")
	w.WriteHeader(code)
	json.NewEncoder(w).Encode(map[string]any{"status": code, "title": http.StatusText(code), "detail": detail})
}

// take takes a message, once a key.
func (l *Lantern) take(w http.ResponseWriter, r *http.Request) {
	if l.Trouble != nil && l.Trouble(w, r) {
		return
	}
	token, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer ")
	if !ok || token == "" {
		refuse(w, http.StatusUnauthorized, "Sign in with a token.")
		return
	}
	key := r.Header.Get("Idempotency-Key")
	if key == "" {
		refuse(w, http.StatusBadRequest, "Send an Idempotency-Key.")
		return
	}
	var body struct {
		Text      string          `json:"text"`
		InReplyTo string          `json:"inReplyTo"`
		Media     []channel.Media `json:"media"`
	}
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, bodySize)).Decode(&body); err != nil ||
		strings.TrimSpace(body.Text) == "" {
		refuse(w, http.StatusUnprocessableEntity, "A message has a text.")
		return
	}
	if takes.Over(body.Text) > 0 {
		n := takes.Links.Length(body.Text)
		why := fmt.Sprintf("The message has %d characters; Lantern takes %d.", n, takes.Graphemes)
		if n <= takes.Graphemes {
			why = fmt.Sprintf("The message has %d bytes; Lantern takes %d.", len(body.Text), takes.Bytes)
		}
		refuse(w, http.StatusUnprocessableEntity, why)
		return
	}
	if len(body.Media) > network.Media() {
		refuse(w, http.StatusUnprocessableEntity, fmt.Sprintf("The message has %d pictures; Lantern takes %d.",
			len(body.Media), network.Media()))
		return
	}
	alts := make([]string, len(body.Media))
	for i, m := range body.Media {
		if !strings.HasPrefix(http.DetectContentType(m.Data), "image/") {
			refuse(w, http.StatusUnprocessableEntity, "What was sent along is no picture.")
			return
		}
		alts[i] = m.Alt
	}
	l.mu.Lock()
	defer l.mu.Unlock()
	if body.InReplyTo != "" && !slices.ContainsFunc(l.messages,
		func(m Message) bool { return m.ID == body.InReplyTo }) {
		refuse(w, http.StatusUnprocessableEntity, "There is no message to reply to.")
		return
	}
	if i, again := l.keys[token+"\x00"+key]; again {
		if l.messages[i].Text != body.Text {
			refuse(w, http.StatusConflict, "This key was used for another message.")
			return
		}
		answer(w, http.StatusOK, receipt(r, l.messages[i]))
		return
	}
	if wait := l.wait(token); wait > 0 {
		w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(wait.Seconds()))))
		refuse(w, http.StatusTooManyRequests, "Too many messages; come back later.")
		return
	}
	m := Message{ID: newID(), Key: key, From: token, Text: body.Text, At: l.clock.Now().UTC(),
		InReplyTo: body.InReplyTo, Alts: alts}
	if err := l.keep(m); err != nil {
		refuse(w, http.StatusInternalServerError, "The message could not be kept.")
		return
	}
	l.put(m)
	answer(w, http.StatusCreated, receipt(r, m))
}

func (l *Lantern) keep(m Message) error {
	if l.file == nil {
		return nil
	}
	line, err := json.Marshal(m)
	if err != nil {
		return err
	}
	_, err = l.file.Write(append(line, '\n'))
	return err
}

// wait is how long a sender has to wait before its next message; 0: not at all.
func (l *Lantern) wait(token string) time.Duration {
	if l.Rate == 0 {
		return 0
	}
	limit := l.limits[token]
	if limit == nil {
		limit = rate.NewLimiter(rate.Limit(float64(l.Rate)/60), l.Rate)
		l.limits[token] = limit
	}
	now := l.clock.Now()
	r := limit.ReserveN(now, 1)
	if d := r.DelayFrom(now); d > 0 {
		r.CancelAt(now)
		return d
	}
	return 0
}

func newID() string {
	var b [6]byte
	rand.Read(b[:])
	return fmt.Sprintf("%x", b)
}

func receipt(r *http.Request, m Message) map[string]any {
	home := strings.TrimSuffix(r.URL.Path, "/api/messages")
	if original := r.Header.Get("X-Forwarded-Prefix"); original != "" {
		home = original
	}
	return map[string]any{"id": m.ID, "url": "http://" + r.Host + home + "/#" + m.ID, "posted_at": m.At}
}

// takes is what Lantern takes: the program's own description of the network.
var (
	network, _ = channel.Of(channel.Lantern)
	takes      = network.Limits()
)

// links turns the links of a text into anchors, and its hashtags into marked words.
func links(text string) template.HTML {
	var out strings.Builder
	from := 0
	for _, link := range takes.Links.Find(text) {
		hashtags(&out, text[from:link.From])
		safe := template.HTMLEscapeString(text[link.From:link.To])
		fmt.Fprintf(&out, `<a href="%s">%s</a>`, safe, safe)
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

func (l *Lantern) serveWall(w http.ResponseWriter, _ *http.Request) {
	messages := l.Messages()
	if len(messages) > shownOnWall {
		messages = messages[len(messages)-shownOnWall:]
	}
	latest := make([]Message, 0, len(messages))
	for i := len(messages) - 1; i >= 0; i-- {
		latest = append(latest, messages[i])
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'")
	l.wall.Execute(w, latest)
}
