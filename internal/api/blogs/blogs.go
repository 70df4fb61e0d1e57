// Package blogs has the operations on whole blogs: adding one, what it is called, its categories,
// archiving and deleting it.
package blogs

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/text/language"
	"golang.org/x/text/language/display"

	"dapper.example/internal/api/accounts"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/founding"
	"dapper.example/internal/people"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.ownOperations(api)
	s.copyOperations(api)
	s.tableOperations(api)
	s.topicOperations(api)
	s.tagOperations(api)
	s.appearanceOperations(api)
	const site = "/api/v1/sites/{site}"
	huma.Register(api, huma.Operation{
		OperationID: "begin-blog", Method: http.MethodGet, Path: "/api/v1/new-blog", Summary: "What a new blog may begin with",
		Description: "A name in addresses for its title, languages, and rhythms with a week of each. Nothing is made.",
	}, s.beginBlog)
	huma.Register(api, huma.Operation{
		OperationID: "add-blog", Method: http.MethodPost, Path: "/api/v1/blogs", Summary: "Add a blog", DefaultStatus: http.StatusCreated,
		Description: "Whoever owns a blog may add another, and is its owner.", Errors: []int{http.StatusForbidden},
	}, s.addBlog)
	huma.Register(api, huma.Operation{
		OperationID: "archive-blog", Method: http.MethodPost, Path: site + "/archive", Summary: "Archive a blog",
		Description: "Readers are told that it is gone (410), and nothing comes out. All that is of it stays.", DefaultStatus: http.StatusNoContent,
	}, s.archiveBlog)
	huma.Register(api, huma.Operation{
		OperationID: "unarchive-blog", Method: http.MethodDelete, Path: site + "/archive", Summary: "Bring an archived blog back",
		Description: "It stays paused until somebody resumes it.", DefaultStatus: http.StatusNoContent,
	}, s.unarchiveBlog)
	huma.Register(api, huma.Operation{
		OperationID: "delete-blog", Method: http.MethodDelete, Path: site, Summary: "Delete a blog for good",
		Description: "With all its posts and pictures. It is confirmed by the blog's title and cannot be undone. People stay.", DefaultStatus: http.StatusNoContent,
	}, s.deleteBlog)
}

// BlogBeginning is what a new blog may begin with.
type BlogBeginning struct {
	Slug      string     `json:"slug" doc:"a name in addresses for the title; empty where nothing of it can be said so"`
	Languages []Language `json:"languages"`
	Starts    []Start    `json:"starts" doc:"the calmest first"`
}

// Language is one that readers may have.
type Language struct {
	Tag  string `json:"tag" doc:"BCP 47"`
	Name string `json:"name" doc:"in the language itself"`
}

// Start is a rhythm to begin with.
type Start struct {
	Key  string              `json:"key"`
	Name string              `json:"name"`
	Says string              `json:"says" doc:"a sentence"`
	Week []rhythms.RhythmDay `json:"week" doc:"a week of it, from Monday"`
}

// offered are the languages to choose from.
var offered = []string{"en-GB", "en-US", "en-CA", "en-AU", "de", "fr", "fr-CA", "es", "pt-PT", "pt-BR", "it", "nl", "da", "sv", "nb", "fi", "is", "ga",
	"pl", "cs", "sk", "sl", "hr", "hu", "ro", "bg", "el", "tr", "uk", "ja", "ko", "zh-Hans", "zh-Hant", "hi", "ar", "he"}

func languages() []Language {
	list := []Language{}
	for _, tag := range offered {
		list = append(list, Language{tag, display.Self.Name(language.MustParse(tag))})
	}
	return list
}

// pictured is the seed of the weeks that are shown of rhythms to begin with.
const pictured = 20

type beginBlogInput struct {
	Title string `query:"title" maxLength:"1000"`
	Zone  string `query:"zone" maxLength:"100" doc:"IANA time zone; UTC where it is none"`
}

func (s part) beginBlog(_ context.Context, in *beginBlogInput) (*struct{ Body BlogBeginning }, error) {
	zone, err := civil.LoadZone(in.Zone)
	if err != nil {
		zone = civil.Zone{}
	}
	monday := zone.DateOf(s.Clock.Now()).Monday()
	body := BlogBeginning{Slug: address.SiteName(in.Title), Languages: languages(), Starts: []Start{}}
	for _, start := range rhythm.Starts() {
		r := rhythm.Rhythm{Zone: zone, Gap: start.Gap, Seed: pictured, Uneven: true, Openings: start.Openings}
		body.Starts = append(body.Starts, Start{start.Key, start.Name, start.Says, rhythms.PreviewDays(r, nil, monday, 7)})
	}
	return &struct{ Body BlogBeginning }{body}, nil
}

type addBlogInput struct {
	Body accounts.NewBlog
}

func (s part) addBlog(ctx context.Context, in *addBlogInput) (*struct{ Body accounts.MySite }, error) {
	site, err := founding.Add(ctx, s.Store, operation.SeatOf(ctx).User.ID, in.Body.Of(), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body accounts.MySite }{accounts.ViewSite(site, people.Owner)}, nil
}

func (s part) archiveBlog(ctx context.Context, _ *operation.SitePath) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	return nil, s.Problem(founding.Archive(ctx, s.Store, desk.Site, desk.Actor, s.Clock.Now()))
}

func (s part) unarchiveBlog(ctx context.Context, _ *operation.SitePath) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	return nil, s.Problem(founding.Unarchive(ctx, s.Store, desk.Site, desk.Actor, s.Clock.Now()))
}

type deleteBlogInput struct {
	operation.SitePath
	Confirm string `query:"confirm" required:"true" maxLength:"1000" doc:"the blog's title"`
}

func (s part) deleteBlog(ctx context.Context, in *deleteBlogInput) (*struct{}, error) {
	return nil, s.Problem(founding.Delete(ctx, s.Store, operation.DeskOf(ctx).Site, in.Confirm))
}
