package deed

import (
	"cmp"
	"maps"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/core/rhythm"
)

// World is a scene in which decisions are taken, and in which they can be applied.
type World struct {
	scene     Scene
	posts     []*condition.Facts // those of the scene, until they change
	own       []bool             // which posts have facts of their own in this world, since they changed
	sorted    int                // the first so many posts come in the order of their ids
	rest      map[int64]int      // the places of the others
	scheduled []Scheduled        // by time
	planned   []Outing           // by time
	waits     map[int64][]Outing // those of them that are about a post, by its id; without replies
	unplaced  int                // how many of them have no minute yet
	ids       int64              // how many outings were planned in the world
	wordings  map[string]message.Wording
	plan      plan
	published int
	expiring  []int // posts with an expiry of their own, by time
	voices    map[int64]*Voice
	edits     []Edit   // by time
	binned    []Binned // by time
	live      map[int64]revise.Text
	slugs     map[string]int64
	sources   []source // in the order in which they have their turns
	turns     []*Turn  // those of them that are rules
}

// source is whatever wants something done when its time comes.
type source interface {
	stage() Stage
	// due returns when it wants something done next, as is known at a moment. That may be
	// before the moment; ok is false where it wants nothing.
	due(at time.Time) (when time.Time, ok bool)
	// act is what it wants done at a moment at which it is due.
	act(at time.Time) Decision
}

// NewWorld makes a world of a scene; the scene's slices and rules are copied, posts as soon as they change in it.
func NewWorld(s Scene) *World {
	w := &World{scene: s, posts: slices.Clone(s.Posts), own: make([]bool, len(s.Posts)), rest: make(map[int64]int),
		scheduled: inOrder(s.Scheduled),
		voices:    make(map[int64]*Voice, len(s.Channels)), published: s.Published,
		ids: s.ids, wordings: make(map[string]message.Wording)}
	counted := s.Published == 0
	for i := range w.posts {
		f := w.posts[i]
		if w.sorted == i && (i == 0 || w.posts[i-1].Post < f.Post) {
			w.sorted++
		} else {
			w.rest[f.Post] = i
		}
		if counted && stateOf(f).IsOut() {
			w.published++
		}
		if w.expires(f) {
			w.expiring = append(w.expiring, i)
		}
	}
	w.sortExpiring()
	w.plan = newPlan(&w.scene.Rhythm, s.Standing, s.Scheduled)
	for _, c := range s.Channels {
		w.voices[c.ID] = &Voice{Channel: c, taken: slices.Clone(c.Recent), past: make(map[int]said),
			refused: make(map[int][]Refusal)}
	}
	w.edits, w.live, w.slugs = slices.SortedFunc(slices.Values(s.Edits), editsInOrder), maps.Clone(s.Live), maps.Clone(s.Slugs)
	w.binned = slices.SortedFunc(slices.Values(s.Binned), binnedInOrder)
	w.planOutings(s.Planned)
	for _, r := range s.Refusals {
		if i, known := w.find(r.Post); known && w.voices[r.Channel] != nil {
			w.voices[r.Channel].refused[i] = append(w.voices[r.Channel].refused[i], r)
		}
	}
	w.addSources()
	w.remember(s.Pasts)
	return w
}

// addSources lists whatever may want something done, in the order of turns.
func (w *World) addSources() {
	inHand := handed(w.scene.InHand)
	for _, r := range w.scene.Rules {
		w.turns = append(w.turns, newTurn(w, r.Copy(), inHand[r.Base().ID]))
	}
	slices.SortStableFunc(w.turns, func(a, b *Turn) int {
		x, y := a.rule.Base(), b.rule.Base()
		return cmp.Or(cmp.Compare(a.stage(), b.stage()), cmp.Compare(x.Position, y.Position), cmp.Compare(x.ID, y.ID))
	})
	w.sources = []source{publications{w}, timedEdits{w}, expiries{w}, emptying{w}, placing{w}, outings{w}}
	for _, t := range w.turns {
		w.sources = append(w.sources, t)
	}
	slices.SortStableFunc(w.sources, func(a, b source) int { return cmp.Compare(a.stage(), b.stage()) })
}

// remember enters what was done before, by rule and by channel.
func (w *World) remember(records []Record) {
	for _, p := range records {
		i, known := w.find(p.Post)
		if !known {
			continue
		}
		if t := w.turnOf(p.Rule); t != nil && t.knows(p.Channel) {
			t.past[spot{i, p.Channel}] = p
		}
		if v := w.voices[p.Channel]; v != nil {
			all := v.past[i]
			all.n += p.N
			if p.Last.After(all.last) {
				all.last = p.Last
			}
			v.past[i] = all
		}
	}
}

// Decide returns the deeds whose turn it is at the moment, or none where nothing is
// due, and when to ask again: at the same moment, once these are done, where something
// was due.
func (w *World) Decide(at time.Time) Decision {
	if w.scene.Paused {
		return Decision{}
	}
	if opens := FirstMinute(w.scene.Resumed); at.Before(opens) {
		d := w.Decide(opens)
		if d.IsIdle() {
			return d
		}
		return Decision{Next: opens}
	}
	first, next := w.first(at)
	if first == nil {
		return Decision{Next: next}
	}
	d := first.act(at)
	d.Next = at
	return d
}

// first is whose turn it is at a moment, or where it is nobody's, when somebody's is next.
func (w *World) first(at time.Time) (first source, next time.Time) {
	for _, s := range w.sources {
		due, ok := s.due(at)
		switch {
		case ok && !due.After(at):
			return s, time.Time{}
		case ok:
			next = civil.Sooner(next, due)
		}
	}
	return nil, next
}

// Due returns the rule whose turn it is at the moment, or 0 where it is nobody's, or that
// of what comes before all rules that are due.
func (w *World) Due(at time.Time) int64 {
	if w.scene.Paused || at.Before(w.scene.Resumed) {
		return 0
	}
	if first, _ := w.first(at); first != nil {
		if t, ok := first.(*Turn); ok {
			return t.rule.Base().ID
		}
	}
	return 0
}

// Apply does what was decided, in this world alone.
func (w *World) Apply(d Decision, at time.Time) {
	if d.Run != nil {
		w.turnOf(d.Run.Rule).serve(*d.Run, at)
	}
	for _, one := range d.Deeds {
		one.apply(w, at)
	}
}

func (w *World) turnOf(rule int64) *Turn {
	for _, t := range w.turns {
		if t.rule.Base().ID == rule {
			return t
		}
	}
	return nil
}

// touch lets all rules look at a post again.
func (w *World) touch(i int) {
	for _, t := range w.turns {
		if t.pool != nil {
			t.pool.Touch(i)
		}
	}
}

// stateOf is where a post stands, as far as rules know of it.
func stateOf(f *condition.Facts) post.State {
	return post.State{Status: post.Status(f.Status), PublishedAt: f.Published, FirstPublishedAt: f.FirstOut,
		RepublishedAt: f.LastRun, TimesRepublished: f.Republished, Notice: f.Notice}
}

// find is the number of a post in the world.
func (w *World) find(post int64) (i int, known bool) {
	if i, known = w.rest[post]; known {
		return i, true
	}
	return slices.BinarySearchFunc(w.posts[:w.sorted], post, func(f *condition.Facts, id int64) int { return cmp.Compare(f.Post, id) })
}

// changing are the facts of a post, by its number, that are about to change.
func (w *World) changing(i int) *condition.Facts {
	if !w.own[i] {
		own := *w.posts[i]
		w.posts[i], w.own[i] = &own, true
	}
	return w.posts[i]
}

// stand gives a post, by its number, the state that a change of its present one comes to.
func (w *World) stand(i int, how func(post.State) post.State) {
	f := w.changing(i)
	s := how(stateOf(f))
	f.Status, f.Published, f.FirstOut = string(s.Status), s.PublishedAt, s.FirstPublishedAt
	f.LastRun, f.Republished, f.Notice = s.RepublishedAt, s.TimesRepublished, s.Notice
}

func (w *World) unschedule(post int64) {
	if len(w.scheduled) > 0 && w.scheduled[0].Post == post {
		w.scheduled = w.scheduled[1:]
		return
	}
	w.scheduled = slices.DeleteFunc(w.scheduled, func(p Scheduled) bool { return p.Post == post })
}

// move puts a post at a time of the plan. One that comes out when it was to, stays where it
// was.
func (w *World) move(post int64, to time.Time, slot rhythm.SlotID) {
	if at, there := w.plan.where[post]; there && at.Equal(to) && w.plan.slot(post) == slot {
		return
	}
	w.plan.drop(post)
	w.plan.put(Place{post, rhythm.Occupied{At: to, Slot: slot}})
	w.plan.version++
}

// Zone is the site's.
func (w *World) Zone() civil.Zone { return w.scene.Zone }

// Published is how many posts are published.
func (w *World) Published() int { return w.published }

// Size is how many posts, outings and rules the world has to decide on.
func (w *World) Size() int {
	return len(w.posts) + len(w.scheduled) + len(w.planned) + len(w.edits) + len(w.binned) + len(w.turns)
}

// Rule is a rule as it is in the world now; ok is false where there is none of the number.
func (w *World) Rule(id int64) (r Rule, ok bool) {
	if t := w.turnOf(id); t != nil {
		return t.rule, true
	}
	return nil, false
}

// Turn is a rule's turn as if it were taken at a moment; nil where there is none of the
// number.
func (w *World) Turn(rule int64, at time.Time) *Turn {
	t := w.turnOf(rule)
	if t != nil {
		t.ready(at)
	}
	return t
}

// RunNow is a turn of a rule by an editor's hand, who agreed to a catch of a size. It may
// be asked of rules that are not armed.
func (w *World) RunNow(rule int64, agreed int, at time.Time) Decision {
	t := w.turnOf(rule)
	if t == nil {
		return Decision{Next: at}
	}
	if g, ok := t.rule.(Guarded); ok {
		g.Agree(agreed)
	}
	t.nominal = at
	d := t.act(at)
	d.Next = at
	return d
}

// NextTurn returns when a rule acts next by itself, as far as is known at the moment; ok
// is false where it does not.
func (w *World) NextTurn(rule int64, at time.Time) (time.Time, bool) {
	t := w.turnOf(rule)
	if t == nil || w.scene.Paused {
		return time.Time{}, false
	}
	return t.due(at)
}

// Post returns the facts of a post as they are in the world now.
func (w *World) Post(post int64) (*condition.Facts, bool) {
	i, ok := w.find(post)
	if !ok {
		return nil, false
	}
	return w.posts[i], true
}

// Why explains a rule's verdict on a post at a moment; both must be in the world.
func (w *World) Why(rule, post int64, at time.Time) condition.Verdict {
	t := w.turnOf(rule)
	i, _ := w.find(post)
	v := t.rule.Why(t.Case(i, at))
	if t.AnyRefused(i) {
		v.Because = append(v.Because, condition.Reason{Text: "the network refused a message of it"})
	}
	return v
}

// At returns the facts of the post with a number of a pool.
func (w *World) At(i int) *condition.Facts { return w.posts[i] }

// CaughtBy lists the live rules, beside one, that catch or would bring out a post now,
// as far as they have been asked about it.
func (w *World) CaughtBy(post, beside int64, at time.Time) []int64 {
	i, ok := w.find(post)
	if !ok {
		return nil
	}
	var rules []int64
	for _, t := range w.turns {
		if r := t.rule.Base(); r.ID != beside && r.IsLive() && t.ready(at).Has(i) {
			rules = append(rules, r.ID)
		}
	}
	return rules
}
