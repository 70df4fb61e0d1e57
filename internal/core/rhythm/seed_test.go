package rhythm_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// minutesOf are the minutes of the day of a fixed time that sways by 30, over 60 days.
func minutesOf(t *testing.T, seed uint64) (minutes []int) {
	t.Helper()
	r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 1, Seed: seed, Openings: []rhythm.Opening{rhythm.Fixed("o",
		rhythm.EveryDay, clock("09:00"), 30)}}
	for i := range 60 {
		slots := r.Day(civil.NewDate(2026, time.May, 1).Add(i), nil).Slots
		require.Len(t, slots, 1)
		at := halifax.In(slots[0].At)
		minutes = append(minutes, at.Hour()*60+at.Minute())
	}
	return minutes
}

// A sway comes of its seed and its date: the same seed gives the same minutes, another
// one others; the minutes lie as far to either side as the sway says, and they differ
// from day to day.
func TestASwayComesOfItsSeed(t *testing.T) {
	t.Parallel()
	one, again, other := minutesOf(t, 1), minutesOf(t, 1), minutesOf(t, 2)
	assert.Equal(t, one, again)
	same, early, late := 0, 0, 0
	distinct := make(map[int]bool)
	for i, m := range one {
		assert.GreaterOrEqual(t, m, 9*60-30)
		assert.LessOrEqual(t, m, 9*60+30)
		distinct[m] = true
		if m == other[i] {
			same++
		}
		if m < 9*60 {
			early++
		} else if m > 9*60 {
			late++
		}
	}
	// Of 61 equally likely minutes a day, one in 61 agrees by chance, and half lie to
	// either side: these bounds are beyond what chance does once in a thousand years.
	assert.Less(t, same, 10)
	assert.Greater(t, early, 10)
	assert.Greater(t, late, 10)
	assert.Greater(t, len(distinct), 20)
}
