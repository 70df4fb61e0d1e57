// Package letters keeps the mailing lists of a blog: people ask for its messages, confirm that by a mail, and end it in
// one click.
//
// It has no clock: callers say what time it is.
package letters

import (
	"context"
	"errors"
	"net/mail"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// Asker queues the mail in which somebody is asked to confirm.
type Asker interface {
	AskSubscriber(ctx context.Context, tx *store.Tx, subscriber int64) error
}

const (
	// askedAgain is after how long somebody who has not confirmed may be asked once more.
	askedAgain = 10 * time.Minute
	// Confirmable is for how long they may confirm.
	Confirmable = 7 * 24 * time.Hour
	maxEmail    = 254 // RFC 5321, section 4.5.3.1.3
)

// Path is where, on a blog, one asks for its mails; behind it stands the token by which one confirms and ends it.
const Path = "-/letters"

// Address reads an address that a mail can go to (RFC 5321), in one form; ok is false where it is none.
func Address(text string) (address string, ok bool) {
	text = strings.TrimSpace(text)
	a, err := mail.ParseAddress(text)
	if err != nil || a.Address != text || len(text) > maxEmail || strings.ContainsAny(text, "\r\n\t ") {
		return "", false
	}
	local, host, _ := strings.Cut(text, "@")
	if len(local) > 64 || !strings.Contains(host, ".") {
		return "", false
	}
	return local + "@" + strings.ToLower(host), true
}

// Ask notes that somebody asked for the messages of a mailing list, and has them asked to confirm it. Whoever gets them
// already, or was asked a moment ago, is sent nothing; what is answered is the same, so that nobody learns who reads what. It
// fails with *act.Invalid where the address is none, or there is no such list.
func Ask(ctx context.Context, s *store.Store, asker Asker, c store.Channel, email string, now time.Time) error {
	address, ok := Address(email)
	if !ok {
		return act.Invalidf("email", "Enter a mail address, such as tam@walkers.example.")
	}
	if c.Kind != channel.Mail {
		return act.Invalidf("channel", "There is no such mailing list.")
	}
	return s.InTx(ctx, func(tx *store.Tx) error {
		token, _ := secrets.New()
		id, err := tx.AskSubscriber(ctx, store.Subscriber{SiteID: c.SiteID, Channel: c.ID, Email: address, Token: token, AskedAt: now}, now.Add(-askedAgain))
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		if err != nil {
			return err
		}
		return asker.AskSubscriber(ctx, tx, id)
	})
}

// Confirm has whoever has a token get messages; it tells whether they could still confirm.
func Confirm(ctx context.Context, q store.Queries, s store.Subscriber, now time.Time) (bool, error) {
	switch s.State {
	case "on":
		return true, nil
	case "asked":
		if now.Sub(s.AskedAt) > Confirmable {
			return false, nil
		}
		return true, q.ConfirmSubscriber(ctx, s.ID, now)
	}
	return false, nil
}
