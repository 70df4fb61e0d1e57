package api

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/time/rate"

	"dapper.example/internal/api/operation"
)

// failuresAMinute is how many failures of screens are logged a minute: a screen that fails at
// each drawing shall not fill the log.
const failuresAMinute = 20

func newFailureLimit() *rate.Limiter {
	return rate.NewLimiter(rate.Every(time.Minute/failuresAMinute), failuresAMinute)
}

func (s *Server) failureOperations(api huma.API) {
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "report-failure", Method: http.MethodPost, Path: "/api/v1/failures", Summary: "Say that a screen could not be drawn",
		Description: "It is written to the server's log, for whoever runs it. Beyond a rate it is not.", DefaultStatus: http.StatusNoContent, MaxBodyBytes: 32 << 10,
	}), s.reportFailure)
}

type failureInput struct {
	Body struct {
		Screen  string `json:"screen" maxLength:"300" doc:"the screen's address, without what follows a question mark"`
		Message string `json:"message" maxLength:"1000"`
		Stack   string `json:"stack,omitempty" maxLength:"8000"`
		Parts   string `json:"parts,omitempty" maxLength:"8000" doc:"which parts of the screen it happened in"`
	}
}

func (s *Server) reportFailure(ctx context.Context, in *failureInput) (*struct{}, error) {
	if s.failures.AllowN(s.Clock.Now(), 1) {
		s.Log.Error("a screen could not be drawn", "screen", in.Body.Screen, "message", in.Body.Message, "stack",
			in.Body.Stack, "parts", in.Body.Parts,
			"user", operation.SeatOf(ctx).User.ID, "version", s.config.Version)
	}
	return nil, nil
}
