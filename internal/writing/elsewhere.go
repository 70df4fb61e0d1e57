package writing

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

// MoveDraft moves a draft to another blog of its editor: it begins there with all that is written, and goes into the bin here, from where it can be
// restored. Its author stays who is of that blog as well, or else becomes the editor; its category stays if that blog has one of the same name. Its
// pictures stay in the library of the first blog. It fails with *act.Invalid for what is no draft, and with act.ErrStale for one that was changed
// meanwhile; then there is none there.
func MoveDraft(ctx context.Context, d act.Desk, id int64, version int, to store.Site, now time.Time) (int64, error) {
	if to.ID == d.Site.ID {
		return 0, act.Invalidf("blog", "Choose another blog.")
	}
	p, err := d.Store.Post(ctx, d.Site.ID, id)
	switch {
	case err != nil:
		return 0, err
	case p.Version != version:
		return 0, act.ErrStale
	case p.Status != store.Draft:
		return 0, act.Invalidf("id", "Only a draft can be moved to another blog. Take this one off the calendar first.")
	case p.Kind == linkItem:
		return 0, act.Invalidf("id", "A link item can't be moved to another blog. Add it there.")
	}
	text, err := copied(ctx, d.Store.Queries, p, to)
	if err != nil {
		return 0, err
	}
	// Into the bin first: who loses a race for the post has nothing begun there.
	if err := status.Bin(ctx, d, id, version, now); err != nil {
		return 0, err
	}
	begun, err := BeginDraft(ctx, act.Desk{Store: d.Store, Site: to, Actor: d.Actor}, text, now)
	if err != nil {
		return 0, fmt.Errorf("beginning the draft on “%s”; it can be restored from the bin of “%s”: %w", to.Title, d.Site.Title, err)
	}
	return begun.ID, nil
}

// copied is what is written of a post, as the text of a draft of another blog.
func copied(ctx context.Context, q store.Queries, p store.Post, to store.Site) (Text, error) {
	tags, fields, none := append([]string{}, p.Tags...), map[string]string(p.Fields), int64(0)
	if fields == nil {
		fields = map[string]string{}
	}
	t := Text{Title: &p.Title, Body: &p.Body, Excerpt: &p.Excerpt, Tags: &tags, Category: &none, Kind: &p.Kind, Evergreen: &p.Evergreen, CommentsOpen: &p.CommentsOpen, Fields: &fields}
	if p.FeaturedImage != "" {
		t.Featured = &Featured{p.FeaturedImage, p.FeaturedAlt}
	}
	members, err := q.MembersNamed(ctx, to.ID)
	if err != nil {
		return t, err
	}
	for _, m := range members {
		if m.ID == p.AuthorID {
			t.Author = &p.AuthorID
		}
	}
	categories, err := q.Categories(ctx, to.ID)
	for _, c := range categories {
		if p.CategorySlug != nil && c.Slug == *p.CategorySlug {
			t.Category = &c.ID
		}
	}
	return t, err
}
