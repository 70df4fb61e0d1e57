package condition

import "slices"

// Begin is the test of a form compared in one of its ways, as it is when it is new.
func Begin(f Form, w Way) Node {
	n := Node{Test: f.Test, Match: w.Match}
	if slices.Contains(w.Needs, NeedNumber) && w.Match == MatchUnder {
		n.N = 1 // fewer than none is nothing
	}
	if slices.Contains(w.Needs, NeedSpan) {
		n.Unit = Days
		if f.Test != Field {
			n.N = 3
		}
	}
	if slices.Contains(w.Needs, NeedDays) {
		n.Days = 30
	}
	return n
}
