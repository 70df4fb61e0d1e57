package posts

import (
	"context"
	"encoding/base64"
	"encoding/json"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

// postsPage is how many posts a page of the list has.
const postsPage = 100

func (s part) listOperations(api huma.API) {
	const posts = "/api/v1/sites/{site}/posts"
	huma.Register(api, huma.Operation{
		OperationID: "list-posts", Method: http.MethodGet, Path: posts,
		Summary:     "Posts and drafts, searched, narrowed and in an order",
		Description: "The pages after the first are asked for by cursor.",
	}, s.listPosts)
	huma.Register(api, huma.Operation{
		OperationID: "count-posts", Method: http.MethodGet, Path: posts +
			"/counts", Summary: "How many posts of a filter stand in each stage",
	}, s.countPosts)
	huma.Register(api, huma.Operation{
		OperationID: "change-posts", Method: http.MethodPost, Path: posts +
			"/bulk", Summary: "Do one thing to many posts",
		Description: "To those of the ids, or to all of a filter. Those that it does not fit are skipped, with the reason; the others are one act of the logbook.",
	}, s.changePosts)
	huma.Register(api, huma.Operation{
		OperationID: "find-titles", Method: http.MethodGet, Path: "/api/v1/sites/{site}/titles",
		Summary: "Find posts by a part of their title", Description: "The latest changed first, a dozen at most.",
	}, s.findTitles)
}

// PostFilter narrows a list of posts.
type PostFilter struct {
	Text       string   `json:"text,omitempty" query:"text" maxLength:"200" doc:"words to look for; quotes, or and - as search engines take them"`
	Stages     []string `json:"stages,omitempty" query:"stages,explode" maxItems:"9" enum:"draft,handed in,cleared,scheduled,held,published,archived,linked,binned" doc:"none: all but link items and the bin"`
	Authors    []int64  `json:"authors,omitempty" query:"authors,explode" maxItems:"100" doc:"of any of these people"`
	Categories []int64  `json:"categories,omitempty" query:"categories,explode" maxItems:"100" doc:"in any of these; -1: without one"`
	Tags       []int64  `json:"tags,omitempty" query:"tags,explode" maxItems:"100" doc:"with any of these"`
	Kind       string   `json:"kind,omitempty" query:"kind" enum:"post,page,link"`
	From       string   `json:"from,omitempty" query:"from" doc:"first date, as 2026-11-24"`
	To         string   `json:"to,omitempty" query:"to" doc:"last date"`
}

// Of is the filter as the store knows it.
func (f PostFilter) Of(zone civil.Zone) (store.PostFilter, error) {
	filter := store.PostFilter{Text: f.Text, Authors: f.Authors, Categories: f.Categories, Tags: f.Tags, Kind: f.Kind}
	for _, stage := range f.Stages {
		filter.Stages = append(filter.Stages, store.Stage(stage))
	}
	for _, bound := range []struct {
		field, text string
		days        int
		to          *time.Time
	}{{"from", f.From, 0, &filter.From}, {"to", f.To, 1, &filter.To}} {
		if bound.text == "" {
			continue
		}
		date, err := civil.ParseDate(bound.text)
		if err != nil {
			return filter, huma.Error422UnprocessableEntity("The dates of the filter cannot be read: "+err.Error()+".",
				&huma.ErrorDetail{Location: "query." + bound.field, Message: err.Error()})
		}
		*bound.to = zone.At(date.Add(bound.days), 0)
	}
	return filter, nil
}

type listInput struct {
	operation.SitePath
	PostFilter
	Sort   string `query:"sort" enum:"changed,date,title,words,relevance" default:"changed"`
	Order  string `query:"order" enum:"up,down" default:"down"`
	Cursor string `query:"cursor" doc:"of the page before"`
}

// ListedPost is a post in a list.
type ListedPost struct {
	ID         int64            `json:"id"`
	Title      string           `json:"title"`
	Stage      string           `json:"stage" enum:"draft,handed in,cleared,scheduled,held,published,archived,linked,binned"`
	Kind       string           `json:"kind" enum:"post,page,link"`
	AuthorID   int64            `json:"authorId"`
	Author     string           `json:"author"`
	CategoryID int64            `json:"categoryId" doc:"0 for none"`
	Category   string           `json:"category,omitempty"`
	Tags       []string         `json:"tags"`
	Slug       string           `json:"slug"`
	Address    string           `json:"address,omitempty" doc:"where readers find it, once it is out"`
	When       *operation.Place `json:"when,omitempty" doc:"when it is due or came out"`
	Updated    operation.Place  `json:"updated"`
	Words      int              `json:"words"`
	Comments   int              `json:"comments" doc:"of readers, that are shown"`
	Pinned     bool             `json:"pinned"`
	OnTop      bool             `json:"onTop"`
	Evergreen  bool             `json:"evergreen"`
	Featured   bool             `json:"featured" doc:"it has a featured image"`
	Version    int              `json:"version"`
	Can        []string         `json:"can" doc:"what you can do with it as it stands"`
	Found      []Marked         `json:"found,omitempty" doc:"the title, what was looked for being marked"`
	Snippet    []Marked         `json:"snippet,omitempty" doc:"a stretch of the text in which it was found"`
}

// Marked is a stretch of text, and whether it is what was looked for.
type Marked struct {
	Text string `json:"text"`
	Hit  bool   `json:"hit,omitempty"`
}

// PostsPage is a page of a list of posts.
type PostsPage struct {
	Posts []ListedPost `json:"posts"`
	Next  string       `json:"next,omitempty" doc:"cursor of the next page"`
}

type countInput struct {
	operation.SitePath
	PostFilter
}

// countPosts counts a filter's posts by stage, whatever stages it is for. It is apart from
// the list, which need not wait for it.
func (s part) countPosts(ctx context.Context, in *countInput) (*struct{ Body map[string]int }, error) {
	site := operation.DeskOf(ctx).Site
	filter, err := in.Of(site.Zone())
	if err != nil {
		return nil, err
	}
	found, err := s.Store.CountStages(ctx, site.ID, filter)
	if err != nil {
		return nil, s.Problem(err)
	}
	counts := make(map[string]int)
	for _, stage := range store.Stages() {
		counts[string(stage)] = found[stage]
	}
	return &struct{ Body map[string]int }{counts}, nil
}

// listPlace is what a cursor holds.
type listPlace struct {
	Sort, Order, Key string
	ID               int64
}

func (s part) listPosts(ctx context.Context, in *listInput) (*struct{ Body PostsPage }, error) {
	site := operation.DeskOf(ctx).Site
	filter, err := in.Of(site.Zone())
	if err != nil {
		return nil, err
	}
	var after *store.ListPlace
	if in.Cursor != "" {
		if after, err = in.place(); err != nil {
			return nil, err
		}
	}
	rows, err := s.Store.ListPosts(ctx, site.ID, filter, in.Sort, in.Order == "down", after, postsPage+1)
	if err != nil {
		return nil, s.Problem(err)
	}
	page := PostsPage{Posts: []ListedPost{}}
	if len(rows) > postsPage {
		rows = rows[:postsPage]
		last := rows[postsPage-1]
		page.Next = in.cursor(last)
	}
	ids := make([]int64, len(rows))
	for i, r := range rows {
		ids[i] = r.ID
	}
	comments, err := s.Store.CommentsShown(ctx, ids)
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, r := range rows {
		post := listed(site, r)
		post.Comments = comments[r.ID]
		post.Can = canDo(ctx, r.AuthorID, status.Situation{Status: r.Status, Kind: r.Kind, Title: r.Title,
			HasText: r.HasText,
			Cleared: r.Cleared, Held: r.Held, HandedIn: r.Stage == "handed in", DueAt: r.DueAt}, s.Clock.Now())
		page.Posts = append(page.Posts, post)
	}
	return &struct{ Body PostsPage }{page}, nil
}

func (in *listInput) cursor(last store.ListRow) string {
	raw, err := json.Marshal(listPlace{in.Sort, in.Order, last.Key, last.ID})
	if err != nil {
		panic(err) // strings and numbers
	}
	return base64.RawURLEncoding.EncodeToString(raw)
}

func (in *listInput) place() (*store.ListPlace, error) {
	var p listPlace
	raw, err := base64.RawURLEncoding.DecodeString(in.Cursor)
	if err == nil {
		err = json.Unmarshal(raw, &p)
	}
	if err != nil || p.Sort != in.Sort || p.Order != in.Order || p.ID == 0 || !fitsOrder(p) {
		return nil,
			huma.Error422UnprocessableEntity("The cursor doesn’t belong to this list. Use the one from the page before.",
				&huma.ErrorDetail{Location: "query.cursor", Message: "Use the one from the page before."})
	}
	return &store.ListPlace{Key: p.Key, ID: p.ID}, nil
}

// fitsOrder tells whether the key of a cursor is one of its order, as far as the
// database would refuse it.
func fitsOrder(p listPlace) bool {
	switch p.Sort {
	case store.ByTitle:
		return true
	case store.ByWords, store.ByRelevance:
		var f float64
		_, err := fmt.Sscanf(p.Key, "%g", &f)
		if err == nil {
			return true
		}
		return p.Sort == store.ByRelevance && isMoment(p.Key) // nothing was searched for
	}
	return isMoment(p.Key)
}

func isMoment(text string) bool {
	for _, form := range []string{"2006-01-02 15:04:05.999999-07", "2006-01-02 15:04:05.999999-07:00"} {
		if _, err := time.Parse(form, text); err == nil {
			return true
		}
	}
	return false
}

func listed(site store.Site, r store.ListRow) ListedPost {
	p := ListedPost{ID: r.ID, Title: r.Title, Stage: string(r.Stage), Kind: r.Kind, AuthorID: r.AuthorID,
		Author: r.AuthorName, CategoryID: operation.OrZero(r.CategoryID),
		Category: operation.OrEmpty(r.CategoryName), Tags: r.Tags, Slug: r.Slug, Updated: operation.PlaceAt(site.Zone(),
			r.UpdatedAt), Words: r.Words,
		Pinned: r.Pinned, OnTop: r.OnTop, Evergreen: r.Evergreen, Featured: r.Featured, Version: r.Version,
		Found: stretches(r.Marked), Snippet: stretches(r.Snippet)}
	if p.When = operation.MaybePlace(site.Zone(), r.PublishedAt); p.When == nil {
		p.When = operation.MaybePlace(site.Zone(), r.DueAt)
	}
	if r.Status == store.Published || r.Status == store.Archived {
		p.Address = address.Path(site.Slug, r.Slug)
	}
	return p
}

// stretches cuts a marked text into what is marked and what is not.
func stretches(marked string) (all []Marked) {
	text, hit := []rune{}, false
	flush := func() {
		if len(text) > 0 {
			all = append(all, Marked{string(text), hit})
			text = text[:0]
		}
	}
	for _, r := range marked {
		switch string(r) {
		case store.MarkOpen:
			flush()
			hit = true
		case store.MarkClose:
			flush()
			hit = false
		default:
			text = append(text, r)
		}
	}
	flush()
	return all
}

type bulkInput struct {
	operation.SitePath
	Body struct {
		Do    string      `json:"do" enum:"clear,unclear,bin,restore,give back"`
		IDs   []int64     `json:"ids,omitempty" doc:"the posts"`
		Match *PostFilter `json:"match,omitempty" doc:"or all posts of a filter"`
		Count int         `json:"count,omitempty" doc:"with match: how many posts the list showed; another number now is refused"`
	}
}

// BulkOutcome tells what was done to many posts.
type BulkOutcome struct {
	Done    int           `json:"done"`
	Skipped []SkippedPost `json:"skipped" doc:"those that it did not fit"`
}

// SkippedPost is a post to which something was not done.
type SkippedPost struct {
	ID    int64  `json:"id"`
	Title string `json:"title"`
	Why   string `json:"why"`
}

func (s part) changePosts(ctx context.Context, in *bulkInput) (*struct{ Body BulkOutcome }, error) {
	desk := operation.DeskOf(ctx)
	ids, err := s.chosen(ctx, desk.Site, in.Body.IDs, in.Body.Match, in.Body.Count)
	if err != nil {
		return nil, err
	}
	done, skipped, err := status.Bulk(ctx, desk, in.Body.Do, ids, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	outcome := BulkOutcome{Done: done, Skipped: []SkippedPost{}}
	for _, skip := range skipped {
		outcome.Skipped = append(outcome.Skipped, SkippedPost{skip.ID, skip.Title, skip.Reason})
	}
	return &struct{ Body BulkOutcome }{outcome}, nil
}

// chosen lists the posts that are meant: those with the ids, or those of a filter.
func (s part) chosen(ctx context.Context, site store.Site, ids []int64, match *PostFilter, shown int) ([]int64,
	error) {
	if (len(ids) > 0) == (match != nil) {
		return nil, operation.Invalid(&act.Invalid{Field: "ids", Message: "Say which posts: their ids, or a filter."})
	}
	if match != nil {
		return s.matching(ctx, site, *match, shown)
	}
	return sorted(ids), nil
}

// matching lists the posts of a filter, which must be as many as were shown.
func (s part) matching(ctx context.Context, site store.Site, match PostFilter, shown int) ([]int64, error) {
	filter, err := match.Of(site.Zone())
	if err != nil {
		return nil, err
	}
	ids, err := s.Store.PostIDs(ctx, site.ID, filter, status.MaxBulk+1)
	if err != nil {
		return nil, s.Problem(err)
	}
	if len(ids) <= status.MaxBulk && len(ids) != shown {
		return nil,
			huma.Error409Conflict(fmt.Sprintf("The list has changed: it was %d posts and is %d now. Nothing was done; look at it again.", shown, len(ids)))
	}
	return ids, nil
}

// FoundPost is a post that a title was looked for in.
type FoundPost struct {
	ID     int64  `json:"id"`
	Title  string `json:"title"`
	Status string `json:"status"`
	Kind   string `json:"kind" enum:"post,page,link"`
	Path   string `json:"path,omitempty" doc:"where readers find it on this server, or will; absent while it has no address"`
}

// FoundPosts are some posts.
type FoundPosts struct {
	Posts []FoundPost `json:"posts"`
}

// foundPosts is how many posts a search for a title lists.
const foundPosts = 12

type findInput struct {
	operation.SitePath
	Title string `query:"title" minLength:"1" maxLength:"200" required:"true"`
}

func (s part) findTitles(ctx context.Context, in *findInput) (*struct{ Body FoundPosts }, error) {
	entries, err := s.Store.FindPosts(ctx, operation.DeskOf(ctx).Site.ID, in.Title, foundPosts)
	if err != nil {
		return nil, s.Problem(err)
	}
	found := FoundPosts{Posts: []FoundPost{}}
	for _, e := range entries {
		post := FoundPost{ID: e.ID, Title: e.Title, Status: string(e.Status), Kind: e.Kind}
		if e.Slug != "" {
			post.Path = address.Path(operation.DeskOf(ctx).Site.Slug, e.Slug)
		}
		found.Posts = append(found.Posts, post)
	}
	return &struct{ Body FoundPosts }{found}, nil
}
