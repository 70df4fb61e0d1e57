package queue_test

import (
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

// A draft jumps ahead only where it would miss its deadline.
func ExamplePlace() {
	zone := civil.MustZone("America/Halifax")
	r := rhythm.Rhythm{ID: 1, Zone: zone, Gap: 60, Seed: 7, Openings: []rhythm.Opening{
		rhythm.Fixed("noon", rhythm.EveryDay, civil.MustClock("12:00"), 0)}}
	from := zone.At(civil.MustDate("2026-11-24"), 0)
	placement := queue.Place(queue.Request{Zone: zone, Today: zone.DateOf(from), Slots: queue.Slots(r, from, nil),
		Shelf: []queue.Draft{
			{ID: 1, Title: "Any time"}, {ID: 2, Title: "Soon", Deadline: from.Add(20 * time.Hour)}}})
	for _, p := range placement.Placed {
		fmt.Println(zone.In(p.Slot.At).Format("Mon 15:04"), p.Draft.Title)
	}
	// Output:
	// Tue 12:00 Soon
	// Wed 12:00 Any time
}
