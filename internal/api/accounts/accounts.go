// Package accounts has the operations of people: signing in and out, their accounts, and who is
// on a site.
package accounts

import (
	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.setupOperations(api)
	s.sessionOperations(api)
	s.accountOperations(api)
	s.peopleOperations(api)
}
