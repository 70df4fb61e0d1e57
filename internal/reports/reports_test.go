package reports_test

import (
	"math/rand/v2"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/results"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/reports"
	"dapper.example/internal/store"
)

// What is added up by the database, and kept added up, is what the outings and their clicks add up to one by one.
func TestSumsAreThoseOfTheRawRows(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	ctx := t.Context()
	chance := rand.New(rand.NewPCG(1, 1))
	channels := make([]int64, 2)
	for i := range channels {
		var err error
		channels[i], err = w.InsertChannel(ctx, store.Channel{SiteID: w.Site.ID, Kind: channel.Lantern, Name: []string{"Lantern", "Second"}[i], Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
		require.NoError(t, err)
	}
	posts := w.Drafts(t, 4)
	zone := w.Site.Zone()
	today := zone.DateOf(pgtest.Noon)
	var all []store.Outing
	for range 400 {
		o := store.Outing{SiteID: w.Site.ID, Channel: channels[chance.IntN(2)], At: pgtest.Noon.Add(-time.Duration(chance.IntN(80*24*60)) * time.Minute), Wording: 1 + chance.IntN(3), Text: "x",
			Clicks: chance.IntN(9), Origin: store.ByHand}
		if i := chance.IntN(5); i < 4 {
			o.Post = store.ID(posts[i].ID)
		}
		require.NoError(t, w.InsertSentOuting(ctx, o))
		all = append(all, o)
	}
	asked := reports.Asked{By: store.ResultsByPost, From: today.Add(-29), Until: today, Channel: channels[0], Zone: zone, Most: 100}
	r, err := reports.Read(ctx, w.Queries, w.Site, asked)
	require.NoError(t, err)

	var total, before results.Tally
	byPost, week, days := make(map[int64]results.Tally), results.Week{}, make(map[civil.Date]reports.Day)
	for _, o := range all {
		if o.Channel != channels[0] {
			continue
		}
		date, clock := zone.Local(o.At)
		one := results.Of(o.Clicks)
		switch {
		case !date.Before(asked.From):
			total = total.Plus(one)
			if o.Post != 0 {
				byPost[int64(o.Post)] = byPost[int64(o.Post)].Plus(one)
			}
			at := &week[(int(date.Weekday())+6)%7][clock/60]
			*at = at.Plus(one)
			d := days[date]
			days[date] = reports.Day{Date: date, Outings: d.Outings + 1, Clicks: d.Clicks + o.Clicks}
		case !date.Before(asked.From.Add(-30)):
			before = before.Plus(one)
		}
	}
	assert.Equal(t, total, r.Total.Tally)
	assert.Equal(t, before, r.Before.Tally)
	require.Len(t, r.Rows, len(byPost))
	for _, row := range r.Rows {
		assert.Equal(t, byPost[row.ID], row.Now.Tally, row.Name)
	}
	require.Len(t, r.Days, 30)
	for _, d := range r.Days {
		want := days[d.Date]
		want.Date = d.Date
		assert.Equal(t, want, d)
	}
	for d := range 7 {
		for h := range 24 {
			assert.EqualValues(t, week[d][h].Outings, r.Hours[d][h].Outings, "day %d, %d:00", d, h)
		}
	}
	require.NotEmpty(t, r.Wear)
	assert.Equal(t, 4, r.Wear[0].Wear[0].Outings, "four posts had a second outing on that channel")

	// By whatever they are added up, rows of a period make the same whole.
	for _, by := range []store.ResultsBy{store.ResultsByChannel, store.ResultsByOrigin} {
		asked.By = by
		again, err := reports.Read(ctx, w.Queries, w.Site, asked)
		require.NoError(t, err)
		require.Len(t, again.Rows, 1, by)
		assert.Equal(t, total, again.Rows[0].Now.Tally, by)
		assert.Equal(t, before, again.Rows[0].Before.Tally, by)
	}
	lisbon, err := civil.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	asked.Zone = lisbon
	there, err := reports.Read(ctx, w.Queries, w.Site, asked)
	require.NoError(t, err)
	var shown results.Week
	for _, o := range all {
		if o.Channel == channels[0] && !zone.DateOf(o.At).Before(asked.From) {
			date, clock := lisbon.Local(o.At)
			at := &shown[(int(date.Weekday())+6)%7][clock/60]
			*at = at.Plus(results.Of(o.Clicks))
		}
	}
	for d := range 7 {
		for h := range 24 {
			assert.EqualValues(t, shown[d][h].Outings, there.Hours[d][h].Outings, "day %d, %d:00 in Lisbon", d, h)
		}
	}
	assert.Equal(t, r.Days, there.Days, "days are those of the site")
}

// Clicks are kept by day, and added up by channel, whatever happens to their outings.
func TestClicksByDayAreKept(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	ctx := t.Context()
	id, err := w.InsertChannel(ctx, store.Channel{SiteID: w.Site.ID, Kind: channel.Lantern, Name: "Lantern", Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(t, err)
	post := w.Draft(t, "Shared")
	for i := range 3 {
		require.NoError(t, w.InsertSentOuting(ctx, store.Outing{SiteID: w.Site.ID, Channel: id, Post: store.ID(post.ID), At: pgtest.Noon.Add(-time.Duration(i) * 24 * time.Hour),
			Text: "x", Clicks: i, Origin: store.ByHand}))
	}
	sent, err := w.OutingsBetween(ctx, w.Site.ID, pgtest.Noon.AddDate(0, 0, -9), pgtest.Noon.AddDate(0, 0, 1))
	require.NoError(t, err)
	require.Len(t, sent, 3)
	today := w.Site.Zone().DateOf(pgtest.Noon)
	link := store.ShortLink{SiteID: w.Site.ID, Post: store.ID(post.ID), Outing: &sent[0].ID}
	for range 5 {
		require.NoError(t, w.CountClick(ctx, link, today.String()))
	}
	clicks := func() map[civil.Date]int {
		days, err := w.ClicksByDay(ctx, w.Site.ID, today.Add(-9), today, 0)
		require.NoError(t, err)
		return days
	}
	assert.Equal(t, map[civil.Date]int{today: 5, today.Add(-1): 1, today.Add(-2): 2}, clicks())
	again, err := w.Outing(ctx, sent[0].ID)
	require.NoError(t, err)
	assert.Equal(t, 2+5, again.Clicks, "it was the one of two days ago")
	_, err = w.DB().ExecContext(ctx, `delete from outings where id = $1`, sent[0].ID)
	require.NoError(t, err)
	assert.Equal(t, map[civil.Date]int{today.Add(-1): 1}, clicks())
	_, err = w.DB().ExecContext(ctx, `delete from channels where id = $1`, id)
	require.NoError(t, err)
	assert.Empty(t, clicks())
}

func TestAMonth(t *testing.T) {
	from, until, err := reports.Month("2028-02")
	require.NoError(t, err)
	assert.Equal(t, "2028-02-01", from.String())
	assert.Equal(t, "2028-02-29", until.String())
	for _, text := range []string{"", "2028", "2028-13", "2028-2", "soon", "2028-02-01", "0001-01", "9999-12"} {
		_, _, err := reports.Month(text)
		assert.ErrorContains(t, err, "There is no month", text)
	}
}

func TestWeekdaysInWords(t *testing.T) {
	for want, on := range map[string][7]bool{
		"every day":                    {true, true, true, true, true, true, true},
		"Monday to Friday":             {true, true, true, true, true, false, false},
		"Saturday and Sunday":          {5: true, 6: true},
		"Monday, Wednesday and Sunday": {0: true, 2: true, 6: true},
		"Thursday":                     {3: true},
	} {
		assert.Equal(t, want, reports.Weekdays(on))
	}
}
