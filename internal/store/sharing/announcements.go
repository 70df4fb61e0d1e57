package sharing

import (
	"context"
	"database/sql/driver"
	"fmt"
	"time"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/store/db"
)

// Announcement is a message that follows when a post comes out.
type Announcement struct {
	ID         int64  `db:"id"`
	SiteID     int64  `db:"site_id"`
	Post       db.ID  `db:"post_id"` // 0: of every post that has no say of its own
	Channel    int64  `db:"channel_id"`
	After      int    `db:"after_minutes"`
	Text       string `db:"text"`
	Extras     Extras `db:"extras"`
	ReplyAfter int    `db:"reply_after"`
	ReplyText  string `db:"reply_text"`
}

// Announcements lists what a site announces: the site's own say and that of posts that have
// one, in order. A post that says that nothing is announced has none.
func (q Queries) Announcements(ctx context.Context, siteID int64) ([]Announcement, error) {
	var all []Announcement
	err := q.run.All(ctx, &all, `
		select announcements.* from announcements left join posts on posts.id = post_id
		where announcements.site_id = $1 and (post_id is null or announces = 'own') order by announcements.id`, siteID)
	return all, err
}

// HaveOwnSay lists the posts of a site that wait for their time and say themselves what is
// announced of them.
func (q Queries) HaveOwnSay(ctx context.Context, siteID int64) ([]int64, error) {
	var posts []int64
	err := q.run.All(ctx, &posts, `select id from posts where site_id = $1 and announces = 'own' and status = 'scheduled' order by id`, siteID)
	return posts, err
}

// AnnouncementsOf lists what a post, or with 0 the site, says is announced; own tells whether
// the post has a say of its own.
func (q Queries) AnnouncementsOf(ctx context.Context, siteID, post int64) (all []Announcement, own bool, err error) {
	if post != 0 {
		if err = q.run.One(ctx, &own, `select announces = 'own' from posts where site_id = $1 and id = $2`, siteID, post); err != nil || !own {
			return nil, own, err
		}
	}
	err = q.run.All(ctx, &all, `select * from announcements where site_id = $1 and post_id is not distinct from $2 order by id`, siteID, db.ID(post))
	return all, own, err
}

// SaveAnnouncements writes what a post, or with 0 the site, says is announced. With own a post
// has a say of its own.
func (t *Tx) SaveAnnouncements(ctx context.Context, siteID, post int64, own bool, all []Announcement) error {
	if _, err := t.run.Do(ctx, `delete from announcements where site_id = $1 and post_id is not distinct from $2`, siteID, db.ID(post)); err != nil {
		return err
	}
	if post != 0 {
		say := map[bool]string{true: "own", false: "site"}[own]
		if err := t.run.Exec(ctx, `update posts set announces = $3 where site_id = $1 and id = $2`, siteID, post, say); err != nil {
			return err
		}
	}
	for _, a := range all {
		if err := t.run.Exec(ctx, `
			insert into announcements (site_id, post_id, channel_id, after_minutes, text, extras, reply_after, reply_text)
			values ($1, $2, $3, $4, $5, $6, $7, $8)`,
			siteID, db.ID(post), a.Channel, a.After, a.Text, a.Extras, a.ReplyAfter, a.ReplyText); err != nil {
			return fmt.Errorf("noting an announcement: %w", err)
		}
	}
	return nil
}

// Announce plans what is to follow the publication of posts, each at a moment: outings whose
// minutes are settled by the next decision. What was planned by an earlier publication that was
// undone is dropped. It returns the sites that have any.
func (t *Tx) Announce(ctx context.Context, posts []int64, at time.Time) ([]int64, error) {
	if _, err := t.run.Do(ctx, `delete from outings where post_id = any($1) and origin = 'publication' and state = 'planned'`, posts); err != nil {
		return nil, err
	}
	var sites []int64
	err := t.run.All(ctx, &sites, `
		with planned as (
			insert into outings (site_id, channel_id, post_id, at, due, wording, text, link, state, origin, own_text, created_at, unplaced, extras, reply_text, reply_after)
			select posts.site_id, a.channel_id, posts.id, $2::timestamptz + make_interval(mins => a.after_minutes), $2::timestamptz, 0, '', '', 'planned', 'publication',
				coalesce(
					(select one->>'text' from jsonb_array_elements(posts.wordings) with ordinality w(one, n) where (one->>'channel')::bigint = a.channel_id order by n limit 1),
					(select one->>'text' from jsonb_array_elements(posts.wordings) with ordinality w(one, n) where coalesce((one->>'channel')::bigint, 0) = 0 order by n limit 1),
					a.text), $2::timestamptz, true, a.extras, a.reply_text, a.reply_after
			from unnest($1::bigint[]) with ordinality given(id, n) join posts on posts.id = given.id
				join announcements a on a.site_id = posts.site_id
					and (announces = 'own' and a.post_id = posts.id or announces = 'site' and a.post_id is null and posts.kind = 'post')
			order by given.n, a.id
			returning site_id)
		select distinct site_id from planned`, posts, at.Truncate(time.Minute))
	return sites, err
}

// AnnounceAgain plans what is to follow when a rule brings a post out again, at a moment: a message on each of the
// channels, in their order, so many minutes later. A wording of the post's own goes before the text.
func (t *Tx) AnnounceAgain(ctx context.Context, siteID, post int64, channels []int64, after int, text string, at time.Time) error {
	_, err := t.run.Do(ctx, `
		insert into outings (site_id, channel_id, post_id, at, due, wording, text, link, state, origin, own_text, created_at, unplaced, extras, reply_text, reply_after)
		select $1, given.channel, posts.id, $5::timestamptz + make_interval(mins => $4), $5::timestamptz, 0, '', '', 'planned', 'publication',
			coalesce(
				(select one->>'text' from jsonb_array_elements(posts.wordings) with ordinality w(one, n) where (one->>'channel')::bigint = given.channel order by n limit 1),
				(select one->>'text' from jsonb_array_elements(posts.wordings) with ordinality w(one, n) where coalesce((one->>'channel')::bigint, 0) = 0 order by n limit 1),
				$6::text), $5::timestamptz, true, '{}', '', 0
		from unnest($3::bigint[]) with ordinality given(channel, n) join channels on channels.id = given.channel and channels.site_id = $1
			join posts on posts.site_id = $1 and posts.id = $2
		order by given.n`, siteID, post, channels, after, at.Truncate(time.Minute), text)
	return err
}

// DropAnnounced drops what was planned to follow a coming out of a post, at a moment, and has not gone out yet.
func (t *Tx) DropAnnounced(ctx context.Context, siteID, post int64, at time.Time) error {
	_, err := t.run.Do(ctx, `delete from outings where site_id = $1 and post_id = $2 and origin = 'publication' and state = 'planned' and due = $3`,
		siteID, post, at.Truncate(time.Minute))
	return err
}

// Wordings are wordings of a post's own, kept as JSON.
type Wordings []condition.OwnWording

// Scan reads a JSON array.
func (w *Wordings) Scan(src any) error { return db.ScanJSON(src, w) }

// Value writes a JSON array.
func (w Wordings) Value() (driver.Value, error) {
	if w == nil {
		return "[]", nil
	}
	return db.JSON(w)
}

// WordingsOf are the wordings that a post has of its own.
func (q Queries) WordingsOf(ctx context.Context, siteID, post int64) (Wordings, error) {
	var w Wordings
	err := q.run.One(ctx, &w, `select wordings from posts where site_id = $1 and id = $2`, siteID, post)
	return w, err
}

// SaveWordings writes the wordings that a post has of its own.
func (t *Tx) SaveWordings(ctx context.Context, siteID, post int64, w Wordings) error {
	return t.run.Exec(ctx, `update posts set wordings = $3 where site_id = $1 and id = $2`, siteID, post, w)
}

// WordList is a named list of words and sentences.
type WordList struct {
	SiteID  int64      `db:"site_id"`
	Name    string     `db:"name"`
	Entries db.Strings `db:"entries"`
	Version int        `db:"version"`
}

// WordLists are a site's lists, by name.
func (q Queries) WordLists(ctx context.Context, siteID int64) ([]WordList, error) {
	var all []WordList
	err := q.run.All(ctx, &all, `select * from word_lists where site_id = $1 order by name`, siteID)
	return all, err
}

// SaveWordList writes a list, a new one or over one of its name.
func (t *Tx) SaveWordList(ctx context.Context, l WordList) error {
	return t.run.Exec(ctx, `
		insert into word_lists (site_id, name, entries) values ($1, $2, $3)
		on conflict (site_id, name) do update set entries = excluded.entries, version = word_lists.version + 1`, l.SiteID, l.Name, db.JSONOf(l.Entries))
}

// DropWordList deletes a list.
func (t *Tx) DropWordList(ctx context.Context, siteID int64, name string) error {
	return t.run.Exec(ctx, `delete from word_lists where site_id = $1 and name = $2`, siteID, name)
}
