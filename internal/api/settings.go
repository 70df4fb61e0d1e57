package api

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/intake"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// Settings are what is chosen for a whole site.
type Settings struct {
	Zone           string      `json:"zone" doc:"IANA time zone" example:"America/Halifax"`
	CatchUp        string      `json:"catchUp" enum:"at once,at once if fresh,spread out,next slots,hold" doc:"what happens to a post whose time passed while nothing could publish it"`
	CatchUpMinutes int         `json:"catchUpMinutes" doc:"with 'at once if fresh': how many minutes overdue is fresh still"`
	Paused         bool        `json:"paused" doc:"nothing comes out"`
	ShelfOrder     string      `json:"shelfOrder" enum:"hand,oldest,newest,shuffled,categories"`
	Caps           intake.Caps `json:"caps"`
	FirstDateShown bool        `json:"firstDateShown" doc:"readers of a post that came out again see when it was first published"`
	Version        int         `json:"version"`
}

func (s *Server) settingsOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/settings"
	huma.Register(api, huma.Operation{
		OperationID: "get-settings", Method: http.MethodGet, Path: path, Summary: "The site's settings",
	}, s.getSettings)
	huma.Register(api, huma.Operation{
		OperationID: "save-settings", Method: http.MethodPut, Path: path, Summary: "Save the site's settings",
		Description: "Scheduled posts keep their instants, in another zone too.", Errors: []int{http.StatusConflict},
	}, s.saveSettings)
	huma.Register(api, huma.Operation{
		OperationID: "bound-post", Method: http.MethodPost, Path: "/api/v1/sites/{site}/posts/{id}/bounds",
		Summary: "Say when a draft may come out", Errors: []int{http.StatusConflict},
	}, s.boundPost)
}

type settingsOutput struct {
	Body Settings
}

func (s *Server) getSettings(ctx context.Context, in *SitePath) (*settingsOutput, error) {
	desk, _, err := s.desk(ctx, *in)
	if err != nil {
		return nil, err
	}
	site := desk.Site
	caps := site.Caps()
	return &settingsOutput{Settings{
		Zone: site.ZoneName, CatchUp: site.CatchUp, CatchUpMinutes: site.CatchUpMinutes, Paused: site.PausedAt != nil, ShelfOrder: site.ShelfOrder,
		Caps:           intake.Caps{Day: caps.Day, AuthorDay: caps.AuthorDay, AuthorWeek: caps.AuthorWeek, CategoryDays: caps.CategoryDays},
		FirstDateShown: site.FirstDateShown, Version: site.Version,
	}}, nil
}

type settingsInput struct {
	SitePath
	Body Settings
}

func (s *Server) saveSettings(ctx context.Context, in *settingsInput) (*settingsOutput, error) {
	desk, err := s.planner(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	now := s.Clock.Now()
	settings := store.Settings{
		CatchUp: in.Body.CatchUp, CatchUpMinutes: in.Body.CatchUpMinutes, ShelfOrder: in.Body.ShelfOrder, ShelfSeed: desk.Site.ShelfSeed,
		FirstDateShown: in.Body.FirstDateShown,
		CapDay:         in.Body.Caps.Day, CapAuthorDay: in.Body.Caps.AuthorDay, CapAuthorWeek: in.Body.Caps.AuthorWeek, CapCategoryDays: in.Body.Caps.CategoryDays,
	}
	if in.Body.Paused {
		if settings.PausedAt = desk.Site.PausedAt; settings.PausedAt == nil {
			settings.PausedAt = &now
		}
	}
	if problems := planning.SettingsProblems(in.Body.Zone, settings); len(problems) > 0 {
		return nil, invalid(problems...)
	}
	if err := desk.SaveSettings(ctx, in.Body.Zone, settings, in.Body.Version, now); err != nil {
		if errors.Is(err, planning.ErrStale) {
			return nil, huma.Error409Conflict("Somebody saved the settings meanwhile. Nothing was overwritten; load them again to see theirs.")
		}
		return nil, s.problem(err)
	}
	return s.getSettings(ctx, &in.SitePath)
}

type boundsInput struct {
	PostPath
	Body struct {
		Version   int         `json:"version" doc:"the version that was seen"`
		NotBefore *civil.Date `json:"notBefore,omitempty" doc:"first date of the site on which it may come out"`
		Deadline  *civil.Date `json:"deadline,omitempty" doc:"last date of the site on which it may come out"`
	}
}

func (s *Server) boundPost(ctx context.Context, in *boundsInput) (*postOutput, error) {
	desk, err := s.planner(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	zone := desk.Site.Zone()
	var notBefore, deadline time.Time
	if in.Body.NotBefore != nil {
		notBefore = zone.At(*in.Body.NotBefore, 0)
	}
	if in.Body.Deadline != nil {
		deadline = zone.At(in.Body.Deadline.Add(1), 0).Add(-time.Minute) // the date's last minute
	}
	if err := desk.SetBounds(ctx, in.ID, in.Body.Version, notBefore, deadline, s.Clock.Now()); err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	return s.present(ctx, desk, in.ID)
}
