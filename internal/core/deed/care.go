package deed

import (
	"slices"
	"time"

	"dapper.example/internal/core/post"
	"dapper.example/internal/core/revise"
)

// The names of what is done to posts that stay where they are.
const (
	KindRefile        Kind = "refile"
	KindAddTag        Kind = "add tag"
	KindPutNotice     Kind = "put notice"
	KindCloseComments Kind = "close comments"
)

// Refile puts a post into another category.
type Refile struct {
	Base
	Category int64
	Name     string // the category's
}

// Describe tells what the deed is.
func (d Refile) Describe() Description { return d.describe(KindRefile, Changed) }

func (d Refile) apply(w *World, _ time.Time) {
	i, _ := w.find(d.Post)
	w.changing(i).Category = d.Name
	w.says(d.Post, func(t *revise.Text) { t.Category = d.Category })
	w.touch(i)
}

// AddTag adds a tag to those of a post.
type AddTag struct {
	Base
	Tag string
}

// Describe tells what the deed is.
func (d AddTag) Describe() Description { return d.describe(KindAddTag, Changed) }

func (d AddTag) apply(w *World, _ time.Time) {
	i, _ := w.find(d.Post)
	f := w.changing(i)
	f.Tags = slices.Sorted(slices.Values(append(slices.Clone(f.Tags), d.Tag)))
	w.says(d.Post, func(t *revise.Text) { t.Tags = append(slices.Clone(t.Tags), d.Tag) })
	w.touch(i)
}

// says changes what a post says, where it is known.
func (w *World) says(post int64, how func(*revise.Text)) {
	if text, known := w.live[post]; known {
		how(&text)
		w.live[post] = text
	}
}

// PutNotice puts a notice to readers above a post that stays out.
type PutNotice struct {
	Base
	Notice string
}

// Describe tells what the deed is.
func (d PutNotice) Describe() Description { return d.describe(KindPutNotice, Changed) }

func (d PutNotice) apply(w *World, _ time.Time) {
	i, _ := w.find(d.Post)
	w.stand(i, func(s post.State) post.State { return s.Notify(d.Notice) })
	w.touch(i)
}

// CloseComments has a post take no more comments.
type CloseComments struct{ Base }

// Describe tells what the deed is.
func (d CloseComments) Describe() Description { return d.describe(KindCloseComments, Changed) }

func (d CloseComments) apply(w *World, _ time.Time) {
	i, _ := w.find(d.Post)
	w.changing(i).CommentsOpen = false
	w.touch(i)
}
