package rules

import (
	"context"
	"time"
)

// Notice is what people were told of before a rule acts on a post.
type Notice struct {
	SiteID int64      `db:"site_id"`
	Rule   int64      `db:"rule_id"`
	Post   int64      `db:"post_id"`
	At     time.Time  `db:"at"`      // last time
	DueOn  time.Time  `db:"due_on"`  // the rule does not act before
	ReadAt *time.Time `db:"read_at"` // somebody said that the post may come out again; nil: not yet
	ReadBy *int64     `db:"read_by"`
	// What follows is read only.
	Title    string   `db:"title"`
	Author   int64    `db:"author_id"`
	RuleName string   `db:"rule_name"`
	Kind     RuleKind `db:"kind"`
}

const selectNotice = `
	select rule_notices.*, posts.title, posts.author_id, rules.name as rule_name, rules.kind
	from rule_notices join posts on posts.id = post_id join rules on rules.id = rule_id and rules.deleted_at is null
	where rule_notices.site_id = $1 `

// Tell notes that people were told of what a rule is about to do. What was said of an earlier notice counts no more.
func (t *Tx) Tell(ctx context.Context, n Notice) error {
	return t.run.Exec(ctx, `
		insert into rule_notices (site_id, rule_id, post_id, at, due_on) values ($1, $2, $3, $4, $5)
		on conflict (rule_id, post_id) do update set at = $4, due_on = $5, read_at = null, read_by = null`,
		n.SiteID, n.Rule, n.Post, n.At, n.DueOn)
}

// MarkRead notes that somebody said that a post may come out again by a rule. It fails with db.ErrNotFound where nobody
// was asked to.
func (t *Tx) MarkRead(ctx context.Context, siteID, rule, post, user int64, now time.Time) error {
	return t.run.Exec(ctx, `update rule_notices set read_at = $5, read_by = $4 where site_id = $1 and rule_id = $2 and post_id = $3`,
		siteID, rule, post, user, now)
}

// ForgetNotices forgets what was told of a post: rules tell anew.
func (t *Tx) ForgetNotices(ctx context.Context, siteID, post int64) error {
	_, err := t.run.Do(ctx, `delete from rule_notices where site_id = $1 and post_id = $2`, siteID, post)
	return err
}

// Notices lists what people were told of, what is due first coming first.
func (q Queries) Notices(ctx context.Context, siteID int64) ([]Notice, error) {
	var all []Notice
	err := q.run.All(ctx, &all, selectNotice+`order by due_on, post_id`, siteID)
	return all, err
}

// NoticesOfPost is Notices of one post.
func (q Queries) NoticesOfPost(ctx context.Context, siteID, post int64) ([]Notice, error) {
	var all []Notice
	err := q.run.All(ctx, &all, selectNotice+`and post_id = $2 order by due_on`, siteID, post)
	return all, err
}

// NoticesTold is Notices of what a rule told a post's author of at a moment.
func (q Queries) NoticesTold(ctx context.Context, siteID, rule, author int64, at time.Time) ([]Notice, error) {
	var all []Notice
	err := q.run.All(ctx, &all, selectNotice+`and rule_id = $2 and author_id = $3 and rule_notices.at = $4 order by due_on, post_id`, siteID, rule, author, at)
	return all, err
}
