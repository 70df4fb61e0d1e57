package queue_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

func TestLook(t *testing.T) {
	zone, monday := civil.MustZone("America/Halifax"), civil.MustDate("2026-11-23")
	now := zone.At(monday, 0)
	// Monday, Wednesday, Friday
	r := rhythm.Rhythm{ID: 1, Zone: zone, Gap: 60, Seed: 1, Openings: []rhythm.Opening{rhythm.Fixed("ten",
		rhythm.On(1, 3, 5), 600, 0)}}
	shelf := []queue.Draft{{ID: 1, Category: "Sky"}, {ID: 2, Category: "Work"}, {ID: 3, Category: "Sky"},
		{ID: 4, Category: "Sky"}}
	standing := []queue.Standing{{At: zone.At(monday.Add(5), 900), Category: "Work"}}
	out := queue.Look(queue.Request{Zone: zone, Shelf: shelf, Standing: standing, Slots: queue.Slots(r, now, nil)},
		now, 2)
	assert.Equal(t, queue.Outlook{
		Slots: 6, PerWeek: 3.5, First: zone.At(monday, 600), Last: zone.At(monday.Add(7), 600), Placed: 4,
		Dry: monday.Add(9), Weekdays: [7]int{2, 0, 1, 0, 1, 1, 0}, Pause: 1, ApartLeast: 3, ApartMean: 10. / 3,
	}, out)

	silent := queue.Look(queue.Request{Zone: zone, Shelf: shelf, Slots: queue.Slots(rhythm.Rhythm{Zone: zone, Gap: 60},
		now, nil)}, now, 4)
	assert.Equal(t, queue.Outlook{Left: 4}, silent)
	long := queue.Look(queue.Request{Zone: zone, Shelf: make([]queue.Draft, 0), Slots: queue.Slots(r, now, nil)}, now,
		1)
	assert.Equal(t, monday, long.Dry, "an empty shelf is dry at once")
	var many []queue.Draft
	for i := range 20 {
		many = append(many, queue.Draft{ID: int64(i + 1)})
	}
	assert.True(t, queue.Look(queue.Request{Zone: zone, Shelf: many, Slots: queue.Slots(r, now, nil)}, now,
		2).Dry.IsZero(), "it outlasts the two weeks")
}
