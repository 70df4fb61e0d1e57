package planning

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// Clear releases a draft to the queue: it goes to the end of the shelf.
func (d Desk) Clear(ctx context.Context, id int64, version int, now time.Time) error {
	return d.one(ctx, id, version, now, Desk.clear)
}

// onePost is a deed that an editor does to one post, which is locked.
type onePost func(d Desk, ctx context.Context, tx *store.Tx, p store.Post, now time.Time) error

// one does a deed to a post that must still have the version that the editor saw.
func (d Desk) one(ctx context.Context, id int64, version int, now time.Time, do onePost) error {
	return d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error { return do(d, ctx, tx, p, now) })
}

func (d Desk) clear(ctx context.Context, tx *store.Tx, p store.Post, now time.Time) error {
	if err := fits(DoClear, p, now); err != nil {
		return err
	}
	_, high, err := tx.ShelfEnds(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	return d.stand(ctx, tx, p, p.State().Clear(high+1), store.DeedClear, "Put on the shelf.", now)
}

// Unclear takes a draft off the shelf, to be written on.
func (d Desk) Unclear(ctx context.Context, id int64, version int, now time.Time) error {
	return d.one(ctx, id, version, now, Desk.unclear)
}

func (d Desk) unclear(ctx context.Context, tx *store.Tx, p store.Post, now time.Time) error {
	if err := fits(DoUnclear, p, now); err != nil {
		return err
	}
	return d.stand(ctx, tx, p, p.State().Unclear(), store.DeedUnclear, "Taken off the shelf.", now)
}

// Reorder gives the shelf the order of the ids, which must be exactly its drafts.
func (d Desk) Reorder(ctx context.Context, ids []int64, now time.Time) error {
	return d.change(ctx, func(tx *store.Tx) error {
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
		return tx.Log(ctx, store.LogEntry{
			SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: store.DeedReorder, Reason: "The shelf was reordered.",
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
func (d Desk) Retime(ctx context.Context, id int64, version int, at, now time.Time) (near []store.Entry, err error) {
	at = at.Truncate(time.Minute)
	err = d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := d.retime(ctx, tx, p, at, now); err != nil {
			return err
		}
		near, err = d.nearTo(ctx, tx, p.ID, at)
		return err
	})
	return near, err
}

func (d Desk) retime(ctx context.Context, tx *store.Tx, p store.Post, at, now time.Time) error {
	if err := fits(DoRetime, p, now); err != nil {
		return err
	}
	switch {
	case !civil.IsNear(at):
		return act.Invalidf("at", "That is too far away. Choose a date from %d to %d.", civil.FirstYear, civil.LastYear)
	case !at.After(now):
		return act.Invalidf("at", "That time has passed. Choose a later one, or publish the post now.")
	}
	return d.stand(ctx, tx, p, p.State().Pin(at), store.DeedRetime, "Time set by hand.", now)
}

// nearTo lists the other posts of the plan that are nearer to a time than the gap.
func (d Desk) nearTo(ctx context.Context, tx *store.Tx, id int64, at time.Time) ([]store.Entry, error) {
	r, err := tx.RhythmOf(ctx, d.Site.ID)
	if err != nil {
		return nil, err
	}
	gap := r.In(d.Site.Zone()).GapAt(at)
	entries, err := tx.EntriesBetween(ctx, d.Site.ID, at.Add(-gap+time.Minute), at.Add(gap))
	return slices.DeleteFunc(entries, func(e store.Entry) bool { return e.ID == id }), err
}

// Shelve takes a scheduled post back to the front of the shelf.
func (d Desk) Shelve(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := fits(DoShelve, p, now); err != nil {
			return err
		}
		low, _, err := tx.ShelfEnds(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		return d.stand(ctx, tx, p, p.State().Shelve(low-1), store.DeedShelve, "Taken back to the front of the shelf.",
			now)
	})
}

// PublishNow makes a draft or a scheduled post public at once. It leaves its slot.
func (d Desk) PublishNow(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := fits(DoPublish, p, now); err != nil {
			return err
		}
		return d.stand(ctx, tx, p, p.State().PublishIn(now, rhythm.SlotID{}), store.DeedPublish, "Published by hand.",
			now)
	})
}
