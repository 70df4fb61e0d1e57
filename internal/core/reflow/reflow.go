// Package reflow bends a plan that stands: it makes room for a post that is urgent,
// shifts a stretch of the plan by days, and lays out one-off patterns.
//
// All of it is proposed as moves, from → to, each with its reason; nothing is kept here
// and nothing changes. The package is pure.
package reflow

import (
	"cmp"
	"fmt"
	"iter"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// Post is a scheduled post: a draft with its time.
type Post struct {
	queue.Draft
	At     time.Time
	Slot   rhythm.Slot // where it sits; the zero slot of a pinned post
	Pinned bool
}

// Move is a post with the time that it would get.
type Move struct {
	Post   Post
	To     time.Time
	Slot   rhythm.SlotID // where it would sit; the zero ID where that is no slot
	Pinned bool          // of one that was moved by hand: it is pinned there
	// Reason is a sentence for the editor: why it moves, and of one that was moved by hand what differs from
	// what was asked, "" for nothing.
	Reason string
}

// Plan is what stands, and what is free.
type Plan struct {
	Zone civil.Zone
	// Today is the day from which it is seen: dates of another year are said with theirs.
	Today civil.Date
	Caps  queue.Caps
	Gap   int // fewest minutes between two posts
	// GapAt is the gap at a time, where it is not Gap always; nil: it is.
	GapAt func(time.Time) time.Duration
	// Standing is everything that counts for the caps, the posts included.
	Standing []queue.Standing
	// Free yields the free slots in time order.
	Free iter.Seq[rhythm.Slot]
	// Posts are the scheduled posts to come, in time order.
	Posts []Post
}

// Stuck says that something cannot be done: a sentence that says what stands in the
// way and offers a way on.
type Stuck struct{ Why string }

// Error returns the sentence.
func (s *Stuck) Error() string { return s.Why }

// MakeRoom puts a draft into the first seat after a moment that it may take, be it free
// or not. The post that sat there moves down to the next seat, and so on until one is
// free: no order changes, and no post moves that need not. Pinned posts stay, and so do
// those with a deadline. The draft's own move comes first. It fails with *Stuck.
//
// urgent may be scheduled itself: At and Slot are then where it leaves from.
func MakeRoom(p Plan, urgent Post, after time.Time) ([]Move, error) {
	tally := queue.NewTally(p.Zone, p.Today, p.Caps, p.Standing)
	if !urgent.At.IsZero() {
		tally.Remove(queue.StandingOf(urgent.Draft, urgent.At))
	}
	sitting := make(map[rhythm.SlotID]Post)
	var seats []rhythm.Slot
	for _, post := range p.Posts {
		movable := !post.Pinned && post.Deadline.IsZero() && post.Slot.ID != (rhythm.SlotID{})
		if !movable || post.ID == urgent.ID || !post.At.After(after) {
			continue
		}
		sitting[post.Slot.ID] = post
		seats = append(seats, rhythm.Slot{ID: post.Slot.ID, At: post.At, Lane: post.Slot.Lane})
	}
	if urgent.Slot.ID != (rhythm.SlotID{}) && urgent.At.After(after) {
		// the seat that it leaves
		seats = insert(seats, rhythm.Slot{ID: urgent.Slot.ID, At: urgent.At, Lane: urgent.Slot.Lane})
	}
	carried, first := urgent, ""
	var moves []Move
	for seat := range merged(seats, p.Free) {
		if !seat.At.After(after) {
			continue
		}
		holder, taken := sitting[seat.ID]
		if taken {
			tally.Remove(queue.StandingOf(holder.Draft, holder.At))
		}
		if why := tally.Refuses(carried.Draft, seat); why != "" {
			if taken {
				tally.Add(queue.StandingOf(holder.Draft, holder.At))
			}
			if first == "" {
				first = why
			}
			if !carried.Deadline.IsZero() && seat.At.After(carried.Deadline) {
				break
			}
			continue
		}
		tally.Add(queue.StandingOf(carried.Draft, seat.At))
		if !carried.At.Equal(seat.At) {
			reason := "Moves down to make room."
			if carried.ID == urgent.ID {
				reason = "Put in."
			}
			moves = append(moves, Move{Post: carried, To: seat.At, Slot: seat.ID, Reason: reason})
		}
		if !taken {
			return moves, nil
		}
		carried = holder
	}
	if carried.ID == urgent.ID && first != "" {
		return nil, &Stuck{fmt.Sprintf("There is no place for “%s”: %s. Give it a time by hand, or change its time limits or the caps.", urgent.Title, first)}
	}
	return nil, &Stuck{fmt.Sprintf("There is no free slot within two years for “%s” to move to. Add openings to the rhythm, or pin the urgent post.", carried.Title)}
}

// insert puts a slot where it belongs by time.
func insert(seats []rhythm.Slot, s rhythm.Slot) []rhythm.Slot {
	at, _ := slices.BinarySearchFunc(seats, s.At, func(one rhythm.Slot, t time.Time) int { return one.At.Compare(t) })
	return slices.Insert(seats, at, s)
}

// merged yields the seats and the free slots in time order.
func merged(seats []rhythm.Slot, free iter.Seq[rhythm.Slot]) iter.Seq[rhythm.Slot] {
	return func(yield func(rhythm.Slot) bool) {
		rest := seats
		for slot := range free {
			for len(rest) > 0 && rest[0].At.Before(slot.At) {
				if !yield(rest[0]) {
					return
				}
				rest = rest[1:]
			}
			if !yield(slot) {
				return
			}
		}
		for _, s := range rest {
			if !yield(s) {
				return
			}
		}
	}
}

// Shift moves the plan's posts that come out in [from, to) by so many days, down or up.
// Pinned posts keep their time of day; the others get slots of the rhythm on their new
// dates or after, in their order, where lanes, bounds and caps allow. Nothing moves to
// before now. Posts that find no slot are named in left, and stay. A pinned post that
// would come nearer to one that stays than the gap says so in its reason.
func Shift(p Plan, from, to time.Time, days int, now time.Time) (moves []Move, left []queue.Unplaced, err error) {
	tally := queue.NewTally(p.Zone, p.Today, p.Caps, p.Standing)
	var shifted []Post
	var seats []rhythm.Slot
	for _, post := range p.Posts {
		if post.At.Before(from) || !post.At.Before(to) {
			continue
		}
		if !p.Zone.AddDays(post.At, days).After(now) {
			return nil, nil, &Stuck{fmt.Sprintf("“%s” would come out in the past. Shift by fewer days, or choose later dates.", post.Title)}
		}
		shifted = append(shifted, post)
		tally.Remove(queue.StandingOf(post.Draft, post.At))
		if post.Slot.ID != (rhythm.SlotID{}) {
			seats = append(seats, rhythm.Slot{ID: post.Slot.ID, At: post.At, Lane: post.Slot.Lane})
		}
	}
	var slotted []Post
	var held []time.Time // new times of pinned posts: no slot nearer than the gap is given away
	for _, post := range shifted {
		if !post.Pinned && post.Slot.ID != (rhythm.SlotID{}) {
			slotted = append(slotted, post)
			continue
		}
		at := p.Zone.AddDays(post.At, days)
		tally.Add(queue.StandingOf(post.Draft, at))
		held = append(held, at)
		reason := fmt.Sprintf("Keeps its time of day, %s.", by(days))
		for _, other := range p.Posts {
			if stays := other.At.Before(from) || !other.At.Before(to); stays && p.near(at, other.At) {
				reason += fmt.Sprintf(" That is nearer than the gap to “%s”.", other.Title)
			}
		}
		moves = append(moves, Move{Post: post, To: at, Reason: reason})
	}
	next, stop := iter.Pull(merged(seats, p.Free))
	defer stop()
	var waiting []rhythm.Slot // passed over by one post, and perhaps fit for a later one
	for _, post := range slotted {
		earliest := p.Zone.At(p.Zone.DateOf(post.At).Add(days), 0)
		place, refused := -1, ""
		for i := 0; place < 0; i++ {
			if i == len(waiting) {
				slot, more := next()
				if !more {
					break
				}
				waiting = append(waiting, slot)
			}
			slot := waiting[i]
			if slot.At.Before(earliest) || !slot.At.After(now) || slices.ContainsFunc(held,
				func(at time.Time) bool { return p.near(at, slot.At) }) {
				continue
			}
			if refused = tally.Refuses(post.Draft, slot); refused == "" {
				place = i
			} else if !post.Deadline.IsZero() && slot.At.After(post.Deadline) {
				break
			}
		}
		if place < 0 {
			tally.Add(queue.StandingOf(post.Draft, post.At))
			left = append(left, queue.Unplaced{Draft: post.Draft, Reason: fmt.Sprintf("It stays: %s.",
				cmp.Or(refused, "there is no free slot from its new date on"))})
			continue
		}
		slot := waiting[place]
		waiting = slices.Delete(waiting, place, place+1)
		tally.Add(queue.StandingOf(post.Draft, slot.At))
		if !slot.At.Equal(post.At) {
			moves = append(moves, Move{Post: post, To: slot.At, Slot: slot.ID,
				Reason: "To the first slot it may take, " + by(days) + "."})
		}
	}
	slices.SortStableFunc(moves, func(a, b Move) int { return a.To.Compare(b.To) })
	if len(left) > 0 {
		if clash := collides(moves, left, p.Posts); clash != "" {
			return nil, nil, &Stuck{clash}
		}
	}
	return moves, left, nil
}

// near tells whether two times are nearer to one another than the gap, at the second.
func (p Plan) near(a, b time.Time) bool {
	return a.Sub(b).Abs() < gaps{time.Duration(p.Gap) * time.Minute, p.GapAt}.at(b)
}

// gaps is the gap between two posts, which seasons may have of their own.
type gaps struct {
	usual time.Duration
	of    func(time.Time) time.Duration // nil: the usual one always
}

func (g gaps) at(t time.Time) time.Duration {
	if g.of != nil {
		return g.of(t)
	}
	return g.usual
}

// collides tells whether a post that stays sits where another would move to.
func collides(moves []Move, left []queue.Unplaced, posts []Post) string {
	for _, stays := range left {
		for _, post := range posts {
			if post.ID != stays.Draft.ID {
				continue
			}
			for _, m := range moves {
				if m.To.Equal(post.At) {
					return fmt.Sprintf("“%s” cannot move (%s) and is in the way of “%s”. Take it back to the shelf first.", post.Title, stays.Reason, m.Post.Title)
				}
			}
		}
	}
	return ""
}

func by(days int) string {
	switch {
	case days == 1:
		return "a day later"
	case days == -1:
		return "a day earlier"
	case days < 0:
		return fmt.Sprintf("%d days earlier", -days)
	}
	return fmt.Sprintf("%d days later", days)
}
