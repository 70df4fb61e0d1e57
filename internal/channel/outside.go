package channel

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"dapper.example/internal/core/message"
	"dapper.example/internal/core/signed"
	"dapper.example/internal/reach"
)

// The kinds of channels that are no network's: messages are handed to a program of somebody's, at an address that an
// editor entered.
const (
	Webhook = "webhook" // a message is sent when the program has taken it
	Hands   = "hands"   // outside hands: it is sent when they say so
)

// outside hands messages to an address, signed by the Standard Webhooks specification.
type outside struct {
	kind, name string
	waits      bool // whether it is known later that a message was sent
}

var (
	webhook = outside{Webhook, "Webhook", false}
	hands   = outside{Hands, "Outside hands", true}
)

// IsOutside tells whether channels of a kind have an address that an editor enters, and a secret of our own, instead of
// being signed in to.
func IsOutside(kind string) bool {
	n, known := Of(kind)
	_, is := n.(outside)
	return known && is
}

// Kind is the name that is kept with a channel.
func (n outside) Kind() string { return n.kind }

// Name is what people call it.
func (n outside) Name() string { return n.name }

// Limits is what a message may be: as a program wants it, so anything.
func (n outside) Limits() message.Limits {
	return message.Limits{Bytes: 64 << 10, Hashtags: 30, Image: message.Allowed, Links: message.Links{Schemes: []string{"http", "https"}}}
}

// Pace is what a channel keeps to begin with.
func (n outside) Pace() (apart, aDay int) { return 20, 24 }

// Media is how many pictures a message may bring along.
func (n outside) Media() int { return 4 }

// Crop is how pictures are cut: not at all.
func (n outside) Crop() float64 { return 0 }

// handed is what a program is handed.
type handed struct {
	Type      string    `json:"type"` // message.send
	Timestamp time.Time `json:"timestamp"`
	Data      struct {
		Key     string  `json:"key"` // of the message; by it, what became of it is told
		Channel string  `json:"channel"`
		Text    string  `json:"text"`
		Media   []Media `json:"media,omitempty"`
		Done    string  `json:"done,omitempty"` // where it is told, signed with the same secret, what became of the message
	} `json:"data"`
}

// Send hands a message over. Outside hands without an address are people, who find it in their list.
func (n outside) Send(ctx context.Context, a Account, m Message) (Receipt, error) {
	if a.Address == "" {
		return Receipt{Handed: true}, nil
	}
	if len(m.Media) > n.Media() {
		m.Media = m.Media[:n.Media()]
	}
	now := a.Now
	if now.IsZero() {
		return Receipt{}, errors.New("it is not known what time it is")
	}
	body := handed{Type: "message.send", Timestamp: now.UTC()}
	body.Data.Key, body.Data.Channel, body.Data.Text, body.Data.Media = m.Key, a.Name, m.Text, m.Media
	if n.waits {
		body.Data.Done = a.Done
	}
	text, err := json.Marshal(body)
	if err != nil {
		return Receipt{}, err
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, a.Address, bytes.NewReader(text))
	if err != nil {
		return Receipt{}, &Refused{Reason: "the channel's address is not one"}
	}
	id := "msg_" + m.Key
	headers, err := signed.Headers([]string{a.Token}, id, now, text)
	if err != nil {
		return Receipt{}, &SignedOut{err.Error()}
	}
	request.Header.Set("Content-Type", "application/json")
	for name, value := range headers {
		request.Header.Set(name, value)
	}
	answer, said, err := askBy(a.Client, request)
	if err != nil {
		var inside *reach.Inside
		if errors.As(err, &inside) {
			return Receipt{}, &Refused{Reason: inside.Error()}
		}
		return Receipt{}, errors.New(strings.TrimRight(reach.Reason(err), "."))
	}
	if answer.StatusCode >= 200 && answer.StatusCode < 300 {
		r := Receipt{ID: m.Key}
		var told Receipt
		if json.Unmarshal(said, &told) == nil && isLink(told.URL) { // a program may say where the message is, and need not
			r.URL = told.URL
		}
		r.Handed = n.waits
		return r, nil
	}
	if answer.StatusCode >= 300 && answer.StatusCode < 400 {
		return Receipt{}, &Refused{Reason: fmt.Sprintf("the address answered %d and leads elsewhere", answer.StatusCode)}
	}
	_, err = read(answer, said)
	return Receipt{}, err
}

func isLink(text string) bool {
	return (strings.HasPrefix(text, "https://") || strings.HasPrefix(text, "http://")) && len(text) <= 2000
}
