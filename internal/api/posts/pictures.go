package posts

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/blog"
	"dapper.example/internal/budget"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/gate"
	"dapper.example/internal/library"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// picturesPage is how many pictures a page of the list has.
const picturesPage = 40

// makingWait is how long a picture may wait for its turn.
const makingWait = 20 * time.Second

func (s part) pictureOperations(api huma.API) {
	const pictures = "/api/v1/sites/{site}/pictures"
	huma.Register(api, huma.Operation{
		OperationID: "list-pictures", Method: http.MethodGet, Path: pictures,
		Summary: "The site's pictures, latest first",
	}, s.listPictures)
	huma.Register(api, huma.Operation{
		OperationID: "bring-picture", Method: http.MethodPost, Path: pictures, Summary: "Bring a picture",
		Description:   "JPEG, PNG, GIF or WebP, known by its content. It is made anew in several widths; the file itself is not kept.",
		DefaultStatus: http.StatusCreated,
	}, s.bringPicture)
	api.OpenAPI().Paths[pictures].Post.RequestBody = pictureForm() // the form is read by Resolve
	huma.Register(api, huma.Operation{
		OperationID: "describe-picture", Method: http.MethodPut, Path: pictures +
			"/{id}", Summary: "Say what a picture shows",
	}, s.describePicture)
	huma.Register(api, huma.Operation{
		OperationID: "get-picture", Method: http.MethodGet, Path: pictures + "/{id}", Summary: "A picture, and what shows it",
	}, s.getPicture)
	huma.Register(api, huma.Operation{
		OperationID: "replace-picture", Method: http.MethodPut, Path: pictures + "/{id}/file", Summary: "Put another picture in the place of one",
		Description: "Its addresses stay: whatever shows it shows the new one. Browsers that have it look again within ten minutes.",
	}, s.replacePicture)
	api.OpenAPI().Paths[pictures+"/{id}/file"].Put.RequestBody = pictureForm()
	huma.Register(api, huma.Operation{
		OperationID: "delete-picture", Method: http.MethodDelete, Path: pictures + "/{id}", Summary: "Delete a picture that nothing shows",
		Description: "It can be brought back for 30 days. A picture that something shows is refused (409), and said where it is.", DefaultStatus: http.StatusNoContent,
		Errors: []int{http.StatusConflict},
	}, s.deletePicture)
	huma.Register(api, huma.Operation{
		OperationID: "restore-picture", Method: http.MethodPost, Path: pictures + "/{id}/restore", Summary: "Bring a deleted picture back",
	}, s.restorePicture)
	huma.Register(api, huma.Operation{
		OperationID: "get-portrait", Method: http.MethodGet, Path: "/api/v1/sites/{site}/portrait", Summary: "The picture that shows oneself to readers",
	}, s.getPortrait)
	huma.Register(api, huma.Operation{
		OperationID: "set-portrait", Method: http.MethodPut, Path: "/api/v1/sites/{site}/portrait", Summary: "Choose the picture that shows oneself to readers",
	}, s.setPortrait)
}

// Picture is one of the site's pictures.
type Picture struct {
	ID      int64      `json:"id"`
	Name    string     `json:"name" doc:"of the file that was brought"`
	Alt     string     `json:"alt" doc:"what it shows, for those who do not see it"`
	Address string     `json:"address" doc:"of the full one"`
	Small   string     `json:"small" doc:"address of the narrowest one"`
	Width   int        `json:"width" doc:"of the full one, in pixels"`
	Height  int        `json:"height"`
	Made    time.Time  `json:"made"`
	Uses    int        `json:"uses" doc:"how many posts show it"`
	UsedIn  []PostRef  `json:"usedIn,omitempty" doc:"the latest changed of them"`
	Logo    bool       `json:"logo,omitempty" doc:"it is the blog’s logo"`
	Icon    bool       `json:"icon,omitempty" doc:"it is the blog’s icon"`
	Shows   []string   `json:"shows,omitempty" doc:"the people whom it shows to readers"`
	ToSend  int        `json:"toSend,omitempty" doc:"messages with it that are still to be sent"`
	Deleted *time.Time `json:"deleted,omitempty" doc:"since when it is deleted; it can be brought back for 30 days"`
}

// PostRef names a post.
type PostRef struct {
	ID    int64  `json:"id"`
	Title string `json:"title"`
}

// ViewPicture is one of the site’s pictures.
func ViewPicture(site store.Site, p store.Picture) Picture {
	name := picture.Name{Key: p.Key, Width: p.Width, Height: p.Height, Type: p.Type}
	small := p.Width
	if widths := picture.Narrower(p.Width); len(widths) > 0 {
		small = widths[0]
	}
	return Picture{ID: p.ID, Name: p.Name, Alt: p.Alt, Address: blog.PicturePath(site.Slug, name.String()),
		Small: blog.PicturePath(site.Slug, name.At(small)),
		Width: p.Width, Height: p.Height, Made: p.CreatedAt.UTC(), Deleted: p.BinnedAt}
}

// viewUsed is a picture with what shows it.
func viewUsed(site store.Site, p store.UsedPicture) Picture {
	view := ViewPicture(site, p.Picture)
	view.Uses, view.Logo, view.Icon, view.Shows = p.Uses, p.Logo, p.Icon, p.Shows
	view.ToSend = p.ToSend
	for _, post := range p.UsedIn {
		view.UsedIn = append(view.UsedIn, PostRef(post))
	}
	if p.ReplacedAt != nil {
		// Whoever looks at it here sees the new one at once.
		view.Small += "?v=" + strconv.FormatInt(p.ReplacedAt.UnixMilli(), 36)
	}
	return view
}

// PicturesPage is a page of pictures.
type PicturesPage struct {
	Pictures []Picture `json:"pictures"`
	Next     int64     `json:"next,omitempty" doc:"of the next page"`
}

type picturesInput struct {
	operation.SitePath
	Below int64  `query:"below" doc:"next of the page before"`
	Find  string `query:"find" maxLength:"200" doc:"a part of the file's name or of what it shows"`
	Only  string `query:"only" enum:"undescribed,unused,deleted" doc:"those without a description, those that nothing shows, or those that were deleted"`
}

// titlesInLists is how many titles of posts are named of each picture of a list.
const titlesInLists = 3

func (s part) listPictures(ctx context.Context, in *picturesInput) (*struct{ Body PicturesPage }, error) {
	site := operation.DeskOf(ctx).Site
	all, err := s.Store.Pictures(ctx, site.ID, store.PictureFilter{Below: in.Below, Find: strings.TrimSpace(in.Find), Titles: titlesInLists,
		Undescribed: in.Only == "undescribed", Unused: in.Only == "unused", Binned: in.Only == "deleted"}, picturesPage+1)
	if err != nil {
		return nil, s.Problem(err)
	}
	page := PicturesPage{Pictures: []Picture{}}
	if len(all) > picturesPage {
		all = all[:picturesPage]
		page.Next = all[picturesPage-1].ID
	}
	for _, p := range all {
		page.Pictures = append(page.Pictures, viewUsed(site, p))
	}
	return &struct{ Body PicturesPage }{page}, nil
}

// pictureForm describes the form that a picture comes in (RFC 7578).
func pictureForm() *huma.RequestBody {
	return &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{"multipart/form-data": {
		Schema: &huma.Schema{Type: huma.TypeObject, Required: []string{"file"}, Properties: map[string]*huma.Schema{
			"file": {Type: huma.TypeString, Format: "binary"},
			"alt":  {Type: huma.TypeString, Description: "what it shows, for those who do not see it"},
		}},
		Encoding: map[string]*huma.Encoding{"file": {ContentType: "image/jpeg,image/png,image/gif,image/webp"}},
	}}}
}

type bringInput struct {
	operation.SitePath
	upload
}

type replaceInput struct {
	operation.SitePath
	ID int64 `path:"id" minimum:"1"`
	upload
}

// upload is a picture in a form. It is read part by part and held in memory, so that
// nothing of it is ever left in a file: not the place it was taken at, nor the room it
// takes.
type upload struct {
	file    []byte
	name    string
	alt     string
	problem error
}

const (
	// maxParts is how many parts a form may have.
	maxParts = 10
	// maxAltBytes bounds what is read of a description.
	maxAltBytes = 64 << 10
)

// Resolve reads the form.
func (in *upload) Resolve(hc huma.Context) []error {
	r, _ := humachi.Unwrap(hc)
	parts, err := r.MultipartReader()
	if err != nil {
		in.problem = huma.Error415UnsupportedMediaType("A picture is uploaded in a form, as multipart/form-data.")
		return nil
	}
	for range maxParts {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err == nil {
			err = in.take(part)
		}
		if err != nil {
			in.problem = unreadable(err)
			return nil
		}
	}
	if in.file == nil {
		in.problem = operation.Invalid(&act.Invalid{Field: "file", Message: "Choose a picture file."})
	}
	return nil
}

// take takes a part of the form; ones that it does not know are passed over.
func (in *upload) take(part *multipart.Part) error {
	switch part.FormName() {
	case "file":
		file, err := io.ReadAll(io.LimitReader(part, picture.MaxBytes+1))
		in.file, in.name = append([]byte{}, file...), part.FileName()
		return err
	case "alt":
		alt, err := io.ReadAll(io.LimitReader(part, maxAltBytes))
		in.alt = string(alt)
		return err
	}
	return nil
}

func unreadable(err error) error {
	var large *http.MaxBytesError
	if errors.As(err, &large) {
		return huma.NewError(http.StatusRequestEntityTooLarge, "")
	}
	return huma.Error400BadRequest("The upload was incomplete. Nothing was saved; upload it again.")
}

func (s part) bringPicture(ctx context.Context, in *bringInput) (*struct{ Body Picture }, error) {
	at := operation.SeatOf(ctx)
	var kept store.Picture
	err := s.making(ctx, &in.upload, func(made picture.Made) error {
		kept = store.Picture{SiteID: at.Site.ID, Name: nameOf(in.name), Alt: in.alt, Type: made.Type, Width: made.Width,
			Height: made.Height, User: &at.User.ID, CreatedAt: s.Clock.Now()}
		return blog.KeepPicture(ctx, s.Store, &kept, made)
	})
	if err != nil {
		return nil, err
	}
	return &struct{ Body Picture }{ViewPicture(at.Site, kept)}, nil
}

// making makes a picture of what was brought, and does something with it.
func (s part) making(ctx context.Context, in *upload, do func(picture.Made) error) error {
	if in.problem != nil {
		return in.problem
	}
	if err := altProblem(in.alt); err != nil {
		return err
	}
	release, err := budget.Take(ctx, picture.Megabytes(in.file), makingWait)
	if err != nil {
		return s.Problem(err)
	}
	defer release()
	made, err := picture.MakeWithin(ctx, in.file)
	var refused *picture.Refused
	if errors.As(err, &refused) {
		return operation.Invalid(&act.Invalid{Field: "file", Message: refused.Why})
	}
	if err == nil {
		err = do(made)
	}
	return s.Problem(err)
}

// nameOf is the name of a file as it is shown.
func nameOf(given string) string {
	name := strings.ToValidUTF8(path.Base(strings.ReplaceAll(strings.ReplaceAll(given, `\`, "/"), "\x00", "")), "")
	if r := []rune(name); len(r) > 200 {
		name = string(r[:200])
	}
	return name
}

func altProblem(alt string) error {
	switch {
	case letters.Length(alt, writing.MaxAlt) > writing.MaxAlt:
		return operation.Invalid(&act.Invalid{Field: "alt",
			Message: fmt.Sprintf("What a picture shows is said in at most %d characters.", writing.MaxAlt)})
	case !gate.IsText(alt):
		return operation.Invalid(&act.Invalid{Field: "alt",
			Message: "It contains a character that is not text (NUL). Remove it."})
	}
	return nil
}

type describeInput struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Alt string `json:"alt"`
	}
}

func (s part) describePicture(ctx context.Context, in *describeInput) (*struct{ Body Picture }, error) {
	if err := altProblem(in.Body.Alt); err != nil {
		return nil, err
	}
	return s.changed(ctx, in.ID, "describe-picture", func(site int64) error {
		return s.Store.DescribePicture(ctx, site, in.ID, in.Body.Alt)
	})
}

type pictureInput struct {
	operation.SitePath
	ID int64 `path:"id" minimum:"1"`
}

func (s part) getPicture(ctx context.Context, in *pictureInput) (*struct{ Body Picture }, error) {
	site := operation.DeskOf(ctx).Site
	p, err := library.Find(ctx, s.Store.Queries, site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Picture }{viewUsed(site, p)}, nil
}

// changed does something with a picture, where it is the caller's own or they may change others'.
func (s part) changed(ctx context.Context, id int64, name string, do func(site int64) error) (*struct{ Body Picture }, error) {
	site := operation.DeskOf(ctx).Site
	if err := s.ofOwn(ctx, id, name); err != nil {
		return nil, err
	}
	if err := do(site.ID); err != nil {
		return nil, s.Problem(err)
	}
	return s.getPicture(ctx, &pictureInput{ID: id})
}

// ofOwn refuses a picture that somebody else brought to who may use the operation on their own only.
func (s part) ofOwn(ctx context.Context, id int64, name string) error {
	there, err := s.Store.Picture(ctx, operation.DeskOf(ctx).Site.ID, id)
	if err != nil {
		return s.Problem(err)
	}
	var maker int64
	if there.User != nil {
		maker = *there.User
	}
	return operation.OfOwn(ctx, name, maker)
}

func (s part) replacePicture(ctx context.Context, in *replaceInput) (*struct{ Body Picture }, error) {
	if err := s.ofOwn(ctx, in.ID, "replace-picture"); err != nil {
		return nil, err
	}
	err := s.making(ctx, &in.upload, func(made picture.Made) error {
		return library.Replace(ctx, operation.DeskOf(ctx), in.ID, nameOf(in.name), made, s.Clock.Now())
	})
	if err != nil {
		return nil, err
	}
	return s.getPicture(ctx, &pictureInput{ID: in.ID})
}

func (s part) deletePicture(ctx context.Context, in *pictureInput) (*struct{}, error) {
	if err := s.ofOwn(ctx, in.ID, "delete-picture"); err != nil {
		return nil, err
	}
	err := library.Delete(ctx, operation.DeskOf(ctx), in.ID, s.Clock.Now())
	if used, is := errors.AsType[*library.Used](err); is {
		return nil, huma.Error409Conflict(used.Error())
	}
	return nil, s.Problem(err)
}

func (s part) restorePicture(ctx context.Context, in *pictureInput) (*struct{ Body Picture }, error) {
	return s.changed(ctx, in.ID, "restore-picture", func(int64) error {
		return library.Restore(ctx, operation.DeskOf(ctx), in.ID, s.Clock.Now())
	})
}

// Portrait is the picture that shows a person to readers.
type Portrait struct {
	Picture *Picture `json:"picture,omitempty" doc:"absent for none"`
}

func (s part) getPortrait(ctx context.Context, _ *operation.SitePath) (*struct{ Body Portrait }, error) {
	at := operation.SeatOf(ctx)
	p, err := s.Store.Portrait(ctx, at.Site.ID, at.User.ID)
	if errors.Is(err, store.ErrNotFound) {
		return &struct{ Body Portrait }{}, nil
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Portrait }{Portrait{new(ViewPicture(at.Site, p))}}, nil
}

type portraitInput struct {
	operation.SitePath
	Body struct {
		ID int64 `json:"id" minimum:"0" doc:"of a picture of the blog; 0 for none"`
	}
}

func (s part) setPortrait(ctx context.Context, in *portraitInput) (*struct{ Body Portrait }, error) {
	at := operation.SeatOf(ctx)
	if err := library.SetPortrait(ctx, at.Desk, at.User.ID, in.Body.ID); err != nil {
		return nil, s.Problem(err)
	}
	return s.getPortrait(ctx, nil)
}
