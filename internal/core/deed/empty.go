package deed

import (
	"cmp"
	"slices"
	"time"

	"dapper.example/internal/core/words"
)

// KindDelete is the name of deleting a post for good.
const KindDelete Kind = "delete"

// Delete deletes a post that is in the bin, for good, with all that belongs to it alone. What was sent of it stays sent.
type Delete struct{ Base }

// Describe tells what the deed is.
func (d Delete) Describe() Description { return d.describe(KindDelete, Erased) }

func (d Delete) apply(w *World, _ time.Time) {
	w.binned = slices.DeleteFunc(w.binned, func(b Binned) bool { return b.Post == d.Post })
	w.edits = slices.DeleteFunc(w.edits, func(e Edit) bool { return e.Post == d.Post })
	for _, o := range slices.Clone(w.planned) {
		if o.Post == d.Post {
			w.drop(o.ID)
		}
	}
	if i, known := w.find(d.Post); known {
		w.changing(i).Status = Deleted
		w.touch(i)
	}
}

// Deleted is the status of a post in a world that is not there any more. No rule takes one.
const Deleted = "deleted"

// Binned is a post in the bin.
type Binned struct {
	Post int64
	At   time.Time // since when
}

func binnedInOrder(a, b Binned) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.Post, b.Post)) }

func (w *World) putInBin(b Binned) {
	i, _ := slices.BinarySearchFunc(w.binned, b, binnedInOrder)
	w.binned = slices.Insert(w.binned, i, b)
}

// emptying deletes posts that have been in the bin for as long as they may, oldest first.
type emptying struct{ w *World }

// mostErased is how many posts are deleted at once; the others follow in the same minute.
const mostErased = 500

func (e emptying) stage() Stage { return Emptying }

// over is when a post has been in the bin for long enough: the first whole minute.
func (e emptying) over(b Binned) time.Time {
	return FirstMinute(e.w.scene.Zone.AddDays(b.At, e.w.scene.BinDays))
}

func (e emptying) due(time.Time) (time.Time, bool) {
	if e.w.scene.BinDays == 0 || len(e.w.binned) == 0 {
		return time.Time{}, false
	}
	return e.over(e.w.binned[0]), true
}

func (e emptying) act(at time.Time) Decision {
	var d Decision
	for _, b := range e.w.binned {
		over := e.over(b)
		if over.After(at) || len(d.Deeds) == mostErased {
			break
		}
		d.Deeds = append(d.Deeds, Delete{Base{Post: b.Post, Due: over,
			Reason: "It was in the bin for " + words.Count(e.w.scene.BinDays, "day") + ", the limit of this blog."}})
	}
	return d
}
