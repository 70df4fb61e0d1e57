package revisions

import (
	"context"
	"errors"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// TextOf is what a version says, with what stands beside the text in a post.
func TextOf(t store.Text, beside revise.Text) revise.Text {
	beside.Title, beside.Body, beside.Excerpt, beside.Tags, beside.Fields = t.Title, t.Body, t.Excerpt, t.Tags, t.Fields
	return beside
}

// Restore has a post say again what an earlier version of it said: title, text, excerpt, tags and custom fields. Its address, category and
// featured image stay. It fails with act.ErrStale where the post has a later version than the editor saw.
func Restore(ctx context.Context, d act.Desk, post int64, version int, text int64, now time.Time) error {
	return d.ChangePost(ctx, post, version, func(tx *store.Tx, p store.Post) error {
		t, err := tx.Queries.Text(ctx, d.Site.ID, post, text)
		if err != nil {
			return err
		}
		if t.Live {
			return act.Invalidf("text", "That is what the post says now.")
		}
		before := p
		p.Say(TextOf(t, p.Says()))
		why := "As in the version of " + when(d, t.At, now)
		if t.Name != "" {
			why += ", “" + t.Name + "”"
		}
		if p.Title == "" && (p.Cleared || p.Status != store.Draft) {
			return act.Invalidf("text", "That version has no title, which a post that is on the shelf, scheduled or out needs.")
		}
		if err := writing.Say(ctx, tx, before, p, &d.Actor, why+".", now); err != nil {
			return err
		}
		after, err := tx.Post(ctx, d.Site.ID, post)
		if err != nil {
			return err
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedText, Post: &post, Reason: "It says again what it said on " + when(d, t.At, now) + ".",
			Before: act.JSON(writing.SaidOf(0, before)), After: act.JSON(writing.SaidOf(0, after)), Act: d.Act})
	})
}

// maxName is the most characters of a version's name.
const maxName = 60

// Name gives a version of a post's text a name, or takes it from it: "".
func Name(ctx context.Context, d act.Desk, post, text int64, name string) error {
	name = strings.Join(strings.Fields(name), " ")
	if letters.Length(name, maxName) > maxName || len(name) > 400 || strings.ContainsRune(name, 0) {
		return act.Invalidf("name", "A name has at most %d characters.", maxName)
	}
	return d.Store.InTx(ctx, func(tx *store.Tx) error { return tx.NameText(ctx, d.Site.ID, post, text, name) })
}

// UndoSaid has a post say again what it said before a timed edit was applied, or a version restored. It fails with *act.Invalid where the post has
// been changed since.
func UndoSaid(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, after, err := act.Sides[writing.Said](line)
	if err != nil {
		return err
	}
	p, err := tx.LockPost(ctx, d.Site.ID, *line.Post)
	if err != nil {
		return err
	}
	if p.TextID != after.Text || len(revise.Changed(writing.SaidOf(0, p).Care, after.Care)) > 0 {
		return act.Invalidf("id", "“%s” has been changed since; its history has what it said before.", p.Title)
	}
	t, err := tx.Queries.Text(ctx, d.Site.ID, p.ID, before.Text)
	if err != nil {
		return err
	}
	was := p
	p.Say(TextOf(t, before.Care))
	if p.Slug == "" {
		p.Slug = was.Slug
	}
	if p.CategoryID != nil {
		has, err := tx.HasCategory(ctx, d.Site.ID, *p.CategoryID)
		if err != nil {
			return err
		}
		if !has {
			return act.Invalidf("id", "The category that it had was deleted.")
		}
	}
	why := act.UndoneWords(line)
	if err := writing.Say(ctx, tx, was, p, &d.Actor, why, now); err != nil {
		return err
	}
	done, err := tx.Post(ctx, d.Site.ID, p.ID)
	if err != nil {
		return err
	}
	if after.Edit != 0 {
		if err := standAgain(ctx, d, tx, after.Edit, line, done, now); err != nil {
			return err
		}
	}
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUndo, Post: line.Post, Act: d.Act, Undoes: d.Undoes, Reason: why,
		Before: act.JSON(writing.SaidOf(after.Edit, was)), After: act.JSON(writing.SaidOf(after.Edit, done))})
}

// standAgain says where a timed edit stands after it was undone, or done again. One that comes every year keeps its next date, prepared over what the post
// says now.
func standAgain(ctx context.Context, d act.Desk, tx *store.Tx, id int64, line store.LogEntry, p store.Post, now time.Time) error {
	e, err := tx.LockEdit(ctx, d.Site.ID, id)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	switch {
	case e.Yearly.Yearly != nil && e.State == store.EditWaiting:
		e.Base = store.Wording{Text: p.Says()}
	case line.Deed != store.DeedUndo && e.State == store.EditApplied:
		e.State, e.HeldWhy, e.Base = store.EditHeld, "It was applied and undone. Give it another time, or drop it.", store.Wording{Text: p.Says()}
	case line.Deed == store.DeedUndo && e.State == store.EditHeld:
		e.State, e.HeldWhy = store.EditApplied, ""
	default:
		return nil
	}
	return tx.SaveEdit(ctx, e, now)
}
