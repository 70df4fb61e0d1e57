package api

import "github.com/danielgtaylor/huma/v2"

type planPart struct{ *Tools }

// registerPlan adds the operations.
func registerPlan(api huma.API, tools *Tools) {
	s := planPart{tools}
	s.almanacOperations(api)
	s.statusOperations(api)
	s.moveOperations(api)
	s.overdueOperations(api)
	s.reflowOperations(api)
	s.exportOperations(api)
}
