package posts

import (
	"context"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"path"
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
}

// Picture is one of the site's pictures.
type Picture struct {
	ID      int64     `json:"id"`
	Name    string    `json:"name" doc:"of the file that was brought"`
	Alt     string    `json:"alt" doc:"what it shows, for those who do not see it"`
	Address string    `json:"address" doc:"of the full one"`
	Small   string    `json:"small" doc:"address of the narrowest one"`
	Width   int       `json:"width" doc:"of the full one, in pixels"`
	Height  int       `json:"height"`
	Made    time.Time `json:"made"`
	Uses    int       `json:"uses" doc:"how many posts show it; in lists"`
	UsedIn  []PostRef `json:"usedIn,omitempty" doc:"the latest changed of them; in lists"`
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
		Width: p.Width, Height: p.Height, Made: p.CreatedAt.UTC()}
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
}

func (s part) listPictures(ctx context.Context, in *picturesInput) (*struct{ Body PicturesPage }, error) {
	site := operation.DeskOf(ctx).Site
	all, err := s.Store.Pictures(ctx, site.ID, in.Below, strings.TrimSpace(in.Find), picturesPage+1)
	if err != nil {
		return nil, s.Problem(err)
	}
	page := PicturesPage{Pictures: []Picture{}}
	if len(all) > picturesPage {
		all = all[:picturesPage]
		page.Next = all[picturesPage-1].ID
	}
	for _, p := range all {
		view := ViewPicture(site, p.Picture)
		view.Uses = p.Uses
		for _, post := range p.UsedIn {
			view.UsedIn = append(view.UsedIn, PostRef(post))
		}
		page.Pictures = append(page.Pictures, view)
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

// bringInput is a picture in a form. It is read part by part and held in memory, so that
// nothing of it is ever left in a file: not the place it was taken at, nor the room it
// takes.
type bringInput struct {
	operation.SitePath
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
func (in *bringInput) Resolve(hc huma.Context) []error {
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
func (in *bringInput) take(part *multipart.Part) error {
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
	if in.problem != nil {
		return nil, in.problem
	}
	if err := altProblem(in.alt); err != nil {
		return nil, err
	}
	release, err := budget.Take(ctx, picture.Megabytes(in.file), makingWait)
	if err != nil {
		return nil, s.Problem(err)
	}
	defer release()
	made, err := picture.MakeWithin(ctx, in.file)
	var refused *picture.Refused
	if errors.As(err, &refused) {
		return nil, operation.Invalid(&act.Invalid{Field: "file", Message: refused.Why})
	}
	if err != nil {
		return nil, s.Problem(err)
	}
	kept := store.Picture{SiteID: at.Site.ID, Name: nameOf(in.name), Alt: in.alt, Type: made.Type, Width: made.Width,
		Height: made.Height,
		User:   &at.User.ID, CreatedAt: s.Clock.Now()}
	if err := blog.KeepPicture(ctx, s.Store, &kept, made); err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Picture }{ViewPicture(at.Site, kept)}, nil
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
	site := operation.DeskOf(ctx).Site
	if err := altProblem(in.Body.Alt); err != nil {
		return nil, err
	}
	there, err := s.Store.Picture(ctx, site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	var maker int64
	if there.User != nil {
		maker = *there.User
	}
	if err := operation.OfOwn(ctx, "describe-picture", maker); err != nil {
		return nil, err
	}
	if err := s.Store.DescribePicture(ctx, site.ID, in.ID, in.Body.Alt); err != nil {
		return nil, s.Problem(err)
	}
	p, err := s.Store.Picture(ctx, site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Picture }{ViewPicture(site, p)}, nil
}
