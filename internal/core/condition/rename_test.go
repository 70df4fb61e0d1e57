package condition_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/condition"
)

func TestANameInAConditionIsReplaced(t *testing.T) {
	of := func(values ...string) condition.Node {
		return condition.Node{Test: condition.Category, Match: condition.MatchAny, Values: values}
	}
	tags := condition.Node{Test: condition.Tags, Match: condition.MatchAny, Values: []string{"Ponds"}}
	group := func(parts ...condition.Node) condition.Node {
		return condition.Node{Group: condition.AllOf, Parts: parts}
	}
	for name, c := range map[string]struct {
		before, after condition.Node
		asked         bool
	}{
		"itself":           {of("Ponds"), of("Water"), true},
		"in another case":  {of("Paths", "PONDS"), of("Paths", "Water"), true},
		"another one":      {of("Paths"), of("Paths"), false},
		"a tag":            {tags, tags, false},
		"both":             {of("Water", "Ponds"), of("Water"), true},
		"deep within":      {group(tags, group(of("Ponds"), of("Paths")), of("Ponds")), group(tags, group(of("Water"), of("Paths")), of("Water")), true},
		"not in any part":  {group(tags, of("Paths")), group(tags, of("Paths")), false},
		"nothing at all":   {condition.Node{}, condition.Node{}, false},
		"not one of these": {group(of("Ponds", "ponds")), group(of("Water")), true},
	} {
		whole := group(c.before)
		after, asked := whole.Renamed(condition.Category, "Ponds", "Water")
		assert.Equal(t, group(c.after), after, name)
		assert.Equal(t, c.asked, asked, name)
		assert.Equal(t, group(c.before), whole, "%s: the condition itself stays", name)
	}
}
