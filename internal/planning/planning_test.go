package planning_test

import (
	"slices"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/desktest"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

func TestCommitDoesExactlyWhatWasProposed(t *testing.T) {
	r := desktest.New(t)
	posts := r.Shelved(t, 5)
	plan := r.Propose(t)
	require.Len(t, plan.Placed, 5)
	require.NoError(t, planning.Commit(t.Context(), r.Desk, plan.Token(), pgtest.Noon))
	for i, p := range posts {
		now := r.Reload(t, p.ID)
		assert.Equal(t, store.Scheduled, now.Status)
		assert.True(t, now.DueAt.Equal(plan.Placed[i].Slot.At))
		assert.Equal(t, plan.Placed[i].Slot.ID, now.Slot())
		assert.NotEmpty(t, now.Slug)
		lines := r.Lines(t, p.ID)
		assert.Equal(t, store.DeedCommit, lines[0].Deed)
		assert.Equal(t, plan.Placed[i].Reason, lines[0].Reason)
		assert.Equal(t, r.Editor.ID, *lines[0].Actor)
	}
	assert.Empty(t, r.Propose(t).Placed)
}

func TestCommittedSlotsAreNotOfferedAgain(t *testing.T) {
	r := desktest.New(t)
	r.Shelved(t, 3)
	first := r.Propose(t)
	require.NoError(t, planning.Commit(t.Context(), r.Desk, first.Token(), pgtest.Noon))
	r.Shelved(t, 3)
	second := r.Propose(t)
	for _, p := range second.Placed {
		assert.False(t, slices.ContainsFunc(first.Placed,
			func(one queue.Proposal) bool { return one.Slot.ID == p.Slot.ID }))
		assert.True(t, p.Slot.At.After(first.Placed[2].Slot.At))
	}
}

func TestCommitRefusesAPlanThatHasChanged(t *testing.T) {
	r := desktest.New(t)
	posts := r.Shelved(t, 3)
	seen := r.Propose(t).Token()
	require.NoError(t, status.Reorder(t.Context(), r.Desk, []int64{posts[2].ID, posts[0].ID, posts[1].ID}, pgtest.Noon))
	err := planning.Commit(t.Context(), r.Desk, seen, pgtest.Noon)
	var changed *act.Outdated[planning.Plan]
	require.ErrorAs(t, err, &changed)
	assert.Equal(t, posts[2].ID, changed.Now.Placed[0].Draft.ID)
	for _, p := range posts {
		assert.Equal(t, store.Draft, r.Reload(t, p.ID).Status, "nothing was committed")
	}
	require.NoError(t, planning.Commit(t.Context(), r.Desk, changed.Now.Token(), pgtest.Noon))
}

func TestTwoCommitsAtOnceMakeOnePlan(t *testing.T) {
	r := desktest.New(t)
	r.Shelved(t, 6)
	seen := r.Propose(t).Token()
	errs := make([]error, 4)
	var wg sync.WaitGroup
	for i := range errs {
		wg.Add(1)
		go func() { defer wg.Done(); errs[i] = planning.Commit(t.Context(), r.Desk, seen, pgtest.Noon) }()
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
