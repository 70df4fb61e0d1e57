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

// Lantern is the kind of a network of short messages.
const Lantern = "lantern"

// lantern is the network Lantern.
type lantern struct{}

// Kind is the name that is kept with a channel.
func (lantern) Kind() string { return Lantern }

// Name is what people call it.
func (lantern) Name() string { return "Lantern" }

// Limits is what a message may be.
func (lantern) Limits() message.Limits {
	return message.Limits{Graphemes: 320, Bytes: 8192, Hashtags: 4, Image: message.Allowed, Replies: true,
		Links: message.Links{Schemes: []string{"http", "https"}, Cost: 24}}
}

// Pace is what a channel keeps to begin with.
func (lantern) Pace() (apart, aDay int) { return 20, 24 }

// Media is how many pictures a message may bring along.
func (lantern) Media() int { return 4 }

// patience is how long a network may take to answer.
const patience = 10 * time.Second

// longestWait bounds what a network may ask for.
const longestWait = time.Hour

// answerSize bounds what is read of an answer, in bytes.
const answerSize = 64 << 10

// atOnce is how many connections to one network are kept for more messages: a process hands over so many at
// once.
const atOnce = 20

// client follows no redirects: a network that leads elsewhere is not the one it was.
var client = &http.Client{Timeout: patience, Transport: connections(), CheckRedirect: refuseRedirect}

func refuseRedirect(*http.Request, []*http.Request) error {
	return errors.New("the network leads elsewhere")
}

func connections() *http.Transport {
	t := http.DefaultTransport.(*http.Transport).Clone()
	t.MaxIdleConnsPerHost = atOnce
	return t
}

// Send hands a message over.
func (lantern) Send(ctx context.Context, a Account, m Message) (Receipt, error) {
	body, err := json.Marshal(struct {
		Text      string  `json:"text"`
		InReplyTo string  `json:"inReplyTo,omitempty"`
		Media     []Media `json:"media,omitempty"`
	}{m.Text, m.ReplyTo, m.Media})
	if err != nil {
		return Receipt{}, err
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, strings.TrimRight(a.Address, "/")+"/api/messages",
		bytes.NewReader(body))
	if err != nil {
		return Receipt{}, &Refused{Reason: "the channel's address is not one"}
	}
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("Authorization", "Bearer "+a.Token)
	request.Header.Set("Idempotency-Key", m.Key)
	answer, err := client.Do(request)
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
var ofMessage = []int{http.StatusBadRequest, http.StatusNotAcceptable, http.StatusConflict,
	http.StatusRequestEntityTooLarge,
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
