// Package forecasts has the operations that foretell what will come out.
package forecasts

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.forecastOperations(api)
}

// ForecastEvent is one deed of the future.
type ForecastEvent struct {
	operation.Place
	Kind    string `json:"kind" enum:"publish,move,hold,archive,to draft,bin,republish,share,skip,ask,timed edit,hold edit,refile,add tag,put notice,close comments,delete,warn,ask to read"`
	PostID  int64  `json:"postId,omitempty"`
	Title   string `json:"title,omitempty"`
	RuleID  int64  `json:"ruleId,omitempty"`
	Rule    string `json:"rule,omitempty"`
	Channel string `json:"channel,omitempty"`
	Reason  string `json:"reason"`
	Text    string `json:"text,omitempty" doc:"the whole message of a sharing"`
}

// ForecastWarning is something an editor should know before it happens.
type ForecastWarning struct {
	Kind  string          `json:"kind" enum:"shelf dry,empty weeks,pool empty,fight,asks,limit,unfit,no progress"`
	From  operation.Place `json:"from"`
	Rules []int64         `json:"rules"`
	Posts []int64         `json:"posts" doc:"examples"`
	Text  string          `json:"text"`
}

// Forecast is what will happen if nobody changes anything.
type Forecast struct {
	From     operation.Place   `json:"from"`
	To       operation.Place   `json:"to"`
	Zone     string            `json:"zone"`
	Events   []ForecastEvent   `json:"events" doc:"in order"`
	Counts   map[string]int    `json:"counts" doc:"how many of each kind, those beyond the limit too"`
	Warnings []ForecastWarning `json:"warnings"`
	Dry      *operation.Place  `json:"dry,omitempty" doc:"the first slot that the shelf has no draft for"`
	Cut      bool              `json:"cut" doc:"only the first events are listed"`
}

// ForecastChange is one difference that a change would make.
type ForecastChange struct {
	ForecastEvent
	How string           `json:"how" enum:"comes,goes,moves"`
	Was *operation.Place `json:"was,omitempty" doc:"of one that moves: when it would have been"`
}

// Comparison is what a change would change.
type Comparison struct {
	Changes  []ForecastChange  `json:"changes"`
	Comes    int               `json:"comes"`
	Goes     int               `json:"goes"`
	Moves    int               `json:"moves"`
	Warnings []ForecastWarning `json:"warnings" doc:"those that the change brings"`
	Days     int               `json:"days"`
	Cut      bool              `json:"cut" doc:"only the first changes are listed"`
}

// Mark is a deed of upkeep or sharing on the tape.
type Mark struct {
	ForecastEvent
	State string `json:"state" enum:"done,coming,waiting,failed"`
	LogID int64  `json:"logId,omitempty" doc:"of what was done: the line of the logbook by which it can be undone"`
	URL   string `json:"url,omitempty" doc:"of a message: where it can be read"`

	Messages []MarkedMessage `json:"messages,omitempty" doc:"of outings to come: by what each is moved or left out"`

	EditID      int64 `json:"editId,omitempty" doc:"of a timed edit to come: its number"`
	EditVersion int   `json:"editVersion,omitempty" doc:"of that: its version"`

	AuthorID   int64 `json:"authorId,omitempty" doc:"of its post"`
	CategoryID int64 `json:"categoryId,omitempty" doc:"of its post"`
}

// MarkedMessage is a message to come: one that is planned, or one of a turn of its rule.
type MarkedMessage struct {
	OutingID int64      `json:"outingId,omitempty" doc:"where it is planned"`
	Version  int        `json:"version,omitempty" doc:"of the planned outing"`
	Turn     *time.Time `json:"turn,omitempty" doc:"of its rule, where it is not planned"`
}

// Marks are the deeds of some days.
type Marks struct {
	Marks []Mark `json:"marks" doc:"in order"`
}

const (
	maxForecastDays   = 731
	maxForecastEvents = 20_000
	maxChanges        = 500
)

func (s part) forecastOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "get-forecast", Method: http.MethodGet, Path: "/api/v1/sites/{site}/forecast",
		Summary:     "What will happen",
		Description: "Computed by the same decisions as the engine takes, over virtual time. Nothing is done.",
	}, s.getForecast)
	sse.Register(api, huma.Operation{
		OperationID: "follow-forecast", Method: http.MethodGet, Path: "/api/v1/sites/{site}/forecast/follow",
		Summary:     "What will happen, told how far it has got",
		Description: "Progress now and then, then the forecast, or why there is none. Closing the stream ends the work.",
	}, map[string]any{"progress": ForecastProgress{}, "forecast": Forecast{}, "trouble": ForecastTrouble{}},
		s.followForecast)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "compare-forecast", Method: http.MethodPost, Path: "/api/v1/sites/{site}/forecast/compare",
		Summary: "What a change to a rule or the rhythm would change", Description: "Nothing is saved.",
	}), s.compareForecast)
	huma.Register(api, huma.Operation{
		OperationID: "get-marks", Method: http.MethodGet, Path: "/api/v1/sites/{site}/marks",
		Summary:     "Outings, republications and expiries of some days",
		Description: "What was done, and what is to come.",
	}, s.getMarks)
}

type forecastInput struct {
	operation.SitePath
	Days int `query:"days" minimum:"1" maximum:"731" default:"90"`
}

func (s part) getForecast(ctx context.Context, in *forecastInput) (*struct{ Body Forecast }, error) {
	desk := operation.DeskOf(ctx)
	now := s.Clock.Now()
	to := desk.Site.Zone().AddDays(now, in.Days)
	told, err := s.Book(desk.Site).Forecast(ctx, s.Store.Queries, nil, now, to, nil)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Forecast }{ViewForecast(desk.Site, told, now, to, maxForecastEvents)}, nil
}

// ForecastProgress tells how far a forecast has got.
type ForecastProgress struct {
	Reached operation.Place `json:"reached"`
	Share   float64         `json:"share" doc:"of the span, 0 to 1"`
}

// ForecastTrouble tells why there is no forecast.
type ForecastTrouble struct {
	Detail string `json:"detail"`
}

// betweenProgress is how often a stream tells how far it has got.
const betweenProgress = 200 * time.Millisecond

func (s part) followForecast(ctx context.Context, in *forecastInput, send sse.Sender) {
	fail := func(err error) {
		if ctx.Err() == nil {
			_ = send.Data(ForecastTrouble{s.Problem(err).Error()}) // whoever does not listen need not know
		}
	}
	desk := operation.DeskOf(ctx)
	now, zone := s.Clock.Now(), desk.Site.Zone()
	to := zone.AddDays(now, in.Days)
	var told time.Time
	result, err := s.Book(desk.Site).Forecast(ctx, s.Store.Queries, nil, now, to, func(reached time.Time) {
		if !told.IsZero() && s.Clock.Since(told) < betweenProgress {
			return
		}
		told = s.Clock.Now()
		_ = send.Data(ForecastProgress{operation.PlaceAt(zone, reached),
			reached.Sub(now).Seconds() / to.Sub(now).Seconds()})
	})
	if err != nil {
		fail(err)
		return
	}
	_ = send.Data(ViewForecast(desk.Site, result, now, to, maxForecastEvents))
}

// ViewForecast is a forecast as the API and the command line write it; at most so many
// events are listed.
func ViewForecast(site store.Site, told siterules.Foretold, now, to time.Time, limit int) Forecast {
	zone := site.Zone()
	view := Forecast{From: operation.PlaceAt(zone, now), To: operation.PlaceAt(zone, to), Zone: site.ZoneName,
		Events:   []ForecastEvent{},
		Counts:   make(map[string]int),
		Warnings: viewWarnings(zone, told.Warnings)}
	for _, e := range told.Events {
		view.Counts[string(e.Kind)]++
		if len(view.Events) == limit {
			view.Cut = true
			continue
		}
		view.Events = append(view.Events, viewEvent(zone, told, e))
	}
	if !told.Dry.IsZero() && !told.Dry.After(to) {
		dry := operation.PlaceAt(zone, told.Dry)
		view.Dry = &dry
	}
	return view
}

func viewEvent(zone civil.Zone, told siterules.Foretold, e forecast.Event) ForecastEvent {
	return ForecastEvent{Place: operation.PlaceAt(zone, e.At), Kind: string(e.Kind), PostID: e.Post,
		Title:  told.Titles[e.Post],
		RuleID: max(e.Rule, 0), Rule: told.Rules[e.Rule],
		Channel: told.Channels[e.Channel], Reason: e.Reason, Text: e.Text}
}

func viewWarnings(zone civil.Zone, warnings []forecast.Warning) []ForecastWarning {
	views := []ForecastWarning{}
	for _, w := range warnings {
		views = append(views, ForecastWarning{Kind: string(w.Kind), From: operation.PlaceAt(zone, w.At),
			Rules: append([]int64{}, w.Rules...),
			Posts: append([]int64{}, w.Posts...), Text: w.Text})
	}
	return views
}

type compareInput struct {
	operation.SitePath
	Body struct {
		Days   int             `json:"days" required:"false" minimum:"1" maximum:"366" default:"60"`
		RuleID int64           `json:"ruleId" required:"false" doc:"of a kept rule; 0 of a new one"`
		Rule   *rules.RuleBody `json:"rule,omitempty" doc:"the rule as it would be"`
		Drop   bool            `json:"drop" required:"false" doc:"compare with the rule out of action"`
		Rhythm *rhythms.Rhythm `json:"rhythm,omitempty" doc:"the rhythm as it would be"`
	}
}

func (s part) compareForecast(ctx context.Context, in *compareInput) (*struct{ Body Comparison }, error) {
	desk := operation.DeskOf(ctx)
	change, err := s.changeOf(ctx, desk.Site, in)
	if err != nil {
		return nil, err
	}
	now := s.Clock.Now()
	to := desk.Site.Zone().AddDays(now, in.Body.Days)
	book := s.Book(desk.Site)
	before, err := book.Forecast(ctx, s.Store.Queries, nil, now, to, nil)
	if err != nil {
		return nil, s.Problem(err)
	}
	after, err := book.Forecast(ctx, s.Store.Queries, change, now, to, nil)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Comparison }{viewComparison(desk.Site.Zone(), before, after, in.Body.Days)}, nil
}

func (s part) changeOf(ctx context.Context, site store.Site, in *compareInput) (*siterules.Change, error) {
	change := &siterules.Change{}
	if in.Body.Drop {
		change.Drop = in.Body.RuleID
	}
	if in.Body.Rule != nil {
		r, problems, err := rules.Proposed(ctx, s.Store, site, in.Body.RuleID, *in.Body.Rule)
		if err != nil {
			return nil, s.Problem(err)
		}
		if len(problems) > 0 {
			return nil, operation.Invalid(problems...)
		}
		change.Rule = &r
	}
	if in.Body.Rhythm != nil {
		present, err := s.Store.RhythmOf(ctx, site.ID)
		if err != nil {
			return nil, s.Problem(err)
		}
		r, problems := in.Body.Rhythm.Kept()
		r.ID, r.SiteID, r.Seasons = present.ID, site.ID, present.Seasons
		problems = append(problems, r.In(site.Zone()).Problems()...)
		if len(problems) > 0 {
			return nil, huma.Error422UnprocessableEntity(problems[0].Message)
		}
		change.Rhythm = &r
	}
	return change, nil
}

func viewComparison(zone civil.Zone, before, after siterules.Foretold, days int) Comparison {
	view := Comparison{Changes: []ForecastChange{}, Warnings: []ForecastWarning{}, Days: days}
	for _, c := range forecast.Compare(before.Events, after.Events) {
		switch c.How {
		case forecast.Comes:
			view.Comes++
		case forecast.Goes:
			view.Goes++
		case forecast.Moves:
			view.Moves++
		}
		if len(view.Changes) == maxChanges {
			view.Cut = true
			continue
		}
		names := after
		if c.How == forecast.Goes {
			names = before
		}
		one := ForecastChange{ForecastEvent: viewEvent(zone, names, c.Event), How: string(c.How)}
		if c.How == forecast.Moves {
			was := operation.PlaceAt(zone, c.Was)
			one.Was = &was
		}
		view.Changes = append(view.Changes, one)
	}
	had := make(map[string]bool)
	for _, w := range before.Warnings {
		had[w.Text] = true
	}
	for _, w := range viewWarnings(zone, after.Warnings) {
		if !had[w.Text] {
			view.Warnings = append(view.Warnings, w)
		}
	}
	return view
}

type marksInput struct {
	operation.SitePath
	From string `query:"from" doc:"first day, as 2026-11-24; today where absent"`
	Days int    `query:"days" minimum:"1" maximum:"62" default:"14"`
}

func (s part) getMarks(ctx context.Context, in *marksInput) (*struct{ Body Marks }, error) {
	desk := operation.DeskOf(ctx)
	now, zone := s.Clock.Now(), desk.Site.Zone()
	from, err := operation.FirstDay(in.From, zone.DateOf(now))
	if err != nil {
		return nil, err
	}
	start, end := zone.At(from, 0), zone.At(from.Add(in.Days), 0)
	marks, err := s.pastMarks(ctx, desk.Site, start, end)
	if err != nil {
		return nil, s.Problem(err)
	}
	if horizon := now.Add(marksAhead); end.After(horizon) {
		end = horizon
	}
	if end.After(now) && end.After(start) {
		// Until the first of what is to come, it stays as it was foretold.
		question := fmt.Sprint("marks ", start.Unix(), " ", end.Unix())
		if end.Equal(now.Add(marksAhead)) {
			question = fmt.Sprint("marks ", start.Unix(), " all, ", deed.Minute(now).Unix())
		}
		coming, err := operation.Remember(ctx, s.Tools, desk.Site, question, now, func() ([]Mark, time.Time, error) {
			return s.comingMarks(ctx, desk.Site, now, start, end)
		})
		if err != nil {
			return nil, s.Problem(err)
		}
		marks = append(marks, coming...)
	}
	marks = together(marks)
	if err := s.ownMarks(ctx, desk.Site.ID, marks); err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Marks }{Marks{marks}}, nil
}

// untitled is how many characters of a message stand for one that is of no post.
const untitled = 60

// beginning is the first line of a text, cut short.
func beginning(text string) string {
	text, _, _ = strings.Cut(text, "\n")
	if letters := []rune(text); len(letters) > untitled {
		return strings.TrimSpace(string(letters[:untitled])) + "…"
	}
	return text
}

// ownMarks notes of marks whose posts they are of, and in which categories those are.
func (s part) ownMarks(ctx context.Context, site int64, marks []Mark) error {
	ids := make([]int64, len(marks))
	for i, m := range marks {
		ids[i] = m.PostID
	}
	owners, err := s.Store.Owners(ctx, site, ids)
	for i, m := range marks {
		if m.Title == "" { // of no post: it is known by what it says
			marks[i].Title = beginning(m.Text)
		}
		marks[i].AuthorID, marks[i].CategoryID = owners[m.PostID].Author, int64(owners[m.PostID].Category)
	}
	return err
}

// together makes one mark of messages that a rule, or nobody, sends of one post at one minute on several
// channels.
func together(marks []Mark) []Mark {
	kept := marks[:0]
	for _, m := range marks {
		if n := len(kept) - 1; n >= 0 && m.Channel != "" && kept[n].Kind == m.Kind && kept[n].At.Equal(m.At) &&
			kept[n].PostID == m.PostID && kept[n].RuleID == m.RuleID && kept[n].Channel != "" {
			one := &kept[n]
			if one.Text != m.Text {
				one.Text += "\n\n" + m.Channel + ": " + m.Text
			}
			one.Channel += ", " + m.Channel
			one.Messages = slices.Concat(one.Messages, m.Messages)
			if m.State != "done" && m.State != "coming" {
				one.State = m.State
			}
			continue
		}
		kept = append(kept, m)
	}
	return kept
}

// marksAhead is how far ahead marks are foretold.
const marksAhead = 2 * 366 * 24 * time.Hour

// isMarked tells whether a deed shows as a mark: publications are entries of their own.
func isMarked(k deed.Kind) bool {
	effect := k.Effect()
	return effect != deed.ComesOut && effect != deed.Replanned && !k.IsWord()
}

func (s part) pastMarks(ctx context.Context, site store.Site, from, to time.Time) ([]Mark, error) {
	lines, err := s.Store.LogOfUpkeep(ctx, site.ID, from, to)
	if err != nil {
		return nil, err
	}
	outings, err := s.Store.OutingsBetween(ctx, site.ID, from, to)
	if err != nil {
		return nil, err
	}
	sent := make(map[int64]store.Outing, len(outings))
	for _, o := range outings {
		sent[o.ID] = o
	}
	marks := []Mark{}
	for _, l := range lines {
		m := Mark{ForecastEvent: ForecastEvent{Place: operation.PlaceAt(site.Zone(), l.At), Kind: l.Deed,
			Title: operation.OrEmpty(l.Title), Reason: l.Reason, Rule: l.RuleName}, State: "done"}
		if l.Post != nil {
			m.PostID = *l.Post
		}
		if l.Rule != nil {
			m.RuleID = *l.Rule
		}
		if l.Outing != nil && l.Deed == string(deed.KindShare) {
			if o, ok := sent[*l.Outing]; ok && o.Parent != nil {
				continue // a reply goes with its message
			} else if ok {
				m.Channel, m.Text, m.URL = o.Network, o.Text, o.RemoteURL
				if o.State != store.Sent {
					m.State = o.State
				}
			}
		} else if l.Undoable {
			m.LogID = l.ID
		}
		marks = append(marks, m)
	}
	return marks, nil
}

// editOf is the timed edit that a deed is about; 0: none.
func editOf(d deed.Deed) int64 {
	switch d := d.(type) {
	case deed.TimedEdit:
		return d.Edit
	case deed.HoldEdit:
		return d.Edit
	}
	return 0
}

// rememberedFor is for how long what is foretold is remembered at most.
const rememberedFor = 10 * time.Minute

// comingMarks foretells the marks of a span, and says until when they stay like this if nothing changes.
func (s part) comingMarks(ctx context.Context, site store.Site, now, from, to time.Time) ([]Mark, time.Time, error) {
	told, err := s.Book(site).Coming(ctx, s.Store.Queries, now, to)
	if err != nil {
		return nil, now, err
	}
	till := now.Add(rememberedFor)
	if len(told.Events) > 0 && told.Events[0].At.Before(till) {
		till = told.Events[0].At
	}
	planned, err := s.Store.Planned(ctx, site.ID)
	if err != nil {
		return nil, now, err
	}
	versions := make(map[int64]int, len(planned))
	for _, o := range planned {
		versions[o.ID] = o.Version
	}
	edits, err := s.Store.Edits(ctx, site.ID, store.EditWaiting)
	if err != nil {
		return nil, now, err
	}
	waiting := make(map[int64]store.EditMark, len(edits))
	for _, e := range edits {
		waiting[e.ID] = e
	}
	var marks []Mark
	for _, e := range told.Events {
		share, is := e.Deed.(deed.Share)
		if is && share.Parent != 0 {
			continue // a reply goes with its message
		}
		if !isMarked(e.Kind) || e.At.Before(from) || !e.At.Before(to) {
			continue
		}
		m := Mark{ForecastEvent: viewEvent(site.Zone(), told, e), State: "coming"}
		if version, there := versions[share.Outing]; is && there {
			m.Messages = []MarkedMessage{{OutingID: share.Outing, Version: version}}
		} else if is && e.Rule > 0 {
			turn := siterules.TurnOf(e, share)
			m.Messages = []MarkedMessage{{Turn: &turn}}
		}
		if edit := waiting[editOf(e.Deed)]; e.Due.Equal(edit.DueAt) { // only its next time can be moved
			m.EditID, m.EditVersion = edit.ID, edit.Version
		}
		marks = append(marks, m)
	}
	return marks, till, nil
}
