package e2e

import (
	"fmt"
	"image"
	"image/color"
	"image/png"
	"net/http"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/demo"
)

// letter waits for a mail to somebody and returns the link in it.
func (a *app) letter(to string) string {
	a.t.Helper()
	link := ""
	a.until(func() bool {
		for _, m := range a.mailbox.Mails() {
			if found := regexp.MustCompile(`http://\S+#\S+`).FindString(m.Text); m.To == to && found != "" {
				link = found
				return true
			}
		}
		return false
	})
	return link
}

func (a *app) signOut() {
	a.t.Helper()
	a.press(`//button[contains(@aria-label, "account, people")]`)
	a.click("Sign out")
	a.sees("Forgot your password?")
}

func (a *app) signInAs(email, password string) {
	a.t.Helper()
	a.open("/sign-in")
	a.fill("E-mail", email)
	a.fill("Password", password)
	a.click("Sign in")
	a.sees("New draft")
}

// An owner invites somebody; they join, write and hand in; an editor clears it.
func TestAContributorJoinsAndHandsIn(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/people")
	a.fill("E-mail", "nell@quillmoor.example")
	a.click("Invite")
	a.sees("nell@quillmoor.example is invited")
	link := a.letter("nell@quillmoor.example")
	a.signOut()

	a.do(chromedp.Navigate(link))
	a.sees("Ines Abara invites you to Notes from the Dome as contributor")
	a.fill("Your name", "Nell Farrow")
	a.fill("A password", "short")
	a.click("Join")
	a.sees("12 characters")
	a.refill("A password", "four wet boots drying")
	a.click("Join")
	a.sees("Shelf")

	a.click("New draft")
	a.fill("Title", "The fox by the gate")
	a.fill("Text, in Markdown", "She comes at ten.")
	a.reads("Saved")
	a.do(gone(control("Publish now…")), gone(control("Put on the shelf")))
	a.click("Send for review")
	a.sees("sent by Nell Farrow")
	a.signOut()

	// Once used, the link is of no more use.
	a.do(chromedp.Navigate(link))
	a.sees("used")
	a.signInAs(demo.People()[0].Email, demo.Password)
	a.click("Posts")
	a.press(`//nav[@aria-label="Stages"]//button[starts-with(., "Waiting for review")]`)
	a.press(`//a[.="The fox by the gate"]`)
	a.click("Put on the shelf")
	a.sees("See its proposed slot")
}

// A link in a mail gives a new password, and ends the old one.
func TestAForgottenPassword(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	email := demo.People()[1].Email
	a.open("/sign-in")
	a.click("Forgot your password?")
	a.do(gone(field("Password")))
	a.fill("E-mail", email)
	a.click("Send the link")
	a.sees("we have sent it a link")
	link := a.letter(email)
	a.do(chromedp.Navigate(link))
	a.fill("New password", "a heron stood in the ford")
	a.click("Set password")
	a.sees("Password changed.")
	a.fill("E-mail", email)
	a.fill("Password", demo.Password)
	a.click("Sign in")
	a.do(shown(`//*[@role="alert"]`))
	a.signInAs(email, "a heron stood in the ford")
}

// Posts are found by their words, binned many at once, and brought back.
func TestManyPostsAtOnce(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Posts")
	a.fill("Search posts", "telescopes")
	a.do(shown(`//mark[.="telescope" or .="telescopes"]`))
	a.refill("Search posts", "zyzzyva")
	a.sees("No posts match.")
	a.click("Clear filters")
	const first, second = "Grinding a mirror by hand, week one", "A dimmer for the hut"
	for _, title := range []string{first, second} {
		a.press(fmt.Sprintf(`//*[@aria-label="Choose “%s”"]`, title))
	}
	a.sees("2 chosen")
	a.click("Move to the bin")
	a.sees("2 posts are in the bin.")
	a.press(`//nav[@aria-label="Stages"]//button[starts-with(., "Bin")]`)
	a.reads("in the bin")
	a.sees(first)
	a.sees(second)
	a.press(`//*[@aria-label="Select all that are shown"]`)
	a.click("Restore")
	a.sees("The bin is empty.")
	// Each is where it was, or at its place's end: nothing of it is lost.
	var stages []string
	require.NoError(t, a.store.DB().SelectContext(t.Context(), &stages,
		`select stage from posts where title in ($1, $2)`, first, second))
	for _, stage := range stages {
		assert.NotEqual(t, "binned", stage)
	}
	assert.Len(t, stages, 2)
}

// A picture is brought, described and shown to readers in several sizes; what only
// calls itself a picture is refused.
func TestAPictureIsBroughtAndDescribed(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	dir := t.TempDir()
	drawn := image.NewRGBA(image.Rect(0, 0, 1400, 900))
	for x := range 1400 {
		for y := range 900 {
			drawn.Set(x, y, color.RGBA{uint8(x / 6), uint8(y / 4), 120, 255})
		}
	}
	file, err := os.Create(filepath.Join(dir, "dusk.png"))
	require.NoError(t, err)
	require.NoError(t, png.Encode(file, drawn))
	require.NoError(t, file.Close())
	trick := filepath.Join(dir, "trick.png")
	require.NoError(t, os.WriteFile(trick, []byte("<html><script>alert(1)</script></html>"), 0o600))

	a.signIn()
	a.click("New draft")
	a.fill("Title", "Dusk over the hill")
	a.fill("Text, in Markdown", "Look:\n\n")
	a.click("Picture…")
	a.do(uploads(`//input[@aria-label="Picture file"]`, trick))
	a.sees("is not a picture")
	a.do(uploads(`//input[@aria-label="Picture file"]`, file.Name()))
	a.sees("What does it show?")
	a.fill("In words", "The hill at dusk")
	a.click("Save description")
	a.sees("![The hill at dusk](")
	a.reads("Saved")
	a.click("Publish now…")
	a.press(`//button[starts-with(normalize-space(.), "Publish “")]`)
	a.sees("is out.")
	code, page := a.status("/blog/quillmoor/dusk-over-the-hill")
	require.Equal(t, http.StatusOK, code)
	shown := regexp.MustCompile(`<img[^>]*alt="The hill at dusk"[^>]*>`).FindString(page)
	require.NotEmpty(t, shown, "the picture is in the text")
	assert.Contains(t, shown, "480w")
	assert.Contains(t, shown, "960w")
	src := regexp.MustCompile(`src="([^"]+)"`).FindStringSubmatch(shown)
	require.Len(t, src, 2)
	code, _ = a.status(strings.TrimPrefix(src[1], a.url))
	assert.Equal(t, http.StatusOK, code)
}
