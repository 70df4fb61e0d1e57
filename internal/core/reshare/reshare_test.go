package reshare_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
)

var (
	halifax = civil.MustZone("America/Halifax")
	noon    = halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("12:00"))
)

func rule(t require.TestingT) reshare.Reshare {
	c, err := condition.Compile(condition.Node{Test: condition.Category, Match: condition.MatchAny,
		Values: []string{"A"}}, halifax)
	require.NoError(t, err)
	return reshare.Reshare{RuleBase: deed.RuleBase{Name: "Rule", Seed: 3, Condition: c, Pace: cadence.Pace{Zone: halifax}}}
}

func TestThePool(t *testing.T) {
	for _, c := range []struct {
		change func(*reshare.Reshare, *condition.Facts, *deed.Past)
		says   string // why not; "" where it may go out
	}{
		{func(*reshare.Reshare, *condition.Facts, *deed.Past) {}, ""},
		{func(_ *reshare.Reshare, f *condition.Facts, _ *deed.Past) { f.Category = "B" }, "its category is B"},
		{func(_ *reshare.Reshare, f *condition.Facts, _ *deed.Past) { f.Status = "archived" },
			"it is archived, not published"},
		{func(_ *reshare.Reshare, f *condition.Facts, _ *deed.Past) { f.Kind, f.Status = "link", "linked" }, ""},
		{func(_ *reshare.Reshare, f *condition.Facts, _ *deed.Past) { f.Kind, f.Status = "link", "binned" }, "it is binned, not published"},
		{func(r *reshare.Reshare, _ *condition.Facts, _ *deed.Past) { r.Excluded = map[int64]bool{7: true} },
			"excluded from this rule by hand"},
		{func(r *reshare.Reshare, _ *condition.Facts, _ *deed.Past) {
			r.Youngest = condition.Span{N: 2, Unit: condition.Months}
		}, "it came out less than 2 months ago; it is old enough on Thu 24 Dec"},
		{func(r *reshare.Reshare, _ *condition.Facts, _ *deed.Past) {
			r.Oldest = condition.Span{N: 4, Unit: condition.Weeks}
		}, "it came out more than 4 weeks ago"},
		{func(r *reshare.Reshare, _ *condition.Facts, _ *deed.Past) { r.Apart = 40 },
			"it was published less than 40 days ago; it may go out again on Thu 3 Dec"},
		{func(r *reshare.Reshare, _ *condition.Facts, p *deed.Past) {
			r.Apart, p.LastOnChannel = 10, noon.AddDate(0, 0, -9)
		}, "it was shared here less than 10 days ago; it may go out again on Wed 25 Nov"},
		{func(r *reshare.Reshare, _ *condition.Facts, p *deed.Past) { r.Most, p.OnChannel = 2, 2 },
			"it has been shared 2 times here"},
		{func(r *reshare.Reshare, _ *condition.Facts, p *deed.Past) { r.Most, p.OnChannel = 3, 2 }, ""},
	} {
		r := rule(t)
		f := condition.Facts{Post: 7, Status: "published", Category: "A", Published: noon.AddDate(0, -1, 0)}
		var past deed.Past
		c.change(&r, &f, &past)
		k := r.Condition.At(noon)
		asked := deed.Case{Facts: &f, Past: past, At: noon, Moment: &k}
		may, _ := r.Judge(asked)
		verdict := r.Why(asked)
		assert.Equal(t, c.says == "", may, c.says)
		assert.Equal(t, may, verdict.Caught)
		if c.says != "" {
			assert.Contains(t, verdict.String(), c.says)
		}
	}
}

// Whatever ages and distances a rule keeps, an answer holds until the moment it names.
func TestAnswersAreGoodUntilTheySay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := rule(t)
		unit := func(name string) condition.Unit { return rapid.SampledFrom(condition.Units[:4]).Draw(t, name) }
		r.Youngest = condition.Span{N: rapid.IntRange(0, 4).Draw(t, "youngest"), Unit: unit("youngest unit")}
		if rapid.Bool().Draw(t, "bounded") {
			r.Oldest = condition.Span{N: rapid.IntRange(1, 6).Draw(t, "oldest"), Unit: unit("oldest unit")}
		}
		r.Apart = rapid.IntRange(0, 40).Draw(t, "apart")
		f := condition.Facts{Post: 7, Status: "published", Category: "A",
			Published: noon.Add(-time.Duration(rapid.IntRange(0, 3000).Draw(t, "out")) * time.Hour)}
		var past deed.Past
		if rapid.Bool().Draw(t, "shared") {
			past.LastOnChannel = f.Published.Add(time.Duration(rapid.IntRange(0, 500).Draw(t, "after")) * time.Hour)
		}
		at := noon
		for range 10 {
			k := r.Condition.At(at)
			asked := deed.Case{Facts: &f, Past: past, At: at, Moment: &k}
			may, until := r.Judge(asked)
			require.Equal(t, may, r.Why(asked).Caught)
			probe := at.Add(time.Duration(rapid.IntRange(1, 900).Draw(t, "on")) * time.Hour)
			next := probe
			if !until.IsZero() {
				require.True(t, until.After(at))
				probe, next = until.Add(-time.Second), until
			}
			later := r.Condition.At(probe)
			still, _ := r.Judge(deed.Case{Facts: &f, Past: past, At: probe, Moment: &later})
			require.Equal(t, may, still, "at %s", probe)
			at = next
		}
	})
}

func TestOrders(t *testing.T) {
	old := condition.Facts{Post: 1, Published: noon.AddDate(-1, 0, 0)}
	young := condition.Facts{Post: 2, Published: noon.AddDate(0, -1, 0)}
	shared := deed.Past{LastOnChannel: noon.AddDate(0, 0, -1), Round: 1}
	for _, c := range []struct {
		order reshare.Order
		a, b  deed.Past // of the old and of the young post
		first int64
	}{
		{reshare.Oldest, shared, deed.Past{}, 1},
		{reshare.Newest, deed.Past{}, shared, 2},
		{reshare.Longest, shared, deed.Past{}, 2},
		{reshare.Longest, shared, deed.Past{LastOnChannel: noon}, 1},
		{reshare.Shuffled, shared, deed.Past{}, 2},
		{reshare.Shuffled, deed.Past{}, shared, 1},
	} {
		r := rule(t)
		r.Order, r.Round = c.order, 1
		first := int64(2)
		if r.Key(deed.Case{Facts: &old, Past: c.a}).Less(r.Key(deed.Case{Facts: &young, Past: c.b})) {
			first = 1
		}
		assert.Equal(t, c.first, first, "%s %+v %+v", c.order, c.a, c.b)
		assert.NotEmpty(t, c.order.Because())
	}
}

// A post's lot is the lowest with its share of the weights.
func TestLotsAreDrawnByWeight(t *testing.T) {
	r := rule(t)
	a, b := condition.Facts{Post: 1}, condition.Facts{Post: 2}
	first := 0
	const draws = 20_000
	for i := range draws {
		turn := noon.Add(time.Duration(i) * time.Minute)
		if r.Draw(deed.Case{Facts: &a, Past: deed.Past{Earned: 2}}, turn) < r.Draw(deed.Case{Facts: &b}, turn) {
			first++
		}
	}
	assert.InDelta(t, 0.75, float64(first)/draws, 0.015, "three lots in four")
}

func TestWordingsGoRound(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := rule(t)
		n := rapid.IntRange(1, 6).Draw(t, "wordings")
		for range n {
			w, err := message.ReadWording("{title}")
			require.NoError(t, err)
			r.Wordings = append(r.Wordings, w)
		}
		post := &condition.Facts{Post: rapid.Int64Range(1, 1e9).Draw(t, "post")}
		from := rapid.IntRange(0, 50).Draw(t, "from")
		seen := make(map[int]bool)
		for i := range n {
			w := r.Wording(deed.Case{Facts: post, Past: deed.Past{N: from + i}})
			require.False(t, seen[w], "none again before all have been")
			seen[w] = true
		}
		require.Equal(t, r.Wording(deed.Case{Facts: post, Past: deed.Past{N: from}}),
			r.Wording(deed.Case{Facts: post, Past: deed.Past{N: from + n}}))
	})
}
