package status

import (
	"context"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/store"
)

// DeleteForGood deletes a post that is in the bin; it cannot be undone. The editor
// confirms it by the post's title.
func DeleteForGood(ctx context.Context, d act.Desk, id int64, version int, confirm string, now time.Time) error {
	return d.ChangePost(ctx, id, version, func(tx *store.Tx, p store.Post) error {
		if err := fits(DoDelete, p, now); err != nil {
			return err
		}
		if strings.TrimSpace(confirm) != p.Title {
			return act.Invalidf("confirm", "Type the title of the post exactly to confirm: “%s”.", p.Title)
		}
		if err := tx.DeletePost(ctx, d.Site.ID, id); err != nil {
			return err
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedDelete,
			Reason: fmt.Sprintf("“%s” was deleted for good.", p.Title)})
	})
}
