package forecast_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/upkeep"
)

func ruleOf(t *testing.T, id int64, n condition.Node) deed.RuleBase {
	return deed.RuleBase{ID: id, Name: fmt.Sprint("rule ", id), Condition: compiled(t, n), Armed: true, Served: noon,
		Pace: cadence.Pace{Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days,
			At: civil.MustClock("10:00")}, Rule: id, Anchor: noon, Zone: halifax}}
}

// small is a blog of four posts of Sky Guide, out for 30 to 33 days, that are shared daily.
func small(t *testing.T) forecast.Request {
	wording, err := message.ReadWording("{title}")
	require.NoError(t, err)
	s := deed.Scene{Zone: halifax, Rhythm: rhythm.Rhythm{Zone: halifax, Gap: 60,
		Openings: []rhythm.Opening{rhythm.Fixed("o", rhythm.On(time.Monday), civil.MustClock("09:00"), 0)}},
		Channels: []deed.Channel{{ID: 1, Name: "Lantern", Zone: halifax, Limits: message.Limits{Graphemes: 100}}}}
	for i := range 4 {
		out := noon.AddDate(0, 0, -33+i)
		s.Posts = append(s.Posts, &condition.Facts{Post: int64(i + 1), Kind: "post", Status: "published",
			Title: fmt.Sprint("Post ", i), Category: "Sky Guide", Published: out, FirstOut: out})
	}
	s.Rules = []deed.Rule{&reshare.Reshare{RuleBase: ruleOf(t, 7, category("Sky Guide")), Channels: []int64{1}, Apart: 10,
		Order: reshare.Oldest, Bounds: cadence.Bounds{Zone: halifax}, Wordings: []message.Wording{wording}}}
	slots := queue.Slots(s.Rhythm, noon, nil)
	return forecast.Request{Scene: s, Queue: &queue.Request{Zone: halifax, Slots: slots}, From: noon,
		To: noon.AddDate(0, 0, 21), RuleNames: map[int64]string{7: "Daily", 8: "Tidy"}}
}

func kinds(f forecast.Forecast) (all []forecast.WarningKind) {
	for _, w := range f.Warnings {
		all = append(all, w.Kind)
	}
	return all
}

func TestItForetellsAndWarns(t *testing.T) {
	r := small(t)
	f := forecast.Run(r)
	require.Len(t, f.Events, 9, "four posts, three times: 10 days apart, up to 21 days")
	assert.Equal(t, []forecast.WarningKind{forecast.PoolEmpty, forecast.EmptyWeeks, forecast.ShelfDry}, kinds(f))
	assert.Equal(t, "On Sun 29 Nov the rule “Daily” has no post to send; 12 turns pass without one. Loosen its conditions or run it less often.", f.Warnings[0].Text)
	assert.Equal(t, "In 2 weeks nothing comes out, the first of them the week of Mon 30 Nov.", f.Warnings[1].Text)
	assert.Equal(t, "The shelf is empty: the slot on Mon 30 Nov has no draft.", f.Warnings[2].Text)

	r.Queue.Shelf = []queue.Draft{{ID: 50, Title: "A"}, {ID: 51, Title: "B"}}
	f = forecast.Run(r)
	assert.Equal(t, []forecast.WarningKind{forecast.PoolEmpty, forecast.ShelfDry}, kinds(f))
	assert.Equal(t, "The shelf runs dry: the last draft on it would come out on Mon 7 Dec, and the slot on Mon 14 Dec stays empty.", f.Warnings[1].Text)
	assert.True(t, f.Dry.Equal(halifax.At(civil.MustDate("2026-12-14"), civil.MustClock("09:00"))))
}

func TestRulesThatFight(t *testing.T) {
	r := small(t)
	tidy := &upkeep.Expire{RuleBase: ruleOf(t, 8, all(category("Sky Guide"), older(5, condition.Weeks))),
		Action: upkeep.Archive, Allowed: 9}
	r.Scene.Rules = append(r.Scene.Rules, tidy)
	f := forecast.Run(r)
	var fight forecast.Warning
	for _, w := range f.Warnings {
		if w.Kind == forecast.Fight {
			fight = w
		}
	}
	assert.Equal(t, []int64{7, 8}, fight.Rules)
	assert.Equal(t, "The rules “Daily” and “Tidy” fight over 4 posts: one brings out what the other takes away, first on Fri 27 Nov.", fight.Text)
	assert.Equal(t, []int64{1, 2, 3, 4}, fight.Posts)

	tidy.Allowed = 0
	tidy.Condition = compiled(t, all(category("Sky Guide"), older(5, condition.Days)))
	f = forecast.Run(r)
	assert.Contains(t, kinds(f), forecast.Asking)

	r = small(t)
	r.Scene.Posts[0].Expires = noon.AddDate(0, 0, 2)
	f = forecast.Run(r)
	assert.Contains(t, kinds(f), forecast.Fight)
}

func TestMessagesThatCannotFitAreForetold(t *testing.T) {
	r := small(t)
	r.Scene.Channels[0].Limits.Graphemes = 3
	f := forecast.Run(r)
	assert.Empty(t, f.Events)
	assert.Equal(t, forecast.Unfit, f.Warnings[0].Kind)
	assert.Contains(t, f.Warnings[0].Text, "Shorten its wordings")
}

func TestTurnsPutOffForLongAreForetold(t *testing.T) {
	r := small(t)
	r.Scene.Rules[0].(*reshare.Reshare).Bounds.Quiet = []cadence.Quiet{{From: civil.MustClock("09:00"),
		To: civil.MustClock("23:00"), Zone: halifax}}
	f := forecast.Run(r)
	assert.Contains(t, kinds(f), forecast.Limit)
}

func TestItCanBeCutShort(t *testing.T) {
	r := small(t)
	r.Scene.Rules[0].(*reshare.Reshare).Apart = 0
	r.To = noon.AddDate(1, 0, 0)
	whole := forecast.Run(r)
	require.Len(t, whole.Events, 365)
	reached := time.Time{}
	r.Go = func(at time.Time) bool { reached = at; return at.Before(noon.AddDate(0, 3, 0)) }
	cut := forecast.Run(r)
	assert.True(t, cut.Cut)
	assert.Less(t, len(cut.Events), 365)
	assert.False(t, reached.Before(noon.AddDate(0, 3, 0)))
	assert.Equal(t, whole.Events[:len(cut.Events)], cut.Events)
}

func TestCompare(t *testing.T) {
	at := func(d int) time.Time { return noon.AddDate(0, 0, d) }
	event := func(d int, kind deed.Kind, post int64) forecast.Event {
		return forecast.Event{At: at(d), Description: deed.Description{Kind: kind, Base: deed.Base{Post: post}}}
	}
	before := []forecast.Event{event(1, deed.KindShare, 1), event(2, deed.KindShare, 2), event(3, deed.KindArchive, 3),
		event(4, deed.KindShare, 1)}
	after := []forecast.Event{event(1, deed.KindShare, 1), event(3, deed.KindShare, 2), event(3, deed.KindShare, 4),
		event(4, deed.KindShare, 1)}
	assert.Equal(t, []forecast.Change{
		{Event: event(3, deed.KindShare, 4), How: forecast.Comes},
		{Event: event(3, deed.KindArchive, 3), How: forecast.Goes},
		{Event: event(3, deed.KindShare, 2), Was: at(2), How: forecast.Moves},
	}, forecast.Compare(before, after))
	assert.Empty(t, forecast.Compare(before, before))
}

// circles is a world that decides the same whatever is done.
type circles struct{ d deed.Decision }

func (c circles) Decide(time.Time) deed.Decision { return c.d }
func (c circles) Apply(deed.Decision, time.Time) {}
func (c circles) Size() int                      { return 3 }
func walked(d deed.Decision) (steps int, stuck error) {
	w := forecast.Walk{World: circles{d}, From: noon, To: noon.AddDate(1, 0, 0)}
	for range w.Steps {
		steps++
	}
	if w.Err != nil {
		stuck = w.Err
	}
	return steps, stuck
}

func TestADecisionThatGetsNowhereEndsTheForecast(t *testing.T) {
	steps, err := walked(deed.Decision{Run: &deed.Run{Rule: 7}, Next: noon})
	assert.Equal(t, 22, steps)
	assert.EqualError(t, err, "The forecast stopped at 2026-11-24T16:00:00Z: it can’t get past rule 7.")
	_, err = walked(deed.Decision{Deeds: []deed.Deed{deed.Publish{Base: deed.Base{Post: 3}}}, Next: noon})
	assert.ErrorContains(t, err, "“publish” of post 3")
	steps, err = walked(deed.Decision{Next: noon.Add(-time.Hour)})
	assert.Zero(t, steps)
	assert.ErrorContains(t, err, "can’t get past nothing that is due")
	_, err = walked(deed.Decision{})
	assert.NoError(t, err)
}

func TestAForecastBeginsAtTheMinuteThatIsRunning(t *testing.T) {
	r := small(t)
	r.Scene.CatchUp, r.Scene.Rhythm.Gap = deed.SpreadOut, 45
	r.Scene.Scheduled = []deed.Scheduled{{Post: 9, Due: noon.Add(-time.Hour)},
		{Post: 10, Due: noon.Add(-30 * time.Minute)}}
	r.From = noon.Add(21*time.Minute + 19*time.Second)
	f := forecast.Run(r)
	assert.Equal(t, noon.Add(21*time.Minute), f.Events[0].At)
	assert.Equal(t, noon.Add(66*time.Minute), f.Events[1].To)

	r.Scene.Resumed = noon.Add(21*time.Minute + 10*time.Second)
	f = forecast.Run(r)
	assert.Equal(t, noon.Add(22*time.Minute), f.Events[0].At, "nothing is decided before the site was resumed")
}
