package queue_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

var lisbon = civil.MustZone("Europe/Lisbon")

func slot(day int) rhythm.Slot {
	date := civil.MustDate("2026-11-24").Add(day)
	return rhythm.Slot{ID: rhythm.SlotID{Rhythm: 1, Date: date, Opening: "o"}, At: lisbon.At(date, 600)}
}

func shelf(n int) []queue.Draft {
	var drafts []queue.Draft
	for i := range n {
		drafts = append(drafts, queue.Draft{ID: int64(i + 1), Title: fmt.Sprintf("Draft %d", i+1)})
	}
	return drafts
}

func place(drafts []queue.Draft, slots ...rhythm.Slot) queue.Placement {
	return queue.Place(queue.Request{Zone: lisbon, Shelf: drafts, Slots: slices.Values(slots)})
}

func TestHandOrder(t *testing.T) {
	slots := []rhythm.Slot{slot(0), slot(1), slot(2)}
	p := place(shelf(2), slots...)
	require.Len(t, p.Placed, 2)
	assert.Empty(t, p.Unplaced)
	assert.Equal(t, slots[0], p.Placed[0].Slot)
	assert.Equal(t, "First on the shelf, so it gets the first free slot.", p.Placed[0].Reason)
	assert.Equal(t, "First free slot after “Draft 1”.", p.Placed[1].Reason)
}

func TestAMovedSlotSaysSo(t *testing.T) {
	moved := slot(0)
	moved.Moved = true
	p := place(shelf(1), moved)
	assert.Contains(t, p.Placed[0].Reason, "redrawn")
}

func TestShortfallSaysWhatWouldHaveToChange(t *testing.T) {
	for slots, want := range map[int]string{0: "has no free slot", 1: "The only free slot", 2: "All 2 free slots"} {
		p := place(shelf(4), []rhythm.Slot{slot(0), slot(1)}[:slots]...)
		require.Len(t, p.Unplaced, 4-slots)
		for _, u := range p.Unplaced {
			assert.Contains(t, u.Reason, want)
			assert.Contains(t, u.Reason, "by hand")
		}
	}
}

func TestADraftStandingTwiceIsPlacedOnce(t *testing.T) {
	drafts := append(shelf(2), shelf(2)...)
	p := place(drafts, slot(0), slot(1), slot(2))
	assert.Len(t, p.Placed, 2)
	assert.Empty(t, p.Unplaced)
}

func TestEveryDraftIsAnsweredInOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		drafts := shelf(rapid.IntRange(0, 12).Draw(t, "drafts"))
		var slots []rhythm.Slot
		for day := range rapid.IntRange(0, 12).Draw(t, "slots") {
			slots = append(slots, slot(day))
		}
		p := place(drafts, slots...)
		var answered []queue.Draft
		for i, placed := range p.Placed {
			require.Equal(t, slots[i], placed.Slot)
			require.NotEmpty(t, placed.Reason)
			answered = append(answered, placed.Draft)
		}
		for _, u := range p.Unplaced {
			answered = append(answered, u.Draft)
		}
		require.Equal(t, drafts, answered)
		require.Len(t, p.Placed, min(len(drafts), len(slots)))
	})
}

func TestSlotsComeInTimeOrderAfterTheMoment(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := rhythm.Rhythm{ID: 1, Zone: lisbon, Gap: 20, Seed: rapid.Uint64().Draw(t, "seed"),
			Openings: []rhythm.Opening{
				rhythm.Window("long", rhythm.EveryDay, 0, civil.LastClock, 2),
				rhythm.Fixed("edge", rhythm.EveryDay, 0, 600),
			}}
		now := time.Unix(1_764_000_000+rapid.Int64Range(0, 40_000_000).Draw(t, "later"), 0)
		last, n := now, 0
		for s := range queue.Slots(r, now, nil) {
			require.True(t, s.At.After(last), "%s is not after %s", s.At, last)
			if last, n = s.At, n+1; n == 40 {
				break
			}
		}
		require.Equal(t, 40, n)
	})
}

func TestSlotsEndAtTheHorizon(t *testing.T) {
	weekly := rhythm.Rhythm{ID: 1, Zone: lisbon, Gap: 20, Openings: []rhythm.Opening{
		rhythm.Fixed("mondays", rhythm.On(time.Monday), 600, 0)}}
	now := time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)
	count := 0
	for range queue.Slots(weekly, now, nil) {
		count++
	}
	assert.InDelta(t, queue.HorizonDays/7, count, 1)
	assert.Empty(t, slices.Collect(queue.Slots(rhythm.Rhythm{Zone: lisbon, Gap: 20}, now, nil)))
}

// Openings meant by clocks elsewhere may come out on an earlier or a later date of the
// site; no slot is lost or out of order for it.
func TestSlotsOfAudiencesElsewhereComeInTimeOrder(t *testing.T) {
	zone := rapid.SampledFrom([]string{"Pacific/Kiritimati", "Pacific/Pago_Pago", "Europe/Lisbon", "Asia/Tokyo"})
	rapid.Check(t, func(t *rapid.T) {
		away := civil.MustZone(zone.Draw(t, "audience"))
		r := rhythm.Rhythm{ID: 1, Zone: civil.MustZone(zone.Draw(t, "site")), Gap: 20,
			Seed: rapid.Uint64().Draw(t, "seed"), Openings: []rhythm.Opening{
				rhythm.Fixed("home", rhythm.EveryDay, civil.Clock(rapid.IntRange(0, 1439).Draw(t, "home")),
					rapid.IntRange(0, 720).Draw(t, "sway")),
				rhythm.Fixed("away", rhythm.EveryDay, civil.Clock(rapid.IntRange(0, 1439).Draw(t, "away")),
					rapid.IntRange(0, 200).Draw(t, "sway away")),
			}}
		r.Openings[1].Audience = &away
		now := time.Unix(1_764_000_000+rapid.Int64Range(0, 40_000_000).Draw(t, "later"), 0)
		end := now.Add(20 * 24 * time.Hour)

		var want, got []rhythm.Slot
		for day := range r.Days(r.Zone.DateOf(now).Add(-10), nil) {
			if day.Date.Sub(r.Zone.DateOf(end)) > 10 {
				break
			}
			for _, s := range day.Slots {
				if s.At.After(now) && s.At.Before(end) {
					want = append(want, s)
				}
			}
		}
		slices.SortStableFunc(want, func(a, b rhythm.Slot) int { return a.At.Compare(b.At) })
		for s := range queue.Slots(r, now, nil) {
			if !s.At.Before(end) {
				break
			}
			got = append(got, s)
		}
		require.Equal(t, want, got)
	})
}
