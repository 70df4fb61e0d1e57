// Package bundle writes a blog as a zip of open formats: its posts as Markdown with YAML front matter,
// its pictures as they were uploaded, its comments and what is set for the whole blog as JSON.
package bundle

import (
	"archive/zip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"path"
	"regexp"
	"time"

	"go.yaml.in/yaml/v3"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/core/post"
	"dapper.example/internal/formats"
	"dapper.example/internal/store"
)

// page is how many posts are in memory at once.
const page = 100

// Blog is what is said of the whole blog, in blog.json.
type Blog struct {
	Title      string            `json:"title"`
	Tagline    string            `json:"tagline,omitempty"`
	Slug       string            `json:"slug"`
	Zone       string            `json:"zone"`
	Language   string            `json:"language"`
	Host       string            `json:"host,omitempty"`
	Footer     string            `json:"footer,omitempty"`
	Look       string            `json:"look"`
	Accent     string            `json:"accent,omitempty"`
	Categories []Category        `json:"categories"`
	Rhythm     string            `json:"rhythm"`
	Gap        int               `json:"gap"` // minutes
	Openings   []formats.Opening `json:"openings"`
	Written    time.Time         `json:"written"`
}

// Category is one of the blog's categories.
type Category struct {
	Name        string `json:"name"`
	Slug        string `json:"slug"`
	Description string `json:"description,omitempty"`
}

// Matter is the front matter of a post.
type Matter struct {
	Title     string            `yaml:"title" json:"title"`
	Slug      string            `yaml:"slug,omitempty" json:"slug,omitempty"`
	Kind      string            `yaml:"kind,omitempty" json:"kind,omitempty"` // "page" or "link"; a post where it is absent
	Link      string            `yaml:"link,omitempty" json:"link,omitempty"` // of a link item: where it leads
	Status    string            `yaml:"status" json:"status"`
	Date      *time.Time        `yaml:"date,omitempty" json:"date,omitempty"` // when it came out, or is to
	Author    string            `yaml:"author" json:"author"`
	Category  string            `yaml:"category,omitempty" json:"category,omitempty"`
	Tags      []string          `yaml:"tags,omitempty" json:"tags,omitempty"`
	Excerpt   string            `yaml:"excerpt,omitempty" json:"excerpt,omitempty"`
	Picture   string            `yaml:"picture,omitempty" json:"picture,omitempty"`
	Alt       string            `yaml:"picture_description,omitempty" json:"picture_description,omitempty"`
	Evergreen bool              `yaml:"evergreen,omitempty" json:"evergreen,omitempty"`
	Fields    map[string]string `yaml:"fields,omitempty" json:"fields,omitempty"`

	NeverExpires   bool       `yaml:"never_expires,omitempty" json:"never_expires,omitempty"`
	OnTop          bool       `yaml:"on_top,omitempty" json:"on_top,omitempty"`
	Comments       string     `yaml:"comments,omitempty" json:"comments,omitempty"` // "closed"; open where it is absent
	Expires        *time.Time `yaml:"expires,omitempty" json:"expires,omitempty"`
	NotBefore      *time.Time `yaml:"not_before,omitempty" json:"not_before,omitempty"`
	Deadline       *time.Time `yaml:"deadline,omitempty" json:"deadline,omitempty"`
	FirstPublished *time.Time `yaml:"first_published,omitempty" json:"first_published,omitempty"` // where it is not the date
	Archived       *time.Time `yaml:"archived,omitempty" json:"archived,omitempty"`
	Notice         string     `yaml:"notice,omitempty" json:"notice,omitempty"`
	Gone           bool       `yaml:"gone,omitempty" json:"gone,omitempty"` // readers of the archived post are told that it is gone
	OnTheShelf     bool       `yaml:"on_the_shelf,omitempty" json:"on_the_shelf,omitempty"`
	OldAddresses   []string   `yaml:"old_addresses,omitempty" json:"old_addresses,omitempty"` // slugs that lead on to it
}

// Picture says of a picture what its file does not, in pictures.json.
type Picture struct {
	File string `json:"file"`
	Name string `json:"name"` // of the file that was uploaded
	Alt  string `json:"alt,omitempty"`
}

// Write writes a site to w as it goes; more is asked before each file, and ends the writing with its
// error. The bin is left out. A zip that was not written to its end cannot be opened.
func Write(ctx context.Context, q store.Queries, site store.Site, w io.Writer, now time.Time, more func() error) error {
	out := zip.NewWriter(w)
	if err := writeBlog(ctx, q, site, out, now); err != nil {
		return err
	}
	if err := writePosts(ctx, q, site, out, more); err != nil {
		return err
	}
	if err := writeComments(ctx, q, site, out, more); err != nil {
		return err
	}
	if err := writePictures(ctx, q, site, out, more); err != nil {
		return err
	}
	return out.Close()
}

func writeBlog(ctx context.Context, q store.Queries, site store.Site, out *zip.Writer, now time.Time) error {
	blog, err := blogOf(ctx, q, site, now)
	if err != nil {
		return err
	}
	return writeJSON(out, "blog.json", blog)
}

// blogOf is what is said of a whole blog.
func blogOf(ctx context.Context, q store.Queries, site store.Site, now time.Time) (Blog, error) {
	categories, err := q.Categories(ctx, site.ID)
	if err != nil {
		return Blog{}, err
	}
	rhythm, err := q.RhythmOf(ctx, site.ID)
	if err != nil {
		return Blog{}, err
	}
	blog := Blog{Title: site.Title, Tagline: site.Tagline, Slug: site.Slug, Zone: site.ZoneName, Language: site.Language,
		Host: site.Host, Footer: site.Footer, Look: site.Look, Accent: site.Accent, Categories: []Category{}, Rhythm: rhythm.Name, Gap: rhythm.Gap, Openings: []formats.Opening{}, Written: now.UTC()}
	for _, c := range categories {
		blog.Categories = append(blog.Categories, Category{c.Name, c.Slug, c.Description})
	}
	for _, o := range rhythm.Openings {
		blog.Openings = append(blog.Openings, formats.ViewOpening(o))
	}
	return blog, nil
}

func writeJSON(out *zip.Writer, name string, value any) error {
	file, err := out.Create(name)
	if err != nil {
		return err
	}
	lines := json.NewEncoder(file)
	lines.SetEscapeHTML(false)
	lines.SetIndent("", "  ")
	return lines.Encode(value)
}

func writePosts(ctx context.Context, q store.Queries, site store.Site, out *zip.Writer, more func() error) error {
	types, err := q.ReplacedTypes(ctx, site.ID)
	if err != nil {
		return fmt.Errorf("reading pictures: %w", err)
	}
	beside := func(key, ending string) string {
		if now, replaced := types[key]; replaced {
			ending = now
		}
		return "../" + pictureFile(key, ending)
	}
	return eachPost(ctx, q, site, more, func(p store.Post, old []string) error { return writePost(out, site, p, old, beside) })
}

// eachPost takes the posts of a site that are not in the bin, with the addresses that they had before.
func eachPost(ctx context.Context, q store.Queries, site store.Site, more func() error, take func(store.Post, []string) error) error {
	for after := int64(0); ; {
		posts, err := q.PostsAfter(ctx, site.ID, after, page)
		if err != nil {
			return fmt.Errorf("reading posts: %w", err)
		}
		ids := make([]int64, len(posts))
		for i, p := range posts {
			ids[i] = p.ID
		}
		old, err := q.OldSlugs(ctx, site.ID, ids)
		if err != nil {
			return fmt.Errorf("reading former addresses: %w", err)
		}
		for _, p := range posts {
			if err := more(); err != nil {
				return err
			}
			if err := take(p, old[p.ID]); err != nil {
				return fmt.Errorf("writing post %d: %w", p.ID, err)
			}
			after = p.ID
		}
		if len(posts) < page {
			return nil
		}
	}
}

// MatterOf is what is said of a post beside its text; its former addresses go along. Pictures have the addresses that they have on the blog.
func MatterOf(p store.Post, old []string) Matter {
	matter := Matter{Title: p.Title, Slug: p.Slug, Status: string(p.Status), Author: p.AuthorName, Tags: p.Tags, Excerpt: p.Excerpt,
		Picture: p.FeaturedImage, Alt: p.FeaturedAlt, Evergreen: p.Evergreen, Fields: p.Fields, NeverExpires: p.NeverExpires, OnTop: p.OnTop, Expires: utc(p.ExpiresAt), NotBefore: utc(p.NotBefore), Deadline: utc(p.Deadline),
		Archived: utc(p.ArchivedAt), Notice: p.Notice, OnTheShelf: p.Cleared, OldAddresses: old}
	answer, _ := p.Answers()
	matter.Gone = p.Status == store.Archived && answer == post.Gone
	if !p.CommentsOpen {
		matter.Comments = "closed"
	}
	if p.Kind != "post" {
		matter.Kind, matter.Link = p.Kind, p.Link
	}
	if p.CategoryName != nil {
		matter.Category = *p.CategoryName
	}
	if matter.Date = utc(p.PublishedAt); matter.Date == nil {
		matter.Date = utc(p.DueAt)
	}
	if first := p.FirstPublishedAt; first != nil && (p.PublishedAt == nil || !first.Equal(*p.PublishedAt)) {
		matter.FirstPublished = utc(first)
	}
	return matter
}

func writePost(out *zip.Writer, site store.Site, p store.Post, old []string, picture func(key, ending string) string) error {
	matter := MatterOf(p, old)
	folder, name := "drafts", fmt.Sprintf("%d", p.ID)
	switch {
	case p.Status == store.Linked:
		folder = "links"
	case p.PublishedAt != nil:
		folder = "posts"
	case p.DueAt != nil:
		folder = "scheduled"
	}
	if slug := address.Slug(p.Title); slug != "" {
		name += "-" + slug
	}
	if matter.Date != nil {
		date, _ := site.Zone().Local(*matter.Date)
		name = date.String() + "-" + name
	}
	file, err := out.CreateHeader(&zip.FileHeader{Name: path.Join(folder, name+".md"), Method: zip.Deflate, Modified: p.UpdatedAt})
	if err != nil {
		return err
	}
	text, err := FileOf(matter, p.Body, picture)
	if err != nil {
		return err
	}
	_, err = file.Write(text)
	return err
}

// FileOf is a post as a file: its front matter, and its text. picture says how a picture of the blog is reached from it.
func FileOf(matter Matter, body string, picture func(key, ending string) string) ([]byte, error) {
	matter.Picture = WithPictures(matter.Picture, picture)
	front, err := yaml.Marshal(matter)
	if err != nil {
		return nil, err
	}
	return fmt.Appendf(nil, "---\n%s---\n\n%s\n", front, WithPictures(body, picture)), nil
}

// ownPictures finds the addresses of the blog's own pictures in texts.
var ownPictures = regexp.MustCompile(`/blog/[a-z0-9-]+/pictures/([0-9a-z]{16})-\d+x\d+(?:@\d+)?\.(jpg|png)`)

// WithPictures is a text with another address for each picture of the blog. picture gets its key, and the ending of its present address:
// that of another type, where it was replaced by one.
func WithPictures(text string, picture func(key, ending string) string) string {
	return ownPictures.ReplaceAllStringFunc(text, func(found string) string {
		parts := ownPictures.FindStringSubmatch(found)
		return picture(parts[1], parts[2])
	})
}

// pictureFile is where a picture lies in the zip.
func pictureFile(key, ending string) string { return "pictures/" + key + "." + ending }

func utc(t *time.Time) *time.Time {
	if t == nil {
		return nil
	}
	at := t.UTC()
	return &at
}

// Comment is what somebody wrote under a post, as a line of comments.jsonl.
type Comment struct {
	ID      int64     `json:"id"`
	Post    string    `json:"post"` // its name in addresses
	Answers int64     `json:"answers,omitempty"`
	Name    string    `json:"name"`
	Team    bool      `json:"team,omitempty"` // somebody of the blog wrote it
	At      time.Time `json:"at"`
	Status  string    `json:"status"`
	Text    string    `json:"text"`
}

// writeComments writes the comments that are not in the bin, one a line, the latest first.
func writeComments(ctx context.Context, q store.Queries, site store.Site, out *zip.Writer, more func() error) error {
	file, err := out.Create("comments.jsonl")
	if err != nil {
		return err
	}
	lines := json.NewEncoder(file)
	lines.SetEscapeHTML(false)
	return eachComment(ctx, q, site, more, func(c Comment) error { return lines.Encode(c) })
}

// eachComment takes the comments of a site that are not in the bin, the latest first.
func eachComment(ctx context.Context, q store.Queries, site store.Site, more func() error, take func(Comment) error) error {
	for _, status := range []comment.Status{comment.Held, comment.Shown} {
		for below := int64(0); ; {
			if err := more(); err != nil {
				return err
			}
			all, err := q.Comments(ctx, site.ID, store.CommentFilter{Status: status, Below: below}, page)
			if err != nil {
				return fmt.Errorf("reading comments: %w", err)
			}
			for _, c := range all {
				below = c.ID
				line := Comment{ID: c.ID, Post: c.Slug, Name: c.Name, Team: c.User != nil, At: c.At.UTC(), Status: string(c.Status), Text: c.Text}
				if c.Answers != nil {
					line.Answers = *c.Answers
				}
				if err := take(line); err != nil {
					return err
				}
			}
			if len(all) < page {
				break
			}
		}
	}
	return nil
}

func writePictures(ctx context.Context, q store.Queries, site store.Site, out *zip.Writer, more func() error) error {
	said := []Picture{}
	err := eachPicture(ctx, q, site, more, func(p store.UsedPicture, data []byte) error {
		name := pictureFile(p.Key, p.Type)
		said = append(said, Picture{name, p.Name, p.Alt})
		// Pictures are packed already.
		file, err := out.CreateHeader(&zip.FileHeader{Name: name, Method: zip.Store, Modified: p.CreatedAt})
		if err != nil {
			return err
		}
		_, err = file.Write(data)
		return err
	})
	if err != nil {
		return err
	}
	return writeJSON(out, "pictures.json", said)
}

// eachPicture takes the pictures of a site that are not in the bin, with their full files.
func eachPicture(ctx context.Context, q store.Queries, site store.Site, more func() error, take func(store.UsedPicture, []byte) error) error {
	for below := int64(0); ; {
		pictures, err := q.Pictures(ctx, site.ID, store.PictureFilter{Below: below}, page)
		if err != nil {
			return fmt.Errorf("reading pictures: %w", err)
		}
		for _, p := range pictures {
			if err := more(); err != nil {
				return err
			}
			below = p.ID
			_, data, err := q.PictureFile(ctx, site.ID, p.Key, p.Width)
			if err != nil {
				return fmt.Errorf("reading picture %d: %w", p.ID, err)
			}
			if err := take(p, data); err != nil {
				return err
			}
		}
		if len(pictures) < page {
			return nil
		}
	}
}
