package e2e

import (
	"cmp"
	"context"
	"encoding/json"
	"slices"
	"sync"

	"github.com/chromedp/cdproto/tracing"
	"github.com/chromedp/chromedp"
)

// traced is an event of Chromium's trace (Trace Event Format); times are in µs.
type traced struct {
	Name    string
	Phase   string `json:"ph"`
	Process int    `json:"pid"`
	Thread  int    `json:"tid"`
	At      int64  `json:"ts"`
	Lasts   int64  `json:"dur"`
}

// trace records what the browser does meanwhile, and returns for every frame of the page how
// long its main thread worked for it, in milliseconds: scripts, styles, layout and painting,
// without the waiting for the screen's next beat. The page must ask for a frame in every one.
func (a *app) trace(do func()) (work []float64) {
	a.t.Helper()
	var mu sync.Mutex
	var events []traced
	ended := make(chan struct{})
	listening, stop := context.WithCancel(a.browser)
	defer stop()
	chromedp.ListenTarget(listening, func(ev any) {
		switch ev := ev.(type) {
		case *tracing.EventDataCollected:
			mu.Lock()
			defer mu.Unlock()
			for _, raw := range ev.Value {
				var e traced
				if json.Unmarshal(raw, &e) == nil {
					events = append(events, e)
				}
			}
		case *tracing.EventTracingComplete:
			close(ended)
		}
	})
	a.do(tracing.Start().WithTraceConfig(&tracing.TraceConfig{IncludedCategories: []string{"devtools.timeline",
		"disabled-by-default-devtools.timeline"}}))
	do()
	a.do(tracing.End())
	select {
	case <-ended:
	case <-a.browser.Done():
		a.t.Fatal("the browser ended before its trace")
	}
	mu.Lock()
	defer mu.Unlock()
	return workOfFrames(events)
}

// workOfFrames adds the tasks of the page's main thread up between one frame and the next.
func workOfFrames(events []traced) (work []float64) {
	slices.SortStableFunc(events, func(a, b traced) int { return cmp.Compare(a.At, b.At) })
	type thread struct{ process, thread int }
	frames := make(map[thread][]int64)
	for _, e := range events {
		if e.Name == "FireAnimationFrame" {
			t := thread{e.Process, e.Thread}
			frames[t] = append(frames[t], e.At)
		}
	}
	for main, begins := range frames {
		busy := make([]int64, len(begins))
		for _, e := range events {
			if (thread{e.Process, e.Thread}) != main || e.Phase != "X" || e.Name != "RunTask" {
				continue
			}
			for from, end := e.At, e.At+e.Lasts; from < end; { // a task may reach over a frame's begin
				i, _ := slices.BinarySearch(begins, from+1)
				until := end
				if i < len(begins) {
					until = min(end, begins[i])
				}
				if i > 0 && i < len(begins) {
					busy[i-1] += until - from
				}
				from = until
			}
		}
		for _, b := range busy[:len(busy)-1] { // the last one has no end
			work = append(work, float64(b)/1000)
		}
	}
	return work
}
