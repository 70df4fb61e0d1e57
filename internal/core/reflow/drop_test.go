package reflow_test

import (
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/core/rhythm"
)

// ground has posts of Ines at the times, a free slot at ten of every day that they leave
// free, and a gap of an hour. It is Monday, 08:30.
func ground(caps queue.Caps, rest civil.Rests, times ...time.Time) *reflow.Ground {
	p := reflow.GroundPlan{Zone: halifax, Caps: caps, Gap: 60, Now: on(0, "08:30"), Rests: rest,
		Slots: func(d civil.Date) []rhythm.Slot {
			s := slot(d.Sub(monday))
			if slices.ContainsFunc(times, func(t time.Time) bool { return t.Sub(s.At).Abs() < time.Hour }) {
				return nil
			}
			return []rhythm.Slot{s}
		}}
	for _, t := range times {
		p.Standing = append(p.Standing, queue.Standing{At: t, Author: "Ines", Category: "Sky Guide"})
	}
	return reflow.NewGround(p)
}

// on is a time of day so many days after the Monday.
func on(n int, clock string) time.Time { return halifax.At(monday.Add(n), civil.MustClock(clock)) }

func clockOf(text string) *civil.Clock {
	if text == "" {
		return nil
	}
	c := civil.MustClock(text)
	return &c
}

func TestDrop(t *testing.T) {
	at := func(n int, clock string) reflow.Post {
		return reflow.Post{Draft: queue.Draft{ID: 7, Title: "Moon", Author: "Ines", Category: "Sky Guide"},
			At: on(n, clock)}
	}
	pinned := at(1, "15:00")
	pinned.Pinned = true
	draft := reflow.Post{Draft: queue.Draft{ID: 7, Title: "Moon", Author: "Ines", Category: "Sky Guide"}}
	bounded := draft
	bounded.NotBefore, bounded.Deadline = on(2, "12:00"), on(2, "13:00")
	for name, c := range map[string]struct {
		post   reflow.Post
		stands []time.Time
		caps   queue.Caps
		rest   civil.Rests
		day    int
		clock  string
		to     time.Time
		slot   rhythm.SlotID
		pinned bool
		note   string
		stuck  string
	}{
		"a day keeps the time":           {post: at(1, "15:00"), day: 3, to: on(3, "15:00")},
		"a day keeps the pin":            {post: pinned, day: 3, to: on(3, "15:00"), pinned: true},
		"its time may be that of a slot": {post: at(1, "10:00"), day: 3, to: on(3, "10:00"), slot: slot(3).ID},
		"a pin sits in no slot":          {post: pinned, day: 3, clock: "10:00", to: on(3, "10:00"), pinned: true},
		"a minute pins":                  {post: at(1, "15:00"), day: 1, clock: "16:07", to: on(1, "16:07"), pinned: true},
		"the gap forbids, later is as near": {post: at(1, "15:00"), stands: []time.Time{on(3, "15:00")}, day: 3,
			to: on(3, "16:00"), note: "15:00 is nearer than the gap to another post, so it is 16:00."},
		"the gap forbids, earlier is nearer": {post: at(1, "15:00"), stands: []time.Time{on(3, "15:10")}, day: 3,
			to: on(3, "14:10"), note: "15:00 is nearer than the gap to another post, so it is 14:10."},
		"over midnight": {post: at(1, "00:10"), stands: []time.Time{on(2, "23:30")}, day: 3,
			to: on(3, "00:30"), note: "00:10 is nearer than the gap to another post, so it is 00:30."},
		"a time of today that has passed": {post: at(1, "08:00"), day: 0, to: on(0, "08:31"),
			note: "08:00 has passed, so it is 08:31."},
		"a draft takes the free slot": {post: draft, day: 2, to: slot(2).At, slot: slot(2).ID},
		"a draft where no slot is free": {post: draft, stands: []time.Time{on(2, "09:30")}, day: 2,
			to: on(2, "08:30"), pinned: true, note: "The rhythm has no free slot for it on Wed 25 Nov, so it is pinned."},
		"a draft at a minute": {post: draft, day: 2, clock: "11:11", to: on(2, "11:11"), pinned: true},
		"within its bounds": {post: bounded, day: 2, clock: "18:00", to: on(2, "13:00"), pinned: true,
			note: "18:00 is outside its bounds, so it is 13:00."},
		"yesterday": {post: at(1, "15:00"), day: -1,
			stuck: "“Moon” was not moved: Sun 22 Nov is over. Choose another day, or give it a time by hand in its panel."},
		"a rest day": {post: at(1, "15:00"), rest: civil.RestOn(monday.Add(9), monday.Add(3)),
			day: 3, stuck: "“Moon” was not moved: Thu 26 Nov is a rest day. Choose another day, or give it a time by hand in its panel."},
		"a full day": {post: at(1, "15:00"), caps: queue.Caps{Day: 1},
			stands: []time.Time{on(3,
				"08:00")}, day: 3, stuck: "“Moon” was not moved: Thu 26 Nov is full with 1 post. Choose another day, or give it a time by hand in its panel."},
		"the category too near": {post: at(1, "15:00"), caps: queue.Caps{CategoryDays: 3},
			stands: []time.Time{on(5,
				"08:00")}, day: 3, stuck: "“Moon” was not moved: Thu 26 Nov is nearer than 3 days to another post in Sky Guide. Choose another day, or give it a time by hand in its panel."},
		"before it may": {post: bounded, day: 1,
			stuck: "“Moon” was not moved: it is held until Wed 25 Nov. Choose another day, or give it a time by hand in its panel."},
		"after its deadline": {post: bounded, day: 3,
			stuck: "“Moon” was not moved: Thu 26 Nov is after its deadline. Choose another day, or give it a time by hand in its panel."},
	} {
		t.Run(name, func(t *testing.T) {
			got, err := ground(c.caps, c.rest, c.stands...).Drop(c.post, monday.Add(c.day), clockOf(c.clock))
			if c.stuck != "" {
				require.EqualError(t, err, c.stuck)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, c.to.UTC(), got.To.UTC())
			assert.Equal(t, c.slot, got.Slot)
			assert.Equal(t, c.pinned, got.Pinned)
			assert.Equal(t, c.note, got.Reason)
		})
	}
}

func TestOnward(t *testing.T) {
	slotted := reflow.Post{Draft: queue.Draft{ID: 1, Title: "a"}, At: day(2), Slot: slot(2)}
	pinned := reflow.Post{Draft: queue.Draft{ID: 2, Title: "b"}, At: on(2, "15:00"), Pinned: true}
	rests := civil.Rests{{First: monday.Add(1), Last: monday.Add(4), Name: "Fair"}}
	g := ground(queue.Caps{}, rests, on(5, "09:30"))
	down, err := g.Onward(slotted)
	require.NoError(t, err)
	assert.Equal(t, slot(6).ID, down.Slot, "the slot of the day after the fair is crowded out")
	down, err = g.Onward(pinned)
	require.NoError(t, err)
	assert.Equal(t, on(5, "15:00"), down.To)
	assert.True(t, down.Pinned)
	down, err = g.Onward(reflow.Post{Draft: queue.Draft{ID: 3, Title: "c"}, At: on(6, "11:00")})
	require.NoError(t, err)
	assert.Equal(t, on(6, "11:00"), down.To, "where nothing is in the way it stays")

	pinned.Deadline = on(4, "12:00")
	_, err = g.Onward(pinned)
	assert.ErrorContains(t, err, "There is no place for “b” within a year.")
	_, err = g.Drop(slotted, monday.Add(3), nil)
	assert.ErrorContains(t, err, "Thu 26 Nov is a rest day (Fair)")
}

func TestADayWithoutRoom(t *testing.T) {
	var hourly []time.Time
	for h := on(2, "00:00"); h.Before(on(3, "00:00")); h = h.Add(time.Hour) {
		hourly = append(hourly, h)
	}
	_, err := ground(queue.Caps{}, nil, hourly...).Drop(reflow.Post{Draft: queue.Draft{Title: "Moon"},
		At: on(1, "15:00")}, monday.Add(2), nil)
	assert.EqualError(t, err,
		"“Moon” was not moved: Wed 25 Nov has no minute left that keeps the gap of 60 minutes. Choose another day, or move what is there first.")
}

func TestSwap(t *testing.T) {
	a := reflow.Post{Draft: queue.Draft{ID: 1, Title: "a", Author: "Ines"}, At: day(1), Slot: slot(1)}
	b := reflow.Post{Draft: queue.Draft{ID: 2, Title: "b", Author: "Tobias"}, At: on(4, "17:17"), Pinned: true}
	aDown, bDown, err := ground(queue.Caps{}, nil).Swap(a, b)
	require.NoError(t, err)
	assert.Equal(t, reflow.Move{Post: a, To: b.At, Pinned: true}, aDown)
	assert.Equal(t, reflow.Move{Post: b, To: a.At, Slot: a.Slot.ID}, bDown)

	shelved := reflow.Post{Draft: queue.Draft{ID: 3, Title: "c", Author: "Ines"}}
	aDown, cDown, err := ground(queue.Caps{}, nil).Swap(a, shelved)
	require.NoError(t, err)
	assert.True(t, aDown.To.IsZero(), "it goes to the shelf")
	assert.Equal(t, a.Slot.ID, cDown.Slot)

	b.Deadline = on(5, "12:00")
	a.At = on(6, "10:00")
	_, _, err = ground(queue.Caps{}, nil).Swap(a, b)
	assert.EqualError(t, err,
		"“a” and “b” were not swapped: Sun 29 Nov is after its deadline. Move them one by one, or change what is in the way.")
}

// Whatever stands, what comes down keeps the gap, is to come, and is the nearest such
// minute of its day; what Day calls shadow is exactly what Drop does not take.
func TestDropsKeepTheGap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		zone := halifax
		// A day of a clock change now and then.
		date := rapid.SampledFrom([]civil.Date{monday.Add(2), civil.MustDate("2026-11-01"),
			civil.MustDate("2027-03-14")}).Draw(t, "date")
		begin, end := zone.At(date, 0), zone.At(date.Add(1), 0)
		gap := rapid.IntRange(1, 300).Draw(t, "gap")
		now := begin.Add(time.Duration(rapid.IntRange(-3000, 1300).Draw(t, "now")) * time.Minute)
		plan := reflow.GroundPlan{Zone: zone, Gap: gap, Now: now, Slots: func(civil.Date) []rhythm.Slot { return nil }}
		for _, m := range rapid.SliceOfN(rapid.IntRange(-400, 2000), 0, 8).Draw(t, "stands") {
			plan.Standing = append(plan.Standing, queue.Standing{At: begin.Add(time.Duration(m) * time.Minute)})
		}
		clock := civil.Clock(rapid.IntRange(0, 1439).Draw(t, "clock"))
		want := zone.At(date, clock)
		free := func(at time.Time) bool {
			return at.After(now) && !slices.ContainsFunc(plan.Standing,
				func(s queue.Standing) bool { return s.At.Sub(at).Abs() < time.Duration(gap)*time.Minute })
		}
		best := time.Duration(-1)
		shadowed := make(map[int]bool)
		ground := reflow.NewGround(plan)
		for _, s := range ground.Day(queue.Draft{}, date).Shadows {
			require.Less(t, s.From, s.To)
			for m := s.From; m < s.To; m++ {
				shadowed[m] = true
			}
		}
		for at := begin; at.Before(end); at = at.Add(time.Minute) {
			if away := at.Sub(want).Abs(); free(at) && (best < 0 || away < best) {
				best = away
			}
		}
		for m := range 1440 {
			require.Equal(t, !free(zone.At(date, civil.Clock(m))), shadowed[m], "minute %d", m)
		}
		// Where Day says that it lands is where it is dropped, minute for minute.
		draft := queue.Draft{ID: 1}
		if rapid.Bool().Draw(t, "bounded") {
			draft.NotBefore = begin.Add(time.Duration(rapid.IntRange(0, 1000).Draw(t, "not before")) * time.Minute)
		}
		if rapid.Bool().Draw(t, "due") {
			draft.Deadline = end.Add(-time.Duration(rapid.IntRange(1, 600).Draw(t, "deadline")) * time.Minute)
		}
		if day := ground.Day(draft, date); day.Bar == "" {
			lands := int(clock)
			for _, l := range day.Landings {
				require.Less(t, l.From, l.To)
				if l.From <= int(clock) && int(clock) < l.To {
					lands = l.At
				}
			}
			down, err := reflow.NewGround(plan).Drop(reflow.Post{Draft: draft}, date, &clock)
			if lands == reflow.NoMinute {
				require.ErrorContains(t, err, "no minute left")
			} else {
				require.NoError(t, err)
				_, at := zone.Local(down.To)
				if _, shown := zone.Local(want); shown == clock { // else it is asked for the minute after the skip
					require.Equal(t, int(at), lands)
				}
			}
		}
		got, err := ground.Drop(reflow.Post{Draft: queue.Draft{ID: 1}}, date, &clock)
		if best < 0 {
			require.Error(t, err)
			return
		}
		require.NoError(t, err)
		require.True(t, free(got.To))
		require.Equal(t, date, zone.DateOf(got.To))
		require.Equal(t, best, got.To.Sub(want).Abs())
		require.Equal(t, got.To.Equal(want), got.Reason == "")
		again, err := ground.Drop(reflow.Post{Draft: queue.Draft{ID: 2}}, date, &clock)
		if err == nil {
			require.GreaterOrEqual(t, again.To.Sub(got.To).Abs(), time.Duration(gap)*time.Minute,
				"the first is in the way of the second")
		}
	})
}
