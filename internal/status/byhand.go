package status

import (
	"context"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// onePost is a deed that an editor does to one post, which is locked.
type onePost func(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, now time.Time) error

// one does a deed to a post that must still have the version that the editor saw.
func one(ctx context.Context, d act.Desk, id int64, version int, now time.Time, do onePost) error {
	return d.ChangePost(ctx, id, version, func(tx *store.Tx, p store.Post) error { return do(ctx, d, tx, p, now) })
}

// byHand is a deed for which nothing has to be known but the post.
type byHand struct {
	deed       PostDeed
	to         func(s post.State, now time.Time) post.State
	line, says string // of the logbook
}

func (h byHand) do(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, now time.Time) error {
	if err := fits(h.deed, p, now); err != nil {
		return err
	}
	return d.Stand(ctx, tx, p, h.to(p.State(), now), h.line, h.says, now)
}

// publishNow makes a post public and plans what is shared of it.
func publishNow(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, now time.Time) error {
	if err := publish.do(ctx, d, tx, p, now); err != nil {
		return err
	}
	_, err := tx.Announce(ctx, []int64{p.ID}, now)
	return err
}

// at makes a change of a state that takes no moment one that does.
func at(change func(post.State) post.State) func(post.State, time.Time) post.State {
	return func(s post.State, _ time.Time) post.State { return change(s) }
}

var (
	unclear  = byHand{DoUnclear, at(post.State.Unclear), store.DeedUnclear, "Taken off the shelf."}
	bin      = byHand{DoBin, post.State.Bin, store.DeedBin, "Put into the bin by hand."}
	restore  = byHand{DoRestore, at(post.State.Restore), store.DeedRestore, "Restored from the bin."}
	handIn   = byHand{DoHandIn, post.State.HandIn, store.DeedHandIn, "Sent for review."}
	giveBack = byHand{DoGiveBack, at(post.State.GiveBack), store.DeedGiveBack, "Sent back to its author."}
	hold     = byHand{DoHold, at(post.State.Hold), string(deed.KindHold), "Put on hold by hand."}
	release  = byHand{DoRelease, at(post.State.Release), store.DeedRelease, "Released: it comes out at its time."}
	publish  = byHand{DoPublish, outOfItsSlot, store.DeedPublish, "Published by hand."}
)

func outOfItsSlot(s post.State, now time.Time) post.State { return s.PublishIn(now, rhythm.SlotID{}) }

// Unclear takes a draft off the shelf, to be written on.
func Unclear(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, unclear.do)
}

// Bin puts a post into the bin: readers do not find it any more. Its address stays its
// own.
func Bin(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, bin.do)
}

// Restore takes a post out of the bin. It is what it was before; one that was cleared
// or scheduled is a draft, for its place may have gone to another.
func Restore(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, restore.do)
}

// HandIn says that a contributor is done with a draft; an editor sees to the rest.
func HandIn(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, handIn.do)
}

// GiveBack gives a draft that was handed in back to its author, to be written on.
func GiveBack(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, giveBack.do)
}

// Hold keeps a scheduled post from coming out, before its time or after: it waits for an
// editor. Its place in the plan stays its own.
func Hold(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, hold.do)
}

// Release lets a held post go before its time: it comes out then. One whose time has
// passed is published, or given another time, instead.
func Release(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, release.do)
}

// PublishNow makes a draft or a scheduled post public at once. It leaves its slot.
func PublishNow(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return one(ctx, d, id, version, now, publishNow)
}
