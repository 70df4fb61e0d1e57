package e2e

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"hash/fnv"
	"os"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// fault is a violation that axe-core found.
type fault struct {
	ID, Help string
	Nodes    []struct {
		HTML    string
		Target  []any
		Summary string `json:"failureSummary"`
	}
}

// audit looks at the page as it is in the middle of a journey. A short run looks at whole screens alone.
func (a *app) audit(name string) {
	a.t.Helper()
	if !brief() {
		a.axe(name)
	}
}

// axe runs axe-core over the page as it is. In a long run it does so in both themes and in forced colours; in a short
// one in the theme that the name falls to, always the same. The page is light again afterwards.
func (a *app) axe(name string) {
	a.t.Helper()
	source, err := os.ReadFile("../web/node_modules/axe-core/axe.min.js")
	require.NoError(a.t, err)
	// What a theme changes is colour; all else is looked at once.
	rules := map[string]string{"dark": `{ runOnly: ["color-contrast"] }`, "forced": `{ runOnly: ["color-contrast"] }`}
	themes := []string{"light", "dark", "forced"}
	if testing.Short() {
		falls := fnv.New32a()
		falls.Write([]byte(name))
		themes = themes[falls.Sum32()%2:][:1] // scripts/test-long has all three
		rules = nil
	}
	// Rules about orientation, and about sounds that play by themselves, have the styles and sounds of the page fetched
	// once more, which is a third of axe's time.
	fetches := !testing.Short()
	for _, theme := range themes {
		var found string
		scheme, forced := theme, "none"
		if theme == "forced" { // the system's colours in place of ours
			scheme, forced = "dark", "active"
		}
		a.do(media(scheme, forced),
			axeIn(string(source)),
			// What fades in has faded in; then two frames, so that the theme is drawn.
			chromedp.Evaluate(fmt.Sprintf(`(async () => {
				await document.fonts.ready
				document.documentElement.style.display = "none"
				document.documentElement.getBoundingClientRect()
				document.documentElement.style.display = ""
				for (let i = 0; i < 2; i++) await new Promise((done) => requestAnimationFrame(done))
				await Promise.allSettled(document.getAnimations().map((a) => a.finished))
				const rules = %s
				const result = await axe.run(document, { resultTypes: ["violations"], preload: %t, ...rules })
				return JSON.stringify(result.violations.map(({ id, help, nodes }) => ({ id, help, nodes })))
			})()`, cmp.Or(rules[theme], "{}"), fetches), &found, func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }))
		var faults []fault
		require.NoError(a.t, json.Unmarshal([]byte(found), &faults))
		for _, f := range faults {
			var where strings.Builder
			for _, n := range f.Nodes[:min(2, len(f.Nodes))] {
				fmt.Fprintf(&where, "\n  %v\n  %.300s\n  %.400s", n.Target, n.HTML, n.Summary)
			}
			assert.Fail(a.t, fmt.Sprintf("%s, %s: %s: %s (%d places)%s", name, theme, f.ID, f.Help, len(f.Nodes),
				where.String()))
		}
	}
	a.do(media("light", "none"))
}

// axeIn puts axe-core into the page, where it is not there yet.
func axeIn(source string) chromedp.Action {
	return chromedp.ActionFunc(func(ctx context.Context) error {
		there, err := ask[bool](ctx, `return !!window.axe;`)
		if err != nil || there {
			return err
		}
		return chromedp.Evaluate(source+";true", nil).Do(ctx)
	})
}

// media has pages drawn in a scheme of colours, and in the system's own colours or not. Nothing moves.
func media(scheme, forced string) chromedp.Action {
	return emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{{Name: "prefers-color-scheme", Value: scheme},
		{Name: "prefers-reduced-motion", Value: "reduce"}, {Name: "forced-colors", Value: forced}})
}

// auditAt shows an address and looks at it once it shows a text.
func (a *app) auditAt(path, text string) {
	a.t.Helper()
	a.open(path)
	a.sees(text)
	a.axe(path)
}

// Everybody can use every screen, in both themes.
func TestTheFrontIsOpenToEverybody(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.auditAt("/sign-in", "Password")
	a.auditAt("/forgotten", "Send the link")
	a.auditAt("/reset#made-up", "password")
	a.auditAt("/join#made-up", "invitation")
	a.signIn()
	a.auditAt("/nowhere", "You have no blog named")
}

func TestTheAlmanacIsOpenToEverybody(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.click("Rearrange")
	a.audit("rework")
	a.click("Close up…")
	a.sees("There is nothing to close up")
	a.audit("close up")
	a.do(keyed(kb.Escape))
	a.click("Schedule 18 drafts…")
	a.sees("Everything is done, or nothing is")
	a.audit("commit")
	a.do(keyed(kb.Escape))
	a.click("Rearrange")
	a.click("Schedule drafts…")
	a.sees("of 30 drafts")
	a.press(`//*[@role="dialog"]//summary`)
	a.press(`//button[contains(@aria-label, "Times from")]`)
	a.click("a pattern, just this once")
	a.sees("Schedule 18 posts")
	a.audit("place")
	a.click("On the tape")
	a.sees("comes here")
	a.press(`(//section[@aria-label="The proposal on the tape"]//button[contains(@aria-label, " proposed ")])[3]`)
	a.audit("place, on the tape")
	a.open("/quillmoor")
	a.press(`//button[contains(@aria-label, "proposed The star that winks")]`)
	a.sees("Schedule at a time")
	a.audit("post panel")
	a.press(`(//button[contains(@aria-label, "share")])[1]`)
	a.sees("Lantern")
	a.audit("deed panel")
	a.click("Wider hours")
	a.audit("wider hours")
	a.do(focused(`[data-tape] [data-post]`), keyed("x"))
	a.sees("1 chosen")
	a.press(`//button[@aria-label="Filter and lenses"]`)
	a.sees("Save this view as")
	a.audit("chosen, filter and lenses")
}

func TestARuleAndAPostAreOpenToEverybody(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn("/quillmoor/rules")
	a.press(`//a[text()="Workbench, morning and noon"]`)
	a.sees("Coming outings")
	a.audit("rule")
	a.open("/quillmoor/posts")
	a.press(`(//a[contains(@href, "/write/")])[1]`)
	a.sees("Featured image")
	a.audit("editor")
	a.click("Beside")
	a.audit("editor, beside")
	a.press(`//button[starts-with(@aria-label, "Ines Abara")]`)
	a.sees("Sign out")
	a.audit("menu")
	a.do(keyed(kb.Escape), keyed("k", input.ModifierCtrl))
	a.sees("New draft")
	a.audit("palette")
}

// So can every reader of the blog.
func TestTheBlogIsOpenToEverybody(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	for path, text := range map[string]string{
		"/blog/quillmoor/":                  "Older posts",
		"/blog/quillmoor/about":             "observatory",
		"/blog/quillmoor/archive":           "2024",
		"/blog/quillmoor/no-such-post":      "Notes from the Dome",
		"/blog/quillmoor/search?q=telescop": "Search",
		"/blog/dark-lanes/":                 "Dark Lanes",
	} {
		a.auditAt(path, text)
	}
}
