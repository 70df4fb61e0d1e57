// Package conditiontest draws odd posts and conditions for tests.
package conditiontest

import (
	"fmt"
	"slices"
	"time"

	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
)

// What posts and conditions have that is odd: letters that fold to others, dates that are on no calendar, numbers that are none.
var (
	Titles = []string{"Notes from the dome", "STRASSE by night", "Straße bei Nacht", "The \u212aelvin scale", "e\u0301toiles", "Étoiles et nuits",
		"İzmir's sky", "A “quoted” night", "ﬁne weather", "café", "CAFE", "100 % dark", "weiſs", "ΣΊΣΥΦΟΣ", "", "i\u0307 dotted", "semi\u037ecolon"}
	Values = []string{"2026-11-20", "2026-11-26 19:30", "2026-11-24T10:00:00Z", "2026-02-29", "2024-02-29", "2026-02-31", " 2026-10-31 ", "next week", "12",
		"12.5", "-3e4", "0x10", "NaN", "1_000", "", "  ", "\u00a0", "\u00a012", "12\u3000", "Yes", "yes", "ÇA", "ça", "2026-13-01", "0001-01-01", "9999-12-31", "1999-05-31"}
	Needles = []string{"strasse", "k", "ss", "étoile", "izmir", "fi", "quot", "CAF", "café", "%", "_", "s", "σίσυφος", "i", ";", "\\", "'"}
	Tags    = []string{"Mars", "mars rover", "Comètes", "STRASSE"}
)

// Node draws any condition that the forms let an editor build.
func Node(t *rapid.T, depth int) condition.Node {
	if depth > 0 && rapid.IntRange(0, 2).Draw(t, "group") == 0 {
		n := condition.Node{Group: rapid.SampledFrom([]condition.Group{condition.AllOf, condition.AnyOf, condition.NoneOf}).Draw(t, "kind")}
		for range rapid.IntRange(1, 3).Draw(t, "parts") {
			n.Parts = append(n.Parts, Node(t, depth-1))
		}
		return n
	}
	form := rapid.SampledFrom(condition.Forms).Draw(t, "form")
	way := rapid.SampledFrom(form.Ways).Draw(t, "way")
	n := condition.Node{Test: form.Test, Match: way.Match}
	some := map[string][]string{"categories": {"Sky Guide", "sky guide", "none such"}, "tags": {"mars", "comètes", "strasse", "no such"},
		"authors": {"Marguerite Oyelaran", "nobody"}, "imports": {"STRASSE", "Spring", "autumn"}, "list": form.Choices, "": Needles}[form.From]
	for _, need := range way.Needs {
		switch need {
		case condition.NeedValues:
			n.Values = rapid.SliceOfNDistinct(rapid.SampledFrom(some), 1, 2, rapid.ID[string]).Draw(t, "values")
		case condition.NeedValue:
			n.Values = []string{rapid.SampledFrom(slices.Concat(some, Values)).Draw(t, "value")}
		case condition.NeedField:
			n.Field = rapid.SampledFrom([]string{"event", "place", "none"}).Draw(t, "field")
		case condition.NeedNumber:
			n.N = rapid.IntRange(0, 60).Draw(t, "number")
		case condition.NeedSpan:
			n.N = rapid.OneOf(rapid.IntRange(0, 40), rapid.Just(100_000)).Draw(t, "span")
			n.Unit = rapid.SampledFrom(condition.Units).Draw(t, "unit")
		case condition.NeedDate:
			n.Date = rapid.SampledFrom([]string{"2026-11-20", "2026-03-01", "9999-12-31"}).Draw(t, "date")
		case condition.NeedDays:
			n.Days = rapid.IntRange(1, 12).Draw(t, "days")
		}
	}
	return n
}

// Facts draws the facts of a post that came out within some years before a moment, or not at all.
func Facts(t *rapid.T, id int64, now time.Time, zone civil.Zone) *condition.Facts {
	some := func(of ...string) string { return rapid.SampledFrom(of).Draw(t, "one") }
	ago := func() time.Time {
		minutes := rapid.OneOf(rapid.IntRange(-500, 500), rapid.IntRange(0, 3*366*24*60)).Draw(t, "minutes ago")
		return now.Add(-time.Duration(minutes) * time.Minute).Add(time.Duration(rapid.IntRange(0, 1).Draw(t, "µs")) * time.Microsecond)
	}
	is := func() bool { return rapid.Bool().Draw(t, "is") }
	n := func() int { return rapid.IntRange(0, 60).Draw(t, "n") }
	f := &condition.Facts{Post: id, Kind: some("post", "page", "link"), Status: some("draft", "scheduled", "published", "archived", "binned"),
		Title: some(Titles...), Slug: fmt.Sprintf("Post-%d-strasse", id), Text: "Some text, " + some(Needles...) + ", and more.",
		Category: some("", "Sky Guide", "Notes"), Tags: rapid.SliceOfNDistinct(rapid.SampledFrom(Tags), 0, 3, rapid.ID[string]).Draw(t, "tags"),
		Author: some("Marguerite Oyelaran", "Ines Abara"), Changed: ago(), Import: some("", "Straße", "spring", "SPRING"),
		OnTop: is(), CommentsOpen: is(), CommentDays: rapid.SampledFrom([]int{0, 30}).Draw(t, "days"), FeaturedImage: is(), Evergreen: is(), NeverExpires: is(),
		Comments: n(), Words: n(), Shared: n(), Republished: n(), Fields: map[string]string{}}
	if is() {
		f.Published = ago()
	}
	if is() {
		f.KeptUntil = ago()
	}
	if is() {
		f.Notice = "Old."
	}
	for _, name := range []string{"event", "place"} {
		if is() {
			f.Fields[name] = some(Values...)
		}
	}
	for day := range rapid.IntRange(0, 12).Draw(t, "days with clicks") {
		f.Clicks = append(f.Clicks, condition.DayClicks{Date: zone.DateOf(now).Add(day - 12), N: n()})
	}
	return f
}
