package planning_test

import (
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

var noon = pgtest.Noon

type room struct {
	pgtest.World
	planning.Desk
}

func newRoom(t *testing.T) room {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	return room{w, planning.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}}
}

func (r room) shelved(t *testing.T, n int) []store.Post {
	t.Helper()
	posts := r.Drafts(t, n)
	for i, p := range posts {
		require.NoError(t, r.Clear(t.Context(), p.ID, p.Version, noon))
		posts[i] = r.Reload(t, p.ID)
	}
	return posts
}

func (r room) propose(t *testing.T) planning.Plan {
	t.Helper()
	plan, err := planning.Propose(t.Context(), r.World.Queries, r.World.Site, noon)
	require.NoError(t, err)
	return plan
}

func (r room) log(t *testing.T, post int64) []store.LogEntry {
	t.Helper()
	lines, err := r.LogOf(t.Context(), r.World.Site.ID, post)
	require.NoError(t, err)
	return lines
}

func TestCommitDoesExactlyWhatWasProposed(t *testing.T) {
	r := newRoom(t)
	posts := r.shelved(t, 5)
	plan := r.propose(t)
	require.Len(t, plan.Placed, 5)
	require.NoError(t, r.Commit(t.Context(), plan.Token(), noon))
	for i, p := range posts {
		now := r.Reload(t, p.ID)
		assert.Equal(t, store.Scheduled, now.Status)
		assert.True(t, now.DueAt.Equal(plan.Placed[i].Slot.At))
		assert.Equal(t, plan.Placed[i].Slot.ID, now.Slot())
		assert.NotEmpty(t, now.Slug)
		lines := r.log(t, p.ID)
		assert.Equal(t, store.DeedCommit, lines[0].Deed)
		assert.Equal(t, plan.Placed[i].Reason, lines[0].Reason)
		assert.Equal(t, r.Editor.ID, *lines[0].Actor)
	}
	assert.Empty(t, r.propose(t).Placed)
}

func TestCommittedSlotsAreNotOfferedAgain(t *testing.T) {
	r := newRoom(t)
	r.shelved(t, 3)
	first := r.propose(t)
	require.NoError(t, r.Commit(t.Context(), first.Token(), noon))
	r.shelved(t, 3)
	second := r.propose(t)
	for _, p := range second.Placed {
		assert.False(t, slices.ContainsFunc(first.Placed,
			func(one queue.Proposal) bool { return one.Slot.ID == p.Slot.ID }))
		assert.True(t, p.Slot.At.After(first.Placed[2].Slot.At))
	}
}

func TestCommitRefusesAPlanThatHasChanged(t *testing.T) {
	r := newRoom(t)
	posts := r.shelved(t, 3)
	seen := r.propose(t).Token()
	require.NoError(t, r.Reorder(t.Context(), []int64{posts[2].ID, posts[0].ID, posts[1].ID}, noon))
	err := r.Commit(t.Context(), seen, noon)
	var changed *act.Outdated[planning.Plan]
	require.ErrorAs(t, err, &changed)
	assert.Equal(t, posts[2].ID, changed.Now.Placed[0].Draft.ID)
	for _, p := range posts {
		assert.Equal(t, store.Draft, r.Reload(t, p.ID).Status, "nothing was committed")
	}
	require.NoError(t, r.Commit(t.Context(), changed.Now.Token(), noon))
}

func TestTwoCommitsAtOnceMakeOnePlan(t *testing.T) {
	r := newRoom(t)
	r.shelved(t, 6)
	seen := r.propose(t).Token()
	errs := make([]error, 4)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Add(1)
		go func() { defer wg.Done(); errs[i] = r.Commit(t.Context(), seen, noon) }()
	}
	wg.Wait()
	done := 0
	for _, err := range errs {
		var changed *act.Outdated[planning.Plan]
		if err == nil {
			done++
		} else {
			require.ErrorAs(t, err, &changed)
		}
	}
	assert.Equal(t, 1, done)
}

func TestRetimePinsAndFreesTheSlot(t *testing.T) {
	r := newRoom(t)
	p := r.shelved(t, 1)[0]
	plan := r.propose(t)
	require.NoError(t, r.Commit(t.Context(), plan.Token(), noon))
	p = r.Reload(t, p.ID)
	at := noon.Add(72*time.Hour + 20*time.Second)
	near, err := r.Retime(t.Context(), p.ID, p.Version, at, noon)
	require.NoError(t, err)
	assert.Empty(t, near)
	p = r.Reload(t, p.ID)
	assert.True(t, p.Pinned)
	assert.Equal(t, at.Truncate(time.Minute), p.DueAt.UTC(), "whole minutes")
	assert.Equal(t, rhythm.SlotID{}, p.Slot())

	r.shelved(t, 1)
	assert.Equal(t, plan.Placed[0].Slot, r.propose(t).Placed[0].Slot, "its slot is free again")
}

func TestRetimeTellsWhomItIsNearTo(t *testing.T) {
	r := newRoom(t)
	other := r.Scheduled(t, "Neighbour", noon.Add(5*time.Hour))
	p := r.Draft(t, "Newcomer")
	near, err := r.Retime(t.Context(), p.ID, p.Version, noon.Add(5*time.Hour+59*time.Minute), noon)
	require.NoError(t, err)
	require.Len(t, near, 1)
	assert.Equal(t, other.ID, near[0].ID)
	p = r.Reload(t, p.ID)
	near, err = r.Retime(t.Context(), p.ID, p.Version, noon.Add(6*time.Hour), noon)
	require.NoError(t, err)
	assert.Empty(t, near, "a whole gap away")
}

func TestShelveGoesToTheFront(t *testing.T) {
	r := newRoom(t)
	r.shelved(t, 2)
	p := r.Scheduled(t, "Held", noon.Add(time.Hour))
	require.NoError(t, r.Shelve(t.Context(), p.ID, p.Version, noon))
	shelf, err := r.Shelf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	require.Len(t, shelf, 3)
	assert.Equal(t, p.ID, shelf[0].ID)
	assert.False(t, r.Reload(t, p.ID).Pinned)
}

func TestPublishNow(t *testing.T) {
	r := newRoom(t)
	p := r.Scheduled(t, "Right now", noon.Add(time.Hour))
	require.NoError(t, r.PublishNow(t.Context(), p.ID, p.Version, noon))
	p = r.Reload(t, p.ID)
	assert.Equal(t, store.Published, p.Status)
	assert.True(t, p.PublishedAt.Equal(noon))
	assert.Equal(t, "Published by hand.", r.log(t, p.ID)[0].Reason)
	assert.ErrorAs(t, r.PublishNow(t.Context(), p.ID, p.Version, noon), new(*act.Invalid), "only once")
}

func TestWhatCannotBeDoneNamesTheField(t *testing.T) {
	r := newRoom(t)
	untitled := r.Draft(t, "")
	out := r.Draft(t, "Out")
	require.NoError(t, r.PublishNow(t.Context(), out.ID, out.Version, noon))
	out = r.Reload(t, out.ID)
	titled := r.Draft(t, "Titled")
	for field, err := range map[string]error{
		"title": r.Clear(t.Context(), untitled.ID, untitled.Version, noon),
		"at": func() error {
			_, err := r.Retime(t.Context(), titled.ID, titled.Version, noon, noon)
			return err
		}(),
		"cleared": r.Clear(t.Context(), out.ID, out.Version, noon),
		"status":  r.Shelve(t.Context(), titled.ID, titled.Version, noon),
	} {
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad, field)
		assert.Equal(t, field, bad.Field)
	}
}

func TestAStaleVersionChangesNothing(t *testing.T) {
	r := newRoom(t)
	p := r.Draft(t, "Once")
	title := "Twice"
	saved, err := r.Write(t.Context(), p.ID, p.Version, planning.Text{Title: &title}, noon)
	require.NoError(t, err)
	assert.Equal(t, p.Version+1, saved.Version)
	title = "Lost?"
	_, err = r.Write(t.Context(), p.ID, p.Version, planning.Text{Title: &title}, noon)
	assert.ErrorIs(t, err, act.ErrStale)
	assert.Equal(t, "Twice", r.Reload(t, p.ID).Title)
	assert.ErrorIs(t, r.Clear(t.Context(), p.ID, p.Version, noon), act.ErrStale)
}

func TestAnotherSitesPostsAreNotFound(t *testing.T) {
	r := newRoom(t)
	other := pgtest.NewWorld(t, r.World.Store, "lanes")
	p := other.Draft(t, "Theirs")
	title := "Mine"
	_, err := r.Write(t.Context(), p.ID, p.Version, planning.Text{Title: &title}, noon)
	assert.ErrorIs(t, err, store.ErrNotFound)
	assert.ErrorIs(t, r.Clear(t.Context(), p.ID, p.Version, noon), store.ErrNotFound)
	mine := r.Draft(t, "Mine")
	_, err = r.Write(t.Context(), mine.ID, mine.Version, planning.Text{Category: &other.Category}, noon)
	var bad *act.Invalid
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "categoryId", bad.Field)
}

func TestTextProblems(t *testing.T) {
	text := func(s string) *string { return &s }
	for name, test := range map[string]struct {
		text           planning.Text
		field, message string
	}{
		"400 characters": {planning.Text{Title: text(strings.Repeat("a", 400))}, "title",
			"400 characters; at most 200 fit. Shorten it by 200."},
		"only emoji": {planning.Text{Title: text("🔭✨🌌")}, "title", "no letter or digit"},
		"line break": {planning.Text{Title: text("One\nTwo")}, "title", "line break"},
		"huge body":  {planning.Text{Body: text(strings.Repeat("a", 5<<20))}, "body", "at most 1024 kB"},
		"odd tag":    {planning.Text{Tags: &[]string{"moon", "🌙"}}, "tags[1]", "no letter or digit"},
		"long tag":   {planning.Text{Tags: &[]string{strings.Repeat("x", 61)}}, "tags[0]", "too long"},
	} {
		t.Run(name, func(t *testing.T) {
			problems := test.text.Problems()
			require.Len(t, problems, 1)
			assert.Equal(t, test.field, problems[0].Field)
			assert.Contains(t, problems[0].Message, test.message)
		})
	}
	assert.Empty(t, planning.Text{Title: text("👩‍🚀 " + strings.Repeat("é", 198))}.Problems(),
		"200 characters as readers count them")
	assert.Empty(t, planning.Text{Title: text("星を見る")}.Problems())
}

func TestAddressesAreUniqueAndReadable(t *testing.T) {
	r := newRoom(t)
	for _, want := range []string{"over-the-dome", "over-the-dome-2", "over-the-dome-3"} {
		p := r.Draft(t, "Over the Dome!")
		require.NoError(t, r.PublishNow(t.Context(), p.ID, p.Version, noon))
		assert.Equal(t, want, r.Reload(t, p.ID).Slug)
	}
	assert.LessOrEqual(t, len(address.Slug(strings.Repeat("word ", 60))), 80)
	assert.False(t, strings.HasSuffix(address.Slug(strings.Repeat("word ", 60)), "-"))
}

func TestTagsAreKeptOnce(t *testing.T) {
	r := newRoom(t)
	p := r.Draft(t, "Tagged")
	saved, err := r.Write(t.Context(), p.ID, p.Version, planning.Text{Tags: &[]string{"Moon", " moon ", "Dark Sky"}},
		noon)
	require.NoError(t, err)
	assert.Equal(t, store.Strings{"Dark Sky", "Moon"}, saved.Tags)
	saved, err = r.Write(t.Context(), p.ID, saved.Version, planning.Text{Tags: &[]string{"MOON"}}, noon)
	require.NoError(t, err)
	assert.Equal(t, store.Strings{"Moon"}, saved.Tags, "a tag keeps the spelling of its first use")
}

func TestSavingTheRhythmKeepsScheduledPosts(t *testing.T) {
	r := newRoom(t)
	p := r.shelved(t, 1)[0]
	require.NoError(t, r.Commit(t.Context(), r.propose(t).Token(), noon))
	due := *r.Reload(t, p.ID).DueAt

	changed := r.Rhythm
	changed.Openings = []rhythm.Opening{rhythm.Fixed("noon", rhythm.EveryDay, civil.MustClock("12:30"), 0)}
	require.NoError(t, r.SaveRhythm(t.Context(), changed, noon))
	assert.True(t, r.Reload(t, p.ID).DueAt.Equal(due))
	assert.ErrorIs(t, r.SaveRhythm(t.Context(), changed, noon), act.ErrStale)

	changed.Version, changed.Gap = 2, 0
	assert.ErrorIs(t, r.SaveRhythm(t.Context(), changed, noon), planning.ErrProblems)
}

func TestReorderWantsTheWholeShelf(t *testing.T) {
	r := newRoom(t)
	posts := r.shelved(t, 3)
	assert.ErrorIs(t, r.Reorder(t.Context(), []int64{posts[0].ID}, noon), act.ErrStale)
}
