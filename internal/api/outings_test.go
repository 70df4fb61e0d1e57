package api_test

import (
	"fmt"
	"maps"
	"net/http"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/forecasts"
	"dapper.example/internal/api/logbook"
	"dapper.example/internal/api/plan"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/formats"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// An outing can go out now, or several times over some days.
func TestOutingsNowAndOverSeveralDays(t *testing.T) {
	c := newClient(t)
	c.signIn()
	lantern, post := c.lantern(), c.out("Cables", 20)
	const path = "/api/v1/sites/dome/outings"
	body := map[string]any{"postId": post.ID, "channelId": lantern, "at": pgtest.Noon.Add(3 * time.Hour), "text": "{title} {link}"}
	with := func(more map[string]any) map[string]any {
		asked := maps.Clone(body)
		maps.Copy(asked, more)
		return asked
	}
	var status plan.Status
	c.call(http.MethodGet, site+"/status", nil, http.StatusOK, &status)
	assert.Nil(t, status.Outing)
	c.call(http.MethodPost, path, with(map[string]any{"times": 4, "days": 10}), http.StatusCreated, nil)
	var all rules.PlannedOutings
	c.call(http.MethodGet, path, nil, http.StatusOK, &all)
	require.Len(t, all.Outings, 4)
	for i, o := range all.Outings {
		assert.False(t, o.At.After(pgtest.Noon.AddDate(0, 0, 10).Add(3*time.Hour)))
		if i > 0 {
			assert.Greater(t, o.At.Sub(all.Outings[i-1].At), 10*time.Hour)
		}
	}
	assert.True(t, all.Outings[0].At.Equal(pgtest.Noon.Add(3*time.Hour)))
	c.call(http.MethodGet, site+"/status", nil, http.StatusOK, &status)
	require.NotNil(t, status.Outing)
	assert.Equal(t, plan.NextMessage{Name: "Cables", At: pgtest.Noon.Add(3 * time.Hour)}, *status.Outing)
	ruled := sharing(lantern)
	ruled.Cadence = formats.Cadence{By: "every", N: 1, Unit: "hours"}
	c.arm(c.make(ruled), 0)
	c.call(http.MethodGet, site+"/status", nil, http.StatusOK, &status)
	assert.Equal(t, plan.NextMessage{Name: "Around again", At: pgtest.Noon.Add(time.Hour)}, *status.Outing, "a rule's turn comes before it")
	c.call(http.MethodPost, path, with(map[string]any{"times": 51, "days": 10}), http.StatusUnprocessableEntity, nil)
	c.call(http.MethodPost, path, with(map[string]any{"times": 50, "also": slices.Repeat([]int64{lantern}, 4)}), http.StatusUnprocessableEntity, nil)
	c.call(http.MethodPost, path, with(map[string]any{"at": pgtest.Noon.Add(-time.Hour)}), http.StatusUnprocessableEntity, nil)

	var made rules.PlannedOuting
	c.call(http.MethodPost, path, with(map[string]any{"now": true, "at": pgtest.Noon.Add(-time.Hour)}), http.StatusCreated, &made)
	assert.True(t, made.At.Equal(pgtest.Noon.Add(time.Minute)))
	c.live(pgtest.Noon.Add(time.Minute))
	o, err := c.world.Outing(t.Context(), made.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Waiting, o.State)
}

// A planned outing is foretold, and goes out when it was foretold to.
func TestAPlannedOutingIsForetoldAndGoesOut(t *testing.T) {
	c := newClient(t)
	c.signIn()
	lantern, post := c.lantern(), c.out("Cables", 20)
	body := rules.OutingBody{PostID: post.ID, ChannelID: lantern, At: pgtest.Noon.Add(26*time.Hour + 30*time.Second),
		Text: "Look: {title} {link}"}
	var shown rules.OutingMessage
	c.call(http.MethodPost, "/api/v1/sites/dome/outings/preview", body, http.StatusOK, &shown)
	assert.Equal(t, "Look: Cables https://dome.example/blog/dome/cables", shown.Text)
	var made rules.PlannedOuting
	c.call(http.MethodPost, "/api/v1/sites/dome/outings", body, http.StatusCreated, &made)
	assert.Equal(t, "Cables", made.PostTitle)
	assert.Equal(t, "Lantern", made.Channel)
	assert.Equal(t, "hand", made.Origin)

	var told forecasts.Forecast
	c.call(http.MethodGet, "/api/v1/sites/dome/forecast?days=5", nil, http.StatusOK, &told)
	require.Len(t, told.Events, 1)
	assert.Equal(t, "share", told.Events[0].Kind)
	assert.Equal(t, shown.Text, told.Events[0].Text)
	assert.True(t, told.Events[0].At.Equal(pgtest.Noon.Add(26*time.Hour)))
	var marks forecasts.Marks
	c.call(http.MethodGet, "/api/v1/sites/dome/marks", nil, http.StatusOK, &marks)
	require.Len(t, marks.Marks, 1)
	assert.Equal(t, "coming", marks.Marks[0].State)

	path := fmt.Sprintf("/api/v1/sites/dome/outings/%d", made.ID)
	change := map[string]any{"postId": post.ID, "channelId": lantern, "at": body.At, "text": "Again: {title}",
		"version": made.Version + 1}
	c.call(http.MethodPut, path, change, http.StatusConflict, nil)
	change["version"] = made.Version
	c.call(http.MethodPut, path, change, http.StatusOK, &made)
	c.live(pgtest.Noon.AddDate(0, 0, 2))

	o, err := c.world.Outing(t.Context(), made.ID)
	require.NoError(t, err)
	assert.Equal(t, "Again: Cables", o.Text)
	assert.Equal(t, store.Waiting, o.State)
	assert.True(t, o.At.Equal(pgtest.Noon.Add(26*time.Hour)))
	c.call(http.MethodGet, "/api/v1/sites/dome/marks?from=2026-11-25", nil, http.StatusOK, &marks)
	require.Len(t, marks.Marks, 1)
	assert.Equal(t, "waiting", marks.Marks[0].State)
	assert.Equal(t, "Planned for this time on Lantern.", marks.Marks[0].Reason)
	c.call(http.MethodPut, path, change, http.StatusNotFound, nil)
	var left rules.PlannedOutings
	c.call(http.MethodGet, "/api/v1/sites/dome/outings", nil, http.StatusOK, &left)
	assert.Empty(t, left.Outings)
}

// One whose post is not out by then is left out, and says why.
func TestAPlannedOutingOfWhatIsGoneIsSkipped(t *testing.T) {
	c := newClient(t)
	c.signIn()
	lantern, post := c.lantern(), c.out("Cables", 20)
	var made rules.PlannedOuting
	c.call(http.MethodPost, "/api/v1/sites/dome/outings", rules.OutingBody{PostID: post.ID, ChannelID: lantern,
		At: pgtest.Noon.Add(time.Hour), Text: "{title}"}, http.StatusCreated, &made)
	c.call(http.MethodPost, fmt.Sprintf("/api/v1/sites/dome/posts/%d/bin", post.ID),
		map[string]any{"version": post.Version}, http.StatusOK, nil)
	c.live(pgtest.Noon.Add(2 * time.Hour))
	o, err := c.world.Outing(t.Context(), made.ID)
	require.NoError(t, err)
	assert.Equal(t, store.Skipped, o.State)
	lines, err := c.world.LogOf(t.Context(), c.world.Site.ID, post.ID)
	require.NoError(t, err)
	i := slices.IndexFunc(lines, func(l store.LogEntry) bool { return l.Deed == "skip" })
	require.GreaterOrEqual(t, i, 0)
	assert.Equal(t, "Not sent: the post was not out at that time.", lines[i].Reason)
	assert.Nil(t, lines[i].Actor)
}

func TestDroppingAnOutingNamesItsLine(t *testing.T) {
	c := newClient(t)
	c.signIn()
	var made rules.PlannedOuting
	c.call(http.MethodPost, "/api/v1/sites/dome/outings", rules.OutingBody{PostID: c.out("Cables", 20).ID,
		ChannelID: c.lantern(), At: pgtest.Noon.Add(time.Hour), Text: "{title}"}, http.StatusCreated, &made)
	var bad refusal
	c.call(http.MethodPost, "/api/v1/sites/dome/outings", rules.OutingBody{PostID: made.PostID,
		ChannelID: made.ChannelID, At: pgtest.Noon, Text: "{title}"}, http.StatusUnprocessableEntity, &bad)
	assert.Equal(t, "body.at", bad.Errors[0].Location)
	c.call(http.MethodDelete, fmt.Sprintf("/api/v1/sites/dome/outings/%d?version=%d", made.ID, made.Version), nil,
		http.StatusNoContent, nil)
}

// A selection of posts is shared in one go: in turn over some days, or as close together as the channel allows.
func TestASelectionIsShared(t *testing.T) {
	c := newClient(t)
	c.signIn()
	lantern := c.lantern()
	ids := []int64{c.out("One", 20).ID, c.out("Two", 21).ID, c.out("Three", 22).ID}
	const path = "/api/v1/sites/dome/outings"
	share := func(more map[string]any, want int) []rules.PlannedOuting {
		body := map[string]any{"posts": ids, "channelId": lantern, "at": pgtest.Noon.Add(3 * time.Hour), "text": "{title} {link}"}
		maps.Copy(body, more)
		c.call(http.MethodPost, path, body, want, nil)
		var all rules.PlannedOutings
		c.call(http.MethodGet, path, nil, http.StatusOK, &all)
		return all.Outings
	}
	all := share(map[string]any{"times": 2, "days": 12}, http.StatusCreated)
	var titles []string
	for i, o := range all {
		titles = append(titles, o.PostTitle)
		if i > 0 {
			assert.Greater(t, o.At.Sub(all[i-1].At), 8*time.Hour)
		}
	}
	assert.Equal(t, []string{"One", "Two", "Three", "One", "Two", "Three"}, titles, "they take turns")
	assert.Len(t, share(nil, http.StatusCreated), 9, "all at one time: the channel spaces them")
	assert.Len(t, share(map[string]any{"posts": []int64{ids[0], 1 << 40}}, http.StatusUnprocessableEntity), 9, "all, or none")
}

// A coming turn of a rule is moved as one, by what its marks say; the rule goes on around it.
func TestAComingTurnIsMoved(t *testing.T) {
	c := newClient(t)
	c.signIn()
	lantern := c.lantern()
	for i := range 3 {
		c.out(fmt.Sprint("Post ", i), 20+i)
	}
	ruled := sharing(lantern)
	ruled.Cadence = formats.Cadence{By: "every", N: 6, Unit: "hours"}
	made := c.make(ruled)
	c.arm(made, 0)
	coming := func() (all []forecasts.Mark) {
		var marks forecasts.Marks
		c.call(http.MethodGet, site+"/marks?days=2", nil, http.StatusOK, &marks)
		for _, m := range marks.Marks {
			if m.State == "coming" {
				all = append(all, m)
			}
		}
		return all
	}
	before := coming()
	require.Greater(t, len(before), 2)
	require.Len(t, before[0].Messages, 1)
	require.NotNil(t, before[0].Messages[0].Turn)
	move := func(by int, want int) {
		c.call(http.MethodPost, site+fmt.Sprintf("/rules/%d/turns/move", before[0].RuleID), map[string]any{"turn": before[0].Messages[0].Turn, "by": by}, want, nil)
	}
	move(-100000, http.StatusUnprocessableEntity)
	move(45, http.StatusNoContent)
	after := coming()
	assert.Equal(t, before[0].At.Add(45*time.Minute), after[0].At)
	assert.Equal(t, before[0].PostID, after[0].PostID)
	assert.Equal(t, before[1].At, after[1].At, "the rule goes on around it")
	move(45, http.StatusUnprocessableEntity) // it is in hand: no turn of the rule's any more
	planned := after[0].Messages[0]
	require.NotZero(t, planned.OutingID)
	to := after[0].At.Add(30 * time.Minute)
	path := site + fmt.Sprintf("/outings/%d/time", planned.OutingID)
	c.call(http.MethodPut, path, map[string]any{"at": to, "version": planned.Version + 7}, http.StatusConflict, nil)
	c.call(http.MethodPut, path, map[string]any{"at": to, "version": planned.Version}, http.StatusNoContent, nil)
	assert.Equal(t, to, coming()[0].At)

	// What is in hand and the turn after it change places, and again.
	swap := func(one, with forecasts.Mark, want int) {
		place := func(m forecasts.Mark) map[string]any {
			if m.Messages[0].OutingID == 0 {
				return map[string]any{"turn": m.Messages[0].Turn}
			}
			return map[string]any{"outingId": m.Messages[0].OutingID, "version": m.Messages[0].Version}
		}
		c.call(http.MethodPost, site+fmt.Sprintf("/rules/%d/turns/swap", before[0].RuleID), map[string]any{"one": place(one), "with": place(with)}, want, nil)
	}
	now := coming()
	swap(now[0], now[0], http.StatusUnprocessableEntity)
	older := now[0]
	older.Messages = slices.Clone(older.Messages)
	older.Messages[0].Version--
	swap(older, now[1], http.StatusConflict)
	swap(now[0], now[1], http.StatusNoContent)
	swapped := coming()
	assert.Equal(t, []any{now[0].At, now[1].PostID, now[1].At, now[0].PostID}, []any{swapped[0].At, swapped[0].PostID, swapped[1].At, swapped[1].PostID})
	assert.NotZero(t, swapped[1].Messages[0].OutingID)
	swap(swapped[0], swapped[1], http.StatusNoContent)
	assert.Equal(t, now[0].PostID, coming()[0].PostID)

	// Both go back together.
	var log logbook.LogbookPage
	c.call(http.MethodGet, site+"/logbook", nil, http.StatusOK, &log)
	require.Equal(t, 2, log.Lines[0].Together)
	c.call(http.MethodPost, site+fmt.Sprintf("/logbook/%d/undo", log.Lines[0].ID), nil, http.StatusOK, nil)
	assert.Equal(t, swapped[0].PostID, coming()[0].PostID)
}
