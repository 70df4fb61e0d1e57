package rhythms

import (
	"context"
	"errors"
	"math"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/formats"
	"dapper.example/internal/planning"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/store"
)

// Rhythm is the weekly pattern that yields slots.
type Rhythm struct {
	Name     string            `json:"name" maxLength:"100"`
	Gap      int               `json:"gap" doc:"fewest minutes between two publications"`
	Seed     int64             `json:"seed" minimum:"0" maximum:"9007199254740991" doc:"all chance comes from it"`
	Uneven   bool              `json:"uneven" required:"false" doc:"leave out the minutes divisible by five"`
	Starts   *civil.Date       `json:"starts,omitempty" doc:"first date on which openings hold"`
	Ends     *civil.Date       `json:"ends,omitempty" doc:"last date on which openings hold"`
	Rests    []Rest            `json:"rests" required:"false" doc:"dates on which nothing is placed"`
	Openings []formats.Opening `json:"openings"`
	Version  int               `json:"version"`
}

// Rest is a stretch of dates on which nothing is placed.
type Rest struct {
	First  civil.Date  `json:"first"`
	Last   *civil.Date `json:"last,omitempty" doc:"the last date; absent: it is one day"`
	Yearly bool        `json:"yearly,omitempty" doc:"it comes again every year"`
	Name   string      `json:"name,omitempty" maxLength:"200"`
}

func (r Rest) of() civil.Rest {
	rest := civil.Rest{First: r.First, Last: r.First, Yearly: r.Yearly, Name: strings.TrimSpace(r.Name)}
	if r.Last != nil {
		rest.Last = *r.Last
	}
	return rest
}

func viewRests(rests civil.Rests) []Rest {
	view := []Rest{}
	for _, r := range rests {
		one := Rest{First: r.First, Yearly: r.Yearly, Name: r.Name}
		if r.Last != r.First {
			one.Last = &r.Last
		}
		view = append(view, one)
	}
	return view
}

// RhythmDay is one day of a rhythm's preview.
type RhythmDay struct {
	Date     civil.Date        `json:"date"`
	Openings []Stretch         `json:"openings"`
	Slots    []operation.Place `json:"slots" doc:"free slots"`
	Taken    []operation.Place `json:"taken" doc:"times of posts that are in the plan already; saving leaves them where they are"`
	Short    []string          `json:"short"`
}

// RhythmPreview shows what a rhythm would yield.
type RhythmPreview struct {
	Problems []check.FieldProblem `json:"problems"`
	Days     []RhythmDay          `json:"days" doc:"empty while there are problems"`
	// What the times of those days look like, free slots and planned posts together.
	Hours     []int           `json:"hours" doc:"how many times fall into each hour of the day; 24 counts, or none while there are problems"`
	Distances []DistanceCount `json:"distances" doc:"how far neighbours are apart"`
	// Resting counts all posts to come that are planned on rest days.
	Resting int `json:"resting" doc:"posts to come that are planned on its rest days, however far ahead"`
	// Off counts scheduled posts of those days that would sit in no slot of this rhythm.
	Off int `json:"off" doc:"scheduled posts of those days whose slot this rhythm does not have; they keep their times"`
}

// DistanceCount counts the distances between neighbouring times up to a bound.
type DistanceCount struct {
	Name  string `json:"name"`
	Count int    `json:"count"`
}

func (s part) rhythmOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/rhythm"
	huma.Register(api, huma.Operation{
		OperationID: "get-rhythm", Method: http.MethodGet, Path: path, Summary: "The site's rhythm",
	}, s.getRhythm)
	huma.Register(api, huma.Operation{
		OperationID: "begin-opening", Method: http.MethodGet, Path: path +
			"/opening", Summary: "A new opening, and a new pattern for a batch",
	}, s.beginOpening)
	huma.Register(api, huma.Operation{
		OperationID: "save-rhythm", Method: http.MethodPut, Path: path, Summary: "Save the site's rhythm",
		Description: "Scheduled posts keep their times; only future free slots change.",
		Errors:      []int{http.StatusConflict},
	}, s.saveRhythm)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "preview-rhythm", Method: http.MethodPost, Path: path + "/preview",
		Summary: "What a rhythm would yield", Description: "Nothing is saved. The plan's present posts are regarded.",
	}), s.previewRhythm)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "read-rests", Method: http.MethodPost, Path: "/api/v1/sites/{site}/rests/read",
		Summary:      "Read rest days from an iCalendar file",
		Description:  "Its whole-day events, once or yearly; others are named. Nothing is saved.",
		MaxBodyBytes: 2 * formats.MaxCalendar,
	}), s.readRests)
}

// Beginning is what openings and patterns are when they are new.
type Beginning struct {
	Opening formats.Opening `json:"opening" doc:"without a key"`
	Time    formats.Opening `json:"time" doc:"what an opening gets that becomes a fixed time"`
	Window  formats.Opening `json:"window" doc:"what one gets that becomes a window"`
	Pattern reflow.Pattern  `json:"pattern" doc:"with a seed that was just drawn"`
}

func (s part) beginOpening(context.Context, *operation.SitePath) (*struct{ Body Beginning }, error) {
	opening, p := sitesettings.BeginOpening(), sitesettings.BeginPattern(act.NewSeed()>>22)
	return &struct{ Body Beginning }{Beginning{Opening: formats.ViewOpening(opening),
		Time:    formats.ViewOpening(sitesettings.AsTime(opening)),
		Window:  formats.ViewOpening(sitesettings.AsWindow(opening)),
		Pattern: p}}, nil
}

// ReadRests are the rest days of a calendar file.
type ReadRests struct {
	Rests   []Rest      `json:"rests"`
	Left    []LeftEvent `json:"left" doc:"events that are no rest days, the first hundred"`
	LeftOut int         `json:"leftOut" doc:"how many events were left out"`
}

// LeftEvent is an event of a calendar file that is no rest day.
type LeftEvent struct {
	Name string `json:"name"`
	Why  string `json:"why"`
}

type readRestsInput struct {
	operation.SitePath
	Body struct {
		Calendar string `json:"calendar" doc:"the text of the file"`
	}
}

func (s part) readRests(_ context.Context, in *readRestsInput) (*struct{ Body ReadRests }, error) {
	read, err := formats.ReadRests([]byte(in.Body.Calendar))
	var bad *formats.Unreadable
	if errors.As(err, &bad) {
		return nil, operation.Invalid(&act.Invalid{Field: "calendar", Message: bad.Why})
	}
	body := ReadRests{Rests: viewRests(read.Found), Left: []LeftEvent{}, LeftOut: read.LeftOut}
	for _, l := range read.Left {
		body.Left = append(body.Left, LeftEvent(l))
	}
	return &struct{ Body ReadRests }{body}, nil
}

type rhythmOutput struct {
	Body Rhythm
}

func (s part) getRhythm(ctx context.Context, in *operation.SitePath) (*rhythmOutput, error) {
	desk := operation.DeskOf(ctx)
	r, err := s.Store.RhythmOf(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &rhythmOutput{viewRhythm(r)}, nil
}

func viewRhythm(r store.Rhythm) Rhythm {
	view := Rhythm{Name: r.Name, Gap: r.Gap, Seed: int64(r.Seed), Uneven: r.Uneven, Rests: viewRests(r.Rests),
		Openings: viewOpenings(r.Openings), Version: r.Version}
	if !r.From.IsZero() {
		view.Starts = &r.From
	}
	if !r.Until.IsZero() {
		view.Ends = &r.Until
	}
	return view
}

func viewOpenings(openings []rhythm.Opening) []formats.Opening {
	view := []formats.Opening{}
	for _, o := range openings {
		view = append(view, formats.ViewOpening(o))
	}
	return view
}

// Kept turns the rhythm into what the store keeps; problems that core could not
// tell from it are found here.
func (r Rhythm) Kept() (store.Rhythm, []check.FieldProblem) {
	kept := store.Rhythm{Name: strings.TrimSpace(r.Name), Gap: r.Gap, Seed: uint64(r.Seed), Uneven: r.Uneven,
		Version: r.Version}
	for _, rest := range r.Rests {
		kept.Rests = append(kept.Rests, rest.of())
	}
	if r.Starts != nil {
		kept.From = *r.Starts
	}
	if r.Ends != nil {
		kept.Until = *r.Ends
	}
	openings, problems := formats.ReadOpenings(r.Openings)
	kept.Openings = openings
	if kept.Name == "" {
		problems = append(problems, check.FieldProblem{Path: "name", Message: "Give the rhythm a name."})
	}
	return kept, problems
}

// check returns what the store keeps and all that is wrong with it.
func (r Rhythm) check(zone civil.Zone) (store.Rhythm, []check.FieldProblem) {
	kept, problems := r.Kept()
	if len(problems) > 0 {
		return kept, problems
	}
	problems = []check.FieldProblem{}
	for _, p := range kept.In(zone).Problems() {
		if p.Path == "until" {
			p.Path = "ends"
		}
		problems = append(problems, p)
	}
	return kept, problems
}

type rhythmInput struct {
	operation.SitePath
	Body Rhythm
}

func (s part) saveRhythm(ctx context.Context, in *rhythmInput) (*rhythmOutput, error) {
	desk := operation.DeskOf(ctx)
	kept, problems := in.Body.check(desk.Site.Zone())
	if len(problems) > 0 {
		return nil, operation.InvalidFields(problems)
	}
	if err := sitesettings.SaveRhythm(ctx, desk, kept, s.Clock.Now()); err != nil {
		if errors.Is(err, act.ErrStale) {
			return nil,
				huma.Error409Conflict("Somebody saved the rhythm meanwhile. Nothing was overwritten; load it again to see theirs.")
		}
		return nil, s.Problem(err)
	}
	return s.getRhythm(ctx, &in.SitePath)
}

type rhythmPreviewInput struct {
	operation.SitePath
	Days int `query:"days" minimum:"1" maximum:"62" default:"7"`
	Body Rhythm
}

func (s part) previewRhythm(ctx context.Context, in *rhythmPreviewInput) (*struct{ Body RhythmPreview }, error) {
	desk := operation.DeskOf(ctx)
	zone, now := desk.Site.Zone(), s.Clock.Now()
	kept, problems := in.Body.check(zone)
	preview := RhythmPreview{Problems: problems, Days: []RhythmDay{}, Hours: []int{}, Distances: []DistanceCount{}}
	if len(problems) > 0 {
		return &struct{ Body RhythmPreview }{preview}, nil
	}
	plan, err := planning.Propose(ctx, s.Store.Queries, desk.Site, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	kept.ID, kept.Seasons = plan.Rhythm.ID, plan.Rhythm.Seasons
	preview.fill(kept.In(zone), plan.Occupied, zone.DateOf(now), in.Days)
	for _, o := range plan.Occupied {
		if o.At.After(now) && kept.Rests.Has(zone.DateOf(o.At)) {
			preview.Resting++
		}
	}
	return &struct{ Body RhythmPreview }{preview}, nil
}

// fill shows some days of a rhythm, and what its times look like.
func (p *RhythmPreview) fill(r rhythm.Rhythm, occupied []rhythm.Occupied, from civil.Date, days int) {
	p.Days = PreviewDays(r, occupied, from, days)
	p.Hours, p.Distances = shape(p.Days)
	p.Off = offSlot(r, occupied, from, days)
}

// PreviewDays shows some days of a rhythm, beside the posts that are in the plan.
func PreviewDays(r rhythm.Rhythm, occupied []rhythm.Occupied, from civil.Date, n int) []RhythmDay {
	days := make([]RhythmDay, n)
	for i := range days {
		days[i] = RhythmDay{Date: from.Add(i), Openings: []Stretch{}, Slots: []operation.Place{},
			Taken: []operation.Place{},
			Short: []string{}}
	}
	shown := Rows{r.Zone, from, n}
	for _, taken := range occupied {
		place := operation.PlaceAt(r.Zone, taken.At)
		if row, ok := shown.Of(place.Date); ok {
			days[row].Taken = append(days[row].Taken, place)
		}
	}
	shown.Draw(r.Beside(occupied), Drawn{
		Stretch: func(row int, s Stretch) { days[row].Openings = append(days[row].Openings, s) },
		Slot: func(row int, place operation.Place, _ rhythm.Slot) {
			days[row].Slots = append(days[row].Slots, place)
		},
		Short: func(row int, reason string) { days[row].Short = append(days[row].Short, reason) },
	})
	return days
}

// bounds of the distances that are counted together.
var distanceBounds = []struct {
	upTo time.Duration
	name string
}{
	{time.Hour, "under 1 h"}, {3 * time.Hour, "1–3 h"}, {6 * time.Hour, "3–6 h"}, {12 * time.Hour, "6–12 h"},
	{24 * time.Hour, "12–24 h"}, {48 * time.Hour, "1–2 days"}, {math.MaxInt64, "longer"},
}

// shape counts the times by hour of the day, and the distances between neighbours.
func shape(days []RhythmDay) (hours []int, distances []DistanceCount) {
	hours = make([]int, 24)
	var times []time.Time
	for _, day := range days {
		for _, place := range slices.Concat(day.Slots, day.Taken) {
			hours[place.Minute/60]++
			times = append(times, place.At)
		}
	}
	slices.SortFunc(times, time.Time.Compare)
	distances = make([]DistanceCount, len(distanceBounds))
	for i, b := range distanceBounds {
		distances[i].Name = b.name
	}
	for i := 1; i < len(times); i++ {
		apart := times[i].Sub(times[i-1])
		for j, b := range distanceBounds {
			if apart < b.upTo {
				distances[j].Count++
				break
			}
		}
	}
	return hours, distances
}

// offSlot counts the posts in slots that the rhythm does not have, or has at another
// time.
func offSlot(r rhythm.Rhythm, occupied []rhythm.Occupied, from civil.Date, days int) int {
	at := make(map[rhythm.SlotID]time.Time)
	for day := range r.Days(from, nil) {
		if !day.Date.Before(from.Add(days)) {
			break
		}
		for _, s := range day.Slots {
			at[s.ID] = s.At
		}
	}
	off := 0
	for _, o := range occupied {
		inSlot := o.Slot != (rhythm.SlotID{}) && o.Slot.Date.Sub(from) >= 0 && o.Slot.Date.Sub(from) < days
		if inSlot && !at[o.Slot].Equal(o.At.Truncate(time.Minute)) {
			off++
		}
	}
	return off
}
