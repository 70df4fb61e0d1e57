package queue_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

func TestABookRefusesWithAReason(t *testing.T) {
	zone := civil.MustZone("America/Halifax")
	monday := civil.MustDate("2026-11-23")
	at := func(day int) time.Time { return zone.At(monday.Add(day), civil.MustClock("10:00")) }
	d := queue.Draft{Author: "Ines", Category: "Sky Guide"}
	book := queue.NewTally(zone, civil.Date{}, queue.Caps{Day: 2, AuthorDay: 1, AuthorWeek: 2, CategoryDays: 2},
		[]queue.Standing{
			{At: at(0), Author: "Ines"}, {At: at(2), Category: "Sky Guide"}, {At: at(8), Author: "Tobias"}, {At: at(8),
				Author: "Pell"},
		})
	refuses := func(d queue.Draft, day int, lane ...string) string {
		return book.Refuses(d, rhythm.Slot{At: at(day), Lane: lane})
	}
	assert.Equal(t, "Mon 23 Nov is full for Ines", refuses(d, 0))
	assert.Equal(t, "Tue 24 Nov is nearer than 2 days to another post in Sky Guide", refuses(d, 1))
	assert.Empty(t, refuses(d, 4))
	assert.Equal(t, "Tue 1 Dec is full with 2 posts", refuses(d, 8))
	assert.Equal(t, "the slot on Fri 27 Nov is for Workbench", refuses(d, 4, "Workbench"))

	book.Add(queue.StandingOf(d, at(4)))
	assert.Equal(t, "the week of Sun 29 Nov is full for Ines", refuses(queue.Draft{Author: "Ines"}, 6))
	book.Remove(queue.StandingOf(d, at(4)))
	assert.Empty(t, refuses(queue.Draft{Author: "Ines"}, 6))

	d.NotBefore, d.Deadline = at(5), at(6)
	assert.Contains(t, refuses(d, 4), "it is held until Sat 28 Nov")
	assert.Contains(t, refuses(d, 7), "Mon 30 Nov is after its deadline")
}
