package api_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/results"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

const resultsPath = site + "/results"

// The sums are those of the outings, one by one.
func TestResultsAreTheSumsOfOutings(t *testing.T) {
	c := signedIn(t)
	lantern := c.lantern()
	posts := c.outs(3)
	ctx, w := t.Context(), c.world
	type said struct {
		post    int
		days    int // ago
		wording int
		clicks  int
	}
	rule := c.make(sharing(lantern))
	all := []said{{0, 1, 1, 9}, {0, 8, 2, 4}, {1, 2, 1, 7}, {1, 100, 1, 3}, {0, 95, 2, 12}, {1, 3, 2, 0}}
	for _, s := range all {
		require.NoError(t, w.InsertSentOuting(ctx, store.Outing{SiteID: w.Site.ID, Rule: &rule.ID, Channel: lantern, Post: store.ID(posts[s.post].ID),
			At: pgtest.Noon.Add(-time.Duration(s.days) * 24 * time.Hour), Wording: s.wording, Text: "x", Clicks: s.clicks}))
	}
	var r results.Results
	c.call("GET", resultsPath+"?by=post&days=90", nil, 200, &r)
	assert.Equal(t, 4, r.Total.Outings)
	assert.Equal(t, 20, r.Total.Clicks)
	assert.Equal(t, []int{2, 15}, []int{r.Before.Outings, r.Before.Clicks})
	require.Len(t, r.Rows, 2)
	assert.Equal(t, posts[0].ID, r.Rows[0].ID)
	assert.Equal(t, []int{2, 13, 1, 12}, []int{r.Rows[0].Now.Outings, r.Rows[0].Now.Clicks, r.Rows[0].Before.Outings, r.Rows[0].Before.Clicks})
	assert.True(t, r.Rows[0].Now.Low < r.Rows[0].Now.Rate && r.Rows[0].Now.Rate < r.Rows[0].Now.High)
	require.Len(t, r.Hours, 7)
	outings := 0
	for _, day := range r.Hours {
		require.Len(t, day, 24)
		for _, h := range day {
			outings += h.Outings
		}
	}
	assert.Equal(t, 4, outings)
	assert.Equal(t, 2, r.Hours[0][12].Outings+r.Hours[0][11].Outings, "two were on Mondays at noon")
	assert.Equal(t, 1, r.Nevers)
	require.Len(t, r.Wear, 1)
	assert.Equal(t, 2, r.Wear[0].Wear[0].Nth, "against the first of all time")

	for by, rows := range map[string]int{"channel": 1, "rule": 1, "tour": 0, "wording": 2, "origin": 1} {
		c.call("GET", resultsPath+"?by="+by+"&days=90", nil, 200, &r)
		assert.Len(t, r.Rows, rows, by)
		assert.Equal(t, 20, r.Total.Clicks, "the total does not depend on how it is added up")
		if by == "wording" {
			assert.Contains(t, r.Sentence, "Of “Around again”, with 4 outings: Wording 1 brings about")
			assert.Contains(t, r.Sentence, "not enough to tell yet")
		}
	}
	c.call("GET", resultsPath+"?channelId=999", nil, 200, &r)
	assert.Zero(t, r.Total.Outings)
	c.call("GET", resultsPath+"?zone=Nowhere/Land", nil, 422, nil)
	c.call("GET", resultsPath+"?by=luck", nil, 422, nil)
	c.call("GET", resultsPath+"?days=0", nil, 422, nil)
}
