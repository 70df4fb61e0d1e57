package siterules

import (
	"slices"
	"strings"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/store"
)

// republish is the kind of rules that bring posts out again.
type republish struct{}

func (republish) begin(r *store.Rule, _ []int64) {
	r.Cadence.Unit = cadence.Weeks
	r.Settings = unused()
}

// unused are settings as forms begin with them, those that a kind has no use for too.
func unused() store.RuleSettings {
	return store.RuleSettings{Action: string(upkeep.Archive), MostARun: carefulRun, AtATime: 1,
		Order: string(upkeep.Longest), Apart: 30,
		Youngest: condition.Span{N: 3, Unit: condition.Months}, Oldest: condition.Span{Unit: condition.Years},
		Hashtags: message.Hashtags{Sources: []message.Source{message.FromCategory, message.FromTags},
			Style: message.Joined}}
}

func (republish) own(s store.RuleSettings) store.RuleSettings {
	own := store.RuleSettings{Youngest: s.Youngest, Apart: s.Apart, AtATime: s.AtATime, Order: s.Order,
		Weekdays: s.Weekdays, From: s.From, To: s.To, ReadDays: s.ReadDays, Unread: s.Unread && s.ReadDays > 0}
	if len(s.Channels) > 0 {
		own.Channels, own.SayAfter, own.Say = s.Channels, s.SayAfter, strings.TrimSpace(s.Say)
	}
	return own
}

// maxSayAfter is how long after a post came out again it may be shared, in minutes: 30 days.
const maxSayAfter = 30 * 24 * 60

func (republish) check(c *checker) {
	c.bringsOut(slices.Contains(upkeep.Orders, upkeep.Order(c.rule.Settings.Order)))
	s := c.rule.Settings
	c.between("atATime", s.AtATime, 1, maxAtATime, "posts at a time")
	c.between("readDays", s.ReadDays, 0, maxTellDays, "days")
	if len(s.Channels) > 0 {
		c.speaks(s)
		c.between("sayAfter", s.SayAfter, 0, maxSayAfter, "minutes")
		c.wordings("say", []string{s.Say})
	}
}

func (republish) rule(f *Frame, r store.Rule, base deed.RuleBase) (deed.Rule, error) {
	s := r.Settings
	base.Pace.Gap = f.Scene.Rhythm.Gap
	rule := &upkeep.Republish{RuleBase: base, Youngest: s.Youngest, AtATime: max(s.AtATime, 1),
		Order: upkeep.Order(s.Order), Apart: s.Apart, Bounds: f.bounds(s), ReadDays: s.ReadDays, Unread: s.Unread}
	for _, id := range s.Channels {
		if f.channelOf(id).ID == 0 {
			continue // it was deleted since
		}
		w, err := message.ReadWording(s.Say)
		if err != nil {
			return nil, err
		}
		rule.Says = append(rule.Says, deed.Announcement{Channel: id, After: s.SayAfter, Wording: w})
	}
	return rule, nil
}
