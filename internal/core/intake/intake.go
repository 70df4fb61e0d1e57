// Package intake makes posts of what comes in: articles of an archive, rows of a sheet, items of a feed.
//
// A source yields lines. Each passes through the same steps, in this order: compose its texts of its columns, find its category
// and tags, require words and lengths, clean it (HTML becomes Markdown), put in house links and alternatives, see to its
// picture. It becomes a post or is left out, with a reason either way. The same line, recipe and seed make the same post,
// whatever came before it. The package is pure; it never asks whether a blog has such a post already.
package intake

import (
	"cmp"
	"context"
	"fmt"
	"hash/fnv"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/moment"
)

// Format is how a body is written.
type Format string

// The formats of bodies.
const (
	Markdown Format = "markdown"
	HTML     Format = "html"
	Plain    Format = "text"
)

// Line is one article as its source gives it.
type Line struct {
	Key     string   `json:"key"`   // it is known again by it within its source
	Place   string   `json:"place"` // where it stands there, for people, such as "row 12" or a path
	File    string   `json:"file,omitempty"`
	Columns []Column `json:"columns,omitempty"`
	Article
	Own     []string `json:"own,omitempty"`     // pictures within its own file, by their paths; its text names them as OwnPicture
	Problem string   `json:"problem,omitempty"` // what its source could not read of it
}

// Column is a cell of a sheet, or an entry of a file's front matter, with its heading.
type Column struct{ Name, Value string }

// Article is what a source says of an article; what it does not say is empty. Texts stand as they are written there.
type Article struct {
	Format   Format            `json:"format,omitempty"` // of the body; "" is found out from it
	Title    string            `json:"title,omitempty"`
	Body     string            `json:"body,omitempty"`
	Excerpt  string            `json:"excerpt,omitempty"`
	Slug     string            `json:"slug,omitempty"`
	Category string            `json:"category,omitempty"`
	Tags     []string          `json:"tags,omitempty"`
	Author   string            `json:"author,omitempty"`
	Kind     string            `json:"kind,omitempty"`    // "page", or "link" for a link item; a post else
	Date     string            `json:"date,omitempty"`    // when it came out, or is to
	Status   string            `json:"status,omitempty"`  // what the source says it is
	Picture  string            `json:"picture,omitempty"` // a file of the source, or an address
	Alt      string            `json:"alt,omitempty"`     // what the picture shows
	Link     string            `json:"link,omitempty"`    // where it stands elsewhere
	Fields   map[string]string `json:"fields,omitempty"`
	Care     Care              `json:"care"`
}

// Care is what a blog that was written out says of its posts beside their texts.
type Care struct {
	Evergreen      bool       `json:"evergreen,omitempty"`
	NeverExpires   bool       `json:"never_expires,omitempty"`
	OnTop          bool       `json:"on_top,omitempty"`
	CommentsClosed bool       `json:"comments_closed,omitempty"`
	Expires        *time.Time `json:"expires,omitempty"`
	NotBefore      *time.Time `json:"not_before,omitempty"`
	Deadline       *time.Time `json:"deadline,omitempty"`
	FirstPublished *time.Time `json:"first_published,omitempty"`
	Archived       *time.Time `json:"archived,omitempty"`
	Notice         string     `json:"notice,omitempty"`
	Gone           bool       `json:"gone,omitempty"` // of an archived post
	Shelved        bool       `json:"shelved,omitempty"`
	OldSlugs       []string   `json:"old_slugs,omitempty"`
}

// Post is what a line becomes. Pictures of the source stand in its body as PictureMark.
type Post struct {
	Title        string            `json:"title"`
	Body         string            `json:"body"` // Markdown
	Excerpt      string            `json:"excerpt,omitempty"`
	Slug         string            `json:"slug,omitempty"` // as wished; "" for one made from the title
	Category     string            `json:"category,omitempty"`
	Tags         []string          `json:"tags,omitempty"`
	Author       string            `json:"author,omitempty"` // as the source says; nobody of the blog perhaps
	Page         bool              `json:"page,omitempty"`
	Linked       bool              `json:"linked,omitempty"` // a link item, to be shared, without a page of its own
	At           time.Time         `json:"at,omitzero"`
	Status       string            `json:"status,omitempty"`
	Picture      string            `json:"picture,omitempty"` // an address, or a PictureMark; "" for none
	Alt          string            `json:"alt,omitempty"`
	Link         string            `json:"link,omitempty"`
	Fields       map[string]string `json:"fields,omitempty"`
	CommentsOpen *bool             `json:"comments_open,omitempty"` // nil: as the blog has it
	Care         Care              `json:"care"`
	Pictures     []string          `json:"pictures,omitempty"` // files of the source, by the numbers of their marks
}

// PictureMark stands in a post for a picture of its source until that is in the library.
func PictureMark(number int) string { return fmt.Sprintf("intake:%d:", number) }

// WithPictures is a text with the addresses of pictures in the place of their marks.
func (p Post) WithPictures(text string, address func(file string) string) string {
	if !strings.Contains(text, "intake:") {
		return text
	}
	for i, file := range p.Pictures {
		if mark := PictureMark(i); strings.Contains(text, mark) {
			text = strings.ReplaceAll(text, mark, address(file))
		}
	}
	return text
}

// Result is what becomes of a line.
type Result struct {
	Post  Post
	Left  string   // why it is left out, a sentence; "": it becomes the post
	Notes []string // what was done with it, and what could not be, in sentences
}

// Place is what a recipe is tried at: the blog, and what the source has beside its lines.
type Place struct {
	Zone       civil.Zone
	Now        time.Time
	Categories []string
	Lists      message.Lists
	Pictures   Pictures
}

// dayTime is at what time a day without one is meant.
const dayTime = civil.Clock(9 * 60)

// line is a line on its way.
type line struct {
	*Pipeline
	ctx  context.Context
	from Line
	post Post
	seed uint64
	date string // as the line says it
	text string // what readers would see of title and body, before it is cleaned; "" until asked
	out  Result
}

// Take takes a line through all steps, for as long as a context lasts.
func (p *Pipeline) Take(ctx context.Context, from Line) (Result, error) {
	l := line{Pipeline: p, ctx: ctx, from: from, seed: cadence.Mix(p.recipe.Seed, keyHash(from.Key))}
	if from.Problem != "" {
		l.note("%s", from.Problem)
	}
	steps := []func(*line) error{(*line).compose, (*line).findTopics, (*line).require, (*line).clean, (*line).link, (*line).drawAlternatives,
		(*line).seePicture, (*line).finish}
	for _, step := range steps {
		if err := ctx.Err(); err != nil {
			return Result{}, err
		}
		if err := step(&l); err != nil {
			return Result{}, err
		}
		if l.out.Left != "" {
			break
		}
	}
	l.out.Post = l.post
	return l.out, nil
}

func (l *line) note(format string, args ...any) {
	if len(l.out.Notes) < mostNotes {
		l.out.Notes = append(l.out.Notes, fmt.Sprintf(format, args...))
	}
}

func (l *line) leave(format string, args ...any) { l.out.Left = fmt.Sprintf(format, args...) }

const (
	mostNotes = 20
	mostNamed = 60 // characters of something that a sentence names
)

// named is a text as a sentence names it.
func named(text string) string {
	text = strings.Join(strings.Fields(text), " ")
	if r := []rune(text); len(r) > mostNamed {
		return string(r[:mostNamed-1]) + "…"
	}
	return text
}

func keyHash(key string) uint64 {
	h := fnv.New64a()
	h.Write([]byte(key))
	return h.Sum64()
}

// Rank is where a line comes when a source is shuffled by a seed: the lowest first.
func Rank(seed uint64, key string) uint64 { return cadence.Mix(seed, keyHash(key)) }

// finish settles what else the post says.
func (l *line) finish() error {
	if l.post.Title = strings.Join(strings.Fields(l.post.Title), " "); l.post.Title == "" {
		l.leave("It has no title.")
		return nil
	}
	l.post.Excerpt = strings.TrimSpace(l.post.Excerpt)
	if l.post.Category != "" && !slices.ContainsFunc(l.place.Categories, func(c string) bool { return letters.Equal(c, l.post.Category) }) && !l.recipe.NewCategories {
		l.note("There is no category “%s”; it gets none.", named(l.post.Category))
		l.post.Category = ""
	}
	if l.date != "" {
		at, ok := moment.ReadAny(l.date, l.place.Zone, l.place.Now, dayTime)
		if !ok {
			l.note("“%s” is no date and time; write 2026-12-04 09:40. It is brought in without.", named(l.date))
		}
		l.post.At = at
	}
	switch l.recipe.Comments {
	case "open":
		l.post.CommentsOpen = new(true)
	case "closed":
		l.post.CommentsOpen = new(false)
	default:
		if l.post.Care.CommentsClosed {
			l.post.CommentsOpen = new(false)
		}
	}
	return nil
}

// ownPicture begins what stands in a text for a picture within its own file.
const ownPicture = "own-picture:"

// OwnPicture stands in the text of a line for the picture of a number, from 0, of its own.
func OwnPicture(number int) string { return ownPicture + strconv.Itoa(number) }

// Pictures are the pictures that a source brings along, by their paths.
type Pictures struct {
	exact map[string]string   // by their paths in small letters
	named map[string][]string // by the names of their files in small letters
}

// PicturesOf are pictures by their paths, with slashes.
func PicturesOf(paths []string) Pictures {
	p := Pictures{make(map[string]string, len(paths)), make(map[string][]string, len(paths))}
	for _, one := range paths {
		small := strings.ToLower(one)
		p.exact[small] = one
		name := path.Base(small)
		p.named[name] = append(p.named[name], one)
	}
	return p
}

// Find is the picture that a file of the source means by a path: relative to itself, from the source's top, or by the name of a
// file that only one picture has.
func (p Pictures) Find(from, meant string) (file string, ok bool) {
	meant = strings.ToLower(strings.ReplaceAll(strings.TrimSpace(meant), `\`, "/"))
	if meant == "" {
		return "", false
	}
	for _, one := range []string{path.Join(path.Dir(strings.ToLower(from)), meant), path.Clean(strings.TrimLeft(meant, "/"))} {
		if file, ok := p.exact[one]; ok {
			return file, true
		}
	}
	if same := p.named[path.Base(meant)]; len(same) == 1 {
		return same[0], true
	}
	return "", false
}

// trimTags are tags without blanks, each once, as addresses tell them apart.
func trimTags(tags []string) (kept []string) {
	for _, tag := range tags {
		tag = strings.Join(strings.Fields(tag), " ")
		if tag != "" && !slices.ContainsFunc(kept, func(k string) bool { return letters.Equal(k, tag) }) {
			kept = append(kept, tag)
		}
	}
	return kept
}

// ParseTags are the tags that a text lists, parted by commas or semicolons.
func ParseTags(text string) []string {
	return trimTags(strings.FieldsFunc(text, func(r rune) bool { return r == ',' || r == ';' || r == '|' }))
}

// Column is the value of a column by its heading or its number; ok is false where there is none.
func (l Line) Column(name string) (value string, ok bool) {
	at, ok := columnOf(l.Columns, name)
	if !ok || at >= len(l.Columns) {
		return "", false
	}
	return l.Columns[at].Value, true
}

// columnOf finds a column by its heading, or by its number from 1.
func columnOf(columns []Column, name string) (at int, ok bool) {
	folded := letters.Fold(strings.TrimSpace(name))
	for i, c := range columns {
		if letters.Fold(strings.TrimSpace(c.Name)) == folded {
			return i, true
		}
	}
	n := 0
	for _, r := range folded {
		if r < '0' || r > '9' || n > 1<<20 {
			return 0, false
		}
		n = n*10 + int(r-'0')
	}
	if n < 1 {
		return 0, false
	}
	return n - 1, true // a row may be shorter than its heading row
}

func sortedBy[T any, K cmp.Ordered](all []T, key func(T) K) []T {
	return slices.SortedStableFunc(slices.Values(all), func(a, b T) int { return cmp.Compare(key(a), key(b)) })
}
