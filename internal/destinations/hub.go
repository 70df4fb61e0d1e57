package destinations

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strings"
	"time"

	"dapper.example/internal/reach"
	"dapper.example/internal/store"
)

// feeds are the feeds of a blog that its hub is told of: those that name it.
var feeds = []string{"feed.atom", "feed.rss", "feed.json"}

const (
	// together is for how long, after a hub was told, what changes then is told together.
	together = 30 * time.Second
	// answerRead bounds what is read of an answer, so that the connection can be used again.
	answerRead = 16 << 10
)

// tellHubs tells hubs that feeds have changed.
func (s *Sender) tellHubs(ctx context.Context) error {
	now := s.Clock.Now()
	due, err := s.Store.ClaimTellings(ctx, now, now.Add(lease), claimed)
	if err != nil {
		return fmt.Errorf("taking what hubs are to be told: %w", err)
	}
	var failed error
	for _, t := range due {
		failed = errors.Join(failed, s.tell(ctx, t))
	}
	return failed
}

// tell tells one hub, and notes what came of it.
func (s *Sender) tell(ctx context.Context, t store.HubTelling) error {
	site, err := s.Store.Site(ctx, t.SiteID)
	if err != nil {
		return err
	}
	why := ""
	for _, feed := range feeds {
		if why = s.ping(ctx, site.Hub, site.Home(s.Public).Full(feed)); why != "" {
			break
		}
	}
	if ctx.Err() != nil {
		return nil // the program ends; another goes on when the lease ends
	}
	now := s.Clock.Now()
	t.TriedAt, t.Error = &now, why
	if why == "" {
		t.Done, t.Tries, t.ToldAt, t.NextAt = t.Wanted, 0, &now, now.Add(together)
		return s.Store.SettleTelling(ctx, t)
	}
	t.NextAt = now.Add(waits[min(t.Tries, len(waits)-1)])
	t.Tries++
	if err := s.Store.SettleTelling(ctx, t); err != nil || t.Tries != tellAfter {
		return err
	}
	return s.Store.InTx(ctx, func(tx *store.Tx) error {
		return tx.Log(ctx, store.LogEntry{SiteID: t.SiteID, At: now, Deed: store.DeedDelivery,
			Reason: fmt.Sprintf("The WebSub hub could not be told of new posts: %s It is tried again, later and later.", why)})
	})
}

// ping tells a hub that a feed has changed, in the form that hubs have in common (W3C WebSub, section 7, leaves it to them); it returns
// why that failed, a sentence, or "".
func (s *Sender) ping(ctx context.Context, hub, feed string) string {
	form := url.Values{"hub.mode": {"publish"}, "hub.topic": {feed}, "hub.url": {feed}}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, hub, strings.NewReader(form.Encode()))
	if err != nil {
		return "Its address is not one."
	}
	request.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	request.Header.Set("User-Agent", "Dapper-Almanac")
	// Not sent: it says that the request may be made again where a connection that was kept turns out to be closed. To tell a hub
	// twice does no harm.
	request.Header["Idempotency-Key"] = nil
	answer, err := s.Client.Do(request)
	if err != nil {
		return reach.Reason(err)
	}
	defer answer.Body.Close()
	said, _ := io.ReadAll(io.LimitReader(answer.Body, answerRead))
	if answer.StatusCode >= 200 && answer.StatusCode < 300 {
		return ""
	}
	if text := strings.TrimSpace(string(said)); text != "" && len(text) < 200 && strings.HasPrefix(answer.Header.Get("Content-Type"), "text/plain") {
		return fmt.Sprintf("It answered %s: %s", answer.Status, text)
	}
	return fmt.Sprintf("It answered %s.", answer.Status)
}
