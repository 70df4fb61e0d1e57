package siterules

import (
	"slices"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/store"
)

// expire is the kind of rules that take posts away.
type expire struct{}

// carefulRun is how many posts a new expiry rule takes a run.
const carefulRun = 20

func (expire) begin(r *store.Rule, _ []int64) {
	r.Cadence.At, r.Cadence.Sway = civil.MustClock("04:00"), 0 // while nobody reads
	r.Settings = unused()
	r.Settings.Youngest = condition.Span{Unit: condition.Months}
}

func (expire) own(s store.RuleSettings) store.RuleSettings {
	return store.RuleSettings{Action: s.Action, MostARun: s.MostARun, MostSeconds: s.MostSeconds}
}

func (expire) check(c *checker) {
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

func (expire) rule(f *Frame, r store.Rule, base deed.RuleBase) (deed.Rule, error) {
	return &upkeep.Expire{RuleBase: base, Action: upkeep.Action(r.Settings.Action), MostARun: r.Settings.MostARun,
		Took: f.takes[r.ID], Allowed: r.Allowed}, nil
}
