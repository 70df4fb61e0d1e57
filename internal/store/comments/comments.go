// Package comments keeps what readers write under posts.
package comments

import (
	"context"
	"time"

	"dapper.example/internal/core/comment"
	"dapper.example/internal/store/db"
)

// Queries runs its statements on a pool or in a transaction.
type Queries struct{ run db.Runner }

// On returns the statements on a pool or a transaction.
func On(run db.Runner) Queries { return Queries{run} }

// Tx has, beside them, those that want a transaction.
type Tx struct{ Queries }

// In returns the statements in a transaction.
func In(run db.Runner) Tx { return Tx{On(run)} }

// Comment is what a reader, or somebody of the site, wrote under a post.
type Comment struct {
	ID       int64          `db:"id"`
	SiteID   int64          `db:"site_id"`
	Post     int64          `db:"post_id"`
	Answers  *int64         `db:"answers_id"` // the comment that it answers; nil: none
	User     *int64         `db:"user_id"`    // who of the site wrote it; nil: a reader
	Name     string         `db:"name"`
	Text     string         `db:"text"`
	Reader   []byte         `db:"reader"` // a hash of the secret in the reader's browser; nil: none
	Status   comment.Status `db:"status"`
	At       time.Time      `db:"at"`
	BinnedAt *time.Time     `db:"binned_at"`
	// Title and Slug are the post's; read only.
	Title string `db:"title"`
	Slug  string `db:"slug"`
}

// InsertComment adds a comment and returns its id.
func (q Queries) InsertComment(ctx context.Context, c Comment) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into comments (site_id, post_id, answers_id, user_id, name, text, reader, status, at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9) returning id`,
		c.SiteID, c.Post, c.Answers, c.User, c.Name, c.Text, c.Reader, c.Status, c.At)
	return id, err
}

// KnowsReader tells whether a comment of a reader has been approved on a site.
func (q Queries) KnowsReader(ctx context.Context, siteID int64, reader []byte) (bool, error) {
	var known bool
	err := q.run.One(ctx, &known, `select exists (select from comments where site_id = $1 and reader = $2 and status = 'shown')`, siteID, reader)
	return known, err
}

const selectComment = `select comments.*, posts.title, posts.slug from comments join posts on posts.id = post_id `

// ShownComments lists the comments of a post that readers see, the latest first, below an id where one is given.
func (q Queries) ShownComments(ctx context.Context, siteID, post, below int64, limit int) ([]Comment, error) {
	var all []Comment
	err := q.run.All(ctx, &all, selectComment+`
		where comments.site_id = $1 and post_id = $2 and comments.status = 'shown' and ($3::bigint = 0 or comments.id < $3)
		order by comments.id desc limit $4`, siteID, post, below, limit)
	return all, err
}

// LatestComments lists the latest comments of a site that readers see, under posts that are out.
func (q Queries) LatestComments(ctx context.Context, siteID int64, limit int) ([]Comment, error) {
	var all []Comment
	err := q.run.All(ctx, &all, selectComment+`
		where comments.site_id = $1 and comments.status = 'shown' and posts.status = 'published' order by comments.id desc limit $2`, siteID, limit)
	return all, err
}

// CommentFilter says which of a site's comments are asked for; what is empty does not narrow it, but for the status.
type CommentFilter struct {
	Status comment.Status
	Post   int64
	Find   string // a part of the name or the text
	Below  int64  // an id
}

// Comments lists a site's comments, the latest first.
func (q Queries) Comments(ctx context.Context, siteID int64, f CommentFilter, limit int) ([]Comment, error) {
	var all []Comment
	err := q.run.All(ctx, &all, selectComment+`
		where comments.site_id = $1 and comments.status = $2 and ($3::bigint = 0 or post_id = $3)
			and ($4::text = '' or strpos(lower(name || E'\n' || text), lower($4)) > 0) and ($5::bigint = 0 or comments.id < $5)
		order by comments.id desc limit $6`, siteID, f.Status, f.Post, f.Find, f.Below, limit)
	return all, err
}

// Comment returns one of a site's comments. It fails with db.ErrNotFound.
func (q Queries) Comment(ctx context.Context, siteID, id int64) (Comment, error) {
	var c Comment
	err := q.run.One(ctx, &c, selectComment+`where comments.site_id = $1 and comments.id = $2`, siteID, id)
	return c, err
}

// CountComments counts a site's comments by their status.
func (q Queries) CountComments(ctx context.Context, siteID int64) (map[comment.Status]int, error) {
	var rows []struct {
		Status comment.Status `db:"status"`
		N      int            `db:"n"`
	}
	if err := q.run.All(ctx, &rows, `select status, count(*) as n from comments where site_id = $1 group by status`, siteID); err != nil {
		return nil, err
	}
	counts := make(map[comment.Status]int)
	for _, r := range rows {
		counts[r.Status] = r.N
	}
	return counts, nil
}

// CommentsShown is how many comments readers see under each of the posts; those without any are not in it.
func (q Queries) CommentsShown(ctx context.Context, posts []int64) (map[int64]int, error) {
	var rows []struct {
		Post int64 `db:"post_id"`
		N    int   `db:"n"`
	}
	if err := q.run.All(ctx, &rows, `select post_id, n from comment_counts where post_id = any($1) and n > 0`, posts); err != nil {
		return nil, err
	}
	counts := make(map[int64]int)
	for _, r := range rows {
		counts[r.Post] = r.N
	}
	return counts, nil
}

// LockComments returns those of a site's comments that have one of the ids, in their order, and has changes of
// them take turns.
func (t *Tx) LockComments(ctx context.Context, siteID int64, ids []int64) ([]Comment, error) {
	var all []Comment
	err := t.run.All(ctx, &all, selectComment+`where comments.site_id = $1 and comments.id = any($2) order by comments.id for update of comments`, siteID, ids)
	return all, err
}

// SetCommentStatus says where comments stand from a moment on.
func (t *Tx) SetCommentStatus(ctx context.Context, siteID int64, ids []int64, to comment.Status, now time.Time) error {
	_, err := t.run.Do(ctx, `
		update comments set status = $3, binned_at = case when $3 = 'binned' then $4::timestamptz end
		where site_id = $1 and id = any($2)`, siteID, ids, to, now)
	return err
}

// EmptyCommentBin deletes the comments for good that were put into the bin before a moment.
func (q Queries) EmptyCommentBin(ctx context.Context, before time.Time) error {
	_, err := q.run.Do(ctx, `delete from comments where binned_at < $1`, before)
	return err
}
