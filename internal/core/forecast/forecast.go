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
	deed.Deed
}

// Steps yields the decisions after a moment, in order, each with its time, up to an end.
// Where a decision is yielded, it has not been applied yet.
func Steps(w *deed.World, from, to time.Time) iter.Seq2[time.Time, deed.Decision] {
	return func(yield func(time.Time, deed.Decision) bool) {
		for at := from; ; {
			d := w.Decide(at)
			if !d.IsIdle() {
				if !yield(at, d) {
					return
				}
				w.Apply(d, at)
				continue
			}
			if d.Next.IsZero() || d.Next.After(to) {
				return
			}
			at = d.Next
		}
	}
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
)

// Warning is something an editor should know before it happens.
type Warning struct {
	Kind  WarningKind
	At    time.Time // from when on
	Rules []int64   // whose it is
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
	for at, d := range Steps(w, r.From, r.To) {
		for _, one := range d.Deeds {
			f.Events = append(f.Events, Event{at, one})
		}
		watch.see(at, d)
		if steps++; r.Go != nil && steps%64 == 0 && !r.Go(at) {
			f.Cut = true
			break
		}
	}
	placement := place(r)
	f.ShelfLasts, f.Dry = placement.lasts, placement.dry
	f.Warnings = watch.warnings(f.Events, placement)
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

func day(t time.Time, zone civil.Zone) string { return zone.In(t).Format("Mon 2 January 2006") }

func plural(n int, thing string) string {
	if n == 1 {
		return "1 " + thing
	}
	return fmt.Sprintf("%d %ss", n, thing)
}

// some keeps a few examples.
func some(posts []int64, post int64) []int64 {
	const few = 5
	if len(posts) < few && !slices.Contains(posts, post) {
		return append(posts, post)
	}
	return posts
}
