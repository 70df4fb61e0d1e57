package e2e

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo"
	"dapper.example/internal/store"
)

// tourOf is the latest tour of the observatory.
func (a *app) tourOf() store.Tour {
	a.t.Helper()
	site, err := a.store.SiteBySlug(a.t.Context(), demo.SiteSlug)
	require.NoError(a.t, err)
	all, err := a.store.Tours(a.t.Context(), site.ID)
	require.NoError(a.t, err)
	require.NotEmpty(a.t, all)
	one, err := a.store.Tour(a.t.Context(), site.ID, all[0].ID)
	require.NoError(a.t, err)
	return one
}

func (a *app) stopsOf(t store.Tour) []store.Outing {
	a.t.Helper()
	all, err := a.store.StopsOf(a.t.Context(), t.SiteID, t.ID)
	require.NoError(a.t, err)
	return all
}

// An editor makes a tour of a post, is told that its messages are too long, mends them and launches it. It is paused on the way,
// and resumed. Three months later the walls show its stops, each once.
func TestATourGoesItsRound(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	// Nothing else is to happen in these months.
	_, err := a.store.DB().ExecContext(t.Context(), `update rules set armed_at = null`)
	require.NoError(t, err)
	a.click("Tours")
	a.sees("Cleaning a mirror without ruining it")
	a.click("New tour")
	a.fill("Post that is out", "Moon is full")
	a.press(`//*[@role="option"][normalize-space(.)="What to look at when the Moon is full"]`)
	a.click("Begin the tour")
	a.sees("More from the post")
	a.refill("Stops", "6")
	a.refill("Days", "88")
	a.paste("Wording 1", strings.Repeat("Far too long for anybody ", 20)+"{line} {link}")
	a.sees("can’t be sent like this, so the tour can’t be launched")
	a.sees("too many")
	a.audit("a tour that is too long")
	a.refill("Wording 1", "{line} {link}")
	a.press(`//button[normalize-space(.)="Launch the tour"][not(@aria-disabled)]`)
	a.sees("Tour launched")
	a.sees("Planned")
	one := a.tourOf()
	planned := a.stopsOf(one)
	require.Equal(t, 6*len(one.Settings.Channels), len(planned))

	// A month on, it is paused for ten days.
	a.livesUnseen(start.AddDate(0, 1, 0))
	a.open("/quillmoor/tours")
	a.press(`//a[normalize-space(.)="What to look at when the Moon is full"]`)
	a.click("Pause")
	a.sees("Tour paused.")
	gone := len(a.stopsOf(one))
	require.NotZero(t, gone)
	require.Less(t, gone, len(planned))
	a.livesUnseen(start.AddDate(0, 1, 10))
	require.Len(t, a.stopsOf(one), gone, "a paused tour sends nothing")
	a.open("/quillmoor/tours")
	a.press(`//a[normalize-space(.)="What to look at when the Moon is full"]`)
	a.click("Resume…")
	a.sees("Leave out what was missed")
	a.sees("Missed while the tour was paused")
	a.press(`//button[starts-with(normalize-space(.), "Resume with")]`)
	a.sees("Tour resumed.")
	require.Len(t, a.stopsOf(one), len(planned))

	a.livesUnseen(start.AddDate(0, 4, 0))
	walls := a.walls()
	texts := make(map[string]int)
	for _, wall := range walls {
		for _, text := range wall {
			texts[text]++
		}
	}
	for _, o := range a.stopsOf(one) {
		assert.Equal(t, store.Sent, o.State, "stop %d on %s: %s", *o.Stop, o.Network, o.Error)
		assert.Positive(t, texts[o.Text], "stop %d on %s is on a wall", *o.Stop, o.Network)
	}
	a.open("/quillmoor/tours")
	a.press(`//a[normalize-space(.)="What to look at when the Moon is full"]`)
	a.sees("Over")
	a.audit("a tour that is over")
}

// Tours of two posts are begun in one go, take turns and are launched together; a third one is of a page elsewhere, in the manner of one of them.
func TestToursOfSeveralPostsAndOfAPage(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/tours")
	a.click("New tour")
	for i, title := range []string{"What to look at when the Moon is full", "Wooden rings, and why wood"} {
		a.fill([]string{"Post that is out", "Another post"}[i], title)
		a.press(`//*[@role="option"][normalize-space(.)="` + title + `"]`)
	}
	a.audit("two tours that begin")
	a.click("Begin 2 tours")
	a.press(`//*[@aria-label="Choose What to look at when the Moon is full"]`)
	a.press(`//*[@aria-label="Choose Wooden rings, and why wood"]`)
	a.click("Launch 2 tours")
	a.sees("2 tours launched:")
	site, err := a.store.SiteBySlug(t.Context(), demo.SiteSlug)
	require.NoError(t, err)
	all, err := a.store.Tours(t.Context(), site.ID)
	require.NoError(t, err)
	require.Equal(t, []store.TourState{store.TourRunning, store.TourRunning}, []store.TourState{all[0].State(), all[1].State()})
	assert.Equal(t, 3, all[0].Settings.Shape.Start.Sub(all[1].Settings.Shape.Start), "their stops take turns")

	a.press(`//a[normalize-space(.)="Wooden rings, and why wood"]`)
	a.click("More")
	a.click("Keep as a template…")
	a.fill("Name", "A quarter of a year")
	a.click("Keep the template")
	a.sees("Template kept.")
	a.open("/quillmoor/tours")
	a.click("New tour")
	a.click("A page elsewhere")
	a.fill("Address of the page", a.url+"/blog/quillmoor/no-such-page")
	a.click("Begin the tour")
	a.sees("It answered 404 Not Found.")
	a.refill("Address of the page", a.url+"/blog/quillmoor/a-stool-of-three-heights")
	a.chooses("Template", "A quarter of a year (13 stops in 85 days)")
	a.click("Begin the tour")
	a.sees("More from the post")
	a.sees("Page:")
	one := a.tourOf()
	assert.NotEmpty(t, one.Page.Text)
	assert.NotEmpty(t, one.Settings.Lines)
	a.audit("a tour of a page")
	a.press(`//button[normalize-space(.)="Launch the tour"][not(@aria-disabled)]`)
	a.sees("Tour launched")
}
