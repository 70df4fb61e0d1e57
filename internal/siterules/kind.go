package siterules

import (
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// kind is what is known of a kind of rule beside what core does with it: how one begins,
// what an editor may set, and how it is read from the store. Each kind has a file here.
type kind interface {
	// begin makes a new rule of the kind, careful and for no post yet.
	begin(r *store.Rule, channels []int64)
	// own is what the kind uses of the settings that an editor sent.
	own(s store.RuleSettings) store.RuleSettings
	// check says what is wrong with a rule.
	check(c *checker)
	// rule is a kept rule as core knows it.
	rule(f *Frame, r store.Rule, base deed.RuleBase) (deed.Rule, error)
}

// kinds are all there are.
var kinds = map[store.RuleKind]kind{store.Expire: expire{}, store.Republish: republish{}, store.Reshare: reshares{}}

// Begin is a rule of a kind as it is when it is new: nameless, for no post yet, careful. A
// rule that speaks uses the channels.
func Begin(of store.RuleKind, channels []int64) store.Rule {
	r := store.Rule{Kind: of, Condition: condition.Node{Group: condition.AllOf},
		Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock("12:00"), Sway: 45,
			Weekdays: rhythm.On(time.Monday)}}
	kinds[of].begin(&r, channels)
	return r
}

// Own leaves a rule what its kind uses of what an editor sent.
func Own(r store.Rule) store.Rule {
	k, known := kinds[r.Kind]
	if !known {
		return r
	}
	r.Settings = k.own(r.Settings)
	return r
}
