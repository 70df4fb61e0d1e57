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

// tours begins tours, and returns them.
func (c *client) tours(body map[string]any) (all []tours.Tour) {
	c.t.Helper()
	var begun tours.ToursBegun
	c.call("POST", toursPath, body, 201, &begun)
	for _, id := range begun.IDs {
		var one tours.Tour
		c.call("GET", fmt.Sprintf("%s/%d", toursPath, id), nil, 200, &one)
		all = append(all, one)
	}
	return all
}

func TestATourOverHTTP(t *testing.T) {
	c := signedIn(t)
	lantern := c.lantern()
	post := c.out3("Mirrors", "A mirror that looks dirty by torchlight is usually clean enough for another year.",
		"We wash ours every second spring, in forty litres of cold water.").ID
	one := c.tours(map[string]any{"postIds": []int64{post}})[0]
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

	like := c.tours(map[string]any{"postIds": []int64{post}, "like": one.ID})[0]
	assert.Equal(t, 3, like.Settings.Shape.Stops)
	var all []tours.TourSummary
	c.call("GET", toursPath, nil, 200, &all)
	assert.Len(t, all, 2)
	c.call("DELETE", fmt.Sprintf("%s?version=%d", path, one.Version), nil, 204, nil)
}

// Several tours begin at once and are launched at once; a template begins more of them. What is wrong with what is asked for is said at its field.
func TestSeveralToursOverHTTP(t *testing.T) {
	c := signedIn(t)
	c.lantern()
	posts := c.outs(3)
	ids := []int64{posts[0].ID, posts[1].ID}
	two := c.tours(map[string]any{"postIds": ids})
	require.Len(t, two, 2)
	s := two[0].Settings
	assert.Empty(t, s.Lines, "there is no text to take lines from")
	var seen []map[string]any
	for _, one := range two {
		s = one.Settings
		s.Lines, s.Mentions, s.Shape.Zone = []string{"A line of my own."}, []string{"@ines"}, "Europe/Lisbon"
		c.call("PUT", fmt.Sprintf("%s/%d", toursPath, one.ID), map[string]any{"version": one.Version, "settings": s}, 200, &one)
		assert.Equal(t, "Europe/Lisbon", one.Settings.Shape.Zone)
		assert.Contains(t, one.Series[0].Messages[0].Text, "A line of my own.")
		assert.Contains(t, one.Series[0].Messages[0].Text, " @ines")
		seen = append(seen, map[string]any{"id": one.ID, "version": one.Version})
	}
	s.Shape.Zone = "Nowhere/Land"
	assert.Contains(t, c.fails("POST", fmt.Sprintf("%s/%d/preview", toursPath, two[0].ID), map[string]any{"version": 1, "settings": s}, 422).Errors[0].Location, "shape.zone")
	var launched tours.ToursLaunched
	c.call("POST", toursPath+"/launch", map[string]any{"tours": seen}, 200, &launched)
	assert.Equal(t, 26, launched.Messages)
	c.call("POST", toursPath+"/launch", map[string]any{"tours": seen}, 409, nil)

	const templates = site + "/tour-templates"
	var kept []tours.TourTemplate
	c.call("POST", templates, map[string]any{"name": "Evenings in Lisbon", "tour": two[0].ID}, 200, &kept)
	require.Len(t, kept, 1)
	like := c.tours(map[string]any{"postIds": []int64{posts[2].ID}, "template": kept[0].ID})[0]
	assert.Equal(t, "Europe/Lisbon", like.Settings.Shape.Zone)
	c.call("DELETE", fmt.Sprintf("%s/%d", templates, kept[0].ID), nil, 204, nil)
	c.call("DELETE", fmt.Sprintf("%s/%d", templates, kept[0].ID), nil, 404, nil)

	for field, body := range map[string]map[string]any{
		"postIds":    {},
		"address":    {"address": "https://127.0.0.1/inside"},
		"postIds[1]": {"postIds": []int64{ids[0], ids[0]}},
		"template":   {"postIds": ids, "template": 99999},
	} {
		assert.Contains(t, c.fails("POST", toursPath, body, 422).Errors[0].Location, field)
	}
	assert.Contains(t, c.fails("POST", toursPath, map[string]any{"postIds": ids, "address": "https://x.example"}, 422).Errors[0].Message, "not both")
}
