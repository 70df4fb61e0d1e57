package e2e

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/founding"
	"dapper.example/internal/pgtest"
)

// newDraft begins a draft, from another one perhaps.
func (a *app) newDraft(title string) {
	a.t.Helper()
	a.click("New draft")
	a.do(holds("a new draft is open:", field("Title"), `all.some((e) => e.value === "")`),
		holds("and empty:", field("Text, in Markdown"), `all.some((e) => seen(e) && !e.textContent.includes("Some words"))`))
	a.fill("Title", title)
}

// writes puts a draft on the shelf, in a category where one is named.
func (a *app) writes(title, category string) {
	a.t.Helper()
	a.newDraft(title)
	a.fill("Text, in Markdown", "Some words about "+title+".")
	if category != "" {
		a.press(`//button[starts-with(@aria-label, "Category: ")]`)
		a.press(fmt.Sprintf(`//*[@role="option"][normalize-space(.)=%q]`, category))
	}
	a.reads("Saved")
	a.click("Put on the shelf")
	a.sees("See its proposed slot")
}

// Somebody installs the program, and has a blog of their own: from the setup code to the third post
// in its slot, and on to another name for the blog.
func TestABlogOfOnesOwn(t *testing.T) {
	thorough(t)
	t.Parallel()
	s := pgtest.New(t)
	code, err := founding.FirstCode(t.Context(), s.Queries)
	require.NoError(t, err)
	a := newAppOn(t, s)

	status, _ := a.status("/blog/anything/")
	assert.Equal(t, http.StatusOK, status, "every address leads to the first page")
	a.open("/blog/anything/")
	a.fill("Setup code", "AAAA-AAAA-AAAA-AAAA")
	a.click("Continue")
	a.sees("That isn’t the setup code.")
	a.audit("the setup code")
	a.refill("Setup code", strings.ToLower(strings.ReplaceAll(code, "-", " ")))
	a.click("Continue")
	a.sees("You will be the owner.")
	a.click("Continue")
	a.sees("Choose a password of 12 characters or more.")
	a.fill("Your name", "Ines Abara")
	a.fill("E-mail", "ines@garden.example")
	a.fill("Password", "seventeen brass snails")
	a.audit("the owner")
	a.click("Continue")
	a.sees("A line under the title")
	a.fill("Title", "Garden Notes")
	a.do(holds("the name in the address follows the title", field("Name in the address"), `all.some((e) => e.value === "garden-notes")`))
	a.do(holds("the zone is the browser's", field("Time zone"), `all.some((e) => e.value === "America/Halifax")`))
	a.audit("the blog")
	a.click("Continue")
	a.press(`//*[@role="radio"][contains(., "One a day")]`)
	a.audit("the rhythm")
	a.click("Create the blog")
	a.sees("Your first plan")
	a.audit("the first plan")

	a.click("Settings")
	a.click("Categories")
	for _, name := range []string{"Ponds", "Paths"} {
		a.fill("New category", name)
		a.click("Add")
		a.do(shown(fmt.Sprintf(`//*[@role="row"]//p[normalize-space(.)=%q]`, name)), holds("it is added", field("New category"), `all.some((e) => e.value === "")`))
	}
	a.writes("How to count newts", "Ponds")
	a.writes("A wall without mortar", "Paths")
	// A category is made from the editor, too.
	a.newDraft("What the hens said")
	a.fill("Text, in Markdown", "Nothing much.")
	a.press(`//button[starts-with(@aria-label, "Category: ")]`)
	a.press(`//*[@role="option"][normalize-space(.)="New category…"]`)
	a.fill("Name of the new category", "Hens")
	a.click("Add")
	a.do(shown(`//button[@aria-label="Category: Hens"]`))
	a.reads("Saved")
	a.click("Put on the shelf")
	a.sees("See its proposed slot")
	a.click("Almanac")
	a.do(shown(`//li[contains(., "Put it on the shelf") and contains(., "(done)")]`))
	a.click("Schedule 3 drafts…")
	a.click("Schedule 3 drafts")
	a.sees("The shelf is empty")
	a.do(gone(`//h2[.="Your first plan"]`))

	due := a.due("How to count newts")
	a.moveTo(due.Add(-time.Minute))
	a.moveTo(due)
	a.until(func() bool {
		status, _ = a.status("/blog/garden-notes/how-to-count-newts")
		return status == http.StatusOK
	})
	_, page := a.status("/blog/garden-notes/")
	assert.Contains(t, page, "How to count newts")

	// A host of its own, one post a page, a reader's comment approved.
	a.open("/garden-notes/settings/blog")
	a.refill("Host name of its own", "garden.localhost")
	a.refill("Posts on a page", "1")
	a.click("Save blog")
	a.sees("Blog saved.")
	a.click("Comments")
	a.ticks("Readers may comment on posts")
	a.click("Save settings")
	a.sees("Settings saved.")
	here := strings.Replace(a.url, "127.0.0.1", "garden.localhost", 1)
	a.do(chromedp.Navigate(here + "/"))
	a.click("How to count newts")
	a.fill("Name", "Tam Okonedo")
	a.fill("Comment", "I count them twice.")
	a.click("Send comment")
	a.sees("once it has been approved")
	a.open("/garden-notes/comments")
	a.click("Approve the comment by Tam Okonedo")
	a.sees("1 comment approved.")
	a.do(chromedp.Navigate(here + "/how-to-count-newts"))
	a.sees("I count them twice.")

	// Another name: old links lead on.
	a.open("/garden-notes/settings/blog")
	a.refill("Title", "Pond and Path")
	a.refill("Name in the address", "pond-and-path")
	a.click("Save blog")
	a.sees("Blog saved.")
	a.until(func() bool {
		var at string
		a.do(chromedp.Location(&at))
		return strings.HasSuffix(at, "/pond-and-path/settings/blog")
	})
	answer, err := http.DefaultTransport.RoundTrip(mustRequest(t, a.url+"/blog/garden-notes/how-to-count-newts?from=mail"))
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusMovedPermanently, answer.StatusCode)
	assert.Equal(t, "/blog/pond-and-path/how-to-count-newts?from=mail", answer.Header.Get("Location"))
	_, page = a.status("/blog/garden-notes/how-to-count-newts")
	assert.Contains(t, page, "Pond and Path")
}

func mustRequest(t testing.TB, url string) *http.Request {
	t.Helper()
	r, err := http.NewRequestWithContext(t.Context(), http.MethodGet, url, nil)
	require.NoError(t, err)
	return r
}

// A second blog is added, archived, brought back and deleted, each time after it was said what that
// means.
func TestASecondBlogFromItsBeginningToItsEnd(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	_, err := a.store.DB().Exec(`update memberships set role = 'owner' where user_id = $1`, a.person("Ines Abara"))
	require.NoError(t, err)
	a.signIn("/new-blog")
	a.fill("Title", "Notes from the Dome")
	a.fill("Name in the address", "quillmoor")
	a.press(`//*[@role="radio"][contains(., "None yet")]`)
	a.click("Create the blog")
	a.sees("Another blog has, or had, the address “quillmoor”.")
	a.refill("Name in the address", "dome-too")
	a.click("Create the blog")
	a.sees("Your first plan")
	a.do(shown(`//li[contains(., "Set the rhythm") and contains(., "(to do)")]`))

	status, _ := a.status("/blog/dome-too/")
	assert.Equal(t, http.StatusOK, status)
	a.open("/dome-too/settings")
	a.click("Archive this blog…")
	a.sees("Readers are told that the blog is closed")
	a.click("Archive this blog")
	a.sees("This blog is archived")
	status, page := a.status("/blog/dome-too/feed.atom")
	assert.Equal(t, http.StatusGone, status)
	assert.Contains(t, page, "This blog is closed")
	a.press(`//main//button[normalize-space(.)="Bring it back"]`)
	a.sees("The site is paused: nothing comes out until you resume it.")
	status, _ = a.status("/blog/dome-too/")
	assert.Equal(t, http.StatusOK, status)

	a.click("Delete this blog…")
	a.sees("Take a copy first")
	a.do(enabled(`//a[@download]`))
	a.fill("To confirm, type the title: Notes from the Dome", "Notes")
	a.click("Delete this blog for good")
	a.sees("Enter the title exactly as it is")
	a.refill("To confirm, type the title: Notes from the Dome", "Notes from the Dome")
	a.click("Delete this blog for good")
	a.sees("Shelf")
	a.until(func() bool { status, _ = a.status("/blog/dome-too/"); return status == http.StatusNotFound })
}

// Categories are put in order by keys, renamed and merged, and rules go along.
func TestCategoriesAreTidiedUp(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/settings/categories")
	a.sees("Meteor Diary")
	a.click("Help")
	a.sees("Drag them by their handle")
	a.audit("the guide beside the work")
	a.press(`//aside[@aria-label="Guide"]//button[starts-with(@aria-label, "Page of the guide")]`)
	a.press(`//*[@role="option"][normalize-space(.)="Rules"]`)
	a.sees("Which posts: the condition")
	a.click("Close the guide")
	first := `(//*[@aria-label="Categories"]//*[@role="row"])[1]`
	a.do(shown(first + `[contains(., "Sky Guide")]`))
	// Enter takes it up, arrows choose where, Enter puts it down.
	a.do(focused(`//button[@aria-label="Move Sky Guide"]`), keyed(kb.Enter), there(`//*[@data-drop-target or @role="row"]`),
		keyed(kb.ArrowDown), keyed(kb.Enter))
	a.do(shown(first+`[contains(., "Workbench")]`), shown(`(//*[@aria-label="Categories"]//*[@role="row"])[2][contains(., "Sky Guide")]`))
	a.click("Change Sky Guide…")
	a.refill("Name", "Night Sky")
	a.refill("Name in its address", "night-sky")
	a.click("Save category")
	a.sees("Category saved.")
	a.do(shown(`//button[@aria-label="Change Night Sky…"]`))
	answer, err := http.DefaultTransport.RoundTrip(mustRequest(t, a.url+"/blog/quillmoor/category/sky-guide"))
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, "/blog/quillmoor/category/night-sky", answer.Header.Get("Location"))

	a.click("Delete or merge Dome Notices…")
	a.sees("Dome notices after ten days")
	a.press(`//button[starts-with(@aria-label, "Where its posts go")]`)
	a.press(`//*[@role="option"][normalize-space(.)="Viewing Nights"]`)
	a.sees("The one that is on waits for your decision")
	a.audit("merging")
	a.click("Merge into Viewing Nights")
	a.sees("Merged into Viewing Nights.")
	a.do(gone(`//button[@aria-label="Change Dome Notices…"]`))
	a.sees("A rule needs your decision")
	a.click("Dome notices after ten days")
	a.sees("applies to other posts now")
}
