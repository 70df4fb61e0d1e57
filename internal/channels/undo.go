package channels

import (
	"context"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/store"
)

// announced is a side of a line of the logbook about what is shared when posts come out, or about a list of words.
type announced struct {
	Post int64           `json:"post,omitempty"` // whose say it is; 0: the site's
	Say  *Say            `json:"say,omitempty"`  // nil: it is about a list
	List *store.WordList `json:"list,omitempty"` // nil: there is none of the name
	Name string          `json:"name,omitempty"` // of the list
}

func sideOf(post int64, s Say) announced {
	s.Token() // without the numbers of its rows, which others get when it is written again
	return announced{Post: post, Say: &s}
}

// equals tells whether two sides say the same.
func (a announced) equals(other announced) bool {
	if (a.Say == nil) != (other.Say == nil) || (a.List == nil) != (other.List == nil) {
		return false
	}
	if a.Say != nil {
		return a.Say.Token() == other.Say.Token()
	}
	return a.List == nil || slices.Equal(a.List.Entries, other.List.Entries)
}

// present is how what a side is about is now.
func (d Editor) present(ctx context.Context, tx *store.Tx, a announced) (announced, error) {
	if a.Say != nil {
		say, err := d.SayOf(ctx, tx.Queries, a.Post)
		return sideOf(a.Post, say), err
	}
	list, err := d.list(ctx, tx.Queries, a.Name)
	return announced{Name: a.Name, List: list}, err
}

// list is a list of the site; nil where there is none of the name.
func (d Editor) list(ctx context.Context, q store.Queries, name string) (*store.WordList, error) {
	all, err := q.WordLists(ctx, d.Site.ID)
	for i := range all {
		if all[i].Name == name {
			return &all[i], err
		}
	}
	return nil, err
}

// UndoAnnounced takes back a change of what is shared when posts come out, or of a list of words, where nothing was changed of it
// since. It fails with *act.Invalid otherwise, and where what it was before cannot be any more.
func UndoAnnounced(ctx context.Context, desk act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	d := Editor{Desk: desk}
	before, after, err := act.Sides[announced](line)
	if err != nil {
		return err
	}
	was, err := d.present(ctx, tx, after)
	if err != nil {
		return err
	}
	if !was.equals(after) {
		return act.Invalidf("id", "This has been changed since; undo the later change first.")
	}
	switch {
	case before.Say != nil:
		if err = d.checkSay(ctx, tx.Queries, *before.Say); err == nil {
			err = d.writeSay(ctx, tx, before.Post, *before.Say)
		}
	case before.List != nil:
		err = d.writeList(ctx, tx, *before.List)
	default:
		err = d.dropList(ctx, tx, before.Name)
	}
	if err != nil {
		return err
	}
	return d.LogUndo(ctx, tx, line, act.JSON(was), act.JSON(before), now)
}
