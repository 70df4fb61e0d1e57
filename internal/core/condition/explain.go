package condition

import (
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/core/words"
)

// Reason is what one test found.
type Reason struct {
	Path  string `json:"path"`  // of the test in the tree
	Holds bool   `json:"holds"` // whether the test holds
	Text  string `json:"text"`  // a clause, such as "its category is Sky Guide"
}

// Verdict is the answer for one post with the tests that decided it.
type Verdict struct {
	Caught  bool     `json:"caught"`
	Because []Reason `json:"because"`
}

// String is the verdict in words: the clauses that decided it.
func (v Verdict) String() string {
	var clauses []string
	for _, r := range v.Because {
		clauses = append(clauses, r.Text)
	}
	return strings.Join(clauses, "; ")
}

// Explain answers for one post with the reasons: of a post that is caught those that
// let it be, of one that is not those that kept it out.
func (k *Moment) Explain(f *Facts) Verdict {
	var reasons []Reason
	caught := k.c.root.explain(f, &k.m, &reasons)
	return Verdict{caught, reasons}
}

func (g *group) explain(f *Facts, at *moment, reasons *[]Reason) bool {
	var holding, failing []Reason
	result := g.holds(f, at)
	for _, p := range g.parts {
		var these []Reason
		if p.explain(f, at, &these) {
			holding = append(holding, these...)
		} else {
			failing = append(failing, these...)
		}
	}
	switch {
	case g.kind == AllOf && result, g.kind == AnyOf && result:
		*reasons = append(*reasons, holding...)
	case g.kind == NoneOf && !result:
		for _, r := range holding {
			r.Text += ", which is ruled out"
			*reasons = append(*reasons, r)
		}
	default:
		*reasons = append(*reasons, failing...)
	}
	return result
}

func (l *leaf) explain(f *Facts, at *moment, reasons *[]Reason) bool {
	holds := l.holds(f, at)
	*reasons = append(*reasons, Reason{l.path, holds, l.says(f, at)})
	return holds
}

// says states what the test found, whichever way it went.
func (l *leaf) says(f *Facts, at *moment) string {
	switch l.Test {
	case Kind:
		if f.Kind == "link" {
			return "it is a link item"
		}
		return "it is a " + f.Kind
	case Status:
		return "it is " + f.Status
	case Category:
		return named("its category is ", f.Category, "it has no category")
	case Author:
		return "it is by " + f.Author
	case Import:
		return named("it came with the import ", f.Import, "it came with no import")
	case Tags:
		return l.found("it is tagged ", "it is not tagged ", f.hasTag)
	case Text:
		return l.found("its text has the word ", "its text has not the word ", f.hasWord)
	case Title:
		return has(l, f, at, "its title", "contains")
	case Slug:
		return fmt.Sprintf("its slug is “%s”", f.Slug)
	case Age:
		return ageOf("out", f.Published, at)
	case SinceChange:
		return ageOf("last changed", f.Changed, at)
	case Field:
		return l.saysField(f, at)
	case OnTop:
		return either(f.OnTop, "it is kept on top", "it is not kept on top")
	case CommentsOpen:
		return either(f.takesComments(at), "its comments are open", "its comments are closed")
	case Comments:
		return "it has " + words.Count(f.Comments, "comment")
	case Image:
		return either(f.FeaturedImage, "it has a featured image", "it has no featured image")
	case Evergreen:
		return either(f.Evergreen, "it is evergreen", "it is not evergreen")
	case WordCount:
		return "it has " + words.Count(f.Words, "word")
	case Clicks:
		return fmt.Sprintf("it had %s in the last %s", words.Count(f.clicksSince(at.today.Add(-l.Days)), "click"),
			words.Count(l.Days, "day"))
	case Shared:
		return "it has been shared " + words.Count(f.Shared, "time")
	}
	return "it has been republished " + words.Count(f.Republished, "time")
}

func named(words, name, none string) string {
	if name == "" {
		return none
	}
	return words + name
}

func either(is bool, yes, no string) string {
	if is {
		return yes
	}
	return no
}

func has(l *leaf, f *Facts, at *moment, what, verb string) string {
	if l.holds(f, at) {
		return fmt.Sprintf("%s %s “%s”", what, verb, l.Values[0])
	}
	return fmt.Sprintf("%s does not contain “%s”", what, l.Values[0])
}

// found names the values that are there, or where none is, those that are not.
func (l *leaf) found(is, not string, has func(string) bool) string {
	var there, absent []string
	for i, v := range l.folded {
		if has(v) {
			there = append(there, l.Values[i])
		} else {
			absent = append(absent, l.Values[i])
		}
	}
	if len(there) > 0 && (l.Match != MatchAll || len(absent) == 0) {
		return is + words.List(there, "and")
	}
	return not + words.List(absent, "or")
}

func ageOf(what string, since time.Time, at *moment) string {
	if since.IsZero() {
		return "it is not " + what + " yet"
	}
	d, _ := at.zone.Local(since)
	if what == "out" {
		return fmt.Sprintf("it came out %s, on %s", ago(since, at), d.Words(at.today))
	}
	return fmt.Sprintf("it was %s %s, on %s", what, ago(since, at), d.Words(at.today))
}

// ago says how long ago a moment was, in days of the zone or in hours.
func ago(since time.Time, at *moment) string {
	switch gone := at.at.Sub(since); {
	case gone < 0:
		return "in the future"
	case gone < 48*time.Hour:
		return words.Count(int(gone/time.Hour), "hour") + " ago"
	}
	return words.Count(at.today.Sub(at.zone.DateOf(since)), "day") + " ago"
}

func (l *leaf) saysField(f *Facts, at *moment) string {
	value := strings.TrimSpace(f.Fields[l.Field])
	if value == "" {
		return fmt.Sprintf("it has no field “%s”", l.Field)
	}
	if _, ok := dateOf(value, l.zone); ok && l.Match == MatchRound {
		_, ends, _ := l.round(f, at)
		day := l.zone.DateOf(ends.Add(-time.Second))
		return fmt.Sprintf("its “%s” comes round on %s, %s", l.Field, day.Words(at.today), inDays(day.Sub(at.today)))
	}
	if l.Match != MatchPassed && l.Match != MatchRound {
		if l.Match == MatchOver || l.Match == MatchUnder {
			if _, ok := compare(value, l.Values[0], l.zone); !ok {
				return fmt.Sprintf("its field “%s” holds “%s”, which cannot be compared with %s", l.Field, value,
					l.Values[0])
			}
		}
		return fmt.Sprintf("its field “%s” is “%s”", l.Field, value)
	}
	end, ok := dateOf(value, l.zone)
	if !ok {
		return fmt.Sprintf("its field “%s” holds “%s”, which is not a date", l.Field, value)
	}
	d := l.zone.DateOf(end.Add(-time.Second))
	switch days := at.today.Sub(d); {
	case at.at.Before(end):
		return fmt.Sprintf("its “%s”, %s, is still to come", l.Field, d.Words(at.today))
	case days == 0:
		return fmt.Sprintf("its “%s”, %s, passed today", l.Field, d.Words(at.today))
	default:
		return fmt.Sprintf("its “%s”, %s, passed %s ago", l.Field, d.Words(at.today), words.Count(days, "day"))
	}
}

func inDays(days int) string {
	if days == 0 {
		return "today"
	}
	return "in " + words.Count(days, "day")
}

// DateFields are the custom fields that the condition reads as dates.
func (c *Condition) DateFields() []string {
	var fields []string
	for _, l := range c.timed {
		if l.Test == Field && !slices.Contains(fields, l.Field) {
			fields = append(fields, l.Field)
		}
	}
	return fields
}

// BadDates returns the custom fields that the condition reads as dates and of which
// the post holds something else.
func (c *Condition) BadDates(f *Facts) []string {
	var bad []string
	for _, l := range c.timed {
		if l.Test != Field {
			continue
		}
		if value := strings.TrimSpace(f.Fields[l.Field]); value != "" {
			if _, ok := dateOf(value, c.zone); !ok {
				bad = append(bad, l.Field)
			}
		}
	}
	return bad
}

func number(n int) string { return strconv.Itoa(n) }
