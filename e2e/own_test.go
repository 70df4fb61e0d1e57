package e2e

import (
	"bytes"
	"fmt"
	"image"
	"image/color"
	"image/png"
	"net/http"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// own makes the editor of the demo's world its owner, and signs in.
func (a *app) own() {
	a.t.Helper()
	_, err := a.store.DB().Exec(`update memberships set role = 'owner' where user_id = $1`, a.person("Ines Abara"))
	require.NoError(a.t, err)
	a.signIn()
}

// publishes has a post come out at once.
func (a *app) publishes(title, slug string) {
	a.t.Helper()
	_, err := a.store.DB().Exec(`
		update posts set status = 'published', cleared = false, shelf_rank = null, slug = $2, published_at = $3, first_published_at = $3, due_at = null, pinned = false,
			slot_date = null, slot_opening = null, slot_ordinal = null, rhythm_id = null where title = $1`, title, slug, a.clock.Now())
	require.NoError(a.t, err)
}

// chooses chooses an option of a choice.
func (a *app) chooses(label, option string) {
	a.t.Helper()
	a.press(fmt.Sprintf(`//button[starts-with(@aria-label, %q)]`, label+": "))
	a.press(fmt.Sprintf(`//*[@role="option"][normalize-space(.)=%q]`, option))
}

// at asks for an address by a host of its own.
func (a *app) at(host, path string) (int, string) {
	a.t.Helper()
	r := mustRequest(a.t, a.url+path)
	r.Host = host
	answer, err := http.DefaultTransport.RoundTrip(r)
	require.NoError(a.t, err)
	defer answer.Body.Close()
	var body bytes.Buffer
	_, err = body.ReadFrom(answer.Body)
	require.NoError(a.t, err)
	return answer.StatusCode, body.String()
}

// An owner gives the blog another look, a menu, a front page and a host of its own, and undoes one of it.
func TestABlogIsDressed(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.own()
	a.open("/quillmoor/settings/look")
	a.press(`//*[@role="radio"][contains(., "Broadside")]`)
	a.refill("Or a colour of your own", "#ffd500")
	a.sees("in a shade that is easier to read")
	a.audit("the look")
	a.refill("Or a colour of your own", "red")
	a.sees("Write the colour as")
	a.refill("Or a colour of your own", "#7a2a5e")
	a.do(gone(`//*[@role="alert"][contains(., "Write the colour")]`))
	a.click("Save look")
	a.sees("Look saved.")
	_, style := a.status("/blog/quillmoor/look.css")
	assert.Contains(t, style, "#7a2a5e")
	assert.Contains(t, style, "Bodoni Moda")
	a.undoesLatest()
	a.until(func() bool {
		_, style = a.status("/blog/quillmoor/look.css")
		return !strings.Contains(style, "#7a2a5e")
	})

	a.open("/quillmoor/settings/menu")
	a.chooses("Items", "what I choose below")
	first := `(//*[@aria-label="Menu"]//*[@role="row"])[1]`
	a.do(shown(first + `[contains(., "Sky Guide")]`))
	a.do(focused(`//button[@aria-label="Move Sky Guide"]`), keyed(kb.Enter), there(`//*[@data-drop-target or @role="row"]`),
		keyed(kb.ArrowDown), keyed(kb.Enter))
	a.do(shown(first + `[contains(., "Workbench")]`))
	a.audit("the menu")
	a.click("Save menu")
	a.sees("Menu saved.")

	a.open("/quillmoor/settings/blog")
	a.refill("Host name of its own", "https://dome.localhost/")
	a.click("Save blog")
	a.sees("without https://")
	a.refill("Host name of its own", "dome.localhost")
	a.chooses("Dates", "24 Nov 2026")
	a.click("Save blog")
	a.sees("Blog saved.")
	a.sees("Links, feeds and messages name")
	a.audit("the blog’s settings")
	status, page := a.at("dome.localhost", "/")
	assert.Equal(t, 200, status)
	assert.NotContains(t, page, `"/blog/quillmoor/`)
	status, _ = a.at("dome.localhost", "/sign-in")
	assert.Equal(t, 404, status)
}

// A picture is uploaded, described, found by what it shows, replaced, shown by a post, refused to be deleted, and deleted.
func TestPicturesAreLookedAfter(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.own()
	file := func(name string, c color.Color) string {
		picture := image.NewRGBA(image.Rect(0, 0, 600, 400))
		for i := range picture.Pix {
			picture.Pix[i] = 255
		}
		for x := range 600 {
			picture.Set(x, 200, c)
		}
		path := filepath.Join(t.TempDir(), name)
		out, err := os.Create(path)
		require.NoError(t, err)
		require.NoError(t, png.Encode(out, picture))
		require.NoError(t, out.Close())
		return path
	}
	a.open("/quillmoor/posts")
	a.press(`//nav[@aria-label="Stages"]//a[contains(., "Pictures")]`)
	a.sees("Upload pictures")
	a.audit("the pictures")
	a.press(`//nav[@aria-label="Which pictures"]//button[.="Not used"]`)
	a.sees("Every picture is used somewhere.")
	a.press(`//nav[@aria-label="Which pictures"]//button[.="All pictures"]`)
	a.do(uploads(`input[aria-label="Picture files"]`, file("line.png", color.Black)))
	a.sees("What does it show?")
	a.fill("In words", "A long black line")
	a.click("Save description")
	a.do(shown(`//button[contains(., "A long black line") and contains(., "Not used")]`))
	a.fill("Find a picture", "black")
	a.press(`//button[contains(., "A long black line")]`)
	a.sees("Nowhere. You can delete it.")
	a.audit("a picture")
	const ours = ` from pictures where alt = 'A long black line'`
	before := a.text(`select key` + ours)
	a.do(uploads(`input[aria-label="Another picture file"]`, file("red.png", color.RGBA{255, 0, 0, 255})))
	a.sees("Picture replaced.")
	assert.Equal(t, before, a.text(`select key`+ours), "its address stays")

	_, err := a.store.DB().Exec(`update posts set featured_image = '/blog/quillmoor/pictures/' || $1 || '-600x400.png' where id = (select min(id) from posts)`, before)
	require.NoError(t, err)
	a.click("Delete")
	a.sees("This picture is in use")
	a.do(gone(control("Delete")), keyed(kb.Escape), gone(`//*[@role="dialog"]`))
	_, err = a.store.DB().Exec(`update posts set featured_image = '' where id = (select min(id) from posts)`)
	require.NoError(t, err)
	a.press(`//button[contains(., "A long black line")]`)
	a.click("Delete")
	a.sees("Picture deleted.")
	a.click("Undo")
	a.sees("Picture restored.")
}

// text is what one row of the database says.
func (a *app) text(query string) (text string) {
	a.t.Helper()
	require.NoError(a.t, a.store.DB().Get(&text, query))
	return text
}

// Comments are opened, one is written by a reader, approved with an answer, hidden and brought back.
func TestReadersComment(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.own()
	_, err := a.store.DB().Exec(`delete from comments`)
	require.NoError(t, err)
	_, err = a.store.DB().Exec(`update sites set comments_open = false, comments_hold = 'all'`)
	require.NoError(t, err)
	title := a.text(`select title from posts where status = 'draft' and cleared order by id limit 1`)
	a.publishes(title, "to-talk-about")
	a.open("/quillmoor/comments")
	a.sees("This blog takes no comments.")
	a.audit("no comments")
	a.click("Open comments")
	a.ticks("Readers may comment on posts")
	a.chooses("Wait for approval", "comments by readers new to the blog")
	a.audit("settings for comments")
	a.click("Save settings")
	a.sees("Settings saved.")

	a.open("/blog/quillmoor/to-talk-about")
	a.fill("Name", "Tam Okonedo")
	a.fill("Comment", "See http://a.example http://b.example http://c.example")
	a.audit("a post that takes comments")
	a.click("Send comment")
	a.sees("2 links at most")
	a.refill("Comment", "Lovely. See http://a.example")
	a.click("Send comment")
	a.sees("once it has been approved")

	a.open("/quillmoor/posts")
	a.sees("1 waiting")
	a.press(`//nav[@aria-label="Stages"]//a[contains(., "Comments")]`)
	a.sees("Tam Okonedo")
	a.audit("a comment that waits")
	a.click("Approve and answer… (Tam Okonedo)")
	a.fill("Your answer to Tam Okonedo", "Thank you for the link.")
	a.click("Approve and answer")
	a.sees("No comments are waiting")
	_, page := a.status("/blog/quillmoor/to-talk-about")
	assert.Contains(t, page, "2 comments")
	assert.Contains(t, page, "Thank you for the link.")
	assert.Contains(t, page, `rel="nofollow ugc noopener"`)

	// Another one by the same reader is seen at once.
	a.open("/blog/quillmoor/to-talk-about")
	a.fill("Name", "Tam Okonedo")
	a.fill("Comment", "And another thing.")
	a.click("Send comment")
	a.sees("3 comments")

	a.open("/quillmoor/comments")
	a.press(`//nav[@aria-label="Which comments"]//button[starts-with(., "Shown")]`)
	a.ticks("Select all")
	a.click("Delete 3")
	a.sees("3 comments in the bin.")
	_, page = a.status("/blog/quillmoor/to-talk-about")
	assert.NotContains(t, page, "And another thing.")
	a.undoesLatest()
	a.until(func() bool {
		_, page = a.status("/blog/quillmoor/to-talk-about")
		return strings.Contains(page, "And another thing.")
	})
}

// Tags are renamed, and merged.
func TestTagsAreTidiedUp(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.own()
	id := a.text(`select min(id)::text from posts where not exists (select from post_tags where post_id = posts.id)`)
	a.open("/quillmoor/settings/tags")
	a.do(shown(field("Find a tag")))
	for _, tag := range []string{"Kites", "Paper kites"} {
		_, err := a.store.DB().Exec(`insert into tags (site_id, slug, name) select site_id, replace(lower($2), ' ', '-'), $2 from posts where id = $1`, id, tag)
		require.NoError(t, err)
		_, err = a.store.DB().Exec(`insert into post_tags (site_id, post_id, tag_id) select site_id, $1, id from tags where name = $2`, id, tag)
		require.NoError(t, err)
	}
	a.open("/quillmoor/settings/tags")
	a.click("Rename Kites…")
	a.refill("Name", "paper Kites")
	a.click("Rename")
	a.sees("There is a tag “Paper kites” already.")
	a.refill("Name", "Kites of paper and string")
	a.click("Rename")
	a.sees("Tag renamed.")
	a.audit("tags")
	a.click("Delete or merge Paper kites…")
	a.chooses("Merge into", "Kites of paper and string")
	a.sees("Its 1 post will have Kites of paper and string instead")
	a.click("Merge into Kites of paper and string")
	a.sees("Merged into Kites of paper and string.")
	a.do(gone(`//button[@aria-label="Rename Paper kites…"]`))
	assert.Equal(t, `["Kites of paper and string"]`, a.text(`select tags::text from texts join posts on posts.text_id = texts.id where posts.id = `+id))
}
