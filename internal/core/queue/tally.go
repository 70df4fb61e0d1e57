package queue

import (
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Tally counts what stands against a site's caps, and tells post by post what may come
// out when. Place keeps one of its own; callers that move single posts use this one.
type Tally struct {
	zone                civil.Zone
	today               civil.Date
	ledger              *ledger
	authors, categories numbering
}

// NewTally returns a tally of what stands. Dates of another year than today's are said with
// their year.
func NewTally(zone civil.Zone, today civil.Date, caps Caps, standing []Standing) *Tally {
	t := &Tally{zone, today, newLedger(caps), make(numbering), make(numbering)}
	for _, s := range standing {
		t.Add(s)
	}
	return t
}

// Add counts a post that comes out at its time.
func (t *Tally) Add(s Standing) { t.count(s, 1) }

// Remove takes back an Add of the same post at the same time.
func (t *Tally) Remove(s Standing) { t.count(s, -1) }

func (t *Tally) count(s Standing, n int) {
	day, week := dates(t.zone, s.At)
	t.ledger.count(t.authors.of(s.Author), t.categories.of(s.Category), day, week, n)
}

// Refuses says, as a clause, why a draft may not take a slot: its bounds, the slot's
// lane, or the caps. It returns "" where the draft may.
func (t *Tally) Refuses(d Draft, s rhythm.Slot) string {
	day, week := dates(t.zone, s.At)
	why := fits
	switch {
	case s.At.Before(d.NotBefore):
		why = tooEarly
	case !d.Deadline.IsZero() && s.At.After(d.Deadline):
		why = tooLate
	case !inLane(s.Lane, d.Category):
		why = otherLane
	default:
		why = t.ledger.room(t.authors.of(d.Author), t.categories.of(d.Category), &seat{s, s.At.Unix(), day, week})
	}
	date := t.zone.DateOf(s.At)
	if why == tooEarly {
		date = t.zone.DateOf(d.NotBefore)
	}
	return why.words(d, date, s.Lane, t.ledger.caps, t.today)
}

// StandingOf is how a draft stands once it comes out at a time.
func StandingOf(d Draft, at time.Time) Standing {
	return Standing{At: at, Author: d.Author, Category: d.Category}
}
