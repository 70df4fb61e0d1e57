package condition

import (
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
)

// All is a condition that holds for every post.
func All(zone civil.Zone) *Condition {
	c := &Condition{node: Node{Group: AllOf}, zone: zone, tests: make(map[Test]bool)}
	c.root = c.part(c.node, "")
	return c
}

// Threshold is an age in a condition: from it on posts are caught, or up to it.
type Threshold struct {
	Path string // of the test in the tree; "" is the root
	Span Span
	Over bool // posts are caught that are at least so old; otherwise those that are younger
}

// Thresholds are the ages since publication that a post must have to be caught, in the order of the tree. What stands
// beside others in an any-of group, or in a none-of group, is not among them: it draws no line.
func Thresholds(n Node) []Threshold {
	return thresholds(n, "")
}

func thresholds(n Node, path string) (all []Threshold) {
	if n.Group == AllOf || n.Group == AnyOf && len(n.Parts) == 1 {
		for i, p := range n.Parts {
			all = append(all, thresholds(p, below(path, fmt.Sprintf("parts[%d]", i)))...)
		}
		return all
	}
	if n.Test == Age && (n.Match == MatchOver || n.Match == MatchUnder) {
		return []Threshold{{path, Span{n.N, n.Unit}, n.Match == MatchOver}}
	}
	return nil
}

// ComesRound tells whether the condition has a test that holds at some time of every year.
func (c *Condition) ComesRound() bool { return c.node.comesRound() }

func (n Node) comesRound() bool {
	return n.Match == MatchRound || slices.ContainsFunc(n.Parts, Node.comesRound)
}

// InCategories are the categories outside of which the condition surely catches no post, as it names them; nil: it may
// catch posts of any.
func (c *Condition) InCategories() []string { return c.Hints(time.Time{}).Categories }

// Days is about how long a span is, in days of 24 hours.
func (s Span) Days() float64 {
	fewest, most := s.days()
	return (fewest + most) / 2
}
