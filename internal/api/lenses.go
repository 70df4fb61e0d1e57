package api

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// mostLenses is how many lenses a person keeps of one site.
const mostLenses = 50

// LensShown is what a lens shows of the plan.
type LensShown struct {
	View     string `json:"view,omitempty" enum:"tape,month,list"`
	Span     int    `json:"span,omitempty" minimum:"0" maximum:"62" doc:"days"`
	Author   string `json:"author,omitempty" maxLength:"200"`
	Category string `json:"category,omitempty" maxLength:"200"`
	Status   string `json:"status,omitempty" enum:"scheduled,pinned,held,published,proposed"`
	Kind     string `json:"kind,omitempty" enum:"post,page"`
}

// Lens is a named view of the plan.
type Lens struct {
	ID    int64     `json:"id"`
	Name  string    `json:"name"`
	Shown LensShown `json:"shown"`
}

func (s *Server) lensOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/lenses"
	huma.Register(api, huma.Operation{
		OperationID: "list-lenses", Method: http.MethodGet, Path: path, Summary: "One's lenses: named views of the plan",
	}, s.listLenses)
	huma.Register(api, huma.Operation{
		OperationID: "keep-lens", Method: http.MethodPut, Path: path, Summary: "Keep a lens", Description: "One of the same name is replaced.",
	}, s.keepLens)
	huma.Register(api, huma.Operation{
		OperationID: "drop-lens", Method: http.MethodDelete, Path: path + "/{id}", Summary: "Drop a lens", DefaultStatus: http.StatusNoContent,
	}, s.dropLens)
}

type lensesOutput struct{ Body []Lens }

func (s *Server) listLenses(ctx context.Context, _ *SitePath) (*lensesOutput, error) {
	desk := deskOf(ctx)
	kept, err := s.Store.Lenses(ctx, desk.Site.ID, desk.Actor)
	if err != nil {
		return nil, s.problem(err)
	}
	out := &lensesOutput{Body: []Lens{}}
	for _, k := range kept {
		lens := Lens{ID: k.ID, Name: k.Name}
		if err := json.Unmarshal(k.Shown, &lens.Shown); err != nil {
			return nil, s.problem(err)
		}
		out.Body = append(out.Body, lens)
	}
	return out, nil
}

type keepLensInput struct {
	SitePath
	Body struct {
		Name  string    `json:"name" maxLength:"60"`
		Shown LensShown `json:"shown"`
	}
}

func (s *Server) keepLens(ctx context.Context, in *keepLensInput) (*lensesOutput, error) {
	desk, name := deskOf(ctx), strings.TrimSpace(in.Body.Name)
	if name == "" {
		return nil, invalid(&planning.Invalid{Field: "name", Message: "Give the lens a name."})
	}
	kept, err := s.Store.Lenses(ctx, desk.Site.ID, desk.Actor)
	if err != nil {
		return nil, s.problem(err)
	}
	replaces := slices.ContainsFunc(kept, func(l store.Lens) bool { return l.Name == name })
	if len(kept) >= mostLenses && !replaces {
		return nil, invalid(&planning.Invalid{Field: "name", Message: "You keep 50 lenses of this site already. Drop one first."})
	}
	shown, err := json.Marshal(in.Body.Shown)
	if err != nil {
		return nil, s.problem(err)
	}
	if err := s.Store.KeepLens(ctx, store.Lens{SiteID: desk.Site.ID, User: desk.Actor, Name: name, Shown: shown, CreatedAt: s.Clock.Now()}); err != nil {
		return nil, s.problem(err)
	}
	return s.listLenses(ctx, &in.SitePath)
}

type lensPath struct {
	SitePath
	ID int64 `path:"id" minimum:"1"`
}

func (s *Server) dropLens(ctx context.Context, in *lensPath) (*struct{}, error) {
	desk := deskOf(ctx)
	return nil, s.problem(s.Store.DropLens(ctx, desk.Site.ID, desk.Actor, in.ID))
}
