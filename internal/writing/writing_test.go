package writing_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/desktest"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

func TestManyPostsAreEditedAndUndone(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 3)
	out := r.Draft(t, "Out")
	require.NoError(t, status.PublishNow(t.Context(), r.Desk, out.ID, out.Version, pgtest.Noon))
	all := r.Seen(t, append(desktest.IDs(posts), out.ID)...)
	yes, until := true, pgtest.Noon.Add(240*time.Hour)
	changed, left, err := writing.EditMany(t.Context(), r.Desk, all, writing.Edit{AddTags: []string{"Moon", "Night sky"},
		Evergreen: &yes, Deadline: &until}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 3, changed)
	require.Len(t, left, 1)
	assert.Contains(t, left[0].Reason, "Only a draft has bounds")
	p := r.Reload(t, posts[1].ID)
	assert.ElementsMatch(t, []string{"Moon", "Night sky"}, p.Tags)
	assert.True(t, p.Evergreen)
	assert.True(t, p.Deadline.Equal(until))
	assert.Equal(t, "Changed in the list: bounds, evergreen and tags.", r.Last(t).Reason)

	changed, _, err = writing.EditMany(t.Context(), r.Desk, r.Seen(t, desktest.IDs(posts)...), writing.Edit{RemoveTags: []string{"moon"}},
		pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 3, changed)
	assert.Equal(t, []string{"Night sky"}, []string(r.Reload(t, posts[2].ID).Tags))
	r.UndoLast(t)
	assert.ElementsMatch(t, []string{"Moon", "Night sky"}, r.Reload(t, posts[0].ID).Tags)
	r.UndoLast(t)
	assert.Equal(t, []string{"Night sky"}, []string(r.Reload(t, posts[2].ID).Tags), "done again")

	version := r.Reload(t, posts[0].ID).Version
	changed, _, err = writing.EditMany(t.Context(), r.Desk, r.Seen(t, posts[0].ID),
		writing.Edit{Evergreen: &yes, AddTags: []string{"night SKY"}}, pgtest.Noon)
	require.NoError(t, err)
	assert.Zero(t, changed, "it is that already")
	assert.Equal(t, version, r.Reload(t, posts[0].ID).Version, "nothing is written")
	title, nobody := "New title", int64(1<<40)
	_, _, err = writing.EditMany(t.Context(), r.Desk, r.Seen(t, desktest.IDs(posts)...), writing.Edit{Title: &title}, pgtest.Noon)
	require.ErrorAs(t, err, new(*act.Invalid))
	_, _, err = writing.EditMany(t.Context(), r.Desk, r.Seen(t, desktest.IDs(posts)...), writing.Edit{Author: &nobody}, pgtest.Noon)
	require.ErrorAs(t, err, new(*act.Invalid))
	_, left, err = writing.EditMany(t.Context(), r.Desk, []act.PostVersion{{Post: posts[0].ID, Version: 1}},
		writing.Edit{Title: &title}, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, left, 1, "somebody else was there first")
}

func TestAPageHasATimeButNoSlot(t *testing.T) {
	r := desktest.New(t)
	p := r.Draft(t, "About us")
	_, err := r.DB().ExecContext(t.Context(), `update posts set kind = 'page' where id = $1`, p.ID)
	require.NoError(t, err)
	date := civil.MustDate("2026-12-01")
	_, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, p.ID), Date: date}, pgtest.Noon)
	require.ErrorContains(t, err, "pages don’t use slots")
	for range 2 {
		_, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, p.ID), Date: date, Clock: new(civil.MustClock("10:00"))},
			pgtest.Noon)
		require.NoError(t, err)
		assert.Equal(t, "Dec 1 10:00", r.Due(t, p.ID))
		_, err = planning.Move(t.Context(), r.Desk, planning.Moving{Posts: r.Seen(t, p.ID)}, pgtest.Noon)
		require.NoError(t, err)
		assert.Equal(t, store.Draft, r.Reload(t, p.ID).Status)
		assert.False(t, r.Reload(t, p.ID).Cleared, "it does not queue")
	}
}

// What a list changes of one post is one act: its fields, its address and its time, or none.
func TestAPostIsEditedAndTimedAtOnce(t *testing.T) {
	r := desktest.New(t)
	p := r.Draft(t, "Comets")
	title, slug, at := "Comets of the year", "Comets of 2026", pgtest.Noon.Add(50*time.Hour+20*time.Second)
	past := pgtest.Noon.Add(-time.Minute)
	_, _, err := writing.EditMany(t.Context(), r.Desk, r.Seen(t, p.ID), writing.Edit{Title: &title, Slug: &slug, At: &past},
		pgtest.Noon)
	require.ErrorContains(t, err, "That time has passed.")
	assert.Equal(t, "Comets", r.Reload(t, p.ID).Title, "nothing of it is kept")

	changed, _, err := writing.EditMany(t.Context(), r.Desk, r.Seen(t, p.ID), writing.Edit{Title: &title, Slug: &slug, At: &at},
		pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 1, changed)
	now := r.Reload(t, p.ID)
	assert.Equal(t, []any{title, "comets-of-2026", store.Scheduled, true},
		[]any{now.Title, now.Slug, now.Status, now.Pinned})
	assert.True(t, now.DueAt.Equal(at.Truncate(time.Minute)))

	r.UndoLast(t)
	now = r.Reload(t, p.ID)
	assert.Equal(t, []any{"Comets", "", store.Draft, false}, []any{now.Title, now.Slug, now.Status, now.Pinned})
	r.UndoLast(t)
	now = r.Reload(t, p.ID)
	assert.Equal(t, []any{title, "comets-of-2026", store.Scheduled}, []any{now.Title, now.Slug, now.Status})

	// The address that scheduling makes is none that the edit gave: it is no later change.
	moon, half := r.Draft(t, "Moon"), "Half Moon"
	at = at.Add(24 * time.Hour)
	_, _, err = writing.EditMany(t.Context(), r.Desk, r.Seen(t, moon.ID), writing.Edit{Title: &half, At: &at}, pgtest.Noon)
	require.NoError(t, err)
	r.UndoLast(t)
	now = r.Reload(t, moon.ID)
	assert.Equal(t, []any{"Moon", store.Draft}, []any{now.Title, now.Status})

	other := r.Draft(t, "Other")
	_, _, err = writing.EditMany(t.Context(), r.Desk, r.Seen(t, p.ID, other.ID), writing.Edit{At: &at}, pgtest.Noon)
	assert.ErrorContains(t, err, "one post at a time")
}

// Undoing a change of fields leaves posts in their slots.
func TestUndoingAnEditKeepsSlots(t *testing.T) {
	r := desktest.New(t)
	posts := r.Shelved(t, 2)
	require.NoError(t, planning.Commit(t.Context(), r.Desk, r.Propose(t).Token(), pgtest.Noon))
	for i, p := range posts {
		posts[i] = r.Reload(t, p.ID)
	}
	yes := true
	_, _, err := writing.EditMany(t.Context(), r.Desk, r.Seen(t, desktest.IDs(posts)...), writing.Edit{Evergreen: &yes}, pgtest.Noon)
	require.NoError(t, err)
	r.UndoLast(t)
	for _, p := range posts {
		now := r.Reload(t, p.ID)
		assert.False(t, now.Evergreen)
		assert.NotZero(t, now.Slot())
		assert.Equal(t, p.Slot(), now.Slot())
	}
}

func TestTextProblems(t *testing.T) {
	text := func(s string) *string { return &s }
	for name, test := range map[string]struct {
		text           writing.Text
		field, message string
	}{
		"400 characters": {writing.Text{Title: text(strings.Repeat("a", 400))}, "title",
			"400 characters; at most 200 fit. Shorten it by 200."},
		"only emoji": {writing.Text{Title: text("🔭✨🌌")}, "title", "no letter or digit"},
		"line break": {writing.Text{Title: text("One\nTwo")}, "title", "line break"},
		"huge body":  {writing.Text{Body: text(strings.Repeat("a", 5<<20))}, "body", "at most 1024 kB"},
		"odd tag":    {writing.Text{Tags: &[]string{"moon", "🌙"}}, "tags[1]", "no letter or digit"},
		"long tag":   {writing.Text{Tags: &[]string{strings.Repeat("x", 61)}}, "tags[0]", "too long"},
	} {
		t.Run(name, func(t *testing.T) {
			problems := test.text.Problems()
			require.Len(t, problems, 1)
			assert.Equal(t, test.field, problems[0].Field)
			assert.Contains(t, problems[0].Message, test.message)
		})
	}
	assert.Empty(t, writing.Text{Title: text("👩‍🚀 " + strings.Repeat("é", 198))}.Problems(),
		"200 characters as readers count them")
	assert.Empty(t, writing.Text{Title: text("星を見る")}.Problems())
}

func TestAddressesAreUniqueAndReadable(t *testing.T) {
	r := desktest.New(t)
	for _, want := range []string{"over-the-dome", "over-the-dome-2", "over-the-dome-3"} {
		p := r.Draft(t, "Over the Dome!")
		require.NoError(t, status.PublishNow(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon))
		assert.Equal(t, want, r.Reload(t, p.ID).Slug)
	}
	assert.LessOrEqual(t, len(address.Slug(strings.Repeat("word ", 60))), 80)
	assert.False(t, strings.HasSuffix(address.Slug(strings.Repeat("word ", 60)), "-"))
}

func TestTagsAreKeptOnce(t *testing.T) {
	r := desktest.New(t)
	p := r.Draft(t, "Tagged")
	saved, err := writing.Write(t.Context(), r.Desk, p.ID, p.Version, writing.Text{Tags: &[]string{"Moon", " moon ", "Dark Sky"}},
		pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, store.Strings{"Dark Sky", "Moon"}, saved.Tags)
	saved, err = writing.Write(t.Context(), r.Desk, p.ID, saved.Version, writing.Text{Tags: &[]string{"MOON"}}, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, store.Strings{"Moon"}, saved.Tags, "a tag keeps the spelling of its first use")
}
