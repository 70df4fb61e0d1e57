package accounts

import (
	"cmp"
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/gate"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// Me is who is signed in, and the sites that are theirs.
type Me struct {
	ID    int64    `json:"id"`
	Name  string   `json:"name"`
	Email string   `json:"email"`
	About string   `json:"about" doc:"a line that readers see with their posts"`
	Sites []MySite `json:"sites"`

	Now         time.Time   `json:"now" doc:"the server's time"`
	Preferences Preferences `json:"preferences"`
}

// Preferences are how a person likes the screens.
type Preferences struct {
	WeekStart string `json:"weekStart" enum:"monday,sunday,saturday"`
	Clock     string `json:"clock" enum:"24,12" doc:"hours that clocks show"`
	Density   string `json:"density" enum:"roomy,dense"`
	Theme     string `json:"theme" enum:"system,light,dark"`
}

func preferencesOf(p store.Preferences) Preferences {
	return Preferences{cmp.Or(p.WeekStart, "monday"), cmp.Or(p.Clock, "24"), cmp.Or(p.Density, "roomy"),
		cmp.Or(p.Theme, "system")}
}

// MySite is a site with the role that the signed-in person has on it.
type MySite struct {
	Slug  string `json:"slug"`
	Title string `json:"title"`
	Zone  string `json:"zone"`
	Role  string `json:"role" enum:"owner,editor,contributor"`
	// Archived is left out of most.
	Archived bool `json:"archived,omitempty" doc:"readers are told that it is gone"`
}

// ViewSite is a site for somebody who has a role on it.
func ViewSite(site store.Site, role people.Role) MySite {
	return MySite{site.Slug, site.Title, site.ZoneName, string(role), site.ArchivedAt != nil}
}

type meOutput struct {
	SetCookie []http.Cookie `header:"Set-Cookie" hidden:"true"`
	Body      Me
}

func (s part) sessionOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "sign-in", Method: http.MethodPost, Path: "/api/v1/session",
		Summary: "Sign in", Description: "Begins a session, kept in a cookie.",
		Errors: []int{http.StatusUnauthorized, http.StatusTooManyRequests}, MaxBodyBytes: gate.MaxOpenBody,
	}, s.signIn)
	huma.Register(api, huma.Operation{
		OperationID: "get-session", Method: http.MethodGet, Path: "/api/v1/session", Summary: "Who is signed in",
	}, func(ctx context.Context, _ *struct{}) (*meOutput, error) {
		return s.me(ctx, operation.SeatOf(ctx).User)
	})
	huma.Register(api, huma.Operation{
		OperationID: "sign-out", Method: http.MethodDelete, Path: "/api/v1/session", Summary: "Sign out",
		DefaultStatus: http.StatusNoContent,
	}, s.signOut)
}

// callerInput is what is known of who asks, beside who they are.
type callerInput struct {
	from people.Caller
}

// Resolve reads it off the request.
func (c *callerInput) Resolve(hc huma.Context) []error {
	c.from = people.Caller{Address: gate.AddressOf(hc.Context()), Agent: hc.Header("User-Agent")}
	for _, name := range []string{hostOnly + browserCookie, browserCookie} {
		if cookie, err := huma.ReadCookie(hc, name); err == nil && c.from.Browser == "" {
			c.from.Browser = cookie.Value
		}
	}
	return nil
}

type signInInput struct {
	callerInput
	Body struct {
		Email    string `json:"email" maxLength:"254"`
		Password string `json:"password" maxLength:"1000"`
	}
}

func (s part) signIn(ctx context.Context, in *signInInput) (*meOutput, error) {
	user, id, err := s.House().SignIn(ctx, in.Body.Email, in.Body.Password, in.from, s.Clock.Now())
	if errors.Is(err, people.ErrWrong) {
		return nil, huma.Error401Unauthorized("Wrong address or password. Check both and try again.")
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.begin(ctx, user, id, in.from)
}

// begin begins a session for a sign-in, and makes the browser known from which it came.
func (s part) begin(ctx context.Context, user store.User, signIn int64, from people.Caller) (*meOutput, error) {
	if err := s.Sessions.RenewToken(ctx); err != nil {
		return nil, s.Problem(err)
	}
	s.Sessions.Put(ctx, operation.SessionSignIn, signIn)
	secret, err := s.House().Recognise(ctx, user.ID, from, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	out, err := s.me(ctx, user)
	if err == nil {
		out.SetCookie = []http.Cookie{{Name: CookieName(browserCookie, s.Secure), Value: secret, Path: "/",
			MaxAge:   int(browserLifetime / time.Second),
			HttpOnly: true, Secure: s.Secure, SameSite: http.SameSiteLaxMode}}
	}
	return out, err
}

func (s part) signOut(ctx context.Context, _ *struct{}) (*struct{}, error) {
	if id := s.Sessions.GetInt64(ctx, operation.SessionSignIn); id != 0 {
		user, err := s.Store.UserSignedIn(ctx, id, s.Clock.Now())
		if err == nil {
			err = s.Store.EndSignIn(ctx, user.ID, id, s.Clock.Now())
		}
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return nil, s.Problem(err)
		}
	}
	return nil, s.Problem(s.Sessions.Destroy(ctx))
}

func (s part) me(ctx context.Context, user store.User) (*meOutput, error) {
	memberships, err := s.Store.Memberships(ctx, user.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	me := Me{ID: user.ID, Name: user.Name, Email: user.Email, About: user.About, Sites: []MySite{}, Now: s.Clock.Now().UTC(),
		Preferences: preferencesOf(user.Preferences)}
	for _, m := range memberships {
		me.Sites = append(me.Sites, ViewSite(m.Site, people.Role(m.Role)))
	}
	return &meOutput{Body: me}, nil
}
