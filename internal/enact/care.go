package enact

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

func refile(ctx context.Context, w *work, d deed.Refile) error {
	return w.takeCare(ctx, d, writing.Care{Category: d.Category})
}

func addTag(ctx context.Context, w *work, d deed.AddTag) error {
	return w.takeCare(ctx, d, writing.Care{AddTag: d.Tag})
}

func closeComments(ctx context.Context, w *work, d deed.CloseComments) error {
	return w.takeCare(ctx, d, writing.Care{CloseComments: true})
}

// takeCare changes what a post is filed under, or whether it takes comments.
func (w *work) takeCare(ctx context.Context, d deed.Deed, care writing.Care) error {
	told := d.Describe()
	p, err := w.tx.LockPost(ctx, w.Site, told.Post)
	if err != nil {
		return err
	}
	change, err := writing.TakeCare(ctx, w.tx, p, care, w.Actor, told.Reason, w.Now)
	if err != nil {
		return err
	}
	line := w.line(told.Base, told.Kind)
	if line.Before, err = json.Marshal(change.Before); err != nil {
		return err
	}
	if line.After, err = json.Marshal(change.After); err != nil {
		return err
	}
	return w.tx.Log(ctx, line)
}

func putNotice(_ *work, d deed.PutNotice, s post.State) post.State { return s.Notify(d.Notice) }

// deleteForGood deletes a post. The lines of the logbook about it keep its title.
func deleteForGood(ctx context.Context, w *work, d deed.Delete) error {
	if err := w.tx.Log(ctx, w.line(d.Base, deed.KindDelete)); err != nil {
		return err
	}
	return w.tx.DeletePost(ctx, w.Site, d.Post)
}

// warn tells the author of a post that a rule is about to take it.
func warn(ctx context.Context, w *work, d deed.Warn) error {
	return w.notify(ctx, w.line(d.Base, deed.KindWarn), d.On)
}

// askToRead asks that somebody read a post before a rule brings it out again.
func askToRead(ctx context.Context, w *work, d deed.AskToRead) error {
	return w.notify(ctx, w.line(d.Base, deed.KindAskToRead), d.On)
}

// notify notes what people are told of before a rule acts on a post, and tells its author by one mail for all posts of the
// decision.
func (w *work) notify(ctx context.Context, line store.LogEntry, on time.Time) error {
	n := store.Notice{SiteID: w.Site, Rule: *line.Rule, Post: *line.Post, At: w.Now, DueOn: on}
	if err := w.tx.Tell(ctx, n); err != nil {
		return fmt.Errorf("noting that somebody was told: %w", err)
	}
	owners, err := w.tx.Queries.Owners(ctx, w.Site, []int64{n.Post})
	if err != nil {
		return err
	}
	if author := owners[n.Post].Author; author != 0 && !w.told[author] {
		if w.told == nil {
			w.told = make(map[int64]bool)
		}
		w.told[author] = true
		if err := w.Queue.TellAuthor(ctx, w.tx, w.Site, n.Rule, author, w.Now); err != nil {
			return fmt.Errorf("queueing the mail about it: %w", err)
		}
	}
	return w.tx.Log(ctx, line)
}
