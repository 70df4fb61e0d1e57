// Package status changes by hand where a single post stands: on the shelf, with a time, on hold, out, in the
// bin. It knows which of these can be done to a post, and says why one cannot.
package status

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strconv"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/store"
)

// Clear releases a draft to the queue: it goes to the end of the shelf.
func Clear(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, putOnShelf)
}

func putOnShelf(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, now time.Time) error {
	if err := fits(DoClear, p, now); err != nil {
		return err
	}
	_, high, err := tx.ShelfEnds(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	return d.Stand(ctx, tx, p, p.State().Clear(high+1), store.DeedClear, "Put on the shelf.", now)
}

// Reorder gives the shelf the order of the ids, which must be exactly its drafts.
func Reorder(ctx context.Context, d act.Desk, ids []int64, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		shelf, err := tx.Shelf(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		there := make([]int64, len(shelf))
		for i, e := range shelf {
			there[i] = e.ID
		}
		if slices.Equal(there, ids) {
			return nil
		}
		if !slices.Equal(slices.Sorted(slices.Values(there)), slices.Sorted(slices.Values(ids))) {
			return fmt.Errorf("ordering the shelf: %w", act.ErrStale)
		}
		if err := tx.RankShelf(ctx, d.Site.ID, ids); err != nil {
			return err
		}
		return d.Log(ctx, tx, store.LogEntry{
			At: now, Deed: store.DeedReorder, Reason: "The shelf was reordered.",
			Before: idList(there), After: idList(ids),
		})
	})
}

func idList(ids []int64) []byte {
	list := []byte{'['}
	for i, id := range ids {
		if i > 0 {
			list = append(list, ',')
		}
		list = strconv.AppendInt(list, id, 10)
	}
	return append(list, ']')
}

// Retime gives a scheduled post, or a draft with a title, a time by hand: it is
// pinned there and leaves its slot. The times nearer to it than the gap are told,
// for the editor may have meant it.
func Retime(ctx context.Context, d act.Desk, id int64, version int, at, now time.Time) (near []store.Entry, err error) {
	at = at.Truncate(time.Minute)
	err = d.ChangePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := RetimeWithin(ctx, d, tx, p, at, now); err != nil {
			return err
		}
		near, err = nearTo(ctx, d, tx, p.ID, at)
		return err
	})
	return near, err
}

// RetimeWithin is Retime within a transaction that has locked the post. It fails with *act.Invalid for a
// time that cannot be.
func RetimeWithin(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, at, now time.Time) error {
	if err := fits(DoRetime, p, now); err != nil {
		return err
	}
	switch {
	case !civil.IsNear(at):
		return act.Invalidf("at", "That is too far away. Choose a date from %d to %d.", civil.FirstYear, civil.LastYear)
	case !at.After(now):
		return act.Invalidf("at", "That time has passed. Choose a later one, or publish the post now.")
	}
	return d.Stand(ctx, tx, p, p.State().Pin(at), store.DeedRetime, "Time set by hand.", now)
}

// nearTo lists the other posts of the plan that are nearer to a time than the gap.
func nearTo(ctx context.Context, d act.Desk, tx *store.Tx, id int64, at time.Time) ([]store.Entry, error) {
	r, err := tx.RhythmOf(ctx, d.Site.ID)
	if err != nil {
		return nil, err
	}
	gap := r.In(d.Site.Zone()).GapAt(at)
	entries, err := tx.EntriesBetween(ctx, d.Site.ID, at.Add(-gap+time.Minute), at.Add(gap))
	return slices.DeleteFunc(entries, func(e store.Entry) bool { return e.ID == id }), err
}

// Shelve takes a scheduled post back to the front of the shelf.
func Shelve(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return d.ChangePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := fits(DoShelve, p, now); err != nil {
			return err
		}
		low, _, err := tx.ShelfEnds(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		return d.Stand(ctx, tx, p, p.State().Shelve(low-1), store.DeedShelve, "Taken back to the front of the shelf.",
			now)
	})
}

// UndoReorder gives the shelf the order back that a line of the logbook changed. It fails with *act.Invalid
// where other drafts are on the shelf by now.
func UndoReorder(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
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
		return act.Invalidf("id", "The shelf has other drafts now; put it in order by hand.")
	}
	if err := tx.RankShelf(ctx, d.Site.ID, before); err != nil {
		return err
	}
	return d.LogUndo(ctx, tx, line, idList(there), idList(before), now)
}
