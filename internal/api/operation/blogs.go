package operation

import (
	"context"
	"errors"

	"dapper.example/internal/act"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// OtherBlog returns the blog of a slug that whoever asks edits as well. It fails with a problem of the field "blog" where they do not.
func (s *Tools) OtherBlog(ctx context.Context, slug string) (store.Site, error) {
	m, err := s.Store.MembershipOf(ctx, DeskOf(ctx).Actor, slug)
	if errors.Is(err, store.ErrNotFound) || err == nil && !people.Role(m.Role).Covers(people.Editor) {
		return store.Site{}, Invalid(act.Invalidf("blog", "Choose a blog that you edit."))
	}
	return m.Site, s.Problem(err)
}
