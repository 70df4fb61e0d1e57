package queue_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/queue"
)

// Both bounds of a draft are inclusive, to the second.
func TestBoundsAreInclusive(t *testing.T) {
	t.Parallel()
	at := slot(1).At
	for _, c := range []struct {
		name             string
		after, before    time.Duration // of the bounds, from the slot
		hasAfter, hasEnd bool
		placed           bool
	}{
		{name: "no bound", placed: true},
		{name: "a deadline at its minute", hasEnd: true, placed: true},
		{name: "a deadline a second before", before: -time.Second, hasEnd: true},
		{name: "not before its minute", hasAfter: true, placed: true},
		{name: "not before a second later", after: time.Second, hasAfter: true},
		{name: "both at its minute", hasAfter: true, hasEnd: true, placed: true},
	} {
		draft := queue.Draft{ID: 1, Title: "Bound"}
		if c.hasAfter {
			draft.NotBefore = at.Add(c.after)
		}
		if c.hasEnd {
			draft.Deadline = at.Add(c.before)
		}
		p := place([]queue.Draft{draft}, slot(1))
		assert.Equal(t, c.placed, len(p.Placed) == 1, c.name)
		assert.Equal(t, c.placed, len(p.Unplaced) == 0, c.name)
		refusal := queue.NewTally(lisbon, slot(0).ID.Date, queue.Caps{}, nil).Refuses(draft, slot(1))
		assert.Equal(t, c.placed, refusal == "", "by hand: %s: %s", c.name, refusal)
	}
}

// Where one slot is left of two drafts and only one can wait, the one with the deadline
// has it, though it is behind on the shelf.
func TestADeadlineAtTheLastSlotIsMet(t *testing.T) {
	t.Parallel()
	drafts := shelf(3)
	drafts[2].Deadline = slot(0).At
	p := place(drafts, slot(0), slot(1), slot(2))
	require.Len(t, p.Placed, 3)
	var order []int64
	for _, one := range p.Placed {
		order = append(order, one.Draft.ID)
	}
	assert.Equal(t, []int64{3, 1, 2}, order)
	assert.Contains(t, p.Placed[0].Reason, "to meet its deadline on Tue 24 Nov")
}
