// Package deed decides what is to be done now.
//
// A World is made of a scene: all that is known of a site at a moment, its posts,
// plan, rules and past outings. Decide answers for a moment with the deeds whose turn
// it is, each with its reason, and the moment at which to ask again. The engine does
// these deeds for real; a forecast applies them to its world and moves its clock on.
// Nothing else decides. The package is pure.
//
// What is due at once is settled one turn after another, each seeing what the ones
// before it did:
//
//  1. publications: overdue ones by the site's catch-up choice, then those on time;
//  2. posts whose own expiry has come, in order of that time;
//  3. expiry rules, 4. republish rules, 5. reshare rules, those of a kind in the
//     editor's order.
//
// So a post that expires at a minute is neither republished nor shared at that minute,
// and one that has just come out is not shared until its distance is kept.
package deed

import (
	"cmp"
	"iter"
	"slices"
	"time"

	"dapper.example/internal/core/message"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
)

// Kind says what a deed does.
type Kind string

// The kinds of deeds.
const (
	Publish Kind = "publish" // makes a scheduled post public
	Move    Kind = "move"    // gives an overdue post another time
	Hold    Kind = "hold"    // leaves an overdue post to an editor

	Archive   Kind = "archive"   // takes a published post out of lists and feeds
	ToDraft   Kind = "to draft"  // takes a post back to being written
	Bin       Kind = "bin"       // puts a post into the bin
	Republish Kind = "republish" // brings a published post out again, with a new date
	Share     Kind = "share"     // sends a message about a post to a channel
	Ask       Kind = "ask"       // holds a rule until an editor has looked at its catch
)

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

// Minute is the minute that is running at a moment. Plans are made of whole minutes, and
// so are decisions: seconds play no part in them, however late in its minute somebody
// gets to ask.
func Minute(at time.Time) time.Time { return at.Truncate(time.Minute) }

// FirstMinute is the first whole minute that is not before a moment.
func FirstMinute(at time.Time) time.Time {
	minute := Minute(at)
	if minute.Before(at) {
		return minute.Add(time.Minute)
	}
	return minute
}

// Late is from when on a publication counts as overdue rather than on time.
const Late = time.Minute

// Scheduled is a post that waits for its time.
type Scheduled struct {
	Post   int64
	Due    time.Time
	Pinned bool          // its time was chosen by hand
	Slot   rhythm.SlotID // the slot it sits in, if any; of a World
}

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

// Deed is one thing to do, as a rule to one post.
type Deed struct {
	Kind   Kind
	Post   int64       // 0 with Ask
	Due    time.Time   // when it should have been done; never after the moment asked about
	To     time.Time   // with Move: the new time, a whole minute
	Slot   rhythm.Slot // with Move into a slot
	Reason string      // a sentence for the logbook

	Rule    int64 // the rule that wants it; 0 for none
	Channel int64 // with Share
	Wording int   // with Share: the number of the wording
	Round   int   // with Share and Republish: of shuffled rounds
	Link    string
	Message message.Message // with Share
	Notice  string          // with Archive: what readers see
}

// Decision is the answer for one moment.
type Decision struct {
	Deeds []Deed    // in the order in which they are to be done
	Run   *Run      // the rule whose turn it was; nil where it was none's
	Next  time.Time // when to ask again; zero where nothing waits
}

// IsIdle tells whether nothing is due.
func (d Decision) IsIdle() bool { return len(d.Deeds) == 0 && d.Run == nil }

// Run is one turn of a rule: from then on, its turns up to the moment are served.
type Run struct {
	Rule   int64
	Due    time.Time // when its turn came
	Caught int       // posts that the rule catches or may bring out
	Took   int       // those it did something to
	Asks   string    // why it holds and asks an editor instead, or ""
	Note   string    // why it did nothing, or ""
	// Refused is how many posts it left out since the network refused their messages, where
	// it did nothing.
	Refused int
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
			d.Deeds = append(d.Deeds, Deed{Kind: Publish, Post: p.Post, Due: p.Due, Reason: came(p)})
		}
	}
	d.Deeds = append(catchUp(s, overdue, d.Deeds, at), d.Deeds...)
	for _, one := range d.Deeds {
		if one.Kind == Move && (d.Next.IsZero() || one.To.Before(d.Next)) {
			d.Next = one.To
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
			deeds = append(deeds, Deed{Kind: Publish, Post: p.Post, Due: p.Due, Reason: came(p) + was(p, at)})
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
			deeds = append(deeds, Deed{Kind: Publish, Post: p.Post, Due: p.Due, Reason: came(p) + was(p, at)})
		} else {
			deeds = append(deeds, Deed{Kind: Move, Post: p.Post, Due: p.Due, To: to,
				Reason: "Its time passed while nothing could be published; it comes out as soon as the gap allows." + was(p, at)})
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
			deeds = append(deeds, Deed{Kind: Move, Post: p.Post, Due: p.Due, To: slot.At, Slot: slot,
				Reason: "Its time passed while nothing could be published; it goes into the next free slot." + was(p, at)})
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
	return Deed{Kind: Hold, Post: p.Post, Due: p.Due, Reason: "Held, since " + why + "." + was(p, at)}
}

func came(p Scheduled) string {
	if p.Pinned {
		return "Scheduled for this time by hand."
	}
	return "Scheduled in this slot."
}

// was says how overdue a post was.
func was(p Scheduled, at time.Time) string {
	return " It was " + spell(at.Sub(p.Due)) + " overdue, since nothing could publish it before."
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
