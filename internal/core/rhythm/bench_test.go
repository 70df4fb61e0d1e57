package rhythm_test

import (
	"testing"

	"dapper.example/internal/core/civil"
)

// One year of slots of a rhythm with three slots on two days a week and one on the
// others, beside a hundred pinned posts.
func BenchmarkYearOfSlots(b *testing.B) {
	r := weekly()
	from := civil.MustDate("2026-01-01")
	for b.Loop() {
		if n := len(slotsOf(daysFrom(r, from, 365, nil))); n < 500 {
			b.Fatal(n)
		}
	}
}
