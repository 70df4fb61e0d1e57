package api

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"dapper.example/internal/blog"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// Care is what rules are to know of a post.
type Care struct {
	Expires      *PlaceWish        `json:"expires,omitempty" doc:"its own expiry"`
	NeverExpires bool              `json:"neverExpires"`
	Evergreen    bool              `json:"evergreen"`
	Fields       map[string]string `json:"fields" doc:"custom fields"`
	Excerpt      string            `json:"excerpt"`
	Notice       string            `json:"notice,omitempty" readOnly:"true" doc:"what readers of the archived post see"`
}

// PlaceWish is a time of the site's clocks.
type PlaceWish struct {
	Date  civil.Date  `json:"date"`
	Clock civil.Clock `json:"clock"`
}

func viewCare(zone civil.Zone, p store.Post) Care {
	care := Care{NeverExpires: p.NeverExpires, Evergreen: p.Evergreen, Fields: p.Fields, Excerpt: p.Excerpt, Notice: p.Notice}
	if p.ExpiresAt != nil {
		date, clock := zone.Local(*p.ExpiresAt)
		care.Expires = &PlaceWish{date, clock}
	}
	return care
}

func (s *Server) careOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "find-posts", Method: http.MethodGet, Path: "/api/v1/sites/{site}/posts",
		Summary: "Find posts by their title", Description: "The latest changed first, a dozen at most.",
	}, s.findPosts)
	huma.Register(api, huma.Operation{
		OperationID: "care-for-post", Method: http.MethodPut, Path: "/api/v1/sites/{site}/posts/{id}/care",
		Summary: "Say what rules are to know of a post", Errors: []int{http.StatusConflict},
	}, s.careForPost)
}

// FoundPost is a post that a title was looked for in.
type FoundPost struct {
	ID     int64  `json:"id"`
	Title  string `json:"title"`
	Status string `json:"status"`
}

// FoundPosts are some posts.
type FoundPosts struct {
	Posts []FoundPost `json:"posts"`
}

// foundPosts is how many posts a search lists.
const foundPosts = 12

type findInput struct {
	SitePath
	Title string `query:"title" minLength:"1" maxLength:"200" required:"true"`
}

func (s *Server) findPosts(ctx context.Context, in *findInput) (*struct{ Body FoundPosts }, error) {
	desk, _, err := s.desk(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	entries, err := s.Store.FindPosts(ctx, desk.Site.ID, in.Title, foundPosts)
	if err != nil {
		return nil, s.problem(err)
	}
	found := FoundPosts{Posts: []FoundPost{}}
	for _, e := range entries {
		found.Posts = append(found.Posts, FoundPost{e.ID, e.Title, string(e.Status)})
	}
	return &struct{ Body FoundPosts }{found}, nil
}

type careInput struct {
	PostPath
	Body struct {
		Version int  `json:"version" doc:"the version that was seen"`
		Care    Care `json:"care"`
	}
}

func (s *Server) careForPost(ctx context.Context, in *careInput) (*postOutput, error) {
	desk, err := s.planner(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	c := in.Body.Care
	care := planning.Care{NeverExpires: c.NeverExpires, Evergreen: c.Evergreen, Fields: c.Fields, Excerpt: c.Excerpt}
	if c.Expires != nil {
		care.ExpiresAt = desk.Site.Zone().At(c.Expires.Date, c.Expires.Clock)
	}
	if err := desk.SetCare(ctx, in.ID, in.Body.Version, care, s.Clock.Now()); err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	return s.present(ctx, desk, in.ID)
}

// followShortLink counts a click and leads on to the post.
func (s *Server) followShortLink(w http.ResponseWriter, r *http.Request) {
	link, err := s.Store.ShortLink(r.Context(), chi.URLParam(r, "code"))
	if errors.Is(err, store.ErrNotFound) {
		http.Error(w, "This link leads nowhere.", http.StatusNotFound)
		return
	}
	if err == nil {
		err = s.countClick(r.Context(), link)
	}
	if err != nil {
		s.Log.Error("a short link could not be followed", "code", link.Code, "error", err)
	}
	address := blog.Path(link.Site, link.Slug)
	if link.Query != "" {
		address += "?" + link.Query
	}
	w.Header().Set("Cache-Control", "no-store") // every click is counted
	http.Redirect(w, r, address, http.StatusFound)
}

func (s *Server) countClick(ctx context.Context, link store.ShortLink) error {
	zone, err := civil.LoadZone(link.Zone)
	if err != nil {
		return err
	}
	return s.Store.CountClick(ctx, link, zone.DateOf(s.Clock.Now()).String())
}
