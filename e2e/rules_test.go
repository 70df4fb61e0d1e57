package e2e

import (
	"fmt"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// liveTo moves the clock on as time passes: from one thing that is due to the next, each
// done at its minute.
func (a *app) liveTo(end time.Time) {
	a.t.Helper()
	for {
		for {
			n, err := a.stepper.Step(a.browser)
			require.NoError(a.t, err)
			if n == 0 {
				break
			}
		}
		next, err := a.stepper.Next(a.browser, a.clock.Now())
		require.NoError(a.t, err)
		if next.IsZero() || next.After(end) {
			next = end
		}
		if !next.After(a.clock.Now()) {
			return
		}
		a.clock.Advance(next.Sub(a.clock.Now()))
	}
}

// livesUnseen is liveTo while nobody looks: a page that is open asks anew for what it shows at each thing that is done.
func (a *app) livesUnseen(end time.Time) {
	a.t.Helper()
	a.do(chromedp.Navigate("about:blank"))
	a.liveTo(end)
}

// value adds a value to the last test of a condition.
func (a *app) value(text string) {
	a.t.Helper()
	a.fill("What with", text)
	a.press(fmt.Sprintf(`//*[@role="option"][normalize-space(.)=%s]`, quoted(text)))
}

// An editor makes an expiry rule, sees what it catches and why, arms it from there, and
// the next morning readers see the notice. The editor undoes the run.
func TestAnExpiryRuleFromItsCatchToItsUndoing(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	const letter = "/blog/quillmoor/a-letter-from-a-night-nurse"
	code, page := a.status(letter)
	require.Equal(t, http.StatusOK, code)
	require.NotContains(t, page, "archived")

	a.click("Rules")
	a.click("New expiry rule")
	a.sees("Posts show up here once the rule is complete.")
	a.fill("Name", "Letters have their season")
	a.click("Add a condition")
	a.sees("Choose at least one.")
	a.value("Members Write")
	a.sees(" of 155 published")
	a.sees("its category is Members Write")
	a.refill("Most posts a run", "100")
	a.click("Save rule")
	a.sees("It does nothing until you turn it on.")
	a.reads("Off")

	// Why is a post not caught?
	a.fill("Find a post by its title", "gate bell")
	a.press(`//*[@role="option"][normalize-space(.)="The gate bell is mended"]`)
	a.sees("is not caught: it is archived, not published.")

	a.click("Turn on…")
	a.sees("published posts match now and will be archived at its next turn.")
	a.click("Turn on")
	a.sees("Rule turned on.")
	a.sees("Next: Wed 25 Nov, 04:00")

	a.liveTo(start.Add(17*time.Hour + 35*time.Minute)) // 03:55
	_, page = a.status(letter)
	assert.NotContains(t, page, "archived")
	a.liveTo(start.Add(17*time.Hour + 45*time.Minute))
	code, page = a.status(letter)
	assert.Equal(t, http.StatusOK, code, "the page stays")
	assert.Contains(t, page, "This page was archived on 25 November 2026. What it says may no longer hold.")
	for _, list := range []string{"/blog/quillmoor/", "/blog/quillmoor/?page=2", "/blog/quillmoor/feed.atom",
		"/blog/quillmoor/sitemap.xml"} {
		_, text := a.status(list)
		assert.NotContains(t, text, "a-letter-from-a-night-nurse", list)
	}

	// The open screen shows it by itself.
	a.sees("took 28 of 28")
	a.click("Undo this run")
	a.sees("The run is undone.")
	a.sees("Needs your decision")
	_, page = a.status(letter)
	assert.NotContains(t, page, "archived")
	_, text := a.status("/blog/quillmoor/sitemap.xml")
	assert.Contains(t, text, "a-letter-from-a-night-nurse")
	a.liveTo(start.Add(48 * time.Hour))
	_, page = a.status(letter)
	assert.NotContains(t, page, "archived", "what was undone is not done again")
}

// An editor makes a reshare rule and reads its coming outings; a week later the wall
// shows exactly those.
func TestAReshareRuleDoesWhatItForetold(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/rules/new/reshare")
	a.fill("Name", "From the archive")
	a.click("Add a condition")
	a.value("Meteor Diary")
	a.value("Sky Guide")
	a.refill("Youngest", "0")
	a.refill("Days between", "0")
	a.refill("Wording 1", "From the archive: {titel} {link}")
	a.sees("There is no placeholder {titel}.")
	a.refill("Wording 1", "From the archive: {title} {link}")
	a.sees("wording 1 · ")
	a.click("Save rule")
	a.sees("It does nothing until you turn it on.")
	a.click("Turn on…")
	a.click("Turn on")
	a.sees("Rule turned on.")
	a.sees("Next: Tue 24 Nov")
	a.sees("wording 1 · ") // the catch is looked at anew once it is armed

	a.click("Show 14 more")
	var coming []string
	a.do(chromedp.Evaluate(`[...document.querySelectorAll('[aria-label="Coming"] li')].map(li => li.children[1].innerText)`, &coming))
	require.Len(t, coming, 20)
	assert.Empty(t, a.lantern.Messages(), "nothing is sent before its time")

	a.livesUnseen(start.AddDate(0, 0, 7))
	var shown []string
	a.until(func() bool {
		shown = nil
		for _, m := range a.lantern.Messages() {
			if strings.HasPrefix(m.Text, "From the archive: ") {
				shown = append(shown, m.Text)
			}
		}
		return len(shown) >= 7
	})
	// Jobs are done side by side, so the wall may show a week's messages in another order
	// when a test lives through it in seconds.
	assert.ElementsMatch(t, coming[:7], shown)

	// The rule tells what became of them.
	a.open("/quillmoor/rules")
	a.press(`//a[text()="From the archive"]`)
	a.sees("So far")
	a.until(func() bool {
		var n int
		a.do(chromedp.Evaluate(`[...document.querySelectorAll('[aria-label="So far"] li')].filter(li => li.innerText.includes("Read it")).length`, &n))
		return n == 7
	})

	// On the tape, outings are a layer that can be switched off.
	a.open("/quillmoor?from=2026-11-24")
	title, _, _ := strings.Cut(strings.TrimPrefix(coming[0], "From the archive: "), " http")
	mark := fmt.Sprintf(`//button[contains(@aria-label, %s)]`, quoted("share "+title))
	a.press(mark)
	a.sees("by the rule “From the archive”")
	a.click("Close and show the shelf")
	a.press(`//*[@aria-label="Layers"]//button[contains(., "Outings")]`)
	a.do(gone(mark))
}

// A post gets an expiry of its own; when it comes, the post is archived.
func TestAPostWithAnExpiryOfItsOwn(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/forecast")
	a.sees("The shelf runs dry")
	var id int64
	require.NoError(t, a.store.DB().GetContext(t.Context(), &id,
		`select id from posts where slug = 'perseids-one-hundred-and-eleven-in-four-hours'`))
	a.open(fmt.Sprintf("/quillmoor/write/%d", id))
	a.press(`//section[@aria-label="Upkeep"]/button`)
	a.setDate("Expires on", "2026-11-30")
	a.refill("at", "06:30")
	a.until(func() bool {
		var at string
		require.NoError(t, a.store.DB().GetContext(t.Context(), &at,
			`select coalesce(to_char(expires_at at time zone 'America/Halifax', 'YYYY-MM-DD HH24:MI'), '') from posts where id = $1`, id))
		return at == "2026-11-30 06:30"
	})
	a.open("/quillmoor/forecast")
	a.sees("Set to expire on Mon 30 Nov, 06:30.")
	a.liveTo(start.AddDate(0, 0, 6))
	_, page := a.status("/blog/quillmoor/perseids-one-hundred-and-eleven-in-four-hours")
	assert.Contains(t, page, "archived on 30 November 2026")
}

// setDate puts a date into a date field as a browser's picker would.
func (a *app) setDate(label, date string) {
	a.t.Helper()
	var ok bool
	a.do(shown(field(label)), focused(field(label)), chromedp.Evaluate(fmt.Sprintf(`(() => {
		const input = document.activeElement;
		Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, "value").set.call(input, %q);
		input.dispatchEvent(new Event("input", { bubbles: true }));
		return true;
	})()`, date), &ok))
}

// Two editors work on one rule: what the slower one wrote is neither saved over the
// other's nor lost.
func TestTwoEditorsOnOneRule(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/rules")
	a.press(`//a[text()="Meteor diary in pictures"]`)
	a.refill("Name", "My own name for it")
	_, err := a.store.DB().ExecContext(t.Context(),
		`update rules set name = 'Their name', version = version + 1 where name = 'Meteor diary in pictures'`)
	require.NoError(t, err)
	a.sees("Somebody else changed this rule.")
	var mine string
	a.do(property(field("Name"), "value", &mine))
	assert.Equal(t, "My own name for it", mine)
	a.click("Save rule")
	a.sees("Nothing was overwritten")
	a.click("Load theirs")
	a.do(gone(`//*[contains(text(), "Somebody changed this rule")]`), property(field("Name"), "value", &mine))
	assert.Equal(t, "Their name", mine)
}
