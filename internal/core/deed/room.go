package deed

import (
	"slices"
	"time"

	"dapper.example/internal/core/cadence"
)

// Room is where a turn, or a message, finds its minute: what it keeps its distance from, and
// the minutes in which it may be at all.
type Room interface {
	// Version changes with whatever the answers depend on.
	Version() int
	// First is the first minute at a moment or later that is allowed; ok is false where there
	// is none within cadence's reach.
	First(from time.Time) (at time.Time, ok bool)
	// Against says in a few words what stands against a moment, or "".
	Against(at time.Time) string
}

// Plan is the room of turns that bring posts out: they keep the gap from the times of posts.
func (w *World) Plan(b cadence.Bounds) Room { return among{&w.plan, b} }

// among is the room among the times of posts.
type among struct {
	plan   *plan
	bounds cadence.Bounds
}

// Version counts the changes of the plan.
func (a among) Version() int { return a.plan.version }

// First is the first minute that keeps the gap.
func (a among) First(from time.Time) (time.Time, bool) {
	at, _, ok := a.bounds.First(from, a.plan.crowd(from))
	return at, ok
}

// Against says what stands against a moment.
func (a among) Against(at time.Time) string { return a.bounds.Against(at, a.plan.crowd(at)) }

// Speech is the room of a turn that says something on several channels at one minute: one that
// all of them allow. Channels that are silent have no say; where all are, there is no minute.
type Speech struct {
	Bounds cadence.Bounds // of the rule
	// Voices are the channels that the turn speaks on at its own minute.
	Voices func() []*Voice
}

// Version counts what was said and planned on the channels.
func (s Speech) Version() int {
	n := 0
	for _, v := range s.Voices() {
		n += v.version + 1
	}
	return n
}

// First is the first minute that all channels allow.
func (s Speech) First(from time.Time) (time.Time, bool) {
	voices := s.Voices()
	if len(voices) == 0 {
		return from, false
	}
	at := from
	for settled, i := 0, 0; settled < len(voices); i = (i + 1) % len(voices) {
		v := voices[i]
		to, _, ok := v.within(s.Bounds).First(at, v.crowd(nil))
		switch {
		case !ok || to.Sub(from) > farthest:
			return from, false
		case to.After(at): // the others are asked about it again
			at, settled = to, 1
		default:
			settled++
		}
	}
	return at, true
}

// Against says what stands against a moment.
func (s Speech) Against(at time.Time) string {
	for _, v := range s.Voices() {
		if reason := v.within(s.Bounds).Against(at, v.crowd(nil)); reason != "" {
			return reason
		}
	}
	return ""
}

// farthest is how far a message is moved before it is given up.
const farthest = 400 * 24 * time.Hour

// Placer finds minutes for messages that are planned one after another in one decision.
type Placer struct {
	w     *World
	extra map[int64][]time.Time // of each channel: what was placed here so far
	less  map[int64][]time.Time // of each channel: what is planned but is to be placed anew
}

// Placer returns one that has placed nothing yet.
func (w *World) Placer() *Placer {
	return &Placer{w, make(map[int64][]time.Time), make(map[int64][]time.Time)}
}

// forget leaves the time of an outing that is to be placed anew out of account.
func (p *Placer) forget(o Outing) {
	if o.Parent == 0 {
		p.less[o.Channel] = append(p.less[o.Channel], o.At)
	}
}

// Place finds the first minute at which a channel takes a message, at a moment or later, and
// keeps it. Where it takes none within reach, or there is no such channel, the moment itself.
func (p *Placer) Place(channel int64, from time.Time) time.Time {
	v := p.w.voices[channel]
	if v == nil {
		return from
	}
	at, _, ok := v.within(cadence.Bounds{Zone: v.Zone}).First(from, p.crowd(v))
	if !ok {
		at = from
	}
	p.Keep(channel, at)
	return at
}

// crowd is a channel's messages as the placer sees them.
func (p *Placer) crowd(v *Voice) cadence.Crowd {
	crowd := v.crowd(p.extra[v.ID])
	if len(p.less[v.ID]) == 0 {
		return crowd
	}
	crowd.Taken = slices.Clone(crowd.Taken)
	for _, at := range p.less[v.ID] {
		if i, found := slices.BinarySearchFunc(crowd.Taken, at, time.Time.Compare); found {
			crowd.Taken = slices.Delete(crowd.Taken, i, i+1)
		}
	}
	return crowd
}

// Keep notes a message that goes out at a moment, whether a channel likes it or not.
func (p *Placer) Keep(channel int64, at time.Time) { p.extra[channel] = append(p.extra[channel], at) }
