// Package forecast computes what a site's rules and plan will do from now on, without
// doing it.
//
// It asks the same World as the engine does and applies what is decided to it, from
// moment to moment. So what it foretells is what then happens, as long as nobody
// changes anything: the same deeds, in the same order, at the same times. What readers
// will click is not known to it: no more clicks are counted. The package is pure.
package forecast

import (
	"fmt"
	"iter"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/queue"
)

// Event is one deed of the future.
type Event struct {
	At time.Time
	deed.Description
	Deed deed.Deed // itself
}

// NewEvent is a deed that is done at a moment.
func NewEvent(at time.Time, d deed.Deed) Event {
	return Event{At: at, Description: d.Describe(), Deed: d}
}

// Stuck tells that a decision would not let time go on, and at what.
type Stuck struct {
	At   time.Time
	What deed.Decision // the decision that was reached again and again
}

// Error says so.
func (s *Stuck) Error() string {
	what := "nothing that is due"
	switch {
	case s.What.Run != nil:
		what = fmt.Sprintf("rule %d", s.What.Run.Rule)
	case len(s.What.Deeds) > 0:
		first := s.What.Deeds[0].Describe()
		what = fmt.Sprintf("“%s” of post %d", first.Kind, first.Post)
	}
	return fmt.Sprintf("The forecast stopped at %s: it can’t get past %s.", s.At.UTC().Format(time.RFC3339), what)
}

// World is what decides, and what decisions are applied to: a *deed.World.
type World interface {
	Decide(at time.Time) deed.Decision
	Apply(d deed.Decision, at time.Time)
	Size() int // how many posts, outings and rules there are
}

// Walk yields the decisions from the minute that is running at a moment on, in order, each
// with its time, up to an end. Where a decision is yielded, it has not been applied yet.
type Walk struct {
	World    World
	From, To time.Time
	Err      *Stuck // after Steps: why it stopped before the end; nil: it did not
}

// Steps yields the decisions of a Walk.
func (k *Walk) Steps(yield func(time.Time, deed.Decision) bool) {
	// Each decision serves a rule's turn or takes posts out of what is due, so one moment has
	// no more of them than there are rules, outings and posts. More would be going round.
	most := 2*k.World.Size() + 16
	here := 0 // decisions at the moment
	for at := deed.Minute(k.From); ; {
		d := k.World.Decide(at)
		if !d.IsIdle() {
			if here++; here > most {
				k.Err = &Stuck{at, d}
				return
			}
			if !yield(at, d) {
				return
			}
			k.World.Apply(d, at)
			continue
		}
		if d.Next.IsZero() || d.Next.After(k.To) {
			return
		}
		if !d.Next.After(at) {
			k.Err = &Stuck{at, d}
			return
		}
		at, here = d.Next, 0
	}
}

// Steps yields the decisions of a Walk that need not be told whether it got stuck.
func Steps(w *deed.World, from, to time.Time) iter.Seq2[time.Time, deed.Decision] {
	return (&Walk{World: w, From: from, To: to}).Steps
}

// Request is what to foretell.
type Request struct {
	Scene    deed.Scene
	From, To time.Time
	// Queue lets it say when the shelf runs dry: its drafts are placed as a proposal would
	// place them, but do not come out in the forecast, since nobody has committed them. It
	// may be nil.
	Queue *queue.Request
	// RuleNames are for warnings.
	RuleNames map[int64]string
	// Go is asked now and then, with the moment reached; false ends the work. It may be
	// nil.
	Go func(reached time.Time) bool
}

// Forecast is what will happen.
type Forecast struct {
	Events   []Event
	Warnings []Warning
	// ShelfLasts is when the last draft of the shelf would come out, and Dry the free slot
	// after it; zero where the shelf is empty or outlasts the span.
	ShelfLasts, Dry time.Time
	Cut             bool // Go ended it early
	// Stuck tells where it stopped since a decision made no progress; nil: nowhere.
	Stuck *Stuck
}

// WarningKind says what a warning is about.
type WarningKind string

// The kinds of warnings.
const (
	ShelfDry   WarningKind = "shelf dry"
	EmptyWeeks WarningKind = "empty weeks"
	PoolEmpty  WarningKind = "pool empty"
	Fight      WarningKind = "fight"
	Asking     WarningKind = "asks"
	Limit      WarningKind = "limit"
	Unfit      WarningKind = "unfit"
	NoProgress WarningKind = "no progress"
)

// Warning is something an editor should know before it happens.
type Warning struct {
	Kind  WarningKind
	At    time.Time // from when on
	Rules []int64   // the rules it is about
	Posts []int64   // examples, at most a few
	Text  string
}

// Run computes the forecast.
func Run(r Request) Forecast {
	r.Scene.Until = r.To
	w := deed.NewWorld(r.Scene)
	watch := newWatcher(r, w)
	var f Forecast
	steps := 0
	walk := Walk{World: w, From: r.From, To: r.To}
	for at, d := range walk.Steps {
		from := len(f.Events)
		for _, one := range d.Deeds {
			f.Events = append(f.Events, NewEvent(at, one))
		}
		watch.see(at, d.Run, f.Events[from:])
		if steps++; r.Go != nil && steps%64 == 0 && !r.Go(at) {
			f.Cut = true
			break
		}
	}
	f.Stuck = walk.Err
	placement := place(r)
	f.ShelfLasts, f.Dry = placement.lasts, placement.dry
	f.Warnings = watch.warnings(f.Events, placement)
	if f.Stuck != nil {
		f.Warnings = append([]Warning{{Kind: NoProgress, At: f.Stuck.At, Text: f.Stuck.Error()}}, f.Warnings...)
	}
	return f
}

// placed is what the shelf comes to.
type placed struct {
	times      []time.Time
	lasts, dry time.Time
}

func place(r Request) placed {
	var p placed
	if r.Queue == nil {
		return p
	}
	for _, one := range queue.Place(*r.Queue).Placed {
		p.times = append(p.times, one.Slot.At)
		if one.Slot.At.After(p.lasts) {
			p.lasts = one.Slot.At
		}
	}
	for slot := range r.Queue.Slots {
		if slot.At.After(p.lasts) && slot.At.After(r.From) {
			p.dry = slot.At
			break
		}
	}
	return p
}

// weeks lists the weeks (Monday to Sunday) that lie whole between two moments.
func weeks(zone civil.Zone, from, to time.Time) []civil.Date {
	var mondays []civil.Date
	first := zone.DateOf(from)
	for first.Weekday() != time.Monday {
		first = first.Add(1)
	}
	for d := first; !zone.At(d.Add(7), 0).After(to); d = d.Add(7) {
		mondays = append(mondays, d)
	}
	return mondays
}

// some keeps a few examples.
func some(posts []int64, post int64) []int64 {
	const few = 5
	if len(posts) < few && !slices.Contains(posts, post) {
		return append(posts, post)
	}
	return posts
}
