// Package tours has the operations of tours.
package tours

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/tour"
	"dapper.example/internal/formats"
	"dapper.example/internal/intake/page"
	"dapper.example/internal/store"
	"dapper.example/internal/tours"
)

type part struct{ *operation.Tools }

const (
	toursPath     = "/api/v1/sites/{site}/tours"
	tourPath      = toursPath + "/{id}"
	templatesPath = "/api/v1/sites/{site}/tour-templates"
)

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{OperationID: "list-tours", Method: http.MethodGet, Path: toursPath, Summary: "A blog's tours"}, s.list)
	huma.Register(api, huma.Operation{OperationID: "begin-tours", Method: http.MethodPost, Path: toursPath, DefaultStatus: http.StatusCreated,
		Summary:     "Begin a tour of each of some posts, or of a page elsewhere",
		Description: "They get lines, dates and channels to begin with. Several begin one after the other, so that their stops take turns. Nothing is planned before they are launched."}, s.begin)
	huma.Register(api, huma.Operation{OperationID: "launch-tours", Method: http.MethodPost, Path: toursPath + "/launch", Summary: "Launch several tours",
		Description: "In one act, or where one of their messages cannot be sent, none.", Errors: stale}, s.launchSeveral)
	huma.Register(api, huma.Operation{OperationID: "list-tour-templates", Method: http.MethodGet, Path: templatesPath, Summary: "What tours have in common, kept by name"}, s.templates)
	huma.Register(api, huma.Operation{OperationID: "keep-tour-template", Method: http.MethodPost, Path: templatesPath,
		Summary: "Keep what a tour has beside its post and its lines", Description: "In the place of a template of the same name."}, s.keepTemplate)
	huma.Register(api, huma.Operation{OperationID: "delete-tour-template", Method: http.MethodDelete, Path: templatesPath + "/{id}", DefaultStatus: http.StatusNoContent,
		Summary: "Delete a template of tours"}, s.dropTemplate)
	huma.Register(api, huma.Operation{OperationID: "get-tour", Method: http.MethodGet, Path: tourPath, Summary: "A tour with its stops"}, s.get)
	huma.Register(api, operation.Question(huma.Operation{OperationID: "preview-tour", Method: http.MethodPost, Path: tourPath + "/preview",
		Summary: "The stops of a tour as they would be", Description: "Nothing is saved."}), s.preview)
	huma.Register(api, huma.Operation{OperationID: "save-tour", Method: http.MethodPut, Path: tourPath, Summary: "Change a tour that does not run", Errors: stale}, s.save)
	huma.Register(api, huma.Operation{OperationID: "launch-tour", Method: http.MethodPost, Path: tourPath + "/launch", Summary: "Launch a tour",
		Description: "All its messages are planned at once, or where one of them cannot be sent, none: the answer then names the stop, the channel and what is wrong.", Errors: stale}, s.launch)
	huma.Register(api, huma.Operation{OperationID: "pause-tour", Method: http.MethodPost, Path: tourPath + "/pause", Summary: "Pause a tour",
		Description: "What went out stays; what was to come is taken out of the plan.", Errors: stale}, s.pause)
	huma.Register(api, operation.Question(huma.Operation{OperationID: "preview-resuming", Method: http.MethodPost, Path: tourPath + "/resume/preview",
		Summary: "The stops of a paused tour as they would be on resuming it", Description: "Nothing is saved."}), s.previewResuming)
	huma.Register(api, huma.Operation{OperationID: "resume-tour", Method: http.MethodPost, Path: tourPath + "/resume", Summary: "Resume a paused tour", Errors: stale}, s.resume)
	huma.Register(api, huma.Operation{OperationID: "end-tour", Method: http.MethodPost, Path: tourPath + "/end", Summary: "End a tour before its last stop", Errors: stale}, s.end)
	huma.Register(api, huma.Operation{OperationID: "delete-tour", Method: http.MethodDelete, Path: tourPath, DefaultStatus: http.StatusNoContent,
		Summary: "Delete a tour that does not run", Description: "What it sent stays.", Errors: stale}, s.drop)
}

// TourShape says when the stops of a tour are.
type TourShape struct {
	Start    civil.Date  `json:"start" doc:"the date of the first stop"`
	Days     int         `json:"days" doc:"from the first date to the last, both counted"`
	Stops    int         `json:"stops"`
	Thinning float64     `json:"thinning" doc:"how much longer each pause is than the one before; 1 is even"`
	Weekdays []string    `json:"weekdays" enum:"monday,tuesday,wednesday,thursday,friday,saturday,sunday"`
	From     civil.Clock `json:"from" example:"09:00"`
	To       civil.Clock `json:"to" example:"19:00"`
	Zone     string      `json:"zone,omitempty" required:"false" maxLength:"100" doc:"whose clocks the weekdays and hours are meant by, where those are not the site's" example:"Europe/Lisbon"`
}

// zone is the zone of the shape; nil: the site's.
func (s TourShape) zone() (*civil.Zone, error) {
	if s.Zone == "" {
		return nil, nil
	}
	zone, err := civil.LoadZone(s.Zone)
	if err != nil {
		return nil, act.Invalidf("shape.zone", "There is no time zone %q. Choose one from the list, such as Europe/Lisbon.", s.Zone)
	}
	return &zone, nil
}

func zoneName(z *civil.Zone) string {
	if z == nil {
		return ""
	}
	return z.String()
}

// MovedStop is a stop with a time of its own.
type MovedStop struct {
	Stop int       `json:"stop" minimum:"1"`
	At   time.Time `json:"at"`
}

// OwnMessage is a message that was changed by hand.
type OwnMessage struct {
	Stop      int    `json:"stop" minimum:"1"`
	ChannelID int64  `json:"channelId" minimum:"1"`
	Text      string `json:"text" maxLength:"10000" doc:"with placeholders"`
}

// TourSettings are what an editor says of a tour.
type TourSettings struct {
	Name     string       `json:"name" maxLength:"200"`
	Lines    []string     `json:"lines" maxItems:"400" doc:"that stops are built on, in turn"`
	Wordings []string     `json:"wordings" maxItems:"20" doc:"with {line}"`
	Channels []int64      `json:"channels" maxItems:"50"`
	Pictures []int64      `json:"pictures" required:"false" maxItems:"50" doc:"of the library, dealt in turn"`
	Picture  string       `json:"picture" required:"false" doc:"where none of the library is dealt: featured, text or none"`
	Hashtags []string     `json:"hashtags" required:"false" maxItems:"20" doc:"as they are sent, without the #"`
	Short    bool         `json:"short" required:"false" doc:"links are short ones, whose clicks are counted"`
	Mentions []string     `json:"mentions" required:"false" maxItems:"20" doc:"with the @: one at the end of each message, dealt in turn"`
	Hold     bool         `json:"hold" required:"false" doc:"stops whose post is not out at their time wait for an editor; else they are left out"`
	Shape    TourShape    `json:"shape"`
	Moved    []MovedStop  `json:"moved" required:"false" maxItems:"400"`
	Own      []OwnMessage `json:"own" required:"false" maxItems:"2000"`
}

func (s TourSettings) kept(before tour.Settings) (tour.Settings, error) {
	zone, err := s.Shape.zone()
	kept := tour.Settings{Lines: s.Lines, Wordings: s.Wordings, Channels: s.Channels, Pictures: s.Pictures, Picture: message.Picture{From: message.PictureFrom(s.Picture)},
		Short: s.Short, Mentions: s.Mentions, Hold: s.Hold, Left: before.Left, Hashtags: message.Hashtags{Sources: []message.Source{message.FromList}, List: s.Hashtags, Style: message.Joined},
		Shape: tour.Shape{Start: s.Shape.Start, Days: s.Shape.Days, Stops: s.Shape.Stops, Thinning: s.Shape.Thinning, Weekdays: formats.ReadWeekdays(s.Shape.Weekdays),
			From: s.Shape.From, To: s.Shape.To, Zone: zone},
		Moved: make(map[int]time.Time), Own: make(map[string]string)}
	for _, m := range s.Moved {
		kept.Moved[m.Stop] = m.At.Truncate(time.Minute).UTC()
	}
	for _, o := range s.Own {
		kept.Own[tour.Place(o.Stop, o.ChannelID)] = o.Text
	}
	return kept, err
}

func viewSettings(name string, s tour.Settings) TourSettings {
	view := TourSettings{Name: name, Lines: orNone(s.Lines), Wordings: orNone(s.Wordings), Channels: orNone(s.Channels), Pictures: orNone(s.Pictures), Picture: string(s.Picture.From),
		Hashtags: orNone(s.Hashtags.List), Short: s.Short, Mentions: orNone(s.Mentions), Hold: s.Hold, Moved: []MovedStop{}, Own: []OwnMessage{},
		Shape: TourShape{Start: s.Shape.Start, Days: s.Shape.Days, Stops: s.Shape.Stops, Thinning: s.Shape.Thinning, Weekdays: formats.ViewWeekdays(s.Shape.Weekdays), From: s.Shape.From, To: s.Shape.To, Zone: zoneName(s.Shape.Zone)}}
	for n := 1; n <= tour.MostStops; n++ {
		if at, moved := s.Moved[n]; moved {
			view.Moved = append(view.Moved, MovedStop{n, at})
		}
		for _, c := range s.Channels {
			if text, own := s.Own[tour.Place(n, c)]; own {
				view.Own = append(view.Own, OwnMessage{n, c, text})
			}
		}
	}
	return view
}

func orNone[T any](all []T) []T {
	if all == nil {
		return []T{}
	}
	return all
}

// TourSummary is a tour in a list.
type TourSummary struct {
	ID      int64            `json:"id"`
	PostID  int64            `json:"postId" doc:"0: it is of a page elsewhere"`
	Address string           `json:"address" doc:"of that page"`
	Title   string           `json:"title" doc:"of its post or page"`
	Name    string           `json:"name"`
	State   string           `json:"state" enum:"draft,running,paused,stopped,over"`
	Stops   int              `json:"stops"`
	Waiting int              `json:"waiting" doc:"messages that wait for their time"`
	Gone    int              `json:"gone" doc:"messages that went out"`
	Failed  int              `json:"failed" doc:"messages that could not be sent, or were left out"`
	Next    *operation.Place `json:"next,omitempty" doc:"when the next message goes out"`
	Version int              `json:"version"`
}

func viewSummary(zone civil.Zone, t store.Tour) TourSummary {
	return TourSummary{ID: t.ID, PostID: int64(t.Post), Address: t.Page.Address, Title: t.Title, Name: t.Name, State: string(t.State()), Stops: t.Settings.Shape.Stops, Waiting: t.Waiting, Gone: t.Gone,
		Failed: t.Failed, Next: operation.MaybePlace(zone, t.Following), Version: t.Version}
}

// TourLine is a sentence of a post that a stop may be built on.
type TourLine struct {
	Text  string `json:"text"`
	Good  bool   `json:"good" doc:"it stands well alone"`
	Why   string `json:"why" doc:"what speaks against it"`
	Place int    `json:"place" doc:"its number in the post, from 0"`
}

// TourMessage is what a stop says on a channel.
type TourMessage struct {
	ChannelID int64           `json:"channelId"`
	At        operation.Place `json:"at"`
	Text      string          `json:"text"`
	Written   string          `json:"written" doc:"with placeholders"`
	Own       bool            `json:"own" doc:"it was changed by hand"`
	Graphemes int             `json:"graphemes"`
	Limit     int             `json:"limit" doc:"0: any length"`
	Over      int             `json:"over" doc:"by how much it is too long"`
	Fit       string          `json:"fit" doc:"what had to be left out"`
	Problem   string          `json:"problem"`
	Missed    bool            `json:"missed" doc:"its time passed while the tour was paused"`
	State     string          `json:"state" doc:"of its outing; empty: it is not planned" enum:",planned,waiting,sent,failed,skipped,set aside"`
	Error     string          `json:"error" doc:"why it could not be sent"`
	URL       string          `json:"url" doc:"where it stands"`
	Clicks    int             `json:"clicks"`
}

// TourStop is a stop of a tour.
type TourStop struct {
	N        int              `json:"n"`
	At       *operation.Place `json:"at,omitempty" doc:"missing: it found no room"`
	Moved    bool             `json:"moved"`
	Line     string           `json:"line"`
	Messages []TourMessage    `json:"messages"`
}

// TourProblem is what stands in the way of launching a tour.
type TourProblem struct {
	Field     string `json:"field"`
	Stop      int    `json:"stop" doc:"0: no single one's"`
	ChannelID int64  `json:"channelId"`
	Message   string `json:"message"`
}

// Tour is a tour with all that belongs to it.
type Tour struct {
	TourSummary
	Settings TourSettings  `json:"settings"`
	Lines    []TourLine    `json:"lines" doc:"of the post, the best first"`
	Series   []TourStop    `json:"series"`
	Problems []TourProblem `json:"problems"`
}

type tourOutput struct{ Body Tour }

func (s part) editor(ctx context.Context) tours.Editor {
	return tours.Editor{Desk: operation.DeskOf(ctx), Public: s.Public}
}

func (s part) list(ctx context.Context, _ *operation.SitePath) (*struct{ Body []TourSummary }, error) {
	desk := operation.DeskOf(ctx)
	all, err := s.Store.Tours(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	view := []TourSummary{}
	for _, t := range all {
		view = append(view, viewSummary(desk.Site.Zone(), t))
	}
	return &struct{ Body []TourSummary }{view}, nil
}

func (s part) view(ctx context.Context, t store.Tour) (*tourOutput, error) {
	look, err := s.editor(ctx).Look(ctx, s.Store.Queries, t, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	zone := operation.DeskOf(ctx).Site.Zone()
	view := Tour{TourSummary: viewSummary(zone, t), Settings: viewSettings(t.Name, t.Settings.Settings), Lines: []TourLine{}, Series: []TourStop{}, Problems: []TourProblem{}}
	for _, l := range look.Lines {
		view.Lines = append(view.Lines, TourLine{l.Text, l.Score >= tour.Good, l.Why, l.Place})
	}
	for _, one := range look.Stops {
		stop := TourStop{N: one.N, Moved: one.Moved, Line: one.Line, Messages: []TourMessage{}}
		if !one.At.IsZero() {
			stop.At = operation.MaybePlace(zone, &one.At)
		}
		for _, m := range one.Messages {
			msg := TourMessage{ChannelID: m.Channel, At: operation.PlaceAt(zone, m.At), Text: m.Text, Written: m.Written, Own: m.Own, Graphemes: m.Graphemes, Limit: m.Limit, Over: m.Over,
				Fit: m.Fit, Problem: m.Problem, Missed: m.Missed}
			if o := m.Outing; o != nil {
				msg.State, msg.Error, msg.URL, msg.Clicks = o.State, o.Error, o.RemoteURL, o.Clicks
			}
			stop.Messages = append(stop.Messages, msg)
		}
		view.Series = append(view.Series, stop)
	}
	for _, p := range look.Problems {
		view.Problems = append(view.Problems, TourProblem{p.Field, p.Stop, p.Channel, p.Message})
	}
	return &tourOutput{view}, nil
}

func (s part) read(ctx context.Context, id int64) (*tourOutput, error) {
	t, err := s.Store.Tour(ctx, operation.DeskOf(ctx).Site.ID, id)
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.view(ctx, t)
}

type tourBeginInput struct {
	operation.SitePath
	Body struct {
		PostIDs  []int64 `json:"postIds" required:"false" maxItems:"100" doc:"posts that are out"`
		Address  string  `json:"address" required:"false" maxLength:"2000" doc:"of a page elsewhere, instead"`
		Like     int64   `json:"like" required:"false" minimum:"0" doc:"a tour whose wordings, channels and shape they take"`
		Template int64   `json:"template" required:"false" minimum:"0" doc:"a template whose wordings, channels and shape they take"`
	}
}

// ToursBegun are tours that were begun.
type ToursBegun struct {
	IDs []int64 `json:"ids"`
}

func (s part) begin(ctx context.Context, in *tourBeginInput) (*struct{ Body ToursBegun }, error) {
	body := in.Body
	var of store.TourPage
	switch {
	case body.Address != "" && len(body.PostIDs) > 0:
		return nil, s.Problem(act.Invalidf("address", "Choose posts or give an address, not both."))
	case body.Address == "" && len(body.PostIDs) == 0:
		return nil, s.Problem(act.Invalidf("postIds", "Choose at least one post."))
	case body.Address != "":
		p, err := page.Fetch(ctx, s.Inside, body.Address)
		var failed *page.Failed
		if errors.As(err, &failed) {
			err = act.Invalidf("address", "%s", failed.Why)
		}
		if err != nil {
			return nil, s.Problem(err)
		}
		of = store.TourPage{Title: p.Title, Address: p.Address, Text: p.Text, Tags: p.Tags}
	}
	for i, id := range body.PostIDs {
		if slices.Contains(body.PostIDs[:i], id) {
			return nil, s.Problem(act.Invalidf(fmt.Sprintf("postIds[%d]", i), "Choose each post once."))
		}
	}
	ids, err := s.editor(ctx).Begin(ctx, body.PostIDs, of, tours.Like{Tour: body.Like, Template: body.Template}, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body ToursBegun }{ToursBegun{ids}}, nil
}

type toursLaunchInput struct {
	operation.SitePath
	Body struct {
		Tours []struct {
			ID      int64 `json:"id" minimum:"1"`
			Version int   `json:"version" minimum:"1"`
		} `json:"tours" minItems:"1" maxItems:"100"`
	}
}

// ToursLaunched tells of tours that were launched.
type ToursLaunched struct {
	Messages int `json:"messages" doc:"how many were planned"`
}

func (s part) launchSeveral(ctx context.Context, in *toursLaunchInput) (*struct{ Body ToursLaunched }, error) {
	var seen []tours.Seen
	for _, t := range in.Body.Tours {
		seen = append(seen, tours.Seen{ID: t.ID, Version: t.Version})
	}
	n, err := s.editor(ctx).Launch(ctx, seen, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body ToursLaunched }{ToursLaunched{n}}, nil
}

// TourTemplate is what tours have in common, kept by name.
type TourTemplate struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Stops int    `json:"stops"`
	Days  int    `json:"days"`
}

func (s part) templates(ctx context.Context, _ *operation.SitePath) (*struct{ Body []TourTemplate }, error) {
	all, err := s.Store.TourTemplates(ctx, operation.DeskOf(ctx).Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	view := []TourTemplate{}
	for _, t := range all {
		view = append(view, TourTemplate{t.ID, t.Name, t.Settings.Shape.Stops, t.Settings.Shape.Days})
	}
	return &struct{ Body []TourTemplate }{view}, nil
}

type tourTemplateInput struct {
	operation.SitePath
	Body struct {
		Name string `json:"name" maxLength:"1000"`
		Tour int64  `json:"tour" minimum:"1" doc:"whose wordings, channels, shape and the like are kept"`
	}
}

func (s part) keepTemplate(ctx context.Context, in *tourTemplateInput) (*struct{ Body []TourTemplate }, error) {
	if err := s.editor(ctx).KeepTemplate(ctx, in.Body.Tour, in.Body.Name, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.templates(ctx, &in.SitePath)
}

func (s part) dropTemplate(ctx context.Context, in *operation.ItemPath) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).DeleteTemplate(ctx, in.ID))
}

func (s part) get(ctx context.Context, in *operation.ItemPath) (*tourOutput, error) {
	return s.read(ctx, in.ID)
}

type tourSaveInput struct {
	operation.ItemPath
	Body struct {
		Version  int          `json:"version" minimum:"1"`
		Settings TourSettings `json:"settings"`
	}
}

func (s part) preview(ctx context.Context, in *tourSaveInput) (*tourOutput, error) {
	t, err := s.Store.Tour(ctx, operation.DeskOf(ctx).Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	t.Name = in.Body.Settings.Name
	if t.Settings.Settings, err = in.Body.Settings.kept(t.Settings.Settings); err != nil {
		return nil, s.Problem(err)
	}
	return s.view(ctx, t)
}

func (s part) save(ctx context.Context, in *tourSaveInput) (*tourOutput, error) {
	t, err := s.Store.Tour(ctx, operation.DeskOf(ctx).Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	kept, err := in.Body.Settings.kept(t.Settings.Settings)
	if err != nil {
		return nil, s.Problem(err)
	}
	if err := s.editor(ctx).Save(ctx, in.ID, in.Body.Version, in.Body.Settings.Name, kept, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.read(ctx, in.ID)
}

type tourVersionInput struct {
	operation.ItemPath
	Body struct {
		Version int `json:"version" minimum:"1"`
	}
}

func (s part) launch(ctx context.Context, in *tourVersionInput) (*tourOutput, error) {
	if _, err := s.editor(ctx).Launch(ctx, []tours.Seen{{ID: in.ID, Version: in.Body.Version}}, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.read(ctx, in.ID)
}

func (s part) pause(ctx context.Context, in *tourVersionInput) (*tourOutput, error) {
	if err := s.editor(ctx).Pause(ctx, in.ID, in.Body.Version, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.read(ctx, in.ID)
}

func (s part) end(ctx context.Context, in *tourVersionInput) (*tourOutput, error) {
	if err := s.editor(ctx).End(ctx, in.ID, in.Body.Version, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.read(ctx, in.ID)
}

type tourResumeInput struct {
	operation.ItemPath
	Body struct {
		Version int    `json:"version" minimum:"1"`
		How     string `json:"how" enum:"shift,skip" doc:"what becomes of stops whose time passed: all move on, or those are left out"`
	}
}

func (s part) previewResuming(ctx context.Context, in *tourResumeInput) (*tourOutput, error) {
	t, err := s.Store.Tour(ctx, operation.DeskOf(ctx).Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	if t.Settings.Settings, err = s.editor(ctx).Resumed(ctx, s.Store.Queries, t, tours.How(in.Body.How), s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.view(ctx, t)
}

func (s part) resume(ctx context.Context, in *tourResumeInput) (*tourOutput, error) {
	if _, err := s.editor(ctx).Resume(ctx, in.ID, in.Body.Version, tours.How(in.Body.How), s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.read(ctx, in.ID)
}

type tourDropInput struct {
	operation.ItemPath
	Version int `query:"version" minimum:"1" required:"true"`
}

func (s part) drop(ctx context.Context, in *tourDropInput) (*struct{}, error) {
	return nil, s.Problem(s.editor(ctx).Delete(ctx, in.ID, in.Version))
}
