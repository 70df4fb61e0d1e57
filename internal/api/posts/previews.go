package posts

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/blog"
	"dapper.example/internal/core/words"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

func (s part) previewOperations(api huma.API) {
	const links = "/api/v1/sites/{site}/posts/{id}/previews"
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "render-text", Method: http.MethodPost, Path: "/api/v1/sites/{site}/render",
		Summary:      "Markdown as readers will see it",
		MaxBodyBytes: maxPostBody,
	}), s.renderText)
	huma.Register(api, huma.Operation{
		OperationID: "list-previews", Method: http.MethodGet, Path: links,
		Summary: "Secret links to a post that have not ended",
	}, s.listPreviews)
	huma.Register(api, huma.Operation{
		OperationID: "make-preview", Method: http.MethodPost, Path: links, Summary: "Make a secret link to a post",
		Description: "Whoever has it sees the post as it is, out or not, until the link ends. It is in the answer, once.", DefaultStatus: http.StatusCreated,
	}, s.makePreview)
	huma.Register(api, huma.Operation{
		OperationID: "end-preview", Method: http.MethodDelete, Path: links +
			"/{link}", Summary: "End a secret link", DefaultStatus: http.StatusNoContent,
	}, s.endPreview)
}

// Rendered is a text as readers see it.
type Rendered struct {
	HTML    string   `json:"html" doc:"safe to show"`
	Notes   []string `json:"notes" doc:"what readers will not see"`
	Words   int      `json:"words"`
	Minutes int      `json:"minutes" doc:"to read it"`
}

type renderInput struct {
	operation.SitePath
	Body struct {
		Body string `json:"body" doc:"Markdown"`
	}
}

func (s part) renderText(ctx context.Context, in *renderInput) (*struct{ Body Rendered }, error) {
	body := in.Body.Body
	if problems := (writing.Text{Body: &body}).Problems(); len(problems) > 0 {
		return nil, operation.Invalid(problems...)
	}
	laid, err := s.lay(ctx, &body)
	if err != nil {
		return nil, s.Problem(err)
	}
	count := words.In(body)
	return &struct{ Body Rendered }{Rendered{string(laid.HTML), notesOf(laid), count, blog.Minutes(count)}}, nil
}

// SecretLink is a secret link to a post.
type SecretLink struct {
	ID      int64     `json:"id"`
	By      string    `json:"by" doc:"who made it"`
	Expires time.Time `json:"expires"`
	Address string    `json:"address,omitempty" doc:"only in the answer to making it"`
}

func viewSecretLink(l store.PreviewLink) SecretLink {
	return SecretLink{ID: l.ID, By: l.Who, Expires: l.ExpiresAt.UTC()}
}

func (s part) listPreviews(ctx context.Context, in *operation.PostPath) (*struct{ Body []SecretLink }, error) {
	site := operation.DeskOf(ctx).Site
	if _, err := s.Store.Post(ctx, site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	links, err := s.Store.PreviewLinks(ctx, site.ID, in.ID, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	list := []SecretLink{}
	for _, l := range links {
		list = append(list, viewSecretLink(l))
	}
	return &struct{ Body []SecretLink }{list}, nil
}

type secretLinkInput struct {
	operation.PostPath
	Body struct {
		Days int   `json:"days" minimum:"1" maximum:"90" doc:"how long it lasts"`
		Edit int64 `json:"edit,omitempty" doc:"a timed edit of the post: the link shows what it will make of it"`
	}
}

func (s part) makePreview(ctx context.Context, in *secretLinkInput) (*struct{ Body SecretLink }, error) {
	at := operation.SeatOf(ctx)
	if err := s.ownPost(ctx, "make-preview", in.ID); err != nil {
		return nil, err
	}
	of := people.PreviewOf{Post: in.ID}
	if in.Body.Edit != 0 {
		e, err := s.Store.TimedEdit(ctx, at.Site.ID, in.Body.Edit)
		if err != nil {
			return nil, s.Problem(err)
		}
		if e.Post != in.ID {
			return nil, operation.Invalid(act.Invalidf("edit", "That change is of another post."))
		}
		of.Edit = &e.ID
	}
	link, secret, err := s.House().MakePreview(ctx, at.Site, at.User.ID, of,
		time.Duration(in.Body.Days)*24*time.Hour, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	link.Who = at.User.Name
	view := viewSecretLink(link)
	view.Address = s.Public + blog.PreviewPath(at.Site.Slug, secret)
	return &struct{ Body SecretLink }{view}, nil
}

type secretLinkPath struct {
	operation.PostPath
	Link int64 `path:"link" minimum:"1"`
}

func (s part) endPreview(ctx context.Context, in *secretLinkPath) (*struct{}, error) {
	site := operation.DeskOf(ctx).Site
	maker, err := s.Store.PreviewMaker(ctx, site.ID, in.ID, in.Link)
	if err != nil {
		return nil, s.Problem(err)
	}
	if err := operation.OfOwn(ctx, "end-preview", maker); err != nil {
		return nil, err
	}
	return nil, s.Problem(s.Store.EndPreviewLink(ctx, site.ID, in.ID, in.Link))
}
