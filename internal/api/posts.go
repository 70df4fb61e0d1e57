package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/blog"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// Post is a post with all that its editor works on.
type Post struct {
	ID         int64     `json:"id"`
	Title      string    `json:"title" doc:"may be empty while the post is a draft"`
	Body       string    `json:"body" doc:"Markdown"`
	CategoryID int64     `json:"categoryId" doc:"0 for none"`
	Category   string    `json:"category,omitempty"`
	Tags       []string  `json:"tags"`
	Author     string    `json:"author"`
	Status     string    `json:"status" enum:"draft,scheduled,published,archived,binned"`
	Cleared    bool      `json:"cleared" doc:"released to the queue"`
	Pinned     bool      `json:"pinned"`
	Held       bool      `json:"held" doc:"overdue, and held back for an editor"`
	NotBefore  *Place    `json:"notBefore,omitempty" doc:"it may not come out earlier"`
	Deadline   *Place    `json:"deadline,omitempty" doc:"it may not come out later"`
	When       *Place    `json:"when,omitempty" doc:"when it is due or came out"`
	Address    string    `json:"address,omitempty" doc:"where readers find it, once it is out"`
	Version    int       `json:"version"`
	UpdatedAt  time.Time `json:"updatedAt"`
	Notes      []string  `json:"notes" doc:"what the editor should know, such as what readers will not see"`

	FirstPublished *Place `json:"firstPublished,omitempty" doc:"of a post that came out again: when it first did"`
	Care           Care   `json:"care"`
}

// LogLine is a line of the logbook.
type LogLine struct {
	Place
	Deed   string `json:"deed"`
	Reason string `json:"reason"`
	Who    string `json:"who" doc:"a person's name, or the engine"`
}

func (s *Server) post(site store.Site, p store.Post) Post {
	view := Post{
		ID: p.ID, Title: p.Title, Body: p.Body, Category: orEmpty(p.CategoryName), Tags: p.Tags, Author: p.AuthorName,
		Status: string(p.Status), Cleared: p.Cleared, Pinned: p.Pinned, Held: p.Held,
		NotBefore: orNoPlace(site.Zone(), p.NotBefore), Deadline: orNoPlace(site.Zone(), p.Deadline), Version: p.Version, UpdatedAt: p.UpdatedAt, Notes: s.notes(p.Body),
	}
	if p.CategoryID != nil {
		view.CategoryID = *p.CategoryID
	}
	for _, at := range []*time.Time{p.PublishedAt, p.DueAt} {
		if at != nil {
			place := placeAt(site.Zone(), *at)
			view.When = &place
			break
		}
	}
	view.Care = viewCare(site.Zone(), p)
	if p.TimesRepublished > 0 {
		view.FirstPublished = orNoPlace(site.Zone(), p.FirstPublishedAt)
	}
	if p.Status == store.Published || p.Status == store.Archived {
		view.Address = blog.Path(site.Slug, p.Slug)
	}
	return view
}

func orNoPlace(zone civil.Zone, at *time.Time) *Place {
	if at == nil {
		return nil
	}
	place := placeAt(zone, *at)
	return &place
}

// notes tells what of the text readers will not see.
func (s *Server) notes(body string) []string {
	notes := []string{}
	if removed := s.renderer.Removed(body); len(removed) > 0 {
		notes = append(notes, fmt.Sprintf("Readers will not see this part of the text, since it could harm them: %s. The text itself is kept as you wrote it.",
			strings.Join(removed, ", ")))
	}
	return notes
}

// PostPath is in the path of every operation on a post.
type PostPath struct {
	SitePath
	ID int64 `path:"id" minimum:"1"`
}

type postOutput struct {
	Body Post
}

// maxPostBody has room for the longest text as JSON.
const maxPostBody = 4 << 20

func (s *Server) postOperations(api huma.API) {
	s.careOperations(api)
	const posts, one = "/api/v1/sites/{site}/posts", "/api/v1/sites/{site}/posts/{id}"
	conflict := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "list-topics", Method: http.MethodGet, Path: "/api/v1/sites/{site}/topics",
		Summary: "The site's categories and tags",
	}, s.listTopics)
	huma.Register(api, huma.Operation{
		OperationID: "begin-post", Method: http.MethodPost, Path: posts, Summary: "Begin a draft",
		DefaultStatus: http.StatusCreated, MaxBodyBytes: maxPostBody,
	}, s.beginPost)
	huma.Register(api, huma.Operation{
		OperationID: "get-post", Method: http.MethodGet, Path: one, Summary: "One post",
	}, s.getPost)
	huma.Register(api, huma.Operation{
		OperationID: "write-post", Method: http.MethodPatch, Path: one, Summary: "Save what was written",
		Description: "Fields that are absent stay as they are.", Errors: conflict, MaxBodyBytes: maxPostBody,
	}, s.writePost)
	huma.Register(api, huma.Operation{
		OperationID: "get-post-log", Method: http.MethodGet, Path: one + "/logbook", Summary: "The logbook of one post",
	}, s.getPostLog)

	s.registerDeed(api, "clear-post", one+"/clear", "Release a draft to the queue", planning.Desk.Clear)
	s.registerDeed(api, "unclear-post", one+"/unclear", "Take a draft off the shelf", planning.Desk.Unclear)
	s.registerDeed(api, "shelve-post", one+"/shelve", "Take a scheduled post back to the shelf", planning.Desk.Shelve)
	s.registerDeed(api, "publish-post", one+"/publish", "Publish a post now", planning.Desk.PublishNow)
	huma.Register(api, huma.Operation{
		OperationID: "retime-post", Method: http.MethodPost, Path: one + "/retime", Summary: "Give a post a time by hand",
		Description: "The post is pinned there. Posts nearer than the gap are told in notes; they do not prevent it.", Errors: conflict,
	}, s.retimePost)
}

func (s *Server) listTopics(ctx context.Context, in *SitePath) (*struct{ Body Topics }, error) {
	desk, _, err := s.desk(ctx, *in)
	if err != nil {
		return nil, err
	}
	categories, err := s.Store.Categories(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.problem(err)
	}
	topics := Topics{Categories: []Topic{}, Tags: []string{}}
	for _, c := range categories {
		topics.Categories = append(topics.Categories, Topic{c.ID, c.Name})
	}
	tags, err := s.Store.TagNames(ctx, desk.Site.ID)
	topics.Tags = append(topics.Tags, tags...)
	return &struct{ Body Topics }{topics}, s.problem(err)
}

// Topics are what a site's posts are sorted by.
type Topics struct {
	Categories []Topic  `json:"categories"`
	Tags       []string `json:"tags" doc:"most used first"`
}

// Topic is a category.
type Topic struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Writing is what an editor changes of a post.
type Writing struct {
	Title      *string   `json:"title,omitempty"`
	Body       *string   `json:"body,omitempty" doc:"Markdown"`
	CategoryID *int64    `json:"categoryId,omitempty" doc:"0 for none"`
	Tags       *[]string `json:"tags,omitempty"`
}

func (w Writing) text() (planning.Text, error) {
	text := planning.Text{Title: w.Title, Body: w.Body, Category: w.CategoryID, Tags: w.Tags}
	if problems := text.Problems(); len(problems) > 0 {
		return text, invalid(problems...)
	}
	return text, nil
}

type beginInput struct {
	SitePath
	Body Writing
}

func (s *Server) beginPost(ctx context.Context, in *beginInput) (*postOutput, error) {
	desk, _, err := s.desk(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	text, err := in.Body.text()
	if err != nil {
		return nil, err
	}
	post, err := desk.Begin(ctx, text, s.Clock.Now())
	if err != nil {
		return nil, s.problem(err)
	}
	return &postOutput{s.post(desk.Site, post)}, nil
}

func (s *Server) getPost(ctx context.Context, in *PostPath) (*postOutput, error) {
	desk, _, err := s.desk(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	return s.present(ctx, desk, in.ID)
}

func (s *Server) present(ctx context.Context, desk planning.Desk, id int64) (*postOutput, error) {
	post, err := s.Store.Post(ctx, desk.Site.ID, id)
	if err != nil {
		return nil, s.problem(err)
	}
	return &postOutput{s.post(desk.Site, post)}, nil
}

type writeInput struct {
	PostPath
	Body struct {
		Version int `json:"version" doc:"the version that was written on"`
		Writing
	}
}

func (s *Server) writePost(ctx context.Context, in *writeInput) (*postOutput, error) {
	desk, role, err := s.desk(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	if role == "contributor" {
		if err := s.ownDraft(ctx, desk, in.ID); err != nil {
			return nil, err
		}
	}
	text, err := in.Body.text()
	if err != nil {
		return nil, err
	}
	post, err := desk.Write(ctx, in.ID, in.Body.Version, text, s.Clock.Now())
	if err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	return &postOutput{s.post(desk.Site, post)}, nil
}

// ownDraft refuses what is not a draft of the person's own.
func (s *Server) ownDraft(ctx context.Context, desk planning.Desk, id int64) error {
	post, err := s.Store.Post(ctx, desk.Site.ID, id)
	if err != nil {
		return s.problem(err)
	}
	if post.AuthorID != desk.Actor || post.Status != store.Draft || post.Cleared {
		return huma.Error403Forbidden("Contributors write on drafts of their own that are not cleared yet. Ask an editor.")
	}
	return nil
}

// stale adds the post as it is now to a conflict.
func (s *Server) stale(ctx context.Context, desk planning.Desk, id int64, err error) error {
	said := s.problem(err)
	var p *Problem
	if errors.Is(err, planning.ErrStale) && errors.As(said, &p) {
		if now, err := s.present(ctx, desk, id); err == nil {
			p.Present = &now.Body
		}
	}
	return said
}

type deedInput struct {
	PostPath
	Body struct {
		Version int `json:"version" doc:"the version that was seen"`
	}
}

// registerDeed adds an operation that does one deed to a post and answers with the
// post as it is then.
func (s *Server) registerDeed(api huma.API, id, path, summary string,
	do func(planning.Desk, context.Context, int64, int, time.Time) error) {
	huma.Register(api, huma.Operation{
		OperationID: id, Method: http.MethodPost, Path: path, Summary: summary, Errors: []int{http.StatusConflict},
	}, func(ctx context.Context, in *deedInput) (*postOutput, error) {
		desk, err := s.planner(ctx, in.SitePath)
		if err != nil {
			return nil, err
		}
		if err := do(desk, ctx, in.ID, in.Body.Version, s.Clock.Now()); err != nil {
			return nil, s.stale(ctx, desk, in.ID, err)
		}
		return s.present(ctx, desk, in.ID)
	})
}

type retimeInput struct {
	PostPath
	Body struct {
		Version int         `json:"version" doc:"the version that was seen"`
		Date    civil.Date  `json:"date" doc:"in the site's zone, as 2026-11-24" example:"2026-11-24"`
		Time    civil.Clock `json:"time" doc:"in the site's zone, as 09:40" example:"09:40"`
	}
}

func (s *Server) retimePost(ctx context.Context, in *retimeInput) (*postOutput, error) {
	desk, err := s.planner(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	if in.Body.Time >= civil.Midnight {
		return nil, invalid(&planning.Invalid{Field: "time", Message: "The time is after midnight; choose one from 00:00 to 23:59 and the date it is on."})
	}
	zone := desk.Site.Zone()
	at := zone.At(in.Body.Date, in.Body.Time)
	near, err := desk.Retime(ctx, in.ID, in.Body.Version, at, s.Clock.Now())
	if err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	out, err := s.present(ctx, desk, in.ID)
	if err != nil {
		return nil, err
	}
	if date, clock := zone.Local(at); date != in.Body.Date || clock != in.Body.Time {
		out.Body.Notes = append(out.Body.Notes, fmt.Sprintf("The clocks skip %s on that day, so it comes out at %s.", in.Body.Time, clock))
	}
	for _, e := range near {
		_, clock := zone.Local(e.At())
		out.Body.Notes = append(out.Body.Notes, fmt.Sprintf("That is nearer than the gap to “%s” at %s.", e.Title, clock))
	}
	return out, nil
}

func (s *Server) getPostLog(ctx context.Context, in *PostPath) (*struct{ Body []LogLine }, error) {
	desk, _, err := s.desk(ctx, in.SitePath)
	if err != nil {
		return nil, err
	}
	if _, err := s.Store.Post(ctx, desk.Site.ID, in.ID); err != nil {
		return nil, s.problem(err)
	}
	entries, err := s.Store.LogOf(ctx, desk.Site.ID, in.ID)
	if err != nil {
		return nil, s.problem(err)
	}
	lines := []LogLine{}
	for _, e := range entries {
		lines = append(lines, LogLine{placeAt(desk.Site.Zone(), e.At), e.Deed, e.Reason, e.Who})
	}
	return &struct{ Body []LogLine }{lines}, nil
}
