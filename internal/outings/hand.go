package outings

import (
	"cmp"
	"context"
	"fmt"
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
		r, err := tx.Rule(ctx, d.Site.ID, rule)
		if err != nil {
			return err
		}
		if len(r.Settings.Channels) == 0 {
			return act.Invalidf("id", "Only rules that share have outings to change.")
		}
		coming, err := d.book().IsComing(ctx, tx.Queries, rule, turn, now)
		if err != nil {
			return err
		}
		if !coming {
			return act.Invalidf("turn", "That turn is not to come any more: the rule has changed, or it has gone out. Look again.")
		}
		if err := d.hasRoom(ctx, tx, len(wishes)); err != nil {
			return err
		}
		what := "changed"
		if len(wishes) == 0 {
			what = "left out"
		}
		if err := d.Begin(ctx, tx, fmt.Sprintf("The turn of the rule “%s” on %s was %s.", r.Name, d.when(turn, now), what), now); err != nil {
			return err
		}
		begin := store.Outing{Origin: store.ByRule, Actor: &d.Actor, CreatedAt: now, Rule: &rule, Turn: &turn}
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
	})
}

// MoveTurn moves all messages of a coming turn of a rule by the same time, earlier or later. It fails with *act.Invalid where
// one of them could not go out then, or the turn is not to come any more.
func (d Editor) MoveTurn(ctx context.Context, rule int64, turn time.Time, by time.Duration, now time.Time) error {
	if _, err := d.Store.Rule(ctx, d.Site.ID, rule); err != nil {
		return err
	}
	messages, err := d.book().TurnMessages(ctx, d.Store.Queries, rule, turn.UTC(), now)
	if err != nil {
		return err
	}
	if len(messages) == 0 {
		return act.Invalidf("turn", "That turn is not to come any more: the rule has changed, or it has gone out. Look again.")
	}
	var wishes []Wish
	for _, e := range messages {
		s, _ := e.Deed.(deed.Share)
		wishes = append(wishes, Wish{Channel: s.Channel, Post: e.Post, At: e.At.Add(by), Text: s.Own, Wording: s.Wording})
	}
	return d.Take(ctx, rule, turn, wishes, now)
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
	w := Wish{Channel: o.Channel, Post: int64(o.Post), Item: o.Item.Item, At: at, Text: cmp.Or(o.OwnText, message.Escape(o.Text)), Pictures: o.Pictures,
		Extras: o.Extras.Extras, ReplyText: o.ReplyText, ReplyAfter: o.ReplyAfter, Wording: o.Wording}
	if o.Parent != nil {
		w.Parent = *o.Parent
	}
	return d.Save(ctx, id, version, w, now)
}
