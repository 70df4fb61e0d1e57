// Package revisions is where editors change what posts that are out say: they prepare changes for a time (timed edits), settle those
// that clash, and bring back what earlier versions said. When its time comes, core decides what becomes of a timed edit (package deed).
//
// It has no clock: callers say what time it is.
package revisions

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// Limits of timed edits.
const (
	MaxOfPost = 20  // that wait for one post
	MaxOfSite = 300 // that wait on a site
	// maxBytes is how much all of a site's may say: a forecast has them in memory at once.
	maxBytes = 30 << 20
)

// Wish is what an editor prepares.
type Wish struct {
	Text   revise.Text
	At     time.Time
	Yearly bool // it comes again every year, and {year} stands for it
}

// problem says what is wrong with a wish, whatever the post; nil where nothing is.
func (w *Wish) problem(now time.Time) *act.Invalid {
	w.At = w.At.Truncate(time.Minute)
	switch {
	case !civil.IsNear(w.At):
		return act.Invalidf("at", "That is too far away. Choose a date from %d to %d.", civil.FirstYear, civil.LastYear)
	case !w.At.After(now):
		return act.Invalidf("at", "That time has passed. Choose a later one.")
	}
	return w.textProblem()
}

func (w *Wish) textProblem() *act.Invalid {
	t := &w.Text
	t.Title = strings.TrimSpace(t.Title)
	said := writing.Text{Title: &t.Title, Body: &t.Body, Excerpt: &t.Excerpt, Tags: &t.Tags, Fields: &t.Fields, Slug: &t.Slug, Featured: &writing.Featured{Address: t.Image, Alt: t.Alt}}
	if problems := said.Problems(); len(problems) > 0 {
		return problems[0]
	}
	t.Tags = tagsOf(t.Tags)
	switch t.Slug = address.Slug(t.Slug); {
	case t.Title == "":
		return act.Invalidf("title", "A post that is out needs a title.")
	case t.Slug == "":
		return act.Invalidf("slug", "A post that is out needs an address.")
	case slices.Contains(act.OwnPages, t.Slug):
		return act.Invalidf("slug", "“%s” is used by the blog itself. Choose another address.", t.Slug)
	case strings.ContainsRune(t.Alt, 0):
		return act.Invalidf("featured", "It contains a character that is not text (NUL). Remove it.")
	}
	return nil
}

// tagsOf are tags, each once.
func tagsOf(names []string) (kept []string) {
	var slugs []string
	for _, name := range names {
		name = strings.TrimSpace(name)
		if slug := address.Slug(name); !slices.Contains(slugs, slug) {
			kept, slugs = append(kept, name), append(slugs, slug)
		}
	}
	return kept
}

// fits says what is wrong with a wish for a post, as the blog is now.
func (w *Wish) fits(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post) error {
	switch {
	case p.Kind == "link":
		return act.Invalidf("post", "A link item has no page to change at a time. Change it now.")
	case !p.State().IsOut():
		return act.Invalidf("post", "Only a post that is out is changed at a time; this one is %s. Write it instead.", p.Status)
	}
	if w.Text.Category != 0 {
		has, err := tx.HasCategory(ctx, d.Site.ID, w.Text.Category)
		if err != nil {
			return err
		}
		if !has {
			return act.Invalidf("categoryId", "This site has no such category. Choose one that it has.")
		}
	}
	held, err := tx.Queries.SlugsHeld(ctx, d.Site.ID, []string{w.Text.Slug})
	if err != nil {
		return err
	}
	if holder := held[w.Text.Slug]; holder != 0 && holder != p.ID {
		return act.Invalidf("slug", "“%s” belongs to another post. Choose another address.", w.Text.Slug)
	}
	return nil
}

func (w *Wish) yearly(zone civil.Zone) store.EachYear {
	if !w.Yearly {
		return store.EachYear{}
	}
	y := revise.YearlyOf(w.At, zone)
	return store.EachYear{Yearly: &y}
}

// Prepare has a change of a post that is out wait for its time: from what the post says in the version that the editor saw. It fails with
// *act.Invalid, and with act.ErrStale where there is a later version.
func Prepare(ctx context.Context, d act.Desk, post int64, version int, w Wish, now time.Time) (id int64, err error) {
	if bad := w.problem(now); bad != nil {
		return 0, bad
	}
	err = d.ChangePost(ctx, post, version, func(tx *store.Tx, p store.Post) error {
		if err := w.fits(ctx, d, tx, p); err != nil {
			return err
		}
		if len(revise.Changed(p.Says(), w.Text)) == 0 {
			return act.Invalidf("body", "It says what the post says now. Change something first.")
		}
		e := store.TimedEdit{SiteID: d.Site.ID, Post: post, User: &d.Actor, Base: store.Wording{Text: p.Says()}, Wanted: store.Wording{Text: w.Text}, DueAt: w.At,
			Yearly: w.yearly(d.Site.Zone()), State: store.EditWaiting, CreatedAt: now}
		if err := room(ctx, tx, e); err != nil {
			return err
		}
		if id, err = tx.InsertEdit(ctx, e); err != nil {
			return fmt.Errorf("keeping a timed edit: %w", err)
		}
		e.ID = id
		return note(ctx, d, tx, "A change was prepared for "+when(d, w.At, now)+".", post, nil, &e, now)
	})
	return id, err
}

// room fails where an edit may not wait beside those that wait already.
func room(ctx context.Context, tx *store.Tx, e store.TimedEdit) error {
	onSite, ofPost, bytes, err := tx.Queries.EditsOpen(ctx, e.SiteID, e.Post, e.ID)
	if err != nil {
		return err
	}
	bytes += len(e.Base.Body) + len(e.Wanted.Body)
	switch {
	case ofPost >= MaxOfPost:
		return act.Invalidf("post", "%s wait for this post already. Drop one first.", words.Count(ofPost, "change"))
	case onSite >= MaxOfSite:
		return act.Invalidf("post", "%s wait on this blog already. Drop one first.", words.Count(onSite, "change"))
	case bytes > maxBytes:
		return act.Invalidf("body", "The changes that wait would have %d MB of text together; at most %d MB fit. Drop one first.", bytes>>20, maxBytes>>20)
	}
	return nil
}

// change changes a timed edit that waits, or waits for an editor, in the version that the editor saw.
func change(ctx context.Context, d act.Desk, id int64, version int, now time.Time, how func(tx *store.Tx, e *store.TimedEdit, p store.Post) (says string, err error)) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		e, err := tx.LockEdit(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if e.Version != version {
			return act.ErrStale
		}
		if e.State != store.EditWaiting && e.State != store.EditHeld {
			return act.Invalidf("id", "This change was %s already.", e.State)
		}
		p, err := tx.LockPost(ctx, d.Site.ID, e.Post)
		if err != nil {
			return err
		}
		before := e
		says, err := how(tx, &e, p)
		if err != nil {
			return err
		}
		if err := tx.SaveEdit(ctx, e, now); err != nil {
			return fmt.Errorf("saving timed edit %d: %w", id, err)
		}
		return note(ctx, d, tx, says, e.Post, &before, &e, now)
	})
}

func wait(e *store.TimedEdit) { e.State, e.HeldWhy = store.EditWaiting, "" }

// Save has a timed edit say something else, or at another time. One that was on hold waits again.
func Save(ctx context.Context, d act.Desk, id int64, version int, w Wish, now time.Time) error {
	if bad := w.problem(now); bad != nil {
		return bad
	}
	return change(ctx, d, id, version, now, func(tx *store.Tx, e *store.TimedEdit, p store.Post) (string, error) {
		if err := w.fits(ctx, d, tx, p); err != nil {
			return "", err
		}
		e.Wanted, e.DueAt, e.Yearly = store.Wording{Text: w.Text}, w.At, w.yearly(d.Site.Zone())
		wait(e)
		if err := room(ctx, tx, *e); err != nil {
			return "", err
		}
		return "A prepared change was changed. It is for " + when(d, w.At, now) + ".", nil
	})
}

// Retime gives a timed edit another time.
func Retime(ctx context.Context, d act.Desk, id int64, version int, at, now time.Time) error {
	at = at.Truncate(time.Minute)
	switch {
	case !civil.IsNear(at):
		return act.Invalidf("at", "That is too far away. Choose a date from %d to %d.", civil.FirstYear, civil.LastYear)
	case !at.After(now):
		return act.Invalidf("at", "That time has passed. Choose a later one.")
	}
	return change(ctx, d, id, version, now, func(_ *store.Tx, e *store.TimedEdit, _ store.Post) (string, error) {
		was := e.DueAt
		e.DueAt = at
		if e.Yearly.Yearly != nil {
			y := revise.YearlyOf(at, d.Site.Zone())
			e.Yearly.Yearly = &y
		}
		wait(e)
		return fmt.Sprintf("A prepared change was moved from %s to %s.", when(d, was, now), when(d, at, now)), nil
	})
}

// ApplyNow has a timed edit applied at once. It is held where it clashes with what the post says.
func ApplyNow(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return change(ctx, d, id, version, now, func(_ *store.Tx, e *store.TimedEdit, p store.Post) (string, error) {
		if !p.State().IsOut() {
			return "", act.Invalidf("id", "Its post is %s. It can be applied once the post is out.", p.Status)
		}
		if y := e.Yearly.Yearly; y != nil && now.Before(e.DueAt) {
			return "", act.Invalidf("id", "It comes every year, next on %s. Move it to apply it sooner.", when(d, e.DueAt, now))
		}
		e.DueAt = now.Truncate(time.Minute)
		wait(e)
		return "A prepared change was sent to its post at once.", nil
	})
}

// Drop drops a timed edit. Undoing that from the logbook brings it back.
func Drop(ctx context.Context, d act.Desk, id int64, version int, now time.Time) error {
	return change(ctx, d, id, version, now, func(_ *store.Tx, e *store.TimedEdit, _ store.Post) (string, error) {
		e.State, e.HeldWhy = store.EditDropped, ""
		return "A prepared change for " + when(d, e.DueAt, now) + " was dropped.", nil
	})
}

// Settle says what becomes of the places where a timed edit clashes with what its post says, in their order, and has it wait for a time.
func Settle(ctx context.Context, d act.Desk, id int64, version int, choices []revise.Choice, at, now time.Time) error {
	return change(ctx, d, id, version, now, func(tx *store.Tx, e *store.TimedEdit, p store.Post) (string, error) {
		wanted := e.Says(d.Site.Zone())
		if _, clashes := revise.Merge(e.Base.Text, wanted, p.Says()); len(choices) != len(clashes) {
			return "", act.ErrStale // they were other clashes
		}
		if e.Yearly.Yearly != nil {
			wanted = e.Wanted.Text // what comes every year keeps its {year}
		}
		merged, clashes := revise.Settle(e.Base.Text, wanted, p.Says(), choices)
		if len(choices) != len(clashes) {
			return "", act.Invalidf("choices", "It comes every year, and its {year} stands where the post was changed. Edit the change instead.")
		}
		w := Wish{Text: merged, At: at, Yearly: e.Yearly.Yearly != nil}
		if bad := w.problem(now); bad != nil {
			return "", bad
		}
		if err := w.fits(ctx, d, tx, p); err != nil {
			return "", err
		}
		e.Base, e.DueAt = store.Wording{Text: p.Says()}, w.At
		e.Wanted, e.Yearly = store.Wording{Text: w.Text}, w.yearly(d.Site.Zone())
		wait(e)
		return "A prepared change that clashed was settled, for " + when(d, w.At, now) + ".", nil
	})
}

func when(d act.Desk, at, now time.Time) string {
	zone := d.Site.Zone()
	return zone.DateWords(at, now) + zone.In(at).Format(", 15:04")
}

// note writes a line of the logbook: what was done to a timed edit by hand.
func note(ctx context.Context, d act.Desk, tx *store.Tx, says string, post int64, before, after *store.TimedEdit, now time.Time) error {
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedPrepare, Post: &post, Reason: says, Before: act.JSON(keptOf(before)), After: act.JSON(keptOf(after)),
		Act: d.Act, Undoes: d.Undoes})
}

// kept is a timed edit as the logbook keeps it.
type kept struct {
	ID      int64           `json:"id"`
	Base    revise.Text     `json:"base"`
	Wanted  revise.Text     `json:"wanted"`
	DueAt   time.Time       `json:"due_at"`
	Yearly  *revise.Yearly  `json:"yearly,omitempty"`
	State   store.EditState `json:"state"`
	HeldWhy string          `json:"held_why,omitempty"`
}

func keptOf(e *store.TimedEdit) *kept {
	if e == nil {
		return nil
	}
	return &kept{e.ID, e.Base.Text, e.Wanted.Text, e.DueAt.UTC(), e.Yearly.Yearly, e.State, e.HeldWhy}
}

// sides are what a timed edit was before a line of the logbook, and after it; nil where there was none.
func sides(line store.LogEntry) (before, after *kept, err error) {
	if !act.IsNothing(line.Before) {
		err = json.Unmarshal(line.Before, &before)
	}
	if !act.IsNothing(line.After) {
		err = errors.Join(err, json.Unmarshal(line.After, &after))
	}
	return before, after, err
}

// UndoPrepared gives a timed edit back what it was before a line of the logbook. One whose time has passed by now waits for an editor.
func UndoPrepared(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, after, err := sides(line)
	if err != nil {
		return err
	}
	if after == nil { // the line undid the preparation
		after = &kept{ID: before.ID, State: store.EditDropped}
	}
	e, err := tx.LockEdit(ctx, d.Site.ID, after.ID)
	if err != nil {
		return err
	}
	if e.State != after.State || after.State != store.EditDropped && (!e.DueAt.Equal(after.DueAt) || len(revise.Changed(e.Wanted.Text, after.Wanted)) > 0) {
		return act.Invalidf("id", "That change was changed or applied since.")
	}
	if before == nil {
		e.State, e.HeldWhy = store.EditDropped, ""
	} else {
		e.Base, e.Wanted, e.DueAt, e.Yearly, e.State, e.HeldWhy = store.Wording{Text: before.Base}, store.Wording{Text: before.Wanted}, before.DueAt, store.EachYear{Yearly: before.Yearly}, before.State, before.HeldWhy
		if e.State == store.EditWaiting && !e.DueAt.After(now) {
			e.State, e.HeldWhy = store.EditHeld, "A timed edit is on hold: its time has passed meanwhile."
		}
	}
	if err := tx.SaveEdit(ctx, e, now); err != nil {
		return err
	}
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUndo, Post: line.Post, Act: d.Act, Undoes: d.Undoes, Reason: act.UndoneWords(line), Before: act.JSON(after), After: act.JSON(before)})
}
