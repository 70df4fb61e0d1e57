package plan

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/store"
)

// Status is what every screen shows of a site: it is small, and asked for often.
type Status struct {
	Title    string          `json:"title"`
	Zone     string          `json:"zone"`
	Now      operation.Place `json:"now"`
	Engine   EngineHealth    `json:"engine"`
	Paused   bool            `json:"paused" doc:"nothing comes out until the site goes on"`
	Archived bool            `json:"archived,omitempty" doc:"readers are told that it is gone"`
	Next     *NextOut        `json:"next,omitempty" doc:"what comes out next"`
	Outing   *NextMessage    `json:"outing,omitempty" doc:"what is shared next, as far as is known without a forecast"`
	Overdue  int             `json:"overdue" doc:"posts whose time has passed and that wait for an editor"`
	Asking   []RuleRef       `json:"asking" doc:"rules that need a decision"`
	Held     []HeldEdit      `json:"heldEdits" doc:"timed edits that wait for an editor"`
	Failed   int             `json:"failed" doc:"messages that could not be sent, and that nobody has seen to"`
	Aside    int             `json:"aside" doc:"messages that wait for an editor"`
	Requests []Request       `json:"requests" doc:"of contributors, that nobody has answered"`
	Stuck    []string        `json:"stuck" doc:"places that posts go to and do not reach, by their names"`
}

// Request asks whether a post may come out at a time.
type Request struct {
	ID    int64           `json:"id"`
	Post  int64           `json:"post"`
	Title string          `json:"title"`
	By    string          `json:"by"`
	Wish  operation.Place `json:"wish"`
}

// mostRequests is how many requests every screen names.
const mostRequests = 5

// NextOut is the post that comes out next.
type NextOut struct {
	ID    int64     `json:"id"`
	Title string    `json:"title"`
	At    time.Time `json:"at"`
}

// NextMessage is the outing that is to be next.
type NextMessage struct {
	Name string    `json:"name" doc:"of its rule, or the title of what is planned"`
	At   time.Time `json:"at"`
}

// RuleRef names a rule.
type RuleRef struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// HeldEdit is a timed edit that waits for an editor.
type HeldEdit struct {
	ID    int64  `json:"id"`
	Title string `json:"title" doc:"of its post"`
}

// stuckAfter is for how long no post has arrived somewhere until every screen says so.
const stuckAfter = 10 * time.Minute

func (s part) statusOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "get-status", Method: http.MethodGet, Path: "/api/v1/sites/{site}/status",
		Summary: "What every screen shows of a site",
	}, s.getStatus)
}

func (s part) getStatus(ctx context.Context, _ *operation.SitePath) (*struct{ Body Status }, error) {
	site, now := operation.DeskOf(ctx).Site, s.Clock.Now()
	engine, err := s.engineHealth(ctx, now)
	var found store.SiteStatus
	if err == nil {
		found, err = s.Store.SiteStatus(ctx, site.ID, now)
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Status{Title: site.Title, Zone: site.ZoneName, Now: operation.PlaceAt(site.Zone(), now), Engine: engine,
		Paused: site.PausedAt != nil, Archived: site.ArchivedAt != nil,
		Overdue: found.Overdue, Asking: []RuleRef{}, Stuck: []string{}, Requests: []Request{}, Held: []HeldEdit{}}
	if found.Next != nil {
		body.Next = &NextOut{ID: found.Next.ID, Title: found.Next.Title, At: found.NextAt.UTC()}
	}
	body.Outing, err = operation.Remember(ctx, s.Tools, site, "the next outing", now, func() (*NextMessage, time.Time, error) {
		at, name, ok, err := s.Book(site).NextOuting(ctx, s.Store.Queries, now)
		if err != nil || !ok {
			return nil, now.Add(time.Minute), err
		}
		return &NextMessage{name, at.UTC()}, at, nil
	})
	if err != nil {
		return nil, s.Problem(err)
	}
	stuck, err := s.Store.StuckDestinations(ctx, site.ID, now.Add(-stuckAfter))
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, d := range stuck {
		body.Stuck = append(body.Stuck, d.Name)
	}
	if body.Failed, body.Aside, err = s.Store.CountAside(ctx, site.ID); err != nil {
		return nil, s.Problem(err)
	}
	requests, err := s.Store.OpenRequests(ctx, site.ID, mostRequests)
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, r := range requests {
		body.Requests = append(body.Requests, Request{r.ID, r.Post, r.Title, r.By, operation.PlaceAt(site.Zone(), *r.Wish)})
	}
	held, err := s.Store.Edits(ctx, site.ID, store.EditHeld)
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, e := range held {
		body.Held = append(body.Held, HeldEdit{e.ID, e.Title})
	}
	for _, rule := range found.Asking {
		body.Asking = append(body.Asking, RuleRef{rule.ID, rule.Title})
	}
	return &struct{ Body Status }{body}, nil
}
