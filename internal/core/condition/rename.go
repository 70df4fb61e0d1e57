package condition

import (
	"slices"
	"strings"
)

// Renamed is the condition with another name in place of one that a test asks for, without regard
// to case, and whether it asked for it at all. The condition itself stays as it is.
func (n Node) Renamed(test Test, from, to string) (Node, bool) {
	asked := false
	if n.Test == test {
		for i, value := range n.Values {
			if !strings.EqualFold(value, from) {
				continue
			}
			if !asked {
				n.Values = slices.Clone(n.Values)
			}
			asked, n.Values[i] = true, to
		}
		if asked {
			n.Values = uniqueFold(n.Values)
		}
	}
	cloned := false
	for i, part := range n.Parts {
		renamed, did := part.Renamed(test, from, to)
		if !did {
			continue
		}
		if !cloned {
			n.Parts, cloned = slices.Clone(n.Parts), true
		}
		asked, n.Parts[i] = true, renamed
	}
	return n, asked
}

// uniqueFold keeps the first of texts that differ in case only.
func uniqueFold(texts []string) []string {
	var kept []string
	for _, text := range texts {
		if !slices.ContainsFunc(kept, func(k string) bool { return strings.EqualFold(k, text) }) {
			kept = append(kept, text)
		}
	}
	return kept
}
