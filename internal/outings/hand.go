package outings

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store"
)

// ExtrasOf is what a rule's messages have beside their wording.
func ExtrasOf(r store.Rule) deed.Extras {
	s := r.Settings
	return deed.Extras{Hashtags: s.Hashtags, Params: s.Params, Short: s.Short, Picture: s.Picture}
}

// Take takes a turn of a rule in hand: the wishes stand in the place of what the rule would do
// at it; with none of them, the turn is served without an outing. The rule goes on around
// that. It fails with *act.Invalid where a wish cannot be, or the turn is not to come any more.
func (d Editor) Take(ctx context.Context, rule int64, turn time.Time, wishes []Wish, now time.Time) error {
	turn = turn.UTC()
	return d.Change(ctx, func(tx *store.Tx) error {
		r, err := d.sharing(ctx, tx.Queries, rule)
		if err != nil {
			return err
		}
		what := "changed"
		if len(wishes) == 0 {
			what = "left out"
		}
		if err := d.Begin(ctx, tx, fmt.Sprintf("The turn of the rule “%s” on %s was %s.", r.Name, d.when(turn, now), what), now); err != nil {
			return err
		}
		return d.takeOne(ctx, tx, r, turn, wishes, now)
	})
}

// sharing is a rule of the site that shares.
func (d Editor) sharing(ctx context.Context, q store.Queries, rule int64) (store.Rule, error) {
	r, err := q.Rule(ctx, d.Site.ID, rule)
	if err == nil && len(r.Settings.Channels) == 0 {
		err = act.Invalidf("id", "Only rules that share have outings to change.")
	}
	return r, err
}

func gone() error {
	return act.Invalidf("turn", "That turn is not to come any more: the rule has changed, or it has gone out. Look again.")
}

func (d Editor) takeOne(ctx context.Context, tx *store.Tx, r store.Rule, turn time.Time, wishes []Wish, now time.Time) error {
	coming, err := d.book().IsComing(ctx, tx.Queries, r.ID, turn, now)
	if err != nil {
		return err
	}
	if !coming {
		return gone()
	}
	if err := d.HasRoom(ctx, tx, len(wishes)); err != nil {
		return err
	}
	begin := store.Outing{Origin: store.ByRule, Actor: &d.Actor, CreatedAt: now, Rule: &r.ID, Turn: &turn}
	extras := ExtrasOf(r)
	if len(wishes) == 0 {
		left := d.kept(Wish{Channel: r.Settings.Channels[0], At: turn, Text: r.Settings.Wordings[0]}, begin)
		left.State, left.Error = store.Skipped, leftOut
		_, err := d.insert(ctx, tx, left, now)
		return err
	}
	for _, w := range wishes {
		w.Extras = extras
		if w.ReplyText == "" {
			w.ReplyText, w.ReplyAfter = r.Settings.ReplyText, r.Settings.ReplyAfter
		}
		if _, err := d.Look(ctx, tx.Queries, w, now); err != nil {
			return err
		}
		if _, err := d.insert(ctx, tx, d.kept(w, begin), now); err != nil {
			return err
		}
	}
	return nil
}

// MoveTurn moves all messages of a coming turn of a rule by the same time, earlier or later. It fails with *act.Invalid where
// one of them could not go out then, or the turn is not to come any more.
func (d Editor) MoveTurn(ctx context.Context, rule int64, turn time.Time, by time.Duration, now time.Time) error {
	if _, err := d.Store.Rule(ctx, d.Site.ID, rule); err != nil {
		return err
	}
	wishes, err := d.foretold(ctx, d.Store.Queries, rule, turn, now)
	if err != nil {
		return err
	}
	return d.Take(ctx, rule, turn, later(wishes, by), now)
}

// foretold are the messages of a coming turn of a rule; it has one at least.
func (d Editor) foretold(ctx context.Context, q store.Queries, rule int64, turn, now time.Time) ([]Wish, error) {
	messages, err := d.book().TurnMessages(ctx, q, rule, turn.UTC(), now)
	if err != nil {
		return nil, err
	}
	if len(messages) == 0 {
		return nil, gone()
	}
	var wishes []Wish
	for _, e := range messages {
		s, _ := e.Deed.(deed.Share)
		wishes = append(wishes, Wish{Channel: s.Channel, Post: e.Post, At: e.At, Text: s.Own, Wording: s.Wording})
	}
	return wishes, nil
}

// later are wishes moved by some time.
func later(wishes []Wish, by time.Duration) []Wish {
	moved := slices.Clone(wishes)
	for i := range moved {
		moved[i].At = moved[i].At.Add(by)
	}
	return moved
}

// Place is where a message of a rule goes out: at a turn, as it is foretold, or where an editor has it in hand.
type Place struct {
	Turn    time.Time
	Outing  int64 // that an editor has in hand; 0: all messages of the turn
	Version int   // of the outing, as it was seen
}

// Swap has the messages of two places of a rule go out at one another's times, as one act. It fails with *act.Invalid where one of
// them could not go out then or is not to come any more, and with act.ErrStale where an outing has changed.
func (d Editor) Swap(ctx context.Context, rule int64, a, b Place, now time.Time) error {
	if _, err := d.sharing(ctx, d.Store.Queries, rule); err != nil {
		return err
	}
	if a.Outing == b.Outing && a.Turn.Equal(b.Turn) {
		return act.Invalidf("with", "Choose another message to swap it with.")
	}
	var said [2][]Wish // what is foretold of them; that takes long in a large blog, so it is read outside of the transaction
	for i, p := range []Place{a, b} {
		if p.Outing == 0 {
			var err error
			if said[i], err = d.foretold(ctx, d.Store.Queries, rule, p.Turn, now); err != nil {
				return err
			}
		}
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		r, err := d.sharing(ctx, tx.Queries, rule)
		if err != nil {
			return err
		}
		first, err := d.at(ctx, tx, r, a, said[0])
		if err != nil {
			return err
		}
		second, err := d.at(ctx, tx, r, b, said[1])
		if err != nil {
			return err
		}
		apart := second.wishes[0].At.Sub(first.wishes[0].At)
		if err := d.Begin(ctx, tx, fmt.Sprintf("Two messages of the rule “%s” changed places: those of %s and %s.", r.Name,
			d.when(first.wishes[0].At, now), d.when(second.wishes[0].At, now)), now); err != nil {
			return err
		}
		if err := d.move(ctx, tx, first, apart, now); err != nil {
			return err
		}
		return d.move(ctx, tx, second, -apart, now)
	})
}

// standing is what goes out at a place now.
type standing struct {
	rule   store.Rule
	turn   time.Time
	outing *store.Outing // nil: all messages of the turn
	wishes []Wish        // one at least
}

func (d Editor) at(ctx context.Context, tx *store.Tx, r store.Rule, p Place, foretold []Wish) (standing, error) {
	s := standing{rule: r, turn: p.Turn.UTC(), wishes: foretold}
	if p.Outing == 0 {
		return s, nil
	}
	o, err := tx.LockOuting(ctx, d.Site.ID, p.Outing)
	if err != nil {
		return s, err
	}
	if o.Version != p.Version {
		return s, act.ErrStale
	}
	if o.Rule == nil || *o.Rule != r.ID {
		return s, act.Invalidf("with", "Only messages of the same rule can be swapped.")
	}
	s.outing, s.wishes = &o, []Wish{wishOf(o)}
	return s, nil
}

// move has what stands somewhere go out so much later.
func (d Editor) move(ctx context.Context, tx *store.Tx, s standing, by time.Duration, now time.Time) error {
	moved := later(s.wishes, by)
	if s.outing != nil {
		return d.saveOne(ctx, tx, *s.outing, moved[0], now)
	}
	return d.takeOne(ctx, tx, s.rule, s.turn, moved, now)
}

// Retime gives a planned outing another time; what it says stays.
func (d Editor) Retime(ctx context.Context, id int64, version int, at, now time.Time) error {
	o, err := d.Store.Outing(ctx, id)
	if err != nil {
		return err
	}
	if o.SiteID != d.Site.ID {
		return store.ErrNotFound
	}
	w := wishOf(o)
	w.At = at
	return d.Save(ctx, id, version, w, now)
}

// wishOf is an outing as a wish that changes nothing of it.
func wishOf(o store.Outing) Wish {
	w := Wish{Channel: o.Channel, Post: int64(o.Post), Item: o.Item.Item, At: o.At, Text: cmp.Or(o.OwnText, message.Escape(o.Text)), Pictures: o.Pictures,
		Extras: o.Extras.Extras, ReplyText: o.ReplyText, ReplyAfter: o.ReplyAfter, Wording: o.Wording}
	if o.Parent != nil {
		w.Parent = *o.Parent
	}
	return w
}
