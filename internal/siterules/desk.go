package siterules

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/words"
	"dapper.example/internal/enact"
	"dapper.example/internal/store"
)

// Editor is somebody who works on the rules of one site.
type Editor struct {
	act.Desk
	Public string       // as a Book's
	Queue  enact.Sharer // for what a rule that is run by hand hands over
}

// Book is the rules as the editor sees them.
func (d Editor) Book() Book { return Book{Site: d.Site, Public: d.Public} }

// log writes a line of the editor's, with what was changed from what to what; nil is nothing.
func (d Editor) log(ctx context.Context, tx *store.Tx, line store.LogEntry, before, after any) error {
	line.Before, line.After = act.JSON(before), act.JSON(after)
	return d.Log(ctx, tx, line)
}

// Create adds a rule, not armed, and returns its id. Check it with Problems first.
func (d Editor) Create(ctx context.Context, r store.Rule, now time.Time) (id int64, err error) {
	err = d.Change(ctx, func(tx *store.Tx) error {
		rules, err := tx.Rules(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		for _, other := range rules {
			r.Position = max(r.Position, other.Position+1)
		}
		r.SiteID, r.CreatedAt, r.ArmedAt, r.ServedAt, r.HeldAt = d.Site.ID, now, nil, nil, nil
		if id, err = tx.InsertRule(ctx, r); err != nil {
			return fmt.Errorf("adding the rule “%s”: %w", r.Name, err)
		}
		made, err := tx.Rule(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		return d.log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedRule, Rule: &id,
			Reason: fmt.Sprintf("The rule “%s” was created.", r.Name)}, nil, made)
	})
	return id, err
}

// changeRule is change for one rule, which must still have the version that was seen.
func (d Editor) changeRule(ctx context.Context, id int64, version int, work func(*store.Tx, store.Rule) error) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		r, err := tx.Rule(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if r.Version != version {
			return act.ErrStale
		}
		return work(tx, r)
	})
}

// Save writes a rule over the version that was seen; check it with Problems first. An
// expiry rule whose condition or action changes is not armed any more: its catch is
// another.
func (d Editor) Save(ctx context.Context, r store.Rule, now time.Time) error {
	return d.changeRule(ctx, r.ID, r.Version, func(tx *store.Tx, kept store.Rule) error {
		reason := fmt.Sprintf("The rule “%s” was changed.", r.Name)
		r, disarmed := ChangedRule(kept, r, now)
		if disarmed {
			reason += " It takes other posts or does something else now, so it is off until you turn it on again."
		}
		if err := tx.SaveRule(ctx, r, now); err != nil {
			return fmt.Errorf("saving the rule “%s”: %w", r.Name, err)
		}
		return d.log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedRule, Rule: &r.ID, Reason: reason}, kept, r)
	})
}

// Delete deletes a rule. What it did stays done; the deletion can be undone by its line
// of the logbook.
func (d Editor) Delete(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changeRule(ctx, id, version, func(tx *store.Tx, r store.Rule) error {
		if err := tx.DeleteRule(ctx, d.Site.ID, id, now); err != nil {
			return err
		}
		return d.log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedRule, Rule: &id,
			Reason: fmt.Sprintf("The rule “%s” was deleted. What it did stays as it is.", r.Name)}, r, nil)
	})
}

// Agreement is what an editor agrees to by arming a rule or running it: the catch that
// was shown, and of a wide one its size, written by hand.
type Agreement struct {
	Token   string
	Confirm int
}

// agreed checks the agreement against the rule's catch as it is now, in the transaction.
func (d Editor) agreed(ctx context.Context, tx *store.Tx, r store.Rule, a Agreement, now time.Time) (Preview, error) {
	p, err := d.Book().Preview(ctx, tx.Queries, r, PreviewPage{Limit: previewShown}, now)
	if err != nil {
		return p, err
	}
	if !p.Guarded {
		return p, nil
	}
	if _, err := act.Seen(p, a.Token); err != nil {
		return p, err
	}
	switch {
	case p.All:
		return p, act.Invalidf("condition",
			"This rule matches all %d published posts of the blog. Narrow its condition.", p.Published)
	case p.ForGood && a.Confirm != p.Count:
		return p, act.Invalidf("confirm",
			"This deletes %s for good, which can’t be undone. Type %d to confirm.", words.Count(p.Count, "post"), p.Count)
	case p.Wide && a.Confirm != p.Count:
		return p, act.Invalidf("confirm",
			"This rule would affect %d of %d published posts, more than a fifth. Type %d to confirm.", p.Count, p.Published, p.Count)
	}
	return p, nil
}

// previewShown is how many posts of a catch are shown at once.
const previewShown = 50

// Arm puts a rule into action, or lets one that holds go on. An expiry rule takes its
// catch as the editor saw it, or fails with *act.Outdated.
func (d Editor) Arm(ctx context.Context, id int64, version int, a Agreement, now time.Time) error {
	return d.changeRule(ctx, id, version, func(tx *store.Tx, r store.Rule) error {
		p, err := d.agreed(ctx, tx, r, a, now)
		if err != nil {
			return err
		}
		reason := fmt.Sprintf("The rule “%s” was turned on; it matches %d.", r.Name, p.Count)
		if r.ArmedAt == nil {
			r.ArmedAt = &now
		} else {
			reason = fmt.Sprintf("The rule “%s” was resumed; it matches %d.", r.Name, p.Count)
		}
		r.ServedAt, r.HeldAt, r.HeldWhy = &now, nil, ""
		if p.Guarded {
			r.Allowed = p.Count
		}
		if err := tx.SaveRule(ctx, r, now); err != nil {
			return fmt.Errorf("arming the rule “%s”: %w", r.Name, err)
		}
		return d.log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedArm, Rule: &id, Reason: reason}, nil, nil)
	})
}

// Disarm puts a rule out of action.
func (d Editor) Disarm(ctx context.Context, id int64, version int, now time.Time) error {
	return d.changeRule(ctx, id, version, func(tx *store.Tx, r store.Rule) error {
		r.ArmedAt, r.HeldAt, r.HeldWhy, r.Allowed = nil, nil, "", 0
		if err := tx.SaveRule(ctx, r, now); err != nil {
			return err
		}
		return d.log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedDisarm, Rule: &id,
			Reason: fmt.Sprintf("The rule “%s” was turned off.", r.Name)}, nil, nil)
	})
}

// Run has an expiry rule take its catch now, as the editor saw it, whether it is armed
// or not, and returns how many posts it took.
func (d Editor) Run(ctx context.Context, id int64, version int, a Agreement, now time.Time) (took int, err error) {
	err = d.changeRule(ctx, id, version, func(tx *store.Tx, r store.Rule) error {
		p, err := d.agreed(ctx, tx, r, a, now)
		if err != nil {
			return err
		}
		if !p.Guarded {
			return act.Invalidf("kind", "Only an expiry rule is run by hand.")
		}
		f, err := d.Book().Frame(ctx, tx.Queries, now, nil)
		if err != nil {
			return err
		}
		if err := f.AddCandidates(ctx, tx.Queries, d.Site.ID, id, now); err != nil {
			return err
		}
		decision := deed.NewWorld(f.Scene).RunNow(id, p.Count, deed.Minute(now))
		done, err := enact.Doer{Site: d.Site.ID, Queue: d.Queue, Now: now, Actor: &d.Actor}.Do(ctx, tx, r, decision)
		took = len(done)
		return err
	})
	return took, err
}

// Pick picks a post for a rule that shares only picked ones, or takes it back.
func (d Editor) Pick(ctx context.Context, id, post int64, in bool, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		r, err := tx.Rule(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		p, err := tx.Post(ctx, d.Site.ID, post)
		if err != nil {
			return err
		}
		if err := tx.Pick(ctx, d.Site.ID, id, []int64{post}, in); err != nil {
			return err
		}
		reason := fmt.Sprintf("“%s” was picked for the rule “%s”.", p.Title, r.Name)
		if !in {
			reason = fmt.Sprintf("“%s” is no longer picked for the rule “%s”.", p.Title, r.Name)
		}
		return d.log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedExclude, Rule: &id, Reason: reason}, nil, nil)
	})
}

// Exclude leaves a post out of a rule, or lets it in again.
func (d Editor) Exclude(ctx context.Context, id, post int64, out bool, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		r, err := tx.Rule(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		p, err := tx.Post(ctx, d.Site.ID, post)
		if err != nil {
			return err
		}
		if err := tx.Exclude(ctx, d.Site.ID, id, post, out); err != nil {
			return err
		}
		reason := fmt.Sprintf("“%s” was excluded from the rule “%s”.", p.Title, r.Name)
		if !out {
			reason = fmt.Sprintf("“%s” is no longer excluded from the rule “%s”.", p.Title, r.Name)
		}
		return d.log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedExclude, Rule: &id, Reason: reason}, nil, nil)
	})
}
