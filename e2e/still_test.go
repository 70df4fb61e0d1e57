package e2e

import (
	"context"
	"testing"

	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/stretchr/testify/assert"
)

// watching adds up how far things have moved by themselves, from the first drawing on
// (Layout Instability, W3C draft).
const watching = `window.moved = []
new PerformanceObserver((list) => {
	for (const e of list.getEntries()) if (!e.hadRecentInput)
		window.moved.push({ by: e.value, what: e.sources.map((s) => s.node?.outerHTML?.slice(0, 120)).join(" | ") })
}).observe({ type: "layout-shift", buffered: true })`

// What is under the pointer stays there while a screen loads.
func TestNothingMovesWhileAScreenLoads(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.do(chromedp.ActionFunc(func(ctx context.Context) error {
		_, err := page.AddScriptToEvaluateOnNewDocument(watching).Do(ctx)
		return err
	}))
	for path, text := range map[string]string{
		"/quillmoor": "Shelf", "/quillmoor?view=month": "November 2026", "/quillmoor/posts": "Sky Guide", "/quillmoor/rules": "Dome notices after ten days",
		"/quillmoor/forecast": "The shelf runs dry", "/quillmoor/logbook": "By anyone", "/quillmoor/settings/plan": "Overdue posts", "/quillmoor/people": "Tobias Wren",
	} {
		a.open(path)
		a.sees(text)
		// What comes late has come once the browser has nothing more to do.
		a.do(chromedp.Evaluate(`document.fonts.ready.then(() => new Promise((done) => requestIdleCallback(() => requestIdleCallback(() => done(true)))))`,
			nil, chromedp.EvalAsValue, func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }))
		var moved []struct {
			By   float64
			What string
		}
		a.do(chromedp.Evaluate(`window.moved`, &moved))
		sum := 0.0
		for _, m := range moved {
			sum += m.By
		}
		assert.Less(t, sum, 0.02, "%s: %v", path, moved)
	}
}
