package api_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/api/comments"
	"dapper.example/internal/api/logbook"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/status"
)

func TestTheDeskForComments(t *testing.T) {
	c := signedIn(t)
	post := c.world.Draft(t, "A post")
	require.NoError(t, status.PublishNow(t.Context(), act.Desk{Store: c.world.Store, Site: c.world.Site, Actor: c.world.Editor.ID}, post.ID, post.Version, pgtest.Noon))
	post = c.world.Reload(t, post.ID)
	var rules comments.Commenting
	c.call("GET", site+"/commenting", nil, 200, &rules)
	assert.Equal(t, comments.Commenting{Hold: "all", Links: 2, Version: rules.Version}, rules, "none are taken until somebody opens them")
	stale := rules.Version
	rules.Open = true
	c.call("PUT", site+"/commenting", rules, 200, &rules)
	assert.True(t, rules.Open)
	rules.Version = stale
	c.call("PUT", site+"/commenting", rules, 409, nil)
	c.call("GET", site+"/commenting", nil, 200, &rules)
	for field, bad := range map[string]comments.Commenting{
		"days": {Days: -1, Hold: "all", Version: rules.Version}, "links": {Links: 21, Hold: "all", Version: rules.Version},
	} {
		var refused struct{ Errors []struct{ Location string } }
		c.call("PUT", site+"/commenting", bad, 422, &refused)
		require.Len(t, refused.Errors, 1)
		assert.Contains(t, refused.Errors[0].Location, field)
	}

	answer, err := http.PostForm(c.url+"/blog/dome/"+post.Slug+"/comments", url.Values{"name": {"Tam"}, "text": {"Hello there."}})
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, "comment=held", answer.Request.URL.RawQuery)
	var page comments.Page
	c.call("GET", site+"/comments", nil, 200, &page)
	require.Len(t, page.Comments, 1)
	assert.Equal(t, map[string]int{"held": 1, "shown": 0, "binned": 0}, page.Counts)
	one := page.Comments[0]
	assert.Equal(t, "A post", one.Title)
	assert.Equal(t, "/blog/dome/"+post.Slug+"#comment-"+itoa(one.ID), one.Address)
	for query, n := range map[string]int{"find=THERE": 1, "find=tam": 1, "find=x": 0, "post=" + itoa(post.ID): 1, "post=999": 0, "status=shown": 0, "below=" + itoa(one.ID): 0} {
		c.call("GET", site+"/comments?"+query, nil, 200, &page)
		assert.Len(t, page.Comments, n, query)
	}

	var said comments.Comment
	c.call("POST", site+"/comments/"+itoa(one.ID)+"/answer", map[string]string{"text": "Thank you."}, 201, &said)
	assert.True(t, said.Team)
	assert.Equal(t, one.ID, said.Answers)
	c.call("POST", site+"/comments/"+itoa(one.ID)+"/answer", map[string]string{"text": strings.Repeat("x", 5001)}, 422, nil)
	var decided comments.Decided
	c.call("PUT", site+"/comments", map[string]any{"ids": []int64{one.ID, said.ID}, "to": "binned"}, 200, &decided)
	assert.Equal(t, 2, decided.Changed)
	c.call("GET", site+"/comments?status=binned", nil, 200, &page)
	assert.Equal(t, map[string]int{"held": 0, "shown": 0, "binned": 2}, page.Counts)

	// It is undone from the logbook, and done again.
	var log logbook.LogbookPage
	for _, want := range []int{2, 0, 2} {
		c.call("GET", site+"/logbook", nil, 200, &log)
		c.call("POST", site+"/logbook/"+itoa(log.Lines[0].ID)+"/undo", nil, 200, nil)
		c.call("GET", site+"/comments?status=shown", nil, 200, &page)
		assert.Equal(t, want, page.Counts["shown"])
	}
	c.call("PUT", site+"/comments", map[string]any{"ids": []int64{}, "to": "binned"}, 422, nil)
	c.call("PUT", site+"/comments", map[string]any{"ids": []int64{one.ID}, "to": "gone"}, 422, nil)
}
