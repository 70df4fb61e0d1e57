// Package planning carries out an editor's changes to the plan: clearing drafts,
// ordering the shelf, committing a placement, retiming, taking back, publishing at
// once, and saving the rhythm.
//
// Core decides where drafts go; this package takes the snapshot, asks core, and
// writes the outcome with its line of the logbook, all in one transaction that
// holds the site's lock. It has no clock: callers say what time it is.
package planning

import (
	"cmp"
	"context"
	"fmt"
	"iter"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// Desk is where an editor works on the plan of one site.
type Desk struct {
	Store *store.Store
	Site  store.Site
	Actor int64 // the editor's user id

	act int64 // whose lines it writes; 0: each an act of its own

	undoes *int64 // the line of the logbook that is being taken back, if one is
}

// lookBack is how long a published post still has a say: the widest gap, two days for
// windows that run past midnight, and a week for the caps that count by it.
const lookBack = (rhythm.MaxGap + 3*24*60 + 7*24*60) * time.Minute

// Plan is a snapshot of what the rhythm and the shelf come to.
type Plan struct {
	Rhythm   store.Rhythm
	Drawn    *rhythm.Beside // the rhythm beside what is occupied
	Occupied []rhythm.Occupied
	Standing []queue.Standing
	Seats    []store.Entry // what has a time in the plan, in time order; more than Standing where a span is shown
	Shelf    []store.Entry // in the site's shelf order
	queue.Placement
}

// Propose places the shelf into the rhythm's free slots after a moment, which is now
// as a rule; nothing is written. From an earlier moment on, drafts may get slots that
// are past: they are to be published at once, with those dates.
func Propose(ctx context.Context, q store.Queries, site store.Site, now time.Time) (Plan, error) {
	return ProposeBeside(ctx, q, site, now, store.Span{})
}

// ProposeBeside is Propose, with all that came out within a span among the plan's Seats.
func ProposeBeside(ctx context.Context, q store.Queries, site store.Site, now time.Time, shown store.Span) (Plan,
	error) {
	plan, request, err := queueBeside(ctx, q, site, now, shown)
	if err != nil {
		return Plan{}, err
	}
	plan.Placement = queue.Place(request)
	return plan, nil
}

// Queue reads what Propose places: the shelf, and the free slots after a moment.
func Queue(ctx context.Context, q store.Queries, site store.Site, now time.Time) (Plan, queue.Request, error) {
	return queueBeside(ctx, q, site, now, store.Span{})
}

func queueBeside(ctx context.Context, q store.Queries, site store.Site, now time.Time, shown store.Span) (Plan,
	queue.Request, error) {
	var plan Plan
	var shelf []store.Entry
	from := since(site, now)
	err := q.Together(ctx, func(ctx context.Context) (err error) {
		if plan.Rhythm, err = q.RhythmOf(ctx, site.ID); err != nil {
			return fmt.Errorf("reading the rhythm of %s: %w", site.Slug, err)
		}
		if shelf, err = q.Shelf(ctx, site.ID); err != nil {
			return fmt.Errorf("reading the shelf of %s: %w", site.Slug, err)
		}
		return nil
	}, func(ctx context.Context) (err error) {
		if plan.Seats, err = q.Seats(ctx, site.ID, from, shown); err != nil {
			return fmt.Errorf("reading the plan of %s: %w", site.Slug, err)
		}
		return nil
	})
	if err != nil {
		return Plan{}, queue.Request{}, err
	}
	request := queue.Request{Zone: site.Zone(), Today: site.Zone().DateOf(now), Caps: site.Caps()}
	standing := make([]store.Standing, 0, len(plan.Seats))
	for _, e := range plan.Seats {
		if e.Status == store.Scheduled || !e.At().Before(from) {
			standing = append(standing, e.Standing())
		}
	}
	plan.Standing, plan.Occupied = settled(standing, nil)
	request.Standing = plan.Standing
	entries := make(map[int64]store.Entry, len(shelf))
	drafts := make([]queue.Draft, len(shelf))
	for i, e := range shelf {
		entries[e.ID], drafts[i] = e, draftOf(e)
	}
	request.Shelf = queue.Arrange(drafts, queue.Order(site.ShelfOrder), uint64(site.ShelfSeed))
	for _, d := range request.Shelf {
		plan.Shelf = append(plan.Shelf, entries[d.ID])
	}
	plan.Drawn = plan.Rhythm.In(request.Zone).Beside(plan.Occupied)
	request.Slots = While(ctx, queue.SlotsBeside(plan.Drawn, now))
	return plan, request, nil
}

// While yields a sequence for as long as a context lasts: drawing it costs, and nobody waits
// for it after that.
func While[T any](ctx context.Context, seq iter.Seq[T]) iter.Seq[T] {
	return func(yield func(T) bool) {
		for v := range seq {
			if ctx.Err() != nil || !yield(v) {
				return
			}
		}
	}
}

// settled splits what stands into what counts for the caps and what is occupied, less the
// posts that leave says; nil: all of it.
func settled(rows []store.Standing, leave func(store.Standing) bool) (standing []queue.Standing,
	occupied []rhythm.Occupied) {
	for _, s := range rows {
		if leave != nil && leave(s) {
			continue
		}
		occupied = append(occupied, s.Occupied)
		standing = append(standing, queue.Standing{At: s.At, Author: s.Author, Category: s.Category})
	}
	return standing, occupied
}

// since is from when on published posts still have a say on the plan of a site.
func since(site store.Site, now time.Time) time.Time {
	return now.Add(-max(lookBack, time.Duration(site.CapCategoryDays+1)*24*time.Hour))
}

func draftOf(e store.Entry) queue.Draft {
	d := queue.Draft{ID: e.ID, Title: e.Title, Author: e.AuthorName, Added: e.CreatedAt}
	if e.CategoryName != nil {
		d.Category = *e.CategoryName
	}
	if e.NotBefore != nil {
		d.NotBefore = *e.NotBefore
	}
	if e.Deadline != nil {
		d.Deadline = *e.Deadline
	}
	return d
}

// Token stands for exactly what is placed where.
func (p Plan) Token() string {
	pairs := make([][2]int64, len(p.Placed))
	for i, one := range p.Placed {
		pairs[i] = [2]int64{one.Draft.ID, one.Slot.At.Unix()}
	}
	slices.SortFunc(pairs, func(a, b [2]int64) int { return cmp.Compare(a[0], b[0]) })
	return act.TokenOf("placement", pairs)
}

// Commit schedules exactly what was shown, or nothing: where the proposal is another one by
// now, it fails with *act.Outdated.
func (d Desk) Commit(ctx context.Context, token string, now time.Time) error {
	return d.CommitFrom(ctx, token, now, now)
}

// CommitFrom is Commit for a proposal from an earlier moment on. Drafts in slots that
// are past come out at once, backdated to them.
func (d Desk) CommitFrom(ctx context.Context, token string, from, now time.Time) error {
	return d.change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID) // the settings may have changed since the request began
		if err != nil {
			return err
		}
		plan, err := Propose(ctx, tx.Queries, site, from)
		if err != nil {
			return err
		}
		if plan, err = act.Seen(plan, token); err != nil {
			return err
		}
		if err := d.begin(ctx, tx, words.Count(len(plan.Placed), "draft")+" scheduled.", now); err != nil {
			return err
		}
		for _, p := range plan.Placed {
			if err := d.place(ctx, tx, p, now); err != nil {
				return err
			}
		}
		return nil
	})
}

// begin begins an act of the desk's: what it does from now on are its lines.
func (d *Desk) begin(ctx context.Context, tx *store.Tx, why string, now time.Time) (err error) {
	d.act, err = tx.Begin(ctx, store.Act{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Why: why})
	return err
}

func (d Desk) place(ctx context.Context, tx *store.Tx, p queue.Proposal, now time.Time) error {
	post, err := tx.LockPost(ctx, d.Site.ID, p.Draft.ID)
	if err != nil {
		return err
	}
	if p.Slot.At.After(now) {
		return d.stand(ctx, tx, post, post.State().Schedule(p.Slot.At, p.Slot.ID), store.DeedCommit, p.Reason, now)
	}
	return d.stand(ctx, tx, post, post.State().PublishIn(p.Slot.At, p.Slot.ID), store.DeedPublish,
		"Published at once, backdated through the rhythm. "+p.Reason, now)
}

// change is act.Change for the desk's site.
func (d Desk) change(ctx context.Context, work func(*store.Tx) error) error {
	return act.Change(ctx, d.Store, d.Site, work)
}

// changePost is change for one post, which must still have the version that the
// editor saw.
func (d Desk) changePost(ctx context.Context, id int64, version int, work func(*store.Tx, store.Post) error) error {
	return d.change(ctx, func(tx *store.Tx) error {
		post, err := tx.LockPost(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if post.Version != version {
			return act.ErrStale
		}
		return work(tx, post)
	})
}

// stand gives a post a new state and writes the line of the logbook. One that readers may
// see from now on gets an address.
func (d Desk) stand(ctx context.Context, tx *store.Tx, p store.Post, state post.State, deed, reason string,
	now time.Time) error {
	before := mustJSON(p.State())
	p.Stand(state)
	if p.Status != store.Draft && p.Status != store.Binned && p.Slug == "" {
		slug, err := freeSlug(ctx, tx.Queries, d.Site.ID, p.Title)
		if err != nil {
			return err
		}
		p.Slug = slug
	}
	if err := tx.SaveState(ctx, p, now); err != nil {
		return fmt.Errorf("changing post %d: %w", p.ID, err)
	}
	err := tx.Log(ctx, store.LogEntry{
		SiteID: d.Site.ID, At: now, Actor: &d.Actor, Deed: deed, Post: &p.ID, Reason: reason,
		Before: before, After: mustJSON(state), Act: d.act, Undoes: d.undoes,
	})
	if err != nil {
		return fmt.Errorf("writing the logbook: %w", err)
	}
	return nil
}

// SlotsOf yields the free slots of a rhythm after a moment, beside what is occupied.
func SlotsOf(r store.Rhythm, site store.Site, after time.Time, occupied []rhythm.Occupied) iter.Seq[rhythm.Slot] {
	return queue.Slots(r.In(site.Zone()), after, occupied)
}
