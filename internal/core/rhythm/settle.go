package rhythm

import (
	"cmp"
	"encoding/binary"
	"fmt"
	"math/rand/v2"
	"slices"

	"dapper.example/internal/core/civil"
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
	stay := slots[:0:len(slots)] // what is kept never passes what is read
	var crowded []placed
	for _, s := range slots {
		at, used := plan.holders[s.id]
		switch {
		case used && at == s.minute:
			stay = append(stay, s) // its post keeps the others away, as the free slot did
		case used: // its post sits elsewhere, foreign to the other slots
		case len(plan.near(s.minute, r.Gap)) == 0:
			stay = append(stay, s)
		default:
			crowded = append(crowded, s)
		}
	}
	day.Slots = slices.Grow(day.Slots, len(slots))
	for _, s := range stay {
		if _, used := plan.holders[s.id]; !used {
			day.Slots = append(day.Slots, Slot{ID: s.id, At: instantOf(s.minute), Lane: held[s.demand].opening.Lane})
		}
	}
	r.redraw(day, held, stay, crowded, plan)
}

// redraw finds another minute for each crowded slot within its opening, at least a
// gap from every occupied time and every other slot of the day: over what those leave,
// every minute equally likely.
//
// A slot takes the first allowed minute in an order of its own, drawn from the seed. That
// makes every allowed minute equally likely, and a further foreign time moves the slot
// again only if it is near the minute the slot has taken. Only where slots take one
// another's last place by that are they drawn together.
func (r Rhythm) redraw(day *Day, held []demand, stay, crowded []placed, plan occupancy) {
	if len(crowded) == 0 {
		return
	}
	var taken []int
	for _, s := range stay {
		taken = append(taken, s.minute)
	}
	minutes, left := r.redrawInTurn(held, crowded, plan, slices.Clone(taken))
	if left > 0 && len(crowded) > 1 {
		if together, fewer := r.redrawTogether(day.Date, held, crowded, plan, taken); fewer < left {
			minutes = together
		}
	}
	for i, s := range crowded {
		d := held[s.demand]
		if minutes[i] < 0 {
			day.Short = append(day.Short, Shortfall{d.opening.Key, 1, fmt.Sprintf(
				"Crowded out on %s: no minute %s is %d min away from everything else in the plan.",
				day.Date.Format("Mon 2 Jan"), d.opening, r.Gap)})
			continue
		}
		day.Slots = append(day.Slots, Slot{ID: s.id, At: instantOf(minutes[i]), Moved: true, Lane: d.opening.Lane})
	}
}

// redrawInTurn draws slot after slot and returns their minutes, -1 for those that found
// none, and how many those are.
func (r Rhythm) redrawInTurn(held []demand, crowded []placed, plan occupancy, taken []int) (minutes []int, left int) {
	for _, s := range crowded {
		minute, ok := r.first(s, held[s.demand], plan, taken)
		if !ok {
			minutes, left = append(minutes, -1), left+1
			continue
		}
		taken = append(taken, minute)
		minutes = append(minutes, minute)
	}
	return minutes, left
}

// redrawTogether is redrawInTurn with as many placed as can be.
func (r Rhythm) redrawTogether(date civil.Date, held []demand, crowded []placed, plan occupancy,
	taken []int) (minutes []int, left int) {
	request := spread.Request{Gap: r.Gap, Uneven: r.Uneven, Taken: slices.Clone(taken)}
	of := make(map[int]int) // by demand: its place in the request
	for _, s := range crowded {
		i, known := of[s.demand]
		if !known {
			i = len(request.Demands)
			of[s.demand] = i
			request.Demands = append(request.Demands, spread.Demand{Stretches: held[s.demand].stretches})
			request.Taken = append(request.Taken, plan.around(bounds(held[s.demand].stretches), r.Gap)...)
		}
		request.Demands[i].N++
	}
	drawn := spread.Draw(request, rand.New(rand.NewChaCha8(r.chance("redraw together", date.String()))))
	for _, s := range crowded {
		times := &drawn.Times[of[s.demand]]
		if len(*times) == 0 {
			minutes, left = append(minutes, -1), left+1
			continue
		}
		minutes, *times = append(minutes, (*times)[0]), (*times)[1:]
	}
	return minutes, left
}

// around returns the occupied minutes that a stretch may have to keep away from.
func (o occupancy) around(reach spread.Stretch, gap int) []int {
	from, _ := slices.BinarySearch(o.minutes, reach.From-gap)
	to, _ := slices.BinarySearch(o.minutes, reach.To+gap)
	return o.minutes[from:to]
}

// first returns the first minute in the slot's own order that is free.
func (r Rhythm) first(s placed, d demand, plan occupancy, taken []int) (int, bool) {
	taken = append(slices.Clone(plan.around(bounds(d.stretches), r.Gap)), taken...)
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
