package posts

import (
	"context"
	"errors"

	"dapper.example/internal/store/db"
)

// LaidOut is a post's text as readers see it.
type LaidOut struct {
	HTML    string     `db:"html"`
	Removed db.Strings `db:"removed"` // what of the text they do not see
}

// LaidOut returns what is kept of a post's laid-out text, where it was made of the text with
// the hash. It fails with db.ErrNotFound.
func (q Queries) LaidOut(ctx context.Context, post int64, hash []byte) (LaidOut, error) {
	var l LaidOut
	err := q.run.One(ctx, &l, `select html, removed from post_html where post_id = $1 and hash = $2`, post, hash)
	return l, err
}

// KeepLaidOut keeps a post's laid-out text in place of an older one. A post that is gone
// meanwhile is no error.
func (q Queries) KeepLaidOut(ctx context.Context, post int64, hash []byte, l LaidOut) error {
	err := q.run.Exec(ctx, `
		insert into post_html (post_id, hash, html, removed) select id, $2, $3, $4 from posts where id = $1
		on conflict (post_id) do update set hash = excluded.hash, html = excluded.html, removed = excluded.removed`, post, hash, l.HTML, db.JSONOf(l.Removed))
	if errors.Is(err, db.ErrNotFound) {
		return nil
	}
	return err
}
