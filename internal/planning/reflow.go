package planning

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

// WishKind is what is to be done to many posts' places at once.
type WishKind string

// The kinds of wishes.
const (
	WishPlace  WishKind = "place"   // chosen drafts get slots of the rhythm, or of a pattern
	WishRoom   WishKind = "room"    // one post is put in, and later ones move down
	WishShift  WishKind = "shift"   // a stretch of the plan moves by days
	WishShelve WishKind = "unplace" // a stretch of the plan goes back to the shelf
	WishRest   WishKind = "rest"    // posts on rest days move on to the next days that are none
)

// MostWished is how many posts a wish may name.
const MostWished = 2000

// Wish says what is to be done. Which fields count depends on its kind.
type Wish struct {
	Do    WishKind
	Posts []int64 // place: the drafts, in their order; room: the one post
	// Start is from when on: place: the first date, which may be past; room: not before
	// that date; shift and unplace: the stretch's first date. The zero date is today.
	Start civil.Date
	End   civil.Date // shift and unplace: the stretch's last date; zero: no end
	Days  int        // shift: down, or up where negative
	Order queue.Order
	// Pattern is what place follows; nil: the rhythm.
	Pattern *reflow.Pattern
}

// Step is one post's way from where it is to where it is to be.
type Step struct {
	Post   store.Entry
	From   *time.Time // nil: a draft
	To     *time.Time // nil: the shelf
	Slot   rhythm.SlotID
	Pinned bool // at To it is, or stays, pinned
	Past   bool // To is past: it comes out at once, with that date
	Reason string
}

// Reflow is what a wish comes to.
type Reflow struct {
	Steps    []Step
	Left     []act.LeftPost
	Unproven bool // more deadlines might be met than are; see queue.Placement
}

// Token stands for exactly these steps.
func (r Reflow) Token() string {
	steps := make([][3]int64, len(r.Steps))
	for i, s := range r.Steps {
		steps[i][0] = s.Post.ID
		if s.To != nil {
			steps[i][1] = s.To.Unix()
		}
		if s.Past {
			steps[i][2] = 1
		}
	}
	return act.TokenOf("reflow", steps)
}

// ProposeReflow tells what a wish comes to; nothing is written. It fails with *act.Invalid
// where the wish cannot be.
func ProposeReflow(ctx context.Context, q store.Queries, site store.Site, wish Wish, now time.Time) (Reflow, error) {
	if len(wish.Posts) > MostWished {
		return Reflow{}, act.Invalidf("posts", "%d posts at once are too many; choose up to %d.", len(wish.Posts),
			MostWished)
	}
	w := wished{q, site, wish, now}
	switch wish.Do {
	case WishPlace:
		return w.place(ctx)
	case WishRoom:
		return w.room(ctx)
	case WishShift:
		return w.shift(ctx)
	case WishShelve:
		return w.shelve(ctx)
	case WishRest:
		return w.offRests(ctx)
	}
	return Reflow{}, act.Invalidf("do", "There is no such wish as %q.", wish.Do)
}

// wished works a wish out.
type wished struct {
	store.Queries
	site store.Site
	Wish
	now time.Time
}

// start is when the first date begins; now, where that is not later.
func (w wished) start() time.Time {
	if w.Start.IsZero() {
		return w.now
	}
	return civil.Later(w.site.Zone().At(w.Start, 0).Add(-time.Minute), w.now)
}

// standing reads what stands and says how much of it is occupied.
func (w wished) standing(ctx context.Context, from time.Time) (standing []queue.Standing, occupied []rhythm.Occupied, err error) {
	rows, err := w.Queries.Placed(ctx, w.site.ID, since(w.site, from))
	standing, occupied = settled(rows, nil)
	return standing, occupied, err
}

func (w wished) place(ctx context.Context) (out Reflow, err error) {
	if len(w.Posts) == 0 {
		return out, act.Invalidf("posts", "Choose which drafts to schedule.")
	}
	chosen, err := w.EntriesOf(ctx, w.site.ID, w.Posts)
	if err != nil {
		return out, err
	}
	if len(chosen) != len(w.Posts) {
		return out, store.ErrNotFound
	}
	entries := make(map[int64]store.Entry)
	var drafts []queue.Draft
	for _, c := range chosen {
		if why := cannotPlace(c); why != "" {
			out.Left = append(out.Left, act.LeftPost{ID: c.ID, Title: c.Title, Reason: why})
			continue
		}
		entries[c.ID] = c.Entry
		drafts = append(drafts, draftOf(c.Entry))
	}
	drafts = queue.Arrange(drafts, w.Order, uint64(w.site.ShelfSeed))
	placement, err := PlaceDrafts(ctx, w.Queries, w.site, drafts, w.Start, w.Pattern, w.now)
	if err != nil {
		return out, err
	}
	out.Unproven = placement.Unproven
	for _, p := range placement.Placed {
		at := p.Slot.At
		out.Steps = append(out.Steps, Step{Post: entries[p.Draft.ID], To: &at, Slot: p.Slot.ID, Past: !at.After(w.now),
			Reason: p.Reason})
	}
	for _, u := range placement.Unplaced {
		out.Left = append(out.Left, act.LeftPost{ID: u.Draft.ID, Title: u.Draft.Title, Reason: u.Reason})
	}
	return out, nil
}

// PlaceDrafts gives drafts, in their order, slots of the rhythm or of a pattern from a date on, which may be past; the zero date is
// now. Nothing is written. It fails with *act.Invalid where that cannot be. Slots of a pattern are of no rhythm.
func PlaceDrafts(ctx context.Context, q store.Queries, site store.Site, drafts []queue.Draft, start civil.Date, pattern *reflow.Pattern,
	now time.Time) (queue.Placement, error) {
	from := now
	if !start.IsZero() {
		from = site.Zone().At(start, 0).Add(-time.Minute)
	}
	if now.Sub(from) > OldestStart {
		return queue.Placement{}, act.Invalidf("start", "A placement may begin up to 20 years ago. Choose a later date.")
	}
	r, err := q.RhythmOf(ctx, site.ID)
	if err != nil {
		return queue.Placement{}, err
	}
	rows, err := q.Placed(ctx, site.ID, since(site, from))
	if err != nil {
		return queue.Placement{}, err
	}
	request := queue.Request{Zone: site.Zone(), Today: site.Zone().DateOf(from), Caps: site.Caps(), Shelf: drafts}
	var occupied []rhythm.Occupied
	request.Standing, occupied = settled(rows, nil)
	if pattern == nil {
		request.Slots = While(ctx, queue.Slots(r.In(site.Zone()), from, occupied))
		return queue.Place(request), nil
	}
	if problems := pattern.Problems(); len(problems) > 0 {
		return queue.Placement{}, act.Invalidf("pattern."+problems[0].Path, "%s", problems[0].Message)
	}
	for i := range occupied {
		occupied[i].Slot = rhythm.SlotID{} // times of the rhythm are foreign to the pattern
	}
	request.Slots = While(ctx, after(pattern.Slots(site.Zone(), site.Zone().DateOf(from.Add(time.Minute)), r.Rests, occupied), from))
	placement := queue.Place(request)
	for i := range placement.Placed {
		placement.Placed[i].Slot.ID = rhythm.SlotID{}
	}
	return placement, nil
}

// OldestStart bounds how far back a placement may begin.
const OldestStart = 20 * 366 * 24 * time.Hour

// cannotPlace says why a post cannot be placed; "" where it can.
func cannotPlace(c store.Choice) string {
	s := status.Situation{Status: c.Status, Kind: c.Kind, Title: c.Title, HasText: c.HasText}
	if bad := s.Bars(status.DoPlace, time.Time{}); bad != nil {
		return bad.Message
	}
	return ""
}

// after leaves out slots that are not after a moment.
func after(slots func(func(rhythm.Slot) bool), from time.Time) func(func(rhythm.Slot) bool) {
	return func(yield func(rhythm.Slot) bool) {
		for s := range slots {
			if s.At.After(from) && !yield(s) {
				return
			}
		}
	}
}

// plan reads the plan as reflow wants it.
func (w wished) plan(ctx context.Context) (p reflow.Plan, entries map[int64]store.Entry, err error) {
	r, err := w.RhythmOf(ctx, w.site.ID)
	if err != nil {
		return p, nil, err
	}
	drawn := r.In(w.site.Zone())
	scheduled, err := w.ScheduledPosts(ctx, w.site.ID, w.now)
	if err != nil {
		return p, nil, err
	}
	p.Zone, p.Today, p.Caps, p.Gap, p.GapAt = w.site.Zone(), w.site.Zone().DateOf(w.now), w.site.Caps(), r.Gap, drawn.GapAt
	entries = make(map[int64]store.Entry, len(scheduled))
	for _, e := range scheduled {
		entries[e.ID] = e
		p.Posts = append(p.Posts, reflow.Post{Draft: draftOf(e), At: *e.DueAt, Pinned: e.Pinned,
			Slot: rhythm.Slot{ID: e.Slot(), At: *e.DueAt, Lane: drawn.LaneOf(e.Slot())}})
	}
	var occupied []rhythm.Occupied
	if p.Standing, occupied, err = w.standing(ctx, w.now); err != nil {
		return p, nil, err
	}
	p.Free = While(ctx, queue.Slots(drawn, w.now, occupied))
	return p, entries, nil
}

func (w wished) room(ctx context.Context) (out Reflow, err error) {
	if len(w.Posts) != 1 {
		return out, act.Invalidf("posts", "Choose one post to put in.")
	}
	p, entries, err := w.plan(ctx)
	if err != nil {
		return out, err
	}
	chosen, err := w.EntriesOf(ctx, w.site.ID, w.Posts)
	if err != nil {
		return out, err
	}
	if len(chosen) == 0 {
		return out, store.ErrNotFound
	}
	urgent := reflow.Post{Draft: draftOf(chosen[0].Entry)}
	if _, scheduled := entries[chosen[0].ID]; scheduled {
		urgent = p.Posts[slices.IndexFunc(p.Posts, func(one reflow.Post) bool { return one.ID == chosen[0].ID })]
	} else if why := cannotPlace(chosen[0]); why != "" {
		return out, act.Invalidf("posts", "“%s” cannot be put in: %s", chosen[0].Title, why)
	}
	entries[chosen[0].ID] = chosen[0].Entry
	moves, err := reflow.MakeRoom(p, urgent, w.start())
	if err != nil {
		return out, stuck("posts", err)
	}
	out.Steps = steps(moves, entries)
	return out, nil
}

func stuck(field string, err error) error {
	var s *reflow.Stuck
	if errors.As(err, &s) {
		return act.Invalidf(field, "%s", s.Why)
	}
	return err
}

func steps(moves []reflow.Move, entries map[int64]store.Entry) []Step {
	var all []Step
	for _, m := range moves {
		at := m.To
		step := Step{Post: entries[m.Post.ID], To: &at, Slot: m.Slot, Pinned: m.Post.Pinned &&
			m.Slot == (rhythm.SlotID{}), Reason: m.Reason}
		if !m.Post.At.IsZero() {
			from := m.Post.At
			step.From = &from
		}
		all = append(all, step)
	}
	return all
}

// farEnd stands for a stretch without an end.
const farEnd = 100 * 366 * 24 * time.Hour

// stretch is the wish's stretch of the plan.
func (w wished) stretch() (from, to time.Time, err error) {
	zone := w.site.Zone()
	from, to = w.now, w.now.Add(farEnd)
	if !w.Start.IsZero() {
		from = zone.At(w.Start, 0)
	}
	if !w.End.IsZero() {
		to = zone.At(w.End.Add(1), 0)
	}
	if !to.After(from) {
		return from, to, act.Invalidf("end", "The dates end before they begin. Choose a later last date.")
	}
	return from, to, nil
}

// MostShift is by how many days a stretch may be shifted, either way.
const MostShift = 366

func (w wished) shift(ctx context.Context) (out Reflow, err error) {
	if w.Days == 0 || w.Days < -MostShift || w.Days > MostShift {
		return out, act.Invalidf("days", "Shift by 1 to %d days, or by as many up.", MostShift)
	}
	from, to, err := w.stretch()
	if err != nil {
		return out, err
	}
	p, entries, err := w.plan(ctx)
	if err != nil {
		return out, err
	}
	moves, left, err := reflow.Shift(p, from, to, w.Days, w.now)
	if err != nil {
		return out, stuck("days", err)
	}
	out.Steps = steps(moves, entries)
	for _, u := range left {
		out.Left = append(out.Left, act.LeftPost{ID: u.Draft.ID, Title: u.Draft.Title, Reason: u.Reason})
	}
	return out, nil
}

func (w wished) shelve(ctx context.Context) (out Reflow, err error) {
	from, to, err := w.stretch()
	if err != nil {
		return out, err
	}
	scheduled, err := w.ScheduledPosts(ctx, w.site.ID, w.now)
	if err != nil {
		return out, err
	}
	for _, e := range scheduled {
		switch {
		case e.DueAt.Before(from) || !e.DueAt.Before(to):
		case e.Pinned:
			out.Left = append(out.Left, act.LeftPost{ID: e.ID, Title: e.Title, Reason: "It is pinned, so it stays."})
		default:
			out.Steps = append(out.Steps, Step{Post: e, From: e.DueAt,
				Reason: "Back to the shelf, in the order of the plan."})
		}
	}
	return out, nil
}

// offRests moves the posts of a stretch that are planned on rest days.
func (w wished) offRests(ctx context.Context) (out Reflow, err error) {
	from, to, err := w.stretch()
	if err != nil {
		return out, err
	}
	r, err := w.RhythmOf(ctx, w.site.ID)
	if err != nil {
		return out, err
	}
	scheduled, err := w.ScheduledPosts(ctx, w.site.ID, w.now)
	if err != nil {
		return out, err
	}
	var ids []int64
	for _, e := range scheduled {
		if !e.DueAt.Before(from) && e.DueAt.Before(to) && r.Rests.Has(w.site.Zone().DateOf(*e.DueAt)) {
			ids = append(ids, e.ID)
		}
	}
	if len(ids) == 0 {
		return out, nil
	}
	up, err := lift(ctx, w.Queries, w.site, ids, w.now)
	if err != nil {
		return out, err
	}
	for i, post := range up.posts {
		rest, _ := r.Rests.On(w.site.Zone().DateOf(post.At))
		down, err := up.ground.Onward(post)
		var s *reflow.Stuck
		switch {
		case errors.As(err, &s):
			out.Left = append(out.Left, act.LeftPost{ID: post.ID, Title: post.Title, Reason: s.Why})
		case err != nil:
			return out, err
		default:
			out.Steps = append(out.Steps, movedTo(up.rows[i], down, offRest(rest)).Step)
		}
	}
	return out, nil
}

func offRest(rest civil.Rest) string {
	if rest.Name == "" {
		return "Off the rest day."
	}
	return fmt.Sprintf("Off the rest day “%s”.", rest.Name)
}

// Adjusted is a line of a placement to which the editor gave another time by hand.
type Adjusted struct {
	Post int64
	At   time.Time
}

// Near is a post that is nearer to another than the gap.
type Near struct {
	Post  int64
	Title string // the other's
	At    time.Time
}

// NearAdjusted tells which lines of a proposal, with the times that they got by hand, are
// nearer than the gap to what stands or to other lines. It prevents nothing: the editor
// may have meant it.
func NearAdjusted(ctx context.Context, q store.Queries, site store.Site, steps []Step, adjusted []Adjusted) ([]Near,
	error) {
	if len(adjusted) == 0 {
		return nil, nil
	}
	r, err := q.RhythmOf(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	drawn := r.In(site.Zone())
	widest := time.Duration(drawn.WidestGap()) * time.Minute
	byHand := make(map[int64]time.Time, len(adjusted))
	first, last := adjusted[0].At, adjusted[0].At
	for _, a := range adjusted {
		byHand[a.Post] = a.At
		first, last = civil.Earlier(first, a.At), civil.Later(last, a.At)
	}
	standing, err := q.EntriesBetween(ctx, site.ID, first.Add(-widest), last.Add(widest))
	if err != nil {
		return nil, err
	}
	moved := make(map[int64]bool, len(steps))
	var all []Near
	for _, s := range steps {
		moved[s.Post.ID] = true
		if at, adjusted := byHand[s.Post.ID]; adjusted {
			all = append(all, Near{s.Post.ID, s.Post.Title, at})
		} else if s.To != nil {
			all = append(all, Near{s.Post.ID, s.Post.Title, *s.To})
		}
	}
	for _, e := range standing {
		if at := e.At(); !moved[e.ID] {
			all = append(all, Near{e.ID, e.Title, at})
		}
	}
	slices.SortStableFunc(all, func(a, b Near) int { return a.At.Compare(b.At) })
	var found []Near
	for _, a := range adjusted {
		gap := drawn.GapAt(a.At)
		i, _ := slices.BinarySearchFunc(all, a.At.Add(-gap+1), func(n Near, t time.Time) int { return n.At.Compare(t) })
		for ; i < len(all) && all[i].At.Before(a.At.Add(gap)); i++ {
			if all[i].Post != a.Post {
				found = append(found, Near{a.Post, all[i].Title, all[i].At})
			}
		}
	}
	return found, nil
}

// ApplyReflow does exactly what was shown, or nothing: where the wish comes to something
// else by now, it fails with *act.Outdated. Lines that are adjusted get their own times, and
// are pinned there.
func ApplyReflow(ctx context.Context, d act.Desk, wish Wish, token string, adjusted []Adjusted, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		reflow, err := ProposeReflow(ctx, tx.Queries, site, wish, now)
		if err != nil {
			return err
		}
		if reflow, err = act.Seen(reflow, token); err != nil {
			return err
		}
		if err := adjust(reflow.Steps, adjusted, now); err != nil {
			return err
		}
		if err := d.Begin(ctx, tx, words.Count(len(reflow.Steps), "post")+" rearranged.", now); err != nil {
			return err
		}
		return take(ctx, d, tx, wish.Do, reflow.Steps, now)
	})
}

func adjust(steps []Step, adjusted []Adjusted, now time.Time) error {
	for _, a := range adjusted {
		i := slices.IndexFunc(steps, func(s Step) bool { return s.Post.ID == a.Post })
		if i < 0 || steps[i].To == nil {
			return act.Invalidf("adjusted", "A line you adjusted is no longer part of the proposal. Look at it again.")
		}
		at := a.At.Truncate(time.Minute)
		past := !at.After(now)
		if past && !steps[i].Past {
			// It was shown as scheduled: it must not come out at once unsaid.
			return act.Invalidf("adjusted",
				"The time given to “%s” has passed. Choose a later one, or start from a past date.", steps[i].Post.Title)
		}
		steps[i].To, steps[i].Slot, steps[i].Pinned, steps[i].Past = &at, rhythm.SlotID{}, true, past
		steps[i].Reason = "Time set by hand."
	}
	return nil
}

// lifted locks the posts of steps. A slot that one of them leaves may be another's new one, so all leave
// theirs before any sits down.
func lifted(ctx context.Context, d act.Desk, tx *store.Tx, steps []Step) ([]store.Post, error) {
	posts := make([]store.Post, len(steps))
	var leaving []int64
	for i, s := range steps {
		p, err := tx.LockPost(ctx, d.Site.ID, s.Post.ID)
		if err != nil {
			return nil, err
		}
		if posts[i] = p; p.SlotDate != nil {
			leaving = append(leaving, p.ID)
		}
	}
	if len(leaving) == 0 {
		return posts, nil
	}
	return posts, tx.LeaveSlots(ctx, d.Site.ID, leaving)
}

// take takes the steps.
func take(ctx context.Context, d act.Desk, tx *store.Tx, do WishKind, steps []Step, now time.Time) error {
	posts, err := lifted(ctx, d, tx, steps)
	if err != nil {
		return err
	}
	low, _, err := tx.ShelfEnds(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	rank := low - int64(len(steps))
	for i, s := range steps {
		state, deed := posts[i].State(), store.DeedMove
		if s.To != nil {
			if s.Pinned {
				state = state.Pin(*s.To)
			} else {
				state = state.Schedule(*s.To, s.Slot)
			}
		}
		switch {
		case s.To == nil:
			state, deed = state.Shelve(rank+int64(i)), store.DeedShelve
		case s.Past:
			state, deed = state.Publish(*s.To), store.DeedPublish
			s.Reason = "Published at once, backdated. " + s.Reason
		case s.From == nil || do == WishPlace:
			deed = store.DeedCommit
		}
		if err := d.Stand(ctx, tx, posts[i], state, deed, strings.TrimSpace(s.Reason), now); err != nil {
			return err
		}
	}
	return nil
}
