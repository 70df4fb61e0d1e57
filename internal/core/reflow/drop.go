package reflow

import (
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// Ground is what posts that are moved by hand come down on: all that stays where it is
// while they are lifted. Make it with NewGround; every Drop and Swap becomes a part of it.
type Ground struct {
	zone  civil.Zone
	gaps  gaps
	now   time.Time
	rest  civil.Rests
	slots func(civil.Date) []rhythm.Slot
	tally *queue.Tally
	taken []time.Time // sorted
}

// GroundPlan is what a Ground is made of.
type GroundPlan struct {
	Zone civil.Zone
	Caps queue.Caps
	Gap  int // fewest minutes between two posts
	// GapAt is the gap at a time, where it is not Gap always; nil: it is.
	GapAt func(time.Time) time.Duration
	Now   time.Time
	Rests civil.Rests
	// Standing is all that counts for the caps and keeps the gap, the lifted posts left
	// out.
	Standing []queue.Standing
	// Slots gives the free slots of a date in time order, those of the lifted posts
	// among them.
	Slots func(civil.Date) []rhythm.Slot
}

// NewGround makes a ground.
func NewGround(p GroundPlan) *Ground {
	g := &Ground{zone: p.Zone, gaps: gaps{time.Duration(p.Gap) * time.Minute, p.GapAt}, now: p.Now, rest: p.Rests,
		slots: p.Slots,
		tally: queue.NewTally(p.Zone, p.Zone.DateOf(p.Now), p.Caps, p.Standing)}
	for _, s := range p.Standing {
		g.taken = append(g.taken, s.At.Truncate(time.Minute))
	}
	slices.SortFunc(g.taken, time.Time.Compare)
	return g
}

// Shadow is a part of a day in which nothing may come down: minutes of the site's clock,
// From inclusive, To exclusive.
type Shadow struct{ From, To int }

// Landing is where a post comes down that is let go where it may not: minutes of the site's
// clock, From inclusive, To exclusive, which all lead to the minute At. At is NoMinute where
// the date has none for it.
type Landing struct{ From, To, At int }

// NoMinute is the At of a Landing on a date that has no minute left.
const NoMinute = -1

// DayGround is what a day has in the way of lifted posts.
type DayGround struct {
	Date     civil.Date
	Shadows  []Shadow  // the gap around what stands, and what is past; in order, not touching
	Landings []Landing // where Drop brings the post from minutes that it may not take; in order
	// Bar says, as a clause, why the post may not come down on the day at all: it is
	// over, a rest day, or beyond the post's bounds or a cap. It is "" where it may.
	Bar string
}

// Day tells what a date has in the way of a post.
func (g *Ground) Day(d queue.Draft, date civil.Date) DayGround {
	begin, end := g.zone.At(date, 0), g.zone.At(date.Add(1), 0)
	ground := DayGround{Date: date, Bar: g.bars(d, date)}
	if ground.Bar == "" {
		ground.Landings = g.landings(d, date)
	}
	if end.Sub(begin) != 24*time.Hour {
		ground.Shadows = g.byMinutes(date)
		return ground
	}
	shade := func(from, to time.Time) {
		from, to = civil.Later(from, begin), civil.Earlier(to, end)
		if !to.After(from) {
			return
		}
		s := Shadow{int(from.Sub(begin) / time.Minute), int(to.Sub(begin) / time.Minute)}
		if last := len(ground.Shadows) - 1; last >= 0 && ground.Shadows[last].To >= s.From {
			ground.Shadows[last].To = max(ground.Shadows[last].To, s.To)
		} else {
			ground.Shadows = append(ground.Shadows, s)
		}
	}
	shade(begin, g.now.Add(time.Minute).Truncate(time.Minute))
	gap := g.gaps.at(begin) // a season begins and ends at midnight
	first, _ := slices.BinarySearchFunc(g.taken, begin.Add(-gap), time.Time.Compare)
	for _, at := range g.taken[first:] {
		if at.After(end.Add(gap)) {
			break
		}
		shade(at.Add(-gap+time.Minute), at.Add(gap))
	}
	return ground
}

// landings tells for all minutes of a date at once what nearest tells for one.
func (g *Ground) landings(d queue.Draft, date civil.Date) (all []Landing) {
	begin, end, fits := g.room(d, date)
	// The fitting minute that is nearest to each from before, and from after; its distance
	// is counted in minutes that pass, not in those of the clock.
	start := g.zone.At(date, 0)
	n := int(g.zone.At(date.Add(1), 0).Sub(start) / time.Minute)
	before, after := make([]int, n), make([]int, n)
	none, some := -1, false
	last := none
	for i := range n {
		at := start.Add(time.Duration(i) * time.Minute)
		if !at.Before(begin) && at.Before(end) && fits(at) {
			last, some = i, true
		}
		before[i] = last
	}
	if !some {
		return []Landing{{0, int(civil.Midnight), NoMinute}}
	}
	last = none
	for i := n - 1; i >= 0; i-- {
		if before[i] == i {
			last = i
		}
		after[i] = last
	}
	for m := range int(civil.Midnight) {
		i := int(g.zone.At(date, civil.Clock(m)).Sub(start) / time.Minute)
		if i < n && before[i] == i {
			continue
		}
		i = min(i, n-1)
		to := after[i]
		if to == none || before[i] != none && i-before[i] < to-i {
			to = before[i]
		}
		_, clock := g.zone.Local(start.Add(time.Duration(to) * time.Minute))
		if k := len(all) - 1; k >= 0 && all[k].To == m && all[k].At == int(clock) {
			all[k].To = m + 1
		} else {
			all = append(all, Landing{m, m + 1, int(clock)})
		}
	}
	return all
}

// byMinutes are the shadows of a date on which the clocks change: a minute that occurs
// twice means the first, one that does not occur the one after the skip.
func (g *Ground) byMinutes(date civil.Date) (shadows []Shadow) {
	for m := range int(civil.Midnight) {
		at := g.zone.At(date, civil.Clock(m))
		if at.After(g.now) && g.allows(at) {
			continue
		}
		if last := len(shadows) - 1; last >= 0 && shadows[last].To == m {
			shadows[last].To = m + 1
		} else {
			shadows = append(shadows, Shadow{m, m + 1})
		}
	}
	return shadows
}

// bars says why a post may not come out on a date, whatever the minute.
func (g *Ground) bars(d queue.Draft, date civil.Date) string {
	if !g.zone.At(date.Add(1), 0).Add(-time.Minute).After(g.now) {
		return g.day(date) + " is over"
	}
	if rest, rests := g.rest.On(date); rests && rest.Name != "" {
		return fmt.Sprintf("%s is a rest day (%s)", g.day(date), rest.Name)
	} else if rests {
		return g.day(date) + " is a rest day"
	}
	// A bound may lie within the day: the minute it is asked for is the one that fits it best.
	at := g.zone.At(date, civil.Midnight/2)
	if !d.NotBefore.IsZero() && g.zone.DateOf(d.NotBefore) == date {
		at = civil.Later(at, d.NotBefore)
	}
	if !d.Deadline.IsZero() && g.zone.DateOf(d.Deadline) == date {
		at = civil.Earlier(at, d.Deadline)
	}
	return g.tally.Refuses(d, rhythm.Slot{At: at})
}

func (g *Ground) day(d civil.Date) string { return d.Words(g.zone.DateOf(g.now)) }

// Drop brings a post down on a date. With a time of day it is pinned there; without, a
// scheduled post keeps its time of day, and its pin if it has one, and a draft takes the
// first free slot of the date. Where the gap forbids the minute it gets the nearest one
// of the date that is allowed, and the reason says so. A post that comes down unpinned on
// a free slot sits in it. It fails with *Stuck, and the ground is as it was.
func (g *Ground) Drop(p Post, date civil.Date, at *civil.Clock) (Move, error) {
	if why := g.bars(p.Draft, date); why != "" {
		return Move{}, &Stuck{fmt.Sprintf("“%s” was not moved: %s. Choose another day, or give it a time by hand in its panel.", p.Title, why)}
	}
	down := Move{Post: p, Pinned: true}
	var want time.Time
	switch {
	case at != nil:
		want = g.zone.At(date, *at)
	case !p.At.IsZero():
		_, clock := g.zone.Local(p.At)
		want, down.Pinned = g.zone.At(date, clock), p.Pinned
	default:
		for _, s := range g.slots(date) {
			if s.At.After(g.now) && g.allows(s.At) && g.tally.Refuses(p.Draft, s) == "" {
				return g.settle(Move{Post: p, To: s.At, Slot: s.ID}), nil
			}
		}
		want = g.zone.At(date, usualClock)
		down.Reason = fmt.Sprintf("The rhythm has no free slot for it on %s, so it is pinned.", g.day(date))
	}
	to, ok := g.nearest(p.Draft, date, want)
	if !ok {
		return Move{}, &Stuck{fmt.Sprintf("“%s” was not moved: %s has no minute left that keeps the gap of %s. Choose another day, or move what is there first.", p.Title, g.day(date), minutes(int(g.gaps.at(want)/time.Minute)))}
	}
	if !to.Equal(want) && down.Reason == "" {
		_, asked := g.zone.Local(want)
		_, got := g.zone.Local(to)
		switch {
		case !want.After(g.now):
			down.Reason = fmt.Sprintf("%s has passed, so it is %s.", asked, got)
		case g.allows(want):
			down.Reason = fmt.Sprintf("%s is outside its bounds, so it is %s.", asked, got)
		default:
			down.Reason = fmt.Sprintf("%s is nearer than the gap to another post, so it is %s.", asked, got)
		}
	}
	down.To = to
	if !down.Pinned {
		for _, s := range g.slots(date) {
			if s.At.Equal(to) && g.tally.Refuses(p.Draft, s) == "" {
				down.Slot = s.ID
			}
		}
	}
	return g.settle(down), nil
}

// farthestOn is how many days Onward looks ahead.
const farthestOn = 366

// Onward brings a post that has a time down on the first date from its own on that it may
// come out on: one that sat in a slot in the first free slot after its time, another at
// its time of day. It fails with *Stuck where there is none within a year, and the ground
// is as it was.
func (g *Ground) Onward(p Post) (Move, error) {
	date := g.zone.DateOf(p.At)
	for range farthestOn {
		switch {
		case g.bars(p.Draft, date) != "":
		case p.Slot.ID == (rhythm.SlotID{}):
			if down, err := g.Drop(p, date, nil); err == nil {
				return down, nil
			}
		default:
			for _, s := range g.slots(date) {
				if s.At.After(g.now) && !s.At.Before(p.At) && g.allows(s.At) && g.tally.Refuses(p.Draft, s) == "" {
					return g.settle(Move{Post: p, To: s.At, Slot: s.ID}), nil
				}
			}
		}
		date = date.Add(1)
	}
	return Move{}, &Stuck{fmt.Sprintf("There is no place for “%s” within a year. Take it back to the shelf, or add openings to the rhythm.", p.Title)}
}

// usualClock is the time of day near which a post comes down that has none of its own.
const usualClock = civil.Clock(9 * 60)

func minutes(n int) string {
	if n == 1 {
		return "a minute"
	}
	return fmt.Sprintf("%d minutes", n)
}

// settle makes what has come down a part of the ground.
func (g *Ground) settle(d Move) Move {
	g.tally.Add(queue.StandingOf(d.Post.Draft, d.To))
	i, _ := slices.BinarySearchFunc(g.taken, d.To, time.Time.Compare)
	g.taken = slices.Insert(g.taken, i, d.To)
	return d
}

// allows tells whether a minute keeps the gap from all that stands.
func (g *Ground) allows(t time.Time) bool {
	i, _ := slices.BinarySearchFunc(g.taken, t, time.Time.Compare)
	gap := g.gaps.at(t)
	if i < len(g.taken) && g.taken[i].Sub(t) < gap {
		return false
	}
	return i == 0 || t.Sub(g.taken[i-1]) >= gap
}

// nearest is the minute of a date that is nearest to the wanted one among those that
// are to come, keep the gap and lie within the post's bounds; of two, the later.
func (g *Ground) nearest(d queue.Draft, date civil.Date, want time.Time) (time.Time, bool) {
	begin, end, free := g.room(d, date)
	fits := func(t time.Time) bool { return !t.Before(begin) && t.Before(end) && free(t) }
	for away := time.Duration(0); want.Add(away).Before(end) || !want.Add(-away).Before(begin); away += time.Minute {
		if after := want.Add(away); fits(after) {
			return after, true
		}
		if before := want.Add(-away); fits(before) {
			return before, true
		}
	}
	return time.Time{}, false
}

// room is the part of a date that lies within the post's bounds, and what tells whether a
// minute of it is to come and keeps the gap.
func (g *Ground) room(d queue.Draft, date civil.Date) (begin, end time.Time, free func(time.Time) bool) {
	begin, end = civil.Later(g.zone.At(date, 0), d.NotBefore), g.zone.At(date.Add(1), 0)
	if !d.Deadline.IsZero() {
		end = civil.Earlier(end, d.Deadline.Add(time.Minute))
	}
	return begin, end, func(t time.Time) bool { return t.After(g.now) && g.allows(t) }
}

// Swap exchanges the places of two posts, of which one may be a draft without a time:
// each gets the other's time, slot and pin. Where a lane, a bound or a cap forbids it, it
// fails with *Stuck, and the ground is as it was. Both must have been lifted.
func (g *Ground) Swap(a, b Post) (aDown, bDown Move, err error) {
	aDown, bDown = takes(a, b), takes(b, a)
	var done []queue.Standing
	for _, d := range []Move{aDown, bDown} {
		if d.To.IsZero() {
			continue // to the shelf, where nothing is in its way
		}
		if why := g.swapBars(d); why != "" {
			for _, s := range done {
				g.tally.Remove(s)
			}
			return Move{}, Move{}, &Stuck{fmt.Sprintf("“%s” and “%s” were not swapped: %s. Move them one by one, or change what is in the way.", a.Title, b.Title, why)}
		}
		done = append(done, queue.StandingOf(d.Post.Draft, d.To))
		g.tally.Add(done[len(done)-1])
	}
	return aDown, bDown, nil
}

func takes(p, place Post) Move {
	return Move{Post: p, To: place.At, Slot: place.Slot.ID, Pinned: place.Pinned}
}

func (g *Ground) swapBars(d Move) string {
	if !d.To.After(g.now) {
		return "the time of one has passed"
	}
	var lane []string
	for _, s := range g.slots(g.zone.DateOf(d.To)) {
		if s.ID == d.Slot {
			lane = s.Lane
		}
	}
	return g.tally.Refuses(d.Post.Draft, rhythm.Slot{At: d.To, Lane: lane})
}
