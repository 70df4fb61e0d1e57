package undo

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// byRule tells whether a line is of what a rule, or a post's own expiry, did.
func byRule(line store.LogEntry) bool {
	if line.Rule == nil && line.Actor != nil {
		return false // by hand
	}
	effect := deed.Kind(line.Deed).Effect()
	return effect == deed.TakenAway || effect == deed.ComesBack || line.Deed == string(deed.KindPutNotice)
}

// undoCare gives a post back what a rule changed of it. The rule waits for an editor afterwards, or it would do the same
// again at its next turn.
func undoCare(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	if err := writing.UndoEdit(ctx, d, tx, line, now); err != nil || line.Rule == nil {
		return err
	}
	return tx.HoldRule(ctx, d.Site.ID, *line.Rule, undone, now)
}

// undone is why a rule waits after a run of it was undone.
const undone = "What it did was undone. Check which posts it matches, then resume it or change it."

// undoUpkeep gives a post back what a rule took from it. The rule waits for an editor
// afterwards, or it would do the same again at its next turn.
func undoUpkeep(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, line store.LogEntry, back post.State,
	now time.Time) error {
	was, outAgain := act.JSON(p.State()), p.PublishedAt
	p.Stand(back)
	if err := tx.SaveState(ctx, p, now); err != nil {
		return fmt.Errorf("changing post %d: %w", p.ID, err)
	}
	reason := "Undone: " + line.Reason
	if p.Status == store.Published && p.ExpiresAt != nil && !p.ExpiresAt.After(now) {
		// It would take the post away again at once.
		p.ExpiresAt = nil
		if err := tx.SaveCare(ctx, p, now); err != nil {
			return fmt.Errorf("changing post %d: %w", p.ID, err)
		}
		reason += " Its expiry date had passed, so it was removed."
	}
	if line.Deed == string(deed.KindRepublish) && outAgain != nil {
		if err := tx.ForgetRepublication(ctx, d.Site.ID, p.ID, *outAgain); err != nil {
			return err
		}
		if err := tx.DropAnnounced(ctx, d.Site.ID, p.ID, *outAgain); err != nil {
			return err
		}
	}
	if line.Rule != nil {
		if err := tx.HoldRule(ctx, d.Site.ID, *line.Rule, undone, now); err != nil {
			return err
		}
	}
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUndo, Post: &p.ID,
		Rule:   line.Rule,
		Reason: reason, Before: was, After: act.JSON(p.State()), Act: d.Act})
}
