package plan

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/planning"
)

func (s part) moveOperations(api huma.API) {
	const path = "/api/v1/sites/{site}"
	huma.Register(api, huma.Operation{
		OperationID: "get-ground", Method: http.MethodGet, Path: path +
			"/ground", Summary: "What is in the way of posts that are being moved",
		Description: "Day by day: the gap around what stands, what is past, rest days, bounds and caps. Nothing is changed.",
	}, s.getGround)
	huma.Register(api, huma.Operation{
		OperationID: "move-posts", Method: http.MethodPost, Path: path + "/moves", Summary: "Move posts by hand",
		Description: "All or none. On a date they keep their time of day, unless the gap forbids it: then each gets the nearest allowed minute, and a note says so. With a time they are pinned there. Without a date they go back to the shelf.",
		Errors:      []int{http.StatusConflict},
	}, s.movePosts)
	huma.Register(api, huma.Operation{
		OperationID: "swap-posts", Method: http.MethodPost, Path: path +
			"/swaps", Summary: "Exchange the places of two posts",
		Description: "One of them may be a draft: the other then goes to the front of the shelf.",
		Errors:      []int{http.StatusConflict},
	}, s.swapPosts)
}

// Shadow is a part of a day in which a post may not come down.
type Shadow struct {
	From int `json:"from" doc:"minutes since local midnight"`
	To   int `json:"to" doc:"exclusive; 1440 is midnight"`
}

// Landing is where a post comes down that is let go where it may not.
type Landing struct {
	From int  `json:"from" doc:"minutes since local midnight that lead there"`
	To   int  `json:"to" doc:"exclusive; 1440 is midnight"`
	At   *int `json:"at,omitempty" doc:"the nearest minute that is allowed; absent where the day has none"`
}

// DayGround is what a day has in the way of a post that is being moved.
type DayGround struct {
	Date     civil.Date `json:"date"`
	Shadows  []Shadow   `json:"shadows" doc:"the gap around what stands, and what is past"`
	Landings []Landing  `json:"landings" doc:"where it comes down from minutes that it may not take"`
	Bar      string     `json:"bar,omitempty" doc:"why it may not come down on this day at all"`
}

// Ground is what some days have in the way.
type Ground struct {
	Days []DayGround `json:"days"`
}

type groundInput struct {
	operation.SitePath
	From  string  `query:"from" doc:"first day, as 2026-11-24; today where absent" example:"2026-11-24"`
	Days  int     `query:"days" minimum:"1" maximum:"62" default:"14"`
	Posts []int64 `query:"posts" minItems:"1" maxItems:"200" required:"true" doc:"the posts that are lifted; caps and bounds are those of the first"`
}

func (s part) getGround(ctx context.Context, in *groundInput) (*struct{ Body Ground }, error) {
	site, now := operation.DeskOf(ctx).Site, s.Clock.Now()
	from, err := operation.FirstDay(in.From, site.Zone().DateOf(now))
	if err != nil {
		return nil, err
	}
	found, err := planning.GroundFor(ctx, s.Store.Queries, site, in.Posts, from, in.Days, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Ground{Days: []DayGround{}}
	for _, day := range found {
		view := DayGround{Date: day.Date, Shadows: []Shadow{}, Landings: []Landing{}, Bar: day.Bar}
		for _, shadow := range day.Shadows {
			view.Shadows = append(view.Shadows, Shadow(shadow))
		}
		for _, l := range day.Landings {
			landing := Landing{From: l.From, To: l.To}
			if l.At != reflow.NoMinute {
				landing.At = &l.At
			}
			view.Landings = append(view.Landings, landing)
		}
		body.Days = append(body.Days, view)
	}
	return &struct{ Body Ground }{body}, nil
}

// SeenPost is a post in the version that was seen.
type SeenPost struct {
	ID      int64 `json:"id"`
	Version int   `json:"version" doc:"the version that was seen"`
}

// MovedPost is a post's way.
type MovedPost struct {
	ID    int64            `json:"id"`
	Title string           `json:"title"`
	From  *operation.Place `json:"from,omitempty" doc:"absent: a draft"`
	To    *operation.Place `json:"to,omitempty" doc:"absent: the shelf"`
	Note  string           `json:"note,omitempty" doc:"what differs from what was asked"`

	Version int `json:"version" doc:"the post's, now that it is moved"`
}

// MovedPosts are the ways of posts that were moved.
type MovedPosts struct {
	Moved []MovedPost `json:"moved"`
}

type movesInput struct {
	operation.SitePath
	Body struct {
		Posts []SeenPost   `json:"posts" minItems:"1" maxItems:"2000" doc:"the first is the one that is held; others keep their distance to it"`
		Date  *civil.Date  `json:"date,omitempty" doc:"absent: to the front of the shelf"`
		Time  *civil.Clock `json:"time,omitempty" doc:"as 09:30; absent: each keeps its time of day"`
	}
}

func (s part) movePosts(ctx context.Context, in *movesInput) (*struct{ Body MovedPosts }, error) {
	m := planning.Moving{Clock: in.Body.Time}
	if in.Body.Date != nil {
		m.Date = *in.Body.Date
	}
	for _, p := range in.Body.Posts {
		m.Posts = append(m.Posts, act.PostVersion{Post: p.ID, Version: p.Version})
	}
	desk := operation.DeskOf(ctx)
	moved, err := planning.Move(ctx, desk, m, s.Clock.Now())
	return s.movedPosts(desk.Site.Zone(), moved, err)
}

func (s part) movedPosts(zone civil.Zone, moved []planning.Moved, err error) (*struct{ Body MovedPosts }, error) {
	if err != nil {
		return nil, s.Problem(err)
	}
	body := MovedPosts{Moved: []MovedPost{}}
	for _, m := range moved {
		body.Moved = append(body.Moved, MovedPost{m.Post.ID, m.Post.Title, operation.MaybePlace(zone, m.From),
			operation.MaybePlace(zone, m.To), m.Note, m.Version})
	}
	return &struct{ Body MovedPosts }{body}, nil
}

type swapInput struct {
	operation.SitePath
	Body struct {
		Posts []SeenPost `json:"posts" minItems:"2" maxItems:"2"`
	}
}

func (s part) swapPosts(ctx context.Context, in *swapInput) (*struct{ Body MovedPosts }, error) {
	desk, p := operation.DeskOf(ctx), in.Body.Posts
	moved, err := planning.Swap(ctx, desk, act.PostVersion{Post: p[0].ID, Version: p[0].Version},
		act.PostVersion{Post: p[1].ID, Version: p[1].Version}, s.Clock.Now())
	return s.movedPosts(desk.Site.Zone(), moved, err)
}
