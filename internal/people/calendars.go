package people

import (
	"context"
	"fmt"
	"strings"
	"time"
	"unicode/utf8"

	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

const (
	maxFeeds    = 20
	maxFeedName = 80
)

// MakeCalendar makes a secret address at which calendar programs read the plan, and
// returns its secret.
func (h House) MakeCalendar(ctx context.Context, f store.CalendarFeed, now time.Time) (store.CalendarFeed, string,
	error) {
	f.Name, f.CreatedAt = strings.TrimSpace(f.Name), now
	if n := utf8.RuneCountInString(f.Name); n == 0 || n > maxFeedName {
		return f, "", invalid("name", "Give the calendar a name of 1 to %d characters.", maxFeedName)
	}
	there, err := h.Store.CalendarFeeds(ctx, f.SiteID, f.User)
	if err != nil {
		return f, "", err
	}
	if len(there) >= maxFeeds {
		return f, "", invalid("name",
			"You already have %d calendars of this blog, the most you can have. Remove one first.", maxFeeds)
	}
	secret, hash := secrets.New()
	f.Hash = hash
	if f.ID, err = h.Store.InsertCalendarFeed(ctx, f); err != nil {
		return f, "", fmt.Errorf("making a calendar: %w", err)
	}
	return f, secret, nil
}

// Calendar returns the feed that a secret opens. It fails with store.ErrNotFound.
func Calendar(ctx context.Context, q store.Queries, secret string) (store.CalendarFeed, error) {
	if secret == "" {
		return store.CalendarFeed{}, store.ErrNotFound
	}
	return q.CalendarFeedByHash(ctx, secrets.Hash(secret))
}
