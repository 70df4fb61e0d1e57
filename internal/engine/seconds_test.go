package engine

import (
	"fmt"
	"math/rand/v2"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

// restless is a world of the law in which an editor does things at any second, and in
// which engines fail for days.
type restless struct {
	*store.Store
	t      *testing.T
	site   store.Site
	clock  *clockwork.FakeClock
	engine *Engine
	chance *rand.Rand
	editor int64
}

// serve runs the engine up to a moment, always some seconds late.
func (r *restless) serve(until time.Time) {
	for {
		n, err := r.engine.Step(r.t.Context())
		require.NoError(r.t, err)
		if n > 0 {
			continue
		}
		next, err := r.engine.Next(r.t.Context(), r.clock.Now())
		require.NoError(r.t, err)
		if next.IsZero() || next.After(until) {
			r.clock.Advance(until.Sub(r.clock.Now()))
			return
		}
		late := time.Duration(r.chance.IntN(50_000)) * time.Millisecond
		if at := next.Add(late); at.Before(until) {
			r.clock.Advance(at.Sub(r.clock.Now()))
		} else {
			r.clock.Advance(next.Sub(r.clock.Now()))
		}
	}
}

// happen is one thing that an editor does, or an outage.
func (r *restless) happen() string {
	ctx, now := r.t.Context(), r.clock.Now()
	desk := act.Desk{Store: r.Store, Site: r.site, Actor: r.editor}
	settings := r.site.Settings
	switch r.chance.IntN(4) {
	case 0, 1:
		if settings.PausedAt == nil {
			settings.PausedAt = &now
			require.NoError(r.t, sitesettings.SaveSettings(ctx, desk, r.site.ZoneName, sitesettings.KeepInstant, settings,
				r.site.Version, now))
			return "pause"
		}
		settings.PausedAt = nil
		require.NoError(r.t, sitesettings.SaveSettings(ctx, desk, r.site.ZoneName, sitesettings.KeepInstant, settings, r.site.Version,
			now))
		return "resume"
	case 2:
		r.clock.Advance(time.Duration(r.chance.IntN(3*24*3600*1000)) * time.Millisecond)
		return "outage"
	}
	var ids []int64
	require.NoError(r.t, r.DB().SelectContext(ctx, &ids,
		`select id from posts where site_id = $1 and status = 'scheduled' and not held order by id`, r.site.ID))
	if len(ids) == 0 {
		return "nothing"
	}
	p, err := r.Post(ctx, r.site.ID, ids[r.chance.IntN(len(ids))])
	require.NoError(r.t, err)
	_, err = status.Retime(ctx, desk, p.ID, p.Version, now.Add(time.Duration(60+r.chance.IntN(5*24*3600))*time.Second), now)
	require.NoError(r.t, err)
	return "retime"
}

// The law holds from any second on: a forecast asked at 18:21:19 tells what the engine
// does that looks at 18:21:40, after pauses, outages and edits.
func TestTheLawHoldsAtAnySecond(t *testing.T) {
	t.Parallel()
	worlds := 8
	if testing.Short() {
		worlds = 3
	}
	for i := range worlds {
		t.Run(fmt.Sprint(i), func(t *testing.T) {
			t.Parallel()
			w := lawWorldsDrawn.Example(i + 101)
			s := pgtest.New(t)
			r := &restless{Store: s, t: t, site: w.make(t, s), chance: rand.New(rand.NewPCG(uint64(i), 3))}
			require.NoError(t, s.DB().GetContext(t.Context(), &r.editor, `select id from users limit 1`))
			r.engine, r.clock = engineAt(s, lawBegins.Add(time.Duration(r.chance.IntN(60_000))*time.Millisecond))
			seen := 0
			for range 14 {
				what := r.happen()
				var err error
				r.site, err = s.Site(t.Context(), r.site.ID)
				require.NoError(t, err)
				now := r.clock.Now()
				until := now.Add(time.Duration(1+r.chance.IntN(6*24*3600*1000)) * time.Millisecond)
				want := foretoldBetween(t, s, r.site, now, until)
				r.serve(until)
				got := logged(t, s, r.site)[seen:]
				seen += len(got)
				require.Equal(t, len(want), len(got), "%s at %s", what, now)
				for j := range want {
					require.Equal(t, want[j], got[j], "deed %d of %d after %s at %s", j, len(want), what, now)
				}
				if what == "resume" {
					for _, d := range got {
						at, err := time.Parse(time.RFC3339, d.At)
						require.NoError(t, err)
						require.False(t, at.Before(now), "%s was done before the site was resumed at %s", d.Deed, now)
					}
				}
			}
		})
	}
}

func TestSpreadingOutCountsWholeMinutes(t *testing.T) {
	t.Parallel()
	w := worldWith{pgtest.NewWorld(t, pgtest.New(t), "dome")}
	site, err := w.SiteBySlug(t.Context(), "dome")
	require.NoError(t, err)
	w.Site = site
	first, second := w.Scheduled(t, "First", pgtest.Noon.Add(-3*time.Hour)), w.Scheduled(t, "Second",
		pgtest.Noon.Add(-2*time.Hour))
	w.choose(t, deed.SpreadOut, false)
	e, _ := engineAt(w.Store, pgtest.Noon.Add(21*time.Minute+19*time.Second))
	step := func() {
		n, err := e.Step(t.Context())
		require.NoError(t, err)
		require.NotZero(t, n)
	}
	step()
	assert.True(t, w.Reload(t, first.ID).PublishedAt.Equal(pgtest.Noon.Add(21*time.Minute)))
	assert.True(t, w.Reload(t, second.ID).DueAt.Equal(pgtest.Noon.Add(81*time.Minute)),
		"the gap of 60 minutes counts from the minute")
}
