package siterules_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// A rule whose turns come at other times now counts them anew from the moment it was
// saved; one that takes other posts, or does something else with them, is disarmed.
func TestWhatASavedRuleKeeps(t *testing.T) {
	t.Parallel()
	armed := pgtest.Noon.AddDate(0, -1, 0)
	kept := store.Rule{ID: 3, SiteID: 1, Kind: store.Expire, Name: "Old", ArmedAt: &armed, ServedAt: &armed,
		Allowed: 7, Version: 4,
		Cadence: cadence.Cadence{By: cadence.Every, N: 1,
			Unit: cadence.Days}, Settings: store.RuleSettings{Action: "archive"}}
	for name, c := range map[string]struct {
		change   func(*store.Rule)
		served   time.Time // zero: not armed any more
		disarmed bool
	}{
		"another name":    {func(r *store.Rule) { r.Name = "New" }, armed, false},
		"another cadence": {func(r *store.Rule) { r.Cadence.N = 2 }, pgtest.Noon, false},
		"another action":  {func(r *store.Rule) { r.Settings.Action = "bin" }, time.Time{}, true},
		"another condition": {func(r *store.Rule) { r.Condition = condition.Node{Group: condition.AllOf} },
			time.Time{}, true},
		"fewer a run": {func(r *store.Rule) { r.Settings.MostARun = 1 }, armed, false},
	} {
		to := kept
		to.Version, to.Allowed, to.ArmedAt = 0, 0, nil // what an editor sends says nothing of these
		c.change(&to)
		changed, disarmed := siterules.ChangedRule(kept, to, pgtest.Noon)
		assert.Equal(t, c.disarmed, disarmed, name)
		if c.disarmed {
			assert.Nil(t, changed.ArmedAt, name)
			assert.Zero(t, changed.Allowed, name)
			continue
		}
		if assert.NotNil(t, changed.ServedAt, name) {
			assert.Equal(t, c.served, *changed.ServedAt, name)
			assert.Equal(t, c.served, *changed.ArmedAt, name)
		}
		assert.Equal(t, 7, changed.Allowed, name)
		assert.Equal(t, 4, changed.Version, name)
	}

	// A rule that brings posts out is not disarmed by another condition: its catch was not
	// agreed to.
	kept.Kind, kept.Settings.Action = store.Republish, ""
	to := kept
	to.Condition = condition.Node{Group: condition.AnyOf}
	_, disarmed := siterules.ChangedRule(kept, to, pgtest.Noon)
	assert.False(t, disarmed)
}
