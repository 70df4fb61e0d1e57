package rulebook

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

// Sharer puts the delivery of an outing into a transaction.
type Sharer interface {
	Share(ctx context.Context, tx *store.Tx, outing int64) error
}

// Doer carries out decisions on rules and own expiries. Publications are the engine's.
type Doer struct {
	Book  Book
	Queue Sharer
	Now   time.Time
	Actor *int64 // who ran the rule by hand; nil: its turn came
	// Spent tells how long the run has taken, for rules that have a limit of time; nil: no
	// limit holds.
	Spent func() time.Duration
}

// Do carries out a decision of a frame, in a transaction that holds the site's lock, and
// returns the deeds that were done: all of them, but where the rule's time ran out.
func (d Doer) Do(ctx context.Context, tx *store.Tx, f *Frame, decision deed.Decision) ([]deed.Deed, error) {
	line := planning.Line{Site: d.Book.Site.ID, At: d.Now, Actor: d.Actor}
	var rule store.Rule
	if decision.Run != nil {
		var ok bool
		if rule, ok = f.rule(decision.Run.Rule); !ok {
			return nil, fmt.Errorf("rule %d is not of this frame", decision.Run.Rule)
		}
		line.Rule = &rule.ID
	}
	if len(decision.Deeds) > 0 {
		batch, err := tx.NextBatch(ctx)
		if err != nil {
			return nil, err
		}
		line.Batch = &batch
	}
	done := decision.Deeds
	for i, one := range decision.Deeds {
		if limit := rule.Settings.MostSeconds; limit > 0 && i > 0 && d.Spent != nil && d.Spent() > time.Duration(limit)*time.Second {
			done = done[:i]
			decision.Run.Note = fmt.Sprintf("It stopped after %d seconds and will continue at its next turn.", limit)
			break
		}
		if err := d.one(ctx, tx, line, rule, one); err != nil {
			return nil, err
		}
	}
	if decision.Run == nil {
		return done, nil
	}
	return done, d.note(ctx, tx, rule, line.Batch, *decision.Run, len(done))
}

func (d Doer) one(ctx context.Context, tx *store.Tx, line planning.Line, rule store.Rule, one deed.Deed) error {
	switch one.Kind {
	case deed.Archive, deed.ToDraft, deed.Bin:
		return planning.TakeAway(ctx, tx, line, one)
	case deed.Republish:
		return planning.BringOut(ctx, tx, line, one)
	case deed.Share:
		return d.share(ctx, tx, line, rule, one)
	case deed.Ask:
		return tx.Log(ctx, store.LogEntry{SiteID: line.Site, At: line.At, Deed: string(one.Kind), Rule: line.Rule, Reason: one.Reason})
	}
	return fmt.Errorf("a rule cannot %s", one.Kind)
}

func (d Doer) share(ctx context.Context, tx *store.Tx, line planning.Line, rule store.Rule, one deed.Deed) error {
	outing, err := tx.InsertOuting(ctx, store.Outing{SiteID: line.Site, Rule: line.Rule, Channel: one.Channel, Post: one.Post, At: line.At,
		Wording: one.Wording, Round: one.Round, Text: one.Message.Text, Link: one.Link, Due: &one.Due})
	if err != nil {
		return fmt.Errorf("noting the outing of post %d: %w", one.Post, err)
	}
	if rule.Settings.Short {
		if err := tx.InsertShortLink(ctx, store.ShortLink{Code: Code(line.Site, rule.ID, one.Post), SiteID: line.Site, Post: one.Post,
			Outing: &outing, Query: query(rule.Settings.Params)}); err != nil {
			return fmt.Errorf("making the short link of post %d: %w", one.Post, err)
		}
	}
	if err := d.Queue.Share(ctx, tx, outing); err != nil {
		return fmt.Errorf("queueing the outing of post %d: %w", one.Post, err)
	}
	return tx.Log(ctx, store.LogEntry{SiteID: line.Site, At: line.At, Actor: line.Actor, Deed: string(one.Kind), Post: &one.Post, Rule: line.Rule,
		Reason: one.Reason, Batch: line.Batch})
}

// note writes down that the rule has had its turn.
func (d Doer) note(ctx context.Context, tx *store.Tx, rule store.Rule, batch *int64, run deed.Run, done int) error {
	note, allowed := run.Note, rule.Allowed
	if run.Asks != "" {
		note, done = run.Asks, 0
	} else {
		allowed = max(allowed-done, 0)
	}
	if err := tx.Serve(ctx, rule.SiteID, rule.ID, d.Now, run.Asks, allowed); err != nil {
		return fmt.Errorf("noting the turn of the rule “%s”: %w", rule.Name, err)
	}
	return tx.InsertRun(ctx, store.RuleRun{SiteID: rule.SiteID, Rule: rule.ID, At: d.Now, Due: run.Due, Caught: run.Caught, Took: done,
		Note: note, Batch: batch, Actor: d.Actor})
}
