package api

import "github.com/danielgtaylor/huma/v2"

type forecastsPart struct{ *Tools }

// registerForecasts adds the operations.
func registerForecasts(api huma.API, tools *Tools) {
	s := forecastsPart{tools}
	s.forecastOperations(api)
}
