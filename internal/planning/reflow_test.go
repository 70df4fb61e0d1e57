package planning_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/desktest"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/store"
)

func TestABatchIsPlacedAndTakenBackInItsOrder(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 4)
	noText := r.Draft(t, "No text")
	_, err := r.DB().ExecContext(t.Context(), pgtest.Retell(`t.title`, `''`, `posts.id = $1`), noText.ID)
	require.NoError(t, err)
	out := r.Rearrange(t, planning.Wish{Do: planning.WishPlace, Posts: append(desktest.IDs(posts), noText.ID)})
	require.Len(t, out.Steps, 4)
	require.Len(t, out.Left, 1)
	assert.Equal(t, "It has no text yet.", out.Left[0].Reason)
	for i, p := range posts {
		placed := r.Reload(t, p.ID)
		assert.Equal(t, store.Scheduled, placed.Status)
		assert.NotNil(t, placed.SlotDate)
		assert.True(t, placed.DueAt.Equal(*out.Steps[i].To))
	}

	back := r.Rearrange(t, planning.Wish{Do: planning.WishShelve})
	assert.Len(t, back.Steps, 4)
	shelf, err := r.Shelf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	var order []int64
	for _, e := range shelf {
		order = append(order, e.ID)
	}
	assert.Equal(t, desktest.IDs(posts), order)
	// And once more the other way, by the logbook: all of it is one act.
	r.UndoLast(t)
	assert.Equal(t, store.Scheduled, r.Reload(t, posts[2].ID).Status)
	assert.NotNil(t, r.Reload(t, posts[2].ID).SlotDate)
}

func TestABatchByAPatternAndIntoThePast(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 5)
	pattern := &reflow.Pattern{EveryDays: 2, From: civil.MustClock("09:00"), To: civil.MustClock("10:00"), Count: 1,
		Gap: 60, Seed: 3}
	start := civil.MustDate("2026-11-20")
	w := planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(posts), Start: start, Pattern: pattern}
	out := r.Rearrange(t, w)
	require.Len(t, out.Steps, 5)
	for i, s := range out.Steps {
		assert.Equal(t, start.Add(2*i), r.World.Site.Zone().DateOf(*s.To))
		assert.Equal(t, i < 3, s.Past, "the 20th, 22nd and 24th at nine are past at pgtest.Noon of the 24th")
		p := r.Reload(t, s.Post.ID)
		if s.Past {
			assert.Equal(t, store.Published, p.Status)
			assert.True(t, p.PublishedAt.Equal(*s.To))
		} else {
			assert.Equal(t, store.Scheduled, p.Status)
			assert.False(t, p.Pinned)
			assert.Nil(t, p.SlotDate, "a pattern's slots are none of the rhythm")
		}
	}
	var invalid *act.Invalid
	_, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site,
		planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(posts), Pattern: &reflow.Pattern{}}, pgtest.Noon)
	require.ErrorAs(t, err, &invalid)
	assert.Equal(t, "pattern.everyDays", invalid.Field)
}

func TestALineOfABatchIsAdjusted(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 3)
	w := planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(posts)}
	out, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site, w, pgtest.Noon)
	require.NoError(t, err)
	var invalid *act.Invalid
	err = planning.ApplyReflow(t.Context(), r.Desk, w, out.Token(), []planning.Adjusted{{Post: posts[1].ID,
		At: pgtest.Noon.Add(-time.Hour)}}, pgtest.Noon)
	require.ErrorAs(t, err, &invalid, "nothing comes out at once that was shown as scheduled")
	assert.Contains(t, invalid.Message, "has passed")
	assert.Equal(t, store.Draft, r.Reload(t, posts[0].ID).Status)
	by := pgtest.Noon.Add(50 * time.Hour)
	require.NoError(t, planning.ApplyReflow(t.Context(), r.Desk, w, out.Token(), []planning.Adjusted{{Post: posts[1].ID, At: by}},
		pgtest.Noon))
	p := r.Reload(t, posts[1].ID)
	assert.True(t, p.Pinned)
	assert.True(t, p.DueAt.Equal(by))
	assert.True(t, r.Reload(t, posts[2].ID).DueAt.Equal(*out.Steps[2].To), "the others are as they were shown")
}

func TestAdjustedLinesAreToldWhatTheyAreNearTo(t *testing.T) {
	r := desktest.New(t)
	gap := time.Duration(r.Rhythm.Gap) * time.Minute
	at := pgtest.Noon.Add(100 * 24 * time.Hour)
	r.World.Scheduled(t, "Stands", at)
	drafts := r.Drafts(t, 3)
	found, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site,
		planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(drafts)}, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, found.Steps, 3)
	near := func(adjusted ...planning.Adjusted) (titles []string) {
		all, err := planning.NearAdjusted(t.Context(), r.Queries, r.World.Site, found.Steps, adjusted)
		require.NoError(t, err)
		for _, n := range all {
			titles = append(titles, n.Title)
		}
		return titles
	}
	first, second := drafts[0].ID, drafts[1].ID
	assert.Empty(t, near())
	assert.Empty(t, near(planning.Adjusted{Post: first, At: at.Add(gap)}), "the gap itself is enough")
	assert.Empty(t, near(planning.Adjusted{Post: first, At: at.Add(-gap)}))
	assert.Equal(t, []string{"Stands"}, near(planning.Adjusted{Post: first, At: at.Add(gap - time.Minute)}))
	assert.Equal(t, []string{"Stands"}, near(planning.Adjusted{Post: first, At: at.Add(time.Minute - gap)}))
	// Another line counts where it is to be, not where it was proposed.
	proposed := *found.Steps[1].To
	assert.Equal(t, []string{drafts[1].Title}, near(planning.Adjusted{Post: first, At: proposed}))
	assert.Equal(t, []string{"Stands", "Stands"},
		near(planning.Adjusted{Post: first, At: at.Add(gap / 2)}, planning.Adjusted{Post: second,
			At: at.Add(-gap / 2)}))
	assert.Empty(t, near(planning.Adjusted{Post: first, At: proposed},
		planning.Adjusted{Post: second, At: at.Add(gap)}))
}

func TestMakingRoomMovesLaterPostsDownAndIsUndone(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 3)
	r.Rearrange(t, planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(posts)})
	was := []string{r.Due(t, posts[0].ID), r.Due(t, posts[1].ID), r.Due(t, posts[2].ID)}
	urgent := r.Draft(t, "Urgent")
	out := r.Rearrange(t, planning.Wish{Do: planning.WishRoom, Posts: []int64{urgent.ID}})
	require.Len(t, out.Steps, 4)
	assert.Equal(t, was[0], r.Due(t, urgent.ID))
	assert.Equal(t, was[1], r.Due(t, posts[0].ID))
	assert.Equal(t, was[2], r.Due(t, posts[1].ID))
	r.UndoLast(t)
	assert.Equal(t, was, []string{r.Due(t, posts[0].ID), r.Due(t, posts[1].ID), r.Due(t, posts[2].ID)})
	assert.Equal(t, store.Draft, r.Reload(t, urgent.ID).Status)
}

func TestAStretchIsShiftedAndBack(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 4)
	r.Rearrange(t, planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(posts)})
	pinned := r.Scheduled(t, "Pinned", pgtest.Noon.Add(26*time.Hour))
	first := r.World.Site.Zone().DateOf(pgtest.Noon).Add(1)
	out := r.Rearrange(t, planning.Wish{Do: planning.WishShift, Start: first, Days: 7})
	assert.NotEmpty(t, out.Steps)
	assert.Equal(t, "Dec 2 14:00", r.Due(t, pinned.ID))
	assert.True(t, r.Reload(t, pinned.ID).Pinned)
	for _, s := range out.Steps {
		assert.False(t, s.To.Before(r.World.Site.Zone().At(first.Add(7), 0)))
	}
	r.UndoLast(t)
	assert.Equal(t, "Nov 25 14:00", r.Due(t, pinned.ID))

	var invalid *act.Invalid
	_, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site,
		planning.Wish{Do: planning.WishShift, Days: -30}, pgtest.Noon)
	require.ErrorAs(t, err, &invalid)
	assert.Contains(t, invalid.Message, "would come out in the past")
}

func TestTwoReflowsOfTheSamePlan(t *testing.T) {
	r := desktest.New(t)
	posts := r.Drafts(t, 3)
	w := planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(posts)}
	shown, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site, w, pgtest.Noon)
	require.NoError(t, err)
	other := r.Draft(t, "Theirs")
	r.Rearrange(t, planning.Wish{Do: planning.WishPlace, Posts: []int64{other.ID}}) // takes the first slot
	err = planning.ApplyReflow(t.Context(), r.Desk, w, shown.Token(), nil, pgtest.Noon)
	var changed *act.Outdated[planning.Reflow]
	require.ErrorAs(t, err, &changed)
	require.Len(t, changed.Now.Steps, 3)
	assert.True(t, changed.Now.Steps[0].To.Equal(*shown.Steps[1].To),
		"the new proposal begins where the other one ended")
	assert.Equal(t, store.Draft, r.Reload(t, posts[0].ID).Status, "nothing was half done")
}

func TestPostsMoveOffRestDays(t *testing.T) {
	r := desktest.New(t)
	zone := r.World.Site.Zone()
	posts := r.Drafts(t, 4)
	placed := r.Rearrange(t, planning.Wish{Do: planning.WishPlace, Posts: desktest.IDs(posts)})
	second := zone.DateOf(*placed.Steps[1].To)
	pinned := r.Pinned(t, "Pinned", zone.At(second, civil.MustClock("23:00")))
	rhythm, err := r.RhythmOf(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	rhythm.Rests = civil.Rests{{First: second, Last: second, Yearly: true, Name: "Fair"}}
	require.NoError(t, sitesettings.SaveRhythm(t.Context(), r.Desk, rhythm, pgtest.Noon))
	before := r.Due(t, posts[3].ID)

	out := r.Rearrange(t, planning.Wish{Do: planning.WishRest})
	require.Len(t, out.Steps, 3)
	assert.Contains(t, out.Steps[0].Reason, "Fair")
	for _, s := range out.Steps {
		now := r.Reload(t, s.Post.ID)
		assert.True(t, zone.DateOf(*now.DueAt).After(second))
		assert.Equal(t, s.Post.ID == pinned, now.Pinned)
		assert.Equal(t, s.Post.ID != pinned, now.SlotDate != nil)
	}
	assert.Equal(t, before, r.Due(t, posts[3].ID), "the others stay")
	r.UndoLast(t)
	assert.Equal(t, second, zone.DateOf(*r.Reload(t, posts[1].ID).DueAt))
	none, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site,
		planning.Wish{Do: planning.WishRest, Start: second.Add(1)}, pgtest.Noon)
	require.NoError(t, err)
	assert.Empty(t, none.Steps)
}
