package forecast

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/words"
)

// watcher looks on while a forecast runs.
type watcher struct {
	request   Request
	world     *deed.World
	exhausted map[int64]*Warning    // by rule
	fights    map[[2]int64]*Warning // by the two rules
	limits    map[int64]*Warning    // by rule
	asking    []Warning
	counts    map[[2]int64]int // of posts that are fought over
	empties   map[int64]int    // turns without a post
	unfit     map[int64]int    // those of them for want of a message that fits
	refused   map[int64]int    // by rule: posts whose messages the network refused
	out       map[int64]Event  // a post's latest coming out or outing by a rule
}

func newWatcher(r Request, w *deed.World) *watcher {
	return &watcher{request: r, world: w, exhausted: make(map[int64]*Warning), fights: make(map[[2]int64]*Warning),
		limits: make(map[int64]*Warning),
		counts: make(map[[2]int64]int), empties: make(map[int64]int), unfit: make(map[int64]int),
		refused: make(map[int64]int), out: make(map[int64]Event)}
}

// near is how soon after a post was brought out or shared its expiry is a fight.
const near = 7 * 24 * time.Hour

// day says the date of a moment, as it is said when the forecast begins.
func (w *watcher) day(t time.Time) string {
	return w.request.Scene.Zone.DateWords(t, w.request.From)
}

func (w *watcher) name(rule int64) string { return "“" + w.request.RuleNames[rule] + "”" }

// see looks at a decision before it is applied.
func (w *watcher) see(at time.Time, run *deed.Run, events []Event) {
	if run != nil {
		w.seeRun(at, *run, events)
	}
	for _, one := range events {
		switch one.Effect {
		case deed.Said, deed.ComesBack:
			if one.Rule != 0 {
				w.out[one.Post] = one
			}
		case deed.TakenAway:
			w.seeExpiry(at, one)
		}
	}
}

func (w *watcher) seeRun(at time.Time, run deed.Run, events []Event) {
	switch {
	case run.Asks != "":
		w.asking = append(w.asking, Warning{Kind: Asking, At: at, Rules: []int64{run.Rule},
			Text: fmt.Sprintf("On %s the rule %s stops and asks you. %s", w.day(at), w.name(run.Rule), run.Asks)})
	case run.Note != "" && len(events) == 0 && w.isEmpty(run):
		w.empties[run.Rule]++
		if run.Caught > 0 {
			w.unfit[run.Rule]++
			w.refused[run.Rule] = max(w.refused[run.Rule], run.Refused)
		}
		if w.exhausted[run.Rule] == nil {
			w.exhausted[run.Rule] = &Warning{Kind: PoolEmpty, At: at, Rules: []int64{run.Rule}}
		}
	}
	if len(events) > 0 && events[0].Effect == deed.Said && at.Sub(run.Due) >= 12*time.Hour {
		if w.limits[run.Rule] == nil {
			w.limits[run.Rule] = &Warning{Kind: Limit, At: at, Rules: []int64{run.Rule},
				Text: fmt.Sprintf("From %s on, the rule %s runs late by half a day or more: it wants to send more than its channel and active hours allow.", w.day(at), w.name(run.Rule))}
		}
	}
}

// isEmpty tells whether a rule that brings posts out has none for a turn: one that waits for somebody to read a post has.
func (w *watcher) isEmpty(run deed.Run) bool {
	r, _ := w.world.Rule(run.Rule)
	_, speaks := r.(deed.Speaker)
	return w.isOutward(run.Rule) && (speaks || run.Caught == 0)
}

// isOutward tells whether the rule brings posts out: one that catches nothing to take
// away is no reason to worry.
func (w *watcher) isOutward(rule int64) bool {
	r, ok := w.world.Rule(rule)
	return ok && r.Stage() != deed.TakingAway
}

// seeExpiry looks for rules that want the post that is taken away.
func (w *watcher) seeExpiry(at time.Time, d Event) {
	last, ok := w.out[d.Post]
	if ok && at.Sub(last.At) < near {
		w.fight(last.Rule, d.Rule, at, d.Post)
	}
	for _, rule := range w.world.CaughtBy(d.Post, d.Rule, at) {
		if w.isOutward(rule) && (!ok || last.Rule != rule || at.Sub(last.At) >= near) {
			w.fight(rule, d.Rule, at, d.Post)
		}
	}
}

func (w *watcher) fight(bringer, taker int64, at time.Time, post int64) {
	key := [2]int64{bringer, taker}
	f := w.fights[key]
	if f == nil {
		f = &Warning{Kind: Fight, At: at, Rules: []int64{bringer}}
		if taker != 0 {
			f.Rules = append(f.Rules, taker)
		}
		w.fights[key] = f
	}
	w.counts[key]++
	f.Posts = some(f.Posts, post)
}

// warnings puts all that was seen in order of time.
func (w *watcher) warnings(events []Event, p placed) []Warning {
	all := w.asking
	for rule, one := range w.exhausted {
		turns := words.Count(w.empties[rule], "turn")
		one.Text = fmt.Sprintf("On %s the rule %s has no post to send; %s pass without one. Loosen its conditions or run it less often.", w.day(one.At), w.name(rule), turns)
		if w.unfit[rule] == w.empties[rule] {
			one.Kind = Unfit
			one.Text = fmt.Sprintf("From %s on, no message of the rule %s fits its channel; %s pass without one. Shorten its wordings.", w.day(one.At), w.name(rule), turns)
			if n := w.refused[rule]; n > 0 {
				one.Text = fmt.Sprintf("From %s on, the rule %s has no message that its channel accepts: the network refused those of %s, and %s pass without one. Change the wordings or the posts.",
					w.day(one.At), w.name(rule), words.Count(n, "post"), turns)
			}
		}
		all = append(all, *one)
	}
	for key, one := range w.fights {
		one.Text = fmt.Sprintf("The rules %s and %s fight over %s: one brings out what the other takes away, first on %s.",
			w.name(key[0]), w.name(key[1]), words.Count(w.counts[key], "post"), w.day(one.At))
		if key[1] == 0 {
			one.Text = fmt.Sprintf("The rule %s would bring out %s about to expire, first on %s.", w.name(key[0]),
				words.Count(w.counts[key], "post"), w.day(one.At))
		}
		all = append(all, *one)
	}
	for _, one := range w.limits {
		all = append(all, *one)
	}
	all = append(all, w.plan(events, p)...)
	slices.SortFunc(all, func(a, b Warning) int {
		return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.Kind, b.Kind), slices.Compare(a.Rules, b.Rules))
	})
	return all
}

// plan warns of a shelf that runs dry and of weeks in which nothing comes out.
func (w *watcher) plan(events []Event, p placed) []Warning {
	r := w.request
	zone := r.Scene.Zone
	var all []Warning
	if !p.dry.IsZero() && !p.dry.After(r.To) {
		text := fmt.Sprintf("The shelf runs dry: the last draft on it would come out on %s, and the slot on %s stays empty.", w.day(p.lasts), w.day(p.dry))
		if p.lasts.IsZero() {
			text = fmt.Sprintf("The shelf is empty: the slot on %s has no draft.", w.day(p.dry))
		}
		all = append(all, Warning{Kind: ShelfDry, At: p.dry, Text: text})
	}
	busy := make(map[civil.Date]bool)
	mark := func(t time.Time) {
		d := zone.DateOf(t)
		busy[d.Monday()] = true
	}
	for _, e := range events {
		if e.Effect == deed.ComesOut || e.Effect == deed.ComesBack {
			mark(e.At)
		}
	}
	for _, t := range p.times {
		mark(t)
	}
	empty := 0
	var first civil.Date
	for _, monday := range weeks(zone, r.From, r.To) {
		if !busy[monday] {
			if empty++; empty == 1 {
				first = monday
			}
		}
	}
	if empty > 0 {
		text := fmt.Sprintf("In the week of %s nothing comes out.", first.Words(zone.DateOf(r.From)))
		if empty > 1 {
			text = fmt.Sprintf("In %d weeks nothing comes out, the first of them the week of %s.", empty,
				first.Words(zone.DateOf(r.From)))
		}
		all = append(all, Warning{Kind: EmptyWeeks, At: zone.At(first, 0), Text: text})
	}
	return all
}
