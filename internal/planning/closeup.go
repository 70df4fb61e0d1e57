package planning

import (
	"cmp"
	"context"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// Closing is what closing up comes to.
type Closing []Step

// Token stands for exactly these moves.
func (c Closing) Token() string {
	pairs := make([][2]int64, len(c))
	for i, s := range c {
		pairs[i] = [2]int64{s.Post.ID, s.To.Unix()}
	}
	return act.TokenOf("closing up", pairs)
}

// ProposeClosing places the scheduled posts that sit in slots anew, in the order in
// which they come out, so that holes close; it returns those that would move. Pinned,
// held and published posts stay, and so does the shelf. Nothing is written.
func ProposeClosing(ctx context.Context, q store.Queries, site store.Site, now time.Time) (Closing, error) {
	r, err := q.RhythmOf(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	movable, err := q.SlottedPosts(ctx, site.ID, now)
	if err != nil {
		return nil, err
	}
	moves := make(map[int64]store.Entry, len(movable))
	request := queue.Request{Zone: site.Zone(), Today: site.Zone().DateOf(now), Caps: site.Caps()}
	for _, e := range movable {
		moves[e.ID] = e
		request.Shelf = append(request.Shelf, draftOf(e))
	}
	standing, err := q.Placed(ctx, site.ID, since(site, now))
	if err != nil {
		return nil, err
	}
	var occupied []rhythm.Occupied
	request.Standing, occupied = settled(standing, func(s store.Placed) bool {
		_, moving := moves[s.Post]
		return moving
	})
	request.Slots = queue.Slots(r.In(site.Zone()), now, occupied)
	var shifts Closing
	for _, p := range queue.Place(request).Placed {
		e := moves[p.Draft.ID]
		if !e.DueAt.Equal(p.Slot.At) {
			shifts = append(shifts, Step{Post: e, From: e.DueAt, To: &p.Slot.At, Slot: p.Slot.ID, Reason: p.Reason})
		}
	}
	return shifts, nil
}

// CloseUp moves exactly what was shown, or nothing: where the proposal is another one by
// now, it fails with *act.Outdated.
func CloseUp(ctx context.Context, d act.Desk, token string, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		shifts, err := ProposeClosing(ctx, tx.Queries, site, now)
		if err != nil {
			return err
		}
		if shifts, err = act.Seen(shifts, token); err != nil {
			return err
		}
		if err := d.Begin(ctx, tx, "Closed up: "+words.Count(len(shifts), "post")+" moved.", now); err != nil {
			return err
		}
		return moveUp(ctx, d, tx, shifts, now)
	})
}

// moveUp moves the posts.
func moveUp(ctx context.Context, d act.Desk, tx *store.Tx, shifts Closing, now time.Time) error {
	slices.SortFunc(shifts, func(a, b Step) int {
		return cmp.Or(a.To.Compare(*b.To), cmp.Compare(a.Post.ID, b.Post.ID))
	})
	posts, err := lifted(ctx, d, tx, shifts)
	if err != nil {
		return err
	}
	for i, s := range shifts {
		if err := d.Stand(ctx, tx, posts[i], posts[i].State().Move(*s.To, s.Slot), store.DeedCloseUp,
			"Moved up to close a hole. "+s.Reason, now); err != nil {
			return err
		}
	}
	return nil
}
