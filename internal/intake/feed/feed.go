// Package feed reads feeds: RSS (0.9 to 2.0), Atom (RFC 4287) and JSON Feed (1.1). What is read is bounded whatever a feed holds.
package feed

import (
	"bytes"
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/mmcdole/gofeed"

	"dapper.example/internal/budget"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/reach"
)

// Limits of what is read.
const (
	MaxBytes  = 5 << 20
	MaxItems  = 500
	maxText   = 1 << 20 // bytes of an item's text
	maxShort  = 2000    // bytes of a title, an address, a name
	redirects = 5
	longest   = 7 * 24 * time.Hour
	mostItems = 10_000 // that a feed may have; the newest are read
	// megabytes is what it takes to read a feed, made for nothing but to take much.
	megabytes = 96
	patience  = 10 * time.Second
)

// Seen is what a feed said of itself when it was fetched last (RFC 9110, section 13.1).
type Seen struct{ ETag, Modified string }

// Fetched is a feed as it was fetched.
type Fetched struct {
	Seen
	Title     string
	Lines     []intake.Line // newest first, as feeds have them
	Unchanged bool          // it is as it was seen last
	// Wait is how long it asks to be left alone; 0: it does not ask.
	Wait time.Duration
}

// Failed says, in a sentence, why a feed could not be fetched or read.
type Failed struct {
	Why  string
	Wait time.Duration // how long it asks to be left alone; 0: it does not ask
}

func (f *Failed) Error() string { return f.Why }

// Client returns a client for feeds: it follows some redirects, none of which leads inside.
func Client(allowed reach.Allowed) *http.Client {
	c := reach.Client(allowed)
	c.CheckRedirect = func(r *http.Request, before []*http.Request) error {
		if len(before) > redirects {
			return errors.New("it leads from one address to another without end")
		}
		if r.URL.Scheme != "https" && r.URL.Scheme != "http" {
			return errors.New("it leads to an address that is no web page")
		}
		return nil
	}
	return c
}

// Fetch fetches a feed, unless it is as it was seen. It fails with *Failed.
func Fetch(ctx context.Context, c *http.Client, address string, seen Seen, now time.Time) (Fetched, error) {
	request, err := http.NewRequestWithContext(ctx, http.MethodGet, address, nil)
	if err != nil {
		return Fetched{}, &Failed{Why: "That is no address."}
	}
	request.Header.Set("Accept", "application/atom+xml, application/rss+xml, application/feed+json, application/xml;q=0.9, application/json;q=0.9, */*;q=0.5")
	request.Header.Set("User-Agent", "DapperAlmanac/1.0")
	if seen.ETag != "" {
		request.Header.Set("If-None-Match", seen.ETag)
	}
	if seen.Modified != "" {
		request.Header.Set("If-Modified-Since", seen.Modified)
	}
	answer, err := c.Do(request)
	if err != nil {
		return Fetched{}, &Failed{Why: reach.Reason(err)}
	}
	defer answer.Body.Close()
	wait := waitOf(answer.Header.Get("Retry-After"), now)
	switch {
	case answer.StatusCode == http.StatusNotModified:
		return Fetched{Seen: seen, Unchanged: true, Wait: wait}, nil
	case answer.StatusCode != http.StatusOK:
		return Fetched{}, &Failed{Why: fmt.Sprintf("It answered %s.", strings.TrimSpace(fmt.Sprintf("%d %s", answer.StatusCode, http.StatusText(answer.StatusCode)))), Wait: wait}
	}
	data, err := io.ReadAll(io.LimitReader(answer.Body, MaxBytes+1))
	if err != nil {
		return Fetched{}, &Failed{Why: "It was not read to its end: " + reach.Reason(err), Wait: wait}
	}
	if len(data) > MaxBytes {
		return Fetched{}, &Failed{Why: fmt.Sprintf("It has more than %d MB.", MaxBytes>>20), Wait: wait}
	}
	release, err := budget.Take(ctx, megabytes, patience)
	if err != nil {
		return Fetched{}, err
	}
	defer release()
	f, err := Read(data)
	f.Seen = Seen{short(answer.Header.Get("ETag")), short(answer.Header.Get("Last-Modified"))}
	f.Wait = wait
	return f, err
}

// waitOf reads Retry-After (RFC 9110, section 10.2.3): seconds, or a moment.
func waitOf(said string, now time.Time) time.Duration {
	if said == "" {
		return 0
	}
	if seconds, err := strconv.Atoi(said); err == nil && seconds > 0 {
		return min(time.Duration(min(seconds, int(longest/time.Second)))*time.Second, longest)
	}
	at, err := http.ParseTime(said)
	if err != nil {
		return 0
	}
	return min(max(at.Sub(now), 0), longest)
}

// Read reads a feed. It fails with *Failed.
func Read(data []byte) (f Fetched, err error) {
	defer func() {
		if problem := recover(); problem != nil {
			err = &Failed{Why: "It can't be read as a feed."}
		}
	}()
	if bytes.Count(data, []byte("<item"))+bytes.Count(data, []byte("<entry")) > mostItems || bytes.Count(data, []byte("{")) > 20*mostItems {
		return f, &Failed{Why: fmt.Sprintf("It has more than %d items.", mostItems)}
	}
	if problem := tooDeep(data); problem {
		return f, &Failed{Why: "It can't be read as a feed: it is nested too deeply."}
	}
	read, err := gofeed.NewParser().Parse(bytes.NewReader(data))
	if err != nil {
		return f, &Failed{Why: "It can't be read as a feed: RSS, Atom or JSON Feed is expected at this address."}
	}
	f.Title = strings.Join(strings.Fields(short(read.Title)), " ")
	seen := make(map[string]bool)
	for _, item := range read.Items[:min(len(read.Items), MaxItems)] {
		if l := lineOf(item); l.Key != "" && !seen[l.Key] {
			seen[l.Key] = true
			f.Lines = append(f.Lines, l)
		}
	}
	return f, nil
}

// deepest is how deep elements or lists of a feed may lie in one another.
const deepest = 200

// tooDeep tells whether tags, or brackets of JSON, lie deeper in one another than in any feed that somebody reads.
func tooDeep(data []byte) bool {
	isJSON := bytes.HasPrefix(bytes.TrimLeft(data, " \t\r\n\xef\xbb\xbf"), []byte("{"))
	depth := 0
	for i := 0; i+1 < len(data) && depth <= deepest; i++ {
		switch c, next := data[i], data[i+1]; {
		case isJSON && (c == '[' || c == '{'):
			depth++
		case isJSON && (c == ']' || c == '}'):
			depth--
		case isJSON || c != '<' || next == '!' || next == '?':
		case next == '/':
			depth--
		default:
			end := bytes.IndexByte(data[i:], '>')
			if end < 0 {
				return false
			}
			if i += end; data[i-1] != '/' {
				depth++
			}
		}
	}
	return depth > deepest
}

// lineOf is an item as a line: known again by its id, else by its link, else by its title.
func lineOf(item *gofeed.Item) intake.Line {
	l := intake.Line{Key: short(item.GUID), Article: intake.Article{Format: intake.HTML, Title: strings.Join(strings.Fields(short(item.Title)), " "), Link: addressOf(item.Link), Date: short(item.Published)}}
	if l.Date == "" {
		l.Date = short(item.Updated)
	}
	if item.PublishedParsed != nil {
		l.Date = item.PublishedParsed.UTC().Format(time.RFC3339)
	} else if item.UpdatedParsed != nil {
		l.Date = item.UpdatedParsed.UTC().Format(time.RFC3339)
	}
	if l.Key == "" {
		l.Key = l.Link
	}
	if l.Key == "" && l.Title != "" {
		sum := sha256.Sum256([]byte(l.Title))
		l.Key = hex.EncodeToString(sum[:8])
	}
	if l.Place = l.Link; l.Place == "" {
		l.Place = l.Key
	}
	if l.Body = item.Content; l.Body == "" {
		l.Body = item.Description
	} else if len(item.Description) <= maxShort && !strings.Contains(item.Description, "<") {
		l.Excerpt = strings.TrimSpace(item.Description)
	}
	if len(l.Body) > maxText {
		l.Body = strings.ToValidUTF8(l.Body[:maxText], "")
		l.Problem = fmt.Sprintf("Its text has more than %d kB; the rest was left out.", maxText>>10)
	}
	if len(item.Authors) > 0 && item.Authors[0] != nil {
		l.Author = short(item.Authors[0].Name)
	}
	for _, c := range item.Categories[:min(len(item.Categories), 30)] {
		l.Tags = append(l.Tags, short(c))
	}
	if item.Image != nil {
		l.Picture = addressOf(item.Image.URL)
	}
	for _, e := range item.Enclosures {
		if l.Picture == "" && e != nil && strings.HasPrefix(e.Type, "image/") {
			l.Picture = addressOf(e.URL)
		}
	}
	l.Columns = []intake.Column{{Name: "Title", Value: l.Title}, {Name: "Link", Value: l.Link}, {Name: "Author", Value: l.Author}, {Name: "Date", Value: l.Date}, {Name: "Picture", Value: l.Picture}}
	return l
}

func short(text string) string {
	text = strings.ReplaceAll(strings.TrimSpace(text), "\x00", "")
	if len(text) > maxShort {
		text = text[:maxShort]
	}
	return strings.ToValidUTF8(text, "")
}

// addressOf is an address of the web; "" for another.
func addressOf(text string) string {
	if text = short(text); strings.HasPrefix(text, "https://") || strings.HasPrefix(text, "http://") {
		return text
	}
	return ""
}
