package enact

import (
	"context"
	"encoding/json"
	"fmt"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// timedEdit has a post say what was prepared. The edit's author is who wrote it.
func timedEdit(ctx context.Context, w *work, d deed.TimedEdit) error {
	e, err := w.tx.LockEdit(ctx, w.Site, d.Edit)
	if err != nil {
		return fmt.Errorf("finding the timed edit: %w", err)
	}
	p, err := w.tx.LockPost(ctx, w.Site, d.Post)
	if err != nil {
		return err
	}
	before := p
	p.Say(d.Text)
	if err := writing.Say(ctx, w.tx, before, p, e.User, d.Reason, w.Now); err != nil {
		return err
	}
	after, err := w.tx.Post(ctx, w.Site, d.Post)
	if err != nil {
		return err
	}
	e.AppliedAt, e.State = &w.Now, store.EditApplied
	if !d.Next.IsZero() {
		e.State, e.DueAt, e.Base = store.EditWaiting, d.Next, store.Wording{Text: d.From}
	}
	if err := w.tx.SaveEdit(ctx, e, w.Now); err != nil {
		return fmt.Errorf("noting that it was applied: %w", err)
	}
	line := w.line(d.Base, deed.KindTimedEdit)
	if line.Before, err = json.Marshal(writing.SaidOf(e.ID, before)); err != nil {
		return err
	}
	if line.After, err = json.Marshal(writing.SaidOf(e.ID, after)); err != nil {
		return err
	}
	return w.tx.Log(ctx, line)
}

// holdEdit leaves a timed edit to an editor.
func holdEdit(ctx context.Context, w *work, d deed.HoldEdit) error {
	e, err := w.tx.LockEdit(ctx, w.Site, d.Edit)
	if err != nil {
		return fmt.Errorf("finding the timed edit: %w", err)
	}
	e.State, e.HeldWhy = store.EditHeld, d.Reason
	if err := w.tx.SaveEdit(ctx, e, w.Now); err != nil {
		return fmt.Errorf("holding it: %w", err)
	}
	if err := w.Queue.TellHeld(ctx, w.tx, w.Site, e.ID); err != nil {
		return fmt.Errorf("queueing the mail about it: %w", err)
	}
	line := w.line(d.Base, deed.KindHoldEdit)
	return w.tx.Log(ctx, line)
}
