// Package enact does for real what core decided, in the transaction of the decision.
//
// Each type of deed has one doer, in a file of its own: it changes what has to be changed
// and writes the line of the logbook. Nothing is decided here. What leaves the house is
// queued in the same transaction.
package enact

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/store"
)

// Sharer puts what leaves the house into a transaction.
type Sharer interface {
	// Share delivers an outing.
	Share(ctx context.Context, tx *store.Tx, outing int64) error
	// TellHeld tells who prepared a timed edit by mail that it waits for an editor.
	TellHeld(ctx context.Context, tx *store.Tx, site, edit int64) error
	// TellAuthor tells an author by mail of what a rule noted at a moment that it is about to do with posts of theirs.
	TellAuthor(ctx context.Context, tx *store.Tx, site, rule, author int64, at time.Time) error
	// Digest mails the digest of a site to one of its people, of a moment.
	Digest(ctx context.Context, tx *store.Tx, site, user int64, at time.Time) error
}

// Doer does what was decided on a site, in a transaction that holds the site's lock.
type Doer struct {
	Site  int64
	Queue Sharer
	Now   time.Time
	Actor *int64 // who ran the rule by hand; nil: the engine
	// Spent tells how long a run has taken, for rules that have a limit of time; nil: no
	// limit holds.
	Spent func() time.Duration
}

// Do does a decision and returns the deeds that were done: all of them, but where the
// rule's time ran out. The rule is that of the decision's run; the zero rule where it has
// none. Claims are posts that the transaction has locked already.
func (d Doer) Do(ctx context.Context, tx *store.Tx, rule store.Rule, decision deed.Decision,
	claims ...store.Claim) ([]deed.Deed, error) {
	w := &work{Doer: d, tx: tx, rule: rule, claims: make(map[int64]store.Claim, len(claims))}
	for _, c := range claims {
		w.claims[c.ID] = c
	}
	if decision.Run != nil && len(decision.Deeds) > 0 || isOne(decision.Deeds) || d.Actor != nil && len(decision.Deeds) > 0 {
		a := store.Act{SiteID: d.Site, At: d.Now, Actor: d.Actor, Why: decision.Describe()[0].Reason}
		if rule.ID != 0 {
			a.Rule = &rule.ID
		}
		var err error
		if w.act, err = tx.Begin(ctx, a); err != nil {
			return nil, err
		}
	}
	done, err := w.all(ctx, decision.Deeds)
	if err != nil || decision.Run == nil {
		return done, err
	}
	run := *decision.Run
	if len(done) < len(decision.Deeds) {
		run.Note = fmt.Sprintf("It stopped after %d seconds and will continue at its next turn.",
			rule.Settings.MostSeconds)
	}
	return done, w.note(ctx, run, deed.Taken(done))
}

// isOne tells whether deeds without a rule are one act: own expiries are, and emptying the bin is. Publications are
// each their own.
func isOne(deeds []deed.Deed) bool {
	if len(deeds) == 0 {
		return false
	}
	effect := deeds[0].Describe().Effect
	return effect == deed.TakenAway || effect == deed.Erased
}

// work is a decision that is being done.
type work struct {
	Doer
	tx     *store.Tx
	rule   store.Rule
	act    int64 // whose lines are written; 0: each an act of its own
	claims map[int64]store.Claim
	told   map[int64]bool // authors who get a mail of this decision
}

// doer does deeds of one type that follow one another.
type doer func(ctx context.Context, w *work, deeds []deed.Deed) error

// doers are all there are, by the kind of their deeds.
var doers = map[deed.Kind]doer{
	deed.KindPublish:   together(publish),
	deed.KindMove:      each(move),
	deed.KindHold:      each(hold),
	deed.KindArchive:   standing(archive),
	deed.KindToDraft:   standing(toDraft),
	deed.KindBin:       standing(bin),
	deed.KindRepublish: each(republish),
	deed.KindShare:     each(share),
	deed.KindPlan:      each(plan),
	deed.KindSkip:      each(skip),
	deed.KindSetAside:  each(setAside),
	deed.KindAsk:       each(ask),
	deed.KindTimedEdit: each(timedEdit),
	deed.KindHoldEdit:  each(holdEdit),

	deed.KindRefile:        each(refile),
	deed.KindAddTag:        each(addTag),
	deed.KindCloseComments: each(closeComments),
	deed.KindPutNotice:     standing(putNotice),
	deed.KindDelete:        each(deleteForGood),
	deed.KindWarn:          each(warn),
	deed.KindAskToRead:     each(askToRead),
}

// each makes a doer of a function that does one deed.
func each[D deed.Deed](do func(ctx context.Context, w *work, d D) error) doer {
	return func(ctx context.Context, w *work, deeds []deed.Deed) error {
		for _, d := range deeds {
			if err := do(ctx, w, d.(D)); err != nil {
				told := d.Describe()
				return fmt.Errorf("to %s post %d: %w", told.Kind, told.Post, err)
			}
		}
		return nil
	}
}

// together makes a doer of a function that does many deeds at once.
func together[D deed.Deed](do func(ctx context.Context, w *work, deeds []D) error) doer {
	return func(ctx context.Context, w *work, deeds []deed.Deed) error {
		typed := make([]D, len(deeds))
		for i, d := range deeds {
			typed[i] = d.(D)
		}
		return do(ctx, w, typed)
	}
}

// all does deeds in their order, those of one type that follow one another by one call;
// with a limit of time one by one. It returns those that were done.
func (w *work) all(ctx context.Context, deeds []deed.Deed) ([]deed.Deed, error) {
	limit := time.Duration(w.rule.Settings.MostSeconds) * time.Second
	for i := 0; i < len(deeds); {
		if limit > 0 && i > 0 && w.Spent != nil && w.Spent() > limit {
			return deeds[:i], nil
		}
		kind, n := deeds[i].Describe().Kind, 1
		for limit == 0 && i+n < len(deeds) && deeds[i+n].Describe().Kind == kind {
			n++
		}
		do, known := doers[kind]
		if !known {
			return nil, fmt.Errorf("nobody knows how to %s", kind)
		}
		if err := do(ctx, w, deeds[i:i+n]); err != nil {
			return nil, err
		}
		i += n
	}
	return deeds, nil
}

// claim returns where a post stands, locked.
func (w *work) claim(ctx context.Context, id int64) (store.Claim, error) {
	if c, have := w.claims[id]; have {
		return c, nil
	}
	return w.tx.ClaimPost(ctx, w.Site, id)
}

// line is a line of the logbook about a deed.
func (w *work) line(b deed.Base, kind deed.Kind) store.LogEntry {
	line := store.LogEntry{SiteID: w.Site, At: w.Now, Actor: w.Actor, Deed: string(kind), Reason: b.Reason, Act: w.act}
	if b.Post != 0 {
		line.Post = &b.Post
	}
	if w.rule.ID != 0 {
		line.Rule = &w.rule.ID
	} else if b.Rule > 0 { // of one that is not kept there is nothing to say
		line.Rule = &b.Rule
	}
	return line
}

// note writes down that the rule has had its turn.
func (w *work) note(ctx context.Context, run deed.Run, done int) error {
	note, allowed := run.Note, w.rule.Allowed
	if run.Asks != "" {
		note, done = run.Asks, 0
	} else {
		allowed = max(allowed-done, 0)
	}
	if err := w.tx.Serve(ctx, w.Site, w.rule.ID, store.Served{At: w.Now, HeldWhy: run.Asks, Off: run.Ends != "",
		Allowed: allowed, SpokeOn: run.Spoke}); err != nil {
		return fmt.Errorf("noting the turn of the rule “%s”: %w", w.rule.Name, err)
	}
	return w.tx.InsertRun(ctx, store.RuleRun{SiteID: w.Site, Rule: w.rule.ID, At: w.Now, Due: run.Due,
		Caught: run.Caught, Took: done,
		Note: note, Act: orNone(w.act), Actor: w.Actor})
}

func ask(ctx context.Context, w *work, d deed.Ask) error {
	line := w.line(d.Base, deed.KindAsk)
	line.Actor = nil
	return w.tx.Log(ctx, line)
}

func orNone(id int64) *int64 {
	if id == 0 {
		return nil
	}
	return &id
}
