package rules

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/outings"
	"dapper.example/internal/store"
)

// OutingBody is what an editor says of an outing.
type OutingBody struct {
	PostID    int64     `json:"postId" minimum:"1"`
	ChannelID int64     `json:"channelId" minimum:"1"`
	At        time.Time `json:"at" doc:"when it goes out, to the minute"`
	Text      string    `json:"text" maxLength:"10000" doc:"what it says, with placeholders as in wordings"`
	ParentID  int64     `json:"parentId" required:"false" minimum:"0" doc:"the outing that it replies to; 0: none"`
	Pictures  []int64   `json:"pictures" required:"false" maxItems:"20" doc:"of the library, in order"`
}

func (b OutingBody) wish() outings.Wish {
	return outings.Wish{Channel: b.ChannelID, Post: b.PostID, At: b.At, Text: b.Text, Parent: b.ParentID,
		Pictures: b.Pictures}
}

// PlannedOuting is an outing that waits for its time.
type PlannedOuting struct {
	ID int64 `json:"id"`
	OutingBody
	Place   operation.Place `json:"place" doc:"its time, by the clocks of the site"`
	Title   string          `json:"title" doc:"the post's"`
	Channel string          `json:"channel"`
	Origin  string          `json:"origin" enum:"hand,publication,tour"`
	Version int             `json:"version"`
}

// PlannedOutings are all that wait for their time.
type PlannedOutings struct {
	Outings []PlannedOuting `json:"outings" doc:"in order of time"`
}

// OutingMessage is what would be sent of an outing, as its post is now.
type OutingMessage struct {
	Text      string `json:"text"`
	Graphemes int    `json:"graphemes"`
	Fit       string `json:"fit,omitempty" doc:"what the composer had to give up"`
}

func viewPlanned(zone civil.Zone, o store.Outing) PlannedOuting {
	view := PlannedOuting{ID: o.ID, Place: operation.PlaceAt(zone, o.At), Title: o.Title, Channel: o.Network,
		Origin:  o.Origin,
		Version: o.Version,
		OutingBody: OutingBody{PostID: o.Post, ChannelID: o.Channel, At: o.At.UTC(), Text: o.OwnText,
			Pictures: append([]int64{}, o.Pictures...)}}
	if o.Parent != nil {
		view.ParentID = *o.Parent
	}
	return view
}

const (
	outingsPath = "/api/v1/sites/{site}/outings"
	outingPath  = outingsPath + "/{id}"
)

func (s part) outingOperations(api huma.API) {
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "list-outings", Method: http.MethodGet, Path: outingsPath,
		Summary: "The planned outings that wait for their time",
	}, s.listOutings)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "preview-outing", Method: http.MethodPost, Path: outingsPath +
			"/preview", Summary: "What would be sent of an outing",
		Description: "Nothing is saved.",
	}), s.previewOuting)
	huma.Register(api, huma.Operation{
		OperationID: "plan-outing", Method: http.MethodPost, Path: outingsPath, Summary: "Plan an outing",
		DefaultStatus: http.StatusCreated,
		Description:   "At its time the message goes out, if its post is out by then; the rules of the channel go on around it.",
	}, s.planOuting)
	huma.Register(api, huma.Operation{
		OperationID: "save-outing", Method: http.MethodPut, Path: outingPath, Summary: "Change a planned outing",
		Errors: stale,
	}, s.saveOuting)
	huma.Register(api, huma.Operation{
		OperationID: "drop-outing", Method: http.MethodDelete, Path: outingPath, Summary: "Drop a planned outing",
		DefaultStatus: http.StatusNoContent, Errors: stale,
	}, s.dropOuting)
}

func (s part) outingEditor(ctx context.Context) outings.Editor {
	return outings.Editor{Desk: operation.DeskOf(ctx), Public: s.Public}
}

func (s part) listOutings(ctx context.Context, in *operation.SitePath) (*struct{ Body PlannedOutings }, error) {
	desk := operation.DeskOf(ctx)
	planned, err := s.Store.Planned(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := PlannedOutings{Outings: []PlannedOuting{}}
	for _, o := range planned {
		body.Outings = append(body.Outings, viewPlanned(desk.Site.Zone(), o))
	}
	return &struct{ Body PlannedOutings }{body}, nil
}

type outingInput struct {
	operation.SitePath
	Body OutingBody
}

func (s part) previewOuting(ctx context.Context, in *outingInput) (*struct{ Body OutingMessage }, error) {
	m, err := s.outingEditor(ctx).Look(ctx, s.Store.Queries, in.Body.wish(), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body OutingMessage }{OutingMessage{m.Text, m.Graphemes, m.Fit}}, nil
}

type plannedOutput struct {
	Body PlannedOuting
}

func (s part) planOuting(ctx context.Context, in *outingInput) (*plannedOutput, error) {
	desk := s.outingEditor(ctx)
	id, err := desk.Plan(ctx, in.Body.wish(), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.planned(ctx, desk.Site, id)
}

func (s part) planned(ctx context.Context, site store.Site, id int64) (*plannedOutput, error) {
	o, err := s.Store.Outing(ctx, id)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &plannedOutput{viewPlanned(site.Zone(), o)}, nil
}

type saveOutingInput struct {
	operation.ItemPath
	Body struct {
		OutingBody
		Version int `json:"version" doc:"the version that was seen"`
	}
}

func (s part) saveOuting(ctx context.Context, in *saveOutingInput) (*plannedOutput, error) {
	desk := s.outingEditor(ctx)
	if err := desk.Save(ctx, in.ID, in.Body.Version, in.Body.wish(), s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.planned(ctx, desk.Site, in.ID)
}

type dropOutingInput struct {
	operation.ItemPath
	Version int `query:"version" required:"true" doc:"the version that was seen"`
}

func (s part) dropOuting(ctx context.Context, in *dropOutingInput) (*struct{}, error) {
	return nil, s.Problem(s.outingEditor(ctx).Drop(ctx, in.ID, in.Version, s.Clock.Now()))
}
