package e2e

import (
	"fmt"
	"net/http"
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

// drafts counts the drafts of the demo blog.
func (a *app) drafts() (n int) {
	require.NoError(a.t, a.store.DB().GetContext(a.t.Context(), &n,
		`select count(*) from posts where site_id = (select id from sites where slug = 'quillmoor') and status = 'draft'`))
	return n
}

// A post is put on the shelf, taken back by Undo, and written on; it is moved elsewhere
// meanwhile. None of that is somebody else's text.
func TestAnOpenPostHearsWhatHappensToIt(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("New draft")
	a.fill("Title", "Frost on the lower meadow")
	a.fill("Text, in Markdown", "Cold.")
	a.reads("Saved")
	a.click("Put on the shelf")
	a.sees("See its proposed slot")
	a.click("Undo")
	a.sees("Undone.")
	a.do(gone(`//*[.="See its proposed slot"]`))
	a.fill("Text, in Markdown", " And clear.")
	body := func(want string) func() bool {
		return func() bool {
			var body string
			require.NoError(t, a.store.DB().GetContext(t.Context(), &body,
				`select body from texts join posts on text_id = texts.id where posts.title = 'Frost on the lower meadow'`))
			return body == want
		}
	}
	a.until(body("Cold. And clear."))
	a.do(gone(`//*[contains(., "Somebody else saved this post")]`))

	// Given a time elsewhere, it shows that here, and is written on.
	p := a.planned("Frost on the lower meadow")
	_, err := a.store.DB().ExecContext(t.Context(), `
		update posts set status = 'scheduled', pinned = true, due_at = $2, slug = 'frost', version = version + 1 where id = $1`, p.ID, a.clock.Now().Add(48*time.Hour))
	require.NoError(t, err)
	a.sees("Comes out ")
	a.fill("Text, in Markdown", " Again.")
	a.until(body("Cold. And clear. Again."))
	a.do(gone(`//*[contains(., "Somebody else saved this post")]`))
}

// From the editor a draft goes into its next slot in one step, is held and let go, and a
// page gets a time; an unreadable date saves nothing.
func TestADraftIsScheduledFromTheEditor(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	before := a.drafts()
	a.click("New draft")
	a.sees("It is kept once you write something.")
	a.click("Almanac")
	a.sees("Schedule 18 drafts…")
	assert.Equal(t, before, a.drafts(), "an empty draft is not kept")

	a.click("New draft")
	a.fill("Title", "Frost on the lower meadow")
	a.fill("Text, in Markdown", "Cold.")
	a.press(`//button[starts-with(normalize-space(.), "Put in the next slot (Tue 24 Nov")]`)
	a.sees("Scheduled for Tue 24 Nov")
	p := a.planned("Frost on the lower meadow")
	assert.Equal(t, store.Scheduled, p.Status)
	assert.NotNil(t, p.SlotOpening, "it sits in a slot")
	a.click("Hold")
	a.sees("It will not come out unless you release it.")
	assert.True(t, a.planned(p.Title).Held)
	a.click("Release")
	a.sees("It comes out at its time.")
	assert.False(t, a.planned(p.Title).Held)

	a.click("New draft")
	a.sees("It is kept once you write something.")
	a.fill("Title", "How to find us")
	a.fill("Text, in Markdown", "Up the hill.")
	a.reads("Saved")
	a.press(`//button[contains(., "Author and kind")]`)
	a.press(`//button[starts-with(@aria-label, "Kind: ")]`)
	a.press(`//*[@role="option"][starts-with(normalize-space(.), "Page")]`)
	a.do(gone(`//button[starts-with(normalize-space(.), "Put in the next slot")]`))
	a.click("At a time…")
	a.refill("Date", "30 Feb")
	a.click("Schedule")
	a.sees("Enter a date, such as 4 Dec.")
	assert.Equal(t, store.Draft, a.planned("How to find us").Status)
	a.refill("Date", "4 Dec")
	a.refill("Time in Halifax", "940")
	a.click("Schedule")
	a.sees("Scheduled for Fri 4 Dec, 09:40.")
	assert.Equal(t, "2026-12-04 09:40", a.local(a.planned("How to find us")))
}

// Ctrl I makes italics and does not select the text; a link leads to a post of the blog.
func TestTheTextIsMarkedUpByKeysAndToolbar(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("New draft")
	a.fill("Title", "Marked up")
	a.fill("Text, in Markdown", "A clear night")
	a.chord("i", input.ModifierCtrl)
	a.do(keyed("!"))
	a.sees("A clear *night!*")
	a.do(keyed(kb.End))
	a.chord("k", input.ModifierCtrl)
	a.fill("A post or page of this blog, or a web address", "moon illusion")
	a.press(`//*[@role="option"][contains(., "The Moon illusion, measured")]`)
	a.click("Add link")
	a.sees("[The Moon illusion, measured](/blog/quillmoor/the-moon-illusion-measured)")
	a.reads("Saved")
}

// A rule is deleted once one has seen what it does, and brought back; changes that are not
// saved are not lost by a click elsewhere.
func TestARuleIsDeletedAndBroughtBack(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Rules")
	const rule = "Workbench, morning and noon"
	a.press(fmt.Sprintf(`//a[text()=%q]`, rule))
	a.sees("Coming outings")
	a.refill("Name", "Workbench, changed")
	a.click("Posts")
	a.sees("are not saved yet.")
	a.click("Keep editing")
	a.click("Save rule")
	a.sees("Rule saved.")
	a.click("Undo")
	a.sees("Undone.")
	a.do(shown(fmt.Sprintf(`//h1[text()=%q]`, rule)))

	a.click("Delete…")
	a.sees("It is on. Its next turn would be ")
	a.press(fmt.Sprintf(`//*[@role="dialog"]//button[.="Delete “%s”"]`, rule))
	a.sees("deleted.")
	a.do(gone(`//*[contains(., "There is no such rule")]`), gone(fmt.Sprintf(`//a[text()=%q]`, rule)))
	a.undoesLatest()
	a.do(shown(fmt.Sprintf(`//a[text()=%q]`, rule)))
	a.open("/quillmoor/rules/999999")
	a.sees("There is no such rule.")
	a.open("/quillmoor/nowhere/at/all")
	a.click("Find a post")
	a.sees("All posts")
	code, _ := a.status("/blog/quillmoor/")
	assert.Equal(t, http.StatusOK, code)
}

// Each screen has a title of its own, and keys begin at its heading; the first Tab leads past
// the head.
func TestKeysBeginAtTheHeading(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	for _, screen := range []string{"Posts", "Rhythm", "Rules", "Forecast", "Logbook", "Settings", "Almanac"} {
		a.press(fmt.Sprintf(`//nav[@aria-label="Screens"]//a[normalize-space(.)=%q]`, screen))
		a.until(func() bool {
			var title, on string
			a.do(chromedp.Title(&title), chromedp.Evaluate(`document.activeElement.tagName`, &on))
			return title == screen+" · Notes from the Dome" && on == "H1"
		})
	}
	a.open("/quillmoor/settings/plan")
	a.sees("Save settings")
	var first string
	a.do(chromedp.Evaluate(`document.querySelector("a[href], button, input").textContent`, &first))
	assert.Equal(t, "Skip to the content", first)
	a.do(focused(`//button[.="Skip to the content"]`), keyed(kb.Enter))
	a.until(func() bool {
		var on string
		a.do(chromedp.Evaluate(`document.activeElement.tagName`, &on))
		return on == "MAIN"
	})
}

// A pause in typing saves the text and asks for nothing else; on another screen the list of
// posts follows.
func TestATypingPauseCostsOneRequest(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	var title string
	require.NoError(t, a.store.DB().GetContext(t.Context(), &title,
		`select title from posts where cleared and site_id = (select id from sites where slug = 'quillmoor') order by shelf_rank limit 1`))
	a.open(fmt.Sprintf("/quillmoor/write/%d", a.planned(title).ID))
	a.do(shown(field("Text, in Markdown")), shown(`//button[starts-with(normalize-space(.), "Put in the next slot")]`))
	const requests = `performance.getEntriesByType("resource").filter((r) => r.name.includes("/api/") && !r.name.endsWith("/events")).map((r) => r.name)`
	var asked []string
	// until nothing of the screen is still asked for
	for before := -1; before != len(asked); a.do(chromedp.Sleep(300 * time.Millisecond)) {
		before = len(asked)
		a.do(chromedp.Evaluate(requests, &asked))
	}
	a.do(chromedp.Evaluate(`performance.clearResourceTimings()`, nil))
	for _, words := range []string{"First. ", "Second. "} {
		a.fill("Text, in Markdown", words)
		a.eventually(func() bool {
			return strings.Contains(a.planned(title).Body, strings.TrimSpace(words))
		})
		a.reads("Saved")
	}
	a.do(chromedp.Evaluate(requests, &asked))
	require.Len(t, asked, 2, "%v", asked)
	for _, request := range asked {
		assert.Regexp(t, `/posts/\d+$`, request)
	}
}

// By keys alone: from a post of the plan into its panel, to its time, and back to the post;
// past the plan in one step; what a search finds is said.
func TestThePlanByKeysAlone(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	const focus = `(document.activeElement.getAttribute("aria-label") ?? document.activeElement.textContent).trim()`
	on := func(want string) {
		t.Helper()
		var text string
		a.until(func() bool { a.do(chromedp.Evaluate(focus, &text)); return strings.Contains(text, want) })
	}
	const title = "Clear tonight: the dome opens at eight"
	a.do(focused(fmt.Sprintf(`//section[@aria-label="Plan"]//button[contains(@aria-label, "pinned %s")]`, title)),
		keyed(kb.Enter))
	on("Scheduled, pinned")
	a.do(shown(`//aside//button[.="Hold"]`), keyed(kb.Tab))
	on("Close and show the shelf")
	a.do(keyed(kb.Escape))
	on("pinned " + title)

	a.do(chromedp.Evaluate(`(() => { const h = document.querySelector("h1"); h.tabIndex = -1; h.focus() })()`, nil),
		keyed(kb.Tab))
	on("Skip the plan")
	a.do(keyed(kb.Enter))
	on("Shelf")
	a.do(keyed(kb.Tab))
	on("Schedule 18 drafts…")

	// A draft of the shelf opens and closes the same way.
	var first string
	a.do(chromedp.Evaluate(`(() => { const b = document.querySelector("[data-shelf-row='0'] button"); b.focus(); return b.textContent })()`, &first), keyed(kb.Enter))
	on("On the shelf")
	a.do(keyed(kb.Escape), gone(`//h2[.="On the shelf"]`))
	on(strings.TrimSpace(first)[:10])

	a.open("/quillmoor/posts")
	a.do(focused(field("Search posts")), keyed("zyzzyva"),
		shown(`//*[@role="status"][contains(., "No posts match")]`))
	a.refill("Search posts", "telescope")
	a.do(there(`//*[@role="status"][contains(., " posts")]`))
}
