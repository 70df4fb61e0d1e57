package deed

import (
	"slices"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
)

// KindShare is the name of sending a message about a post.
const KindShare Kind = "share"

// Share sends a message about a post to a channel: an outing.
type Share struct {
	Base
	Outing  int64 // the outing that an editor planned; 0: a rule's turn, which makes one
	Channel int64
	Wording int // the number of the rule's wording
	Round   int // of shuffled rounds
	Link    string
	Message message.Message
}

// Describe tells what the deed is.
func (d Share) Describe() Description {
	told := d.describe(KindShare, Said)
	told.Channel, told.Text = d.Channel, d.Message.Text
	return told
}

func (d Share) apply(w *World, at time.Time) {
	i := w.index[d.Post]
	w.posts[i].Shared++
	w.did(d.Rule, i, done{at: at, round: d.Round, used: d.Wording + 1})
	w.drop(d.Outing)
	v := w.voices[d.Channel]
	v.past[i] = said{v.past[i].n + 1, at}
	v.say(at)
	for _, t := range w.turns {
		if t.pool != nil && (t.room == Room(v) || t.rule.Base().Condition.Asks(condition.Shared)) {
			t.pool.Touch(i)
		}
	}
}

// Channel is where messages go.
type Channel struct {
	ID     int64
	Name   string
	Limits message.Limits
	Apart  int // fewest minutes between two messages
	ADay   int // most messages a day; 0: no limit
	Quiet  cadence.Quiet
	Zone   civil.Zone  // its own: of its days and quiet hours
	Recent []time.Time // when its latest messages went out, those of CrowdReach at least
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

// Version counts what was said and planned.
func (v *Voice) Version() int { return v.version }

// Crowd is the channel's messages and its limits.
func (v *Voice) Crowd(time.Time) cadence.Crowd {
	return cadence.Crowd{Taken: v.taken, Gap: time.Duration(v.Apart) * time.Minute, ADay: v.ADay, Zone: v.Zone}
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
	i, known := w.index[post]
	if v := w.voices[channel]; known && v != nil {
		return v.refusedOf(&w.posts[i], i)
	}
	return nil
}

// Linked is whose message an address is for.
type Linked struct {
	Rule  int64
	Short bool // it is to be a short link, which counts clicks
}

// LinkTo is the address of a post for a message, or "" where the scene has none.
func (w *World) LinkTo(f *condition.Facts, l Linked) string {
	if w.scene.Link == nil {
		return ""
	}
	return w.scene.Link(f, l)
}

// PostOf is what a message can say of a post. A post without an excerpt gets the
// beginning of its text, and keeps it.
func PostOf(f *condition.Facts, link string) message.Post {
	if f.Excerpt == "" {
		f.Excerpt = message.ExcerptOf(f.Text)
	}
	return message.Post{Title: f.Title, Excerpt: f.Excerpt, Link: link, Category: f.Category, Tags: f.Tags,
		Author: f.Author, Fields: f.Fields, HasImage: f.FeaturedImage}
}
