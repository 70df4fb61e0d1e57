package comments

import (
	"context"
	"time"
)

// Remark is what somebody of a blog says to the others about a post. One that wishes for a time is a request.
type Remark struct {
	ID         int64      `db:"id"`
	SiteID     int64      `db:"site_id"`
	Post       int64      `db:"post_id"`
	User       *int64     `db:"user_id"` // nil: somebody who is gone
	Body       string     `db:"body"`
	Quote      string     `db:"quote"` // how its paragraph begins; "": the whole post
	At         time.Time  `db:"at"`
	Wish       *time.Time `db:"wish"`   // when the post is to come out
	Answer     *string    `db:"answer"` // yes or no
	ResolvedAt *time.Time `db:"resolved_at"`
	ResolvedBy *int64     `db:"resolved_by"`
	By         string     `db:"by"`       // the name of User; read only
	Resolver   string     `db:"resolver"` // the name of ResolvedBy; read only
	Title      string     `db:"title"`    // of the post; read only
	Author     int64      `db:"author"`   // of the post; read only
}

const selectRemark = `
	select remarks.*, coalesce(users.name, '') as by, coalesce(resolvers.name, '') as resolver, posts.title, posts.author_id as author
	from remarks join posts on posts.id = post_id left join users on users.id = remarks.user_id left join users resolvers on resolvers.id = resolved_by`

// Remarks lists what was said about a post, in order.
func (q Queries) Remarks(ctx context.Context, siteID, post int64) ([]Remark, error) {
	all := []Remark{}
	err := q.run.All(ctx, &all, selectRemark+` where remarks.site_id = $1 and post_id = $2 order by remarks.id`, siteID, post)
	return all, err
}

// OpenRequests lists requests for a time that nobody has answered, of posts that are not out, in order.
func (q Queries) OpenRequests(ctx context.Context, siteID int64, limit int) ([]Remark, error) {
	all := []Remark{}
	err := q.run.All(ctx, &all, selectRemark+` where remarks.site_id = $1 and wish is not null and resolved_at is null and posts.status in ('draft', 'scheduled') order by at, remarks.id limit $2`,
		siteID, limit)
	return all, err
}

// OpenRemarks lists what was said after a moment about posts of somebody, or about posts that they said something about, by others, and is not resolved.
func (q Queries) OpenRemarks(ctx context.Context, siteID, user int64, after time.Time) ([]Remark, error) {
	all := []Remark{}
	err := q.run.All(ctx, &all, selectRemark+`
		where remarks.site_id = $1 and resolved_at is null and at > $3 and remarks.user_id is distinct from $2 and posts.status <> 'binned'
			and (posts.author_id = $2 or exists (select from remarks mine where mine.post_id = remarks.post_id and mine.user_id = $2))
		order by at, remarks.id limit 200`, siteID, user, after)
	return all, err
}

// LockRemark returns a remark about a post, locked.
func (t *Tx) LockRemark(ctx context.Context, siteID, post, id int64) (Remark, error) {
	var r Remark
	err := t.run.One(ctx, &r, selectRemark+` where remarks.site_id = $1 and post_id = $2 and remarks.id = $3 for update of remarks`, siteID, post, id)
	return r, err
}

// InsertRemark adds a remark, and returns its id.
func (t *Tx) InsertRemark(ctx context.Context, r Remark) (int64, error) {
	var id int64
	err := t.run.One(ctx, &id, `insert into remarks (site_id, post_id, user_id, body, quote, at, wish) values ($1, $2, $3, $4, $5, $6, $7) returning id`,
		r.SiteID, r.Post, r.User, r.Body, r.Quote, r.At, r.Wish)
	return id, err
}

// SaveRemark writes whether a remark is resolved, by whom, and how it was answered.
func (t *Tx) SaveRemark(ctx context.Context, r Remark) error {
	return t.run.Exec(ctx, `update remarks set resolved_at = $3, resolved_by = $4, answer = $5 where site_id = $1 and id = $2`, r.SiteID, r.ID, r.ResolvedAt, r.ResolvedBy, r.Answer)
}

// DeleteRemark deletes a remark.
func (t *Tx) DeleteRemark(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from remarks where site_id = $1 and id = $2`, siteID, id)
}
