package accounts

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/founding"
	"dapper.example/internal/gate"
)

func (s part) setupOperations(api huma.API) {
	const path = "/api/v1/setup"
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "check-setup-code", Method: http.MethodPost, Path: path + "/code", Summary: "Whether a setup code is right",
		Description: "Of a program that nobody has set up yet. The code is in its log.", DefaultStatus: http.StatusNoContent,
		Errors:       []int{http.StatusForbidden, http.StatusGone, http.StatusTooManyRequests},
		MaxBodyBytes: gate.MaxOpenBody,
	}), s.checkSetupCode)
	huma.Register(api, huma.Operation{
		OperationID: "set-up", Method: http.MethodPost, Path: path, Summary: "Set the program up",
		Description: "Makes the first owner and the first blog, and begins a session. It works once, for one person.",
		Errors:      []int{http.StatusForbidden, http.StatusGone, http.StatusTooManyRequests}, MaxBodyBytes: gate.MaxOpenBody,
	}, s.setUp)
}

// NewBlog is what a new blog is to be.
type NewBlog struct {
	Title    string `json:"title" maxLength:"1000"`
	Tagline  string `json:"tagline,omitempty" maxLength:"1000"`
	Slug     string `json:"slug" maxLength:"200" doc:"its name in addresses" example:"garden-notes"`
	Zone     string `json:"zone" maxLength:"100" doc:"IANA time zone" example:"Europe/Lisbon"`
	Language string `json:"language" maxLength:"100" doc:"of its readers (BCP 47)" example:"en-GB"`
	Start    string `json:"start,omitempty" maxLength:"40" doc:"the key of a rhythm to begin with; absent: none"`
}

// Of is the blog for what adds it.
func (b NewBlog) Of() founding.Blog { return founding.Blog(b) }

type setupCodeInput struct {
	callerInput
	Body struct {
		Code string `json:"code" maxLength:"100"`
	}
}

func (s part) checkSetupCode(ctx context.Context, in *setupCodeInput) (*struct{}, error) {
	return nil, s.setupProblem(founding.CheckCode(ctx, s.Store.Queries, in.Body.Code, in.from, s.Clock.Now()))
}

func (s part) setupProblem(err error) error {
	switch {
	case errors.Is(err, founding.ErrSetUp):
		return huma.NewError(http.StatusGone, "This program has been set up already. Sign in, or ask its owner to invite you.")
	case errors.Is(err, founding.ErrWrongCode):
		return huma.Error403Forbidden("That isn’t the setup code. It is in the program’s log, and `dapper setup-code` prints a new one.",
			&huma.ErrorDetail{Location: "body.code", Message: "That isn’t the setup code. Check it against the log, or print a new one with: dapper setup-code"})
	}
	return s.Problem(err)
}

type setUpInput struct {
	callerInput
	Body struct {
		Code  string `json:"code" maxLength:"100"`
		Owner struct {
			Name     string `json:"name" maxLength:"1000" doc:"as readers see it under posts"`
			Email    string `json:"email" maxLength:"1000"`
			Password string `json:"password" maxLength:"1000"`
		} `json:"owner"`
		Blog NewBlog `json:"blog"`
	}
}

func (s part) setUp(ctx context.Context, in *setUpInput) (*meOutput, error) {
	user, signIn, err := founding.SetUp(ctx, s.Store, in.Body.Code, founding.Owner(in.Body.Owner), in.Body.Blog.Of(), in.from,
		s.Clock.Now())
	if err != nil {
		return nil, s.setupProblem(err)
	}
	return s.begin(ctx, user, signIn, in.from)
}
