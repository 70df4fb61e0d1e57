package deed_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/deed"
)

var noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)

func TestDueAtItsMinuteAndNotBefore(t *testing.T) {
	s := deed.Snapshot{Scheduled: []deed.Scheduled{{Post: 1, Due: noon}}}
	early := deed.Decide(s, noon.Add(-time.Nanosecond))
	assert.Empty(t, early.Deeds)
	assert.Equal(t, noon, early.Next)

	due := deed.Decide(s, noon)
	assert.Equal(t, []deed.Deed{deed.Publish{Base: deed.Base{Post: 1, Due: noon, Reason: "Scheduled in this slot."}}},
		due.Deeds)
	assert.True(t, due.Next.IsZero())
}

func TestReasons(t *testing.T) {
	for _, test := range []struct {
		post deed.Scheduled
		late time.Duration
		want string
	}{
		{deed.Scheduled{Due: noon, Pinned: true}, 0, "Scheduled for this time by hand."},
		{deed.Scheduled{Due: noon}, 59 * time.Second, "Scheduled in this slot."},
		{deed.Scheduled{Due: noon}, time.Minute,
			"Scheduled in this slot. It was 1 minute overdue, since nothing could publish it before."},
		{deed.Scheduled{Due: noon}, 3*time.Hour + time.Minute,
			"Scheduled in this slot. It was 3 hours overdue, since nothing could publish it before."},
		{deed.Scheduled{Due: noon}, 50 * time.Hour,
			"Scheduled in this slot. It was 2 days overdue, since nothing could publish it before."},
	} {
		d := deed.Decide(deed.Snapshot{Scheduled: []deed.Scheduled{test.post}}, noon.Add(test.late))
		require.Len(t, d.Deeds, 1)
		assert.Equal(t, test.want, d.Describe()[0].Reason)
	}
}

// Whatever waits is either done now or not before the moment named, and following
// the moments named does every post exactly once, at its time.
func TestFollowingTheMomentsDoesEachPostOnce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		due := make(map[int64]time.Time)
		var s deed.Snapshot
		for i := range rapid.IntRange(0, 30).Draw(t, "posts") {
			at := noon.Add(time.Duration(rapid.IntRange(-100, 300).Draw(t, "due")) * time.Minute)
			due[int64(i)] = at
			s.Scheduled = append(s.Scheduled, deed.Scheduled{Post: int64(i), Due: at})
		}
		done := make(map[int64]bool)
		for at := noon; ; {
			d := deed.Decide(s, at)
			told := d.Describe()
			for i, one := range told {
				require.False(t, done[one.Post])
				require.False(t, one.Due.After(at))
				require.True(t, at.Equal(noon) || one.Due.Equal(at), "done late")
				require.True(t, i == 0 || !one.Due.Before(told[i-1].Due), "out of order")
				done[one.Post] = true
			}
			var left []deed.Scheduled
			for _, p := range s.Scheduled {
				if !done[p.Post] {
					left = append(left, p)
				}
			}
			s.Scheduled = left
			if d.Next.IsZero() {
				break
			}
			require.True(t, d.Next.After(at))
			at = d.Next
		}
		require.Len(t, done, len(due))
	})
}
