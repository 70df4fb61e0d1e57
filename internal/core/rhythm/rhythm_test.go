package rhythm_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

var halifax = civil.MustZone("America/Halifax")

func clock(text string) civil.Clock { return civil.MustClock(text) }

func weekly() rhythm.Rhythm {
	return rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 90, Seed: 11, Openings: []rhythm.Opening{
		rhythm.Window("mornings", rhythm.On(time.Monday, time.Wednesday), clock("06:30"), clock("11:00"), 2),
		rhythm.Fixed("evening", rhythm.EveryDay, clock("19:00"), 20),
	}}
}

func anyRhythm() *rapid.Generator[rhythm.Rhythm] {
	return rapid.Custom(func(t *rapid.T) rhythm.Rhythm {
		r := rhythm.Rhythm{
			ID: 1,
			Zone: civil.MustZone(rapid.SampledFrom([]string{"America/Halifax", "Europe/Lisbon",
				"Australia/Lord_Howe"}).Draw(t, "zone")),
			Gap:    rapid.IntRange(1, 300).Draw(t, "gap"),
			Seed:   rapid.Uint64().Draw(t, "seed"),
			Uneven: rapid.IntRange(0, 4).Draw(t, "uneven") == 0,
		}
		if rapid.IntRange(0, 3).Draw(t, "rests") == 0 {
			r.Rests = civil.RestOn(rapid.SliceOfN(anyDate(), 1, 20).Draw(t, "rest days")...)
		}
		for i := range rapid.IntRange(1, 4).Draw(t, "openings") {
			key := fmt.Sprintf("o%d", i)
			days := rhythm.Weekdays(rapid.IntRange(1, 127).Draw(t, "days"))
			from := civil.Clock(rapid.IntRange(0, 1439).Draw(t, "from"))
			to := from + civil.Clock(rapid.IntRange(1, int(civil.LastClock-from)).Draw(t, "length"))
			o := rhythm.Window(key, days, from, to, rapid.IntRange(1, 5).Draw(t, "count"))
			if rapid.Bool().Draw(t, "fixed") {
				o = rhythm.Fixed(key, days, from, rapid.IntRange(0, 120).Draw(t, "sway"))
			}
			if rapid.IntRange(0, 3).Draw(t, "weeks") == 0 {
				o.EveryWeeks, o.Anchor = rapid.IntRange(2, 4).Draw(t, "every"), anyDate().Draw(t, "anchor")
			}
			if rapid.IntRange(0, 3).Draw(t, "elsewhere") == 0 {
				zone := civil.MustZone(rapid.SampledFrom([]string{"Asia/Tokyo", "Pacific/Kiritimati",
					"America/Los_Angeles"}).Draw(t, "audience"))
				o.Audience = &zone
			}
			r.Openings = append(r.Openings, o)
		}
		return r
	})
}

func anyDate() *rapid.Generator[civil.Date] {
	return rapid.Custom(func(t *rapid.T) civil.Date {
		if rapid.Bool().Draw(t, "clock change") {
			change := rapid.SampledFrom([]string{"2026-03-08", "2026-11-01", "2026-03-29", "2026-10-25", "2026-10-04",
				"2026-04-05"})
			return civil.MustDate(change.Draw(t, "change")).Add(rapid.IntRange(-3, 1).Draw(t, "off"))
		}
		return civil.MustDate("2026-01-01").Add(rapid.IntRange(0, 400).Draw(t, "day"))
	})
}

func daysFrom(r rhythm.Rhythm, from civil.Date, n int, occupied []rhythm.Occupied) []rhythm.Day {
	var days []rhythm.Day
	for d := range r.Days(from, occupied) {
		if days = append(days, d); len(days) == n {
			break
		}
	}
	return days
}

func slotsOf(days []rhythm.Day) []rhythm.Slot {
	var slots []rhythm.Slot
	for _, d := range days {
		slots = append(slots, d.Slots...)
	}
	return slots
}

func byID(slots []rhythm.Slot) map[rhythm.SlotID]time.Time {
	times := make(map[rhythm.SlotID]time.Time)
	for _, s := range slots {
		times[s.ID] = s.At
	}
	return times
}

func apart(t require.TestingT, times []time.Time, gap int) {
	slices.SortFunc(times, time.Time.Compare)
	for i := 1; i < len(times); i++ {
		require.GreaterOrEqual(t, times[i].Sub(times[i-1]), time.Duration(gap)*time.Minute, "%s and %s", times[i-1],
			times[i])
	}
}

func TestAnOrdinaryWeek(t *testing.T) {
	days := daysFrom(weekly(), civil.MustDate("2026-11-23"), 7, nil) // a Monday
	var counts []int
	for _, d := range days {
		counts = append(counts, len(d.Slots))
		assert.Empty(t, d.Short)
	}
	assert.Equal(t, []int{3, 1, 3, 1, 1, 1, 1}, counts)
	for _, s := range slotsOf(days) {
		_, at := halifax.Local(s.At)
		if s.ID.Opening == "evening" {
			assert.InDelta(t, int(clock("19:00")), int(at), 20)
			continue
		}
		assert.True(t, at >= clock("06:30") && at < clock("11:00"), "%s", at)
	}
}

// Slots keep the gap over any number of days, on clock changes too, and lie within
// their openings.
func TestSlotsKeepTheGapAndTheirOpenings(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := anyRhythm().Draw(t, "rhythm")
		days := daysFrom(r, anyDate().Draw(t, "from"), 9, nil)
		var times []time.Time
		for _, d := range days {
			for _, s := range d.Slots {
				require.True(t, slices.ContainsFunc(d.Stretches, func(st rhythm.Stretch) bool {
					return st.Opening == s.ID.Opening && !s.At.Before(st.From) && s.At.Before(st.To)
				}), "%s at %s is outside its opening", s.ID, s.At)
				require.False(t, s.Moved)
				times = append(times, s.At)
			}
		}
		apart(t, times, r.Gap)
	})
}

func TestSlotsAreTheSameWhateverIsAskedFirst(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r, from := anyRhythm().Draw(t, "rhythm"), anyDate().Draw(t, "from")
		later := rapid.IntRange(0, 12).Draw(t, "later")
		whole := daysFrom(r, from, 14, nil)
		require.Equal(t, whole[later], r.Day(from.Add(later), nil))
		require.Equal(t, whole[later:], daysFrom(r, from.Add(later), 14-later, nil))
	})
}

// What is remembered beside a plan is what is drawn beside it.
func TestRememberedDaysAreThoseThatAreDrawn(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r, from := anyRhythm().Draw(t, "rhythm"), anyDate().Draw(t, "from")
		var occupied []rhythm.Occupied
		for range rapid.IntRange(0, 6).Draw(t, "posts") {
			occupied = append(occupied, rhythm.Occupied{At: r.Zone.At(from,
				civil.Clock(rapid.IntRange(0, 6*1440).Draw(t, "pin")))})
		}
		for _, s := range slotsOf(daysFrom(r, from, 6, nil)) {
			if rapid.Bool().Draw(t, "taken") {
				occupied = append(occupied, rhythm.Occupied{At: s.At, Slot: s.ID})
			}
		}
		drawn := daysFrom(r, from, 8, occupied)
		beside := r.Beside(occupied)
		for range 3 {
			at := rapid.IntRange(0, 7).Draw(t, "begin")
			for day := range beside.Days(from.Add(at)) {
				require.Equal(t, drawn[at], day)
				if at++; at == len(drawn) {
					break
				}
			}
		}
	})
}

func TestEverySlotIsServedOrReported(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r, date := anyRhythm().Draw(t, "rhythm"), anyDate().Draw(t, "date")
		var occupied []rhythm.Occupied
		for range rapid.IntRange(0, 5).Draw(t, "pins") {
			at := r.Zone.At(date, civil.Clock(rapid.IntRange(0, 2000).Draw(t, "pin")))
			occupied = append(occupied, rhythm.Occupied{At: at})
		}
		want := 0
		for _, o := range r.Openings {
			weeks := date.Add(-(int(date.Weekday())+6)%7).Sub(o.Anchor.Add(-(int(o.Anchor.Weekday())+6)%7)) / 7
			if o.Weekdays.Has(date.Weekday()) && (o.EveryWeeks < 2 || weeks%o.EveryWeeks == 0) &&
				!restsWhole(r, o, date) {
				want += o.Count
			}
		}
		day := r.Day(date, occupied)
		got := len(day.Slots)
		for _, s := range day.Short {
			require.NotEmpty(t, s.Reason)
			got += s.Missing
		}
		require.Equal(t, want, got)
	})
}

// restsWhole tells whether every minute of an opening is on a rest day of the site: nothing is
// asked of it then.
func restsWhole(r rhythm.Rhythm, o rhythm.Opening, date civil.Date) bool {
	zone := r.Zone
	if o.Audience != nil {
		zone = *o.Audience
	}
	from, to := o.From, o.To
	if o.IsFixed() {
		from, to = o.From-civil.Clock(o.Sway), o.From+civil.Clock(o.Sway)+1
	}
	for _, span := range zone.Window(date, from, to) {
		for at := span.From; at.Before(span.To); at = at.Add(time.Minute) {
			if d, _ := r.Zone.Local(at); !r.Rests.Has(d) {
				return false
			}
		}
	}
	return true
}

// Committing a slot uses it up and moves no other.
func TestCommittingASlotMovesNoOther(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r, from := anyRhythm().Draw(t, "rhythm"), anyDate().Draw(t, "from")
		var occupied []rhythm.Occupied
		for range rapid.IntRange(0, 3).Draw(t, "pins") {
			occupied = append(occupied, rhythm.Occupied{At: r.Zone.At(from,
				civil.Clock(rapid.IntRange(0, 4000).Draw(t, "pin")))})
		}
		free := slotsOf(daysFrom(r, from, 6, occupied))
		before := byID(free)
		for len(free) > 0 {
			chosen := rapid.SampledFrom(free).Draw(t, "commit")
			occupied = append(occupied, rhythm.Occupied{At: chosen.At, Slot: chosen.ID})
			delete(before, chosen.ID)
			free = slotsOf(daysFrom(r, from, 6, occupied))
			require.Equal(t, before, byID(free))
		}
	})
}

// A foreign time moves only the slots nearer to it than the gap, and what comes out
// keeps the gap from it.
func TestAForeignTimeMovesOnlyItsNeighbours(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r, from := anyRhythm().Draw(t, "rhythm"), anyDate().Draw(t, "from")
		before := slotsOf(daysFrom(r, from, 6, nil))
		pin := r.Zone.At(from, civil.Clock(rapid.IntRange(0, 6*1440).Draw(t, "pin")))
		days := daysFrom(r, from, 6, []rhythm.Occupied{{At: pin}})
		after := byID(slotsOf(days))
		times := []time.Time{pin}
		for _, at := range after {
			times = append(times, at)
		}
		apart(t, times, r.Gap)
		for _, s := range before {
			near := s.At.Sub(pin).Abs() < time.Duration(r.Gap)*time.Minute
			at, there := after[s.ID]
			if !near {
				require.True(t, there && at.Equal(s.At), "%s moved for a pin at %s", s.ID, pin)
			} else {
				require.False(t, there && at.Equal(s.At))
			}
		}
	})
}

func TestASecondForeignTimeLeavesARedrawnSlotAlone(t *testing.T) {
	r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 30, Seed: 5, Openings: []rhythm.Opening{
		rhythm.Window("day", rhythm.EveryDay, clock("06:00"), clock("22:00"), 1)}}
	date := civil.MustDate("2026-11-24")
	base := r.Day(date, nil).Slots[0]
	first := []rhythm.Occupied{{At: base.At.Add(10 * time.Minute)}}
	moved := r.Day(date, first).Slots[0]
	require.True(t, moved.Moved)
	for m := civil.Clock(6 * 60); m < 22*60; m += 7 {
		second := rhythm.Occupied{At: halifax.At(date, m)}
		if second.At.Sub(moved.At).Abs() >= 30*time.Minute {
			assert.Equal(t, moved, r.Day(date, append(first, second)).Slots[0], "a second time at %s", m)
		}
	}
}

func TestCrowdedOutSlotsAreReported(t *testing.T) {
	r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 60, Seed: 5, Openings: []rhythm.Opening{
		rhythm.Fixed("nine", rhythm.EveryDay, clock("09:00"), 0)}}
	date := civil.MustDate("2026-11-24")
	day := r.Day(date, []rhythm.Occupied{{At: halifax.At(date, clock("09:30"))}})
	assert.Empty(t, day.Slots)
	require.Len(t, day.Short, 1)
	assert.Equal(t, "Crowded out on Tue 24 Nov: no minute at 09:00 is 60 min away from everything else in the plan.",
		day.Short[0].Reason)
}

// A gap of a whole day still lets a fixed daily time hold every day.
func TestDailyTimeWithAGapOfADay(t *testing.T) {
	r := rhythm.Rhythm{ID: 1, Zone: civil.Zone{}, Gap: 24 * 60, Seed: 5, Openings: []rhythm.Opening{
		rhythm.Fixed("nine", rhythm.EveryDay, clock("09:00"), 0)}}
	assert.Len(t, slotsOf(daysFrom(r, civil.MustDate("2026-11-24"), 10, nil)), 10)
}

func TestWindowsOverMidnightKeepClearOfTheNextDay(t *testing.T) {
	r := rhythm.Rhythm{ID: 1, Zone: halifax, Gap: 60, Seed: 5, Openings: []rhythm.Opening{
		rhythm.Window("night", rhythm.EveryDay, clock("22:00"), clock("26:00"), 3),
		rhythm.Window("small hours", rhythm.EveryDay, clock("01:00"), clock("05:00"), 1),
	}}
	day := r.Day(civil.MustDate("2026-11-24"), nil)
	require.Len(t, day.Slots, 4)
	assert.Equal(t, "2026-11-24 02:59", halifax.In(day.Stretches[0].From).Format("2006-01-02 15:04"),
		"a gap after 01:59, the last minute of the night before")
}

func TestProblemsNameTheFieldAndTheWayOut(t *testing.T) {
	days := rhythm.EveryDay
	for name, test := range map[string]struct {
		change        func(*rhythm.Rhythm)
		path, message string
	}{
		"no gap":       {func(r *rhythm.Rhythm) { r.Gap = 0 }, "gap", "between 1 minute"},
		"a year's gap": {func(r *rhythm.Rhythm) { r.Gap = 525_600 }, "gap", "7 days"},
		"reversed": {func(r *rhythm.Rhythm) { r.Openings[0] = rhythm.Window("w", days, 1320, 120, 1) },
			"openings[0].to", "end it at 26:00"},
		"empty": {func(r *rhythm.Rhythm) { r.Openings[0] = rhythm.Window("w", days, 600, 600, 1) },
			"openings[0].to", "window is empty"},
		"too late": {func(r *rhythm.Rhythm) { r.Openings[0] = rhythm.Window("w", days, 600, 2881, 1) },
			"openings[0].to", "48:00"},
		"begins late": {func(r *rhythm.Rhythm) { r.Openings[0] = rhythm.Window("w", days, 1500, 1560, 1) },
			"openings[0].from", "23:59"},
		"no weekday": {func(r *rhythm.Rhythm) { r.Openings[1].Weekdays = 0 }, "openings[1].weekdays", "at least one"},
		"no posts":   {func(r *rhythm.Rhythm) { r.Openings[0].Count = 0 }, "openings[0].count", "between 1 and 500"},
		"10,000 posts": {func(r *rhythm.Rhythm) { r.Openings[0].Count = 10_000 }, "openings[0].count",
			"between 1 and 500"},
		"fixed twice": {func(r *rhythm.Rhythm) { r.Openings[1].Count = 2 }, "openings[1].count", "one post"},
		"wild sway":   {func(r *rhythm.Rhythm) { r.Openings[1].Sway = 900 }, "openings[1].sway", "between 0 and 720"},
		"weeks": {func(r *rhythm.Rhythm) { r.Openings[0].EveryWeeks = 99 }, "openings[0].everyWeeks",
			"between 1 and 52"},
		"no anchor": {func(r *rhythm.Rhythm) { r.Openings[0].EveryWeeks = 2 }, "openings[0].anchor",
			"counted from it"},
		"empty lane": {func(r *rhythm.Rhythm) { r.Openings[0].Lane = []string{"a", " "} }, "openings[0].lane[1]",
			"empty"},
		"even minute": {func(r *rhythm.Rhythm) { r.Uneven = true; r.Openings[1].Sway = 0 }, "openings[1].from",
			"not divisible by five"},
		"ends before": {func(r *rhythm.Rhythm) {
			r.From, r.Until = civil.MustDate("2026-02-01"),
				civil.MustDate("2026-01-01")
		}, "until", "before it begins"},
		"swaying":  {func(r *rhythm.Rhythm) { r.Openings[0].Sway = 5 }, "openings[0].sway", "no give or take"},
		"no key":   {func(r *rhythm.Rhythm) { r.Openings[0].Key = "" }, "openings[0].key", "key"},
		"same key": {func(r *rhythm.Rhythm) { r.Openings[1].Key = "mornings" }, "openings[1].key", "differ"},
		"gap too wide": {func(r *rhythm.Rhythm) { r.Openings[0] = rhythm.Window("w", days, 360, 420, 2) },
			"openings[0].count",
			"The gap of 90 min is wider than the window from 06:00 to 07:00, so 1 fits, not 2."},
		"too many": {func(r *rhythm.Rhythm) {
			r.Openings[0] = rhythm.Window("w", rhythm.On(time.Friday), 360, 600, 9)
		}, "openings[0].count",
			"Friday asks for 9 posts between 06:00 and 10:00 with a gap of 90 min; 3 fit."},
	} {
		t.Run(name, func(t *testing.T) {
			r := weekly()
			require.Empty(t, r.Problems())
			test.change(&r)
			problems := r.Problems()
			require.Len(t, problems, 1)
			assert.Equal(t, test.path, problems[0].Path)
			assert.Contains(t, problems[0].Message, test.message)
		})
	}
}

func TestTenThousandOpeningsAreRefused(t *testing.T) {
	r := weekly()
	r.Openings = make([]rhythm.Opening, 10_000)
	problems := r.Problems()
	require.Len(t, problems, 1)
	assert.Equal(t, "openings", problems[0].Path)
}

func TestEverySoManiethWeek(t *testing.T) {
	r := weekly()
	r.Openings = []rhythm.Opening{rhythm.Fixed("o", rhythm.On(time.Thursday), 600, 0)}
	// a Sunday: its week began on 30 November
	r.Openings[0].EveryWeeks, r.Openings[0].Anchor = 3, civil.MustDate("2026-12-06")
	var dates []string
	for _, s := range slotsOf(daysFrom(r, civil.MustDate("2026-11-01"), 60, nil)) {
		dates = append(dates, s.ID.Date.String())
	}
	assert.Equal(t, []string{"2026-11-12", "2026-12-03", "2026-12-24"}, dates)
}

func TestFromUntilAndRestDays(t *testing.T) {
	r := weekly()
	r.Openings = []rhythm.Opening{
		rhythm.Fixed("o", rhythm.EveryDay, 600, 0),
		rhythm.Window("night", rhythm.EveryDay, clock("23:00"), clock("25:00"), 1),
	}
	r.From, r.Until = civil.MustDate("2026-11-24"), civil.MustDate("2026-11-27")
	r.Rests = civil.RestOn(civil.MustDate("2026-11-26"))
	var dates []string
	for _, s := range slotsOf(daysFrom(r, civil.MustDate("2026-11-20"), 20, nil)) {
		date, _ := halifax.Local(s.At)
		assert.NotEqual(t, r.Rests[0].First, date, "a window that runs into a rest day ends at midnight")
		if s.ID.Opening == "o" {
			dates = append(dates, date.String())
		}
	}
	assert.Equal(t, []string{"2026-11-24", "2026-11-25", "2026-11-27"}, dates)
}

// A rest day yields nothing because that is meant; nothing is said to be missing from it.
func TestARestDayIsNotShort(t *testing.T) {
	r := weekly()
	r.Openings = []rhythm.Opening{
		rhythm.Window("morning", rhythm.EveryDay, clock("08:00"), clock("11:00"), 2),
		rhythm.Fixed("evening", rhythm.EveryDay, clock("19:00"), 20),
	}
	rest := civil.MustDate("2026-11-26")
	r.Rests = civil.RestOn(rest)
	day := r.Day(rest, nil)
	assert.Empty(t, day.Slots)
	assert.Empty(t, day.Short)

	// What does not fit on a day that works is still said.
	r.Openings[0].Count = 200
	assert.Empty(t, r.Day(rest, nil).Short)
	assert.NotEmpty(t, r.Day(rest.Add(1), nil).Short)
}

func TestAudienceZone(t *testing.T) {
	r := weekly()
	tokyo := civil.MustZone("Asia/Tokyo")
	r.Openings = []rhythm.Opening{
		rhythm.Fixed("home", rhythm.EveryDay, clock("12:00"), 0),
		rhythm.Fixed("away", rhythm.On(time.Tuesday), clock("08:00"), 0),
	}
	r.Openings[1].Audience = &tokyo
	day := r.Day(civil.MustDate("2026-11-24"), nil)
	require.Len(t, day.Slots, 2)
	assert.Equal(t, "2026-11-23T23:00:00Z", day.Slots[0].At.Format(time.RFC3339),
		"Tuesday 08:00 in Tokyo is Monday evening in Halifax")
	assert.Equal(t, "2026-11-24T16:00:00Z", day.Slots[1].At.Format(time.RFC3339))
}

func TestLanesComeWithTheirSlots(t *testing.T) {
	r := weekly()
	r.Openings[1].Lane = []string{"sky-guide"}
	for _, s := range r.Day(civil.MustDate("2026-11-23"), nil).Slots {
		assert.Equal(t, s.ID.Opening == "evening", len(s.Lane) == 1)
	}
}

func TestUnevenMinutes(t *testing.T) {
	r := weekly()
	r.Uneven = true
	for _, s := range slotsOf(daysFrom(r, civil.MustDate("2026-01-01"), 300, nil)) {
		assert.NotZero(t, s.At.Minute()%5)
	}
}

// Asking about November first, by other days, or in part, changes nothing.
func TestOneDayNeedsNoOther(t *testing.T) {
	r := weekly()
	november := daysFrom(r, civil.MustDate("2026-11-01"), 30, nil)
	october := daysFrom(r, civil.MustDate("2026-10-01"), 61, nil)
	assert.Equal(t, november, october[31:])
}
