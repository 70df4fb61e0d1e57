// Package channel knows the networks that messages go to: what each can take, and how
// to hand it a message.
//
// A network is handed each message with a key. Handed the same key again, it answers
// as the first time and shows the message once; so a message may be sent again
// whenever it is not known whether it arrived.
package channel

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"slices"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/core/message"
)

// Network is what the program knows of a kind of network.
type Network struct {
	Name   string
	Limits message.Limits
	Apart  int // fewest minutes between two messages, to begin with
	ADay   int // most messages a day, to begin with
}

// Lantern is a network of short messages.
const Lantern = "lantern"

// Networks are the kinds of networks, by the name that is kept with a channel.
var Networks = map[string]Network{
	Lantern: {Name: "Lantern", Apart: 20, ADay: 24, Limits: message.Limits{
		Graphemes: 320, Bytes: 8192, Hashtags: 4, Image: message.Allowed, Replies: true,
		Links: message.Links{Schemes: []string{"http", "https"}, Cost: 24},
	}},
}

// Message is what a network is handed.
type Message struct {
	Key  string // the same for the same message, however often it is sent
	Text string
}

// Receipt is a network's word that it has taken a message.
type Receipt struct {
	ID  string `json:"id"`
	URL string `json:"url"`
}

// Refused says that the network will not take the message, now or later.
type Refused struct {
	Reason string
	// OfMessage tells that the network objects to this message. Otherwise it objects to
	// whoever sends it: another message would fare no better.
	OfMessage bool
}

// Error gives the network's reason.
func (e *Refused) Error() string { return "refused: " + e.Reason }

// Later says that the network asks to be left alone for a while.
type Later struct{ After time.Duration }

// Error says for how long.
func (e *Later) Error() string { return fmt.Sprintf("asked to wait %s", e.After) }

// patience is how long a network may take to answer.
const patience = 10 * time.Second

// longestWait bounds what a network may ask for.
const longestWait = time.Hour

// answerSize bounds what is read of an answer, in bytes.
const answerSize = 64 << 10

// Client hands messages to one channel's network.
type Client struct {
	http    *http.Client
	address string
	token   string
}

// NewClient returns a client for the network at an address, with the channel's token.
func NewClient(address, token string) *Client {
	return &Client{
		http: &http.Client{Timeout: patience, CheckRedirect: func(*http.Request, []*http.Request) error {
			return errors.New("the network leads elsewhere")
		}},
		address: strings.TrimRight(address, "/"), token: token,
	}
}

// Send hands the network a message. It fails with *Refused or *Later where the network
// says so; any other error leaves open whether the message arrived, and it may be sent
// again with the same key.
func (c *Client) Send(ctx context.Context, m Message) (Receipt, error) {
	body, err := json.Marshal(map[string]string{"text": m.Text})
	if err != nil {
		return Receipt{}, err
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, c.address+"/api/messages", bytes.NewReader(body))
	if err != nil {
		return Receipt{}, &Refused{Reason: "the channel's address is not one"}
	}
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("Authorization", "Bearer "+c.token)
	request.Header.Set("Idempotency-Key", m.Key)
	answer, err := c.http.Do(request)
	if err != nil {
		return Receipt{}, fmt.Errorf("the network could not be reached: %w", err)
	}
	defer answer.Body.Close()
	text, err := io.ReadAll(io.LimitReader(answer.Body, answerSize))
	if err != nil {
		return Receipt{}, fmt.Errorf("the network's answer broke off: %w", err)
	}
	return read(answer, text)
}

func read(answer *http.Response, text []byte) (Receipt, error) {
	switch code := answer.StatusCode; {
	case code == http.StatusOK || code == http.StatusCreated:
		var r Receipt
		if err := json.Unmarshal(text, &r); err != nil || r.ID == "" {
			return Receipt{}, fmt.Errorf("the network answered %d with something that is no receipt", code)
		}
		return r, nil
	case code == http.StatusTooManyRequests:
		return Receipt{}, &Later{waitOf(answer.Header.Get("Retry-After"))}
	case code >= 400 && code < 500 && code != http.StatusRequestTimeout:
		return Receipt{}, &Refused{reasonOf(code, text), slices.Contains(ofMessage, code)}
	}
	return Receipt{}, fmt.Errorf("the network answered %s", answer.Status)
}

// ofMessage are the answers that speak of what is in a request (RFC 9110, section 15.5).
var ofMessage = []int{http.StatusBadRequest, http.StatusNotAcceptable, http.StatusConflict, http.StatusRequestEntityTooLarge,
	http.StatusUnsupportedMediaType, http.StatusUnprocessableEntity, http.StatusUnavailableForLegalReasons}

// waitOf reads a Retry-After in seconds (RFC 9110, section 10.2.3).
func waitOf(header string) time.Duration {
	seconds, err := strconv.Atoi(strings.TrimSpace(header))
	if err != nil || seconds < 1 {
		return time.Minute
	}
	return min(time.Duration(seconds)*time.Second, longestWait)
}

// reasonOf reads the reason of a problem answer (RFC 9457), or names the status.
func reasonOf(code int, text []byte) string {
	var problem struct {
		Detail string `json:"detail"`
		Title  string `json:"title"`
	}
	if json.Unmarshal(text, &problem) == nil {
		if problem.Detail != "" {
			return problem.Detail
		}
		if problem.Title != "" {
			return problem.Title
		}
	}
	return fmt.Sprintf("%d %s", code, http.StatusText(code))
}
