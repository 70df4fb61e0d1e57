package rulebook

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/forecast"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// Foretold is a forecast with the names that go with it.
type Foretold struct {
	forecast.Forecast
	Titles   map[int64]string // of posts
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
func (b Book) Forecast(ctx context.Context, q store.Queries, change *Change, now, to time.Time, progress func(reached time.Time)) (Foretold, error) {
	var override *store.Rule
	if change != nil && change.Rule != nil {
		r := acting(numbered(*change.Rule), now)
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
	told := Foretold{Titles: make(map[int64]string), Rules: make(map[int64]string), Channels: make(map[int64]string)}
	for _, p := range f.Scene.Posts {
		told.Titles[p.Post] = p.Title
	}
	for _, r := range f.Rules {
		told.Rules[r.ID] = r.Name
	}
	for _, c := range f.Channels {
		told.Channels[c.ID] = c.Name
	}
	told.Forecast = forecast.Run(forecast.Request{Scene: f.Scene, From: now, To: to, Queue: &request, RuleNames: told.Rules,
		Go: func(reached time.Time) bool {
			if progress != nil {
				progress(reached)
			}
			return ctx.Err() == nil
		}})
	return told, ctx.Err()
}

// without puts a rule of the frame out of action.
func (f *Frame) without(rule int64) {
	for i := range f.Scene.Expire {
		if f.Scene.Expire[i].ID == rule {
			f.Scene.Expire[i].Armed = false
		}
	}
	for i := range f.Scene.Republish {
		if f.Scene.Republish[i].ID == rule {
			f.Scene.Republish[i].Armed = false
		}
	}
	for i := range f.Scene.Reshare {
		if f.Scene.Reshare[i].ID == rule {
			f.Scene.Reshare[i].Armed = false
		}
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
