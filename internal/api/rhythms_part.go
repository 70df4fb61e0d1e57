package api

import "github.com/danielgtaylor/huma/v2"

type rhythmsPart struct{ *Tools }

// registerRhythms adds the operations.
func registerRhythms(api huma.API, tools *Tools) {
	s := rhythmsPart{tools}
	s.rhythmOperations(api)
	s.seasonOperations(api)
	s.settingsOperations(api)
}
