package blogs

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/intake/sheet"
	"dapper.example/internal/takeout"
)

// The ends of the paths of tables, which may take long.
const (
	PostsTablePath = "/tables/posts"
	PlanTablePath  = "/tables/plan"
)

// TableFormat is how a table is written.
type TableFormat struct {
	Format string `query:"format" enum:"csv,xlsx" default:"csv"`
}

func (s part) tableOperations(api huma.API) {
	answer := map[string]*huma.Response{"200": {Description: "the table", Content: map[string]*huma.MediaType{}}}
	for _, f := range []takeout.Format{takeout.CSV, takeout.Book} {
		answer["200"].Content[f.Type()] = &huma.MediaType{Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}
	}
	huma.Register(api, huma.Operation{
		OperationID: "table-of-posts", Method: http.MethodGet, Path: "/api/v1/sites/{site}" + PostsTablePath, Summary: "Posts as a table",
		Description: "All that is said of the posts of a filter but their texts, as .csv, which comes as it is read, or as .xlsx. Dates are by the clocks of the site. " +
			"In .csv, texts that a sheet would take for a formula have an apostrophe before them.", Responses: answer,
	}, s.postsTable)
	huma.Register(api, huma.Operation{
		OperationID: "table-of-the-plan", Method: http.MethodGet, Path: "/api/v1/sites/{site}" + PlanTablePath, Summary: "The plan as a table",
		Description: "Scheduled posts and planned messages, in the order of their times.", Responses: answer,
	}, s.planTable)
}

func (s part) postsTable(ctx context.Context, in *struct {
	operation.SitePath
	posts.PostFilter
	TableFormat
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
	return s.writeTable(ctx, "posts", takeout.Format(in.Format), table), nil
}

func (s part) planTable(ctx context.Context, in *struct {
	operation.SitePath
	TableFormat
}) (*huma.StreamResponse, error) {
	table, err := takeout.Plan(ctx, s.Store.Queries, operation.DeskOf(ctx).Site)
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.writeTable(ctx, "plan", takeout.Format(in.Format), table), nil
}

func (s part) writeTable(ctx context.Context, name string, f takeout.Format, table sheet.Table) *huma.StreamResponse {
	site := operation.DeskOf(ctx).Site
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		date, _ := site.Zone().Local(s.Clock.Now())
		hc.SetHeader("Content-Type", f.Type())
		hc.SetHeader("Content-Disposition", `attachment; filename="`+site.Slug+"-"+name+"-"+date.String()+"."+string(f)+`"`)
		_, w := humachi.Unwrap(hc)
		// It takes as long as it takes, and ends with its request; nothing of the database is held between its pages.
		if err := http.NewResponseController(w).SetWriteDeadline(time.Time{}); err != nil {
			s.Log.Debug("a table has to be written in the time of any answer", "error", err)
		}
		if err := f.Write(w, table); err != nil {
			s.Log.Warn("a table was not written to its end", "site", site.Slug, "table", name, "error", err)
			panic(http.ErrAbortHandler) // a table that ends early must not look whole
		}
	}}
}
