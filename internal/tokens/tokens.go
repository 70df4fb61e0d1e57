// Package tokens opens the tokens with which a blog's channels are spoken to, and renews those that have ended, once by however many
// processes that want them at the same time.
package tokens

import (
	"context"
	"net/http"
	"time"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/channel"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// Keeper opens and renews tokens.
type Keeper struct {
	Store  *store.Store
	Clock  clockwork.Clock
	Box    *secrets.Box
	Client *http.Client // reaches addresses that people entered
}

// soon is how long before its end a token is renewed.
const soon = time.Minute

// MostRenewals is how often one deed may get new tokens where the receiver does not take those that it has: another process may have
// got ones that have ended since.
const MostRenewals = 2

// Of is the token of a channel, and the channel with the tokens that it has now. One that ends, or that was refused, is renewed. It
// fails with *channel.SignedOut where somebody has to sign in again.
func (k Keeper) Of(ctx context.Context, c store.Channel, refused bool) (string, store.Channel, error) {
	ends := c.TokenEnds != nil && c.TokenEnds.Sub(k.Clock.Now()) < soon
	if ends && c.Refresh != "" || refused {
		renewed, err := k.renew(ctx, c)
		if err != nil {
			return "", c, err
		}
		c = renewed
	}
	token, err := k.Box.Open(c.Token)
	if err != nil {
		return "", c, &channel.SignedOut{Reason: "its token can’t be read: " + err.Error()}
	}
	return token, c, nil
}

// renew gets a channel, and its copies on other blogs, new tokens, unless somebody else has just done so.
func (k Keeper) renew(ctx context.Context, seen store.Channel) (c store.Channel, err error) {
	err = k.Store.InTx(ctx, func(tx *store.Tx) error {
		if c, err = tx.LockAccount(ctx, seen.SiteID, seen.ID); err != nil || c.Token != seen.Token {
			return err
		}
		refresh, err := k.Box.Open(c.Refresh)
		if err != nil {
			return &channel.SignedOut{Reason: "its token can’t be read: " + err.Error()}
		}
		tokens, err := channel.Renew(ctx, c.Kind, c.Address, c.Home, k.Client, refresh)
		if err != nil {
			return err
		}
		before := c.Refresh
		if c.Token = k.Box.Seal(tokens.Access); tokens.Refresh != "" {
			c.Refresh = k.Box.Seal(tokens.Refresh)
		}
		c.TokenEnds = nil
		if !tokens.Ends.IsZero() {
			c.TokenEnds = &tokens.Ends
		}
		return tx.RenewAccount(ctx, c, before)
	})
	return c, err
}
