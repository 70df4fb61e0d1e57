// Package standin is the simulated outside world that ships with the program: four networks with
// a wall each, on which one reads what a follower reads, and a mailbox.
//
// It shares nothing with the program but HTTP and what networks take: it keeps its messages in
// files of its own. It is for trying the program out and for tests, not for the open network.
package standin

import (
	"bufio"
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
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

// Message is one message on a wall.
type Message struct {
	ID   string    `json:"id"`
	Key  string    `json:"key"`
	From string    `json:"from"` // who sent it
	Text string    `json:"text"`
	At   time.Time `json:"at"`
	// InReplyTo is the message that it goes under; "": under none.
	InReplyTo string `json:"inReplyTo,omitempty"`
	// Alts say what its pictures show.
	Alts []string `json:"alts,omitempty"`
	// Pictures are the names of their files.
	Pictures []string `json:"pictures,omitempty"`
}

// Network is a simulated network.
type Network struct {
	network channel.Network
	dir     string // where all is kept; "": nowhere

	mu       sync.Mutex
	messages []Message
	keys     map[string]int
	file     *os.File // nil: nothing is kept
	pictures map[string][]byte
	limits   map[string]*rate.Limiter
	accounts accounts
	codes    map[string]code
	weather  Weather
	clock    clockwork.Clock

	crowd     *crowd // nil: nobody follows
	following context.Context

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
	bodySize = 24 << 20
)

// New returns a network of a kind that keeps its messages in a folder; with "", in memory.
func New(kind, dir string, clock clockwork.Clock) (*Network, error) {
	network, known := channel.Of(kind)
	if !known {
		return nil, fmt.Errorf("there is no network %q", kind)
	}
	n := &Network{network: network, dir: dir, keys: make(map[string]int), limits: make(map[string]*rate.Limiter),
		pictures: make(map[string][]byte), codes: make(map[string]code), clock: clock, Rate: usualRate, weather: Fair}
	n.accounts.Tokens = make(map[string]Account)
	if dir == "" {
		return n, nil
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return nil, err
	}
	if err := errors.Join(n.load(), n.accounts.load(n.kept("accounts.json"))); err != nil {
		return nil, fmt.Errorf("reading what %s kept: %w", network.Name(), err)
	}
	file, err := os.OpenFile(n.kept("messages.jsonl"), os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600)
	n.file = file
	return n, err
}

// kept is the path of one of its files.
func (n *Network) kept(name string) string { return keptAt(n.dir, n.network.Kind(), name) }

func keptAt(dir, kind, name string) string { return filepath.Join(dir, kind+"-"+name) }

// Seeded is a message that a wall begins with, and the pictures that it has.
type Seeded struct {
	Message
	Media [][]byte
}

// Seed has a network that keeps its messages in a folder begin with some, the oldest first, and
// with accounts by their tokens; what it had is gone. Call it while none serves the folder.
func Seed(kind, dir string, messages []Seeded, handles map[string]string) error {
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return err
	}
	n := &Network{dir: dir}
	n.network, _ = channel.Of(kind)
	n.accounts.Tokens = make(map[string]Account)
	for token, handle := range handles {
		n.accounts.Tokens[token] = Account{Handle: handle}
	}
	var err error
	if n.file, err = os.OpenFile(n.kept("messages.jsonl"), os.O_CREATE|os.O_TRUNC|os.O_WRONLY, 0o600); err != nil {
		return err
	}
	for _, one := range messages {
		m := one.Message
		if m.ID == "" {
			m.ID = newID()
		}
		for i, data := range one.Media {
			name := fmt.Sprintf("%s-%d", m.ID, i)
			if err := n.keepPicture(name, data); err != nil {
				return errors.Join(err, n.Close())
			}
			m.Pictures = append(m.Pictures, name)
		}
		if err := n.keep(m); err != nil {
			return errors.Join(err, n.Close())
		}
	}
	return errors.Join(n.accounts.save(n.kept("accounts.json")), n.Close())
}

func (n *Network) load() error {
	file, err := os.Open(n.kept("messages.jsonl"))
	if errors.Is(err, fs.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer file.Close()
	lines := bufio.NewScanner(file)
	lines.Buffer(nil, 1<<20)
	for lines.Scan() {
		var m Message
		if err := json.Unmarshal(lines.Bytes(), &m); err != nil {
			continue // a line that a crash cut off
		}
		n.put(m)
	}
	return lines.Err()
}

func (n *Network) put(m Message) {
	n.keys[m.From+"\x00"+m.Key] = len(n.messages)
	n.messages = append(n.messages, m)
}

// Close closes the file.
func (n *Network) Close() error {
	if n.file == nil {
		return nil
	}
	return n.file.Close()
}

// Messages lists what is on the wall, oldest first.
func (n *Network) Messages() []Message {
	n.mu.Lock()
	defer n.mu.Unlock()
	return append([]Message(nil), n.messages...)
}

// Handler serves the wall at /, the sign-in below /oauth, the weather and the API below /api.
func (n *Network) Handler() http.Handler {
	r := chi.NewRouter()
	r.Get("/", n.serveWall)
	r.Get("/pictures/{name}", n.servePicture)
	r.Get("/oauth/authorize", n.askPerson)
	r.Post("/oauth/authorize", n.hearPerson)
	r.Post("/oauth/token", n.giveTokens)
	r.Get("/weather", func(w http.ResponseWriter, _ *http.Request) { answer(w, http.StatusOK, n.Weather()) })
	r.Post("/weather", n.setWeather)
	r.Get("/api/me", n.tellWho)
	r.Post("/api/messages", n.take)
	r.Get("/api/messages", func(w http.ResponseWriter, _ *http.Request) { answer(w, http.StatusOK, n.Messages()) })
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

// posted is what is handed in.
type posted struct {
	Text      string          `json:"text"`
	InReplyTo string          `json:"inReplyTo"`
	Media     []channel.Media `json:"media"`
}

// take takes a message, once a key.
func (n *Network) take(w http.ResponseWriter, r *http.Request) {
	if n.Trouble != nil && n.Trouble(w, r) {
		return
	}
	who, ok := n.signedIn(r)
	if !ok {
		refuse(w, http.StatusUnauthorized, "This sign-in is not valid any more. Sign in again.")
		return
	}
	key := r.Header.Get("Idempotency-Key")
	if key == "" {
		refuse(w, http.StatusBadRequest, "Send an Idempotency-Key.")
		return
	}
	var body posted
	if err := json.NewDecoder(http.MaxBytesReader(w, r.Body, bodySize)).Decode(&body); err != nil ||
		strings.TrimSpace(body.Text) == "" {
		refuse(w, http.StatusUnprocessableEntity, "A message has a text.")
		return
	}
	if n.Weather().strike(w, r, body) {
		return
	}
	if why := n.objects(body); why != "" {
		refuse(w, http.StatusUnprocessableEntity, why)
		return
	}
	m, fresh, problem := n.accept(who, key, body)
	switch {
	case problem.code != 0:
		if problem.wait > 0 {
			w.Header().Set("Retry-After", strconv.Itoa(int(math.Ceil(problem.wait.Seconds()))))
		}
		refuse(w, problem.code, problem.says)
	case n.Weather() == Silent:
		panic(http.ErrAbortHandler) // it has the message, and says nothing
	case fresh:
		answer(w, http.StatusCreated, receipt(r, m))
	default:
		answer(w, http.StatusOK, receipt(r, m))
	}
}

// objects says what is wrong with a message by what the network takes, or "".
func (n *Network) objects(p posted) string {
	takes, name := n.network.Limits(), n.network.Name()
	if takes.Over(p.Text) > 0 {
		length := takes.Links.Length(p.Text)
		if length <= takes.Graphemes {
			return fmt.Sprintf("The message has %d bytes; %s takes %d.", len(p.Text), name, takes.Bytes)
		}
		return fmt.Sprintf("The message has %d characters; %s takes %d.", length, name, takes.Graphemes)
	}
	switch {
	case len(p.Media) > n.network.Media():
		return fmt.Sprintf("The message has %d pictures; %s takes %d.", len(p.Media), name, n.network.Media())
	case takes.Image == "required" && len(p.Media) == 0:
		return name + " takes no message without a picture."
	case p.InReplyTo != "" && !takes.Replies:
		return name + " takes no replies."
	}
	for _, m := range p.Media {
		if !strings.HasPrefix(http.DetectContentType(m.Data), "image/") {
			return "What was sent along is no picture."
		}
	}
	return ""
}

// turnedAway is why a message is not accepted.
type turnedAway struct {
	code int // 0: it is
	says string
	wait time.Duration
}

// accept keeps a message; fresh is false where it had it before.
func (n *Network) accept(who, key string, p posted) (m Message, fresh bool, away turnedAway) {
	n.mu.Lock()
	defer n.mu.Unlock()
	if p.InReplyTo != "" && !slices.ContainsFunc(n.messages, func(m Message) bool { return m.ID == p.InReplyTo }) {
		return m, false, turnedAway{http.StatusUnprocessableEntity, "There is no message to reply to.", 0}
	}
	if i, again := n.keys[who+"\x00"+key]; again {
		if n.messages[i].Text != p.Text {
			return m, false, turnedAway{http.StatusConflict, "This key was used for another message.", 0}
		}
		return n.messages[i], false, away
	}
	if wait := n.wait(who); wait > 0 {
		return m, false, turnedAway{http.StatusTooManyRequests, "Too many messages; come back later.", wait}
	}
	m = Message{ID: newID(), Key: key, From: who, Text: p.Text, At: n.clock.Now().UTC(), InReplyTo: p.InReplyTo}
	for i, one := range p.Media {
		m.Alts = append(m.Alts, one.Alt)
		name := fmt.Sprintf("%s-%d", m.ID, i)
		if err := n.keepPicture(name, one.Data); err != nil {
			return m, false, turnedAway{http.StatusInternalServerError, "The picture could not be kept.", 0}
		}
		m.Pictures = append(m.Pictures, name)
	}
	if err := n.keep(m); err != nil {
		return m, false, turnedAway{http.StatusInternalServerError, "The message could not be kept.", 0}
	}
	n.put(m)
	n.follow(m)
	return m, true, away
}

func (n *Network) keepPicture(name string, data []byte) error {
	if n.dir == "" {
		n.pictures[name] = data
		return nil
	}
	return os.WriteFile(n.kept("picture-"+name), data, 0o600)
}

func (n *Network) keep(m Message) error {
	if n.file == nil {
		return nil
	}
	line, err := json.Marshal(m)
	if err != nil {
		return err
	}
	_, err = n.file.Write(append(line, '\n'))
	return err
}

// wait is how long a sender has to wait before its next message; 0: not at all.
func (n *Network) wait(who string) time.Duration {
	if n.Rate == 0 {
		return 0
	}
	limit := n.limits[who]
	if limit == nil {
		limit = rate.NewLimiter(rate.Limit(float64(n.Rate)/60), n.Rate)
		n.limits[who] = limit
	}
	now := n.clock.Now()
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
	return map[string]any{"id": m.ID, "url": home(r, "/api/messages") + "/#" + m.ID, "posted_at": m.At}
}

// home is the address of the network, from a request to one of its paths.
func home(r *http.Request, path string) string {
	prefix := strings.TrimSuffix(r.URL.Path, path)
	if original := r.Header.Get("X-Forwarded-Prefix"); original != "" {
		prefix = original
	}
	return "http://" + r.Host + prefix
}
