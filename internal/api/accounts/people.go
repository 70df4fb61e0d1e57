package accounts

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/gate"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

func (s part) peopleOperations(api huma.API) {
	const peoplePath, invitations, tokens = "/api/v1/sites/{site}/people", "/api/v1/sites/{site}/invitations",
		"/api/v1/sites/{site}/tokens"
	huma.Register(api, huma.Operation{
		OperationID: "list-people", Method: http.MethodGet, Path: peoplePath, Summary: "The people of the site",
	}, s.listPeople)
	huma.Register(api, huma.Operation{
		OperationID: "change-role", Method: http.MethodPut, Path: peoplePath +
			"/{person}", Summary: "Give a person another role",
		DefaultStatus: http.StatusNoContent,
	}, s.changeRole)
	huma.Register(api, huma.Operation{
		OperationID: "remove-person", Method: http.MethodDelete, Path: peoplePath +
			"/{person}", Summary: "Remove a person from the site",
		Description: "Their posts stay, with their name.", DefaultStatus: http.StatusNoContent,
	}, s.removePerson)

	huma.Register(api, huma.Operation{
		OperationID: "list-invitations", Method: http.MethodGet, Path: invitations,
		Summary: "Invitations that nobody has accepted",
	}, s.listInvitations)
	huma.Register(api, huma.Operation{
		OperationID: "invite-person", Method: http.MethodPost, Path: invitations, Summary: "Invite somebody",
		Description:   "The link is in the answer, once, and in a mail to them. An open invitation to the same address is replaced.",
		DefaultStatus: http.StatusCreated,
	}, s.invite)
	huma.Register(api, huma.Operation{
		OperationID: "withdraw-invitation", Method: http.MethodDelete, Path: invitations +
			"/{id}", Summary: "Take an invitation back",
		DefaultStatus: http.StatusNoContent,
	}, s.withdraw)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "look-at-invitation", Method: http.MethodPost, Path: "/api/v1/invitations/look",
		Summary: "What an invitation's link opens",
		Errors:  []int{http.StatusGone}, MaxBodyBytes: gate.MaxOpenBody,
	}), s.lookAtInvitation)
	huma.Register(api, huma.Operation{
		OperationID: "accept-invitation", Method: http.MethodPost, Path: "/api/v1/invitations/accept",
		Summary:     "Accept an invitation",
		Description: "Begins a session. Who has an account gives its password; who has none gives a name and a new password.",
		Errors:      []int{http.StatusGone, http.StatusTooManyRequests}, MaxBodyBytes: gate.MaxOpenBody,
	}, s.acceptInvitation)

	huma.Register(api, huma.Operation{
		OperationID: "list-tokens", Method: http.MethodGet, Path: tokens, Summary: "Tokens for scripts",
		Description: "One's own; all of the site for its owners.",
	}, s.listTokens)
	huma.Register(api, huma.Operation{
		OperationID: "make-token", Method: http.MethodPost, Path: tokens, Summary: "Make a token",
		Description: "The token is in the answer and nowhere else.", DefaultStatus: http.StatusCreated,
	}, s.makeToken)
	huma.Register(api, huma.Operation{
		OperationID: "end-token", Method: http.MethodDelete, Path: tokens +
			"/{id}", Summary: "End a token", DefaultStatus: http.StatusNoContent,
	}, s.endToken)
}

// Person is somebody of a site.
type Person struct {
	ID    int64  `json:"id"`
	Name  string `json:"name"`
	Email string `json:"email,omitempty" doc:"shown to owners only"`
	Role  string `json:"role" enum:"owner,editor,contributor"`
	Posts int    `json:"posts" doc:"by them, in whatever state"`
	You   bool   `json:"you"`
}

func (s part) listPeople(ctx context.Context, _ *operation.SitePath) (*struct{ Body []Person }, error) {
	at := operation.SeatOf(ctx)
	members, err := s.Store.Members(ctx, at.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	list := []Person{}
	for _, m := range members {
		p := Person{ID: m.ID, Name: m.Name, Role: m.Role, Posts: m.Posts, You: m.ID == at.User.ID}
		if at.Role.Covers(people.Owner) {
			p.Email = m.Email
		}
		list = append(list, p)
	}
	return &struct{ Body []Person }{list}, nil
}

// PersonPath is in the path of operations on a person of a site.
type PersonPath struct {
	operation.SitePath
	Person int64 `path:"person" minimum:"1"`
}

type roleInput struct {
	PersonPath
	Body struct {
		Role string `json:"role" enum:"owner,editor,contributor"`
	}
}

func (s part) changeRole(ctx context.Context, in *roleInput) (*struct{}, error) {
	at := operation.SeatOf(ctx)
	return nil, s.Problem(s.House().ChangeRole(ctx, at.Site, at.User.ID, in.Person, people.Role(in.Body.Role),
		s.Clock.Now()))
}

func (s part) removePerson(ctx context.Context, in *PersonPath) (*struct{}, error) {
	at := operation.SeatOf(ctx)
	return nil, s.Problem(s.House().Remove(ctx, at.Site, at.User.ID, in.Person, s.Clock.Now()))
}

// Invitation asks somebody to join the site.
type Invitation struct {
	ID      int64     `json:"id"`
	Email   string    `json:"email"`
	Role    string    `json:"role" enum:"owner,editor,contributor"`
	By      string    `json:"by" doc:"who invited"`
	Expires time.Time `json:"expires"`
	Over    bool      `json:"over" doc:"its time is over"`
	Link    string    `json:"link,omitempty" doc:"only in the answer to making it"`
}

func (s part) viewInvitation(i store.Invitation) Invitation {
	return Invitation{ID: i.ID, Email: i.Email, Role: i.Role, By: i.Who, Expires: i.ExpiresAt.UTC(),
		Over: !s.Clock.Now().Before(i.ExpiresAt)}
}

func (s part) listInvitations(ctx context.Context, _ *operation.SitePath) (*struct{ Body []Invitation }, error) {
	all, err := s.Store.Invitations(ctx, operation.DeskOf(ctx).Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	list := []Invitation{}
	for _, i := range all {
		list = append(list, s.viewInvitation(i))
	}
	return &struct{ Body []Invitation }{list}, nil
}

type inviteInput struct {
	operation.SitePath
	Body struct {
		Email string `json:"email" maxLength:"254"`
		Role  string `json:"role" enum:"owner,editor,contributor"`
	}
}

func (s part) invite(ctx context.Context, in *inviteInput) (*struct{ Body Invitation }, error) {
	at := operation.SeatOf(ctx)
	id, secret, err := s.House().Invite(ctx, at.Site, at.User.ID, in.Body.Email, people.Role(in.Body.Role),
		s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	i, err := s.Store.Invitation(ctx, id)
	if err != nil {
		return nil, s.Problem(err)
	}
	view := s.viewInvitation(i)
	view.Link = people.JoinLink(s.Public, secret)
	return &struct{ Body Invitation }{view}, nil
}

type invitationPath struct {
	operation.SitePath
	ID int64 `path:"id" minimum:"1"`
}

func (s part) withdraw(ctx context.Context, in *invitationPath) (*struct{}, error) {
	at := operation.SeatOf(ctx)
	return nil, s.Problem(s.House().Withdraw(ctx, at.Site, at.User.ID, in.ID, s.Clock.Now()))
}

// Invited is what an invitation's link opens.
type Invited struct {
	Site  string `json:"site" doc:"its title"`
	Email string `json:"email"`
	Role  string `json:"role" enum:"owner,editor,contributor"`
	By    string `json:"by"`
	Known bool   `json:"known" doc:"the address has an account already"`
}

type secretInput struct {
	Body struct {
		Secret string `json:"secret" maxLength:"200" doc:"what stands behind the # of the link"`
	}
}

func (s part) lookAtInvitation(ctx context.Context, in *secretInput) (*struct{ Body Invited }, error) {
	i, err := s.House().Look(ctx, in.Body.Secret, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Invited }{Invited{i.SiteTitle, i.Email, i.Role, i.Who, i.Known}}, nil
}

type acceptInput struct {
	callerInput
	Body struct {
		Secret   string `json:"secret" maxLength:"200"`
		Name     string `json:"name,omitempty" doc:"of somebody who has no account yet"`
		Password string `json:"password"`
	}
}

func (s part) acceptInvitation(ctx context.Context, in *acceptInput) (*meOutput, error) {
	user, signIn, err := s.House().Accept(ctx, in.Body.Secret, in.Body.Name, in.Body.Password, in.from, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.begin(ctx, user, signIn, in.from)
}

// Token is what a script signs in with.
type Token struct {
	ID      int64      `json:"id"`
	Name    string     `json:"name"`
	Who     string     `json:"who" doc:"whose it is"`
	Hint    string     `json:"hint" doc:"its last characters"`
	Scopes  []string   `json:"scopes"`
	Made    time.Time  `json:"made"`
	Expires time.Time  `json:"expires"`
	Used    *time.Time `json:"used,omitempty" doc:"last, to some minutes"`
	Over    bool       `json:"over" doc:"its time is over"`
	Token   string     `json:"token,omitempty" doc:"only in the answer to making it"`
}

func (s part) viewToken(t store.Token) Token {
	view := Token{ID: t.ID, Name: t.Name, Who: t.Who, Hint: t.Hint, Scopes: t.Scopes, Made: t.CreatedAt.UTC(),
		Expires: t.ExpiresAt.UTC(), Over: !s.Clock.Now().Before(t.ExpiresAt)}
	if t.UsedAt != nil {
		used := t.UsedAt.UTC()
		view.Used = &used
	}
	return view
}

func (s part) listTokens(ctx context.Context, _ *operation.SitePath) (*struct{ Body []Token }, error) {
	at := operation.SeatOf(ctx)
	all, err := s.Store.Tokens(ctx, at.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	list := []Token{}
	for _, t := range all {
		if t.User == at.User.ID || at.Role.Covers(people.Owner) {
			list = append(list, s.viewToken(t))
		}
	}
	return &struct{ Body []Token }{list}, nil
}

type tokenInput struct {
	operation.SitePath
	Body struct {
		Name   string   `json:"name" doc:"what it is for"`
		Scopes []string `json:"scopes" doc:"of read, write and plan"`
		Days   int      `json:"days" minimum:"1" maximum:"366" doc:"how long it lasts"`
	}
}

func (s part) makeToken(ctx context.Context, in *tokenInput) (*struct{ Body Token }, error) {
	at := operation.SeatOf(ctx)
	scopes := make([]people.Scope, len(in.Body.Scopes))
	for i, scope := range in.Body.Scopes {
		scopes[i] = people.Scope(scope)
	}
	token, secret, err := s.House().MakeToken(ctx, at.Site, at.User.ID, in.Body.Name, scopes,
		time.Duration(in.Body.Days)*24*time.Hour, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	token.Who = at.User.Name
	view := s.viewToken(token)
	view.Token = secret
	return &struct{ Body Token }{view}, nil
}

type tokenPath struct {
	operation.SitePath
	ID int64 `path:"id" minimum:"1"`
}

func (s part) endToken(ctx context.Context, in *tokenPath) (*struct{}, error) {
	at := operation.SeatOf(ctx)
	return nil, s.Problem(s.House().EndToken(ctx, at.Site, at.User.ID, at.Role, in.ID))
}
