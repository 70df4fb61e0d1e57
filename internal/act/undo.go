package act

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/store"
)

// Sides reads what a line of the logbook changed: from what, to what. It fails where either side is
// missing or no such value.
func Sides[T any](line store.LogEntry) (before, after T, err error) {
	if err = errors.Join(json.Unmarshal(line.Before, &before), json.Unmarshal(line.After, &after)); err != nil {
		err = fmt.Errorf("reading line %d of the logbook: %w", line.ID, err)
	}
	return before, after, err
}

// IsNothing tells whether a side of a line is empty: there was nothing before, or is nothing after.
func IsNothing(side json.RawMessage) bool { return len(side) == 0 || string(side) == "null" }

// JSON is a side of a line: a plain value as JSON, nil for nothing. It panics for values that JSON cannot
// hold.
func JSON(v any) json.RawMessage {
	raw, err := json.Marshal(v)
	if err != nil {
		panic(err) // plain values always marshal
	}
	if IsNothing(raw) {
		return nil
	}
	return raw
}

// LogUndo writes the line of what took a line back, with what that changed.
func (d Desk) LogUndo(ctx context.Context, tx *store.Tx, line store.LogEntry, before, after json.RawMessage,
	now time.Time) error {
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUndo, Act: d.Act, Undoes: &line.ID, Rule: line.Rule,
		Post: line.Post, Reason: UndoneWords(line), Before: before, After: after})
}

const (
	undonePrefix    = "Undone: "
	doneAgainPrefix = "Done again: "
)

// UndoneWords says in the logbook that a line was undone, or done again where it was an undoing.
func UndoneWords(line store.LogEntry) string {
	if line.Deed == store.DeedUndo {
		if did, undone := strings.CutPrefix(line.Reason, undonePrefix); undone {
			return doneAgainPrefix + did
		}
		return undonePrefix + strings.TrimPrefix(line.Reason, doneAgainPrefix)
	}
	return undonePrefix + line.Reason
}
