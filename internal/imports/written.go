package imports

import (
	"context"
	"encoding/json"
	"slices"
	"strconv"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/store"
)

// written is what a blog that was written out says beside its posts: of its categories and its pictures.
type written struct {
	Categories []struct{ Name, Slug, Description string }
	pictures   map[string]picturesSaid
}

type picturesSaid struct{ File, Name, Alt string }

// writtenOut reads what a blog that was written out says; nil for a source that is none. What can't be read says nothing.
func (s *source) writtenOut(ctx context.Context) (*written, error) {
	blog, err := s.tree.Data(ctx, "blog.json")
	if blog == nil || err != nil {
		return nil, readable(err)
	}
	w := &written{pictures: make(map[string]picturesSaid)}
	if json.Unmarshal(blog, w) != nil {
		return nil, nil
	}
	said, err := s.tree.Data(ctx, "pictures.json")
	if err != nil {
		return nil, readable(err)
	}
	var all []picturesSaid
	if json.Unmarshal(said, &all) == nil {
		for _, p := range all {
			w.pictures[p.File] = p
		}
	}
	return w, nil
}

// guessArticles says how articles may be meant: a blog that was written out, with its dates and all its categories.
func (s *source) guessArticles(ctx context.Context) (setup Setup, err error) {
	w, err := s.writtenOut(ctx)
	if w != nil {
		setup = Setup{Recipe: intake.Recipe{NewCategories: true, Format: intake.Markdown}, Landing: Goal{As: AsDated, Doubles: true}}
	}
	return setup, err
}

const mostCategories = 500

// missing are the categories that a blog that was written out has and this one has not, in their order.
func (w *written) missing(has []store.Category) (all []store.Category) {
	if w == nil {
		return nil
	}
	has = slices.Clone(has)
	for _, c := range w.Categories[:min(len(w.Categories), mostCategories)] {
		if c.Name == "" || letters.Length(c.Name, maxCategory) > maxCategory || slices.ContainsFunc(has, func(one store.Category) bool { return letters.Equal(one.Name, c.Name) }) {
			continue
		}
		fresh := store.Category{Slug: freeCategorySlug(has, c.Slug), Name: c.Name, Description: c.Description}
		all, has = append(all, fresh), append(has, fresh)
	}
	return all
}

// freeCategorySlug is the slug of a name, with a number behind it where another category has it.
func freeCategorySlug(has []store.Category, name string) string {
	base := address.Slug(name)
	if base == "" {
		base = "category"
	}
	slug := base
	for n := 2; slices.ContainsFunc(has, func(c store.Category) bool { return c.Slug == slug }); n++ {
		slug = base + "-" + strconv.Itoa(n)
	}
	return slug
}

const maxCategory = 60
