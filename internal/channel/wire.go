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

// wired is a network that is handed messages over one simple protocol: JSON over HTTP, with a
// bearer token (RFC 6750) and a key in the header Idempotency-Key. What differs between such
// networks is what they take.
type wired struct {
	kind, name  string
	limits      message.Limits
	apart, aDay int
	media       int
	crop        float64
}

// Kind is the name that is kept with a channel.
func (n wired) Kind() string { return n.kind }

// Name is what people call it.
func (n wired) Name() string { return n.name }

// Limits is what a message may be.
func (n wired) Limits() message.Limits { return n.limits }

// Pace is what a channel keeps to begin with.
func (n wired) Pace() (apart, aDay int) { return n.apart, n.aDay }

// Media is how many pictures a message may bring along.
func (n wired) Media() int { return n.media }

// Crop is how pictures are cut.
func (n wired) Crop() float64 { return n.crop }

// patience is how long a network may take to answer.
const patience = 10 * time.Second

// longestWait bounds what a network may ask for.
const longestWait = time.Hour

// answerSize bounds what is read of an answer, in bytes.
const answerSize = 64 << 10

// atOnce is how many connections to one network are kept for more messages: a process hands over so many at
// once.
const atOnce = 100

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
func (n wired) Send(ctx context.Context, a Account, m Message) (Receipt, error) {
	if len(m.Media) > n.media {
		m.Media = m.Media[:n.media]
	}
	body, err := json.Marshal(struct {
		Text      string  `json:"text"`
		InReplyTo string  `json:"inReplyTo,omitempty"`
		Media     []Media `json:"media,omitempty"`
	}{m.Text, m.ReplyTo, m.Media})
	if err != nil {
		return Receipt{}, err
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, at(a.Address, "/api/messages"), bytes.NewReader(body))
	if err != nil {
		return Receipt{}, &Refused{Reason: "the channel's address is not one"}
	}
	request.Header.Set("Content-Type", "application/json")
	request.Header.Set("Authorization", "Bearer "+a.Token)
	request.Header.Set("Idempotency-Key", m.Key)
	answer, text, err := ask(request)
	if err != nil {
		return Receipt{}, err
	}
	return read(answer, text)
}

// at is an address of a network.
func at(address, path string) string { return strings.TrimRight(address, "/") + path }

// ask sends a request and reads the answer.
func ask(request *http.Request) (*http.Response, []byte, error) { return askBy(nil, request) }

// askBy is ask by another client; nil: the one for networks.
func askBy(by *http.Client, request *http.Request) (*http.Response, []byte, error) {
	if by == nil {
		by = client
	}
	answer, err := by.Do(request)
	if err != nil {
		return nil, nil, fmt.Errorf("the network could not be reached: %w", err)
	}
	defer answer.Body.Close()
	text, err := io.ReadAll(io.LimitReader(answer.Body, answerSize))
	if err != nil {
		return nil, nil, fmt.Errorf("the network's answer broke off: %w", err)
	}
	return answer, text, nil
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
		return Receipt{}, &Later{waitOf(answer.Header)}
	case code == http.StatusUnauthorized:
		return Receipt{}, &SignedOut{reasonOf(code, text)}
	case code == http.StatusServiceUnavailable && answer.Header.Get("Retry-After") != "":
		return Receipt{}, &Later{waitOf(answer.Header)}
	case code >= 400 && code < 500 && code != http.StatusRequestTimeout:
		return Receipt{}, &Refused{reasonOf(code, text), slices.Contains(ofMessage, code)}
	}
	return Receipt{}, fmt.Errorf("the network answered %s", answer.Status)
}

// ofMessage are the answers that speak of what is in a request (RFC 9110, section 15.5).
var ofMessage = []int{http.StatusBadRequest, http.StatusNotAcceptable, http.StatusConflict,
	http.StatusRequestEntityTooLarge,
	http.StatusUnsupportedMediaType, http.StatusUnprocessableEntity, http.StatusUnavailableForLegalReasons}

// waitOf reads a Retry-After in seconds, or as a date (RFC 9110, section 10.2.3) by the clock of who answers.
func waitOf(h http.Header) time.Duration {
	header := strings.TrimSpace(h.Get("Retry-After"))
	if seconds, err := strconv.Atoi(header); err == nil && seconds >= 1 {
		return min(time.Duration(min(seconds, int(longestWait/time.Second)))*time.Second, longestWait)
	}
	when, err := http.ParseTime(header)
	now, unknown := http.ParseTime(h.Get("Date"))
	if err == nil && unknown == nil && when.After(now) {
		return min(when.Sub(now), longestWait)
	}
	return time.Minute
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
