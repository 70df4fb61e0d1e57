package rhythm

import (
	"cmp"
	"slices"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/spread"
)

// What is in force on a date of the site, beside the number of a season.
const (
	theUsual = -1
	nothing  = -2 // before the rhythm begins, or after it ends
)

// inForce returns which season's openings have slots on a date of the site, or theUsual or
// nothing. What counts is the site's date of a slot's moment, whatever the date is in the
// zone of the opening's audience.
func (r Rhythm) inForce(date civil.Date) int {
	best := -1
	for i, s := range r.Seasons {
		if date.Before(s.From) || date.After(s.Until) {
			continue
		}
		if best < 0 || s.Priority > r.Seasons[best].Priority ||
			s.Priority == r.Seasons[best].Priority && s.From.After(r.Seasons[best].From) {
			best = i
		}
	}
	switch {
	case best >= 0:
		return best
	case !r.From.IsZero() && date.Before(r.From) || !r.Until.IsZero() && date.After(r.Until):
		return nothing
	}
	return theUsual
}

// part is what one of the usual rhythm and the seasons yields on a date of its openings.
type part struct {
	Rhythm  // its own openings, seed, evenness and gap
	number  int
	held    []demand
	windows []window // of all that is held
}

// as returns the rhythm with what one of its seasons has otherwise.
func (r Rhythm) as(number int) Rhythm {
	if number < 0 {
		return r
	}
	s := r.Seasons[number]
	r.ID, r.Seed, r.Uneven, r.Openings = s.ID, s.Seed, s.Uneven, s.Openings
	if s.Gap > 0 {
		r.Gap = s.Gap
	}
	return r
}

// spanned is from which to which date of the site the minutes of an opening's date may
// lie: a sway may reach back over midnight, windows run to 48:00, and clocks elsewhere
// may be up to 26 hours ahead or behind.
func (r Rhythm) spanned() (before, after int) {
	for o := range r.everyOpening {
		if o.Audience != nil {
			return 3, 4
		}
	}
	return 1, 2
}

// reachBack is how many earlier dates may have a window near a date's own: those of
// Around, and as many as the gap reaches over.
func (r Rhythm) reachBack() int {
	before, _ := r.Around()
	return before + (r.WidestGap()+24*60-1)/(24*60)
}

// parts are what has slots on a date of its openings, in order of the clock: the usual
// rhythm, as a rule, or a season; around a season's first and last date both. Each one's
// minutes keep the gap from the windows of earlier dates, and from those of the parts
// before it.
func (b *bareDays) parts(date civil.Date) []part {
	parts := slices.Clone(b.on(date))
	if len(parts) == 0 {
		return nil
	}
	earlier := b.windowsBefore(date, earliest(parts[0].held))
	for i := range parts {
		p := &parts[i]
		p.held = slices.Clone(p.held)
		keep := widened(earlier, p.Gap)
		if i == 0 && len(keep) == 0 {
			sortHeld(p.held)
			continue
		}
		for _, other := range parts[:i] {
			keep = append(keep, widened(other.windows, p.Gap)...)
		}
		for k := range p.held {
			p.held[k].stretches = less(p.held[k].stretches, keep)
		}
		sortHeld(p.held)
	}
	return parts
}

// sortHeld puts openings in order of the clock.
func sortHeld(held []demand) {
	slices.SortStableFunc(held, func(a, b demand) int {
		return cmp.Or(cmp.Compare(first(a.stretches), first(b.stretches)),
			cmp.Compare(a.opening.From, b.opening.From), cmp.Compare(a.opening.Key, b.opening.Key))
	})
}

// bareDays remembers the bare parts of the dates that were asked about, since each is asked
// about again for the dates after it.
type bareDays struct {
	Rhythm
	known map[civil.Date][]part
}

func (r Rhythm) bareDays() *bareDays { return &bareDays{r, make(map[civil.Date][]part)} }

func (b *bareDays) on(date civil.Date) []part {
	parts, known := b.known[date]
	if !known {
		parts = b.bare(date)
		b.known[date] = parts
	}
	return parts
}

// forget drops what no date from one on asks about.
func (b *bareDays) forget(date civil.Date) { delete(b.known, date.Add(-b.reachBack()-1)) }

// bare are the parts with all minutes that are in force, in order of the clock.
func (r Rhythm) bare(date civil.Date) []part {
	var parts []part
	before, after := r.spanned()
	add := func(number int) {
		if number == nothing || slices.ContainsFunc(parts, func(p part) bool { return p.number == number }) {
			return
		}
		p := part{Rhythm: r.as(number), number: number}
		out := r.outOfForce(number, date.Add(-before), date.Add(after))
		var rests []spread.Stretch
		if len(r.Rests) > 0 {
			for _, d := range r.Rests.Within(date.Add(-before), date.Add(after)) {
				rests = append(rests, r.minutesOf(d)...)
			}
		}
		for _, o := range p.Openings {
			if !o.holds(date) {
				continue
			}
			if stretches := less(o.minutes(r.Zone, date), out); len(stretches) > 0 {
				awake := less(stretches, rests)
				p.held = append(p.held, demand{o, awake, len(awake) == 0})
			}
		}
		p.windows = make([]window, 0, len(p.held))
		for _, d := range p.held {
			for _, s := range d.stretches {
				p.windows = append(p.windows, window{s, p.Gap})
			}
		}
		parts = append(parts, p)
	}
	if len(r.Seasons) == 0 {
		add(theUsual)
	} else {
		for d := date.Add(-before); !d.After(date.Add(after)); d = d.Add(1) {
			add(r.inForce(d))
		}
	}
	parts = slices.DeleteFunc(parts, func(p part) bool { return len(p.held) == 0 })
	slices.SortStableFunc(parts, func(a, b part) int { return cmp.Compare(earliest(a.held), earliest(b.held)) })
	return parts
}

func earliest(held []demand) int {
	at := first(held[0].stretches)
	for _, d := range held {
		at = min(at, first(d.stretches))
	}
	return at
}

// minutes are the opening's minutes on a date of its zone.
func (o Opening) minutes(site civil.Zone, date civil.Date) []spread.Stretch {
	from, to := o.reach()
	var stretches []spread.Stretch
	for _, s := range o.zone(site).Window(date, from, to) {
		stretches = append(stretches, spread.Stretch{From: minuteOf(s.From), To: minuteOf(s.To)})
	}
	return stretches
}

// minutesOf are the minutes at which the site's date is d.
func (r Rhythm) minutesOf(d civil.Date) []spread.Stretch {
	var minutes []spread.Stretch
	for _, s := range r.Zone.Spans(d) {
		minutes = append(minutes, spread.Stretch{From: minuteOf(s.From), To: minuteOf(s.To)})
	}
	return minutes
}

// outOfForce are the minutes of the site's dates from one to another on which something
// else than a part is in force.
func (r Rhythm) outOfForce(number int, from, to civil.Date) []spread.Stretch {
	if len(r.Seasons) == 0 && r.From.IsZero() && r.Until.IsZero() {
		return nil
	}
	var out []spread.Stretch
	for d := from; !d.After(to); d = d.Add(1) {
		if r.inForce(d) != number {
			out = append(out, r.minutesOf(d)...)
		}
	}
	return out
}

// window is a stretch in which an opening has slots, and the gap that they keep.
type window struct {
	spread.Stretch
	gap int
}

// widened are windows with the minutes on both sides that are nearer than the gap: theirs
// or another, whichever is wider.
func widened(windows []window, gap int) []spread.Stretch {
	stretches := make([]spread.Stretch, len(windows))
	for i, w := range windows {
		g := max(w.gap, gap)
		stretches[i] = spread.Stretch{From: w.From - g + 1, To: w.To - 1 + g}
	}
	return stretches
}

// windowsBefore are the windows of earlier dates that may be near this one, whose first
// minute is given. They do not
// depend on what earlier dates gave way to in their turn, so that every date can be drawn
// for itself.
func (b *bareDays) windowsBefore(date civil.Date, from int) []window {
	var windows []window
	widest := b.WidestGap()
	for back := 1; back <= b.reachBack(); back++ {
		for _, p := range b.on(date.Add(-back)) {
			for _, w := range p.windows {
				if w.To+widest > from {
					windows = append(windows, w)
				}
			}
		}
	}
	return windows
}
