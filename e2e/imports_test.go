package e2e

import (
	"archive/zip"
	"net/http"
	"path/filepath"
	"testing"
	"time"

	"github.com/chromedp/cdproto/browser"
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
	a.do(uploads(`input[aria-label="Files to import"]`, files...))
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

// An owner downloads a blog, begins an empty one and brings the file in there: it is the same blog.
func TestABlogIsDownloadedAndBroughtIntoAnEmptyOne(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.own()
	a.open("/quillmoor/settings/export")
	folder := t.TempDir()
	a.do(browser.SetDownloadBehavior(browser.SetDownloadBehaviorBehaviorAllow).WithDownloadPath(folder).WithBrowserContextID(a.profile))
	a.click("The blog as .zip")
	var file string
	a.until(func() bool {
		found, err := filepath.Glob(filepath.Join(folder, "*.zip"))
		if err != nil || len(found) != 1 {
			return false
		}
		file = found[0]
		z, err := zip.OpenReader(file)
		if err == nil {
			z.Close()
		}
		return err == nil // it is written to its end
	})

	a.open("/new-blog")
	a.fill("Title", "The dome once more")
	a.refill("Name in the address", "dome-again")
	a.press(`//*[@role="radio"][contains(., "None yet")]`)
	a.click("Create the blog")
	a.sees("Your first plan")
	// Its people are there already; else all posts are by who brings them in.
	_, err := a.store.DB().ExecContext(t.Context(), `insert into memberships (site_id, user_id, role)
		select again.id, user_id, role from memberships join sites on sites.id = site_id, sites again where sites.slug = 'quillmoor' and again.slug = 'dome-again' on conflict do nothing`)
	require.NoError(t, err)
	a.open("/dome-again/import")
	a.brings(file)
	a.press(`//button[starts-with(normalize-space(.), "Read all ")]`)
	a.sees("lines become posts")
	a.press(`//button[starts-with(normalize-space(.), "Bring in ")]`)
	a.sees("posts brought in")
	var differ []string
	require.NoError(t, a.store.DB().SelectContext(t.Context(), &differ, `
		with whole as (
			select sites.slug as site, posts.title, jsonb_build_array(posts.kind, status, posts.slug, posts.excerpt, posts.fields, published_at, first_published_at, due_at, posts.archived_at, notice, not_before, deadline, expires_at,
				never_expires, evergreen, on_top, posts.comments_open, cleared, featured_alt, categories.name, categories.slug, users.name,
				rtrim(regexp_replace(texts.body, '/blog/[a-z-]+/pictures/[0-9a-z]+-', 'picture ', 'g'), E' \n'), regexp_replace(featured_image, '/blog/[a-z-]+/pictures/[0-9a-z]+-', 'picture '),
				(select jsonb_agg(tags.name order by tags.name) from post_tags join tags on tags.id = tag_id where post_id = posts.id)) as said
			from posts join sites on sites.id = posts.site_id join texts on texts.id = text_id join users on users.id = author_id left join categories on categories.id = category_id
			where status <> 'binned' and sites.slug in ('quillmoor', 'dome-again'))
		select left(title || ' ' || here || ' ' || said::text, 1500) from (select title, said, count(*) filter (where site = 'quillmoor') as here, count(*) filter (where site = 'dome-again') as there from whole group by 1, 2) both_of where here <> there order by title, here limit 6`))
	assert.Empty(t, differ)
	var published int
	require.NoError(t, a.store.DB().GetContext(t.Context(), &published, `select count(*) from posts join sites on sites.id = site_id where sites.slug = 'dome-again' and status = 'published'`))
	assert.Greater(t, published, 100)
}

// A sheet becomes posts with a composed text; brought in once more, it changes those that nobody has touched.
func TestASheetBecomesPosts(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/import")
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
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/import")
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
	a.do(property(`input[aria-label="Address"]`, "value", &address))
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
	a.signIn("/quillmoor/import")
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
