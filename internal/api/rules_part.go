package api

import "github.com/danielgtaylor/huma/v2"

type rulesPart struct{ *Tools }

// registerRules adds the operations.
func registerRules(api huma.API, tools *Tools) {
	s := rulesPart{tools}
	s.ruleOperations(api)
	s.channelOperations(api)
	s.outingOperations(api)
}
