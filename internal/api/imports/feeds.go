package imports

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/imports"
	"dapper.example/internal/store"
)

func (s part) feedOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/feeds"
	huma.Register(api, huma.Operation{
		OperationID: "list-feeds", Method: http.MethodGet, Path: path, Summary: "Feeds whose new items are brought in",
	}, s.listFeeds)
	huma.Register(api, huma.Operation{
		OperationID: "add-feed", Method: http.MethodPost, Path: path, Summary: "Add a feed",
		Description:   "RSS, Atom or JSON Feed. It is looked at at once, and then at an interval; it is asked whether it has changed, and left alone for as long as it asks.",
		DefaultStatus: http.StatusCreated, MaxBodyBytes: maxSetup,
	}, s.addFeed)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "preview-feed", Method: http.MethodPost, Path: path + "/preview", Summary: "What the newest items of a feed would become", MaxBodyBytes: maxSetup,
	}), s.previewFeed)
	huma.Register(api, huma.Operation{
		OperationID: "save-feed", Method: http.MethodPut, Path: path + "/{id}", Summary: "Change a feed", Errors: []int{http.StatusConflict}, MaxBodyBytes: maxSetup,
	}, s.saveFeed)
	huma.Register(api, huma.Operation{
		OperationID: "delete-feed", Method: http.MethodDelete, Path: path + "/{id}", Summary: "Delete a feed; what it brought stays", DefaultStatus: http.StatusNoContent,
	}, s.deleteFeed)
	huma.Register(api, huma.Operation{
		OperationID: "hurry-feed", Method: http.MethodPost, Path: path + "/{id}/look", Summary: "Look at a feed now", DefaultStatus: http.StatusNoContent,
	}, s.hurryFeed)
}

// FeedBody is what an editor says of a feed.
type FeedBody struct {
	Name     string        `json:"name"`
	Address  string        `json:"address"`
	Minutes  int           `json:"minutes" doc:"from one look to the next"`
	Existing bool          `json:"existing,omitempty" doc:"items that are there at the first look come too"`
	Becomes  string        `json:"becomes" enum:"posts,links,messages" doc:"links: link items, which rules share; messages: prepared ones, with a title and a link, to be shared"`
	Setup    imports.Setup `json:"setup,omitempty"`
	Paused   bool          `json:"paused,omitempty"`
}

func (b FeedBody) says() imports.FeedSays {
	return imports.FeedSays{Name: b.Name, Address: b.Address, Minutes: b.Minutes, Existing: b.Existing, Becomes: b.Becomes, Setup: b.Setup, Paused: b.Paused}
}

// Feed is a feed whose new items are brought in.
type Feed struct {
	ID int64 `json:"id"`
	FeedBody
	Looked  *time.Time `json:"looked,omitempty" doc:"when it was looked at last"`
	Next    time.Time  `json:"next" doc:"when it is looked at next"`
	Problem string     `json:"problem,omitempty" doc:"why the last look failed"`
	Version int        `json:"version"`
}

func viewFeed(f store.Feed) (Feed, error) {
	setup, err := imports.SetupOf(store.Import{Setup: f.Setup})
	return Feed{ID: f.ID, FeedBody: FeedBody{f.Name, f.Address, f.Minutes, f.Existing, f.Becomes, setup, f.Paused}, Looked: f.LookedAt, Next: f.NextAt.UTC(), Problem: f.Problem, Version: f.Version}, err
}

// FeedList is the site's feeds.
type FeedList struct {
	Feeds []Feed `json:"feeds"`
}

func (s part) listFeeds(ctx context.Context, _ *operation.SitePath) (*struct{ Body FeedList }, error) {
	all, err := s.Store.Feeds(ctx, operation.DeskOf(ctx).Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := FeedList{Feeds: []Feed{}}
	for _, f := range all {
		v, err := viewFeed(f)
		if err != nil {
			return nil, s.Problem(err)
		}
		body.Feeds = append(body.Feeds, v)
	}
	return &struct{ Body FeedList }{body}, nil
}

type feedInput struct {
	operation.SitePath
	Body FeedBody
}

func (s part) answerFeed(f store.Feed, err error) (*struct{ Body Feed }, error) {
	if err != nil {
		return nil, s.problem(err)
	}
	v, err := viewFeed(f)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Feed }{v}, nil
}

func (s part) addFeed(ctx context.Context, in *feedInput) (*struct{ Body Feed }, error) {
	return s.answerFeed(imports.AddFeed(ctx, operation.DeskOf(ctx), in.Body.says(), s.Inside, s.Clock.Now()))
}

// FeedPreview is what the newest items of a feed become.
type FeedPreview struct {
	Title string       `json:"title" doc:"the feed’s own"`
	Lines []ImportLine `json:"lines"`
}

func (s part) previewFeed(ctx context.Context, in *feedInput) (*struct{ Body FeedPreview }, error) {
	d := operation.DeskOf(ctx)
	title, shown, err := imports.PreviewFeed(ctx, d, in.Body.says(), s.Inside, previewed, s.Clock.Now())
	if err != nil {
		return nil, s.problem(err)
	}
	body := FeedPreview{Title: title, Lines: []ImportLine{}}
	for _, one := range shown {
		line, err := s.line(ctx, d.Site, one, cut)
		if err != nil {
			return nil, s.Problem(err)
		}
		body.Lines = append(body.Lines, line)
	}
	return &struct{ Body FeedPreview }{body}, nil
}

type saveFeedInput struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Version int `json:"version"`
		FeedBody
	}
}

func (s part) saveFeed(ctx context.Context, in *saveFeedInput) (*struct{ Body Feed }, error) {
	d := operation.DeskOf(ctx)
	if _, err := s.Store.Feed(ctx, d.Site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	return s.answerFeed(imports.SaveFeed(ctx, d, in.ID, in.Body.Version, in.Body.says(), s.Inside, s.Clock.Now()))
}

func (s part) deleteFeed(ctx context.Context, in *operation.ItemPath) (*struct{}, error) {
	return nil, s.Problem(s.Store.DeleteFeed(ctx, operation.DeskOf(ctx).Site.ID, in.ID))
}

func (s part) hurryFeed(ctx context.Context, in *operation.ItemPath) (*struct{}, error) {
	return nil, s.Problem(s.Store.HurryFeed(ctx, operation.DeskOf(ctx).Site.ID, in.ID, s.Clock.Now()))
}
