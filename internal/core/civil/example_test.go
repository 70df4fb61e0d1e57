package civil_test

import (
	"fmt"

	"dapper.example/internal/core/civil"
)

// A time that the clocks skip moves forward by the length of the skip.
func ExampleZone_At() {
	zone := civil.MustZone("America/Halifax")
	date := civil.MustDate("2027-03-14")
	fmt.Println(zone.In(zone.At(date, civil.MustClock("02:30"))).Format("15:04"))
	fmt.Println(date.Words(civil.MustDate("2026-11-24")))
	// Output:
	// 03:30
	// Sun 14 Mar 2027
}
