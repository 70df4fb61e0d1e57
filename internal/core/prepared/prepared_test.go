package prepared_test

import (
	"iter"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/prepared"
)

var (
	halifax = civil.MustZone("America/Halifax")
	noon    = halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("12:00"))
)

// sheet are rows, numbered from 1, of which some are empty.
func sheet(rows ...[]string) iter.Seq2[int, []string] {
	return func(yield func(int, []string) bool) {
		for i, row := range rows {
			if !yield(i+1, row) {
				return
			}
		}
	}
}

func TestASheetWithHeadings(t *testing.T) {
	rows := prepared.Read(sheet(
		[]string{"Date", "Time", "Text", "Link", "Picture", "On", "Note"},
		[]string{"4 Dec", "9:40", "Clear skies {link}", "https://dome.example/a", "moon.png", "Lantern, Hearth", "x"},
		[]string{"", "", "", "", "", "", ""},
		[]string{"", "", "Two lines\nin one cell"},
		[]string{"soon", "", "Third"}), halifax, noon)
	require.Len(t, rows, 3)
	assert.Equal(t, prepared.Row{Line: 2, Text: "Clear skies {link}", Link: "https://dome.example/a", Picture: "moon.png",
		At: halifax.At(civil.MustDate("2026-12-04"), civil.MustClock("09:40")), Channels: []string{"Lantern", "Hearth"}}, rows[0])
	assert.Equal(t, prepared.Row{Line: 4, Text: "Two lines\nin one cell"}, rows[1])
	assert.Equal(t, "“soon” is not a date and a time. Write it as 4 Dec, 09:40 or 2026-12-04 09:40.", rows[2].Problem)
}

func TestASheetWithoutHeadings(t *testing.T) {
	for _, c := range []struct {
		cells []string
		want  prepared.Row
	}{
		{[]string{"Just a text"}, prepared.Row{Line: 1, Text: "Just a text"}},
		{[]string{"Hello", " there", "2026-12-04 09:40"}, prepared.Row{Line: 1, Text: "Hello", At: halifax.At(civil.MustDate("2026-12-04"), 580)}},
		{[]string{"https://dome.example/a", "Look, a link", "x"}, prepared.Row{Line: 1, Text: "Look, a link", Link: "https://dome.example/a"}},
		{[]string{"https://dome.example/a and more", "4 Dec 9:40"}, prepared.Row{Line: 1, Text: "https://dome.example/a and more", At: halifax.At(civil.MustDate("2026-12-04"), 580)}},
	} {
		assert.Equal(t, []prepared.Row{c.want}, prepared.Read(sheet(c.cells), halifax, noon))
	}
	assert.Empty(t, prepared.Read(sheet(), halifax, noon))
}

// Whatever is pasted is read; nothing that was written is lost.
func TestAnySheetIsRead(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		cell := rapid.StringMatching(`[a-z{} ]{0,8}`)
		row := rapid.SliceOfN(cell, 0, 5)
		for _, r := range prepared.Read(sheet(rapid.SliceOfN(row, 0, 6).Draw(t, "rows")...), halifax, noon) {
			assert.NotEmpty(t, r.Text, "the first cell that is no link and no time is the text")
		}
	})
}

func TestOpeningsAreTakenOnce(t *testing.T) {
	o := prepared.Openings{Taken: map[time.Time]bool{}, Pace: cadence.Pace{Zone: halifax, Anchor: noon, Gap: 1,
		Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock("12:15")}}}
	o.Taken[halifax.At(civil.MustDate("2026-11-25"), civil.MustClock("12:15")).UTC()] = true
	var got []string
	for range 3 {
		at, ok := o.Next(noon)
		require.True(t, ok)
		got = append(got, halifax.In(at).Format("02 15:04"))
	}
	assert.Equal(t, []string{"24 12:15", "26 12:15", "27 12:15"}, got)
	o.Pace.By = cadence.Hand
	_, ok := o.Next(noon)
	assert.False(t, ok)
}
