// Package posts has the operations of posts: their texts and fields, the list, what is done by
// hand to one or to many, previews, pictures.
package posts

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
	"dapper.example/internal/blog"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/people"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.listOperations(api)
	s.postOperations(api)
	s.editOperations(api)
	s.boundOperations(api)
	s.textOperations(api)
	s.timedOperations(api)
	s.restoreOperations(api)
	s.previewOperations(api)
	s.remarkOperations(api)
	s.pictureOperations(api)
	s.readyOperations(api)
}

// Post is a post with all that its editor works on.
type Post struct {
	ID           int64            `json:"id"`
	Title        string           `json:"title" doc:"may be empty while the post is a draft"`
	Body         string           `json:"body" doc:"Markdown"`
	Excerpt      string           `json:"excerpt" doc:"what lists and shares say of it; made from the text where it is empty"`
	Slug         string           `json:"slug" doc:"its address; made from the title when it is needed, where it is empty"`
	Kind         string           `json:"kind" enum:"post,page,link"`
	Link         string           `json:"link,omitempty" doc:"of a link item: where it leads"`
	CategoryID   int64            `json:"categoryId" doc:"0 for none"`
	Category     string           `json:"category,omitempty"`
	Tags         []string         `json:"tags"`
	AuthorID     int64            `json:"authorId"`
	Author       string           `json:"author"`
	Featured     Featured         `json:"featured"`
	Status       string           `json:"status" enum:"draft,scheduled,published,archived,linked,binned"`
	Stage        string           `json:"stage" enum:"draft,handed in,cleared,scheduled,held,published,archived,linked,binned"`
	Cleared      bool             `json:"cleared" doc:"released to the queue"`
	Pinned       bool             `json:"pinned"`
	Held         bool             `json:"held" doc:"overdue, and held back for an editor"`
	OnTop        bool             `json:"onTop" doc:"before all others on the front page"`
	CommentsOpen bool             `json:"commentsOpen"`
	NotBefore    *operation.Place `json:"notBefore,omitempty" doc:"it may not come out earlier"`
	Deadline     *operation.Place `json:"deadline,omitempty" doc:"it may not come out later"`
	When         *operation.Place `json:"when,omitempty" doc:"when it is due or came out"`
	Address      string           `json:"address,omitempty" doc:"where readers find it, once it is out"`
	Words        int              `json:"words"`
	Minutes      int              `json:"minutes" doc:"to read it"`
	Version      int              `json:"version"`
	UpdatedAt    time.Time        `json:"updatedAt"`
	Can          []string         `json:"can" doc:"what you can do with it as it stands"`
	Notes        []string         `json:"notes" doc:"what the editor should know, such as what readers will not see"`

	FirstPublished *operation.Place  `json:"firstPublished,omitempty" doc:"of a post that came out again: when it first did"`
	Expires        *PlaceWish        `json:"expires,omitempty" doc:"its own expiry"`
	NeverExpires   bool              `json:"neverExpires"`
	Evergreen      bool              `json:"evergreen"`
	Fields         map[string]string `json:"fields" doc:"custom fields"`
	Notice         string            `json:"notice,omitempty" doc:"what readers of the archived post see"`
}

// Featured is the picture that stands for a post.
type Featured struct {
	Address string `json:"address" example:"https://quillmoor.example/dome.jpg" doc:"one of the blog's pictures, or an address that begins with https://; empty for none"`
	Alt     string `json:"alt" doc:"what it shows, for those who do not see it"`
}

// PlaceWish is a time of the site's clocks.
type PlaceWish struct {
	Date  civil.Date  `json:"date" example:"2026-11-25"`
	Clock civil.Clock `json:"clock" example:"09:40"`
}

func (s part) post(ctx context.Context, site store.Site, p store.Post) (*postOutput, error) {
	laid, err := s.Renderer.Of(ctx, s.Store.Queries, p.ID, p.Body)
	if err != nil {
		return nil, s.Problem(err)
	}
	view := Post{
		ID: p.ID, Title: p.Title, Body: p.Body, Category: operation.OrEmpty(p.CategoryName), Tags: p.Tags,
		Author: p.AuthorName,
		Status: string(p.Status), Cleared: p.Cleared, Pinned: p.Pinned, Held: p.Held,
		NotBefore: operation.MaybePlace(site.Zone(), p.NotBefore), Deadline: operation.MaybePlace(site.Zone(),
			p.Deadline), Version: p.Version, UpdatedAt: p.UpdatedAt, Notes: notesOf(laid),
		Excerpt: p.Excerpt, Slug: p.Slug, Kind: p.Kind, Link: p.Link, AuthorID: p.AuthorID, Featured: Featured{p.FeaturedImage,
			p.FeaturedAlt}, Stage: string(p.Stage),
		OnTop: p.OnTop, CommentsOpen: p.CommentsOpen, Words: p.Words, Minutes: blog.Minutes(p.Words),
		NeverExpires: p.NeverExpires, Evergreen: p.Evergreen, Fields: p.Fields, Notice: p.Notice,
	}
	view.CategoryID = operation.OrZero(p.CategoryID)
	view.Can = canDo(ctx, p.AuthorID, status.SituationOf(p), s.Clock.Now())
	for _, at := range []*time.Time{p.PublishedAt, p.DueAt} {
		if at != nil {
			place := operation.PlaceAt(site.Zone(), *at)
			view.When = &place
			break
		}
	}
	if p.ExpiresAt != nil {
		date, clock := site.Zone().Local(*p.ExpiresAt)
		view.Expires = &PlaceWish{date, clock}
	}
	if p.TimesRepublished > 0 {
		view.FirstPublished = operation.MaybePlace(site.Zone(), p.FirstPublishedAt)
	}
	if p.Status == store.Published || p.Status == store.Archived {
		view.Address = address.Path(site.Slug, p.Slug)
	}
	return &postOutput{view}, nil
}

// doing is the operation by which each deed is done to a post.
var doing = map[status.PostDeed]string{
	status.DoClear: "clear-post", status.DoUnclear: "unclear-post", status.DoPlace: "apply-reflow",
	status.DoRetime: "retime-post",
	status.DoBound:  "bound-post", status.DoShelve: "shelve-post", status.DoHold: "hold-post",
	status.DoRelease: "release-post",
	status.DoPublish: "publish-post", status.DoHandIn: "hand-in-post", status.DoGiveBack: "give-back-post",
	status.DoBin:     "bin-post",
	status.DoRestore: "restore-post", status.DoDelete: "delete-post",
}

// canDo lists what whoever asks can do with somebody's post as it stands.
func canDo(ctx context.Context, author int64, standing status.Situation, now time.Time) []string {
	can, at := []string{}, operation.SeatOf(ctx)
	for _, deed := range standing.Offered(now) {
		if at.Role.Covers(operation.AccessOf(doing[deed]).Role) && operation.OfOwn(ctx, doing[deed], author) == nil {
			can = append(can, string(deed))
		}
	}
	return can
}

// lay lays a text out that is to be saved or shown to whoever writes it; nil is no text. It
// fails with *act.Invalid for text that takes more work than it may.
func (s part) lay(ctx context.Context, body *string) (blog.Laid, error) {
	if body == nil || len(*body) > writing.MaxBody {
		return blog.Laid{}, nil // too long a text is refused where it is saved
	}
	laid, err := s.Renderer.Lay(ctx, *body)
	var involved *blog.TooInvolved
	if errors.As(err, &involved) {
		return laid, &act.Invalid{Field: "body", Message: involved.Error()}
	}
	return laid, err
}

// keepLaid keeps the laid-out text with a post that was saved with it. Where that fails it
// is made again when it is shown.
func (s part) keepLaid(ctx context.Context, post int64, body *string, laid blog.Laid) {
	if body == nil {
		return
	}
	if err := blog.Keep(ctx, s.Store.Queries, post, *body, laid); err != nil && ctx.Err() == nil {
		s.Log.Warn("a laid-out text was not kept", "post", post, "error", err)
	}
}

// notesOf tells what of the text readers will not see.
func notesOf(laid blog.Laid) []string {
	notes := []string{}
	if len(laid.Removed) > 0 {
		notes = append(notes,
			fmt.Sprintf("Readers will not see this part of the text, since it could harm them: %s. The text itself is kept as you wrote it.",
				strings.Join(laid.Removed, ", ")))
	}
	return notes
}

type postOutput struct {
	Body Post
}

// maxPostBody has room for the longest text as JSON.
const maxPostBody = 4 << 20

func (s part) postOperations(api huma.API) {
	const posts, one = "/api/v1/sites/{site}/posts", "/api/v1/sites/{site}/posts/{id}"
	huma.Register(api, huma.Operation{
		OperationID: "list-topics", Method: http.MethodGet, Path: "/api/v1/sites/{site}/topics",
		Summary: "The site's categories and tags",
	}, s.listTopics)
	huma.Register(api, huma.Operation{
		OperationID: "begin-post", Method: http.MethodPost, Path: posts, Summary: "Begin a draft",
		DefaultStatus: http.StatusCreated, MaxBodyBytes: maxPostBody,
	}, s.beginPost)
	huma.Register(api, huma.Operation{
		OperationID: "add-link-item", Method: http.MethodPost, Path: "/api/v1/sites/{site}/link-items", Summary: "Add a link item",
		Description: "A title and a link, which rules share; it has no page of its own.", DefaultStatus: http.StatusCreated, MaxBodyBytes: maxPostBody,
	}, s.addLinkItem)
	huma.Register(api, huma.Operation{
		OperationID: "get-post", Method: http.MethodGet, Path: one, Summary: "One post",
	}, s.getPost)
	huma.Register(api, operation.Conflict[StalePost](api, huma.Operation{
		OperationID: "write-post", Method: http.MethodPatch, Path: one, Summary: "Save what was written",
		Description: "Fields that are absent stay as they are.", MaxBodyBytes: maxPostBody,
	}), s.writePost)

	s.registerDeed(api, "clear-post", one+"/clear", "Release a draft to the queue", status.Clear)
	s.registerDeed(api, "unclear-post", one+"/unclear", "Take a draft off the shelf", status.Unclear)
	s.registerDeed(api, "shelve-post", one+"/shelve", "Take a scheduled post back to the shelf", status.Shelve)
	s.registerDeed(api, "publish-post", one+"/publish", "Publish a post now", status.PublishNow)
	s.registerDeed(api, "hold-post", one+"/hold", "Hold a scheduled post: it does not come out", status.Hold)
	s.registerDeed(api, "release-post", one+"/release", "Let a held post go before its time", status.Release)
	s.registerDeed(api, "bin-post", one+"/bin", "Put a post into the bin", status.Bin)
	s.registerDeed(api, "restore-post", one+"/restore", "Take a post out of the bin", status.Restore)
	s.registerDeed(api, "hand-in-post", one+"/hand-in", "Hand a draft in", status.HandIn)
	s.registerDeed(api, "give-back-post", one+"/give-back", "Give a draft that was handed in back to its author",
		status.GiveBack)
	huma.Register(api, operation.Conflict[StalePost](api, huma.Operation{
		OperationID: "move-draft", Method: http.MethodPost, Path: one + "/move", Summary: "Move a draft to another blog",
		Description: "It begins there with all that is written, and goes into the bin here.",
	}), s.moveDraft)
	huma.Register(api, operation.Conflict[StalePost](api, huma.Operation{
		OperationID: "delete-post", Method: http.MethodDelete, Path: one,
		Summary:     "Delete a post that is in the bin, for good",
		Description: "It is confirmed by the post's title and cannot be undone.", DefaultStatus: http.StatusNoContent,
	}), s.deletePost)
	huma.Register(api, operation.Conflict[StalePost](api, huma.Operation{
		OperationID: "retime-post", Method: http.MethodPost, Path: one +
			"/retime", Summary: "Give a post a time by hand",
		Description: "The post is pinned there. Posts nearer than the gap are told in notes; they do not prevent it.",
	}), s.retimePost)
}

func (s part) listTopics(ctx context.Context, in *operation.SitePath) (*struct{ Body Topics }, error) {
	desk := operation.DeskOf(ctx)
	categories, err := s.Store.Categories(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	topics := Topics{Categories: []Topic{}, Tags: []Topic{}}
	for _, c := range categories {
		topics.Categories = append(topics.Categories, Topic{c.ID, c.Name})
	}
	tags, err := s.Store.Tags(ctx, desk.Site.ID)
	for _, t := range tags {
		topics.Tags = append(topics.Tags, Topic{t.ID, t.Name})
	}
	return &struct{ Body Topics }{topics}, s.Problem(err)
}

// Topics are what a site's posts are sorted by.
type Topics struct {
	Categories []Topic `json:"categories"`
	Tags       []Topic `json:"tags" doc:"most used first"`
}

// Topic is a category or a tag.
type Topic struct {
	ID   int64  `json:"id"`
	Name string `json:"name"`
}

// Writing is what an editor changes of a post.
type Writing struct {
	Title        *string            `json:"title,omitempty"`
	Body         *string            `json:"body,omitempty" doc:"Markdown"`
	Excerpt      *string            `json:"excerpt,omitempty"`
	Slug         *string            `json:"slug,omitempty" doc:"an address that readers may know leads on to the new one"`
	Kind         *string            `json:"kind,omitempty" enum:"post,page,link" doc:"a link item stays one"`
	Link         *string            `json:"link,omitempty" doc:"of a link item: where it leads"`
	CategoryID   *int64             `json:"categoryId,omitempty" doc:"0 for none"`
	Tags         *[]string          `json:"tags,omitempty"`
	AuthorID     *int64             `json:"authorId,omitempty"`
	Featured     *Featured          `json:"featured,omitempty"`
	OnTop        *bool              `json:"onTop,omitempty"`
	CommentsOpen *bool              `json:"commentsOpen,omitempty"`
	Evergreen    *bool              `json:"evergreen,omitempty"`
	NeverExpires *bool              `json:"neverExpires,omitempty"`
	Expires      *ExpiryWish        `json:"expires,omitempty" doc:"its own expiry; an empty one for none"`
	Fields       *map[string]string `json:"fields,omitempty" doc:"custom fields"`
}

// ExpiryWish is a post's own expiry, or none where it says no date.
type ExpiryWish struct {
	Date  civil.Date  `json:"date,omitempty" required:"false"`
	Clock civil.Clock `json:"clock,omitempty" required:"false"`
}

func (w Writing) text(at operation.Seat) (writing.Text, error) {
	text := writing.Text{Title: w.Title, Body: w.Body, Category: w.CategoryID, Tags: w.Tags, Slug: w.Slug,
		Excerpt: w.Excerpt, Author: w.AuthorID,
		Kind: w.Kind, Link: w.Link, OnTop: w.OnTop, CommentsOpen: w.CommentsOpen, Evergreen: w.Evergreen,
		NeverExpires: w.NeverExpires, Fields: w.Fields}
	if w.Featured != nil {
		text.Featured = &writing.Featured{Address: w.Featured.Address, Alt: w.Featured.Alt}
	}
	if w.Expires != nil {
		text.Expires = new(time.Time)
		if w.Expires.Date != (civil.Date{}) {
			*text.Expires = at.Site.Zone().At(w.Expires.Date, w.Expires.Clock)
		}
	}
	problems := text.Problems()
	if at.Role == people.Contributor {
		if bad := text.OfContributor(); bad != nil {
			problems = append(problems, bad)
		}
	}
	if len(problems) > 0 {
		return text, operation.Invalid(problems...)
	}
	return text, nil
}

type beginInput struct {
	operation.SitePath
	Body Writing
}

func (s part) beginPost(ctx context.Context, in *beginInput) (*postOutput, error) {
	desk := operation.DeskOf(ctx)
	text, err := in.Body.text(operation.SeatOf(ctx))
	if err != nil {
		return nil, err
	}
	laid, err := s.lay(ctx, text.Body)
	if err != nil {
		return nil, s.Problem(err)
	}
	post, err := writing.BeginDraft(ctx, desk, text, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	s.keepLaid(ctx, post.ID, text.Body, laid)
	return s.post(ctx, desk.Site, post)
}

func (s part) addLinkItem(ctx context.Context, in *beginInput) (*postOutput, error) {
	desk := operation.DeskOf(ctx)
	in.Body.Kind = nil
	if wrong := (writing.Text{Title: in.Body.Title, Link: in.Body.Link}).OfLinkItem(); len(wrong) > 0 {
		return nil, operation.Invalid(wrong...)
	}
	text, err := in.Body.text(operation.SeatOf(ctx))
	if err != nil {
		return nil, err
	}
	item, err := writing.AddLinkItem(ctx, desk, text, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.post(ctx, desk.Site, item)
}

func (s part) getPost(ctx context.Context, in *operation.PostPath) (*postOutput, error) {
	desk := operation.DeskOf(ctx)
	return s.present(ctx, desk, in.ID)
}

func (s part) present(ctx context.Context, desk act.Desk, id int64) (*postOutput, error) {
	post, err := s.Store.Post(ctx, desk.Site.ID, id)
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.post(ctx, desk.Site, post)
}

type writeInput struct {
	operation.PostPath
	Body struct {
		Version int `json:"version" doc:"the version that was written on"`
		Writing
	}
}

func (s part) writePost(ctx context.Context, in *writeInput) (*postOutput, error) {
	desk := operation.DeskOf(ctx)
	if !operation.SeatOf(ctx).Role.Covers(operation.AccessOf("write-post").Others) {
		if err := s.ownDraft(ctx, desk, in.ID); err != nil {
			return nil, err
		}
	}
	text, err := in.Body.text(operation.SeatOf(ctx))
	if err != nil {
		return nil, err
	}
	laid, err := s.lay(ctx, text.Body)
	if err != nil {
		return nil, s.Problem(err)
	}
	post, err := writing.Write(ctx, desk, in.ID, in.Body.Version, text, s.Clock.Now())
	if err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	s.keepLaid(ctx, post.ID, text.Body, laid)
	return s.post(ctx, desk.Site, post)
}

// ownDraft refuses what is not a draft of the person's own.
func (s part) ownDraft(ctx context.Context, desk act.Desk, id int64) error {
	post, err := s.Store.Post(ctx, desk.Site.ID, id)
	if err != nil {
		return s.Problem(err)
	}
	if post.AuthorID != desk.Actor || post.Status != store.Draft || post.Cleared || post.HandedInAt != nil {
		return huma.Error403Forbidden("Contributors edit their own drafts until they send them for review. Ask an editor.")
	}
	return nil
}

// ownPost refuses a post that is not the person's own to who may use the operation on
// those only.
func (s part) ownPost(ctx context.Context, what string, id int64) error {
	post, err := s.Store.Post(ctx, operation.DeskOf(ctx).Site.ID, id)
	if err != nil {
		return s.Problem(err)
	}
	return operation.OfOwn(ctx, what, post.AuthorID)
}

type deleteInput struct {
	operation.PostPath
	Version int    `query:"version" required:"true" doc:"the version that was seen"`
	Confirm string `query:"confirm" required:"true" doc:"the post's title"`
}

func (s part) deletePost(ctx context.Context, in *deleteInput) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	err := status.DeleteForGood(ctx, desk, in.ID, in.Version, in.Confirm, s.Clock.Now())
	return nil, s.stale(ctx, desk, in.ID, err)
}

// StalePost answers who changes a post that was changed meanwhile.
type StalePost struct {
	operation.Problem
	Present *Post `json:"present,omitempty" doc:"the post as it is now"`
}

// stale adds the post as it is now to a conflict.
func (s part) stale(ctx context.Context, desk act.Desk, id int64, err error) error {
	said := s.Problem(err)
	p, ok := errors.AsType[*operation.Problem](said)
	if !ok || !errors.Is(err, act.ErrStale) {
		return said
	}
	now, err := s.present(ctx, desk, id)
	if err != nil {
		return said
	}
	return &StalePost{*p, &now.Body}
}

type deedInput struct {
	operation.PostPath
	Body struct {
		Version int `json:"version" doc:"the version that was seen"`
	}
}

// registerDeed adds an operation that does one deed to a post and answers with the
// post as it is then.
func (s part) registerDeed(api huma.API, id, path, summary string,
	do func(context.Context, act.Desk, int64, int, time.Time) error) {
	huma.Register(api, operation.Conflict[StalePost](api, huma.Operation{
		OperationID: id, Method: http.MethodPost, Path: path, Summary: summary,
	}), func(ctx context.Context, in *deedInput) (*postOutput, error) {
		desk := operation.DeskOf(ctx)
		if err := s.ownPost(ctx, id, in.ID); err != nil {
			return nil, err
		}
		if err := do(ctx, desk, in.ID, in.Body.Version, s.Clock.Now()); err != nil {
			return nil, s.stale(ctx, desk, in.ID, err)
		}
		return s.present(ctx, desk, in.ID)
	})
}

type moveDraftInput struct {
	operation.PostPath
	Body struct {
		Version int    `json:"version" doc:"the version that was seen"`
		Blog    string `json:"blog" maxLength:"200" doc:"the address name of the other blog"`
	}
}

// MovedDraft is where a draft was moved to.
type MovedDraft struct {
	Blog string `json:"blog"`
	ID   int64  `json:"id"`
}

func (s part) moveDraft(ctx context.Context, in *moveDraftInput) (*struct{ Body MovedDraft }, error) {
	desk := operation.DeskOf(ctx)
	if _, err := s.Store.Post(ctx, desk.Site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	there, err := s.OtherBlog(ctx, in.Body.Blog)
	if err != nil {
		return nil, err
	}
	id, err := writing.MoveDraft(ctx, desk, in.ID, in.Body.Version, there, s.Clock.Now())
	if err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	return &struct{ Body MovedDraft }{MovedDraft{there.Slug, id}}, nil
}

type retimeInput struct {
	operation.PostPath
	Body struct {
		Version int         `json:"version" doc:"the version that was seen"`
		Date    civil.Date  `json:"date" doc:"in the site's zone, as 2026-11-24" example:"2026-11-24"`
		Time    civil.Clock `json:"time" doc:"in the site's zone, as 09:40" example:"09:40"`
	}
}

func (s part) retimePost(ctx context.Context, in *retimeInput) (*postOutput, error) {
	desk := operation.DeskOf(ctx)
	if in.Body.Time >= civil.Midnight {
		return nil, operation.Invalid(&act.Invalid{Field: "time",
			Message: "The time is after midnight; choose one from 00:00 to 23:59 and the date it is on."})
	}
	zone := desk.Site.Zone()
	at := zone.At(in.Body.Date, in.Body.Time)
	near, err := status.Retime(ctx, desk, in.ID, in.Body.Version, at, s.Clock.Now())
	if err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	out, err := s.present(ctx, desk, in.ID)
	if err != nil {
		return nil, err
	}
	if date, clock := zone.Local(at); date != in.Body.Date || clock != in.Body.Time {
		out.Body.Notes = append(out.Body.Notes,
			fmt.Sprintf("The clocks go forward past %s on that day, so it comes out at %s.", in.Body.Time, clock))
	}
	for _, e := range near {
		_, clock := zone.Local(e.At())
		out.Body.Notes = append(out.Body.Notes, fmt.Sprintf("That is nearer than the gap to “%s” at %s.", e.Title,
			clock))
	}
	return out, nil
}
