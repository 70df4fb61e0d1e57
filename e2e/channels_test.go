package e2e

import (
	"fmt"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/demo"
	"dapper.example/internal/siterules"
	"dapper.example/internal/standin"
)

// foretold are the messages that are to go out up to a moment, by the kind of the network, in
// the order of their texts.
func (a *app) foretold(to time.Time) map[string][]string {
	a.t.Helper()
	ctx := a.t.Context()
	site, err := a.store.SiteBySlug(ctx, demo.SiteSlug)
	require.NoError(a.t, err)
	told, err := siterules.Book{Site: site, Public: a.url}.Coming(ctx, a.store.Queries, a.clock.Now(), to)
	require.NoError(a.t, err)
	all, err := a.store.Channels(ctx, site.ID)
	require.NoError(a.t, err)
	kinds := make(map[int64]string)
	for _, c := range all {
		kinds[c.ID] = c.Kind
	}
	said := make(map[string][]string)
	for _, e := range told.Events {
		if e.Effect == deed.Said {
			said[kinds[e.Channel]] = append(said[kinds[e.Channel]], e.Text)
		}
	}
	return said
}

// walls are the texts on the walls, sorted, once nothing is on its way any more.
func (a *app) walls() map[string][]string {
	a.t.Helper()
	a.eventually(func() bool {
		var waiting int
		require.NoError(a.t, a.store.DB().GetContext(a.t.Context(), &waiting, `select count(*) from outings where state = 'waiting'`))
		return waiting == 0
	})
	said := make(map[string][]string)
	for kind, n := range a.networks {
		for _, m := range n.Messages() {
			said[kind] = append(said[kind], m.Text)
		}
	}
	return said
}

func sortedEach(all map[string][]string) map[string][]string {
	for _, texts := range all {
		slices.Sort(texts)
	}
	return all
}

// An editor connects an account, makes a rule for two channels, is told that its wording is too
// long, mends it and turns it on. A week later each wall shows what was foretold. A network that
// takes messages and falls silent does not show one twice.
func TestFromAnAccountToItsWall(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Channels")
	a.sees("Each post may say otherwise")
	a.audit("channels")
	a.click("Connect Hearth")
	a.sees("post in your name?")
	a.typed(`//input[@name="handle"]`, "dome-two")
	a.press(`//button[normalize-space(.)="Allow"]`)
	a.sees("is connected.")
	a.sees("@dome-two")

	a.click("Make a rule that shares on it")
	a.fill("Name", "Letters on two channels")
	a.click("Add a condition")
	a.value("Members Write")
	a.press(`//label[normalize-space(.)="Hearth @dome-two"]`)
	a.paste("Wording 1", strings.Repeat("Far too long ", 40)+"{title} {link}")
	a.sees("The message can’t fit")
	a.sees(" over")
	a.refill("Wording 1", "A letter: {title} {link}")
	a.sees("of 320")
	a.audit("a rule on two channels")
	a.click("Save rule")
	a.sees("It does nothing until you turn it on.")
	a.click("Turn on…")
	a.click("Turn on")
	a.sees("Rule turned on.")

	// The second of the coming turns is left out, and the rule goes on around it.
	before := len(a.foretold(a.clock.Now().AddDate(0, 0, 7))["hearth"])
	a.press(`(//section[@aria-label="Coming"]//button[normalize-space(.)="Leave out"])[3]`)
	a.sees("Left out. The rule goes on with its next turn.")
	week := a.clock.Now().AddDate(0, 0, 7)
	want := a.foretold(week)
	require.NotEmpty(t, want["lantern"])
	assert.Equal(t, before-1, len(want["hearth"]))
	a.livesUnseen(week)
	assert.Equal(t, sortedEach(want), sortedEach(a.walls()))
	if brief() { // what is cut off is sent again after a while, by the real clock
		return
	}

	// The weather turns bad, and good again.
	a.lantern.Turn(standin.Silent)
	later := week.AddDate(0, 0, 2)
	more := a.foretold(later)
	require.NotEmpty(t, more["lantern"])
	a.liveTo(later)
	a.eventually(func() bool { return len(a.lantern.Messages()) == len(want["lantern"])+len(more["lantern"]) })
	a.lantern.Turn(standin.Fair)
	for kind, texts := range more {
		want[kind] = append(want[kind], texts...)
	}
	assert.Equal(t, sortedEach(want), sortedEach(a.walls()), "nothing twice, nothing missing")
}

// A channel that is signed out says so, holds its messages, and sends them after the editor has
// signed in again; one that is deleted says first what goes along.
func TestAChannelIsSignedOutAndDeleted(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.networks["hearth"].Revoke(demo.Handle)
	week := a.clock.Now().AddDate(0, 0, 4)
	a.liveTo(week)
	a.click("Channels")
	a.sees("Needs sign-in")
	assert.Empty(t, a.networks["hearth"].Messages())
	a.click("Sign in again")
	a.typed(`//input[@name="handle"]`, demo.Handle)
	a.press(`//button[normalize-space(.)="Allow"]`)
	a.sees("is connected.")
	a.press(`(//ul[@aria-label="Your channels"]/li)[4]//button[normalize-space(.)="Delete…"]`)
	a.sees("what is shared when posts come out")
	a.audit("deleting a channel")
	a.click("Delete Crier")
	a.sees("Crier is deleted.")
	a.until(func() bool {
		site, err := a.store.SiteBySlug(t.Context(), demo.SiteSlug)
		require.NoError(t, err)
		all, err := a.store.Channels(t.Context(), site.ID)
		require.NoError(t, err)
		return len(all) == 3
	})
}

// A message of no post goes out within a minute; another several times within some days.
func TestAMessageNowAndSeveralTimes(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Channels")
	a.click("Share a message…")
	a.click("Now")
	a.fill("Text", "The dome is open now: {link}")
	a.fill("Link, as {link}", "https://dome.example/nights")
	a.press(`//*[@role="dialog"]//label[contains(., "Lantern")]`)
	a.sees("46 of 320")
	a.click("Send now")
	a.sees("It goes out within a minute.")
	a.liveTo(a.clock.Now().Add(time.Minute))
	assert.Contains(t, a.walls()["lantern"], "The dome is open now: https://dome.example/nights")

	a.click("Share a message…")
	a.click("Several times")
	a.refill("Times", "1")
	a.sees("From 2 to 50.")
	a.refill("Times", "4")
	a.fill("Text", "Four nights of open dome")
	a.press(`//*[@role="dialog"]//label[contains(., "Lantern")]`)
	a.click("Plan 4 outings")
	a.sees("Planned.")
	planned := 0
	require.NoError(t, a.store.DB().GetContext(t.Context(), &planned, `select count(*) from outings where state = 'planned' and own_text = 'Four nights of open dome'`))
	assert.Equal(t, 4, planned)
}

// An editor writes messages beforehand, one by hand and some from a sheet, marks them ready, and a week later each
// has gone out once, as foretold.
func TestPreparedMessagesGoOut(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Channels")
	a.click("Open the table")
	a.sees("There is no list “nothing-yet”.")
	a.click("Add a message")
	last := `(//textarea)[last()]`
	a.do(answers("a new row", `document.activeElement.placeholder === "What does it say?"`))
	a.typed(last, "The kettle is on at the hut")
	a.do(chromedp.Evaluate(`document.activeElement.blur()`, nil))
	a.press(`//*[@role="checkbox"][@aria-label="Ready: The kettle is on at the hut"]`)
	a.sees("1 message is ready.")

	a.click("Paste a sheet…")
	sheet := "Cells copied from a sheet"
	a.fill(sheet, "text,date,time\nFrom a sheet,28 Nov,17:30\nAnd another,when it suits,")
	a.click("Next")
	a.sees("“when it suits” is not a date and a time.")
	a.click("Add 2 messages")
	a.sees("2 messages added.")
	a.click("Paste a sheet…")
	a.do(uploads(`input[aria-label="Sheet file"]`, bookOf(t, "Ideas", "December", []any{"text", "date"}, []any{"From a book", "9 Dec, 17:30"})))
	a.sees("There is no row in this sheet.")
	a.press(`//button[starts-with(@aria-label, "Sheet: Ideas")]`)
	a.press(`//*[@role="option"][normalize-space(.)="December"]`)
	a.sees("From a book")
	a.click("Add 1 message")
	a.sees("1 message added.")
	a.press(`//*[@role="checkbox"][@aria-label="Ready: From a sheet"]`)
	a.reads("Sat 28 Nov, 17:30")

	// One whose time has passed is asked about.
	a.press(`//*[@role="checkbox"][@aria-label="Ready: Last call for the talk by lantern: six s"]`)
	a.sees("Its time has passed")
	a.click("Next opening")
	a.eventually(func() bool {
		planned := 0
		require.NoError(t, a.store.DB().GetContext(t.Context(), &planned, `select count(*) from outings where state = 'planned' and prepared_id is not null`))
		return planned == 6 // two of the demo's, these two, and the last on two channels
	})

	// A sample is on the practice wall, and nowhere else.
	a.click("Actions for And another")
	a.click("Edit…")
	a.click("Send a sample")
	a.sees("see it on the practice wall")
	a.click("Cancel")
	assert.NotContains(t, a.walls()["lantern"], "And another")

	end := a.clock.Now().AddDate(0, 0, 7)
	before := a.walls()
	told := a.foretold(end)
	a.liveTo(end)
	after := a.walls()
	for kind, texts := range told {
		assert.Equal(t, sortedEach(map[string][]string{kind: append(before[kind], texts...)})[kind], sortedEach(after)[kind], kind)
	}
	for _, text := range []string{"The kettle is on at the hut", "From a sheet", "Last call for the talk by lantern: six seats are left."} {
		assert.Contains(t, after["lantern"], text)
	}
	a.click("Past")
	a.sees("The kettle is on at the hut")
}

// bookOf is an .xlsx file of two sheets, the first of which is empty.
func bookOf(t *testing.T, empty, name string, rows ...[]any) string {
	t.Helper()
	f := excelize.NewFile()
	require.NoError(t, f.SetSheetName("Sheet1", empty))
	_, err := f.NewSheet(name)
	require.NoError(t, err)
	for i, row := range rows {
		require.NoError(t, f.SetSheetRow(name, fmt.Sprint("A", i+1), &row))
	}
	file := filepath.Join(t.TempDir(), "plan.xlsx")
	require.NoError(t, f.SaveAs(file))
	return file
}

// An editor adds a webhook and tries it with a sample; then a channel of outside hands, whose message is ticked off by hand.
func TestWebhooksAndOutsideHands(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Channels")
	a.click("Open webhooks")
	a.click("Add a webhook")
	a.fill("Name", "The print shop")
	a.fill("Address", "http://10.1.2.3/hooks")
	a.click("Add webhook")
	a.sees("is in this server's own network")
	a.refill("Address", strings.TrimSuffix(a.outside, "/")+"/hooks/")
	a.click("Add webhook")
	a.sees("The webhook’s secret")
	a.press(`//*[@role="dialog"]//button[normalize-space(.)="Close"]`)
	a.click("Deliveries…")
	a.click("Send a sample")
	a.sees("The sample arrived.")
	a.sees("✓ Delivered")
	a.press(`//*[@role="dialog"]//button[normalize-space(.)="Close"]`)

	a.click("Channels")
	a.click("Add outside hands…")
	a.refill("Name", "The notice board")
	a.click("Add")
	a.sees("done by people, on the list here")
	a.click("Share a message…")
	a.click("Now")
	a.fill("Text", "Open on Friday from eight")
	a.press(`//*[@role="dialog"]//label[contains(., "The notice board")]`)
	a.click("Send now")
	a.sees("It goes out within a minute.")
	a.liveTo(a.clock.Now().Add(time.Minute))
	a.sees("1 message to send by hand")
	a.click("Mark as sent…")
	a.fill("Where it can be read, if anywhere", "https://board.example/friday")
	a.press(`//*[@role="dialog"]//button[normalize-space(.)="Mark as sent"]`)
	a.sees("Marked as sent.")
	sent := ""
	require.NoError(t, a.store.DB().GetContext(t.Context(), &sent, `select remote_url from outings where text = 'Open on Friday from eight' and state = 'sent'`))
	assert.Equal(t, "https://board.example/friday", sent)
}
