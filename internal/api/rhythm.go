package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// Opening is one line of a rhythm.
type Opening struct {
	Key      string       `json:"key" doc:"names the opening for good; 1 to 40 characters"`
	Kind     string       `json:"kind" enum:"window,time"`
	Weekdays []string     `json:"weekdays" enum:"monday,tuesday,wednesday,thursday,friday,saturday,sunday"`
	From     civil.Clock  `json:"from" doc:"the fixed time, or the window's beginning"`
	To       *civil.Clock `json:"to,omitempty" doc:"the window's end, exclusive; up to 48:00 for one that runs past midnight"`
	Count    int          `json:"count" required:"false" default:"1" doc:"how many posts the window gets"`
	Sway     int          `json:"sway" required:"false" default:"0" doc:"by how many minutes a fixed time may wander, either way"`
}

// Rhythm is the weekly pattern that yields slots.
type Rhythm struct {
	Name     string    `json:"name" minLength:"1" maxLength:"100"`
	Gap      int       `json:"gap" doc:"fewest minutes between two publications"`
	Seed     int64     `json:"seed" minimum:"0" maximum:"9007199254740991" doc:"all chance comes from it"`
	Openings []Opening `json:"openings"`
	Version  int       `json:"version"`
}

// RhythmDay is one day of a rhythm's preview.
type RhythmDay struct {
	Date     civil.Date `json:"date"`
	Openings []Stretch  `json:"openings"`
	Slots    []Place    `json:"slots" doc:"free slots"`
	Taken    []Place    `json:"taken" doc:"times of posts that are in the plan already; saving leaves them where they are"`
	Short    []string   `json:"short"`
}

// FieldProblem is what is wrong with one field.
type FieldProblem struct {
	Path    string `json:"path" example:"openings[2].to"`
	Message string `json:"message"`
}

// RhythmPreview shows what a rhythm would yield.
type RhythmPreview struct {
	Problems []FieldProblem `json:"problems"`
	Days     []RhythmDay    `json:"days" doc:"empty while there are problems"`
}

func (s *Server) rhythmOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/rhythm"
	huma.Register(api, huma.Operation{
		OperationID: "get-rhythm", Method: http.MethodGet, Path: path, Summary: "The site's rhythm",
	}, s.getRhythm)
	huma.Register(api, huma.Operation{
		OperationID: "save-rhythm", Method: http.MethodPut, Path: path, Summary: "Save the site's rhythm",
		Description: "Scheduled posts keep their times; only future free slots change.", Errors: []int{http.StatusConflict},
	}, s.saveRhythm)
	huma.Register(api, huma.Operation{
		OperationID: "preview-rhythm", Method: http.MethodPost, Path: path + "/preview",
		Summary: "What a rhythm would yield", Description: "Nothing is saved. The plan's present posts are regarded.",
	}, s.previewRhythm)
}

type rhythmOutput struct {
	Body Rhythm
}

func (s *Server) getRhythm(ctx context.Context, in *SitePath) (*rhythmOutput, error) {
	desk, _, err := s.desk(ctx, *in)
	if err != nil {
		return nil, err
	}
	r, err := s.Store.RhythmOf(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.problem(err)
	}
	return &rhythmOutput{viewRhythm(r)}, nil
}

var weekdayNames = [...]string{"sunday", "monday", "tuesday", "wednesday", "thursday", "friday", "saturday"}

func viewRhythm(r store.Rhythm) Rhythm {
	view := Rhythm{Name: r.Name, Gap: r.Gap, Seed: int64(r.Seed), Openings: []Opening{}, Version: r.Version}
	for _, o := range r.Openings {
		opening := Opening{Key: o.Key, Kind: "time", Weekdays: []string{}, From: o.From, Count: o.Count, Sway: o.Sway}
		if !o.IsFixed() {
			opening.Kind, opening.To = "window", &o.To
		}
		for _, day := range o.Weekdays.Days() {
			opening.Weekdays = append(opening.Weekdays, weekdayNames[day])
		}
		view.Openings = append(view.Openings, opening)
	}
	return view
}

// kept turns the rhythm into what the store keeps; problems that core could not
// tell from it are found here.
func (r Rhythm) kept() (store.Rhythm, []FieldProblem) {
	kept := store.Rhythm{Name: strings.TrimSpace(r.Name), Gap: r.Gap, Seed: uint64(r.Seed), Version: r.Version}
	problems := []FieldProblem{}
	if kept.Name == "" {
		problems = append(problems, FieldProblem{"name", "Give the rhythm a name."})
	}
	for i, o := range r.Openings {
		opening := rhythm.Opening{Key: o.Key, From: o.From, Count: o.Count, Sway: o.Sway}
		for _, name := range o.Weekdays {
			opening.Weekdays |= rhythm.On(time.Weekday(slices.Index(weekdayNames[:], name)))
		}
		at := fmt.Sprintf("openings[%d]", i)
		switch {
		case o.Kind == "window" && o.To == nil:
			problems = append(problems, FieldProblem{at + ".to", "A window needs an end."})
		case o.Kind == "window" && *o.To == 0:
			problems = append(problems, FieldProblem{at + ".to", "The window ends at 00:00, before it begins. To end at midnight, write 24:00."})
		case o.Kind == "window":
			opening.To = *o.To
		}
		kept.Openings = append(kept.Openings, opening)
	}
	return kept, problems
}

// check returns what the store keeps and all that is wrong with it.
func (r Rhythm) check(zone civil.Zone) (store.Rhythm, []FieldProblem) {
	kept, problems := r.kept()
	if len(problems) > 0 {
		return kept, problems
	}
	for _, p := range kept.In(zone).Problems() {
		problems = append(problems, FieldProblem{p.Path, p.Message})
	}
	return kept, problems
}

type rhythmInput struct {
	SitePath
	Body Rhythm
}

func (s *Server) saveRhythm(ctx context.Context, in *rhythmInput) (*rhythmOutput, error) {
	desk, err := s.planner(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	kept, problems := in.Body.check(desk.Site.Zone())
	if len(problems) > 0 {
		var bad []*planning.Invalid
		for _, p := range problems {
			bad = append(bad, &planning.Invalid{Field: p.Path, Message: p.Message})
		}
		return nil, invalid(bad...)
	}
	if err := desk.SaveRhythm(ctx, kept, s.Clock.Now()); err != nil {
		if errors.Is(err, planning.ErrStale) {
			return nil, huma.Error409Conflict("Somebody saved the rhythm meanwhile. Nothing was overwritten; load it again to see theirs.")
		}
		return nil, s.problem(err)
	}
	return s.getRhythm(ctx, &in.SitePath)
}

type rhythmPreviewInput struct {
	SitePath
	Days int `query:"days" minimum:"1" maximum:"62" default:"7"`
	Body Rhythm
}

func (s *Server) previewRhythm(ctx context.Context, in *rhythmPreviewInput) (*struct{ Body RhythmPreview }, error) {
	desk, _, err := s.desk(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	zone, now := desk.Site.Zone(), s.Clock.Now()
	kept, problems := in.Body.check(zone)
	preview := RhythmPreview{Problems: problems, Days: []RhythmDay{}}
	if len(problems) > 0 {
		return &struct{ Body RhythmPreview }{preview}, nil
	}
	plan, err := planning.Propose(ctx, s.Store.Queries, desk.Site, now)
	if err != nil {
		return nil, s.problem(err)
	}
	kept.ID = plan.Rhythm.ID
	preview.Days = previewDays(kept.In(zone), plan.Occupied, zone.DateOf(now), in.Days)
	return &struct{ Body RhythmPreview }{preview}, nil
}

func previewDays(r rhythm.Rhythm, occupied []rhythm.Occupied, from civil.Date, n int) []RhythmDay {
	days := make([]RhythmDay, n)
	for i := range days {
		days[i] = RhythmDay{Date: from.Add(i), Openings: []Stretch{}, Slots: []Place{}, Taken: []Place{}, Short: []string{}}
	}
	within := func(date civil.Date) bool { return date.Sub(from) >= 0 && date.Sub(from) < n }
	for _, taken := range occupied {
		if place := placeAt(r.Zone, taken.At); within(place.Date) {
			row := &days[place.Date.Sub(from)]
			row.Taken = append(row.Taken, place)
		}
	}
	for day := range r.Days(from.Add(-2), occupied) {
		if !day.Date.Before(from.Add(n)) {
			break
		}
		for _, stretch := range day.Stretches {
			for _, part := range cut(r.Zone, stretch) {
				if within(part.date) {
					row := &days[part.date.Sub(from)]
					row.Openings = append(row.Openings, part.Stretch)
				}
			}
		}
		for _, slot := range day.Slots {
			if place := placeAt(r.Zone, slot.At); within(place.Date) {
				row := &days[place.Date.Sub(from)]
				row.Slots = append(row.Slots, place)
			}
		}
		if within(day.Date) {
			for _, short := range day.Short {
				row := &days[day.Date.Sub(from)]
				row.Short = append(row.Short, short.Reason)
			}
		}
	}
	return days
}
