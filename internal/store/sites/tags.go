package sites

import (
	"context"
	"fmt"
	"time"
)

// TagUse is a tag with how much belongs to it.
type TagUse struct {
	Tag
	Posts int `db:"posts"` // in whatever state
}

// TagUses lists a site's tags by name with their posts: those of whose name a text is a part, where one is given.
func (q Queries) TagUses(ctx context.Context, siteID int64, find string, limit int) ([]TagUse, error) {
	var uses []TagUse
	err := q.run.All(ctx, &uses, `
		select id, slug, name, (select count(*) from post_tags where tag_id = tags.id) as posts
		from tags where site_id = $1 and ($2::text = '' or strpos(lower(name), lower($2)) > 0) order by lower(name), id limit $3`, siteID, find, limit)
	return uses, err
}

// LockTag returns a tag of a site with its posts, and has changes of it take turns. It fails with db.ErrNotFound.
func (t *Tx) LockTag(ctx context.Context, siteID, id int64) (TagUse, error) {
	var use TagUse
	if err := t.run.One(ctx, &use.Tag, `select id, slug, name from tags where site_id = $1 and id = $2 for update`, siteID, id); err != nil {
		return use, err
	}
	err := t.run.One(ctx, &use.Posts, `select count(*) from post_tags where tag_id = $1`, id)
	return use, err
}

// TagBySlug finds a site's tag by its name in addresses. It fails with db.ErrNotFound.
func (q Queries) TagBySlug(ctx context.Context, siteID int64, slug string) (Tag, error) {
	var tag Tag
	err := q.run.One(ctx, &tag, `select id, slug, name from tags where site_id = $1 and slug = $2`, siteID, slug)
	return tag, err
}

// TagByOldSlug returns the present name in addresses of a tag that had another.
func (q Queries) TagByOldSlug(ctx context.Context, siteID int64, slug string) (string, error) {
	var now string
	err := q.run.One(ctx, &now, `
		select tags.slug from tags join old_tag_slugs old on tag_id = tags.id where old.site_id = $1 and old.slug = $2`, siteID, slug)
	return now, err
}

// RenameTag gives a tag another name. The name that it had in addresses leads on to the new one.
func (t *Tx) RenameTag(ctx context.Context, siteID int64, tag Tag) error {
	for _, statement := range []string{
		`delete from old_tag_slugs where site_id = $1 and slug = $3 and $2::bigint is not null`,
		`insert into old_tag_slugs (site_id, slug, tag_id) select site_id, slug, id from tags where site_id = $1 and id = $2 and slug <> $3
			on conflict (site_id, slug) do update set tag_id = excluded.tag_id`,
	} {
		if _, err := t.run.Do(ctx, statement, siteID, tag.ID, tag.Slug); err != nil {
			return err
		}
	}
	return t.run.Exec(ctx, `update tags set slug = $3, name = $4 where site_id = $1 and id = $2`, siteID, tag.ID, tag.Slug, tag.Name)
}

// DeleteTag deletes a tag. Its posts have another one instead, to which its address leads on; with 0 none. The
// texts of the posts are written by RewriteTags, which wants their ids: they are returned.
func (t *Tx) DeleteTag(ctx context.Context, siteID, id, into int64) (posts []int64, err error) {
	if posts, err = t.PostsTagged(ctx, siteID, id); err != nil {
		return nil, err
	}
	if into == 0 {
		return posts, t.run.Exec(ctx, `delete from tags where site_id = $1 and id = $2`, siteID, id)
	}
	if _, err := t.run.Do(ctx, `
		insert into post_tags (site_id, post_id, tag_id) select site_id, post_id, $3 from post_tags where site_id = $1 and tag_id = $2
		on conflict do nothing`, siteID, id, into); err != nil {
		return nil, err
	}
	if _, err := t.run.Do(ctx, `update old_tag_slugs set tag_id = $3 where site_id = $1 and tag_id = $2`, siteID, id, into); err != nil {
		return nil, err
	}
	var slug string
	if err := t.run.One(ctx, &slug, `delete from tags where site_id = $1 and id = $2 returning slug`, siteID, id); err != nil {
		return nil, err
	}
	_, err = t.run.Do(ctx, `
		insert into old_tag_slugs (site_id, slug, tag_id) values ($1, $2, $3) on conflict (site_id, slug) do update set tag_id = excluded.tag_id`,
		siteID, slug, into)
	return posts, err
}

// PostsTagged lists the posts of a site that have a tag, by their ids.
func (q Queries) PostsTagged(ctx context.Context, siteID, tag int64) (ids []int64, err error) {
	err = q.run.All(ctx, &ids, `select post_id from post_tags where site_id = $1 and tag_id = $2 order by post_id`, siteID, tag)
	return ids, err
}

// rewriteAtOnce is how many posts get a new version of their texts in one statement.
const rewriteAtOnce = 1000

// RewriteTags gives posts whose tags have changed a new version of their texts with the tags as they are now, and counts
// the posts' versions up.
func (t *Tx) RewriteTags(ctx context.Context, siteID int64, posts []int64, actor int64, now time.Time) error {
	for len(posts) > 0 {
		n := min(len(posts), rewriteAtOnce)
		if _, err := t.run.Do(ctx, `
			with fresh as (
				insert into texts (site_id, post_id, made_from, title, body, excerpt, tags, fields, actor_id, at)
				select was.site_id, was.post_id, was.id, was.title, was.body, was.excerpt,
					(select coalesce(jsonb_agg(tags.name order by tags.name), '[]') from post_tags join tags on tags.id = tag_id where post_tags.post_id = was.post_id),
					was.fields, $3, $4
				from posts join texts was on was.id = text_id where posts.site_id = $1 and posts.id = any($2)
				returning id, post_id
			)
			update posts set text_id = fresh.id, version = version + 1, updated_at = $4 from fresh where posts.id = fresh.post_id`,
			siteID, posts[:n], actor, now); err != nil {
			return err
		}
		posts = posts[n:]
	}
	return nil
}

// Listed are the lists of ids that lenses filter by.
const (
	ListedTags       = "tags"
	ListedCategories = "categories"
)

// LensesListing counts the lenses of a site that filter by each of the ids in a list; an id that none filters by is not in it.
func (q Queries) LensesListing(ctx context.Context, siteID int64, list string) (map[int64]int, error) {
	var rows []struct {
		ID int64 `db:"id"`
		N  int   `db:"n"`
	}
	if err := q.run.All(ctx, &rows, `
		select one::bigint as id, count(distinct lenses.id) as n from lenses, jsonb_array_elements(coalesce(shown -> $2, '[]')) one
		where site_id = $1 group by one`, siteID, list); err != nil {
		return nil, err
	}
	counts := make(map[int64]int)
	for _, r := range rows {
		counts[r.ID] = r.N
	}
	return counts, nil
}

// Relist has whatever filters by something with an id filter by another: lenses, and calendar feeds where it is a
// category.
func (t *Tx) Relist(ctx context.Context, siteID int64, list string, from, to int64) error {
	const replaced = `(select jsonb_agg(distinct case when one = to_jsonb($2::bigint) then to_jsonb($3::bigint) else one end) from jsonb_array_elements(%s) one)`
	if _, err := t.run.Do(ctx, `
		update lenses set shown = jsonb_set(shown, array[$4::text], `+fmt.Sprintf(replaced, "shown -> $4")+`)
		where site_id = $1 and shown -> $4 @> jsonb_build_array($2::bigint)`, siteID, from, to, list); err != nil {
		return err
	}
	if list != ListedCategories {
		return nil
	}
	_, err := t.run.Do(ctx, `
		update calendar_feeds set categories = `+fmt.Sprintf(replaced, "categories")+`
		where site_id = $1 and categories @> jsonb_build_array($2::bigint)`, siteID, from, to)
	return err
}
