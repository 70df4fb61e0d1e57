package cadence_test

import (
	"fmt"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
)

// A turn gives way to quiet hours and to what was said shortly before.
func ExampleBounds_First() {
	zone := civil.MustZone("America/Halifax")
	at := func(clock string) time.Time { return zone.At(civil.MustDate("2026-11-24"), civil.MustClock(clock)) }
	b := cadence.Bounds{Zone: zone, Quiet: []cadence.Quiet{{From: civil.MustClock("12:00"), To: civil.MustClock("13:00"), Zone: zone}}}
	to, why, ok := b.First(at("12:30"), cadence.Crowd{Taken: []time.Time{at("12:55")}, Gap: 20 * time.Minute, Zone: zone})
	fmt.Println(zone.In(to).Format("15:04"), why, ok)
	// Output: 13:15 the gap of 20 min true
}
