package api

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

// placeAt is the place of a moment on a site in that zone.
func placeAt(zone civil.Zone, t time.Time) Place {
	date, clock := zone.Local(t)
	return Place{t.UTC(), date, int(clock), zone.Again(t)}
}

// maybePlace is the place of a moment; nil of nil.
func maybePlace(zone civil.Zone, t *time.Time) *Place {
	if t == nil {
		return nil
	}
	p := placeAt(zone, *t)
	return &p
}

// firstDay reads the query's first day; today where it is not said.
func firstDay(given string, today civil.Date) (civil.Date, error) {
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

// orZero is the number, 0 of nil.
func orZero(id *int64) int64 {
	if id == nil {
		return 0
	}
	return *id
}

// orEmpty is the text, "" of nil.
func orEmpty(s *string) string {
	if s == nil {
		return ""
	}
	return *s
}
