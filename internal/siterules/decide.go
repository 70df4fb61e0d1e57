package siterules

import (
	"context"
	"slices"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/store"
)

// Decide asks core what is to be done on the site at a moment, in a transaction that
// holds the site's lock. It reads first what tells whose turn it is, and then only the
// posts that the rule whose turn it is may catch.
func (b Book) Decide(ctx context.Context, tx *store.Tx, now time.Time) (deed.Decision, *Frame, error) {
	f, err := b.Frame(ctx, tx.Queries, now, nil)
	if err != nil {
		return deed.Decision{}, nil, err
	}
	if err := f.AddExpiring(ctx, tx.Queries, b.Site.ID); err != nil {
		return deed.Decision{}, nil, err
	}
	if err := f.AddPlanned(ctx, tx.Queries, b.Site.ID, now); err != nil {
		return deed.Decision{}, nil, err
	}
	// What they change is locked, so that it is merged with what the post says until then.
	if err := f.addEdits(ctx, tx.Queries, b.Site.ID, now, store.FactsFilter{}, tx.LockLiveTexts); err != nil {
		return deed.Decision{}, nil, err
	}
	w := deed.NewWorld(f.Scene)
	rule := w.Due(now)
	if rule == 0 {
		return w.Decide(now), f, nil
	}
	if err := f.AddCandidates(ctx, tx.Queries, b.Site.ID, rule, now); err != nil {
		return deed.Decision{}, nil, err
	}
	return deed.NewWorld(f.Scene).Decide(now), f, nil
}

// Voices is a scene of the site's channels alone, in which messages are composed.
func (b Book) Voices(ctx context.Context, q store.Queries) (deed.Scene, error) {
	scene := deed.Scene{Zone: b.Site.Zone(), Site: b.Site.ID, Link: b.Link, Short: b.Short}
	channels, err := q.Channels(ctx, b.Site.ID)
	if err != nil {
		return scene, err
	}
	for _, c := range channels {
		core, err := ChannelOf(c, b.Site)
		if err != nil {
			return scene, err
		}
		scene.Channels = append(scene.Channels, core)
	}
	scene.Lists, err = Lists(ctx, q, b.Site.ID)
	return scene, err
}

// turnsAhead is how many of a rule's turns are looked through for one that is asked about.
const turnsAhead = 2000

// IsComing tells whether a rule will have a turn at a moment that nobody has in hand.
func (b Book) IsComing(ctx context.Context, q store.Queries, rule int64, turn, now time.Time) (bool, error) {
	f, err := b.Frame(ctx, q, now, nil)
	if err != nil {
		return false, err
	}
	r := f.acting(rule)
	if r == nil || !r.Base().IsLive() {
		return false, nil
	}
	n := 0
	for at := range deed.TurnsOf(r, f.Scene.InHand) {
		if n++; !at.Before(turn) || n > turnsAhead {
			return at.Equal(turn), nil
		}
	}
	return false, nil
}

func (f *Frame) turns(now time.Time) map[int64]time.Time {
	w := deed.NewWorld(f.Scene)
	turns := make(map[int64]time.Time)
	for _, r := range f.Rules {
		if at, ok := w.NextTurn(r.ID, now); ok {
			turns[r.ID] = at
		}
	}
	return turns
}

// TurnMessages are the messages of a coming turn of a rule, as they are foretold: those that no editor has in hand and that
// are not planned yet, without replies.
func (b Book) TurnMessages(ctx context.Context, q store.Queries, rule int64, turn, now time.Time) ([]forecast.Event, error) {
	told, err := b.Coming(ctx, q, now, turn.Add(turnSpread))
	if err != nil {
		return nil, err
	}
	planned, err := q.Planned(ctx, b.Site.ID)
	if err != nil {
		return nil, err
	}
	var messages []forecast.Event
	for _, e := range told.Events {
		s, is := e.Deed.(deed.Share)
		if is && e.Rule == rule && s.Parent == 0 && TurnOf(e, s).Equal(turn) && !slices.ContainsFunc(planned, func(o store.Outing) bool { return o.ID == s.Outing }) {
			messages = append(messages, e)
		}
	}
	return messages, nil
}

// turnSpread is within which time the messages of one turn go out.
const turnSpread = 3 * 24 * time.Hour

// TurnOf is the turn of its rule that a foretold message belongs to.
func TurnOf(e forecast.Event, s deed.Share) time.Time {
	if !s.Of.IsZero() {
		return s.Of.UTC()
	}
	return e.Due.UTC()
}
