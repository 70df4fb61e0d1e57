package rulebook

import (
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/store"
)

// Begin is a rule of a kind as it is when it is new: nameless, for no post yet, careful. A
// reshare rule uses the channel.
func Begin(kind store.RuleKind, channel int64) store.Rule {
	r := store.Rule{Kind: kind, Condition: condition.Node{Group: condition.AllOf},
		Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock("12:00"), Sway: 45, Weekdays: rhythm.On(time.Monday)}}
	s := &r.Settings
	s.Action, s.MostARun, s.AtATime, s.Order, s.Apart = string(upkeep.Archive), 20, 1, string(upkeep.Longest), 30
	s.Youngest, s.Oldest = condition.Span{N: 3, Unit: condition.Months}, condition.Span{Unit: condition.Years}
	s.Hashtags = message.Hashtags{Sources: []message.Source{message.FromCategory, message.FromTags}, Style: message.Joined}
	switch kind {
	case store.Expire:
		r.Cadence.At, r.Cadence.Sway = civil.MustClock("04:00"), 0 // while nobody reads
		s.Youngest = condition.Span{Unit: condition.Months}
	case store.Republish:
		r.Cadence.Unit = cadence.Weeks
	case store.Reshare:
		r.Channel = channel
		s.Wordings = []string{"{title} {link} {hashtags}"}
	}
	return r
}
