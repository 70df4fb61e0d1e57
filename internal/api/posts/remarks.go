package posts

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/remarks"
)

func (s part) remarkOperations(api huma.API) {
	const all = "/api/v1/sites/{site}/posts/{id}/remarks"
	huma.Register(api, huma.Operation{OperationID: "list-remarks", Method: http.MethodGet, Path: all, Summary: "What the people of a blog say about a post"}, s.listRemarks)
	huma.Register(api, huma.Operation{OperationID: "add-remark", Method: http.MethodPost, Path: all, Summary: "Say something about a post, or ask whether it may come out at a time"}, s.addRemark)
	huma.Register(api, huma.Operation{OperationID: "resolve-remark", Method: http.MethodPost, Path: all + "/{remark}/resolve", Summary: "Say that a remark is dealt with, or not"}, s.resolveRemark)
	huma.Register(api, huma.Operation{OperationID: "answer-remark", Method: http.MethodPost, Path: all + "/{remark}/answer", Summary: "Answer a request",
		Description: "With yes the post is planned for the time that was asked for."}, s.answerRemark)
	huma.Register(api, huma.Operation{OperationID: "delete-remark", Method: http.MethodDelete, Path: all + "/{remark}", Summary: "Delete a remark of your own"}, s.deleteRemark)
}

// Remark is what somebody says to the others about a post.
type Remark struct {
	ID       int64            `json:"id"`
	By       string           `json:"by" doc:"empty: somebody who is gone"`
	Mine     bool             `json:"mine"`
	Body     string           `json:"body"`
	Quote    string           `json:"quote" doc:"how the paragraph begins that it is about; empty: the whole post"`
	At       time.Time        `json:"at"`
	Wish     *operation.Place `json:"wish,omitempty" doc:"when the post is to come out"`
	Answer   string           `json:"answer" enum:",yes,no"`
	Resolved bool             `json:"resolved"`
	Resolver string           `json:"resolver" doc:"who resolved or answered it"`
}

type remarksOutput struct{ Body []Remark }

func (s part) remarksOf(ctx context.Context, post int64) (*remarksOutput, error) {
	desk := operation.DeskOf(ctx)
	if _, err := s.Store.Post(ctx, desk.Site.ID, post); err != nil {
		return nil, s.Problem(err)
	}
	all, err := s.Store.Remarks(ctx, desk.Site.ID, post)
	if err != nil {
		return nil, s.Problem(err)
	}
	view := []Remark{}
	for _, r := range all {
		one := Remark{ID: r.ID, By: r.By, Mine: r.User != nil && *r.User == desk.Actor, Body: r.Body, Quote: r.Quote, At: r.At.UTC(),
			Wish: operation.MaybePlace(desk.Site.Zone(), r.Wish), Resolved: r.ResolvedAt != nil, Resolver: r.Resolver}
		if r.Answer != nil {
			one.Answer = *r.Answer
		}
		view = append(view, one)
	}
	return &remarksOutput{view}, nil
}

func (s part) listRemarks(ctx context.Context, in *operation.PostPath) (*remarksOutput, error) {
	return s.remarksOf(ctx, in.ID)
}

type remarkInput struct {
	operation.PostPath
	Body struct {
		Body  string `json:"body" maxLength:"16000"`
		Quote string `json:"quote" required:"false" maxLength:"4000" doc:"how the paragraph begins that it is about"`
		Wish  *struct {
			Date civil.Date  `json:"date" doc:"in the site's zone" example:"2026-12-04"`
			Time civil.Clock `json:"time" doc:"in the site's zone" example:"09:40"`
		} `json:"wish,omitempty" required:"false" doc:"when the post is to come out"`
	}
}

func (s part) addRemark(ctx context.Context, in *remarkInput) (*remarksOutput, error) {
	if err := s.ownPost(ctx, "add-remark", in.ID); err != nil {
		return nil, err
	}
	desk := operation.DeskOf(ctx)
	var wish *time.Time
	if in.Body.Wish != nil {
		at := desk.Site.Zone().At(in.Body.Wish.Date, in.Body.Wish.Time)
		wish = &at
	}
	if _, err := remarks.Say(ctx, desk, in.ID, in.Body.Body, in.Body.Quote, wish, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.remarksOf(ctx, in.ID)
}

// RemarkPath names a remark in a path.
type RemarkPath struct {
	Remark int64 `path:"remark" minimum:"1"`
}

type resolveRemarkInput struct {
	operation.PostPath
	RemarkPath
	Body struct {
		Resolved bool `json:"resolved"`
	}
}

func (s part) resolveRemark(ctx context.Context, in *resolveRemarkInput) (*remarksOutput, error) {
	if err := s.ownPost(ctx, "resolve-remark", in.ID); err != nil {
		return nil, err
	}
	if err := remarks.Resolve(ctx, operation.DeskOf(ctx), in.ID, in.Remark, in.Body.Resolved, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.remarksOf(ctx, in.ID)
}

type answerRemarkInput struct {
	operation.PostPath
	RemarkPath
	Body struct {
		Yes bool `json:"yes"`
	}
}

func (s part) answerRemark(ctx context.Context, in *answerRemarkInput) (*remarksOutput, error) {
	if err := remarks.Answer(ctx, operation.DeskOf(ctx), in.ID, in.Remark, in.Body.Yes, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.remarksOf(ctx, in.ID)
}

type deleteRemarkInput struct {
	operation.PostPath
	RemarkPath
}

func (s part) deleteRemark(ctx context.Context, in *deleteRemarkInput) (*remarksOutput, error) {
	if err := s.ownPost(ctx, "delete-remark", in.ID); err != nil {
		return nil, err
	}
	if err := remarks.Delete(ctx, operation.DeskOf(ctx), in.ID, in.Remark); err != nil {
		return nil, s.Problem(err)
	}
	return s.remarksOf(ctx, in.ID)
}
