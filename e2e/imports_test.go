package e2e

import (
	"net/http"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/store"
)

// sample is one of the sample files that ship with the program.
func sample(t *testing.T, name string) string {
	t.Helper()
	path, err := filepath.Abs(filepath.Join("..", "docs", "samples", name))
	require.NoError(t, err)
	return path
}

// brings chooses files to import, and waits until it is asked what is done with them.
func (a *app) brings(files ...string) {
	a.t.Helper()
	a.do(chromedp.SetUploadFiles(`input[aria-label="Files to import"]`, files, chromedp.ByQuery))
	a.sees("The first lines, as posts")
}

// brought counts the posts of an import by their status.
func (a *app) brought(source string) map[store.Status]int {
	a.t.Helper()
	var rows []struct {
		Status store.Status `db:"status"`
		N      int          `db:"n"`
	}
	require.NoError(a.t, a.store.DB().SelectContext(a.t.Context(), &rows, `select status, count(*) as n from posts where import = $1 group by 1`, source))
	counts := make(map[store.Status]int)
	for _, r := range rows {
		counts[r.Status] = r.N
	}
	return counts
}

// An editor drops an archive, sees what comes of it, has it placed from next Monday, one a day at uneven times, sees it on
// the tape, and undoes all of it.
func TestAnArchiveIsPlacedAndUndone(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Posts")
	a.click("Import")
	a.sees("Drop an archive, a folder, articles or a sheet here.")
	a.audit("imports")
	a.brings(sample(t, "winter-nights.zip"))
	a.sees("12 articles and 3 pictures.")
	a.sees("A letter about the gate")
	a.sees("It is empty.")
	a.audit("an import being set up")
	a.chooses("They become", "Scheduled, each with a time")
	a.fill("Start from", "30 Nov")
	a.chooses("Times from", "a pattern, just this once")
	a.sees("Uneven minutes")
	a.click("Read all 12 articles")
	a.sees("lines become posts")
	a.sees("10 posts get times, the first on")
	a.audit("what an import comes to")
	a.click("The longest nights of the year")
	a.sees("From the end of November to the first days of January")
	a.click("Close")
	a.click("Bring in 11 posts")
	a.sees("posts brought in")
	assert.Equal(t, map[store.Status]int{store.Scheduled: 10, store.Draft: 1}, a.brought("winter-nights"), "what says that it is a draft stays one")
	p := a.planned("A letter about the gate")
	assert.Regexp(t, `^2026-11-30 \d\d:\d\d$`, a.local(p))
	assert.NotZero(t, p.DueAt.Minute()%5)

	a.click("Almanac")
	a.do(answers("it is on the tape", `[...document.querySelectorAll("[data-tape] [data-post]")].some((e) => e.getAttribute("aria-label")?.includes("A letter about the gate"))`))
	a.click("Logbook")
	a.sees("11 posts brought in from “winter-nights”.")
	a.open("/quillmoor/import")
	a.click("winter-nights")
	a.click("Undo: posts go to the bin")
	a.sees("back in the bin")
	a.eventually(func() bool { return a.brought("winter-nights")[store.Binned] == 11 })
}

// A sheet becomes posts with a composed text; brought in once more, it changes those that nobody has touched.
func TestASheetBecomesPosts(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.open("/quillmoor/import")
	a.brings(sample(t, "instruments.xlsx"))
	a.sees("A sheet with 6 columns.")
	a.fill("Title", "{column:Instrumnt}, to borrow")
	a.sees("There is no column “Instrumnt”.")
	a.refill("Title", "{column:Instrument}, to borrow")
	a.fill("Text", "Good for {column:What it is good for}.\n\nAsk {column:Lent by}.")
	a.chooses("Put a column into Author", "Lent by")
	a.sees("Brass refractor, to borrow")
	a.sees("Good for rings and double stars.")
	a.click("Save this setup…")
	a.fill("Name", "Things to borrow")
	a.click("Save")
	a.sees("The setup is saved as “Things to borrow”.")
	a.chooses("They become", "On the shelf")
	a.click("Read all rows")
	a.click("Bring in 20 posts")
	a.sees("posts brought in")
	assert.Equal(t, map[store.Status]int{store.Draft: 20}, a.brought("instruments"))

	a.click("Import more")
	a.brings(sample(t, "instruments.xlsx"))
	a.chooses("Setup", "Things to borrow")
	a.refill("Text", "Better for {column:What it is good for}.")
	a.sees("Better for rings and double stars.")
	a.click("Read all rows")
	a.click("Change 20 posts")
	a.sees("changed")
	assert.Equal(t, map[store.Status]int{store.Draft: 20}, a.brought("instruments"), "no post comes twice")
}

// A sheet comes in portions: the first at once, the others day by day as the clock moves, whatever the program does meanwhile.
func TestASheetComesInPortions(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.open("/quillmoor/import")
	a.brings(sample(t, "instruments.xlsx"))
	a.fill("Title", "{column:Instrument}, to borrow")
	a.fill("Text", "Good for {column:What it is good for}.")
	a.chooses("They become", "Scheduled, each with a time")
	a.ticks("In portions, until all are in")
	a.refill("Posts a portion", "8")
	a.click("Read all rows")
	a.sees("8 come in at once, then 8 at a time until all are in.")
	a.click("Bring in 20 posts")
	a.sees("The next portion comes")
	a.audit("an import between two portions")
	assert.Equal(t, map[store.Status]int{store.Scheduled: 8}, a.brought("instruments"))
	a.moveTo(a.clock.Now().Add(26 * time.Hour))
	a.eventually(func() bool { return len(a.of("instruments")) == 16 })
	a.click("Get an address for other programs")
	var address string
	a.do(chromedp.Value(`input[aria-label="Address"]`, &address, chromedp.ByQuery))
	require.Contains(t, address, "/api/v1/import-triggers/")
	answer, err := http.Post(address, "", nil)
	require.NoError(t, err)
	answer.Body.Close()
	assert.Equal(t, http.StatusNoContent, answer.StatusCode)
	a.eventually(func() bool { return len(a.of("instruments")) == 20 })
	a.sees("posts brought in")
}

// of lists the titles of an import's posts.
func (a *app) of(source string) (titles []string) {
	a.t.Helper()
	require.NoError(a.t, a.store.DB().SelectContext(a.t.Context(), &titles, `select title from posts where import = $1`, source))
	return titles
}

// New items of a feed become drafts as they appear, each once.
func TestAFeedIsFollowed(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.open("/quillmoor/import")
	a.click("Add a feed")
	a.fill("Address", "http://10.0.0.1/feed")
	a.click("Show its items")
	a.sees("own network")
	a.refill("Address", a.outside+"/weather/feed.atom")
	a.click("Show its items")
	a.sees("The vane points to")
	a.audit("a feed")
	a.ticks("Also the items that are there now")
	a.click("Add the feed")
	a.sees("Looked at")
	a.eventually(func() bool { return a.brought("Ridge weather")[store.Draft] == 12 })
	a.moveTo(a.clock.Now().Add(7 * time.Hour))
	a.eventually(func() bool { return a.brought("Ridge weather")[store.Draft] >= 13 })
	a.sees("Ridge weather")
}
