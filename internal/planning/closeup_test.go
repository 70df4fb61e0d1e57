package planning_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/desktest"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

func TestBoundsShapeTheProposal(t *testing.T) {
	r := desktest.New(t)
	posts := r.Shelved(t, 3)
	hurried := posts[2]
	first := r.Propose(t).Placed[0].Slot.At
	require.NoError(t, status.SetBounds(t.Context(), r.Desk, hurried.ID, hurried.Version, time.Time{}, first, pgtest.Noon))
	plan := r.Propose(t)
	assert.Equal(t, hurried.ID, plan.Placed[0].Draft.ID)
	assert.Contains(t, plan.Placed[0].Reason, "Goes ahead of “Draft 1”")
	hurried = r.Reload(t, hurried.ID)
	err := status.SetBounds(t.Context(), r.Desk, hurried.ID, hurried.Version, pgtest.Noon.Add(2*time.Hour), pgtest.Noon.Add(time.Hour), pgtest.Noon)
	var bad *act.Invalid
	require.ErrorAs(t, err, &bad)
	assert.Equal(t, "deadline", bad.Field)
}

func TestClosingUpFillsHolesAndIsUndone(t *testing.T) {
	r := desktest.New(t)
	posts := r.Shelved(t, 5)
	require.NoError(t, planning.Commit(t.Context(), r.Desk, r.Propose(t).Token(), pgtest.Noon))
	due := func() (all []time.Time) {
		for _, p := range posts {
			if p = r.Reload(t, p.ID); p.DueAt != nil {
				all = append(all, p.DueAt.UTC())
			}
		}
		return all
	}
	before := due()
	closing := func() planning.Closing {
		shifts, err := planning.ProposeClosing(t.Context(), r.World.Queries, r.World.Site, pgtest.Noon)
		require.NoError(t, err)
		return shifts
	}
	assert.Empty(t, closing(), "there is no hole")

	second := r.Reload(t, posts[1].ID)
	_, err := status.Retime(t.Context(), r.Desk, second.ID, second.Version, pgtest.Noon.Add(30*24*time.Hour), pgtest.Noon)
	require.NoError(t, err)
	shifts := closing()
	require.Len(t, shifts, 3, "those after the hole move up, the pinned one stays")
	for i, s := range shifts {
		assert.Equal(t, before[i+1], s.To.UTC())
	}
	var changed *act.Outdated[planning.Closing]
	require.ErrorAs(t, planning.CloseUp(t.Context(), r.Desk, shifts[1:].Token(), pgtest.Noon), &changed)
	assert.Len(t, changed.Now, 3)
	holed := due()
	require.NoError(t, planning.CloseUp(t.Context(), r.Desk, shifts.Token(), pgtest.Noon))
	assert.NotEqual(t, holed, due())
	assert.Empty(t, closing())
	r.UndoLast(t)
	assert.Equal(t, holed, due())
}

// From a date in the past on, drafts get past slots of the same rhythm and come out at
// once with those dates; the rest is scheduled.
func TestBackdatingThroughTheRhythm(t *testing.T) {
	r := desktest.New(t)
	posts := r.Shelved(t, 6)
	from := pgtest.Noon.Add(-48 * time.Hour)
	plan, err := planning.Propose(t.Context(), r.World.Queries, r.World.Site, from)
	require.NoError(t, err)
	require.NoError(t, planning.CommitFrom(t.Context(), r.Desk, plan.Token(), from, pgtest.Noon))
	past, coming := 0, 0
	for i, p := range posts {
		p = r.Reload(t, p.ID)
		assert.Equal(t, plan.Placed[i].Slot.ID, p.Slot())
		if p.Status == store.Published {
			past++
			assert.Equal(t, plan.Placed[i].Slot.At, p.PublishedAt.UTC())
			assert.Contains(t, r.Lines(t, p.ID)[0].Reason, "backdated")
		} else {
			coming++
			assert.True(t, p.DueAt.After(pgtest.Noon))
		}
	}
	assert.Equal(t, 4, past, "two slots a day")
	assert.Equal(t, 2, coming)
	r.UndoLast(t)
	assert.Len(t, r.Propose(t).Shelf, 6, "undone as one")
}
