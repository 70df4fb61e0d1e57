package planning

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"time"

	"github.com/gosimple/slug"

	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// Clear releases a draft to the queue: it goes to the end of the shelf.
func (d Desk) Clear(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		switch {
		case p.Status != store.Draft:
			return invalid("cleared", "Only a draft can be cleared; this post is %s.", p.Status)
		case p.Cleared:
			return nil
		case p.Title == "":
			return invalid("title", "Give the post a title before you clear it.")
		case p.Body == "":
			return invalid("body", "The post has no text yet. Write it before you clear it.")
		}
		_, high, err := tx.ShelfEnds(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		before, last := placeOf(p), high+1
		p.Cleared, p.ShelfRank = true, &last
		return d.save(ctx, tx, p, before, store.DeedClear, "Released to the queue.", now)
	})
}

// Unclear takes a draft off the shelf, to be written on.
func (d Desk) Unclear(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if !p.Cleared {
			return invalid("cleared", "This post is not on the shelf.")
		}
		before := placeOf(p)
		p.Cleared, p.ShelfRank = false, nil
		return d.save(ctx, tx, p, before, store.DeedUnclear, "Taken off the shelf to be written on.", now)
	})
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
			return fmt.Errorf("ordering the shelf: %w", ErrStale)
		}
		if err := tx.RankShelf(ctx, d.Site.ID, ids); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{
			SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: store.DeedReorder, Reason: "The shelf was put in another order.",
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
		switch {
		case p.Status != store.Draft && p.Status != store.Scheduled:
			return invalid("at", "This post is %s already; it has no time to change.", p.Status)
		case p.Title == "":
			return invalid("title", "Give the post a title before you give it a time.")
		case !at.After(now):
			return invalid("at", "That time has passed. Choose a later one, or publish the post now.")
		}
		before := placeOf(p)
		p.Status, p.Cleared, p.ShelfRank, p.DueAt, p.Pinned = store.Scheduled, false, nil, &at, true
		p.Sit(rhythm.SlotID{})
		if err := d.save(ctx, tx, p, before, store.DeedRetime, "Given a time by hand.", now); err != nil {
			return err
		}
		near, err = d.nearTo(ctx, tx, p.ID, at)
		return err
	})
	return near, err
}

// nearTo lists the other posts of the plan that are nearer to a time than the gap.
func (d Desk) nearTo(ctx context.Context, tx *store.Tx, id int64, at time.Time) ([]store.Entry, error) {
	r, err := tx.RhythmOf(ctx, d.Site.ID)
	if err != nil {
		return nil, err
	}
	gap := time.Duration(r.Gap) * time.Minute
	entries, err := tx.EntriesBetween(ctx, d.Site.ID, at.Add(-gap+time.Minute), at.Add(gap))
	return slices.DeleteFunc(entries, func(e store.Entry) bool { return e.ID == id }), err
}

// Shelve takes a scheduled post back to the front of the shelf.
func (d Desk) Shelve(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if p.Status != store.Scheduled {
			return invalid("status", "Only a scheduled post can go back to the shelf; this one is %s.", p.Status)
		}
		low, _, err := tx.ShelfEnds(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		before, first := placeOf(p), low-1
		p.Status, p.Cleared, p.ShelfRank, p.DueAt, p.Pinned = store.Draft, true, &first, nil, false
		p.Sit(rhythm.SlotID{})
		return d.save(ctx, tx, p, before, store.DeedShelve, "Taken back to the front of the shelf.", now)
	})
}

// PublishNow makes a draft or a scheduled post public at once. It leaves its slot.
func (d Desk) PublishNow(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		switch {
		case p.Status != store.Draft && p.Status != store.Scheduled:
			return invalid("status", "This post is %s already.", p.Status)
		case p.Title == "":
			return invalid("title", "Give the post a title before you publish it.")
		case p.Body == "":
			return invalid("body", "The post has no text yet. Write it before you publish it.")
		}
		before := placeOf(p)
		p.Status, p.Cleared, p.ShelfRank, p.DueAt, p.Pinned, p.PublishedAt = store.Published, false, nil, nil, false, &now
		p.Sit(rhythm.SlotID{})
		return d.save(ctx, tx, p, before, store.DeedPublish, "Published by hand.", now)
	})
}

// maxSlug keeps addresses readable; a word is not cut.
const maxSlug = 80

// freeSlug makes an address from a title, with a number behind it where the site
// has it already.
func freeSlug(ctx context.Context, q store.Queries, siteID int64, title string) (string, error) {
	base := Slug(title)
	if base == "" {
		base = "post"
	}
	taken, err := q.SlugsLike(ctx, siteID, base)
	if err != nil {
		return "", fmt.Errorf("looking for a free address: %w", err)
	}
	if !slices.Contains(taken, base) {
		return base, nil
	}
	for n := 2; ; n++ {
		if s := base + "-" + strconv.Itoa(n); !slices.Contains(taken, s) {
			return s, nil
		}
	}
}

// Slug is the form of a title or a name that stands in addresses: lower-case ASCII
// letters, digits and hyphens; "" where nothing of it can be said so.
func Slug(text string) string {
	s := slug.Make(text)
	if len(s) <= maxSlug {
		return s
	}
	cut := maxSlug
	for cut > 0 && s[cut] != '-' {
		cut--
	}
	if cut == 0 {
		cut = maxSlug
	}
	return s[:cut]
}
