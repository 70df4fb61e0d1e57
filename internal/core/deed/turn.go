package deed

import (
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/core/words"
)

// turn is a rule in a world: one of expire, republish and share is set.
type turn struct {
	w         *World
	base      *upkeep.Rule // what all kinds have
	expire    *upkeep.Expire
	republish *upkeep.Republish
	share     *reshare.Rule

	past map[int]Past // by post: what the rule did with it
	pool *catch.Pool
	seen condition.Moment // the condition at seenAt
	// seenAt is the moment of the last question.
	seenAt time.Time

	bounds cadence.Bounds // the minutes at which a turn that brings out may be served

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

// due returns when the rule acts next, at the moment or later; ok is false where it
// does not by itself.
func (t *turn) due(at time.Time) (time.Time, bool) {
	r := t.base
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
	if t.expire != nil {
		return t.nominal, true
	}
	version := t.crowdVersion()
	if !t.moved.valid || t.moved.version != version || t.moved.to.Before(at) {
		from := t.nominal
		if from.Before(at) {
			from = at
		}
		t.moved.to, _, t.moved.ok = t.bounds.First(from, t.crowd(from))
		t.moved.version, t.moved.valid = version, true
	}
	return t.moved.to, t.moved.ok
}

func (t *turn) crowdVersion() int {
	if t.republish != nil {
		return t.w.version
	}
	if c := t.w.channels[t.share.Channel]; c != nil {
		return c.version
	}
	return 0
}

// crowd is what the turn keeps away from: other publications, or other messages of the
// channel.
func (t *turn) crowd(from time.Time) cadence.Crowd {
	if t.republish != nil {
		r := &t.w.scene.Rhythm
		crowd := cadence.Crowd{Taken: t.w.plan.from(from.Add(-time.Duration(r.WidestGap()) * time.Minute)), Gap: time.Duration(r.Gap) * time.Minute, Zone: t.w.scene.Zone}
		if len(r.Seasons) > 0 {
			crowd.GapAt = r.GapAt
		}
		return crowd
	}
	c := t.w.channels[t.share.Channel]
	if c == nil {
		return cadence.Crowd{}
	}
	return cadence.Crowd{Taken: c.times, Gap: time.Duration(c.Apart) * time.Minute, ADay: c.ADay, Zone: c.Zone}
}

// CrowdReach is for how long a message matters to later ones of its channel: the
// widest distance, and a day with its clock changes for the limit a day.
const CrowdReach = MaxApart*time.Minute + 26*time.Hour

// MaxApart is the most minutes that a channel may ask for between two messages: two days.
const MaxApart = 2 * 24 * 60

// ready is the rule's pool at the moment.
func (t *turn) ready(at time.Time) *catch.Pool {
	if t.pool == nil {
		t.pool = catch.New(t, len(t.w.posts), at, t.w.scene.Until)
	} else {
		t.pool.Advance(at)
	}
	return t.pool
}

// Judge is asked by the pool.
func (t *turn) Judge(i int, at time.Time) (bool, time.Time) {
	f, k := &t.w.posts[i], t.moment(at)
	switch {
	case t.expire != nil:
		return t.expire.Judge(f, k)
	case t.republish != nil:
		return t.republish.Judge(f, at, k)
	}
	return t.share.Judge(f, t.pastOf(i), at, k)
}

// Key is asked by the pool.
func (t *turn) Key(i int) catch.Key {
	f := &t.w.posts[i]
	switch {
	case t.expire != nil:
		return t.expire.Key(f)
	case t.republish != nil:
		return t.republish.Key(f, t.past[i].Round)
	}
	return t.share.Key(f, t.pastOf(i))
}

func (t *turn) moment(at time.Time) *condition.Moment {
	if !at.Equal(t.seenAt) {
		t.seen, t.seenAt = t.base.Condition.At(at), at
	}
	return &t.seen
}

func (t *turn) pastOf(i int) reshare.Past {
	var past reshare.Past
	if c := t.w.channels[t.share.Channel]; c != nil {
		past = c.past[i]
	}
	own := t.past[i]
	past.ByRule, past.Round, past.Earned = own.N, own.Round, own.Earned
	return past
}

// run is the rule's turn.
func (t *turn) run(at time.Time) Decision {
	pool := t.ready(at)
	run := Run{Rule: t.base.ID, Due: t.nominal, Caught: pool.Len()}
	var deeds []Deed
	switch {
	case t.expire != nil:
		deeds = t.runExpire(&run, pool, at)
	case t.republish != nil:
		deeds = t.runRepublish(&run, pool, at)
	default:
		deeds = t.runShare(&run, pool, at)
	}
	if run.Asks == "" {
		run.Took = len(deeds)
	}
	return Decision{Deeds: deeds, Run: &run}
}

func (t *turn) runExpire(run *Run, pool *catch.Pool, at time.Time) []Deed {
	r := t.expire
	if run.Asks = r.Asks(run.Caught, t.w.published); run.Asks != "" {
		return []Deed{{Kind: Ask, Rule: r.ID, Due: run.Due, Reason: fmt.Sprintf("The rule “%s” holds and asks. %s", r.Name, run.Asks)}}
	}
	take := r.Takes(run.Caught)
	if take == 0 {
		run.Note = "No post matches."
		return nil
	}
	kind := map[upkeep.Action]Kind{upkeep.Archive: Archive, upkeep.ToDraft: ToDraft, upkeep.Bin: Bin}[r.Action]
	var deeds []Deed
	for i := range pool.InOrder() {
		f := &t.w.posts[i]
		d := Deed{Kind: kind, Post: f.Post, Due: run.Due, Rule: r.ID, Reason: upkeep.Reason(r.Name, t.moment(at).Explain(f))}
		if kind == Archive {
			d.Notice = t.w.notice(at)
		}
		if deeds = append(deeds, d); len(deeds) == take {
			break
		}
	}
	return deeds
}

func (w *World) notice(at time.Time) string { return upkeep.Notice(upkeep.Archive, at, w.scene.Zone) }

func (t *turn) runRepublish(run *Run, pool *catch.Pool, at time.Time) []Deed {
	r := t.republish
	if run.Caught == 0 {
		run.Note = "No post can come out again right now."
		return nil
	}
	var deeds []Deed
	for i := range pool.InOrder() {
		f := &t.w.posts[i]
		deeds = append(deeds, Deed{Kind: Republish, Post: f.Post, Due: run.Due, Rule: r.ID,
			Round:  max(r.Round, t.past[i].Round+1),
			Reason: fmt.Sprintf("Brought out again by the rule “%s”, %s.%s", r.Name, r.Order.Because(), t.why(at))})
		if len(deeds) == r.AtATime {
			break
		}
	}
	return deeds
}

// why says why the turn was put off to the moment: what stood in the way a minute
// before; or "".
func (t *turn) why(at time.Time) string {
	before := at.Add(-time.Minute)
	if before.Before(t.nominal) {
		return ""
	}
	reason := t.bounds.Against(before, t.crowd(before))
	if reason == "" {
		return ""
	}
	return " Its turn at " + t.w.scene.Zone.In(t.nominal).Format("15:04") + " gave way to " + reason + "."
}

func (t *turn) runShare(run *Run, pool *catch.Pool, at time.Time) []Deed {
	r := t.share
	c := t.w.channels[r.Channel]
	if run.Caught == 0 || c == nil {
		run.Note = "None of its posts can go out right now."
		return nil
	}
	var left leftOut
	for i := range t.inOrder(pool, run.Due) {
		f, past := &t.w.posts[i], t.pastOf(i)
		link := ""
		if t.w.scene.Link != nil {
			link = t.w.scene.Link(f, r)
		}
		wording, m, ok := t.message(i, link, &left)
		if !ok {
			continue
		}
		return []Deed{{Kind: Share, Post: f.Post, Due: run.Due, Rule: r.ID, Channel: c.ID, Wording: wording, Link: link, Message: m,
			Round:  max(r.Round, past.Round+1),
			Reason: fmt.Sprintf("Shared on %s by the rule “%s”, %s.%s", c.Name, r.Name, r.Order.Because(), t.why(at))}}
	}
	run.Note, run.Refused = left.String(), left.refused
	return nil
}

// leftOut counts the posts of a pool that have no message for the channel.
type leftOut struct {
	refused, unfit int
	over           int // the fewest graphemes over, of those that are too long
}

// String says in sentences why none was left.
func (l leftOut) String() string {
	var text string
	if l.unfit > 0 {
		text = fmt.Sprintf("None of the %d messages that could go out fits the channel.", l.unfit)
	}
	if l.over > 0 {
		text += fmt.Sprintf(" The shortest of them is %s over.", words.Count(l.over, "character"))
	}
	if l.refused > 0 {
		text += fmt.Sprintf(" The network refused the messages of %s.", words.Count(l.refused, "post"))
	}
	return strings.TrimSpace(text)
}

// message is what is to be said of a post, with the number of its wording: the one whose
// turn it is, or where the network refused that, the next. A post that was refused in the
// turn that is being taken again has had its chance in it. ok is false where there is no
// message.
func (t *turn) message(i int, link string, left *leftOut) (wording int, m message.Message, ok bool) {
	r, f := t.share, &t.w.posts[i]
	c := t.w.channels[r.Channel]
	refused := c.refusedOf(f, i)
	if slices.ContainsFunc(refused, func(one Refusal) bool { return !r.Owed.IsZero() && !one.At.Before(r.Owed) }) {
		left.refused++
		return 0, m, false
	}
	first := t.firstWording(i)
	for k := range r.Wordings {
		wording := (first + k) % len(r.Wordings)
		m, err := t.compose(f, wording, link, c.Limits)
		if err != nil {
			left.unfit++
			var long *message.TooLong
			if errors.As(err, &long) && !long.Bytes && (left.over == 0 || long.Over < left.over) {
				left.over = long.Over
			}
			return 0, m, false
		}
		if !slices.ContainsFunc(refused, func(one Refusal) bool { return one.Text == m.Text }) {
			return wording, m, true
		}
	}
	left.refused++
	return 0, m, false
}

// firstWording is the wording after the one that the rule used last for a post.
func (t *turn) firstWording(i int) int {
	if used := t.past[i].Used; used > 0 {
		return used % len(t.share.Wordings)
	}
	return t.share.Wording(t.w.posts[i].Post, t.pastOf(i))
}

func (t *turn) compose(f *condition.Facts, wording int, link string, limits message.Limits) (message.Message, error) {
	if f.Excerpt == "" {
		f.Excerpt = message.ExcerptOf(f.Text)
	}
	return t.share.Compose(f, wording, link, limits)
}

// inOrder yields the pool in the order of the rule.
func (t *turn) inOrder(pool *catch.Pool, turn time.Time) func(func(int) bool) {
	if t.share.Order != reshare.Weighted {
		return pool.InOrder()
	}
	return func(yield func(int) bool) {
		tried := make(map[int]bool)
		for range pool.Len() {
			best, lot := -1, 0.0
			for i := range pool.All() {
				if tried[i] {
					continue
				}
				if l := t.share.Draw(&t.w.posts[i], t.pastOf(i), turn); best < 0 || l < lot {
					best, lot = i, l
				}
			}
			tried[best] = true
			if !yield(best) {
				return
			}
		}
	}
}

// serve notes that the rule's turns up to the moment have been served.
func (t *turn) serve(run Run, at time.Time) {
	r := t.base
	r.Served, r.Owed, t.known = at, time.Time{}, false
	if run.Asks != "" {
		r.Held = true
		return
	}
	if t.expire != nil {
		t.expire.Took = upkeep.Remember(t.expire.Took, run.Took)
		t.expire.Allowed = max(t.expire.Allowed-run.Took, 0)
	}
}

// did notes what the rule did with a post.
func (t *turn) did(i int, at time.Time, round, used int) {
	p := t.past[i]
	p.N++
	p.Last, p.Round, p.Used = at, max(p.Round, round), used
	t.past[i] = p
	switch {
	case t.republish != nil:
		t.republish.Round = max(t.republish.Round, round)
	case t.share != nil:
		t.share.Round = max(t.share.Round, round)
	}
}
