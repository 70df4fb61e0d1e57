package outings

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/store"
)

// Undo takes back that an outing was planned, changed or dropped, as long as it waits
// for its time.
func Undo(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	var before, after store.Outing
	for _, side := range []struct {
		raw  json.RawMessage
		dest *store.Outing
	}{{line.Before, &before}, {line.After, &after}} {
		if act.IsNothing(side.raw) {
			continue
		}
		if err := json.Unmarshal(side.raw, side.dest); err != nil {
			return fmt.Errorf("reading line %d of the logbook: %w", line.ID, err)
		}
	}
	if before.ID != 0 && before.State == store.Planned && !before.At.After(now) {
		return act.Invalidf("id", "The time of the outing has passed. Plan it anew.")
	}
	if after.ID == 0 { // it was dropped
		if err := tx.RestorePlanned(ctx, before); err != nil {
			return fmt.Errorf("planning outing %d again: %w", before.ID, err)
		}
		again, err := tx.LockOuting(ctx, d.Site.ID, before.ID)
		if err != nil {
			return err
		}
		return d.LogUndo(ctx, tx, line, nil, act.JSON(again), now)
	}
	present, err := tx.LockOuting(ctx, d.Site.ID, after.ID)
	if errors.Is(err, store.ErrNotFound) {
		return act.Invalidf("id", "The outing has gone out since, or was dropped.")
	}
	if err != nil {
		return err
	}
	if present.Version != after.Version {
		return act.Invalidf("id", "The outing has been changed since; undo the later change first.")
	}
	if before.ID == 0 { // it was planned
		if err := tx.DropPlanned(ctx, d.Site.ID, present.ID); err != nil { // the turn is the rule's again
			return err
		}
		return d.LogUndo(ctx, tx, line, act.JSON(present), nil, now)
	}
	if err := tx.SavePlanned(ctx, before); err != nil {
		return err
	}
	if before.State != store.Planned {
		if err := tx.LeaveOut(ctx, d.Site.ID, before.ID, before.Error); err != nil {
			return err
		}
	}
	again, err := tx.LockOuting(ctx, d.Site.ID, before.ID)
	if err != nil {
		return err
	}
	return d.LogUndo(ctx, tx, line, act.JSON(present), act.JSON(again), now)
}
