// Package queue gives the drafts on the shelf their slots.
//
// Place goes through the slots in time order and the shelf in shelf order: each slot
// gets the first draft that may take it. Deadlines bend that order and nothing else
// does: a draft goes ahead of others only where one more deadline would otherwise be
// missed, and then as late as that allows. As many deadlines are met as can be.
//
// What a draft may take is said by its own bounds (not before, deadline), by the
// slot's lane, and by the site's caps. Place proposes only: nothing is kept here and
// nothing changes until an editor commits. The package is pure.
package queue

import (
	"fmt"
	"iter"
	"time"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Draft is a cleared draft on the shelf.
type Draft struct {
	ID       int64
	Title    string
	Author   string
	Category string // as lanes name it; may be empty
	// Added is when the draft came to be; shelf orders by age use it.
	Added time.Time
	// NotBefore and Deadline bound the time at which it may come out, both inclusive;
	// the zero time is no bound.
	NotBefore, Deadline time.Time
}

// Caps are a site's limits on what comes out; zero is no limit.
type Caps struct {
	Day        int // posts on one date
	AuthorDay  int // posts of one author on one date
	AuthorWeek int // posts of one author from Monday to Sunday
	// CategoryDays is the fewest days between the dates of two posts of one category;
	// 1 means not on the same date.
	CategoryDays int
}

// Limits on caps.
const (
	MaxCap          = 500
	MaxCategoryDays = 366
)

// Problems lists what is wrong with the caps.
func (c Caps) Problems() []check.FieldProblem {
	var found []check.FieldProblem
	bound := func(path string, value, most int) {
		if value < 0 || value > most {
			found = append(found, check.FieldProblem{Path: path,
				Message: fmt.Sprintf("The cap is %d; it must be between 1 and %d, or 0 for none.", value, most)})
		}
	}
	bound("day", c.Day, MaxCap)
	bound("authorDay", c.AuthorDay, MaxCap)
	bound("authorWeek", c.AuthorWeek, MaxCap)
	bound("categoryDays", c.CategoryDays, MaxCategoryDays)
	contradicts := func(path string, inner, outer int, outerName string) {
		if inner > outer && outer > 0 && len(found) == 0 {
			found = append(found, check.FieldProblem{Path: path,
				Message: fmt.Sprintf("%d here contradicts %d %s: it could never be reached. Lower this one or raise the other.", inner, outer, outerName)})
		}
	}
	contradicts("authorDay", c.AuthorDay, c.Day, "posts a day")
	contradicts("authorDay", c.AuthorDay, c.AuthorWeek, "posts a week for one author")
	return found
}

// Standing is a post whose place is settled (scheduled, pinned or out); it counts for
// the caps.
type Standing struct {
	At               time.Time
	Author, Category string
}

// Request is what to place.
type Request struct {
	Zone     civil.Zone // whose dates and weeks the caps count
	Today    civil.Date // dates of another year are said with their year
	Shelf    []Draft    // in shelf order; see Arrange
	Slots    iter.Seq[rhythm.Slot]
	Caps     Caps
	Standing []Standing
}

// Proposal is one draft in one slot.
type Proposal struct {
	Draft  Draft
	Slot   rhythm.Slot
	Reason string // a sentence or several for the editor
}

// Unplaced is a draft that found no slot.
type Unplaced struct {
	Draft  Draft
	Reason string // what stands in the way and what would have to change
}

// Placement is the answer to a request. Every draft of the shelf is in exactly one of
// the two lists: Placed in time order, Unplaced in shelf order.
type Placement struct {
	Placed   []Proposal
	Unplaced []Unplaced
	// Unproven tells that the search for a way to meet more deadlines had to stop before it
	// had looked at all of them: it is not proven that no more can be met.
	Unproven bool
}

// Place answers the request. The slots must come in time order; they are asked for
// as far as drafts need them. A draft that stands on the shelf twice is placed once.
//
// How exact: without caps, the number of deadlines met is the greatest there can be,
// and the placement is the one described above. With caps that is a hard problem in
// general; it is solved exactly as far as a search of bounded length goes, which is for
// twenty deadlines among sixty slots as a rule. Where the search had to stop, or more than
// 64 drafts have deadlines, the placement says that it is Unproven. A deadline that is met,
// a cap and a lane are kept in every case.
func Place(r Request) Placement {
	p := newPlanner(r)
	p.reserve()
	for t := 0; p.pending > 0 && p.reach(t); t++ {
		p.fill(t)
	}
	return p.answer()
}

// once drops the repetitions of drafts.
func once(shelf []Draft) []Draft {
	seen := make(map[int64]bool, len(shelf))
	kept := make([]Draft, 0, len(shelf))
	for _, d := range shelf {
		if !seen[d.ID] {
			seen[d.ID] = true
			kept = append(kept, d)
		}
	}
	return kept
}
