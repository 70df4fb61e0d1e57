package rhythms

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/formats"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/store"
)

// Settings are what is chosen for a whole site.
type Settings struct {
	Zone           string       `json:"zone" doc:"IANA time zone" example:"America/Halifax"`
	CatchUp        string       `json:"catchUp" enum:"at once,at once if fresh,spread out,next slots,hold" doc:"what happens to a post whose time passed while nothing could publish it"`
	CatchUpMinutes int          `json:"catchUpMinutes" doc:"with 'at once if fresh': how many minutes overdue is fresh still"`
	Paused         bool         `json:"paused" doc:"nothing comes out"`
	ShelfOrder     string       `json:"shelfOrder" enum:"hand,oldest,newest,shuffled,categories"`
	Caps           formats.Caps `json:"caps"`
	Ready          []string     `json:"ready" enum:"text,category,image,excerpt,links,twins" doc:"what is looked for in posts before they come out"`
	AudienceZones  []string     `json:"audienceZones" required:"false" doc:"zones of readers, whose clocks are laid under the tape; up to three"`
	Planned        string       `json:"planned,omitempty" enum:"instant,clock" doc:"only when saving another zone: what planned posts keep, their moment or their time of day"`
	BinDays        int          `json:"binDays" required:"false" doc:"after so many days in the bin posts are deleted for good; 0: never"`
	BinConfirm     int          `json:"binConfirm,omitempty" doc:"only when saving: how many posts are deleted at once by a shorter limit, written by hand"`
	LogDays        int          `json:"logDays" required:"false" doc:"for so many days the logbook is kept; 0: for ever"`
	FirstDateShown bool         `json:"firstDateShown" doc:"readers of a post that came out again see when it was first published"`
	Version        int          `json:"version"`
}

func (s part) settingsOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/settings"
	huma.Register(api, huma.Operation{
		OperationID: "get-settings", Method: http.MethodGet, Path: path, Summary: "The site's settings",
	}, s.getSettings)
	huma.Register(api, huma.Operation{
		OperationID: "save-settings", Method: http.MethodPut, Path: path, Summary: "Save the site's settings",
		Description: "In another zone, scheduled posts keep their moment or their time of day, as planned says; their moment where it is absent.", Errors: []int{http.StatusConflict},
	}, s.saveSettings)
	huma.Register(api, huma.Operation{
		OperationID: "get-zone-change", Method: http.MethodGet, Path: path + "/zone-change",
		Summary:     "What another zone would mean for planned posts",
		Description: "For each post both: when it comes out if it keeps its moment, and if it keeps its time of day. Nothing is changed.",
	}, s.getZoneChange)
}

type settingsOutput struct {
	Body Settings
}

func (s part) getSettings(ctx context.Context, _ *operation.SitePath) (*settingsOutput, error) {
	return settingsOf(operation.DeskOf(ctx).Site), nil
}

func settingsOf(site store.Site) *settingsOutput {
	caps := site.Caps()
	return &settingsOutput{Settings{
		Zone: site.ZoneName, CatchUp: site.CatchUp, CatchUpMinutes: site.CatchUpMinutes, Paused: site.PausedAt != nil,
		ShelfOrder: site.ShelfOrder,
		Caps: formats.Caps{Day: caps.Day, AuthorDay: caps.AuthorDay, AuthorWeek: caps.AuthorWeek,
			CategoryDays: caps.CategoryDays},
		AudienceZones: append([]string{}, site.AudienceZones...),
		BinDays:       site.BinDays, LogDays: site.LogDays,
		FirstDateShown: site.FirstDateShown, Ready: site.ReadyChecks, Version: site.Version,
	}}
}

type settingsInput struct {
	operation.SitePath
	Body Settings
}

func (s part) saveSettings(ctx context.Context, in *settingsInput) (*settingsOutput, error) {
	desk := operation.DeskOf(ctx)
	now := s.Clock.Now()
	settings := store.Settings{
		CatchUp: in.Body.CatchUp, CatchUpMinutes: in.Body.CatchUpMinutes, ShelfOrder: in.Body.ShelfOrder,
		ShelfSeed:     desk.Site.ShelfSeed,
		AudienceZones: in.Body.AudienceZones, FirstDateShown: in.Body.FirstDateShown, ReadyChecks: in.Body.Ready,
		CapDay: in.Body.Caps.Day, CapAuthorDay: in.Body.Caps.AuthorDay, CapAuthorWeek: in.Body.Caps.AuthorWeek,
		CapCategoryDays: in.Body.Caps.CategoryDays, BinDays: in.Body.BinDays, LogDays: in.Body.LogDays,
	}
	if in.Body.Paused {
		if settings.PausedAt = desk.Site.PausedAt; settings.PausedAt == nil {
			settings.PausedAt = &now
		}
	}
	if problems := sitesettings.SettingsProblems(in.Body.Zone, settings); len(problems) > 0 {
		return nil, operation.Invalid(problems...)
	}
	if err := sitesettings.BinConfirmed(ctx, s.Store.Queries, desk.Site, in.Body.BinDays, in.Body.BinConfirm, now); err != nil {
		return nil, s.Problem(err)
	}
	if err := sitesettings.SaveSettings(ctx, desk, in.Body.Zone, sitesettings.Keep(in.Body.Planned), settings,
		in.Body.Version,
		now); err != nil {
		if errors.Is(err, act.ErrStale) {
			return nil,
				operation.SettingsStale()
		}
		return nil, s.Problem(err)
	}
	saved, err := s.Store.Site(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return settingsOf(saved), nil
}

// ZoneMove is a planned post under another zone of the site. Places are by the new
// zone's clocks.
type ZoneMove struct {
	ID      int64           `json:"id"`
	Title   string          `json:"title"`
	Now     operation.Place `json:"now" doc:"as it is planned, by the present zone's clocks"`
	Instant operation.Place `json:"instant" doc:"if it keeps its moment"`
	Clock   operation.Place `json:"clock" doc:"if it keeps its time of day"`
	Past    bool            `json:"past" doc:"that time of day is past in the new zone, so it keeps its moment anyway"`
}

type zoneChangeInput struct {
	operation.SitePath
	Zone string `query:"zone" required:"true" minLength:"1" maxLength:"100" example:"Europe/Lisbon"`
}

func (s part) getZoneChange(ctx context.Context, in *zoneChangeInput) (*struct{ Body []ZoneMove }, error) {
	site := operation.DeskOf(ctx).Site
	moves, err := sitesettings.ZoneChange(ctx, s.Store.Queries, site, in.Zone, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	zone, err := civil.LoadZone(in.Zone)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := []ZoneMove{}
	for _, m := range moves {
		body = append(body, ZoneMove{m.Post.ID, m.Post.Title, operation.PlaceAt(site.Zone(), *m.Post.DueAt),
			operation.PlaceAt(zone, *m.Post.DueAt), operation.PlaceAt(zone, m.Clock), m.Past})
	}
	return &struct{ Body []ZoneMove }{body}, nil
}
