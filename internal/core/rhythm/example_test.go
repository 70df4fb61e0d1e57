package rhythm_test

import (
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// A day is drawn for itself, from the seed and its date: the same every time it is asked.
func ExampleRhythm_Day() {
	r := rhythm.Rhythm{ID: 1, Zone: civil.MustZone("America/Halifax"), Gap: 60, Seed: 7, Openings: []rhythm.Opening{
		rhythm.Fixed("noon", rhythm.On(time.Tuesday), civil.MustClock("12:00"), 0)}}
	for _, s := range r.Day(civil.MustDate("2026-11-24"), nil).Slots {
		fmt.Println(r.Zone.In(s.At).Format("Mon 2 Jan 15:04"), s.ID.Opening)
	}
	// Output: Tue 24 Nov 12:00 noon
}
