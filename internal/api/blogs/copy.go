package blogs

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/bundle"
)

// CopyPath ends the path of the copy of a blog, which may take long.
const CopyPath = "/copy.zip"

func (s part) copyOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "copy-blog", Method: http.MethodGet, Path: "/api/v1/sites/{site}" + CopyPath, Summary: "A copy of the blog",
		Description: "A zip: posts as Markdown with YAML front matter, pictures as they were uploaded, and blog.json. The bin is left out.",
		Responses: map[string]*huma.Response{"200": {Description: "the copy", Content: map[string]*huma.MediaType{
			"application/zip": {Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}}}},
	}, s.copyBlog)
}

func (s part) copyBlog(ctx context.Context, _ *operation.SitePath) (*huma.StreamResponse, error) {
	site := operation.DeskOf(ctx).Site
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		now := s.Clock.Now()
		date, _ := site.Zone().Local(now)
		hc.SetHeader("Content-Type", "application/zip")
		hc.SetHeader("Content-Disposition", `attachment; filename="`+site.Slug+"-"+date.String()+`.zip"`)
		_, w := humachi.Unwrap(hc)
		// It takes as long as it takes, and ends with its request; only owners may ask for it.
		if err := http.NewResponseController(w).SetWriteDeadline(time.Time{}); err != nil {
			s.Log.Debug("a copy has to be written in time", "error", err)
		}
		err := bundle.Write(hc.Context(), s.Store.Queries, site, w, now, hc.Context().Err)
		if err != nil {
			s.Log.Warn("a copy of a blog was not written to its end", "site", site.Slug, "error", err)
		}
	}}, nil
}
