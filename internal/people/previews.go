package people

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

const (
	// MaxPreviewLife is how long a link to a post that is not out may last.
	MaxPreviewLife = 90 * 24 * time.Hour
	maxPreviews    = 20
)

// PreviewOf is what a secret link shows: a post as it is, or as a timed edit will leave it.
type PreviewOf struct {
	Post int64
	Edit *int64 // of that post; nil: none
}

// MakePreview makes a secret link to a post as it is and will be until it ends, and
// returns its secret.
func (h House) MakePreview(ctx context.Context, site store.Site, user int64, of PreviewOf, life time.Duration,
	now time.Time) (store.PreviewLink, string, error) {
	link := store.PreviewLink{SiteID: site.ID, Post: of.Post, Edit: of.Edit, User: user, CreatedAt: now, ExpiresAt: now.Add(life)}
	if life <= 0 || life > MaxPreviewLife {
		return link, "", invalid("days", "A link lasts from 1 to %d days.", MaxPreviewLife/(24*time.Hour))
	}
	if _, err := h.Store.Post(ctx, site.ID, of.Post); err != nil {
		return link, "", err
	}
	there, err := h.Store.PreviewLinks(ctx, site.ID, of.Post, now)
	if err != nil {
		return link, "", err
	}
	if len(there) >= maxPreviews {
		return link, "", invalid("days", "The post already has %d links, the most it can have. Remove one first.",
			maxPreviews)
	}
	secret, hash := secrets.New()
	link.Hash = hash
	if link.ID, err = h.Store.InsertPreviewLink(ctx, link); err != nil {
		return link, "", fmt.Errorf("making a link to post %d: %w", of.Post, err)
	}
	return link, secret, nil
}
