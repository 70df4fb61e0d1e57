package e2e

import (
	"fmt"
	"net/http"
	"strconv"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/store"
)

// ruleCalled is a rule of the first demo blog.
func (a *app) ruleCalled(name string) store.Rule {
	a.t.Helper()
	site, err := a.store.SiteBySlug(a.t.Context(), "quillmoor")
	require.NoError(a.t, err)
	rules, err := a.store.Rules(a.t.Context(), site.ID)
	require.NoError(a.t, err)
	for _, r := range rules {
		if r.Name == name {
			return r
		}
	}
	require.FailNow(a.t, "there is no such rule", name)
	return store.Rule{}
}

// An editor drags a rule's line on the age map, sees its catch change, saves and turns it on; the next morning readers see the
// notice, and the run is undone.
func TestALineIsDraggedOnTheAgeMap(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Upkeep")
	a.sees("155 posts out, by age.")
	a.sees("Past their time")
	a.peek("map")
	a.audit("the age map")
	rule := a.ruleCalled("A notice above old letters")
	line := fmt.Sprintf(`[data-line="%d"]`, rule.ID)
	from := a.middle(line)
	a.hold(from, spot{from.X - 60, from.Y}, spot{from.X - 160, from.Y})
	a.sees("It catches ")
	a.drop(spot{from.X - 160, from.Y})
	a.sees("more than now")
	// By keys as well.
	var at string
	dragged := func() (n int) {
		a.do(chromedp.AttributeValue(line, "aria-valuenow", &at, nil, chromedp.ByQuery))
		n, err := strconv.Atoi(at)
		require.NoError(t, err)
		return n
	}
	for n := dragged(); n != 12; n = dragged() {
		key := kb.ArrowLeft
		if n < 12 {
			key = kb.ArrowRight
		}
		a.do(chromedp.SendKeys(line, key, chromedp.ByQuery))
	}
	a.sees("Save 12 months")
	a.audit("a line that was moved")
	a.click("Save 12 months")
	a.sees("Turn the rule on")
	a.click("Turn on")
	a.sees("Rule turned on.")
	assert.Equal(t, 12, a.ruleCalled(rule.Name).Condition.Parts[1].N)

	noticed := func() (slugs []string) {
		require.NoError(t, a.store.DB().SelectContext(t.Context(), &slugs, `select slug from posts where status = 'published' and notice <> '' order by id`))
		return slugs
	}
	require.Empty(t, noticed())
	a.liveTo(a.clock.Now().Add(24 * time.Hour))
	marked := noticed()
	require.NotEmpty(t, marked)
	code, page := a.status("/blog/quillmoor/" + marked[0])
	assert.Equal(t, http.StatusOK, code)
	assert.Contains(t, page, "Its writer may see things differently by now.")
	a.open(fmt.Sprint("/quillmoor/rules/", rule.ID))
	a.click("Undo this run")
	a.sees("The run is undone.")
	assert.Empty(t, noticed())
	a.sees("Needs your decision")
}

// Posts are chosen on the map by drawing a box, and in the table; something is done to them once, and undone.
func TestSomethingIsDoneOnceToPostsThatWereChosen(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.open("/quillmoor/upkeep")
	a.sees("What the marks mean")
	at := a.middle(`[aria-label^="Age map"]`)
	a.hold(spot{at.X + 240, at.Y - 200}, at, spot{at.X + 600, at.Y + 100})
	a.mouse(input.MouseReleased, spot{at.X + 600, at.Y + 100})
	a.sees(" chosen")
	a.click("Clear selection")
	a.click("Table")
	a.sees("Rules that match")
	a.peek("table")
	a.audit("the age map as a table")
	p := a.postCalled("What my father wrote in the margins")
	a.press(fmt.Sprintf(`//*[@aria-label=%s]`, quoted("Choose “"+p.Title+"”")))
	a.sees("1 chosen")
	a.click("Do something…")
	a.press(`//button[starts-with(@aria-label, "What happens")]`)
	a.press(`//*[@role="option"][normalize-space(.)="Put a notice above them"]`)
	a.fill("Notice", "The writer has moved on since {published}.")
	a.sees("will be given a notice")
	a.peek("once")
	a.audit("something done once")
	a.click("Put up 1 notice")
	a.sees("1 post was given a notice.")
	_, page := a.status("/blog/quillmoor/" + p.Slug)
	assert.Contains(t, page, "The writer has moved on since ")
	a.undoesLatest()
	a.eventually(func() bool { return a.postCalled(p.Title).Notice == "" })
}
