package imports

import (
	"context"
	"errors"
	"fmt"

	"dapper.example/internal/store"
)

// undo takes the posts of an import back, some at a time: new ones go to the bin, changed ones get their former texts. Those that
// somebody has changed since stay, and their lines say so.
func (r *Runner) undo(ctx context.Context, i store.Import) error {
	site, err := r.Store.Site(ctx, i.SiteID)
	if err != nil {
		return err
	}
	for {
		began := r.Clock.Now()
		lines, err := r.Store.ImportLines(ctx, i.ID, []store.LineState{store.LineLanded, store.LineUpdated}, 0, undoTogether)
		if err != nil {
			return err
		}
		if err := r.portion(ctx, &i, began, func(tx *store.Tx, now *store.Import) error {
			if len(lines) == 0 {
				ended := r.Clock.Now()
				now.State, now.EndedAt = store.ImportUndone, &ended
				now.Version++
				return nil
			}
			if err := tx.LockSite(ctx, site.ID); err != nil {
				return err
			}
			return r.takeBack(ctx, tx, i, lines)
		}); err != nil {
			return err
		}
		if i.State != store.ImportUndoing {
			return nil
		}
	}
}

func (r *Runner) takeBack(ctx context.Context, tx *store.Tx, i store.Import, lines []store.ImportLine) error {
	now := r.Clock.Now()
	var ids []int64
	for _, line := range lines {
		if line.PostID != nil {
			ids = append(ids, *line.PostID)
		}
	}
	unchanged, err := tx.Queries.UnchangedSince(ctx, i.SiteID, i.Source, ids)
	if err != nil {
		return err
	}
	var states []store.NewState
	var forgotten []int64
	for n := range lines {
		line := &lines[n]
		was := line.State
		if line.State = store.LineUndone; line.PostID == nil {
			continue
		}
		p, err := tx.LockPost(ctx, i.SiteID, *line.PostID)
		if errors.Is(err, store.ErrNotFound) {
			continue // somebody deleted it
		}
		if err != nil {
			return err
		}
		switch {
		case p.Status == store.Binned:
			forgotten = append(forgotten, p.ID)
		case !unchanged[p.ID]:
			line.State, line.Reason = store.LineKept, "It was changed since, so it stays."
		case was == store.LineUpdated:
			if err := r.formerText(ctx, tx, i, p); err != nil {
				return err
			}
			forgotten = append(forgotten, p.ID)
		default:
			states = append(states, store.NewState{SiteID: i.SiteID, Post: p.ID, State: p.State().Bin(now)})
			forgotten = append(forgotten, p.ID)
		}
	}
	if len(states) > 0 {
		if err := tx.SaveStates(ctx, states, now); err != nil {
			return fmt.Errorf("putting posts into the bin: %w", err)
		}
	}
	if err := tx.ForgetImported(ctx, i.SiteID, forgotten); err != nil {
		return err
	}
	return tx.SettleLines(ctx, lines)
}

// formerText gives a post the text back that it had before its import changed it.
func (r *Runner) formerText(ctx context.Context, tx *store.Tx, i store.Import, p store.Post) error {
	live, err := tx.Queries.Text(ctx, i.SiteID, p.ID, p.TextID)
	if err != nil || live.MadeFrom == nil {
		return err
	}
	former, err := tx.Queries.Text(ctx, i.SiteID, p.ID, *live.MadeFrom)
	if err != nil {
		return err
	}
	p.Title, p.Body, p.Excerpt, p.Fields = former.Title, former.Body, former.Excerpt, former.Fields
	if p.Tags, err = setTags(ctx, tx, p, former.Tags); err != nil {
		return err
	}
	return tx.SaveVersion(ctx, p, &i.User, r.Clock.Now())
}
