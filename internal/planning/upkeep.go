package planning

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// Line is what the lines of the logbook of one act have in common.
type Line struct {
	Site  int64
	At    time.Time
	Actor *int64 // nil: the engine
	Batch *int64
	Rule  *int64
}

// TakeAway does a deed of upkeep to a post: archive, to draft or bin. The post is locked
// by it; the site's lock is the caller's affair.
func TakeAway(ctx context.Context, tx *store.Tx, l Line, d deed.Deed) error {
	return l.change(ctx, tx, d, func(p *store.Post) {
		p.Sit(rhythm.SlotID{})
		p.DueAt, p.Pinned, p.Cleared, p.ShelfRank, p.Held = nil, false, false, nil, false
		switch d.Kind {
		case deed.Archive:
			p.Status, p.ArchivedAt, p.Notice = store.Archived, &l.At, d.Notice
		case deed.ToDraft:
			p.Status, p.PublishedAt, p.ArchivedAt, p.Notice = store.Draft, nil, nil, ""
		case deed.Bin:
			p.Status = store.Binned
		}
	})
}

// BringOut does the deed of republishing a post.
func BringOut(ctx context.Context, tx *store.Tx, l Line, d deed.Deed) error {
	err := l.change(ctx, tx, d, func(p *store.Post) {
		p.Sit(rhythm.SlotID{})
		p.PublishedAt, p.RepublishedAt = &l.At, &l.At
		p.TimesRepublished++
	})
	if err != nil {
		return err
	}
	return tx.InsertRepublication(ctx, store.Republication{SiteID: l.Site, Rule: l.Rule, Post: d.Post, At: l.At, Round: d.Round})
}

func (l Line) change(ctx context.Context, tx *store.Tx, d deed.Deed, change func(*store.Post)) error {
	p, err := tx.LockPost(ctx, l.Site, d.Post)
	if err != nil {
		return fmt.Errorf("to %s post %d: %w", d.Kind, d.Post, err)
	}
	before := placeOf(p)
	change(&p)
	if err := tx.SavePlace(ctx, p, l.At); err != nil {
		return fmt.Errorf("to %s post %d: %w", d.Kind, d.Post, err)
	}
	return tx.Log(ctx, store.LogEntry{SiteID: l.Site, At: l.At, Actor: l.Actor, Deed: string(d.Kind), Post: &p.ID, Reason: d.Reason,
		Before: before, After: placeOf(p), Batch: l.Batch, Rule: l.Rule})
}

// byRule tells whether a line is of what a rule, or a post's own expiry, did.
func byRule(line store.LogEntry) bool {
	if line.Rule == nil && line.Actor != nil {
		return false // by hand
	}
	switch deed.Kind(line.Deed) {
	case deed.Archive, deed.ToDraft, deed.Bin, deed.Republish:
		return true
	}
	return false
}

// undone is why a rule waits after a run of it was undone.
const undone = "What it did was undone. Check which posts it matches, then resume it or change it."

// undoUpkeep gives a post back what a rule took from it. The rule waits for an editor
// afterwards, or it would do the same again at its next turn.
func (d Desk) undoUpkeep(ctx context.Context, tx *store.Tx, p store.Post, line store.LogEntry, to place, now time.Time) error {
	was := placeOf(p)
	outAgain := p.PublishedAt
	p.Status, p.PublishedAt, p.FirstPublishedAt = to.Status, to.PublishedAt, to.FirstPublishedAt
	p.RepublishedAt, p.TimesRepublished = to.RepublishedAt, to.TimesRepublished
	p.ArchivedAt, p.Notice = to.ArchivedAt, to.Notice
	if err := tx.SavePlace(ctx, p, now); err != nil {
		return fmt.Errorf("changing post %d: %w", p.ID, err)
	}
	reason := "Undone: " + line.Reason
	if p.Status == store.Published && p.ExpiresAt != nil && !p.ExpiresAt.After(now) {
		// It would take the post away again at once.
		p.ExpiresAt = nil
		if err := tx.SaveCare(ctx, p, now); err != nil {
			return fmt.Errorf("changing post %d: %w", p.ID, err)
		}
		reason += " Its expiry date had passed, so it was removed."
	}
	if line.Deed == string(deed.Republish) && outAgain != nil {
		if err := tx.ForgetRepublication(ctx, d.Site.ID, p.ID, *outAgain); err != nil {
			return err
		}
	}
	if line.Rule != nil {
		if err := tx.HoldRule(ctx, d.Site.ID, *line.Rule, undone, now); err != nil {
			return err
		}
	}
	return tx.Log(ctx, store.LogEntry{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: store.DeedUndo, Post: &p.ID, Rule: line.Rule,
		Reason: reason, Before: was, After: placeOf(p), Batch: d.batch})
}
