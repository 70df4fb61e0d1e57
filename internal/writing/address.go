package writing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/store"
)

// setSlug gives the post another address. Where readers may know the old one, it leads
// on to the new one.
func setSlug(ctx context.Context, d act.Desk, tx *store.Tx, post *store.Post, wish string, now time.Time) error {
	next := address.Slug(wish)
	switch {
	case next == post.Slug:
		return nil
	case post.Kind == linkItem:
		return act.Invalidf("slug", "A link item has no page on the blog, and so no address.")
	case next == "" && post.Status != store.Draft:
		return act.Invalidf("slug", "A post that is scheduled or out needs an address.")
	case slices.Contains(act.OwnPages, next):
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
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedAddress,
		Post:   &post.ID,
		Reason: fmt.Sprintf("Its address is now %s; %s redirects to it.", next, old)})
}
