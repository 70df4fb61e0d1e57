// Package sheet reads tables row by row: .xlsx (ECMA-376), and comma, semicolon or tab separated values (RFC 4180) in any
// common encoding. What is read, and how much work that takes, is bounded whatever the file holds.
package sheet

import (
	"bytes"
	"context"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"iter"
	"strings"
	"unicode/utf8"

	"dapper.example/internal/intake/charset"
)

// Limits bound what is read of a file. All must be above 0.
type Limits struct {
	Bytes    int   // of the file
	Unpacked int64 // bytes of all parts of an .xlsx file, unpacked
	Rows     int   // with something in them
	Columns  int   // of a row; the others are left out
	Cell     int   // characters of a cell; the others are left out, and the row says so
}

// Row is a row that has something in it.
type Row struct {
	Line    int // of the sheet or the file, from 1
	Cells   []string
	Problem string // what of it could not be kept, in a sentence; "": nothing
}

// Unreadable says, in a sentence, why a file cannot be read and what to do.
type Unreadable struct{ Why string }

func (e *Unreadable) Error() string { return e.Why }

func unreadable(format string, args ...any) error { return &Unreadable{fmt.Sprintf(format, args...)} }

// File is a file of one or more sheets.
type File struct {
	limits Limits
	names  []string
	rows   func(ctx context.Context, name string) iter.Seq2[Row, error]
	close  func() error
}

// Open looks at a file and says what sheets it has; what kind it is, is known from its content. It fails with *Unreadable,
// or with budget.ErrBusy where too much is being done at once. Close it afterwards.
func Open(ctx context.Context, data []byte, limits Limits) (*File, error) {
	if len(data) > limits.Bytes {
		return nil, unreadable("This file is larger than %s. Save a part of it as a file of its own.", size(int64(limits.Bytes)))
	}
	switch {
	case bytes.HasPrefix(data, []byte("PK\x03\x04")), bytes.HasPrefix(data, []byte("PK\x05\x06")):
		return openBook(ctx, data, limits)
	case bytes.HasPrefix(data, []byte{0xd0, 0xcf, 0x11, 0xe0}): // a compound file, [MS-CFB]
		return nil, unreadable("This is a sheet of an older kind, or one with a password. Save it as .xlsx without a password, or as .csv.")
	case bytes.HasPrefix(data, []byte("%PDF-")):
		return nil, unreadable("This is a PDF, not a sheet. Save the sheet as .xlsx or .csv.")
	}
	text, err := charset.Decode(data)
	if err != nil {
		return nil, unreadable("This text can't be read. Save the sheet as .xlsx, or as .csv in UTF-8.")
	}
	return &File{limits: limits, names: []string{""}, close: func() error { return nil },
		rows: func(ctx context.Context, _ string) iter.Seq2[Row, error] { return values(ctx, text) }}, nil
}

func size(bytes int64) string {
	if bytes < 1<<20 {
		return fmt.Sprintf("%d kB", bytes>>10)
	}
	return fmt.Sprintf("%d MB", bytes>>20)
}

// Names are the names of the sheets, in order: one at least, and "" alone for a file that has no names.
func (f *File) Names() []string { return f.names }

// Close frees what the file holds.
func (f *File) Close() error { return f.close() }

// Rows are the rows of a sheet that have something in them. An error ends them: *Unreadable, or that of the context.
func (f *File) Rows(ctx context.Context, name string) iter.Seq2[Row, error] {
	return func(yield func(Row, error) bool) {
		n := 0
		for row, err := range f.rows(ctx, name) {
			if err == nil {
				err = ctx.Err()
			}
			if err != nil {
				yield(Row{}, err)
				return
			}
			if f.limits.bound(&row); isEmpty(row.Cells) {
				continue
			}
			if n++; n > f.limits.Rows {
				yield(Row{}, unreadable("This sheet has more than %d rows. Save a part of it as a file of its own.", f.limits.Rows))
				return
			}
			if !yield(row, nil) {
				return
			}
		}
	}
}

// bound leaves out of a row what is too much.
func (l Limits) bound(row *Row) {
	row.Cells = row.Cells[:min(len(row.Cells), l.Columns)]
	cut, odd := false, false
	for i, cell := range row.Cells {
		if len(cell) > l.Cell {
			if n := utf8.RuneCountInString(cell); n > l.Cell {
				cell, cut = string([]rune(cell)[:l.Cell]), true
			}
		}
		if text := strings.ReplaceAll(strings.ToValidUTF8(cell, "\ufffd"), "\x00", ""); text != cell {
			cell, odd = text, true
		}
		row.Cells[i] = cell
	}
	switch {
	case cut:
		row.Problem = fmt.Sprintf("A cell has more than %d characters; the rest was left out.", l.Cell)
	case odd:
		row.Problem = "A cell holds bytes that are no text; they were left out."
	}
}

func isEmpty(cells []string) bool {
	for _, c := range cells {
		if strings.TrimSpace(c) != "" {
			return false
		}
	}
	return true
}

// values reads separated values.
func values(ctx context.Context, text string) iter.Seq2[Row, error] {
	return func(yield func(Row, error) bool) {
		r := csv.NewReader(strings.NewReader(text))
		r.Comma, r.FieldsPerRecord, r.LazyQuotes = separator(text), -1, true
		for ctx.Err() == nil {
			cells, err := r.Read()
			if errors.Is(err, io.EOF) {
				return
			}
			if err != nil {
				yield(Row{}, unreadable("This is not a table of values: %s.", err))
				return
			}
			line, _ := r.FieldPos(0)
			if !yield(Row{Line: line, Cells: cells}, nil) {
				return
			}
		}
		yield(Row{}, ctx.Err())
	}
}

// looked is in how many characters of a text its separator is looked for.
const looked = 16 << 10

// separator is what parts the cells: what comes in the same number, outside of quotes, in most of the first lines.
func separator(text string) rune {
	begin := text[:min(len(text), looked)]
	best, score := ',', 0
	for _, one := range []rune{'\t', ';', ',', '|'} {
		lines := counts(begin, one)
		same := 0
		for _, n := range lines {
			if n > 0 && n == lines[0] {
				same++
			}
		}
		if len(lines) > 0 && same*100/len(lines) > score {
			best, score = one, same*100/len(lines)
		}
	}
	return best
}

// counts says how often a separator stands in each line, outside of quotes.
func counts(text string, separator rune) []int {
	var lines []int
	n, quoted := 0, false
	for _, r := range text {
		switch {
		case r == '"':
			quoted = !quoted
		case quoted:
		case r == separator:
			n++
		case r == '\n':
			lines, n = append(lines, n), 0
		}
	}
	if n > 0 {
		lines = append(lines, n)
	}
	return lines
}
