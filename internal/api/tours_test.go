package api_test

import (
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/tours"
)

const toursPath = site + "/tours"

func TestATourOverHTTP(t *testing.T) {
	c := signedIn(t)
	lantern := c.lantern()
	post := c.out3("Mirrors", "A mirror that looks dirty by torchlight is usually clean enough for another year.",
		"We wash ours every second spring, in forty litres of cold water.").ID
	var one tours.Tour
	c.call("POST", toursPath, map[string]any{"postId": post}, 201, &one)
	assert.Equal(t, "draft", one.State)
	require.Len(t, one.Series, 13)
	assert.Len(t, one.Settings.Lines, 2)
	path := fmt.Sprintf("%s/%d", toursPath, one.ID)

	s := one.Settings
	s.Shape.Stops, s.Shape.Days = 3, 15
	s.Own = []tours.OwnMessage{{Stop: 2, ChannelID: lantern, Text: strings.Repeat("Too long. ", 60)}}
	var look tours.Tour
	c.call("POST", path+"/preview", map[string]any{"version": one.Version, "settings": s}, 200, &look)
	require.Len(t, look.Problems, 1)
	assert.Equal(t, 2, look.Problems[0].Stop)
	assert.Positive(t, look.Series[1].Messages[0].Over)
	c.call("GET", path, nil, 200, &look)
	assert.Len(t, look.Series, 13, "a preview saves nothing")

	c.call("PUT", path, map[string]any{"version": one.Version, "settings": s}, 200, &one)
	c.call("PUT", path, map[string]any{"version": one.Version - 1, "settings": s}, 409, nil)
	var refused struct{ Detail string }
	c.call("POST", path+"/launch", map[string]any{"version": one.Version}, 422, &refused)
	assert.Contains(t, refused.Detail, "Stop 2 on Lantern")
	s.Own = nil
	c.call("PUT", path, map[string]any{"version": one.Version, "settings": s}, 200, &one)
	c.call("POST", path+"/launch", map[string]any{"version": one.Version}, 200, &one)
	assert.Equal(t, "running", one.State)
	assert.Equal(t, 3, one.Waiting)
	assert.Equal(t, "planned", one.Series[0].Messages[0].State)
	c.call("DELETE", fmt.Sprintf("%s?version=%d", path, one.Version), nil, 422, nil)

	c.call("POST", path+"/pause", map[string]any{"version": one.Version}, 200, &one)
	assert.Equal(t, "paused", one.State)
	c.call("POST", path+"/resume/preview", map[string]any{"version": one.Version, "how": "skip"}, 200, &look)
	assert.Len(t, look.Series, 3)
	c.call("POST", path+"/resume", map[string]any{"version": one.Version, "how": "shift"}, 200, &one)
	assert.Equal(t, 3, one.Waiting)
	c.call("POST", path+"/end", map[string]any{"version": one.Version}, 200, &one)
	assert.Equal(t, "stopped", one.State)

	var like tours.Tour
	c.call("POST", toursPath, map[string]any{"postId": post, "like": one.ID}, 201, &like)
	assert.Equal(t, 3, like.Settings.Shape.Stops)
	var all []tours.TourSummary
	c.call("GET", toursPath, nil, 200, &all)
	assert.Len(t, all, 2)
	c.call("DELETE", fmt.Sprintf("%s?version=%d", path, one.Version), nil, 204, nil)
}
