// Package webhooks tells other programs what happens on a blog, signed by the Standard Webhooks specification. What is
// told is noted by the database in the transaction in which it happens; a Sender sends it.
//
// It has no clock of its own.
package webhooks

import (
	"context"
	"crypto/rand"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/signed"
	"dapper.example/internal/reach"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// Event is something that a webhook may be told.
type Event struct{ Name, About string }

// Events lists all that there are.
var Events = []Event{
	{"post.published", "A post came out."},
	{"post.republished", "A post came out again, with a new date."},
	{"post.changed", "The text of a post that is out was changed. Changes within a minute are told once."},
	{"post.expired", "A rule, or the post's own expiry date, took a post away."},
	{"post.removed", "Somebody archived a post, or put it back to the drafts or into the bin."},
	{"plan.changed", "The plan was changed: posts were scheduled, moved, held or let go, or the rhythm is another. Told once for each act."},
	{"rule.held", "A rule stopped and needs your decision."},
	{"outing.due", "A message is on its way to its channel."},
	{"outing.sent", "A message was taken by its channel."},
	{"outing.failed", "A message could not be sent."},
}

// Editor is somebody who looks after the webhooks of one site.
type Editor struct {
	act.Desk
	Box     *secrets.Box
	Allowed reach.Allowed
}

const (
	maxName  = 60
	maxHooks = 20 // of one site
	// overlap is how long an old secret signs beside a new one.
	overlap = 24 * time.Hour
)

// Add adds a webhook, and returns its id and its secret, which is told only now.
func (d Editor) Add(ctx context.Context, w store.Webhook, now time.Time) (id int64, secret string, err error) {
	if err := d.check(&w); err != nil {
		return 0, "", err
	}
	secret = newSecret()
	w.SiteID, w.Secret, w.CreatedAt = d.Site.ID, d.Box.Seal(secret), now
	err = d.Change(ctx, func(tx *store.Tx) error {
		all, err := tx.Webhooks(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if len(all) >= maxHooks {
			return act.Invalidf("name", "A blog has %d webhooks at most. Delete one first.", maxHooks)
		}
		if id, err = tx.InsertWebhook(ctx, w); err != nil {
			return fmt.Errorf("adding a webhook: %w", err)
		}
		return d.log(ctx, tx, fmt.Sprintf("The webhook “%s” was added.", w.Name), now)
	})
	return id, secret, err
}

func newSecret() string {
	var random [signed.SecretSize]byte
	rand.Read(random[:])
	return signed.NewSecret(random)
}

func (d Editor) check(w *store.Webhook) error {
	w.Name, w.Address = strings.TrimSpace(w.Name), strings.TrimSpace(w.Address)
	if w.Name == "" || letters.Length(w.Name, maxName) > maxName {
		return act.Invalidf("name", "Give the webhook a name of 1 to %d characters.", maxName)
	}
	if problem := d.Allowed.Check(w.Address); problem != "" {
		return act.Invalidf("address", "%s", problem)
	}
	if len(w.Events) == 0 {
		return act.Invalidf("events", "Choose at least one event.")
	}
	slices.Sort(w.Events)
	w.Events = slices.Compact(w.Events)
	for _, name := range w.Events {
		if !IsEvent(name) {
			return act.Invalidf("events", "There is no event “%s”.", name)
		}
	}
	return nil
}

// IsEvent tells whether there is an event of a name.
func IsEvent(name string) bool {
	return slices.ContainsFunc(Events, func(e Event) bool { return e.Name == name })
}

// changeOne does work on a webhook, which must still have the version that was seen.
func (d Editor) changeOne(ctx context.Context, id int64, version int, work func(*store.Tx, store.Webhook) error) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		w, err := tx.LockWebhook(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if w.Version != version {
			return act.ErrStale
		}
		return work(tx, w)
	})
}

// Save changes a webhook's name, address and events, and whether it is on. One that is turned on again is told what
// happens from then on.
func (d Editor) Save(ctx context.Context, to store.Webhook, on bool, now time.Time) error {
	return d.changeOne(ctx, to.ID, to.Version, func(tx *store.Tx, w store.Webhook) error {
		if err := d.check(&to); err != nil {
			return err
		}
		w.Name, w.Address, w.Events = to.Name, to.Address, to.Events
		what := fmt.Sprintf("The webhook “%s” was changed.", w.Name)
		switch {
		case on && w.OffAt != nil:
			w.OffAt, w.OffWhy, w.FailingSince = nil, "", nil
			what = fmt.Sprintf("The webhook “%s” was turned on.", w.Name)
		case !on && w.OffAt == nil:
			w.OffAt, w.OffWhy = &now, "Turned off by hand."
			what = fmt.Sprintf("The webhook “%s” was turned off.", w.Name)
			if err := tx.GiveUpHook(ctx, d.Site.ID, w.ID, w.OffWhy); err != nil {
				return err
			}
		}
		if err := tx.SaveWebhook(ctx, w); err != nil {
			return err
		}
		return d.log(ctx, tx, what, now)
	})
}

// Rotate gives a webhook a new secret, which is told only now. The old one signs too for a day.
func (d Editor) Rotate(ctx context.Context, id int64, version int, now time.Time) (secret string, err error) {
	secret = newSecret()
	return secret, d.changeOne(ctx, id, version, func(tx *store.Tx, w store.Webhook) error {
		ends := now.Add(overlap)
		w.OldSecret, w.OldEnds, w.Secret = w.Secret, &ends, d.Box.Seal(secret)
		if err := tx.SaveWebhook(ctx, w); err != nil {
			return err
		}
		return d.log(ctx, tx, fmt.Sprintf("The webhook “%s” has a new secret; the old one signs too for a day.", w.Name), now)
	})
}

// Delete deletes a webhook with the list of what it was told.
func (d Editor) Delete(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changeOne(ctx, id, version, func(tx *store.Tx, w store.Webhook) error {
		if err := tx.DeleteWebhook(ctx, d.Site.ID, id); err != nil {
			return err
		}
		return d.log(ctx, tx, fmt.Sprintf("The webhook “%s” was deleted.", w.Name), now)
	})
}

func (d Editor) log(ctx context.Context, tx *store.Tx, what string, now time.Time) error {
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedChannel, Reason: what})
}
