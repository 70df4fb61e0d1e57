package posts

import (
	"context"
	"encoding/json"
	"errors"
	"time"

	"github.com/jmoiron/sqlx"

	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store/db"
)

var errFewer = errors.New("not all posts were written")

// NewPost is a post that is added with others.
type NewPost struct {
	Author       int64      `json:"author"`
	Category     *int64     `json:"category"`
	Title        string     `json:"title"`
	Body         string     `json:"body"`
	Excerpt      string     `json:"excerpt"`
	Fields       db.Fields  `json:"fields"`
	Tags         []string   `json:"tags"`
	TagSlugs     []string   `json:"tag_slugs"` // as they stand in addresses, in the order of Tags
	Slug         string     `json:"slug"`
	Page         bool       `json:"page"`
	Link         string     `json:"link"` // of a link item
	OnTop        bool       `json:"on_top"`
	CommentsOpen bool       `json:"comments_open"`
	Featured     string     `json:"featured"`
	FeaturedAlt  string     `json:"featured_alt"`
	Evergreen    bool       `json:"evergreen"`
	NeverExpires bool       `json:"never_expires"`
	Expires      *time.Time `json:"expires"`
	Import       string     `json:"import"`
	State        post.State `json:"state"`
}

// InsertPosts adds posts to a site and returns their ids, in their order. Tags that the site lacks are made.
func (t *Tx) InsertPosts(ctx context.Context, siteID int64, all []NewPost, actor int64, now time.Time) ([]int64, error) {
	if len(all) == 0 {
		return nil, nil
	}
	type row struct {
		N int `json:"n"`
		NewPost
	}
	rows := make([]row, len(all))
	var tagged []int
	var slugs, names []string
	for i, p := range all {
		rows[i] = row{i, p}
		if rows[i].Fields == nil {
			rows[i].Fields = db.Fields{}
		}
		if rows[i].Tags == nil {
			rows[i].Tags = []string{}
		}
		for k, slug := range p.TagSlugs {
			tagged, slugs, names = append(tagged, i), append(slugs, slug), append(names, p.Tags[k])
		}
	}
	raw, err := json.Marshal(rows)
	if err != nil {
		return nil, err
	}
	var ids []int64
	if err := t.run.All(ctx, &ids, `
		with given as materialized (
			select r.*, nextval(pg_get_serial_sequence('posts', 'id')) as id, nextval(pg_get_serial_sequence('texts', 'id')) as text
			from json_to_recordset($2::json) r (n integer, author bigint, category bigint, title text, body text, excerpt text, fields jsonb, tags jsonb, slug text,
				page boolean, link text, on_top boolean, comments_open boolean, featured text, featured_alt text, evergreen boolean, never_expires boolean, expires timestamptz,
				import text, state json)
			order by r.n
		), s as (
			select given.n, state.* from given, json_to_record(given.state) state (status text, cleared boolean, shelf_rank bigint, due_at timestamptz, pinned boolean,
				rhythm_id bigint, slot_date date, slot_opening text, slot_ordinal integer, published_at timestamptz, first_published_at timestamptz, archived_at timestamptz,
				notice text, not_before timestamptz, deadline timestamptz, answer text)
		), written as (
			insert into texts (id, site_id, post_id, title, body, excerpt, tags, fields, actor_id, at) overriding system value
			select text, $1, id, title, body, excerpt, tags, fields, $3, $4 from given
		), added as (
			insert into posts (id, site_id, author_id, category_id, title, slug, excerpt, fields, words, kind, link, on_top, comments_open, featured_image, featured_alt, evergreen,
				never_expires, expires_at, import, text_id, created_at, updated_at, changed_at,
				status, cleared, shelf_rank, due_at, pinned, rhythm_id, slot_date, slot_opening, slot_ordinal, published_at, first_published_at, archived_at, notice, not_before, deadline, answer)
			overriding system value
			select id, $1, author, category, title, slug, excerpt, fields, words_of(body), case when page then 'page' when link <> '' then 'link' else 'post' end, link, on_top, comments_open, featured, featured_alt, evergreen,
				never_expires, expires, import, text, $4, $4, $4,
				s.status, coalesce(s.cleared, false), s.shelf_rank, s.due_at, coalesce(s.pinned, false), s.rhythm_id, s.slot_date, s.slot_opening, s.slot_ordinal, s.published_at,
				s.first_published_at, s.archived_at, coalesce(s.notice, ''), s.not_before, s.deadline, coalesce(nullif(s.answer, 'redirect'), '')
			from given join s using (n) order by given.n
		)
		select id from given order by n`, siteID, string(raw), actor, now); err != nil {
		return nil, err
	}
	if len(ids) != len(all) {
		return nil, errFewer
	}
	return ids, t.tagAll(ctx, siteID, ids, tagged, slugs, names)
}

// tagAll gives posts tags: each the slug and the name at the same place in the lists.
func (t *Tx) tagAll(ctx context.Context, siteID int64, ids []int64, tagged []int, slugs, names []string) error {
	if len(slugs) == 0 {
		return nil
	}
	of := make([]int64, len(tagged))
	for i, n := range tagged {
		of[i] = ids[n]
	}
	if _, err := t.run.Do(ctx, `
		insert into tags (site_id, slug, name) select distinct on (slug) $1, slug, name from unnest($2::text[], $3::text[]) given (slug, name) on conflict (site_id, slug) do nothing`,
		siteID, slugs, names); err != nil {
		return err
	}
	_, err := t.run.Do(ctx, `
		insert into post_tags (site_id, post_id, tag_id)
		select distinct $1, post, tags.id from unnest($2::bigint[], $3::text[]) given (post, slug) join tags on tags.site_id = $1 and tags.slug = given.slug
		on conflict do nothing`, siteID, of, slugs)
	return err
}

// EachTitle reads the titles of a site's posts that are not in the bin.
func (q Queries) EachTitle(ctx context.Context, siteID int64, take func(string) error) error {
	return q.run.Each(ctx, func(rows *sqlx.Rows) error {
		var title string
		if err := rows.Scan(&title); err != nil {
			return err
		}
		return take(title)
	}, `select title from posts where site_id = $1 and status <> 'binned' and title <> ''`, siteID)
}

// PostsWithSlugs are the titles of a site's posts that have, or had, some slugs, by these.
func (q Queries) PostsWithSlugs(ctx context.Context, siteID int64, slugs []string) (map[string]string, error) {
	var rows []struct {
		Slug  string `db:"slug"`
		Title string `db:"title"`
	}
	found := make(map[string]string)
	if len(slugs) == 0 {
		return found, nil
	}
	err := q.run.All(ctx, &rows, `
		select slug, title from posts where site_id = $1 and slug = any($2)
		union all select old_slugs.slug, title from old_slugs join posts on posts.id = post_id where old_slugs.site_id = $1 and old_slugs.slug = any($2)`, siteID, slugs)
	for _, r := range rows {
		found[r.Slug] = r.Title
	}
	return found, err
}

// KeepOldSlug has an address that a post had lead on to it, unless it is taken.
func (t *Tx) KeepOldSlug(ctx context.Context, siteID, post int64, slug string) error {
	if slug == "" {
		return nil
	}
	_, err := t.run.Do(ctx, `
		insert into old_slugs (site_id, post_id, slug)
		select $1, $2, $3 where not exists (select from posts where site_id = $1 and slug = $3) on conflict do nothing`, siteID, post, slug)
	return err
}

// SlotTaken tells whether a post sits in a slot.
func (q Queries) SlotTaken(ctx context.Context, id rhythm.SlotID) (taken bool, err error) {
	err = q.run.One(ctx, &taken, `select exists (select from posts where rhythm_id = $1 and slot_date = $2 and slot_opening = $3 and slot_ordinal = $4)`,
		id.Rhythm, id.Date.String(), id.Opening, id.Ordinal)
	return taken, err
}

// OldSlugs are the addresses that posts had before, by the posts.
func (q Queries) OldSlugs(ctx context.Context, siteID int64, posts []int64) (map[int64][]string, error) {
	var rows []struct {
		Post int64  `db:"post_id"`
		Slug string `db:"slug"`
	}
	err := q.run.All(ctx, &rows, `select post_id, slug from old_slugs where site_id = $1 and post_id = any($2) order by slug`, siteID, posts)
	old := make(map[int64][]string)
	for _, r := range rows {
		old[r.Post] = append(old[r.Post], r.Slug)
	}
	return old, err
}
