package blogs

import (
	"context"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/takeout"
)

// The ends of the paths of tables, which may take long.
const (
	PostsTablePath = "/tables/posts"
	PlanTablePath  = "/tables/plan"
)

func (s part) tableOperations(api huma.API) {
	huma.Register(api, operation.TableOf(huma.Operation{
		OperationID: "table-of-posts", Path: "/api/v1/sites/{site}" + PostsTablePath, Summary: "Posts as a table",
		Description: "All that is said of the posts of a filter but their texts, as .csv, which comes as it is read, or as .xlsx. Dates are by the clocks of the site. " +
			"In .csv, texts that a sheet would take for a formula have an apostrophe before them.",
	}), s.postsTable)
	huma.Register(api, operation.TableOf(huma.Operation{
		OperationID: "table-of-the-plan", Path: "/api/v1/sites/{site}" + PlanTablePath, Summary: "The plan as a table",
		Description: "Scheduled posts and planned messages, in the order of their times.",
	}), s.planTable)
}

func (s part) postsTable(ctx context.Context, in *struct {
	operation.SitePath
	posts.PostFilter
	operation.TableFormat
}) (*huma.StreamResponse, error) {
	site := operation.DeskOf(ctx).Site
	filter, err := in.Of(site.Zone())
	if err != nil {
		return nil, err
	}
	table, err := takeout.Posts(ctx, s.Store.Queries, site, s.Public, filter)
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.WriteTables(ctx, "posts", takeout.Format(in.Format), table), nil
}

func (s part) planTable(ctx context.Context, in *struct {
	operation.SitePath
	operation.TableFormat
}) (*huma.StreamResponse, error) {
	table, err := takeout.Plan(ctx, s.Store.Queries, operation.DeskOf(ctx).Site)
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.WriteTables(ctx, "plan", takeout.Format(in.Format), table), nil
}
