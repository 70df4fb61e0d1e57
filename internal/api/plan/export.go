package plan

import (
	"bytes"
	"context"
	"encoding/csv"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/store"
)

func (s part) exportOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "export-plan", Method: http.MethodGet, Path: "/api/v1/sites/{site}/plan.csv",
		Summary:     "The plan as a table",
		Description: "What is out and scheduled in some days, a line each, as CSV (RFC 4180) in UTF-8. Dates and times are the site's.",
		Responses: map[string]*huma.Response{"200": {Description: "the table", Content: map[string]*huma.MediaType{
			"text/csv": {Schema: &huma.Schema{Type: huma.TypeString}}}}},
	}, s.exportPlan)
}

type exportInput struct {
	operation.SitePath
	From string `query:"from" doc:"first day, as 2026-11-24; today where absent"`
	Days int    `query:"days" minimum:"1" maximum:"731" default:"31"`
}

type exportOutput struct {
	ContentType string `header:"Content-Type"`
	Disposition string `header:"Content-Disposition"`
	Body        []byte
}

func (s part) exportPlan(ctx context.Context, in *exportInput) (*exportOutput, error) {
	site := operation.DeskOf(ctx).Site
	zone := site.Zone()
	from, err := operation.FirstDay(in.From, zone.DateOf(s.Clock.Now()))
	if err != nil {
		return nil, err
	}
	entries, err := s.Store.EntriesBetween(ctx, site.ID, zone.At(from, 0), zone.At(from.Add(in.Days), 0))
	if err != nil {
		return nil, s.Problem(err)
	}
	var out bytes.Buffer
	w := csv.NewWriter(&out)
	w.UseCRLF = true
	lines := [][]string{{"date", "time", "stands", "title", "author", "category", "pinned", "address"}}
	view := almanacView{zone: zone, site: site.Slug, now: s.Clock.Now()}
	for _, e := range entries {
		entry := view.entry(e)
		_, clock := zone.Local(e.At())
		stands, pinned, address := "scheduled", "", ""
		switch {
		case e.Status == store.Published:
			stands, address = "out", site.Home(s.Public).Full(e.Slug)
		case e.Held:
			stands = "held"
		}
		if e.Pinned {
			pinned = "yes"
		}
		lines = append(lines, []string{entry.Date.String(), clock.String(), stands, cell(entry.Title),
			cell(entry.Author), cell(entry.Category), pinned, address})
	}
	if err := w.WriteAll(lines); err != nil {
		return nil, s.Problem(err)
	}
	return &exportOutput{"text/csv; charset=utf-8", `attachment; filename="` + site.Slug + "-" + from.String() +
		`.csv"`, out.Bytes()}, nil
}

// cell keeps a text from being taken for a formula by programs that open tables.
func cell(text string) string {
	if text != "" && strings.ContainsRune("=+-@\t\r", rune(text[0])) {
		return "'" + text
	}
	return text
}
