// Package engine does what is due.
//
// At each step it claims the posts that are due, asks core what to do with them,
// does it and writes the logbook, in one transaction. Claims skip what another
// process holds, so any number of engines share one database and each deed is done
// once: an engine that dies between claim and commit leaves everything as it was.
//
// The engine keeps no plan in memory. It wakes when the next post is due, when the
// plan changes, and now and then in any case, since clocks may be set.
package engine

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"math/rand/v2"
	"os"
	"slices"
	"time"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/digests"
	"dapper.example/internal/enact"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// Engine publishes what is due on all sites of a store, and deals with what is
// overdue as each site has chosen.
type Engine struct {
	store   *store.Store
	changes *store.Changes
	clock   clockwork.Clock
	log     *slog.Logger
	name    string
	started time.Time
	beat    time.Time // when it last told that it lives
	metrics metrics
	queue   enact.Sharer
	public  string // where readers reach the blog

	// claimed is called, where a test sets it, between claim and effect.
	claimed func(posts []int64)
}

// Outward is what an engine needs for what leaves the house: the queue of deliveries,
// and where readers reach the blog, for links, such as https://blog.example.
type Outward struct {
	Queue  enact.Sharer
	Public string
}

// New returns an engine; Run starts it. The clock is the only one it reads.
func New(s *store.Store, changes *store.Changes, clock clockwork.Clock, outward Outward, log *slog.Logger) *Engine {
	host, err := os.Hostname()
	if err != nil {
		host = "unknown"
	}
	return &Engine{
		store: s, changes: changes, clock: clock, log: log, metrics: newMetrics(),
		queue: outward.Queue, public: outward.Public,
		name:    fmt.Sprintf("%s-%d-%08x", host, os.Getpid(), rand.Uint32()),
		claimed: func([]int64) {},
	}
}

const (
	// batch bounds one transaction, so that several engines can share a backlog.
	batch = 500
	// longestRest is after how long the engine looks again even if nothing is due:
	// a clock that is set forward is noticed by then.
	longestRest = 5 * time.Second
	// betweenBeats is how often a running engine tells that it lives.
	betweenBeats = 5 * time.Second
	// forgotten is after how long an engine that ended without a word is forgotten.
	forgotten = time.Hour
	// afterFailure is how long it rests when the database fails.
	afterFailure = time.Second
)

// Run works until the context ends; a batch in hand is finished or undone. It
// returns no error: what fails is logged and tried again.
func (e *Engine) Run(ctx context.Context) {
	changed := e.changes.Subscribe(store.AllSites)
	defer e.changes.Unsubscribe(changed)
	e.started = e.clock.Now().UTC()
	defer func() {
		last, cancel := context.WithTimeout(context.WithoutCancel(ctx), time.Second)
		defer cancel()
		if err := e.store.Retire(last, e.name, e.clock.Now().Add(-forgotten)); err != nil {
			e.log.Warn("could not sign off", "error", err)
		}
	}()
	for ctx.Err() == nil {
		e.tellAlive(ctx)
		rest := e.work(ctx)
		timer := e.clock.NewTimer(rest)
		select {
		case <-ctx.Done():
		case <-timer.Chan():
		case <-changed.C:
		}
		timer.Stop()
	}
}

// tellAlive notes now and then that this engine lives. Clocks may have been set back.
func (e *Engine) tellAlive(ctx context.Context) {
	now := e.clock.Now().UTC()
	if since := now.Sub(e.beat); since >= 0 && since < betweenBeats {
		return
	}
	if err := e.store.Beat(ctx, e.name, e.started, now); err != nil {
		if ctx.Err() == nil {
			e.log.Warn("could not tell that this engine lives", "error", err)
		}
		return
	}
	e.beat = now
}

// work does all that is due and returns how long to rest.
func (e *Engine) work(ctx context.Context) time.Duration {
	var looked time.Time
	for {
		looked = e.clock.Now()
		done, err := e.Step(ctx)
		if err != nil {
			if ctx.Err() == nil {
				e.metrics.failures.Inc()
				e.log.Error("a step of the engine failed; nothing of it was kept", "error", err)
			}
			return afterFailure
		}
		if done == 0 {
			break
		}
	}
	// Not after the present moment: what came due while it looked is still to be done.
	next, err := e.Next(ctx, looked)
	switch {
	case err != nil:
		if ctx.Err() == nil {
			e.log.Error("reading what is due next failed", "error", err)
		}
		return afterFailure
	case next.IsZero():
		return longestRest
	}
	return min(max(next.Sub(e.clock.Now()), 0), longestRest)
}

// Next returns when there is something to do next after a moment at which nothing more
// was due; the zero time where nothing waits.
func (e *Engine) Next(ctx context.Context, after time.Time) (time.Time, error) {
	next, err := e.store.NextDueAfter(ctx, after)
	if err != nil {
		return next, err
	}
	ask, err := e.store.NextAsk(ctx, after)
	if err != nil {
		return next, err
	}
	mail, err := e.store.NextDigest(ctx, after)
	return civil.Sooner(civil.Sooner(next, ask), mail), err
}

// Step does one batch of what is due now and returns how many deeds it did; 0 means
// that nothing is due that no other engine holds.
func (e *Engine) Step(ctx context.Context) (int, error) {
	now := e.clock.Now().UTC().Truncate(time.Microsecond) // as exact as PostgreSQL keeps it
	// Plans are made of whole minutes, so everything is decided at its minute however many
	// seconds later the engine gets to it: what was foretold counts by the minute too.
	minute := deed.Minute(now)
	done, err := e.publishDue(ctx, now, minute)
	if err != nil || done > 0 {
		return done, err
	}
	sites, err := e.store.SitesToTurn(ctx, now, minute.Add(-deed.Late))
	if err != nil {
		return 0, fmt.Errorf("looking for overdue posts and rules that are due: %w", err)
	}
	// Each engine goes through them in an order of its own, so that several share them.
	rand.Shuffle(len(sites), func(i, j int) { sites[i], sites[j] = sites[j], sites[i] })
	var failed []error // a site that cannot be served does not keep the others waiting
	var held []int64
	serve := func(site int64, take takeTurn) {
		n, err := e.turn(ctx, site, now, minute, take)
		switch {
		case errors.Is(err, errNotTaken):
			held = append(held, site)
		case err != nil:
			failed = append(failed, fmt.Errorf("site %d: %w", site, err))
		}
		done += n
	}
	for _, site := range sites {
		serve(site, (*store.Tx).TakeTurn)
	}
	// Only with nothing else to do is it worth waiting for what others hold.
	for _, site := range slices.Clone(held) {
		if done > 0 || len(failed) > 0 {
			break
		}
		serve(site, (*store.Tx).AwaitTurn)
	}
	if done == 0 && len(failed) == 0 {
		return e.digests(ctx, now)
	}
	return done, errors.Join(failed...)
}

// digests queues the digests that are due, and settles when each comes next. It returns how many they were.
func (e *Engine) digests(ctx context.Context, now time.Time) (n int, err error) {
	err = e.store.InTx(ctx, func(tx *store.Tx) error {
		due, err := tx.ClaimDigests(ctx, now, batch)
		if err != nil {
			return fmt.Errorf("claiming digests that are due: %w", err)
		}
		for _, d := range due {
			wish, err := digests.WishOf(d)
			if err != nil {
				return err
			}
			if err := e.queue.Digest(ctx, tx, d.SiteID, d.User, deed.Minute(now)); err != nil {
				return fmt.Errorf("queueing a digest: %w", err)
			}
			if err := tx.SetNextDigest(ctx, d.SiteID, d.User, wish.Next(now)); err != nil {
				return err
			}
		}
		n = len(due)
		return nil
	})
	return n, err
}

// takeTurn locks a site on which something is to be decided, or fails with
// store.ErrNotFound.
type takeTurn func(tx *store.Tx, ctx context.Context, site int64, at, overdue time.Time) (store.Site, error)

// errNotTaken says that a site was not to be had, or had nothing to be decided on any more.
var errNotTaken = errors.New("somebody else has the site")

// publishDue claims and publishes what is on time, and what is overdue on sites that
// publish at once.
func (e *Engine) publishDue(ctx context.Context, now, minute time.Time) (int, error) {
	var deeds []deed.Deed
	err := e.store.InTx(ctx, func(tx *store.Tx) error {
		claims, err := tx.ClaimDue(ctx, minute, minute.Add(-deed.Late), batch)
		if err != nil {
			return fmt.Errorf("claiming what is due: %w", err)
		}
		if len(claims) == 0 {
			return nil
		}
		e.claimed(idsOf(claims))
		decision := deed.Decide(deed.Snapshot{Scheduled: scheduledOf(claims)}, minute)
		if deeds, err = (enact.Doer{Now: minute}).Do(ctx, tx, store.Rule{}, decision, claims...); err != nil {
			return err
		}
		return tx.AskForExpiring(ctx, idsOf(claims), now)
	})
	if err != nil {
		return 0, err
	}
	e.tell(deeds, now)
	return len(deeds), nil
}

// turn does the one thing whose turn it is on a site: catching up with what is overdue, an
// expiry, a planned outing, or a rule's run. It holds the site's lock, and fails
// with errNotTaken where that is not to be had. Where nothing is due it settles when to ask
// again.
func (e *Engine) turn(ctx context.Context, siteID int64, now, minute time.Time, take takeTurn) (int, error) {
	var deeds []deed.Deed
	idle := false
	err := e.store.InTx(ctx, func(tx *store.Tx) error {
		site, err := take(tx, ctx, siteID, now, minute.Add(-deed.Late))
		if errors.Is(err, store.ErrNotFound) {
			return errNotTaken
		}
		if err != nil {
			return fmt.Errorf("locking site %d: %w", siteID, err)
		}
		claims, err := tx.ClaimSite(ctx, siteID, minute)
		if err != nil {
			return fmt.Errorf("claiming what is overdue: %w", err)
		}
		e.claimed(idsOf(claims))
		book := siterules.Book{Site: site, Public: e.public}
		decision, frame, err := book.Decide(ctx, tx, minute)
		if err != nil {
			return err
		}
		if decision.IsIdle() {
			idle = true
			return tx.AskNext(ctx, siteID, decision.Next)
		}
		began := e.clock.Now()
		doer := enact.Doer{Site: siteID, Queue: e.queue, Now: minute,
			Spent: func() time.Duration { return e.clock.Since(began) }}
		if deeds, err = doer.Do(ctx, tx, frame.RuleOf(decision), decision, claims...); err != nil {
			return err
		}
		return tx.Ask(ctx, siteID, minute)
	})
	if err != nil || idle {
		return 0, err
	}
	e.tell(deeds, e.clock.Now())
	return max(len(deeds), 1), nil // a run that took nothing was something done too
}

// tell logs and counts deeds that were done.
func (e *Engine) tell(deeds []deed.Deed, now time.Time) {
	for _, one := range deeds {
		d := one.Describe()
		e.metrics.did(d, now)
		e.log.Info(string(d.Kind), "post", d.Post, "due", d.Due, "lag", now.Sub(d.Due))
	}
}

func idsOf(claims []store.Claim) []int64 {
	ids := make([]int64, len(claims))
	for i, c := range claims {
		ids[i] = c.ID
	}
	return ids
}

func scheduledOf(claims []store.Claim) []deed.Scheduled {
	scheduled := make([]deed.Scheduled, len(claims))
	for i, c := range claims {
		scheduled[i] = deed.Scheduled{Post: c.ID, Due: c.State.DueAt, Pinned: c.State.Pinned}
	}
	return scheduled
}
