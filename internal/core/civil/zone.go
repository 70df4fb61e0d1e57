package civil

import (
	"errors"
	"fmt"
	"strings"
	"time"
	_ "time/tzdata" // zones are the same on every machine, with or without its own database
)

// ErrUnknownZone is wrapped by LoadZone for a name that is not in the IANA time
// zone database.
var ErrUnknownZone = errors.New("unknown time zone")

// Zone is a time zone of the IANA database (RFC 6557). The zero Zone is UTC.
type Zone struct {
	loc *time.Location
}

// LoadZone returns the zone of an IANA name such as "America/Halifax". The empty
// name and "Local" are refused: a blog's zone is always said.
func LoadZone(name string) (Zone, error) {
	if name == "" || name == "Local" {
		return Zone{}, fmt.Errorf("%w: say a zone of the IANA database, such as Europe/Lisbon", ErrUnknownZone)
	}
	loc, err := time.LoadLocation(name)
	if err != nil {
		return Zone{}, fmt.Errorf("%w %q: say a zone of the IANA database, such as Europe/Lisbon", ErrUnknownZone, name)
	}
	return Zone{loc}, nil
}

// MustZone is LoadZone for names written in code; it panics on nonsense.
func MustZone(name string) Zone {
	z, err := LoadZone(name)
	if err != nil {
		panic(err)
	}
	return z
}

// City is the place that the zone is named for: "Halifax" for America/Halifax.
func (z Zone) City() string {
	name := z.String()
	return strings.ReplaceAll(name[strings.LastIndexByte(name, '/')+1:], "_", " ")
}

// String returns the zone's IANA name.
func (z Zone) String() string { return z.location().String() }

// MarshalText writes the zone as its IANA name.
func (z Zone) MarshalText() ([]byte, error) { return []byte(z.String()), nil }

// UnmarshalText reads an IANA name as LoadZone does.
func (z *Zone) UnmarshalText(text []byte) (err error) {
	*z, err = LoadZone(string(text))
	return err
}

func (z Zone) location() *time.Location {
	if z.loc == nil {
		return time.UTC
	}
	return z.loc
}

// In returns the instant t as a time.Time of this zone, for showing it.
func (z Zone) In(t time.Time) time.Time { return t.In(z.location()) }

// Local returns the civil date and the time of day, seconds dropped, that clocks
// of the zone show at instant t.
func (z Zone) Local(t time.Time) (Date, Clock) {
	shown := z.shown(t)
	d := dateOfUnix(shown)
	return d, Clock((shown - d.midnight().Unix()) / 60)
}

// DateWords writes the date of a moment as the program says dates, at another moment.
func (z Zone) DateWords(t, now time.Time) string { return z.DateOf(t).Words(z.DateOf(now)) }

// DateOf returns the civil date in the zone at instant t.
func (z Zone) DateOf(t time.Time) Date { return dateOfUnix(z.shown(t)) }

// shown is what the zone's clocks show at t, as seconds since 1970 read as UTC.
func (z Zone) shown(t time.Time) int64 {
	_, offset := t.In(z.location()).Zone()
	return t.Unix() + int64(offset)
}

// At returns the instant, in UTC, of a civil date and time. A time that a clock
// change skips moves forward by the length of the skip; one that occurs twice
// means the first.
func (z Zone) At(d Date, c Clock) time.Time {
	wanted := d.midnight().Unix() + int64(c)*60
	if t, plain := z.far(wanted); plain {
		return t
	}
	w := time.Unix(wanted, 0).UTC()
	guess := time.Date(w.Year(), w.Month(), w.Day(), w.Hour(), w.Minute(), 0, 0, z.location())
	shown := z.shown(guess)
	if shown < wanted {
		// Skipped, and the guess used the offset in force after the change.
		_, before := guess.Zone()
		return time.Unix(wanted-int64(before), 0).UTC()
	}
	if shown > wanted {
		return guess.UTC() // Skipped, and already moved forward by the skip.
	}
	start, _ := guess.ZoneBounds()
	if !start.IsZero() {
		// Did the zone's clocks show the same under the offset before?
		_, before := start.Add(-time.Second).Zone()
		if first := time.Unix(wanted-int64(before), 0); first.Before(start) {
			return first.UTC()
		}
	}
	return guess.UTC()
}

// far is At for civil seconds that are further from any clock change than a clock has ever
// been moved, a day (Manila in 1844): they are shown once.
func (z Zone) far(wanted int64) (t time.Time, plain bool) {
	const reach = 26 * time.Hour
	era := time.Unix(wanted, 0).In(z.location())
	_, offset := era.Zone()
	start, end := era.ZoneBounds()
	t = time.Unix(wanted-int64(offset), 0).UTC()
	return t, (start.IsZero() || t.Sub(start) > reach) && (end.IsZero() || end.Sub(t) > reach)
}

// AddDays returns the instant at which the zone's clocks show the same time of day so
// many dates after t; seconds are kept.
func (z Zone) AddDays(t time.Time, days int) time.Time {
	d, c := z.Local(t)
	return z.At(d.Add(days), c).Add(t.Sub(t.Truncate(time.Minute)))
}

// AddMonths returns the instant at which the zone's clocks show the same time of day so
// many calendar months after t, as Date.AddMonths counts them; seconds are kept.
func (z Zone) AddMonths(t time.Time, months int) time.Time {
	d, c := z.Local(t)
	return z.At(d.AddMonths(months), c).Add(t.Sub(t.Truncate(time.Minute)))
}

// Span is a run of instants, From inclusive and To exclusive.
type Span struct {
	From, To time.Time
}

// Window returns the instants of day d at which the zone's clocks show, for the
// first time, a time from `from` up to but not including `to`: one span, or
// several where a clock change cuts the window. Skipped times are not there and
// times that occur twice count once. A window that a clock change skips whole
// moves forward by the length of the skip, as a single time would.
//
// from may be negative (a sway that reaches back over midnight) and to may pass
// midnight; an empty or reversed window has no spans.
func (z Zone) Window(d Date, from, to Clock) []Span {
	if to <= from {
		return nil
	}
	begin := d.midnight().Unix() + int64(from)*60
	end := d.midnight().Unix() + int64(to)*60

	var spans []Span
	covered := begin // civil seconds up to which the window has had its turn
	// No zone is further than a day from UTC.
	for at := time.Unix(begin-secondsPerDay, 0).In(z.location()); covered < end; {
		_, offset := at.Zone()
		eraStart, eraEnd := at.ZoneBounds()
		from, to := covered, end
		if !eraStart.IsZero() {
			from = max(from, eraStart.Unix()+int64(offset))
		}
		if !eraEnd.IsZero() {
			to = min(to, eraEnd.Unix()+int64(offset))
		}
		if from < to {
			spans = appendSpan(spans, time.Unix(from-int64(offset), 0).UTC(), time.Unix(to-int64(offset), 0).UTC())
			covered = to
		}
		if eraEnd.IsZero() || eraEnd.Unix() > end+secondsPerDay {
			break
		}
		at = eraEnd
	}
	if spans == nil {
		start := z.At(d, from)
		return []Span{{start, start.Add(time.Duration(to-from) * time.Minute)}}
	}
	return spans
}

// Spans returns the instants at which the zone's date is d: one span, several where clocks
// go back over midnight, or none where the date is skipped.
func (z Zone) Spans(d Date) []Span {
	begin := d.midnight().Unix()
	end := begin + secondsPerDay
	if from, plain := z.far(begin); plain {
		if to, plain := z.far(end); plain {
			return []Span{{from, to}}
		}
	}
	var spans []Span
	for at := time.Unix(begin-secondsPerDay, 0).In(z.location()); ; {
		_, offset := at.Zone()
		eraStart, eraEnd := at.ZoneBounds()
		from, to := time.Unix(begin-int64(offset), 0), time.Unix(end-int64(offset), 0)
		if !eraStart.IsZero() && eraStart.After(from) {
			from = eraStart
		}
		if !eraEnd.IsZero() && eraEnd.Before(to) {
			to = eraEnd
		}
		if from.Before(to) {
			spans = appendSpan(spans, from.UTC(), to.UTC())
		}
		if eraEnd.IsZero() || eraEnd.Unix() > end+secondsPerDay {
			return spans
		}
		at = eraEnd
	}
}

// appendSpan adds a span, joined to the last where they touch.
func appendSpan(spans []Span, from, to time.Time) []Span {
	if n := len(spans); n > 0 && spans[n-1].To.Equal(from) {
		spans[n-1].To = to
		return spans
	}
	return append(spans, Span{from, to})
}

// ClockChange is a change of a zone's clocks on a date: forward, From is the time that
// is skipped up to To; back, the time from From up to To occurs twice.
type ClockChange struct {
	From, To Clock
	Back     bool
}

// ClockChange returns the change of clocks on a date, if there is one; the first, should
// there be several.
func (z Zone) ClockChange(d Date) (ClockChange, bool) {
	begin, end := z.At(d, 0), z.At(d.Add(1), 0)
	if end.Sub(begin) == 24*time.Hour {
		return ClockChange{}, false
	}
	_, at := begin.In(z.location()).ZoneBounds()
	for !at.IsZero() && at.Before(end) {
		_, was := at.Add(-time.Second).In(z.location()).Zone()
		_, is := at.In(z.location()).Zone()
		if was != is {
			shownBefore := Clock((at.Unix() + int64(was) - d.midnight().Unix()) / 60)
			shownAfter := Clock((at.Unix() + int64(is) - d.midnight().Unix()) / 60)
			if is > was {
				return ClockChange{From: shownBefore, To: shownAfter}, true
			}
			return ClockChange{From: shownAfter, To: shownBefore, Back: true}, true
		}
		_, at = at.In(z.location()).ZoneBounds()
	}
	return ClockChange{}, false
}

// Again tells whether clocks show the instant's time of day for the second time on its
// date.
func (z Zone) Again(t time.Time) bool {
	// Clocks that went back did so by a day at most.
	if changed, _ := z.In(t).ZoneBounds(); changed.IsZero() || t.Sub(changed) > 25*time.Hour {
		return false
	}
	d, c := z.Local(t)
	return z.At(d, c).Add(time.Minute).Before(t)
}

// Offset is how far the zone's clocks are ahead of UTC's at an instant.
func (z Zone) Offset(t time.Time) time.Duration {
	_, seconds := t.In(z.location()).Zone()
	return time.Duration(seconds) * time.Second
}

// Changes are the instants after one and before another at which the zone's clocks change, in order.
func (z Zone) Changes(after, before time.Time) []time.Time {
	changes := []time.Time{}
	for t := after; ; {
		_, end := t.In(z.location()).ZoneBounds()
		if end.IsZero() || !end.Before(before) {
			return changes
		}
		changes = append(changes, end.UTC())
		t = end
	}
}
