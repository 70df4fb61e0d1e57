package e2e

import (
	"fmt"
	"net/http"
	"strconv"
	"strings"
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
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Upkeep")
	a.sees("155 posts out, by age.")
	a.sees("Past their time")
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
		a.do(property(line, "ariaValueNow", &at))
		n, err := strconv.Atoi(at)
		require.NoError(t, err)
		return n
	}
	for n := dragged(); n != 12; n = dragged() {
		key := kb.ArrowLeft
		if n < 12 {
			key = kb.ArrowRight
		}
		a.do(focused(line), keyed(key))
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
	a.signIn("/quillmoor/upkeep")
	a.sees("What the marks mean")
	at := a.middle(`[aria-label^="Age map"]`)
	a.hold(spot{at.X + 240, at.Y - 200}, at, spot{at.X + 600, at.Y + 100})
	a.mouse(input.MouseReleased, spot{at.X + 600, at.Y + 100})
	a.sees(" chosen")
	a.click("Clear selection")
	a.click("Table")
	a.sees("Rules that match")
	a.audit("the age map as a table")
	p := a.postCalled("What my father wrote in the margins")
	a.press(fmt.Sprintf(`//*[@aria-label=%s]`, quoted("Choose “"+p.Title+"”")))
	a.sees("1 chosen")
	a.click("Do something…")
	a.press(`//button[starts-with(@aria-label, "What happens")]`)
	a.press(`//*[@role="option"][normalize-space(.)="Put a notice above them"]`)
	a.fill("Notice", "The writer has moved on since {published}.")
	a.sees("will be given a notice")
	a.audit("something done once")
	a.click("Put up 1 notice")
	a.sees("1 post was given a notice.")
	_, page := a.status("/blog/quillmoor/" + p.Slug)
	assert.Contains(t, page, "The writer has moved on since ")
	a.undoesLatest()
	a.eventually(func() bool { return a.postCalled(p.Title).Notice == "" })
}

// Three days before the week of its shower begins, the author of a diary entry is asked by mail to read it again; an editor says
// that it may come out, and it does, a week before its night.
func TestAPostIsReadBeforeItComesRound(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.liveTo(time.Date(2026, 12, 4, 16, 0, 0, 0, time.UTC))
	var asked []store.Notice
	a.eventually(func() bool {
		site, err := a.store.SiteBySlug(t.Context(), "quillmoor")
		require.NoError(t, err)
		asked, err = a.store.Notices(t.Context(), site.ID)
		require.NoError(t, err)
		return len(asked) > 0
	})
	first := asked[0].Title
	assert.Contains(t, first, "Geminid")
	a.open("/quillmoor/upkeep")
	a.sees("To read before they come out again")
	a.sees(first)
	a.audit("posts to read first")
	a.press(fmt.Sprintf(`//button[@aria-label=%s]`, quoted("It may come out: “"+first+"”")))
	a.sees("“" + first + "” may come out again.")
	a.eventually(func() bool {
		for _, m := range a.mailbox.Mails() {
			if m.Subject == "Please read “"+first+"” before it comes out again" {
				return true
			}
		}
		return false
	})
	before := a.postCalled(first)
	a.open(fmt.Sprintf("/quillmoor/notice/%d/%d", asked[0].Post, asked[0].Rule))
	a.sees("wants to bring it out again")
	a.audit("where the mail leads")
	a.liveTo(time.Date(2026, 12, 9, 16, 0, 0, 0, time.UTC))
	after := a.postCalled(first)
	assert.Equal(t, before.TimesRepublished+1, after.TimesRepublished)
	assert.Equal(t, "2026-12-07", after.PublishedAt.Format(time.DateOnly))
}

// Somebody asks for mails about the blog, gets one the next morning, and ends them by its link.
func TestMailsAboutTheBlog(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/account")
	a.press(`//button[starts-with(@aria-label, "Mails about this blog")]`)
	a.press(`//*[@role="option"][normalize-space(.)="Every day"]`)
	a.click("Show what it would say")
	a.sees("Coming up")
	a.audit("what a mail would say")
	a.click("Close")
	a.click("Save mails")
	a.sees("The next one is due on Wed 25 Nov, 07:30.")
	a.audit("mails")
	a.liveTo(a.clock.Now().Add(24 * time.Hour))
	var end string
	a.eventually(func() bool {
		for _, m := range a.mailbox.Mails() {
			if m.Unsubscribe != "" && strings.Contains(m.Text, "Coming up") {
				require.Contains(t, m.HTML, "Coming up")
				_, end, _ = strings.Cut(m.Text, "Unsubscribe: ")
				return true
			}
		}
		return false
	})
	a.do(chromedp.Navigate(strings.TrimSpace(end)))
	a.sees("You will get no more of these mails.")
	a.audit("mails that were ended")
	var off bool
	require.NoError(t, a.store.DB().GetContext(t.Context(), &off, `select off from digests`))
	assert.True(t, off)
	a.click("Send them again")
	a.sees("They will come again.")
}

// The rules of a kind are put in another order by keys, and by dragging.
func TestRulesArePutInOrder(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/rules")
	order := func() (names []string) {
		site, err := a.store.SiteBySlug(t.Context(), "quillmoor")
		require.NoError(t, err)
		rules, err := a.store.Rules(t.Context(), site.ID)
		require.NoError(t, err)
		for _, r := range rules {
			if r.Kind == store.Expire {
				names = append(names, r.Name)
			}
		}
		return names
	}
	before := order()
	require.Len(t, before, 3)
	handle := fmt.Sprintf(`[aria-label="Move “%s”"]`, before[0])
	a.do(shown(handle), focused(handle), keyed(" "))
	a.do(there(`//*[@aria-live][contains(., "is at place 1 of 3") or contains(., "is lifted")]`))
	// The list hears keys from the next turn of the page on.
	a.do(chromedp.Evaluate(`new Promise((done) => requestAnimationFrame(() => setTimeout(() => done(true), 50)))`, new(bool), awaited))
	a.do(keyed(kb.ArrowDown))
	a.do(there(`//*[@aria-live][contains(., "is at place 2 of 3")]`))
	a.do(keyed(" "))
	a.eventually(func() bool { return order()[1] == before[0] })
	at := a.middle(handle)
	a.hold(at, spot{at.X, at.Y + 30}, spot{at.X, at.Y + 90})
	a.drop(spot{at.X, at.Y + 90})
	a.eventually(func() bool { return order()[2] == before[0] })
	a.audit("rules in order")
}
