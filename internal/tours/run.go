package tours

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/tour"
	"dapper.example/internal/core/words"
	"dapper.example/internal/outings"
	"dapper.example/internal/store"
)

// change does work on a tour, which must still have the version that was seen.
func (d Editor) change(ctx context.Context, id int64, version int, now time.Time, work func(*store.Tx, *store.Tour) error) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		return d.changeIn(ctx, tx, Seen{id, version}, now, func(t *store.Tour) error { return work(tx, t) })
	})
}

func (d Editor) changeIn(ctx context.Context, tx *store.Tx, seen Seen, now time.Time, work func(*store.Tour) error) error {
	t, err := tx.LockTour(ctx, d.Site.ID, seen.ID)
	if err != nil {
		return err
	}
	if t.Version != seen.Version {
		return act.ErrStale
	}
	if err := work(&t); err != nil {
		return err
	}
	t.UpdatedAt = now
	return tx.SaveTour(ctx, t)
}

// Save changes what a tour is to be. One that runs is paused first.
func (d Editor) Save(ctx context.Context, id int64, version int, name string, s tour.Settings, now time.Time) error {
	return d.change(ctx, id, version, now, func(tx *store.Tx, t *store.Tour) error {
		if state := t.State(); state != store.TourBeingMade && state != store.TourPaused {
			return act.Invalidf("id", "The tour is %s. Pause it before you change it.", state)
		}
		if name = strings.TrimSpace(name); name == "" || letters.Length(name, maxName) > maxName {
			return act.Invalidf("name", "A tour's name has 1 to %d characters.", maxName)
		}
		if problems := s.Problems(); len(problems) > 0 {
			return act.Invalidf(problems[0].Path, "%s", problems[0].Message)
		}
		if err := d.checkParts(ctx, tx.Queries, s); err != nil {
			return err
		}
		t.Name, t.Settings.Settings = name, s
		return nil
	})
}

// checkParts checks that the channels and pictures are the site's.
func (d Editor) checkParts(ctx context.Context, q store.Queries, s tour.Settings) error {
	channels, err := q.Channels(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	for i, id := range s.Channels {
		if slices.Index(s.Channels, id) != i || !slices.ContainsFunc(channels, func(c store.Channel) bool { return c.ID == id }) {
			return act.Invalidf(fmt.Sprintf("channels[%d]", i), "Choose the site's channels, each once.")
		}
	}
	there, err := q.KnownPictures(ctx, d.Site.ID, s.Pictures)
	if err != nil {
		return err
	}
	for i, id := range s.Pictures {
		if !slices.Contains(there, id) {
			return act.Invalidf(fmt.Sprintf("pictures[%d]", i), "There is no such picture on this site.")
		}
	}
	return nil
}

// Seen names a tour as it was seen.
type Seen struct {
	ID      int64
	Version int
}

// Launch plans all stops of tours in one act. It fails with *act.Invalid, which names the tour where there are several, the stop, the channel and what is
// wrong, where one of their messages cannot be sent like this; then none is planned.
func (d Editor) Launch(ctx context.Context, tours []Seen, now time.Time) (planned int, err error) {
	if len(tours) == 0 {
		return 0, act.Invalidf("tours", "Choose at least one tour.")
	}
	err = d.Change(ctx, func(tx *store.Tx) error {
		if len(tours) > 1 {
			if err := d.Desk.Begin(ctx, tx, fmt.Sprintf("%s were launched.", words.Count(len(tours), "tour")), now); err != nil {
				return err
			}
		}
		for _, seen := range tours {
			n, err := d.launch(ctx, tx, seen, len(tours) > 1, now)
			if err != nil {
				return err
			}
			planned += n
		}
		return nil
	})
	return planned, err
}

// launch launches one tour, of several that are launched in one act or by itself.
func (d Editor) launch(ctx context.Context, tx *store.Tx, seen Seen, several bool, now time.Time) (n int, err error) {
	err = d.changeIn(ctx, tx, seen, now, func(t *store.Tour) error {
		if t.State() != store.TourBeingMade {
			return act.Invalidf("id", "The tour “%s” is %s already.", t.Name, t.State())
		}
		t.Settings.Left = nil
		if n, err = d.plan(ctx, tx, t, several, fmt.Sprintf("The tour “%s” was launched", t.Name), now); err != nil {
			if invalid, ok := errors.AsType[*act.Invalid](err); ok && several {
				return act.Invalidf(invalid.Field, "“%s”: %s", t.Name, invalid.Message)
			}
			return err
		}
		t.LaunchedAt, t.PausedAt, t.StoppedAt = &now, nil, nil
		return nil
	})
	return n, err
}

// plan plans the stops that are still to come, as one act, or as part of one that has begun.
func (d Editor) plan(ctx context.Context, tx *store.Tx, t *store.Tour, begun bool, why string, now time.Time) (n int, err error) {
	look, err := d.look(ctx, tx.Queries, *t, true, now)
	if err != nil {
		return 0, err
	}
	if len(look.Problems) > 0 {
		return 0, d.refused(ctx, tx.Queries, look.Problems[0])
	}
	for _, s := range look.Stops {
		for _, m := range s.Messages {
			if m.Outing == nil {
				n++
			}
		}
	}
	if err := d.outings().HasRoom(ctx, tx, n); err != nil {
		return 0, err
	}
	if n > 1 && !begun {
		if err := d.Desk.Begin(ctx, tx, fmt.Sprintf("%s: %s planned.", why, words.Count(n, "message")), now); err != nil {
			return 0, err
		}
	}
	for _, s := range look.Stops {
		for _, m := range s.Messages {
			if m.Outing != nil {
				continue
			}
			if err := d.insert(ctx, tx, t, s.Stop, m, now); err != nil {
				return 0, err
			}
		}
	}
	return n, nil
}

// refused is why a tour cannot be launched.
func (d Editor) refused(ctx context.Context, q store.Queries, p Problem) error {
	if p.Stop == 0 {
		return act.Invalidf(p.Field, "%s", p.Message)
	}
	name := "a channel that is gone"
	if c, err := q.Channel(ctx, d.Site.ID, p.Channel); err == nil {
		name = c.Name
	}
	return act.Invalidf("stops."+tour.Place(p.Stop, p.Channel), "Stop %d on %s: %s", p.Stop, name, p.Message)
}

// insert plans one message, and says so in the logbook.
func (d Editor) insert(ctx context.Context, tx *store.Tx, t *store.Tour, stop tour.Stop, m Message, now time.Time) error {
	s := t.Settings
	o := store.Outing{SiteID: d.Site.ID, Channel: m.Channel, Post: t.Post, Item: store.Item{Item: itemOf(*t)}, At: m.At, Origin: store.ByTour, Actor: &d.Actor, CreatedAt: now,
		OwnText: m.Written, Wording: m.Wording, Pictures: store.IDs{}, Tour: &t.ID, Stop: &stop.N}
	o.Extras.Hashtags, o.Extras.Short, o.Extras.Picture, o.Extras.Line, o.Extras.Hold = s.Hashtags, s.Short, s.Picture, stop.Line, s.Hold
	if m.picture != 0 {
		o.Pictures = store.IDs{m.picture}
	}
	_, err := d.outings().Insert(ctx, tx, o, fmt.Sprintf("Stop %d of the tour “%s” was planned for ", stop.N, t.Name), now)
	return err
}

// outings is the same person as somebody who plans outings. It is asked for once an act has begun.
func (d Editor) outings() outings.Editor { return outings.Editor(d) }

// Pause takes the stops that are still to come out of the plan; what went out stays. The tour can be resumed.
func (d Editor) Pause(ctx context.Context, id int64, version int, now time.Time) error {
	return d.change(ctx, id, version, now, func(tx *store.Tx, t *store.Tour) error {
		if t.State() != store.TourRunning {
			return act.Invalidf("id", "Only a tour that runs can be paused; this one is %s.", t.State())
		}
		t.PausedAt = &now
		return d.take(ctx, tx, t, "paused", now)
	})
}

// End takes the stops that are still to come out of the plan for good.
func (d Editor) End(ctx context.Context, id int64, version int, now time.Time) error {
	return d.change(ctx, id, version, now, func(tx *store.Tx, t *store.Tour) error {
		if state := t.State(); state != store.TourRunning && state != store.TourPaused {
			return act.Invalidf("id", "Only a tour that runs or is paused can be ended; this one is %s.", state)
		}
		t.PausedAt, t.StoppedAt = nil, &now
		return d.take(ctx, tx, t, "ended", now)
	})
}

// take takes the messages of a tour that wait for their time out of the plan, as one act.
func (d Editor) take(ctx context.Context, tx *store.Tx, t *store.Tour, what string, now time.Time) error {
	waiting, err := tx.LockStops(ctx, d.Site.ID, t.ID)
	if err != nil {
		return err
	}
	if len(waiting) > 1 {
		if err := d.Desk.Begin(ctx, tx, fmt.Sprintf("The tour “%s” was %s: %s taken out of the plan.", t.Name, what, words.Count(len(waiting), "message")), now); err != nil {
			return err
		}
	}
	for _, o := range waiting {
		if err := tx.DropPlanned(ctx, d.Site.ID, o.ID); err != nil {
			return err
		}
		if err := d.outings().Note(ctx, tx, o, fmt.Sprintf("The tour “%s” was %s; stop %d would have gone out on ", t.Name, what, *o.Stop), &o, nil, now); err != nil {
			return err
		}
	}
	return nil
}

// How says what becomes of stops whose time passed while a tour was paused.
type How string

// The ways to resume a tour.
const (
	Shift How = "shift" // all that is to come moves on by as many days as the first of it is late
	Skip  How = "skip"  // they are left out, and what is to come keeps its times
)

// Resumed are a tour's settings as they would be on being resumed, from which Look tells what that means.
func (d Editor) Resumed(ctx context.Context, q store.Queries, t store.Tour, how How, now time.Time) (tour.Settings, error) {
	s := t.Settings.Settings
	kept, err := q.StopsOf(ctx, d.Site.ID, t.ID)
	if err != nil {
		return s, err
	}
	served := make(map[int]bool)
	for _, o := range kept {
		served[*o.Stop] = true
	}
	s.Left, s.Moved = slices.Clone(s.Left), copied(s.Moved)
	zone := d.Site.Zone()
	var rest []tour.Stop
	for _, stop := range s.Stops(zone, uint64(t.Seed)) {
		if !served[stop.N] && !slices.Contains(s.Left, stop.N) && !stop.At.IsZero() {
			rest = append(rest, stop)
		}
	}
	switch how {
	case Skip:
		for _, stop := range rest {
			if !stop.At.After(now) {
				s.Left = append(s.Left, stop.N)
			}
		}
	case Shift:
		if len(rest) == 0 {
			break
		}
		first := rest[0].At
		for _, stop := range rest {
			if stop.At.Before(first) {
				first = stop.At
			}
		}
		days := max(zone.DateOf(now).Sub(zone.DateOf(first)), 0)
		if !zone.AddDays(first, days).After(now) {
			days++
		}
		for _, stop := range rest {
			if days > 0 {
				s.Moved[stop.N] = zone.AddDays(stop.At, days)
			}
		}
	default:
		return s, act.Invalidf("how", "Say shift or skip; not %q.", how)
	}
	return s, nil
}

func copied(moved map[int]time.Time) map[int]time.Time {
	all := make(map[int]time.Time, len(moved))
	for n, at := range moved {
		all[n] = at
	}
	return all
}

// Resume plans the stops of a paused tour that are still to come.
func (d Editor) Resume(ctx context.Context, id int64, version int, how How, now time.Time) (planned int, err error) {
	err = d.change(ctx, id, version, now, func(tx *store.Tx, t *store.Tour) error {
		if t.State() != store.TourPaused {
			return act.Invalidf("id", "Only a paused tour can be resumed; this one is %s.", t.State())
		}
		if t.Settings.Settings, err = d.Resumed(ctx, tx.Queries, *t, how, now); err != nil {
			return err
		}
		t.PausedAt = nil
		planned, err = d.plan(ctx, tx, t, false, fmt.Sprintf("The tour “%s” was resumed", t.Name), now)
		return err
	})
	return planned, err
}

// Delete deletes a tour that does not run. What it sent stays.
func (d Editor) Delete(ctx context.Context, id int64, version int) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		t, err := tx.LockTour(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		switch {
		case t.Version != version:
			return act.ErrStale
		case t.State() == store.TourRunning:
			return act.Invalidf("id", "The tour runs. End it first.")
		}
		return tx.DeleteTour(ctx, d.Site.ID, id)
	})
}
