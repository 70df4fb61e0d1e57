package api

import (
	"context"
	"errors"
	"net/http"
	"sync"

	"github.com/alexedwards/argon2id"
	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// sessionUser is the session's key for the id of who is signed in.
const sessionUser = "user"

// nobody is compared with where an address is unknown, so that both cases take as
// long. It is made when first needed: hashing takes 64 MB for a moment.
var nobody = sync.OnceValue(func() string {
	hash, err := argon2id.CreateHash("nobody has this password", argon2id.DefaultParams)
	if err != nil {
		panic(err)
	}
	return hash
})

// Me is who is signed in, and the sites that are theirs.
type Me struct {
	ID    int64    `json:"id"`
	Name  string   `json:"name"`
	Email string   `json:"email"`
	Sites []MySite `json:"sites"`
}

// MySite is a site with the role that the signed-in person has on it.
type MySite struct {
	Slug  string `json:"slug"`
	Title string `json:"title"`
	Zone  string `json:"zone"`
	Role  string `json:"role" enum:"owner,editor,contributor"`
}

type meOutput struct {
	Body Me
}

func (s *Server) sessionOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "sign-in", Method: http.MethodPost, Path: "/api/v1/session",
		Summary: "Sign in", Description: "Begins a session, kept in a cookie.",
	}, s.signIn)
	huma.Register(api, huma.Operation{
		OperationID: "get-session", Method: http.MethodGet, Path: "/api/v1/session", Summary: "Who is signed in",
	}, func(ctx context.Context, _ *struct{}) (*meOutput, error) {
		user, err := s.user(ctx)
		if err != nil {
			return nil, err
		}
		return s.me(ctx, user)
	})
	huma.Register(api, huma.Operation{
		OperationID: "sign-out", Method: http.MethodDelete, Path: "/api/v1/session", Summary: "Sign out",
		DefaultStatus: http.StatusNoContent,
	}, func(ctx context.Context, _ *struct{}) (*struct{}, error) {
		return nil, s.problem(s.sessions.Destroy(ctx))
	})
}

type signInInput struct {
	Body struct {
		Email    string `json:"email" maxLength:"254"`
		Password string `json:"password" maxLength:"1000"`
	}
}

func (s *Server) signIn(ctx context.Context, in *signInInput) (*meOutput, error) {
	user, err := s.Store.UserByEmail(ctx, in.Body.Email)
	known := err == nil
	if !known && !errors.Is(err, store.ErrNotFound) {
		return nil, s.problem(err)
	}
	hash := user.PasswordHash
	if !known {
		hash = nobody()
	}
	fits, err := argon2id.ComparePasswordAndHash(in.Body.Password, hash)
	if err != nil && known {
		return nil, s.problem(err)
	}
	if !known || !fits {
		return nil, huma.Error401Unauthorized("The address or the password is not right. Check both and try again.")
	}
	if err := s.sessions.RenewToken(ctx); err != nil {
		return nil, s.problem(err)
	}
	s.sessions.Put(ctx, sessionUser, user.ID)
	return s.me(ctx, user)
}

func (s *Server) me(ctx context.Context, user store.User) (*meOutput, error) {
	memberships, err := s.Store.Memberships(ctx, user.ID)
	if err != nil {
		return nil, s.problem(err)
	}
	me := Me{ID: user.ID, Name: user.Name, Email: user.Email, Sites: []MySite{}}
	for _, m := range memberships {
		me.Sites = append(me.Sites, MySite{m.Slug, m.Title, m.ZoneName, m.Role})
	}
	return &meOutput{me}, nil
}

// user is who is signed in, or a 401.
func (s *Server) user(ctx context.Context) (store.User, error) {
	id := s.sessions.GetInt64(ctx, sessionUser)
	if id == 0 {
		return store.User{}, huma.Error401Unauthorized("Sign in first.")
	}
	user, err := s.Store.User(ctx, id)
	if errors.Is(err, store.ErrNotFound) {
		return store.User{}, huma.Error401Unauthorized("Sign in first.")
	}
	return user, s.problem(err)
}

// SitePath is in the path of every operation on a site.
type SitePath struct {
	Site string `path:"site" doc:"the site's name in addresses" example:"quillmoor"`
}

// desk is the desk of who is signed in, at a site of theirs; the role decides what
// it may be used for.
func (s *Server) desk(ctx context.Context, in SitePath) (planning.Desk, string, error) {
	user, err := s.user(ctx)
	if err != nil {
		return planning.Desk{}, "", err
	}
	m, err := s.Store.MembershipOf(ctx, user.ID, in.Site)
	if err != nil {
		return planning.Desk{}, "", s.problem(err)
	}
	return planning.Desk{Store: s.Store, Site: m.Site, Actor: user.ID}, m.Role, nil
}

// planner is the desk of someone who may change the plan.
func (s *Server) planner(ctx context.Context, in SitePath) (planning.Desk, error) {
	desk, role, err := s.desk(ctx, in)
	if err != nil {
		return desk, err
	}
	if role == "contributor" {
		return desk, huma.Error403Forbidden("Only editors and owners of this site change its plan. Ask one of them.")
	}
	return desk, nil
}
