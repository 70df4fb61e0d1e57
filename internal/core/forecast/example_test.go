package forecast_test

import (
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/core/rhythm"
)

// What is scheduled comes out, and a post's own expiry takes it away again.
func ExampleRun() {
	zone := civil.MustZone("America/Halifax")
	from := zone.At(civil.MustDate("2026-11-24"), civil.MustClock("12:00"))
	scene := deed.Scene{Zone: zone, Rhythm: rhythm.Rhythm{Zone: zone, Gap: 60},
		Scheduled: []deed.Scheduled{{Post: 1, Due: from.Add(time.Hour)}},
		Posts:     []*condition.Facts{{Post: 1, Status: "scheduled", Expires: from.AddDate(0, 0, 3)}}}
	f := forecast.Run(forecast.Request{Scene: scene, From: from, To: from.AddDate(0, 0, 7)})
	for _, e := range f.Events {
		fmt.Println(zone.In(e.At).Format("Mon 15:04"), e.Kind)
	}
	// Output:
	// Tue 13:00 publish
	// Fri 12:00 archive
}
