package enact

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/deed"
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

// timedEdit has a post say what was prepared. The edit's author is who wrote it.
func timedEdit(ctx context.Context, w *work, d deed.TimedEdit) error {
	e, err := w.tx.LockEdit(ctx, w.Site, d.Edit)
	if err != nil {
		return fmt.Errorf("finding the timed edit: %w", err)
	}
	p, err := w.tx.LockPost(ctx, w.Site, d.Post)
	if err != nil {
		return err
	}
	before := p
	p.Say(d.Text)
	if err := Say(ctx, w.tx, before, p, e.User, d.Reason, w.Now); err != nil {
		return err
	}
	after, err := w.tx.Post(ctx, w.Site, d.Post)
	if err != nil {
		return err
	}
	e.AppliedAt, e.State = &w.Now, store.EditApplied
	if !d.Next.IsZero() {
		e.State, e.DueAt, e.Base = store.EditWaiting, d.Next, store.Wording{Text: d.From}
	}
	if err := w.tx.SaveEdit(ctx, e, w.Now); err != nil {
		return fmt.Errorf("noting that it was applied: %w", err)
	}
	line := w.line(d.Base, deed.KindTimedEdit)
	if line.Before, err = json.Marshal(SaidOf(e.ID, before)); err != nil {
		return err
	}
	if line.After, err = json.Marshal(SaidOf(e.ID, after)); err != nil {
		return err
	}
	return w.tx.Log(ctx, line)
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

// holdEdit leaves a timed edit to an editor.
func holdEdit(ctx context.Context, w *work, d deed.HoldEdit) error {
	e, err := w.tx.LockEdit(ctx, w.Site, d.Edit)
	if err != nil {
		return fmt.Errorf("finding the timed edit: %w", err)
	}
	e.State, e.HeldWhy = store.EditHeld, d.Reason
	if err := w.tx.SaveEdit(ctx, e, w.Now); err != nil {
		return fmt.Errorf("holding it: %w", err)
	}
	if err := w.Queue.TellHeld(ctx, w.tx, w.Site, e.ID); err != nil {
		return fmt.Errorf("queueing the mail about it: %w", err)
	}
	line := w.line(d.Base, deed.KindHoldEdit)
	return w.tx.Log(ctx, line)
}
