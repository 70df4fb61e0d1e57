package siterules

import (
	"context"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/store"
)

// Caught is a post of a catch, with the reasons.
type Caught struct {
	Post     condition.Facts
	Verdict  condition.Verdict
	Excluded bool
}

// Preview is what a rule would do, were it as it stands.
type Preview struct {
	Sentence  string
	Count     int // posts that it catches, or that may go out now
	Later     int // of an expiry's catch: those that wait for later runs, since a run takes fewer
	Published int
	token     string
	Guarded   bool // it takes posts away, so its catch is agreed to by its token
	Wide      bool // an expiry that would take more than a fifth of the site
	All       bool // it would take every published post
	ForGood   bool // it deletes for good
	Posts     []Caught
	BadDates  []Caught // posts of which a field that should hold a date does not
	Warnings  []string
	Coming    []forecast.Event // of a rule that brings out: what it does next
	Round     time.Time        // about when every post of the pool has had its turn; zero: not known
	Dry       time.Time        // from when on it has no post for a turn, as far as was looked; zero: it has
	Channels  map[int64]string // the names of channels
	Planned   map[int64]store.Outing
	Unfit     []deed.Unfit // of a reshare rule: messages that its channel cannot take
}

// Token stands for what arming the rule agrees to: what it does, and to which posts.
func (p Preview) Token() string { return p.token }

// PreviewPage says which part of a catch is wanted.
type PreviewPage struct {
	Offset, Limit int
	Coming        int // how many of the next outings
}

// Preview tells what a rule catches now, and what it would do next. The rule need not
// have been saved; it must have no problems.
func (b Book) Preview(ctx context.Context, q store.Queries, r store.Rule, page PreviewPage, now time.Time) (Preview,
	error) {
	now = deed.Minute(now) // a run is decided by the minute too
	r = asIfArmed(numbered(r), now)
	f, err := b.Frame(ctx, q, now, &r)
	if err != nil {
		return Preview{}, err
	}
	if g, guarded := f.acting(r.ID).(deed.Guarded); guarded {
		return b.previewGuarded(ctx, q, f, r, g, page, now)
	}
	if err := f.AddCandidates(ctx, q, b.Site.ID, r.ID, now); err != nil {
		return Preview{}, err
	}
	candidates := len(f.Scene.Posts)
	rule, foretells := f.acting(r.ID), page.Coming > 0
	if foretells {
		f.Scene.Paused, f.Scene.Until = false, now.Add(comingReach)
		if err := f.AddReachable(ctx, q, b.Site.ID, f.Scene.Until); err != nil {
			return Preview{}, err
		}
	}
	w := deed.NewWorld(f.Scene)
	turn := w.Turn(r.ID, now)
	p := Preview{Channels: f.foretold().Channels, Sentence: condition.Sentence(r.Condition), Count: turn.Pool().Len(), Published: f.Scene.Published}
	var ids []int64
	why := func(p *condition.Facts) condition.Verdict { return w.Why(r.ID, p.Post, now) }
	at := 0
	for i := range turn.Posts() {
		if at >= page.Offset+page.Limit {
			break
		}
		if facts := w.At(i); at >= page.Offset {
			p.Posts = append(p.Posts, Caught{Post: *facts, Verdict: why(facts)})
		}
		at++
	}
	for i := range turn.Pool().All() {
		ids = append(ids, w.At(i).Post)
	}
	slices.Sort(ids)
	p.token = act.TokenOf(r.Kind, reachOf(r), ids)
	c := f.condition(r.ID)
	for i := range candidates {
		if facts := f.Scene.Posts[i]; len(p.BadDates) < page.Limit && len(c.BadDates(facts)) > 0 {
			p.BadDates = append(p.BadDates, Caught{Post: *facts, Verdict: why(facts)})
		}
	}
	p.Warnings = rule.Warnings(w, p.Count)
	if s, ok := rule.(deed.Speaker); ok {
		p.Unfit = s.Unfit(turn, mostUnfit, unfitPosts)
	}
	if foretells {
		p.Round = roundOf(rule, f.Scene.InHand, p.Count)
		if err = coming(ctx, w, r.ID, page.Coming, now, &p); err == nil {
			p.Planned, err = plannedOf(ctx, q, b.Site.ID)
		}
	}
	return p, err
}

// previewGuarded is the preview of a rule that acts on all it catches. PostgreSQL finds the catch, and only the posts of the page are
// read, so that it takes little longer with a million posts.
func (b Book) previewGuarded(ctx context.Context, q store.Queries, f *Frame, r store.Rule, g deed.Guarded, page PreviewPage, now time.Time) (Preview,
	error) {
	only, without := g.Chosen()
	var sifted store.Sifted
	var undated []int64
	dates := f.condition(r.ID).DateFields()
	err := q.Together(ctx,
		func(ctx context.Context) error { return f.readPublished(ctx, q, b.Site.ID) },
		func(ctx context.Context) (err error) {
			sifted, err = q.Sift(ctx, b.Site.ID, store.Sieve{Conditions: g.Asked(now), Only: only, Without: without}, page.Offset, page.Limit)
			return err
		},
		func(ctx context.Context) (err error) {
			if len(dates) > 0 && page.Limit > 0 && page.Offset == 0 {
				undated, err = q.Undated(ctx, b.Site.ID, f.reach(r, now, store.FactsFilter{}), dates, b.Site.Zone(), page.Limit)
			}
			return err
		})
	if err != nil {
		return Preview{}, err
	}
	needs := f.needs(r)
	needs.IDs, needs.WithClicks = slices.Concat(sifted.Posts, undated), needs.WithClicks || f.condition(r.ID).Asks(condition.Clicks)
	if err := f.add(ctx, q, b.Site.ID, needs); err != nil {
		return Preview{}, err
	}
	action := upkeep.Action(r.Settings.Action)
	p := Preview{Channels: f.foretold().Channels, Sentence: condition.Sentence(r.Condition), Count: sifted.Count, Published: f.Scene.Published,
		Guarded: true, Later: sifted.Count - g.Takes(sifted.Count), ForGood: action == upkeep.Delete,
		token: act.TokenOf(r.Kind, reachOf(r), sifted.Digest)}
	p.Wide = p.Count > 1 && upkeep.IsWide(p.Count, p.Published) || p.ForGood && p.Count > 0
	p.All = p.Count > 1 && p.Count >= p.Published && action.TakesAway() && r.Settings.Only == nil
	w := deed.NewWorld(f.Scene)
	facts := make(map[int64]*condition.Facts, len(f.Scene.Posts))
	for _, post := range f.Scene.Posts {
		facts[post.Post] = post
	}
	caught := func(id int64) Caught { return Caught{Post: *facts[id], Verdict: w.Why(r.ID, id, now)} }
	for _, id := range sifted.Posts {
		if facts[id] != nil { // it may be gone by now
			p.Posts = append(p.Posts, caught(id))
		}
	}
	for _, id := range undated {
		if facts[id] != nil && len(f.condition(r.ID).BadDates(facts[id])) > 0 {
			p.BadDates = append(p.BadDates, caught(id))
		}
	}
	p.Warnings = g.Warnings(w, p.Count)
	return p, nil
}

// asIfArmed is a rule as if it were armed and did not hold, from now on where it is not.
func asIfArmed(r store.Rule, now time.Time) store.Rule {
	if r.ArmedAt == nil {
		r.ArmedAt, r.ServedAt = &now, &now
	}
	r.HeldAt = nil
	return r
}

// Why explains a rule's verdict on one post of the site.
func (b Book) Why(ctx context.Context, q store.Queries, r store.Rule, post int64, now time.Time) (Caught, error) {
	now = deed.Minute(now)
	r = numbered(r)
	f, err := b.Frame(ctx, q, now, &r)
	if err != nil {
		return Caught{}, err
	}
	if err := f.readPasts(ctx, q, b.Site.ID); err != nil {
		return Caught{}, err
	}
	c := f.condition(r.ID)
	if err := f.add(ctx, q, b.Site.ID, store.FactsFilter{IDs: []int64{post}, WithText: c.Asks(condition.Text),
		WithClicks: true}); err != nil {
		return Caught{}, err
	}
	if len(f.Scene.Posts) == 0 {
		return Caught{}, store.ErrNotFound
	}
	w := deed.NewWorld(f.Scene)
	return Caught{Post: *w.At(0), Verdict: w.Why(r.ID, post, now), Excluded: f.excluded[r.ID][post]}, nil
}

const (
	// mostUnfit is how many messages that cannot be sent are told of.
	mostUnfit = 20
	// unfitPosts is in how many posts of a pool they are looked for.
	unfitPosts = 300
	// comingReach is how far ahead the coming outings of a rule are looked for.
	comingReach = 366 * 24 * time.Hour
	// comingSteps bounds the work for them.
	comingSteps = 20_000
)

// coming foretells the next events of a rule in a world, and from when on it has no post for a turn.
func coming(ctx context.Context, w *deed.World, rule int64, n int, now time.Time, p *Preview) error {
	steps := 0
	for at, d := range forecast.Steps(w, now, now.Add(comingReach)) {
		for _, one := range d.Deeds {
			if e := forecast.NewEvent(at, one); e.Rule == rule && e.Effect != deed.NothingOf && len(p.Coming) < n {
				p.Coming = append(p.Coming, e)
			}
		}
		if p.Dry.IsZero() && d.Run != nil && d.Run.Rule == rule && d.Run.Caught == 0 {
			p.Dry = at
		}
		if steps++; len(p.Coming) >= n || steps > comingSteps || ctx.Err() != nil {
			break
		}
	}
	return ctx.Err()
}

// roundTurns is how many turns are counted one by one to say when a round is over; of longer
// rounds the rest is reckoned from them.
const roundTurns = 1000

// roundOf is about when a rule will have taken as many posts as its pool holds.
func roundOf(r deed.Rule, inHand []deed.InHand, pool int) time.Time {
	s, is := r.(*reshare.Reshare)
	if !is || pool == 0 {
		return time.Time{}
	}
	turns := (pool + max(s.AtATime, 1) - 1) / max(s.AtATime, 1)
	var first, last time.Time
	n := 0
	for at := range deed.TurnsOf(r, inHand) {
		if n++; n == 1 {
			first = at
		}
		if last = at; n == min(turns, roundTurns) {
			break
		}
	}
	if n < min(turns, roundTurns) {
		return time.Time{} // it ends before
	}
	if turns > n {
		last = last.Add(time.Duration(float64(last.Sub(first)) / float64(n-1) * float64(turns-n)))
	}
	return last
}

// plannedOf are the planned outings of a site by their numbers.
func plannedOf(ctx context.Context, q store.Queries, siteID int64) (map[int64]store.Outing, error) {
	all, err := q.Planned(ctx, siteID)
	planned := make(map[int64]store.Outing, len(all))
	for _, o := range all {
		planned[o.ID] = o
	}
	return planned, err
}
