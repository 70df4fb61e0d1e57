package sitesettings

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// olderRests reads rest days as lines of the logbook had them before rests had a last
// date.
func olderRests(raw json.RawMessage, r *store.Rhythm) error {
	var older struct{ RestDays []civil.Date }
	err := json.Unmarshal(raw, &older)
	r.Rests = append(r.Rests, civil.RestOn(older.RestDays...)...)
	return err
}

// undoDrop adds a season again that was dropped. Posts that had sat in its slots have
// kept their times and stay as they are.
func undoDrop(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, usual, season store.Rhythm,
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
	return d.LogUndo(ctx, tx, line, nil, act.JSON(season), now)
}

// UndoRhythm takes back that the rhythm or a season of it was changed, that a season was added, or dropped. It
// fails with *act.Invalid where it has been changed since.
func UndoRhythm(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, after, err := act.Sides[store.Rhythm](line)
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
		return undoDrop(ctx, d, tx, line, present, before, now)
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
	was := act.JSON(present)
	if before.ID == 0 { // it was added
		if err := tx.DropSeason(ctx, d.Site.ID, present.ID); err != nil {
			return err
		}
		return d.LogUndo(ctx, tx, line, was, nil, now)
	}
	if err := save(ctx, before, now); err != nil {
		return err
	}
	before.Version = present.Version // saving counted it up from there
	return d.LogUndo(ctx, tx, line, was, act.JSON(before), now)
}

// UndoSettings gives the site the settings and the zone back that a line of the logbook changed. It fails with
// *act.Invalid where they have been changed since.
func UndoSettings(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, after, err := act.Sides[store.Site](line)
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
	was := act.JSON(present)
	present.ZoneName, present.Settings = before.ZoneName, before.Settings
	if err := undoOwn(ctx, tx, &present, before); err != nil {
		return err
	}
	if err := tx.SaveSettings(ctx, present); err != nil {
		return err
	}
	if paused := after.PausedAt != nil; paused && present.PausedAt == nil {
		if err := tx.NoteResumed(ctx, d.Site.ID, now); err != nil {
			return err
		}
	}
	return d.LogUndo(ctx, tx, line, was, act.JSON(present), now)
}

// undoOwn gives the site what it was called before, where that is another.
func undoOwn(ctx context.Context, tx *store.Tx, present *store.Site, before store.Site) error {
	language := cmp.Or(before.Language, present.Language) // older lines do not know it
	reading := before.Reading
	if reading.PostsAPage == 0 {
		reading = present.Reading // nor how it is read
	}
	if before.Title == present.Title && before.Tagline == present.Tagline && before.Slug == present.Slug && language == present.Language &&
		reading == present.Reading {
		return nil
	}
	present.Reading = reading
	present.Title, present.Tagline, present.Slug, present.Language = before.Title, before.Tagline, before.Slug, language
	err := tx.SaveSite(ctx, *present)
	if store.IsDuplicate(err) {
		return act.Invalidf("id", "Another blog has the address “%s” by now, so this can’t be undone.", before.Slug)
	}
	present.Version++ // saving counted it up
	return err
}
