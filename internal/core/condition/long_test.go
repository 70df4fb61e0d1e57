package condition_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/condition"
)

// No post is a hundred thousand years old, however many nanoseconds those would be.
func TestSpansBeyondAllMeasure(t *testing.T) {
	for _, unit := range condition.Units {
		for _, n := range []int{100, 293, 300, 585, 10_000, 16_000, 100_000} {
			if unit == condition.Hours || unit == condition.Days || unit != condition.Years && n < 10_000 {
				continue
			}
			older, err := condition.Compile(span(condition.Age, condition.MatchOver, n, unit), halifax)
			require.NoError(t, err)
			k := older.At(noon)
			f := post()
			caught, until := k.Judge(&f)
			assert.False(t, caught, "%d %s", n, unit)
			assert.True(t, until.After(noon), "%d %s: %s", n, unit, until)
			assert.Less(t, older.Hints(noon).PublishedBefore, f.Published, "so old is no post of the blog")
			younger, err := condition.Compile(span(condition.Age, condition.MatchUnder, n, unit), halifax)
			require.NoError(t, err)
			young := younger.At(noon)
			assert.True(t, young.Catches(&f), "%d %s", n, unit)
		}
	}
	old := post()
	old.Published = time.Date(1700, 1, 1, 0, 0, 0, 0, time.UTC)
	for n, want := range map[int]bool{300: true, 326: true, 327: false, 500: false} {
		c, err := condition.Compile(span(condition.Age, condition.MatchOver, n, condition.Years), halifax)
		require.NoError(t, err)
		k := c.At(noon)
		assert.Equal(t, want, k.Catches(&old), n)
	}
}

// What Since says by calendar days is what After says post by post.
func TestSinceIsSure(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := condition.Span{N: rapid.IntRange(0, 400).Draw(t, "n"), Unit: rapid.SampledFrom(condition.Units).Draw(t, "unit")}
		now := noon.Add(time.Duration(rapid.IntRange(0, 3*365*24*60).Draw(t, "now")) * time.Minute)
		sure, maybe := s.Since(now, halifax)
		began := sure.Add(time.Duration(rapid.IntRange(-15*24*60, 15*24*60).Draw(t, "off")) * time.Minute)
		isOld := !now.Before(s.After(began, halifax))
		if !began.After(sure) {
			assert.True(t, isOld, "%v since %s at %s", s, began, now)
		}
		if began.After(maybe) {
			assert.False(t, isOld, "%v since %s at %s", s, began, now)
		}
	})
}
