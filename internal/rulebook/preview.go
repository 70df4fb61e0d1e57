package rulebook

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/core/message"
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
	// Token stands for exactly this catch: arming with it is refused once the catch is
	// another.
	Token    string
	Wide     bool // an expiry that would take more than a fifth of the site
	All      bool // it would take every published post
	Posts    []Caught
	BadDates []Caught // posts of which a field that should hold a date does not
	Warnings []string
	Coming   []forecast.Event // of a rule that brings out: what it does next
	Unfit    []deed.Unfit     // of a reshare rule: messages that its channel cannot take
}

// PreviewPage says which part of a catch is wanted.
type PreviewPage struct {
	Offset, Limit int
	Coming        int // how many of the next outings
}

// Preview tells what a rule catches now, and what it would do next. The rule need not
// have been saved; it must have no problems.
func (b Book) Preview(ctx context.Context, q store.Queries, r store.Rule, page PreviewPage, now time.Time) (Preview, error) {
	now = deed.Minute(now) // a run is decided by the minute too
	r = acting(numbered(r), now)
	f, err := b.Frame(ctx, q, now, &r)
	if err != nil {
		return Preview{}, err
	}
	if err := f.AddCandidates(ctx, q, b.Site.ID, r.ID, now); err != nil {
		return Preview{}, err
	}
	w := deed.NewWorld(f.Scene)
	pool := w.Catch(r.ID, now)
	p := Preview{Sentence: condition.Sentence(r.Condition), Count: pool.Len(), Published: f.Scene.Published}
	var ids []int64
	why := f.why(r, w, now)
	at := 0
	for i := range pool.InOrder() {
		facts := w.At(i)
		ids = append(ids, facts.Post)
		if at >= page.Offset && len(p.Posts) < page.Limit {
			p.Posts = append(p.Posts, Caught{Post: *facts, Verdict: why(facts)})
		}
		at++
	}
	p.Token = tokenOf(r, ids)
	if most := r.Settings.MostARun; r.Kind == store.Expire && most > 0 {
		p.Later = max(p.Count-most, 0)
	}
	p.Wide = r.Kind == store.Expire && p.Count > 1 && upkeep.IsWide(p.Count, p.Published)
	p.All = r.Kind == store.Expire && p.Count > 1 && p.Count >= p.Published
	c := f.condition(r.ID)
	for i := range f.Scene.Posts {
		if facts := &f.Scene.Posts[i]; len(p.BadDates) < page.Limit && len(c.BadDates(facts)) > 0 {
			p.BadDates = append(p.BadDates, Caught{Post: *facts, Verdict: why(facts)})
		}
	}
	p.Warnings = f.warnings(r, p.Count)
	p.Unfit = w.Unfit(r.ID, now, mostUnfit, unfitPosts)
	if r.Kind != store.Expire && page.Coming > 0 {
		p.Coming, err = b.coming(ctx, q, f, r.ID, page.Coming, now)
	}
	return p, err
}

// acting is a rule as if it were armed and did not hold, from now on where it is not.
func acting(r store.Rule, now time.Time) store.Rule {
	if r.ArmedAt == nil {
		r.ArmedAt, r.ServedAt = &now, &now
	}
	r.HeldAt = nil
	return r
}

// why explains the rule's verdict on posts.
func (f *Frame) why(r store.Rule, w *deed.World, now time.Time) func(*condition.Facts) condition.Verdict {
	k := f.condition(r.ID).At(now)
	switch r.Kind {
	case store.Expire:
		rule := find(f.Scene.Expire, func(e upkeep.Expire) bool { return e.ID == r.ID })
		return func(p *condition.Facts) condition.Verdict { return rule.Why(p, &k) }
	case store.Republish:
		rule := find(f.Scene.Republish, func(e upkeep.Republish) bool { return e.ID == r.ID })
		return func(p *condition.Facts) condition.Verdict { return rule.Why(p, now, &k) }
	}
	rule := find(f.Scene.Reshare, func(e reshare.Rule) bool { return e.ID == r.ID })
	return func(p *condition.Facts) condition.Verdict {
		v := rule.Why(p, w.PastOf(r.ID, p.Post), now, &k)
		if n := len(w.Refused(r.ID, p.Post)); n > 0 {
			v.Because = append(v.Because, condition.Reason{Text: "the network refused a message of it"})
		}
		return v
	}
}

func find[T any](all []T, is func(T) bool) *T {
	return &all[slices.IndexFunc(all, is)]
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
	if err := f.add(ctx, q, b.Site.ID, store.FactsFilter{IDs: []int64{post}, WithText: c.Asks(condition.Text), WithClicks: true}); err != nil {
		return Caught{}, err
	}
	if len(f.Scene.Posts) == 0 {
		return Caught{}, store.ErrNotFound
	}
	w := deed.NewWorld(f.Scene)
	facts := w.At(0)
	return Caught{Post: *facts, Verdict: f.why(r, w, now)(facts), Excluded: f.excluded[r.ID][post]}, nil
}

// tokenOf stands for what arming a rule agrees to: what it does, and to which posts.
func tokenOf(r store.Rule, posts []int64) string {
	slices.Sort(posts)
	raw, err := json.Marshal([]any{r.Kind, r.Condition, r.Settings.Action, posts})
	if err != nil {
		panic(err) // plain values always marshal
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:12])
}

// warnings tells what an editor should know before the rule runs.
func (f *Frame) warnings(r store.Rule, count int) []string {
	var warnings []string
	switch {
	case r.Kind == store.Expire:
		return nil
	case count == 0:
		warnings = append(warnings, "This rule has no post to bring out right now. Loosen its conditions, ages or rest periods.")
	case count == 1:
		warnings = append(warnings, "This rule has only one post to bring out right now; it would be the same one every time.")
	}
	if r.Kind == store.Republish {
		rule := find(f.Scene.Republish, func(e upkeep.Republish) bool { return e.ID == r.ID })
		if every := rule.Pace.Shortest(); every > 0 && every < time.Hour {
			warnings = append(warnings, fmt.Sprintf("A post would come out again every %d min; few readers can keep up with that.", int(every/time.Minute)))
		}
		return warnings
	}
	rule := find(f.Scene.Reshare, func(e reshare.Rule) bool { return e.ID == r.ID })
	channel := find(f.Scene.Channels, func(c deed.Channel) bool { return c.ID == r.Channel })
	warnings = append(warnings, rule.Warnings(channel.Channel)...)
	for i, w := range rule.Wordings {
		if !w.Uses(message.Link) {
			warnings = append(warnings, fmt.Sprintf("Wording %d has no {link}; readers cannot get to the post.", i+1))
		}
	}
	return warnings
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

// coming foretells the next events of a rule that acts in the frame.
func (b Book) coming(ctx context.Context, q store.Queries, f *Frame, rule int64, n int, now time.Time) ([]forecast.Event, error) {
	f.Scene.Paused = false
	f.Scene.Until = now.Add(comingReach)
	if err := f.AddReachable(ctx, q, b.Site.ID, f.Scene.Until); err != nil {
		return nil, err
	}
	var events []forecast.Event
	steps := 0
	for at, d := range forecast.Steps(deed.NewWorld(f.Scene), now, f.Scene.Until) {
		for _, one := range d.Deeds {
			if one.Rule == rule && one.Kind != deed.Ask {
				events = append(events, forecast.Event{At: at, Deed: one})
			}
		}
		if steps++; len(events) >= n || steps > comingSteps || ctx.Err() != nil {
			break
		}
	}
	return events[:min(n, len(events))], ctx.Err()
}
