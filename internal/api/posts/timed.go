package posts

import (
	"context"
	"net/http"
	"strconv"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/revisions"
	"dapper.example/internal/store"
)

func (s part) timedOperations(api huma.API) {
	const edits, one = "/api/v1/sites/{site}/edits", "/api/v1/sites/{site}/edits/{id}"
	huma.Register(api, huma.Operation{OperationID: "list-edits", Method: http.MethodGet, Path: edits, Summary: "The timed edits of a blog that wait, or wait for an editor"}, s.listEdits)
	huma.Register(api, huma.Operation{OperationID: "list-edits-of-post", Method: http.MethodGet, Path: "/api/v1/sites/{site}/posts/{id}/edits",
		Summary: "The timed edits of a post", Description: "In order of their time, each with what it changes of what the ones before it leave."}, s.editsOfPost)
	huma.Register(api, operation.Conflict[StalePost](api, huma.Operation{OperationID: "prepare-edit", Method: http.MethodPost, Path: "/api/v1/sites/{site}/posts/{id}/edits",
		Summary: "Prepare a change of a post that is out for a time", DefaultStatus: http.StatusCreated, MaxBodyBytes: maxPostBody}), s.prepareEdit)
	huma.Register(api, huma.Operation{OperationID: "get-edit", Method: http.MethodGet, Path: one, Summary: "A timed edit"}, s.getEdit)
	huma.Register(api, huma.Operation{OperationID: "save-edit", Method: http.MethodPut, Path: one, Summary: "Change a timed edit", MaxBodyBytes: maxPostBody}, s.saveEdit)
	huma.Register(api, huma.Operation{OperationID: "retime-edit", Method: http.MethodPost, Path: one + "/retime", Summary: "Give a timed edit another time"}, s.retimeEdit)
	huma.Register(api, huma.Operation{OperationID: "apply-edit", Method: http.MethodPost, Path: one + "/apply", Summary: "Apply a timed edit now"}, s.applyEdit)
	huma.Register(api, huma.Operation{OperationID: "settle-edit", Method: http.MethodPost, Path: one + "/settle", Summary: "Settle a timed edit that clashes with its post",
		Description: "A choice for each clash, in their order."}, s.settleEdit)
	huma.Register(api, huma.Operation{OperationID: "drop-edit", Method: http.MethodDelete, Path: one, Summary: "Drop a timed edit", DefaultStatus: http.StatusNoContent}, s.dropEdit)
}

// EditMark is a timed edit in a list.
type EditMark struct {
	ID      int64           `json:"id"`
	Post    int64           `json:"post"`
	Title   string          `json:"title" doc:"of its post"`
	Status  string          `json:"status" doc:"of its post"`
	At      operation.Place `json:"at"`
	State   string          `json:"state" enum:"waiting,held,applied,dropped"`
	Why     string          `json:"why,omitempty" doc:"it is on hold"`
	Yearly  bool            `json:"yearly"`
	By      string          `json:"by,omitempty"`
	Version int             `json:"version"`
}

// Run is a stretch of a comparison.
type Run struct {
	Kind string `json:"kind" enum:"same,removed,added"`
	Text string `json:"text"`
}

// Difference is what differs in one part of a text.
type Difference struct {
	Part string `json:"part" doc:"as people say it"`
	Runs []Run  `json:"runs"`
}

// EditText is what a timed edit has its post say.
type EditText struct {
	Title      string            `json:"title"`
	Body       string            `json:"body" doc:"Markdown"`
	Excerpt    string            `json:"excerpt"`
	Slug       string            `json:"slug"`
	CategoryID int64             `json:"categoryId" doc:"0 for none"`
	Tags       []string          `json:"tags"`
	Fields     map[string]string `json:"fields" doc:"custom fields"`
	Featured   Featured          `json:"featured"`
}

// EditChange is a timed edit with what it changes.
type EditChange struct {
	EditMark
	Differences []Difference `json:"differences" doc:"from what the post says by then"`
	Clashes     []Clash      `json:"clashes" doc:"where the post was changed too, and says something else"`
}

// Clash is a place where a timed edit and a later change of its post say different things.
type Clash struct {
	Part   string `json:"part" doc:"as people say it"`
	Base   string `json:"base" doc:"what the post said when the edit was prepared"`
	Ours   string `json:"ours" doc:"what the edit makes of it"`
	Theirs string `json:"theirs" doc:"what the post says now"`
}

// WholeEdit is a timed edit with all that it says.
type WholeEdit struct {
	EditChange
	Text EditText `json:"text" doc:"with {year} as it was written"`
}

// EditBody is what an editor prepares.
type EditBody struct {
	Version int       `json:"version" doc:"of the post, or of the edit that is changed, as it was seen"`
	At      PlaceWish `json:"at"`
	Yearly  bool      `json:"yearly" required:"false" doc:"it comes again every year; {year} in title, text, excerpt and fields is the year then"`
	Text    EditText  `json:"text"`
}

func (b EditBody) wish(d act.Desk) revisions.Wish {
	t := b.Text
	return revisions.Wish{At: d.Site.Zone().At(b.At.Date, b.At.Clock), Yearly: b.Yearly, Text: revise.Text{Title: t.Title, Body: t.Body, Excerpt: t.Excerpt, Slug: t.Slug, Category: t.CategoryID,
		Tags: t.Tags, Fields: t.Fields, Image: t.Featured.Address, Alt: t.Featured.Alt}}
}

func viewEditText(t revise.Text) EditText {
	v := EditText{Title: t.Title, Body: t.Body, Excerpt: t.Excerpt, Slug: t.Slug, CategoryID: t.Category, Tags: append([]string{}, t.Tags...), Fields: t.Fields, Featured: Featured{t.Image, t.Alt}}
	if v.Fields == nil {
		v.Fields = map[string]string{}
	}
	return v
}

func viewMark(site store.Site, e store.EditMark) EditMark {
	if e.State == store.EditHeld && e.Status == store.Published && strings.Contains(e.HeldWhy, deed.PostNotOut) {
		e.HeldWhy = "Its post was not out at its time, and is out again. Give the edit another time, apply it now, or drop it."
	}
	return EditMark{ID: e.ID, Post: e.Post, Title: e.Title, Status: string(e.Status), At: operation.PlaceAt(site.Zone(), e.DueAt), State: string(e.State), Why: e.HeldWhy, Yearly: e.Yearly, By: e.Who, Version: e.Version}
}

func markOf(e store.TimedEdit) store.EditMark {
	return store.EditMark{ID: e.ID, Post: e.Post, Title: e.Title, Status: e.Status, DueAt: e.DueAt, State: e.State, HeldWhy: e.HeldWhy, Yearly: e.Yearly.Yearly != nil, Who: e.Who, Version: e.Version}
}

// said has names in the place of what stands for them in comparisons: of categories, their numbers.
type said map[string]string

func (s part) names(ctx context.Context, siteID int64) (said, error) {
	categories, err := s.Store.Categories(ctx, siteID)
	names := said{"0": "None"}
	for _, c := range categories {
		names[strconv.FormatInt(c.ID, 10)] = c.Name
	}
	return names, err
}

func (n said) in(part revise.Part, text string) string {
	if part != revise.Category {
		return text
	}
	if name, known := n[text]; known {
		return name
	}
	return "A deleted category"
}

func (n said) differences(all []revise.Difference) []Difference {
	view := []Difference{}
	for _, d := range all {
		one := Difference{Part: d.Part.String(), Runs: []Run{}}
		for _, r := range d.Runs {
			one.Runs = append(one.Runs, Run{string(r.Kind), n.in(d.Part, r.Text)})
		}
		view = append(view, one)
	}
	return view
}

// changed is what a timed edit makes of a text, with that text as it is then.
func (n said) changed(site store.Site, e store.TimedEdit, of revise.Text) (EditChange, revise.Text) {
	merged, clashes := revise.Merge(e.Base.Text, e.Says(site.Zone()), of)
	v := EditChange{EditMark: viewMark(site, markOf(e)), Differences: n.differences(revise.Compare(of, merged)), Clashes: []Clash{}}
	for _, c := range clashes {
		field := func(text string) string {
			if _, is := c.Part.Field(); is && text != "" {
				return text[1:]
			}
			return n.in(c.Part, text)
		}
		v.Clashes = append(v.Clashes, Clash{c.Part.String(), field(c.Base), field(c.Ours), field(c.Theirs)})
	}
	return v, merged
}

// EditMarks are timed edits.
type EditMarks struct {
	Edits []EditMark `json:"edits"`
}

func (s part) listEdits(ctx context.Context, _ *operation.SitePath) (*struct{ Body EditMarks }, error) {
	site := operation.DeskOf(ctx).Site
	all, err := s.Store.Edits(ctx, site.ID, store.EditWaiting, store.EditHeld)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := EditMarks{[]EditMark{}}
	for _, e := range all {
		body.Edits = append(body.Edits, viewMark(site, e))
	}
	return &struct{ Body EditMarks }{body}, nil
}

// EditChanges are the timed edits of a post.
type EditChanges struct {
	Edits []EditChange `json:"edits"`
}

func (s part) editsOfPost(ctx context.Context, in *operation.PostPath) (*struct{ Body EditChanges }, error) {
	site := operation.DeskOf(ctx).Site
	p, err := s.Store.Post(ctx, site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	all, err := s.Store.EditsOf(ctx, site.ID, in.ID, store.EditWaiting, store.EditHeld)
	if err != nil {
		return nil, s.Problem(err)
	}
	names, err := s.names(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	body, text := EditChanges{[]EditChange{}}, p.Says()
	for _, e := range all {
		view, merged := names.changed(site, e, text)
		if body.Edits = append(body.Edits, view); len(view.Clashes) == 0 && e.State == store.EditWaiting {
			text = merged
		}
	}
	return &struct{ Body EditChanges }{body}, nil
}

type editOutput struct{ Body WholeEdit }

func (s part) showEdit(ctx context.Context, id int64) (*editOutput, error) {
	site := operation.DeskOf(ctx).Site
	e, err := s.Store.TimedEdit(ctx, site.ID, id)
	if err != nil {
		return nil, s.Problem(err)
	}
	p, err := s.Store.Post(ctx, site.ID, e.Post)
	if err != nil {
		return nil, s.Problem(err)
	}
	names, err := s.names(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	view, _ := names.changed(site, e, p.Says())
	return &editOutput{WholeEdit{view, viewEditText(e.Wanted.Text)}}, nil
}

func (s part) getEdit(ctx context.Context, in *operation.ItemPath) (*editOutput, error) {
	return s.showEdit(ctx, in.ID)
}

type prepareInput struct {
	operation.PostPath
	Body EditBody
}

func (s part) prepareEdit(ctx context.Context, in *prepareInput) (*editOutput, error) {
	desk := operation.DeskOf(ctx)
	if _, err := s.lay(ctx, &in.Body.Text.Body); err != nil {
		return nil, s.Problem(err)
	}
	id, err := revisions.Prepare(ctx, desk, in.ID, in.Body.Version, in.Body.wish(desk), s.Clock.Now())
	if err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	return s.showEdit(ctx, id)
}

type saveEditInput struct {
	operation.ItemPath
	Body EditBody
}

func (s part) saveEdit(ctx context.Context, in *saveEditInput) (*editOutput, error) {
	desk := operation.DeskOf(ctx)
	if _, err := s.lay(ctx, &in.Body.Text.Body); err != nil {
		return nil, s.Problem(err)
	}
	return s.did(ctx, in.ID, revisions.Save(ctx, desk, in.ID, in.Body.Version, in.Body.wish(desk), s.Clock.Now()))
}

// did answers with a timed edit as it is after something was done to it.
func (s part) did(ctx context.Context, id int64, err error) (*editOutput, error) {
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.showEdit(ctx, id)
}

type retimeEditInput struct {
	operation.ItemPath
	Body struct {
		Version int       `json:"version"`
		At      PlaceWish `json:"at"`
	}
}

func (s part) retimeEdit(ctx context.Context, in *retimeEditInput) (*editOutput, error) {
	desk := operation.DeskOf(ctx)
	return s.did(ctx, in.ID, revisions.Retime(ctx, desk, in.ID, in.Body.Version, desk.Site.Zone().At(in.Body.At.Date, in.Body.At.Clock), s.Clock.Now()))
}

type seenEditInput struct {
	operation.ItemPath
	Body struct {
		Version int `json:"version"`
	}
}

func (s part) applyEdit(ctx context.Context, in *seenEditInput) (*editOutput, error) {
	return s.did(ctx, in.ID, revisions.ApplyNow(ctx, operation.DeskOf(ctx), in.ID, in.Body.Version, s.Clock.Now()))
}

type settleInput struct {
	operation.ItemPath
	Body struct {
		Version int       `json:"version"`
		Choices []string  `json:"choices" enum:"theirs,ours,both" doc:"for each clash, in their order: theirs is what the post says"`
		At      PlaceWish `json:"at"`
	}
}

func (s part) settleEdit(ctx context.Context, in *settleInput) (*editOutput, error) {
	desk := operation.DeskOf(ctx)
	choices := make([]revise.Choice, len(in.Body.Choices))
	for i, c := range in.Body.Choices {
		choices[i] = revise.Choice(c)
	}
	return s.did(ctx, in.ID, revisions.Settle(ctx, desk, in.ID, in.Body.Version, choices, desk.Site.Zone().At(in.Body.At.Date, in.Body.At.Clock), s.Clock.Now()))
}

type dropEditInput struct {
	operation.ItemPath
	Version int `query:"version" required:"true"`
}

func (s part) dropEdit(ctx context.Context, in *dropEditInput) (*struct{}, error) {
	return nil, s.Problem(revisions.Drop(ctx, operation.DeskOf(ctx), in.ID, in.Version, s.Clock.Now()))
}

// restoreOperations are about earlier versions of a post's text.
func (s part) restoreOperations(api huma.API) {
	const one = "/api/v1/sites/{site}/posts/{id}/texts/{text}"
	huma.Register(api, huma.Operation{OperationID: "compare-texts", Method: http.MethodGet, Path: one + "/differences", Summary: "What differs from one version to another, word by word"}, s.compareTexts)
	huma.Register(api, operation.Conflict[StalePost](api, huma.Operation{OperationID: "restore-text", Method: http.MethodPost, Path: one + "/restore", Summary: "Have a post say again what a version says"}), s.restoreText)
	huma.Register(api, huma.Operation{OperationID: "name-text", Method: http.MethodPut, Path: one + "/name", Summary: "Name a version", DefaultStatus: http.StatusNoContent}, s.nameText)
}

type compareInput struct {
	TextPath
	To int64 `query:"to" doc:"another version; absent: the post as it is"`
}

// Differences are what differs between two texts.
type Differences struct {
	Differences []Difference `json:"differences"`
}

func (s part) compareTexts(ctx context.Context, in *compareInput) (*struct{ Body Differences }, error) {
	site := operation.DeskOf(ctx).Site
	p, err := s.Store.Post(ctx, site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	from, err := s.Store.Text(ctx, site.ID, in.ID, in.Text)
	if err != nil {
		return nil, s.Problem(err)
	}
	to := p.Says()
	if in.To != 0 {
		other, err := s.Store.Text(ctx, site.ID, in.ID, in.To)
		if err != nil {
			return nil, s.Problem(err)
		}
		to = revisions.TextOf(other, to)
	}
	return &struct{ Body Differences }{Differences{said{}.differences(revise.Compare(revisions.TextOf(from, to), to))}}, nil
}

type restoreInput struct {
	TextPath
	Body struct {
		Version int `json:"version" doc:"of the post, as it was seen"`
	}
}

func (s part) restoreText(ctx context.Context, in *restoreInput) (*postOutput, error) {
	desk := operation.DeskOf(ctx)
	if err := revisions.Restore(ctx, desk, in.ID, in.Body.Version, in.Text, s.Clock.Now()); err != nil {
		return nil, s.stale(ctx, desk, in.ID, err)
	}
	return s.present(ctx, desk, in.ID)
}

type nameInput struct {
	TextPath
	Body struct {
		Name string `json:"name" doc:"empty for none"`
	}
}

func (s part) nameText(ctx context.Context, in *nameInput) (*struct{}, error) {
	return nil, s.Problem(revisions.Name(ctx, operation.DeskOf(ctx), in.ID, in.Text, in.Body.Name))
}
