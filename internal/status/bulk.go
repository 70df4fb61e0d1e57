package status

import (
	"context"
	"errors"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// bulkDeeds are what can be done to many posts at once.
var bulkDeeds = map[PostDeed]onePost{
	DoClear: putOnShelf, DoUnclear: unclear.do, DoBin: bin.do, DoRestore: restore.do, DoGiveBack: giveBack.do,
}

// bulkDone says what was done.
var bulkDone = map[PostDeed]string{
	DoClear: "put on the shelf", DoUnclear: "taken off the shelf", DoBin: "put into the bin",
	DoRestore: "restored from the bin", DoGiveBack: "sent back to their authors",
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
