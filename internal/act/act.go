// Package act is the one way in which people change a blog.
//
// What an editor is about to do is shown first, as a proposal with a token that stands for
// exactly what was shown. It is committed by that token: in one transaction that holds the
// site's lock the proposal is worked out again, and where it is another one by now, nothing
// is done and the new one is returned. What is done is an act of the logbook with its
// lines, and undone as one.
package act

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"dapper.example/internal/store"
)

// ErrStale says that somebody changed what an editor was about to change.
var ErrStale = errors.New("somebody changed this meanwhile")

// Invalid says what is wrong with a request: the field and what to do about it.
type Invalid struct {
	Field   string
	Message string
}

// Error returns the sentence for the editor.
func (e *Invalid) Error() string { return e.Message }

// Invalidf is an Invalid with a message that is put together.
func Invalidf(field, format string, args ...any) *Invalid {
	return &Invalid{field, fmt.Sprintf(format, args...)}
}

// asSoonAsPossible is a moment that has passed for every clock.
var asSoonAsPossible = time.Unix(0, 0).UTC()

// Change runs work in a transaction that holds the site's lock, and has the engine ask
// anew about the site's rules afterwards.
func Change(ctx context.Context, s *store.Store, site store.Site, work func(*store.Tx) error) error {
	return s.InTx(ctx, func(tx *store.Tx) error {
		if err := tx.LockSite(ctx, site.ID); err != nil {
			return fmt.Errorf("locking the plan of %s: %w", site.Slug, err)
		}
		if err := work(tx); err != nil {
			return err
		}
		// Rules keep the gap from the plan, so their turns may be others now.
		return tx.Ask(ctx, site.ID, asSoonAsPossible)
	})
}

// Proposed is what an editor is shown before it is done.
type Proposed interface {
	// Token stands for exactly this proposal: whatever would make a difference to the editor
	// makes another token.
	Token() string
}

// TokenOf makes a token of what distinguishes a proposal, which must be plain values.
func TokenOf(parts ...any) string {
	raw, err := json.Marshal(parts)
	if err != nil {
		panic(err) // plain values always marshal
	}
	sum := sha256.Sum256(raw)
	return hex.EncodeToString(sum[:12])
}

// Outdated says that things have changed since a proposal was shown, and holds the one of
// now. Nothing was done.
type Outdated[P Proposed] struct{ Now P }

// Error tells the editor what happened.
func (e *Outdated[P]) Error() string {
	return "This has changed since it was shown. Nothing was done; look at it as it is now."
}

// Seen returns a proposal if the token is its own, and fails with *Outdated otherwise.
func Seen[P Proposed](p P, token string) (P, error) {
	if p.Token() != token {
		return p, &Outdated[P]{p}
	}
	return p, nil
}
