package queue_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
)

func TestMeters(t *testing.T) {
	zone, monday := civil.MustZone("America/Halifax"), civil.MustDate("2026-11-23")
	at := func(day int, author, category string) queue.Standing {
		return queue.Standing{At: zone.At(monday.Add(day), 23*60), Author: author, Category: category}
	}
	m := queue.NewMeters(zone, queue.Caps{Day: 2, AuthorDay: 1, AuthorWeek: 3, CategoryDays: 3}, []queue.Standing{
		at(0, "Ines", "Sky"), at(0, "Tobias", "Work"), at(2, "Ines", "Sky"), at(7, "Ines", ""),
	})
	assert.Equal(t, []queue.Meter{
		{Of: queue.ByDay, Count: 2, Most: 2, Full: true},
		{Of: queue.ByAuthorDay, Name: "Ines", Count: 1, Most: 1, Full: true},
		{Of: queue.ByAuthorDay, Name: "Tobias", Count: 1, Most: 1, Full: true},
		{Of: queue.ByAuthorWeek, Name: "Ines", Count: 2, Most: 3},
		{Of: queue.ByAuthorWeek, Name: "Tobias", Count: 1, Most: 3},
		{Of: queue.ByCategory, Name: "Sky", Count: 0, Most: 3, Full: true},
		{Of: queue.ByCategory, Name: "Work", Count: 0, Most: 3, Full: true},
	}, m.On(monday))
	assert.Equal(t, []queue.Meter{
		{Of: queue.ByDay, Most: 2},
		{Of: queue.ByAuthorWeek, Name: "Ines", Count: 2, Most: 3},
		{Of: queue.ByAuthorWeek, Name: "Tobias", Count: 1, Most: 3},
		{Of: queue.ByCategory, Name: "Sky", Count: 2, Most: 3, Full: true},
	}, m.On(monday.Add(4)))
	assert.Empty(t, queue.NewMeters(zone, queue.Caps{}, []queue.Standing{at(0, "Ines", "Sky")}).On(monday),
		"caps that are off have none")
}

// A meter is full exactly where the book refuses one more of its kind.
func TestMetersAgreeWithTheBook(t *testing.T) {
	zone, monday := civil.MustZone("America/Halifax"), civil.MustDate("2026-11-23")
	rapid.Check(t, func(t *rapid.T) {
		caps := queue.Caps{Day: rapid.IntRange(0, 3).Draw(t, "day"),
			AuthorDay:  rapid.IntRange(0, 2).Draw(t, "author day"),
			AuthorWeek: rapid.IntRange(0, 4).Draw(t, "author week"), CategoryDays: rapid.IntRange(0, 4).Draw(t,
				"category")}
		names := rapid.SampledFrom([]string{"a", "b"})
		var standing []queue.Standing
		for range rapid.IntRange(0, 12).Draw(t, "n") {
			standing = append(standing, queue.Standing{At: zone.At(monday.Add(rapid.IntRange(-9, 9).Draw(t, "date")),
				civil.Clock(rapid.IntRange(0, 1439).Draw(t, "clock"))),
				Author: names.Draw(t, "author"), Category: names.Draw(t, "category")})
		}
		date, d := monday.Add(rapid.IntRange(-9, 9).Draw(t, "asked")), queue.Draft{Author: names.Draw(t, "by"),
			Category: names.Draw(t, "in")}
		full := false
		for _, meter := range queue.NewMeters(zone, caps, standing).On(date) {
			concerns := meter.Name == "" || meter.Name == d.Author &&
				(meter.Of == queue.ByAuthorDay || meter.Of == queue.ByAuthorWeek) || meter.Name == d.Category &&
				meter.Of == queue.ByCategory
			full = full || meter.Full && concerns
		}
		refused := queue.NewTally(zone, civil.Date{}, caps, standing).Refuses(d, rhythm.Slot{At: zone.At(date, 600)})
		require.Equal(t, full, refused != "", refused)
	})
}
