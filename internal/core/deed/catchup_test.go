package deed_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/rhythm"
)

// overdue are posts that should have come out 30 hours, 3 hours and 2 minutes ago,
// and one on time.
func overdue(choice deed.CatchUp) deed.Snapshot {
	return deed.Snapshot{CatchUp: choice, Fresh: 12 * time.Hour, Gap: time.Hour, Scheduled: []deed.Scheduled{
		{Post: 4, Due: noon}, {Post: 3, Due: noon.Add(-2 * time.Minute)},
		{Post: 1, Due: noon.Add(-30 * time.Hour)}, {Post: 2, Due: noon.Add(-3 * time.Hour), Pinned: true},
		{Post: 5, Due: noon.Add(10 * time.Hour)},
	}}
}

type did struct {
	post int64
	kind deed.Kind
	to   time.Duration // from noon
}

func doings(d deed.Decision) []did {
	var all []did
	for _, one := range d.Describe() {
		x := did{one.Post, one.Kind, 0}
		if one.Kind == deed.KindMove {
			x.to = one.To.Sub(noon)
		}
		all = append(all, x)
	}
	return all
}

func TestCatchUpChoices(t *testing.T) {
	for choice, want := range map[deed.CatchUp][]did{
		"": {{1, deed.KindPublish, 0}, {2, deed.KindPublish, 0}, {3, deed.KindPublish, 0},
			{4, deed.KindPublish, 0}},
		deed.AtOnce: {{1, deed.KindPublish, 0}, {2, deed.KindPublish, 0}, {3, deed.KindPublish, 0},
			{4, deed.KindPublish, 0}},
		deed.AtOnceIfFresh: {{1, deed.KindHold, 0}, {2, deed.KindPublish, 0}, {3, deed.KindPublish, 0},
			{4, deed.KindPublish, 0}},
		deed.HoldForMe: {{1, deed.KindHold, 0}, {2, deed.KindHold, 0}, {3, deed.KindHold, 0},
			{4, deed.KindPublish, 0}},
		deed.SpreadOut: {{1, deed.KindMove, time.Hour}, {2, deed.KindMove, 2 * time.Hour},
			{3, deed.KindMove, 3 * time.Hour}, {4, deed.KindPublish, 0}},
	} {
		d := deed.Decide(overdue(choice), noon)
		assert.Equal(t, want, doings(d), "%q", choice)
		for _, one := range d.Describe() {
			assert.NotEmpty(t, one.Reason)
		}
	}
	reasons := deed.Decide(overdue(deed.AtOnceIfFresh), noon).Describe()
	assert.Equal(t, "Held, since the site holds posts that are more than 12 hours overdue. It was 1 day overdue, since nothing could publish it before.", reasons[0].Reason)
}

func TestSpreadOutKeepsTheGapFromThePlan(t *testing.T) {
	s := overdue(deed.SpreadOut)
	s.Scheduled = s.Scheduled[1:4] // nothing on time
	s.Taken = []time.Time{noon.Add(-20 * time.Minute), noon.Add(150*time.Minute + 30*time.Second)}
	assert.Equal(t, []did{{1, deed.KindMove, 40 * time.Minute}, {2, deed.KindMove, 211 * time.Minute},
		{3, deed.KindMove, 271 * time.Minute}},
		doings(deed.Decide(s, noon)))
	s.Taken = nil
	assert.Equal(t, did{1, deed.KindPublish, 0}, doings(deed.Decide(s, noon))[0])
}

func TestNextSlots(t *testing.T) {
	s := overdue(deed.NextSlots)
	slots := []rhythm.Slot{{ID: rhythm.SlotID{Rhythm: 1, Opening: "o"}, At: noon.Add(4 * time.Hour)},
		{ID: rhythm.SlotID{Rhythm: 1, Opening: "p"}, At: noon.Add(9 * time.Hour)}}
	s.Slots = slices.Values(slots)
	d := deed.Decide(s, noon)
	assert.Equal(t, []did{{1, deed.KindMove, 4 * time.Hour}, {2, deed.KindMove, 9 * time.Hour}, {3, deed.KindHold, 0},
		{4, deed.KindPublish, 0}}, doings(d))
	assert.Equal(t, slots[0], d.Deeds[0].(deed.Move).Slot)
	assert.Equal(t, noon.Add(4*time.Hour), d.Next, "the moved post is what comes next")
	s.Slots = nil
	assert.Equal(t, deed.KindHold, deed.Decide(s, noon).Describe()[0].Kind)
}

func TestNothingIsDueOfAPausedSite(t *testing.T) {
	s := overdue(deed.AtOnce)
	s.Paused = true
	assert.Equal(t, deed.Decision{}, deed.Decide(s, noon))
}

// Whatever the choice, every overdue post is dealt with once, none early, and posts
// spread out keep the gap.
func TestCatchUpDealsWithEachOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		s := deed.Snapshot{
			CatchUp: rapid.SampledFrom(deed.CatchUps).Draw(t, "choice"),
			Fresh:   time.Duration(rapid.IntRange(1, 5000).Draw(t, "fresh")) * time.Minute,
			Gap:     time.Duration(rapid.IntRange(1, 200).Draw(t, "gap")) * time.Minute,
		}
		minutes := func(name string) []time.Time {
			var times []time.Time
			for _, m := range rapid.SliceOfN(rapid.IntRange(-4000, 4000), 0, 10).Draw(t, name) {
				times = append(times, noon.Add(time.Duration(m)*time.Minute))
			}
			return times
		}
		due := 0
		for i, at := range minutes("posts") {
			s.Scheduled = append(s.Scheduled, deed.Scheduled{Post: int64(i), Due: at})
			if !at.After(noon) {
				due++
			}
		}
		s.Taken = minutes("taken")
		d := deed.Decide(s, noon)
		require.Len(t, d.Deeds, due)
		seen := make(map[int64]bool)
		times := slices.Clone(s.Taken)
		for _, one := range d.Describe() {
			require.False(t, seen[one.Post])
			seen[one.Post] = true
			require.False(t, one.Due.After(noon))
			if s.CatchUp != deed.SpreadOut || noon.Sub(one.Due) < deed.Late {
				continue
			}
			to := noon
			if one.Kind == deed.KindMove {
				to = one.To
				require.True(t, to.After(noon) && to.Equal(to.Truncate(time.Minute)))
			}
			for _, other := range times {
				require.GreaterOrEqual(t, to.Sub(other).Abs(), s.Gap)
			}
			times = append(times, to)
		}
	})
}
