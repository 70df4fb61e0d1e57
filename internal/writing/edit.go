package writing

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/words"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
)

// Edit is a change to fields of many posts at once; nil fields stay as they are.
type Edit struct {
	Title      *string    // of one post only
	Slug       *string    // its address; of one post only, "" for one made from the title when it is needed
	At         *time.Time // its time, given by hand; of one post only
	Category   *int64     // 0 for none
	AddTags    []string
	RemoveTags []string
	Author     *int64
	NotBefore  *time.Time // the zero time for no bound
	Deadline   *time.Time
	Evergreen  *bool
}

// facts are what an Edit may change, as the logbook keeps them.
type facts struct {
	Title     string     `json:"title"`
	Slug      *string    `json:"slug,omitempty"` // only where the edit gave an address: scheduling gives one too
	Category  *int64     `json:"category,omitempty"`
	Tags      []string   `json:"tags"`
	Author    int64      `json:"author"`
	NotBefore *time.Time `json:"not_before,omitempty"`
	Deadline  *time.Time `json:"deadline,omitempty"`
	Evergreen bool       `json:"evergreen,omitempty"`
	Comments  *bool      `json:"comments,omitempty"` // whether they are open; only where that was changed
}

func factsOf(p store.Post) facts {
	return facts{p.Title, &p.Slug, p.CategoryID, append([]string{}, p.Tags...), p.AuthorID, p.NotBefore, p.Deadline,
		p.Evergreen, &p.CommentsOpen}
}

// differences names what differs between the facts, in order; tags are the same that have
// the same form in addresses.
func (f facts) differences(to facts) (fields []string) {
	sameCategory := f.Category == to.Category || f.Category != nil && to.Category != nil && *f.Category == *to.Category
	for _, one := range []struct {
		name string
		same bool
	}{
		{"address", f.Slug == nil || to.Slug == nil || *f.Slug == *to.Slug},
		{"author", f.Author == to.Author},
		{"bounds", sameTime(f.NotBefore, to.NotBefore) && sameTime(f.Deadline, to.Deadline)},
		{"category", sameCategory},
		{"comments", f.Comments == nil || to.Comments == nil || *f.Comments == *to.Comments},
		{"evergreen", f.Evergreen == to.Evergreen},
		{"tags", slices.Equal(slugsOf(f.Tags), slugsOf(to.Tags))},
		{"title", f.Title == to.Title},
	} {
		if !one.same {
			fields = append(fields, one.name)
		}
	}
	return fields
}

func slugsOf(tags []string) (slugs []string) {
	for _, tag := range tagsOf(tags) {
		slugs = append(slugs, tag.Slug)
	}
	slices.Sort(slugs)
	return slugs
}

// EditMany changes fields of posts, each in the version that the editor saw (0: in any),
// as one act that is undone together. Posts that cannot take the change are left and named; it
// fails with *act.Invalid where the change itself cannot be.
func EditMany(ctx context.Context, d act.Desk, posts []act.PostVersion, edit Edit, now time.Time) (changed int, left []act.LeftPost,
	err error) {
	if edit.Title != nil && len(posts) != 1 {
		return 0, nil, act.Invalidf("title", "Titles are edited one post at a time.")
	}
	if (edit.Slug != nil || edit.At != nil) && len(posts) != 1 {
		return 0, nil, act.Invalidf("ids", "Addresses and times are set one post at a time.")
	}
	if edit.NotBefore != nil && edit.Deadline != nil && !edit.NotBefore.IsZero() && !edit.Deadline.IsZero() &&
		edit.Deadline.Before(*edit.NotBefore) {
		return 0, nil, act.Invalidf("deadline",
			"The deadline is before the drafts may come out. Change one of the two.")
	}
	err = d.Change(ctx, func(tx *store.Tx) error {
		if err := d.Begin(ctx, tx, words.Count(len(posts), "post")+" changed in the list.", now); err != nil {
			return err
		}
		for _, seen := range posts {
			p, err := tx.LockPost(ctx, d.Site.ID, seen.Post)
			if err != nil {
				return err
			}
			if why := edit.leaves(p, seen.Version); why != "" {
				left = append(left, act.LeftPost{ID: p.ID, Title: p.Title, Reason: why})
				continue
			}
			done, err := editOne(ctx, d, tx, p, edit, now)
			if err != nil {
				return err
			}
			if edit.At != nil {
				if p, err = tx.LockPost(ctx, d.Site.ID, p.ID); err != nil {
					return err
				}
				if err := status.RetimeWithin(ctx, d, tx, p, edit.At.Truncate(time.Minute), now); err != nil {
					return err
				}
				done = true
			}
			if done {
				changed++
			}
		}
		return nil
	})
	return changed, left, err
}

// leaves says why a post cannot take the edit; "" where it can.
func (e Edit) leaves(p store.Post, version int) string {
	bounds := e.NotBefore != nil || e.Deadline != nil
	switch {
	case version != 0 && p.Version != version:
		return "Somebody changed it meanwhile. Look at it again."
	case bounds && p.Status != store.Draft:
		return "Only a draft has bounds; this post is " + string(p.Status) + "."
	}
	notBefore, deadline := p.NotBefore, p.Deadline
	if e.NotBefore != nil {
		notBefore = orNil(*e.NotBefore)
	}
	if e.Deadline != nil {
		deadline = orNil(*e.Deadline)
	}
	if bounds && notBefore != nil && deadline != nil && deadline.Before(*notBefore) {
		return "Its deadline would be before the earliest time it may come out."
	}
	return ""
}

// editOne changes one post, and tells whether there was anything to change.
func editOne(ctx context.Context, d act.Desk, tx *store.Tx, p store.Post, edit Edit, now time.Time) (bool, error) {
	to := factsOf(p)
	set(&to.Title, edit.Title)
	if edit.Slug != nil {
		slug := address.Slug(*edit.Slug)
		to.Slug = &slug
	}
	if edit.Category != nil {
		if to.Category = edit.Category; *edit.Category == 0 {
			to.Category = nil
		}
	}
	set(&to.Author, edit.Author)
	set(&to.Evergreen, edit.Evergreen)
	if edit.NotBefore != nil {
		to.NotBefore = orNil(*edit.NotBefore)
	}
	if edit.Deadline != nil {
		to.Deadline = orNil(*edit.Deadline)
	}
	to.Tags = slices.DeleteFunc(append(to.Tags, edit.AddTags...), func(tag string) bool {
		return slices.ContainsFunc(edit.RemoveTags,
			func(gone string) bool { return address.Slug(gone) == address.Slug(tag) })
	})
	before := factsOf(p)
	before.Comments, to.Comments = nil, nil
	if edit.Slug == nil {
		before.Slug, to.Slug = nil, nil
	}
	changed := before.differences(to)
	if len(changed) == 0 {
		return false, nil
	}
	if err := putFacts(ctx, d, tx, &p, to, now); err != nil {
		return false, err
	}
	post, err := tx.Post(ctx, d.Site.ID, p.ID)
	if err != nil {
		return false, err
	}
	after := factsOf(post)
	after.Comments = nil
	if edit.Slug == nil {
		after.Slug = nil
	}
	return true, d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedEdit,
		Post: &p.ID,
		Reason: fmt.Sprintf("Changed in the list: %s.",
			joined(changed)), Before: act.JSON(before), After: act.JSON(after), Act: d.Act})
}

// joined lists words as a sentence does.
func joined(words []string) string {
	last := len(words) - 1
	if last < 1 {
		return strings.Join(words, "")
	}
	return strings.Join(words[:last], ", ") + " and " + words[last]
}

// putFacts gives the post the facts and writes it.
func putFacts(ctx context.Context, d act.Desk, tx *store.Tx, p *store.Post, to facts, now time.Time) error {
	var category int64
	if to.Category != nil {
		category = *to.Category
	}
	text := Text{Title: &to.Title, Category: &category, Tags: &to.Tags, Author: &to.Author, Evergreen: &to.Evergreen,
		Slug: to.Slug, CommentsOpen: to.Comments}
	if problems := text.Problems(); len(problems) > 0 {
		return problems[0]
	}
	if err := apply(ctx, d, tx, p, text, now); err != nil {
		return err
	}
	p.NotBefore, p.Deadline = to.NotBefore, to.Deadline
	return errors.Join(tx.SaveText(ctx, *p, &d.Actor, now), tx.SaveCare(ctx, *p, now), tx.SaveState(ctx, *p, now))
}

// UndoEdit gives a post the fields back that a line of the logbook changed. It fails with *act.Invalid where
// they have been changed since.
func UndoEdit(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	before, after, err := act.Sides[facts](line)
	if err != nil {
		return err
	}
	p, err := tx.LockPost(ctx, d.Site.ID, *line.Post)
	if err != nil {
		return err
	}
	if len(after.differences(factsOf(p))) > 0 {
		return act.Invalidf("id", "“%s” has been changed since; undo the later change first.", p.Title)
	}
	if err := putFacts(ctx, d, tx, &p, before, now); err != nil {
		return err
	}
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUndo, Post: &p.ID,
		Act: d.Act, Undoes: d.Undoes,
		Reason: act.UndoneWords(line), Before: act.JSON(after), After: act.JSON(before)})
}

// exact is as finely as PostgreSQL keeps time.
const exact = time.Microsecond

func sameTime(a, b *time.Time) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Sub(*b).Abs() <= exact
}
