package e2e

import (
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/founding"
	"dapper.example/internal/pgtest"
)

// TestScreenshots takes the pictures of docs/screenshots from the demo world. It
// runs only where SHOTS names the folder to write to (make screenshots).
// SHOTS_ONLY picks views by a part of their names.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("SHOTS")
	if dir == "" {
		t.Skip("make screenshots takes the pictures")
	}
	require.NoError(t, os.MkdirAll(dir, 0o755))
	s := shots{newApp(t), dir, os.Getenv("SHOTS_ONLY")}
	s.open("/sign-in")
	s.sees("Password")
	s.signIn()
	s.take("almanac")
	s.open("/quillmoor?view=month&from=2026-12-01")
	s.sees("December 2026")
	s.take("month")
	s.open("/quillmoor")
	s.click("Schedule 18 drafts…")
	s.sees("Everything is done, or nothing is")
	s.take("commit")
	s.click("Schedule 18 drafts")
	s.sees("The shelf is empty")
	s.click("Dismiss")
	s.press(`//button[contains(@aria-label, "The star that winks")]`)
	s.sees("Logbook")
	s.open("/quillmoor/posts?text=moon")
	s.do(shown(`//mark`))
	s.take("posts")
	s.press(`//a[.="What to look at when the Moon is full"]`)
	s.sees("Featured image")
	s.click("Beside")
	s.take("editor")
	s.click("Write")
	s.open("/quillmoor/rhythm")
	s.sees("The coming four weeks")
	s.do(shown(`//li[@aria-label]`))
	s.take("rhythm")
	s.open("/quillmoor/rules")
	s.sees("Dome notices after ten days")
	s.take("rules")
	s.press(`//a[text()="Workbench, morning and noon"]`)
	s.sees("Coming outings")
	s.sees("wording 1")
	s.take("rule-reshare")
	s.open("/quillmoor/channels")
	s.sees("Hearth")
	s.take("channels")
	s.open("/quillmoor/forecast")
	s.sees("Mon")
	s.take("forecast")
	s.open("/quillmoor/upkeep")
	s.sees("What the marks mean")
	s.take("upkeep")
	s.open("/quillmoor/tours")
	s.press(`//a[.="Cleaning a mirror without ruining it"]`)
	s.sees("Planned")
	s.take("tour")
	s.open("/quillmoor/results?days=365")
	s.sees("Better than the usual hour:")
	s.take("results")
	s.open("/quillmoor/comments")
	s.sees("Gwendolen Farrow")
	s.take("comments")
	s.open("/quillmoor/pictures")
	s.sees("Upload pictures")
	s.take("pictures")
	s.open("/quillmoor/import")
	s.brings(sample(t, "winter-nights.zip"))
	s.sees("A letter about the gate")
	s.chooses("They become", "Scheduled, each with a time")
	s.chooses("Times from", "a pattern, just this once")
	s.sees("Uneven minutes")
	s.take("import")
	s.open("/blog/quillmoor/")
	s.sees("Older posts")
	s.take("blog")
	s.do(emulation.SetDeviceMetricsOverride(390, 844, 2, true))
	s.open("/quillmoor")
	s.sees("scheduled")
	s.inTheDark("phone")
}

// TestScreenshotsOfANewProgram is TestScreenshots without the demo.
func TestScreenshotsOfANewProgram(t *testing.T) {
	dir := os.Getenv("SHOTS")
	if dir == "" {
		t.Skip("make screenshots takes the pictures")
	}
	store := pgtest.New(t)
	code, err := founding.FirstCode(t.Context(), store.Queries)
	require.NoError(t, err)
	s := shots{newAppOn(t, store), dir, os.Getenv("SHOTS_ONLY")}
	s.open("/#" + code)
	s.click("Continue")
	s.fill("Your name", "Ines Abara")
	s.fill("E-mail", "ines@garden.example")
	s.fill("Password", "seventeen brass snails")
	s.click("Continue")
	s.fill("Title", "Garden Notes")
	s.click("Continue")
	s.sees("A busy desk")
	s.take("begin")
}

type shots struct {
	*app
	dir, only string
}

func (s shots) take(name string) {
	s.t.Helper()
	if !strings.Contains(name, s.only) {
		return
	}
	var png []byte
	// The page must have come to rest: fonts loaded, nothing fading in.
	s.do(chromedp.Evaluate(`document.fonts.ready.then(() => true)`, nil, chromedp.EvalAsValue),
		chromedp.Sleep(700*time.Millisecond), chromedp.CaptureScreenshot(&png))
	require.NoError(s.t, os.WriteFile(filepath.Join(s.dir, name+".png"), png, 0o644))
}

func (s shots) inTheDark(name string) {
	s.t.Helper()
	dark := emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "prefers-color-scheme",
		Value: "dark"}})
	s.do(dark)
	s.take(name)
	s.do(emulation.SetEmulatedMedia().WithFeatures(nil))
}
