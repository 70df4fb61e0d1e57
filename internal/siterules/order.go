package siterules

import (
	"context"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/store"
)

// ruleOrder is the order of the rules of a kind, as the logbook keeps it.
type ruleOrder struct {
	Kind  store.RuleKind `json:"kind"`
	Order []int64        `json:"order"`
}

// Reorder has the rules of a kind take their turns in an order, which must name each of them once.
func (d Editor) Reorder(ctx context.Context, kind store.RuleKind, ids []int64, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		before, err := orderOf(ctx, tx, d.Site.ID, kind)
		if err != nil {
			return err
		}
		if !slices.Equal(slices.Sorted(slices.Values(before.Order)), slices.Sorted(slices.Values(ids))) {
			return act.Invalidf("ids", "The rules have changed meanwhile. Load them again, then put them in order.")
		}
		if slices.Equal(before.Order, ids) {
			return nil
		}
		if err := tx.OrderRules(ctx, d.Site.ID, kind, ids); err != nil {
			return err
		}
		return d.log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedRule, Rule: &ids[0], Reason: "The rules were put in another order."},
			before, ruleOrder{kind, ids})
	})
}

func orderOf(ctx context.Context, tx *store.Tx, siteID int64, kind store.RuleKind) (ruleOrder, error) {
	rules, err := tx.Rules(ctx, siteID)
	order := ruleOrder{Kind: kind}
	for _, r := range rules {
		if r.Kind == kind {
			order.Order = append(order.Order, r.ID)
		}
	}
	return order, err
}

// undoOrder gives the rules of a kind the order back that they had. Rules that were added since stay last.
func undoOrder(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, after, err := act.Sides[ruleOrder](line)
	if err != nil {
		return err
	}
	present, err := orderOf(ctx, tx, d.Site.ID, after.Kind)
	if err != nil {
		return err
	}
	back := slices.DeleteFunc(slices.Clone(before.Order), func(id int64) bool { return !slices.Contains(present.Order, id) })
	for _, id := range present.Order {
		if !slices.Contains(back, id) {
			back = append(back, id)
		}
	}
	if err := tx.OrderRules(ctx, d.Site.ID, after.Kind, back); err != nil {
		return err
	}
	return d.LogUndo(ctx, tx, line, act.JSON(present), act.JSON(ruleOrder{after.Kind, back}), now)
}
