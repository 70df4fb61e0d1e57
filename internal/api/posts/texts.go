package posts

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/store"
)

// TextVersion is one version of a post's text.
type TextVersion struct {
	ID       int64           `json:"id"`
	MadeFrom int64           `json:"madeFrom,omitempty" doc:"the version that it was written over"`
	At       operation.Place `json:"at"`
	Who      string          `json:"who,omitempty"`
	Title    string          `json:"title"`
	Words    int             `json:"words"`
	Name     string          `json:"name,omitempty" doc:"that an editor gave it"`
	Why      string          `json:"why,omitempty" doc:"there is one, where nobody wrote it by hand"`
	Live     bool            `json:"live" doc:"it is the post's text now"`
}

// WholeText is a version with all that it says.
type WholeText struct {
	TextVersion
	Body    string            `json:"body"`
	Excerpt string            `json:"excerpt"`
	Tags    []string          `json:"tags"`
	Fields  map[string]string `json:"fields"`
}

// TextVersions are the versions of a post's text.
type TextVersions struct {
	Texts []TextVersion `json:"texts" doc:"the latest first, at most 200"`
}

// textsShown is how many versions are listed.
const textsShown = 200

func viewText(zone civil.Zone, t store.Text) TextVersion {
	view := TextVersion{ID: t.ID, At: operation.PlaceAt(zone, t.At), Who: t.Who, Title: t.Title, Words: t.Words,
		Live: t.Live, Name: t.Name, Why: t.Why}
	if t.MadeFrom != nil {
		view.MadeFrom = *t.MadeFrom
	}
	return view
}

func (s part) textOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "list-texts", Method: http.MethodGet, Path: "/api/v1/sites/{site}/posts/{id}/texts",
		Summary:     "The versions of a post's text",
		Description: "What one person writes in one sitting is one version.",
	}, s.listTexts)
	huma.Register(api, huma.Operation{
		OperationID: "get-text", Method: http.MethodGet, Path: "/api/v1/sites/{site}/posts/{id}/texts/{text}",
		Summary: "One version of a post's text",
	}, s.getText)
}

func (s part) listTexts(ctx context.Context, in *operation.PostPath) (*struct{ Body TextVersions }, error) {
	desk := operation.DeskOf(ctx)
	if _, err := s.Store.Post(ctx, desk.Site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	texts, err := s.Store.Texts(ctx, desk.Site.ID, in.ID, textsShown)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := TextVersions{Texts: []TextVersion{}}
	for _, t := range texts {
		body.Texts = append(body.Texts, viewText(desk.Site.Zone(), t))
	}
	return &struct{ Body TextVersions }{body}, nil
}

// TextPath is in the path of every operation on one version of a post's text.
type TextPath struct {
	operation.PostPath
	Text int64 `path:"text" minimum:"1"`
}

func (s part) getText(ctx context.Context, in *TextPath) (*struct{ Body WholeText }, error) {
	desk := operation.DeskOf(ctx)
	t, err := s.Store.Text(ctx, desk.Site.ID, in.ID, in.Text)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := WholeText{TextVersion: viewText(desk.Site.Zone(), t), Body: t.Body, Excerpt: t.Excerpt,
		Tags: append([]string{}, t.Tags...), Fields: t.Fields}
	return &struct{ Body WholeText }{body}, nil
}
