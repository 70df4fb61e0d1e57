package writing

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/store"
)

// Said is what a post said before a timed edit, or after it, as the logbook keeps it: the version of its text, and what stands beside it.
type Said struct {
	Edit int64       `json:"edit"`
	Text int64       `json:"text"` // the version
	Care revise.Text `json:"care"` // without title, body, excerpt, tags and fields, which the version has
}

// SaidOf is what a post says now; edit is the timed edit that is about, 0: none.
func SaidOf(edit int64, p store.Post) Said {
	care := p.Says()
	care.Title, care.Body, care.Excerpt, care.Tags, care.Fields = "", "", "", nil, nil
	return Said{edit, p.TextID, care}
}

// Say writes what a locked post says from now on as a version of its own; its former address leads on to a new one.
func Say(ctx context.Context, tx *store.Tx, before, p store.Post, actor *int64, why string, now time.Time) error {
	if p.Slug != before.Slug && before.Slug != "" && before.FirstPublishedAt != nil {
		if err := tx.MoveSlug(ctx, p.SiteID, p.ID, before.Slug, p.Slug); err != nil {
			return fmt.Errorf("keeping the former address: %w", err)
		}
	}
	tags := make([]store.Tag, 0, len(p.Tags))
	for _, name := range p.Tags {
		tags = append(tags, store.Tag{Slug: address.Slug(name), Name: name})
	}
	if err := tx.Queries.SetTags(ctx, p.SiteID, p.ID, tags); err != nil {
		return fmt.Errorf("setting tags: %w", err)
	}
	if err := tx.SaveBecause(ctx, p, actor, why, now); err != nil {
		return fmt.Errorf("writing the text: %w", err)
	}
	return nil
}
