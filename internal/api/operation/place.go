package operation

import (
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/core/civil"
)

// Place is a moment as the site's clocks show it.
type Place struct {
	At     time.Time  `json:"at"`
	Date   civil.Date `json:"date" doc:"in the site's zone"`
	Minute int        `json:"minute" doc:"minutes since local midnight, 0 to 1439"`
	Again  bool       `json:"again,omitempty" doc:"clocks show that minute for the second time on the date"`
}

// PlaceAt is the place of a moment on a site in that zone.
func PlaceAt(zone civil.Zone, t time.Time) Place {
	date, clock := zone.Local(t)
	return Place{t.UTC(), date, int(clock), zone.Again(t)}
}

// MaybePlace is the place of a moment; nil of nil.
func MaybePlace(zone civil.Zone, t *time.Time) *Place {
	if t == nil {
		return nil
	}
	p := PlaceAt(zone, *t)
	return &p
}

// FirstDay reads the query's first day; today where it is not said.
func FirstDay(given string, today civil.Date) (civil.Date, error) {
	if given == "" {
		return today, nil
	}
	date, err := civil.ParseDate(given)
	if err != nil {
		return date, huma.Error422UnprocessableEntity("The first day can’t be read.",
			&huma.ErrorDetail{Location: "query.from", Message: err.Error()})
	}
	return date, nil
}

// OrZero is the number, 0 of nil.
func OrZero(id *int64) int64 {
	if id == nil {
		return 0
	}
	return *id
}

// OrEmpty is the text, "" of nil.
func OrEmpty(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}
