package planning

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/store"
)

// ownPages are the addresses that the blog keeps for pages of its own.
var ownPages = []string{"search", "category", "tag", "author", "archive", "pictures", "preview", "feed"}

// setSlug gives the post another address. Where readers may know the old one, it leads
// on to the new one.
func (d Desk) setSlug(ctx context.Context, tx *store.Tx, post *store.Post, wish string, now time.Time) error {
	next := address.Slug(wish)
	switch {
	case next == post.Slug:
		return nil
	case next == "" && post.Status != store.Draft:
		return act.Invalidf("slug", "A post that is scheduled or out needs an address.")
	case slices.Contains(ownPages, next):
		return act.Invalidf("slug", "“%s” is used by the blog itself. Choose another address.", next)
	}
	if next != "" {
		holder, err := tx.SlugHolder(ctx, d.Site.ID, next)
		switch {
		case errors.Is(err, store.ErrNotFound):
		case err != nil:
			return err
		case holder.ID == post.ID:
		case holder.Status == store.Binned:
			return act.Invalidf("slug",
				"“%s” is the address of “%s”, which is in the bin. Choose another, or delete that post for good first.", next, holder.Title)
		case holder.Slug != next:
			return act.Invalidf("slug",
				"“%s” used to be the address of “%s”, and readers who have it are sent there. Choose another.", next, holder.Title)
		default:
			return act.Invalidf("slug", "“%s” is the address of “%s”. Choose another.", next, holder.Title)
		}
	}
	old := post.Slug
	post.Slug = next
	if old == "" || post.FirstPublishedAt == nil {
		return nil // no reader has seen it
	}
	if err := tx.MoveSlug(ctx, d.Site.ID, post.ID, old, next); err != nil {
		return fmt.Errorf("keeping the old address of post %d: %w", post.ID, err)
	}
	return tx.Log(ctx, store.LogEntry{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: store.DeedAddress,
		Post:   &post.ID,
		Reason: fmt.Sprintf("Its address is now %s; %s redirects to it.", next, old)})
}

// freeSlug makes an address from a title, with a number behind it where the site
// has it already.
func freeSlug(ctx context.Context, q store.Queries, siteID int64, title string) (string, error) {
	base := address.Slug(title)
	if base == "" {
		base = "post"
	}
	taken, err := q.SlugsLike(ctx, siteID, base)
	if err != nil {
		return "", fmt.Errorf("looking for a free address: %w", err)
	}
	if !slices.Contains(taken, base) && !slices.Contains(ownPages, base) {
		return base, nil
	}
	for n := 2; ; n++ {
		if s := base + "-" + strconv.Itoa(n); !slices.Contains(taken, s) {
			return s, nil
		}
	}
}
