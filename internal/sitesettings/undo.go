package sitesettings

import (
	"bytes"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
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
// *act.Invalid where they have been changed since, or where the bin would empty at once under the limit that it had.
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
	if n, err := binOverdue(ctx, tx.Queries, present, before.BinDays, now); err != nil {
		return err
	} else if n > 0 {
		return act.Invalidf("id", "%s in the bin for %d days or longer and would be deleted for good at once. Restore what you want to keep, or set the limit in the settings.",
			words.Count(n, "post")+words.For(n, " has been", " have been"), before.BinDays)
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

// undoOwn gives the site what it was called, how it was read and how it looked before, where that is another. Older lines
// of the logbook do not know all of it: what they do not know stays.
func undoOwn(ctx context.Context, tx *store.Tx, present *store.Site, before store.Site) error {
	was := act.JSON(*present)
	language, reading, looks := cmp.Or(before.Language, present.Language), before.Reading, before.Appearance
	switch {
	case reading.PostsAPage == 0:
		reading = present.Reading
	case reading.DateStyle == "":
		reading = present.Reading
		reading.PostsAPage, reading.FeedsWhole, reading.Footer = before.PostsAPage, before.FeedsWhole, before.Footer
	}
	if looks.Look == "" {
		looks = present.Appearance
	}
	commenting := before.Commenting
	if commenting.Hold == "" {
		commenting = present.Commenting
	}
	present.Title, present.Tagline, present.Slug, present.Language = before.Title, before.Tagline, before.Slug, language
	present.Reading, present.Appearance, present.Commenting = reading, looks, commenting
	if bytes.Equal(was, act.JSON(*present)) {
		return nil
	}
	if taken, err := tx.HostIsTaken(ctx, reading.Host, present.ID); err != nil {
		return err
	} else if taken {
		return act.Invalidf("id", "Another blog has the host “%s” by now, so this can’t be undone.", reading.Host)
	}
	if err := keepKnown(ctx, tx, present); err != nil {
		return err
	}
	if err := tx.SaveSite(ctx, *present); err != nil {
		if store.IsDuplicate(err) {
			return act.Invalidf("id", "Another blog has the address “%s” by now, so this can’t be undone.", before.Slug)
		}
		return err
	}
	if err := tx.SaveAppearance(ctx, present.ID, looks); err != nil {
		return err
	}
	if err := tx.SaveCommenting(ctx, present.ID, commenting); err != nil {
		return err
	}
	present.Version += 3 // each saving counted it up
	return nil
}

// keepKnown leaves out what the site showed before and has no more: pictures and a page that were deleted since.
func keepKnown(ctx context.Context, tx *store.Tx, s *store.Site) error {
	for _, id := range []**int64{&s.Logo, &s.Icon} {
		if *id == nil {
			continue
		}
		if known, err := tx.KnownPictures(ctx, s.ID, []int64{**id}); err != nil {
			return err
		} else if len(known) == 0 {
			*id = nil
		}
	}
	if s.FrontPage != nil {
		if _, err := tx.Post(ctx, s.ID, *s.FrontPage); errors.Is(err, store.ErrNotFound) {
			s.FrontPage = nil
		} else if err != nil {
			return err
		}
	}
	return nil
}
