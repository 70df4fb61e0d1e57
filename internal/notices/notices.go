// Package notices is about what people are told before a rule acts on a post, and what they answer: an author keeps a post
// a while longer that is about to expire, an editor says that one may come out again.
//
// Who is told of what, and when, core decides. The package has no clock.
package notices

import (
	"context"
	"errors"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/store"
)

// MaxKept is for how long a post may be kept at once, in days.
const MaxKept = 3660

// Keep keeps rules, and the post's own expiry, from taking a post away before a moment; the zero time lets them
// again. Whoever was told that it is about to expire is told anew before it does. It fails with act.ErrStale where the post
// is not in the version that was seen any more, and with *act.Invalid for a moment that is not to come or too far ahead.
func Keep(ctx context.Context, d act.Desk, id int64, version int, until, now time.Time) error {
	switch {
	case until.IsZero():
	case !until.After(now):
		return act.Invalidf("until", "That is over already. Choose a later date.")
	case until.After(now.AddDate(0, 0, MaxKept)):
		return act.Invalidf("until", "A post is kept for at most ten years at a time. Mark it as never expiring instead.")
	}
	return d.ChangePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		reason := "It may expire again."
		if p.KeptUntil = nil; !until.IsZero() {
			p.KeptUntil = &until
			zone := d.Site.Zone()
			reason = "It is kept until " + zone.DateWords(until, now) + ": no rule makes it expire before."
		}
		if err := tx.SaveCare(ctx, p, now); err != nil {
			return fmt.Errorf("keeping post %d: %w", id, err)
		}
		if err := tx.ForgetNotices(ctx, d.Site.ID, id); err != nil {
			return err
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUpkeep, Post: &id, Reason: reason})
	})
}

// Confirm says that a post may come out again by a rule that asked for it to be read first. It fails with *act.Invalid where
// the rule does not ask.
func Confirm(ctx context.Context, d act.Desk, rule, id int64, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		r, err := tx.Rule(ctx, d.Site.ID, rule)
		if err != nil {
			return err
		}
		if _, err := tx.LockPost(ctx, d.Site.ID, id); err != nil {
			return err
		}
		err = tx.MarkRead(ctx, d.Site.ID, rule, id, d.Actor, now)
		if errors.Is(err, store.ErrNotFound) || err == nil && r.Kind != store.Republish {
			return act.Invalidf("rule", "The rule “%s” does not wait for this post to be read.", r.Name)
		}
		if err != nil {
			return fmt.Errorf("noting that post %d was read: %w", id, err)
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUpkeep, Post: &id, Rule: &rule,
			Reason: fmt.Sprintf("Looked through: it may come out again by the rule “%s”.", r.Name)})
	})
}

// Wish is what a post itself says of what readers get once it is archived.
type Wish string

// The wishes.
const (
	AsTheRule Wish = "" // as the rule says that archives it
	KeepPage  Wish = "page"
	Redirect  Wish = "redirect"
	SayGone   Wish = "gone"
)

// SetAnswer says what readers get of a post once it is archived, or at once where it is. It fails with *act.Invalid for a
// post that leads to itself, and to one that is not on the site.
func SetAnswer(ctx context.Context, d act.Desk, id int64, version int, wish Wish, leadsTo int64, now time.Time) error {
	return d.ChangePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		p.OwnAnswer, p.OwnLeadsTo = nil, 0
		switch wish {
		case AsTheRule:
		case KeepPage, SayGone, Redirect:
			text := string(wish)
			p.OwnAnswer = &text
		default:
			return act.Invalidf("answer", "Readers get the page, another post (redirect) or word that it is gone (gone); not %q.", wish)
		}
		if wish == Redirect {
			to, err := tx.Queries.Post(ctx, d.Site.ID, leadsTo)
			if errors.Is(err, store.ErrNotFound) || leadsTo == id || err == nil && to.Status != store.Published {
				return act.Invalidf("leadsTo", "Choose another post that is out, for readers to be sent on to.")
			}
			if err != nil {
				return err
			}
			p.OwnLeadsTo = store.ID(leadsTo)
		}
		if err := tx.SaveCare(ctx, p, now); err != nil {
			return fmt.Errorf("changing post %d: %w", id, err)
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUpkeep, Post: &id, Reason: "What readers get of it once it is archived was changed."})
	})
}
