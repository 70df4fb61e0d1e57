package deed

import (
	"iter"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/condition"
)

// Turn is a rule in a world, whose turn comes again and again.
type Turn struct {
	World *World
	rule  Rule

	past map[int]Record // by post: what the rule did with it
	pool *catch.Pool
	seen condition.Moment // the condition at seenAt
	// seenAt is the moment of the last question.
	seenAt time.Time

	room    Room           // what it keeps its distance from
	bounds  cadence.Bounds // the minutes at which it may be served
	speaker *Voice         // its channel, if any

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

func newTurn(w *World, r Rule) *Turn {
	t := &Turn{World: w, rule: r, past: make(map[int]Record)}
	t.room, t.bounds = r.Room(w)
	if s, ok := r.(Speaker); ok {
		t.speaker = w.voices[s.Speaks()]
	}
	return t
}

// channel is the number of the rule's channel, or 0. What it sent to another one before is
// nothing to its turns.
func (t *Turn) channel() int64 {
	if t.speaker == nil {
		return 0
	}
	return t.speaker.ID
}

func (t *Turn) stage() Stage { return t.rule.Stage() }

// due returns when the rule acts next, at the moment or later; ok is false where it
// does not by itself.
func (t *Turn) due(at time.Time) (time.Time, bool) {
	r := t.rule.Base()
	if !r.IsLive() {
		return time.Time{}, false
	}
	if !t.known {
		nominal, ok := r.Pace.Next(r.Served)
		if !ok {
			nominal = time.Time{}
		}
		if !r.Owed.IsZero() {
			nominal = r.Owed
		}
		t.nominal, t.known, t.moved.valid = nominal, true, false
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
		t.moved.to, _, t.moved.ok = t.bounds.First(from, t.room.Crowd(from))
		t.moved.version, t.moved.valid = version, true
	}
	return t.moved.to, t.moved.ok
}

// act is the rule's turn at a moment.
func (t *Turn) act(at time.Time) Decision {
	pool := t.ready(at)
	run := Run{Rule: t.rule.Base().ID, Due: t.nominal, Caught: pool.Len()}
	deeds := t.rule.Act(t, &run)
	if run.Asks == "" {
		run.Took = len(deeds)
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
	own := t.past[i]
	past := Past{N: own.N, Round: own.Round, Earned: own.Earned, Used: own.Used}
	if t.speaker != nil {
		on := t.speaker.past[i]
		past.OnChannel, past.LastOnChannel = on.n, on.last
	}
	return Case{Facts: &t.World.posts[i], Past: past, At: at, Moment: &t.seen}
}

// Refused lists what is refused of a post's messages on the rule's channel.
func (t *Turn) Refused(i int) []Refusal {
	if t.speaker == nil {
		return nil
	}
	return t.speaker.refusedOf(&t.World.posts[i], i)
}

// PutOff says in a sentence why the turn was put off to its moment: what stood in the way a
// minute before; or "".
func (t *Turn) PutOff() string {
	before := t.seenAt.Add(-time.Minute)
	if t.room == nil || before.Before(t.nominal) {
		return ""
	}
	reason := t.bounds.Against(before, t.room.Crowd(before))
	if reason == "" {
		return ""
	}
	return " Its turn at " + t.World.scene.Zone.In(t.nominal).Format("15:04") + " gave way to " + reason + "."
}

// serve notes that the rule's turns up to the moment have been served.
func (t *Turn) serve(run Run, at time.Time) {
	r := t.rule.Base()
	r.Served, r.Owed, t.known = at, time.Time{}, false
	if run.Asks != "" {
		r.Held = true
		return
	}
	t.rule.AfterTurn(run)
}

// done is what a rule did with a post.
type done struct {
	at          time.Time
	round, used int
}

// did notes what a rule did with a post, by its number; rule 0 is none.
func (w *World) did(rule int64, i int, d done) {
	t := w.turnOf(rule)
	if t == nil {
		return
	}
	p := t.past[i]
	p.N++
	p.Last, p.Round, p.Used = d.at, max(p.Round, d.round), d.used
	t.past[i] = p
	r := t.rule.Base()
	r.Round = max(r.Round, d.round)
}
