package siterules

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/store"
)

// ChangedRule is a rule as it is saved over the one that is kept: what an editor wrote,
// and what stays the kept one's. A rule with an action that takes other posts or does something
// else is disarmed, for nobody has seen its catch; turns at other times are counted anew.
func ChangedRule(kept, to store.Rule, now time.Time) (changed store.Rule, disarmed bool) {
	to.ID, to.SiteID, to.Kind, to.Position, to.Version, to.CreatedAt = kept.ID, kept.SiteID, kept.Kind, kept.Position, kept.Version, kept.CreatedAt
	to.ArmedAt, to.ServedAt, to.OwedAt = kept.ArmedAt, kept.ServedAt, kept.OwedAt
	to.HeldAt, to.HeldWhy, to.Allowed = kept.HeldAt, kept.HeldWhy, kept.Allowed
	if to.Settings.Action != "" && to.ArmedAt != nil && reachOf(to) != reachOf(kept) {
		to.ArmedAt, to.HeldAt, to.HeldWhy, to.Allowed = nil, nil, "", 0
		disarmed = true
	}
	if to.ArmedAt != nil && string(act.JSON(to.Cadence)) != string(act.JSON(kept.Cadence)) {
		to.ArmedAt, to.ServedAt = &now, &now
	}
	return to, disarmed
}

// reachOf is what of a rule decides what becomes of which posts.
func reachOf(r store.Rule) string {
	s := r.Settings
	return string(act.JSON(r.Condition)) + string(act.JSON(store.RuleSettings{Action: s.Action, Category: s.Category, Tag: s.Tag, Answer: s.Answer,
		LeadsTo: s.LeadsTo, TellDays: s.TellDays, Only: s.Only}))
}

// UndoRule takes back that a rule was made, changed or deleted.
func UndoRule(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	if before, _, err := act.Sides[ruleOrder](line); err == nil && len(before.Order) > 0 {
		return undoOrder(ctx, d, tx, line, now)
	}
	present, err := tx.Rule(ctx, d.Site.ID, *line.Rule)
	gone := errors.Is(err, store.ErrNotFound)
	if err != nil && !gone {
		return err
	}
	if gone != act.IsNothing(line.After) {
		return act.Invalidf("id", "The rule has been changed since; undo the later change first.")
	}
	var after json.RawMessage
	switch {
	case gone:
		if err := tx.RestoreRule(ctx, d.Site.ID, *line.Rule, now); err != nil {
			return err
		}
		if present, err = tx.Rule(ctx, d.Site.ID, *line.Rule); err != nil {
			return err
		}
		after = act.JSON(present)
		return d.LogUndo(ctx, tx, line, nil, after, now)
	case act.IsNothing(line.Before):
		if err := tx.DeleteRule(ctx, d.Site.ID, present.ID, now); err != nil {
			return err
		}
		return d.LogUndo(ctx, tx, line, act.JSON(present), nil, now)
	}
	before, left, err := act.Sides[store.Rule](line)
	if err != nil {
		return err
	}
	if !sameBody(left, present) {
		return act.Invalidf("id", "The rule has been changed since; undo the later change first.")
	}
	next, _ := ChangedRule(present, before, now)
	if err := tx.SaveRule(ctx, next, now); err != nil {
		return err
	}
	return d.LogUndo(ctx, tx, line, act.JSON(present), act.JSON(next), now)
}

// sameBody tells whether two states of a rule say the same, whether or not they are armed.
func sameBody(a, b store.Rule) bool {
	body := func(r store.Rule) string {
		return r.Name + "\x00" + string(act.JSON([]any{r.Condition, r.Cadence, r.Settings, r.Seed}))
	}
	return body(a) == body(b)
}
