package planning

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// place is a post's place in the plan as the logbook keeps it.
type place struct {
	Status      store.Status `json:"status"`
	Cleared     bool         `json:"cleared,omitempty"`
	ShelfRank   *int64       `json:"shelf_rank,omitempty"`
	DueAt       *time.Time   `json:"due_at,omitempty"`
	Pinned      bool         `json:"pinned,omitempty"`
	Held        bool         `json:"held,omitempty"`
	RhythmID    *int64       `json:"rhythm_id,omitempty"`
	SlotDate    *string      `json:"slot_date,omitempty"`
	SlotOpening *string      `json:"slot_opening,omitempty"`
	SlotOrdinal *int         `json:"slot_ordinal,omitempty"`
	PublishedAt *time.Time   `json:"published_at,omitempty"`
	NotBefore   *time.Time   `json:"not_before,omitempty"`
	Deadline    *time.Time   `json:"deadline,omitempty"`

	FirstPublishedAt *time.Time `json:"first_published_at,omitempty"`
	RepublishedAt    *time.Time `json:"republished_at,omitempty"`
	TimesRepublished int        `json:"times_republished,omitempty"`
	ArchivedAt       *time.Time `json:"archived_at,omitempty"`
	Notice           string     `json:"notice,omitempty"`
}

func placeOf(p store.Post) json.RawMessage {
	kept := place{Status: p.Status, Cleared: p.Cleared, ShelfRank: p.ShelfRank, DueAt: p.DueAt, Pinned: p.Pinned, Held: p.Held,
		RhythmID: p.RhythmID, SlotOpening: p.SlotOpening, SlotOrdinal: p.SlotOrdinal, PublishedAt: p.PublishedAt,
		NotBefore: p.NotBefore, Deadline: p.Deadline, FirstPublishedAt: p.FirstPublishedAt, RepublishedAt: p.RepublishedAt,
		TimesRepublished: p.TimesRepublished, ArchivedAt: p.ArchivedAt, Notice: p.Notice}
	if p.SlotDate != nil {
		date := p.SlotDate.Format(time.DateOnly)
		kept.SlotDate = &date
	}
	return mustJSON(kept)
}

// stands tells whether the post still has the place that a deed gave it.
func (a place) stands(p store.Post) bool {
	return a.Status == p.Status && a.Cleared == p.Cleared && a.Held == p.Held && sameTime(a.DueAt, p.DueAt) && sameTime(a.PublishedAt, p.PublishedAt)
}

// exact is as finely as PostgreSQL keeps time.
const exact = time.Microsecond

func sameTime(a, b *time.Time) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Sub(*b).Abs() <= exact
}

// CanUndo tells whether a line of the logbook is of a kind that can be undone and has
// not been.
func CanUndo(e store.LogEntry) bool {
	if e.UndoneAt != nil || len(e.Before) == 0 || string(e.Before) == "null" {
		return false
	}
	return e.Deed == store.DeedRhythm || e.Deed == store.DeedReorder || e.Post != nil && e.Deed != store.DeedUndo
}

// Undo takes back what a line of the logbook says was done, with all lines of the same
// act, if things still stand as it left them. A publication goes back to its time in
// the plan where that is still to come, and otherwise to the front of the shelf.
func (d Desk) Undo(ctx context.Context, logID int64, now time.Time) error {
	return d.change(ctx, func(tx *store.Tx) error {
		line, err := tx.LogLine(ctx, d.Site.ID, logID)
		if err != nil {
			return err
		}
		if !CanUndo(line) {
			return invalid("id", "This line of the logbook cannot be undone, or has been already.")
		}
		switch line.Deed {
		case store.DeedRhythm:
			err = d.undoRhythm(ctx, tx, line, now)
		case store.DeedReorder:
			err = d.undoReorder(ctx, tx, line)
		default:
			return d.undoPosts(ctx, tx, line, now)
		}
		if err != nil {
			return err
		}
		if err := tx.MarkUndone(ctx, d.Site.ID, []int64{line.ID}, now); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: store.DeedUndo, Reason: "Undone: " + line.Reason})
	})
}

func (d Desk) undoPosts(ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error {
	lines := []store.LogEntry{line}
	if line.Batch != nil {
		var err error
		if lines, err = tx.LogBatch(ctx, d.Site.ID, *line.Batch); err != nil {
			return err
		}
	}
	if line.Deed == store.DeedCloseUp {
		// The posts changed places among themselves: all leave their slots first.
		if err := tx.LeaveSlots(ctx, d.Site.ID, postsOf(lines)); err != nil {
			return err
		}
	}
	var ids []int64
	for _, one := range lines {
		if err := d.undoPost(ctx, tx, one, now); err != nil {
			return err
		}
		ids = append(ids, one.ID)
	}
	return tx.MarkUndone(ctx, d.Site.ID, ids, now)
}

func postsOf(lines []store.LogEntry) []int64 {
	var ids []int64
	for _, one := range lines {
		if one.Post != nil {
			ids = append(ids, *one.Post)
		}
	}
	return ids
}

func (d Desk) undoPost(ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error {
	var before, after place
	if err := errors.Join(json.Unmarshal(line.Before, &before), json.Unmarshal(line.After, &after)); err != nil {
		return fmt.Errorf("reading line %d of the logbook: %w", line.ID, err)
	}
	if line.Post == nil {
		return invalid("id", "The post of this line is gone.")
	}
	p, err := tx.LockPost(ctx, d.Site.ID, *line.Post)
	if err != nil {
		return err
	}
	if !after.stands(p) {
		return invalid("id", "“%s” has been changed since; undo the later change first.", p.Title)
	}
	was := placeOf(p)
	if isUpkeep(line.Deed) {
		return d.undoUpkeep(ctx, tx, p, line, before, now)
	}
	bounds := line.Deed == store.DeedBounds
	if err := d.restore(ctx, tx, &p, before, bounds, now); err != nil {
		return err
	}
	if bounds {
		if err := tx.SaveBounds(ctx, p, now); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: store.DeedUndo, Post: &p.ID,
			Reason: "Undone: " + line.Reason, Before: was, After: placeOf(p)})
	}
	err = d.save(ctx, tx, p, was, store.DeedUndo, "Undone: "+line.Reason, now)
	if store.IsDuplicate(err) {
		return invalid("id", "The slot of “%s” has gone to another post meanwhile.", p.Title)
	}
	return err
}

// restore gives the post the place it had.
func (d Desk) restore(ctx context.Context, tx *store.Tx, p *store.Post, to place, bounds bool, now time.Time) error {
	if bounds {
		p.NotBefore, p.Deadline = to.NotBefore, to.Deadline
		return nil
	}
	if to.Status == store.Scheduled && (to.DueAt == nil || !to.DueAt.After(now)) {
		to = place{Status: store.Draft, Cleared: true} // its time has passed: nothing may come out by an undo
	}
	p.Status, p.Cleared, p.ShelfRank = to.Status, to.Cleared, to.ShelfRank
	if p.FirstPublishedAt != nil && sameTime(p.FirstPublishedAt, p.PublishedAt) {
		p.FirstPublishedAt = nil // it was this publication that is undone
	}
	p.DueAt, p.Pinned, p.PublishedAt = to.DueAt, to.Pinned, to.PublishedAt
	p.Sit(rhythm.SlotID{})
	if to.SlotDate != nil && to.Status == store.Scheduled {
		date, err := time.Parse(time.DateOnly, *to.SlotDate)
		if err != nil {
			return fmt.Errorf("reading a slot of the logbook: %w", err)
		}
		p.RhythmID, p.SlotDate, p.SlotOpening, p.SlotOrdinal = to.RhythmID, &date, to.SlotOpening, to.SlotOrdinal
	}
	if p.Cleared && p.ShelfRank == nil {
		low, _, err := tx.ShelfEnds(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		first := low - 1
		p.ShelfRank = &first
	}
	return nil
}

func (d Desk) undoRhythm(ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error {
	var before, after store.Rhythm
	if err := errors.Join(json.Unmarshal(line.Before, &before), json.Unmarshal(line.After, &after)); err != nil {
		return fmt.Errorf("reading line %d of the logbook: %w", line.ID, err)
	}
	present, err := tx.RhythmOf(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	if present.Version != after.Version+1 {
		return invalid("id", "The rhythm has been changed since; undo the later change first.")
	}
	return tx.SaveRhythm(ctx, before, now)
}

func (d Desk) undoReorder(ctx context.Context, tx *store.Tx, line store.LogEntry) error {
	var before []int64
	if err := json.Unmarshal(line.Before, &before); err != nil {
		return fmt.Errorf("reading line %d of the logbook: %w", line.ID, err)
	}
	shelf, err := tx.Shelf(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	var there []int64
	for _, e := range shelf {
		there = append(there, e.ID)
	}
	if !slices.Equal(slices.Sorted(slices.Values(there)), slices.Sorted(slices.Values(before))) {
		return invalid("id", "Other drafts stand on the shelf now; put it in order by hand.")
	}
	return tx.RankShelf(ctx, d.Site.ID, before)
}
