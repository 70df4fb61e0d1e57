package readiness_test

import (
	"fmt"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/readiness"
)

func ExampleLook() {
	zone := civil.MustZone("America/Halifax")
	today := civil.MustDate("2026-11-24")
	posts := []readiness.Post{{ID: 1, Title: "Cables", At: zone.At(today.Add(1), civil.MustClock("10:00"))}}
	for _, f := range readiness.Look(zone, today, posts, []readiness.Check{"text", "category"}) {
		fmt.Println(f.Check, f.Message)
	}
	// Output:
	// text It has no text. Write it, or take the post back to the shelf.
	// category It has no category, so readers browsing by category won’t find it.
}
