package siterules_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// A new rule is careful: it takes few at a time, acts seldom, and leaves young posts alone.
func TestANewRuleIsCareful(t *testing.T) {
	expire := siterules.Begin(store.Expire, []int64{5, 6})
	assert.Equal(t, "archive", expire.Settings.Action)
	assert.Equal(t, 20, expire.Settings.MostARun)
	assert.Equal(t, "04:00", expire.Cadence.At.String())
	assert.Zero(t, expire.Cadence.Sway)
	assert.Empty(t, expire.Settings.Channels)
	assert.Zero(t, expire.Settings.Youngest.N)
	assert.Equal(t, condition.AllOf, expire.Condition.Group)
	assert.Empty(t, expire.Name)

	republish := siterules.Begin(store.Republish, []int64{5, 6})
	assert.Equal(t, "every week on Mon at 12:00, give or take 45 min", republish.Cadence.String())
	assert.Equal(t, condition.Span{N: 3, Unit: condition.Months}, republish.Settings.Youngest)
	assert.Equal(t, 1, republish.Settings.AtATime)

	reshare := siterules.Begin(store.Reshare, []int64{5, 6})
	assert.Equal(t, []int64{5}, reshare.Settings.Channels, "one to begin with")
	assert.Equal(t, []string{"{title} {link} {hashtags}"}, reshare.Settings.Wordings)
	assert.Equal(t, 30, reshare.Settings.Apart)
}
