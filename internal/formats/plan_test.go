package formats_test

import (
	"encoding/json"
	"os"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/formats"
)

func example(t *testing.T) map[string]any {
	t.Helper()
	text, err := os.ReadFile("../../docs/examples/plan.json")
	require.NoError(t, err)
	var plan map[string]any
	require.NoError(t, json.Unmarshal(text, &plan))
	return plan
}

func answer(t *testing.T, text string) (formats.Answer, error) {
	t.Helper()
	plan, err := formats.ReadPlan(strings.NewReader(text))
	if err != nil {
		return formats.Answer{}, err
	}
	return plan.Answer()
}

func TestTheExampleOfTheDocs(t *testing.T) {
	text, err := os.ReadFile("../../docs/examples/plan.json")
	require.NoError(t, err)
	a, err := answer(t, string(text))
	require.NoError(t, err)
	again, err := answer(t, string(text))
	require.NoError(t, err)
	assert.Equal(t, a, again)

	require.Len(t, a.Placed, 2)
	assert.Equal(t, "a", a.Placed[0].ID, "the evening of the 24th is for the Sky Guide")
	assert.Equal(t, "b", a.Placed[1].ID)
	assert.True(t, strings.HasPrefix(a.Placed[1].Local, "2026-11-25T"))
	require.Len(t, a.Unplaced, 1)
	assert.Contains(t, a.Unplaced[0].Reason, "Its deadline on Fri 20 Nov is before the first free slot")
	for _, s := range a.Slots {
		assert.NotEqual(t, "2026-11-25T09:00", s.Local)
	}
	// Two mornings a Monday and a Wednesday, an evening a Tuesday and a Friday, two weeks.
	assert.Equal(t, 12, len(a.Slots)+len(a.Short))
}

func TestBadPlansAreRefusedWithTheirPath(t *testing.T) {
	set := func(path string, value any) func(map[string]any) {
		return func(plan map[string]any) {
			keys := strings.Split(path, ".")
			at := any(plan)
			for i, key := range keys {
				if list, ok := at.([]any); ok {
					index := int(key[0] - '0')
					if i == len(keys)-1 {
						list[index] = value
						return
					}
					at = list[index]
					continue
				}
				m := at.(map[string]any)
				if i == len(keys)-1 {
					m[key] = value
					return
				}
				at = m[key]
			}
		}
	}
	for name, test := range map[string]struct {
		change  func(map[string]any)
		path    string
		message string
	}{
		"unknown zone":      {set("zone", "Atlantis/Poseidonis"), "zone", "Unknown time zone"},
		"unknown field":     {set("zoen", "UTC"), "zoen", "Unexpected property"},
		"null":              {set("from", nil), "from", "Expected string"},
		"no date":           {set("from", "2026-02-30"), "from", "not a date"},
		"fraction":          {set("rhythm.gap", 1.5), "rhythm.gap", "Expected integer"},
		"huge":              {set("rhythm.seed", 1e300), "rhythm.seed", "9.007199254740991e+15"},
		"text for a number": {set("rhythm.gap", "90"), "rhythm.gap", "Expected integer"},
		"no gap":            {set("rhythm.gap", 0), "rhythm.gap", "between 1 minute and 7 days"},
		"negative gap":      {set("rhythm.gap", -5), "rhythm.gap", "between 1 minute and 7 days"},
		"a year's gap":      {set("rhythm.gap", 525600), "rhythm.gap", "between 1 minute and 7 days"},
		"no count":          {set("rhythm.openings.0.count", 0), "rhythm.openings[0].count", "between 1 and 500"},
		"ten thousand":      {set("rhythm.openings.0.count", 10_000), "rhythm.openings[0].count", "between 1 and 500"},
		"more than fit":     {set("rhythm.openings.0.count", 5), "rhythm.openings[0].count", "3 fit"},
		"reversed window":   {set("rhythm.openings.0.to", "05:00"), "rhythm.openings[0].to", "end it at 29:00"},
		"empty window":      {set("rhythm.openings.0.to", "06:30"), "rhythm.openings[0].to", "empty"},
		"over 48 hours":     {set("rhythm.openings.0.to", "49:00"), "rhythm.openings[0].to", "00:00 to 48:00"},
		"odd weekday": {set("rhythm.openings.0.weekdays", []any{"funday"}), "rhythm.openings[0].weekdays[0]",
			"one of"},
		"no such kind":       {set("rhythm.openings.0.kind", "whim"), "rhythm.openings[0].kind", "one of"},
		"every other week":   {set("rhythm.openings.0.everyWeeks", 2), "rhythm.openings[0].anchor", "counted from it"},
		"twice on the shelf": {set("shelf.1.id", "a"), "shelf[1].id", "is on the shelf already, at shelf[0]"},
		"deadline before":    {set("shelf.1.notBefore", "2026-11-26"), "shelf[1].deadline", "before notBefore"},
		"odd moment":         {set("shelf.1.deadline", "soon"), "shelf[1].deadline", "not a moment"},
		"taken on a date":    {set("taken.0.at", "2026-11-25"), "taken[0].at", "write it as 2026-11-24T09:40"},
		"negative cap":       {set("caps.day", -1), "caps.day", "between 1 and 500"},
		"caps that contradict": {set("caps", map[string]any{"authorDay": 3, "authorWeek": 2}), "caps.authorDay",
			"contradicts"},
		"beyond the calendar": {set("from", "9999-12-25"), "days", "year 9999"},
		"too many days":       {set("days", 10_000), "days", "732"},
	} {
		t.Run(name, func(t *testing.T) {
			plan := example(t)
			test.change(plan)
			text, err := json.Marshal(plan)
			require.NoError(t, err)
			_, err = answer(t, string(text))
			var problems formats.Problems
			require.ErrorAs(t, err, &problems)
			assert.Equal(t, test.path, problems[0].Path)
			assert.Contains(t, problems.Error(), test.message)
		})
	}
}

func TestWhatIsNoJSONIsRefusedWithItsPlace(t *testing.T) {
	for text, want := range map[string]string{
		"":                   "ends before its JSON does",
		"{\n \"zone\": NaN}": "Line 2, column 10",
		`{"days": 1e999}`:    "Line 1",
		"[]":                 "Expected object",
		`{} {}`:              "one object",
		`{"zone": "UTC"`:     "ends before",
	} {
		_, err := answer(t, text)
		assert.ErrorContains(t, err, want, text)
	}
}

func TestDatesAtTheEndsOfTheCalendar(t *testing.T) {
	for _, from := range []string{"0001-01-01", "9999-11-25"} {
		plan := example(t)
		plan["from"], plan["taken"], plan["shelf"] = from, nil, nil
		delete(plan, "taken")
		delete(plan, "shelf")
		text, err := json.Marshal(plan)
		require.NoError(t, err)
		a, err := answer(t, string(text))
		require.NoError(t, err)
		assert.Len(t, a.Slots, 12)
	}
}

// A fixed time that exists in summer time only comes out as much later as the clocks
// skip.
func TestATimeThatTheClocksSkip(t *testing.T) {
	a, err := answer(t, `{"zone":"America/Halifax","from":"2027-03-14","days":1,"rhythm":{"gap":1,"seed":1,
		"openings":[{"key":"o","kind":"time","weekdays":["sunday"],"from":"02:30"}]}}`)
	require.NoError(t, err)
	require.Len(t, a.Slots, 1)
	assert.Equal(t, "2027-03-14T03:30", a.Slots[0].Local)
}

func TestTheSchemaNamesEveryField(t *testing.T) {
	text, err := json.Marshal(formats.PlanSchema())
	require.NoError(t, err)
	for _, name := range []string{"zone", "openings", "everyWeeks", "lane", "restDays", "notBefore", "deadline",
		"authorWeek", "shelfSeed"} {
		assert.Contains(t, string(text), `"`+name+`"`)
	}
}
