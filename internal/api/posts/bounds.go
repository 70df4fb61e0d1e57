package posts

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/status"
)

func (s part) boundOperations(api huma.API) {
	huma.Register(api, operation.Conflict[StalePost](api, huma.Operation{
		OperationID: "bound-post", Method: http.MethodPost, Path: "/api/v1/sites/{site}/posts/{id}/bounds",
		Summary: "Say when a draft may come out",
	}), s.boundPost)
}

type boundsInput struct {
	operation.PostPath
	Body struct {
		Version   int         `json:"version" doc:"the version that was seen"`
		NotBefore *civil.Date `json:"notBefore,omitempty" doc:"first date of the site on which it may come out"`
		Deadline  *civil.Date `json:"deadline,omitempty" doc:"last date of the site on which it may come out"`
	}
}

func (s part) boundPost(ctx context.Context, in *boundsInput) (*postOutput, error) {
	desk := operation.DeskOf(ctx)
	zone := desk.Site.Zone()
	var notBefore, deadline time.Time
	if in.Body.NotBefore != nil {
		notBefore = zone.At(*in.Body.NotBefore, 0)
	}
	if in.Body.Deadline != nil {
		deadline = zone.At(in.Body.Deadline.Add(1), 0).Add(-time.Minute) // the date's last minute
	}
	if err := status.SetBounds(ctx, desk, in.ID, in.Body.Version, notBefore, deadline, s.Clock.Now()); err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	return s.present(ctx, desk, in.ID)
}
