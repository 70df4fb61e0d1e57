// Package rhythms has the operations of what a site's plan follows: its rhythm, seasons and
// settings.
package rhythms

import (
	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.rhythmOperations(api)
	s.seasonOperations(api)
	s.settingsOperations(api)
}
