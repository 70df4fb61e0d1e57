package queue_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// brute places by looking at every way: it knows how many deadlines can be met, and
// gives each slot the first draft with which that many still are.
type brute struct {
	request queue.Request
	slots   []rhythm.Slot
	at      []int // by slot: the draft, or -1
	used    []bool
}

func (b *brute) place() map[int64]time.Time {
	for range b.slots {
		b.at = append(b.at, -1)
	}
	b.used = make([]bool, len(b.request.Shelf))
	target := b.most(0)
	met := 0
	for t := range b.slots {
		for i := range b.request.Shelf {
			if !b.may(i, t) {
				continue
			}
			b.at[t], b.used[i] = i, true
			now := met + b.deadline(i)
			if now+b.most(t+1) == target {
				met = now
				break
			}
			b.at[t], b.used[i] = -1, false
		}
	}
	placed := make(map[int64]time.Time)
	for t, i := range b.at {
		if i >= 0 {
			placed[b.request.Shelf[i].ID] = b.slots[t].At
		}
	}
	return placed
}

func (b *brute) deadline(i int) int {
	if b.request.Shelf[i].Deadline.IsZero() {
		return 0
	}
	return 1
}

// most is how many deadlines can be met from slot t on. Drafts without one only take
// room away, so they are left out of it.
func (b *brute) most(t int) int {
	if t == len(b.slots) {
		return 0
	}
	best := b.most(t + 1)
	for i := range b.request.Shelf {
		if b.deadline(i) == 1 && b.may(i, t) {
			b.at[t], b.used[i] = i, true
			best = max(best, 1+b.most(t+1))
			b.at[t], b.used[i] = -1, false
		}
	}
	return best
}

// may says the rules again, in the plainest way.
func (b *brute) may(i, t int) bool {
	d, s := b.request.Shelf[i], b.slots[t]
	if b.used[i] || s.At.Before(d.NotBefore) || !d.Deadline.IsZero() && s.At.After(d.Deadline) {
		return false
	}
	if len(s.Lane) > 0 && !slices.Contains(s.Lane, d.Category) {
		return false
	}
	date := b.request.Zone.DateOf(s.At)
	day, authorDay, authorWeek := 0, 0, 0
	near := false
	count := func(at time.Time, author, category string) {
		other := b.request.Zone.DateOf(at)
		apart := date.Sub(other)
		_, week := b.request.Zone.In(s.At).ISOWeek()
		_, otherWeek := b.request.Zone.In(at).ISOWeek()
		if apart == 0 {
			day++
		}
		if author != "" && author == d.Author {
			if apart == 0 {
				authorDay++
			}
			if week == otherWeek {
				authorWeek++
			}
		}
		if category != "" && category == d.Category && max(apart, -apart) < b.request.Caps.CategoryDays {
			near = true
		}
	}
	for _, p := range b.request.Standing {
		count(p.At, p.Author, p.Category)
	}
	for other, j := range b.at {
		if j >= 0 {
			count(b.slots[other].At, b.request.Shelf[j].Author, b.request.Shelf[j].Category)
		}
	}
	c := b.request.Caps
	full := func(n, limit int) bool { return limit > 0 && n >= limit }
	return !near && !full(day, c.Day) && !full(authorDay, c.AuthorDay) && !full(authorWeek, c.AuthorWeek)
}

func anyRequest(caps bool, drafts, slots int) *rapid.Generator[queue.Request] {
	return rapid.Custom(func(t *rapid.T) queue.Request {
		r := queue.Request{Zone: lisbon}
		var all []rhythm.Slot
		day, ordinal := 0, 0
		for range rapid.IntRange(0, slots).Draw(t, "slots") {
			if step := rapid.IntRange(0, 2).Draw(t, "step"); step > 0 {
				day, ordinal = day+step, 0
			}
			ordinal++
			s := slot(day)
			s.At = s.At.Add(time.Duration(ordinal) * time.Hour)
			s.ID.Ordinal = ordinal
			if rapid.IntRange(0, 3).Draw(t, "laned") == 0 {
				s.Lane = []string{rapid.SampledFrom([]string{"sky", "bench"}).Draw(t, "lane")}
			}
			all = append(all, s)
		}
		r.Slots = slices.Values(all)
		moment := func(name string) time.Time {
			return slot(0).At.Add(time.Duration(rapid.IntRange(-12, 24*2*slots).Draw(t, name)) * time.Hour)
		}
		for i := range rapid.IntRange(0, drafts).Draw(t, "drafts") {
			d := queue.Draft{
				ID: int64(i + 1), Title: fmt.Sprintf("Draft %d", i+1),
				Author:   rapid.SampledFrom([]string{"", "Ines", "Pell"}).Draw(t, "author"),
				Category: rapid.SampledFrom([]string{"", "sky", "bench"}).Draw(t, "category"),
			}
			if rapid.IntRange(0, 2).Draw(t, "held") == 0 {
				d.NotBefore = moment("not before")
			}
			if rapid.IntRange(0, 4).Draw(t, "hurried") < 3 {
				d.Deadline = moment("deadline")
			}
			r.Shelf = append(r.Shelf, d)
		}
		if caps {
			small := rapid.IntRange(0, 2)
			r.Caps = queue.Caps{Day: small.Draw(t, "day"), AuthorDay: small.Draw(t, "author day"),
				AuthorWeek: rapid.IntRange(0, 3).Draw(t, "author week"), CategoryDays: rapid.IntRange(0, 4).Draw(t,
					"category days")}
			for range rapid.IntRange(0, 2).Draw(t, "standing") {
				r.Standing = append(r.Standing, queue.Standing{At: moment("standing at"), Author: "Ines",
					Category: "sky"})
			}
		}
		return r
	})
}

func placedTimes(p queue.Placement) map[int64]time.Time {
	times := make(map[int64]time.Time)
	for _, one := range p.Placed {
		times[one.Draft.ID] = one.Slot.At
	}
	return times
}

func compareWithBrute(t *rapid.T, r queue.Request) {
	b := brute{request: r, slots: slices.Collect(r.Slots)}
	want := b.place()
	p := queue.Place(r)
	require.Equal(t, want, placedTimes(p))
	require.Len(t, p.Unplaced, len(r.Shelf)-len(p.Placed))
	for _, u := range p.Unplaced {
		require.NotEmpty(t, u.Reason)
	}
}

// Every deadline is met that can be, and nobody is displaced without need: the
// placement is exactly the one found by looking at every way.
func TestPlacementEqualsBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) { compareWithBrute(t, anyRequest(false, 7, 7).Draw(t, "request")) })
}

func TestPlacementUnderCapsEqualsBruteForce(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) { compareWithBrute(t, anyRequest(true, 5, 6).Draw(t, "request")) })
}

// On larger shelves no rule is ever broken.
func TestLargePlacementsKeepEveryRule(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := anyRequest(true, 60, 60).Draw(t, "request")
		p := queue.Place(r)
		b := brute{request: r, slots: slices.Collect(r.Slots), used: make([]bool, len(r.Shelf))}
		for range b.slots {
			b.at = append(b.at, -1)
		}
		for _, one := range p.Placed {
			i := slices.IndexFunc(r.Shelf, func(d queue.Draft) bool { return d.ID == one.Draft.ID })
			at := slices.IndexFunc(b.slots, func(s rhythm.Slot) bool { return s.ID == one.Slot.ID })
			require.True(t, b.may(i, at), "%s at %s", one.Draft.Title, one.Slot.At)
			b.at[at], b.used[i] = i, true
			require.NotEmpty(t, one.Reason)
		}
		require.Equal(t, len(r.Shelf), len(p.Placed)+len(p.Unplaced))
	})
}

func at(day, hour int) time.Time { return slot(day).At.Add(time.Duration(hour) * time.Hour) }

func TestADeadlineGoesAheadOnlyAsFarAsItMust(t *testing.T) {
	drafts := shelf(4)
	drafts[3].Deadline = at(2, 1)
	p := place(drafts, slot(0), slot(1), slot(2), slot(3))
	var order []int64
	for _, one := range p.Placed {
		order = append(order, one.Draft.ID)
	}
	assert.Equal(t, []int64{1, 2, 4, 3}, order)
	assert.Equal(t, "Goes ahead of “Draft 3” to meet its deadline on Thu 26 Nov.", p.Placed[2].Reason)
	assert.Contains(t, p.Placed[3].Reason, "Gave way to “Draft 4”, whose deadline is Thu 26 Nov.")
}

func TestReasonsSayWhatStoodInTheWay(t *testing.T) {
	drafts := shelf(3)
	drafts[0].Author, drafts[1].Author = "Ines Abara", "Ines Abara"
	drafts[2].Category = "Workbench"
	sky := slot(2)
	sky.Lane = []string{"Sky Guide"}
	r := queue.Request{Zone: lisbon, Shelf: drafts, Caps: queue.Caps{AuthorDay: 1},
		Slots: slices.Values([]rhythm.Slot{slot(0), {ID: rhythm.SlotID{Ordinal: 1}, At: at(0, 3)}, slot(1), sky,
			slot(3)})}
	r.Shelf[2].NotBefore = at(1, 2)
	p := queue.Place(r)
	require.Len(t, p.Placed, 3)
	assert.Equal(t, "First slot it can take that no draft ahead of it on the shelf has. Tue 24 Nov is full for Ines Abara.", p.Placed[1].Reason)
	assert.Equal(t, "First slot it can take that no draft ahead of it on the shelf has. It was held until Wed 25 Nov. The slot on Thu 26 Nov is for Sky Guide.", p.Placed[2].Reason)
}

func TestUnplacedAreToldWhatWouldHaveToChange(t *testing.T) {
	lane := slot(1)
	lane.Lane = []string{"Sky Guide"}
	for name, test := range map[string]struct {
		change func(*queue.Request)
		want   string
	}{
		"deadline before not-before": {func(r *queue.Request) {
			r.Shelf[0].NotBefore, r.Shelf[0].Deadline = at(3, 0),
				at(1, 0)
		},
			"Its deadline on Wed 25 Nov is before Fri 27 Nov, until when it is held. Change one of the two."},
		"deadline too soon": {func(r *queue.Request) { r.Shelf[0].Deadline = at(-1, 0) },
			"Its deadline on Mon 23 Nov is before the first free slot, on Tue 24 Nov."},
		"no slot in between": {func(r *queue.Request) {
			r.Shelf[0].NotBefore, r.Shelf[0].Deadline = at(0, 1),
				at(0, 9)
		},
			"There is no free slot between Tue 24 Nov and its deadline on Tue 24 Nov; the next is on Wed 25 Nov."},
		"held for ever": {func(r *queue.Request) { r.Shelf[0].NotBefore = at(90, 0) },
			"The rhythm has no free slot after Mon 22 Feb, the earliest it may come out."},
		"no lane": {func(r *queue.Request) {
			r.Shelf[0].Category = "Workbench"
			r.Slots = slices.Values([]rhythm.Slot{lane})
		},
			"None of the 1 free slots is for Workbench. Add an opening for it, widen a lane, or give this post a time by hand."},
		"caps": {func(r *queue.Request) {
			r.Shelf[0].Author, r.Caps.AuthorWeek = "Ines", 1
			r.Standing = []queue.Standing{{At: at(1, 0), Author: "Ines"}}
		}, "The caps leave no room for it in any of the 2 free slots: 2 are in weeks that are full for Ines."},
		"all taken": {func(r *queue.Request) {
			r.Shelf = shelf(3)
			for i := range r.Shelf {
				r.Shelf[i].Deadline = at(1, 2)
			}
			r.Shelf[0], r.Shelf[2] = r.Shelf[2], r.Shelf[0]
		}, "All 2 free slots before its deadline on Wed 25 Nov go to other drafts. Move the deadline, add an opening, or give this post a time by hand."},
	} {
		t.Run(name, func(t *testing.T) {
			r := queue.Request{Zone: lisbon, Shelf: shelf(1), Slots: slices.Values([]rhythm.Slot{slot(0), slot(1)})}
			test.change(&r)
			p := queue.Place(r)
			require.Len(t, p.Unplaced, 1)
			assert.Contains(t, p.Unplaced[0].Reason, test.want)
		})
	}
}

func TestCapsProblems(t *testing.T) {
	assert.Empty(t, queue.Caps{Day: 3, AuthorDay: 1, AuthorWeek: 4, CategoryDays: 2}.Problems())
	for path, caps := range map[string]queue.Caps{
		"day": {Day: -1}, "authorDay": {AuthorDay: 3,
			Day: 2}, "authorWeek": {AuthorWeek: 1000}, "categoryDays": {CategoryDays: 9999},
	} {
		problems := caps.Problems()
		require.Len(t, problems, 1, path)
		assert.Equal(t, path, problems[0].Path)
	}
	assert.Equal(t, "authorDay", queue.Caps{AuthorDay: 3, AuthorWeek: 2}.Problems()[0].Path)
}

func TestShelfOrders(t *testing.T) {
	drafts := shelf(6)
	for i := range drafts {
		drafts[i].Added = at([]int{3, 1, 5, 2, 6, 4}[i], 0)
		drafts[i].Category = []string{"a", "a", "a", "b", "c", "b"}[i]
	}
	ids := func(order queue.Order) []int64 {
		var ids []int64
		for _, d := range queue.Arrange(drafts, order, 9) {
			ids = append(ids, d.ID)
		}
		return ids
	}
	assert.Equal(t, []int64{1, 2, 3, 4, 5, 6}, ids(queue.ByHand))
	assert.Equal(t, []int64{2, 4, 1, 6, 3, 5}, ids(queue.OldestFirst))
	assert.Equal(t, []int64{5, 3, 6, 1, 4, 2}, ids(queue.NewestFirst))
	assert.Equal(t, []int64{1, 4, 5, 2, 6, 3}, ids(queue.ByCategories))
	shuffled := ids(queue.Shuffled)
	assert.ElementsMatch(t, ids(queue.ByHand), shuffled)
	drafts = drafts[:5]
	assert.Equal(t, slices.DeleteFunc(shuffled, func(id int64) bool { return id == 6 }), ids(queue.Shuffled),
		"the others keep their order")
}
