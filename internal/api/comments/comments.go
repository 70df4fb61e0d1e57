// Package comments has the operations on what readers write under posts.
package comments

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/comments"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/store"
)

// page is how many comments a page of the list has.
const page = 50

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	const path = "/api/v1/sites/{site}/comments"
	huma.Register(api, huma.Operation{
		OperationID: "list-comments", Method: http.MethodGet, Path: path, Summary: "Readers’ comments, latest first",
	}, s.list)
	huma.Register(api, huma.Operation{
		OperationID: "decide-comments", Method: http.MethodPut, Path: path, Summary: "Approve comments, hide them, or put them into the bin",
		Description: "Comments that are gone, or stand there already, are left alone. From the bin they can be brought back for 30 days.",
	}, s.decide)
	huma.Register(api, huma.Operation{
		OperationID: "answer-comment", Method: http.MethodPost, Path: path + "/{id}/answer", Summary: "Answer a comment",
		Description: "Readers see the answer at once. A comment that waits is approved with it.", DefaultStatus: http.StatusCreated,
	}, s.answer)
	const settings = "/api/v1/sites/{site}/commenting"
	huma.Register(api, huma.Operation{
		OperationID: "get-commenting", Method: http.MethodGet, Path: settings, Summary: "What holds for comments",
	}, s.getCommenting)
	huma.Register(api, huma.Operation{
		OperationID: "save-commenting", Method: http.MethodPut, Path: settings, Summary: "Save what holds for comments",
		Errors: []int{http.StatusConflict},
	}, s.saveCommenting)
}

// Comment is what somebody wrote under a post.
type Comment struct {
	ID      int64     `json:"id"`
	Post    int64     `json:"post"`
	Title   string    `json:"title" doc:"of the post"`
	Address string    `json:"address" doc:"of the comment on the blog, without its host"`
	Name    string    `json:"name" doc:"as it was given"`
	Team    bool      `json:"team,omitempty" doc:"somebody of the blog wrote it"`
	Answers int64     `json:"answers,omitempty" doc:"the comment that it answers"`
	Text    string    `json:"text" doc:"plain text"`
	Status  string    `json:"status" enum:"held,shown,binned"`
	At      time.Time `json:"at"`
}

func view(site store.Site, c store.Comment) Comment {
	v := Comment{ID: c.ID, Post: c.Post, Title: c.Title, Name: c.Name, Team: c.User != nil, Text: c.Text, Status: string(c.Status), At: c.At.UTC(),
		Address: fmt.Sprintf("%s#comment-%d", address.Path(site.Slug, c.Slug), c.ID)}
	if c.Answers != nil {
		v.Answers = *c.Answers
	}
	return v
}

// Page is a page of comments.
type Page struct {
	Comments []Comment      `json:"comments"`
	Next     int64          `json:"next,omitempty" doc:"of the next page"`
	Counts   map[string]int `json:"counts" doc:"of all the site’s comments by status"`
	Open     bool           `json:"open" doc:"the blog takes comments"`
}

type listInput struct {
	operation.SitePath
	Status string `query:"status" default:"held" enum:"held,shown,binned"`
	Post   int64  `query:"post" minimum:"0" doc:"only those under this post"`
	Find   string `query:"find" maxLength:"200" doc:"a part of the name or the text"`
	Below  int64  `query:"below" doc:"next of the page before"`
}

func (s part) list(ctx context.Context, in *listInput) (*struct{ Body Page }, error) {
	site := operation.DeskOf(ctx).Site
	all, err := s.Store.Comments(ctx, site.ID, store.CommentFilter{Status: comment.Status(in.Status), Post: in.Post, Find: strings.TrimSpace(in.Find),
		Below: in.Below}, page+1)
	if err != nil {
		return nil, s.Problem(err)
	}
	counts, err := s.Store.CountComments(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Page{Comments: []Comment{}, Open: site.Commenting.Open, Counts: map[string]int{}}
	for _, status := range []comment.Status{comment.Held, comment.Shown, comment.Binned} {
		body.Counts[string(status)] = counts[status]
	}
	if len(all) > page {
		all = all[:page]
		body.Next = all[page-1].ID
	}
	for _, c := range all {
		body.Comments = append(body.Comments, view(site, c))
	}
	return &struct{ Body Page }{body}, nil
}

type decideInput struct {
	operation.SitePath
	Body struct {
		IDs []int64 `json:"ids" minItems:"1" nullable:"false"`
		To  string  `json:"to" enum:"held,shown,binned"`
	}
}

// Decided is how many comments changed.
type Decided struct {
	Changed int `json:"changed"`
}

func (s part) decide(ctx context.Context, in *decideInput) (*struct{ Body Decided }, error) {
	n, err := comments.Decide(ctx, operation.DeskOf(ctx), in.Body.IDs, comment.Status(in.Body.To), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Decided }{Decided{n}}, nil
}

type answerInput struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Text string `json:"text" maxLength:"20000"`
	}
}

func (s part) answer(ctx context.Context, in *answerInput) (*struct{ Body Comment }, error) {
	at := operation.SeatOf(ctx)
	c, err := comments.Answer(ctx, at.Desk, at.User, in.ID, in.Body.Text, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Comment }{view(at.Site, c)}, nil
}

// Commenting is what holds for comments.
type Commenting struct {
	Open    bool   `json:"open" doc:"posts take comments, unless their own are closed"`
	Days    int    `json:"days" doc:"a post takes comments for so many days from its publication; 0 for ever"`
	Hold    string `json:"hold" enum:"all,unknown" doc:"which wait for approval: all, or those of readers of whom none was approved before"`
	Links   int    `json:"links" doc:"in a comment, at most"`
	Version int    `json:"version" doc:"the version that was seen"`
}

type commentingOutput struct{ Body Commenting }

func viewCommenting(site store.Site) *commentingOutput {
	c := site.Commenting
	return &commentingOutput{Commenting{c.Open, c.Days, string(c.Hold), c.Links, site.Version}}
}

func (s part) getCommenting(ctx context.Context, _ *operation.SitePath) (*commentingOutput, error) {
	return viewCommenting(operation.DeskOf(ctx).Site), nil
}

type commentingInput struct {
	operation.SitePath
	Body Commenting
}

func (s part) saveCommenting(ctx context.Context, in *commentingInput) (*commentingOutput, error) {
	desk, b := operation.DeskOf(ctx), in.Body
	err := sitesettings.SaveCommenting(ctx, desk, store.Commenting{Open: b.Open, Days: b.Days, Hold: comment.Hold(b.Hold), Links: b.Links}, b.Version, s.Clock.Now())
	if errors.Is(err, act.ErrStale) {
		return nil, operation.SettingsStale()
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	saved, err := s.Store.Site(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return viewCommenting(saved), nil
}
