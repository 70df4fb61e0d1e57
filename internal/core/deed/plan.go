package deed

import (
	"cmp"
	"slices"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/rhythm"
)

// Place is a time in the plan and the post that has it.
type Place struct {
	Post int64
	rhythm.Occupied
}

// plan is the times that the gap is kept from, sorted; a post has at most one.
type plan struct {
	all     []Place
	where   map[int64]time.Time
	rhythm  *rhythm.Rhythm // whose gap is kept
	version int            // counts changes
}

// crowd is the plan's times around a moment, with the rhythm's gap.
func (p *plan) crowd(from time.Time) cadence.Crowd {
	r := p.rhythm
	crowd := cadence.Crowd{Taken: p.from(from.Add(-time.Duration(r.WidestGap()) * time.Minute)),
		Gap: time.Duration(r.Gap) * time.Minute, Zone: r.Zone}
	if len(r.Seasons) > 0 {
		crowd.GapAt = r.GapAt
	}
	return crowd
}

func byTime(a, b Place) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.Post, b.Post)) }

func newPlan(r *rhythm.Rhythm, standing []Place, scheduled []Scheduled) plan {
	p := plan{rhythm: r, all: slices.Clone(standing), where: make(map[int64]time.Time, len(standing)+len(scheduled))}
	for _, s := range scheduled {
		p.all = append(p.all, Place{s.Post, rhythm.Occupied{At: s.Due, Slot: s.Slot}})
	}
	slices.SortFunc(p.all, byTime)
	for _, s := range p.all {
		p.where[s.Post] = s.At
	}
	return p
}

func (p *plan) put(s Place) {
	i, _ := slices.BinarySearchFunc(p.all, s, byTime)
	p.all = slices.Insert(p.all, i, s)
	p.where[s.Post] = s.At
}

func (p *plan) drop(post int64) {
	at, ok := p.where[post]
	if !ok {
		return
	}
	if i, found := slices.BinarySearchFunc(p.all, Place{post, rhythm.Occupied{At: at}}, byTime); found {
		p.all = slices.Delete(p.all, i, i+1)
	}
	delete(p.where, post)
}

func (p *plan) slot(post int64) rhythm.SlotID {
	at, ok := p.where[post]
	if !ok {
		return rhythm.SlotID{}
	}
	i, _ := slices.BinarySearchFunc(p.all, Place{post, rhythm.Occupied{At: at}}, byTime)
	return p.all[i].Slot
}

// from returns the times at a moment and later, sorted.
func (p *plan) from(at time.Time) []time.Time {
	i, _ := slices.BinarySearchFunc(p.all, at, func(s Place, at time.Time) int { return s.At.Compare(at) })
	times := make([]time.Time, 0, len(p.all)-i)
	for _, s := range p.all[i:] {
		times = append(times, s.At)
	}
	return times
}
