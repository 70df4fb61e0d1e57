package condition_test

import (
	"encoding/json"
	"strings"
	"testing"
	"time"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
)

var (
	halifax = civil.MustZone("America/Halifax")
	// noon is Tuesday 24 November 2026, 12:00 in Halifax.
	noon = halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("12:00"))
)

func at(date, clock string) time.Time {
	return halifax.At(civil.MustDate(date), civil.MustClock(clock))
}

func test(t condition.Test, m condition.Match, values ...string) condition.Node {
	return condition.Node{Test: t, Match: m, Values: values}
}

func span(t condition.Test, m condition.Match, n int, unit condition.Unit) condition.Node {
	return condition.Node{Test: t, Match: m, N: n, Unit: unit}
}

func group(g condition.Group, parts ...condition.Node) condition.Node {
	return condition.Node{Group: g, Parts: parts}
}

func post() condition.Facts {
	return condition.Facts{
		Post: 7, Kind: "post", Status: "published", Title: "Clear tonight: the Dome opens", Slug: "clear-tonight",
		Text: "Jupiter is well placed. Éclairs and tea at the gate.", Category: "Viewing Nights", Tags: []string{"open night", "Moon"},
		Author: "Ines Abara", Published: at("2026-11-01", "09:30"), Changed: at("2026-11-10", "08:00"),
		Fields: map[string]string{"event": "2026-11-12", "seats": "40", "begins": "2026-11-24 11:59",
			"when": "next Friday", "blank": " "},
		CommentsOpen: true, CommentDays: 30, Comments: 4, Evergreen: false, Words: 220, Shared: 2, Import: "autumn batch",
		Clicks: []condition.DayClicks{{civil.MustDate("2026-11-02"), 30}, {civil.MustDate("2026-11-20"), 4},
			{civil.MustDate("2026-11-24"), 1}},
	}
}

// Comments that close some days after a publication turn the answer at that moment, and not before.
func TestCommentsClose(t *testing.T) {
	closed, err := condition.Compile(test(condition.CommentsOpen, condition.MatchNo), halifax)
	require.NoError(t, err)
	for name, c := range map[string]struct {
		change func(*condition.Facts)
		at     string // of 1 December
		want   bool
		until  time.Time // zero for ever
	}{
		"a minute before": {func(*condition.Facts) {}, "09:29", false, at("2026-12-01", "09:30")},
		"at the minute":   {func(*condition.Facts) {}, "09:30", true, time.Time{}},
		"for ever":        {func(f *condition.Facts) { f.CommentDays = 0 }, "09:30", false, time.Time{}},
		"not out":         {func(f *condition.Facts) { f.Published = time.Time{} }, "09:30", false, time.Time{}},
		"never open":      {func(f *condition.Facts) { f.CommentsOpen = false }, "09:29", true, time.Time{}},
		"out a day later": {func(f *condition.Facts) { f.Published = at("2026-11-02", "09:30") }, "09:30", false, at("2026-12-02", "09:30")},
	} {
		f := post()
		c.change(&f)
		k := closed.At(at("2026-12-01", c.at))
		got, until := k.Judge(&f)
		assert.Equal(t, c.want, got, name)
		assert.True(t, c.until.Equal(until), "%s: until %s", name, until)
	}
}

func TestEveryTest(t *testing.T) {
	field := func(name string, m condition.Match, values ...string) condition.Node {
		return condition.Node{Test: condition.Field, Match: m, Field: name, Values: values}
	}
	passed := func(name string, n int, unit condition.Unit) condition.Node {
		return condition.Node{Test: condition.Field, Match: condition.MatchPassed, Field: name, N: n, Unit: unit}
	}
	round := func(name string, n int, unit condition.Unit) condition.Node {
		return condition.Node{Test: condition.Field, Match: condition.MatchRound, Field: name, N: n, Unit: unit}
	}
	clicks := func(m condition.Match, n, days int) condition.Node {
		return condition.Node{Test: condition.Clicks, Match: m, N: n, Days: days}
	}
	number := func(t condition.Test, m condition.Match, n int) condition.Node {
		return condition.Node{Test: t, Match: m, N: n}
	}
	dated := func(t condition.Test, m condition.Match, date string) condition.Node {
		return condition.Node{Test: t, Match: m, Date: date}
	}
	const yes, no = true, false
	for _, c := range []struct {
		node   condition.Node
		caught bool
		says   string
	}{
		{test(condition.Kind, condition.MatchAny, "page"), no, "it is a post"},
		{test(condition.Status, condition.MatchAny, "published", "archived"), yes, "it is published"},
		{test(condition.Status, condition.MatchNone, "published"), no, "it is published"},
		{test(condition.Category, condition.MatchAny, "viewing nights"), yes, "its category is Viewing Nights"},
		{test(condition.Category, condition.MatchNone, "Sky Guide"), yes, "its category is Viewing Nights"},
		{test(condition.Author, condition.MatchAny, "Pell Hanrahan"), no, "it is by Ines Abara"},
		{test(condition.Tags, condition.MatchAny, "moon", "Mars"), yes, "it is tagged moon"},
		{test(condition.Tags, condition.MatchAll, "moon", "Mars"), no, "it is not tagged Mars"},
		{test(condition.Tags, condition.MatchNone, "Mars"), yes, "it is not tagged Mars"},
		{test(condition.Tags, condition.MatchNone, "Moon"), no, "it is tagged Moon"},
		{test(condition.Title, condition.MatchContains, "the dome"), yes, "its title contains “the dome”"},
		{test(condition.Title, condition.MatchContains, "comet"), no, "its title does not contain “comet”"},
		{test(condition.Text, condition.MatchAny, "jupiter"), yes, "its text has the word jupiter"},
		{test(condition.Text, condition.MatchAny, "Jupit"), no, "its text has not the word Jupit"},
		{test(condition.Text, condition.MatchAll, "ÉCLAIRS", "gate"), yes, "its text has the word ÉCLAIRS and gate"},
		{test(condition.Text, condition.MatchNone, "tea"), no, "its text has the word tea"},
		{test(condition.Slug, condition.MatchBegins, "clear-"), yes, "its slug is “clear-tonight”"},
		{test(condition.Slug, condition.MatchEquals, "clear"), no, "its slug is “clear-tonight”"},
		{test(condition.Slug, condition.MatchContains, "tonight"), yes, "its slug is “clear-tonight”"},
		{span(condition.Age, condition.MatchOver, 23, condition.Days), yes, "it came out 23 days ago, on Sun 1 Nov"},
		{span(condition.Age, condition.MatchOver, 24, condition.Days), no, "it came out 23 days ago, on Sun 1 Nov"},
		{span(condition.Age, condition.MatchUnder, 1, condition.Months), yes, "it came out 23 days ago, on Sun 1 Nov"},
		{dated(condition.Age, condition.MatchBefore, "2026-11-01"), no, "it came out 23 days ago, on Sun 1 Nov"},
		{dated(condition.Age, condition.MatchAfter, "2026-10-31"), yes, "it came out 23 days ago, on Sun 1 Nov"},
		{dated(condition.Age, condition.MatchAfter, "2026-11-01"), no, "it came out 23 days ago, on Sun 1 Nov"},
		{span(condition.SinceChange, condition.MatchOver, 2, condition.Weeks), yes,
			"it was last changed 14 days ago, on Tue 10 Nov"},
		{round("event", 11, condition.Months), no, "its “event” comes round on Fri 12 Nov 2027, in 353 days"},
		{round("event", 360, condition.Days), yes, "its “event” comes round on Fri 12 Nov 2027, in 353 days"},
		{round("begins", 0, condition.Days), yes, "its “begins” comes round on Tue 24 Nov, today"},
		{round("when", 1, condition.Weeks), no, "its field “when” holds “next Friday”, which is not a date"},
		{round("nothing", 1, condition.Weeks), no, "it has no field “nothing”"},
		{passed("event", 12, condition.Days), no, "its “event”, Thu 12 Nov, passed 12 days ago"},
		{passed("event", 11, condition.Days), yes, "its “event”, Thu 12 Nov, passed 12 days ago"},
		{passed("begins", 0, condition.Days), yes, "its “begins”, Tue 24 Nov, passed today"},
		{passed("begins", 1, condition.Hours), no, "its “begins”, Tue 24 Nov, passed today"},
		{passed("when", 0, condition.Days), no, "its field “when” holds “next Friday”, which is not a date"},
		{passed("nothing", 0, condition.Days), no, "it has no field “nothing”"},
		{field("event", condition.MatchPresent), yes, "its field “event” is “2026-11-12”"},
		{field("blank", condition.MatchMissing), yes, "it has no field “blank”"},
		{field("seats", condition.MatchEquals, "40 "), yes, "its field “seats” is “40”"},
		{field("seats", condition.MatchDiffers, "40"), no, "its field “seats” is “40”"},
		{field("seats", condition.MatchOver, "9"), yes, "its field “seats” is “40”"},
		{field("seats", condition.MatchUnder, "40"), no, "its field “seats” is “40”"},
		{field("when", condition.MatchOver, "9"), no,
			"its field “when” holds “next Friday”, which cannot be compared with 9"},
		{field("event", condition.MatchUnder, "2026-12-01"), yes, "its field “event” is “2026-11-12”"},
		{test(condition.OnTop, condition.MatchYes), no, "it is not kept on top"},
		{test(condition.CommentsOpen, condition.MatchYes), yes, "its comments are open"},
		{number(condition.Comments, condition.MatchOver, 3), yes, "it has 4 comments"},
		{number(condition.Comments, condition.MatchUnder, 4), no, "it has 4 comments"},
		{test(condition.Image, condition.MatchNo), yes, "it has no featured image"},
		{test(condition.Evergreen, condition.MatchNo), yes, "it is not evergreen"},
		{number(condition.WordCount, condition.MatchOver, 219), yes, "it has 220 words"},
		{clicks(condition.MatchUnder, 6, 5), yes, "it had 5 clicks in the last 5 days"},
		{clicks(condition.MatchOver, 4, 4), no, "it had 1 click in the last 4 days"},
		{number(condition.Shared, condition.MatchUnder, 2), no, "it has been shared 2 times"},
		{number(condition.Republished, condition.MatchOver, 0), no, "it has been republished 0 times"},
		{test(condition.Import, condition.MatchAny, "Autumn Batch"), yes, "it came with the import autumn batch"},
	} {
		compiled, err := condition.Compile(c.node, halifax)
		require.NoError(t, err, "%+v", c.node)
		k, f := compiled.At(noon), post()
		assert.Equal(t, c.caught, k.Catches(&f), condition.Sentence(c.node))
		verdict := k.Explain(&f)
		assert.Equal(t, c.caught, verdict.Caught)
		assert.Equal(t, c.says, verdict.String())
		assert.NotContains(t, condition.Sentence(c.node), "…")
		assert.True(t, compiled.Asks(c.node.Test))
	}
}

func TestEveryFormIsTestedAndRead(t *testing.T) {
	schema := compiledSchema(t)
	for _, form := range condition.Forms {
		for _, way := range form.Ways {
			n := filled(form, way)
			assert.Empty(t, condition.Check(n), "%+v", n)
			assert.NoError(t, schema.Validate(asJSON(t, n)), "%+v", n)
			_, err := condition.Compile(n, halifax)
			require.NoError(t, err)
			for _, need := range way.Needs {
				bare := without(n, need)
				assert.NotEmpty(t, condition.Check(bare), "%s %s without %s", form.Test, way.Match, need)
			}
		}
	}
}

func filled(form condition.Form, way condition.Way) condition.Node {
	n := condition.Node{Test: form.Test, Match: way.Match}
	for _, need := range way.Needs {
		switch need {
		case condition.NeedValues:
			n.Values = []string{"one"}
			if form.From == "list" {
				n.Values = form.Choices[:1]
			}
		case condition.NeedValue:
			n.Values = []string{"12"}
		case condition.NeedField:
			n.Field = "event"
		case condition.NeedNumber:
			n.N = 3
		case condition.NeedSpan:
			n.N, n.Unit = 3, condition.Months
		case condition.NeedDate:
			n.Date = "2026-02-28"
		case condition.NeedDays:
			n.Days = 30
		}
	}
	return n
}

func without(n condition.Node, need condition.Need) condition.Node {
	switch need {
	case condition.NeedValues, condition.NeedValue:
		n.Values = nil
	case condition.NeedField:
		n.Field = ""
	case condition.NeedNumber:
		n.N = -1
	case condition.NeedSpan:
		n.Unit = ""
	case condition.NeedDate:
		n.Date = "2026-02-29"
	case condition.NeedDays:
		n.Days = 0
	}
	return n
}

func compiledSchema(t *testing.T) *jsonschema.Schema {
	t.Helper()
	raw, err := json.Marshal(condition.Schema())
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(raw)))
	require.NoError(t, err)
	c := jsonschema.NewCompiler()
	require.NoError(t, c.AddResource("condition.json", doc))
	schema, err := c.Compile("condition.json")
	require.NoError(t, err)
	return schema
}

func asJSON(t *testing.T, v any) any {
	t.Helper()
	raw, err := json.Marshal(v)
	require.NoError(t, err)
	doc, err := jsonschema.UnmarshalJSON(strings.NewReader(string(raw)))
	require.NoError(t, err)
	return doc
}

// read reads a condition as a rule keeps it, and checks it.
func read(raw []byte) (n condition.Node, problems []check.FieldProblem) {
	if err := json.Unmarshal(raw, &n); err != nil {
		return n, []check.FieldProblem{{Message: err.Error()}}
	}
	return n, condition.Check(n)
}

func TestRefusalsNameThePath(t *testing.T) {
	for _, c := range []struct{ raw, path, says string }{
		{`{}`, "", "match every post"},
		{`{"group":"all","parts":[]}`, "parts", "empty"},
		{`{"group":"some","parts":[{"test":"evergreen","match":"yes"}]}`, "group", "all, any or none"},
		{`{"group":"all","test":"kind","parts":[]}`, "", "one of them"},
		{`{"group":"any","parts":[{"test":"evergreen","match":"yes"},{"group":"none","parts":[{"test":"colour","match":"any"}]}]}`, "parts[1].parts[0].test", `no condition "colour"`},
		{`{"test":"age","match":"like"}`, "match", "over, under, before, after"},
		{`{"test":"age","match":"over","n":3,"unit":"moons"}`, "unit", "months"},
		{`{"test":"age","match":"before","date":"2026-02-29"}`, "date", "not a date"},
		{`{"test":"status","match":"any","values":["lost"]}`, "values[0]", "draft, scheduled"},
		{`{"test":"text","match":"any","values":["two words"]}`, "values[0]", "more than one word"},
		{`{"test":"field","match":"over","field":"seats","values":["many"]}`, "values", "neither a number nor a date"},
		{`{"test":"times shared","match":"under","n":0}`, "n", "fewer than 0"},
		{`{"group":"all","parts":[{"test":"age","match":"over","n":10,"unit":"days"},{"test":"age","match":"under","n":1,"unit":"weeks"}]}`, "parts[1]", "never hold"},
		{`{"group":"all","parts":[{"test":"evergreen","match":"yes"},{"test":"evergreen","match":"no"}]}`, "parts[1]",
			"opposite"},
		{`{"group":"all","parts":[{"test":"category","match":"any","values":["A"]},{"test":"category","match":"none","values":["a","B"]}]}`, "parts[1]", "rules out"},
		{`{"group":"all","parts":[{"test":"author","match":"any","values":["A"]},{"test":"author","match":"any","values":["B"]}]}`, "parts[1]", "only one author"},
	} {
		_, problems := read([]byte(c.raw))
		require.NotEmpty(t, problems, c.raw)
		assert.Equal(t, c.path, problems[0].Path, c.raw)
		assert.Contains(t, problems[0].Message, c.says)
	}
	deep := test(condition.Evergreen, condition.MatchYes)
	for range condition.MaxDepth {
		deep = group(condition.NoneOf, deep)
	}
	assert.Contains(t, condition.Check(deep)[0].Message, "nested")
	_, err := condition.Compile(condition.Node{}, halifax)
	assert.ErrorContains(t, err, "every post")
}

func TestMonthsAndYearsAreOfTheCalendar(t *testing.T) {
	for _, c := range []struct {
		since, clock, comes string
		n                   int
		unit                condition.Unit
	}{
		{"2026-01-31", "09:00", "2026-02-28T09:00:00-04:00", 1, condition.Months},
		{"2024-01-31", "09:00", "2024-02-29T09:00:00-04:00", 1, condition.Months},
		{"2024-02-29", "09:00", "2025-02-28T09:00:00-04:00", 1, condition.Years},
		{"2024-02-29", "09:00", "2028-02-29T09:00:00-04:00", 4, condition.Years},
		{"2026-08-31", "23:30", "2026-11-30T23:30:00-04:00", 3, condition.Months},
		{"2026-03-07", "02:30", "2026-03-08T03:30:00-03:00", 1, condition.Days},  // the clocks skip 02:30
		{"2026-10-31", "01:30", "2026-11-01T01:30:00-03:00", 1, condition.Days},  // 01:30 comes twice
		{"2026-10-31", "12:00", "2026-11-07T12:00:00-04:00", 1, condition.Weeks}, // an hour longer than a week
		{"2026-10-31", "12:00", "2026-11-01T11:00:00-04:00", 24, condition.Hours},
	} {
		compiled, err := condition.Compile(span(condition.Age, condition.MatchOver, c.n, c.unit), halifax)
		require.NoError(t, err)
		comes, err := time.Parse(time.RFC3339, c.comes)
		require.NoError(t, err)
		f := condition.Facts{Published: at(c.since, c.clock)}
		before, on := compiled.At(comes.Add(-time.Second)), compiled.At(comes)
		caught, until := before.Judge(&f)
		assert.False(t, caught, c.comes)
		assert.True(t, until.Equal(comes), "%s: %s", c.comes, halifax.In(until))
		caught, until = on.Judge(&f)
		assert.True(t, caught, c.comes)
		assert.True(t, until.IsZero())
	}
}

func TestGroupsAndTheirReasons(t *testing.T) {
	f := post()
	evergreen, event := test(condition.Evergreen, condition.MatchYes), test(condition.Category, condition.MatchAny,
		"Viewing Nights")
	moon := test(condition.Tags, condition.MatchAny, "Moon")
	for _, c := range []struct {
		node   condition.Node
		caught bool
		says   string
	}{
		{group(condition.AllOf, event, moon), true, "its category is Viewing Nights; it is tagged Moon"},
		{group(condition.AllOf, event, evergreen), false, "it is not evergreen"},
		{group(condition.AnyOf, evergreen, moon), true, "it is tagged Moon"},
		{group(condition.AnyOf, evergreen), false, "it is not evergreen"},
		{group(condition.NoneOf, evergreen, moon), false, "it is tagged Moon, which is ruled out"},
		{group(condition.NoneOf, evergreen), true, "it is not evergreen"},
		{group(condition.AllOf, event, group(condition.NoneOf, moon)), false, "it is tagged Moon, which is ruled out"},
	} {
		compiled, err := condition.Compile(c.node, halifax)
		require.NoError(t, err)
		k := compiled.At(noon)
		assert.Equal(t, condition.Verdict{Caught: c.caught, Because: k.Explain(&f).Because}, k.Explain(&f))
		assert.Equal(t, c.says, k.Explain(&f).String())
		assert.Equal(t, c.node, compiled.Node())
	}
}

func TestSentences(t *testing.T) {
	event := condition.Node{Test: condition.Field, Match: condition.MatchPassed, Field: "event", N: 1,
		Unit: condition.Days}
	for _, c := range []struct {
		node condition.Node
		want string
	}{
		{condition.Node{}, "Every post."},
		{test(condition.Evergreen, condition.MatchYes), "Evergreen posts."},
		{group(condition.AllOf, test(condition.Evergreen, condition.MatchYes)), "Evergreen posts."},
		{test(condition.Evergreen, condition.MatchNo), "Posts that are not evergreen."},
		{group(condition.AllOf, test(condition.Category, condition.MatchAny, "Sky Guide"),
			test(condition.Evergreen, condition.MatchYes)), "Evergreen posts in Sky Guide."},
		{group(condition.AllOf, test(condition.Category, condition.MatchAny, "Viewing Nights"), event),
			"Posts in Viewing Nights, whose “event” passed 1 day ago or more."},
		{group(condition.AllOf, test(condition.Category, condition.MatchAny, "A", "B"),
			span(condition.Age, condition.MatchOver, 10, condition.Days), group(condition.NoneOf,
				test(condition.Tags, condition.MatchAny, "keep"))),
			"Posts in A or B, out for 10 days or more, but not those tagged keep."},
		{group(condition.AnyOf, test(condition.Evergreen, condition.MatchYes),
			group(condition.AllOf, test(condition.Image, condition.MatchNo),
				condition.Node{Test: condition.Clicks, Match: condition.MatchUnder, N: 5, Days: 30})),
			"Posts either that are evergreen or (without a featured image, with fewer than 5 clicks in the last 30 days)."},
		{condition.Node{Test: condition.Age, Match: condition.MatchBefore, Date: "2026-01-02"},
			"Posts published before Fri 2 Jan 2026."},
		{condition.Node{Test: condition.Title}, "Posts …."},
	} {
		assert.Equal(t, c.want, condition.Sentence(c.node))
	}
}

func TestBadDatesAreTold(t *testing.T) {
	compiled, err := condition.Compile(condition.Node{Test: condition.Field, Match: condition.MatchPassed,
		Field: "when", Unit: condition.Days}, halifax)
	require.NoError(t, err)
	f := post()
	assert.Equal(t, []string{"when"}, compiled.BadDates(&f))
	f.Fields = map[string]string{"when": "2026-11-24T09:00:00Z"}
	assert.Empty(t, compiled.BadDates(&f))
}

// aNode draws a tree of tests that time changes, and some that it does not.
func aNode(t *rapid.T, depth int) condition.Node {
	if depth > 0 && rapid.Bool().Draw(t, "group") {
		n := group(rapid.SampledFrom([]condition.Group{condition.AllOf, condition.AnyOf, condition.NoneOf}).Draw(t,
			"of"))
		for range rapid.IntRange(1, 3).Draw(t, "parts") {
			n.Parts = append(n.Parts, aNode(t, depth-1))
		}
		return n
	}
	form := rapid.SampledFrom(condition.Forms).Draw(t, "form")
	n := filled(form, rapid.SampledFrom(form.Ways).Draw(t, "way"))
	if n.Unit != "" {
		n.N, n.Unit = rapid.IntRange(1, 40).Draw(t, "n"), rapid.SampledFrom(condition.Units[:4]).Draw(t, "unit")
	}
	return n
}

// An answer holds until the moment it names, and explaining agrees with judging.
func TestAnswersAreGoodUntilTheySay(t *testing.T) {
	zones := []string{"America/Halifax", "Europe/Lisbon", "Australia/Lord_Howe", "Pacific/Apia", "UTC"}
	rapid.Check(t, func(t *rapid.T) {
		n := aNode(t, 3)
		zone := civil.MustZone(rapid.SampledFrom(zones).Draw(t, "zone"))
		compiled, err := condition.Compile(n, zone)
		if err != nil {
			t.Skip("contradictory")
		}
		f := post()
		f.Published = noon.Add(-time.Duration(rapid.IntRange(0, 4000).Draw(t, "age")) * time.Hour)
		f.Changed = noon.Add(-time.Duration(rapid.IntRange(0, 4000).Draw(t, "changed")) * time.Hour)
		f.Fields = map[string]string{"event": rapid.SampledFrom([]string{"2026-11-12", "2026-12-01 17:00", "soon",
			""}).Draw(t, "event")}
		moment := noon
		for range 20 {
			k := compiled.At(moment)
			caught, until := k.Judge(&f)
			require.Equal(t, caught, k.Catches(&f))
			verdict := k.Explain(&f)
			require.Equal(t, caught, verdict.Caught)
			require.NotEmpty(t, verdict.Because)
			next := moment.Add(time.Duration(rapid.IntRange(1, 2000).Draw(t, "on")) * time.Hour)
			if !until.IsZero() {
				require.True(t, until.After(moment))
				last := compiled.At(until.Add(-time.Second))
				require.Equal(t, caught, last.Catches(&f), "it changed before %s", until)
				next = until
			} else {
				later := compiled.At(next)
				require.Equal(t, caught, later.Catches(&f), "it changed though it was for good")
			}
			moment = next
		}
	})
}

func TestOlderOnceIsOlderForGood(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := condition.Span{N: rapid.IntRange(1, 30).Draw(t, "n"),
			Unit: rapid.SampledFrom(condition.Units).Draw(t, "unit")}
		since := at("2024-01-01", "00:00").Add(time.Duration(rapid.IntRange(0, 800*24*60).Draw(t,
			"minute")) * time.Minute)
		comes := s.After(since, halifax)
		require.True(t, comes.After(since))
		compiled, err := condition.Compile(span(condition.Age, condition.MatchOver, s.N, s.Unit), halifax)
		require.NoError(t, err)
		f := condition.Facts{Published: since}
		k := compiled.At(comes.Add(time.Duration(rapid.IntRange(-100_000, 100_000).Draw(t, "off")) * time.Minute))
		caught, until := k.Judge(&f)
		require.Equal(t, caught, until.IsZero())
	})
}

// No post that a condition catches is left out by its hints.
func TestHintsOnlyLeaveOutWhatIsNotCaught(t *testing.T) {
	is := func(names []string, value string) bool {
		return names == nil || strings.EqualFold(names[0], value) || len(names) > 1 &&
			strings.EqualFold(names[1], value)
	}
	rapid.Check(t, func(t *rapid.T) {
		n := aNode(t, 3)
		compiled, err := condition.Compile(n, halifax)
		if err != nil {
			t.Skip("contradictory")
		}
		f := post()
		f.Category, f.Author, f.Import = "ONE", "one", "one"
		f.Evergreen = rapid.Bool().Draw(t, "evergreen")
		f.Published = noon.Add(-time.Duration(rapid.IntRange(0, 4000).Draw(t, "age")) * time.Hour)
		k := compiled.At(noon)
		if !k.Catches(&f) {
			return
		}
		h := compiled.Hints(noon)
		require.True(t, is(h.Categories, f.Category) && is(h.Authors, f.Author) && is(h.Imports, f.Import) &&
			is(h.Statuses, f.Status), "%+v", h)
		require.True(t, h.Evergreen == nil || *h.Evergreen == f.Evergreen)
		require.True(t, h.PublishedBefore.IsZero() || f.Published.Before(h.PublishedBefore))
	})
}

// A day that comes round each year: from so long before it to its end, over the turn of the year, and on the last of February.
func TestADayComesRound(t *testing.T) {
	zone := civil.MustZone("America/Halifax")
	at := func(date, clock string) time.Time { return zone.At(civil.MustDate(date), civil.MustClock(clock)) }
	for _, c := range []struct {
		field, date, clock string
		n                  int
		unit               condition.Unit
		caught             bool
		until              time.Time
	}{
		{"2020-08-12", "2026-08-04", "23:59", 1, condition.Weeks, false, at("2026-08-05", "00:00")},
		{"2020-08-12", "2026-08-05", "00:00", 1, condition.Weeks, true, at("2026-08-13", "00:00")},
		{"2020-08-12", "2026-08-12", "23:59", 1, condition.Weeks, true, at("2026-08-13", "00:00")},
		{"2020-08-12", "2026-08-13", "00:00", 1, condition.Weeks, false, at("2027-08-05", "00:00")},
		{"2020-01-03", "2026-12-27", "09:00", 1, condition.Weeks, true, at("2027-01-04", "00:00")},
		{"2020-01-03", "2026-12-26", "09:00", 1, condition.Weeks, false, at("2026-12-27", "00:00")},
		{"2024-02-29", "2026-02-27", "09:00", 1, condition.Days, true, at("2026-03-01", "00:00")},
		{"2024-02-29", "2028-02-27", "09:00", 1, condition.Days, false, at("2028-02-28", "00:00")},
		{"2024-03-31", "2026-02-28", "09:00", 1, condition.Months, true, at("2026-04-01", "00:00")},
		{"2030-12-14 19:30", "2026-12-14", "20:00", 0, condition.Days, true, at("2026-12-15", "00:00")},
		{"soon", "2026-12-14", "20:00", 3, condition.Days, false, time.Time{}},
	} {
		compiled, err := condition.Compile(condition.Node{Test: condition.Field, Match: condition.MatchRound, Field: "event", N: c.n, Unit: c.unit}, zone)
		require.NoError(t, err)
		k := compiled.At(at(c.date, c.clock))
		f := condition.Facts{Fields: map[string]string{"event": c.field}}
		caught, until := k.Judge(&f)
		assert.Equal(t, c.caught, caught, "%s on %s", c.field, c.date)
		assert.Equal(t, c.until.UTC(), until.UTC(), "%s on %s", c.field, c.date)
		assert.Equal(t, caught, k.Explain(&f).Caught)
	}
	for field, n := range map[string]condition.Node{"unit": {Unit: condition.Hours, N: 3}, "n": {Unit: condition.Weeks, N: 52}} {
		n.Test, n.Match, n.Field = condition.Field, condition.MatchRound, "event"
		problems := condition.Check(n)
		require.Len(t, problems, 1)
		assert.Equal(t, field, problems[0].Path)
	}
}
