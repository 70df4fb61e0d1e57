package sitesettings

import (
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/store"
)

// SaveCommenting writes what the site has chosen for readers' comments over the version that was seen. It fails with
// *act.Invalid and act.ErrStale.
func SaveCommenting(ctx context.Context, d act.Desk, c store.Commenting, version int, now time.Time) error {
	switch {
	case c.Days < 0 || c.Days > comment.MaxDays:
		return act.Invalidf("days", "Comments close after 1 to %d days, or never.", comment.MaxDays)
	case c.Links < 0 || c.Links > comment.MaxLinks:
		return act.Invalidf("links", "A comment has 0 to %d links at most.", comment.MaxLinks)
	case !slices.Contains([]comment.Hold{comment.HoldAll, comment.HoldUnknown}, c.Hold):
		return act.Invalidf("hold", "There is no such choice: %q.", c.Hold)
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if site.Version != version {
			return act.ErrStale
		}
		before := act.JSON(site)
		site.Commenting = c
		if err := tx.SaveCommenting(ctx, site.ID, c); err != nil {
			return fmt.Errorf("saving what %s has chosen for comments: %w", site.Slug, err)
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedSettings, Reason: "What holds for readers’ comments was changed.",
			Before: before, After: act.JSON(site)})
	})
}
