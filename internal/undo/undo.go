// Package undo takes back what the logbook says was done, as long as things still stand as that left them.
// How a change is taken back is known where the change is made; this package finds the lines that belong
// together, and takes posts back to their states itself.
package undo

import (
	"context"
	"errors"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/channels"
	"dapper.example/internal/comments"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/imports"
	"dapper.example/internal/outings"
	"dapper.example/internal/revisions"
	"dapper.example/internal/siterules"
	"dapper.example/internal/sitesettings"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// CanUndo tells whether a line of the logbook is of a kind that can be undone and has
// not been. An undo can be undone too: what it took back is done again.
func CanUndo(e store.LogEntry) bool {
	if e.UndoneAt != nil || act.IsNothing(e.Before) && act.IsNothing(e.After) {
		return false
	}
	switch e.Deed {
	case store.DeedUndo:
		return e.Undoes != nil
	case store.DeedRhythm: // a season was added where there is nothing before, and dropped where there is nothing after
		return true
	case store.DeedRule:
		return e.Rule != nil
	case store.DeedOuting:
		return true
	case store.DeedComments, store.DeedPrepare:
		return true
	case store.DeedImport:
		return !act.IsNothing(e.After)
	case store.DeedReorder, store.DeedSettings, store.DeedAnnounce:
		return !act.IsNothing(e.Before)
	}
	return e.Post != nil && !act.IsNothing(e.Before)
}

// Undo takes back what a line of the logbook says was done, with all lines of the same
// act, if things still stand as it left them. A publication goes back to its time in
// the plan where that is still to come, and otherwise to the front of the shelf. It
// returns the line whose undoing does the thing again, 0 where it is not to be done again
// by hand.
func Undo(ctx context.Context, d act.Desk, logID int64, now time.Time) (undo int64, err error) {
	err = d.Change(ctx, func(tx *store.Tx) error {
		line, err := tx.LogLine(ctx, d.Site.ID, logID)
		if err != nil {
			return err
		}
		if !CanUndo(line) {
			return act.Invalidf("id", "This can’t be undone, or already has been.")
		}
		lines, err := undoAct(ctx, d, tx, line.Act, now)
		if err != nil {
			return err
		}
		undo, err = tx.UndoOf(ctx, d.Site.ID, lines[0].ID)
		if errors.Is(err, store.ErrNotFound) {
			return nil // a rule's deed: it is the rule's to do it again
		}
		return err
	})
	return undo, err
}

// undoneKind is the deed that undoing a line touches in the end: that of the line, or of
// the one that it undoes.
func undoneKind(ctx context.Context, tx *store.Tx, line store.LogEntry) (string, error) {
	for line.Deed == store.DeedUndo && line.Undoes != nil {
		var err error
		if line, err = tx.LogLine(ctx, line.SiteID, *line.Undoes); err != nil {
			return "", err
		}
	}
	return line.Deed, nil
}

// undoer takes back one line of an act and writes the line of that.
type undoer func(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error

// undoers are how lines are taken back, by their deeds; all others are of posts' states.
var undoers = map[string]undoer{
	store.DeedRhythm: sitesettings.UndoRhythm, store.DeedSettings: sitesettings.UndoSettings,
	store.DeedReorder: status.UndoReorder, store.DeedBounds: undoBounds, store.DeedEdit: writing.UndoEdit,
	store.DeedRule: siterules.UndoRule, store.DeedOuting: outings.Undo, store.DeedComments: comments.Undo,
	store.DeedAnnounce: channels.UndoAnnounced, store.DeedImport: imports.Undo,
	store.DeedPrepare: revisions.UndoPrepared, string(deed.KindTimedEdit): revisions.UndoSaid, store.DeedText: revisions.UndoSaid,
	string(deed.KindRefile): undoCare, string(deed.KindAddTag): undoCare, string(deed.KindCloseComments): undoCare,
}

// undoAct takes back all lines of an act, what was done last first, as an act of its own. It
// returns the lines.
func undoAct(ctx context.Context, d act.Desk, tx *store.Tx, id int64, now time.Time) ([]store.LogEntry, error) {
	lines, err := tx.LinesOf(ctx, d.Site.ID, id)
	if err != nil {
		return nil, err
	}
	lines = slices.DeleteFunc(lines, func(one store.LogEntry) bool { // words to people, which change nothing
		return deed.Kind(one.Deed).Effect() == deed.NothingOf && act.IsNothing(one.Before) && act.IsNothing(one.After)
	})
	// An act may be of several kinds: a post that was edited and given a time at once.
	kinds := make(map[int64]string)
	for _, one := range lines {
		if kinds[one.ID], err = undoneKind(ctx, tx, one); err != nil {
			return nil, err
		}
	}
	if len(lines) > 1 {
		// The posts may have changed places among themselves: all leave their slots first.
		moved := slices.DeleteFunc(slices.Clone(lines),
			func(one store.LogEntry) bool { return undoers[kinds[one.ID]] != nil })
		if ids := postsOf(moved); len(ids) > 0 {
			if err := tx.LeaveSlots(ctx, d.Site.ID, ids); err != nil {
				return nil, err
			}
		}
	}
	if d.Act, err = tx.Begin(ctx, store.Act{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Why: act.UndoneWords(lines[0]),
		Undoes: &id}); err != nil {
		return nil, err
	}
	for _, one := range slices.Backward(lines) {
		d.Undoes = &one.ID
		undo, known := undoers[kinds[one.ID]]
		if !known {
			undo = undoPost
		}
		if err := undo(ctx, d, tx, one, now); err != nil {
			return nil, err
		}
	}
	return lines, tx.MarkUndone(ctx, d.Site.ID, id, now)
}

func postsOf(lines []store.LogEntry) []int64 {
	var ids []int64
	for _, one := range lines {
		if one.Post != nil {
			ids = append(ids, *one.Post)
		}
	}
	return ids
}

// posted reads what a line changed of a post's state, and locks the post, which must stand
// as the line left it.
func posted(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry) (before post.State, p store.Post,
	err error) {
	if line.Post == nil {
		return before, p, act.Invalidf("id", "The post of this line is gone.")
	}
	before, after, err := act.Sides[post.State](line)
	if err != nil {
		return before, p, err
	}
	if p, err = tx.LockPost(ctx, d.Site.ID, *line.Post); err != nil {
		return before, p, err
	}
	if !after.Stands(p.State()) {
		err = act.Invalidf("id", "“%s” has been changed since; undo the later change first.", p.Title)
	}
	return before, p, err
}

func undoBounds(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, p, err := posted(ctx, d, tx, line)
	if err != nil {
		return err
	}
	return d.Stand(ctx, tx, p, p.State().Bound(before.NotBefore, before.Deadline), store.DeedUndo, act.UndoneWords(line),
		now)
}

func undoPost(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, p, err := posted(ctx, d, tx, line)
	if err != nil {
		return err
	}
	back := p.State().Undo(before, now)
	if back.Cleared && back.Rank == nil {
		low, _, err := tx.ShelfEnds(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		first := low - 1
		back.Rank = &first
	}
	if byRule(line) {
		return undoUpkeep(ctx, d, tx, p, line, back, now)
	}
	err = d.Stand(ctx, tx, p, back, store.DeedUndo, act.UndoneWords(line), now)
	if store.IsDuplicate(err) {
		return act.Invalidf("id", "The slot of “%s” has been taken by another post.", p.Title)
	}
	return err
}
