package sitesettings

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"

	"dapper.example/internal/store"
)

// ErrProblems is returned for a rhythm that has problems; ask the rhythm for them
// before saving.
var ErrProblems = errors.New("the rhythm has problems")

// SaveRhythm writes the site's rhythm over the version that the editor saw.
// Scheduled posts keep their times; only future free slots change.
func SaveRhythm(ctx context.Context, d act.Desk, r store.Rhythm, now time.Time) error {
	if len(r.In(d.Site.Zone()).Problems()) > 0 {
		return ErrProblems
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		before, err := tx.RhythmOf(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if before.Version != r.Version {
			return act.ErrStale
		}
		r.ID, r.SiteID, r.Seasons = before.ID, d.Site.ID, before.Seasons
		if err := tx.SaveRhythm(ctx, r, now); err != nil {
			return fmt.Errorf("saving the rhythm of %s: %w", d.Site.Slug, err)
		}
		return d.Log(ctx, tx, store.LogEntry{
			At: now, Deed: store.DeedRhythm, Reason: "The rhythm was changed.",
			Before: act.JSON(before), After: act.JSON(r),
		})
	})
}

// SaveSeason writes a season over the version that the editor saw, or adds it where its
// ID is 0, and returns its id. Scheduled posts keep their times. It fails with *act.Invalid for
// what is wrong with it, by field.
func SaveSeason(ctx context.Context, d act.Desk, s store.Rhythm, now time.Time) (id int64, err error) {
	err = d.Change(ctx, func(tx *store.Tx) error {
		usual, err := tx.RhythmOf(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		s.SiteID = d.Site.ID
		if bad := SeasonProblems(usual, s, d.Site.Zone()); len(bad) > 0 {
			return bad[0]
		}
		if s.ID == 0 {
			if len(usual.Seasons) >= rhythm.MaxSeasons {
				return act.Invalidf("name", "There are %d seasons already; delete one first.", len(usual.Seasons))
			}
			if id, err = tx.InsertSeason(ctx, s, now); err != nil {
				return fmt.Errorf("adding a season to %s: %w", d.Site.Slug, err)
			}
			s.ID, s.Version = id, 0
			return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedRhythm,
				Reason: fmt.Sprintf("The season “%s” was added.", s.Name), After: act.JSON(s)})
		}
		before, has := usual.Season(s.ID)
		switch {
		case !has:
			return store.ErrNotFound
		case before.Version != s.Version:
			return act.ErrStale
		}
		id = s.ID
		if err := tx.SaveSeason(ctx, s, now); err != nil {
			return fmt.Errorf("saving a season of %s: %w", d.Site.Slug, err)
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedRhythm,
			Reason: fmt.Sprintf("The season “%s” was changed.", s.Name), Before: act.JSON(before), After: act.JSON(s)})
	})
	return id, err
}

// SeasonProblems lists what is wrong with a season beside the others, by field.
func SeasonProblems(usual, s store.Rhythm, zone civil.Zone) []*act.Invalid {
	usual.Seasons = []store.Rhythm{s}
	var found []*act.Invalid
	for _, p := range usual.In(zone).Problems() {
		if field, of := strings.CutPrefix(p.Path, "seasons[0]."); of {
			found = append(found, &act.Invalid{Field: field, Message: p.Message})
		}
	}
	return found
}

// DropSeason deletes a season. Posts in its slots keep their times.
func DropSeason(ctx context.Context, d act.Desk, id int64, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		usual, err := tx.RhythmOf(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		season, has := usual.Season(id)
		if !has {
			return store.ErrNotFound
		}
		if err := tx.DropSeason(ctx, d.Site.ID, id); err != nil {
			return fmt.Errorf("dropping a season of %s: %w", d.Site.Slug, err)
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedRhythm,
			Reason: fmt.Sprintf("The season “%s” was deleted.", season.Name), Before: act.JSON(season)})
	})
}
