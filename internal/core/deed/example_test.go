package deed_test

import (
	"fmt"
	"time"

	"dapper.example/internal/core/deed"
)

// Overdue posts are dealt with by the site's choice, each deed with its reason.
func ExampleDecide() {
	at := time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)
	d := deed.Decide(deed.Snapshot{CatchUp: deed.SpreadOut, Gap: time.Hour, Scheduled: []deed.Scheduled{
		{Post: 1, Due: at.Add(-3 * time.Hour)}, {Post: 2, Due: at.Add(-2 * time.Hour)}}}, at)
	for _, one := range d.Describe() {
		fmt.Println(one.Kind, one.Post, one.To.Format("15:04"))
	}
	// Output:
	// publish 1 00:00
	// move 2 13:00
}
