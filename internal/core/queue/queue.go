// Package queue gives the drafts on the shelf their slots.
//
// Place walks the slots in time order and the shelf in shelf order and returns a
// proposal: which draft comes out when, and why, and which drafts found no slot.
// It proposes only; nothing is kept here and nothing changes until an editor
// commits. The package is pure.
package queue

import (
	"fmt"
	"iter"

	"dapper.example/internal/core/rhythm"
)

// Draft is a cleared draft on the shelf.
type Draft struct {
	ID    int64
	Title string
}

// Proposal is one draft in one slot.
type Proposal struct {
	Draft  Draft
	Slot   rhythm.Slot
	Reason string // a sentence for the editor
}

// Unplaced is a draft that found no slot.
type Unplaced struct {
	Draft  Draft
	Reason string // what would have to change, as a sentence
}

// Placement is the answer to a shelf and slots. Every draft of the shelf is in
// exactly one of the two lists, each in shelf order.
type Placement struct {
	Placed   []Proposal
	Unplaced []Unplaced
}

// Place gives each draft, in the order given, the next slot. The slots must come
// in time order; no more of them are asked for than there are drafts. A draft that
// stands on the shelf twice is placed once.
func Place(shelf []Draft, slots iter.Seq[rhythm.Slot]) Placement {
	shelf = once(shelf)
	var p Placement
	if len(shelf) > 0 {
		for slot := range slots {
			p.Placed = append(p.Placed, Proposal{shelf[len(p.Placed)], slot, reason(shelf, len(p.Placed), slot)})
			if len(p.Placed) == len(shelf) {
				break
			}
		}
	}
	for _, d := range shelf[len(p.Placed):] {
		p.Unplaced = append(p.Unplaced, Unplaced{d, shortfall(len(p.Placed))})
	}
	return p
}

// once drops the repetitions of drafts.
func once(shelf []Draft) []Draft {
	seen := make(map[int64]bool, len(shelf))
	var kept []Draft
	for _, d := range shelf {
		if !seen[d.ID] {
			seen[d.ID] = true
			kept = append(kept, d)
		}
	}
	return kept
}

func reason(shelf []Draft, rank int, slot rhythm.Slot) string {
	var why string
	switch rank {
	case 0:
		why = "First on the shelf, so it gets the first free slot."
	default:
		why = fmt.Sprintf("Gets the next free slot after “%s”.", shelf[rank-1].Title)
	}
	if slot.Moved {
		why += " The slot was drawn anew to keep the gap from a time set by hand."
	}
	return why
}

func shortfall(slots int) string {
	switch slots {
	case 0:
		return "The rhythm yields no free slot. Add an opening to it, or give this post a time by hand."
	case 1:
		return "The only free slot goes to the draft before it. Add an opening, or give this post a time by hand."
	}
	return fmt.Sprintf("All %d free slots go to drafts before it. Add an opening, or give this post a time by hand.", slots)
}
