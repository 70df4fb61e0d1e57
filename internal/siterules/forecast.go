package siterules

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// Foretold is a forecast with the names that go with it.
type Foretold struct {
	forecast.Forecast
	Titles   map[int64]string // of the posts of its events
	Rules    map[int64]string
	Channels map[int64]string
}

// Change is a change that is only thought of: a rule as it would be, armed, or a rhythm.
type Change struct {
	Rule   *store.Rule // a new one has the number 0
	Drop   int64       // a rule that would be put out of action
	Rhythm *store.Rhythm
}

// anySize is a catch larger than any.
const anySize = 1 << 30

// Forecast foretells what happens on the site up to a moment, with a change where one is
// given. The work ends early when the context does.
func (b Book) Forecast(ctx context.Context, q store.Queries, change *Change, now, to time.Time,
	progress func(reached time.Time)) (Foretold, error) {
	var override *store.Rule
	if change != nil && change.Rule != nil {
		r := asIfArmed(numbered(*change.Rule), now)
		if change.Rule.ArmedAt == nil {
			r.Allowed = anySize // arming it would mean agreeing to its catch
		}
		override = &r
	}
	f, err := b.Frame(ctx, q, now, override)
	if err != nil {
		return Foretold{}, err
	}
	if err := f.AddReachable(ctx, q, b.Site.ID, to); err != nil {
		return Foretold{}, err
	}
	plan, request, err := planning.Queue(ctx, q, b.Site, now)
	if err != nil {
		return Foretold{}, fmt.Errorf("reading the shelf of %s: %w", b.Site.Slug, err)
	}
	if change != nil {
		f.without(change.Drop)
		if change.Rhythm != nil {
			f.Scene.Rhythm = change.Rhythm.In(b.Site.Zone())
			request.Slots = planning.SlotsOf(*change.Rhythm, b.Site, now, plan.Occupied)
		}
	}
	told := f.foretold()
	told.Forecast = forecast.Run(forecast.Request{Scene: f.Scene, From: now, To: to, Queue: &request,
		RuleNames: told.Rules,
		Go: func(reached time.Time) bool {
			if progress != nil {
				progress(reached)
			}
			return ctx.Err() == nil
		}})
	told.name(f.Scene.Posts)
	return told, ctx.Err()
}

// Coming foretells what rules, own expiries and planned outings do up to a moment, without the
// shelf and the warnings of a Forecast. Where no rule acts and nothing is planned, it looks at nothing but the posts that have
// an expiry of their own.
func (b Book) Coming(ctx context.Context, q store.Queries, now, to time.Time) (Foretold, error) {
	f, err := b.Frame(ctx, q, now, nil)
	if err != nil {
		return Foretold{}, err
	}
	if len(f.live()) > 0 || len(f.Scene.Planned) > 0 || len(f.Scene.Edits) > 0 || len(f.Scene.Binned) == binned {
		err = f.AddReachable(ctx, q, b.Site.ID, to)
	} else {
		err = f.addExpiring(ctx, q, b.Site.ID, now)
	}
	if err != nil {
		return Foretold{}, err
	}
	told := f.foretold()
	told.Forecast = forecast.Run(forecast.Request{Scene: f.Scene, From: now, To: to,
		Go: func(time.Time) bool { return ctx.Err() == nil }})
	told.name(f.Scene.Posts)
	return told, ctx.Err()
}

// addExpiring reads the posts with an expiry of their own, and leaves out of the plan what
// has none. Where something is overdue the plan stays whole, since all of it has a say on
// where that goes.
func (f *Frame) addExpiring(ctx context.Context, q store.Queries, siteID int64, now time.Time) error {
	waiting := store.FactsFilter{OwnExpiry: true, Statuses: []string{string(store.Scheduled)}}
	for _, filter := range []store.FactsFilter{waiting, {OwnExpiry: true}} {
		if err := f.add(ctx, q, siteID, filter); err != nil {
			return err
		}
	}
	if slices.ContainsFunc(f.Scene.Scheduled, func(s deed.Scheduled) bool { return !s.Due.After(now) }) {
		return nil
	}
	expires := make(map[int64]bool, len(f.Scene.Posts))
	for _, p := range f.Scene.Posts {
		expires[p.Post] = true
	}
	f.Scene.Scheduled = slices.DeleteFunc(f.Scene.Scheduled, func(s deed.Scheduled) bool { return !expires[s.Post] })
	return nil
}

// name has the titles of the posts of its events.
func (t *Foretold) name(posts []*condition.Facts) {
	t.Titles = make(map[int64]string)
	for _, e := range t.Events {
		t.Titles[e.Post] = ""
	}
	for _, p := range posts {
		if _, told := t.Titles[p.Post]; told {
			t.Titles[p.Post] = p.Title
		}
	}
}

// foretold has the names of what the frame holds, less the titles of its posts.
func (f *Frame) foretold() Foretold {
	told := Foretold{Rules: make(map[int64]string), Channels: make(map[int64]string)}
	for _, r := range f.Rules {
		told.Rules[r.ID] = r.Name
	}
	for _, c := range f.Channels {
		told.Channels[c.ID] = c.Name
	}
	return told
}

// without puts a rule of the frame out of action.
func (f *Frame) without(rule int64) {
	if r := f.acting(rule); r != nil {
		r.Base().Armed = false
	}
}

// Turns tells when each rule of the site acts next by itself; those that do not are left
// out.
func (b Book) Turns(ctx context.Context, q store.Queries, now time.Time) (map[int64]time.Time, error) {
	f, err := b.Frame(ctx, q, now, nil)
	if err != nil {
		return nil, err
	}
	return f.turns(now), nil
}

// NextOuting is when a message goes out next, as far as is known without foretelling: the next turn of a
// rule that shares, the next outing that is planned, or what is shared of a post that comes out; ok is false where there
// is none. The name is the rule's, or the title of what is shared.
func (b Book) NextOuting(ctx context.Context, q store.Queries, now time.Time) (at time.Time, name string, ok bool, err error) {
	f, err := b.Frame(ctx, q, now, nil)
	if err != nil || f.Scene.Paused {
		return at, "", false, err
	}
	var post int64
	earlier := func(t time.Time, called string, of int64) {
		if t.Before(now) {
			t = now
		}
		if !ok || t.Before(at) {
			at, name, post, ok = t, called, of, true
		}
	}
	for id, t := range f.turns(now) {
		if _, speaks := f.acting(id).(deed.Speaker); speaks {
			r, _ := f.rule(id)
			earlier(t, r.Name, 0)
		}
	}
	for _, o := range f.Scene.Planned {
		earlier(o.At, o.Item.Title, o.Post)
	}
	for _, s := range f.Scene.Scheduled {
		said, own := f.Scene.OwnAnnouncements[s.Post]
		if !own {
			said = f.Scene.Announcements
		}
		for _, one := range said {
			earlier(s.Due.Add(time.Duration(one.After)*time.Minute), "", s.Post)
		}
	}
	if post != 0 {
		titles, err := q.Titles(ctx, b.Site.ID, []int64{post})
		if err != nil {
			return at, "", false, err
		}
		name = titles[post]
	}
	return at, cmp.Or(name, "a message"), ok, nil
}
