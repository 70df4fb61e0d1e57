// Package civil holds plain dates and times of day, and turns them into
// instants of one time zone across its clock changes.
//
// A plan is made of civil dates and times ("Tuesday 24 November, 09:40"); the
// world runs on instants. This package is the only place where one becomes the
// other. It has no clock of its own and must never ask the machine for its
// zone or for the time.
package civil

import (
	"fmt"
	"time"
)

// Date is a day of the proleptic Gregorian calendar, in years 1 to 9999. The
// zero Date is 1 January of year 1 and serves as "no date" (see IsZero), as the
// zero time.Time does.
type Date struct {
	day int32 // days since 1 January of year 1
}

const secondsPerDay = 24 * 60 * 60

// secondsToUnix is the distance from the zero Date to 1970-01-01, in seconds.
var secondsToUnix = -time.Time{}.Unix()

// NewDate returns the Date of a year, month and day of the month; values out of
// range carry over as in time.Date, so 31 April is 1 May.
func NewDate(year int, month time.Month, day int) Date {
	return dateOfUnix(time.Date(year, month, day, 0, 0, 0, 0, time.UTC).Unix())
}

func dateOfUnix(seconds int64) Date {
	return Date{int32(floorDiv(seconds+secondsToUnix, secondsPerDay))}
}

// ParseDate reads a calendar date in the form of RFC 3339 section 5.6
// (full-date, "2026-11-24").
func ParseDate(text string) (Date, error) {
	t, err := time.Parse(time.DateOnly, text)
	if err != nil || t.Year() < 1 {
		return Date{}, fmt.Errorf("%q is not a date; write it as 2026-11-24", text)
	}
	return dateOfUnix(t.Unix()), nil
}

// What a post is given, a time or a bound, is of these years. Beyond them nobody plans a
// blog, and calendars are laid out at great length.
const (
	FirstYear = 1900
	LastYear  = 2199
)

// ReadDate is ParseDate for the dates that a post is given: of the years from FirstYear to
// LastYear.
func ReadDate(text string) (Date, error) {
	d, err := ParseDate(text)
	if err == nil && !IsNear(d.midnight()) {
		return Date{}, fmt.Errorf("%q is too far away; write a date of the years %d to %d", text, FirstYear, LastYear)
	}
	return d, err
}

// IsNear tells whether a moment is of the years in which a post may be given a time.
func IsNear(t time.Time) bool { return t.Year() >= FirstYear && t.Year() <= LastYear }

// MustDate is ParseDate for dates written in code; it panics on nonsense.
func MustDate(text string) Date {
	d, err := ParseDate(text)
	if err != nil {
		panic(err)
	}
	return d
}

// midnight is the start of the date, read as if it were in UTC.
func (d Date) midnight() time.Time {
	return time.Unix(int64(d.day)*secondsPerDay-secondsToUnix, 0).UTC()
}

// IsZero tells whether d is the zero Date.
func (d Date) IsZero() bool { return d.day == 0 }

// Add returns the date so many days later, or earlier where days is negative.
func (d Date) Add(days int) Date { return Date{d.day + int32(days)} }

// AddMonths returns the date so many calendar months later, or earlier where months
// is negative. Where the month has no such day, it is the month's last: 31 January
// and one month is 28 or 29 February.
func (d Date) AddMonths(months int) Date {
	year, month, day := d.midnight().Date()
	last := NewDate(year, month+time.Month(months)+1, 0)
	lastDay := last.midnight().Day()
	return last.Add(min(day, lastDay) - lastDay)
}

// InYear is the date with another year; 29 February is 28 February in years without it.
func (d Date) InYear(year int) Date {
	from, _, _ := d.Parts()
	return d.AddMonths(12 * (year - from))
}

// Sub returns the number of days from other to d.
func (d Date) Sub(other Date) int { return int(d.day - other.day) }

// Before tells whether d comes before other.
func (d Date) Before(other Date) bool { return d.day < other.day }

// After tells whether d comes after other.
func (d Date) After(other Date) bool { return d.day > other.day }

// Compare returns -1, 0 or 1 as d comes before, is, or comes after other.
func (d Date) Compare(other Date) int {
	switch {
	case d.day < other.day:
		return -1
	case d.day > other.day:
		return 1
	}
	return 0
}

// Parts are the year, the month and the day of the month.
func (d Date) Parts() (year int, month time.Month, day int) { return d.midnight().Date() }

// Weekday returns the day of the week.
func (d Date) Weekday() time.Weekday { return d.midnight().Weekday() }

// String returns the date in the form of RFC 3339, "2026-11-24".
func (d Date) String() string { return string(d.text()) }

// text writes the date digit by digit: answers are full of dates.
func (d Date) text() []byte {
	year, month, day := d.midnight().Date()
	if year < 0 || year > 9999 {
		return []byte(d.Format(time.DateOnly))
	}
	digit := func(n int) byte { return byte('0' + n%10) }
	return []byte{digit(year / 1000), digit(year / 100), digit(year / 10), digit(year), '-',
		digit(int(month) / 10), digit(int(month)), '-', digit(day / 10), digit(day)}
}

// Monday returns the Monday of the date's week, which begins on it (ISO 8601).
func (d Date) Monday() Date { return d.Add(-(int(d.Weekday()) + 6) % 7) }

// Words writes the date as the program says dates: "Fri 4 Dec", with its year where that
// is not the one of today; where today is the zero date, without.
func (d Date) Words(today Date) string {
	if today.IsZero() || d.midnight().Year() == today.midnight().Year() {
		return d.Format("Mon 2 Jan")
	}
	return d.Format("Mon 2 Jan 2006")
}

// Format returns the date in a layout of package time; its clock parts are zero.
func (d Date) Format(layout string) string { return d.midnight().Format(layout) }

// MarshalText writes the date as String does.
func (d Date) MarshalText() ([]byte, error) { return d.text(), nil }

// UnmarshalText reads the date as ParseDate does.
func (d *Date) UnmarshalText(text []byte) (err error) {
	*d, err = ParseDate(string(text))
	return err
}

// Clock is a time of day in whole minutes since midnight. Values from 24:00 to
// 48:00 are times of the following day, so that a window may run past midnight.
type Clock int

const (
	// Midnight is the end of a day, 24:00; the day's beginning is the zero Clock.
	Midnight Clock = 24 * 60
	// LastClock is the latest Clock that text may name, 48:00.
	LastClock Clock = 48 * 60
)

// ParseClock reads "HH:MM" from 00:00 to 48:00.
func ParseClock(text string) (Clock, error) {
	bad := fmt.Errorf("%q is not a time of day; write it as 09:40, from 00:00 to 48:00", text)
	if len(text) != 5 || text[2] != ':' {
		return 0, bad
	}
	for _, i := range [...]int{0, 1, 3, 4} {
		if text[i] < '0' || text[i] > '9' {
			return 0, bad
		}
	}
	hours := int(text[0]-'0')*10 + int(text[1]-'0')
	minutes := int(text[3]-'0')*10 + int(text[4]-'0')
	c := Clock(hours*60 + minutes)
	if minutes > 59 || c > LastClock {
		return 0, bad
	}
	return c, nil
}

// MustClock is ParseClock for times written in code; it panics on nonsense.
func MustClock(text string) Clock {
	c, err := ParseClock(text)
	if err != nil {
		panic(err)
	}
	return c
}

// String returns the time as "HH:MM"; a time before midnight of its day (where a
// sway reaches back over it) carries a minus sign.
func (c Clock) String() string {
	if c < 0 {
		return "-" + (-c).String()
	}
	return fmt.Sprintf("%02d:%02d", int(c)/60, int(c)%60)
}

// MarshalText writes the time as String does.
func (c Clock) MarshalText() ([]byte, error) { return []byte(c.String()), nil }

// UnmarshalText reads the time as ParseClock does.
func (c *Clock) UnmarshalText(text []byte) (err error) {
	*c, err = ParseClock(string(text))
	return err
}

func floorDiv(a, b int64) int64 {
	q := a / b
	if a%b < 0 {
		q--
	}
	return q
}

// Later returns the later of two moments.
func Later(a, b time.Time) time.Time {
	if a.After(b) {
		return a
	}
	return b
}

// Earlier returns the earlier of two moments.
func Earlier(a, b time.Time) time.Time {
	if a.Before(b) {
		return a
	}
	return b
}

// Sooner returns the earlier of two moments of which the zero time is none.
func Sooner(a, b time.Time) time.Time {
	if a.IsZero() || !b.IsZero() && b.Before(a) {
		return b
	}
	return a
}
