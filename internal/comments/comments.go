// Package comments takes what readers write under posts, and does what editors decide about it.
//
// What becomes of a comment is decided in core/comment. Nothing is kept of a reader but what they wrote, the name
// they gave, and a hash of a secret in their browser.
package comments

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// BinnedFor is how long a deleted comment can be brought back.
const BinnedFor = 30 * 24 * time.Hour

// MaxAtOnce is how many comments are decided about at once.
const MaxAtOnce = 500

// Receive keeps a comment of a reader on a post that takes comments; reader is the hash of the secret in their browser.
// It returns the comment as it is kept, and fails with Refused.
func Receive(ctx context.Context, q store.Queries, site store.Site, post int64, w comment.Written, reader []byte, now time.Time) (store.Comment, error) {
	rules := site.CommentRules()
	w, problems := rules.Read(w)
	if len(problems) > 0 {
		return store.Comment{}, Refused(problems)
	}
	known := false
	if reader != nil {
		var err error
		if known, err = q.KnowsReader(ctx, site.ID, reader); err != nil {
			return store.Comment{}, err
		}
	}
	c := store.Comment{SiteID: site.ID, Post: post, Name: w.Name, Text: w.Text, Reader: reader, Status: rules.Fate(known), At: now}
	var err error
	if c.ID, err = q.InsertComment(ctx, c); err != nil {
		return c, fmt.Errorf("keeping a comment on post %d: %w", post, err)
	}
	return c, nil
}

// Refused lists what is wrong with a comment.
type Refused []comment.Problem

// Error says the first of it.
func (r Refused) Error() string { return r[0].Message }

// stand is where a comment stood, or stands, in the logbook.
type stand struct {
	ID     int64          `json:"id"`
	Status comment.Status `json:"status"`
}

// Decide says where comments stand from now on. Those that are gone, and those that stand there already, are left alone. It
// returns how many changed.
func Decide(ctx context.Context, d act.Desk, ids []int64, to comment.Status, now time.Time) (int, error) {
	if !slices.Contains([]comment.Status{comment.Held, comment.Shown, comment.Binned}, to) {
		return 0, act.Invalidf("to", "Comments are held, shown or in the bin, not %q.", to)
	}
	if len(ids) > MaxAtOnce {
		return 0, act.Invalidf("ids", "Choose %d comments at most.", MaxAtOnce)
	}
	changed := 0
	err := d.Store.InTx(ctx, func(tx *store.Tx) error {
		all, err := tx.LockComments(ctx, d.Site.ID, ids)
		if err != nil {
			return err
		}
		all = slices.DeleteFunc(all, func(c store.Comment) bool { return c.Status == to })
		if changed = len(all); changed == 0 {
			return nil
		}
		return set(ctx, d, tx, all, to, now)
	})
	return changed, err
}

// said is what the logbook says of comments that stand somewhere from now on.
var said = map[comment.Status]string{
	comment.Shown: "approved", comment.Held: "taken from readers’ sight", comment.Binned: "put into the bin",
}

func set(ctx context.Context, d act.Desk, tx *store.Tx, all []store.Comment, to comment.Status, now time.Time) error {
	var before, after []stand
	var ids []int64
	for _, c := range all {
		before, after, ids = append(before, stand{c.ID, c.Status}), append(after, stand{c.ID, to}), append(ids, c.ID)
	}
	if err := tx.SetCommentStatus(ctx, d.Site.ID, ids, to, now); err != nil {
		return fmt.Errorf("setting the status of %d comments: %w", len(ids), err)
	}
	reason := fmt.Sprintf("%s %s %s.", words.Count(len(ids), "comment"), words.For(len(ids), "was", "were"), said[to])
	if len(all) == 1 {
		reason = fmt.Sprintf("A comment by %s on “%s” was %s.", all[0].Name, all[0].Title, said[to])
	}
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedComments, Act: d.Act, Reason: reason, Before: act.JSON(before), After: act.JSON(after)})
}

// Undo puts comments back to where they stood before a line of the logbook. Those that were deleted for good, or moved since,
// are left alone.
func Undo(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	var before, after []stand
	for raw, into := range map[*json.RawMessage]*[]stand{&line.Before: &before, &line.After: &after} {
		if err := json.Unmarshal(*raw, into); err != nil {
			return fmt.Errorf("reading the logbook: %w", err)
		}
	}
	was := make(map[int64]comment.Status)
	var ids []int64
	for _, s := range before {
		was[s.ID], ids = s.Status, append(ids, s.ID)
	}
	left := make(map[int64]comment.Status)
	for _, s := range after {
		left[s.ID] = s.Status
	}
	all, err := tx.LockComments(ctx, d.Site.ID, ids)
	if err != nil {
		return err
	}
	back := make(map[comment.Status][]int64)
	var from, to []stand
	for _, c := range all {
		if c.Status != left[c.ID] {
			continue
		}
		back[was[c.ID]] = append(back[was[c.ID]], c.ID)
		from, to = append(from, stand{c.ID, c.Status}), append(to, stand{c.ID, was[c.ID]})
	}
	if len(from) == 0 {
		return act.Invalidf("id", "These comments have been moved or deleted since, so there is nothing to undo.")
	}
	for status, ids := range back {
		if err := tx.SetCommentStatus(ctx, d.Site.ID, ids, status, now); err != nil {
			return err
		}
	}
	return d.LogUndo(ctx, tx, line, act.JSON(from), act.JSON(to), now)
}

// Answer writes an answer to a comment in somebody's name, which readers see at once. A comment that waits is approved
// with it. It fails with *act.Invalid, and with store.ErrNotFound.
func Answer(ctx context.Context, d act.Desk, user store.User, id int64, text string, now time.Time) (store.Comment, error) {
	w, problems := comment.Rules{Links: comment.MaxLinks}.Read(comment.Written{Name: user.Name, Text: text})
	if len(problems) > 0 {
		return store.Comment{}, &act.Invalid{Field: problems[0].Field, Message: problems[0].Message}
	}
	var answer store.Comment
	err := d.Store.InTx(ctx, func(tx *store.Tx) error {
		found, err := tx.LockComments(ctx, d.Site.ID, []int64{id})
		if err != nil {
			return err
		}
		if len(found) == 0 {
			return store.ErrNotFound
		}
		c := found[0]
		if c.Status == comment.Binned {
			return act.Invalidf("id", "This comment is in the bin. Restore it first.")
		}
		if c.Status == comment.Held {
			if err := set(ctx, d, tx, found, comment.Shown, now); err != nil {
				return err
			}
		}
		// Answers stand one below another, not ever deeper.
		to := c.ID
		if c.Answers != nil {
			to = *c.Answers
		}
		answer = store.Comment{SiteID: d.Site.ID, Post: c.Post, Answers: &to, User: &user.ID, Name: w.Name, Text: w.Text, Status: comment.Shown, At: now,
			Title: c.Title, Slug: c.Slug}
		answer.ID, err = tx.Queries.InsertComment(ctx, answer)
		return err
	})
	return answer, err
}
