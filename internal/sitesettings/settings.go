// Package sitesettings saves what holds for a whole site: its settings and its zone, its rhythm and its
// seasons. It says what is wrong with them, and makes new ones to begin with.
package sitesettings

import (
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/readiness"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// maxFresh is the longest that a post may be overdue and still be called fresh, in
// minutes: a year.
const maxFresh = 365 * 24 * 60

// SettingsProblems lists what is wrong with a site's zone and settings, by field.
func SettingsProblems(zone string, s store.Settings) []*act.Invalid {
	var found []*act.Invalid
	say := func(field, format string, args ...any) {
		found = append(found, &act.Invalid{Field: field, Message: fmt.Sprintf(format, args...)})
	}
	if _, err := civil.LoadZone(zone); err != nil {
		say("zone", "There is no time zone %q. Choose one from the list, such as Europe/Lisbon.", zone)
	}
	if !slices.Contains(deed.CatchUps, deed.CatchUp(s.CatchUp)) {
		say("catchUp", "There is no such choice for overdue posts: %q.", s.CatchUp)
	}
	if s.CatchUpMinutes < 1 || s.CatchUpMinutes > maxFresh {
		say("catchUpMinutes", "A post may be fresh for 1 minute up to a year (%d minutes), not for %d.", maxFresh,
			s.CatchUpMinutes)
	}
	if !slices.Contains(queue.Orders, queue.Order(s.ShelfOrder)) {
		say("shelfOrder", "There is no such order of the shelf: %q.", s.ShelfOrder)
	}
	if len(s.AudienceZones) > mostAudiences {
		say("audienceZones", "At most %d time zones can be shown under the tape.", mostAudiences)
	}
	for i, name := range s.AudienceZones {
		if _, err := civil.LoadZone(name); err != nil {
			say("audienceZones", "There is no time zone %q. Choose one from the list.", name)
		} else if slices.Contains(s.AudienceZones[:i], name) {
			say("audienceZones", "%s is there twice.", name)
		}
	}
	if s.BinDays < 0 || s.BinDays > maxBinDays {
		say("binDays", "Posts stay in the bin for 1 to %d days, or until somebody deletes them; not for %d days.", maxBinDays, s.BinDays)
	}
	if s.LogDays != 0 && (s.LogDays < minLogDays || s.LogDays > maxLogDays) {
		say("logDays", "The logbook is kept for %d to %d days, or for ever; not for %d days.", minLogDays, maxLogDays, s.LogDays)
	}
	for i, c := range s.ReadyChecks {
		if !slices.Contains(readiness.Checks, readiness.Check(c)) || slices.Contains(s.ReadyChecks[:i], c) {
			say("ready", "There is no such check, or it is listed twice: %q.", c)
		}
	}
	for _, p := range s.Caps().Problems() {
		say("caps."+p.Path, "%s", p.Message)
	}
	return found
}

// Limits of what is kept, in days.
const (
	maxBinDays = 3650
	minLogDays = 30 // what happened lately can always be looked up, and undone
	maxLogDays = 36_500
)

// binOverdue is how many posts of a site would be deleted for good at once if its bin kept them for this many days; none while
// the limit stays, or where there is none (0).
func binOverdue(ctx context.Context, q store.Queries, site store.Site, days int, now time.Time) (int, error) {
	if days <= 0 || days == site.BinDays {
		return 0, nil
	}
	inBin, err := q.InBin(ctx, site.ID, 0)
	if err != nil {
		return 0, err
	}
	n := 0
	for _, b := range inBin {
		if !site.Zone().AddDays(b.At, days).After(now) {
			n++
		}
	}
	return n, nil
}

// BinConfirmed fails with *act.Invalid where a new limit of the bin means that posts are deleted for good at once, unless their
// number was confirmed.
func BinConfirmed(ctx context.Context, q store.Queries, site store.Site, days, confirmed int, now time.Time) error {
	n, err := binOverdue(ctx, q, site, days, now)
	if err != nil || n == 0 || n == confirmed {
		return err
	}
	return act.Invalidf("binConfirm", "%s in the bin for %d days or longer and would be deleted for good at once. Type %d to confirm, or choose a longer time.",
		words.Count(n, "post")+words.For(n, " has been", " have been"), days, n)
}

// mostAudiences is how many clocks of readers are laid under the tape.
const mostAudiences = 3

// SaveSettings writes the site's zone and settings over the version that the editor
// saw; check them with SettingsProblems first. In another zone scheduled posts keep what
// keep says: their instants where it is empty.
func SaveSettings(ctx context.Context, d act.Desk, zone string, keep Keep, settings store.Settings, version int,
	now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if site.Version != version {
			return act.ErrStale
		}
		if site.ArchivedAt != nil && settings.PausedAt == nil {
			return act.Invalidf("paused", "This blog is archived. Bring it back first, then resume it.")
		}
		before := act.JSON(site)
		if zone != site.ZoneName && keep == KeepClock {
			// The zone and the posts that keep their clocks in it are one act.
			if err := d.Begin(ctx, tx, "The time zone was changed.", now); err != nil {
				return err
			}
			if err := keepClocks(ctx, d, tx, site, zone, now); err != nil {
				return err
			}
		}
		name, reason := store.DeedSettings, "The settings were changed."
		switch wasPaused := site.PausedAt != nil; {
		case settings.PausedAt != nil && !wasPaused:
			name, reason = store.DeedPause, "The site was paused: nothing comes out."
		case settings.PausedAt == nil && wasPaused:
			name, reason = store.DeedResume, "The site was resumed; overdue posts are handled as you chose."
		}
		site.ZoneName, site.Settings = zone, settings
		if err := tx.SaveSettings(ctx, site); err != nil {
			return fmt.Errorf("saving the settings of %s: %w", site.Slug, err)
		}
		if name == store.DeedResume {
			if err := tx.NoteResumed(ctx, site.ID, now); err != nil {
				return err
			}
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: name, Act: d.Act,
			Reason: reason, Before: before, After: act.JSON(site)})
	})
}
