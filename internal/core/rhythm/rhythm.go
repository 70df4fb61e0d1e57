// Package rhythm turns the weekly pattern of a blog into slots.
//
// A [Rhythm] has openings, a gap and a seed. It yields, for every date, slots
// named by the rhythm, the date, the opening and an ordinal. Each date is drawn
// for itself from the seed and the date, so that a slot keeps its time whatever is
// asked before it, beside it or after it, and whatever is committed to other slots.
//
// A post that sits at its slot's time merely uses the slot up. Other times near a
// slot are foreign (a post pinned by hand, or one of another rhythm): a slot nearer
// than the gap to one is drawn anew within its opening, and if nothing is left it
// is crowded out. The other slots stay.
//
// The package is pure: no clock, no database, no chance but the seed.
package rhythm

import (
	"crypto/sha256"
	"encoding/binary"
	"fmt"
	"io"
	"iter"
	"math/rand/v2"
	"slices"
	"strconv"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/spread"
	"dapper.example/internal/core/words"
)

// Rhythm is the weekly pattern of one site. Check Problems before drawing.
type Rhythm struct {
	ID       int64
	Zone     civil.Zone
	Gap      int    // fewest minutes between two publications
	Seed     uint64 // all chance comes from it
	Openings []Opening
	// Uneven leaves out the minutes divisible by five.
	Uneven bool
	// From and Until are the first and the last date of the site on which there are slots of
	// its own openings; the zero Date is no bound. Seasons have bounds of their own.
	From, Until civil.Date
	// Rests are dates of the site on which nothing is placed, whatever an opening's
	// window or zone.
	Rests civil.Rests
	// Seasons hold between their dates in place of the rhythm's own openings.
	Seasons []Season
}

// SlotID names a slot for good.
type SlotID struct {
	Rhythm  int64
	Date    civil.Date
	Opening string // the opening's key
	Ordinal int    // counts the opening's slots of the date from 0, in order of the clock
}

// String returns the name in one word, for messages and logs.
func (id SlotID) String() string {
	return fmt.Sprintf("%d/%s/%s/%d", id.Rhythm, id.Date, id.Opening, id.Ordinal)
}

// Slot is a time at which the rhythm has one post come out.
type Slot struct {
	ID SlotID
	At time.Time // a whole minute, UTC
	// Moved tells that the slot was drawn anew because a foreign time is near its
	// first one.
	Moved bool
	// Lane names the categories that the slot is for; empty: for all.
	Lane []string
}

// Shortfall tells that an opening yields fewer slots on a date than it asks for.
type Shortfall struct {
	Opening string // the opening's key
	Missing int
	Reason  string // a sentence for the editor
}

// Stretch is a part of a day in which an opening's slots may lie.
type Stretch struct {
	Rhythm  int64 // the rhythm's or season's, since openings have keys within it
	Opening string
	From    time.Time // inclusive
	To      time.Time // exclusive
}

// Day is what the rhythm yields on one date.
type Day struct {
	Date      civil.Date
	Slots     []Slot // in order of the clock, used ones left out
	Stretches []Stretch
	Short     []Shortfall
	// Near tells that so many openings overlap on the date that its times are only nearly
	// uniform over all that are possible; see spread.Draw.
	Near bool
}

// Occupied is a time that is taken in the plan, and the slot that the post there
// sits in; Slot is the zero SlotID where it sits in none.
type Occupied struct {
	At   time.Time
	Slot SlotID
}

// Days yields the rhythm's days from a date on, without end.
func (r Rhythm) Days(from civil.Date, occupied []Occupied) iter.Seq[Day] {
	plan := index(occupied)
	return func(yield func(Day) bool) {
		bare := r.bareDays()
		for d := from; yield(bare.day(d, plan)); d = d.Add(1) {
			bare.forget(d)
		}
	}
}

// Beside is a rhythm beside the occupied times of a plan. It remembers the days it has
// drawn, so that several readings of them cost one drawing. It is not for several
// goroutines at once.
type Beside struct {
	Rhythm Rhythm
	plan   occupancy
	bare   *bareDays
	drawn  map[civil.Date]Day
}

// Beside puts the rhythm beside occupied times.
func (r Rhythm) Beside(occupied []Occupied) *Beside {
	return &Beside{r, index(occupied), r.bareDays(), make(map[civil.Date]Day)}
}

// Days yields the days from a date on, without end, as Rhythm.Days does; they are not to
// be changed.
func (b *Beside) Days(from civil.Date) iter.Seq[Day] {
	return func(yield func(Day) bool) {
		for d := from; ; d = d.Add(1) {
			day, known := b.drawn[d]
			if !known {
				day = b.bare.day(d, b.plan)
				b.drawn[d] = day
			}
			if !yield(day) {
				return
			}
		}
	}
}

// Day returns what the rhythm yields on one date beside the occupied times.
func (r Rhythm) Day(date civil.Date, occupied []Occupied) Day {
	return r.bareDays().day(date, index(occupied))
}

// occupancy is the plan's times, ready for asking.
type occupancy struct {
	minutes []int // sorted, since 1970
	holders map[SlotID]int
}

func index(occupied []Occupied) occupancy {
	o := occupancy{minutes: make([]int, 0, len(occupied)), holders: make(map[SlotID]int)}
	for _, taken := range occupied {
		m := minuteOf(taken.At)
		o.minutes = append(o.minutes, m)
		if taken.Slot != (SlotID{}) {
			o.holders[taken.Slot] = m
		}
	}
	slices.Sort(o.minutes)
	return o
}

// near returns the occupied minutes nearer than gap to m.
func (o occupancy) near(m, gap int) []int {
	from, _ := slices.BinarySearch(o.minutes, m-gap+1)
	to, _ := slices.BinarySearch(o.minutes, m+gap)
	return o.minutes[from:to]
}

func minuteOf(t time.Time) int { return int(t.Unix() / 60) }

func instantOf(minute int) time.Time { return time.Unix(int64(minute)*60, 0).UTC() }

// Around returns how many dates before and after a date of the site may have slots on
// it: windows run to 48:00, a sway may reach back over midnight, and the clocks of
// audiences elsewhere may be up to 26 hours ahead or behind.
func (r Rhythm) Around() (before, after int) {
	before, after = 2, 1
	for o := range r.everyOpening {
		if o.Audience != nil {
			return before + 2, after + 2
		}
	}
	return before, after
}

// demand is one opening on one date.
type demand struct {
	opening   Opening
	stretches []spread.Stretch
	resting   bool // rest days leave it no minute: that it yields nothing is meant
}

func first(stretches []spread.Stretch) int {
	if len(stretches) == 0 {
		return 0
	}
	return stretches[0].From
}

// less returns the stretches without the minutes of the others.
func less(stretches, others []spread.Stretch) []spread.Stretch {
	for _, other := range others {
		var kept []spread.Stretch
		for _, s := range stretches {
			if other.To <= s.From || other.From >= s.To {
				kept = append(kept, s)
				continue
			}
			if s.From < other.From {
				kept = append(kept, spread.Stretch{From: s.From, To: other.From})
			}
			if other.To < s.To {
				kept = append(kept, spread.Stretch{From: other.To, To: s.To})
			}
		}
		stretches = kept
	}
	return stretches
}

func (b *bareDays) day(date civil.Date, plan occupancy) Day {
	day := Day{Date: date}
	for _, p := range b.parts(date) {
		drawn := p.draw(date, p.held)
		total := 0
		for _, times := range drawn.Times {
			total += len(times)
		}
		slots := make([]placed, 0, total)
		day.Stretches = slices.Grow(day.Stretches, len(p.held))
		for i, d := range p.held {
			for _, s := range d.stretches {
				day.Stretches = append(day.Stretches, Stretch{p.ID, d.opening.Key, instantOf(s.From), instantOf(s.To)})
			}
			for ordinal, m := range drawn.Times[i] {
				slots = append(slots, placed{SlotID{p.ID, date, d.opening.Key, ordinal}, i, m})
			}
			if missing := drawn.Missing[i]; missing > 0 && !d.resting {
				day.Short = append(day.Short, Shortfall{d.opening.Key, missing, fmt.Sprintf(
					"%s asks for %s %s with a gap of %d min; %d fit beside the other openings and the days before.",
					date.Weekday(), words.Count(d.opening.Count, "post"), d.opening, p.Gap, len(drawn.Times[i]))})
			}
		}
		day.Near = day.Near || drawn.Near
		slices.SortStableFunc(slots, func(a, b placed) int { return a.minute - b.minute })
		p.settle(&day, p.held, slots, plan)
	}
	slices.SortFunc(day.Slots, func(a, b Slot) int { return a.At.Compare(b.At) })
	return day
}

// draw gives the date its times, from the seed and the date alone.
func (r Rhythm) draw(date civil.Date, held []demand) spread.Result {
	request := spread.Request{Gap: r.Gap, Uneven: r.Uneven, Demands: make([]spread.Demand, len(held))}
	for i, d := range held {
		request.Demands[i] = spread.Demand{Stretches: d.stretches, N: d.opening.Count}
	}
	return spread.Draw(request, rand.New(rand.NewChaCha8(r.chance("day", date.String()))))
}

// chance derives 32 bytes from the seed and the name of what is drawn.
func (r Rhythm) chance(names ...string) [32]byte {
	h := sha256.New()
	var seed [8]byte
	binary.BigEndian.PutUint64(seed[:], r.Seed)
	h.Write(seed[:])
	for _, name := range names {
		io.WriteString(h, strconv.Itoa(len(name))+":"+name)
	}
	return [32]byte(h.Sum(nil))
}
