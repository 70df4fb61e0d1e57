package queue

import (
	"iter"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// HorizonDays is how far ahead Slots looks for free slots: two years.
const HorizonDays = 2 * 366

// Slots yields the rhythm's free slots after the moment `after`, in time order, up
// to HorizonDays ahead. A slot at the moment itself is past.
func Slots(r rhythm.Rhythm, after time.Time, occupied []rhythm.Occupied) iter.Seq[rhythm.Slot] {
	return slots(r, func(from civil.Date) iter.Seq[rhythm.Day] { return r.Days(from, occupied) }, after)
}

// SlotsBeside is Slots, by days that are remembered for others who ask for them.
func SlotsBeside(b *rhythm.Beside, after time.Time) iter.Seq[rhythm.Slot] {
	return slots(b.Rhythm, b.Days, after)
}

func slots(r rhythm.Rhythm, days func(from civil.Date) iter.Seq[rhythm.Day], after time.Time) iter.Seq[rhythm.Slot] {
	return func(yield func(rhythm.Slot) bool) {
		if r.IsSilent() {
			return
		}
		back, ahead := r.Around()
		first := r.Zone.DateOf(after).Add(-back)
		last := first.Add(HorizonDays + back)
		var earlier []rhythm.Slot // held back: the next date may hold earlier ones
		for day := range days(first) {
			earlier = merge(earlier, day.Slots)
			ready := 0
			next := r.Zone.At(day.Date.Add(1-ahead), 0) // later dates have no slot before it
			for ; ready < len(earlier) && earlier[ready].At.Before(next); ready++ {
				if earlier[ready].At.After(after) && !yield(earlier[ready]) {
					return
				}
			}
			earlier = earlier[ready:]
			if day.Date == last {
				break
			}
		}
	}
}

// merge joins two lists that are in time order.
func merge(a, b []rhythm.Slot) []rhythm.Slot {
	merged := make([]rhythm.Slot, 0, len(a)+len(b))
	for len(a) > 0 && len(b) > 0 {
		if b[0].At.Before(a[0].At) {
			merged, b = append(merged, b[0]), b[1:]
		} else {
			merged, a = append(merged, a[0]), a[1:]
		}
	}
	return append(append(merged, a...), b...)
}
