package upkeep_test

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
	"dapper.example/internal/core/upkeep"
)

var (
	halifax = civil.MustZone("America/Halifax")
	noon    = halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("12:00"))
)

func rule(t require.TestingT, n condition.Node) deed.RuleBase {
	c, err := condition.Compile(n, halifax)
	require.NoError(t, err)
	return deed.RuleBase{ID: 1, Name: "Rule", Condition: c, Pace: cadence.Pace{Zone: halifax}}
}

var evergreen = condition.Node{Test: condition.Evergreen, Match: condition.MatchYes}

func TestWhatEachActionLooksAt(t *testing.T) {
	for _, c := range []struct {
		action upkeep.Action
		status string
		node   condition.Node
		says   string // why not; "" where it is caught
	}{
		{upkeep.Archive, "published", evergreen, ""},
		{upkeep.Archive, "draft", evergreen, "it is draft, not published"},
		{upkeep.Archive, "scheduled", evergreen, "it is scheduled; a rule takes nothing out of the plan"},
		{upkeep.Archive, "archived", condition.Node{Test: condition.Status, Match: condition.MatchAny,
			Values: []string{"archived"}}, "it is archived; only published posts are archived"},
		{upkeep.Bin, "archived", condition.Node{Test: condition.Status, Match: condition.MatchAny,
			Values: []string{"archived"}}, ""},
		{upkeep.Bin, "binned", condition.Node{Test: condition.Status, Match: condition.MatchAny,
			Values: []string{"binned"}}, "it is binned already"},
		{upkeep.ToDraft, "binned", condition.Node{Test: condition.Status, Match: condition.MatchAny,
			Values: []string{"binned"}}, "it is in the bin"},
		{upkeep.ToDraft, "archived", condition.Node{Test: condition.Status, Match: condition.MatchNone,
			Values: []string{"binned"}}, ""},
		{upkeep.ToDraft, "draft", condition.Node{Test: condition.Status, Match: condition.MatchNone,
			Values: []string{"binned"}}, "it is draft already"},
		{upkeep.Bin, "linked", evergreen, "it is a link item; a rule looks at those only where its condition asks for the kind"},
		{upkeep.Bin, "linked", condition.Node{Test: condition.Kind, Match: condition.MatchAny, Values: []string{"link"}}, ""},
		{upkeep.Archive, "linked", condition.Node{Test: condition.Kind, Match: condition.MatchAny, Values: []string{"link"}},
			"it is a link item, which can only go to the bin"},
		{upkeep.ToDraft, "linked", condition.Node{Test: condition.Kind, Match: condition.MatchAny, Values: []string{"link"}},
			"it is a link item, which can only go to the bin"},
	} {
		e := upkeep.Expire{RuleBase: rule(t, c.node), Action: c.action}
		f := condition.Facts{Post: 5, Status: c.status, Kind: map[bool]string{true: "link", false: "post"}[c.status == "linked"], Published: noon.AddDate(0, -1, 0), Evergreen: true}
		k := e.Condition.At(noon)
		asked := deed.Case{Facts: &f, At: noon, Moment: &k}
		caught, _ := e.Judge(asked)
		verdict := e.Why(asked)
		assert.Equal(t, c.says == "", caught, "%s %s", c.action, c.status)
		assert.Equal(t, caught, verdict.Caught)
		if c.says != "" {
			assert.Equal(t, c.says, verdict.String())
		}
	}
}

func TestWhenARuleAsks(t *testing.T) {
	for _, c := range []struct {
		caught, published, allowed, most int
		took                             []int
		says                             string
	}{
		{0, 100, 0, 0, nil, ""},
		{1, 1, 0, 0, nil, ""}, // one post is no alarm
		{20, 100, 0, 0, nil, ""},
		{21, 100, 0, 0, nil, "21 posts of the blog's 100"},
		{21, 100, 21, 0, nil, ""},
		{22, 100, 21, 0, nil, "more than a fifth"},
		{10, 100, 0, 0, []int{3, 3}, ""}, // two runs make no usual
		{10, 100, 0, 0, []int{3, 3, 3}, "10 posts at once; it usually affects 3"},
		{9, 100, 0, 0, []int{3, 3, 3}, ""},
		{10, 100, 0, 9, []int{3, 3, 3}, ""}, // it takes nine
		{5, 100, 0, 0, []int{1, 1, 1}, ""},  // a handful
		{6, 100, 0, 0, []int{1, 1, 1}, "usually affects 1"},
	} {
		e := upkeep.Expire{Allowed: c.allowed, MostARun: c.most, Took: c.took}
		asks := e.Asks(c.caught, c.published)
		if c.says == "" {
			assert.Empty(t, asks, "%+v", c)
		} else {
			assert.Contains(t, asks, c.says, "%+v", c)
		}
	}
}

func TestRememberingKeepsTheLatest(t *testing.T) {
	took := []int{1}
	for n := 2; n <= 12; n++ {
		took = upkeep.Remember(took, n)
	}
	assert.Equal(t, []int{3, 4, 5, 6, 7, 8, 9, 10, 11, 12}, took)
	assert.Equal(t, took, upkeep.Remember(took, 0), "a run that took none is no usual")
}

// goodUntilItSays asks a rule about a post again and again: each answer, which is that of its reasons, holds until the moment it
// names.
func goodUntilItSays(t *rapid.T, r deed.Rule, f *condition.Facts) {
	at := noon
	for range 10 {
		k := r.Base().Condition.At(at)
		asked := deed.Case{Facts: f, At: at, Moment: &k}
		may, until := r.Judge(asked)
		require.Equal(t, may, r.Why(asked).Caught)
		next := at.Add(time.Duration(rapid.IntRange(1, 900).Draw(t, "on")) * time.Hour)
		probe := next
		if !until.IsZero() {
			require.True(t, until.After(at))
			probe = until.Add(-time.Second)
			next = until
		}
		later := r.Base().Condition.At(probe)
		still, _ := r.Judge(deed.Case{Facts: f, At: probe, Moment: &later})
		require.Equal(t, may, still, "at %s", probe)
		at = next
	}
}

// Whatever the past, an answer of a republish rule holds until the moment it names.
func TestRepublishingAnswersAreGoodUntilTheySay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := upkeep.Republish{RuleBase: rule(t, condition.Node{Test: condition.Age, Match: condition.MatchOver,
			N: rapid.IntRange(1, 40).Draw(t, "age"), Unit: condition.Days}),
			Youngest: condition.Span{N: rapid.IntRange(0, 5).Draw(t, "youngest"),
				Unit: rapid.SampledFrom(condition.Units[:4]).Draw(t,
					"unit")}, ReadDays: rapid.IntRange(0, 9).Draw(t, "read"), Apart: rapid.IntRange(0, 60).Draw(t, "apart")}
		f := condition.Facts{Status: "published", Published: noon.Add(-time.Duration(rapid.IntRange(0, 2000).Draw(t,
			"out")) * time.Hour)}
		if rapid.Bool().Draw(t, "again") {
			f.LastRun = f.Published
		}
		goodUntilItSays(t, &r, &f)
	})
}

// In a round, each post has a place of its own and none that came out is before one
// that did not.
func TestShuffledRounds(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		seed, present := rapid.Uint64().Draw(t, "seed"), rapid.IntRange(0, 9).Draw(t, "present")
		fresh := deed.Shuffle(seed, present, rapid.IntRange(0, max(present-1, 0)).Draw(t, "last"),
			rapid.Int64Range(1, 1e9).Draw(t, "post"))
		done := deed.Shuffle(seed, max(present, 1), max(present, 1), rapid.Int64Range(1, 1e9).Draw(t, "other"))
		require.True(t, fresh.Less(done))
		require.False(t, done.Less(fresh))
	})
}

func TestOrdersAndActionsAreSaid(t *testing.T) {
	for _, o := range upkeep.Orders {
		assert.NotEmpty(t, o.Because())
	}
	assert.Equal(t, "This page was archived on 24 November 2026. What it says may no longer hold.",
		deed.Notice(noon, halifax))
}

// Whatever the days of notice and however long a post is kept, an answer of an expiry rule holds until the moment it names.
func TestExpiryAnswersAreGoodUntilTheySay(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		e := upkeep.Expire{RuleBase: rule(t, condition.Node{Test: condition.Age, Match: condition.MatchOver,
			N: rapid.IntRange(1, 40).Draw(t, "age"), Unit: condition.Days}), Action: upkeep.Archive, TellDays: rapid.IntRange(0, 20).Draw(t, "tell")}
		f := condition.Facts{Status: "published", Published: noon.Add(-time.Duration(rapid.IntRange(0, 2000).Draw(t, "out")) * time.Hour)}
		if rapid.Bool().Draw(t, "is kept") {
			f.KeptUntil = noon.Add(time.Duration(rapid.IntRange(-100, 1000).Draw(t, "kept")) * time.Hour)
		}
		goodUntilItSays(t, &e, &f)
	})
}

// What comes round each year has no post for most of it, which is no reason to worry.
func TestWhatComesRoundIsNotWarnedOf(t *testing.T) {
	t.Parallel()
	round := upkeep.Republish{RuleBase: rule(t, condition.Node{Test: condition.Field, Match: condition.MatchRound, Field: "event", N: 7, Unit: condition.Days})}
	assert.Empty(t, round.Warnings(nil, 0))
	always := upkeep.Republish{RuleBase: rule(t, evergreen)}
	assert.NotEmpty(t, always.Warnings(nil, 0))
}
