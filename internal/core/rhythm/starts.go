package rhythm

import (
	"time"

	"dapper.example/internal/core/civil"
)

// Start is a rhythm that a new blog may begin with.
type Start struct {
	Key      string // names it for good
	Name     string
	Says     string // a sentence
	Gap      int    // minutes
	Openings []Opening
}

// Starts lists the rhythms to begin with, the calmest first.
func Starts() []Start {
	at := civil.MustClock
	weekdays := On(time.Monday, time.Tuesday, time.Wednesday, time.Thursday, time.Friday)
	return []Start{
		{"weekend", "Weekend reading", "One long read every Saturday morning.", 12 * 60, []Opening{
			Window("saturdays", On(time.Saturday), at("08:30"), at("11:30"), 1),
		}},
		{"steady", "Three a week", "Monday, Wednesday and Friday, some time before lunch.", 6 * 60, []Opening{
			Window("mornings", On(time.Monday, time.Wednesday, time.Friday), at("08:00"), at("12:00"), 1),
		}},
		{"daily", "One a day", "Every day: mornings on weekdays, a little later at the weekend.", 6 * 60, []Opening{
			Window("mornings", weekdays, at("07:00"), at("09:30"), 1),
			Window("weekends", On(time.Saturday, time.Sunday), at("09:00"), at("12:00"), 1),
		}},
		{"busy", "A busy desk", "Two or three a day on weekdays, one at the weekend.", 90, []Opening{
			Window("days", weekdays, at("07:30"), at("16:00"), 2),
			Fixed("evenings", On(time.Tuesday, time.Thursday), at("18:30"), 25),
			Window("weekends", On(time.Saturday, time.Sunday), at("09:00"), at("13:00"), 1),
		}},
	}
}
