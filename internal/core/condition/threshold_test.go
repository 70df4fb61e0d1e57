package condition_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
)

func TestTheLinesThatAConditionDraws(t *testing.T) {
	t.Parallel()
	over := condition.Node{Test: condition.Age, Match: condition.MatchOver, N: 10, Unit: condition.Days}
	under := condition.Node{Test: condition.Age, Match: condition.MatchUnder, N: 2, Unit: condition.Years}
	changed := condition.Node{Test: condition.SinceChange, Match: condition.MatchOver, N: 3, Unit: condition.Weeks}
	group := func(g condition.Group, parts ...condition.Node) condition.Node {
		return condition.Node{Group: g, Parts: parts}
	}
	ten, two := condition.Span{N: 10, Unit: condition.Days}, condition.Span{N: 2, Unit: condition.Years}
	for name, c := range map[string]struct {
		node condition.Node
		want []condition.Threshold
	}{
		"alone":          {over, []condition.Threshold{{"", ten, true}}},
		"all of":         {group(condition.AllOf, changed, over, under), []condition.Threshold{{"parts[1]", ten, true}, {"parts[2]", two, false}}},
		"any of one":     {group(condition.AllOf, group(condition.AnyOf, over)), []condition.Threshold{{"parts[0].parts[0]", ten, true}}},
		"any of several": {group(condition.AnyOf, over, changed), nil},
		"none of":        {group(condition.AllOf, group(condition.NoneOf, over)), nil},
		"none":           {changed, nil},
	} {
		assert.Equal(t, c.want, condition.Thresholds(c.node), name)
	}
	assert.InDelta(t, 10, ten.Days(), 0)
	assert.InDelta(t, 731, two.Days(), 0)
	assert.InDelta(t, 1.0/24, condition.Span{N: 1, Unit: condition.Hours}.Days(), 1e-9)
}

func TestAllHoldsForEveryPost(t *testing.T) {
	t.Parallel()
	m := condition.All(civil.MustZone("Europe/Lisbon")).At(noon)
	for _, f := range []condition.Facts{{}, {Status: "binned", Category: "A"}} {
		caught, until := m.Judge(&f)
		assert.True(t, caught)
		assert.True(t, until.IsZero())
		assert.True(t, m.Explain(&f).Caught)
	}
}
