package condition

import "time"

// Hints are what a condition surely asks of every post it catches, for leaving out most
// others cheaply. They never leave out a post that the condition catches; they let in
// many that it does not.
type Hints struct {
	Statuses        []string // nil: any
	Categories      []string // without regard to case
	Authors         []string
	Imports         []string
	Evergreen       *bool
	PublishedBefore time.Time // zero: any time
}

// Hints returns what the condition surely asks at a moment.
func (c *Condition) Hints(at time.Time) Hints {
	var h Hints
	c.hint(c.node, at, &h)
	return h
}

func (c *Condition) hint(n Node, at time.Time, h *Hints) {
	if n.Group == AllOf || n.Group == AnyOf && len(n.Parts) == 1 {
		for _, p := range n.Parts {
			c.hint(p, at, h)
		}
		return
	}
	switch {
	case n.IsGroup():
	case n.Test == Evergreen:
		yes := n.Match == MatchYes
		h.Evergreen = &yes
	case n.Test == Age && n.Match == MatchOver:
		least, _ := Span{n.N, n.Unit}.Bounds()
		if before := at.Add(-least); h.PublishedBefore.IsZero() || before.Before(h.PublishedBefore) {
			h.PublishedBefore = before
		}
	case n.Match != MatchAny:
	case n.Test == Status:
		h.Statuses = n.Values
	case n.Test == Category:
		h.Categories = n.Values
	case n.Test == Author:
		h.Authors = n.Values
	case n.Test == Import:
		h.Imports = n.Values
	}
}
