package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Rest days come from a calendar file; posts that were planned on them move off, as was
// shown, and a season takes the place of the usual week for a while.
func TestRestDaysOfAFileAndASeason(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.commits()
	p := a.waiting(3)[2]
	day := halifax(*p.DueAt)
	file := filepath.Join(t.TempDir(), "rests.ics")
	require.NoError(t, os.WriteFile(file, []byte(fmt.Sprintf("BEGIN:VCALENDAR\r\nVERSION:2.0\r\n"+
		"BEGIN:VEVENT\r\nUID:1\r\nSUMMARY:Hill fair\r\nDTSTART;VALUE=DATE:%s\r\nRRULE:FREQ=YEARLY\r\nEND:VEVENT\r\n"+
		"BEGIN:VEVENT\r\nUID:2\r\nSUMMARY:Choir\r\nDTSTART:20261201T190000Z\r\nEND:VEVENT\r\nEND:VCALENDAR\r\n", day.Format("20060102"))), 0o600))
	trick := filepath.Join(t.TempDir(), "trick.ics")
	require.NoError(t, os.WriteFile(trick, []byte("<html>"), 0o600))

	a.click("Rhythm")
	a.sees("Rest days")
	a.do(uploads(`//input[@aria-label="Calendar file"]`, trick))
	a.sees("This is not a calendar file.")
	a.do(uploads(`//input[@aria-label="Calendar file"]`, file))
	a.sees("1 event was left out")
	a.click("Add 1 rest day")
	a.sees("planned on rest days")
	a.click("Save rhythm")
	a.sees("Off the rest day “Hill fair”.")
	a.press(`//*[@role="dialog"]//button[starts-with(normalize-space(.), "Move ")]`)
	a.sees("moved off rest days.")
	assert.NotEqual(t, day.Format(time.DateOnly), halifax(*a.planned(p.Title).DueAt).Format(time.DateOnly))

	a.press(`//button[normalize-space(.)="A season"]`)
	a.sees("Between its dates")
	a.fill("Name", "Star weeks")
	a.press(`//button[normalize-space(.)="Add an opening"]`)
	a.sees("Posts by weekday")
	a.click("Save season")
	a.sees("Season “Star weeks” saved.")
	a.click("Delete")
	a.sees("Season “Star weeks” deleted.")
	a.do(gone(`//a[contains(., "Star weeks")] | //button[contains(., "Star weeks")]`))
	a.undoesLatest()
	a.do(shown(`//a[contains(., "Star weeks")] | //button[contains(., "Star weeks")]`))
	a.open("/quillmoor?day=" + halifax(a.clock.Now().Add(9*24*time.Hour)).Format(time.DateOnly))
	a.sees("The season “Star weeks” holds.")
}

// A site is paused; what comes due meanwhile stands on the overdue desk, where a line is
// changed before the site goes on.
func TestTheOverdueDesk(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Settings")
	a.click("Plan")
	a.click("Pause the site")
	a.sees("The site is paused: nothing comes out until you resume it.")
	a.do(gone(`//*[contains(@class, "toasts")]//button[.="Undo"]`)) // a pause is ended, not undone
	const title = "Clear tonight: the dome opens at eight"
	a.clock.Advance(20 * time.Minute)
	a.click("What is overdue")
	a.sees(title)
	a.sees("Comes out at once")
	a.click("Hold")
	a.sees("is on hold.")
	a.sees("Waits for you")
	a.click("Resume the site")
	a.sees("The site is running again.")
	// The list closes up once the page has heard of it: what is pressed must not move away.
	a.do(gone(control("Resume the site")), gone(`//*[contains(., "The site is paused:") and not(*)]`))
	require.True(t, a.planned(title).Held)
	a.click("Publish now")
	a.sees("is out.")
	code, _ := a.status("/blog/quillmoor/" + a.planned(title).Slug)
	assert.Equal(t, 200, code)
}

// Whoever wants nothing to move has the page stay where it is, too, while a list opens in a sheet.
func TestAListOpensInItsPlaceWithoutMotion(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.do(media("light", "none"))
	a.click("Posts")
	for _, title := range []string{"Grinding a mirror by hand, week one", "A dimmer for the hut"} {
		a.press(fmt.Sprintf(`//*[@aria-label="Choose “%s”"]`, title))
	}
	a.click("Edit selected…")
	a.press(`//*[@role="dialog"]//button[starts-with(@aria-label, "Evergreen")]`)
	a.do(shown(`//*[@role="option"][normalize-space(.)="Not evergreen"]`))
	var scrolled float64
	a.do(chromedp.Evaluate(`scrollY`, &scrolled))
	assert.Zero(t, scrolled)
}

// Fields of several posts are changed at once and taken back; a filter is kept as a
// lens; preferences hold at once.
func TestFieldsLensesAndPreferences(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	const first, second = "Grinding a mirror by hand, week one", "A dimmer for the hut"
	a.click("Posts")
	for _, title := range []string{first, second} {
		a.press(fmt.Sprintf(`//*[@aria-label="Choose “%s”"]`, title))
	}
	a.click("Edit selected…")
	a.press(`//*[@role="dialog"]//button[starts-with(@aria-label, "Evergreen")]`)
	was := []bool{a.planned(first).Evergreen, a.planned(second).Evergreen}
	a.press(`//*[@role="option"][normalize-space(.)="Not evergreen"]`)
	a.press(`//*[@role="dialog"]//button[starts-with(@aria-label, "Author")]`)
	a.press(`//*[@role="option"][contains(., "Pell")]`)
	a.click("Save 2 posts")
	a.sees("2 posts changed.")
	assert.Equal(t, "Pell Hanrahan", a.planned(first).AuthorName)
	assert.False(t, a.planned(second).Evergreen)
	a.undoesLatest()
	assert.Equal(t, was, []bool{a.planned(first).Evergreen, a.planned(second).Evergreen})
	assert.NotEqual(t, "Pell Hanrahan", a.planned(first).AuthorName)

	// In its place: a title and a time.
	a.press(fmt.Sprintf(`//*[@aria-label="Quick edit of “%s”"]`, second))
	a.refill("Title", "A dimmer for the warm hut")
	a.refill("Date", "20 Dec")
	a.refill("Time", "9:40 pm")
	a.click("Save")
	a.sees("“A dimmer for the warm hut” is saved.")
	assert.Equal(t, "2026-12-20 21:40", a.local(a.planned("A dimmer for the warm hut")))

	a.open(fmt.Sprintf("/quillmoor?view=month&authors=%d", a.person("Pell Hanrahan")))
	a.press(`//button[@aria-label="Filter: Pell Hanrahan"]`)
	a.fill("Save this view as", "Pell’s month")
	a.click("Save")
	a.sees("Lens “Pell’s month” saved.")
	// A lens outlives the renaming of what it filters for.
	_, err := a.store.DB().ExecContext(t.Context(),
		`update users set name = 'Pell Okonkwo' where name = 'Pell Hanrahan'`)
	require.NoError(t, err)
	a.open("/quillmoor")
	a.press(`//button[@aria-label="Filter and lenses"]`)
	a.click("Pell’s month")
	a.do(shown(`//button[@aria-label="Filter: Pell Okonkwo"]`))
	a.reads("November 2026")

	// The list of posts has lenses of its own; several are any of them.
	a.open("/quillmoor/posts?stages=published")
	a.press(`//button[starts-with(@aria-label, "Categories")]`)
	a.press(`//*[@role="option"][.="Workbench"]`)
	a.press(`//*[@role="option"][.="Meteor Diary"]`)
	a.do(keyed(kb.Escape), shown(`//button[@aria-label="Categories: 2 categories"]`))
	var address string
	a.until(func() bool {
		a.do(chromedp.Location(&address))
		return strings.Contains(address, "%2C")
	})
	a.do(gone(`//*[@role="row"][contains(., "Sky Guide")]`), shown(`//*[@role="row"][contains(., "Workbench")]`))
	a.click("Lenses")
	a.do(gone(`//section[@aria-label="Lenses"]//button[.="Pell’s month"]`))
	a.fill("Save this view as", "Out of the workshop")
	a.click("Save")
	a.sees("Lens “Out of the workshop” saved.")
	a.open("/quillmoor/posts")
	a.click("Lenses")
	a.click("Out of the workshop")
	a.do(shown(`//button[@aria-label="Categories: 2 categories"]`))
	a.do(chromedp.Location(&address))
	assert.Contains(t, address, "stages=published")

	a.open("/quillmoor/account")
	a.press(`//button[starts-with(@aria-label, "Same filters as")]`)
	a.press(`//*[@role="option"][normalize-space(.)="Pell’s month"]`)
	a.do(shown(`//button[@aria-label="Authors: Pell Okonkwo"]`))
	a.click("Create calendar")
	a.sees("It is shown only once:")
	a.press(`//button[starts-with(@aria-label, "Weeks begin on")]`)
	a.press(`//*[@role="option"][normalize-space(.)="Sunday"]`)
	a.do(shown(`//button[@aria-label="Weeks begin on: Sunday"]`))
	a.open("/quillmoor?view=month")
	a.do(shown(`//li[1][@data-day="2026-11-01"]`))
}

// A site that moves asks what its planned posts keep.
func TestAnotherZoneAsks(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.commits()
	p := a.waiting(1)[0]
	a.click("Settings")
	a.click("Plan")
	a.do(shown(field("Time zone")))
	a.refill("Time zone", "Lisbon")
	a.press(`//*[@role="option"][contains(., "Lisbon")]`)
	a.click("Save settings")
	a.sees("What do they keep?")
	a.click("Keep their times of day")
	a.sees("Scheduled posts keep their times of day.")
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	assert.Equal(t, a.local(p), a.planned(p.Title).DueAt.In(lisbon).Format("2006-01-02 15:04"))

	// Taken back in one, and the screen shows it.
	a.undoesLatest()
	assert.Equal(t, a.local(p), a.local(a.planned(p.Title)))
	a.until(func() bool {
		var zone string
		a.do(property(field("Time zone"), "value", &zone))
		return strings.Contains(zone, "Halifax")
	})
}
