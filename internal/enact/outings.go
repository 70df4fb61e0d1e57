package enact

import (
	"context"
	"fmt"
	"strings"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store"
)

// share notes an outing, a rule's new one or one that was planned, and queues its delivery.
func share(ctx context.Context, w *work, d deed.Share) error {
	line := w.line(d.Base, deed.KindShare)
	outing := store.Outing{ID: d.Outing, SiteID: w.Site, Rule: line.Rule, Channel: d.Channel, Post: d.Post, At: w.Now,
		Wording: d.Wording, Round: d.Round,
		Text: d.Message.Text, Link: d.Link, Due: &d.Due}
	var err error
	if outing.ID != 0 {
		err = w.tx.SendPlanned(ctx, outing)
	} else {
		outing.ID, err = w.tx.InsertOuting(ctx, outing)
	}
	if err != nil {
		return fmt.Errorf("noting the outing: %w", err)
	}
	if w.rule.Settings.Short {
		if err := w.tx.InsertShortLink(ctx, store.ShortLink{Code: message.ShortCode(w.Site, w.rule.ID, d.Post),
			SiteID: w.Site, Post: d.Post,
			Outing: &outing.ID, Query: query(w.rule.Settings.Params)}); err != nil {
			return fmt.Errorf("making the short link: %w", err)
		}
	}
	if err := w.Queue.Share(ctx, w.tx, outing.ID); err != nil {
		return fmt.Errorf("queueing the outing: %w", err)
	}
	line.Outing = &outing.ID
	return w.tx.Log(ctx, line)
}

// query is what a short link of a rule adds to the address it leads to.
func query(params []message.Param) string {
	return strings.TrimPrefix(message.WithParams("", params), "?")
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
