package planning

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// CanUndo tells whether a line of the logbook is of a kind that can be undone and has
// not been. An undo can be undone too: what it took back is done again.
func CanUndo(e store.LogEntry) bool {
	if e.UndoneAt != nil || isNone(e.Before) && isNone(e.After) {
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
	case store.DeedReorder, store.DeedSettings:
		return !isNone(e.Before)
	}
	return e.Post != nil && !isNone(e.Before)
}

func isNone(side json.RawMessage) bool { return len(side) == 0 || string(side) == "null" }

// Undo takes back what a line of the logbook says was done, with all lines of the same
// act, if things still stand as it left them. A publication goes back to its time in
// the plan where that is still to come, and otherwise to the front of the shelf. It
// returns the line whose undoing does the thing again, 0 where it is not to be done again
// by hand.
func (d Desk) Undo(ctx context.Context, logID int64, now time.Time) (undo int64, err error) {
	err = d.change(ctx, func(tx *store.Tx) error {
		line, err := tx.LogLine(ctx, d.Site.ID, logID)
		if err != nil {
			return err
		}
		if !CanUndo(line) {
			return act.Invalidf("id", "This can’t be undone, or already has been.")
		}
		lines, err := d.undoAct(ctx, tx, line.Act, now)
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

// undoneWords tells of the undoing of a line.
func undoneWords(line store.LogEntry) string {
	if line.Deed == store.DeedUndo {
		if did, undone := strings.CutPrefix(line.Reason, undonePrefix); undone {
			return "Done again: " + did
		}
		return undonePrefix + strings.TrimPrefix(line.Reason, "Done again: ")
	}
	return undonePrefix + line.Reason
}

const undonePrefix = "Undone: "

// logUndo writes the line of what took a line back.
func (d Desk) logUndo(ctx context.Context, tx *store.Tx, line store.LogEntry, before, after json.RawMessage,
	now time.Time) error {
	return tx.Log(ctx, store.LogEntry{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: store.DeedUndo, Act: d.act,
		Undoes: &line.ID, Rule: line.Rule, Post: line.Post,
		Reason: undoneWords(line), Before: before, After: after})
}

// undoer takes back one line of an act and writes the line of that.
type undoer func(d Desk, ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error

// undoers are how lines are taken back, by their deeds; all others are of posts' states.
var undoers = map[string]undoer{
	store.DeedRhythm: Desk.undoRhythm, store.DeedReorder: Desk.undoReorder, store.DeedRule: Desk.undoRule, store.DeedOuting: Desk.undoOuting,
	store.DeedSettings: Desk.undoSettings, store.DeedEdit: Desk.undoEdit, store.DeedBounds: Desk.undoBounds,
}

// undoAct takes back all lines of an act, what was done last first, as an act of its own. It
// returns the lines.
func (d Desk) undoAct(ctx context.Context, tx *store.Tx, id int64, now time.Time) ([]store.LogEntry, error) {
	lines, err := tx.LinesOf(ctx, d.Site.ID, id)
	if err != nil {
		return nil, err
	}
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
	if d.act, err = tx.Begin(ctx, store.Act{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Why: undoneWords(lines[0]),
		Undoes: &id}); err != nil {
		return nil, err
	}
	for _, one := range slices.Backward(lines) {
		d.undoes = &one.ID
		undo, known := undoers[kinds[one.ID]]
		if !known {
			undo = Desk.undoPost
		}
		if err := undo(d, ctx, tx, one, now); err != nil {
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

// sides reads what a line of the logbook changed: from what, to what.
func sides[T any](line store.LogEntry) (before, after T, err error) {
	if err = errors.Join(json.Unmarshal(line.Before, &before), json.Unmarshal(line.After, &after)); err != nil {
		err = fmt.Errorf("reading line %d of the logbook: %w", line.ID, err)
	}
	return before, after, err
}

func (d Desk) undoSettings(ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, after, err := sides[store.Site](line)
	if err != nil {
		return err
	}
	present, err := tx.Site(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	if present.Version != after.Version+1 {
		return act.Invalidf("id", "The settings have been changed since; undo the later change first.")
	}
	was := mustJSON(present)
	present.ZoneName, present.Settings = before.ZoneName, before.Settings
	if err := tx.SaveSettings(ctx, present); err != nil {
		return err
	}
	if paused := after.PausedAt != nil; paused && present.PausedAt == nil {
		if err := tx.NoteResumed(ctx, d.Site.ID, now); err != nil {
			return err
		}
	}
	return d.logUndo(ctx, tx, line, was, mustJSON(present), now)
}

// posted reads what a line changed of a post's state, and locks the post, which must stand
// as the line left it.
func (d Desk) posted(ctx context.Context, tx *store.Tx, line store.LogEntry) (before post.State, p store.Post,
	err error) {
	if line.Post == nil {
		return before, p, act.Invalidf("id", "The post of this line is gone.")
	}
	before, after, err := sides[post.State](line)
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

func (d Desk) undoBounds(ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, p, err := d.posted(ctx, tx, line)
	if err != nil {
		return err
	}
	return d.stand(ctx, tx, p, p.State().Bound(before.NotBefore, before.Deadline), store.DeedUndo, undoneWords(line),
		now)
}

func (d Desk) undoPost(ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, p, err := d.posted(ctx, tx, line)
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
		return d.undoUpkeep(ctx, tx, p, line, back, now)
	}
	err = d.stand(ctx, tx, p, back, store.DeedUndo, undoneWords(line), now)
	if store.IsDuplicate(err) {
		return act.Invalidf("id", "The slot of “%s” has been taken by another post.", p.Title)
	}
	return err
}

func (d Desk) undoRhythm(ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, after, err := sides[store.Rhythm](line)
	if err != nil {
		return err
	}
	if err := olderRests(line.Before, &before); err != nil {
		return err
	}
	present, err := tx.RhythmOf(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	if after.ID == 0 {
		return d.undoDrop(ctx, tx, line, present, before, now)
	}
	save := tx.SaveRhythm
	if after.ID != present.ID {
		season, has := present.Season(after.ID)
		if !has {
			return act.Invalidf("id", "The season “%s” is gone, so there is nothing to undo.", after.Name)
		}
		present, save = season, tx.SaveSeason
	}
	if present.Version != after.Version+1 {
		return act.Invalidf("id", "The rhythm has been changed since; undo the later change first.")
	}
	was := mustJSON(present)
	if before.ID == 0 { // it was added
		if err := tx.DropSeason(ctx, d.Site.ID, present.ID); err != nil {
			return err
		}
		return d.logUndo(ctx, tx, line, was, nil, now)
	}
	if err := save(ctx, before, now); err != nil {
		return err
	}
	before.Version = present.Version // saving counted it up from there
	return d.logUndo(ctx, tx, line, was, mustJSON(before), now)
}

// undoDrop adds a season again that was dropped. Posts that had sat in its slots have
// kept their times and stay as they are.
func (d Desk) undoDrop(ctx context.Context, tx *store.Tx, line store.LogEntry, usual, season store.Rhythm,
	now time.Time) error {
	if len(usual.Seasons) >= rhythm.MaxSeasons {
		return act.Invalidf("id", "There are %d seasons already; delete one first.", len(usual.Seasons))
	}
	if bad := SeasonProblems(usual, season, d.Site.Zone()); len(bad) > 0 {
		return bad[0]
	}
	season.Version = 0
	if _, err := tx.InsertSeason(ctx, season, now); err != nil {
		return fmt.Errorf("adding a season of %s again: %w", d.Site.Slug, err)
	}
	return d.logUndo(ctx, tx, line, nil, mustJSON(season), now)
}

// olderRests reads rest days as lines of the logbook had them before rests had a last
// date.
func olderRests(raw json.RawMessage, r *store.Rhythm) error {
	var older struct{ RestDays []civil.Date }
	err := json.Unmarshal(raw, &older)
	r.Rests = append(r.Rests, civil.RestOn(older.RestDays...)...)
	return err
}

func (d Desk) undoReorder(ctx context.Context, tx *store.Tx, line store.LogEntry, now time.Time) error {
	var before []int64
	if err := json.Unmarshal(line.Before, &before); err != nil {
		return fmt.Errorf("reading line %d of the logbook: %w", line.ID, err)
	}
	shelf, err := tx.Shelf(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	var there []int64
	for _, e := range shelf {
		there = append(there, e.ID)
	}
	if !slices.Equal(slices.Sorted(slices.Values(there)), slices.Sorted(slices.Values(before))) {
		return act.Invalidf("id", "The shelf has other drafts now; put it in order by hand.")
	}
	if err := tx.RankShelf(ctx, d.Site.ID, before); err != nil {
		return err
	}
	return d.logUndo(ctx, tx, line, idList(there), idList(before), now)
}
