package deed

import (
	"slices"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
)

// KindShare is the name of sending a message to a channel.
const KindShare Kind = "share"

// Share sends a message to a channel: an outing.
type Share struct {
	Base
	Outing  int64 // the planned outing that it is; 0: a rule's turn, which makes one
	Origin  Origin
	Channel int64
	Wording int // the number of the wording, of those that its post or its rule has for the channel
	Round   int // of shuffled rounds
	Link    string
	Code    string          // of the short link in it; "": it has none
	Params  []message.Param // that its short link adds where it leads
	Item    Item            // of no post
	Message message.Message
	Extras  Extras
	Own     string    // its wording as it was written
	Of      time.Time // the turn that it was planned in, where it is not sent at it
	Parent  int64     // the outing that it goes under, as a trailing reply; 0: none
	Reply   *Reply
}

// Describe tells what the deed is.
func (d Share) Describe() Description {
	told := d.describe(KindShare, Said)
	told.Channel, told.Text = d.Channel, d.Message.Text
	return told
}

func (d Share) apply(w *World, at time.Time) {
	w.drop(d.Outing)
	v := w.voices[d.Channel]
	if d.Parent == 0 {
		v.say(at)
		w.shared(d, v, at)
	}
	id := d.Outing
	if id == 0 && d.Reply != nil {
		id = w.newID()
	}
	if reply, follows := d.Follows(id, at); follows {
		w.plans(reply)
	}
}

// shared notes that a message about a post went out.
func (w *World) shared(d Share, v *Voice, at time.Time) {
	i, known := w.find(d.Post)
	if !known {
		return
	}
	w.changing(i).Shared++
	w.did(d.Rule, i, d.Channel, done{at: at, round: d.Round, used: d.Wording + 1})
	v.past[i] = said{v.past[i].n + 1, at}
	for _, t := range w.turns {
		if t.pool != nil && (t.hears(v) || t.rule.Base().Condition.Asks(condition.Shared)) {
			t.pool.Touch(i)
		}
	}
}

// Channel is where messages go.
type Channel struct {
	ID      int64
	Name    string
	Limits  message.Limits
	Apart   int // fewest minutes between two messages
	ADay    int // most messages a day; 0: no limit
	Quiet   cadence.Quiet
	Zone    civil.Zone  // its own: of its days and quiet hours
	Recent  []time.Time // when its latest messages went out, those of CrowdReach at least
	Silent  bool        // nothing is sent for now: an editor paused it, or it wants signing in again
	Habits  message.Habits
	Network string // what its network is called
}

// Refusal is a message that a channel's network refused for good. It holds for the same
// message of the same post until the post changes.
type Refusal struct {
	Channel, Post int64
	Text          string
	At            time.Time
}

// CrowdReach is for how long a message matters to later ones of its channel: the
// widest distance, and a day with its clock changes for the limit a day.
const CrowdReach = MaxApart*time.Minute + 26*time.Hour

// MaxApart is the most minutes that a channel may ask for between two messages: two days.
const MaxApart = 2 * 24 * 60

// Voice is a channel in a world, with what was said on it and what is planned to be.
type Voice struct {
	Channel
	taken   []time.Time // of its messages, past and planned, sorted
	version int
	past    map[int]said // by post
	refused map[int][]Refusal
}

// said is what a channel said of a post, whoever wanted it.
type said struct {
	n    int
	last time.Time
}

// crowd is the channel's messages and its limits, with some more messages.
func (v *Voice) crowd(more []time.Time) cadence.Crowd {
	taken := v.taken
	if len(more) > 0 {
		taken = slices.SortedFunc(slices.Values(slices.Concat(taken, more)), time.Time.Compare)
	}
	return cadence.Crowd{Taken: taken, Gap: time.Duration(v.Apart) * time.Minute, ADay: v.ADay, Zone: v.Zone}
}

// within are bounds with the channel's quiet hours.
func (v *Voice) within(b cadence.Bounds) cadence.Bounds {
	b.Quiet = append([]cadence.Quiet{v.Quiet}, b.Quiet...)
	return b
}

// say enters a message.
func (v *Voice) say(at time.Time) {
	i, _ := slices.BinarySearchFunc(v.taken, at, time.Time.Compare)
	v.taken = slices.Insert(v.taken, i, at)
	for at.Sub(v.taken[0]) > CrowdReach {
		v.taken = v.taken[1:]
	}
	v.version++
}

// unsay takes the time of a message out again that was planned.
func (v *Voice) unsay(at time.Time) {
	if i, found := slices.BinarySearchFunc(v.taken, at, time.Time.Compare); found {
		v.taken = slices.Delete(v.taken, i, i+1)
		v.version++
	}
}

// refusedOf lists what is refused of a post's messages: what was, before the post changed,
// is not any more.
func (v *Voice) refusedOf(f *condition.Facts, i int) []Refusal {
	return slices.DeleteFunc(slices.Clone(v.refused[i]), func(r Refusal) bool { return f.Changed.After(r.At) })
}

// Voice is a channel of the world; nil where there is none of that number.
func (w *World) Voice(channel int64) *Voice { return w.voices[channel] }

// Refused lists what is refused of a post's messages on a channel.
func (w *World) Refused(channel, post int64) []Refusal {
	i, known := w.find(post)
	if v := w.voices[channel]; known && v != nil {
		return v.refusedOf(w.posts[i], i)
	}
	return nil
}

// IsRefused tells whether a text is among refusals.
func IsRefused(text string, refused []Refusal) bool {
	return slices.ContainsFunc(refused, func(r Refusal) bool { return r.Text == text })
}
