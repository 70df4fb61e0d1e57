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
	"dapper.example/internal/core/moment"
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
	when // date and time, or one of them
	channels
)

// headings are what columns are known by.
var headings = map[string]column{
	"text": text, "message": text, "caption": text, "wording": text,
	"title": title, "link": link, "url": link, "address": link, "post": post,
	"picture": picture, "image": picture, "file": picture,
	"time": when, "date": when, "when": when, "at": when, "date and time": when,
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
	said := ""
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
		case when:
			said = strings.TrimSpace(said + " " + c)
		case channels:
			for _, name := range strings.FieldsFunc(c, func(r rune) bool { return r == ',' || r == ';' || r == '+' }) {
				row.Channels = append(row.Channels, strings.TrimSpace(name))
			}
		}
	}
	if said != "" {
		at, ok := moment.Read(said, zone, now)
		if !ok {
			row.Problem = fmt.Sprintf("“%s” is not a date and a time. Write it as 4 Dec, 09:40 or 2026-12-04 09:40.", said)
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
	if _, ok := moment.Read(cell, zone, now); ok {
		return when
	}
	if row.Text == "" {
		return text
	}
	return other
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
