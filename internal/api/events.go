package api

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"
)

// PlanChanged is sent when a site's plan has changed: something came out, was moved
// or was written.
type PlanChanged struct {
	Now time.Time `json:"now" doc:"the server's time"`
}

// heartbeat keeps the stream alive and the browser's idea of the time right.
const heartbeat = 20 * time.Second

// lookAgain is how often it is looked whether who watches still may.
const lookAgain = 5 * time.Second

func (s *Server) eventOperations(api huma.API) {
	sse.Register(api, huma.Operation{
		OperationID: "watch-site", Method: http.MethodGet, Path: "/api/v1/sites/{site}" + eventsPath,
		Summary:     "Watch a site's plan",
		Description: "An event after changes, and a beat now and then. One event may stand for several changes.",
	}, map[string]any{"plan": PlanChanged{}, "beat": Beat{}}, s.watch)
}

// Beat is sent now and then.
type Beat struct {
	Now time.Time `json:"now" doc:"the server's time"`
}

func (s *Server) watch(ctx context.Context, _ *SitePath, send sse.Sender) {
	desk := deskOf(ctx)
	changed := s.Changes.Subscribe(desk.Site.ID)
	defer s.Changes.Unsubscribe(changed)
	beat, look := time.NewTicker(heartbeat), time.NewTicker(lookAgain)
	defer beat.Stop()
	defer look.Stop()
	still := seatOf(ctx).still
	if send.Data(Beat{s.Clock.Now().UTC()}) != nil {
		return
	}
	for {
		var err error
		if still() != nil {
			return
		}
		select {
		case <-ctx.Done():
			return
		case <-s.closing.Done():
			return
		case <-look.C:
			continue
		case <-changed.C:
			if still() != nil {
				return
			}
			err = send.Data(PlanChanged{s.Clock.Now().UTC()})
		case <-beat.C:
			err = send.Data(Beat{s.Clock.Now().UTC()})
		}
		if err != nil {
			return
		}
	}
}
