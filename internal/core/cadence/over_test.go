package cadence_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
)

// So many times over so many days: all within them, by day, in order and apart from one another.
func TestTimesOverSeveralDays(t *testing.T) {
	t.Parallel()
	zone := civil.MustZone("America/Halifax")
	rapid.Check(t, func(t *rapid.T) {
		first := time.Date(2026, 3, 1, 0, 0, 0, 0, time.UTC).Add(time.Duration(rapid.IntRange(0, 400*24*60).Draw(t, "first")) * time.Minute)
		n, days := rapid.IntRange(1, 20).Draw(t, "n"), rapid.IntRange(2, 90).Draw(t, "days")
		times := cadence.Over(first, n, days, zone, rapid.Uint64().Draw(t, "chance"))
		require.Len(t, times, n)
		require.Equal(t, first, times[0])
		least := time.Duration((days-1)*13*60/max(n-1, 1)/3) * time.Minute
		for i, at := range times[1:] {
			require.GreaterOrEqual(t, at.Sub(times[i]), least-time.Minute)
			require.False(t, at.After(first.AddDate(0, 0, days).Add(time.Hour)))
			_, clock := zone.Local(at)
			require.True(t, 8*60 <= clock && clock < 21*60, "%s", clock)
		}
	})
	evening := time.Date(2026, 11, 28, 21, 30, 0, 0, time.UTC)
	assert.Len(t, cadence.Over(evening, 3, 1, civil.MustZone("UTC"), 1), 3, "the next day")
	assert.NotEqual(t, cadence.Over(evening, 3, 9, zone, 1), cadence.Over(evening, 3, 9, zone, 2))
}
