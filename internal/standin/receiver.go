package standin

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"sync"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/jonboulle/clockwork"

	"dapper.example/internal/core/signed"
)

// Received is a message of a webhook.
type Received struct {
	ID   string // of the message
	At   time.Time
	Type string
	Text string // its JSON, indented
	Sign string // what the signature is: "", good or bad; "" while no secret is known
	Key  string // of a message that outside hands are handed
	Done string // where it is told what became of that
	Said string // what was told

	raw signed.Message
}

// Receiver is a simulated program that takes what webhooks are told, for trying them out.
type Receiver struct {
	clock clockwork.Clock

	mu       sync.Mutex
	secret   string
	refuses  bool
	received []Received
}

const (
	mostReceived = 100
	receivedSize = 24 << 20
)

// NewReceiver returns a program that has been told nothing yet.
func NewReceiver(clock clockwork.Clock) *Receiver { return &Receiver{clock: clock} }

// Received lists what it was told, the latest first.
func (v *Receiver) Received() []Received {
	v.mu.Lock()
	defer v.mu.Unlock()
	return append([]Received(nil), v.received...)
}

// Handler takes messages at /, and shows them there.
func (v *Receiver) Handler() http.Handler {
	r := chi.NewRouter()
	r.Post("/", v.take)
	r.Get("/", v.show)
	r.Post("/settings", v.set)
	r.Post("/told", v.tell)
	return r
}

func (v *Receiver) take(w http.ResponseWriter, r *http.Request) {
	body, err := io.ReadAll(http.MaxBytesReader(w, r.Body, receivedSize))
	if err != nil {
		refuse(w, http.StatusRequestEntityTooLarge, "That is too much.")
		return
	}
	var said struct {
		Type string `json:"type"`
		Data struct {
			Key  string `json:"key"`
			Done string `json:"done"`
		} `json:"data"`
	}
	if err := json.Unmarshal(body, &said); err != nil {
		refuse(w, http.StatusUnprocessableEntity, "That is not JSON.")
		return
	}
	var text bytes.Buffer
	_ = json.Indent(&text, body, "", "  ")
	m := signed.Message{ID: r.Header.Get(signed.IDHeader), Timestamp: r.Header.Get(signed.TimestampHeader), Signature: r.Header.Get(signed.SignatureHeader), Body: body}
	v.mu.Lock()
	defer v.mu.Unlock()
	if v.refuses {
		refuse(w, http.StatusServiceUnavailable, "It takes nothing for now.")
		return
	}
	one := Received{ID: m.ID, At: v.clock.Now(), Type: said.Type, Text: text.String(), Key: said.Data.Key, Done: said.Data.Done, raw: m}
	v.received = append([]Received{one}, v.received[:min(len(v.received), mostReceived-1)]...)
	w.WriteHeader(http.StatusNoContent)
}

func (v *Receiver) show(w http.ResponseWriter, r *http.Request) {
	v.mu.Lock()
	secret, refuses := v.secret, v.refuses
	shown := append([]Received(nil), v.received...)
	v.mu.Unlock()
	for i := range shown {
		if secret == "" {
			continue
		}
		at, _ := strconv.ParseInt(shown[i].raw.Timestamp, 10, 64)
		if shown[i].Sign = "good"; shown[i].raw.Verify([]string{secret}, time.Unix(at, 0)) != nil {
			shown[i].Sign = "bad"
		}
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Content-Security-Policy", policy)
	templates.ExecuteTemplate(w, "receiver.html", map[string]any{"Received": shown, "Refuses": refuses, "Knows": secret != "", "Home": home(r, "/") + "/"})
}

func (v *Receiver) set(w http.ResponseWriter, r *http.Request) {
	v.mu.Lock()
	if secret := r.PostFormValue("secret"); secret != "" {
		v.secret = secret
	}
	v.refuses = r.PostFormValue("refuses") != ""
	v.mu.Unlock()
	http.Redirect(w, r, home(r, "/settings")+"/", http.StatusSeeOther)
}

// tell tells what became of a message, signed, as outside hands do.
func (v *Receiver) tell(w http.ResponseWriter, r *http.Request) {
	key := r.PostFormValue("key")
	v.mu.Lock()
	secret, i := v.secret, v.find(key)
	if i < 0 || v.received[i].Done == "" {
		v.mu.Unlock()
		http.NotFound(w, r)
		return
	}
	one := v.received[i]
	v.mu.Unlock()
	said := v.call(secret, one, r.PostFormValue("state"))
	v.mu.Lock()
	if i := v.find(key); i >= 0 {
		v.received[i].Said = said
	}
	v.mu.Unlock()
	http.Redirect(w, r, home(r, "/told")+"/", http.StatusSeeOther)
}

func (v *Receiver) find(key string) int {
	return slices.IndexFunc(v.received, func(r Received) bool { return key != "" && r.Key == key })
}

// call makes the signed call, and says in a word what came of it.
func (v *Receiver) call(secret string, one Received, state string) string {
	if state != "sent" {
		state = "failed"
	}
	body, err := json.Marshal(map[string]string{"key": one.Key, "state": state})
	if err != nil {
		return err.Error()
	}
	now := v.clock.Now()
	id := "done_" + one.Key
	headers, err := signed.Headers([]string{secret}, id, now, body)
	if err != nil {
		return "Enter the channel's secret first."
	}
	request, err := http.NewRequest(http.MethodPost, one.Done, bytes.NewReader(body))
	if err != nil {
		return "There is no such address."
	}
	request.Header.Set("Content-Type", "application/json")
	for name, value := range headers {
		request.Header.Set(name, value)
	}
	client := http.Client{Timeout: 10 * time.Second}
	answer, err := client.Do(request)
	if err != nil {
		return "It could not be told: nothing answers."
	}
	answer.Body.Close()
	if answer.StatusCode == http.StatusNoContent {
		return "Told: " + state + "."
	}
	return fmt.Sprintf("It was not believed: %d.", answer.StatusCode)
}
