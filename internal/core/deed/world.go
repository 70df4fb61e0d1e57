package deed

import (
	"cmp"
	"errors"
	"slices"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/upkeep"
)

// World is a scene in which decisions are taken, and in which they can be applied.
type World struct {
	scene     Scene
	posts     []condition.Facts
	index     map[int64]int
	scheduled []Scheduled // by time
	plan      plan
	published int
	expiring  []int // posts with an expiry of their own, by time
	turns     []*turn
	channels  map[int64]*channel
	version   int // counts changes of the plan
}

// channel is a channel with what was said on it.
type channel struct {
	Channel
	times   []time.Time // of its messages, sorted
	version int
	past    map[int]reshare.Past // by post: on the channel
	refused map[int][]Refusal    // by post
}

// NewWorld makes a world of a scene; the scene's slices are copied.
func NewWorld(s Scene) *World {
	w := &World{scene: s, posts: slices.Clone(s.Posts), index: make(map[int64]int, len(s.Posts)), scheduled: inOrder(s.Scheduled),
		channels: make(map[int64]*channel, len(s.Channels)), published: s.Published}
	counted := s.Published == 0
	for i := range w.posts {
		f := &w.posts[i]
		w.index[f.Post] = i
		if counted && f.Status == "published" {
			w.published++
		}
		if w.expires(f) {
			w.expiring = append(w.expiring, i)
		}
	}
	w.sortExpiring()
	w.plan = newPlan(s.Standing, s.Scheduled)
	for _, c := range s.Channels {
		w.channels[c.ID] = &channel{Channel: c, times: slices.SortedFunc(slices.Values(c.Recent), time.Time.Compare), past: make(map[int]reshare.Past),
			refused: make(map[int][]Refusal)}
	}
	for _, r := range s.Refusals {
		if i, known := w.index[r.Post]; known && w.channels[r.Channel] != nil {
			w.channels[r.Channel].refused[i] = append(w.channels[r.Channel].refused[i], r)
		}
	}
	w.addTurns()
	return w
}

func (w *World) expires(f *condition.Facts) bool {
	return f.Status == "published" && !f.NeverExpires && !f.Expires.IsZero()
}

func (w *World) sortExpiring() {
	slices.SortFunc(w.expiring, func(a, b int) int {
		return cmp.Or(w.posts[a].Expires.Compare(w.posts[b].Expires), cmp.Compare(w.posts[a].Post, w.posts[b].Post))
	})
}

// addTurns makes a turn of each rule, in the order in which rules that are due at once
// take theirs.
func (w *World) addTurns() {
	s := w.scene
	pasts := make(map[int64]map[int]Past)
	for _, p := range s.Pasts {
		i, ok := w.index[p.Post]
		if !ok {
			continue
		}
		if pasts[p.Rule] == nil {
			pasts[p.Rule] = make(map[int]Past)
		}
		pasts[p.Rule][i] = p
		if c := w.channels[p.Channel]; c != nil {
			all := c.past[i]
			all.OnChannel += p.N
			all.Earned += p.Earned
			if p.Last.After(all.Last) {
				all.Last = p.Last
			}
			c.past[i] = all
		}
	}
	byPlace := func(a, b *turn) int {
		return cmp.Or(cmp.Compare(a.base.Position, b.base.Position), cmp.Compare(a.base.ID, b.base.ID))
	}
	add := func(turns []*turn) {
		slices.SortFunc(turns, byPlace)
		w.turns = append(w.turns, turns...)
	}
	var expire, republish, share []*turn
	for _, r := range s.Expire {
		expire = append(expire, &turn{w: w, base: &r.Rule, expire: &r})
	}
	for _, r := range s.Republish {
		republish = append(republish, &turn{w: w, base: &r.Rule, republish: &r, bounds: r.Bounds, past: pastsOf(pasts, r.ID)})
	}
	for _, r := range s.Reshare {
		share = append(share, &turn{w: w, base: &r.Rule, share: &r, bounds: w.boundsOf(r), past: pastsOf(pasts, r.ID)})
	}
	add(expire)
	add(republish)
	add(share)
}

// boundsOf are a reshare rule's bounds with the quiet hours of its channel.
func (w *World) boundsOf(r reshare.Rule) cadence.Bounds {
	b := r.Bounds
	if c := w.channels[r.Channel]; c != nil {
		b.Quiet = append([]cadence.Quiet{c.Quiet}, b.Quiet...)
	}
	return b
}

func pastsOf(pasts map[int64]map[int]Past, rule int64) map[int]Past {
	if pasts[rule] == nil {
		return make(map[int]Past)
	}
	return pasts[rule]
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
	if d, due := w.BeforeRules(at); due {
		return d
	}
	next := w.next()
	for _, t := range w.turns {
		due, ok := t.due(at)
		if !ok {
			continue
		}
		if !due.After(at) {
			d := t.run(at)
			d.Next = at
			return d
		}
		next = sooner(next, due)
	}
	return Decision{Next: next}
}

// BeforeRules returns what is due at the moment and comes before all rules: publications
// and own expiries.
func (w *World) BeforeRules(at time.Time) (d Decision, due bool) {
	if !w.isOpen(at) {
		return Decision{}, false
	}
	if d, due = w.publications(at); due {
		return d, true
	}
	return w.ownExpiries(at)
}

// Due returns the rule whose turn is next in order at the moment, or 0 where none is
// due. Publications and own expiries come before it.
func (w *World) Due(at time.Time) int64 {
	if !w.isOpen(at) {
		return 0
	}
	for _, t := range w.turns {
		if due, ok := t.due(at); ok && !due.After(at) {
			return t.base.ID
		}
	}
	return 0
}

// isOpen tells whether anything may be decided at a moment.
func (w *World) isOpen(at time.Time) bool {
	return !w.scene.Paused && !at.Before(w.scene.Resumed)
}

func sooner(a, b time.Time) time.Time {
	if a.IsZero() || !b.IsZero() && b.Before(a) {
		return b
	}
	return a
}

// next is when the next post comes out or expires by itself.
func (w *World) next() time.Time {
	var next time.Time
	if len(w.scheduled) > 0 {
		next = w.scheduled[0].Due
	}
	if len(w.expiring) > 0 {
		next = sooner(next, w.posts[w.expiring[0]].Expires)
	}
	return next
}

func (w *World) publications(at time.Time) (Decision, bool) {
	if len(w.scheduled) == 0 || w.scheduled[0].Due.After(at) {
		return Decision{}, false
	}
	n, _ := slices.BinarySearchFunc(w.scheduled, at, func(p Scheduled, at time.Time) int {
		if p.Due.After(at) {
			return 1
		}
		return -1
	})
	s := Snapshot{Scheduled: w.scheduled[:n], CatchUp: w.scene.CatchUp, Fresh: w.scene.Fresh, Gap: time.Duration(w.scene.Rhythm.Gap) * time.Minute, GapAt: w.scene.Rhythm.GapAt}
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
	d := Decide(s, at)
	d.Next = at
	return d, true
}

func (w *World) ownExpiries(at time.Time) (Decision, bool) {
	d := Decision{Next: at}
	for _, i := range w.expiring {
		f := &w.posts[i]
		if f.Expires.After(at) {
			break
		}
		d.Deeds = append(d.Deeds, Deed{Kind: Archive, Post: f.Post, Due: f.Expires, Notice: w.notice(at),
			Reason: "Set to expire on " + upkeep.Day(f.Expires, at, w.scene.Zone) + w.scene.Zone.In(f.Expires).Format(", 15:04") + "."})
	}
	return d, len(d.Deeds) > 0
}

// Apply does what was decided, in this world alone.
func (w *World) Apply(d Decision, at time.Time) {
	if d.Run != nil {
		t := w.turnOf(d.Run.Rule)
		t.serve(*d.Run, at)
	}
	for _, one := range d.Deeds {
		w.apply(one, at)
	}
}

func (w *World) turnOf(rule int64) *turn {
	for _, t := range w.turns {
		if t.base.ID == rule {
			return t
		}
	}
	return nil
}

func (w *World) apply(d Deed, at time.Time) {
	i, known := w.index[d.Post]
	switch d.Kind {
	case Publish:
		w.unschedule(d.Post)
		w.move(d.Post, at, w.plan.slot(d.Post))
		if known {
			w.publish(i, at)
		}
		w.published++
	case Move:
		w.unschedule(d.Post)
		w.scheduled = inOrder(append(w.scheduled, Scheduled{Post: d.Post, Due: d.To, Slot: d.Slot.ID}))
		w.move(d.Post, d.To, d.Slot.ID)
	case Hold:
		w.unschedule(d.Post)
	case Archive, ToDraft, Bin:
		w.takeAway(i, d.Kind)
	case Republish:
		w.move(d.Post, at, rhythm.SlotID{})
		f := &w.posts[i]
		f.Published, f.LastRun = at, at
		f.Republished++
		w.turnOf(d.Rule).did(i, at, d.Round, 0)
		w.touch(i)
	case Share:
		w.shared(i, d, at)
	}
}

func (w *World) publish(i int, at time.Time) {
	f := &w.posts[i]
	f.Status, f.Published = "published", at
	if f.FirstOut.IsZero() {
		f.FirstOut = at
	}
	if w.expires(f) {
		w.expiring = append(w.expiring, i)
		w.sortExpiring()
	}
	w.touch(i)
}

func (w *World) takeAway(i int, how Kind) {
	f := &w.posts[i]
	if f.Status == "published" {
		w.published--
	}
	w.plan.drop(f.Post)
	w.version++
	switch how {
	case Archive:
		f.Status = "archived"
	case ToDraft:
		f.Status, f.Published = "draft", time.Time{}
	case Bin:
		f.Status = "binned"
	}
	w.expiring = slices.DeleteFunc(w.expiring, func(j int) bool { return j == i })
	w.touch(i)
}

func (w *World) shared(i int, d Deed, at time.Time) {
	f := &w.posts[i]
	f.Shared++
	w.turnOf(d.Rule).did(i, at, d.Round, d.Wording+1)
	c := w.channels[d.Channel]
	past := c.past[i]
	past.OnChannel++
	past.Last = at
	c.past[i] = past
	c.times = append(c.times, at)
	for at.Sub(c.times[0]) > CrowdReach {
		c.times = c.times[1:]
	}
	c.version++
	for _, t := range w.turns {
		if t.pool != nil && (t.share != nil && t.share.Channel == d.Channel || t.base.Condition.Asks(condition.Shared)) {
			t.pool.Touch(i)
		}
	}
}

// touch lets all rules look at a post again.
func (w *World) touch(i int) {
	for _, t := range w.turns {
		if t.pool != nil {
			t.pool.Touch(i)
		}
	}
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
	w.plan.put(Standing{post, rhythm.Occupied{At: to, Slot: slot}})
	w.version++
}

// Scene returns the world as it is now, as a scene of its own.
func (w *World) Scene() Scene {
	s := w.scene
	s.Posts, s.Scheduled = slices.Clone(w.posts), slices.Clone(w.scheduled)
	s.Published, s.Standing, s.Channels, s.Pasts = w.published, nil, nil, nil
	s.Expire, s.Republish, s.Reshare = nil, nil, nil
	waiting := make(map[int64]bool, len(w.scheduled))
	for i, p := range s.Scheduled {
		waiting[p.Post] = true
		s.Scheduled[i].Slot = w.plan.slot(p.Post)
	}
	for _, p := range w.plan.all {
		if !waiting[p.Post] {
			s.Standing = append(s.Standing, p)
		}
	}
	for _, c := range w.channels {
		now := c.Channel
		now.Recent = slices.Clone(c.times)
		s.Channels = append(s.Channels, now)
	}
	for _, t := range w.turns {
		var channel int64
		switch {
		case t.expire != nil:
			s.Expire = append(s.Expire, *t.expire)
		case t.republish != nil:
			s.Republish = append(s.Republish, *t.republish)
		default:
			s.Reshare = append(s.Reshare, *t.share)
			channel = t.share.Channel
		}
		for i, p := range t.past {
			p.Rule, p.Channel, p.Post = t.base.ID, channel, w.posts[i].Post
			s.Pasts = append(s.Pasts, p)
		}
	}
	return s
}

// Catch is the rule's pool at the moment, or nil where there is no such rule.
func (w *World) Catch(rule int64, at time.Time) *catch.Pool {
	t := w.turnOf(rule)
	if t == nil {
		return nil
	}
	return t.ready(at)
}

// RunNow is an expiry rule's run by an editor's hand, who agreed to a catch of a size.
// It may be asked of rules that are not armed.
func (w *World) RunNow(rule int64, agreed int, at time.Time) Decision {
	t := w.turnOf(rule)
	if t == nil || t.expire == nil {
		return Decision{Next: at}
	}
	t.expire.Allowed = max(t.expire.Allowed, agreed)
	t.nominal = at
	d := t.run(at)
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

// PastOf returns what is known of a post's outings to a reshare rule.
func (w *World) PastOf(rule, post int64) reshare.Past {
	t := w.turnOf(rule)
	i, ok := w.index[post]
	if t == nil || t.share == nil || !ok {
		return reshare.Past{}
	}
	return t.pastOf(i)
}

// Refused tells what is refused of a post's messages on the channel of a reshare rule.
func (w *World) Refused(rule, post int64) []Refusal {
	t := w.turnOf(rule)
	i, ok := w.index[post]
	if t == nil || t.share == nil || !ok || w.channels[t.share.Channel] == nil {
		return nil
	}
	return w.channels[t.share.Channel].refusedOf(&w.posts[i], i)
}

// Unfit is a message of a rule that its channel cannot take.
type Unfit struct {
	Post    int64
	Wording int // its number
	Over    int // by how much it is too long, in graphemes, or in bytes where only those are too many; 0: it is not
	Why     string
}

// Unfit lists messages of a reshare rule that its channel cannot take, those of the posts
// that would go out next first: at most so many, of at most so many posts.
func (w *World) Unfit(rule int64, at time.Time, most, posts int) []Unfit {
	t := w.turnOf(rule)
	if t == nil || t.share == nil || w.channels[t.share.Channel] == nil {
		return nil
	}
	var found []Unfit
	seen := 0
	for i := range t.ready(at).InOrder() {
		if seen++; seen > posts {
			break
		}
		f := &w.posts[i]
		link := ""
		if w.scene.Link != nil {
			link = w.scene.Link(f, t.share)
		}
		for wording := range t.share.Wordings {
			_, err := t.compose(f, wording, link, w.channels[t.share.Channel].Limits)
			if err == nil {
				continue
			}
			one := Unfit{Post: f.Post, Wording: wording, Why: err.Error()}
			var long *message.TooLong
			if errors.As(err, &long) {
				one.Over = long.Over
			}
			if found = append(found, one); len(found) == most {
				return found
			}
		}
	}
	return found
}

// refusedOf lists what is refused of a post's messages: what was, before the post changed,
// is not any more.
func (c *channel) refusedOf(f *condition.Facts, i int) []Refusal {
	all := c.refused[i]
	return slices.DeleteFunc(slices.Clone(all), func(r Refusal) bool { return f.Changed.After(r.At) })
}

// Post returns the facts of a post as they are in the world now.
func (w *World) Post(post int64) (*condition.Facts, bool) {
	i, ok := w.index[post]
	if !ok {
		return nil, false
	}
	return &w.posts[i], true
}

// At returns the facts of the post with a number of a pool.
func (w *World) At(i int) *condition.Facts { return &w.posts[i] }

// Size is how many posts and rules the world has to decide on.
func (w *World) Size() int { return len(w.posts) + len(w.scheduled) + len(w.turns) }

// Published is how many posts are published.
func (w *World) Published() int { return w.published }

// CaughtBy lists the live rules, beside one, that catch or would bring out a post now,
// as far as they have been asked about it.
func (w *World) CaughtBy(post, beside int64, at time.Time) []int64 {
	i, ok := w.index[post]
	if !ok {
		return nil
	}
	var rules []int64
	for _, t := range w.turns {
		if t.base.ID != beside && t.base.IsLive() && t.ready(at).Has(i) {
			rules = append(rules, t.base.ID)
		}
	}
	return rules
}
