package planning

import (
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// Moving is what posts are moved to by hand. The first post is the one that is held;
// the others keep their distance to it in days, and in minutes where Clock is given.
type Moving struct {
	Posts []act.PostVersion
	Date  civil.Date   // the zero date: to the front of the shelf, in their order
	Clock *civil.Clock // nil: each keeps its time of day
}

// Moved is a post's way, and what differs from what was asked.
type Moved struct {
	Step
	Note    string // a sentence; "" for nothing
	Version int    // the post's, now that it is moved
}

// offPlan are posts taken off the plan, and the ground that is left.
type offPlan struct {
	posts  []reflow.Post
	rows   []store.Entry
	ground *reflow.Ground
}

// lift reads the plan without the posts. It fails with *act.Invalid for posts that do not
// move.
func lift(ctx context.Context, q store.Queries, site store.Site, ids []int64, now time.Time) (offPlan, error) {
	var up offPlan
	chosen, err := q.EntriesOf(ctx, site.ID, ids)
	if err != nil {
		return up, err
	}
	if len(chosen) != len(ids) {
		return up, store.ErrNotFound
	}
	r, err := q.RhythmOf(ctx, site.ID)
	if err != nil {
		return up, err
	}
	standing, err := q.Placed(ctx, site.ID, since(site, now))
	if err != nil {
		return up, err
	}
	drawn := r.In(site.Zone())
	plan := reflow.GroundPlan{Zone: site.Zone(), Caps: site.Caps(), Gap: r.Gap, GapAt: drawn.GapAt, Now: now,
		Rests: r.Rests}
	lifting := make(map[int64]bool, len(ids))
	for _, id := range ids {
		lifting[id] = true
	}
	var occupied []rhythm.Occupied
	plan.Standing, occupied = settled(standing, func(s store.Placed) bool { return lifting[s.Post] })
	before, after := drawn.Around()
	plan.Slots = func(date civil.Date) (slots []rhythm.Slot) {
		for day := range drawn.Days(date.Add(-before), occupied) {
			if day.Date.After(date.Add(after)) {
				break
			}
			for _, s := range day.Slots {
				if plan.Zone.DateOf(s.At) == date {
					slots = append(slots, s)
				}
			}
		}
		slices.SortFunc(slots, func(a, b rhythm.Slot) int { return a.At.Compare(b.At) })
		return slots
	}
	up.ground = reflow.NewGround(plan)
	for _, c := range chosen {
		if why := cannotMove(c); why != "" {
			return up, act.Invalidf("posts", "“%s” cannot be moved: %s", c.Title, why)
		}
		post := reflow.Post{Draft: draftOf(c.Entry), Pinned: c.Pinned, Slot: rhythm.Slot{ID: c.Slot()}}
		if c.DueAt != nil {
			post.At, post.Slot.At = *c.DueAt, *c.DueAt
		}
		up.posts, up.rows = append(up.posts, post), append(up.rows, c.Entry)
	}
	return up, nil
}

// cannotMove says why a post cannot be given a time by hand; "" where it can.
func cannotMove(c store.Choice) string {
	switch {
	case c.Status == store.Scheduled:
		return ""
	case c.Status != store.Draft:
		return "it is " + string(c.Status) + " already."
	case c.Title == "":
		return "it has no title yet."
	case !c.HasText:
		return "it has no text yet."
	}
	return ""
}

// GroundFor tells, for each of some days, what is in the way of a post that is lifted
// off the plan with others; it is the first of ids. Nothing is written.
func GroundFor(ctx context.Context, q store.Queries, site store.Site, ids []int64, from civil.Date, days int,
	now time.Time) ([]reflow.DayGround, error) {
	up, err := lift(ctx, q, site, ids, now)
	if err != nil {
		return nil, err
	}
	ground := make([]reflow.DayGround, days)
	for i := range ground {
		ground[i] = up.ground.Day(up.posts[0].Draft, from.Add(i))
	}
	return ground, nil
}

// Move moves posts by hand, all or none, and undone together. Each keeps the gap, the
// rest days, its bounds and the caps: where they allow nothing on its date, it fails with
// *act.Invalid and a way on.
func Move(ctx context.Context, d act.Desk, m Moving, now time.Time) (moved []Moved, err error) {
	if len(m.Posts) == 0 || len(m.Posts) > MostWished {
		return nil, act.Invalidf("posts", "Move 1 to %d posts at once.", MostWished)
	}
	err = together(ctx, d, m.Posts, now, func(site store.Site, up offPlan) ([]Moved, error) {
		moved, err = down(site.Zone(), up, m)
		return moved, err
	})
	return moved, err
}

// together lifts posts as they were seen, and takes the steps that come of it.
func together(ctx context.Context, d act.Desk, seen []act.PostVersion, now time.Time,
	work func(store.Site, offPlan) ([]Moved, error)) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		ids := make([]int64, len(seen))
		for i, s := range seen {
			ids[i] = s.Post
		}
		up, err := lift(ctx, tx.Queries, site, ids, now)
		if err != nil {
			return err
		}
		for i, row := range up.rows {
			if row.Version != seen[i].Version {
				return fmt.Errorf("moving “%s”: %w", row.Title, act.ErrStale)
			}
		}
		moved, err := work(site, up)
		if err != nil {
			return err
		}
		if err := d.Begin(ctx, tx, words.Count(len(moved), "post")+" moved.", now); err != nil {
			return err
		}
		steps := make([]Step, len(moved))
		for i, m := range moved {
			steps[i] = m.Step
		}
		if err := take(ctx, d, tx, "", steps, now); err != nil {
			return err
		}
		for i := range moved {
			p, err := tx.Post(ctx, d.Site.ID, moved[i].Post.ID)
			if err != nil {
				return err
			}
			moved[i].Version = p.Version
		}
		return nil
	})
}

// down brings lifted posts down, in the order of their times, where they are dropped.
func down(zone civil.Zone, up offPlan, m Moving) (moved []Moved, err error) {
	if m.Date.IsZero() {
		for i, row := range up.rows {
			if row.Status == store.Draft {
				return nil, act.Invalidf("posts", "“%s” has no time, so there is nothing to unschedule.", row.Title)
			}
			moved = append(moved, Moved{Step: Step{Post: up.rows[i], From: row.DueAt,
				Reason: "Taken back to the shelf by hand."}})
		}
		return moved, nil
	}
	held := up.posts[0]
	for _, i := range byTime(up.posts) {
		post, date, clock := up.posts[i], m.Date, m.Clock
		if i > 0 && !post.At.IsZero() && !held.At.IsZero() {
			date, clock = distance(zone, held.At, post.At, m)
		}
		if post.At.IsZero() && clock == nil && up.rows[i].Kind != "post" {
			return nil, act.Invalidf("date", "“%s” is a page, and pages don’t use slots. Drop it at a time of day.",
				up.rows[i].Title)
		}
		if i > 0 && post.At.IsZero() {
			clock = nil // drafts beside the held one take what is free
		}
		dropped, err := up.ground.Drop(post, date, clock)
		if err != nil {
			return nil, stuck("date", err)
		}
		moved = append(moved, movedTo(up.rows[i], dropped, "Moved by hand."))
	}
	return moved, nil
}

// distance is where a post comes down that is moved along with the held one.
func distance(zone civil.Zone, held, post time.Time, m Moving) (civil.Date, *civil.Clock) {
	from, heldClock := zone.Local(held)
	date, clock := zone.Local(post)
	date = m.Date.Add(date.Sub(from))
	if m.Clock == nil {
		return date, nil
	}
	minute := int(clock) + int(*m.Clock) - int(heldClock)
	for ; minute < 0; minute += int(civil.Midnight) {
		date = date.Add(-1)
	}
	for ; minute >= int(civil.Midnight); minute -= int(civil.Midnight) {
		date = date.Add(1)
	}
	along := civil.Clock(minute)
	return date, &along
}

// byTime are the places of posts in time order, drafts last.
func byTime(posts []reflow.Post) []int {
	order := make([]int, len(posts))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(a, b int) int {
		x, y := posts[a].At, posts[b].At
		if x.IsZero() != y.IsZero() {
			if x.IsZero() {
				return 1
			}
			return -1
		}
		return x.Compare(y)
	})
	return order
}

func movedTo(row store.Entry, d reflow.Move, reason string) Moved {
	m := Moved{Step: Step{Post: row, Slot: d.Slot, Pinned: d.Pinned, From: row.DueAt, Reason: reason}, Note: d.Reason}
	if !d.To.IsZero() {
		m.To = &d.To
	}
	if d.Reason != "" {
		m.Reason += " " + d.Reason
	}
	return m
}

// Swap exchanges the places of two posts: their times, slots and pins. One of them may
// be a draft; the other then goes to the front of the shelf.
func Swap(ctx context.Context, d act.Desk, a, b act.PostVersion, now time.Time) (moved []Moved, err error) {
	if a.Post == b.Post {
		return nil, act.Invalidf("posts", "Choose two posts to swap.")
	}
	err = together(ctx, d, []act.PostVersion{a, b}, now, func(_ store.Site, up offPlan) ([]Moved, error) {
		if up.rows[0].DueAt == nil && up.rows[1].DueAt == nil {
			return nil, act.Invalidf("posts", "Neither of the two has a time, so there is nothing to swap.")
		}
		one, other, err := up.ground.Swap(up.posts[0], up.posts[1])
		if err != nil {
			return nil, stuck("posts", err)
		}
		moved = []Moved{
			movedTo(up.rows[0], one, fmt.Sprintf("Swapped with “%s”.", up.rows[1].Title)),
			movedTo(up.rows[1], other, fmt.Sprintf("Swapped with “%s”.", up.rows[0].Title)),
		}
		return moved, nil
	})
	return moved, err
}
