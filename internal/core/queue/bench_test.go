package queue_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// longShelf is a shelf of n drafts by 20 authors in 8 categories, a fifth with a
// deadline and a tenth held back, for three slots a day, under all caps.
func longShelf(n int) queue.Request {
	rng := rand.New(rand.NewPCG(1, uint64(n)))
	r := queue.Request{Zone: lisbon, Caps: queue.Caps{Day: 3, AuthorDay: 1, AuthorWeek: 3, CategoryDays: 1}}
	slots := make([]rhythm.Slot, 0, 2*n)
	for len(slots) < 2*n {
		for hour := range 3 {
			s := slot(len(slots) / 3)
			s.At = s.At.Add(time.Duration(4*hour) * time.Hour)
			s.ID.Ordinal = hour
			slots = append(slots, s)
		}
	}
	r.Slots = slices.Values(slots)
	for i := range n {
		d := queue.Draft{ID: int64(i), Title: fmt.Sprintf("Draft %d", i),
			Author: fmt.Sprintf("Author %d", rng.IntN(20)), Category: fmt.Sprintf("Category %d", rng.IntN(8))}
		if rng.IntN(5) == 0 {
			d.Deadline = slots[i/2+rng.IntN(n)].At
		}
		if rng.IntN(10) == 0 {
			d.NotBefore = slots[rng.IntN(n)].At
		}
		r.Shelf = append(r.Shelf, d)
	}
	return r
}

func BenchmarkPlace(b *testing.B) {
	for _, n := range []int{1_000, 10_000, 100_000} {
		b.Run(fmt.Sprintf("drafts=%d", n), func(b *testing.B) {
			r := longShelf(n)
			for b.Loop() {
				queue.Place(r)
			}
			b.ReportMetric(float64(b.Elapsed().Nanoseconds())/float64(b.N)/float64(n), "ns/draft")
		})
	}
}

// Without caps every deadline is settled by a matching; tight has more deadlines than seats
// before them.
func BenchmarkPlaceWithoutCaps(b *testing.B) {
	for _, tight := range []bool{false, true} {
		b.Run(fmt.Sprintf("tight=%t", tight), func(b *testing.B) {
			r := longShelf(10_000)
			r.Caps = queue.Caps{}
			if tight {
				for i := range r.Shelf {
					r.Shelf[i].Deadline = slot(i % 600).At.Add(12 * time.Hour)
				}
			}
			for b.Loop() {
				queue.Place(r)
			}
		})
	}
}
