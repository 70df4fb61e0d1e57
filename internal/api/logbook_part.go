package api

import "github.com/danielgtaylor/huma/v2"

type logbookPart struct{ *Tools }

// registerLogbook adds the operations.
func registerLogbook(api huma.API, tools *Tools) {
	s := logbookPart{tools}
	s.logbookOperations(api)
}
