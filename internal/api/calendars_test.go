package api_test

import (
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	ics "github.com/arran4/golang-ical"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/pgtest"
)

// reads asks for a calendar as a program would, without a session.
func (c *client) reads(address, etag string) (*http.Response, *ics.Calendar) {
	c.t.Helper()
	request, err := http.NewRequestWithContext(c.t.Context(), "GET",
		c.url+strings.TrimPrefix(address, "https://dome.example"), nil)
	require.NoError(c.t, err)
	if etag != "" {
		request.Header.Set("If-None-Match", etag)
	}
	answer, err := new(http.Client).Do(request)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	body, err := io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	if answer.StatusCode != http.StatusOK {
		return answer, nil
	}
	parsed, err := ics.ParseCalendar(strings.NewReader(string(body)))
	require.NoError(c.t, err)
	return answer, parsed
}

func stateOf(e *ics.VEvent) (start, status, sequence string) {
	return e.GetProperty(ics.ComponentPropertyDtStart).Value, e.GetProperty(ics.ComponentPropertyStatus).Value,
		e.GetProperty(ics.ComponentPropertySequence).Value
}

func TestACalendarFollowsThePlan(t *testing.T) {
	c := signedIn(t)
	p := c.world.Scheduled(t, "A comet", pgtest.Noon.Add(24*time.Hour))
	c.fails("POST", site+"/calendars", map[string]any{"name": " "}, 422)
	c.fails("POST", site+"/calendars", map[string]any{"name": "x",
		"categories": []int64{c.world.Category, c.world.Category + 99}}, 404)
	var feed, other api.CalendarFeed
	c.call("POST", site+"/calendars", map[string]any{"name": "Notes"}, 201, &feed)
	c.call("POST", site+"/calendars", map[string]any{"name": "Nobody's", "authors": []int64{c.world.Editor.ID},
		"categories": []int64{c.world.Category}}, 201, &other)
	require.NotEmpty(t, feed.Address)

	answer, calendar := c.reads(feed.Address, "")
	require.Equal(t, http.StatusOK, answer.StatusCode)
	assert.Equal(t, "text/calendar; charset=utf-8", answer.Header.Get("Content-Type"))
	events := calendar.Events()
	require.Len(t, events, 1)
	start, status, sequence := stateOf(events[0])
	assert.Equal(t, "20261125T160000Z", start)
	assert.Equal(t, "CONFIRMED", status)
	_, filtered := c.reads(other.Address, "")
	assert.Len(t, filtered.Events(), 1)
	reads := func(filter map[string]any) int {
		filter["name"] = "Filtered"
		var made api.CalendarFeed
		c.call("POST", site+"/calendars", filter, 201, &made)
		_, shown := c.reads(made.Address, "")
		c.call("DELETE", site+"/calendars/"+itoa(made.ID), nil, 204, nil)
		return len(shown.Events())
	}
	assert.Equal(t, 1, reads(map[string]any{"status": "pinned", "kind": "post"}))
	for _, filter := range []map[string]any{{"status": "scheduled"}, {"status": "held"}, {"status": "published"},
		{"kind": "page"}} {
		assert.Zero(t, reads(filter), filter)
	}
	c.fails("POST", site+"/calendars", map[string]any{"name": "x", "status": "proposed"}, 422)
	same, _ := c.reads(feed.Address, answer.Header.Get("ETag"))
	assert.Equal(t, http.StatusNotModified, same.StatusCode)

	// It moves: the same entry, with a higher sequence.
	c.call("POST", site+"/posts/"+itoa(p.ID)+"/retime", map[string]any{"version": p.Version, "date": "2026-11-26",
		"time": "10:00"}, 200, nil)
	changed, calendar := c.reads(feed.Address, answer.Header.Get("ETag"))
	require.Equal(t, http.StatusOK, changed.StatusCode)
	moved := calendar.Events()[0]
	assert.Equal(t, events[0].Id(), moved.Id())
	start, _, later := stateOf(moved)
	assert.Equal(t, "20261126T140000Z", start)
	assert.Greater(t, later, sequence)

	// It loses its time: cancelled, at the time it had. It gets one again: confirmed.
	now := c.world.Reload(t, p.ID)
	c.call("POST", site+"/posts/"+itoa(p.ID)+"/shelve", map[string]any{"version": now.Version}, 200, nil)
	_, calendar = c.reads(feed.Address, "")
	start, status, _ = stateOf(calendar.Events()[0])
	assert.Equal(t, "20261126T140000Z", start)
	assert.Equal(t, "CANCELLED", status)
	now = c.world.Reload(t, p.ID)
	c.call("POST", site+"/posts/"+itoa(p.ID)+"/publish", map[string]any{"version": now.Version}, 200, nil)
	_, calendar = c.reads(feed.Address, "")
	require.Len(t, calendar.Events(), 1)
	_, status, _ = stateOf(calendar.Events()[0])
	assert.Equal(t, "CONFIRMED", status)

	var mine []api.CalendarFeed
	c.call("GET", site+"/calendars", nil, 200, &mine)
	require.Len(t, mine, 2)
	assert.Empty(t, mine[0].Address, "it is shown once")
	assert.NotNil(t, mine[1].Read)
	c.call("DELETE", site+"/calendars/"+itoa(feed.ID), nil, 204, nil)
	gone, _ := c.reads(feed.Address, "")
	assert.Equal(t, http.StatusNotFound, gone.StatusCode)
	gone, _ = c.reads("/calendar/made-up.ics", "")
	assert.Equal(t, http.StatusNotFound, gone.StatusCode)

	// Whoever is no longer of the site reads no more of it.
	_, err := c.world.DB().ExecContext(t.Context(), `delete from memberships`)
	require.NoError(t, err)
	gone, _ = c.reads(other.Address, "")
	assert.Equal(t, http.StatusNotFound, gone.StatusCode)
}
