package deed

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/post"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/core/words"
)

// The names of what is done to prepared changes of posts.
const (
	KindTimedEdit Kind = "timed edit"
	KindHoldEdit  Kind = "hold edit"
)

// Edit is a timed edit that waits: a prepared change of a post.
type Edit struct {
	ID     int64
	Post   int64
	At     time.Time      // a whole minute
	Base   revise.Text    // the post as it was when the change was prepared
	Wanted revise.Text    // what it is to say; {year} stands for the year in one that comes every year
	Yearly *revise.Yearly // it comes again every year; nil: once
}

// TimedEdit has a post that is out say what was prepared.
type TimedEdit struct {
	Base
	Edit int64
	Text revise.Text // all of it, merged with what the post says by now
	// Next is when it comes again, from a base of its own, of one that comes every year; zero: it does not.
	Next time.Time
	From revise.Text // that base
}

// Describe tells what the deed is.
func (d TimedEdit) Describe() Description { return d.describe(KindTimedEdit, Changed) }

func (d TimedEdit) apply(w *World, at time.Time) {
	e := w.dropEdit(d.Edit)
	if !d.Next.IsZero() {
		e.At, e.Base = d.Next, d.From
		w.addEdit(e)
	}
	i, known := w.find(d.Post)
	if !known {
		return
	}
	before := w.live[d.Post]
	w.live[d.Post] = d.Text
	if d.Text.Slug != before.Slug {
		w.slugs[d.Text.Slug] = d.Post // its former one still leads to it
	}
	f := w.changing(i)
	f.Title, f.Slug, f.Text, f.Excerpt, f.Tags, f.Fields = d.Text.Title, d.Text.Slug, d.Text.Body, d.Text.Excerpt, slices.Sorted(slices.Values(d.Text.Tags)), d.Text.Fields
	f.Category, f.FeaturedImage = w.scene.Categories[d.Text.Category], d.Text.Image != ""
	f.Words, f.InText = len(strings.Fields(d.Text.Body)), d.Text.Pictures()
	if d.Text.Title != before.Title || d.Text.Body != before.Body {
		f.Changed = at
	}
	w.touch(i)
}

// HoldEdit leaves a timed edit to an editor.
type HoldEdit struct {
	Base
	Edit int64
}

// Describe tells what the deed is.
func (d HoldEdit) Describe() Description { return d.describe(KindHoldEdit, NothingOf) }

func (d HoldEdit) apply(w *World, _ time.Time) { w.dropEdit(d.Edit) }

func (w *World) addEdit(e Edit) {
	i, _ := slices.BinarySearchFunc(w.edits, e, editsInOrder)
	w.edits = slices.Insert(w.edits, i, e)
}

func (w *World) dropEdit(id int64) (e Edit) {
	i := slices.IndexFunc(w.edits, func(e Edit) bool { return e.ID == id })
	if i < 0 {
		return e
	}
	e = w.edits[i]
	w.edits = slices.Delete(w.edits, i, i+1)
	return e
}

func editsInOrder(a, b Edit) int { return cmp.Or(a.At.Compare(b.At), cmp.Compare(a.ID, b.ID)) }

// timedEdits are the edits of a world, in order of their time. Each sees what the ones before it did.
type timedEdits struct{ w *World }

func (e timedEdits) stage() Stage { return Editing }

func (e timedEdits) due(time.Time) (time.Time, bool) {
	if len(e.w.edits) == 0 {
		return time.Time{}, false
	}
	return e.w.edits[0].At, true
}

func (e timedEdits) act(at time.Time) Decision {
	return Decision{Deeds: []Deed{e.w.edit(e.w.edits[0], at)}}
}

// edit is what becomes of a timed edit at its time.
func (w *World) edit(e Edit, at time.Time) Deed {
	hold := func(format string, args ...any) Deed {
		return HoldEdit{Edit: e.ID, Base: Base{Post: e.Post, Due: e.At, Reason: "A timed edit is on hold: " + fmt.Sprintf(format, args...)}}
	}
	i, known := w.find(e.Post)
	if !known {
		return hold("its post is gone.")
	}
	if s := stateOf(w.posts[i]); !s.IsOut() {
		return hold("%s", notOut[s.Status])
	}
	live, wanted := w.live[e.Post], e.Wanted.Due(e.At, e.Yearly, w.scene.Zone)
	merged, clashes := revise.Merge(e.Base, wanted, live)
	if len(clashes) > 0 {
		return hold("the post was changed meanwhile in the same places, in its %s.", clashing(clashes))
	}
	if holder := w.slugs[merged.Slug]; merged.Slug != live.Slug && holder != 0 && holder != e.Post {
		return hold("its new address, %s, belongs to another post.", merged.Slug)
	}
	if _, there := w.scene.Categories[merged.Category]; merged.Category != 0 && !there {
		return hold("its new category was deleted.")
	}
	changed := revise.Changed(live, merged)
	reason := "Changed as it was prepared: " + sayParts(changed) + "."
	if len(changed) == 0 {
		reason = "It says already what was prepared."
	}
	if late := at.Sub(e.At); late >= Late {
		reason += " It was " + spell(late) + " late."
	}
	d := TimedEdit{Base: Base{Post: e.Post, Due: e.At, Reason: reason}, Edit: e.ID, Text: merged}
	if e.Yearly != nil {
		d.Next, d.From = e.Yearly.After(e.At, w.scene.Zone), wanted
	}
	return d
}

// PostNotOut is in the reasons why an edit is on hold since its post is not out.
const PostNotOut = "its post is "

// notOut says why a post that is not out is not changed.
var notOut = map[post.Status]string{post.Draft: PostNotOut + "a draft.", post.Scheduled: PostNotOut + "scheduled, and not out yet.",
	post.Archived: PostNotOut + "archived.", post.Binned: PostNotOut + "in the bin.", post.Linked: PostNotOut + "a link item."}

// clashing says where changes clash, each part once.
func clashing(clashes []revise.Clash) string {
	var parts []revise.Part
	for _, c := range clashes {
		if !slices.Contains(parts, c.Part) {
			parts = append(parts, c.Part)
		}
	}
	return sayParts(parts)
}

func sayParts(parts []revise.Part) string {
	said := make([]string, len(parts))
	for i, p := range parts {
		said[i] = p.String()
	}
	return words.List(said, "and")
}
