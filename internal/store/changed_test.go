package store_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// Whatever changes something that is foretold changes the mark of its site; what is of no site, those of all.
func TestTheMarkOfASiteChangesWithIt(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	other := pgtest.NewWorld(t, w.Store, "lanes")
	ctx := t.Context()
	mark := func(site int64) store.Mark {
		m, err := w.MarkOf(ctx, site)
		require.NoError(t, err)
		return m
	}
	seen, elsewhere := mark(w.Site.ID), mark(other.Site.ID)
	assert.Equal(t, seen, mark(w.Site.ID))
	p := w.Draft(t, "A draft")
	for _, one := range []struct{ name, statement string }{
		{"a post", `update posts set evergreen = true where id = $1`},
		{"a category", `insert into categories (site_id, name, slug) select site_id, 'New', 'new' from posts where id = $1`},
		{"a deletion", `delete from posts where id = $1`},
	} {
		before := mark(w.Site.ID)
		_, err := w.DB().ExecContext(ctx, one.statement, p.ID)
		require.NoError(t, err, one.name)
		assert.NotEqual(t, before, mark(w.Site.ID), one.name)
	}
	_, err := w.DB().ExecContext(ctx, `update sites set tagline = 'x' where id = $1`, w.Site.ID)
	require.NoError(t, err)
	now := mark(other.Site.ID)
	_, err = w.DB().ExecContext(ctx, `update sites set tagline = 'y' where id = $1`, w.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, now, mark(other.Site.ID), "what is of one site is of no other")
	_, err = w.DB().ExecContext(ctx, `update users set name = name || ' II' where id = $1`, w.Editor.ID)
	require.NoError(t, err)
	assert.NotEqual(t, elsewhere, mark(other.Site.ID), "people are of all sites")

	before := mark(w.Site.ID)
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
		return tx.Log(ctx, store.LogEntry{SiteID: w.Site.ID, At: pgtest.Noon, Deed: "settings"})
	}))
	assert.Equal(t, before, mark(w.Site.ID), "nothing foretold depends on the logbook")
}

// Transactions that end in another order than they began are seen, each as it ends.
func TestTheMarkSeesTransactionsInAnyOrder(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	ctx := t.Context()
	mark := func() store.Mark {
		m, err := w.MarkOf(ctx, w.Site.ID)
		require.NoError(t, err)
		return m
	}
	p, q := w.Draft(t, "One"), w.Draft(t, "Two")
	first, err := w.DB().BeginTxx(ctx, nil)
	require.NoError(t, err)
	second, err := w.DB().BeginTxx(ctx, nil)
	require.NoError(t, err)
	_, err = first.ExecContext(ctx, `update posts set evergreen = true where id = $1`, p.ID)
	require.NoError(t, err)
	_, err = second.ExecContext(ctx, `update posts set evergreen = true where id = $1`, q.ID)
	require.NoError(t, err, "nobody waits for anybody")
	none := mark()
	require.NoError(t, second.Commit())
	one := mark()
	assert.NotEqual(t, none, one)
	require.NoError(t, first.Commit())
	both := mark()
	assert.NotEqual(t, one, both)

	// What is forgotten makes another mark, too.
	for range 150 {
		_, err := w.DB().ExecContext(ctx, `update posts set evergreen = not evergreen where id = $1`, p.ID)
		require.NoError(t, err)
	}
	many := mark()
	require.NoError(t, w.ForgetChanges(ctx))
	assert.NotEqual(t, many, mark())
	assert.LessOrEqual(t, mark().N, 2*101)
}

// A table that is added is watched, or said to be none that what is foretold depends on.
func TestEveryTableIsWatchedForChanges(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	var unwatched []string
	require.NoError(t, s.DB().SelectContext(t.Context(), &unwatched, `
		select relname from pg_class where relnamespace = 'public'::regnamespace and relkind = 'r' and relname not like 'river%'
			and not exists (select from pg_trigger where tgrelid = pg_class.oid and tgname = 'changes_inserted') order by 1`))
	assert.Equal(t, strings.Fields(`acts asks calendar_feeds click_days comments connections copies destination_pictures destinations digests engines feed_items feeds goose_db_version hook_deliveries hub_tellings import_chunks import_files import_lines import_pictures import_posts import_recipes imports invitations known_browsers lenses link_secrets logbook mailings
		old_category_slugs old_site_slugs old_slugs old_tag_slugs outing_clicks picture_files post_html post_search prepared prepared_openings preview_links remarks sessions setup sign_ins
		site_changes subscribers tokens tour_templates tries webhooks`), unwatched)
}
