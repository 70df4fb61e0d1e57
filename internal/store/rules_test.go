package store_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// ruled is a blog with a channel and a rule of each kind.
type ruled struct {
	pgtest.World
	t                          *testing.T
	channel                    int64
	expire, republish, reshare int64
}

func newRuled(t *testing.T, w pgtest.World) ruled {
	t.Helper()
	r := ruled{World: w, t: t}
	var err error
	r.channel, err = w.InsertChannel(t.Context(), store.Channel{SiteID: w.Site.ID, Kind: "lantern", Name: "Lantern",
		Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(t, err)
	armed := pgtest.Noon
	for i, one := range []struct {
		kind store.RuleKind
		dest *int64
	}{{store.Reshare, &r.reshare}, {store.Republish, &r.republish}, {store.Expire, &r.expire}} {
		rule := store.Rule{SiteID: w.Site.ID, Kind: one.kind, Name: string(one.kind), Position: i, Seed: 1 << 63,
			Condition: condition.Node{Group: "all", Parts: []condition.Node{}},
			Cadence:   cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days},
			ArmedAt:   &armed, ServedAt: &armed, Allowed: 5, CreatedAt: armed}
		if one.kind == store.Reshare {
			rule.Settings.Channels = []int64{r.channel}
		}
		*one.dest, err = w.InsertRule(t.Context(), rule)
		require.NoError(t, err)
	}
	return r
}

func (r ruled) rule(id int64) store.Rule {
	r.t.Helper()
	rule, err := r.Rule(r.t.Context(), r.Site.ID, id)
	require.NoError(r.t, err)
	return rule
}

func (r ruled) do(work func(*store.Tx) error) {
	r.t.Helper()
	require.NoError(r.t, r.InTx(r.t.Context(), work))
}

func (r ruled) out(title string) store.Post {
	return stand(r.t, r.World, title, func(s post.State) post.State { return s.Publish(after(-1000)) })
}

func (r ruled) sent(p store.Post, minute int, rule *int64, wording int) (o store.Outing) {
	due := after(minute)
	r.do(func(tx *store.Tx) (err error) {
		o = store.Outing{SiteID: r.Site.ID, Rule: rule, Channel: r.channel, Post: store.ID(p.ID), At: after(minute), Due: &due,
			Wording: wording,
			Round:   1, Text: fmt.Sprint(p.Title, wording), Link: "l"}
		o.ID, err = tx.InsertOuting(r.t.Context(), o)
		return err
	})
	return o
}

// Rules that are due at once take their turns by kind, then by place; a rule keeps what it knows
// while it is deleted, and makes up for nothing when it comes back.
func TestRulesAreListedDeletedAndBroughtBack(t *testing.T) {
	w, other := strangers(t)
	r := newRuled(t, w)
	newRuled(t, other)
	ctx := t.Context()
	rules, err := r.Rules(ctx, r.Site.ID)
	require.NoError(t, err)
	require.Len(t, rules, 3)
	assert.Equal(t, []int64{r.expire, r.republish, r.reshare}, []int64{rules[0].ID, rules[1].ID, rules[2].ID})
	assert.Equal(t, uint64(1<<63), rules[0].Seed, "all 64 bits of it")

	r.do(func(tx *store.Tx) error {
		if err := tx.Exclude(ctx, r.Site.ID, r.expire, r.Draft(t, "Kept").ID, true); err != nil {
			return err
		}
		return tx.DeleteRule(ctx, r.Site.ID, r.expire, after(1))
	})
	_, err = r.Rule(ctx, r.Site.ID, r.expire)
	assert.ErrorIs(t, err, store.ErrNotFound)
	rules, err = r.Rules(ctx, r.Site.ID)
	require.NoError(t, err)
	assert.Len(t, rules, 2)
	r.do(func(tx *store.Tx) error {
		assert.ErrorIs(t, tx.DeleteRule(ctx, r.Site.ID, r.expire, after(2)), store.ErrNotFound, "once")
		return tx.RestoreRule(ctx, r.Site.ID, r.expire, after(90))
	})
	back := r.rule(r.expire)
	assert.True(t, back.ArmedAt.Equal(after(90)) && back.ServedAt.Equal(after(90)), "its turns count from now on")
	assert.Equal(t, 5, back.Allowed)
	excluded, err := r.Exclusions(ctx, r.Site.ID)
	require.NoError(t, err)
	assert.Len(t, excluded[r.expire], 1)
}

// Serving a rule keeps its version, so that an open form is not stale; what it was held for stays
// until somebody decides.
func TestARuleIsServedAndHeld(t *testing.T) {
	w, _ := strangers(t)
	r := newRuled(t, w)
	ctx := t.Context()
	was := r.rule(r.expire)
	r.do(func(tx *store.Tx) error {
		return tx.Serve(ctx, r.Site.ID, r.expire, store.Served{At: after(10), HeldWhy: "", Allowed: 4})
	})
	now := r.rule(r.expire)
	assert.True(t, now.ServedAt.Equal(after(10)))
	assert.Equal(t, 4, now.Allowed)
	assert.Nil(t, now.HeldAt)
	assert.Equal(t, was.Version, now.Version)
	r.do(func(tx *store.Tx) error {
		return tx.Serve(ctx, r.Site.ID, r.expire, store.Served{At: after(20), HeldWhy: "Too many.", Allowed: 4})
	})
	r.do(func(tx *store.Tx) error {
		return tx.Serve(ctx, r.Site.ID, r.expire, store.Served{At: after(30), HeldWhy: "", Allowed: 4})
	})
	now = r.rule(r.expire)
	assert.True(t, now.HeldAt.Equal(after(20)))
	assert.Equal(t, "Too many.", now.HeldWhy)

	now.ArmedAt, now.ServedAt, now.HeldAt, now.HeldWhy = nil, nil, nil, ""
	r.do(func(tx *store.Tx) error {
		if err := tx.SaveRule(ctx, now, after(40)); err != nil {
			return err
		}
		return tx.HoldRule(ctx, r.Site.ID, r.expire, "Undone.", after(41))
	})
	saved := r.rule(r.expire)
	assert.Nil(t, saved.HeldAt, "a rule that is off waits for nobody")
	assert.Equal(t, was.Version+1, saved.Version)
	status, err := r.SiteStatus(ctx, r.Site.ID, after(50))
	require.NoError(t, err)
	assert.Empty(t, status.Asking)
	r.do(func(tx *store.Tx) error { return tx.HoldRule(ctx, r.Site.ID, r.reshare, "Undone.", after(41)) })
	status, err = r.SiteStatus(ctx, r.Site.ID, after(50))
	require.NoError(t, err)
	assert.Equal(t, store.PostTitles{{ID: r.reshare, Title: "reshare"}}, status.Asking)
}

// A refusal holds for the post until that changes; its rule takes the turn again, but not for ever,
// and not once a later turn is served.
func TestRefusals(t *testing.T) {
	w, _ := strangers(t)
	r := newRuled(t, w)
	ctx := t.Context()
	p := r.out("refused")
	refuse := func(minute int) {
		o := r.sent(p, minute, &r.reshare, 0)
		r.do(func(tx *store.Tx) error { return tx.Refuse(ctx, o, "Too dull.", after(minute+1)) })
	}
	r.do(func(tx *store.Tx) error {
		return tx.Serve(ctx, r.Site.ID, r.reshare, store.Served{At: after(10), HeldWhy: "", Allowed: 0})
	})
	refuse(9)
	assert.Nil(t, r.rule(r.reshare).OwedAt, "a later turn has been served since")
	refuse(10)
	owed := r.rule(r.reshare).OwedAt
	require.NotNil(t, owed)
	assert.True(t, owed.Equal(after(10)))
	asks, err := r.NextAsk(ctx, after(-1))
	require.NoError(t, err)
	assert.False(t, asks.After(after(11)), "and at once")
	r.do(func(tx *store.Tx) error {
		return tx.Serve(ctx, r.Site.ID, r.reshare, store.Served{At: after(10), HeldWhy: "", Allowed: 0})
	})
	assert.Nil(t, r.rule(r.reshare).OwedAt)
	for range 18 {
		refuse(10)
		require.NotNil(t, r.rule(r.reshare).OwedAt)
		r.do(func(tx *store.Tx) error {
			return tx.Serve(ctx, r.Site.ID, r.reshare, store.Served{At: after(10), HeldWhy: "", Allowed: 0})
		})
	}
	refuse(10)
	assert.Nil(t, r.rule(r.reshare).OwedAt, "the twentieth of one turn was the last")

	refusals, err := r.Refusals(ctx, r.Site.ID)
	require.NoError(t, err)
	require.Len(t, refusals, 21)
	assert.Equal(t, deed.Refusal{Channel: r.channel, Post: p.ID, Text: "refused0", At: after(10)}, refusals[0])
	shown, err := r.RefusedOf(ctx, r.Site.ID, r.reshare, 2)
	require.NoError(t, err)
	require.Len(t, shown, 2)
	assert.Equal(t, "Too dull.", shown[0].Reason)
	none, err := r.RefusedOf(ctx, r.Site.ID, r.expire, 2)
	require.NoError(t, err)
	assert.Empty(t, none)
	_, err = r.DB().ExecContext(ctx, `update posts set changed_at = $2 where id = $1`, p.ID, after(12))
	require.NoError(t, err)
	refusals, err = r.Refusals(ctx, r.Site.ID)
	require.NoError(t, err)
	assert.Empty(t, refusals, "the post says something else now")
}

// What a rule has to know of the past: all of its channel, whoever sent it, and what it brought out
// itself.
func TestPastsOfOneRule(t *testing.T) {
	w, _ := strangers(t)
	r := newRuled(t, w)
	ctx := t.Context()
	p := r.out("again")
	second, err := r.InsertChannel(ctx, store.Channel{SiteID: r.Site.ID, Kind: "lantern", Name: "Second",
		Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(t, err)
	r.sent(p, 1, &r.reshare, 2)
	r.sent(p, 2, nil, 0)
	for i, rule := range []int64{r.republish, r.expire} {
		require.NoError(t, r.InsertRepublication(ctx, store.Republication{SiteID: r.Site.ID, Rule: &rule, Post: p.ID,
			At: after(3 + i), Round: 1}))
	}
	of := func(rule int64, channels ...int64) (said []string) {
		t.Helper()
		pasts, err := r.PastsOf(ctx, r.Site.ID, rule, channels)
		require.NoError(t, err)
		for _, one := range pasts {
			said = append(said, fmt.Sprint(one.Rule, " ", one.Channel, " ", one.N))
		}
		return said
	}
	assert.ElementsMatch(t, []string{fmt.Sprint(r.reshare, " ", r.channel, " 1"), fmt.Sprint("0 ", r.channel, " 1")},
		of(r.reshare, r.channel))
	assert.Empty(t, of(r.reshare, second))
	assert.Len(t, of(r.reshare, second, r.channel), 2)
	assert.Equal(t, []string{fmt.Sprint(r.republish, " 0 1")}, of(r.republish), "no outing, and no other rule's")
	r.do(func(tx *store.Tx) error {
		return tx.ForgetRepublication(ctx, r.Site.ID, p.ID, after(3).Add(time.Second))
	})
	assert.Len(t, of(r.republish), 1, "another moment's")
	r.do(func(tx *store.Tx) error { return tx.ForgetRepublication(ctx, r.Site.ID, p.ID, after(3)) })
	assert.Empty(t, of(r.republish))
}

func TestOutingsOfASpanAndOfARule(t *testing.T) {
	w, other := strangers(t)
	r, elsewhere := newRuled(t, w), newRuled(t, other)
	ctx := t.Context()
	p := r.out("shared")
	first, second := r.sent(p, 1, &r.reshare, 0), r.sent(p, 5, &r.reshare, 1)
	byHand := r.sent(p, 3, nil, 0)
	elsewhere.sent(elsewhere.out("shared"), 3, &elsewhere.reshare, 0)
	ids := func(outings []store.Outing, err error) (ids []int64) {
		t.Helper()
		require.NoError(t, err)
		for _, o := range outings {
			ids = append(ids, o.ID)
		}
		return ids
	}
	assert.Equal(t, []int64{first.ID, byHand.ID}, ids(r.OutingsBetween(ctx, r.Site.ID, after(1), after(5))),
		"from the one, up to the other")
	assert.Equal(t, []int64{second.ID, first.ID}, ids(r.OutingsOf(ctx, r.Site.ID, r.reshare, 10)), "latest first")
	assert.Equal(t, []int64{second.ID}, ids(r.OutingsOf(ctx, r.Site.ID, r.reshare, 1)))
	assert.Empty(t, ids(r.OutingsOf(ctx, r.Site.ID, elsewhere.reshare, 10)))
	r.do(func(tx *store.Tx) error {
		_, err := tx.LockPlanned(ctx, r.Site.ID, first.ID)
		assert.ErrorIs(t, err, store.ErrNotFound, "it does not wait for its time")
		return nil
	})

	// A short link leads on to the post it was made for, and counts for its latest outing.
	link := store.ShortLink{Code: "abcdefgh", SiteID: r.Site.ID, Post: store.ID(p.ID), Outing: &first.ID, Query: "a=b"}
	r.do(func(tx *store.Tx) error {
		require.NoError(t, tx.InsertShortLink(ctx, link))
		link.Outing = &second.ID
		require.NoError(t, tx.InsertShortLink(ctx, link))
		link.Post = store.ID(r.out("another").ID)
		return tx.InsertShortLink(ctx, link)
	})
	leads, err := r.ShortLink(ctx, "abcdefgh")
	require.NoError(t, err)
	assert.Equal(t, []any{store.ID(p.ID), second.ID, "shared", "dome", store.Published}, []any{leads.Post, *leads.Outing,
		leads.Slug, leads.Site, leads.Status})
	for range 2 {
		require.NoError(t, r.CountClick(ctx, leads, "2026-11-24"))
	}
	require.NoError(t, r.InsertClicks(ctx, r.Site.ID, p.ID, "2026-11-24", 3))
	clicked, err := r.Outing(ctx, second.ID)
	require.NoError(t, err)
	assert.Equal(t, 2, clicked.Clicks)
	facts, err := r.Facts(ctx, r.Site.ID, store.FactsFilter{IDs: []int64{p.ID}, WithClicks: true})
	require.NoError(t, err)
	require.Len(t, facts[0].Clicks, 1)
	assert.Equal(t, 5, facts[0].Clicks[0].N)
}

// What is told of upkeep: deeds of rules, own expiries and outings, none that were undone, no
// publications; what was caught up: what an engine did late.
func TestWhatTheLogbookTells(t *testing.T) {
	w, other := strangers(t)
	r := newRuled(t, w)
	ctx := t.Context()
	p := r.out("told")
	late := []byte(fmt.Sprintf(`{"status": "scheduled", "due_at": %q}`, after(-10).Format(time.RFC3339)))
	line := func(site int64, minute int, kind string, actor *int64, before []byte) (id int64) {
		r.do(func(tx *store.Tx) error {
			e := store.LogEntry{SiteID: site, At: after(minute), Deed: kind, Actor: actor, Reason: kind, Before: before}
			if site == r.Site.ID {
				e.Post = &p.ID
			}
			if err := tx.Log(ctx, e); err != nil {
				return err
			}
			lines, err := tx.Logbook(ctx, site, store.LogFilter{}, 1)
			id = lines[0].ID
			return err
		})
		return id
	}
	archived := line(r.Site.ID, 1, string(deed.KindArchive), nil, []byte(`{}`))
	shared := line(r.Site.ID, 2, string(deed.KindShare), nil, nil)
	published := line(r.Site.ID, 3, string(deed.KindPublish), nil, late)
	line(r.Site.ID, 3, string(deed.KindPublish), &r.Editor.ID, late)
	line(other.Site.ID, 3, string(deed.KindArchive), nil, nil)
	upkeep := func(from, to int) (ids []int64) {
		lines, err := r.LogOfUpkeep(ctx, r.Site.ID, after(from), after(to))
		require.NoError(t, err)
		for _, l := range lines {
			ids = append(ids, l.ID)
			assert.Equal(t, l.ID == archived, l.Undoable, "what nothing is kept of cannot be undone")
		}
		return ids
	}
	assert.Equal(t, []int64{archived, shared}, upkeep(1, 4))
	assert.Equal(t, []int64{archived}, upkeep(1, 2), "up to the end, not at it")
	caught := func(since int, by time.Duration) (ids []int64) {
		lines, err := r.CaughtUp(ctx, r.Site.ID, after(since), by)
		require.NoError(t, err)
		for _, l := range lines {
			ids = append(ids, l.ID)
		}
		return ids
	}
	assert.Equal(t, []int64{published}, caught(3, 13*time.Minute), "not what was done by hand")
	assert.Empty(t, caught(3, 14*time.Minute), "it was not that late")
	assert.Empty(t, caught(4, time.Minute))

	entry, err := r.LogLine(ctx, r.Site.ID, archived)
	require.NoError(t, err)
	_, err = r.LogLine(ctx, other.Site.ID, archived)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = r.UndoOf(ctx, r.Site.ID, archived)
	assert.ErrorIs(t, err, store.ErrNotFound)
	var undoing int64
	r.do(func(tx *store.Tx) error {
		if err := tx.Log(ctx, store.LogEntry{SiteID: r.Site.ID, At: after(5), Deed: store.DeedUndo, Post: &p.ID,
			Undoes: &archived, Reason: "Undone."}); err != nil {
			return err
		}
		undoing, err = tx.UndoOf(ctx, r.Site.ID, archived)
		require.NoError(t, err)
		return tx.MarkUndone(ctx, r.Site.ID, entry.Act, after(5))
	})
	assert.Greater(t, undoing, archived)
	assert.Equal(t, []int64{shared}, upkeep(1, 4), "what was undone is not told")
	of, err := r.LogOf(ctx, r.Site.ID, p.ID)
	require.NoError(t, err)
	assert.Equal(t, undoing, of[0].ID, "latest first")
}

// An engine is asked to look at whatever is settled earlier; a resumed site is looked at from the next
// whole minute on.
func TestWhenTheEngineIsAsked(t *testing.T) {
	w, other := strangers(t)
	ctx := t.Context()
	_, err := w.DB().ExecContext(ctx, `delete from asks`)
	require.NoError(t, err)
	next := func() time.Time {
		at, err := w.NextAsk(ctx, pgtest.Noon)
		require.NoError(t, err)
		return at
	}
	assert.True(t, next().IsZero())
	require.NoError(t, w.Ask(ctx, w.Site.ID, after(9)))
	require.NoError(t, w.Ask(ctx, w.Site.ID, after(12)))
	assert.True(t, next().Equal(after(9)), "the sooner holds")
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error { return tx.AskNext(ctx, w.Site.ID, after(20)) }))
	assert.True(t, next().Equal(after(20)), "but what the engine settles holds")
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error {
		return tx.NoteResumed(ctx, other.Site.ID,
			after(3).Add(time.Second))
	}))
	assert.True(t, next().Equal(after(4)))
	resumed, err := w.Store.Site(ctx, other.Site.ID)
	require.NoError(t, err)
	assert.True(t, resumed.ResumedAt.Equal(after(3).Add(time.Second)))
	require.NoError(t, w.InTx(ctx, func(tx *store.Tx) error { return tx.AskNext(ctx, w.Site.ID, time.Time{}) }))
	_, err = w.DB().ExecContext(ctx, `update sites set paused_at = $1`, pgtest.Noon)
	require.NoError(t, err)
	assert.True(t, next().IsZero(), "nothing is asked about a paused site")
}
