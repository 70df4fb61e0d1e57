package imports

import (
	"context"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/imports"
	"dapper.example/internal/intake/sheet"
	"dapper.example/internal/store"
)

func (s part) lineOperations(api huma.API) {
	huma.Register(api, huma.Operation{
		OperationID: "list-import-lines", Method: http.MethodGet, Path: path + "/{id}/lines", Summary: "Lines of an import, in the order of its source",
	}, s.listLines)
	huma.Register(api, huma.Operation{
		OperationID: "get-import-line", Method: http.MethodGet, Path: path + "/{id}/line", Summary: "What a line becomes, as readers would see it",
	}, s.getLine)
	huma.Register(api, huma.Operation{
		OperationID: "table-of-import-lines", Method: http.MethodGet, Path: path + "/{id}/table", Summary: "Lines of an import as a table (.csv), such as those left out and why",
		Responses: map[string]*huma.Response{"200": {Description: "the table", Content: map[string]*huma.MediaType{"text/csv": {Schema: &huma.Schema{Type: huma.TypeString}}}}},
	}, s.table)
	huma.Register(api, huma.Operation{
		OperationID: "get-import-picture", Method: http.MethodGet, Path: path + "/{id}/picture", Summary: "A picture of an import’s files, before it is in the library",
		Responses: map[string]*huma.Response{"200": {Description: "the picture", Content: map[string]*huma.MediaType{"image/*": {Schema: &huma.Schema{Type: huma.TypeString, Format: "binary"}}}}},
	}, s.picture)
}

// ImportLine is a line of an import, and what becomes of it.
type ImportLine struct {
	Nr     int      `json:"nr"`
	Place  string   `json:"place" doc:"where it stands in its source"`
	Key    string   `json:"key"`
	State  string   `json:"state" enum:"ready,update,left,same,clash,landed,updated,undone,kept"`
	Title  string   `json:"title"`
	Reason string   `json:"reason,omitempty" doc:"why it is left out, or has its time"`
	Notes  []string `json:"notes" doc:"what was done with it, and what could not be"`
	Post   int64    `json:"post,omitempty" doc:"that it became"`
	// Of what it becomes:
	Excerpt  string            `json:"excerpt,omitempty"`
	Category string            `json:"category,omitempty"`
	Tags     []string          `json:"tags,omitempty"`
	Author   string            `json:"author,omitempty"`
	Page     bool              `json:"page,omitempty"`
	Link     string            `json:"link,omitempty" doc:"of a link item: where it leads"`
	Date     *time.Time        `json:"date,omitempty"`
	Picture  string            `json:"picture,omitempty" doc:"the featured image’s address"`
	Fields   map[string]string `json:"fields,omitempty"`
	HTML     string            `json:"html,omitempty" doc:"its text as readers would see it"`
	Words    int               `json:"words,omitempty"`
}

func plainLine(l store.ImportLine) ImportLine {
	v := ImportLine{Nr: l.Nr, Place: l.Place, Key: l.Key, State: string(l.State), Title: l.Title, Reason: l.Reason, Notes: append([]string{}, l.Notes...)}
	if l.PostID != nil {
		v.Post = *l.PostID
	}
	return v
}

// beginning is about how many bytes of a text are shown where its beginning is.
const beginning = 4000

// cut is the beginning of a text, up to the end of a paragraph where there is one.
func cut(text string) string {
	if len(text) <= beginning {
		return text
	}
	text = strings.ToValidUTF8(text[:beginning], "")
	if end := strings.LastIndex(text, "\n\n"); end > 0 {
		return text[:end]
	}
	return text
}

// line is a line with what it becomes, and so much of its text as show leaves of it.
func (s part) line(ctx context.Context, site store.Site, one imports.Shown, show func(string) string) (ImportLine, error) {
	v := plainLine(one.ImportLine)
	p := one.Post
	if p.Title == "" && p.Body == "" {
		return v, nil
	}
	address := func(file string) string { return picturePath(site, one.Import, file) }
	v.Excerpt, v.Category, v.Tags, v.Author, v.Page, v.Fields, v.Words = p.Excerpt, p.Category, p.Tags, p.Author, p.Page, p.Fields, len(strings.Fields(p.Body))
	if p.Linked {
		v.Link = p.Link
	}
	v.Picture = p.WithPictures(p.Picture, address)
	if !p.At.IsZero() {
		v.Date = &p.At
	}
	laid, err := s.Renderer.LayAnyway(ctx, p.WithPictures(show(p.Body), address))
	v.HTML = string(laid.HTML)
	return v, err
}

type linesInput struct {
	operation.SitePath
	ID    int64  `path:"id" minimum:"1"`
	State string `query:"state" enum:"ready,update,left,same,clash,landed,updated,undone,kept"`
	After int    `query:"after" minimum:"0" maximum:"1000000" doc:"next of the page before"`
}

const linesPage = 50

// ImportLines is a page of lines.
type ImportLines struct {
	Lines []ImportLine `json:"lines"`
	Next  int          `json:"next,omitempty" doc:"of the next page"`
}

func statesOf(state string) []store.LineState {
	if state == "" {
		return nil
	}
	return []store.LineState{store.LineState(state)}
}

func (s part) listLines(ctx context.Context, in *linesInput) (*struct{ Body ImportLines }, error) {
	if _, err := s.Store.Import(ctx, operation.DeskOf(ctx).Site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	all, err := s.Store.ImportLines(ctx, in.ID, statesOf(in.State), in.After, linesPage+1)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := ImportLines{Lines: []ImportLine{}}
	if len(all) > linesPage {
		all = all[:linesPage]
		body.Next = all[linesPage-1].Nr
	}
	for _, l := range all {
		body.Lines = append(body.Lines, plainLine(l))
	}
	return &struct{ Body ImportLines }{body}, nil
}

func (s part) getLine(ctx context.Context, in *struct {
	operation.SitePath
	ID int64 `path:"id" minimum:"1"`
	Nr int   `query:"nr" required:"true" minimum:"1" maximum:"1000000"`
}) (*struct{ Body ImportLine }, error) {
	site := operation.DeskOf(ctx).Site
	if _, err := s.Store.Import(ctx, site.ID, in.ID); err != nil {
		return nil, s.Problem(err)
	}
	all, err := s.Store.ImportLines(ctx, in.ID, nil, in.Nr-1, 1)
	if err == nil && (len(all) == 0 || all[0].Nr != in.Nr) {
		err = store.ErrNotFound
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	shown, err := imports.ShownOf(all[0])
	if err != nil {
		return nil, s.Problem(err)
	}
	line, err := s.line(ctx, site, shown, strings.Clone)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body ImportLine }{line}, nil
}

func (s part) table(ctx context.Context, in *linesInput) (*huma.StreamResponse, error) {
	i, err := s.Store.Import(ctx, operation.DeskOf(ctx).Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	table := sheet.Table{Name: "Lines", Headings: []string{"Line", "Place", "Key", "What becomes of it", "Title", "Reason", "Notes"}, Rows: func(yield func([]any, error) bool) {
		for after := in.After; ; {
			all, err := s.Store.ImportLines(ctx, i.ID, statesOf(in.State), after, linesPage)
			if err != nil {
				yield(nil, err)
				return
			}
			for _, l := range all {
				if after = l.Nr; !yield([]any{l.Nr, l.Place, l.Key, said[l.State], l.Title, l.Reason, strings.Join(l.Notes, " ")}, nil) {
					return
				}
			}
			if len(all) < linesPage {
				return
			}
		}
	}}
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		hc.SetHeader("Content-Type", "text/csv; charset=utf-8")
		hc.SetHeader("Content-Disposition", fmt.Sprintf(`attachment; filename="import-%d.csv"`, i.ID))
		_, w := humachi.Unwrap(hc)
		if err := sheet.WriteCSV(w, table); err != nil {
			s.Log.Warn("the table of an import was not written to its end", "import", i.ID, "error", err)
			panic(http.ErrAbortHandler) // a table that ends early must not look whole
		}
	}}, nil
}

// said are the states of lines as tables say them.
var said = map[store.LineState]string{store.LineReady: "becomes a post", store.LineUpdate: "changes its post", store.LineLeft: "left out", store.LineSame: "unchanged",
	store.LineClash: "both changed", store.LineLanded: "became a post", store.LineUpdated: "changed its post", store.LineUndone: "undone", store.LineKept: "kept"}

func (s part) picture(ctx context.Context, in *struct {
	operation.SitePath
	ID   int64  `path:"id" minimum:"1"`
	Path string `query:"path" required:"true" maxLength:"1000"`
}) (*huma.StreamResponse, error) {
	i, err := s.Store.Import(ctx, operation.DeskOf(ctx).Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	data, err := imports.PictureOf(ctx, s.Store.Queries, i, in.Path)
	if err != nil {
		return nil, s.problem(err)
	}
	kind := http.DetectContentType(data)
	if kind != "image/jpeg" && kind != "image/png" && kind != "image/gif" && kind != "image/webp" {
		return nil, operation.Invalid(&act.Invalid{Field: "path", Message: "This is no picture, though its name says so."})
	}
	return &huma.StreamResponse{Body: func(hc huma.Context) {
		hc.SetHeader("Content-Type", kind)
		hc.SetHeader("Content-Security-Policy", "default-src 'none'; sandbox")
		_, _ = hc.BodyWriter().Write(data) // whoever asked may have gone
	}}, nil
}
