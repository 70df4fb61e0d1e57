package condition_test

import (
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
)

// A condition is data; it answers with its reasons.
func ExampleCompile() {
	zone := civil.MustZone("America/Halifax")
	n := condition.Node{Group: condition.AllOf, Parts: []condition.Node{
		{Test: condition.Category, Match: condition.MatchAny, Values: []string{"Sky Guide"}},
		{Test: condition.Evergreen, Match: condition.MatchYes},
	}}
	c, err := condition.Compile(n, zone)
	if err != nil {
		panic(err)
	}
	k := c.At(zone.At(civil.MustDate("2026-11-24"), 0))
	post := condition.Facts{Status: "published", Category: "Dome Notices", Evergreen: true, Published: time.Now()}
	verdict := k.Explain(&post)
	fmt.Println(condition.Sentence(n))
	fmt.Println(verdict.Caught, verdict)
	// Output:
	// Evergreen posts in Sky Guide.
	// false its category is Dome Notices
}
