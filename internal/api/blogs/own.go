package blogs

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/founding"
	"dapper.example/internal/store"
)

func (s part) ownOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/blog"
	huma.Register(api, huma.Operation{
		OperationID: "get-blog", Method: http.MethodGet, Path: path, Summary: "What the blog is called, and where it is",
	}, s.getBlog)
	huma.Register(api, huma.Operation{
		OperationID: "save-blog", Method: http.MethodPut, Path: path, Summary: "Save what the blog is called, and where it is",
		Description: "The name that it had in addresses leads on to the new one.", Errors: []int{http.StatusConflict},
	}, s.saveBlog)
}

// Blog is what a blog is called, and where it is.
type Blog struct {
	Title      string     `json:"title" maxLength:"1000"`
	Tagline    string     `json:"tagline" maxLength:"1000"`
	Slug       string     `json:"slug" maxLength:"200" doc:"its name in addresses"`
	Language   string     `json:"language" maxLength:"100" doc:"of its readers (BCP 47)"`
	PostsAPage int        `json:"postsAPage" doc:"in lists of posts"`
	Feeds      string     `json:"feeds" enum:"whole,excerpt" doc:"what of a post feeds have"`
	Footer     string     `json:"footer" maxLength:"3000" doc:"a line at the foot of every page"`
	Version    int        `json:"version" doc:"the version that was seen"`
	Archived   bool       `json:"archived,omitempty" doc:"readers are told that it is gone"`
	Languages  []Language `json:"languages,omitempty" doc:"to choose from"`
}

type blogOutput struct{ Body Blog }

func viewBlog(site store.Site) *blogOutput {
	feeds := "whole"
	if !site.FeedsWhole {
		feeds = "excerpt"
	}
	return &blogOutput{Blog{Title: site.Title, Tagline: site.Tagline, Slug: site.Slug, Language: site.Language, PostsAPage: site.PostsAPage,
		Feeds: feeds, Footer: site.Footer, Version: site.Version, Archived: site.ArchivedAt != nil, Languages: languages()}}
}

func (s part) getBlog(ctx context.Context, _ *operation.SitePath) (*blogOutput, error) {
	return viewBlog(operation.DeskOf(ctx).Site), nil
}

type blogInput struct {
	operation.SitePath
	Body Blog
}

func (s part) saveBlog(ctx context.Context, in *blogInput) (*blogOutput, error) {
	desk := operation.DeskOf(ctx)
	err := founding.Save(ctx, desk, founding.Blog{Title: in.Body.Title, Tagline: in.Body.Tagline, Slug: in.Body.Slug, Language: in.Body.Language},
		store.Reading{PostsAPage: in.Body.PostsAPage, FeedsWhole: in.Body.Feeds == "whole", Footer: in.Body.Footer}, in.Body.Version, s.Clock.Now())
	if errors.Is(err, act.ErrStale) {
		return nil, huma.Error409Conflict("Somebody saved the settings meanwhile. Nothing was overwritten; load them again to see theirs.")
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	saved, err := s.Store.Site(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return viewBlog(saved), nil
}
