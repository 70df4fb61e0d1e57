package rulebook

import (
	"fmt"
	"slices"
	"strings"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/planning"
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
func Problems(r store.Rule, site store.Site, channels []store.Channel) []*planning.Invalid {
	c := checker{rule: r}
	if r.Name == "" || len([]rune(r.Name)) > maxName {
		c.say("name", "Give the rule a name of 1 to %d characters.", maxName)
	}
	for _, p := range condition.Check(r.Condition) {
		c.say(joined("condition", p.Path), "%s", p.Message)
	}
	for _, p := range r.Cadence.Problems(site.Zone(), 1) {
		c.say(joined("cadence", p.Path), "%s", p.Message)
	}
	switch r.Kind {
	case store.Expire:
		c.expire()
	case store.Republish:
		c.bringsOut(r.Settings.Order, upkeep.Orders)
		c.between("atATime", r.Settings.AtATime, 1, maxAtATime, "posts at a time")
	case store.Reshare:
		orders := make([]upkeep.Order, len(reshare.Orders))
		for i, o := range reshare.Orders {
			orders[i] = upkeep.Order(o)
		}
		c.bringsOut(r.Settings.Order, orders)
		c.reshare(channels)
	default:
		c.say("kind", "There is no kind of rule %q.", r.Kind)
	}
	return c.found
}

func joined(a, b string) string {
	if b == "" {
		return a
	}
	return a + "." + b
}

type checker struct {
	rule  store.Rule
	found []*planning.Invalid
}

func (c *checker) say(field, format string, args ...any) {
	c.found = append(c.found, &planning.Invalid{Field: field, Message: fmt.Sprintf(format, args...)})
}

func (c *checker) between(field string, n, least, most int, what string) {
	if n < least || n > most {
		c.say(field, "%d %s is out of range; say %d to %d.", n, what, least, most)
	}
}

func (c *checker) expire() {
	s := c.rule.Settings
	if !slices.Contains(upkeep.Actions, upkeep.Action(s.Action)) {
		c.say("action", "There is no action %q; it is archive, draft or bin.", s.Action)
	}
	c.between("mostARun", s.MostARun, 0, maxARun, "posts a run")
	c.between("mostSeconds", s.MostSeconds, 0, maxSeconds, "seconds a run")
	if by := c.rule.Cadence; by.By == cadence.Openings || by.By == cadence.Every && by.Unit == cadence.Minutes {
		c.say("cadence.by", "An expiry rule runs hourly, daily or weekly, or by hand only.")
	}
}

func (c *checker) bringsOut(order string, orders []upkeep.Order) {
	s := c.rule.Settings
	if !slices.Contains(orders, upkeep.Order(order)) {
		c.say("order", "There is no order %q.", order)
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

func (c *checker) reshare(channels []store.Channel) {
	s := c.rule.Settings
	if !slices.ContainsFunc(channels, func(ch store.Channel) bool { return ch.ID == c.rule.Channel }) {
		c.say("channel", "Choose one of the site's channels.")
	}
	if len(s.Wordings) == 0 || len(s.Wordings) > maxWordings {
		c.say("wordings", "A rule has 1 to %d wordings.", maxWordings)
	}
	for i, text := range s.Wordings {
		if _, err := message.ReadWording(text); err != nil {
			c.say(fmt.Sprintf("wordings[%d]", i), "%s", err)
		}
	}
	for i, source := range s.Hashtags.Sources {
		if !slices.Contains(message.Sources, source) {
			c.say(fmt.Sprintf("hashtags.sources[%d]", i), "There is no source of hashtags %q.", source)
		}
	}
	if s.Hashtags.Style != "" && !slices.Contains(message.Styles, s.Hashtags.Style) {
		c.say("hashtags.style", "There is no style of hashtags %q.", s.Hashtags.Style)
	}
	if slices.Contains(s.Hashtags.Sources, message.FromField) && strings.TrimSpace(s.Hashtags.Field) == "" {
		c.say("hashtags.field", "Name the custom field that holds hashtags.")
	}
	c.between("hashtags.list", len(s.Hashtags.List), 0, maxTags, "hashtags")
	if problem := message.CheckParams(s.Params); problem != "" {
		c.say("params", "%s", problem)
	}
	if !s.Oldest.IsZero() && !s.Youngest.IsZero() && s.Oldest.N <= s.Youngest.N && s.Oldest.Unit == s.Youngest.Unit {
		c.say("oldest", "No post can be older than %s and younger than %s. Raise the second age.", s.Youngest, s.Oldest)
	}
}
