package queue

import (
	"fmt"
	"math"
	"sort"
	"strings"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/words"
)

// answer tells where everything went, and why.
func (p *planner) answer() Placement {
	if !p.ended {
		p.stop()
	}
	placement := Placement{Unproven: p.unproven}
	at := make(map[int]int) // seat to item
	for i := range p.items {
		if p.items[i].seat >= 0 {
			at[p.items[i].seat] = i
		}
	}
	for t := range p.seats {
		if i, ok := at[t]; ok {
			placement.Placed = append(placement.Placed, Proposal{p.items[i].Draft, p.seats[t].slot, p.whyPlaced(i)})
		}
	}
	x := explainer{planner: p, at: at}
	for i := range p.items {
		if p.items[i].seat < 0 {
			placement.Unplaced = append(placement.Unplaced, Unplaced{p.items[i].Draft, x.whyNot(i)})
		}
	}
	return placement
}

func (p *planner) date(t int) civil.Date { return p.request.Zone.DateOf(p.seats[t].slot.At) }

func (p *planner) dateOf(seconds int64) string {
	return p.request.Zone.DateOf(instant(seconds)).Words(p.request.Today)
}

func (p *planner) whyPlaced(i int) string {
	it := &p.items[i]
	var why []string
	switch {
	case len(it.aheadOf) > 0:
		why = append(why, fmt.Sprintf("Goes ahead of %s to meet its deadline on %s.", p.titles(it.aheadOf),
			p.dateOf(it.deadline)))
	case i == 0 && it.seat == 0:
		why = append(why, "First on the shelf, so it gets the first free slot.")
	case i > 0 && p.items[i-1].seat >= 0 && p.items[i-1].seat == it.seat-1:
		why = append(why, fmt.Sprintf("First free slot after “%s”.", p.items[i-1].Title))
	default:
		why = append(why, "First slot it can take that no draft ahead of it on the shelf has.")
	}
	if it.notBefore > p.seats[0].at && it.notBefore != math.MinInt64 {
		why = append(why, fmt.Sprintf("It was held until %s.", p.dateOf(it.notBefore)))
	}
	var causes []string
	for _, s := range it.passed {
		if s.seat < it.seat {
			causes = append(causes, s.cause.words(it.Draft, p.date(s.seat), p.seats[s.seat].slot.Lane, p.request.Caps,
				p.request.Today))
		}
	}
	if len(causes) > 0 {
		why = append(why, capital(strings.Join(causes, "; "))+".")
	}
	if it.behind >= 0 && p.items[it.behind].seat < it.seat {
		why = append(why, fmt.Sprintf("Gave way to “%s”, whose deadline is %s.", p.items[it.behind].Title,
			p.dateOf(p.items[it.behind].deadline)))
	}
	if p.seats[it.seat].slot.Moved {
		why = append(why, "The slot was redrawn to keep the gap from another time in the plan.")
	}
	return strings.Join(why, " ")
}

// titles names the first of the items, and how many more there are.
func (p *planner) titles(items []int) string {
	first := "“" + p.items[items[0]].Title + "”"
	if len(items) == 1 {
		return first
	}
	return fmt.Sprintf("%s and %d more", first, len(items)-1)
}

func capital(text string) string {
	if text == "" {
		return text
	}
	return strings.ToUpper(text[:1]) + text[1:]
}

// explainer says why drafts were left over.
type explainer struct {
	*planner
	at map[int]int
}

// looked bounds how many seats are looked at to explain one draft; what is said of
// the seats is then said of the first ones.
const looked = 400

func (x *explainer) whyNot(i int) string {
	it := &x.items[i]
	if it.deadline < it.notBefore {
		return fmt.Sprintf("Its deadline on %s is before %s, until when it is held. Change one of the two.",
			x.dateOf(it.deadline), x.dateOf(it.notBefore))
	}
	begin := sort.Search(len(x.seats), func(t int) bool { return x.seats[t].at >= it.notBefore })
	end := sort.Search(len(x.seats), func(t int) bool { return x.seats[t].at > it.deadline })
	if len(x.seats) == 0 {
		return "The rhythm has no free slot. Add an opening, or give this post a time by hand."
	}
	if begin >= end {
		return x.noSeat(it, begin, end)
	}
	end = min(end, begin+looked)
	taken, counts := x.tally(i, begin, end)
	total := end - begin
	before := ""
	if it.hasDeadline() {
		before = " before its deadline on " + x.dateOf(it.deadline)
	}
	switch {
	case counts[otherLane] == total:
		return fmt.Sprintf("None of the %d free slots%s is for %s. Add an opening for it, widen a lane, or give this post a time by hand.", total, before, categoryName(it))
	case taken == 0:
		return fmt.Sprintf("The caps leave no room for it in any of the %d free slots%s%s. %s", total, before,
			mostly(counts, it, x.request.Caps), x.wayOut(it))
	case counts == (tally{}):
		return fmt.Sprintf("%s%s %s to other drafts. %s", allOf(total), before, goes(total), x.wayOut(it))
	}
	return fmt.Sprintf("Of the %d free slots%s, %d %s to other drafts%s. %s", total, before, taken, goes(taken),
		mostly(counts, it, x.request.Caps), x.wayOut(it))
}

func (x *explainer) noSeat(it *item, begin, end int) string {
	switch {
	case !it.hasDeadline():
		return fmt.Sprintf("The rhythm has no free slot after %s, the earliest it may come out. Choose an earlier time, or add an opening.", x.dateOf(it.notBefore))
	case it.notBefore == math.MinInt64 && end == 0:
		return fmt.Sprintf("Its deadline on %s is before the first free slot, on %s. Move the deadline, add an opening, or give this post a time by hand.",
			x.dateOf(it.deadline), x.dateOf(x.seats[0].at))
	case begin < len(x.seats):
		return fmt.Sprintf("There is no free slot between %s and its deadline on %s; the next is on %s. Move the deadline, add an opening, or give this post a time by hand.",
			x.dateOf(max(it.notBefore, x.seats[0].at)), x.dateOf(it.deadline), x.dateOf(x.seats[begin].at))
	}
	return fmt.Sprintf("There is no free slot between %s and its deadline on %s. Add an opening, or give this post a time by hand.",
		x.dateOf(max(it.notBefore, x.seats[0].at)), x.dateOf(it.deadline))
}

// tally counts causes.
type tally [needed + 1]int

// tally counts the seats that went to others, and why the item may not take the rest.
// The caps are asked beside what is settled and placed.
func (x *explainer) tally(i, begin, end int) (taken int, counts tally) {
	for t := begin; t < end; t++ {
		if c := x.suits(i, t); c != fits {
			counts[c]++
		} else if _, ok := x.at[t]; ok {
			taken++
		} else if c := x.may(i, t); c != fits {
			counts[c]++
		}
	}
	return taken, counts
}

func (x *explainer) wayOut(it *item) string {
	if it.hasDeadline() {
		return "Move the deadline, add an opening, or give this post a time by hand."
	}
	return "Add an opening, or give this post a time by hand."
}

func mostly(counts tally, it *item, caps Caps) string {
	var parts []string
	say := func(c cause, text string) {
		if n := counts[c]; n > 0 {
			parts = append(parts, fmt.Sprintf("%d %s", n, text))
		}
	}
	say(otherLane, words.For(counts[otherLane], "is", "are")+" for other categories")
	say(dayFull, words.For(counts[dayFull], "is", "are")+" on dates that are full with "+words.Count(caps.Day, "post"))
	say(authorDayFull, words.For(counts[authorDayFull], "is", "are")+" on dates that are full for "+it.Author)
	say(authorWeekFull, words.For(counts[authorWeekFull], "is", "are")+" in weeks that are full for "+it.Author)
	say(categoryNear, words.For(counts[categoryNear], "is",
		"are")+" nearer than "+days(caps.CategoryDays)+" to another post in "+it.Category)
	if len(parts) == 0 {
		return ""
	}
	return ": " + strings.Join(parts, ", ")
}

func goes(n int) string { return words.For(n, "goes", "go") }

func allOf(n int) string {
	if n == 1 {
		return "The only free slot"
	}
	return fmt.Sprintf("All %d free slots", n)
}

func categoryName(it *item) string {
	if it.Category == "" {
		return "posts without a category"
	}
	return it.Category
}
