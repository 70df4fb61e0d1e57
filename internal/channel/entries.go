package channel

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"mime/multipart"
	"net"
	"net/http"
	"net/textproto"
	"net/url"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/reach"
)

// Entry is a post as a site of one's own is handed it (h-entry).
type Entry struct {
	UID        string // the same at each try to add it
	Slug       string // wished for its address
	Title      string
	HTML       string
	Summary    string
	Categories []string // its category and tags
	Published  time.Time
	Photo, Alt string // "": it has none
}

// Entries are the posts of a site that speaks Micropub (W3C Recommendation of 23 May 2017): added, changed, removed and brought back.
//
// Its methods fail with *SignedOut where somebody has to sign in again, with *Later where the site wants to be left alone for some time,
// with *Refused where it will not have what it was handed, with *Lost where it has no such post any more, and with another error where it
// is worth another try. Add fails with *Unknown, too.
type Entries struct {
	Client *http.Client
	At     string // where posts are taken
	Token  string
}

// Unknown says that it is not known whether a site took a post: it may have one now, or not.
type Unknown struct{ Reason string }

// Error says why.
func (u *Unknown) Error() string { return u.Reason }

// Lost says that a site has no such post.
type Lost struct{}

// Error says so.
func (*Lost) Error() string { return "the site has no such post any more" }

// properties are those of an entry (Micropub, section 3.3.1), without the ones that only adding takes.
func (e Entry) properties() map[string][]any {
	p := map[string][]any{
		"name": {e.Title}, "content": {map[string]string{"html": e.HTML}}, "published": {e.Published.UTC().Format(time.RFC3339)}}
	if e.Summary != "" {
		p["summary"] = []any{e.Summary}
	}
	for _, c := range e.Categories {
		p["category"] = append(p["category"], c)
	}
	switch {
	case e.Photo != "" && e.Alt != "":
		p["photo"] = []any{map[string]string{"value": e.Photo, "alt": e.Alt}}
	case e.Photo != "":
		p["photo"] = []any{e.Photo}
	}
	return p
}

// optional are the properties that an entry may be without.
var optional = []string{"summary", "category", "photo"}

// Add adds a post, and returns its address.
func (s Entries) Add(ctx context.Context, e Entry) (at string, err error) {
	p := e.properties()
	p["uid"], p["mp-slug"], p["post-status"] = []any{e.UID}, []any{e.Slug}, []any{"published"}
	answer, said, err := s.post(ctx, e.UID, map[string]any{"type": []string{"h-entry"}, "properties": p})
	if err != nil {
		var inside *reach.Inside
		var call *net.OpError
		var dns *net.DNSError
		if errors.As(err, &inside) || errors.As(err, &dns) || errors.As(err, &call) && call.Op == "dial" {
			return "", errors.New(plain(err)) // it was not reached
		}
		return "", &Unknown{"the site did not say whether it took the post"}
	}
	switch code := answer.StatusCode; {
	case code == http.StatusCreated || code == http.StatusAccepted || code == http.StatusOK:
		if to, err := answer.Location(); err == nil && isLink(to.String()) {
			return to.String(), nil
		}
		return "", &Unknown{"the site took the post and did not say where it is"}
	case code >= 500 && answer.Header.Get("Retry-After") == "":
		return "", &Unknown{fmt.Sprintf("the site answered %s", answer.Status)}
	}
	return "", refused(answer, said)
}

// Change has a post say what an entry says, and returns its address, which may be another one then.
func (s Entries) Change(ctx context.Context, at string, e Entry) (string, error) {
	p := e.properties()
	body := map[string]any{"action": "update", "url": at, "replace": p}
	var without []string
	for _, name := range optional {
		if len(p[name]) == 0 {
			without = append(without, name)
		}
	}
	if len(without) > 0 {
		body["delete"] = without
	}
	answer, err := s.act(ctx, body)
	if err != nil {
		return at, err
	}
	if to, err := answer.Location(); err == nil && isLink(to.String()) {
		at = to.String()
	}
	return at, nil
}

// Remove removes a post, and does nothing where it is gone.
func (s Entries) Remove(ctx context.Context, at string) error {
	_, err := s.act(ctx, map[string]any{"action": "delete", "url": at})
	if lost := (*Lost)(nil); errors.As(err, &lost) {
		return nil
	}
	return err
}

// BringBack brings a post back that was removed.
func (s Entries) BringBack(ctx context.Context, at string) error {
	_, err := s.act(ctx, map[string]any{"action": "undelete", "url": at})
	return err
}

// act does what can be done twice without harm.
func (s Entries) act(ctx context.Context, body any) (*http.Response, error) {
	answer, said, err := s.post(ctx, "", body)
	if err != nil {
		return nil, errors.New(plain(err))
	}
	switch code := answer.StatusCode; {
	case code >= 200 && code < 300:
		return answer, nil
	case code == http.StatusNotFound || code == http.StatusGone:
		return nil, &Lost{}
	}
	return nil, refused(answer, said)
}

// listed is how many posts a site is asked for where it is to be found whether it has one.
const listed = 200

// Find is the address of the post with an id, "" where the site has none; known tells whether that could be found out: by a list of the
// latest posts (q=source without an address, a proposed extension), which not all sites have and which may end before it.
func (s Entries) Find(ctx context.Context, uid string) (at string, known bool, err error) {
	answer, said, err := s.get(ctx, url.Values{"q": {"source"}, "limit": {strconv.Itoa(listed)}})
	if err != nil {
		return "", false, errors.New(plain(err))
	}
	if answer.StatusCode >= 500 || answer.StatusCode == http.StatusTooManyRequests || answer.StatusCode == http.StatusUnauthorized {
		return "", false, refused(answer, said)
	}
	var list struct {
		Items *[]struct {
			Properties struct {
				UID []string `json:"uid"`
				URL []string `json:"url"`
			} `json:"properties"`
		} `json:"items"`
	}
	if answer.StatusCode != http.StatusOK || json.Unmarshal(said, &list) != nil || list.Items == nil {
		return "", false, nil
	}
	for _, item := range *list.Items {
		if p := item.Properties; len(p.UID) > 0 && p.UID[0] == uid && len(p.URL) > 0 && isLink(p.URL[0]) {
			return p.URL[0], true, nil
		}
	}
	return "", len(*list.Items) < listed, nil
}

// Media is where the site takes pictures; "" where it takes none (Micropub, section 3.6).
func (s Entries) Media(ctx context.Context) (at string, err error) {
	answer, said, err := s.get(ctx, url.Values{"q": {"config"}})
	if err != nil {
		return "", errors.New(plain(err))
	}
	if answer.StatusCode >= 500 || answer.StatusCode == http.StatusTooManyRequests || answer.StatusCode == http.StatusUnauthorized {
		return "", refused(answer, said)
	}
	var config struct {
		Media string `json:"media-endpoint"`
	}
	if answer.StatusCode != http.StatusOK || json.Unmarshal(said, &config) != nil || !isLink(config.Media) {
		return "", nil
	}
	return config.Media, nil
}

// Upload hands the site a picture, and returns its address.
func (s Entries) Upload(ctx context.Context, media, name string, m Media) (at string, err error) {
	var body bytes.Buffer
	parts := multipart.NewWriter(&body)
	head := make(textproto.MIMEHeader)
	head.Set("Content-Disposition", fmt.Sprintf(`form-data; name="file"; filename=%q`, name))
	head.Set("Content-Type", m.Type)
	part, err := parts.CreatePart(head)
	if err != nil {
		return "", err
	}
	if _, err := part.Write(m.Data); err != nil {
		return "", err
	}
	if err := parts.Close(); err != nil {
		return "", err
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, media, &body)
	if err != nil {
		return "", &Refused{Reason: "the site's address for pictures is not one"}
	}
	request.Header.Set("Content-Type", parts.FormDataContentType())
	answer, said, err := s.send(request)
	if err != nil {
		return "", errors.New(plain(err))
	}
	if answer.StatusCode == http.StatusCreated || answer.StatusCode == http.StatusOK || answer.StatusCode == http.StatusAccepted {
		if to, err := answer.Location(); err == nil && isLink(to.String()) {
			return to.String(), nil
		}
		return "", &Refused{Reason: "the site took a picture and did not say where it is"}
	}
	return "", refused(answer, said)
}

func (s Entries) post(ctx context.Context, key string, body any) (*http.Response, []byte, error) {
	text, err := json.Marshal(body)
	if err != nil {
		return nil, nil, err
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, s.At, bytes.NewReader(text))
	if err != nil {
		return nil, nil, err
	}
	request.Header.Set("Content-Type", "application/json")
	if key != "" {
		request.Header.Set("Idempotency-Key", `"`+key+`"`)
	}
	return s.send(request)
}

func (s Entries) get(ctx context.Context, q url.Values) (*http.Response, []byte, error) {
	at, err := url.Parse(s.At)
	if err != nil {
		return nil, nil, err
	}
	all := at.Query()
	for name, values := range q {
		all[name] = values
	}
	at.RawQuery = all.Encode()
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, at.String(), nil)
	if err != nil {
		return nil, nil, err
	}
	request.Header.Set("Accept", "application/json")
	return s.send(request)
}

func (s Entries) send(request *http.Request) (*http.Response, []byte, error) {
	request.Header.Set("Authorization", "Bearer "+s.Token)
	return askBy(s.Client, request)
}

// refused is what an answer that is no success says.
func refused(answer *http.Response, said []byte) error {
	switch code := answer.StatusCode; {
	case code == http.StatusForbidden:
		return &SignedOut{"the site does not let the program do that with its sign-in"}
	case code >= 300 && code < 400:
		return &Refused{Reason: fmt.Sprintf("the site answered %s and leads elsewhere", answer.Status)}
	}
	_, err := read(answer, reasonOfSite(said))
	return err
}

// plain is why a site was not reached, to go on a sentence.
func plain(err error) string { return strings.TrimRight(lower(reach.Reason(err)), ".") }
