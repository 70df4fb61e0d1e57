package deed

import (
	"cmp"
	"iter"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
)

// The names of what is done to posts that wait for their time.
const (
	KindPublish Kind = "publish"
	KindMove    Kind = "move"
	KindHold    Kind = "hold"
)

// Publish makes a scheduled post public.
type Publish struct{ Base }

// Describe tells what the deed is.
func (d Publish) Describe() Description { return d.describe(KindPublish, ComesOut) }

func (d Publish) apply(w *World, at time.Time) {
	w.unschedule(d.Post)
	w.move(d.Post, at, w.plan.slot(d.Post))
	w.published++
	i, known := w.find(d.Post)
	if !known {
		return
	}
	w.stand(i, func(s post.State) post.State { return s.Publish(at) })
	if w.expires(w.posts[i]) {
		w.expiring = append(w.expiring, i)
		w.sortExpiring()
	}
	w.touch(i)
	w.announce(i, at)
}

// Move gives an overdue post another time, a whole minute.
type Move struct {
	Base
	To   time.Time
	Slot rhythm.Slot // the slot it goes into, if any
}

// Describe tells what the deed is.
func (d Move) Describe() Description {
	told := d.describe(KindMove, Replanned)
	told.To = d.To
	return told
}

func (d Move) apply(w *World, _ time.Time) {
	w.unschedule(d.Post)
	w.scheduled = inOrder(append(w.scheduled, Scheduled{Post: d.Post, Due: d.To, Slot: d.Slot.ID}))
	w.move(d.Post, d.To, d.Slot.ID)
}

// Hold leaves an overdue post to an editor.
type Hold struct{ Base }

// Describe tells what the deed is.
func (d Hold) Describe() Description { return d.describe(KindHold, Replanned) }

func (d Hold) apply(w *World, _ time.Time) { w.unschedule(d.Post) }

// publications are the posts of a world that wait for their time.
type publications struct{ w *World }

func (p publications) stage() Stage { return Publications }

func (p publications) due(time.Time) (time.Time, bool) {
	if len(p.w.scheduled) == 0 {
		return time.Time{}, false
	}
	return p.w.scheduled[0].Due, true
}

func (p publications) act(at time.Time) Decision {
	w := p.w
	n, _ := slices.BinarySearchFunc(w.scheduled, at, func(p Scheduled, at time.Time) int {
		if p.Due.After(at) {
			return 1
		}
		return -1
	})
	s := Snapshot{Scheduled: w.scheduled[:n], CatchUp: w.scene.CatchUp, Fresh: w.scene.Fresh,
		Gap: time.Duration(w.scene.Rhythm.Gap) * time.Minute, GapAt: w.scene.Rhythm.GapAt}
	if due := s.Scheduled; at.Sub(due[0].Due) >= Late && s.CatchUp != AtOnce && s.CatchUp != "" {
		claimed := make(map[int64]bool, n)
		for _, p := range due {
			claimed[p.Post] = true
		}
		var occupied []rhythm.Occupied
		for _, p := range w.plan.all {
			if !claimed[p.Post] {
				s.Taken = append(s.Taken, p.At)
				occupied = append(occupied, p.Occupied)
			}
		}
		s.Slots = queue.Slots(w.scene.Rhythm, at, occupied)
	}
	return Decide(s, at)
}

// CatchUp is what happens to a post whose time passed while nothing could publish it.
type CatchUp string

// The choices of a site for catching up.
const (
	AtOnce        CatchUp = "at once"
	AtOnceIfFresh CatchUp = "at once if fresh" // and held otherwise
	SpreadOut     CatchUp = "spread out"       // each as early as the gap allows, oldest first
	NextSlots     CatchUp = "next slots"       // each into the next free slot, oldest first
	HoldForMe     CatchUp = "hold"
)

// CatchUps lists all choices.
var CatchUps = []CatchUp{AtOnce, AtOnceIfFresh, SpreadOut, NextSlots, HoldForMe}

// Late is from when on a publication counts as overdue rather than on time.
const Late = time.Minute

// Scheduled is a post that waits for its time.
type Scheduled struct {
	Post   int64
	Due    time.Time
	Pinned bool          // its time was chosen by hand
	Slot   rhythm.SlotID // the slot it sits in, if any; of a World
}

func (p Scheduled) base(reason string) Base { return Base{Post: p.Post, Due: p.Due, Reason: reason} }

// Snapshot is what decides on publications alone.
type Snapshot struct {
	// Scheduled are the posts that wait, in any order, without those that are held. It
	// may leave out posts that are due after others it holds, but then the moment to
	// ask again is only as good as what it holds.
	Scheduled []Scheduled
	// Paused: nothing comes out.
	Paused  bool
	CatchUp CatchUp       // AtOnce where empty
	Fresh   time.Duration // with AtOnceIfFresh: how old is fresh still
	Gap     time.Duration // with SpreadOut
	// GapAt is the gap at a time, where it is not Gap always; nil: it is.
	GapAt func(time.Time) time.Duration
	// Taken are the times of other posts, published and scheduled; with SpreadOut.
	Taken []time.Time
	// Slots yields the free slots after the moment, in time order; with NextSlots.
	Slots iter.Seq[rhythm.Slot]
}

// Decide returns which publications are due at the moment, overdue ones first. A post
// is never published before its time, and a post that is not in the snapshot is not
// touched. Of a paused site, nothing is due.
func Decide(s Snapshot, at time.Time) Decision {
	if s.Paused {
		return Decision{}
	}
	var d Decision
	var overdue []Scheduled
	for _, p := range inOrder(s.Scheduled) {
		switch {
		case p.Due.After(at):
			if d.Next.IsZero() {
				d.Next = p.Due
			}
		case at.Sub(p.Due) >= Late:
			overdue = append(overdue, p)
		default:
			d.Deeds = append(d.Deeds, Publish{p.base(came(p))})
		}
	}
	d.Deeds = append(catchUp(s, overdue, d.Deeds, at), d.Deeds...)
	for _, one := range d.Deeds {
		if move, ok := one.(Move); ok {
			d.Next = civil.Sooner(d.Next, move.To)
		}
	}
	return d
}

func inOrder(posts []Scheduled) []Scheduled {
	sorted := slices.Clone(posts)
	slices.SortFunc(sorted, func(a, b Scheduled) int {
		return cmp.Or(a.Due.Compare(b.Due), cmp.Compare(a.Post, b.Post))
	})
	return sorted
}

// catchUp decides on the overdue posts, oldest first, beside those published on time.
func catchUp(s Snapshot, overdue []Scheduled, onTime []Deed, at time.Time) []Deed {
	if len(overdue) == 0 {
		return nil
	}
	switch s.CatchUp {
	case SpreadOut:
		return spreadOut(s, overdue, onTime, at)
	case NextSlots:
		return nextSlots(s, overdue, at)
	}
	var deeds []Deed
	for _, p := range overdue {
		switch age := at.Sub(p.Due); {
		case s.CatchUp == HoldForMe:
			deeds = append(deeds, hold(p, at, "the site holds overdue posts for an editor"))
		case s.CatchUp == AtOnceIfFresh && age > s.Fresh:
			deeds = append(deeds, hold(p, at, "the site holds posts that are more than "+spell(s.Fresh)+" overdue"))
		default:
			deeds = append(deeds, Publish{p.base(came(p) + was(at.Sub(p.Due)))})
		}
	}
	return deeds
}

func spreadOut(s Snapshot, overdue []Scheduled, onTime []Deed, at time.Time) []Deed {
	taken := slices.Clone(s.Taken)
	if len(onTime) > 0 {
		taken = append(taken, at)
	}
	slices.SortFunc(taken, time.Time.Compare)
	var deeds []Deed
	for _, p := range overdue {
		to := s.earliest(at, taken)
		if to.Equal(at) {
			deeds = append(deeds, Publish{p.base(came(p) + was(at.Sub(p.Due)))})
		} else {
			deeds = append(deeds,
				Move{Base: p.base("Its time passed while nothing could be published; it comes out as soon as the gap allows." + was(at.Sub(p.Due))), To: to})
		}
		i, _ := slices.BinarySearchFunc(taken, to, time.Time.Compare)
		taken = slices.Insert(taken, i, to)
	}
	return deeds
}

// gap is the gap that holds at a time.
func (s Snapshot) gap(at time.Time) time.Duration {
	if s.GapAt != nil {
		return s.GapAt(at)
	}
	return s.Gap
}

// earliest is the moment itself, or the first whole minute after it that is the gap
// away from every taken time, which are sorted.
func (s Snapshot) earliest(at time.Time, taken []time.Time) time.Time {
	to := at
	for i := 0; i < len(taken); i++ {
		t := taken[i]
		gap := s.gap(to)
		if to.Sub(t) >= gap || t.Sub(to) >= gap {
			continue
		}
		to = FirstMinute(t.Add(gap))
		if s.gap(to) > gap {
			i = -1 // a season with a wider gap: look at all again
		}
	}
	return to
}

func nextSlots(s Snapshot, overdue []Scheduled, at time.Time) []Deed {
	var deeds []Deed
	if s.Slots != nil {
		for slot := range s.Slots {
			p := overdue[len(deeds)]
			deeds = append(deeds, Move{To: slot.At, Slot: slot,
				Base: p.base("Its time passed while nothing could be published; it goes into the next free slot." +
					was(at.Sub(p.Due)))})
			if len(deeds) == len(overdue) {
				break
			}
		}
	}
	for _, p := range overdue[len(deeds):] {
		deeds = append(deeds, hold(p, at, "the rhythm has no free slot for it"))
	}
	return deeds
}

func hold(p Scheduled, at time.Time, why string) Deed {
	return Hold{p.base("Held, since " + why + "." + was(at.Sub(p.Due)))}
}

func came(p Scheduled) string {
	if p.Pinned {
		return "Scheduled for this time by hand."
	}
	return "Scheduled in this slot."
}

// was says how overdue something was.
func was(late time.Duration) string {
	return " It was " + spell(late) + " overdue, since nothing could publish it before."
}

// spell says a duration in its largest unit, such as "3 hours".
func spell(d time.Duration) string {
	units := []struct {
		size time.Duration
		name string
	}{{24 * time.Hour, "day"}, {time.Hour, "hour"}, {time.Minute, "minute"}}
	for _, u := range units {
		if n := int(d / u.size); n > 0 {
			return words.Count(n, u.name)
		}
	}
	return "less than a minute"
}
