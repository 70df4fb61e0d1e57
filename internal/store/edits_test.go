package store_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/revise"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// What open edits say is counted as it is in memory, however well the database packs it.
func TestWhatOpenEditsSayIsCounted(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	ctx := t.Context()
	p, other := w.Draft(t, "A post"), w.Draft(t, "Another")
	var ids []int64
	for _, post := range []int64{p.ID, p.ID, other.ID} {
		require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
			id, err := tx.InsertEdit(ctx, store.TimedEdit{SiteID: w.Site.ID, Post: post, Wanted: store.Wording{Text: revise.Text{Body: strings.Repeat(" ", 1<<20)}}, DueAt: pgtest.Noon, CreatedAt: pgtest.Noon})
			ids = append(ids, id)
			return err
		}))
	}
	count := func(beside int64) []int {
		onSite, ofPost, bytes, err := w.EditsOpen(ctx, w.Site.ID, p.ID, beside)
		require.NoError(t, err)
		return []int{onSite, ofPost, bytes >> 20}
	}
	assert.Equal(t, []int{3, 2, 3}, count(0))
	assert.Equal(t, []int{2, 1, 2}, count(ids[0]))
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
		e, err := tx.LockEdit(ctx, w.Site.ID, ids[2])
		if err != nil {
			return err
		}
		e.State = store.EditDropped
		return tx.SaveEdit(ctx, e, pgtest.Noon)
	}))
	assert.Equal(t, []int{2, 2, 2}, count(0))
	held, err := w.Edits(ctx, w.Site.ID, store.EditHeld)
	require.NoError(t, err)
	assert.Empty(t, held)
	waiting, err := w.Edits(ctx, w.Site.ID, store.EditWaiting, store.EditHeld)
	require.NoError(t, err)
	assert.Len(t, waiting, 2)
}
