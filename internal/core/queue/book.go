package queue

import (
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Book counts what stands against a site's caps, and tells post by post what may come
// out when. Place keeps one of its own; callers that move single posts use this one.
type Book struct {
	zone                civil.Zone
	today               civil.Date
	ledger              *ledger
	authors, categories numbering
}

// NewBook returns a book of what stands. Dates of another year than today's are said with
// their year.
func NewBook(zone civil.Zone, today civil.Date, caps Caps, standing []Standing) *Book {
	b := &Book{zone, today, newLedger(caps), make(numbering), make(numbering)}
	for _, s := range standing {
		b.Add(s)
	}
	return b
}

// Add counts a post that comes out at its time.
func (b *Book) Add(s Standing) { b.count(s, 1) }

// Remove takes back an Add of the same post at the same time.
func (b *Book) Remove(s Standing) { b.count(s, -1) }

func (b *Book) count(s Standing, n int) {
	day, week := dates(b.zone, s.At)
	b.ledger.count(b.authors.of(s.Author), b.categories.of(s.Category), day, week, n)
}

// Refuses says, as a clause, why a draft may not take a slot: its bounds, the slot's
// lane, or the caps. It returns "" where the draft may.
func (b *Book) Refuses(d Draft, s rhythm.Slot) string {
	day, week := dates(b.zone, s.At)
	why := fits
	switch {
	case s.At.Before(d.NotBefore):
		why = tooEarly
	case !d.Deadline.IsZero() && s.At.After(d.Deadline):
		why = tooLate
	case !inLane(s.Lane, d.Category):
		why = otherLane
	default:
		why = b.ledger.room(b.authors.of(d.Author), b.categories.of(d.Category), &seat{s, s.At.Unix(), day, week})
	}
	date := b.zone.DateOf(s.At)
	if why == tooEarly {
		date = b.zone.DateOf(d.NotBefore)
	}
	return why.words(d, date, s.Lane, b.ledger.caps, b.today)
}

// StandingOf is how a draft stands once it comes out at a time.
func StandingOf(d Draft, at time.Time) Standing {
	return Standing{At: at, Author: d.Author, Category: d.Category}
}
