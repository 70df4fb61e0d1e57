package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/store"
)

// postCalled is a post of the first demo blog.
func (a *app) postCalled(title string) store.Post {
	a.t.Helper()
	var id int64
	require.NoError(a.t, a.store.DB().GetContext(a.t.Context(), &id, `select id from posts where title = $1`, title))
	site, err := a.store.SiteBySlug(a.t.Context(), "quillmoor")
	require.NoError(a.t, err)
	p, err := a.store.Post(a.t.Context(), site.ID, id)
	require.NoError(a.t, err)
	return p
}

// A change is prepared for midnight of New Year's Day in the site's zone, and applied although nothing ran over New Year; its time is moved on the
// way, readers see the old post until then, and undoing it gives that back.
func TestATimedEditAppliesAtNewYear(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	const title = "Why Albireo looks different in every eyepiece"
	p := a.postCalled(title)
	a.open(fmt.Sprint("/quillmoor/write/", p.ID))
	a.press(`//section[@aria-label="Timed edits"]/button`)
	a.click("Change it at a time…")
	a.sees("A change of “" + title + "”, prepared")
	a.refill("Title", "Albireo in {year}")
	a.setDate("Apply on", "2027-01-02")
	a.refill("Time in Halifax", "0:00")
	a.ticks("Again every year")
	a.click("Prepare it")
	a.sees("It will change on Sat 2 Jan 2027, 00:00.")
	a.sees("What it changes, as saved")
	a.sees("eyepiece2027")
	a.audit("a timed edit")
	a.setDate("Apply on", "2027-01-01")
	a.click("Save")
	a.sees("It will change on Fri 1 Jan 2027, 00:00.")
	// What is not saved yet is not left by accident.
	a.refill("Title", "Something else")
	a.click("Posts")
	a.sees("Your changes to this timed edit are not saved yet.")
	a.click("Leave without saving")
	_, page := a.status("/blog/quillmoor/" + p.Slug)
	assert.Contains(t, page, title)

	// Three wait in the demo; all are on the tape.
	a.open("/quillmoor?from=2027-01-01")
	a.do(shown(`//button[starts-with(@aria-label, "00:00 edit ` + title + `")]`))
	// Taken in hand by the keyboard, it goes to the day before and back.
	mark := `//button[starts-with(@aria-label, "00:00 edit ` + title + `")]`
	due := func() string {
		return a.text(`select to_char(due_at at time zone 'America/Halifax', 'YYYY-MM-DD HH24:MI') from timed_edits where post_id = ` + fmt.Sprint(p.ID))
	}
	a.do(focused(mark), keyed("h"), keyed(kb.ArrowDown), keyed(kb.Enter))
	a.eventually(func() bool { return due() == "2027-01-02 00:00" })
	a.do(shown(mark))
	a.undoesLatest()
	a.eventually(func() bool { return due() == "2027-01-01 00:00" })
	zone, err := time.LoadLocation("America/Halifax")
	require.NoError(t, err)
	a.moveTo(time.Date(2027, 1, 2, 11, 0, 0, 0, zone))
	a.eventually(func() bool {
		return a.text(`select title from posts where id = `+fmt.Sprint(p.ID)) == "Albireo in 2027"
	})
	_, page = a.status("/blog/quillmoor/" + p.Slug)
	assert.Contains(t, page, "Albireo in 2027")
	a.open("/quillmoor/logbook?deed=timed+edit")
	a.sees("Changed as it was prepared: title. It was 1 day late.")
	a.press(`(//*[self::li or self::tr][contains(., "Albireo")]//button[normalize-space(.)="Undo"])[1]`)
	a.eventually(func() bool { return a.text(`select title from posts where id = `+fmt.Sprint(p.ID)) == title })
}

// The post was changed in the same place meanwhile: the edit is on hold, both versions stand side by side, and one is chosen.
func TestAClashOfATimedEditIsSettled(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	const title = "Why Albireo looks different in every eyepiece"
	p := a.postCalled(title)
	a.open(fmt.Sprintf("/quillmoor/edits/new?post=%d", p.ID))
	a.refill("Title", "Albireo: a gold star with a blue one")
	a.setDate("Apply on", "2026-11-26")
	a.click("Prepare it")
	a.sees("It will change on Thu 26 Nov, 00:00.")
	a.open(fmt.Sprint("/quillmoor/write/", p.ID))
	a.refill("Title", "Albireo, gold and blue")
	a.eventually(func() bool {
		return a.text(`select title from posts where id = `+fmt.Sprint(p.ID)) == "Albireo, gold and blue"
	})
	a.moveTo(a.clock.Now().Add(48 * time.Hour))
	a.eventually(func() bool {
		return a.text(`select state from timed_edits where post_id = `+fmt.Sprint(p.ID)) == "held"
	})
	a.open(fmt.Sprint("/quillmoor/write/", p.ID))
	a.press(`//section[@aria-label="Timed edits"]/button`)
	a.sees("changed meanwhile in the same places")
	a.click("Settle it")
	a.sees("Choose what stays.")
	a.audit("a clash")
	a.setDate("Apply on", "2026-11-30")
	a.click("Take the edit")
	a.click("Settle")
	a.sees("Settled. It waits for its time.")
	a.do(gone(`//*[contains(., "Somebody changed this edit meanwhile")]`))
	// What was settled is kept: whoever leaves is not asked.
	a.open(fmt.Sprint("/quillmoor/write/", p.ID))
	a.sees("Versions")
	a.moveTo(a.clock.Now().Add(5 * 24 * time.Hour))
	a.eventually(func() bool {
		return a.text(`select title from posts where id = `+fmt.Sprint(p.ID)) == "Albireo: a gold star with a blue one"
	})

	// Its history has each version; an earlier one comes back.
	a.open(fmt.Sprint("/quillmoor/write/", p.ID))
	a.press(`//section[@aria-label="Versions"]/button`)
	a.click("Show the history…")
	a.sees("Changed as it was prepared: title.")
	a.press(`(//ol[@aria-label="Versions"]//button)[last()]`)
	a.sees("The first version that is kept.")
	a.audit("the history")
	a.fill("Name of this version", "As we first wrote it")
	a.click("Save the name")
	a.sees("Named.")
	a.click("Restore this version")
	a.eventually(func() bool { return a.text(`select title from posts where id = `+fmt.Sprint(p.ID)) == title })
}
