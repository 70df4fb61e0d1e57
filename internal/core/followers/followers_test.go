package followers_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/followers"
)

var (
	halifax = civil.MustZone("America/Halifax")
	evening = halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("19:30"))
)

// mean is how many clicks messages like one have, over many days.
func mean(s followers.Said) float64 {
	sum := 0
	for day := range 400 {
		s.At = s.At.AddDate(0, 0, 1)
		s.Text = fmt.Sprint("message ", day)
		sum += len(s.Clicks())
	}
	return float64(sum) / 400
}

func TestWhatMovesClicks(t *testing.T) {
	said := followers.Said{Network: "lantern", Wording: "a", Nth: 1, At: evening}
	best := mean(said)
	assert.InDelta(t, said.Expected(), best, said.Expected()*0.15, "they come as they are expected")
	night := said
	night.At = halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("02:00"))
	assert.Less(t, mean(night), best/2, "few read at night")
	fifth := said
	fifth.Nth = 5
	assert.Less(t, mean(fifth), best*0.55, "what was said before wears out")
	hearth := said
	hearth.Network = "hearth"
	assert.NotEqual(t, hearth.Expected(), said.Expected())
	assert.Zero(t, followers.Said{Network: "nowhere", At: evening}.Expected())
	wordings := map[float64]bool{}
	for _, w := range []string{"a", "b", "c", "d"} {
		one := said
		one.Wording = w
		wordings[one.Expected()] = true
	}
	assert.Len(t, wordings, 4, "wordings differ")
}

func TestTheSameMessageHasTheSameClicks(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := followers.Said{Network: rapid.SampledFrom([]string{"lantern", "vitrine", "hearth", "crier"}).Draw(t, "network"), Text: rapid.String().Draw(t, "text"),
			Wording: rapid.String().Draw(t, "wording"), Nth: rapid.IntRange(-3, 40).Draw(t, "nth"), At: evening.Add(time.Duration(rapid.IntRange(0, 1e6).Draw(t, "at")) * time.Minute)}
		clicks := s.Clicks()
		assert.Equal(t, clicks, s.Clicks())
		assert.LessOrEqual(t, len(clicks), followers.Most)
		assert.IsNonDecreasing(t, append([]time.Duration{0}, clicks...))
		for _, c := range clicks {
			assert.LessOrEqual(t, c, 8*time.Hour)
		}
	})
}
