package store_test

import (
	"encoding/json"
	"os"
	"testing"
	"time"

	"github.com/pressly/goose/v3"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// Lines of the time when acts were numbers of batches are carried over: lines of a batch are
// one act, others each their own, and what was undone stays so.
func TestBatchesBecomeActs(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	p := w.Draft(t, "Cables")
	provider, err := goose.NewProvider(goose.DialectPostgres, s.DB().DB, os.DirFS("migrations"))
	require.NoError(t, err)
	_, err = provider.DownTo(t.Context(), 19)
	require.NoError(t, err)
	line := func(reason string, batch, undoes any, undone any) (id int64) {
		t.Helper()
		require.NoError(t, s.DB().GetContext(t.Context(), &id, `
			insert into logbook (site_id, at, actor_id, deed, post_id, reason, batch, undoes, undone_at) values ($1, $2, $3, 'clear', $4, $5, $6, $7, $8) returning id`,
			w.Site.ID, pgtest.Noon, w.Editor.ID, p.ID, reason, batch, undoes, undone))
		return id
	}
	alone := line("Alone.", nil, nil, nil)
	first, second := line("First.", 7, nil, pgtest.Noon), line("Second.", 7, nil, pgtest.Noon)
	undo := line("Undone: First.", 8, first, nil)
	kept, gone := line("Kept.", 9, nil, nil), line("Gone.", 9, nil, pgtest.Noon)
	_, err = s.Migrate(t.Context())
	require.NoError(t, err)
	of := func(id int64) store.LogEntry {
		t.Helper()
		e, err := s.LogLine(t.Context(), w.Site.ID, id)
		require.NoError(t, err)
		return e
	}
	assert.Equal(t, of(first).Act, of(second).Act)
	assert.Equal(t, 2, of(first).Together)
	assert.NotNil(t, of(first).UndoneAt)
	assert.Nil(t, of(alone).UndoneAt)
	assert.NotEqual(t, of(kept).Act, of(gone).Act, "of a batch of which one line was undone alone")
	assert.Nil(t, of(kept).UndoneAt)
	assert.NotNil(t, of(gone).UndoneAt)
	var undoes int64
	require.NoError(t, s.DB().GetContext(t.Context(), &undoes, `select undoes from acts where id = $1`, of(undo).Act))
	assert.Equal(t, of(first).Act, undoes)
	require.NoError(t, w.InTx(t.Context(), func(tx *store.Tx) error {
		return tx.Log(t.Context(), store.LogEntry{SiteID: w.Site.ID, At: pgtest.Noon, Deed: store.DeedClear,
			Reason: "Later."})
	}), "numbers go on behind those that were carried over")
	_, err = provider.DownTo(t.Context(), 19)
	require.NoError(t, err)
	var together int
	require.NoError(t, s.DB().GetContext(t.Context(), &together,
		`select count(*) from logbook where batch = (select batch from logbook where id = $1) and undone_at is not null`, first))
	assert.Equal(t, 2, together)
}

// Lines are added to an act by several transactions, and many at once are acts each of their
// own where they are told no other.
func TestLinesOfActs(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	posts := w.Drafts(t, 4)
	state := json.RawMessage(`{"status": "draft"}`)
	var act int64
	in := func(work func(tx *store.Tx) error) { t.Helper(); require.NoError(t, w.InTx(t.Context(), work)) }
	in(func(tx *store.Tx) (err error) {
		act, err = tx.Begin(t.Context(), store.Act{SiteID: w.Site.ID, At: pgtest.Noon, Actor: &w.Editor.ID,
			Why: "40 articles brought in."})
		return err
	})
	for i, p := range posts {
		in(func(tx *store.Tx) error {
			return tx.LogAll(t.Context(), []store.LogEntry{{SiteID: w.Site.ID,
				At: pgtest.Noon.Add(time.Duration(i) * time.Minute), Actor: &w.Editor.ID, Deed: store.DeedClear, Post: &p.ID, Reason: "In.", After: state, Act: act}})
		})
	}
	lines, err := w.LinesOf(t.Context(), w.Site.ID, act)
	require.NoError(t, err)
	require.Len(t, lines, 4)
	assert.Equal(t, 4, lines[0].Together)
	in(func(tx *store.Tx) error { return tx.MarkUndone(t.Context(), w.Site.ID, act, pgtest.Noon) })
	lines, err = w.LinesOf(t.Context(), w.Site.ID, act)
	require.NoError(t, err)
	for _, l := range lines {
		assert.NotNil(t, l.UndoneAt)
	}
	require.ErrorIs(t, w.InTx(t.Context(), func(tx *store.Tx) error {
		return tx.MarkUndone(t.Context(), w.Site.ID+1, act, pgtest.Noon)
	}), store.ErrNotFound)

	in(func(tx *store.Tx) error {
		return tx.LogAll(t.Context(), []store.LogEntry{
			{SiteID: w.Site.ID, At: pgtest.Noon, Deed: "publish", Post: &posts[0].ID, Reason: "One.", Before: state,
				After: state},
			{SiteID: w.Site.ID, At: pgtest.Noon, Deed: "publish", Post: &posts[1].ID, Reason: "Two.", Before: state,
				After: state}})
	})
	latest, err := w.Logbook(t.Context(), w.Site.ID, store.LogFilter{Engine: true}, 10)
	require.NoError(t, err)
	require.Len(t, latest, 2)
	assert.Equal(t, []string{"Two.", "One."}, []string{latest[0].Reason, latest[1].Reason})
	assert.NotEqual(t, latest[0].Act, latest[1].Act)
	assert.Equal(t, 1, latest[0].Together)
}
