package api_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"dapper.example/internal/api"
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

	for by, rows := range map[string]int{"channel": 1, "rule": 1, "tour": 0, "wording": 2, "origin": 1, "line": 0} {
		c.call("GET", resultsPath+"?by="+by+"&days=90", nil, 200, &r)
		assert.Len(t, r.Rows, rows, by)
		assert.Equal(t, 20, r.Total.Clicks, "the total does not depend on how it is added up")
		if by == "wording" {
			assert.Contains(t, r.Sentence, "Of “Around again”, with 4 outings: Wording 1 brings about")
			assert.Contains(t, r.Sentence, "not enough to tell yet")
		}
	}
	c.call("GET", resultsPath+"?by=post&month=2026-11", nil, 200, &r)
	assert.Equal(t, []string{"2026-11-01", "2026-11-30"}, []string{r.From.String(), r.Until.String()})
	assert.Len(t, r.Days, 30)
	assert.Equal(t, 20, r.Total.Clicks)
	assert.Contains(t, c.fails("GET", resultsPath+"?month=November", nil, 422).Errors[0].Message, "Write it as 2026-11")

	for _, month := range []string{"0001-01", "0000-01", "9999-12", "99999-12"} {
		assert.Contains(t, c.fails("GET", resultsPath+"?month="+month, nil, 422).Errors[0].Location, "month")
	}

	answer, written := c.table("/tables/results?by=post&days=90")
	text := string(written)
	assert.Equal(t, "text/csv; charset=utf-8", answer.Get("Content-Type"))
	assert.Contains(t, text, "Post,Wording,Outings,Clicks,Clicks an outing,From,To,Outings before,Clicks before,Said of it\r\n")
	assert.Contains(t, text, posts[0].Title+",,2,13,")
	answer, written = c.table("/tables/results?by=wording&format=xlsx")
	text = string(written)
	assert.Contains(t, answer.Get("Content-Disposition"), ".xlsx")
	book, err := excelize.OpenReader(strings.NewReader(text))
	require.NoError(t, err)
	assert.Equal(t, []string{"What brought what", "Hours", "Days", "Sharing again", "Never shared"}, book.GetSheetList())
	hours, err := book.GetRows("Hours")
	require.NoError(t, err)
	assert.Len(t, hours, 1+7*24)

	c.call("GET", resultsPath+"?channelId=999", nil, 200, &r)
	assert.Zero(t, r.Total.Outings)
	c.call("GET", resultsPath+"?zone=Nowhere/Land", nil, 422, nil)
	c.call("GET", resultsPath+"?by=luck", nil, 422, nil)
	c.call("GET", resultsPath+"?days=0", nil, 422, nil)
}

// Who wishes for it is told of a month once it has ended: on the first of the next, or in the first mail after that.
func TestTheMonthlyReport(t *testing.T) {
	c := signedIn(t)
	lantern, posts, w := c.lantern(), c.outs(2), c.world
	for i, clicks := range []int{5, 9, 40} {
		require.NoError(t, w.InsertSentOuting(t.Context(), store.Outing{SiteID: w.Site.ID, Channel: lantern, Post: store.ID(posts[0].ID),
			At: time.Date(2026, 10, 5+i, 15, 0, 0, 0, time.UTC), Text: "x", Clicks: clicks, Origin: store.ByHand}))
	}
	body := map[string]any{"every": "month", "weekday": 1, "at": "07:30", "zone": "Europe/Lisbon", "parts": []string{"results"}}
	var mail api.DigestMail
	c.call("POST", site+"/digest/preview", body, 200, &mail)
	assert.Contains(t, mail.Text, "What sharing brought\n--------------------\n- October 2026: 3 messages brought 54 clicks, 18.0 each\n")
	assert.Contains(t, mail.Text, "/dome/results?month=2026-10")
	assert.Contains(t, mail.Text, "“"+posts[0].Title+"”: 54 clicks from 3 messages")
	assert.Contains(t, mail.Text, "1 post never shared")
	assert.Contains(t, mail.Text, "You get this mail every month")
	body["every"] = "day"
	c.call("POST", site+"/digest/preview", body, 200, &mail)
	assert.Empty(t, mail.Text, "no month ended in the last day")
	body["every"] = "month"
	var d api.Digest
	c.call("PUT", site+"/digest", body, 200, &d)
	require.NotNil(t, d.NextAt)
	assert.Equal(t, time.Date(2026, 12, 1, 7, 30, 0, 0, time.UTC), d.NextAt.UTC())
}
