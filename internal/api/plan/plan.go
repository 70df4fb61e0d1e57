// Package plan has the operations of the plan: the Almanac, placing the shelf, moving and
// rearranging posts, what was missed.
package plan

import (
	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.almanacOperations(api)
	s.statusOperations(api)
	s.moveOperations(api)
	s.overdueOperations(api)
	s.reflowOperations(api)
	s.exportOperations(api)
}
