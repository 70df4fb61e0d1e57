package enact

import (
	"context"
	"fmt"
	"strings"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store"
)

// share notes an outing, a rule's new one or one that was planned, queues its delivery, and
// plans the reply that is to follow.
func share(ctx context.Context, w *work, d deed.Share) error {
	line := w.line(d.Base, deed.KindShare)
	outing := store.Outing{ID: d.Outing, SiteID: w.Site, Rule: line.Rule, Channel: d.Channel, Post: store.ID(d.Post), At: w.Now,
		Wording: d.Wording, Round: d.Round, Text: d.Message.Text, Link: d.Link, Due: &d.Due, Item: store.Item{Item: d.Item},
		Extras: store.Extras{Extras: d.Extras}, Origin: store.ByRule}
	if d.Reply != nil {
		outing.ReplyText, outing.ReplyAfter = d.Reply.Wording.String(), d.Reply.After
	}
	var err error
	if outing.Pictures, err = w.pictures(ctx, d); err != nil {
		return fmt.Errorf("finding the picture: %w", err)
	}
	if outing.ID != 0 {
		err = w.tx.SendPlanned(ctx, outing)
	} else {
		outing.ID, err = w.tx.InsertOuting(ctx, outing)
	}
	if err != nil {
		return fmt.Errorf("noting the outing: %w", err)
	}
	if d.Code != "" {
		link := store.ShortLink{Code: d.Code, SiteID: w.Site, Post: store.ID(d.Post), Outing: &outing.ID, Query: query(d.Params)}
		if d.Post == 0 {
			link.URL = d.Item.Link
		}
		if err := w.tx.InsertShortLink(ctx, link); err != nil {
			return fmt.Errorf("making the short link: %w", err)
		}
	}
	if reply, follows := d.Follows(outing.ID, w.Now); follows {
		if _, err := w.tx.InsertPlanned(ctx, kept(w, reply)); err != nil {
			return fmt.Errorf("planning the reply: %w", err)
		}
	}
	if err := w.Queue.Share(ctx, w.tx, outing.ID); err != nil {
		return fmt.Errorf("queueing the outing: %w", err)
	}
	line.Outing = &outing.ID
	return w.tx.Log(ctx, line)
}

// pictures are those that a message brings along.
func (w *work) pictures(ctx context.Context, d deed.Share) (store.IDs, error) {
	switch p := d.Extras.Picture; {
	case p.From == message.NoPicture || d.Parent != 0:
		return store.IDs{}, nil
	case p.From == message.ThisPicture:
		return store.IDs{p.ID}, nil
	case d.Post == 0:
		return store.IDs{}, nil
	default:
		return w.tx.PictureOf(ctx, w.Site, d.Post, p.From == message.TextPicture)
	}
}

// query is what a short link adds to the address it leads to.
func query(params []message.Param) string {
	return strings.TrimPrefix(message.WithParams("", params), "?")
}

// kept is an outing that is planned, as it is kept.
func kept(w *work, o deed.Outing) store.Outing {
	row := store.Outing{ID: o.ID, SiteID: w.Site, Channel: o.Channel, Post: store.ID(o.Post), At: o.At, Origin: string(o.Origin),
		OwnText: o.Wording.String(), CreatedAt: w.Now, Wording: o.Number, Round: o.Round, Unplaced: o.Unplaced,
		Item: store.Item{Item: o.Item}, Extras: store.Extras{Extras: o.Extras}, Pictures: store.IDs{}}
	if o.Rule != 0 {
		row.Rule = &o.Rule
	}
	if o.Parent != 0 {
		row.Parent = &o.Parent
	}
	if !o.Turn.IsZero() {
		row.Turn = &o.Turn
	}
	if o.Reply != nil {
		row.ReplyText, row.ReplyAfter = o.Reply.Wording.String(), o.Reply.After
	}
	return row
}

// plan has an outing wait, or gives one that waits its minute.
func plan(ctx context.Context, w *work, d deed.Plan) error {
	line := w.line(d.Base, deed.KindPlan)
	id := d.Outing.ID
	var err error
	if id != 0 {
		err = w.tx.PlacePlanned(ctx, w.Site, id, d.Outing.At)
	} else {
		id, err = w.tx.InsertPlanned(ctx, kept(w, d.Outing))
	}
	if err != nil {
		return fmt.Errorf("planning an outing: %w", err)
	}
	line.Outing = &id
	return w.tx.Log(ctx, line)
}

// skip leaves a planned outing out.
func skip(ctx context.Context, w *work, d deed.Skip) error {
	if err := w.tx.SkipPlanned(ctx, w.Site, d.Outing, d.Reason); err != nil {
		return fmt.Errorf("noting that the outing was left out: %w", err)
	}
	line := w.line(d.Base, deed.KindSkip)
	line.Outing = &d.Outing
	return w.tx.Log(ctx, line)
}

// setAside leaves an outing whose time passed to an editor.
func setAside(ctx context.Context, w *work, d deed.SetAside) error {
	if err := w.tx.SetAside(ctx, w.Site, d.Outing, d.Reason); err != nil {
		return fmt.Errorf("setting the outing aside: %w", err)
	}
	line := w.line(d.Base, deed.KindSetAside)
	line.Outing = &d.Outing
	return w.tx.Log(ctx, line)
}
