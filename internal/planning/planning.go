// Package planning bends the plan: it proposes times for the shelf, closes gaps up, rearranges, moves
// posts together, and says what was missed.
//
// Core decides where posts go; this package takes the snapshot, asks core, and writes the outcome
// with its lines of the logbook as one act. It has no clock: callers say what time it is.
package planning

import (
	"cmp"
	"context"
	"fmt"
	"iter"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

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
	standing := make([]store.Placed, 0, len(plan.Seats))
	for _, e := range plan.Seats {
		if e.Status == store.Scheduled || !e.At().Before(from) {
			standing = append(standing, e.Placed())
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
func settled(rows []store.Placed, leave func(store.Placed) bool) (standing []queue.Standing,
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
func Commit(ctx context.Context, d act.Desk, token string, now time.Time) error {
	return CommitFrom(ctx, d, token, now, now)
}

// CommitFrom is Commit for a proposal from an earlier moment on. Drafts in slots that
// are past come out at once, backdated to them.
func CommitFrom(ctx context.Context, d act.Desk, token string, from, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
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
		if err := d.Begin(ctx, tx, words.Count(len(plan.Placed), "draft")+" scheduled.", now); err != nil {
			return err
		}
		for _, p := range plan.Placed {
			if err := place(ctx, d, tx, p, now); err != nil {
				return err
			}
		}
		return nil
	})
}

func place(ctx context.Context, d act.Desk, tx *store.Tx, p queue.Proposal, now time.Time) error {
	post, err := tx.LockPost(ctx, d.Site.ID, p.Draft.ID)
	if err != nil {
		return err
	}
	if p.Slot.At.After(now) {
		return d.Stand(ctx, tx, post, post.State().Schedule(p.Slot.At, p.Slot.ID), store.DeedCommit, p.Reason, now)
	}
	return d.Stand(ctx, tx, post, post.State().PublishIn(p.Slot.At, p.Slot.ID), store.DeedPublish,
		"Published at once, backdated through the rhythm. "+p.Reason, now)
}

// SlotsOf yields the free slots of a rhythm after a moment, beside what is occupied.
func SlotsOf(r store.Rhythm, site store.Site, after time.Time, occupied []rhythm.Occupied) iter.Seq[rhythm.Slot] {
	return queue.Slots(r.In(site.Zone()), after, occupied)
}
