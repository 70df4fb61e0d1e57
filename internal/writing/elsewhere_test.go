package writing_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// A draft that is moved to another blog is there as it was written, and in the bin here.
func TestADraftMovesToAnotherBlog(t *testing.T) {
	t.Parallel()
	here := pgtest.NewWorld(t, pgtest.New(t), "dome")
	there := pgtest.NewWorld(t, here.Store, "lanes")
	ctx := t.Context()
	d := act.Desk{Store: here.Store, Site: here.Site, Actor: here.Editor.ID}
	text := func(s string) *string { return &s }
	tags, fields, yes := []string{"night", "walks"}, map[string]string{"event": "2027-01-04"}, true
	category := here.Category
	draft, err := writing.BeginDraft(ctx, d, writing.Text{Title: text("A walk without a lamp"), Body: text("Bring *nothing*."), Excerpt: text("Short."), Tags: &tags, Fields: &fields,
		Evergreen: &yes, Category: &category}, pgtest.Noon)
	require.NoError(t, err)

	_, err = writing.MoveDraft(ctx, d, draft.ID, draft.Version-1, there.Site, pgtest.Noon)
	assert.ErrorIs(t, err, act.ErrStale)
	id, err := writing.MoveDraft(ctx, d, draft.ID, draft.Version, there.Site, pgtest.Noon)
	require.NoError(t, err)
	moved, err := here.Store.Post(ctx, there.Site.ID, id)
	require.NoError(t, err)
	assert.Equal(t, []any{"A walk without a lamp", "Bring *nothing*.", "Short.", []string{"night", "walks"}, "2027-01-04", true, store.Draft},
		[]any{moved.Title, moved.Body, moved.Excerpt, []string(moved.Tags), moved.Fields["event"], moved.Evergreen, moved.Status})
	require.NotNil(t, moved.CategoryID)
	assert.Equal(t, there.Category, *moved.CategoryID, "that blog has a category of the same name")
	left := here.Reload(t, draft.ID)
	assert.Equal(t, store.Status("binned"), left.Status)

	_, err = writing.MoveDraft(ctx, d, draft.ID, left.Version, there.Site, pgtest.Noon)
	var invalid *act.Invalid
	require.ErrorAs(t, err, &invalid)
	assert.Contains(t, invalid.Message, "Only a draft can be moved")
	again := here.Draft(t, "Stays")
	_, err = writing.MoveDraft(ctx, d, again.ID, again.Version, here.Site, pgtest.Noon)
	require.ErrorAs(t, err, &invalid)
	assert.Equal(t, "blog", invalid.Field)
}
