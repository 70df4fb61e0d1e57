package e2e

import (
	"io/fs"
	"net/http"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo"
	"dapper.example/internal/store"
)

// file reads a file of a folder to which posts go; "" where there is none.
func (a *app) file(parts ...string) string {
	a.t.Helper()
	text, err := os.ReadFile(filepath.Join(append([]string{a.folders}, parts...)...))
	if !os.IsNotExist(err) {
		require.NoError(a.t, err)
	}
	return string(text)
}

// An editor has posts go to a folder, finds one that could not be written, decides, changes a post, and ends it all.
func TestPostsGoToAFolder(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	site, err := a.store.SiteBySlug(t.Context(), demo.SiteSlug)
	require.NoError(t, err)
	all, err := a.store.PublicPosts(t.Context(), site.ID, store.PublicFilter{}, 0, 1)
	require.NoError(t, err)
	p := all[0]
	theirs := filepath.Join(a.folders, "notes", "posts", p.Slug+".md")
	require.NoError(t, os.MkdirAll(filepath.Dir(theirs), 0o755))
	require.NoError(t, os.WriteFile(theirs, []byte("Kept by hand."), 0o644))
	a.signIn()
	a.click("Settings")
	a.click("Where posts go")
	a.sees("Posts go nowhere else yet.")
	a.audit("where posts go, with nowhere")
	a.click("Add a folder")
	a.fill("Name", "Static site")
	a.refill("Folder on the server", "no tes")
	a.click("Add the folder")
	a.sees("of small letters, digits and hyphens")
	a.refill("Folder on the server", "notes")
	a.refill("Files of posts", "posts/{slugg}.md")
	a.click("Add the folder")
	a.sees("There is no placeholder {slugg}.")
	a.refill("Files of posts", "posts/{slug}.md")
	a.fill("Readers find posts at", "https://notes.example/{slug}/")
	a.audit("a folder being set up")
	a.click("Add the folder")
	a.sees("1 post for you to decide")
	a.audit("where posts go")
	assert.Equal(t, "Kept by hand.", a.file("notes", "posts", p.Slug+".md"))

	// The screen of every day says so, too.
	a.click("Almanac")
	a.sees("Some posts don’t get to Static site.")
	a.click("See why")
	a.click("Posts there…")
	a.sees("that was not written from here, and it stays.")
	a.audit("posts at a folder")
	a.click("Write over the file")
	a.eventually(func() bool { return strings.Contains(a.file("notes", "posts", p.Slug+".md"), "title: ") })
	a.click("Close")
	a.sees("Up to date")

	// What an editor does to a post follows.
	a.open("/quillmoor/write/" + strconv.FormatInt(p.ID, 10))
	a.sees("Where it is")
	a.press(`//section[@aria-label="Where it is"]/button`)
	a.sees("posts/" + p.Slug + ".md")
	a.refill("Title", "Red light, and why")
	a.eventually(func() bool {
		return strings.Contains(a.file("notes", "posts", p.Slug+".md"), "title: Red light, and why\n")
	})

	// Readers are led on without the built-in pages.
	a.open("/quillmoor/settings/destinations")
	a.sees("Up to date")
	a.press(`//*[@role="checkbox"][@aria-label="Show posts on the built-in pages"]`)
	a.click("Save settings")
	a.sees("lead on to where the post is")
	a.sees("Settings saved.")
	answer, err := (&http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}).Get(a.url + "/blog/quillmoor/" + p.Slug)
	require.NoError(t, err)
	require.NoError(t, answer.Body.Close())
	assert.Equal(t, http.StatusFound, answer.StatusCode)
	assert.Equal(t, "https://notes.example/"+p.Slug+"/", answer.Header.Get("Location"))
	a.click("Delete…")
	a.sees("Delete Static site?")
	a.click("Delete")
	a.sees("Turn the pages on first.")
	a.click("Cancel")
	a.ticks("Show posts on the built-in pages")
	a.click("Save settings")
	a.click("Delete…")
	a.click("Remove them there")
	a.audit("a folder being given up")
	a.click("Remove the posts and delete")
	a.sees("Posts go nowhere else yet.")
	left := 0
	require.NoError(t, filepath.WalkDir(filepath.Join(a.folders, "notes"), func(_ string, e fs.DirEntry, err error) error {
		if err == nil && !e.IsDir() {
			left++
		}
		return err
	}))
	assert.Zero(t, left)
}

// An editor connects a site of their own, and has posts go there.
func TestPostsGoToASiteOfOnesOwn(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/settings/destinations")
	a.click("connect it under Channels")
	a.click("Connect your own site…")
	a.fill("The site’s address", a.outside+"/notes/")
	a.click("Next")
	a.sees("May http")
	a.click("Allow")
	a.sees("is connected")
	a.open("/quillmoor/settings/destinations")
	a.click("Add a site")
	a.click("Add the site")
	a.sees("Up to date")
	a.click("Posts there…")
	a.sees(a.outside[len("http://"):] + "/notes/posts/")
	a.audit("posts at a site")
	a.click("Close")
	a.fill("WebSub hub", a.outside+"/hub/")
	a.click("Save settings")
	a.sees("Told ")
	code, _ := a.status("/blog/quillmoor/feed.atom")
	assert.Equal(t, 200, code)
}
