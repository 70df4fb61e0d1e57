package e2e

import (
	"fmt"
	"strings"
	"testing"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// small lists the controls that are seen, are less than 24 pixels wide or high, and have
// another one within 12 pixels of their middle; those within a sentence are left out (WCAG
// 2.2, 2.5.8: target size, minimum, with its exceptions).
const small = `(() => {
	const found = new Set();
	for (const e of document.querySelectorAll("a[href], button, input, select, textarea, [role=option], [role=menuitem], [role=switch]")) {
		if (!e.checkVisibility({ visibilityProperty: true, opacityProperty: true }) || e.closest("[inert], .sr-only, [aria-hidden=true]")) continue;
		if (getComputedStyle(e).display === "inline") continue;
		const r = e.getBoundingClientRect();
		if (r.width === 0 || r.bottom < 0 || r.top > innerHeight || (r.width <= 1 && r.height <= 1)) continue;
		const label = e.closest("label") ?? (e.id ? document.querySelector("label[for='" + CSS.escape(e.id) + "']") : null);
		const x = r.left + r.width / 2, y = r.top + r.height / 2;
		const reach = [[-11, 0], [11, 0], [0, -11], [0, 11]];
		const missed = reach.filter(([dx, dy]) => {
			const at = document.elementFromPoint(x + dx, y + dy);
			const other = at?.closest("a[href], button, input, select, textarea, label, [role=option], [role=menuitem]");
			return other && other !== e && !e.contains(other) && !other.contains(e) && other !== label;
		});
		const tiny = reach.some(([dx, dy]) => Math.abs(dx) * 2 > r.width + 2 || Math.abs(dy) * 2 > r.height + 2);
		if (tiny && missed.length > 0) found.add((e.getAttribute("aria-label") ?? e.textContent.trim()).slice(0, 50) + " " + e.tagName + " " + Math.round(r.width) + "x" + Math.round(r.height));
	}
	return [...found];
})()`

// over says by how much the page is wider than the window, and which elements reach over its edge.
const over = `[document.documentElement.scrollWidth - document.documentElement.clientWidth, [...document.querySelectorAll("main *")].filter((e) => e.checkVisibility() && !e.closest(".sr-only, [data-sideways]") && e.getBoundingClientRect().right > innerWidth + 1).slice(0, 5).map((e) => e.tagName + "." + String(e.className).slice(0, 60) + " " + (e.textContent ?? "").slice(0, 30)).join(" | ")].join(": ")`

// screens are all screens of a blog by their addresses, each with a text that it shows once it is complete.
var screens = map[string]string{
	"":                     "Schedule 18 drafts…",
	"?view=month":          "November 2026",
	"?view=list":           "Tue 24 Nov",
	"/posts":               "Sky Guide",
	"/rhythm":              "The coming four weeks",
	"/rhythm?season=new":   "Save season",
	"/overdue":             "Posts whose time passed",
	"/tours":               "Cleaning a mirror",
	"/results":             "Clicks an outing",
	"/rules":               "Dome notices after ten days",
	"/rules/new/expire":    "Posts show up here once the rule is complete.",
	"/rules/new/reshare":   "the same post again after",
	"/forecast":            "Mon",
	"/logbook":             "By anyone",
	"/settings/blog":       "Close the blog",
	"/settings/categories": "Delete or merge…",
	"/settings/plan":       "Overdue posts",
	"/settings/export":     "The blog as .zip",
	"/channels":            "Each post may say otherwise",
	"/webhooks":            "No program is told anything yet.",
	"/prepared":            "Change openings…",
	"/import":              "Nothing has been brought in yet.",
	"/people":              "Tobias Wren",
	"/account":             "Change password",
}

// Everybody can use every screen: axe finds nothing, whatever can be pressed can be hit with a thumb, and at 320 pixels,
// or with letters twice as large, nothing has to be scrolled sideways to be read (WCAG 2.2, 1.4.4 and 1.4.10).
func TestTheScreensAreOpenToEverybody(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	type size struct {
		name    string
		width   int64
		letters int64 // as the browser is set, in pixels: widths in rem follow them, in queries too
	}
	sizes := []size{{"320 pixels", 320, 16}, {"letters twice as large", 1280, 32}}
	if testing.Short() {
		sizes = sizes[:1]
	}
	complete := func(text string) {
		a.sees(text)
		a.do(shown("h1"), gone(`//*[@role="status"][starts-with(., "Loading")]`))
	}
	// Loading the document takes half of the time for a screen. In a short run one screen follows another as a link leads
	// there, unless both are the same screen.
	at := "/quillmoor" // where signing in leads
	show := func(path string) {
		before := at
		at, _, _ = strings.Cut(path, "?")
		if testing.Short() && at != before {
			a.goes(path)
			return
		}
		a.open(path)
	}
	look := func(path, text string) {
		show(path)
		complete(text)
		a.axe(path)
		var found []string
		a.do(chromedp.Evaluate(small, &found))
		assert.Empty(t, strings.Join(found, "\n"), path)
		for _, size := range sizes {
			a.do(emulation.SetDeviceMetricsOverride(size.width, 800, 1, false), page.SetFontSizes(&page.FontSizes{Standard: size.letters}))
			if !testing.Short() {
				a.open(path) // as a small device has it from the start; in a short run the window becomes smaller
				complete(text)
			}
			a.do(answers("to be laid out", "(await frame(), await frame(), true)"))
			var letters, said string
			a.do(chromedp.Evaluate(`getComputedStyle(document.documentElement).fontSize`, &letters), chromedp.Evaluate(over, &said))
			require.Equal(t, fmt.Sprint(size.letters, "px"), letters)
			assert.Truef(t, strings.HasPrefix(said, "0:") || strings.HasPrefix(said, "-"), "%s, %s: %s", path, size.name, said)
		}
		a.do(emulation.SetDeviceMetricsOverride(1280, 800, 1, false), page.SetFontSizes(&page.FontSizes{Standard: 16}))
	}
	for path, text := range screens {
		look("/quillmoor"+path, text)
	}
	look("/new-blog", "A busy desk")
}
