package outings

import (
	"context"
	"errors"
	"fmt"
	"time"
	"unicode/utf8"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/signed"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// Settlement is what became of a message that was handed to somebody outside.
type Settlement struct {
	Sent bool
	URL  string // where it can be read; may be ""
	Why  string // why it was not sent; may be ""
}

// maxWhy is in letters as readers count them, in Unicode's code points.
const maxWhy = 500

func (s Settlement) check() error {
	if s.URL != "" {
		if err := checkItem(deed.Item{Link: s.URL}); err != nil {
			return act.Invalidf("url", "Enter a link that begins with https:// or http://, or leave it empty.")
		}
	}
	if utf8.RuneCountInString(s.Why) > maxWhy {
		return act.Invalidf("why", "Say it in at most %d characters.", maxWhy)
	}
	return nil
}

// Settle notes what became of a message that was handed to somebody outside: an editor says so.
func (d Editor) Settle(ctx context.Context, id int64, s Settlement, now time.Time) error {
	if err := s.check(); err != nil {
		return err
	}
	o, err := d.Store.Outing(ctx, id)
	if err != nil {
		return err
	}
	if o.SiteID != d.Site.ID {
		return store.ErrNotFound
	}
	if o.HandedAt != nil {
		err = settle(ctx, d.Store, id, s, &d.Actor, now)
	}
	if o.HandedAt == nil || errors.Is(err, store.ErrNotFound) {
		return act.Invalidf("id", "This message does not wait for anybody any more. Look again.")
	}
	return err
}

// settle fails with store.ErrNotFound where the message does not wait for anybody any more.
func settle(ctx context.Context, all *store.Store, id int64, s Settlement, by *int64, now time.Time) error {
	return all.InTx(ctx, func(tx *store.Tx) error {
		o, err := tx.LockWaiting(ctx, id)
		if err != nil {
			return err
		}
		line := store.LogEntry{SiteID: o.SiteID, At: now, Actor: by, Deed: store.DeedDelivery, Post: o.Post.Pointer(), Rule: o.Rule, Outing: &o.ID}
		if s.Sent {
			if err := tx.MarkSent(ctx, []store.Arrived{{ID: o.ID, RemoteID: o.Key, RemoteURL: s.URL}}, now); err != nil {
				return err
			}
			line.Reason = fmt.Sprintf("The message on %s was sent by hand.", o.Network)
			return tx.Log(ctx, line)
		}
		why := s.Why
		if why == "" {
			why = "no reason was given"
		}
		if err := tx.MarkTried(ctx, o.ID, why, true); err != nil {
			return err
		}
		line.Reason = fmt.Sprintf("The message on %s was not sent: %s.", o.Network, why)
		return tx.Log(ctx, line)
	})
}

// ErrNotTheirs says that a call back is not from whom the message was handed to.
var ErrNotTheirs = errors.New("no message was handed on with that key and secret")

// SettleSigned is Settle by whom the message was handed to, in a call signed with the secret of its channel. The same
// word twice is no harm. It fails with ErrNotTheirs, signed.ErrStale or *act.Invalid.
func SettleSigned(ctx context.Context, all *store.Store, box *secrets.Box, key string, said Settlement, m signed.Message, now time.Time) error {
	o, err := all.OutingByKey(ctx, key)
	if errors.Is(err, store.ErrNotFound) {
		return ErrNotTheirs
	}
	if err != nil {
		return err
	}
	c, err := all.Channel(ctx, o.SiteID, o.Channel)
	if err != nil {
		return err
	}
	if c.Kind != channel.Hands {
		return ErrNotTheirs
	}
	secret, err := box.Open(c.Token)
	if err != nil {
		return err
	}
	switch err := m.Verify([]string{secret}, now); {
	case errors.Is(err, signed.ErrStale):
		return err
	case err != nil:
		return ErrNotTheirs
	}
	if err := said.check(); err != nil {
		return err
	}
	err = settle(ctx, all, o.ID, said, nil, now)
	if !errors.Is(err, store.ErrNotFound) {
		return err
	}
	if o, err = all.OutingByKey(ctx, key); err != nil {
		return err
	}
	if o.State == store.Sent && said.Sent || o.State == store.Failed && !said.Sent {
		return nil
	}
	return act.Invalidf("state", "The message is %s already.", o.State)
}
