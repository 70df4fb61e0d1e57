package topics_test

import (
	"errors"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
	"dapper.example/internal/topics"
)

// room is a site with a category “Sky Guide”, and another site beside it.
type room struct {
	*testing.T
	w, other pgtest.World
	desk     act.Desk
}

func newRoom(t *testing.T) room {
	t.Helper()
	s := pgtest.New(t)
	w, other := pgtest.NewWorld(t, s, "dome"), pgtest.NewWorld(t, s, "lanes")
	return room{t, w, other, act.Desk{Store: s, Site: w.Site, Actor: w.Editor.ID}}
}

func (r room) add(name string) int64 {
	r.Helper()
	id, err := topics.Add(r.Context(), r.desk, store.Category{Name: name}, pgtest.Noon)
	require.NoError(r, err)
	return id
}

func (r room) list() []topics.Category {
	r.Helper()
	site, err := r.w.Store.Site(r.Context(), r.w.Site.ID)
	require.NoError(r, err)
	all, err := topics.List(r.Context(), r.w.Store.Queries, site)
	require.NoError(r, err)
	return all
}

func (r room) names() (names []string) {
	for _, c := range r.list() {
		names = append(names, c.Name)
	}
	return names
}

func (r room) refused(err error, field, says string) {
	r.Helper()
	bad, ok := errors.AsType[*act.Invalid](err)
	require.True(r, ok, "%v", err)
	assert.Equal(r, field, bad.Field)
	assert.Contains(r, bad.Message, says)
}

// rule is an armed expiry rule for posts of a category.
func (r room) rule(category string) int64 {
	r.Helper()
	armed := pgtest.Noon
	id, err := r.w.Store.InsertRule(r.Context(), store.Rule{SiteID: r.w.Site.ID, Kind: store.Expire, Name: "Old ones", Position: 1,
		Condition: condition.Node{Group: condition.AllOf, Parts: []condition.Node{{Test: condition.Category, Match: condition.MatchAny, Values: []string{category}}}},
		Cadence:   cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days}, ArmedAt: &armed, ServedAt: &armed, CreatedAt: armed})
	require.NoError(r, err)
	return id
}

func (r room) values(rule int64) (values []string, held string) {
	r.Helper()
	kept, err := r.w.Store.Rule(r.Context(), r.w.Site.ID, rule)
	require.NoError(r, err)
	if kept.HeldAt != nil {
		held = kept.HeldWhy
	}
	return kept.Condition.Parts[0].Values, held
}

func TestCategoriesAreAddedAndOrdered(t *testing.T) {
	r := newRoom(t)
	ponds, paths := r.add("  Garden   Ponds "), r.add("Paths")
	assert.Equal(t, []string{"Sky Guide", "Garden Ponds", "Paths"}, r.names())
	assert.Equal(t, "garden-ponds", r.list()[1].Slug)
	require.NoError(t, topics.Order(t.Context(), r.desk, []int64{paths, r.w.Category, ponds}, pgtest.Noon))
	assert.Equal(t, []string{"Paths", "Sky Guide", "Garden Ponds"}, r.names())
	require.ErrorIs(t, topics.Order(t.Context(), r.desk, []int64{paths, ponds}, pgtest.Noon), act.ErrStale, "one is missing")
	require.ErrorIs(t, topics.Order(t.Context(), r.desk, []int64{paths, ponds, r.other.Category}, pgtest.Noon), act.ErrStale, "one is another site's")
	require.ErrorIs(t, topics.Order(t.Context(), r.desk, []int64{paths, ponds, ponds}, pgtest.Noon), act.ErrStale, "one is there twice")
}

func TestWhatIsWrongWithACategory(t *testing.T) {
	r := newRoom(t)
	for name, c := range map[string]struct {
		category    store.Category
		field, says string
	}{
		"no name":             {store.Category{Name: " \t"}, "name", "Give the category a name"},
		"marks only":          {store.Category{Name: "…!"}, "name", "Give the category a name"},
		"a long name":         {store.Category{Name: strings.Repeat("x", 61)}, "name", "more than 60"},
		"a long description":  {store.Category{Name: "Ponds", Description: strings.Repeat("x", 401)}, "description", "more than 400"},
		"a name that is":      {store.Category{Name: "sky guide"}, "name", "already"},
		"an address that is":  {store.Category{Name: "Stars", Slug: "sky-guide"}, "slug", "already"},
		"an address that isn": {store.Category{Name: "Stars", Slug: "Sky Guide"}, "slug", "small letters"},
		"none can be made":    {store.Category{Name: "🌱"}, "slug", "Enter the name"},
	} {
		_, err := topics.Add(t.Context(), r.desk, c.category, pgtest.Noon)
		require.Error(t, err, name)
		r.refused(err, c.field, c.says)
	}
	assert.Equal(t, []string{"Sky Guide"}, r.names())
	require.ErrorIs(t, topics.Save(t.Context(), r.desk, store.Category{ID: r.other.Category, Name: "Mine"}, pgtest.Noon), store.ErrNotFound, "another site's")
}

func TestRulesFollowARenaming(t *testing.T) {
	r := newRoom(t)
	rule := r.rule("SKY guide")
	assert.Len(t, r.list()[0].Rules, 1)
	require.NoError(t, topics.Save(t.Context(), r.desk, store.Category{ID: r.w.Category, Name: "Night Sky", Description: "What is up"}, pgtest.Noon))
	values, held := r.values(rule)
	assert.Equal(t, []string{"Night Sky"}, values)
	assert.Empty(t, held, "it catches what it caught before")
	kept := r.list()[0]
	assert.Equal(t, "night-sky", kept.Slug)
	assert.Equal(t, "What is up", kept.Description)
	old, err := r.w.Store.CategoryByOldSlug(t.Context(), r.w.Site.ID, "sky-guide")
	require.NoError(t, err)
	assert.Equal(t, "night-sky", old)
	require.NoError(t, topics.Save(t.Context(), r.desk, store.Category{ID: r.w.Category, Name: "Sky Guide"}, pgtest.Noon))
	_, err = r.w.Store.CategoryByOldSlug(t.Context(), r.w.Site.ID, "sky-guide")
	require.ErrorIs(t, err, store.ErrNotFound, "its own again")
}

func TestMergingMovesPostsAndHoldsRules(t *testing.T) {
	r := newRoom(t)
	first, second := r.w.Draft(t, "One"), r.w.Scheduled(t, "Two", pgtest.Noon.Add(time.Hour))
	theirs := r.other.Draft(t, "Another site's")
	rule, into := r.rule("Sky Guide"), r.add("Stars")
	fate := topics.Fate{Into: into, Posts: 2}
	r.refused(topics.Delete(t.Context(), r.desk, into, topics.Fate{Into: into}, pgtest.Noon), "into", "into itself")
	r.refused(topics.Delete(t.Context(), r.desk, r.w.Category, topics.Fate{Into: r.other.Category, Posts: 2}, pgtest.Noon), "into", "no such category on this blog")
	require.ErrorIs(t, topics.Delete(t.Context(), r.desk, r.w.Category, topics.Fate{Into: into, Posts: 1}, pgtest.Noon), act.ErrStale, "others than were seen")
	require.ErrorIs(t, topics.Delete(t.Context(), r.desk, r.other.Category, fate, pgtest.Noon), store.ErrNotFound)

	require.NoError(t, topics.Delete(t.Context(), r.desk, r.w.Category, fate, pgtest.Noon))
	assert.Equal(t, []string{"Stars"}, r.names())
	assert.Equal(t, 2, r.list()[0].Posts)
	for _, post := range []store.Post{first, second} {
		assert.Equal(t, into, *r.w.Reload(t, post.ID).CategoryID)
	}
	assert.Equal(t, r.other.Category, *r.other.Reload(t, theirs.ID).CategoryID)
	values, held := r.values(rule)
	assert.Equal(t, []string{"Stars"}, values)
	assert.Contains(t, held, "applies to other posts now")
	old, err := r.w.Store.CategoryByOldSlug(t.Context(), r.w.Site.ID, "sky-guide")
	require.NoError(t, err)
	assert.Equal(t, "stars", old, "its address leads on")
}

func TestDeletingLeavesPostsWithoutACategory(t *testing.T) {
	r := newRoom(t)
	post, rule := r.w.Draft(t, "One"), r.rule("Sky Guide")
	require.NoError(t, topics.SetDefault(t.Context(), r.desk, r.w.Category, pgtest.Noon))
	assert.True(t, r.list()[0].Default)
	require.ErrorIs(t, topics.SetDefault(t.Context(), r.desk, r.other.Category, pgtest.Noon), store.ErrNotFound)
	require.NoError(t, topics.Delete(t.Context(), r.desk, r.w.Category, topics.Fate{Posts: 1}, pgtest.Noon))
	assert.Nil(t, r.w.Reload(t, post.ID).CategoryID)
	values, held := r.values(rule)
	assert.Equal(t, []string{"Sky Guide"}, values)
	assert.Contains(t, held, "was deleted")
	site, err := r.w.Store.Site(t.Context(), r.w.Site.ID)
	require.NoError(t, err)
	assert.Nil(t, site.DefaultCategory)
	require.NoError(t, topics.SetDefault(t.Context(), r.desk, 0, pgtest.Noon))
}
