package condition_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/condition"
)

// A new test has all that its way of comparing needs, but for what only an editor can say.
func TestANewTest(t *testing.T) {
	for _, c := range []struct {
		test  condition.Test
		match condition.Match
		want  condition.Node
	}{
		{condition.Category, condition.MatchAny, condition.Node{}},
		{condition.Age, condition.MatchOver, condition.Node{N: 3, Unit: condition.Days}},
		{condition.Age, condition.MatchBefore, condition.Node{}},
		{condition.WordCount, condition.MatchOver, condition.Node{}},
		{condition.WordCount, condition.MatchUnder, condition.Node{N: 1}},
		{condition.Clicks, condition.MatchUnder, condition.Node{N: 1, Days: 30}},
		{condition.Evergreen, condition.MatchYes, condition.Node{}},
	} {
		var found bool
		for _, f := range condition.Forms {
			for _, w := range f.Ways {
				if f.Test == c.test && w.Match == c.match {
					c.want.Test, c.want.Match, found = c.test, c.match, true
					assert.Equal(t, c.want, condition.Begin(f, w))
				}
			}
		}
		assert.True(t, found, "%s %s", c.test, c.match)
	}
}
