package sitesettings_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/store"
)

func TestHowABlogLooksIsSaved(t *testing.T) {
	t.Parallel()
	s, ctx := pgtest.New(t), t.Context()
	w, other := pgtest.NewWorld(t, s, "dome"), pgtest.NewWorld(t, s, "lanes")
	desk := act.Desk{Store: s, Site: w.Site, Actor: w.Editor.ID}
	page, post := w.Page(t, "About"), w.Draft(t, "A post")
	category := func(id int64) store.MenuItem { return store.MenuItem{Kind: store.MenuCategory, ID: id} }
	pageItem := func(id int64) store.MenuItem { return store.MenuItem{Kind: store.MenuPage, ID: id} }
	for name, c := range map[string]struct {
		a           store.Appearance
		field, says string
	}{
		"no look":          {store.Appearance{Look: "neon"}, "look", "no such look"},
		"no colour":        {store.Appearance{Look: "plain", Accent: "red;}"}, "accent", "such as #15506b"},
		"twice":            {store.Appearance{Look: "plain", Menu: store.Menu{pageItem(page.ID), pageItem(page.ID)}}, "menu", "twice"},
		"a post":           {store.Appearance{Look: "plain", Menu: store.Menu{pageItem(post.ID)}}, "menu", "deleted meanwhile"},
		"another blog's":   {store.Appearance{Look: "plain", Menu: store.Menu{category(other.Category)}}, "menu", "deleted meanwhile"},
		"an unknown kind":  {store.Appearance{Look: "plain", Menu: store.Menu{{Kind: "tag", ID: 1}}}, "menu", "deleted meanwhile"},
		"more than a menu": {store.Appearance{Look: "plain", Menu: make(store.Menu, 31)}, "menu", "at most 30"},
	} {
		err := sitesettings.SaveAppearance(ctx, desk, c.a, w.Site.Version, pgtest.Noon)
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad, name)
		assert.Equal(t, c.field, bad.Field, name)
		assert.Contains(t, bad.Message, c.says, name)
	}
	want := store.Appearance{Look: "plain", Accent: "#7A2A5E", Menu: store.Menu{pageItem(page.ID), category(w.Category)}}
	require.NoError(t, sitesettings.SaveAppearance(ctx, desk, want, w.Site.Version, pgtest.Noon))
	saved, err := s.Site(ctx, w.Site.ID)
	require.NoError(t, err)
	want.Accent = "#7a2a5e"
	assert.Equal(t, want, saved.Appearance)
	require.ErrorIs(t, sitesettings.SaveAppearance(ctx, desk, want, w.Site.Version, pgtest.Noon), act.ErrStale)
	for _, menu := range []store.Menu{{}, nil} {
		want.Menu = menu
		require.NoError(t, sitesettings.SaveAppearance(ctx, desk, want, saved.Version, pgtest.Noon))
		saved, err = s.Site(ctx, w.Site.ID)
		require.NoError(t, err)
		assert.Equal(t, menu == nil, saved.Menu == nil, "an empty menu is not the whole one")
	}
}
