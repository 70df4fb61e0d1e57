package writing

import (
	"context"
	"slices"
	"time"

	"dapper.example/internal/core/address"
	"dapper.example/internal/store"
)

// Care is what an action changes of a post that stays where it is; zero fields stay.
type Care struct {
	Category      int64
	AddTag        string
	CloseComments bool
}

// Change is what a post was before a change and after it, for the logbook; UndoEdit takes it back.
type Change struct{ Before, After any }

// TakeCare changes a locked post, by nobody's hand where there is no actor, and says why.
func TakeCare(ctx context.Context, tx *store.Tx, p store.Post, c Care, actor *int64, why string, now time.Time) (Change, error) {
	before, was := p, factsOf(p)
	if c.Category != 0 {
		p.CategoryID = &c.Category
	}
	if c.AddTag != "" && !address.IsAmong(c.AddTag, p.Tags) {
		p.Tags = append(slices.Clone(p.Tags), c.AddTag)
	}
	if c.CloseComments {
		p.CommentsOpen = false
	}
	if err := Say(ctx, tx, before, p, actor, why, now); err != nil {
		return Change{}, err
	}
	after, err := tx.Post(ctx, p.SiteID, p.ID)
	if err != nil {
		return Change{}, err
	}
	is := factsOf(after)
	was.Slug, is.Slug = nil, nil
	if !c.CloseComments {
		was.Comments, is.Comments = nil, nil
	}
	return Change{was, is}, nil
}
