package blogs

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/blog"
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
	Host       string     `json:"host" maxLength:"1000" doc:"of its own, such as notes.example; empty for none"`
	Language   string     `json:"language" maxLength:"100" doc:"of its readers (BCP 47)"`
	DateStyle  string     `json:"dateStyle" enum:"long,full,medium,numeric" doc:"how readers see dates"`
	Logo       *Shown     `json:"logo,omitempty" doc:"a picture in place of the title; absent for none"`
	Icon       *Shown     `json:"icon,omitempty" doc:"a picture for the browser’s tab; absent for none"`
	FrontPage  int64      `json:"frontPage" minimum:"0" doc:"the page that is the front page; 0 where that is the latest posts"`
	PostsAPage int        `json:"postsAPage" doc:"in lists of posts"`
	Feeds      string     `json:"feeds" enum:"whole,excerpt" doc:"what of a post feeds have"`
	Footer     string     `json:"footer" maxLength:"3000" doc:"a line at the foot of every page"`
	Version    int        `json:"version" doc:"the version that was seen"`
	Archived   bool       `json:"archived,omitempty" doc:"readers are told that it is gone"`
	Address    string     `json:"address,omitempty" doc:"of its front page, in full"`
	Languages  []Language `json:"languages,omitempty" doc:"to choose from"`
	Dates      []string   `json:"dates,omitempty" doc:"today in each of the date styles, in their order"`
	Pages      []PostRef  `json:"pages,omitempty" doc:"that may be the front page"`
}

// PostRef names a post or a page.
type PostRef = posts.PostRef

// Shown is a picture that the blog shows on every page.
type Shown struct {
	ID    int64  `json:"id" minimum:"1"`
	Small string `json:"small,omitempty" doc:"its address, narrow"`
	Alt   string `json:"alt,omitempty" doc:"what it shows"`
}

type blogOutput struct{ Body Blog }

func (s part) viewBlog(ctx context.Context, site store.Site) (*blogOutput, error) {
	view := Blog{Title: site.Title, Tagline: site.Tagline, Slug: site.Slug, Host: site.Host, Language: site.Language, DateStyle: site.DateStyle,
		PostsAPage: site.PostsAPage, Feeds: "whole", Footer: site.Footer, Version: site.Version, Archived: site.ArchivedAt != nil,
		Address: site.Home(s.Public).Full(""), Languages: languages(), Dates: blog.DateExamples(site.Language, site.Zone().In(s.Clock.Now()))}
	if !site.FeedsWhole {
		view.Feeds = "excerpt"
	}
	if site.FrontPage != nil {
		view.FrontPage = *site.FrontPage
	}
	var err error
	if view.Logo, err = s.shown(ctx, site, site.Logo); err != nil {
		return nil, s.Problem(err)
	}
	if view.Icon, err = s.shown(ctx, site, site.Icon); err != nil {
		return nil, s.Problem(err)
	}
	pages, err := s.Store.Pages(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, p := range pages {
		view.Pages = append(view.Pages, PostRef{ID: p.ID, Title: p.Title})
	}
	return &blogOutput{view}, nil
}

// shown is a picture of the site; nil where there is none.
func (s part) shown(ctx context.Context, site store.Site, id *int64) (*Shown, error) {
	if id == nil {
		return nil, nil
	}
	p, err := s.Store.Picture(ctx, site.ID, *id)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	view := posts.ViewPicture(site, p)
	return &Shown{view.ID, view.Small, view.Alt}, err
}

func (s *Shown) id() *int64 {
	if s == nil {
		return nil
	}
	return &s.ID
}

func (s part) getBlog(ctx context.Context, _ *operation.SitePath) (*blogOutput, error) {
	return s.viewBlog(ctx, operation.DeskOf(ctx).Site)
}

type blogInput struct {
	operation.SitePath
	Body Blog
}

func (s part) saveBlog(ctx context.Context, in *blogInput) (*blogOutput, error) {
	desk, b := operation.DeskOf(ctx), in.Body
	own := founding.Own{Title: b.Title, Tagline: b.Tagline, Slug: b.Slug, Language: b.Language,
		Reading: store.Reading{PostsAPage: b.PostsAPage, FeedsWhole: b.Feeds == "whole", Footer: b.Footer, Host: b.Host, DateStyle: b.DateStyle,
			Logo: b.Logo.id(), Icon: b.Icon.id()}}
	if b.FrontPage != 0 {
		own.FrontPage = &b.FrontPage
	}
	err := founding.Save(ctx, desk, own, s.Public, b.Version, s.Clock.Now())
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
	return s.viewBlog(ctx, saved)
}
