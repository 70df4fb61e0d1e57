// Package remarks is what the people of a blog say to one another about a post: of one of its paragraphs or of the whole. A remark is resolved when it is
// dealt with; one that wishes for a time is a request, which an editor answers with yes or no.
package remarks

import (
	"context"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

const (
	maxBody  = 4000 // characters
	maxQuote = 300  // code points
	// mostOf is how many remarks a post may have.
	mostOf = 500
)

// Say adds a remark about a post, or about the paragraph of it that begins with a quote, and returns its id. With a wish it asks whether the post may come out then. It
// fails with *act.Invalid.
func Say(ctx context.Context, d act.Desk, post int64, body, quote string, wish *time.Time, now time.Time) (id int64, err error) {
	body, quote = strings.TrimSpace(body), strings.TrimSpace(quote)
	switch {
	case body == "" && wish != nil:
		body = "May this come out then?"
	case body == "":
		return 0, act.Invalidf("body", "Write something.")
	}
	if letters.Length(body, maxBody) > maxBody {
		return 0, act.Invalidf("body", "A remark has at most %d characters.", maxBody)
	}
	if runes := []rune(quote); len(runes) > maxQuote {
		quote = string(runes[:maxQuote])
	}
	if wish != nil && (!civil.IsNear(*wish) || !wish.After(now)) {
		return 0, act.Invalidf("wish", "Choose a time that is still to come.")
	}
	err = d.Store.InTx(ctx, func(tx *store.Tx) error {
		p, err := tx.Post(ctx, d.Site.ID, post)
		if err != nil {
			return err
		}
		if wish != nil && p.Status != store.Draft && p.Status != store.Scheduled {
			return act.Invalidf("wish", "The post is not waiting to come out.")
		}
		all, err := tx.Remarks(ctx, d.Site.ID, post)
		if err != nil {
			return err
		}
		if len(all) >= mostOf {
			return act.Invalidf("body", "There are %d remarks about this post, which is the most. Delete some first.", mostOf)
		}
		id, err = tx.InsertRemark(ctx, store.Remark{SiteID: d.Site.ID, Post: post, User: &d.Actor, Body: body, Quote: quote, At: now, Wish: wish})
		return err
	})
	return id, err
}

// Resolve says that a remark is dealt with, or not.
func Resolve(ctx context.Context, d act.Desk, post, id int64, resolved bool, now time.Time) error {
	return change(ctx, d, post, id, func(tx *store.Tx, r store.Remark) error {
		r.ResolvedAt, r.ResolvedBy, r.Answer = nil, nil, nil
		if resolved {
			r.ResolvedAt, r.ResolvedBy = &now, &d.Actor
		}
		return tx.SaveRemark(ctx, r)
	})
}

// Delete deletes a remark of one's own. It fails with *act.Invalid for another's.
func Delete(ctx context.Context, d act.Desk, post, id int64) error {
	return change(ctx, d, post, id, func(tx *store.Tx, r store.Remark) error {
		if r.User == nil || *r.User != d.Actor {
			return act.Invalidf("id", "Only %s can delete this remark. You can resolve it.", r.By)
		}
		return tx.DeleteRemark(ctx, d.Site.ID, id)
	})
}

// Answer answers a request. With yes the post is planned for the time that was wished for, as if an editor had chosen it by hand. It fails with *act.Invalid for what is no
// request or has been answered, or where the time has passed meanwhile.
func Answer(ctx context.Context, d act.Desk, post, id int64, yes bool, now time.Time) error {
	var wish time.Time
	err := change(ctx, d, post, id, func(_ *store.Tx, r store.Remark) error {
		switch {
		case r.Wish == nil:
			return act.Invalidf("id", "This remark asks for nothing.")
		case r.ResolvedAt != nil:
			return answered()
		case yes && !r.Wish.After(now):
			return act.Invalidf("id", "The time that was asked for has passed. Choose another in the editor.")
		}
		wish = *r.Wish
		return nil
	})
	if err != nil {
		return err
	}
	if yes {
		p, err := d.Store.Post(ctx, d.Site.ID, post)
		if err != nil {
			return err
		}
		if _, err := status.Retime(ctx, d, post, p.Version, wish, now); err != nil {
			return fmt.Errorf("planning the post for the time that was asked for: %w", err)
		}
	}
	return change(ctx, d, post, id, func(tx *store.Tx, r store.Remark) error {
		if r.ResolvedAt != nil {
			return answered()
		}
		answer := map[bool]string{true: "yes", false: "no"}[yes]
		r.Answer, r.ResolvedAt, r.ResolvedBy = &answer, &now, &d.Actor
		return tx.SaveRemark(ctx, r)
	})
}

func answered() error { return act.Invalidf("id", "This request has been answered already.") }

func change(ctx context.Context, d act.Desk, post, id int64, work func(*store.Tx, store.Remark) error) error {
	return d.Store.InTx(ctx, func(tx *store.Tx) error {
		r, err := tx.LockRemark(ctx, d.Site.ID, post, id)
		if err != nil {
			return err
		}
		return work(tx, r)
	})
}
