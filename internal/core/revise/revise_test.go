package revise_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/revise"
)

func body(paragraphs ...string) revise.Text {
	return revise.Text{Body: strings.Join(paragraphs, "\n\n")}
}

func TestMergingParagraphs(t *testing.T) {
	for name, c := range map[string]struct{ base, ours, theirs, want, clash string }{
		"only ours":                    {"A|B|C", "A|b|C", "A|B|C", "A|b|C", ""},
		"only theirs":                  {"A|B|C", "A|B|C", "a|B|C", "a|B|C", ""},
		"far apart":                    {"A|B|C", "a|B|C", "A|B|c", "a|B|c", ""},
		"side by side":                 {"A|B|C", "a|B|C", "A|b|C", "a|b|C", ""},
		"the same on both":             {"A|B|C", "A|x|C", "A|x|C", "A|x|C", ""},
		"one paragraph twice":          {"A|B|C", "A|x|C", "A|y|C", "A|y|C", "B / x / y"},
		"added at both ends":           {"A|B", "new|A|B", "A|B|end", "new|A|B|end", ""},
		"added at one place":           {"A|B", "A|x|B", "A|y|B", "A|y|B", " / x / y"},
		"added beside a change":        {"A|B", "A|x|B", "A|b", "A|b", "B / x|B / b"},
		"taken away, and changed":      {"A|B|C", "A|C", "A|b|C", "A|b|C", "B /  / b"},
		"taken away by both":           {"A|B|C", "A|C", "A|C", "A|C", ""},
		"taken away, and another":      {"A|B|C|D", "A|C|D", "A|B|C|d", "A|C|d", ""},
		"a wide change over two small": {"A|B|C|D|E", "A|b|C|d|E", "A|x|E", "A|x|E", "B|C|D / b|C|d / x"},
		"nothing there before":         {"", "x", "", "x", ""},
		"nothing there, both":          {"", "x", "y", "y", " / x / y"},
		"all of it gone":               {"A|B", "", "A|B", "", ""},
	} {
		of := func(s string) revise.Text {
			if s == "" {
				return revise.Text{}
			}
			return body(strings.Split(s, "|")...)
		}
		merged, clashes := revise.Merge(of(c.base), of(c.ours), of(c.theirs))
		assert.Equal(t, strings.ReplaceAll(c.want, "|", "\n\n"), merged.Body, name)
		said := ""
		for _, one := range clashes {
			assert.Equal(t, revise.Body, one.Part)
			said += strings.ReplaceAll(strings.Join([]string{one.Base, one.Ours, one.Theirs}, " / "), "\n\n", "|")
		}
		assert.Equal(t, c.clash, said, name)
	}
}

func TestMergingTheOtherParts(t *testing.T) {
	base := revise.Text{Title: "Hours", Slug: "hours", Excerpt: "e", Category: 4, Image: "/a.jpg", Alt: "A", Tags: []string{"one", "two"}, Fields: map[string]string{"event": "2026", "gone": "x"}}
	ours, theirs := base, base
	ours.Title, ours.Tags, ours.Fields = "Winter hours", []string{"two", "winter"}, map[string]string{"event": "2027", "new": "n"}
	theirs.Category, theirs.Tags, theirs.Fields = 5, []string{"two", "one", "hill"}, map[string]string{"event": "2026", "gone": "x", "live": "l"}
	theirs.Excerpt = "E"
	merged, clashes := revise.Merge(base, ours, theirs)
	assert.Empty(t, clashes)
	assert.Equal(t, revise.Text{Title: "Winter hours", Slug: "hours", Excerpt: "E", Category: 5, Image: "/a.jpg", Alt: "A", Tags: []string{"two", "hill", "winter"},
		Fields: map[string]string{"event": "2027", "new": "n", "live": "l"}}, merged)
	assert.Equal(t, map[string]string{"event": "2026", "gone": "x", "live": "l"}, theirs.Fields, "what is given stays as it is")

	ours = base
	ours.Title, ours.Alt, ours.Fields = "Ours", "Ours", map[string]string{"event": "ours"}
	theirs = base
	theirs.Title, theirs.Alt, theirs.Fields = "Theirs", "Theirs", map[string]string{"event": "theirs", "gone": "y"}
	merged, clashes = revise.Merge(base, ours, theirs)
	assert.Equal(t, []revise.Clash{{Part: "title", Base: "Hours", Ours: "Ours", Theirs: "Theirs"}, {Part: "featured image", Base: "/a.jpg\nA", Ours: "/a.jpg\nOurs", Theirs: "/a.jpg\nTheirs"},
		{Part: "field event", Base: "=2026", Ours: "=ours", Theirs: "=theirs"}, {Part: "field gone", Base: "=x", Ours: "", Theirs: "=y"}}, clashes)
	assert.Equal(t, theirs.Title, merged.Title)
	merged, _ = revise.Settle(base, ours, theirs, []revise.Choice{revise.Ours, revise.Theirs, revise.Both, revise.Ours})
	assert.Equal(t, []any{"Ours", "Theirs", map[string]string{"event": "ours"}}, []any{merged.Title, merged.Alt, merged.Fields})
}

func TestClashesAreSettled(t *testing.T) {
	base, ours, theirs := body("A hill", "B dome", "C", "D"), body("A hill", "x dome", "C", "d1"), body("a hill", "y dome", "C", "d2")
	for _, c := range []struct {
		choices []revise.Choice
		want    revise.Text
	}{
		{nil, body("a hill", "y dome", "C", "d2")},
		{[]revise.Choice{revise.Ours}, body("a hill", "x dome", "C", "d2")},
		{[]revise.Choice{revise.Theirs, revise.Ours}, body("a hill", "y dome", "C", "d1")},
		{[]revise.Choice{revise.Both, revise.Both}, body("a hill", "y dome", "x dome", "C", "d2", "d1")},
	} {
		merged, clashes := revise.Settle(base, ours, theirs, c.choices)
		assert.Len(t, clashes, 2)
		assert.Equal(t, c.want.Body, merged.Body)
	}
}

func drawBody(t *rapid.T, name string) string {
	all := rapid.SliceOfN(rapid.SampledFrom([]string{"A", "B b", "C\nc", "D", "```\nE", "", " "}), 0, 8).Draw(t, name)
	return strings.Join(all, rapid.SampledFrom([]string{"\n\n", "\n \n", "\n", "\r\n\r\n", "\n\n\n"}).Draw(t, name+" apart")) + rapid.SampledFrom([]string{"", "\n", "\n\n"}).Draw(t, name+" end")
}

// A change that only one side made is taken whole, to the letter; merging is the same the other way round, but for what clashes; and
// where both are kept, nothing that a side added is lost.
func TestMergesAreSound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		base, ours, theirs := drawBody(t, "base"), drawBody(t, "ours"), drawBody(t, "theirs")
		at := func(s string) revise.Text { return revise.Text{Body: s} }
		merged, clashes := revise.Merge(at(base), at(ours), at(base))
		require.Empty(t, clashes)
		require.Equal(t, ours, merged.Body)
		merged, clashes = revise.Merge(at(base), at(base), at(theirs))
		require.Empty(t, clashes)
		require.Equal(t, theirs, merged.Body)
		merged, clashes = revise.Merge(at(base), at(ours), at(theirs))
		again, others := revise.Merge(at(base), at(theirs), at(ours))
		require.Len(t, others, len(clashes))
		if len(clashes) == 0 {
			require.Equal(t, strings.Fields(again.Body), strings.Fields(merged.Body))
		}
		kept, _ := revise.Settle(at(base), at(ours), at(theirs), slices.Repeat([]revise.Choice{revise.Both}, len(clashes)))
		for _, word := range strings.Fields(ours + " " + theirs) {
			if !strings.Contains(base, word) {
				require.Contains(t, kept.Body, word, "what a side added")
			}
		}
	})
}

// A comparison has both texts in it.
func TestComparisonsHaveBothTexts(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		word := rapid.SampledFrom([]string{"sky", "dome", "naïve", "ridge’s", "\n", "\n\n", ", ", " ", "\U0010ffff", "👩‍🚀"})
		from := strings.Join(rapid.SliceOf(word).Draw(t, "from"), "")
		to := strings.Join(rapid.SliceOf(word).Draw(t, "to"), "")
		var before, after strings.Builder
		for i, r := range revise.Words(from, to) {
			require.NotEmpty(t, r.Text, i)
			if r.Kind != revise.Added {
				before.WriteString(r.Text)
			}
			if r.Kind != revise.Removed {
				after.WriteString(r.Text)
			}
		}
		require.Equal(t, from, before.String())
		require.Equal(t, to, after.String())
		unpacked, err := revise.Unpack(from, revise.Pack(from, to))
		require.NoError(t, err)
		require.Equal(t, to, unpacked)
	})
}

func TestDifferencesAreOfWords(t *testing.T) {
	from := revise.Text{Title: "Open on Saturday", Body: "We open at eight.\n\nBring a coat.\n\nSoup is free.", Tags: []string{"b", "a"}, Fields: map[string]string{"event": "2026-12-05"}, Category: 3}
	to := revise.Text{Title: "Open on Sunday", Body: "We open at nine.\n\nBring a coat.\n\nSoup is free.\n\nMind the step.", Tags: []string{"a", "b"}, Fields: map[string]string{"event": "2026-12-06"}, Category: 3}
	assert.Equal(t, []revise.Difference{
		{revise.Title, []revise.Run{{revise.Same, "Open on "}, {revise.Removed, "Saturday"}, {revise.Added, "Sunday"}}},
		{revise.Body, []revise.Run{{revise.Same, "We open at "}, {revise.Removed, "eight"}, {revise.Added, "nine"}, {revise.Same, ".\n\nBring a coat.\n\nSoup is free."}, {revise.Added, "\n\nMind the step."}}},
		{revise.FieldPart("event"), []revise.Run{{revise.Removed, "2026-12-05"}, {revise.Added, "2026-12-06"}}},
	}, revise.Compare(from, to))
	assert.Empty(t, revise.Compare(from, from))
	assert.Equal(t, "the field “event”", revise.FieldPart("event").String())
}

func TestYearlyDates(t *testing.T) {
	halifax := civil.MustZone("America/Halifax")
	at := func(date, clock string) time.Time { return halifax.At(civil.MustDate(date), civil.MustClock(clock)) }
	leap := revise.YearlyOf(at("2028-02-29", "00:00"), halifax)
	assert.Equal(t, at("2029-02-28", "00:00"), leap.After(at("2028-02-29", "00:00"), halifax))
	assert.Equal(t, at("2032-02-29", "00:00"), leap.After(at("2031-03-01", "00:00"), halifax))
	newYear := revise.Yearly{Month: time.January, Day: 1}
	assert.Equal(t, at("2027-01-01", "00:00"), newYear.After(at("2026-12-31", "23:59"), halifax))
	assert.Equal(t, at("2028-01-01", "00:00"), newYear.After(at("2027-01-01", "00:00"), halifax))

	text := revise.Text{Title: "Showers of {year}", Body: "In {year}", Slug: "showers", Fields: map[string]string{"y": "{year}"}}
	assert.Equal(t, revise.Text{Title: "Showers of 2027", Body: "In 2027", Slug: "showers", Fields: map[string]string{"y": "2027"}}, text.InYear(2027))
	assert.Equal(t, "{year}", text.Fields["y"])
}

// Texts that are as different as can be, and as large as they get, are compared and merged in bounded steps.
func TestTheWorstTextsEnd(t *testing.T) {
	chance := rand.New(rand.NewPCG(1, 2))
	random := func(words, of int, apart string) string {
		all := make([]string, words)
		for i := range all {
			all[i] = fmt.Sprint("w", chance.IntN(of))
		}
		return strings.Join(all, apart)
	}
	for _, apart := range []string{" ", "\n\n"} {
		for _, of := range []int{2, 1_000_000} {
			base, ours, theirs := random(200_000, of, apart), random(200_000, of, apart), random(200_000, of, apart)
			revise.Words(ours, theirs)
			revise.Merge(revise.Text{Body: base}, revise.Text{Body: ours}, revise.Text{Body: theirs})
		}
	}
}

func BenchmarkCompare(b *testing.B) {
	chance := rand.New(rand.NewPCG(1, 2))
	text := func(seed uint64) string {
		var all []string
		for i := range 5000 {
			word := fmt.Sprint("word", i*7%900)
			if seed > 0 && chance.IntN(10) == 0 {
				word = fmt.Sprint("other", chance.IntN(900))
			}
			if all = append(all, word); i%90 == 89 {
				all = append(all, "\n\n")
			}
		}
		return strings.Join(all, " ")
	}
	from, to := text(0), text(1)
	for b.Loop() {
		revise.Words(from, to)
	}
}

func TestWhatWasPackedFromAnotherTextIsRefused(t *testing.T) {
	for _, c := range [][2]string{{"abc", `[4]`}, {"abc", `[2]`}, {"abc", `[-4]`}, {"abc", `[null]`}, {"abc", `{}`}, {"", `[1]`}} {
		_, err := revise.Unpack(c[0], []byte(c[1]))
		assert.Error(t, err, c)
	}
	text, err := revise.Unpack("abc", []byte(`[1,-1,"x",1]`))
	require.NoError(t, err)
	assert.Equal(t, "axc", text)
}
