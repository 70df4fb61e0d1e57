package api_test

import (
	"encoding/json"
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/logbook"
	"dapper.example/internal/api/plan"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/formats"
	"dapper.example/internal/pgtest"
)

func (c *client) settings() rhythms.Settings {
	c.t.Helper()
	var s rhythms.Settings
	c.call("GET", site+"/settings", nil, 200, &s)
	return s
}

func TestSettingsChangeThePlan(t *testing.T) {
	c := signedIn(t)
	c.shelved("One")
	c.shelved("Two")
	s := c.settings()
	assert.Equal(t, rhythms.Settings{Zone: "America/Halifax", CatchUp: "at once", CatchUpMinutes: 720,
		FirstDateShown: true, ShelfOrder: "hand",
		AudienceZones: []string{}, Ready: []string{"text", "category", "image", "links", "twins"}, Version: 1}, s)
	s.Caps, s.ShelfOrder, s.Paused = formats.Caps{Day: 1}, "newest", true
	c.call("PUT", site+"/settings", s, 200, &s)
	assert.Equal(t, 2, s.Version)
	plan := c.almanac("")
	assert.True(t, plan.Paused)
	assert.Equal(t, "newest", plan.Order)
	assert.NotEqual(t, plan.Shelf[0].Proposed.Date, plan.Shelf[1].Proposed.Date)
	s.Version = 1
	c.fails("PUT", site+"/settings", s, 409)
	s.Version, s.Zone, s.Caps.AuthorDay = 2, "Atlantis/Poseidonis", 9
	problem := c.fails("PUT", site+"/settings", s, 422)
	assert.Equal(t, "body.zone", problem.Errors[0].Location)
	assert.Contains(t, problem.Errors[0].Message, "Atlantis/Poseidonis")
	assert.Equal(t, "body.caps.authorDay", problem.Errors[1].Location)
}

func TestBoundsAreDatesOfTheSite(t *testing.T) {
	c := signedIn(t)
	p := c.shelved("Bounded")
	c.call("POST", c.path(p, "/bounds"), map[string]any{"version": p.Version, "notBefore": "2026-12-01",
		"deadline": "2026-12-02"}, 200, &p)
	assert.Equal(t, 0, p.NotBefore.Minute)
	assert.Equal(t, 1439, p.Deadline.Minute)
	assert.Equal(t, "2026-12-01", c.almanac("").Shelf[0].Proposed.Date.String())
	bad := c.fails("POST", c.path(p, "/bounds"), map[string]any{"version": p.Version, "notBefore": "2026-12-03",
		"deadline": "2026-12-02"}, 422)
	assert.Equal(t, "body.deadline", bad.Errors[0].Location)
	var unbound posts.Post
	c.call("POST", c.path(p, "/bounds"), map[string]any{"version": p.Version}, 200, &unbound)
	assert.Nil(t, unbound.Deadline)
}

func TestLogbookAndUndo(t *testing.T) {
	c := signedIn(t)
	c.shelved("Undone")
	var page logbook.LogbookPage
	c.call("GET", site+"/logbook?by=me", nil, 200, &page)
	require.Len(t, page.Lines, 1)
	line := page.Lines[0]
	assert.Equal(t, "Undone", line.Title)
	assert.True(t, line.Undoable)
	undo := fmt.Sprintf("%s/logbook/%d/undo", site, line.ID)
	c.call("POST", undo, nil, 200, nil)
	c.fails("POST", undo, nil, 422)
	assert.Empty(t, c.almanac("").Shelf)
	c.call("GET", site+"/logbook", nil, 200, &page)
	assert.Equal(t, []string{"undo", "clear"}, []string{page.Lines[0].Deed, page.Lines[1].Deed})
	assert.True(t, page.Lines[1].Undone)
	c.call("GET", site+"/logbook?by=engine", nil, 200, &page)
	assert.Empty(t, page.Lines)
	for _, query := range []string{"?deed=dance", "?by=magic", "?cursor=x"} {
		c.fails("GET", site+"/logbook"+query, nil, 422)
	}
	pgtest.NewWorld(t, c.world.Store, "lanes")
	c.fails("POST", "/api/v1/sites/lanes/logbook/1/undo", nil, 404)
}

func TestLogbookPagesByCursor(t *testing.T) {
	c := signedIn(t)
	for i := range 60 {
		c.shelved(fmt.Sprintf("Post %d", i))
	}
	var first, second logbook.LogbookPage
	c.call("GET", site+"/logbook", nil, 200, &first)
	require.Len(t, first.Lines, 50)
	c.call("GET", site+"/logbook?cursor="+first.Next, nil, 200, &second)
	assert.Len(t, second.Lines, 10)
	assert.Empty(t, second.Next)
	assert.Less(t, second.Lines[0].ID, first.Lines[49].ID)
}

func TestRhythmKeepsAllOfItsFields(t *testing.T) {
	c := signedIn(t)
	var r rhythms.Rhythm
	c.call("GET", site+"/rhythm", nil, 200, &r)
	text := fmt.Sprintf(`{"name":"R","gap":30,"seed":5,"version":%d,"uneven":true,"starts":"2026-11-01","ends":"2027-11-01","rests":[{"first":"2026-08-01","last":"2026-08-14","yearly":true,"name":"Summer"},{"first":"2026-12-25"}],
		"openings":[{"key":"a","kind":"time","weekdays":["monday"],"from":"09:01","count":1,"sway":5,"everyWeeks":2,"anchor":"2026-11-23","lane":["Sky Guide"],"zone":"Asia/Tokyo"}]}`, r.Version)
	var want, got map[string]any
	require.NoError(t, json.Unmarshal([]byte(text), &want))
	c.call("PUT", site+"/rhythm", text, 200, &got)
	want["version"] = float64(r.Version + 1)
	assert.Equal(t, want, got)
}

func TestRhythmPreviewTellsItsShapeAndWhatWouldBeOff(t *testing.T) {
	c := signedIn(t)
	c.shelved("Sitting")
	c.call("POST", site+"/placement", map[string]any{"token": c.almanac("").Token}, 204, nil)
	var r rhythms.Rhythm
	c.call("GET", site+"/rhythm", nil, 200, &r)
	var preview rhythms.RhythmPreview
	c.call("POST", site+"/rhythm/preview?days=28", r, 200, &preview)
	require.Len(t, preview.Days, 28)
	assert.Zero(t, preview.Off, "the rhythm as it is has the post's slot")
	total := 0
	for _, n := range preview.Hours {
		total += n
	}
	between := 0
	for _, d := range preview.Distances {
		between += d.Count
	}
	assert.Equal(t, 56, total, "two a day, past ones of today too")
	assert.Equal(t, total-1, between)
	r.Seed++
	c.call("POST", site+"/rhythm/preview?days=28", r, 200, &preview)
	assert.Equal(t, 1, preview.Off, "another draw: the post keeps its time and is off the slot")
}

func TestClosingUp(t *testing.T) {
	c := signedIn(t)
	first, second := c.shelved("First"), c.shelved("Second")
	c.call("POST", site+"/placement", map[string]any{"token": c.almanac("").Token}, 204, nil)
	c.call("GET", c.path(first, ""), nil, 200, &first)
	hole := *first.When
	c.call("POST", c.path(first, "/publish"), map[string]int{"version": first.Version}, 200, nil)
	var closing plan.Closing
	c.call("GET", site+"/closing", nil, 200, &closing)
	require.Len(t, closing.Shifts, 1)
	assert.Equal(t, second.ID, closing.Shifts[0].ID)
	assert.Equal(t, hole, closing.Shifts[0].To)
	stale := c.fails("POST", site+"/closing", map[string]any{"token": "another"}, 409)
	assert.Equal(t, closing, *stale.Closing)
	c.call("POST", site+"/closing", map[string]any{"token": closing.Token}, 204, nil)
	c.call("GET", site+"/closing", nil, 200, &closing)
	assert.Empty(t, closing.Shifts)
}

func TestBackdatedPlacement(t *testing.T) {
	c := signedIn(t)
	p := c.shelved("Long ago")
	var placement plan.Placement
	c.call("GET", site+"/placement?from=2026-01-05", nil, 200, &placement)
	require.Len(t, placement.Placed, 1)
	assert.Equal(t, "2026-01-05", placement.Placed[0].Proposed.Date.String())
	seen := map[string]any{"token": placement.Token}
	c.fails("POST", site+"/placement", seen, 409) // not what is proposed from now on
	seen["from"] = "2026-01-05"
	c.call("POST", site+"/placement", seen, 204, nil)
	c.call("GET", c.path(p, ""), nil, 200, &p)
	assert.Equal(t, "published", p.Status)
	assert.Equal(t, "2026-01-05", p.When.Date.String())
	c.call("GET", p.Address, nil, 200, nil)
	c.fails("GET", site+"/placement?from=soon", nil, 422)
	c.fails("GET", site+"/placement?from=1950-01-01", nil, 422)
}

// An opening by clocks far ahead comes out on an earlier date of the site, and its row
// there shows it.
func TestTheTapeShowsOpeningsByClocksElsewhere(t *testing.T) {
	c := signedIn(t)
	var r rhythms.Rhythm
	c.call("GET", site+"/rhythm", nil, 200, &r)
	text := fmt.Sprintf(`{"name":"R","gap":30,"seed":5,"version":%d,"openings":[
		{"key":"a","kind":"time","weekdays":["monday"],"from":"08:00","zone":"Pacific/Kiritimati"}]}`, r.Version)
	c.call("PUT", site+"/rhythm", text, 200, nil)
	days := c.almanac("?from=2026-11-29&days=1").Days // Sunday in Halifax, Monday there
	require.Len(t, days[0].Free, 1)
	assert.Equal(t, 14*60, days[0].Free[0].Minute)
	assert.Equal(t, []rhythms.Stretch{{Opening: "a", From: 14 * 60, To: 14*60 + 1}}, days[0].Openings)
}
