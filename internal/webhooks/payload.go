package webhooks

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"dapper.example/internal/store"
)

// Payload is what a webhook is told, as JSON.
type Payload struct {
	Type      string    `json:"type"`
	Timestamp time.Time `json:"timestamp"` // when it happened
	Data      Data      `json:"data"`
}

// Data is what happened. What an event is not about is left out.
type Data struct {
	Blog   BlogData    `json:"blog"`
	Post   *PostData   `json:"post,omitempty"`
	Outing *OutingData `json:"outing,omitempty"`
	Rule   *RuleData   `json:"rule,omitempty"`
	Reason string      `json:"reason,omitempty"` // as the logbook has it
	By     string      `json:"by,omitempty"`     // who did it; nobody: the program
	Sample bool        `json:"sample,omitempty"` // it was sent to try the webhook out
}

// BlogData is a blog.
type BlogData struct {
	Slug    string `json:"slug"`
	Title   string `json:"title"`
	Address string `json:"address"`
}

// PostData is a post, as it is when the webhook is first told.
type PostData struct {
	ID          int64      `json:"id"`
	Title       string     `json:"title"`
	Slug        string     `json:"slug,omitempty"`
	Address     string     `json:"address,omitempty"` // where readers find it, if it is out
	Status      string     `json:"status"`
	Excerpt     string     `json:"excerpt,omitempty"`
	PublishedAt *time.Time `json:"publishedAt,omitempty"`
	DueAt       *time.Time `json:"dueAt,omitempty"`
}

// OutingData is a message on one channel.
type OutingData struct {
	ID      int64      `json:"id"`
	Channel string     `json:"channel"`
	Text    string     `json:"text"`
	Link    string     `json:"link,omitempty"`
	State   string     `json:"state"`
	At      time.Time  `json:"at"`
	SentAt  *time.Time `json:"sentAt,omitempty"`
	URL     string     `json:"url,omitempty"` // where it can be read
	Error   string     `json:"error,omitempty"`
}

// RuleData is a rule.
type RuleData struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

func (s *Sender) body(ctx context.Context, d store.HookDelivery) (string, error) {
	site, err := s.Store.Site(ctx, d.SiteID)
	if err != nil {
		return "", err
	}
	p := Payload{Type: d.Event, Timestamp: d.At.UTC(), Data: Data{Sample: d.Sample,
		Blog: BlogData{site.Slug, site.Title, site.Home(s.Public).Full("")}}}
	if d.Line != 0 {
		line, err := s.Store.LogLine(ctx, d.SiteID, int64(d.Line))
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return "", err
		}
		p.Data.Reason, p.Data.By = line.Reason, line.Who
	}
	if d.Post != 0 {
		post, err := s.Store.Post(ctx, d.SiteID, int64(d.Post))
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return "", err
		}
		if err == nil {
			p.Data.Post = &PostData{ID: post.ID, Title: post.Title, Slug: post.Slug, Status: string(post.Status), Excerpt: post.Excerpt,
				PublishedAt: post.PublishedAt, DueAt: post.DueAt}
			if post.State().IsOut() {
				p.Data.Post.Address = site.Home(s.Public).Full(post.Slug)
			}
		}
	}
	if d.Outing != 0 {
		o, err := s.Store.Outing(ctx, int64(d.Outing))
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return "", err
		}
		if err == nil {
			p.Data.Outing = &OutingData{o.ID, o.Network, o.Text, o.Link, o.State, o.At.UTC(), o.SentAt, o.RemoteURL, o.Error}
		}
	}
	if d.Rule != 0 {
		r, err := s.Store.Rule(ctx, d.SiteID, int64(d.Rule))
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return "", err
		}
		if err == nil {
			p.Data.Rule = &RuleData{r.ID, r.Name}
		}
	}
	text, err := json.Marshal(p)
	return string(text), err
}
