package tour_test

import (
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/tour"
)

const mirror = `# Cleaning a ten-inch mirror

A mirror that looks dirty by torchlight is usually clean enough for another year. People wash theirs far too often.

It should never be wiped dry. But the dust that matters is the dust you can feel.

## Washing it in a bath of cold water

We wash ours every second spring, in forty litres of cold water with three drops of soap. This takes an hour. As you can see in the picture above, the mirror lies face up.

You need:

- a tub
- cotton wool
- distilled water

` + "```\nnot a sentence at all. Really not.\n```" + `

Marguerite Oyelaran dropped one in 2019, and the chip at its edge has never cost us a star. (It did cost her a night's sleep.

We wash ours every second spring, in forty litres of cold water, with three drops of soap!
`

func TestLinesStandAlone(t *testing.T) {
	lines, err := tour.Lines("Cleaning a ten-inch mirror", mirror, []string{"mirrors"}, nil)
	require.NoError(t, err)
	good := []string{
		"A mirror that looks dirty by torchlight is usually clean enough for another year.",
		"Marguerite Oyelaran dropped one in 2019, and the chip at its edge has never cost us a star.",
		"We wash ours every second spring, in forty litres of cold water with three drops of soap.",
	}
	for _, l := range lines[:3] {
		assert.Contains(t, good, l.Text)
		assert.GreaterOrEqual(t, l.Score, tour.Good, l.Text)
		assert.Empty(t, l.Why, l.Text)
	}
	why := make(map[string]string)
	for _, l := range lines {
		why[l.Text] = l.Why
		assert.NotContains(t, l.Text, "Really not")
	}
	assert.Equal(t, "it begins with “It”, which points back", why["It should never be wiped dry."])
	assert.Equal(t, "it begins with “But”, which joins it to what was before", why["But the dust that matters is the dust you can feel."])
	assert.Equal(t, "it is very short", why["This takes an hour."])
	assert.Equal(t, "it refers to the page (“above”)", why["As you can see in the picture above, the mirror lies face up."])
	assert.Equal(t, "it says nearly the same as another", why["We wash ours every second spring, in forty litres of cold water, with three drops of soap!"])
}

func TestSentencesOfTextsOfAllSorts(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		want []string
	}{
		"none":                 {"", []string{}},
		"one":                  {"A single sentence.", []string{"A single sentence."}},
		"lists and code only":  {"- tub\n- wool\n\n```\ncode here.\n```\n", []string{"tub", "wool"}},
		"a title":              {"We asked Dr. Hanrahan about J. Wren. She knew.", []string{"We asked Dr. Hanrahan about J. Wren.", "She knew."}},
		"marks are left out":   {"The **bold** [link](http://a.example/x.y) and `code` stay. ![A picture](p.jpg)", []string{"The bold link and code stay."}},
		"raw HTML is left out": {"Seen <b>well</b> tonight.\n\n<div>Not this.</div>", []string{"Seen well tonight."}},
		"another script":       {"星が見える。月も見える。", []string{"星が見える。", "月も見える。"}},
	} {
		lines, err := tour.Lines("", c.text, nil, nil)
		require.NoError(t, err)
		slices.SortFunc(lines, func(a, b tour.Line) int { return a.Place - b.Place })
		got := []string{}
		for _, l := range lines {
			got = append(got, l.Text)
		}
		assert.Equal(t, c.want, got, name)
	}
}

// Whatever the text, ranking it ends, gives each sentence once, and the same again.
func TestLinesOfAnything(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := strings.Join(rapid.SliceOfN(rapid.StringMatching(`[A-Za-z"(“ ]{1,30}[.!?:]{1,2}( |\n\n)`), 0, 40).Draw(t, "sentences"), "")
		lines, err := tour.Lines("A title", text, nil, nil)
		require.NoError(t, err)
		again, _ := tour.Lines("A title", text, nil, nil)
		require.Equal(t, lines, again)
		places := map[int]bool{}
		for i, l := range lines {
			require.False(t, places[l.Place])
			places[l.Place] = true
			require.True(t, i == 0 || lines[i-1].Score >= l.Score)
		}
	})
}

var halifax = civil.MustZone("America/Halifax")

func shape(days, stops int, thinning float64) tour.Shape {
	return tour.Shape{Start: civil.MustDate("2026-12-01"), Days: days, Stops: stops, Thinning: thinning, Weekdays: rhythm.EveryDay,
		From: civil.MustClock("09:00"), To: civil.MustClock("18:00")}
}

func dates(times []time.Time) (all []string) {
	for _, at := range times {
		all = append(all, halifax.DateOf(at).String())
	}
	return all
}

func TestShapesOfTours(t *testing.T) {
	times, missing := shape(13, 5, 1).Times(halifax, 7)
	assert.Zero(t, missing)
	assert.Equal(t, []string{"2026-12-01", "2026-12-04", "2026-12-07", "2026-12-10", "2026-12-13"}, dates(times), "even")

	// Pauses of 1, 2, 4 and 8 parts of 15, over 15 days after the first.
	times, missing = shape(16, 5, 2).Times(halifax, 7)
	assert.Zero(t, missing)
	assert.Equal(t, []string{"2026-12-01", "2026-12-02", "2026-12-04", "2026-12-08", "2026-12-16"}, dates(times), "thinning out")

	work := shape(14, 4, 1)
	work.Weekdays = rhythm.On(time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday)
	times, _ = work.Times(halifax, 7) // 1, 5, 10 and 14 December; the 5th is a Saturday
	assert.Equal(t, []string{"2026-12-01", "2026-12-07", "2026-12-10", "2026-12-14"}, dates(times), "working days")

	times, missing = shape(1, 400, 1).Times(halifax, 7)
	assert.Equal(t, 400, missing+len(times), "those that find no room are told")
	assert.Equal(t, 27, len(times), "nine hours hold 27 stops, 20 minutes apart, the fifth minutes left out")

	none := shape(3, 2, 1)
	none.Weekdays = rhythm.On(time.Monday)
	times, missing = none.Times(halifax, 7)
	assert.Empty(t, times)
	assert.Equal(t, 2, missing, "no Monday within three days")
}

func TestStopsKeepTheirHoursAndDates(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := tour.Shape{Start: civil.MustDate("2026-10-20").Add(rapid.IntRange(0, 40).Draw(t, "start")), Days: rapid.IntRange(1, 400).Draw(t, "days"),
			Stops: rapid.IntRange(1, 60).Draw(t, "stops"), Thinning: rapid.Float64Range(1, tour.MostThinning).Draw(t, "thinning"),
			Weekdays: rhythm.Weekdays(rapid.IntRange(1, 127).Draw(t, "weekdays")), From: civil.MustClock("08:00"), To: civil.MustClock("20:00")}
		seed := rapid.Uint64().Draw(t, "seed")
		times, missing := s.Times(halifax, seed)
		require.Equal(t, s.Stops, len(times)+missing)
		again, _ := s.Times(halifax, seed)
		require.Equal(t, times, again)
		for i, at := range times {
			d, c := halifax.Local(at)
			require.True(t, s.Weekdays.Has(d.Weekday()))
			require.False(t, d.Before(s.Start) || d.Sub(s.Start) >= s.Days)
			require.True(t, c >= s.From && c < s.To)
			require.NotZero(t, int(c)%5, "a minute that no clock would choose")
			require.True(t, i == 0 || at.Sub(times[i-1]) >= 20*time.Minute)
		}
	})
}

func TestNothingIsDealtTwiceBeforeAllHadTheirTurn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		lines, wordings, pictures := rapid.IntRange(1, 9).Draw(t, "lines"), rapid.IntRange(1, 4).Draw(t, "wordings"), rapid.IntRange(1, 4).Draw(t, "pictures")
		channel := rapid.IntRange(0, 3).Draw(t, "channel")
		seen := [3]map[int]int{{}, {}, {}}
		for stop := range 36 {
			h := tour.Deal(stop, channel, lines, wordings, pictures)
			for i, n := range []int{h.Line, h.Wording, h.Picture} {
				seen[i][n]++
			}
			for i, of := range []int{lines, wordings, pictures} {
				least, most := 99, 0
				for n := range of {
					least, most = min(least, seen[i][n]), max(most, seen[i][n])
				}
				require.LessOrEqual(t, most-least, 1)
			}
		}
	})
	assert.Equal(t, -1, tour.Deal(3, 0, 1, 1, 0).Picture)
}

// BenchmarkLines ranks the sentences of a post of 5,000 words.
func BenchmarkLines(b *testing.B) {
	files, err := filepath.Glob("../../demo/posts/*.md")
	require.NoError(b, err)
	var text strings.Builder
	for _, f := range files {
		raw, err := os.ReadFile(f)
		require.NoError(b, err)
		_, body, _ := strings.Cut(string(raw), "\n---\n")
		if text.WriteString(body); len(strings.Fields(text.String())) > 5000 {
			break
		}
	}
	for b.Loop() {
		lines, err := tour.Lines("A title", text.String(), nil, nil)
		require.NoError(b, err)
		require.NotEmpty(b, lines)
	}
}

func ExampleLines() {
	lines, _ := tour.Lines("Stars", "It was dark. Orion rises over the dome at nine in December, low in the east.", nil, nil)
	fmt.Println(lines[0].Text)
	// Output: Orion rises over the dome at nine in December, low in the east.
}

func TestMentionsTakeTurns(t *testing.T) {
	t.Parallel()
	s := tour.Settings{Wordings: []string{"{line} {link}"}, Lines: []string{"One.", "Two."}, Channels: []int64{5, 6}, Mentions: []string{"@ines", "@dome@example.org", "@tobias"},
		Shape: tour.Shape{Start: civil.MustDate("2026-12-01"), Days: 30, Stops: 6, Thinning: 1, Weekdays: rhythm.EveryDay, From: 600, To: 1200}}
	require.Empty(t, s.Problems())
	ends := make(map[string]int)
	for _, stop := range s.Stops(civil.Zone{}, 1) {
		text, _, _, _ := s.Says(stop, 0)
		at := strings.LastIndex(text, " ")
		ends[text[at+1:]]++
	}
	assert.Equal(t, map[string]int{"@ines": 2, "@dome@example.org": 2, "@tobias": 2}, ends)
	for _, bad := range []string{"ines", "@", "@in es", "@{link}", "", "@" + strings.Repeat("a", 100)} {
		s.Mentions = []string{"@fine", bad}
		require.Len(t, s.Problems(), 1, bad)
		assert.Equal(t, "mentions[1]", s.Problems()[0].Path)
	}
}

// The hours of a tour may be those of readers elsewhere.
func TestHoursOfReadersElsewhere(t *testing.T) {
	t.Parallel()
	halifax, lisbon := civil.MustZone("America/Halifax"), civil.MustZone("Europe/Lisbon")
	shape := tour.Shape{Start: civil.MustDate("2026-03-01"), Days: 60, Stops: 20, Thinning: 1, Weekdays: rhythm.On(time.Monday, time.Friday), From: civil.MustClock("19:00"), To: civil.MustClock("21:00"), Zone: &lisbon}
	times, missing := shape.Times(halifax, 3)
	require.Zero(t, missing)
	require.Len(t, times, 20)
	for _, at := range times {
		date, clock := lisbon.Local(at)
		assert.True(t, clock >= civil.MustClock("19:00") && clock < civil.MustClock("21:00"), "%s", at)
		assert.Contains(t, []time.Weekday{time.Monday, time.Friday}, date.Weekday())
	}
}

// Stops of several tours that begin one after the other fall between one another.
func TestToursTakeTurns(t *testing.T) {
	t.Parallel()
	shape := tour.Shape{Start: civil.MustDate("2026-12-01"), Days: 85, Stops: 13, Thinning: 1, Weekdays: rhythm.EveryDay, From: 600, To: 1200} // every seventh day
	for n := 1; n <= 7; n++ {
		on := make(map[civil.Date]int)
		for i := range n {
			times, _ := shape.Later(i, n).Times(civil.Zone{}, uint64(i))
			for _, at := range times {
				on[civil.Zone{}.DateOf(at)]++
			}
		}
		assert.Len(t, on, 13*n, "%d tours: no two stops on one day", n)
	}
	one := tour.Shape{Start: civil.MustDate("2026-12-01"), Days: 10, Stops: 1}
	assert.Equal(t, one, one.Later(3, 5))
}
