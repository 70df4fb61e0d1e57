package e2e

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo"
	"dapper.example/internal/store"
)

// hands do an editor's work at the screen, by the pointer or by keys alone.
type hands interface {
	// press presses a button, link, option or menu item.
	press(selector string)
	// write puts a text into an empty field.
	write(label, text string)
	// draft begins a new draft.
	draft()
	// stands checks that the work can go on from where it is.
	stands()
	// to goes to a screen of the site.
	to(screen string)
	// later moves a post of the tape to a day below.
	later(p store.Post)
	// shelf looks at what scheduling the shelf would do.
	shelf()
	// open shows a post that is planned.
	open(p store.Post)
	// save saves the form of the screen.
	save(button string)
	// undo takes the latest back.
	undo()
}

// A day's work: three posts written and scheduled, the shelf scheduled, a post moved and
// another held, a rest day, a rule turned on, somebody invited, the last taken back.
func (a *app) day(h hands) {
	a.t.Helper()
	t := a.t
	for i, how := range []string{
		`//button[starts-with(normalize-space(.), "Put in the next slot")]`, control("Put on the shelf"), control("At a time…"),
	} {
		title := []string{"Frost on the lower meadow", "The fox by the gate", "A lamp for the stairs"}[i]
		h.draft()
		a.reads("A new draft. It is kept once you write something.")
		h.write("Title", title)
		h.write("Text, in Markdown", "Cold. And clear.")
		a.reads("Saved")
		h.press(how)
		if i == 2 {
			h.write("Date", "4/12/2026")
			h.write("Time in Halifax", "9.40")
			h.press(control("Schedule"))
			a.sees("Scheduled for Fri 4 Dec, 09:40.")
		}
		a.eventually(func() bool { p := a.planned(title); return p.Status == store.Scheduled || p.Cleared })
		h.stands()
	}

	h.to("Almanac")
	h.shelf()
	h.press(`//*[@role="dialog"]//button[starts-with(normalize-space(.), "Schedule ") and contains(., " drafts")]`)
	a.sees("The shelf is empty")
	moving := a.waiting(3)[2]
	h.later(moving)
	a.eventually(func() bool {
		p := a.planned(moving.Title)
		return p.DueAt.After(*moving.DueAt)
	})
	h.stands()

	held := a.planned("A lamp for the stairs")
	h.open(held)
	h.press(`//button[.="Hold"]`)
	a.eventually(func() bool { return a.planned(held.Title).Held })
	h.stands()

	h.to("Rhythm")
	h.write(inRests+"From", "7/12/2026")
	h.write(inRests+"Name", "Founders’ day")
	h.press(control("Add rest day"))
	h.save("Save rhythm")
	a.sees("Rhythm saved.")
	h.stands()

	h.to("Rules")
	h.press(control("New expiry rule"))
	h.write("Name", "Letters have their season")
	h.press(control("Add a condition"))
	h.write("What with", "Members Write")
	h.press(`//*[@role="option"][normalize-space(.)="Members Write"]`)
	a.sees(" of 155 published")
	h.save("Save rule")
	a.sees("It does nothing until you turn it on.")
	h.stands()

	h.to("People")
	h.write("E-mail", "nell@quillmoor.example")
	h.press(`//button[normalize-space(.)="Invite"]`)
	a.sees("nell@quillmoor.example is invited")
	h.stands()

	h.to("Almanac")
	frost := a.planned("Frost on the lower meadow")
	h.later(frost)
	a.eventually(func() bool { return a.planned(frost.Title).DueAt.After(*frost.DueAt) })
	a.sees(fmt.Sprintf("“%s” moved to", frost.Title))
	h.undo()
	a.sees("Undone.")
	assert.Equal(t, frost.DueAt, a.planned(frost.Title).DueAt)
}

// pointer is the hands of somebody with a mouse.
type pointer struct{ *app }

func (h pointer) press(selector string) { h.t.Helper(); h.app.press(selector) }

const schedule = `//button[starts-with(normalize-space(.), "Schedule ") and contains(., " drafts…")]`

// inRests begins the label of a field of the rest days.
const inRests = "Rest days: "

// entry is field, of the rest days where the label says so.
func entry(label string) string {
	if of, rests := strings.CutPrefix(label, inRests); rests {
		return `//section[@aria-labelledby="rests"]` + field(of)
	}
	return field(label)
}

func (h pointer) write(label, text string) {
	h.t.Helper()
	if label != "Text, in Markdown" && label != "What with" {
		h.do(focused(entry(label)), chromedp.Evaluate(`document.activeElement.select()`, nil), keyed(text))
		return
	}
	h.fill(label, text)
}
func (h pointer) draft() { h.t.Helper(); h.click("New draft") }
func (h pointer) shelf() {
	h.t.Helper()
	h.app.press(schedule)
}
func (h pointer) open(p store.Post) {
	h.t.Helper()
	h.quiet() // what has been said may lie over the post
	h.app.press(fmt.Sprintf(`[data-tape] [data-post="%d"]`, p.ID))
}
func (h pointer) save(button string) { h.t.Helper(); h.click(button) }
func (h pointer) stands()            {}
func (h pointer) undo()              { h.t.Helper(); h.app.press(latestUndo) }
func (h pointer) to(screen string) {
	h.t.Helper()
	if screen == "People" {
		h.app.press(`//button[contains(@aria-label, ": account, people")]`)
	}
	h.click(screen)
}
func (h pointer) later(p store.Post) {
	h.t.Helper()
	from := h.middle(fmt.Sprintf(`[data-tape] [data-post="%d"]`, p.ID))
	to := h.minuteOn(halifax(*p.DueAt).AddDate(0, 0, 2).Format(time.DateOnly), 700)
	h.hold(from, spot{from.X, to.Y})
	h.drop(spot{from.X, to.Y})
}

// keyboard is the hands of somebody who has no pointer. They see the screen, and know
// the keys of the sheet.
type keyboard struct{ *app }

// mostTabs is how far away a control may be from where the work has led.
const mostTabs = 40

// reach goes to a control by Tab alone, from where the focus is.
func (h keyboard) reach(selector string) {
	h.t.Helper()
	h.do(shown(selector))
	for tabs := 0; tabs <= mostTabs; tabs++ {
		var there bool
		h.do(chromedp.ActionFunc(func(ctx context.Context) (err error) {
			there, err = ask[bool](ctx, fmt.Sprintf(`
				await frame();
				const at = document.activeElement;
				return found(%q).some((e) => e === at || (e.getAttribute("role") === "option" && at.getAttribute("aria-activedescendant") === e.id));`, selector))
			return err
		}))
		if there {
			return
		}
		h.do(keyed(kb.Tab))
	}
	var at string
	h.do(chromedp.Evaluate(`document.activeElement.outerHTML.slice(0, 300)`, &at))
	require.Failf(h.t, "too far", "%s is more than %d tabs away; the focus is on %s", selector, mostTabs, at)
}

func (h keyboard) press(selector string) {
	h.t.Helper()
	if strings.HasPrefix(selector, `//*[@role="option"]`) {
		h.do(shown(selector), keyed(kb.ArrowDown), keyed(kb.Enter))
		return
	}
	h.reach(selector)
	h.do(keyed(kb.Enter))
}

func (h keyboard) write(label, text string) {
	h.t.Helper()
	h.reach(entry(label))
	h.do(keyed(text))
}

func (h keyboard) draft() {
	h.t.Helper()
	h.to("New draft")
}

// stands waits until the focus is somewhere on the page: a deed does not lose it.
func (h keyboard) stands() {
	h.t.Helper()
	h.until(func() bool {
		var on bool
		h.do(chromedp.Evaluate(`document.activeElement !== document.body`, &on))
		return on
	})
}

func (h keyboard) undo() { h.t.Helper(); h.chord("z", 2) }

func (h keyboard) shelf() { h.t.Helper(); h.do(shown(schedule), keyed("c")) }

func (h keyboard) open(p store.Post) { h.t.Helper(); h.to(p.Title) }

func (h keyboard) save(string) { h.t.Helper(); h.chord("s", 2) }

// to goes to a screen, or a post, by the palette.
func (h keyboard) to(screen string) {
	h.t.Helper()
	h.chord("k", 2)
	h.do(keyed(screen))
	h.do(shown(fmt.Sprintf(`//*[@role="dialog"]//*[@role="option"][contains(., %q)]`, screen)),
		keyed(kb.Enter))
	h.do(gone(`//*[@role="dialog"]`))
}

func (h keyboard) later(p store.Post) {
	h.t.Helper()
	h.reach(fmt.Sprintf(`[data-tape] [data-post="%d"]`, p.ID))
	h.do(keyed("h"), keyed(kb.ArrowDown), keyed(kb.ArrowDown),
		keyed(kb.Enter))
}

func TestADaysWorkByThePointer(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.day(pointer{a})
}

func TestADaysWorkByKeysAlone(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.open("/")
	h := keyboard{a}
	h.write("E-mail", demo.People()[0].Email)
	h.write("Password", demo.Password)
	h.press(`//button[.="Sign in"]`)
	a.sees("Shelf")
	a.day(h)
}
