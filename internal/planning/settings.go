package planning

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

// mostAudiences is how many clocks of readers are laid under the tape.
const mostAudiences = 3

// SaveSettings writes the site's zone and settings over the version that the editor
// saw; check them with SettingsProblems first. In another zone scheduled posts keep what
// keep says: their instants where it is empty.
func (d Desk) SaveSettings(ctx context.Context, zone string, keep Keep, settings store.Settings, version int,
	now time.Time) error {
	return d.change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if site.Version != version {
			return act.ErrStale
		}
		before := mustJSON(site)
		if zone != site.ZoneName && keep == KeepClock {
			// The zone and the posts that keep their clocks in it are one act.
			if err := d.begin(ctx, tx, "The time zone was changed.", now); err != nil {
				return err
			}
			if err := d.keepClocks(ctx, tx, site, zone, now); err != nil {
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
		return tx.Log(ctx, store.LogEntry{SiteID: site.ID, At: now, Actor: &d.Actor, Deed: name, Act: d.act,
			Reason: reason, Before: before, After: mustJSON(site)})
	})
}

// SetBounds says when a draft may come out: not before a moment, and not after a
// deadline; the zero time is no bound.
func (d Desk) SetBounds(ctx context.Context, id int64, version int, notBefore, deadline, now time.Time) error {
	if !notBefore.IsZero() && !deadline.IsZero() && deadline.Before(notBefore) {
		return act.Invalidf("deadline", "The deadline is before the draft may come out. Change one of the two.")
	}
	for field, at := range map[string]time.Time{"notBefore": notBefore, "deadline": deadline} {
		if !at.IsZero() && !civil.IsNear(at) {
			return act.Invalidf(field, "That is too far away. Choose a date from %d to %d.", civil.FirstYear,
				civil.LastYear)
		}
	}
	return d.changePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := fits(DoBound, p, now); err != nil {
			return err
		}
		return d.stand(ctx, tx, p, p.State().Bound(notBefore, deadline), store.DeedBounds,
			"Its time limits were changed.", now)
	})
}

func orNil(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}
