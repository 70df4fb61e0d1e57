package api

import (
	"context"
	"encoding/json"
	"net/http"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/store"
)

// mostLenses is how many lenses a person keeps of one site.
const mostLenses = 50

// PlanShown is what a lens shows of the plan.
type PlanShown struct {
	View       string  `json:"view,omitempty" enum:"tape,month,list"`
	Span       int     `json:"span,omitempty" minimum:"0" maximum:"62" doc:"days"`
	Authors    []int64 `json:"authors,omitempty" maxItems:"100" doc:"posts of any of these people"`
	Categories []int64 `json:"categories,omitempty" maxItems:"100" doc:"posts in any of these"`
	Status     string  `json:"status,omitempty" enum:"scheduled,pinned,held,published,proposed"`
	Kind       string  `json:"kind,omitempty" enum:"post,page"`
	Channel    string  `json:"channel,omitempty" maxLength:"200" doc:"only the outings of this channel"`
}

// PostsShown is what a lens shows of the list of posts.
type PostsShown struct {
	posts.PostFilter
	Sort  string `json:"sort,omitempty" enum:"changed,date,title,words,relevance"`
	Order string `json:"order,omitempty" enum:"up,down"`
}

// Lens is a named view of the plan, or of the list of posts.
type Lens struct {
	ID    int64       `json:"id"`
	Name  string      `json:"name"`
	Plan  *PlanShown  `json:"plan,omitempty"`
	Posts *PostsShown `json:"posts,omitempty"`
}

// read takes over what the store kept for a screen.
func (l *Lens) read(screen string, shown []byte) error {
	if screen == store.LensOfPosts {
		l.Posts = new(PostsShown)
		return json.Unmarshal(shown, l.Posts)
	}
	l.Plan = new(PlanShown)
	return json.Unmarshal(shown, l.Plan)
}

func (s *Server) lensOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/lenses"
	huma.Register(api, huma.Operation{
		OperationID: "list-lenses", Method: http.MethodGet, Path: path, Summary: "Your lenses: named views of the plan and of the list of posts",
	}, s.listLenses)
	huma.Register(api, huma.Operation{
		OperationID: "keep-lens", Method: http.MethodPut, Path: path, Summary: "Keep a lens", Description: "One of the same name is replaced.",
	}, s.keepLens)
	huma.Register(api, huma.Operation{
		OperationID: "drop-lens", Method: http.MethodDelete, Path: path +
			"/{id}", Summary: "Drop a lens", DefaultStatus: http.StatusNoContent,
	}, s.dropLens)
}

type lensesOutput struct{ Body []Lens }

func (s *Server) listLenses(ctx context.Context, _ *operation.SitePath) (*lensesOutput, error) {
	desk := operation.DeskOf(ctx)
	kept, err := s.Store.Lenses(ctx, desk.Site.ID, desk.Actor)
	if err != nil {
		return nil, s.Problem(err)
	}
	out := &lensesOutput{Body: []Lens{}}
	for _, k := range kept {
		lens := Lens{ID: k.ID, Name: k.Name}
		if err := lens.read(k.Screen, k.Shown); err != nil {
			return nil, s.Problem(err)
		}
		out.Body = append(out.Body, lens)
	}
	return out, nil
}

type keepLensInput struct {
	operation.SitePath
	Body struct {
		Name  string      `json:"name" maxLength:"60"`
		Plan  *PlanShown  `json:"plan,omitempty" doc:"either this"`
		Posts *PostsShown `json:"posts,omitempty" doc:"or this"`
	}
}

func (s *Server) keepLens(ctx context.Context, in *keepLensInput) (*lensesOutput, error) {
	desk, name := operation.DeskOf(ctx), strings.TrimSpace(in.Body.Name)
	if name == "" {
		return nil, operation.Invalid(&act.Invalid{Field: "name", Message: "Give the lens a name."})
	}
	if (in.Body.Plan == nil) == (in.Body.Posts == nil) {
		return nil, operation.Invalid(&act.Invalid{Field: "plan",
			Message: "Say what the lens shows: the plan, or the list of posts."})
	}
	screen, view := store.LensOfPlan, any(in.Body.Plan)
	if in.Body.Posts != nil {
		screen, view = store.LensOfPosts, in.Body.Posts
	}
	kept, err := s.Store.Lenses(ctx, desk.Site.ID, desk.Actor)
	if err != nil {
		return nil, s.Problem(err)
	}
	replaces := slices.ContainsFunc(kept, func(l store.Lens) bool { return l.Screen == screen && l.Name == name })
	if len(kept) >= mostLenses && !replaces {
		return nil, operation.Invalid(&act.Invalid{Field: "name",
			Message: "You have 50 lenses for this blog already. Delete one first."})
	}
	shown, err := json.Marshal(view)
	if err != nil {
		return nil, s.Problem(err)
	}
	if err := s.Store.KeepLens(ctx, store.Lens{SiteID: desk.Site.ID, User: desk.Actor, Screen: screen, Name: name,
		Shown: shown, CreatedAt: s.Clock.Now()}); err != nil {
		return nil, s.Problem(err)
	}
	return s.listLenses(ctx, &in.SitePath)
}

type lensPath struct {
	operation.SitePath
	ID int64 `path:"id" minimum:"1"`
}

func (s *Server) dropLens(ctx context.Context, in *lensPath) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	return nil, s.Problem(s.Store.DropLens(ctx, desk.Site.ID, desk.Actor, in.ID))
}
