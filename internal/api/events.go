package api

import (
	"cmp"
	"context"
	"net/http"
	"slices"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/store"
)

// eventsPath ends the path of the stream of changes.
const eventsPath = "/events"

// followPath ends the path of the stream of a forecast in the making.
const followPath = "/forecast/follow"

// PlanChanged is sent when a site's plan has changed: something came out, was moved
// or was written.
type PlanChanged struct {
	Now   time.Time     `json:"now" doc:"the server's time"`
	Of    []string      `json:"of" enum:"text,title,plan,rhythm,rules,site,comments,remarks,all" doc:"what has changed; all: anything may have, unseen"`
	Posts []PostVersion `json:"posts,omitempty" doc:"of changes of posts, where they are few: all posts concerned, as they are now"`
}

// PostVersion is a version of a post.
type PostVersion struct {
	ID      int64 `json:"id"`
	Version int   `json:"version"`
}

func changed(seen store.SeenChange, now time.Time) PlanChanged {
	told := PlanChanged{Now: now.UTC(), Of: []string{}}
	for of := range seen.Of {
		told.Of = append(told.Of, string(of))
	}
	slices.Sort(told.Of)
	if !seen.Unnamed {
		for id, version := range seen.Posts {
			told.Posts = append(told.Posts, PostVersion{id, version})
		}
		slices.SortFunc(told.Posts, func(a, b PostVersion) int { return cmp.Compare(a.ID, b.ID) })
	}
	return told
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

func (s *Server) watch(ctx context.Context, _ *operation.SitePath, send sse.Sender) {
	desk := operation.DeskOf(ctx)
	changes := s.config.Changes.Subscribe(desk.Site.ID)
	defer s.config.Changes.Unsubscribe(changes)
	beat, look := time.NewTicker(heartbeat), time.NewTicker(lookAgain)
	defer beat.Stop()
	defer look.Stop()
	still := operation.SeatOf(ctx).Still
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
		case <-s.closing:
			return
		case <-look.C:
			continue
		case <-changes.C:
			if still() != nil {
				return
			}
			if seen := changes.Take(); len(seen.Of) > 0 {
				err = send.Data(changed(seen, s.Clock.Now()))
			}
		case <-beat.C:
			err = send.Data(Beat{s.Clock.Now().UTC()})
		}
		if err != nil {
			return
		}
	}
}
