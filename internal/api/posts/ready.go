package posts

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/blog"
)

func (s part) readyOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "list-unready", Method: http.MethodGet, Path: "/api/v1/sites/{site}/unready",
		Summary:     "What is missing in posts that are about to come out",
		Description: "By the checks that the settings have on, in the order in which the posts come out.",
	}, s.listUnready)
}

// Unready is something that is missing in a post that is about to come out.
type Unready struct {
	PostID  int64  `json:"postId"`
	Title   string `json:"title"`
	Check   string `json:"check" enum:"text,category,image,excerpt,links,twins"`
	Message string `json:"message" doc:"what is missing, and what to do"`
	operation.Place
}

func (s part) listUnready(ctx context.Context, _ *operation.SitePath) (*struct{ Body []Unready }, error) {
	site := operation.DeskOf(ctx).Site
	found, posts, err := blog.Unready(ctx, s.Store.Queries, s.Renderer, site, s.Public, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	list := []Unready{}
	for _, f := range found {
		list = append(list, Unready{f.Post, posts[f.Post].Title, string(f.Check), f.Message,
			operation.PlaceAt(site.Zone(), posts[f.Post].At)})
	}
	return &struct{ Body []Unready }{list}, nil
}
