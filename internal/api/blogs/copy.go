package blogs

import (
	"context"
	"io"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/bundle"
)

// The ends of the paths of copies of a blog, which may take long.
const (
	CopyPath     = "/copy.zip"
	DocumentPath = "/copy.json"
)

func (s part) copyOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "copy-blog", Method: http.MethodGet, Path: "/api/v1/sites/{site}" + CopyPath, Summary: "A copy of the blog",
		Description: "A zip: posts as Markdown with YAML front matter, pictures as they were uploaded, and blog.json. The bin is left out.",
		Responses: map[string]*huma.Response{"200": {Description: "the copy", Content: map[string]*huma.MediaType{
			"application/zip": {Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}}}},
	}, s.copyBlog)
	huma.Register(api, huma.Operation{
		OperationID: "copy-blog-as-document", Method: http.MethodGet, Path: "/api/v1/sites/{site}" + DocumentPath, Summary: "A copy of the blog as one document of JSON",
		Description: "Posts, comments and pictures with their files; its JSON Schema is at " + bundle.SchemaPath + ". The bin is left out.",
		Responses: map[string]*huma.Response{"200": {Description: "the copy", Content: map[string]*huma.MediaType{
			"application/json": {Schema: &huma.Schema{Type: huma.TypeObject}}}}},
	}, s.copyDocument)
}

// DocumentSchema serves the schema of blogs as documents.
func DocumentSchema(r chi.Router) {
	r.Get(bundle.SchemaPath, func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/schema+json")
		_, _ = w.Write(bundle.Schema)
	})
}

func (s part) copyBlog(ctx context.Context, _ *operation.SitePath) (*huma.StreamResponse, error) {
	return s.copying(ctx, "application/zip", "zip", func(ctx context.Context, w io.Writer, now time.Time) error {
		return bundle.Write(ctx, s.Store.Queries, operation.DeskOf(ctx).Site, w, now, ctx.Err)
	}), nil
}

func (s part) copyDocument(ctx context.Context, _ *operation.SitePath) (*huma.StreamResponse, error) {
	return s.copying(ctx, "application/json", "json", func(ctx context.Context, w io.Writer, now time.Time) error {
		return bundle.WriteDocument(ctx, s.Store.Queries, operation.DeskOf(ctx).Site, w, s.Public, now, ctx.Err)
	}), nil
}

// copying answers with a copy of the blog as it is written.
func (s part) copying(ctx context.Context, kind, ending string, write func(context.Context, io.Writer, time.Time) error) *huma.StreamResponse {
	site := operation.DeskOf(ctx).Site
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		now := s.Clock.Now()
		date, _ := site.Zone().Local(now)
		hc.SetHeader("Content-Type", kind)
		hc.SetHeader("Content-Disposition", `attachment; filename="`+site.Slug+"-"+date.String()+"."+ending+`"`)
		_, w := humachi.Unwrap(hc)
		// It takes as long as it takes, and ends with its request; only owners may ask for it.
		if err := http.NewResponseController(w).SetWriteDeadline(time.Time{}); err != nil {
			s.Log.Debug("a copy has to be written in time", "error", err)
		}
		if err := write(hc.Context(), w, now); err != nil {
			s.Log.Warn("a copy of a blog was not written to its end", "site", site.Slug, "error", err) // what ends early is no archive and no JSON
		}
	}}
}
