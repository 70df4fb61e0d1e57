// Package prepared reads messages that were written beforehand, in a table, and says when those
// without a time go out. It is pure.
package prepared

import (
	"fmt"
	"iter"
	"strings"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
)

// Row is one line of a sheet, as it was read.
type Row struct {
	Line     int // of the sheet, from 1
	Text     string
	Title    string
	Link     string
	Post     string    // a title, a slug or an address
	Picture  string    // the name of its file
	At       time.Time // zero: no time
	Channels []string  // by their names
	Problem  string    // what could not be read, and what to do about it; "": nothing
}

type column int

const (
	other column = iota
	text
	title
	link
	post
	picture
	moment // date and time, or one of them
	channels
)

// headings are what columns are known by.
var headings = map[string]column{
	"text": text, "message": text, "caption": text, "wording": text,
	"title": title, "link": link, "url": link, "address": link, "post": post,
	"picture": picture, "image": picture, "file": picture,
	"time": moment, "date": moment, "when": moment, "at": moment, "date and time": moment,
	"channels": channels, "channel": channels, "on": channels,
}

// Read reads the rows of a sheet, by their numbers. Columns are known by a heading row, where there is one; else by what is in
// them. A day without a year is the next such day from a moment on. What is wrong with a row stands in it.
func Read(sheet iter.Seq2[int, []string], zone civil.Zone, now time.Time) []Row {
	var columns []column
	var rows []Row
	first := true
	for line, cells := range sheet {
		if isEmpty(cells) {
			continue
		}
		if first {
			first = false
			if columns = headingsOf(cells); columns != nil {
				continue
			}
		}
		rows = append(rows, readRow(line, cells, columns, zone, now))
	}
	return rows
}

func isEmpty(cells []string) bool {
	return strings.TrimSpace(strings.Join(cells, "")) == ""
}

// headingsOf says what the columns are; nil where the row is no heading row.
func headingsOf(cells []string) []column {
	columns := make([]column, len(cells))
	hasText := false
	for i, c := range cells {
		columns[i] = headings[strings.ToLower(strings.TrimSpace(c))]
		hasText = hasText || columns[i] == text || columns[i] == post
	}
	if !hasText {
		return nil
	}
	return columns
}

func readRow(line int, cells []string, columns []column, zone civil.Zone, now time.Time) Row {
	row := Row{Line: line}
	when := ""
	for i, c := range cells {
		c = strings.TrimSpace(c)
		if c == "" {
			continue
		}
		kind := other
		switch {
		case columns == nil:
			kind = guess(c, row, zone, now)
		case i < len(columns):
			kind = columns[i]
		}
		switch kind {
		case text:
			row.Text = c
		case title:
			row.Title = c
		case link:
			row.Link = c
		case post:
			row.Post = c
		case picture:
			row.Picture = c
		case moment:
			when = strings.TrimSpace(when + " " + c)
		case channels:
			for _, name := range strings.FieldsFunc(c, func(r rune) bool { return r == ',' || r == ';' || r == '+' }) {
				row.Channels = append(row.Channels, strings.TrimSpace(name))
			}
		}
	}
	if when != "" {
		at, ok := ReadMoment(when, zone, now)
		if !ok {
			row.Problem = fmt.Sprintf("“%s” is not a date and a time. Write it as 4 Dec, 09:40 or 2026-12-04 09:40.", when)
		}
		row.At = at
	}
	return row
}

// guess says what a cell of a sheet without headings is.
func guess(cell string, row Row, zone civil.Zone, now time.Time) column {
	if strings.HasPrefix(cell, "http://") || strings.HasPrefix(cell, "https://") {
		if !strings.ContainsAny(cell, " \n") {
			return link
		}
	}
	if _, ok := ReadMoment(cell, zone, now); ok {
		return moment
	}
	if row.Text == "" {
		return text
	}
	return other
}

var (
	times  = []string{"15:04", "15:04:05", "3:04 pm", "3:04pm", "15.04", "3 pm", "3pm"}
	dates  = []string{"2006-1-2", "2 Jan 2006", "2 January 2006", "Jan 2 2006", "January 2 2006", "2.1.2006", "2/1/2006"}
	noYear = []string{"2 Jan", "2 January", "Jan 2", "January 2", "2.1.", "2/1"}
)

// ReadMoment reads a date and a time by the clocks of a zone, such as "Fri 4 Dec, 09:40", "4 Dec 2026 9.40",
// "4.12.2026 9:40" (the day first) or "2026-12-04T09:40". Without a year it is the next such day from a moment on.
func ReadMoment(said string, zone civil.Zone, now time.Time) (time.Time, bool) {
	if len(said) > 60 {
		return time.Time{}, false
	}
	fields := strings.Fields(strings.ToLower(strings.ReplaceAll(said, ",", " ")))
	words := strings.Join(fields, " ")
	if at, err := time.Parse("2006-01-02t15:04", words); err == nil {
		fields = []string{at.Format("2006-01-02"), at.Format("15:04")}
	}
	if len(fields) > 2 && isWeekday(fields[0]) {
		fields = fields[1:]
	}
	for n := 1; n <= 2 && n < len(fields); n++ { // the last words are the time
		split := len(fields) - n
		clock, ok := readClock(strings.Join(fields[split:], " "))
		if !ok {
			continue
		}
		if d, ok := readDay(strings.Join(fields[:split], " "), zone, now); ok {
			return zone.At(d, clock), true
		}
	}
	return time.Time{}, false
}

func isWeekday(word string) bool {
	for d := time.Sunday; d <= time.Saturday; d++ {
		name := strings.ToLower(d.String())
		if word == name || word == name[:3] {
			return true
		}
	}
	return false
}

func readClock(said string) (civil.Clock, bool) {
	for _, layout := range times {
		if t, err := time.Parse(layout, said); err == nil {
			return civil.Clock(t.Hour()*60 + t.Minute()), true
		}
	}
	return 0, false
}

func readDay(said string, zone civil.Zone, now time.Time) (civil.Date, bool) {
	for _, layout := range dates {
		if t, err := time.Parse(layout, said); err == nil && civil.IsNear(t) {
			return civil.NewDate(t.Year(), t.Month(), t.Day()), true
		}
	}
	today, thisYear := zone.DateOf(now), zone.In(now).Year()
	for _, layout := range noYear {
		for year := thisYear; year <= thisYear+8; year++ { // a leap day comes every eighth year at the latest
			t, err := time.Parse("2006 "+layout, fmt.Sprintf("%d %s", year, said))
			if err != nil {
				continue
			}
			if d := civil.NewDate(year, t.Month(), t.Day()); !d.Before(today) {
				return d, true
			}
		}
	}
	return civil.Date{}, false
}

// Openings gives messages without a time theirs: the turns of a cadence, each once.
type Openings struct {
	Pace  cadence.Pace
	Taken map[time.Time]bool // openings that other messages wait for
}

// Next is the first opening after a moment that is not taken, and takes it; ok is false where there is none
// within two years.
func (o Openings) Next(after time.Time) (at time.Time, ok bool) {
	for {
		if after, ok = o.Pace.Next(after); !ok {
			return time.Time{}, false
		}
		if !o.Taken[after.UTC()] {
			o.Taken[after.UTC()] = true
			return after.UTC(), true
		}
	}
}
