package rules

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/blog"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/formats"
	"dapper.example/internal/outings"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

// PreparedBody is what is written of a prepared message.
type PreparedBody struct {
	PostID    int64      `json:"postId" required:"false" minimum:"0" doc:"0: it is of no post"`
	Title     string     `json:"title" required:"false" maxLength:"500" doc:"of no post: what {title} is"`
	Link      string     `json:"link" required:"false" maxLength:"2000" doc:"of no post: what {link} is"`
	Text      string     `json:"text" maxLength:"10000" doc:"with placeholders as in wordings; may be empty until it is released"`
	PictureID int64      `json:"pictureId" required:"false" minimum:"0" doc:"of the library; 0: the post’s, if it has one"`
	Channels  []int64    `json:"channels" maxItems:"50"`
	At        *time.Time `json:"at,omitempty" required:"false" doc:"when it goes out, to the minute; without: at an opening"`
}

func (b PreparedBody) kept() store.Prepared {
	return store.Prepared{Text: b.Text, Post: store.ID(b.PostID), Item: store.Item{Item: deed.Item{Title: b.Title, Link: b.Link}},
		Picture: store.ID(b.PictureID), Channels: b.Channels, At: b.At}
}

func viewPreparedBody(p store.Prepared) PreparedBody {
	return PreparedBody{PostID: int64(p.Post), Title: p.Item.Title, Link: p.Item.Link, Text: p.Text, PictureID: int64(p.Picture),
		Channels: append([]int64{}, p.Channels...), At: p.At}
}

// PreparedMessage is one row of the table of prepared messages.
type PreparedMessage struct {
	ID int64 `json:"id"`
	PreparedBody
	Place     *operation.Place `json:"place,omitempty" doc:"its time, by the clocks of the site"`
	PostTitle string           `json:"postTitle,omitempty"`
	Picture   *ShownPicture    `json:"picture,omitempty"`
	Standing  string           `json:"standing" enum:"being prepared,ready,due,sent,failed,skipped"`
	Goes      *operation.Place `json:"goes,omitempty" doc:"when its first outing that waits goes out"`
	Sent      *operation.Place `json:"sent,omitempty" doc:"when its last outing went out"`
	Passed    bool             `json:"passed,omitempty" doc:"its time has passed, and it was not released"`
	Problem   string           `json:"problem,omitempty" doc:"why it can’t be released as it is"`
	Version   int              `json:"version"`
}

// PreparedTable is the table of prepared messages.
type PreparedTable struct {
	Rows     []PreparedMessage `json:"rows" doc:"in the order in which they were written"`
	Openings PreparedOpenings  `json:"openings" doc:"when those without a time go out"`
	Practice string            `json:"practice,omitempty" doc:"where the practice walls are; empty: there are none"`
}

// PreparedOpenings says when prepared messages without a time go out.
type PreparedOpenings struct {
	Cadence formats.Cadence `json:"cadence"`
	Often   string          `json:"often" doc:"the cadence, read aloud"`
	Version int             `json:"version" doc:"0: nobody has changed them yet"`
}

const (
	preparedPath = "/api/v1/sites/{site}/prepared"
	onePrepared  = preparedPath + "/{id}"
)

func (s part) preparedOperations(api huma.API) {
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "list-prepared", Method: http.MethodGet, Path: preparedPath, Summary: "The table of prepared messages",
	}, s.listPrepared)
	huma.Register(api, huma.Operation{
		OperationID: "prepare-messages", Method: http.MethodPost, Path: preparedPath, Summary: "Add messages to the table",
		Description: "They may be unfinished. Nothing goes out until they are released.", DefaultStatus: http.StatusCreated,
	}, s.prepare)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "read-prepared", Method: http.MethodPost, Path: preparedPath + "/read", Summary: "Read a sheet as messages",
		Description: "An .xlsx file, or comma, semicolon or tab separated values, as sheets copy them; columns are known by their headings (text, title, link, post, " +
			"picture, date, time, channels), else by what is in them. Nothing is kept.",
	}), s.readPrepared)
	huma.Register(api, huma.Operation{
		OperationID: "save-prepared", Method: http.MethodPut, Path: onePrepared, Summary: "Change a message of the table", Errors: stale,
	}, s.savePrepared)
	huma.Register(api, huma.Operation{
		OperationID: "delete-prepared", Method: http.MethodDelete, Path: onePrepared, Summary: "Delete a message from the table",
		DefaultStatus: http.StatusNoContent,
	}, s.deletePrepared)
	huma.Register(api, huma.Operation{
		OperationID: "release-prepared", Method: http.MethodPost, Path: preparedPath + "/release", Summary: "Release messages of the table: they go out at their time",
		Description: "Those without a time take the next openings. Where the time of one has passed, passed says what becomes of it.",
	}, s.releasePrepared)
	huma.Register(api, huma.Operation{
		OperationID: "withdraw-prepared", Method: http.MethodPost, Path: preparedPath + "/withdraw", Summary: "Take released messages back",
		Description: "Those of which nothing has gone out.", DefaultStatus: http.StatusNoContent,
	}, s.withdrawPrepared)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "send-sample", Method: http.MethodPost, Path: onePrepared + "/sample", Summary: "Send a message of the table to the practice walls",
		Description: "Nobody but the people of this installation sees them.",
	}), s.sendSample)
	huma.Register(api, huma.Operation{
		OperationID: "save-prepared-openings", Method: http.MethodPut, Path: preparedPath + "/openings", Summary: "Change when messages without a time go out",
		Errors: stale,
	}, s.savePreparedOpenings)
}

func place(zone civil.Zone, at *time.Time) *operation.Place {
	if at == nil {
		return nil
	}
	p := operation.PlaceAt(zone, *at)
	return &p
}

func viewPrepared(site store.Site, p outings.Prepared, pictures map[int64]store.Picture) PreparedMessage {
	zone := site.Zone()
	view := PreparedMessage{ID: p.ID, PreparedBody: viewPreparedBody(p.Prepared), Place: place(zone, p.At), PostTitle: p.PostTitle,
		Standing: string(p.Standing), Goes: place(zone, p.Next), Sent: place(zone, p.Sent), Passed: p.Passed, Problem: p.Problem, Version: p.Version}
	if shown, there := pictures[int64(p.Picture)]; there {
		view.Picture = showPicture(site, shown)
	}
	return view
}

// showPicture is a picture as a message shows it, in its narrowest width.
func showPicture(site store.Site, p store.Picture) *ShownPicture {
	name, small := picture.Name{Key: p.Key, Width: p.Width, Height: p.Height, Type: p.Type}, p.Width
	if widths := picture.Narrower(p.Width); len(widths) > 0 {
		small = widths[0]
	}
	return &ShownPicture{p.ID, blog.PicturePath(site.Slug, name.At(small)), p.Alt}
}

func (s part) listPrepared(ctx context.Context, in *operation.SitePath) (*struct{ Body PreparedTable }, error) {
	desk := s.outingEditor(ctx)
	table, err := desk.Table(ctx, s.Store.Queries, nil, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	var ids []int64
	for _, row := range table {
		ids = append(ids, int64(row.Picture))
	}
	pictures, err := s.Store.PicturesByID(ctx, desk.Site.ID, ids)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := PreparedTable{Rows: make([]PreparedMessage, len(table))}
	if s.Networks.Base != "" {
		body.Practice = s.Networks.Base
	}
	for i, row := range table {
		body.Rows[i] = viewPrepared(desk.Site, row, pictures)
	}
	if body.Openings, err = s.preparedOpenings(ctx, desk); err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body PreparedTable }{body}, nil
}

func (s part) preparedOpenings(ctx context.Context, desk outings.Editor) (PreparedOpenings, error) {
	c, version, err := desk.Openings(ctx, s.Store.Queries)
	return PreparedOpenings{formats.ViewCadence(c), c.String(), version}, err
}

// PreparedIDs are messages of the table.
type PreparedIDs struct {
	IDs []int64 `json:"ids" maxItems:"2000"`
}

func (s part) prepare(ctx context.Context, in *struct {
	operation.SitePath
	Body struct {
		Rows []PreparedBody `json:"rows" maxItems:"1000"`
	}
}) (*struct{ Body PreparedIDs }, error) {
	rows := make([]store.Prepared, len(in.Body.Rows))
	for i, b := range in.Body.Rows {
		rows[i] = b.kept()
	}
	ids, err := s.outingEditor(ctx).Prepare(ctx, rows, s.Clock.Now())
	return &struct{ Body PreparedIDs }{PreparedIDs{ids}}, s.Problem(err)
}

// PreparedRead is a row of a sheet, as it was read.
type PreparedRead struct {
	PreparedBody
	Place     *operation.Place `json:"place,omitempty" doc:"its time, by the clocks of the site"`
	PostTitle string           `json:"postTitle,omitempty"`
	Problem   string           `json:"problem,omitempty" doc:"what of it could not be read; the rest can be added all the same"`
}

// PreparedSheet is a sheet that was read as messages.
type PreparedSheet struct {
	Sheets []string       `json:"sheets" doc:"the names of the sheets of the file, where there are several"`
	Sheet  string         `json:"sheet" doc:"the name of the one that was read"`
	Rows   []PreparedRead `json:"rows"`
}

func (s part) readPrepared(ctx context.Context, in *struct {
	operation.SitePath
	Body struct {
		Sheet string `json:"sheet" required:"false" maxLength:"524288" doc:"comma, semicolon or tab separated values"`
		File  []byte `json:"file" required:"false" doc:"instead of sheet: an .xlsx file, or one of separated values in any common encoding; up to 512 kB"`
		Name  string `json:"name" required:"false" maxLength:"200" doc:"of the sheet in the file; none: the first"`
	}
}) (*struct{ Body PreparedSheet }, error) {
	desk := s.outingEditor(ctx)
	file := in.Body.File
	if len(file) == 0 {
		file = []byte(in.Body.Sheet)
	}
	read, err := desk.ReadRows(ctx, s.Store.Queries, file, in.Body.Name, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	out := &struct{ Body PreparedSheet }{PreparedSheet{Sheets: []string{}, Sheet: read.Name, Rows: make([]PreparedRead, len(read.Rows))}}
	if len(read.Names) > 1 {
		out.Body.Sheets = read.Names
	}
	rows, problems := read.Rows, read.Problems
	var posts []int64
	for _, r := range rows {
		posts = append(posts, int64(r.Post))
	}
	titles, err := s.Store.Titles(ctx, desk.Site.ID, posts)
	if err != nil {
		return nil, s.Problem(err)
	}
	for i, r := range rows {
		out.Body.Rows[i] = PreparedRead{PreparedBody: viewPreparedBody(r), Place: place(desk.Site.Zone(), r.At), PostTitle: titles[int64(r.Post)], Problem: problems[i]}
	}
	return out, nil
}

func (s part) savePrepared(ctx context.Context, in *struct {
	operation.ItemPath
	Body struct {
		PreparedBody
		Version int `json:"version" doc:"the version that was seen"`
	}
}) (*struct{ Body PreparedMessage }, error) {
	desk := s.outingEditor(ctx)
	row := in.Body.kept()
	row.ID, row.Version = in.ID, in.Body.Version
	if err := desk.SavePrepared(ctx, row); err != nil {
		return nil, s.Problem(err)
	}
	table, err := desk.Table(ctx, s.Store.Queries, []int64{in.ID}, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	if len(table) == 0 {
		return nil, s.Problem(store.ErrNotFound)
	}
	return &struct{ Body PreparedMessage }{viewPrepared(desk.Site, table[0], nil)}, nil
}

func (s part) deletePrepared(ctx context.Context, in *operation.ItemPath) (*struct{}, error) {
	return nil, s.Problem(s.outingEditor(ctx).DeletePrepared(ctx, in.ID))
}

// PreparedReleased says how many messages were released.
type PreparedReleased struct {
	Released int `json:"released"`
}

func (s part) releasePrepared(ctx context.Context, in *struct {
	operation.SitePath
	Body struct {
		PreparedIDs
		Passed string `json:"passed" required:"false" enum:"now,opening,leave," doc:"what becomes of those whose time has passed"`
	}
}) (*struct{ Body PreparedReleased }, error) {
	n, err := s.outingEditor(ctx).Release(ctx, in.Body.IDs, outings.WhenPassed(in.Body.Passed), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body PreparedReleased }{PreparedReleased{n}}, nil
}

func (s part) withdrawPrepared(ctx context.Context, in *struct {
	operation.SitePath
	Body PreparedIDs
}) (*struct{}, error) {
	return nil, s.Problem(s.outingEditor(ctx).Withdraw(ctx, in.Body.IDs, s.Clock.Now()))
}

// SentSample is a message that was sent to a practice wall.
type SentSample struct {
	Channel string `json:"channel"`
	URL     string `json:"url,omitempty" doc:"where it is to be read"`
	Problem string `json:"problem,omitempty" doc:"why it was not taken"`
}

func (s part) sendSample(ctx context.Context, in *operation.ItemPath) (*struct{ Body []SentSample }, error) {
	samples, err := s.outingEditor(ctx).SendSample(ctx, s.Store.Queries, in.ID, s.Networks, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	body := make([]SentSample, len(samples))
	for i, one := range samples {
		body[i] = SentSample(one)
	}
	return &struct{ Body []SentSample }{body}, nil
}

func (s part) savePreparedOpenings(ctx context.Context, in *struct {
	operation.SitePath
	Body struct {
		Cadence formats.Cadence `json:"cadence"`
		Version int             `json:"version" doc:"the version that was seen"`
	}
}) (*struct{ Body PreparedOpenings }, error) {
	desk := s.outingEditor(ctx)
	c, problems := keptCadence(in.Body.Cadence)
	if len(problems) > 0 {
		return nil, operation.Invalid(problems...)
	}
	if err := desk.SaveOpenings(ctx, c, in.Body.Version); err != nil {
		return nil, s.Problem(err)
	}
	body, err := s.preparedOpenings(ctx, desk)
	return &struct{ Body PreparedOpenings }{body}, s.Problem(err)
}
