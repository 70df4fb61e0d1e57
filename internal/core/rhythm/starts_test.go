package rhythm_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// What each says of itself is what it does, in a week of its own.
func TestRhythmsToBeginWith(t *testing.T) {
	want := map[string][]int{ // posts from Monday to Sunday
		"weekend": {0, 0, 0, 0, 0, 1, 0},
		"steady":  {1, 0, 1, 0, 1, 0, 0},
		"daily":   {1, 1, 1, 1, 1, 1, 1},
		"busy":    {2, 3, 2, 3, 2, 1, 1},
	}
	starts := rhythm.Starts()
	assert.Len(t, starts, len(want))
	monday := civil.MustDate("2026-11-30")
	for _, s := range starts {
		r := rhythm.Rhythm{Zone: civil.MustZone("Europe/Lisbon"), Gap: s.Gap, Seed: 7, Openings: s.Openings}
		assert.Empty(t, r.Problems(), s.Key)
		var got []int
		for day := range r.Days(monday, nil) {
			if day.Date.Sub(monday) >= 7 {
				break
			}
			assert.Empty(t, day.Short, s.Key)
			got = append(got, len(day.Slots))
		}
		assert.Equal(t, want[s.Key], got, s.Key)
		assert.NotEmpty(t, s.Name)
		assert.NotEmpty(t, s.Says)
	}
}
