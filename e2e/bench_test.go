package e2e

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"testing"
	"time"

	"dapper.example/internal/pgtest"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// seen notes when something is first there to be used, and the largest contentful paint,
// in milliseconds since the navigation began.
const seen = `(() => {
	new PerformanceObserver((list) => { for (const e of list.getEntries()) window.largest = [e.startTime, e.element?.outerHTML.slice(0, 80)] })
		.observe({ type: "largest-contentful-paint", buffered: true })
	const look = () => {
		if (document.querySelector("#shelf")) window.usable = performance.now()
		else requestAnimationFrame(look)
	}
	look()
})()`

// BenchmarkFirstScreen opens the Almanac of the demo world in Chromium, with nothing
// cached, and tells when the largest thing is painted, when its shelf is there to be used,
// and how much script had come, as it was transferred: medians.
func BenchmarkFirstScreen(b *testing.B) {
	a := newApp(b)
	a.signIn()
	a.do(chromedp.ActionFunc(func(ctx context.Context) error {
		_, err := page.AddScriptToEvaluateOnNewDocument(seen).Do(ctx)
		return err
	}))
	a.do(network.Enable())
	var usable, script, largest []float64
	for b.Loop() {
		a.do(network.ClearBrowserCache())
		a.open("/quillmoor")
		a.sees("Schedule 18 drafts…")
		a.do(chromedp.Sleep(300 * time.Millisecond)) // paints are told of later
		var text string
		a.do(chromedp.Evaluate(`JSON.stringify([window.usable, window.largest?.[0] ?? 0, performance.getEntriesByType("resource")
			.filter((r) => r.name.endsWith(".js")).reduce((sum, r) => sum + r.transferSize, 0) / 1000])`, &text))
		var got [3]float64
		require.NoError(b, json.Unmarshal([]byte(text), &got))
		usable, largest, script = append(usable, got[0]), append(largest, got[1]), append(script, got[2])
	}
	slices.Sort(usable)
	slices.Sort(script)
	slices.Sort(largest)
	b.ReportMetric(largest[len(largest)/2], "largest-ms")
	b.ReportMetric(usable[len(usable)/2], "usable-ms")
	b.ReportMetric(script[len(script)/2], "script-kB")
}

// crowd puts 2,000 scheduled posts into the eight weeks that the tape can show.
const crowd = `
	select sites.id, (select min(user_id) from memberships where site_id = sites.id), 'Planned ' || i, 'planned-' || i, 'Text', 'scheduled',
		date_trunc('minute', $1::timestamptz) + i * interval '40 minutes', true, $1::timestamptz, $1::timestamptz
	from generate_series(1, 2000) i, sites where slug = 'quillmoor'`

// past puts 100,000 posts that are out behind them.
const past = `
	select sites.id, (select min(user_id) from memberships where site_id = sites.id), 'Out ' || i, 'out-' || i, 'Text', 'published',
		$1::timestamptz - i * interval '20 minutes', $1::timestamptz, $1::timestamptz
	from generate_series(1, 100000) i, sites where slug = 'quillmoor'`

// BenchmarkDragging drags a post over the tape for three seconds, eight weeks and 2,000
// entries in view, 100,000 posts in the site, and tells how far apart the frames were: the
// median, which is never less than the screen's own beat, the longest, and how many were
// longer than 50 ms. From a trace it tells how long the page worked for a frame.
func BenchmarkDragging(b *testing.B) {
	a := newApp(b)
	pgtest.Put(b, a.store, `site_id, author_id, title, slug, body, status, due_at, pinned, created_at, updated_at`,
		crowd, a.clock.Now())
	pgtest.Put(b, a.store, `site_id, author_id, title, slug, body, status, published_at, created_at, updated_at`, past,
		a.clock.Now())
	_, err := a.store.DB().ExecContext(b.Context(), `analyze posts, texts`)
	require.NoError(b, err)
	a.signIn("/quillmoor?span=56")
	a.do(shown(`[data-tape] [data-post]`))
	var entries int
	a.do(chromedp.Evaluate(`document.querySelectorAll("[data-tape] [data-post]").length`, &entries))
	require.Greater(b, entries, 1900)
	var medians, worst, long, busy, busiest []float64
	for b.Loop() {
		from := a.middle(`[data-day]:nth-child(4) [data-post]`)
		a.mouse(input.MouseMoved, from)
		a.mouse(input.MousePressed, from)
		a.do(chromedp.Evaluate(`window.frames_ = []; window.lastFrame = performance.now(); (function tick() {
			const now = performance.now(); window.frames_.push(now - window.lastFrame); window.lastFrame = now;
			window.ticking = requestAnimationFrame(tick) })()`, nil))
		work := a.trace(func() {
			for began, i := time.Now(), 0; time.Since(began) < 3*time.Second; i++ {
				a.mouse(input.MouseMoved, spot{200 + float64(i*7%600), 200 + float64(i*3%500)})
			}
		})
		var frames []float64
		a.do(chromedp.Evaluate(`cancelAnimationFrame(window.ticking); window.frames_`, &frames))
		a.do(keyed(kb.Escape))
		a.drop(from)
		slices.Sort(frames)
		slices.Sort(work)
		require.NotEmpty(b, frames)
		require.Greater(b, len(work), 100, "three seconds have more frames than that")
		busy, busiest = append(busy, work[len(work)/2]), append(busiest, work[len(work)-1])
		medians, worst = append(medians, frames[len(frames)/2]), append(worst, frames[len(frames)-1])
		long = append(long, float64(len(slices.DeleteFunc(frames, func(ms float64) bool { return ms <= 50 }))))
	}
	for _, of := range [][]float64{medians, worst, long, busy, busiest} {
		slices.Sort(of)
	}
	b.ReportMetric(medians[len(medians)/2], "frame-ms")
	b.ReportMetric(worst[len(worst)/2], "worst-ms")
	b.ReportMetric(long[len(long)/2], "long-frames")
	b.ReportMetric(busy[len(busy)/2], "work-ms")
	b.ReportMetric(busiest[len(busiest)/2], "worst-work-ms")
	b.ReportMetric(0, "ns/op")
}

// aged is 20,000 posts that are out, the oldest of 30 years ago.
const aged = `
	select sites.id, (select min(user_id) from memberships where site_id = sites.id), 'Aged ' || i, 'aged-' || i, 'Text', 'published',
		$1::timestamptz - interval '1 hour' * (i + power(i, 1.25)), $1::timestamptz, $1::timestamptz, (select min(id) + i % 6 from categories where site_id = sites.id)
	from generate_series(1, 19800) i, sites where slug = 'quillmoor'`

// BenchmarkAgeMap drags a rule's line over an age map of 20,000 marks for two seconds, and tells how long the page worked for
// a frame, from a trace; and how long the map takes from its address to its marks.
func BenchmarkAgeMap(b *testing.B) {
	a := newApp(b)
	pgtest.Put(b, a.store, `site_id, author_id, title, slug, body, status, published_at, created_at, updated_at, category_id`, aged, a.clock.Now())
	_, err := a.store.DB().ExecContext(b.Context(), `analyze posts, texts`)
	require.NoError(b, err)
	a.signIn()
	line := fmt.Sprintf(`[data-line="%d"]`, a.ruleCalled("A notice above old letters").ID)
	var busy, busiest []float64
	began := time.Now()
	a.open("/quillmoor/upkeep")
	a.do(shown(line))
	opened := float64(time.Since(began).Milliseconds())
	for b.Loop() {
		from := a.middle(line)
		a.mouse(input.MouseMoved, from)
		a.mouse(input.MousePressed, from)
		a.do(chromedp.Evaluate(`(function tick() { window.ticking = requestAnimationFrame(tick) })()`, nil))
		work := a.trace(func() {
			for began, i := time.Now(), 0; time.Since(began) < 2*time.Second; i++ {
				a.mouse(input.MouseMoved, spot{from.X - float64(i*3%300), from.Y})
			}
		})
		a.do(chromedp.Evaluate(`cancelAnimationFrame(window.ticking)`, nil))
		a.drop(from)
		slices.Sort(work)
		require.Greater(b, len(work), 50, "two seconds have more frames than that")
		busy, busiest = append(busy, work[len(work)/2]), append(busiest, work[len(work)-1])
	}
	slices.Sort(busy)
	slices.Sort(busiest)
	b.ReportMetric(opened, "open-ms")
	b.ReportMetric(busy[len(busy)/2], "work-ms")
	b.ReportMetric(busiest[len(busiest)/2], "worst-work-ms")
	b.ReportMetric(0, "ns/op")
}
