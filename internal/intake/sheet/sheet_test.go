package sheet_test

import (
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"dapper.example/internal/intake/sheet"
)

var limits = sheet.Limits{Bytes: 1 << 20, Unpacked: 8 << 20, Rows: 50, Columns: 10, Cell: 100}

// read reads all rows of a sheet, or of the first.
func read(data []byte, name string) (rows []sheet.Row, err error) {
	f, err := sheet.Open(context.Background(), data, limits)
	if err != nil {
		return nil, err
	}
	defer func() { err = errors.Join(err, f.Close()) }()
	if name == "" {
		name = f.Names()[0]
	}
	for row, err := range f.Rows(context.Background(), name) {
		if err != nil {
			return rows, err
		}
		rows = append(rows, row)
	}
	return rows, nil
}

// book writes a file with the sheets Articles and Notes.
func book(t testing.TB, fill func(f *excelize.File)) []byte {
	t.Helper()
	f := excelize.NewFile()
	require.NoError(t, f.SetSheetName("Sheet1", "Articles"))
	_, err := f.NewSheet("Notes")
	require.NoError(t, err)
	fill(f)
	out, err := f.WriteToBuffer()
	require.NoError(t, err)
	return out.Bytes()
}

func cells(rows []sheet.Row) (all [][]string) {
	for _, r := range rows {
		all = append(all, r.Cells)
	}
	return all
}

func TestSeparatedValues(t *testing.T) {
	t.Parallel()
	want := [][]string{{"title", "text"}, {"One", "A, b; c"}, {"Two", "With a\nline"}}
	for name, text := range map[string]string{
		"commas":              "title,text\nOne,\"A, b; c\"\nTwo,\"With a\nline\"\n",
		"semicolons":          "title;text\nOne;\"A, b; c\"\nTwo;\"With a\nline\"\n",
		"tabs":                "title\ttext\nOne\tA, b; c\nTwo\t\"With a\nline\"\n",
		"bars":                "title|text\nOne|\"A, b; c\"\nTwo|\"With a\nline\"\n",
		"lines ended by CRLF": "title,text\r\nOne,\"A, b; c\"\r\nTwo,\"With a\r\nline\"\r\n",
		"a byte order mark":   "\ufefftitle,text\nOne,\"A, b; c\"\nTwo,\"With a\nline\"\n",
		"empty lines between": "\n\n,\ntitle,text\n\nOne,\"A, b; c\"\nTwo,\"With a\nline\"\n,,\n",
	} {
		rows, err := read([]byte(text), "")
		require.NoError(t, err, name)
		assert.Equal(t, want, cells(rows), name)
	}
	rows, err := read([]byte("one column\n\n\"in it, all\"\n"), "")
	require.NoError(t, err)
	assert.Equal(t, []sheet.Row{{Line: 1, Cells: []string{"one column"}}, {Line: 3, Cells: []string{"in it, all"}}}, rows)
	rows, err = read([]byte("caf\xe9;2 \x80\nna\xefve;3\n"), "")
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"café", "2 €"}, {"naïve", "3"}}, cells(rows), "in Windows-1252")
	rows, err = read(nil, "")
	require.NoError(t, err)
	assert.Empty(t, rows)
}

func TestABook(t *testing.T) {
	t.Parallel()
	data := book(t, func(f *excelize.File) {
		set := func(cell string, value any) { require.NoError(t, f.SetCellValue("Articles", cell, value)) }
		set("A1", "title")
		set("B1", "date")
		set("C1", "words")
		set("A4", "Merged")
		require.NoError(t, f.MergeCell("Articles", "A4", "A5"))
		set("B4", time.Date(2026, 12, 4, 9, 40, 0, 0, time.UTC))
		set("C4", 800)
		set("B5", time.Date(2026, 12, 5, 0, 0, 0, 0, time.UTC))
		style, err := f.NewStyle(&excelize.Style{NumFmt: 14})
		require.NoError(t, err)
		require.NoError(t, f.SetCellStyle("Articles", "B5", "B5", style))
		set("C5", true)
		require.NoError(t, f.SetCellFormula("Articles", "D5", "=1+1"))
		require.NoError(t, f.SetCellValue("Notes", "B2", "Only this"))
	})
	f, err := sheet.Open(context.Background(), data, limits)
	require.NoError(t, err)
	assert.Equal(t, []string{"Articles", "Notes"}, f.Names())
	require.NoError(t, f.Close())
	rows, err := read(data, "Articles")
	require.NoError(t, err)
	require.Len(t, rows, 3)
	assert.Equal(t, sheet.Row{Line: 1, Cells: []string{"title", "date", "words"}}, rows[0])
	assert.Equal(t, 4, rows[1].Line)
	assert.Equal(t, []string{"Merged", "800"}, []string{rows[1].Cells[0], rows[1].Cells[2]})
	assert.Equal(t, []string{"", "2026-12-05", "TRUE"}, rows[2].Cells[:3], "a date is read in one way only; of merged cells the first has the value")
	rows, err = read(data, "Notes")
	require.NoError(t, err)
	assert.Equal(t, []sheet.Row{{Line: 2, Cells: []string{"", "Only this"}}}, rows)
	_, err = read(data, "Elsewhere")
	assert.ErrorContains(t, err, "There is no sheet “Elsewhere”")
}

// However a sheet shows its dates, they are read as what they are.
func TestDatesAreReadInOneWayOnly(t *testing.T) {
	t.Parallel()
	at := time.Date(2026, 4, 12, 17, 5, 0, 0, time.UTC)
	custom := func(code string) *excelize.Style { return &excelize.Style{CustomNumFmt: &code} }
	var want []string
	data := book(t, func(f *excelize.File) {
		for i, c := range []struct {
			style *excelize.Style
			reads string
		}{
			{&excelize.Style{NumFmt: 14}, "2026-04-12"},
			{&excelize.Style{NumFmt: 15}, "2026-04-12"},
			{&excelize.Style{NumFmt: 17}, "2026-04-12"},
			{&excelize.Style{NumFmt: 22}, "2026-04-12 17:05"},
			{custom("m/d/yy"), "2026-04-12"},
			{custom("dd.mm.yyyy\\ hh:mm"), "2026-04-12 17:05"},
			{custom(`[$-409]dddd, d mmmm yyyy`), "2026-04-12"},
			{custom(`"day" d`), "2026-04-12"},
			{&excelize.Style{NumFmt: 20}, "17:05"},
			{custom(`0.0 "days"`), "46124.7 days"},
			{custom(`[Red]0`), "46125"},
		} {
			cell := fmt.Sprint("A", i+1)
			require.NoError(t, f.SetCellValue("Articles", cell, at))
			style, err := f.NewStyle(c.style)
			require.NoError(t, err)
			require.NoError(t, f.SetCellStyle("Articles", cell, cell, style))
			want = append(want, c.reads)
		}
	})
	rows, err := read(data, "")
	require.NoError(t, err)
	var got []string
	for _, r := range rows {
		got = append(got, r.Cells[0])
	}
	assert.Equal(t, want, got)
}

func TestWhatIsTooMuchIsLeftOutOrRefused(t *testing.T) {
	t.Parallel()
	rows, err := read([]byte("a,"+strings.Repeat("é", 101)+"\n"+strings.Repeat("x,", 30)+"\nb\x00c,d\n"), "")
	require.NoError(t, err)
	assert.Equal(t, strings.Repeat("é", 100), rows[0].Cells[1])
	assert.Contains(t, rows[0].Problem, "more than 100 characters")
	assert.Len(t, rows[1].Cells, 10)
	assert.Equal(t, "bc", rows[2].Cells[0])
	assert.Contains(t, rows[2].Problem, "no text")

	rows, err = read([]byte(strings.Repeat("a\n", 51)), "")
	assert.ErrorContains(t, err, "more than 50 rows")
	assert.Len(t, rows, 50)
	_, err = read(make([]byte, 1<<20+1), "")
	assert.ErrorContains(t, err, "larger than 1 MB")

	ended, end := context.WithCancel(t.Context())
	end()
	f, err := sheet.Open(context.Background(), []byte("a\nb\n"), limits)
	require.NoError(t, err)
	for _, err := range f.Rows(ended, "") {
		assert.ErrorIs(t, err, context.Canceled)
	}
}

// packed is a zip file of parts.
func packed(t testing.TB, parts map[string]string) []byte {
	t.Helper()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for name, text := range parts {
		w, err := z.Create(name)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

// with is a file with one part replaced.
func with(t testing.TB, data []byte, name, text string) []byte {
	t.Helper()
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	parts := map[string]string{}
	for _, p := range z.File {
		r, err := p.Open()
		require.NoError(t, err)
		part, err := io.ReadAll(r)
		require.NoError(t, err)
		parts[p.Name] = string(part)
	}
	parts[name] = text
	return packed(t, parts)
}

func TestFilesThatAreNoSheetsAreRefusedWithAReason(t *testing.T) {
	t.Parallel()
	good := book(t, func(f *excelize.File) { require.NoError(t, f.SetCellValue("Articles", "A1", "x")) })
	many := map[string]string{"xl/workbook.xml": "<x/>"}
	for i := range 2001 {
		many[fmt.Sprint("xl/", i)] = ""
	}
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"an older sheet":         {[]byte{0xd0, 0xcf, 0x11, 0xe0, 0xa1, 0xb1}, "Save it as .xlsx"},
		"a PDF":                  {[]byte("%PDF-1.7"), "This is a PDF"},
		"another packed file":    {packed(t, map[string]string{"content.xml": "<x/>"}), "not an .xlsx sheet"},
		"cut off":                {good[:len(good)/2], "cut off or damaged"},
		"a bomb of zeros":        {with(t, good, "xl/worksheets/sheet1.xml", strings.Repeat("0", 9<<20)), "larger than 8 MB unpacked"},
		"large styles":           {with(t, good, "xl/styles.xml", strings.Repeat("<xf/>", 1<<18)), "“xl/styles.xml”"},
		"many parts":             {packed(t, many), "more than 2000 parts"},
		"a sheet that is none":   {with(t, good, "xl/worksheets/sheet1.xml", "<worksheet><sheetData><row r='1'><c r='A1'"), "cut off after row 1"},
		"a cell that is no XML":  {with(t, good, "xl/worksheets/sheet1.xml", `<worksheet><sheetData><row r="1"><c r="A1"><v>&nbsp;</v></c></row><row r="2"></row></sheetData></worksheet>`), "damaged from row 2 on"},
		"the last row is no XML": {with(t, good, "xl/worksheets/sheet1.xml", `<worksheet><sheetData><row r="1"><c r="A1"></v></c></row></sheetData></worksheet>`), "Row 1 of the sheet “Articles” is damaged"},
		"entities in a sheet":    {with(t, good, "xl/worksheets/sheet1.xml", `<!DOCTYPE x [<!ENTITY a "aaaa">]><worksheet><sheetData><row r="1"><c r="A1" t="inlineStr"><is><t>&a;</t></is></c></row></sheetData></worksheet>`), "defines entities"},
		"a workbook that is bad": {with(t, good, "xl/workbook.xml", "<workbook><sheets>"), "can't be read"},
	} {
		_, err := read(c.data, "")
		var bad *sheet.Unreadable
		require.ErrorAs(t, err, &bad, name)
		assert.Contains(t, bad.Why, c.says, name)
	}
}

// Whatever a file holds, it is read or refused; nothing panics.
func TestAnyFileIsReadOrRefused(t *testing.T) {
	t.Parallel()
	good := book(t, func(f *excelize.File) { require.NoError(t, f.SetCellValue("Articles", "A1", "x")) })
	rapid.Check(t, func(t *rapid.T) {
		data := rapid.SliceOf(rapid.Byte()).Draw(t, "bytes")
		if rapid.Bool().Draw(t, "broken book") {
			data = bytes.Clone(good)
			for range rapid.IntRange(1, 20).Draw(t, "changes") {
				data[rapid.IntRange(0, len(data)-1).Draw(t, "at")] = rapid.Byte().Draw(t, "byte")
			}
		}
		rows, err := read(data, "")
		var bad *sheet.Unreadable
		if err != nil {
			require.ErrorAs(t, err, &bad)
			require.NotEmpty(t, bad.Why)
		}
		for _, r := range rows {
			require.NotEmpty(t, strings.TrimSpace(strings.Join(r.Cells, "")))
		}
	})
}
