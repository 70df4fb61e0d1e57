package store

import (
	"context"
	"log/slog"
	"strconv"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
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

// Subscription receives on C after changes.
type Subscription struct {
	C    <-chan struct{}
	send chan struct{}
	site int64
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
func (c *Changes) signal(site int64) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for s := range c.subscribers {
		if site == AllSites || s.site == AllSites || s.site == site {
			select {
			case s.send <- struct{}{}:
			default: // a signal is waiting already
			}
		}
	}
}

const longestRetry = 10 * time.Second

// Run listens until the context ends. It connects again when the connection is
// lost, and then wakes everyone, since changes may have been missed.
func (c *Changes) Run(ctx context.Context) {
	retry := 100 * time.Millisecond
	for ctx.Err() == nil {
		err := c.listen(ctx, func() { retry = 100 * time.Millisecond })
		if ctx.Err() != nil {
			return
		}
		c.log.Warn("lost the connection that listens for changes", "error", err, "again in", retry)
		select {
		case <-ctx.Done():
		case <-time.After(retry):
		}
		retry = min(2*retry, longestRetry)
	}
}

func (c *Changes) listen(ctx context.Context, connected func()) error {
	conn, err := pgx.Connect(ctx, c.url)
	if err != nil {
		return err
	}
	defer conn.Close(context.WithoutCancel(ctx))
	if _, err := conn.Exec(ctx, `listen plan`); err != nil {
		return err
	}
	connected()
	c.signal(AllSites)
	for {
		n, err := conn.WaitForNotification(ctx)
		if err != nil {
			return err
		}
		site, err := strconv.ParseInt(n.Payload, 10, 64)
		if err != nil {
			site = AllSites
		}
		c.signal(site)
	}
}
