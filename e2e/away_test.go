package e2e

import (
	"fmt"
	"net/http"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo"
)

// reached answers as a program behind a proxy does: while it is away, the proxy says so in its place.
func (a *app) reached(h http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if a.away.Load() && strings.HasPrefix(r.URL.Path, "/api/") {
			http.Error(w, "nobody here", http.StatusBadGateway)
			return
		}
		if gate := a.gate.Load(); gate != nil && r.Method != http.MethodGet {
			select {
			case <-*gate:
			case <-r.Context().Done():
			}
		}
		h.ServeHTTP(w, r)
	})
}

// meanwhile does something between the sending of what is saved and its arrival.
func (a *app) meanwhile(save, something func()) {
	gate := make(chan struct{})
	a.gate.Store(&gate)
	save()
	something()
	a.gate.Store(nil)
	close(gate)
}

// tagline reads the blog's tagline.
func (a *app) tagline() string { return a.text(`select tagline from sites where slug = 'quillmoor'`) }

// The program is replaced while somebody types: they are told, lose nothing, and go on once it is back.
func TestTheServerIsAwayForAWhile(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/settings/blog")
	a.sees("engine running")
	a.refill("Tagline", "Typed while nobody answered")
	a.away.Store(true)
	a.screens.CloseClientConnections()
	a.sees("The server isn’t answering, so what you see may be out of date.")
	a.sees("not reached")
	a.audit("away")
	a.click("Save blog")
	a.sees("The server isn’t answering now. Nothing is lost")

	a.away.Store(false)
	a.click("Ask again now")
	a.do(gone(`//*[contains(., "may be out of date")]`))
	a.sees("engine running")
	// What others do is heard of again, too.
	_, err := a.store.DB().ExecContext(t.Context(), `update sites set paused_at = now() where slug = 'quillmoor'`)
	require.NoError(t, err)
	a.sees("The site is paused")
	a.click("Save blog")
	a.eventually(func() bool { return a.tagline() == "Typed while nobody answered" })
}

// A session ends while somebody writes: they sign in again over what they were at, and nothing is lost.
func TestASessionEndsWhileOneWrites(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	ended := func() {
		_, err := a.store.DB().ExecContext(t.Context(), `delete from sessions`)
		require.NoError(t, err)
	}
	a.open("/quillmoor/settings/blog")
	a.refill("Tagline", "Typed after the end")
	ended()
	a.click("Save blog")
	a.sees("You’re signed out")
	a.do(answers("nothing else to be reached", `(document.activeElement.type === "password" && document.elementFromPoint(5, 5).closest("dialog") !== null)`))
	a.audit("signed out")
	a.do(keyed(kb.Escape), keyed(kb.Escape))
	a.typed(`//dialog//input[@type="password"]`, "not it")
	a.press(`//dialog//button`)
	a.sees("Wrong address or password.")
	a.do(focused(`//dialog//input[@type="password"]`), chromedp.Evaluate(`document.activeElement.select()`, nil), keyed(demo.Password))
	a.press(`//dialog//button`)
	a.do(gone(`//dialog`))
	a.click("Save blog")
	a.eventually(func() bool { return a.tagline() == "Typed after the end" })

	a.sees("Blog saved.")
	// What is being written in the editor is saved by itself then.
	p := a.postCalled("Why Albireo looks different in every eyepiece")
	a.open(fmt.Sprint("/quillmoor/write/", p.ID))
	a.sees("Featured image")
	a.meanwhile(func() { a.refill("Title", "Albireo, once more") }, ended)
	a.sees("You’re signed out")
	a.typed(`//dialog//input[@type="password"]`, demo.Password)
	a.press(`//dialog//button`)
	a.eventually(func() bool {
		return a.text(fmt.Sprint(`select title from posts where id = `, p.ID)) == "Albireo, once more"
	})
	a.do(gone(`//dialog`))
}

// Who goes on typing while a save is on its way loses nothing, and saves that too.
func TestWhatIsTypedWhileItIsSavedStays(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/settings/look")
	const accent = "Or a colour of your own"
	reads := func(label, text string) {
		t.Helper()
		a.do(answers(label+" to say "+text, fmt.Sprintf("found(%q)[0]?.value === %q", field(label), text)))
	}
	a.refill(accent, "#1f4d3a")
	a.meanwhile(func() { a.click("Save look") }, func() { a.refill(accent, "#5a2d6b") })
	a.sees("Look saved.")
	reads(accent, "#5a2d6b")
	a.quiet()
	a.click("Save look")
	a.sees("Look saved.") // what is not saved yet is not left by accident
	assert.Equal(t, "#5a2d6b", a.text(`select accent from sites where slug = 'quillmoor'`))
	a.quiet()

	p := a.postCalled("Why Albireo looks different in every eyepiece")
	a.open(fmt.Sprintf("/quillmoor/edits/new?post=%d", p.ID))
	a.refill("Title", "Albireo, first")
	a.setDate("Apply on", "2026-12-26")
	a.meanwhile(func() { a.click("Prepare it") }, func() { a.refill("Title", "Albireo, second") })
	a.sees("It will change on Sat 26 Dec, 00:00.")
	a.do(answers("an address of its own", `/edits\/\d+$/.test(window.location.pathname)`))
	reads("Title", "Albireo, second")
	said := func() string {
		return a.text(fmt.Sprint(`select wanted->>'title' from timed_edits where post_id = `, p.ID))
	}
	a.eventually(func() bool { return said() == "Albireo, first" })
	a.quiet()
	a.meanwhile(func() { a.click("Save") }, func() { a.refill("Title", "Albireo, third") })
	a.sees("It will change on Sat 26 Dec, 00:00.")
	reads("Title", "Albireo, third")
	a.eventually(func() bool { return said() == "Albireo, second" })
	a.quiet()
	a.click("Save")
	a.sees("It will change on Sat 26 Dec, 00:00.")
	assert.Equal(t, "Albireo, third", said())

	// Dates that are typed and not saved yet outlast the saving of the text, by itself.
	a.signIn("/quillmoor/posts?stages=draft")
	a.press(`(//a[contains(@href, "/write/")])[1]`)
	a.press(`//section[@aria-label="Not before, deadline"]/button`)
	a.setDate("Not before", "2027-03-04")
	a.refill("Title", "A draft with a date in mind")
	a.eventually(func() bool {
		return a.text(`select count(*)::text from posts where title = 'A draft with a date in mind'`) == "1"
	})
	a.reads("Saved")
	a.press(`//section[@aria-label="Not before, deadline"]//button[@type="submit"]`)
	a.sees("Dates saved.")
	assert.Equal(t, "2027-03-04", a.text(`select to_char(not_before at time zone 'America/Halifax', 'YYYY-MM-DD') from posts where title = 'A draft with a date in mind'`))
}
