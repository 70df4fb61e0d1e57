package sheet_test

import (
	"bytes"
	"errors"
	"iter"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"
	"pgregory.net/rapid"

	"dapper.example/internal/intake/sheet"
)

func rowsOf(rows ...[]any) iter.Seq2[[]any, error] {
	return func(yield func([]any, error) bool) {
		for _, r := range rows {
			if !yield(r, nil) {
				return
			}
		}
	}
}

func TestTablesAreWritten(t *testing.T) {
	t.Parallel()
	at := sheet.Moment{Time: time.Date(2026, 12, 4, 9, 40, 0, 0, time.FixedZone("", -4*3600))}
	table := func() sheet.Table {
		return sheet.Table{Name: "Posts", Headings: []string{"title", "words", "out", "evergreen", "when"}, Rows: rowsOf(
			[]any{"Cables, \"found\"\nin the dark", 800, at, true, nil},
			[]any{`=HYPERLINK("http://x.example","y")`, -5, sheet.Moment{}, false},
		)}
	}
	var out bytes.Buffer
	require.NoError(t, sheet.WriteCSV(&out, table()))
	assert.Equal(t, "\ufefftitle,words,out,evergreen,when\r\n\"Cables, \"\"found\"\"\r\nin the dark\",800,2026-12-04 09:40,yes,\r\n"+
		`"'=HYPERLINK(""http://x.example"",""y"")",-5,,no`+"\r\n", out.String())

	out.Reset()
	require.NoError(t, sheet.WriteBook(&out, table(), sheet.Table{Name: "Plan", Headings: []string{"=1"}, Rows: rowsOf()}))
	book, err := excelize.OpenReader(bytes.NewReader(out.Bytes()))
	require.NoError(t, err)
	assert.Equal(t, []string{"Posts", "Plan"}, book.GetSheetList())
	formula, err := book.GetCellFormula("Posts", "A3")
	require.NoError(t, err)
	assert.Empty(t, formula, "a text is no formula")
	kind, err := book.GetCellType("Posts", "B2")
	require.NoError(t, err)
	assert.NotEqual(t, excelize.CellTypeInlineString, kind, "a number is a number")
	require.NoError(t, book.Close())
	rows, err := read(out.Bytes(), "Posts")
	require.NoError(t, err)
	assert.Equal(t, [][]string{{"title", "words", "out", "evergreen", "when"}, {"Cables, \"found\"\nin the dark", "800", "2026-12-04 09:40", "yes"},
		{`=HYPERLINK("http://x.example","y")`, "-5", "", "no"}}, cells(rows))

	broken := errors.New("the database is gone")
	failing := func() sheet.Table {
		return sheet.Table{Name: "x", Headings: []string{"a"}, Rows: func(yield func([]any, error) bool) { yield(nil, broken) }}
	}
	assert.ErrorIs(t, sheet.WriteCSV(&out, failing()), broken)
	assert.ErrorIs(t, sheet.WriteBook(&out, failing()), broken)
}

// Whatever a text begins with, no sheet takes it for a formula, and no text is lost.
func TestTextsAreNoFormulas(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[ =+\-@\ta-z']{0,6}`).Draw(t, "text")
		safe := sheet.Harmless(text)
		require.Equal(t, text, strings.TrimPrefix(safe, strings.TrimSuffix(safe, text)))
		if begin := strings.TrimLeft(safe, " "); begin != "" && safe != "" {
			require.NotContains(t, "=", begin[:1])
			require.NotContains(t, "+-@\t", safe[:1])
		}
	})
}
