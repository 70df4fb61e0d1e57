package status

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// Bin puts a post into the bin: readers do not find it any more. Its address stays its
// own.
func Bin(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, bin)
}

func bin(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, now time.Time) error {
	if err := fits(DoBin, p, now); err != nil {
		return err
	}
	return d.Stand(ctx, tx, p, p.State().Bin(now), store.DeedBin, "Put into the bin by hand.", now)
}

// Restore takes a post out of the bin. It is what it was before; one that was cleared
// or scheduled is a draft, for its place may have gone to another.
func Restore(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, fromBin)
}

func fromBin(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, now time.Time) error {
	if err := fits(DoRestore, p, now); err != nil {
		return err
	}
	return d.Stand(ctx, tx, p, p.State().Restore(), store.DeedRestore, "Restored from the bin.", now)
}

// DeleteForGood deletes a post that is in the bin; it cannot be undone. The editor
// confirms it by the post's title.
func DeleteForGood(ctx context.Context, d act.Desk, id int64, version int, confirm string, now time.Time) error {
	return d.ChangePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := fits(DoDelete, p, now); err != nil {
			return err
		}
		if strings.TrimSpace(confirm) != p.Title {
			return act.Invalidf("confirm", "Type the title of the post exactly to confirm: “%s”.", p.Title)
		}
		if err := tx.DeletePost(ctx, d.Site.ID, id); err != nil {
			return err
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedDelete,
			Reason: fmt.Sprintf("“%s” was deleted for good.", p.Title)})
	})
}

// HandIn says that a contributor is done with a draft; an editor sees to the rest.
func HandIn(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, handIn)
}

func handIn(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, now time.Time) error {
	if err := fits(DoHandIn, p, now); err != nil {
		return err
	}
	return d.Stand(ctx, tx, p, p.State().HandIn(now), store.DeedHandIn, "Sent for review.", now)
}

// GiveBack gives a draft that was handed in back to its author, to be written on.
func GiveBack(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, giveBack)
}

func giveBack(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, now time.Time) error {
	if err := fits(DoGiveBack, p, now); err != nil {
		return err
	}
	return d.Stand(ctx, tx, p, p.State().GiveBack(), store.DeedGiveBack, "Sent back to its author.", now)
}

// bulkDeeds are what can be done to many posts at once.
var bulkDeeds = map[PostDeed]onePost{
	DoClear: putOnShelf, DoUnclear: takeOffShelf, DoBin: bin, DoRestore: fromBin, DoGiveBack: giveBack,
}

// bulkDone says what was done.
var bulkDone = map[PostDeed]string{
	DoClear: "put on the shelf", DoUnclear: "taken off the shelf", DoBin: "put into the bin", DoRestore: "restored from the bin", DoGiveBack: "sent back to their authors",
}

// MaxBulk is to how many posts something is done at once.
const MaxBulk = 2000

// Bulk does a deed to posts, in the order given: clear, unclear, bin, restore or give
// back. Posts that it does not fit are skipped and said so; the others are one act of
// the logbook and undone together.
func Bulk(ctx context.Context, d act.Desk, name string, ids []int64, now time.Time) (done int, skipped []act.LeftPost,
	err error) {
	do, known := bulkDeeds[PostDeed(name)]
	switch {
	case !known:
		return 0, nil, act.Invalidf("do", "“%s” can’t be done to many posts.", name)
	case len(ids) > MaxBulk:
		return 0, nil, act.Invalidf("ids", "That is %d posts; the limit is %d at once. Narrow the list.", len(ids),
			MaxBulk)
	}
	err = d.Change(ctx, func(tx *store.Tx) error {
		if err := d.Begin(ctx, tx, words.Count(len(ids), "post")+" "+bulkDone[PostDeed(name)]+".", now); err != nil {
			return err
		}
		for _, id := range ids {
			p, err := tx.LockPost(ctx, d.Site.ID, id)
			if errors.Is(err, store.ErrNotFound) {
				skipped = append(skipped, act.LeftPost{ID: id, Reason: "It is gone."})
				continue
			}
			if err != nil {
				return err
			}
			var unfit *act.Invalid
			switch err := do(ctx, d, tx, p, now); {
			case errors.As(err, &unfit):
				skipped = append(skipped, act.LeftPost{ID: id, Title: p.Title, Reason: unfit.Message})
			case err != nil:
				return err
			default:
				done++
			}
		}
		return nil
	})
	return done, skipped, err
}
