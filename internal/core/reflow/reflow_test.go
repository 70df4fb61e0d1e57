package reflow_test

import (
	"errors"
	"fmt"
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

var (
	halifax = civil.MustZone("America/Halifax")
	monday  = civil.MustDate("2026-11-23")
	sunday  = halifax.At(monday, 0).Add(-time.Minute) // just before it begins
)

// day is 10:00 so many days after the Monday.
func day(n int) time.Time { return halifax.At(monday.Add(n), civil.MustClock("10:00")) }

func slot(n int) rhythm.Slot {
	return rhythm.Slot{ID: rhythm.SlotID{Rhythm: 1, Date: monday.Add(n), Opening: "ten"}, At: day(n)}
}

// plan has a slot at ten every day; letters stand for posts that sit in it, a dot for a
// free one, and a capital for a pinned post at ten.
func plan(line string, caps queue.Caps) reflow.Plan {
	p := reflow.Plan{Zone: halifax, Caps: caps, Gap: 60}
	var free []rhythm.Slot
	for i, r := range line {
		switch {
		case r == '.':
			free = append(free, slot(i))
		default:
			post := reflow.Post{Draft: queue.Draft{ID: int64(i + 1), Title: string(r), Author: "Ines"}, At: day(i)}
			if r >= 'a' {
				post.Slot = slot(i)
			} else {
				post.Pinned = true
			}
			p.Posts = append(p.Posts, post)
			p.Standing = append(p.Standing, queue.StandingOf(post.Draft, post.At))
		}
	}
	p.Free = slices.Values(free)
	return p
}

// drawn draws the plan as it is after the moves.
func drawn(t require.TestingT, p reflow.Plan, moves []reflow.Move, days int) string {
	at := make(map[int64]time.Time)
	title := make(map[int64]string)
	for _, post := range p.Posts {
		at[post.ID], title[post.ID] = post.At, post.Title
	}
	for _, m := range moves {
		require.False(t, m.To.Equal(at[m.Post.ID]), "“%s” does not move", m.Post.Title)
		at[m.Post.ID], title[m.Post.ID] = m.To, m.Post.Title
	}
	line := []rune(fmt.Sprintf("%*s", days, ""))
	for i := range line {
		line[i] = '.'
	}
	for id, when := range at {
		i := halifax.DateOf(when).Sub(monday)
		require.Equal(t, '.', line[i], "two posts on day %d", i)
		line[i] = []rune(title[id])[0]
	}
	return string(line)
}

var urgent = reflow.Post{Draft: queue.Draft{ID: 99, Title: "u", Author: "Tobias"}}

func TestMakeRoom(t *testing.T) {
	for _, c := range []struct {
		name, before, after string
		from                int
		moves               int
	}{
		{"a free seat takes it, and nothing else moves", ".abc", "uabc", 0, 1},
		{"posts move down as far as the first free seat", "abc.d..", "uabcd..", 0, 4},
		{"only from the moment on", "abc..", "abuc.", 2, 2},
		{"pinned posts stay where they are", "aBc..", "uBac.", 0, 3},
		{"a hole in between ends it", "a.bcd.", "uabcd.", 0, 2},
	} {
		p := plan(c.before, queue.Caps{})
		moves, err := reflow.MakeRoom(p, urgent, day(c.from).Add(-time.Minute))
		require.NoError(t, err, c.name)
		assert.Equal(t, c.after, drawn(t, p, moves, len(c.before)), c.name)
		assert.Len(t, moves, c.moves, c.name)
		assert.Equal(t, urgent.ID, moves[0].Post.ID, c.name)
	}
}

func TestMakeRoomKeepsDeadlinesBoundsAndCaps(t *testing.T) {
	p := plan("abc.", queue.Caps{})
	p.Posts[1].Deadline = day(2)
	moves, err := reflow.MakeRoom(p, urgent, sunday)
	require.NoError(t, err)
	assert.Equal(t, "ubac", drawn(t, p, moves, 4), "b has a deadline, so it stays")

	late := urgent
	late.NotBefore = day(2)
	p = plan("abc.", queue.Caps{})
	moves, err = reflow.MakeRoom(p, late, sunday)
	require.NoError(t, err)
	assert.Equal(t, "abuc", drawn(t, p, moves, 4))

	// One post a week for one author: Ines's post cannot move into a week that is hers already.
	p = plan("a.......b....", queue.Caps{AuthorWeek: 1})
	moves, err = reflow.MakeRoom(p, urgent, sunday)
	require.NoError(t, err)
	assert.Equal(t, "ua......b....", drawn(t, p, moves, 13))

	p = plan("abc", queue.Caps{})
	_, err = reflow.MakeRoom(p, urgent, sunday)
	var stuck *reflow.Stuck
	require.ErrorAs(t, err, &stuck)
	assert.Contains(t, stuck.Why, "no free slot within two years for “c” to move to")

	early := urgent
	early.Deadline = day(-1)
	_, err = reflow.MakeRoom(plan("ab.", queue.Caps{}), early, sunday)
	require.ErrorAs(t, err, &stuck)
	assert.Contains(t, stuck.Why, "after its deadline")
}

func TestMakeRoomForAPostThatIsScheduled(t *testing.T) {
	p := plan("abcd.", queue.Caps{})
	moves, err := reflow.MakeRoom(p, p.Posts[3], sunday)
	require.NoError(t, err)
	assert.Equal(t, "dabc.", drawn(t, p, moves, 5), "the seat that it leaves is the free one")
}

func TestMakeRoomMovesTheFewestAndKeepsTheOrder(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.StringOfN(rapid.SampledFrom([]rune("ab.cP")), 1, 20, -1).Draw(t, "line") + "."
		from := rapid.IntRange(0, len(line)-1).Draw(t, "from")
		p := plan(line, queue.Caps{})
		moves, err := reflow.MakeRoom(p, urgent, day(from).Add(-time.Minute))
		require.NoError(t, err)
		drawn(t, p, moves, len(line))
		// The hole that is filled is the first one; all movable posts before it move, and no other.
		want := 1
		for _, r := range line[from:] {
			if r == '.' {
				break
			}
			if r != 'P' {
				want++
			}
		}
		require.Len(t, moves, want)
		for i := 1; i < len(moves); i++ {
			require.True(t, moves[i].To.After(moves[i-1].To), "in their order")
			require.Equal(t, moves[i-1].To, moves[i].Post.At, "each takes the seat of the next")
		}
	})
}

func TestShift(t *testing.T) {
	now := sunday
	for _, c := range []struct {
		name, before, after string
		from, to, days      int
	}{
		{"a stretch moves down, in its order", "abc....", "...abc.", 0, 3, 3},
		{"pinned posts too, at their time of day", "aBc....", "...aBc.", 0, 3, 3},
		{"what stands outside the stretch stays", "ab.c...", "...cab.", 0, 2, 3},
		{"up again", "...abc.", "abc....", 3, 6, -3},
		{"seats that are left are taken", "abcd...", ".abcd..", 0, 4, 1},
	} {
		p := plan(c.before, queue.Caps{})
		moves, left, err := reflow.Shift(p, day(c.from).Add(-time.Hour), day(c.to).Add(-time.Hour), c.days, now)
		require.NoError(t, err, c.name)
		assert.Empty(t, left, c.name)
		assert.Equal(t, c.after, drawn(t, p, moves, len(c.before)), c.name)
	}
}

func TestShiftKeepsTheGapFromPinnedPosts(t *testing.T) {
	p := plan("aP.....", queue.Caps{})
	moves, _, err := reflow.Shift(p, sunday, day(2), 1, sunday)
	require.NoError(t, err)
	assert.Equal(t, "..Pa...", drawn(t, p, moves, 7), "the pinned one takes day 2, so the other one cannot")

	p = plan("P.b....", queue.Caps{})
	moves, _, err = reflow.Shift(p, sunday, day(1), 2, sunday)
	require.NoError(t, err)
	require.Len(t, moves, 1)
	assert.Contains(t, moves[0].Reason, "That is nearer than the gap to “b”.")
}

func TestShiftNeverIntoThePast(t *testing.T) {
	_, _, err := reflow.Shift(plan("abc", queue.Caps{}), day(0).Add(-time.Hour), day(3), -5, sunday)
	var stuck *reflow.Stuck
	require.ErrorAs(t, err, &stuck)
	assert.Contains(t, stuck.Why, "in the past")
}

func TestShiftSaysWhatStays(t *testing.T) {
	p := plan("ab.....", queue.Caps{})
	p.Posts[1].Deadline = day(2)
	moves, left, err := reflow.Shift(p, day(0).Add(-time.Hour), day(2), 3, sunday)
	require.NoError(t, err)
	require.Len(t, left, 1)
	assert.Contains(t, left[0].Reason, "It stays")
	assert.Equal(t, ".b.a...", drawn(t, p, moves, 7))
}

func TestShiftKeepsEveryPostAndPutsNoTwoTogether(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.StringOfN(rapid.SampledFrom([]rune("ab.c")), 1, 14, -1).Draw(t, "line")
		days := rapid.IntRange(1, 9).Draw(t, "days")
		p := plan(line+"..............................", queue.Caps{})
		from := rapid.IntRange(0, len(line)-1).Draw(t, "from")
		moves, left, err := reflow.Shift(p, day(from).Add(-time.Hour), day(len(line)), days, sunday)
		require.NoError(t, err)
		require.Empty(t, left)
		drawn(t, p, moves, 60)
		for _, m := range moves {
			require.False(t, m.To.Before(halifax.AddDays(m.Post.At, days).Add(-24*time.Hour)),
				"not before its new date")
		}
	})
}

func TestPattern(t *testing.T) {
	p := reflow.Pattern{EveryDays: 3, From: civil.MustClock("08:00"), To: civil.MustClock("11:00"), Count: 2, Gap: 45,
		Uneven: true, Seed: 5}
	require.Empty(t, p.Problems())
	taken := []rhythm.Occupied{{At: halifax.At(monday, civil.MustClock("09:30"))}}
	var dates []civil.Date
	var before time.Time
	n := 0
	for s := range p.Slots(halifax, monday, civil.RestOn(monday.Add(3)), taken) {
		date, clock := halifax.Local(s.At)
		assert.Zero(t, date.Sub(monday)%3)
		assert.NotEqual(t, monday.Add(3), date, "a rest day")
		assert.GreaterOrEqual(t, clock, civil.MustClock("08:00"))
		assert.Less(t, clock, civil.MustClock("11:00"))
		assert.NotZero(t, int(clock)%5)
		assert.GreaterOrEqual(t, s.At.Sub(before), 45*time.Minute)
		assert.GreaterOrEqual(t, s.At.Sub(taken[0].At).Abs(), 45*time.Minute)
		before, dates = s.At, append(dates, date)
		if n++; n == 60 {
			break
		}
	}
	assert.Equal(t, monday, dates[0])
	assert.Equal(t, dates[10], dates[11], "two a day")
}

func TestPatternProblemsNameTheField(t *testing.T) {
	good := reflow.Pattern{EveryDays: 1, From: 480, To: 600, Count: 1, Gap: 60}
	for path, bad := range map[string]func(*reflow.Pattern){
		"everyDays": func(p *reflow.Pattern) { p.EveryDays = 0 },
		"count":     func(p *reflow.Pattern) { p.Count = 25 },
		"gap":       func(p *reflow.Pattern) { p.Gap = 0 },
		"from":      func(p *reflow.Pattern) { p.From = 1440 },
		"to":        func(p *reflow.Pattern) { p.To = 480 },
	} {
		p := good
		bad(&p)
		require.Len(t, p.Problems(), 1, path)
		assert.Equal(t, path, p.Problems()[0].Path)
	}
}

// Whatever the caps, no move breaks one that was kept before.
func TestMovesKeepTheCaps(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		line := rapid.StringOfN(rapid.SampledFrom([]rune("ab.cP")), 1, 24, -1).Draw(t, "line") +
			"..........................................."
		caps := queue.Caps{AuthorWeek: rapid.IntRange(1, 4).Draw(t, "week"),
			CategoryDays: rapid.IntRange(0, 3).Draw(t, "days")}
		p := plan(line, caps)
		p.Standing = nil
		for i := range p.Posts {
			p.Posts[i].Author = rapid.SampledFrom([]string{"Ines", "Tobias", "Pell"}).Draw(t, "author")
			p.Posts[i].Category = rapid.SampledFrom([]string{"", "Sky Guide", "Workbench"}).Draw(t, "category")
			p.Standing = append(p.Standing, queue.StandingOf(p.Posts[i].Draft, p.Posts[i].At))
		}
		broken := func(posts map[int64]queue.Standing) int {
			n := 0
			for id, s := range posts {
				others := make([]queue.Standing, 0, len(posts))
				for other, o := range posts {
					if other != id {
						others = append(others, o)
					}
				}
				draft := queue.Draft{Author: s.Author, Category: s.Category}
				if queue.NewTally(halifax, civil.Date{}, caps, others).Refuses(draft, rhythm.Slot{At: s.At}) != "" {
					n++
				}
			}
			return n
		}
		standing := make(map[int64]queue.Standing)
		for _, post := range p.Posts {
			standing[post.ID] = queue.StandingOf(post.Draft, post.At)
		}
		before := broken(standing)
		var moves []reflow.Move
		var err error
		if rapid.Bool().Draw(t, "room") {
			moves, err = reflow.MakeRoom(p, urgent, sunday)
		} else {
			moves, _, err = reflow.Shift(p, sunday, day(len(line)), rapid.IntRange(1, 9).Draw(t, "by"), sunday)
		}
		var stuck *reflow.Stuck
		if errors.As(err, &stuck) {
			return // said, and nothing moved
		}
		require.NoError(t, err)
		drawn(t, p, moves, len(line)+60)
		pinned := false
		for _, m := range moves {
			standing[m.Post.ID] = queue.StandingOf(m.Post.Draft, m.To)
			pinned = pinned || m.Post.Pinned
		}
		if before == 0 && !pinned { // an editor's own times may pass the caps
			require.Zero(t, broken(standing))
		}
	})
}

func TestPatternsKeepTheirWindowAndGap(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		from := civil.Clock(rapid.IntRange(0, 1400).Draw(t, "from"))
		p := reflow.Pattern{EveryDays: rapid.IntRange(1, 9).Draw(t, "every"), From: from, To: from +
			civil.Clock(rapid.IntRange(1, 600).Draw(t, "long")),
			Count: rapid.IntRange(1, 6).Draw(t, "count"), Gap: rapid.IntRange(1, 200).Draw(t,
				"gap"), Seed: rapid.Uint64().Draw(t, "seed")}
		require.Empty(t, p.Problems())
		var before time.Time
		n := 0
		for s := range p.Slots(halifax, monday, nil, nil) {
			require.GreaterOrEqual(t, s.At.Sub(before), time.Duration(p.Gap)*time.Minute)
			require.Zero(t, s.ID.Date.Sub(monday)%p.EveryDays)
			minute := int(s.At.Sub(halifax.At(s.ID.Date, 0)).Minutes())
			require.GreaterOrEqual(t, minute, int(p.From)-60, "but for a change of the clocks")
			require.Less(t, minute, int(p.To)+60)
			before = s.At
			if n++; n == 12 {
				break
			}
		}
	})
}
