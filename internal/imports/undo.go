package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"

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
		case was == store.LineUpdated && (len(line.Former) == 0 || string(line.Former) == "null"): // it landed before that was kept
			line.State, line.Reason = store.LineKept, "What it was before is not known, so it stays. Its earlier texts are in its history."
		case was == store.LineUpdated:
			if err := r.giveBack(ctx, tx, i, p, *line); err != nil {
				return err
			}
			line.Former = nil
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

// former is what a post was before a line changed it.
type former struct {
	Text   int64  `json:"text"`   // its version
	Digest []byte `json:"digest"` // of what the source said
	Before parts  `json:"before"`
	After  parts  `json:"after"`
}

// parts are what a line changes of a post beside its text.
type parts struct {
	Category *int64 `json:"category"`
	Author   int64  `json:"author"`
	Image    string `json:"image"`
	Alt      string `json:"alt"`
	Link     string `json:"link,omitempty"`
}

func partsOf(p store.Post) parts {
	return parts{p.CategoryID, p.AuthorID, p.FeaturedImage, p.FeaturedAlt, p.Link}
}

// giveBack gives a post back what it was before a line changed it. Of what stands beside its text, what somebody has set since stays.
func (r *Runner) giveBack(ctx context.Context, tx *store.Tx, i store.Import, p store.Post, line store.ImportLine) error {
	var was former
	if err := json.Unmarshal(line.Former, &was); err != nil {
		return fmt.Errorf("reading what line %d changed: %w", line.Nr, err)
	}
	text, err := tx.Queries.Text(ctx, i.SiteID, p.ID, was.Text)
	if err != nil {
		return err
	}
	p.Title, p.Body, p.Excerpt, p.Fields = text.Title, text.Body, text.Excerpt, text.Fields
	if p.Tags, err = setTags(ctx, tx, p, text.Tags); err != nil {
		return err
	}
	if after := was.After.Category; after == nil && p.CategoryID == nil || after != nil && p.CategoryID != nil && *after == *p.CategoryID {
		if p.CategoryID, err = r.still(ctx, tx, i, was.Before.Category); err != nil {
			return err
		}
	}
	if p.AuthorID == was.After.Author {
		p.AuthorID = was.Before.Author
	}
	if p.Link == was.After.Link && was.Before.Link != "" {
		p.Link = was.Before.Link
	}
	if p.FeaturedImage == was.After.Image {
		p.FeaturedImage, p.FeaturedAlt = was.Before.Image, was.Before.Alt
	}
	if err := tx.SaveVersion(ctx, p, &i.User, r.Clock.Now()); err != nil {
		return fmt.Errorf("giving post %d back what it was: %w", p.ID, err)
	}
	return tx.NoteImported(ctx, []store.ImportPost{{SiteID: i.SiteID, Source: i.Source, Key: line.Key, Post: p.ID, Digest: was.Digest, Place: line.Place}})
}

// still is a category, unless it was deleted since.
func (r *Runner) still(ctx context.Context, tx *store.Tx, i store.Import, category *int64) (*int64, error) {
	if category == nil {
		return nil, nil
	}
	all, err := tx.Queries.Categories(ctx, i.SiteID)
	if err != nil || !slices.ContainsFunc(all, func(c store.Category) bool { return c.ID == *category }) {
		return nil, err
	}
	return category, nil
}
