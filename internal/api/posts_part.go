package api

import "github.com/danielgtaylor/huma/v2"

type postsPart struct{ *Tools }

// registerPosts adds the operations.
func registerPosts(api huma.API, tools *Tools) {
	s := postsPart{tools}
	s.listOperations(api)
	s.postOperations(api)
	s.editOperations(api)
	s.boundOperations(api)
	s.textOperations(api)
	s.previewOperations(api)
	s.pictureOperations(api)
	s.readyOperations(api)
}
