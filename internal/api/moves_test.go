package api_test

import (
	"fmt"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/api/accounts"
	"dapper.example/internal/api/logbook"
	"dapper.example/internal/api/plan"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/pgtest"
)

// scheduled gives a new draft a time by hand.
func (c *client) scheduled(title string, at time.Time) plan.SeenPost {
	c.t.Helper()
	p := c.world.Draft(c.t, title)
	day, clock := c.world.Site.Zone().Local(at)
	c.call("POST", fmt.Sprintf("%s/posts/%d/retime", site, p.ID), map[string]any{"version": p.Version, "date": day,
		"time": clock}, 200, nil)
	return c.seenPost(p.ID)
}

func (c *client) seenPost(id int64) plan.SeenPost {
	c.t.Helper()
	return plan.SeenPost{ID: id, Version: c.world.Reload(c.t, id).Version}
}

func TestPostsAreMovedByHand(t *testing.T) {
	c := signedIn(t)
	one := c.scheduled("One", pgtest.Noon.Add(48*time.Hour))
	two := c.scheduled("Two", pgtest.Noon.Add(72*time.Hour))
	var ground plan.Ground
	c.call("GET", fmt.Sprintf("%s/ground?posts=%d&days=4", site, one.ID), nil, 200, &ground)
	require.Len(t, ground.Days, 4)
	require.Len(t, ground.Days[0].Shadows, 1, "what is past of today")
	assert.Empty(t, ground.Days[2].Shadows, "its own place is none")
	require.Len(t, ground.Days[3].Shadows, 1)
	var lands []string
	for _, l := range ground.Days[3].Landings {
		lands = append(lands, fmt.Sprintf("%d-%d: %d", l.From, l.To, *l.At))
	}
	assert.Equal(t, []string{"661-720: 660", "720-780: 780"}, lands, "12:00 and a gap of an hour: 11:00, or 13:00")
	c.fails("GET", fmt.Sprintf("%s/ground?posts=%d&from=tomorrow", site, one.ID), nil, 422)

	var out plan.MovedPosts
	c.call("POST", site+"/moves", map[string]any{"posts": []any{one}, "date": "2026-11-27", "time": "12:05"}, 200, &out)
	require.Len(t, out.Moved, 1)
	assert.Contains(t, out.Moved[0].Note, "nearer than the gap")
	assert.Equal(t, "2026-11-27", out.Moved[0].To.Date.String())
	assert.Contains(t, c.fails("POST", site+"/moves", map[string]any{"posts": []any{one}, "date": "2026-11-29"},
		409).Detail, "Somebody changed this meanwhile")
	past := c.fails("POST", site+"/moves", map[string]any{"posts": []any{c.seenPost(one.ID)}, "date": "2026-11-20"},
		422)
	assert.Contains(t, past.Detail, "is over. Choose another day")

	c.call("POST", site+"/swaps", map[string]any{"posts": []any{c.seenPost(one.ID), two}}, 200, &out)
	assert.Equal(t, "Two", out.Moved[1].Title)
	assert.True(t, c.world.Reload(t, one.ID).DueAt.Equal(pgtest.Noon.Add(72*time.Hour)))

	var shelved plan.MovedPosts
	c.call("POST", site+"/moves", map[string]any{"posts": []any{c.seenPost(one.ID), c.seenPost(two.ID)}}, 200, &shelved)
	line := c.line
	require.NotEmpty(t, line)
	assert.Nil(t, shelved.Moved[0].To)
	assert.Len(t, c.almanac("").Shelf, 2)

	// Undone and done again, by the line of the logbook that the answer names.
	var undone logbook.UndoneLine
	c.call("POST", fmt.Sprintf("%s/logbook/%s/undo", site, line), nil, 200, &undone)
	assert.Equal(t, fmt.Sprint(undone.Line), c.line)
	assert.Empty(t, c.almanac("").Shelf)
	c.call("POST", fmt.Sprintf("%s/logbook/%d/undo", site, undone.Line), nil, 200, &undone)
	assert.Len(t, c.almanac("").Shelf, 2)
	assert.Empty(t, c.line, "reading is no deed")
	c.fails("POST", fmt.Sprintf("%s/logbook/%s/undo", site, line), nil, 422)
	assert.Empty(t, c.line, "nor is what was refused")
	c.call("POST", site+"/render", map[string]string{"body": "Some *words*"}, 200, nil)
	assert.Empty(t, c.line, "nor is a question that is asked by POST")
}

func TestFieldsOfManyPosts(t *testing.T) {
	c := signedIn(t)
	a, b := c.world.Draft(t, "A"), c.world.Draft(t, "B")
	out := c.world.Draft(t, "Out")
	c.call("POST", fmt.Sprintf("%s/posts/%d/publish", site, out.ID), map[string]any{"version": out.Version}, 200, nil)
	edit := func(change map[string]any, status int) (outcome posts.BulkOutcome) {
		change["ids"] = []int64{a.ID, b.ID, out.ID}
		c.call("POST", site+"/posts/edit", change, status, &outcome)
		return outcome
	}
	outcome := edit(map[string]any{"addTags": []string{"moon"}, "deadline": "2026-12-24"}, 200)
	assert.Equal(t, 2, outcome.Done)
	require.Len(t, outcome.Skipped, 1)
	assert.Equal(t, "Out", outcome.Skipped[0].Title)
	assert.Equal(t, "2026-12-24", c.world.Site.Zone().DateOf(*c.world.Reload(t, a.ID).Deadline).String())
	assert.Equal(t, 2, edit(map[string]any{"deadline": ""}, 200).Done)
	assert.Nil(t, c.world.Reload(t, b.ID).Deadline)
	for field, change := range map[string]map[string]any{
		"title": {"title": "All the same"}, "category": {"category": 1 << 40}, "author": {"author": 1 << 40}, "notBefore": {"notBefore": "soon"},
		"deadline": {"notBefore": "2026-12-24", "deadline": "2026-12-01"}, "addTags": {"addTags": []string{"!!"}},
	} {
		change["ids"] = []int64{a.ID, b.ID}
		c.fails("POST", site+"/posts/edit", change, 422)
		assert.NotEmpty(t, field)
	}
	c.fails("POST", site+"/posts/edit", map[string]any{"evergreen": true}, 422)
	c.fails("POST", site+"/posts/edit", map[string]any{"ids": []int64{1 << 40}, "evergreen": true}, 404)
	var titled posts.BulkOutcome
	c.call("POST", site+"/posts/edit", map[string]any{"ids": []int64{a.ID}, "version": c.world.Reload(t, a.ID).Version,
		"title": "A better one"}, 200, &titled)
	assert.Equal(t, 1, titled.Done)
	assert.Equal(t, "A better one", c.world.Reload(t, a.ID).Title)
}

func TestLensesAndPreferences(t *testing.T) {
	c := signedIn(t)
	var lenses []api.Lens
	c.call("PUT", site+"/lenses", map[string]any{"name": " Ines, month ",
		"plan": map[string]any{"view": "month", "authors": []int64{c.world.Editor.ID}}}, 200, &lenses)
	c.call("PUT", site+"/lenses", map[string]any{"name": "Held", "plan": map[string]any{"status": "held"}}, 200,
		&lenses)
	require.Len(t, lenses, 2)
	assert.Equal(t, &api.PlanShown{View: "month", Authors: []int64{c.world.Editor.ID}}, lenses[1].Plan)
	c.call("PUT", site+"/lenses", map[string]any{"name": "Held", "plan": map[string]any{"status": "pinned"}}, 200,
		&lenses)
	require.Len(t, lenses, 2, "one of the same name is replaced")
	assert.Equal(t, "pinned", lenses[0].Plan.Status)
	c.fails("PUT", site+"/lenses", map[string]any{"name": "  ", "plan": map[string]any{}}, 422)
	c.fails("PUT", site+"/lenses", map[string]any{"name": "X", "plan": map[string]any{"view": "wheel"}}, 422)
	shown := map[string]any{"text": "moon", "stages": []string{"draft"}, "categories": []int64{-1, c.world.Category},
		"tags": []int64{7}, "sort": "title", "order": "up"}
	c.fails("PUT", site+"/lenses", map[string]any{"name": "Held", "plan": map[string]any{}, "posts": shown}, 422)
	c.fails("PUT", site+"/lenses", map[string]any{"name": "Held"}, 422)
	c.call("PUT", site+"/lenses", map[string]any{"name": "Held", "posts": shown}, 200, &lenses)
	require.Len(t, lenses, 3, "one of another screen is another")
	ofPosts := slices.IndexFunc(lenses, func(l api.Lens) bool { return l.Posts != nil })
	assert.Equal(t, &api.PostsShown{PostFilter: posts.PostFilter{Text: "moon", Stages: []string{"draft"},
		Categories: []int64{-1, c.world.Category}, Tags: []int64{7}},
		Sort: "title", Order: "up"}, lenses[ofPosts].Posts)
	c.call("DELETE", fmt.Sprintf("%s/lenses/%d", site, lenses[ofPosts].ID), nil, 204, nil)
	c.call("DELETE", fmt.Sprintf("%s/lenses/%d", site, lenses[0].ID), nil, 204, nil)
	c.fails("DELETE", fmt.Sprintf("%s/lenses/%d", site, lenses[0].ID), nil, 404)
	other := c.as("editor", c.world.Site)
	other.call("GET", site+"/lenses", nil, 200, &lenses)
	assert.Empty(t, lenses, "each has their own")

	var me accounts.Me
	c.call("GET", "/api/v1/session", nil, 200, &me)
	assert.Equal(t, accounts.Preferences{WeekStart: "monday", Clock: "24", Density: "roomy", Theme: "system"},
		me.Preferences)
	want := accounts.Preferences{WeekStart: "sunday", Clock: "12", Density: "dense", Theme: "dark"}
	c.call("PUT", "/api/v1/account/preferences", want, 200, nil)
	c.call("GET", "/api/v1/session", nil, 200, &me)
	assert.Equal(t, want, me.Preferences)
	c.fails("PUT", "/api/v1/account/preferences", map[string]any{"weekStart": "noon", "clock": "24",
		"density": "dense", "theme": "dark"}, 422)
}

func TestWhatCatchingUpDidIsTold(t *testing.T) {
	c := signedIn(t)
	c.scheduled("On time", pgtest.Noon.Add(time.Hour))
	missed := c.scheduled("Missed", pgtest.Noon.Add(3*time.Hour))
	c.live(pgtest.Noon.Add(2 * time.Hour))
	s := c.settings()
	s.Paused = true
	c.call("PUT", site+"/settings", s, 200, &s)
	c.clock.Advance(3 * time.Hour)
	var overdue plan.Overdue
	c.call("GET", site+"/overdue", nil, 200, &overdue)
	require.Len(t, overdue.Waiting, 1)
	assert.Equal(t, "publish", overdue.Waiting[0].Does)
	assert.Empty(t, overdue.Done, "what came out on time was not caught up with")
	s.Paused = false
	c.call("PUT", site+"/settings", s, 200, &s)
	c.live(c.clock.Now().Add(time.Minute))
	c.call("GET", site+"/overdue", nil, 200, &overdue)
	assert.Empty(t, overdue.Waiting)
	require.Len(t, overdue.Done, 1)
	assert.Equal(t, missed.ID, overdue.Done[0].PostID)
}

func TestAKeptLensIsReplacedEvenAmongMany(t *testing.T) {
	c := signedIn(t)
	for i := range 50 {
		c.call("PUT", site+"/lenses", map[string]any{"name": fmt.Sprintf("Lens %d", i), "plan": map[string]any{}}, 200,
			nil)
	}
	c.fails("PUT", site+"/lenses", map[string]any{"name": "One more", "plan": map[string]any{}}, 422)
	var lenses []api.Lens
	c.call("PUT", site+"/lenses", map[string]any{"name": "Lens 7", "plan": map[string]any{"kind": "page"}}, 200,
		&lenses)
	assert.Len(t, lenses, 50)
}
