package queue_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"sort"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// busyShelf has deadlines that compete under caps: one to three slots a day, drafts of four
// authors in four categories.
func busyShelf(chance *rand.Rand, deadlines, slots int) queue.Request {
	var all []rhythm.Slot
	for day := 0; len(all) < slots; day++ {
		for n := range chance.IntN(3) {
			s := slot(day)
			s.At = s.At.Add(time.Duration(n*3) * time.Hour)
			s.ID.Ordinal = n
			if chance.IntN(5) == 0 {
				s.Lane = []string{[]string{"sky", "bench"}[chance.IntN(2)]}
			}
			if all = append(all, s); len(all) == slots {
				break
			}
		}
	}
	r := queue.Request{Zone: lisbon, Slots: slices.Values(all)}
	span := int(all[len(all)-1].At.Sub(all[0].At)/time.Hour) + 24
	for i := range deadlines + chance.IntN(5) {
		d := queue.Draft{ID: int64(i + 1), Title: fmt.Sprint("Draft ", i+1),
			Author:   []string{"Ines", "Pell", "Wren", "Mo"}[chance.IntN(4)],
			Category: []string{"sky", "bench", "news", "diary"}[chance.IntN(4)]}
		if i < deadlines {
			from := chance.IntN(span)
			if chance.IntN(3) == 0 {
				d.NotBefore = all[0].At.Add(time.Duration(from) * time.Hour)
			}
			d.Deadline = all[0].At.Add(time.Duration(min(from+chance.IntN(span/2+1), span)) * time.Hour)
		}
		r.Shelf = append(r.Shelf, d)
	}
	chance.Shuffle(len(r.Shelf), func(i, j int) { r.Shelf[i], r.Shelf[j] = r.Shelf[j], r.Shelf[i] })
	r.Caps = queue.Caps{AuthorDay: chance.IntN(2), AuthorWeek: 1 + chance.IntN(3), CategoryDays: chance.IntN(5),
		Day: chance.IntN(3)}
	return r
}

// oracle finds how many deadlines can be met by looking at all ways, with no more help than
// a memory of what it has seen.
type oracle struct {
	brute
	known map[string]int
}

func (o *oracle) best(t int) int {
	if t == len(o.slots) {
		return 0
	}
	key := fmt.Sprint(t, o.used, o.recent(t))
	if n, ok := o.known[key]; ok {
		return n
	}
	best := o.best(t + 1)
	for i := range o.request.Shelf {
		if o.deadline(i) == 1 && o.may(i, t) {
			o.at[t], o.used[i] = i, true
			best = max(best, 1+o.best(t+1))
			o.at[t], o.used[i] = -1, false
		}
	}
	o.known[key] = best
	return best
}

// recent is what of the last eight days the caps may look at.
func (o *oracle) recent(t int) (recent []string) {
	for other := t - 1; other >= 0 && o.slots[t].At.Sub(o.slots[other].At) < 8*24*time.Hour; other-- {
		if i := o.at[other]; i >= 0 {
			recent = append(recent, fmt.Sprint(other, o.request.Shelf[i].Author, o.request.Shelf[i].Category))
		}
	}
	return recent
}

func met(p queue.Placement) (n int) {
	for _, one := range p.Placed {
		if !one.Draft.Deadline.IsZero() {
			n++
		}
	}
	return n
}

func TestDeadlinesUnderCapsAreMetAsFarAsTheyCanBe(t *testing.T) {
	shelves := 40
	if testing.Short() { // every possible placement of each shelf is tried
		shelves = 8
	}
	for i := range shelves {
		r := busyShelf(rand.New(rand.NewPCG(uint64(i), 1)), 7+i%3, 10+i%4)
		o := oracle{brute{request: r, slots: slices.Collect(r.Slots), used: make([]bool, len(r.Shelf))},
			make(map[string]int)}
		for range o.slots {
			o.at = append(o.at, -1)
		}
		p := queue.Place(r)
		require.False(t, p.Unproven)
		require.Equal(t, o.best(0), met(p), "shelf %d", i)
	}
}

func TestTwentyDeadlinesAmongSixtySlotsAreProven(t *testing.T) {
	unproven := 0
	for i := range 100 {
		if queue.Place(busyShelf(rand.New(rand.NewPCG(uint64(i), 2)), 20, 60)).Unproven {
			unproven++
		}
	}
	assert.LessOrEqual(t, unproven, 1)
}

func TestMoreDeadlinesThanCanBeSearchedAreSaidToBeUnproven(t *testing.T) {
	r := busyShelf(rand.New(rand.NewPCG(1, 3)), 90, 60)
	p := queue.Place(r)
	assert.True(t, p.Unproven)
	r.Caps = queue.Caps{}
	assert.False(t, queue.Place(r).Unproven, "without caps it is proven")
}

// BenchmarkDeadlinesUnderCaps places shelves of 20 deadlines among 60 slots, each once; the
// 95th centile is what an editor may have to wait.
func BenchmarkDeadlinesUnderCaps(b *testing.B) {
	for _, deadlines := range []int{12, 20, 30} {
		b.Run(fmt.Sprint(deadlines), func(b *testing.B) {
			var took []time.Duration
			unproven := 0
			for b.Loop() {
				r := busyShelf(rand.New(rand.NewPCG(uint64(len(took)), 4)), deadlines, 60)
				began := time.Now()
				if queue.Place(r).Unproven {
					unproven++
				}
				took = append(took, time.Since(began))
			}
			slices.Sort(took)
			b.ReportMetric(float64(took[len(took)*95/100].Microseconds())/1000, "p95-ms")
			b.ReportMetric(float64(took[len(took)-1].Microseconds())/1000, "max-ms")
			b.ReportMetric(100*float64(unproven)/float64(len(took)), "%unproven")
		})
	}
}

// A deadline draft that no seat can be kept for displaces no other without need.
func TestADeadlineThatCannotBeMetDisplacesNobody(t *testing.T) {
	wed, thu, fri := slot(1), slot(2), slot(3)
	thu.Lane = []string{"sky"}
	drafts := []queue.Draft{
		{ID: 1, Title: "one", Author: "Ines", Category: "sky"}, {ID: 2, Title: "two", Author: "Ines", Category: "sky",
			Deadline: at(2, 14)},
		{ID: 3, Title: "three", Author: "Pell", Category: "sky", Deadline: at(2, 6)}, {ID: 4, Title: "four",
			Category: "news", Deadline: at(2, 11)},
	}
	p := place(drafts, wed, thu, fri)
	var order []int64
	for _, one := range p.Placed {
		order = append(order, one.Draft.ID)
	}
	assert.Equal(t, []int64{2, 3, 1}, order)
}

// greedy is the rule in its plainest form for shelves without caps: each slot gets the first
// draft with which as many deadlines can be met as could be before, counted each time by a
// matching of its own.
func greedy(r queue.Request) map[int64]time.Time {
	slots := slices.Collect(r.Slots)
	fits := func(d queue.Draft, s rhythm.Slot) bool {
		return !s.At.Before(d.NotBefore) && (d.Deadline.IsZero() || !s.At.After(d.Deadline)) &&
			(len(s.Lane) == 0 || slices.Contains(s.Lane, d.Category))
	}
	used := make([]bool, len(r.Shelf))
	count := func(from int) int {
		holder := make(map[int]int)
		var seen map[int]bool
		var augment func(i int) bool
		augment = func(i int) bool {
			for t := from; t < len(slots); t++ {
				if seen[t] || !fits(r.Shelf[i], slots[t]) {
					continue
				}
				seen[t] = true
				if other, held := holder[t]; !held || augment(other) {
					holder[t] = i
					return true
				}
			}
			return false
		}
		for i := range r.Shelf {
			if !used[i] && !r.Shelf[i].Deadline.IsZero() {
				seen = make(map[int]bool)
				augment(i)
			}
		}
		return len(holder)
	}
	placed := make(map[int64]time.Time)
	left := count(0)
	for t, s := range slots {
		for i, d := range r.Shelf {
			if used[i] || !fits(d, s) {
				continue
			}
			used[i] = true
			after := count(t + 1)
			urgent := 0
			if !d.Deadline.IsZero() {
				urgent = 1
			}
			if after+urgent == left {
				placed[d.ID], left = s.At, after
				break
			}
			used[i] = false
		}
	}
	return placed
}

func TestLargeShelvesWithoutCapsAreExact(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		r := anyRequest(false, 45, 40).Draw(t, "request")
		p := queue.Place(r)
		require.Equal(t, greedy(r), placedTimes(p))
		require.False(t, p.Unproven)
		require.True(t, sort.SliceIsSorted(p.Placed, func(i,
			j int) bool {
			return p.Placed[i].Slot.At.Before(p.Placed[j].Slot.At)
		}))
	})
}
