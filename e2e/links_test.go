package e2e

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/store"
)

// New items of a feed become link items, which are listed by themselves and changed; another is added by hand.
func TestItemsOfAFeedBecomeLinkItems(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/import")
	a.click("Add a feed")
	a.fill("Address", a.outside+"/weather/feed.atom")
	a.click("Show its items")
	a.sees("The vane points to")
	a.chooses("New items become", "link items, for rules to share")
	a.ticks("Also the items that are there now")
	a.click("Add the feed")
	a.sees("Looked at")
	a.eventually(func() bool { return a.brought("Ridge weather")[store.Linked] == 12 })

	a.open("/quillmoor/posts")
	a.click("Link items")
	a.sees("Pages elsewhere, with a title and a link")
	a.sees("Counting meteors from a balcony")
	a.audit("link items")
	a.click("Counting meteors from a balcony")
	a.sees("It has no page on the blog")
	a.audit("a link item")
	a.refill("Link", "street-sky.example")
	a.sees("begins with https:// or http://")
	a.refill("Link", "https://street-sky.example/balcony/2")
	a.eventually(func() bool {
		return a.leadsTo("Counting meteors from a balcony") == "https://street-sky.example/balcony/2"
	})

	a.open("/quillmoor/posts?stages=linked")
	a.click("Add a link item…")
	a.click("Add")
	a.sees("Give it a title")
	a.fill("Title", "A map of dark car parks")
	a.fill("Link", "https://car-parks.example/")
	a.click("Add")
	a.sees("It has no page on the blog")
	assert.Equal(t, "https://car-parks.example/", a.leadsTo("A map of dark car parks"))
	_, front := a.status("/blog/quillmoor/")
	assert.NotContains(t, front, "A map of dark car parks")
}

// leadsTo is where a link item leads.
func (a *app) leadsTo(title string) (link string) {
	a.t.Helper()
	require.NoError(a.t, a.store.DB().GetContext(a.t.Context(), &link, `select link from posts where title = $1`, title))
	return link
}
