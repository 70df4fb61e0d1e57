package sheet

import (
	"encoding/csv"
	"fmt"
	"io"
	"iter"
	"strconv"
	"strings"
	"time"

	"github.com/xuri/excelize/v2"
)

// Table is a table to be written.
type Table struct {
	Name     string // of its sheet: at most 31 characters, none of []:*?/\
	Headings []string
	// Rows are as wide as the headings or less wide. A value is a string, an int, a bool, a Moment, or nil for an empty cell. An
	// error ends the writing.
	Rows iter.Seq2[[]any, error]
}

// Moment is a date and a time of day, by the clocks of the place that the table is about; the zero Moment is an empty cell.
type Moment struct{ time.Time }

// String writes it as 2026-12-04 09:40.
func (m Moment) String() string {
	if m.IsZero() {
		return ""
	}
	return m.Format("2006-01-02 15:04")
}

// Harmless is a text that no sheet takes for a formula: one that begins like a formula gets an apostrophe before it.
func Harmless(text string) string {
	if strings.HasPrefix(strings.TrimLeft(text, " "), "=") || text != "" && strings.ContainsRune("+-@\t\r\n", rune(text[0])) {
		return "'" + text
	}
	return text
}

// WriteCSV writes a table as comma separated values (RFC 4180) in UTF-8, with the mark by which sheets know that it is. It
// streams.
func WriteCSV(w io.Writer, t Table) error {
	if _, err := io.WriteString(w, "\ufeff"); err != nil {
		return err
	}
	out := csv.NewWriter(w)
	out.UseCRLF = true
	if err := out.Write(harmless(t.Headings)); err != nil {
		return err
	}
	// Who waits for it sees that it has begun.
	out.Flush()
	for row, err := range t.Rows {
		if err != nil {
			return err
		}
		cells := make([]string, len(row))
		for i, v := range row {
			cells[i] = written(v)
		}
		if err := out.Write(cells); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

func harmless(texts []string) []string {
	all := make([]string, len(texts))
	for i, t := range texts {
		all[i] = Harmless(t)
	}
	return all
}

func written(v any) string {
	switch v := v.(type) {
	case nil:
		return ""
	case string:
		return Harmless(v)
	case int:
		return strconv.Itoa(v)
	case bool:
		return map[bool]string{true: "yes", false: "no"}[v]
	case Moment:
		return v.String()
	}
	return Harmless(fmt.Sprint(v))
}

// mostBookRows is how many rows a sheet of a book holds, its headings among them (ECMA-376).
const mostBookRows = excelize.TotalRows

// WriteBook writes tables as the sheets of an .xlsx file. The rows go by way of a temporary file, so that a large table takes
// little memory; nothing is written to w before all are known. Texts are no formulas in a book, so they stay as they are.
func WriteBook(w io.Writer, tables ...Table) (err error) {
	book := excelize.NewFile()
	defer func() {
		if closed := book.Close(); err == nil {
			err = closed
		}
	}()
	format := moment
	when, err := book.NewStyle(&excelize.Style{CustomNumFmt: &format})
	if err != nil {
		return err
	}
	bold, err := book.NewStyle(&excelize.Style{Font: &excelize.Font{Bold: true}})
	if err != nil {
		return err
	}
	for i, t := range tables {
		if i == 0 {
			err = book.SetSheetName("Sheet1", t.Name)
		} else {
			_, err = book.NewSheet(t.Name)
		}
		if err == nil {
			err = writeSheet(book, t, when, bold)
		}
		if err != nil {
			return fmt.Errorf("writing the sheet %s: %w", t.Name, err)
		}
	}
	return book.Write(w)
}

func writeSheet(book *excelize.File, t Table, when, bold int) error {
	out, err := book.NewStreamWriter(t.Name)
	if err != nil {
		return err
	}
	if err := out.SetPanes(&excelize.Panes{Freeze: true, YSplit: 1, TopLeftCell: "A2", ActivePane: "bottomLeft"}); err != nil {
		return err
	}
	head := make([]any, len(t.Headings))
	for i, h := range t.Headings {
		head[i] = excelize.Cell{Value: h, StyleID: bold}
	}
	if err := out.SetRow("A1", head); err != nil {
		return err
	}
	line := 1
	for row, err := range t.Rows {
		if err != nil {
			return err
		}
		if line++; line > mostBookRows {
			return fmt.Errorf("a sheet holds %d rows; write the table as .csv", mostBookRows)
		}
		cells := make([]any, len(row))
		for i, v := range row {
			switch m, is := v.(Moment); {
			case is && m.IsZero():
			case is:
				// A book knows no zones: the clocks count.
				y, mo, d := m.Date()
				cells[i] = excelize.Cell{Value: time.Date(y, mo, d, m.Hour(), m.Minute(), 0, 0, time.UTC), StyleID: when}
			default:
				if b, is := v.(bool); is {
					v = written(b)
				}
				cells[i] = v
			}
		}
		if err := out.SetRow("A"+strconv.Itoa(line), cells); err != nil {
			return err
		}
	}
	return out.Flush()
}
