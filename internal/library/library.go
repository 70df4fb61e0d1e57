// Package library keeps a blog's pictures: it replaces and deletes them, and knows where each is used.
//
// A picture that something shows is never deleted.
package library

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/words"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

// BinnedFor is how long a deleted picture can be brought back.
const BinnedFor = 30 * 24 * time.Hour

// titles is how many posts are named that show a picture.
const titles = 50

// Used says that a picture cannot be deleted, and what shows it.
type Used struct{ Picture store.UsedPicture }

// Error says it in a sentence.
func (u *Used) Error() string {
	return fmt.Sprintf("This picture is in use: %s. Take it out there first, or replace it.", strings.Join(Where(u.Picture), ", "))
}

// named is how many posts are named in a sentence.
const named = 3

// Where says what shows a picture, the first posts by their titles.
func Where(p store.UsedPicture) (where []string) {
	if p.Logo {
		where = append(where, "the blog’s logo")
	}
	if p.Icon {
		where = append(where, "the blog’s icon")
	}
	for _, name := range p.Shows {
		where = append(where, "the picture of "+name)
	}
	if p.ToSend > 0 {
		where = append(where, words.Count(p.ToSend, "planned message"))
	}
	for i, post := range p.UsedIn {
		if i == named {
			break
		}
		title := post.Title
		if title == "" {
			title = "Untitled"
		}
		where = append(where, "“"+title+"”")
	}
	if more := p.Uses - min(len(p.UsedIn), named); more > 0 {
		where = append(where, fmt.Sprintf("%d more posts", more))
	}
	return where
}

// Find returns a picture of a site, whether it is in the bin or not, with what shows it. It fails with store.ErrNotFound.
func Find(ctx context.Context, q store.Queries, site, id int64) (store.UsedPicture, error) {
	for _, binned := range []bool{false, true} {
		found, err := q.Pictures(ctx, site, store.PictureFilter{ID: id, Binned: binned, Titles: titles}, 1)
		if err != nil {
			return store.UsedPicture{}, err
		}
		if len(found) > 0 {
			return found[0], nil
		}
	}
	return store.UsedPicture{}, store.ErrNotFound
}

// Replace puts another picture in the place of one: whatever shows it shows the new one from then on, at the
// same address. It fails with store.ErrNotFound.
func Replace(ctx context.Context, d act.Desk, id int64, name string, made picture.Made, now time.Time) error {
	return d.Store.InTx(ctx, func(tx *store.Tx) error {
		p, err := tx.LockPicture(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		p.Name, p.Type, p.Width, p.Height, p.ReplacedAt = name, made.Type, made.Width, made.Height, &now
		if err := tx.ReplacePicture(ctx, p); err != nil {
			return fmt.Errorf("replacing picture %d: %w", id, err)
		}
		for _, f := range made.Files {
			if err := tx.InsertPictureFile(ctx, p.ID, f.Width, f.Data); err != nil {
				return fmt.Errorf("replacing picture %d: %w", id, err)
			}
		}
		return log(ctx, d, tx, now, "The picture “%s” was replaced.", p.Name)
	})
}

// Delete puts a picture into the bin, from which it can be brought back for BinnedFor. It fails with *Used where
// something shows it, and with store.ErrNotFound where somebody else has deleted it.
func Delete(ctx context.Context, d act.Desk, id int64, now time.Time) error {
	return d.Store.InTx(ctx, func(tx *store.Tx) error {
		p, err := tx.LockPicture(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if p.BinnedAt != nil {
			return store.ErrNotFound
		}
		used, err := Find(ctx, tx.Queries, d.Site.ID, id)
		if err != nil {
			return err
		}
		if used.IsUsed() {
			return &Used{used}
		}
		if err := tx.BinPicture(ctx, d.Site.ID, id, &now); err != nil {
			return fmt.Errorf("deleting picture %d: %w", id, err)
		}
		return log(ctx, d, tx, now, "The picture “%s” was deleted.", p.Name)
	})
}

// Restore brings a deleted picture back. One that is not in the bin stays as it is.
func Restore(ctx context.Context, d act.Desk, id int64, now time.Time) error {
	return d.Store.InTx(ctx, func(tx *store.Tx) error {
		p, err := tx.LockPicture(ctx, d.Site.ID, id)
		if err != nil || p.BinnedAt == nil {
			return err
		}
		if err := tx.BinPicture(ctx, d.Site.ID, id, nil); err != nil {
			return fmt.Errorf("restoring picture %d: %w", id, err)
		}
		return log(ctx, d, tx, now, "The picture “%s” was brought back.", p.Name)
	})
}

// SetPortrait says which of the blog's pictures shows a person to readers; 0 for none. It fails with *act.Invalid.
func SetPortrait(ctx context.Context, d act.Desk, user, id int64) error {
	if id == 0 {
		return d.Store.SetPortrait(ctx, d.Site.ID, user, nil)
	}
	p, err := d.Store.Picture(ctx, d.Site.ID, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && p.BinnedAt != nil {
		return act.Invalidf("id", "This picture has been deleted meanwhile. Choose another.")
	}
	if err != nil {
		return err
	}
	return d.Store.SetPortrait(ctx, d.Site.ID, user, &id)
}

func log(ctx context.Context, d act.Desk, tx *store.Tx, now time.Time, format string, args ...any) error {
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedSettings, Reason: fmt.Sprintf(format, args...)})
}
