package e2e

import (
	"fmt"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/store"
)

// spot is a place in the window, in pixels.
type spot struct{ X, Y float64 }

// middle is the middle of what a CSS selector finds first.
func (a *app) middle(selector string) spot {
	a.t.Helper()
	var s spot
	a.do(there(selector), chromedp.Evaluate(fmt.Sprintf(`(() => {
		const el = document.querySelector(%q);
		el.scrollIntoView({ block: "nearest" });
		const r = el.getBoundingClientRect();
		return { X: r.left + Math.min(r.width / 2, 40), Y: r.top + r.height / 2 };
	})()`, selector), &s))
	return s
}

// minuteOn is a minute of a day on the tape.
func (a *app) minuteOn(date string, minute int) spot {
	a.t.Helper()
	var s spot
	a.do(chromedp.Evaluate(fmt.Sprintf(`(() => {
		const r = document.querySelector('[data-day="%s"] [data-tape]').getBoundingClientRect();
		return { X: r.left + r.width * %d / 1440, Y: r.top + 20 };
	})()`, date, minute), &s))
	return s
}

func (a *app) mouse(kind input.MouseType, at spot, change ...func(*input.DispatchMouseEventParams)) {
	a.t.Helper()
	p := input.DispatchMouseEvent(kind, at.X, at.Y)
	if kind != input.MouseMoved || len(change) == 0 {
		p = p.WithButton(input.Left).WithClickCount(1)
	}
	for _, c := range change {
		c(p)
	}
	a.do(p)
}

// hold presses the button on a spot and goes to others, without letting go.
func (a *app) hold(at spot, ways ...spot) {
	a.t.Helper()
	a.mouse(input.MouseMoved, at)
	a.mouse(input.MousePressed, at)
	from := at
	for _, to := range ways {
		for i := 1; i <= 4; i++ {
			part := float64(i) / 4
			a.mouse(input.MouseMoved, spot{from.X + (to.X-from.X)*part, from.Y + (to.Y-from.Y)*part})
		}
		from = to
	}
	// The page follows at its next frame.
	a.do(chromedp.Evaluate(`new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(true))))`, new(bool), awaited))
}

func awaited(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }

func (a *app) drop(at spot) { a.t.Helper(); a.mouse(input.MouseReleased, at) }

// planned is a post of the demo that waits for a time, by its title.
func (a *app) planned(title string) store.Post {
	a.t.Helper()
	var id, site int64
	require.NoError(a.t, a.store.DB().QueryRowContext(a.t.Context(), `select id, site_id from posts where title = $1`,
		title).Scan(&id, &site))
	p, err := a.store.Post(a.t.Context(), site, id)
	require.NoError(a.t, err)
	return p
}

func (a *app) local(p store.Post) string {
	if p.DueAt == nil {
		return ""
	}
	return halifax(*p.DueAt).Format("2006-01-02 15:04")
}

func halifax(t time.Time) time.Time {
	zone, err := time.LoadLocation("America/Halifax")
	if err != nil {
		panic(err)
	}
	return t.In(zone)
}

// commits puts the whole shelf into the plan.
func (a *app) commits() {
	a.t.Helper()
	a.press(`//aside//button[starts-with(normalize-space(.), "Schedule ")]`)
	a.press(`//*[@role="dialog"]//button[starts-with(normalize-space(.), "Schedule ")]`)
	a.sees("The shelf is empty.")
}

// waiting are the first scheduled posts of the demo, in time order, from a day from now
// on.
func (a *app) waiting(n int) (posts []store.Post) {
	a.t.Helper()
	var titles []string
	require.NoError(a.t, a.store.DB().SelectContext(a.t.Context(), &titles, `
		select title from posts where site_id = (select id from sites where slug = 'quillmoor') and status = 'scheduled' and not held and due_at > $1
		order by due_at limit $2`, a.clock.Now().Add(24*time.Hour), n))
	require.Len(a.t, titles, n)
	for _, t := range titles {
		posts = append(posts, a.planned(t))
	}
	return posts
}

func TestAPostIsDraggedOnTheTape(t *testing.T) {
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.commits()
	p := a.waiting(1)[0]
	mark := fmt.Sprintf(`[data-tape] [data-post="%d"]`, p.ID)
	at := halifax(*p.DueAt)
	minute := at.Hour()*60 + at.Minute()

	// Straight down to a day that is free: it keeps its time.
	free := at.AddDate(0, 0, 1)
	for len(a.entriesOn(free)) > 0 {
		free = free.AddDate(0, 0, 1)
	}
	day := free.Format(time.DateOnly)
	from := a.middle(mark)
	to := spot{from.X, a.minuteOn(day, 0).Y}
	a.hold(from, to)
	a.sees(", as before")
	a.drop(to)
	a.sees(fmt.Sprintf("“%s” moved to", p.Title))
	a.do(shown(fmt.Sprintf(`[data-day="%s"] [data-post="%d"]`, day, p.ID)))
	assert.Equal(t, day+at.Format(" 15:04"), a.local(a.planned(p.Title)))

	// Across: to a minute, where it is pinned.
	from = a.middle(mark)
	to = spot{from.X + a.minuteOn(day, 90).X - a.minuteOn(day, 0).X, from.Y}
	a.hold(from, to)
	a.drop(to)
	a.eventually(func() bool { return a.planned(p.Title).Pinned })
	moved := halifax(*a.planned(p.Title).DueAt)
	a.do(shown(mark + fmt.Sprintf(`[aria-label^="%s pinned"]`, moved.Format("15:04"))))
	assert.InDelta(t, minute+90, moved.Hour()*60+moved.Minute(), 3)

	// Escape lets go.
	from = a.middle(mark)
	a.hold(from, a.minuteOn(day, 1000))
	a.do(keyed(kb.Escape))
	a.drop(a.minuteOn(day, 1000))
	assert.Equal(t, moved, halifax(*a.planned(p.Title).DueAt))

	// Ctrl Z takes both back, one after the other; Ctrl Shift Z does one again.
	a.chord("z", input.ModifierCtrl)
	a.eventually(func() bool { return !a.planned(p.Title).Pinned })
	a.chord("z", input.ModifierCtrl)
	a.eventually(func() bool { return a.local(a.planned(p.Title)) == at.Format("2006-01-02 15:04") })
	a.chord("Z", input.ModifierCtrl|input.ModifierShift)
	a.eventually(func() bool { return a.local(a.planned(p.Title)) == day+at.Format(" 15:04") })
}

// entriesOn are the posts that come out on a day.
func (a *app) entriesOn(day time.Time) (titles []string) {
	a.t.Helper()
	require.NoError(a.t, a.store.DB().SelectContext(a.t.Context(), &titles, `
		select title from posts where status in ('scheduled', 'published') and site_id = (select id from sites where slug = 'quillmoor')
			and (coalesce(published_at, due_at) at time zone 'America/Halifax')::date = $1::date`, day.Format(time.DateOnly)))
	return titles
}

// eventually waits until the database says so, looking again at every frame of the page.
func (a *app) eventually(so func() bool) {
	a.t.Helper()
	for began := time.Now(); !so(); {
		if time.Since(began) > patience {
			var text string
			a.do(chromedp.Evaluate(`document.body.innerText`, &text))
			require.Fail(a.t, "it did not come to be", "the page shows:\n%s", text)
		}
		a.do(chromedp.Evaluate(`new Promise((done) => requestAnimationFrame(() => done(true)))`, new(bool), awaited))
	}
}

// chord presses a key together with others.
func (a *app) chord(key string, with input.Modifier) { a.t.Helper(); a.do(keyed(key, with)) }

func TestPostsAreMovedByKeysAndTogether(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	a.commits()
	posts := a.waiting(4)
	mark := func(p store.Post) string { return fmt.Sprintf(`[data-tape] [data-post="%d"]`, p.ID) }
	focus := func(p store.Post) { a.do(focused(mark(p))) }

	// h takes hold, arrows move, Enter puts down.
	was := halifax(*posts[0].DueAt)
	focus(posts[0])
	a.do(keyed("h"), keyed(kb.ArrowRight), keyed(kb.ArrowRight),
		keyed(kb.Enter))
	a.eventually(func() bool { return a.planned(posts[0].Title).Pinned })
	assert.Equal(t, was.Add(2*time.Minute), halifax(*a.planned(posts[0].Title).DueAt))
	// On another day, too, the keys stay with it.
	a.sees(fmt.Sprintf("“%s” moved to", posts[0].Title))
	on := func(days int) string {
		return fmt.Sprintf(`[data-day="%s"] [data-tape] [data-post="%d"]:focus`,
			was.AddDate(0, 0, days).Format(time.DateOnly), posts[0].ID)
	}
	a.do(keyed("h"), keyed(kb.ArrowDown), keyed(kb.Enter), shown(on(1)))
	a.do(keyed("h"), keyed(kb.ArrowUp), keyed(kb.Enter), shown(on(0)))
	assert.Equal(t, was.Add(2*time.Minute), halifax(*a.planned(posts[0].Title).DueAt))

	// Where somebody else moves it, they stay with it too.
	a.sees(fmt.Sprintf("“%s” moved to", posts[0].Title))
	focus(posts[1])
	focus(posts[0])
	for _, by := range []string{"1 day", "-1 day"} {
		_, err := a.store.DB().ExecContext(t.Context(),
			`update posts set due_at = due_at + $2::interval, version = version + 1 where id = $1`, posts[0].ID, by)
		require.NoError(t, err)
		a.do(shown(on(map[string]int{"1 day": 1, "-1 day": 0}[by])))
	}

	// x chooses; two that are chosen are swapped.
	a.sees(fmt.Sprintf("“%s” moved to", posts[0].Title))
	focus(posts[0])
	a.do(keyed("x"))
	focus(posts[1])
	a.do(keyed("x"))
	a.sees("2 chosen")
	a.click("Swap")
	a.sees("2 posts moved.")
	second := halifax(*posts[1].DueAt)
	a.eventually(func() bool { return a.local(a.planned(posts[0].Title)) == second.Format("2006-01-02 15:04") })

	// Delete takes them back to the shelf, each to its front; there one is dragged to the
	// end.
	for _, p := range posts[1:] {
		focus(p)
		a.do(keyed(kb.Delete))
		a.do(shown(fmt.Sprintf(`[data-shelf-row="0"] [data-post="%d"]`, p.ID)))
	}
	from, to := a.middle(`[data-shelf-row="0"] [data-post]`), a.middle(`[data-shelf-row="2"]`)
	to.Y += 12
	a.hold(from, to)
	a.drop(to)
	dragged := posts[3]
	a.do(shown(fmt.Sprintf(`[data-shelf-row="2"] [data-post="%d"]`, dragged.ID)))

	// And from the shelf onto a day.
	from = a.middle(`[data-shelf-row="2"] [data-post]`)
	day := second.AddDate(0, 0, 5).Format(time.DateOnly)
	to = a.minuteOn(day, 1300)
	a.hold(from, to)
	a.drop(to)
	a.eventually(func() bool { return a.planned(dragged.Title).Pinned })
	assert.Equal(t, day, halifax(*a.planned(dragged.Title).DueAt).Format(time.DateOnly))
}

func (a *app) touch(kind input.TouchType, points ...spot) {
	a.t.Helper()
	var at []*input.TouchPoint
	for _, p := range points {
		at = append(at, &input.TouchPoint{X: p.X, Y: p.Y})
	}
	a.do(input.DispatchTouchEvent(kind, at))
}

// A finger that rests on a post lifts it and takes it elsewhere; one that moves at once
// scrolls the page, and moves nothing.
func TestAPostIsDraggedByAFinger(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.do(emulation.SetTouchEmulationEnabled(true))
	a.signIn()
	a.commits()
	p := a.waiting(1)[0]
	was := halifax(*p.DueAt)
	at := a.middle(fmt.Sprintf(`[data-tape] [data-post="%d"]`, p.ID))

	a.touch(input.TouchStart, at)
	a.touch(input.TouchMove, spot{at.X, at.Y + 60})
	// A finger that is lifted while it moves sets the page rolling, and the next one only stops it.
	a.touch(input.TouchCancel)
	a.do(gone(`html[data-holding]`))
	at = a.middle(fmt.Sprintf(`[data-tape] [data-post="%d"]`, p.ID))

	a.touch(input.TouchStart, at)
	a.do(shown(`html[data-holding]`), shown(fmt.Sprintf(`[data-post="%d"][data-lifted]`, p.ID)))
	free := was.AddDate(0, 0, 1)
	for len(a.entriesOn(free)) > 0 {
		free = free.AddDate(0, 0, 1)
	}
	to := a.minuteOn(free.Format(time.DateOnly), 1200)
	to.X = at.X // straight down: it keeps its time
	a.touch(input.TouchMove, spot{at.X, (at.Y + to.Y) / 2})
	a.touch(input.TouchMove, to)
	a.touch(input.TouchEnd)
	a.sees("moved to " + free.Format("Mon 2 Jan"))
	assert.Equal(t, free.Format("2006-01-02 ")+was.Format("15:04"), a.local(a.planned(p.Title)))
	assert.Equal(t, p.DueAt.Add(free.Sub(was)), *a.planned(p.Title).DueAt, "the first finger moved nothing")
}

// A message to come is moved by keys and by the pointer, and left out; its rule goes on around it.
func TestAnOutingIsMovedOnTheTape(t *testing.T) {
	thorough(t)
	t.Parallel()
	a := newApp(t)
	a.signIn()
	planned := func() (n int) {
		require.NoError(t, a.store.DB().GetContext(t.Context(), &n, `select count(*) from outings where state = 'planned' and turn is not null`))
		return n
	}
	const mark = `(//*[@data-day]//button[contains(@title, "Drag it")])`
	a.do(shown(mark), focused(mark+"[1]"), keyed("h"))
	a.sees("To ")
	a.do(keyed(kb.ArrowRight), keyed(kb.ArrowRight), keyed(kb.Enter))
	a.sees("Moved to ")
	a.eventually(func() bool { return planned() > 0 })

	// The mark that follows is dragged a day on.
	// One is taken that nothing lies over, a notice or another mark's label.
	var ways []spot
	a.do(answers("a mark that lies free", `(() => {
		scrollTo(0, 0);
		for (const b of document.querySelectorAll("[data-day] ~ [data-day] button")) {
			if (!b.title.includes("Drag it")) continue;
			const r = b.getBoundingClientRect(), x = r.left + r.width / 2, y = r.top + r.height / 2;
			const day = b.closest("[data-day]").previousElementSibling;
			if (document.elementFromPoint(x, y)?.closest("button") !== b || y > innerHeight - 120) continue;
			window.ways = [{ X: x, Y: y }, { X: x, Y: day.querySelector("[data-tape]").getBoundingClientRect().top + 12 }];
			return true;
		}
		return false;
	})()`), chromedp.Evaluate(`window.ways`, &ways))
	from, to := ways[0], ways[1]
	before := planned()
	a.hold(from, spot{from.X, (from.Y + to.Y) / 2}, to)
	a.sees("To ")
	a.drop(to)
	a.eventually(func() bool { return planned() > before })

	// And one is left out.
	var skipped int
	a.do(shown(mark), focused(mark+"[1]"), keyed(kb.Delete))
	a.sees("Left out.")
	require.NoError(t, a.store.DB().GetContext(t.Context(), &skipped, `select count(*) from outings where state = 'skipped' and turn is not null`))
	assert.Positive(t, skipped)
}
