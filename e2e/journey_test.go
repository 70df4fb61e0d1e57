package e2e

import (
	"fmt"
	"io"
	"net/http"
	"regexp"
	"testing"
	"time"

	"dapper.example/internal/pgtest"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// status asks as a reader would, without a session.
func (a *app) status(path string) (int, string) {
	a.t.Helper()
	answer, err := http.Get(a.url + path)
	require.NoError(a.t, err)
	defer answer.Body.Close()
	body, err := io.ReadAll(answer.Body)
	require.NoError(a.t, err)
	return answer.StatusCode, string(body)
}

// An editor writes a draft, clears it, sees its ghost on the tape, commits, and
// reads it on the blog at its minute.
func TestFromAnEmptyPageToTheBlog(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	const title = "How to greet a comet"
	const path = "/blog/quillmoor/how-to-greet-a-comet"

	a.click("New draft")
	a.fill("Title", title)
	a.fill("Text, in Markdown", "Be **early** and bring a blanket.")
	a.reads("Saved")
	a.click("Put on the shelf")
	a.sees("See its proposed slot")
	a.click("See its proposed slot")
	a.sees("Proposed.")
	a.click("Show that day on the tape")
	a.do(shown(fmt.Sprintf(`//button[contains(@aria-label, "proposed %s")]`, title)))
	a.click("First on the shelf")
	a.sees("is first on the shelf")
	a.click("Show that day on the tape")

	var ghost string
	mark := fmt.Sprintf(`//button[contains(@aria-label, "proposed %s")]`, title)
	a.do(shown(mark), property(mark, "ariaLabel", &ghost))
	require.Regexp(t, `^\d\d:\d\d proposed`, ghost)
	code, _ := a.status(path)
	assert.Equal(t, http.StatusNotFound, code)

	a.click("Close and show the shelf")
	a.click("Schedule 19 drafts…")
	a.sees("Everything is done, or nothing is")
	a.click("Schedule 19 drafts")
	a.sees("The shelf is empty")
	scheduled := fmt.Sprintf(`//button[contains(@aria-label, "scheduled %s")]`, title)
	var committed string
	a.do(shown(scheduled), property(scheduled, "ariaLabel", &committed))
	assert.Equal(t, ghost[:5], committed[:5], "it is scheduled at the time that was proposed")

	due := a.due(title)
	code, body := a.status(path)
	assert.Equal(t, http.StatusNotFound, code, "scheduled posts are not there for readers")
	assert.NotContains(t, body, title)
	_, feed := a.status("/blog/quillmoor/feed.atom")
	assert.NotContains(t, feed, title)

	a.moveTo(due.Add(-time.Minute))
	code, _ = a.status(path)
	assert.Equal(t, http.StatusNotFound, code, "not a minute early")
	a.moveTo(due)
	a.until(func() bool { code, body = a.status(path); return code == http.StatusOK })
	assert.Contains(t, body, "Be <strong>early</strong> and bring a blanket.")
	_, feed = a.status("/blog/quillmoor/feed.atom")
	assert.Contains(t, feed, title)

	// The open Almanac shows it without a reload.
	a.do(shown(fmt.Sprintf(`//button[contains(@aria-label, "out %s")]`, title)))
	a.open(path)
	a.sees("and bring a blanket")
}

// due is when the post with the title comes out.
func (a *app) due(title string) time.Time {
	a.t.Helper()
	var due time.Time
	require.NoError(a.t, a.store.DB().GetContext(a.t.Context(), &due, `select due_at from posts where title = $1`,
		title))
	return due
}

// moveTo moves the program's clock forward; the engine has noticed it when it waits
// again.
func (a *app) moveTo(at time.Time) {
	a.t.Helper()
	a.clock.Advance(at.Sub(a.clock.Now()))
	require.NoError(a.t, a.clock.BlockUntilContext(a.browser, 1))
}

// until asks again until it is so; what it waits for is another process's work.
func (a *app) until(so func() bool) {
	a.t.Helper()
	require.Eventually(a.t, so, patience, 20*time.Millisecond)
}

func TestRetimeShelveAndPublishFromThePanel(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	const title = "Clear tonight: the dome opens at eight"
	pinned := fmt.Sprintf(`//button[contains(@aria-label, "pinned %s")]`, title)
	a.press(pinned)
	a.sees("Time set by hand.")

	a.refill("Time", "09:15")
	a.click("Schedule")
	a.sees("That time has passed.")
	a.refill("Time", "21:45")
	a.click("Schedule")
	a.sees("Scheduled for Tue 24 Nov, 21:45.")
	a.do(shown(fmt.Sprintf(`//button[starts-with(@aria-label, "21:45 pinned %s")]`, title)))

	a.click("Back to the shelf")
	a.sees("is back at the front of the shelf")
	a.do(shown(fmt.Sprintf(`//button[contains(@aria-label, "proposed %s")]`, title)))

	a.click("Publish now…")
	a.sees("comes out on the blog and in its feed at once")
	a.click("Cancel")
	a.click("Publish now…")
	a.press(`//button[starts-with(normalize-space(.), "Publish “")]`)
	a.sees("is out.")
	code, _ := a.status("/blog/quillmoor/clear-tonight-the-dome-opens-at-eight")
	assert.Equal(t, http.StatusOK, code)
}

func TestBadInputIsAnsweredAndNothingIsLost(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("New draft")
	a.fill("Title", "🔭✨")
	a.sees("The title has no letter or digit")
	a.fill("Text, in Markdown", "Kept all the same. <script>alert(1)</script>")
	a.sees("Readers will not see this part of the text")
	a.sees("Saved, except what is marked below")
	a.fill("Title", " A night of stars")
	a.reads("Saved")
	a.do(gone(`//*[contains(., "has no letter or digit") and @role="alert"]`))
	var title string
	require.NoError(t, a.store.DB().GetContext(t.Context(), &title,
		`select posts.title from posts join texts on texts.id = text_id where body like 'Kept all the same%'`))
	assert.Equal(t, "🔭✨ A night of stars", title)

	// Somebody else saves the same post meanwhile.
	_, err := a.store.DB().ExecContext(t.Context(), pgtest.Retell(`t.title`, `'Theirs.'`, `posts.title = $1`), title)
	require.NoError(t, err)
	a.fill("Text, in Markdown", " And mine.")
	a.sees("Somebody else saved this post while you were writing.")
	a.sees("Theirs.")
	a.press(`//button[starts-with(normalize-space(.), "Keep mine")]`)
	a.until(func() bool {
		var body string
		require.NoError(t, a.store.DB().GetContext(t.Context(), &body,
			`select body from texts join posts on text_id = texts.id where posts.title = $1`, title))
		return regexp.MustCompile(`^Kept all the same.*And mine\.$`).MatchString(body)
	})
}

func TestTheRhythmFormShowsItsWeekAndItsProblems(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Rhythm")
	a.sees("The coming four weeks")
	a.refill("To", "05:00")
	a.sees("The window ends at 05:00, before it begins at 06:30. To run past midnight, end it at 29:00.")
	a.refill("To", "11:40")
	// On the tape: an arrow moves the opening by five minutes, Shift with an arrow its end.
	const block = `(//button[contains(@aria-label, "06:30 to 11:40")])[1]`
	a.do(shown(block), focused(block), keyed(kb.ArrowRight), keyed(kb.ArrowLeft),
		keyed(kb.ArrowRight, input.ModifierShift))
	a.do(shown(`//button[contains(@aria-label, "06:30 to 11:45")]`))
	a.do(enabled(control("Save rhythm")))
	a.click("Save rhythm")
	a.sees("Rhythm saved.")
	var to int
	require.NoError(t, a.store.DB().GetContext(t.Context(), &to,
		`select to_minute from openings where key = 'mornings'`))
	assert.Equal(t, 11*60+45, to)
}

func TestUndoFromTheToastAndTheLogbook(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Schedule 18 drafts…")
	a.click("Schedule 18 drafts")
	a.sees("18 drafts scheduled.")
	a.click("Undo")
	a.sees("Schedule 18 drafts…")
	a.click("Schedule 18 drafts…")
	a.click("Schedule 18 drafts")
	a.sees("The shelf is empty")
	a.press(`//button[contains(@aria-label, "scheduled The star that winks")]`)
	a.click("Back to the shelf")
	a.sees("is back at the front of the shelf")
	a.click("Rearrange")
	a.click("Close up…")
	a.click("Move 17 posts")
	a.sees("17 posts moved.")
	a.press(latestUndo)
	a.do(shown(`//button[contains(@aria-label, "08:13 scheduled A first look through binoculars")]`))
	a.click("Logbook")
	a.press(`(//button[starts-with(@aria-label, "Undo: The star that winks") and normalize-space(.)="Undo"])[1]`)
	a.press(`(//button[normalize-space(.)="Undo all 18"])[1]`)
	a.sees("Undone.")
	a.click("Almanac")
	a.sees("Schedule 18 drafts…")
}

func TestSettingsAndBoundsShapeTheProposal(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Settings")
	a.click("Plan")
	a.refill("Posts a week for one author", "1")
	a.click("Save settings")
	a.sees("Settings saved.")
	a.click("Almanac")
	a.sees("is full for Ines Abara")

	a.press(`//button[contains(., "How the dome got its leaning weathercock")]`)
	a.refill("Deadline", "20 Nov")
	a.click("Save dates")
	a.sees("Its deadline on Fri 20 Nov is before the first free slot")

	a.click("Settings")
	a.click("Plan")
	a.click("Pause the site")
	a.sees("The site is paused: nothing comes out until you resume it.")
	due := a.due("Clear tonight: the dome opens at eight")
	a.moveTo(due.Add(30 * time.Minute))
	code, _ := a.status("/blog/quillmoor/clear-tonight-the-dome-opens-at-eight")
	assert.Equal(t, http.StatusNotFound, code, "a paused site publishes nothing")
	a.press(`//*[@role="radio"][contains(., "Hold for me")]`)
	a.click("Save settings")
	a.click("Resume the site")
	a.click("Almanac")
	a.sees("Overdue, and held for you")
	a.press(`//section[@aria-labelledby="held"]//button`)
	a.sees("On hold: its time passed while nothing could be published.")
	a.click("Publish now…")
	a.press(`//button[starts-with(normalize-space(.), "Publish “")]`)
	a.sees("is out.")
}
