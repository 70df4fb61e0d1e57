package store

import (
	"context"
	"encoding/json"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgxlisten"
)

// Changes tells subscribers that a site's plan has changed, in this process or any
// other, from PostgreSQL's NOTIFY. It promises that a subscriber hears of a change
// after its last reading; it does not promise one signal a change.
type Changes struct {
	url string
	log *slog.Logger

	mu          sync.Mutex
	subscribers map[*Subscription]bool
}

// ChangeOf is a kind of change.
type ChangeOf string

// The kinds of changes, as the schema's triggers name them.
const (
	ChangeText     ChangeOf = "text"  // what was written in posts, but for their titles
	ChangeTitle    ChangeOf = "title" // titles of posts
	ChangePlan     ChangeOf = "plan"  // which posts there are, where they stand, what rules know of them
	ChangeRhythm   ChangeOf = "rhythm"
	ChangeRules    ChangeOf = "rules" // rules, what they did, channels
	ChangeSite     ChangeOf = "site"
	ChangeComments ChangeOf = "comments" // of readers
	ChangeRemarks  ChangeOf = "remarks"  // of the blog's people among themselves, with their requests
	ChangeAll      ChangeOf = "all"      // something may have changed unseen
	changeAsks     ChangeOf = "asks"
)

// SeenChange is what has changed since it was asked last.
type SeenChange struct {
	Of map[ChangeOf]bool
	// Posts are the versions of the posts that changed, where all changes of posts named
	// theirs.
	Posts map[int64]int
	// Unnamed tells that posts changed that are not named.
	Unnamed bool
}

// Subscription receives on C after changes.
type Subscription struct {
	C    <-chan struct{}
	send chan struct{}
	site int64

	mu   sync.Mutex
	seen SeenChange
}

// Take returns what has changed since it was taken last. It may be nothing that is shown:
// then Of is empty.
func (s *Subscription) Take() SeenChange {
	s.mu.Lock()
	defer s.mu.Unlock()
	seen := s.seen
	s.seen = SeenChange{}
	return seen
}

func (s *Subscription) note(c change) {
	s.mu.Lock()
	defer s.mu.Unlock()
	if c.Of == changeAsks {
		return
	}
	if s.seen.Of == nil {
		s.seen.Of, s.seen.Posts = make(map[ChangeOf]bool), make(map[int64]int)
	}
	s.seen.Of[c.Of] = true
	if len(c.Posts) == 0 {
		s.seen.Unnamed = true
	}
	for _, p := range c.Posts {
		s.seen.Posts[p.ID] = max(p.Version, s.seen.Posts[p.ID])
	}
}

// change is what a trigger tells.
type change struct {
	Site  int64    `json:"site"`
	Of    ChangeOf `json:"of"`
	Posts []struct {
		ID      int64 `json:"id"`
		Version int   `json:"version"`
	} `json:"posts"`
}

// AllSites subscribes to the changes of every site.
const AllSites int64 = 0

// Changes returns a listener on the store's database; call Run to have it listen.
func (s *Store) Changes(log *slog.Logger) *Changes {
	return &Changes{url: s.url, log: log, subscribers: make(map[*Subscription]bool)}
}

// Subscribe begins a subscription to one site or to AllSites. End it with
// Unsubscribe.
func (c *Changes) Subscribe(site int64) *Subscription {
	ch := make(chan struct{}, 1)
	s := &Subscription{C: ch, send: ch, site: site}
	c.mu.Lock()
	defer c.mu.Unlock()
	c.subscribers[s] = true
	return s
}

// Unsubscribe ends a subscription.
func (c *Changes) Unsubscribe(s *Subscription) {
	c.mu.Lock()
	defer c.mu.Unlock()
	delete(c.subscribers, s)
}

// signal wakes the subscribers of a site, or all of them for AllSites.
func (c *Changes) signal(told change) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for s := range c.subscribers {
		if told.Site == AllSites || s.site == AllSites || s.site == told.Site {
			s.note(told)
			select {
			case s.send <- struct{}{}:
			default: // a signal is waiting already
			}
		}
	}
}

// betweenTries is after how long a lost connection is made again.
const betweenTries = time.Second

// Run listens until the context ends. It connects again when the connection is
// lost, and then wakes everyone, since changes may have been missed.
func (c *Changes) Run(ctx context.Context) {
	listener := pgxlisten.Listener{
		Connect:        func(ctx context.Context) (*pgx.Conn, error) { return pgx.Connect(ctx, c.url) },
		ReconnectDelay: betweenTries,
		LogError: func(ctx context.Context, err error) {
			if ctx.Err() == nil {
				c.log.Warn("listening for changes failed", "error", err)
			}
		},
	}
	listener.Handle("plan", c)
	_ = listener.Listen(ctx) // it ends with the context, and with nothing else
}

// HandleBacklog wakes everyone once the listener is connected.
func (c *Changes) HandleBacklog(context.Context, string, *pgx.Conn) error {
	c.signal(change{Site: AllSites, Of: ChangeAll})
	return nil
}

// HandleNotification wakes those whom a change concerns.
func (c *Changes) HandleNotification(_ context.Context, n *pgconn.Notification, _ *pgx.Conn) error {
	var told change
	if err := json.Unmarshal([]byte(n.Payload), &told); err != nil {
		told = change{Site: AllSites, Of: ChangeAll}
	}
	c.signal(told)
	return nil
}
