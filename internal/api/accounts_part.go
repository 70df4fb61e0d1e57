package api

import "github.com/danielgtaylor/huma/v2"

type accountsPart struct{ *Tools }

// registerAccounts adds the operations.
func registerAccounts(api huma.API, tools *Tools) {
	s := accountsPart{tools}
	s.sessionOperations(api)
	s.accountOperations(api)
	s.peopleOperations(api)
}
