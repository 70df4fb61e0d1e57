package deed

import (
	"iter"
	"slices"
	"time"

	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
)

// Turn is a rule in a world, whose turn comes again and again.
type Turn struct {
	World *World
	rule  Rule

	past map[spot]Record // what the rule did with a post on a channel
	pool *catch.Pool
	seen condition.Moment // the condition at seenAt
	// seenAt is the moment of the last question.
	seenAt time.Time

	room     Room     // where it finds its minute; nil: at its own
	speakers []*Voice // its channels, in its order; none of rules that say nothing
	inHand   map[int64]bool

	// The turn that is next, as long as nothing it depends on changes.
	nominal time.Time
	known   bool
	moved   struct {
		to      time.Time
		ok      bool
		version int
		valid   bool
	}
}

// spot is a post, by its number in the world, and a channel; 0 of rules that say nothing.
type spot struct {
	post    int
	channel int64
}

func newTurn(w *World, r Rule, inHand map[int64]bool) *Turn {
	t := &Turn{World: w, rule: r, past: make(map[spot]Record), inHand: inHand}
	t.room = r.Room(w)
	if s, ok := r.(Speaker); ok {
		for _, id := range s.Speaks() {
			if v := w.voices[id]; v != nil {
				t.speakers = append(t.speakers, v)
			}
		}
	}
	return t
}

// knows tells whether what the rule did on a channel matters to its turns: what it sent to
// channels that are its own no more is nothing to them.
func (t *Turn) knows(channel int64) bool {
	if len(t.speakers) == 0 {
		return channel == 0
	}
	return slices.ContainsFunc(t.speakers, func(v *Voice) bool { return v.ID == channel })
}

// hears tells whether a channel is one of the rule's.
func (t *Turn) hears(v *Voice) bool { return slices.Contains(t.speakers, v) }

func (t *Turn) stage() Stage { return t.rule.Stage() }

// due returns when the rule acts next, at the moment or later; ok is false where it
// does not by itself.
func (t *Turn) due(at time.Time) (time.Time, bool) {
	r := t.rule.Base()
	if !r.IsLive() {
		return time.Time{}, false
	}
	if !t.known {
		t.nominal, t.known, t.moved.valid = t.next(), true, false
	}
	if t.nominal.IsZero() {
		return time.Time{}, false
	}
	if t.room == nil {
		return t.nominal, true
	}
	version := t.room.Version()
	if !t.moved.valid || t.moved.version != version || t.moved.to.Before(at) {
		from := t.nominal
		if from.Before(at) {
			from = at
		}
		t.moved.to, t.moved.ok = t.room.First(from)
		t.moved.version, t.moved.valid = version, true
	}
	return t.moved.to, t.moved.ok
}

// next is the rule's next turn that nobody has in hand; the zero time where it has none.
func (t *Turn) next() time.Time {
	r := t.rule.Base()
	if !r.Owed.IsZero() {
		return r.Owed
	}
	for turn := range r.turns(t.inHand) {
		return turn
	}
	return time.Time{}
}

// turns are the rule's turns from the one that was served last on, without those in hand.
func (r *RuleBase) turns(inHand map[int64]bool) iter.Seq[time.Time] {
	return func(yield func(time.Time) bool) {
		after := r.Served
		if before := r.From.Add(-time.Minute); !r.From.IsZero() && before.After(after) {
			after = before
		}
		for {
			turn, ok := r.Pace.Next(after)
			if !ok || !r.Until.IsZero() && !turn.Before(r.Until) {
				return
			}
			if !inHand[turn.Unix()] && !yield(turn) {
				return
			}
			after = turn
		}
	}
}

// TurnsOf are the turns that a rule has yet to serve, in order, without those that an editor
// has in hand: when they are due, whatever puts them off.
func TurnsOf(r Rule, inHand []InHand) iter.Seq[time.Time] {
	return r.Base().turns(handed(inHand)[r.Base().ID])
}

// act is the rule's turn at a moment.
func (t *Turn) act(at time.Time) Decision {
	pool := t.ready(at)
	run := Run{Rule: t.rule.Base().ID, Due: t.nominal, Caught: pool.Len()}
	deeds := t.rule.Act(t, &run)
	if run.Asks == "" {
		run.Took = Taken(deeds)
	}
	return Decision{Deeds: deeds, Run: &run}
}

// ready is the rule's pool at the moment.
func (t *Turn) ready(at time.Time) *catch.Pool {
	if !at.Equal(t.seenAt) {
		t.seen, t.seenAt = t.rule.Base().Condition.At(at), at
	}
	if t.pool == nil {
		t.pool = catch.New(t, len(t.World.posts), at, t.World.scene.Until)
	} else {
		t.pool.Advance(at)
	}
	return t.pool
}

// Judge is asked by the pool.
func (t *Turn) Judge(i int, at time.Time) (bool, time.Time) { return t.rule.Judge(t.Case(i, at)) }

// Key is asked by the pool.
func (t *Turn) Key(i int) catch.Key { return t.rule.Key(t.Case(i, t.seenAt)) }

// At is the moment of the turn.
func (t *Turn) At() time.Time { return t.seenAt }

// Due is when the turn came.
func (t *Turn) Due() time.Time { return t.nominal }

// Posts yields the posts of the rule's pool, in its order, by their numbers in the world.
func (t *Turn) Posts() iter.Seq[int] { return t.pool.InOrder() }

// Pool is the rule's pool at the moment of the turn.
func (t *Turn) Pool() *catch.Pool { return t.pool }

// Case puts a post before the rule, by its number in the world.
func (t *Turn) Case(i int, at time.Time) Case {
	if !at.Equal(t.seenAt) {
		t.seen, t.seenAt = t.rule.Base().Condition.At(at), at
	}
	return Case{Facts: t.World.posts[i], Past: t.pastOf(i), At: at, Moment: &t.seen}
}

// pastOf is what the rule knows of a post, over all its channels.
func (t *Turn) pastOf(i int) Past {
	if len(t.speakers) == 0 {
		own := t.past[spot{i, 0}]
		return Past{N: own.N, Round: own.Round, Earned: own.Earned, Used: own.Used, Told: own.Told, Read: own.Read}
	}
	var past Past
	for _, v := range t.speakers {
		one := t.On(i, v)
		past.N += one.N
		past.Round = max(past.Round, one.Round)
		past.Earned += one.Earned
		past.OnChannel = max(past.OnChannel, one.OnChannel)
		past.LastOnChannel = civil.Later(past.LastOnChannel, one.LastOnChannel)
		past.Used = one.Used
	}
	waiting := t.World.waits
	if len(waiting) == 0 {
		return past
	}
	id := t.rule.Base().ID
	for _, o := range waiting[t.World.posts[i].Post] {
		past.Waits = past.Waits || o.Rule == id
		if t.knows(o.Channel) {
			past.NextOnChannel = civil.Sooner(past.NextOnChannel, o.At)
		}
	}
	return past
}

// On is what the rule knows of a post on one of its channels.
func (t *Turn) On(i int, v *Voice) Past {
	own, on := t.past[spot{i, v.ID}], v.past[i]
	return Past{N: own.N, Round: own.Round, Earned: own.Earned, Used: own.Used, OnChannel: on.n, LastOnChannel: on.last}
}

// Refused lists what is refused of a post's messages on a channel.
func (t *Turn) Refused(i int, v *Voice) []Refusal { return v.refusedOf(t.World.posts[i], i) }

// AnyRefused tells whether a channel of the rule refuses a message of a post.
func (t *Turn) AnyRefused(i int) bool {
	return slices.ContainsFunc(t.speakers, func(v *Voice) bool { return len(t.Refused(i, v)) > 0 })
}

// PutOff says in a sentence why the turn was put off to its moment: what stood in the way a
// minute before; or "".
func (t *Turn) PutOff() string {
	before := t.seenAt.Add(-time.Minute)
	if t.room == nil || before.Before(t.nominal) {
		return ""
	}
	reason := t.room.Against(before)
	if reason == "" {
		return ""
	}
	return " Its turn at " + t.World.scene.Zone.In(t.nominal).Format("15:04") + " gave way to " + reason + "."
}

// serve notes that the rule's turns up to the moment have been served.
func (t *Turn) serve(run Run, at time.Time) {
	r := t.rule.Base()
	r.Served, r.Owed, r.OwedOn, t.known = at, time.Time{}, nil, false
	if run.Asks != "" {
		r.Held = true
		return
	}
	if run.Ends != "" {
		r.Armed = false
	}
	t.rule.AfterTurn(run)
}

// done is what a rule did with a post.
type done struct {
	at          time.Time
	round, used int
}

// told notes that the author of a post was told what a rule is about to do.
func (w *World) told(rule int64, i int, at time.Time) {
	if t := w.turnOf(rule); t != nil {
		here := spot{i, 0}
		p := t.past[here]
		p.Told, p.Read = at, time.Time{}
		t.past[here] = p
	}
}

// did notes what a rule did with a post, by its number, on a channel; rule 0 is none, and so
// is channel 0.
func (w *World) did(rule int64, i int, channel int64, d done) {
	t := w.turnOf(rule)
	if t == nil {
		return
	}
	here := spot{i, channel}
	p := t.past[here]
	p.N++
	p.Last, p.Round, p.Used = d.at, max(p.Round, d.round), d.used
	t.past[here] = p
	r := t.rule.Base()
	r.Round = max(r.Round, d.round)
}
