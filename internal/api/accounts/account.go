package accounts

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/mileusna/useragent"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/gate"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

func (s part) accountOperations(api huma.API) {
	const account, signIns = "/api/v1/account", "/api/v1/account/sign-ins"
	huma.Register(api, huma.Operation{
		OperationID: "save-account", Method: http.MethodPut, Path: account, Summary: "Change one's name, and the line about oneself",
	}, s.saveAccount)
	huma.Register(api, huma.Operation{
		OperationID: "save-preferences", Method: http.MethodPut, Path: account +
			"/preferences", Summary: "Say how one likes the screens",
	}, s.savePreferences)
	huma.Register(api, huma.Operation{
		OperationID: "change-password", Method: http.MethodPost, Path: account +
			"/password", Summary: "Change one's password",
		Description: "All other sign-ins end.", DefaultStatus: http.StatusNoContent,
		Errors: []int{http.StatusTooManyRequests},
	}, s.changePassword)
	huma.Register(api, huma.Operation{
		OperationID: "list-sign-ins", Method: http.MethodGet, Path: signIns, Summary: "Where one is signed in",
	}, s.listSignIns)
	huma.Register(api, huma.Operation{
		OperationID: "end-sign-in", Method: http.MethodDelete, Path: signIns +
			"/{id}", Summary: "End one of one's sign-ins",
		DefaultStatus: http.StatusNoContent,
	}, s.endSignIn)
	huma.Register(api, huma.Operation{
		OperationID: "end-other-sign-ins", Method: http.MethodDelete, Path: signIns,
		Summary: "End all of one's sign-ins but this one",
	}, s.endOtherSignIns)
	huma.Register(api, huma.Operation{
		OperationID: "ask-password-reset", Method: http.MethodPost, Path: "/api/v1/password-resets",
		Summary:       "Have a link for another password sent",
		Description:   "The answer is the same whether or not there is such an account.",
		DefaultStatus: http.StatusAccepted, Errors: []int{http.StatusTooManyRequests}, MaxBodyBytes: gate.MaxOpenBody,
	}, s.askReset)
	huma.Register(api, huma.Operation{
		OperationID: "reset-password", Method: http.MethodPost, Path: "/api/v1/password-resets/use",
		Summary:     "Choose another password by a link",
		Description: "All sign-ins end.", DefaultStatus: http.StatusNoContent, Errors: []int{http.StatusGone},
		MaxBodyBytes: gate.MaxOpenBody,
	}, s.resetPassword)
}

type accountInput struct {
	Body struct {
		Name  string `json:"name" doc:"as readers see it under posts"`
		About string `json:"about,omitempty" maxLength:"3000" doc:"a line that readers see with their posts"`
	}
}

func (s part) saveAccount(ctx context.Context, in *accountInput) (*meOutput, error) {
	name, err := people.CheckName(in.Body.Name)
	if err != nil {
		return nil, s.Problem(err)
	}
	about, err := people.CheckAbout(in.Body.About)
	if err != nil {
		return nil, s.Problem(err)
	}
	user := operation.SeatOf(ctx).User
	if err := s.Store.SaveName(ctx, user.ID, name, about); err != nil {
		return nil, s.Problem(err)
	}
	user.Name, user.About = name, about
	return s.me(ctx, user)
}

type preferencesInput struct{ Body Preferences }

func (s part) savePreferences(ctx context.Context, in *preferencesInput) (*meOutput, error) {
	user := operation.SeatOf(ctx).User
	user.Preferences = store.Preferences(in.Body)
	if err := s.Store.SavePreferences(ctx, user.ID, user.Preferences); err != nil {
		return nil, s.Problem(err)
	}
	return s.me(ctx, user)
}

type passwordInput struct {
	callerInput
	Body struct {
		Old  string `json:"old" maxLength:"1000" doc:"the present password"`
		Next string `json:"next" doc:"the new password"`
	}
}

func (s part) changePassword(ctx context.Context, in *passwordInput) (*struct{}, error) {
	at := operation.SeatOf(ctx)
	if err := s.House().ChangePassword(ctx, at.User, at.SignIn, in.Body.Old, in.Body.Next, in.from,
		s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return nil, s.Problem(s.Sessions.RenewToken(ctx))
}

// SignIn is a place where one is signed in.
type SignIn struct {
	ID      int64     `json:"id"`
	Here    bool      `json:"here" doc:"this very one"`
	Browser string    `json:"browser" doc:"what can be told of it"`
	Address string    `json:"address" doc:"of the network"`
	BeganAt time.Time `json:"beganAt"`
	SeenAt  time.Time `json:"seenAt" doc:"to some minutes"`
}

func (s part) listSignIns(ctx context.Context, _ *struct{}) (*struct{ Body []SignIn }, error) {
	at := operation.SeatOf(ctx)
	all, err := s.Store.SignIns(ctx, at.User.ID, s.Clock.Now().Add(-sessionLifetime))
	if err != nil {
		return nil, s.Problem(err)
	}
	list := []SignIn{}
	for _, i := range all {
		list = append(list, SignIn{i.ID, i.ID == at.SignIn, browserOf(i.Agent), i.Address, i.BeganAt.UTC(),
			i.SeenAt.UTC()})
	}
	return &struct{ Body []SignIn }{list}, nil
}

// browserOf names a browser by what it says of itself.
func browserOf(agent string) string {
	a := useragent.Parse(agent)
	switch {
	case a.Name != "" && a.OS != "":
		return a.Name + " on " + a.OS
	case a.Name != "":
		return a.Name
	}
	return "An unknown browser"
}

type signInPath struct {
	ID int64 `path:"id" minimum:"1"`
}

func (s part) endSignIn(ctx context.Context, in *signInPath) (*struct{}, error) {
	return nil, s.Problem(s.Store.EndSignIn(ctx, operation.SeatOf(ctx).User.ID, in.ID, s.Clock.Now()))
}

// Ended tells how many were ended.
type Ended struct {
	Ended int `json:"ended"`
}

func (s part) endOtherSignIns(ctx context.Context, _ *struct{}) (*struct{ Body Ended }, error) {
	at := operation.SeatOf(ctx)
	n, err := s.Store.EndSignIns(ctx, at.User.ID, at.SignIn, s.Clock.Now())
	return &struct{ Body Ended }{Ended{n}}, s.Problem(err)
}

type resetAskInput struct {
	callerInput
	Body struct {
		Email string `json:"email" maxLength:"254"`
	}
}

// Said is a sentence for whoever asked.
type Said struct {
	Said string `json:"said"`
}

func (s part) askReset(ctx context.Context, in *resetAskInput) (*struct{ Body Said }, error) {
	if err := s.House().AskReset(ctx, in.Body.Email, in.from, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Said }{Said{"If there is an account with this address, we have sent it a link. It works for two hours."}}, nil
}

type resetInput struct {
	Body struct {
		Secret   string `json:"secret" maxLength:"200" doc:"what stands behind the # of the link"`
		Password string `json:"password"`
	}
}

func (s part) resetPassword(ctx context.Context, in *resetInput) (*struct{}, error) {
	return nil, s.Problem(s.House().Reset(ctx, in.Body.Secret, in.Body.Password, s.Clock.Now()))
}
