package api_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/plan"
)

// applied is the body that applies a wish as it was shown.
func applied(wish map[string]any, shown plan.Reflow, adjusted ...plan.ByHand) map[string]any {
	return map[string]any{"wish": wish, "token": shown.Token, "adjusted": adjusted}
}

func TestABatchIsProposedAppliedAndTakenBack(t *testing.T) {
	c := signedIn(t)
	var ids []int64
	for _, p := range c.world.Drafts(t, 3) {
		ids = append(ids, p.ID)
	}
	wish := map[string]any{"do": "place", "posts": ids, "start": "2026-12-01",
		"pattern": map[string]any{"everyDays": 2, "from": "08:00", "to": "09:00", "count": 1, "gap": 30}}
	var shown plan.Reflow
	c.call("POST", site+"/reflow/proposal", wish, 200, &shown)
	require.Len(t, shown.Steps, 3)
	assert.Equal(t, "2026-12-05", shown.Steps[2].To.Date.String())
	assert.Nil(t, shown.Steps[0].From)
	c.call("POST", site+"/reflow", applied(wish, shown), 204, nil)

	// What was applied cannot be applied again: the posts have times now.
	problem := c.fails("POST", site+"/reflow", applied(wish, shown), 409)
	require.NotNil(t, problem.Reflow)
	assert.Empty(t, problem.Reflow.Steps)
	assert.Equal(t, "It already has a time. Take it back to the shelf first.", problem.Reflow.Left[0].Reason)

	back := map[string]any{"do": "unplace", "start": "2026-12-03"}
	var taken plan.Reflow
	c.call("POST", site+"/reflow/proposal", back, 200, &taken)
	require.Len(t, taken.Steps, 2)
	assert.Nil(t, taken.Steps[0].To)
	c.call("POST", site+"/reflow", applied(back, taken), 204, nil)
	var almanac plan.Almanac
	c.call("GET", site+"/almanac", nil, 200, &almanac)
	assert.Len(t, almanac.Shelf, 2)
}

func TestWishesThatCannotBeAreAnswered(t *testing.T) {
	c := signedIn(t)
	p := c.world.Draft(t, "One")
	for field, wish := range map[string]map[string]any{
		"body.posts": {"do": "place"},
		"body.days":  {"do": "shift", "days": 0},
		"body.end":   {"do": "unplace", "start": "2026-12-09", "end": "2026-12-01"},
		"body.start": {"do": "place", "posts": []int64{p.ID}, "start": "1999-01-01"},
		"body.pattern.gap": {"do": "place", "posts": []int64{p.ID},
			"pattern": map[string]any{"everyDays": 1, "from": "08:00", "to": "09:00", "count": 1, "gap": 0}},
		"body.pattern.to": {"do": "place", "posts": []int64{p.ID},
			"pattern": map[string]any{"everyDays": 1, "from": "08:00", "to": "07:00", "count": 1, "gap": 9}},
		"body.do": {"do": "shuffle"},
		"body.pattern.from": {"do": "place", "posts": []int64{p.ID},
			"pattern": map[string]any{"everyDays": 1, "from": "half past", "to": "07:00", "count": 1, "gap": 9}},
		"body.posts[0]": {"do": "room", "posts": []any{"x"}},
	} {
		problem := c.fails("POST", site+"/reflow/proposal", wish, 422)
		require.NotEmpty(t, problem.Errors, field)
		if field != "body.pattern.from" {
			assert.Equal(t, field, problem.Errors[0].Location)
		}
	}
	c.fails("POST", site+"/reflow/proposal", map[string]any{"do": "place", "posts": []int64{p.ID + 1000}}, 404)
}
