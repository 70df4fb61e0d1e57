package rhythm

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"math/rand/v2"
	"slices"

	"dapper.example/internal/core/spread"
)

// placed is a slot of the day's draw, before the plan's other times are regarded.
type placed struct {
	id     SlotID
	demand int // index into the day's demands
	minute int
}

// settle regards the plan's occupied times: used slots are left out, slots near a
// foreign time are drawn anew, and those for which nothing is left are reported.
func (r Rhythm) settle(day *Day, held []demand, slots []placed, plan occupancy) {
	var stay, crowded []placed
	var left []int // minutes that slots had and have no more
	for _, s := range slots {
		at, used := plan.holders[s.id]
		switch {
		case used && at == s.minute:
			stay = append(stay, s) // its post keeps the others away, as the free slot did
		case used:
			left = append(left, s.minute) // its post sits elsewhere, foreign to the other slots
		case len(plan.near(s.minute, r.Gap)) == 0:
			stay = append(stay, s)
		default:
			crowded = append(crowded, s)
			left = append(left, s.minute)
		}
	}
	for _, s := range stay {
		if _, used := plan.holders[s.id]; !used {
			day.Slots = append(day.Slots, Slot{ID: s.id, At: instantOf(s.minute), Lane: held[s.demand].opening.Lane})
		}
	}
	r.redraw(day, held, stay, crowded, left, plan)
	slices.SortFunc(day.Slots, func(a, b Slot) int { return a.At.Compare(b.At) })
}

// redraw finds another minute for each crowded slot within its opening, at least a
// gap from every occupied time and every other slot of the day.
//
// A slot takes the first allowed minute in an order of its own, drawn from the
// seed. That makes every allowed minute equally likely, and a further foreign time
// moves the slot again only if it is near the minute the slot has taken. Places
// that crowded slots have left are used last, for the same reason.
func (r Rhythm) redraw(day *Day, held []demand, stay, crowded []placed, left []int, plan occupancy) {
	var taken []int
	for _, s := range stay {
		taken = append(taken, s.minute)
	}
	for _, s := range crowded {
		d := held[s.demand]
		minute, ok := r.first(s, d, plan, append(slices.Clone(taken), left...))
		if !ok {
			minute, ok = r.first(s, d, plan, taken)
		}
		if !ok {
			day.Short = append(day.Short, Shortfall{d.opening.Key, 1, fmt.Sprintf(
				"Crowded out on %s: no minute %s is %d min away from everything else in the plan.",
				day.Date.Format("Monday 2 January"), d.opening, r.Gap)})
			continue
		}
		taken = append(taken, minute)
		day.Slots = append(day.Slots, Slot{ID: s.id, At: instantOf(minute), Moved: true, Lane: d.opening.Lane})
	}
}

// first returns the first minute in the slot's own order that is free.
func (r Rhythm) first(s placed, d demand, plan occupancy, taken []int) (int, bool) {
	reach := bounds(d.stretches)
	from, _ := slices.BinarySearch(plan.minutes, reach.From-r.Gap)
	to, _ := slices.BinarySearch(plan.minutes, reach.To+r.Gap)
	taken = append(slices.Clone(plan.minutes[from:to]), taken...)
	slices.Sort(taken)

	chance := r.chance("redraw", s.id.Date.String(), s.id.Opening, fmt.Sprint(s.id.Ordinal))
	seed := binary.BigEndian.Uint64(chance[:8])
	type ranked struct {
		rank   uint64
		minute int
	}
	best, found := ranked{}, false
	for _, open := range spread.Open(d.stretches, taken, r.Gap) {
		for m := open.From; m < open.To; m++ {
			if r.Uneven && spread.IsEven(m) {
				continue
			}
			next := ranked{rand.NewPCG(seed, uint64(m)).Uint64(), m}
			if !found || cmp.Less(next.rank, best.rank) {
				best, found = next, true
			}
		}
	}
	return best.minute, found
}

func bounds(stretches []spread.Stretch) spread.Stretch {
	if len(stretches) == 0 {
		return spread.Stretch{}
	}
	whole := stretches[0]
	for _, s := range stretches[1:] {
		whole.From, whole.To = min(whole.From, s.From), max(whole.To, s.To)
	}
	return whole
}
