package channel

import (
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net"
	"net/http"
	"net/textproto"
	"net/url"
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/oauth2"

	"dapper.example/internal/core/message"
	"dapper.example/internal/reach"
)

// Micropub is the kind of sites of one's own that take notes by Micropub (W3C Recommendation of 23 May 2017).
const Micropub = "micropub"

type micropub struct{}

// Kind is the name that is kept with a channel.
func (micropub) Kind() string { return Micropub }

// Name is what people call it.
func (micropub) Name() string { return "Your own site" }

// Limits is what a message may be: a note has any length.
func (micropub) Limits() message.Limits {
	return message.Limits{Bytes: 64 << 10, Hashtags: 10, Image: message.Allowed, Links: message.Links{Schemes: []string{"http", "https"}}}
}

// Pace is what a channel keeps to begin with.
func (micropub) Pace() (apart, aDay int) { return 30, 12 }

// Media is how many pictures a note may bring along.
func (micropub) Media() int { return 4 }

// Crop is how pictures are cut: not at all.
func (micropub) Crop() float64 { return 0 }

// Site is what a site says of itself: where notes are posted, and where one signs in.
type Site struct {
	Me                          string // its address, as it was found in the end
	Posts, Authorization, Token string
}

const (
	pageSize     = 1 << 20 // what is read of a page, in bytes
	mostRedirect = 5
)

// Discover finds out where a site takes notes and sign-ins: by Link headers (RFC 8288) or links in its page, as Micropub
// and IndieAuth want it. It fails with an error that can be shown where the site does not say so.
func Discover(ctx context.Context, by *http.Client, me string) (Site, error) {
	at, err := url.Parse(me)
	if err != nil {
		return Site{}, errors.New("that is not an address")
	}
	answer, page, err := follow(ctx, by, at)
	if err != nil {
		return Site{}, err
	}
	at = answer.Request.URL
	rels := linksOf(answer.Header, page)
	site := Site{Me: at.String()}
	find := func(rel string) string {
		to, err := at.Parse(rels[rel])
		if rels[rel] == "" || err != nil || to.Scheme != "https" && to.Scheme != "http" || to.User != nil {
			return ""
		}
		return to.String()
	}
	site.Posts, site.Authorization, site.Token = find("micropub"), find("authorization_endpoint"), find("token_endpoint")
	if meta := find("indieauth-metadata"); meta != "" {
		to, err := url.Parse(meta)
		if err != nil {
			return Site{}, errors.New("its metadata has no address")
		}
		_, text, err := follow(ctx, by, to)
		if err != nil {
			return Site{}, err
		}
		var said struct {
			Authorization string `json:"authorization_endpoint"`
			Token         string `json:"token_endpoint"`
		}
		if json.Unmarshal(text, &said) == nil && isLink(said.Authorization) && isLink(said.Token) {
			site.Authorization, site.Token = said.Authorization, said.Token
		}
	}
	switch {
	case site.Posts == "":
		return Site{}, errors.New("the page does not say where notes are posted: it has no link with rel=micropub")
	case site.Authorization == "" || site.Token == "":
		return Site{}, errors.New("the page does not say where one signs in: it has no links with rel=authorization_endpoint and rel=token_endpoint")
	}
	return site, nil
}

// follow reads a page, over a few redirects.
func follow(ctx context.Context, by *http.Client, at *url.URL) (*http.Response, []byte, error) {
	for range mostRedirect + 1 {
		request, err := http.NewRequestWithContext(ctx, http.MethodGet, at.String(), nil)
		if err != nil {
			return nil, nil, errors.New("that is not an address")
		}
		request.Header.Set("Accept", "text/html, application/json;q=0.8")
		answer, err := by.Do(request)
		if err != nil {
			return nil, nil, errors.New(strings.TrimRight(lower(reach.Reason(err)), "."))
		}
		page, err := io.ReadAll(io.LimitReader(answer.Body, pageSize))
		answer.Body.Close()
		switch {
		case err != nil:
			return nil, nil, errors.New("the page broke off")
		case answer.StatusCode == http.StatusOK:
			return answer, page, nil
		case answer.StatusCode < 300 || answer.StatusCode >= 400:
			return nil, nil, fmt.Errorf("it answered %s", answer.Status)
		}
		if at, err = answer.Location(); err != nil {
			return nil, nil, errors.New("it leads nowhere")
		}
	}
	return nil, nil, errors.New("it leads on and on")
}

func lower(sentence string) string { return strings.ToLower(sentence[:1]) + sentence[1:] }

// linksOf are the first links of a page by their relations; those of the headers come first.
func linksOf(h http.Header, page []byte) map[string]string {
	links := make(map[string]string)
	note := func(rels, to string) {
		for rel := range strings.FieldsSeq(strings.ToLower(rels)) {
			if _, there := links[rel]; !there {
				links[rel] = to
			}
		}
	}
	for _, header := range h.Values("Link") {
		for one := range strings.SplitSeq(header, ",") {
			to, rest, ok := strings.Cut(one, ">")
			to = strings.TrimSpace(to)
			if !ok || !strings.HasPrefix(to, "<") {
				continue
			}
			for param := range strings.SplitSeq(rest, ";") {
				if name, value, ok := strings.Cut(strings.TrimSpace(param), "="); ok && strings.EqualFold(name, "rel") {
					note(strings.Trim(value, `"`), to[1:])
				}
			}
		}
	}
	for z := html.NewTokenizer(bytes.NewReader(page)); ; {
		switch z.Next() {
		case html.ErrorToken:
			return links
		case html.StartTagToken, html.SelfClosingTagToken:
			name, more := z.TagName()
			if string(name) != "link" && string(name) != "a" {
				continue
			}
			rel, to, has := "", "", false
			for more {
				var key, value []byte
				key, value, more = z.TagAttr()
				switch string(key) {
				case "rel":
					rel = string(value)
				case "href":
					to, has = string(value), true
				}
			}
			if has {
				note(rel, to)
			}
		}
	}
}

// SignInAtSite returns the sign-in of a site, by IndieAuth: OAuth 2.0 with PKCE, in which programs are known by their
// address.
func SignInAtSite(site Site, program, back string, by *http.Client) Desk {
	return Desk{config: oauth2.Config{ClientID: program, RedirectURL: back, Scopes: []string{"create", "update", "delete", "undelete", "media"},
		Endpoint: oauth2.Endpoint{AuthURL: site.Authorization, TokenURL: site.Token, AuthStyle: oauth2.AuthStyleInParams}}, by: by, me: site.Me}
}

// Send posts a note. Sites know no keys: where it is not known whether a note arrived, it is not sent again, and an
// editor is asked to look.
func (n micropub) Send(ctx context.Context, a Account, m Message) (Receipt, error) {
	if len(m.Media) > n.Media() {
		m.Media = m.Media[:n.Media()]
	}
	body, kind, err := note(m)
	if err != nil {
		return Receipt{}, err
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, a.Address, body)
	if err != nil {
		return Receipt{}, &Refused{Reason: "the channel's address is not one"}
	}
	request.Header.Set("Content-Type", kind)
	request.Header.Set("Authorization", "Bearer "+a.Token)
	answer, said, err := askBy(a.Client, request)
	if err != nil {
		var inside *reach.Inside
		var call *net.OpError
		switch {
		case errors.As(err, &inside):
			return Receipt{}, &Refused{Reason: inside.Error()}
		case errors.As(err, &call) && call.Op == "dial":
			return Receipt{}, errors.New(strings.TrimRight(lower(reach.Reason(err)), "."))
		}
		return Receipt{}, &Refused{Reason: "the site did not say whether it took the note. Look there before you send it again"}
	}
	switch code := answer.StatusCode; {
	case code == http.StatusCreated || code == http.StatusAccepted || code == http.StatusOK:
		r := Receipt{ID: m.Key}
		if at, err := answer.Location(); err == nil && isLink(at.String()) {
			r.URL, r.ID = at.String(), at.String()
		}
		return r, nil
	case code == http.StatusForbidden:
		return Receipt{}, &SignedOut{"the site does not let the program post any more"}
	case code >= 500 && answer.Header.Get("Retry-After") == "":
		return Receipt{}, &Refused{Reason: fmt.Sprintf("the site answered %s. Look there whether the note arrived before you send it again", answer.Status)}
	case code >= 300 && code < 400:
		return Receipt{}, &Refused{Reason: fmt.Sprintf("the site answered %s and leads elsewhere", answer.Status)}
	}
	_, err = read(answer, reasonOfSite(said))
	return Receipt{}, err
}

// reasonOfSite has what a site says against a note (Micropub, section 3.4.4) as a problem says it.
func reasonOfSite(text []byte) []byte {
	var said struct {
		About string `json:"error_description"`
	}
	if json.Unmarshal(text, &said) != nil || said.About == "" {
		return text
	}
	problem, err := json.Marshal(map[string]string{"detail": said.About})
	if err != nil {
		return text
	}
	return problem
}

// note is a message as a form: with pictures, in parts (RFC 7578).
func note(m Message) (io.Reader, string, error) {
	if len(m.Media) == 0 {
		form := url.Values{"h": {"entry"}, "content": {m.Text}}
		return strings.NewReader(form.Encode()), "application/x-www-form-urlencoded", nil
	}
	var body bytes.Buffer
	parts := multipart.NewWriter(&body)
	if err := errors.Join(parts.WriteField("h", "entry"), parts.WriteField("content", m.Text)); err != nil {
		return nil, "", err
	}
	name := "photo"
	if len(m.Media) > 1 {
		name = "photo[]"
	}
	for i, one := range m.Media {
		head := make(textproto.MIMEHeader)
		head.Set("Content-Disposition", fmt.Sprintf(`form-data; name=%q; filename="picture-%d.%s"`, name, i+1, strings.TrimPrefix(one.Type, "image/")))
		head.Set("Content-Type", one.Type)
		part, err := parts.CreatePart(head)
		if err != nil {
			return nil, "", err
		}
		if _, err := part.Write(one.Data); err != nil {
			return nil, "", err
		}
		if err := parts.WriteField("mp-photo-alt[]", one.Alt); err != nil {
			return nil, "", err
		}
	}
	return &body, parts.FormDataContentType(), parts.Close()
}

// Renew gets an account of a kind new tokens for ones that ended.
func Renew(ctx context.Context, kind, address, home string, by *http.Client, refresh string) (Tokens, error) {
	if kind != Micropub {
		return SignInAt(address, "").Renew(ctx, refresh)
	}
	site, err := Discover(ctx, by, home)
	if err != nil {
		return Tokens{}, fmt.Errorf("asking the site for tokens: %w", err)
	}
	return SignInAtSite(site, "", "", by).Renew(ctx, refresh)
}
