package api_test

import (
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/forecasts"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/pgtest"
)

// What is remembered is what would be computed now: it follows each change at once, and the clock.
func TestWhatIsRememberedFollowsEachChange(t *testing.T) {
	c := newClient(t)
	c.signIn()
	lantern, post := c.lantern(), c.out("Cables", 20)
	titles := func() (all []string) {
		var marks forecasts.Marks
		c.call(http.MethodGet, site+"/marks?days=14", nil, http.StatusOK, &marks)
		for _, m := range marks.Marks {
			all = append(all, m.State+" "+m.Title)
		}
		return all
	}
	for range 2 {
		assert.Empty(t, titles())
	}
	var made rules.PlannedOuting
	plan := func(hours int, more map[string]any) {
		body := map[string]any{"channelId": lantern, "at": pgtest.Noon.Add(time.Duration(hours) * time.Hour), "text": "Hello"}
		for k, v := range more {
			body[k] = v
		}
		c.call(http.MethodPost, site+"/outings", body, http.StatusCreated, &made)
	}
	plan(3, map[string]any{"postId": post.ID})
	for range 2 {
		assert.Equal(t, []string{"coming Cables"}, titles())
	}
	plan(5, nil)
	assert.Equal(t, []string{"coming Cables", "coming Hello"}, titles(), "one of no post is known by what it says")
	_, err := c.world.DB().ExecContext(t.Context(), `update channels set paused_at = $1 where id = $2`, pgtest.Noon, lantern)
	require.NoError(t, err)
	assert.Empty(t, titles(), "whoever changes it")
	_, err = c.world.DB().ExecContext(t.Context(), `update channels set paused_at = null where id = $1`, lantern)
	require.NoError(t, err)
	assert.Len(t, titles(), 2)

	// At the minute of the first it is foretold anew, though nothing was done.
	c.clock.Advance(3*time.Hour + 20*time.Minute)
	assert.Equal(t, []string{"coming Cables", "coming Hello"}, titles())
	c.clock.Advance(3 * time.Hour)
	again := titles()
	require.Len(t, again, 2)

	preview := func() int {
		var p rules.RulePreview
		c.call(http.MethodPost, site+"/rules/preview", map[string]any{"rule": sharing(lantern), "coming": true}, http.StatusOK, &p)
		return p.Count
	}
	one := preview()
	assert.Equal(t, one, preview())
	c.out("Another", 30)
	assert.Equal(t, one+1, preview())
}
