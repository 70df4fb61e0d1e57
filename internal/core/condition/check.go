package condition

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letters"
)

// Limits of a tree.
const (
	MaxTests  = 100
	MaxDepth  = 8
	MaxValues = 200
	maxText   = 200     // characters of one value or field name
	maxNumber = 1 << 30 // of a count
	maxUnits  = 100_000 // of a span
)

// Check lists all that is wrong with a condition; one without problems can be compiled.
func Check(root Node) []check.FieldProblem {
	c := checker{}
	if root.IsZero() {
		c.say("", "There are no conditions, so it would match every post. Add at least one.")
		return c.found
	}
	c.node(root, "", 1)
	if c.tests > MaxTests {
		c.say("", "There are %d conditions; there may be %d at most.", c.tests, MaxTests)
	}
	return c.found
}

type checker struct {
	found []check.FieldProblem
	tests int
}

func (c *checker) say(path, format string, args ...any) {
	c.found = append(c.found, check.FieldProblem{Path: path, Message: fmt.Sprintf(format, args...)})
}

func below(path, more string) string {
	if path == "" {
		return more
	}
	return path + "." + more
}

func (c *checker) node(n Node, path string, depth int) {
	if depth > MaxDepth {
		c.say(path, "Groups are nested more than %d deep here; put some side by side.", MaxDepth)
		return
	}
	if n.Group == "" {
		c.test(n, path)
		return
	}
	if n.Test != "" {
		c.say(path, "This is both a group and a condition; it must be one of them.")
		return
	}
	if n.Group != AllOf && n.Group != AnyOf && n.Group != NoneOf {
		c.say(below(path, "group"), "There is no group %q; it is all, any or none.", n.Group)
		return
	}
	if len(n.Parts) == 0 {
		c.say(below(path, "parts"), "This group is empty. Add a condition to it, or remove it.")
		return
	}
	for i, part := range n.Parts {
		c.node(part, below(path, fmt.Sprintf("parts[%d]", i)), depth+1)
	}
	if n.Group == AllOf {
		c.contradictions(n, path)
	}
}

func (c *checker) test(n Node, path string) {
	c.tests++
	form, way, ok := wayOf(n)
	if form.Test == "" {
		if n.Test == "" {
			c.say(below(path, "test"), "Choose what this condition looks at.")
		} else {
			c.say(below(path, "test"), "There is no condition %q.", n.Test)
		}
		return
	}
	if !ok {
		c.say(below(path, "match"), "%s cannot be compared by %q. Choose one of: %s.", form.Label, n.Match,
			matches(form))
		return
	}
	for _, need := range way.Needs {
		c.need(n, form, need, path)
	}
}

func matches(f Form) string {
	var names []string
	for _, w := range f.Ways {
		names = append(names, string(w.Match))
	}
	return strings.Join(names, ", ")
}

func (c *checker) need(n Node, form Form, need Need, path string) {
	switch need {
	case NeedValues:
		c.values(n, form, path)
	case NeedValue:
		if len(n.Values) != 1 || strings.TrimSpace(n.Values[0]) == "" {
			c.say(below(path, "values"), "Enter what to compare with.")
		}
		c.lengths(n, path)
		if n.Test == Field && (n.Match == MatchOver || n.Match == MatchUnder) && len(n.Values) == 1 {
			if _, err := strconv.ParseFloat(n.Values[0], 64); err != nil {
				if _, ok := dateOf(n.Values[0], civil.Zone{}); !ok {
					c.say(below(path, "values"),
						"%q is neither a number nor a date (such as 2026-11-24), so nothing can be more or less than it.", n.Values[0])
				}
			}
		}
	case NeedField:
		if strings.TrimSpace(n.Field) == "" {
			c.say(below(path, "field"), "Name the custom field.")
		} else if len([]rune(n.Field)) > maxText {
			c.say(below(path, "field"), "The field's name is longer than %d characters.", maxText)
		}
	case NeedNumber:
		if n.N < 0 || n.N > maxNumber {
			c.say(below(path, "n"), "The number must be 0 or more, up to %d.", maxNumber)
		}
		if n.N == 0 && n.Match == MatchUnder {
			c.say(below(path, "n"), "Nothing is fewer than 0. Use 1 for “none”.")
		}
	case NeedSpan:
		if !slices.Contains(Units, n.Unit) {
			c.say(below(path, "unit"), "Choose hours, days, weeks, months or years.")
		}
		least := 1
		if n.Match == MatchPassed || n.Match == MatchRound {
			least = 0
		}
		if n.Match == MatchRound {
			if most := mostRound[n.Unit]; most == 0 {
				c.say(below(path, "unit"), "A day that comes round each year is told in days, weeks or months.")
			} else if n.N > most {
				c.say(below(path, "n"), "It comes round each year: choose at most %d %s.", most, n.Unit)
			}
		}
		if n.N < least || n.N > maxUnits {
			c.say(below(path, "n"), "Enter how many %s: %d to %d.", n.Unit, least, maxUnits)
		}
	case NeedDate:
		if _, err := civil.ParseDate(n.Date); err != nil {
			c.say(below(path, "date"), "%q is not a date; write it as 2026-11-24.", n.Date)
		}
	case NeedDays:
		if n.Days < 1 || n.Days > 3660 {
			c.say(below(path, "days"), "Enter over how many days clicks are counted: 1 to 3660.")
		}
	}
}

func (c *checker) values(n Node, form Form, path string) {
	if len(n.Values) == 0 {
		c.say(below(path, "values"), "Choose at least one.")
		return
	}
	if len(n.Values) > MaxValues {
		c.say(below(path, "values"), "There are %d values; a condition takes %d at most.", len(n.Values), MaxValues)
		return
	}
	for i, v := range n.Values {
		at := below(path, fmt.Sprintf("values[%d]", i))
		switch {
		case strings.TrimSpace(v) == "":
			c.say(at, "This value is empty.")
		case form.From == "list" && !slices.Contains(form.Choices, v):
			c.say(at, "There is no %s %q. Choose of: %s.", strings.ToLower(form.Label), v,
				strings.Join(form.Choices, ", "))
		case n.Test == Text && strings.ContainsFunc(v, func(r rune) bool { return r == ' ' || r == '\n' || r == '\t' }):
			c.say(at, "%q is more than one word. Write one word a value.", v)
		}
	}
	c.lengths(n, path)
}

func (c *checker) lengths(n Node, path string) {
	for i, v := range n.Values {
		if len([]rune(v)) > maxText {
			c.say(below(path, fmt.Sprintf("values[%d]", i)), "This value is longer than %d characters.", maxText)
		}
	}
}

// contradictions finds parts of an all-of group that can never hold together.
func (c *checker) contradictions(n Node, path string) {
	never := func(i int, format string, args ...any) {
		c.say(below(path, fmt.Sprintf("parts[%d]", i)), "This can never hold together with another part: "+format,
			args...)
	}
	for i, a := range n.Parts {
		for _, b := range n.Parts[:i] {
			if a.IsGroup() || b.IsGroup() || a.Test != b.Test || a.Field != b.Field || a.Days != b.Days {
				continue
			}
			switch {
			case opposite(a.Match, b.Match, MatchYes, MatchNo), opposite(a.Match, b.Match, MatchPresent, MatchMissing):
				never(i, "one says the opposite of the other.")
			case opposite(a.Match, b.Match, MatchOver, MatchUnder) && neverBetween(a, b):
				never(i, "nothing is more than the one and less than the other.")
			case a.Test != Tags && a.Test != Text && opposite(a.Match, b.Match, MatchAny, MatchNone) && covers(a, b):
				never(i, "all that the one asks for, the other rules out.")
			case a.Test != Tags && a.Test != Text && a.Match == MatchAny && b.Match == MatchAny &&
				!overlap(a.Values, b.Values):
				never(i, "a post has only one %s.", a.Test)
			}
		}
	}
}

func opposite(a, b, one, other Match) bool { return a == one && b == other || a == other && b == one }

// neverBetween tells whether nothing is over the one and under the other.
func neverBetween(a, b Node) bool {
	if a.Match != MatchOver {
		a, b = b, a
	}
	if a.Test == Field {
		return false
	}
	if a.Unit == "" {
		return b.N <= a.N+1
	}
	_, most := Span{b.N, b.Unit}.days()
	least, _ := Span{a.N, a.Unit}.days()
	if a.Unit == b.Unit {
		return b.N <= a.N
	}
	return most <= least
}

// covers tells whether the none-of test rules out all that the any-of test asks for.
func covers(a, b Node) bool {
	if a.Match == MatchNone {
		a, b = b, a
	}
	for _, v := range a.Values {
		if !slices.ContainsFunc(b.Values, func(w string) bool { return letters.Equal(v, w) }) {
			return false
		}
	}
	return true
}

func overlap(a, b []string) bool {
	return slices.ContainsFunc(a, func(v string) bool {
		return slices.ContainsFunc(b, func(w string) bool { return letters.Equal(v, w) })
	})
}
