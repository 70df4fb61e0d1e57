package channels

import (
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/store"
)

// Copied is what became of a copy.
type Copied struct {
	Channel int64
	Rules   int
}

// Copy connects the account of a channel to another site too, with what was set for it, and with its rules
// where they are wanted: those are turned off there until an editor has looked at them.
func (d Editor) Copy(ctx context.Context, id int64, to store.Site, withRules bool, now time.Time) (done Copied, err error) {
	if to.ID == d.Site.ID {
		return done, act.Invalidf("site", "Choose another blog.")
	}
	there := act.Desk{Store: d.Store, Site: to, Actor: d.Actor}
	err = there.Change(ctx, func(tx *store.Tx) error {
		c, err := tx.Channel(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		all, err := tx.Channels(ctx, to.ID)
		if err != nil {
			return err
		}
		if slices.ContainsFunc(all, func(other store.Channel) bool { return other.Kind == c.Kind && other.Handle == c.Handle }) {
			return act.Invalidf("site", "“%s” has @%s already.", to.Title, c.Handle)
		}
		if len(all) >= maxChannels {
			return act.Invalidf("site", "“%s” has %d channels, the most a blog may have.", to.Title, maxChannels)
		}
		c.SiteID, c.PausedAt = to.ID, nil
		if slices.ContainsFunc(all, func(other store.Channel) bool { return other.Name == c.Name }) {
			c.Name = freeName(c.Name, c.Handle, all)
		}
		if done.Channel, err = tx.InsertChannel(ctx, c); err != nil {
			return err
		}
		if withRules {
			if done.Rules, err = d.copyRules(ctx, tx, id, done.Channel, to, now); err != nil {
				return err
			}
		}
		return there.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedChannel,
			Reason: fmt.Sprintf("%s was copied from “%s”, with %d of its rules; they are off.", c.Name, d.Site.Title, done.Rules)})
	})
	return done, err
}

// copyRules copies the rules that use a channel, turned off, with the new channel alone.
func (d Editor) copyRules(ctx context.Context, tx *store.Tx, from, into int64, to store.Site, now time.Time) (int, error) {
	rules, err := tx.Rules(ctx, d.Site.ID)
	if err != nil {
		return 0, err
	}
	present, err := tx.Rules(ctx, to.ID)
	if err != nil {
		return 0, err
	}
	position := 0
	for _, r := range present {
		position = max(position, r.Position+1)
	}
	n := 0
	for _, r := range rules {
		if !slices.Contains(r.Settings.Channels, from) {
			continue
		}
		own := r.Settings.ByChannel[from]
		r.SiteID, r.ID, r.Position, r.Seed, r.CreatedAt = to.ID, 0, position+n, act.NewSeed(), now
		r.ArmedAt, r.ServedAt, r.HeldAt, r.HeldWhy, r.Allowed = nil, nil, nil, "", 0
		r.Settings.Channels, r.Settings.ByChannel, r.Settings.Picked = []int64{into}, nil, false
		r.Settings.Picture.ID = 0
		if own != nil {
			r.Settings.ByChannel = map[int64][]string{into: own}
		}
		if _, err := tx.InsertRule(ctx, r); err != nil {
			return n, err
		}
		n++
	}
	return n, nil
}
