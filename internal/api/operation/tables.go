package operation

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"dapper.example/internal/intake/sheet"
	"dapper.example/internal/takeout"
)

// TableFormat is how a table is written.
type TableFormat struct {
	Format string `query:"format" enum:"csv,xlsx" default:"csv"`
}

// TableOf makes an operation one that answers with a table.
func TableOf(o huma.Operation) huma.Operation {
	o.Method = http.MethodGet
	answer := &huma.Response{Description: "the table", Content: make(map[string]*huma.MediaType)}
	for _, f := range []takeout.Format{takeout.CSV, takeout.Book} {
		answer.Content[f.Type()] = &huma.MediaType{Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}
	}
	o.Responses = map[string]*huma.Response{"200": answer}
	return o
}

// WriteTables answers with tables, as a file to keep: of .csv with the first of them alone.
func (s *Tools) WriteTables(ctx context.Context, name string, f takeout.Format, tables ...sheet.Table) *huma.StreamResponse {
	site := DeskOf(ctx).Site
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		date, _ := site.Zone().Local(s.Clock.Now())
		hc.SetHeader("Content-Type", f.Type())
		hc.SetHeader("Content-Disposition", `attachment; filename="`+site.Slug+"-"+name+"-"+date.String()+"."+string(f)+`"`)
		_, w := humachi.Unwrap(hc)
		// It takes as long as it takes, and ends with its request; nothing of the database is held between its pages.
		if err := http.NewResponseController(w).SetWriteDeadline(time.Time{}); err != nil {
			s.Log.Debug("a table has to be written in the time of any answer", "error", err)
		}
		if err := f.Write(w, tables...); err != nil {
			s.Log.Warn("a table was not written to its end", "site", site.Slug, "table", name, "error", err)
			panic(http.ErrAbortHandler) // a table that ends early must not look whole
		}
	}}
}
