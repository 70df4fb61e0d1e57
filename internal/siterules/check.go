package siterules

import (
	"fmt"
	"slices"

	"dapper.example/internal/act"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store"
)

// Limits of a rule.
const (
	maxName     = 100
	maxDays     = 3660
	maxOutings  = 10_000
	maxARun     = 10_000
	maxSeconds  = 3600
	maxAtATime  = 50
	maxWordings = 50
	maxTags     = 30
)

// Problems lists what is wrong with a rule; one without problems can be saved.
func Problems(r store.Rule, site store.Site, channels []store.Channel, lists message.Lists) []*act.Invalid {
	c := checker{rule: r, channels: channels, lists: lists}
	if r.Name == "" || len([]rune(r.Name)) > maxName {
		c.say("name", "Give the rule a name of 1 to %d characters.", maxName)
	}
	for _, p := range condition.Check(r.Condition) {
		c.say(joined("condition", p.Path), "%s", p.Message)
	}
	for _, p := range r.Cadence.Problems(site.Zone(), 1) {
		c.say(joined("cadence", p.Path), "%s", p.Message)
	}
	if k, known := kinds[r.Kind]; known {
		k.check(&c)
	} else {
		c.say("kind", "There is no kind of rule %q.", r.Kind)
	}
	return c.found
}

// OnceProblems lists what is wrong with what is to be done once, to posts that were chosen or that match a condition.
func OnceProblems(r store.Rule, site store.Site) []*act.Invalid {
	c := checker{rule: r}
	if r.Settings.Only == nil {
		for _, p := range condition.Check(r.Condition) {
			c.say(joined("condition", p.Path), "%s", p.Message)
		}
	}
	if len(r.Settings.Only) > MostOnce {
		c.say("ids", "That is %d posts; the limit is %d at once.", len(r.Settings.Only), MostOnce)
	}
	kinds[store.Expire].check(&c)
	return c.found
}

func joined(a, b string) string {
	if b == "" {
		return a
	}
	return a + "." + b
}

type checker struct {
	rule     store.Rule
	channels []store.Channel
	lists    message.Lists
	found    []*act.Invalid
}

func (c *checker) say(field, format string, args ...any) {
	c.found = append(c.found, &act.Invalid{Field: field, Message: fmt.Sprintf(format, args...)})
}

func (c *checker) between(field string, n, least, most int, what string) {
	if n < least || n > most {
		c.say(field, "%d %s is out of range; say %d to %d.", n, what, least, most)
	}
}

// bringsOut checks what kinds that bring posts out have in common.
func (c *checker) bringsOut(orderKnown bool) {
	s := c.rule.Settings
	if !orderKnown {
		c.say("order", "There is no order %q.", s.Order)
	}
	c.span("youngest", s.Youngest)
	c.span("oldest", s.Oldest)
	c.between("apart", s.Apart, 0, maxDays, "days")
	c.between("most", s.Most, 0, maxOutings, "outings")
	for _, p := range (cadence.Bounds{From: s.From, To: s.To}).Problems() {
		c.say(p.Path, "%s", p.Message)
	}
	if c.rule.Cadence.By == cadence.Hand {
		c.say("cadence.by", "A rule that brings posts out needs a cadence or openings.")
	}
}

func (c *checker) span(field string, s condition.Span) {
	if s.N < 0 || s.N > 100_000 || s.N > 0 && !slices.Contains(condition.Units, s.Unit) {
		c.say(field, "This age can’t be read; enter a number of hours, days, weeks, months or years.")
	}
}
