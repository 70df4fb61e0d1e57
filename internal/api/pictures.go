package api

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"path"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/rivo/uniseg"

	"dapper.example/internal/blog"
	"dapper.example/internal/core/picture"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// picturesPage is how many pictures a page of the list has.
const picturesPage = 40

// making keeps the pictures that are made at once to what the memory has room for: one
// may take some 600 MB for a moment.
var making = make(chan struct{}, 1)

func (s *Server) pictureOperations(api huma.API) {
	const pictures = "/api/v1/sites/{site}/pictures"
	huma.Register(api, huma.Operation{
		OperationID: "list-pictures", Method: http.MethodGet, Path: pictures, Summary: "The site's pictures, latest first",
	}, s.listPictures)
	huma.Register(api, huma.Operation{
		OperationID: "bring-picture", Method: http.MethodPost, Path: pictures, Summary: "Bring a picture",
		Description:   "JPEG, PNG, GIF or WebP, known by its content. It is made anew in several widths; what was brought is not kept.",
		DefaultStatus: http.StatusCreated, MaxBodyBytes: picture.MaxBytes + 1<<20, BodyReadTimeout: 2 * time.Minute,
	}, s.bringPicture)
	huma.Register(api, huma.Operation{
		OperationID: "describe-picture", Method: http.MethodPut, Path: pictures + "/{id}", Summary: "Say what a picture shows",
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
}

func viewPicture(site store.Site, p store.Picture) Picture {
	name := picture.Name{Key: p.Key, Width: p.Width, Height: p.Height, Type: p.Type}
	small := p.Width
	if widths := picture.Narrower(p.Width); len(widths) > 0 {
		small = widths[0]
	}
	return Picture{p.ID, p.Name, p.Alt, blog.PicturePath(site.Slug, name.String()), blog.PicturePath(site.Slug, name.At(small)), p.Width, p.Height, p.CreatedAt.UTC()}
}

// PicturesPage is a page of pictures.
type PicturesPage struct {
	Pictures []Picture `json:"pictures"`
	Next     int64     `json:"next,omitempty" doc:"of the next page"`
}

type picturesInput struct {
	SitePath
	Below int64 `query:"below" doc:"next of the page before"`
}

func (s *Server) listPictures(ctx context.Context, in *picturesInput) (*struct{ Body PicturesPage }, error) {
	site := deskOf(ctx).Site
	all, err := s.Store.Pictures(ctx, site.ID, in.Below, picturesPage+1)
	if err != nil {
		return nil, s.problem(err)
	}
	page := PicturesPage{Pictures: []Picture{}}
	if len(all) > picturesPage {
		all = all[:picturesPage]
		page.Next = all[picturesPage-1].ID
	}
	for _, p := range all {
		page.Pictures = append(page.Pictures, viewPicture(site, p))
	}
	return &struct{ Body PicturesPage }{page}, nil
}

type bringInput struct {
	SitePath
	RawBody huma.MultipartFormFiles[struct {
		File huma.FormFile `form:"file" required:"true"`
		Alt  string        `form:"alt" required:"false"`
	}]
}

func (s *Server) bringPicture(ctx context.Context, in *bringInput) (*struct{ Body Picture }, error) {
	at := seatOf(ctx)
	form := in.RawBody.Data()
	if err := altProblem(form.Alt); err != nil {
		return nil, err
	}
	file, err := io.ReadAll(io.LimitReader(form.File, picture.MaxBytes+1))
	if err != nil {
		return nil, huma.Error400BadRequest("The file did not come in whole. Nothing was kept; bring it again.")
	}
	select {
	case making <- struct{}{}:
		defer func() { <-making }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	made, err := picture.Make(file)
	var refused *picture.Refused
	if errors.As(err, &refused) {
		return nil, invalid(&planning.Invalid{Field: "file", Message: refused.Why})
	}
	if err != nil {
		return nil, s.problem(err)
	}
	kept := store.Picture{SiteID: at.Site.ID, Name: nameOf(form.File.Filename), Alt: form.Alt, Type: made.Type, Width: made.Width, Height: made.Height,
		User: &at.User.ID, CreatedAt: s.Clock.Now()}
	if err := blog.KeepPicture(ctx, s.Store, &kept, made); err != nil {
		return nil, s.problem(err)
	}
	return &struct{ Body Picture }{viewPicture(at.Site, kept)}, nil
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
	case uniseg.GraphemeClusterCount(alt) > planning.MaxAlt:
		return invalid(&planning.Invalid{Field: "alt", Message: fmt.Sprintf("What a picture shows is said in at most %d characters.", planning.MaxAlt)})
	case strings.ContainsRune(alt, 0):
		return invalid(&planning.Invalid{Field: "alt", Message: "There is a character in it that is no text (NUL). Remove it."})
	}
	return nil
}

type describeInput struct {
	SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Alt string `json:"alt"`
	}
}

func (s *Server) describePicture(ctx context.Context, in *describeInput) (*struct{ Body Picture }, error) {
	site := deskOf(ctx).Site
	if err := altProblem(in.Body.Alt); err != nil {
		return nil, err
	}
	if err := s.Store.DescribePicture(ctx, site.ID, in.ID, in.Body.Alt); err != nil {
		return nil, s.problem(err)
	}
	p, err := s.Store.Picture(ctx, site.ID, in.ID)
	if err != nil {
		return nil, s.problem(err)
	}
	return &struct{ Body Picture }{viewPicture(site, p)}, nil
}
