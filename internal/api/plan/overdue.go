package plan

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/logbook"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/planning"
)

// OverduePost is a post whose time has passed, and what would become of it.
type OverduePost struct {
	Entry
	Does   string           `json:"does" enum:"publish,move,hold" doc:"what catching up would do, were the site to go on now"`
	To     *operation.Place `json:"to,omitempty" doc:"with move: the new time"`
	Reason string           `json:"reason"`
}

// Overdue is what was missed on a site.
type Overdue struct {
	Paused  bool                  `json:"paused"`
	CatchUp string                `json:"catchUp" doc:"the site's choice"`
	Waiting []OverduePost         `json:"waiting"`
	Held    []Entry               `json:"held" doc:"overdue posts that wait for an editor"`
	Done    []logbook.LogbookLine `json:"done" doc:"what catching up did within the last week, latest first"`
}

func (s part) overdueOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "get-overdue", Method: http.MethodGet, Path: "/api/v1/sites/{site}/overdue",
		Summary: "What was missed, what catching up proposes, and what it did",
	}, s.getOverdue)
}

func (s part) getOverdue(ctx context.Context, _ *operation.SitePath) (*struct{ Body Overdue }, error) {
	site, now := operation.DeskOf(ctx).Site, s.Clock.Now()
	found, err := planning.OverdueOf(ctx, s.Store.Queries, site, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	view := almanacView{zone: site.Zone(), site: site.Slug, now: now}
	body := Overdue{Paused: site.PausedAt != nil, CatchUp: site.CatchUp, Waiting: []OverduePost{}, Held: []Entry{},
		Done: []logbook.LogbookLine{}}
	for _, w := range found.Waiting {
		one := OverduePost{Entry: view.entry(w.Post), Does: string(w.Deed.Kind), Reason: w.Deed.Reason}
		if !w.Deed.To.IsZero() {
			one.To = operation.MaybePlace(view.zone, &w.Deed.To)
		}
		body.Waiting = append(body.Waiting, one)
	}
	for _, e := range found.Held {
		body.Held = append(body.Held, view.entry(e))
	}
	for _, e := range found.Done {
		body.Done = append(body.Done, logbook.ViewLine(view.zone, e))
	}
	return &struct{ Body Overdue }{body}, nil
}
