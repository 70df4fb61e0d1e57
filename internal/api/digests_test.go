package api_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api"
	"dapper.example/internal/digests"
	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
)

// Nobody gets mails who has not asked; who has gets one at their hour, is told of what there is, and ends them by one click.
func TestMailsAboutABlog(t *testing.T) {
	c := signedIn(t)
	const path = site + "/digest"
	var d api.Digest
	c.call("GET", path, nil, 200, &d)
	assert.Equal(t, []any{"never", "America/Halifax", "dome@example.org"}, []any{d.Every, d.Zone, d.Mail})
	body := map[string]any{"every": "day", "weekday": 1, "at": "07:30", "zone": "Europe/Lisbon", "parts": []string{"coming", "went out", "held"}}
	for field, bad := range map[string]any{"zone": "Nowhere/Land", "at": "25:00", "parts": []string{}} {
		worse := map[string]any{"every": "day", "weekday": 1, "at": "07:30", "zone": "Europe/Lisbon", "parts": []string{"held"}}
		worse[field] = bad
		assert.Contains(t, c.fails("PUT", path, worse, 422).Errors[0].Location, field)
	}
	var mail api.DigestMail
	c.call("POST", path+"/preview", body, 200, &mail)
	assert.Empty(t, mail.Text, "there is nothing to tell")
	c.call("PUT", path, body, 200, &d)
	require.NotNil(t, d.NextAt)
	assert.Equal(t, time.Date(2026, 11, 25, 7, 30, 0, 0, time.UTC), d.NextAt.UTC(), "by Lisbon's clocks")

	jobs := func() (n int) {
		require.NoError(t, c.world.DB().GetContext(t.Context(), &n, `select count(*) from river_job where kind = 'mail' and args->>'digest' = 'true'`))
		return n
	}
	c.world.Scheduled(t, "Tomorrow's sky", pgtest.Noon.Add(30*time.Hour))
	c.live(time.Date(2026, 11, 25, 7, 29, 0, 0, time.UTC))
	assert.Zero(t, jobs())
	c.live(time.Date(2026, 11, 27, 7, 30, 0, 0, time.UTC))
	assert.Equal(t, 3, jobs())

	writer := digests.Writer{Store: c.world.Store, Public: "https://dome.example"}
	first := time.Date(2026, 11, 25, 7, 30, 0, 0, time.UTC)
	letter, err := writer.Write(t.Context(), c.world.Site.ID, c.world.Editor.ID, time.Date(2026, 11, 27, 7, 30, 0, 0, time.UTC))
	require.NoError(t, err)
	assert.Contains(t, letter.Text, "Went out\n--------\n- Wed 25 Nov, 18:00: “Tomorrow's sky”\n")
	assert.Contains(t, letter.HTML, "Tomorrow&#39;s sky")
	require.NoError(t, c.world.HandedIn(t.Context(), c.world.Site.ID, c.world.Editor.ID, time.Date(2026, 11, 27, 7, 30, 0, 0, time.UTC)))
	_, err = writer.Write(t.Context(), c.world.Site.ID, c.world.Editor.ID, time.Date(2026, 11, 28, 7, 30, 0, 0, time.UTC))
	assert.ErrorIs(t, err, people.ErrNotWanted, "nothing happened since")

	// One is handed in once, whatever becomes of whoever does it.
	hand := func(at time.Time) bool {
		ok, err := c.world.HandIn(t.Context(), c.world.Site.ID, c.world.Editor.ID, at)
		require.NoError(t, err)
		return ok
	}
	next := first.AddDate(0, 0, 4)
	assert.False(t, hand(first), "a later one was sent")
	assert.True(t, hand(next))
	assert.False(t, hand(next), "it is not known whether it arrived")
	require.NoError(t, c.world.TakeBack(t.Context(), c.world.Site.ID, c.world.Editor.ID, next))
	assert.True(t, hand(next), "it did not")

	stored, err := c.world.Store.Digest(t.Context(), c.world.Site.ID, c.world.Editor.ID)
	require.NoError(t, err)
	assert.Equal(t, "https://dome.example/api/v1/digests/"+stored.Token+"/end", letter.End)
	c.call("DELETE", "/api/v1/session", nil, 204, nil)
	c.fails("POST", "/api/v1/digests/nonsense/end", nil, 404)
	c.call("POST", "/api/v1/digests/"+stored.Token+"/end", nil, 204, nil)
	c.live(first.AddDate(0, 0, 10))
	assert.Equal(t, 3, jobs(), "no more come")
	c.call("DELETE", "/api/v1/digests/"+stored.Token+"/end", nil, 204, nil)
	c.live(first.AddDate(0, 0, 12))
	assert.Greater(t, jobs(), 3)
}
