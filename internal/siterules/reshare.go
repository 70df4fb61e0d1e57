package siterules

import (
	"fmt"
	"slices"
	"strings"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/store"
)

// reshares is the kind of rules that share posts on a channel.
type reshares struct{}

func (reshares) begin(r *store.Rule, channel int64) {
	r.Channel, r.Settings = channel, unused()
	r.Settings.Wordings = []string{"{title} {link} {hashtags}"}
}

func (reshares) own(s store.RuleSettings) store.RuleSettings {
	s.Action, s.MostARun, s.MostSeconds, s.AtATime = "", 0, 0, 0
	return s
}

func (reshares) speaks() bool { return true }

func (reshares) check(c *checker) {
	c.bringsOut(slices.Contains(reshare.Orders, reshare.Order(c.rule.Settings.Order)))
	s := c.rule.Settings
	if !slices.ContainsFunc(c.channels, func(ch store.Channel) bool { return ch.ID == c.rule.Channel }) {
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

func (reshares) rule(f *Frame, r store.Rule, base deed.RuleBase) (deed.Rule, error) {
	s := r.Settings
	base.Pace.Gap = f.channelOf(r.Channel).Apart
	rule := &reshare.Reshare{RuleBase: base, Channel: r.Channel, Youngest: s.Youngest, Oldest: s.Oldest, Apart: s.Apart,
		Most:  s.Most,
		Order: reshare.Order(s.Order), Bounds: f.bounds(s), Hashtags: s.Hashtags, Params: s.Params, Short: s.Short}
	for _, text := range s.Wordings {
		w, err := message.ReadWording(text)
		if err != nil {
			return nil, err
		}
		rule.Wordings = append(rule.Wordings, w)
	}
	return rule, nil
}
