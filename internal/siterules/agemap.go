package siterules

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/store"
)

// Aged is a published post on the age map.
type Aged struct {
	*condition.Facts
	Edited bool    // a timed edit waits
	Rules  []int64 // the rules of upkeep that catch it now, armed or not, in their order
	Looked bool    // a rule of upkeep that is on catches it now or would some day, or it has an expiry of its own
}

// Line is a rule of upkeep on the age map: the age from which it catches posts, in the categories that it looks at.
type Line struct {
	Rule store.Rule
	condition.Threshold
	// Setting is true where the threshold is the rule's own least age, rather than a test of its condition.
	Setting    bool
	HasAge     bool     // otherwise the rule draws no line
	Categories []string // nil: all
	Count      int      // posts that it catches now
}

// AgeMap is every published post of a site by its age, with what looks after it.
type AgeMap struct {
	Posts []Aged
	Lines []Line
	Total int // published posts; more than there are in Posts where those were too many
}

// MostAged is how many posts an age map shows: the oldest of them.
const MostAged = 20_000

// AgeMap tells how old a site's posts are and which rules of upkeep catch them.
func (b Book) AgeMap(ctx context.Context, q store.Queries, now time.Time) (AgeMap, error) {
	now = deed.Minute(now)
	f, err := b.Frame(ctx, q, now, nil)
	if err != nil {
		return AgeMap{}, err
	}
	var ofUpkeep []store.Rule
	for _, r := range f.Rules {
		if r.Kind != store.Reshare && upkeep.Action(r.Settings.Action) != upkeep.Delete {
			ofUpkeep = append(ofUpkeep, r)
		}
	}
	needs := f.needs(ofUpkeep...)
	needs.Statuses = []string{string(store.Published)}
	if err := f.add(ctx, q, b.Site.ID, needs); err != nil {
		return AgeMap{}, err
	}
	if err := f.readSums(ctx, q, b.Site.ID); err != nil {
		return AgeMap{}, err
	}
	edits, err := q.WaitingEdits(ctx, b.Site.ID)
	if err != nil {
		return AgeMap{}, fmt.Errorf("reading the timed edits: %w", err)
	}
	edited := make(map[int64]bool, len(edits))
	for _, e := range edits {
		edited[e.Post] = true
	}
	m := AgeMap{Posts: []Aged{}, Lines: []Line{}}
	for _, p := range f.Scene.Posts {
		if p.Status == string(store.Published) {
			m.Posts = append(m.Posts, Aged{Facts: p, Edited: edited[p.Post]})
		}
	}
	m.Total = len(m.Posts)
	slices.SortFunc(m.Posts, func(a, b Aged) int { return cmp.Or(a.Published.Compare(b.Published), cmp.Compare(a.Post, b.Post)) })
	m.Posts = m.Posts[:min(len(m.Posts), MostAged)]
	at := make(map[int64]int, len(m.Posts))
	for i, p := range m.Posts {
		at[p.Post] = i
	}
	w := deed.NewWorld(f.Scene)
	for _, r := range ofUpkeep {
		if ctx.Err() != nil {
			return m, ctx.Err()
		}
		turn := w.Turn(r.ID, now)
		if f.acting(r.ID).Base().IsLive() {
			lookAhead(f.acting(r.ID), m.Posts, now)
		}
		pool := turn.Pool()
		line := lineOf(r, f.condition(r.ID))
		for i := range pool.All() {
			facts := w.At(i)
			if n, shown := at[facts.Post]; shown {
				m.Posts[n].Rules = append(m.Posts[n].Rules, r.ID)
			}
			line.Count++
		}
		m.Lines = append(m.Lines, line)
	}
	return m, nil
}

// someDay is when every age has been reached that a rule may ask for.
const someDay = 60 * 366 * 24 * time.Hour

// lookAhead marks the posts that a rule catches now or would some day, were they to stay as they are.
func lookAhead(r deed.Rule, posts []Aged, now time.Time) {
	times := []time.Time{now, now.Add(someDay)}
	if r.Base().Condition.ComesRound() { // what comes round each year is looked for in all of one
		for week := range 62 {
			times = append(times, now.Add(someDay).AddDate(0, 0, 6*week))
		}
	}
	for _, at := range times {
		moment := r.Base().Condition.At(at)
		for i := range posts {
			if p := &posts[i]; !p.Looked {
				caught, _ := r.Judge(deed.Case{Facts: p.Facts, At: at, Moment: &moment})
				p.Looked = caught || !p.Expires.IsZero()
			}
		}
	}
}

// lineOf is the line that a rule draws.
func lineOf(r store.Rule, c *condition.Condition) Line {
	line := Line{Rule: r, Categories: c.InCategories()}
	if r.Kind == store.Republish && !r.Settings.Youngest.IsZero() {
		line.Threshold, line.Setting, line.HasAge = condition.Threshold{Span: r.Settings.Youngest, Over: true}, true, true
		return line
	}
	for _, t := range condition.Thresholds(r.Condition) {
		if !line.HasAge || t.Over && !line.Over {
			line.Threshold, line.HasAge = t, true
		}
	}
	return line
}

// Verdict is what a rule says of one post.
type Verdict struct {
	Rule store.Rule
	Caught
}

// Care tells what each rule of a site says of a post.
func (b Book) Care(ctx context.Context, q store.Queries, post int64, now time.Time) ([]Verdict, error) {
	now = deed.Minute(now)
	f, err := b.Frame(ctx, q, now, nil)
	if err != nil {
		return nil, err
	}
	if err := f.readPasts(ctx, q, b.Site.ID); err != nil {
		return nil, err
	}
	needs := f.needs(f.Rules...)
	needs.IDs = []int64{post}
	if err := f.add(ctx, q, b.Site.ID, needs); err != nil {
		return nil, err
	}
	if len(f.Scene.Posts) == 0 {
		return nil, store.ErrNotFound
	}
	w := deed.NewWorld(f.Scene)
	var all []Verdict
	for _, r := range f.Rules {
		facts, _ := w.Post(post)
		all = append(all, Verdict{Rule: r, Caught: Caught{Post: *facts, Verdict: w.Why(r.ID, post, now), Excluded: f.excluded[r.ID][post]}})
	}
	return all, nil
}

// Told says of notices which of them are still in force: the rule still acts on the post, and has not since.
func (b Book) Told(ctx context.Context, q store.Queries, all []store.Notice, now time.Time) ([]bool, error) {
	waiting := make([]bool, len(all))
	if len(all) == 0 {
		return waiting, nil
	}
	now = deed.Minute(now)
	f, err := b.Frame(ctx, q, now, nil)
	if err != nil {
		return nil, err
	}
	if err := f.readPasts(ctx, q, b.Site.ID); err != nil {
		return nil, err
	}
	needs := f.needs(f.live()...)
	for _, n := range all {
		needs.IDs = append(needs.IDs, n.Post)
	}
	if err := f.add(ctx, q, b.Site.ID, needs); err != nil {
		return nil, err
	}
	w := deed.NewWorld(f.Scene)
	for i, n := range all {
		r := f.acting(n.Rule)
		p, known := w.Post(n.Post)
		waiting[i] = known && r != nil && r.Base().IsLive() && !n.At.Before(p.Published) && w.Why(n.Rule, n.Post, now).Caught
	}
	return waiting, nil
}

// comingCare is how far ahead it is foretold what becomes of posts.
const comingCare = 366 * 24 * time.Hour

// Fate is what is foretold of a post by a rule, or by its own expiry (rule 0).
type Fate struct {
	Rule int64
	At   time.Time
	What deed.Kind
}

// Fates are what is foretold to become of posts first within a year, by each rule of upkeep and by their own expiries; and until
// when that holds by the clock alone.
func (b Book) Fates(ctx context.Context, q store.Queries, now time.Time) (map[int64][]Fate, time.Time, error) {
	told, err := b.Coming(ctx, q, now, now.Add(comingCare))
	if err != nil {
		return nil, now, err
	}
	fates := make(map[int64][]Fate)
	till := now.Add(time.Hour)
	for i, e := range told.Events {
		if i == 0 && e.At.Before(till) {
			till = e.At
		}
		switch e.Effect {
		case deed.TakenAway, deed.ComesBack, deed.Changed, deed.Erased:
		default:
			continue
		}
		if e.Kind == deed.KindTimedEdit || slices.ContainsFunc(fates[e.Post], func(f Fate) bool { return f.Rule == e.Rule }) {
			continue
		}
		fates[e.Post] = append(fates[e.Post], Fate{e.Rule, e.At, e.Kind})
	}
	return fates, till, nil
}
