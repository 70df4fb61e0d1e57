package topics_test

import (
	"encoding/json"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
	"dapper.example/internal/topics"
	"dapper.example/internal/writing"
)

// tagged adds a post with tags, as an editor does.
func (r room) tagged(title string, tags ...string) store.Post {
	r.Helper()
	p := r.w.Draft(r.T, title)
	_, err := writing.Write(r.Context(), r.desk, p.ID, p.Version, writing.Text{Tags: &tags}, pgtest.Noon)
	require.NoError(r, err)
	return r.w.Reload(r.T, p.ID)
}

func (r room) tag(name string) topics.Tag {
	r.Helper()
	all, _, err := topics.Tags(r.Context(), r.w.Store.Queries, r.w.Site.ID, name)
	require.NoError(r, err)
	for _, t := range all {
		if t.Name == name {
			return t
		}
	}
	return topics.Tag{}
}

// rule adds a rule that is in action and names a tag.
func (r room) naming(tag string) int64 {
	r.Helper()
	on := pgtest.Noon
	id, err := r.w.InsertRule(r.Context(), store.Rule{SiteID: r.w.Site.ID, Kind: "expire", Name: "Old " + tag,
		Condition: condition.Node{Group: condition.AllOf, Parts: []condition.Node{{Test: condition.Tags, Match: condition.MatchAny, Values: []string{tag}}}},
		Cadence:   cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days}, Settings: store.RuleSettings{Action: "archive"}, CreatedAt: on, ArmedAt: &on, ServedAt: &on})
	require.NoError(r, err)
	return id
}

// lens keeps a lens of the list of posts that filters by tags, and returns what it filters by now.
func (r room) lens(tags ...int64) func() []int64 {
	r.Helper()
	shown, err := json.Marshal(map[string]any{"tags": tags, "sort": "title"})
	require.NoError(r, err)
	require.NoError(r, r.w.KeepLens(r.Context(), store.Lens{SiteID: r.w.Site.ID, User: r.w.Editor.ID, Screen: store.LensOfPosts, Name: "Mine", Shown: shown, CreatedAt: pgtest.Noon}))
	return func() []int64 {
		all, err := r.w.Lenses(r.Context(), r.w.Site.ID, r.w.Editor.ID)
		require.NoError(r, err)
		var now struct {
			Tags []int64
			Sort string
		}
		require.NoError(r, json.Unmarshal(all[0].Shown, &now))
		assert.Equal(r, "title", now.Sort)
		return now.Tags
	}
}

func (r room) condition(rule int64) store.Rule {
	r.Helper()
	kept, err := r.w.Rule(r.Context(), r.w.Site.ID, rule)
	require.NoError(r, err)
	return kept
}

func TestATagIsRenamed(t *testing.T) {
	t.Parallel()
	r := newRoom(t)
	post, other := r.tagged("A post", "Moon", "Open night"), r.tagged("Another", "Mars")
	rule := r.naming("moon")
	moon := r.tag("Moon")
	assert.Equal(t, 1, moon.Posts)
	assert.Len(t, moon.Rules, 1)
	require.NoError(t, topics.RenameTag(t.Context(), r.desk, moon.ID, "  The   Moon ", pgtest.Noon))
	now := r.w.Reload(t, post.ID)
	assert.Equal(t, store.Strings{"Open night", "The Moon"}, now.Tags)
	assert.Equal(t, post.Version+1, now.Version)
	texts, err := r.w.Texts(t.Context(), r.w.Site.ID, post.ID, 10)
	require.NoError(t, err)
	assert.Equal(t, store.Strings{"Open night", "The Moon"}, texts[0].Tags, "the text has a version with it")
	assert.Equal(t, store.Strings{"Moon", "Open night"}, texts[1].Tags, "the one before stays as it was")
	assert.Equal(t, "Some text.", now.Body)
	assert.Equal(t, other.Version, r.w.Reload(t, other.ID).Version)
	assert.Equal(t, []string{"The Moon"}, r.condition(rule).Condition.Parts[0].Values)
	assert.NotNil(t, r.condition(rule).ArmedAt, "a rule goes along")
	slug, err := r.w.TagByOldSlug(t.Context(), r.w.Site.ID, "moon")
	require.NoError(t, err)
	assert.Equal(t, "the-moon", slug)

	// Only its case: the address stays.
	require.NoError(t, topics.RenameTag(t.Context(), r.desk, moon.ID, "THE MOON", pgtest.Noon))
	assert.Equal(t, moon.ID, r.tag("THE MOON").ID)
	// And back: the old address is its own again.
	require.NoError(t, topics.RenameTag(t.Context(), r.desk, moon.ID, "Moon", pgtest.Noon))
	_, err = r.w.TagByOldSlug(t.Context(), r.w.Site.ID, "moon")
	require.ErrorIs(t, err, store.ErrNotFound)

	for name, says := range map[string]string{"": "letter or a digit", " 🌙 ": "letter or a digit", "mars": "There is a tag “Mars” already",
		"a very long name of a tag that goes on and on and on until it is too long": "more than 60"} {
		r.refused(topics.RenameTag(t.Context(), r.desk, moon.ID, name, pgtest.Noon), "name", says)
	}
	elsewhere := act.Desk{Store: r.w.Store, Site: r.other.Site, Actor: r.other.Editor.ID}
	require.ErrorIs(t, topics.RenameTag(t.Context(), elsewhere, moon.ID, "Sun", pgtest.Noon), store.ErrNotFound)
}

func TestTagsAreMerged(t *testing.T) {
	t.Parallel()
	r := newRoom(t)
	one, both := r.tagged("One", "Luna"), r.tagged("Both", "Luna", "Moon")
	rule := r.naming("Luna")
	luna, moon := r.tag("Luna"), r.tag("Moon")
	shown := r.lens(luna.ID, moon.ID)
	assert.Equal(t, 1, r.tag("Luna").Lenses)
	r.refused(topics.DeleteTag(t.Context(), r.desk, luna.ID, topics.Fate{Into: luna.ID, Posts: 2}, pgtest.Noon), "into", "into itself")
	r.refused(topics.DeleteTag(t.Context(), r.desk, luna.ID, topics.Fate{Into: 999, Posts: 2}, pgtest.Noon), "into", "no such tag")
	require.ErrorIs(t, topics.DeleteTag(t.Context(), r.desk, luna.ID, topics.Fate{Into: moon.ID, Posts: 1}, pgtest.Noon), act.ErrStale)
	require.NoError(t, topics.DeleteTag(t.Context(), r.desk, luna.ID, topics.Fate{Into: moon.ID, Posts: 2}, pgtest.Noon))
	for _, p := range []store.Post{one, both} {
		now := r.w.Reload(t, p.ID)
		assert.Equal(t, store.Strings{"Moon"}, now.Tags)
		assert.Equal(t, p.Version+1, now.Version)
	}
	assert.Equal(t, []int64{moon.ID}, shown())
	assert.Equal(t, []string{"Moon"}, r.condition(rule).Condition.Parts[0].Values)
	assert.NotNil(t, r.condition(rule).HeldAt, "a rule that applies to other posts now waits for an editor")
	slug, err := r.w.TagByOldSlug(t.Context(), r.w.Site.ID, "luna")
	require.NoError(t, err)
	assert.Equal(t, "moon", slug)
	assert.Zero(t, r.tag("Luna").ID)
}

func TestATagIsDeleted(t *testing.T) {
	t.Parallel()
	r := newRoom(t)
	post := r.tagged("A post", "Moon", "Mars")
	rule, moon := r.naming("Moon"), r.tag("Moon")
	require.NoError(t, topics.DeleteTag(t.Context(), r.desk, moon.ID, topics.Fate{Posts: 1}, pgtest.Noon))
	assert.Equal(t, store.Strings{"Mars"}, r.w.Reload(t, post.ID).Tags)
	assert.NotNil(t, r.condition(rule).HeldAt)
	require.ErrorIs(t, topics.DeleteTag(t.Context(), r.desk, moon.ID, topics.Fate{Posts: 1}, pgtest.Noon), store.ErrNotFound)
}
