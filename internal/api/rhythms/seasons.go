package rhythms

import (
	"context"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/formats"
	"dapper.example/internal/planning"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/store"
)

// Season is a rhythm that holds between two dates in place of the usual one.
type Season struct {
	ID       int64             `json:"id,omitempty" doc:"absent in a new one"`
	Name     string            `json:"name" maxLength:"100" doc:"Wanted to save it; a preview goes without."`
	Starts   civil.Date        `json:"starts" doc:"its first date"`
	Ends     civil.Date        `json:"ends" doc:"its last date"`
	Priority int               `json:"priority" minimum:"-100" maximum:"100" doc:"where seasons overlap, the highest holds; of equal ones the one that begins later"`
	Gap      int               `json:"gap,omitempty" minimum:"0" maximum:"10080" doc:"fewest minutes between two publications; absent or 0: the usual rhythm's"`
	Seed     int64             `json:"seed" minimum:"0" maximum:"9007199254740991" doc:"all chance comes from it"`
	Uneven   bool              `json:"uneven,omitempty" doc:"leave out the minutes divisible by five"`
	Openings []formats.Opening `json:"openings"`
	Version  int               `json:"version,omitempty" doc:"absent in a new one"`
}

// WhatIf holds a changed rhythm against the present one.
type WhatIf struct {
	Weeks   int     `json:"weeks" doc:"how far both look ahead"`
	Present Outlook `json:"present"`
	Changed Outlook `json:"changed"`
}

// Outlook is what a rhythm would mean for the shelf.
type Outlook struct {
	Slots      int              `json:"slots" doc:"free slots in those weeks"`
	PerWeek    float64          `json:"perWeek" doc:"free slots and planned posts a week"`
	First      *operation.Place `json:"first,omitempty" doc:"first slot that the shelf gets"`
	Last       *operation.Place `json:"last,omitempty"`
	Placed     int              `json:"placed" doc:"drafts of the shelf that get a slot"`
	Left       int              `json:"left" doc:"those that get none"`
	Dry        *civil.Date      `json:"dry,omitempty" doc:"date of the first slot for which nothing is left; absent where the shelf lasts"`
	Weekdays   []int            `json:"weekdays" doc:"what comes out on each, from Monday on"`
	Pause      int              `json:"pause" doc:"longest run of days without a post"`
	ApartLeast int              `json:"apartLeast" doc:"fewest days between two posts of one category; 0 where none comes twice"`
	ApartMean  float64          `json:"apartMean"`
}

func (s part) seasonOperations(api huma.API) {
	const path, rhythm = "/api/v1/sites/{site}/seasons", "/api/v1/sites/{site}/rhythm"
	huma.Register(api, huma.Operation{OperationID: "list-seasons", Method: http.MethodGet, Path: path,
		Summary: "The seasons of the site's rhythm"}, s.listSeasons)
	huma.Register(api, huma.Operation{
		OperationID: "begin-season", Method: http.MethodGet, Path: path +
			"/new", Summary: "A new season, not saved",
		Description: "A copy of the usual rhythm's openings, or of another season.",
	}, s.beginSeason)
	huma.Register(api, huma.Operation{OperationID: "add-season", Method: http.MethodPost, Path: path,
		Summary: "Add a season"}, s.addSeason)
	huma.Register(api, huma.Operation{
		OperationID: "save-season", Method: http.MethodPut, Path: path + "/{id}", Summary: "Save a season",
		Description: "Scheduled posts keep their times; only future free slots change.",
		Errors:      []int{http.StatusConflict},
	}, s.saveSeason)
	huma.Register(api, huma.Operation{
		OperationID: "drop-season", Method: http.MethodDelete, Path: path +
			"/{id}", Summary: "Drop a season", Description: "Posts in its slots keep their times.",
	}, s.dropSeason)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "preview-season", Method: http.MethodPost, Path: path +
			"/preview", Summary: "What a season would yield",
		Description: "From its first date on, or from today. Nothing is saved.",
	}), s.previewSeason)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "compare-rhythms", Method: http.MethodPost, Path: rhythm +
			"/what-if", Summary: "What if: another rhythm or season against the present one",
		Description: "Posts a week, first and last slot of the shelf, when it runs dry, how even the days are, how far apart a category falls. Nothing is saved.",
	}), s.whatIf)
}

type seasonsOutput struct{ Body []Season }

func (s part) listSeasons(ctx context.Context, _ *operation.SitePath) (*seasonsOutput, error) {
	r, err := s.Store.RhythmOf(ctx, operation.DeskOf(ctx).Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	out := &seasonsOutput{Body: []Season{}}
	for _, one := range r.Seasons {
		out.Body = append(out.Body, viewSeason(one))
	}
	return out, nil
}

func viewSeason(one store.Rhythm) Season {
	return Season{ID: one.ID, Name: one.Name, Starts: one.From, Ends: one.Until, Priority: one.Priority, Gap: one.Gap,
		Seed: int64(one.Seed), Uneven: one.Uneven,
		Openings: viewOpenings(one.Openings), Version: one.Version}
}

type beginSeasonInput struct {
	operation.SitePath
	Of int64 `query:"of" doc:"the season to copy"`
}

func (s part) beginSeason(ctx context.Context, in *beginSeasonInput) (*struct{ Body Season }, error) {
	site := operation.DeskOf(ctx).Site
	r, err := s.Store.RhythmOf(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	var of *store.Rhythm
	for i, one := range r.Seasons {
		if one.ID == in.Of {
			of = &r.Seasons[i]
		}
	}
	if in.Of != 0 && of == nil {
		return nil, s.Problem(store.ErrNotFound)
	}
	return &struct{ Body Season }{viewSeason(sitesettings.BeginSeason(r, of, site.Zone().DateOf(s.Clock.Now()),
		act.NewSeed))}, nil
}

// kept turns the season into what the store keeps, with all that is wrong with it beside
// the usual rhythm.
func (in Season) kept(usual store.Rhythm, zone civil.Zone) (store.Rhythm, []check.FieldProblem) {
	kept := store.Rhythm{ID: in.ID, SiteID: usual.SiteID, Name: strings.TrimSpace(in.Name), Gap: in.Gap,
		Seed: uint64(in.Seed), Uneven: in.Uneven,
		From: in.Starts, Until: in.Ends, Priority: in.Priority, Version: in.Version}
	openings, problems := formats.ReadOpenings(in.Openings)
	kept.Openings = openings
	if len(problems) == 0 {
		problems = []check.FieldProblem{}
		for _, bad := range sitesettings.SeasonProblems(usual, kept, zone) {
			problems = append(problems, check.FieldProblem{Path: bad.Field, Message: bad.Message})
		}
	}
	return kept, problems
}

type seasonInput struct {
	operation.SitePath
	Body Season
}

type seasonPath struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body Season
}

func (s part) addSeason(ctx context.Context, in *seasonInput) (*seasonsOutput, error) {
	in.Body.ID = 0
	return s.keepSeason(ctx, &in.SitePath, in.Body)
}

func (s part) saveSeason(ctx context.Context, in *seasonPath) (*seasonsOutput, error) {
	in.Body.ID = in.ID
	return s.keepSeason(ctx, &in.SitePath, in.Body)
}

func (s part) keepSeason(ctx context.Context, path *operation.SitePath, season Season) (*seasonsOutput, error) {
	desk := operation.DeskOf(ctx)
	usual, err := s.Store.RhythmOf(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	kept, problems := season.kept(usual, desk.Site.Zone())
	if kept.Name == "" {
		problems = append(problems, check.FieldProblem{Path: "name", Message: "Give the season a name."})
	}
	if len(problems) > 0 {
		return nil, operation.InvalidFields(problems)
	}
	if _, err := sitesettings.SaveSeason(ctx, desk, kept, s.Clock.Now()); err != nil {
		if errors.Is(err, act.ErrStale) {
			return nil,
				huma.Error409Conflict("Somebody saved this season meanwhile. Nothing was overwritten; load it again to see theirs.")
		}
		return nil, s.Problem(err)
	}
	return s.listSeasons(ctx, path)
}

type seasonIDPath struct {
	operation.SitePath
	ID int64 `path:"id" minimum:"1"`
}

func (s part) dropSeason(ctx context.Context, in *seasonIDPath) (*seasonsOutput, error) {
	if err := sitesettings.DropSeason(ctx, operation.DeskOf(ctx), in.ID, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.listSeasons(ctx, &in.SitePath)
}

// withSeason is the usual rhythm with a season put in the place of the one of its ID, or
// beside the others.
func withSeason(usual, season store.Rhythm) store.Rhythm {
	var seasons []store.Rhythm
	for _, one := range usual.Seasons {
		if one.ID != season.ID {
			seasons = append(seasons, one)
		}
	}
	if season.ID == 0 {
		season.ID = -1 // a name for its slots, until it is kept
	}
	usual.Seasons = append(seasons, season)
	return usual
}

type seasonPreviewInput struct {
	operation.SitePath
	Days int `query:"days" minimum:"1" maximum:"62" default:"28"`
	Body Season
}

func (s part) previewSeason(ctx context.Context, in *seasonPreviewInput) (*struct{ Body RhythmPreview }, error) {
	desk, now := operation.DeskOf(ctx), s.Clock.Now()
	zone := desk.Site.Zone()
	plan, err := planning.Propose(ctx, s.Store.Queries, desk.Site, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	kept, problems := in.Body.kept(plan.Rhythm, zone)
	preview := RhythmPreview{Problems: problems, Days: []RhythmDay{}, Hours: []int{}, Distances: []DistanceCount{}}
	if len(problems) > 0 {
		return &struct{ Body RhythmPreview }{preview}, nil
	}
	from := zone.DateOf(now)
	if kept.From.After(from) {
		from = kept.From
	}
	preview.fill(withSeason(plan.Rhythm, kept).In(zone), plan.Occupied, from, in.Days)
	return &struct{ Body RhythmPreview }{preview}, nil
}

type whatIfInput struct {
	operation.SitePath
	Body struct {
		Rhythm *Rhythm `json:"rhythm,omitempty" doc:"the usual rhythm as it would be"`
		Season *Season `json:"season,omitempty" doc:"or a season as it would be"`
		Weeks  int     `json:"weeks" minimum:"1" maximum:"104" doc:"how far to look ahead"`
	}
}

func (s part) whatIf(ctx context.Context, in *whatIfInput) (*struct{ Body WhatIf }, error) {
	desk, now := operation.DeskOf(ctx), s.Clock.Now()
	zone := desk.Site.Zone()
	plan, request, err := planning.Queue(ctx, s.Store.Queries, desk.Site, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	var changed store.Rhythm
	var problems []check.FieldProblem
	switch {
	case (in.Body.Rhythm != nil) == (in.Body.Season != nil):
		return nil, operation.Invalid(&act.Invalid{Field: "rhythm",
			Message: "Say which to compare: a rhythm, or a season."})
	case in.Body.Rhythm != nil:
		changed, problems = in.Body.Rhythm.check(zone)
		changed.ID, changed.Seasons = plan.Rhythm.ID, plan.Rhythm.Seasons
	default:
		changed, problems = in.Body.Season.kept(plan.Rhythm, zone)
		changed = withSeason(plan.Rhythm, changed)
	}
	if len(problems) > 0 {
		return nil, operation.InvalidFields(problems)
	}
	ctx, cancel := context.WithTimeout(ctx, lookingTime)
	defer cancel()
	look := func(r store.Rhythm) Outlook {
		request.Slots = planning.While(ctx, queue.Slots(r.In(zone), now, plan.Occupied))
		return outlookOf(zone, queue.Look(request, now, in.Body.Weeks))
	}
	found := WhatIf{in.Body.Weeks, look(plan.Rhythm), look(changed)}
	if ctx.Err() != nil {
		return nil, tooMuchToDraw("weeks")
	}
	return &struct{ Body WhatIf }{found}, nil
}

// lookingTime is how long a rhythm may be looked at ahead of time. A year of an ordinary one
// takes some milliseconds.
const lookingTime = 8 * time.Second

// tooMuchToDraw says that a rhythm has so many openings that a span of it takes too long.
func tooMuchToDraw(field string) error {
	return operation.Invalid(&act.Invalid{Field: field,
		Message: "This rhythm has so many overlapping openings that looking this far ahead takes too long. Look less far ahead, or remove some."})
}

func outlookOf(zone civil.Zone, o queue.Outlook) Outlook {
	view := Outlook{Slots: o.Slots, PerWeek: o.PerWeek, Placed: o.Placed, Left: o.Left, Weekdays: o.Weekdays[:],
		Pause: o.Pause, ApartLeast: o.ApartLeast, ApartMean: o.ApartMean}
	if !o.First.IsZero() {
		view.First, view.Last = operation.MaybePlace(zone, &o.First), operation.MaybePlace(zone, &o.Last)
	}
	if !o.Dry.IsZero() {
		view.Dry = &o.Dry
	}
	return view
}
