package store_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// changesOfAPost are statements that change something that rules know of a post, one after the other.
var changesOfAPost = []string{
	pgtest.Retell(`'Another title'`, `'Another text.'`, `posts.id = %d`),
	`update posts set evergreen = true where id = %d`,
	`update posts set slug = 'elsewhere' where id = %d`,
	`update posts set expires_at = now() where id = %d`,
	`update posts set never_expires = true where id = %d`,
	`update posts set import = 'batch' where id = %d`,
	`update posts set on_top = true, times_republished = 4 where id = %d`,
	`insert into tags (site_id, slug, name) select site_id, 'red', 'Red' from posts where id = %d`,
	`insert into post_tags (site_id, post_id, tag_id) select posts.site_id, posts.id, tags.id from posts join tags using (site_id) where posts.id = %d`,
	`update tags set name = 'Madder' where site_id = (select site_id from posts where id = %d)`,
	`delete from post_tags where post_id = %d`,
	`update categories set name = 'SKY Guide' where id = (select category_id from posts where id = %d)`,
	`update posts set category_id = null where id = %d`,
	`update users set name = 'Ines Abara II' where id = (select author_id from posts where id = %d)`,
	`update sites set comments_open = not comments_open where id = (select site_id from posts where id = %d)`,
	`update sites set comments_days = 30 where id = (select site_id from posts where id = %d)`,
	`update sites set tagline = 'x' where id = (select site_id from posts where id = %d)`,
	`insert into comment_counts (post_id, n) values (%d, 3)`,
	`update comment_counts set n = 4 where post_id = %d`,
	`delete from comment_counts where post_id = %d`,
	`update posts set status = 'archived' where id = %d`,
	`insert into pictures (site_id, key, name, type, width, height, user_id, created_at) select site_id, repeat('ab', 8), 'a.png', 'png', 1, 1, author_id, now() from posts where id = %d`,
	`insert into post_pictures (post_id, picture_id) select %d, id from pictures on conflict do nothing`,
	`update posts set featured_image = '/pictures/' || (select key from pictures) || '.png' where id = %d`,
}

// What is kept of posts is what a transaction reads of them, whatever has changed, and whoever changed it.
func TestWhatIsKeptOfPostsIsAsItIs(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	other := pgtest.NewWorld(t, w.Store, "lanes")
	ctx := t.Context()
	lantern, err := w.InsertChannel(ctx, store.Channel{SiteID: w.Site.ID, Kind: channel.Lantern, Name: "Lantern", Address: "http://127.0.0.1:9", Apart: 5})
	require.NoError(t, err)
	var ids []int64
	for i := range 8 {
		ids = append(ids, w.Draft(t, fmt.Sprintf("Post %d", i)).ID)
	}
	other.Draft(t, "Of another blog")
	do := func(statement string, args ...any) {
		t.Helper()
		_, err := w.DB().ExecContext(ctx, statement, args...)
		require.NoError(t, err, statement)
	}
	do(`update posts set status = 'published', slug = 'p-' || id, published_at = $1::timestamptz - make_interval(days => id::int), first_published_at = $1 where id = any($2)`, pgtest.Noon, ids[:6])
	yes := true
	filters := []store.FactsFilter{
		{Statuses: []string{"published"}, WithOpening: true}, {WithOpening: true}, {OwnExpiry: true, WithOpening: true},
		{Statuses: []string{"scheduled"}, WithOpening: true}, {Categories: []string{"SKY guide"}, WithOpening: true}, {Evergreen: &yes, WithOpening: true},
		{Authors: []string{"ines abara II"}, WithOpening: true}, {Imports: []string{"Batch"}, WithOpening: true},
		{Statuses: []string{"published"}, PublishedBefore: pgtest.Noon.AddDate(0, 0, -3), WithOpening: true},
		{PublishedFrom: pgtest.Noon.AddDate(0, 0, -3), WithOpening: true},
	}
	same := func(what string) {
		t.Helper()
		for i, f := range filters {
			kept, err := w.Facts(ctx, w.Site.ID, f)
			require.NoError(t, err, what)
			var now []*condition.Facts
			require.NoError(t, w.InTx(ctx, func(tx *store.Tx) (err error) {
				now, err = tx.Facts(ctx, w.Site.ID, f)
				return err
			}))
			require.Len(t, kept, len(now), "%s, filter %d", what, i)
			for j := range now {
				require.Equal(t, now[j], kept[j], "%s, filter %d", what, i)
			}
		}
	}
	same("at first")
	p := ids[2]
	for _, s := range changesOfAPost {
		do(fmt.Sprintf(s, p))
		same(s)
	}
	do(`insert into outings (site_id, channel_id, post_id, at, wording, text, link, state, sent_at) values ($1, $2, $3, $4, 0, 'x', '', 'sent', $4)`, w.Site.ID, lantern, ids[0], pgtest.Noon)
	same("an outing")
	ids = append(ids, w.Draft(t, "New").ID)
	same("a new post")
	do(`delete from posts where id = any($1)`, []int64{ids[0], ids[3]})
	same("posts gone")

	// What others have not finished is not seen, and seen when it is.
	open, err := w.DB().BeginTxx(ctx, nil)
	require.NoError(t, err)
	_, err = open.ExecContext(ctx, pgtest.Retitle(`'Late'`, `posts.id = $1`), ids[4])
	require.NoError(t, err)
	do(pgtest.Retitle(`'Early'`, `posts.id = $1`), ids[5])
	same("one of two at once")
	do(pgtest.Retitle(`'Earlier'`, `posts.id = $1`), ids[5])
	same("again, with one open")
	require.NoError(t, open.Commit())
	same("the other of the two")

	// Many at once, and what is forgotten.
	pgtest.Put(t, w.Store, `site_id, author_id, title, body, created_at, updated_at`,
		`select $1::bigint, $2::bigint, 'Many ' || i, '', $3::timestamptz, $3::timestamptz from generate_series(1, 600) i`, w.Site.ID, w.Editor.ID, pgtest.Noon)
	same("many")
	for i := range 150 {
		do(`update posts set times_republished = $2 where id = $1`, ids[5], i+10)
	}
	require.NoError(t, w.ForgetChanges(ctx))
	same("with changes forgotten that nobody had seen")
	require.NoError(t, w.ForgetChanges(ctx))
	do(pgtest.Retitle(`'Last'`, `posts.id = $1`), ids[5])
	same("after it")

	// Rows of another cluster, that somebody has brought here, have nothing read again, and go.
	do(`insert into site_changes (site_id, xid, post_id) values ($1, (pg_snapshot_xmax(pg_current_snapshot())::text::bigint + 1000000)::text::xid8, -1)`, w.Site.ID)
	same("with changes of another cluster")
	require.NoError(t, w.ForgetChanges(ctx))
	var foreign int
	require.NoError(t, w.DB().GetContext(ctx, &foreign, `select count(*) from site_changes where xid >= pg_snapshot_xmax(pg_current_snapshot())`))
	assert.Zero(t, foreign)
	require.NoError(t, w.KeepFacts(ctx), "there is no large site")

	// Nobody's copy is another's.
	f := store.FactsFilter{WithOpening: true}
	before, err := w.Facts(ctx, w.Site.ID, f)
	require.NoError(t, err)
	title := before[0].Title
	do(pgtest.Retitle(`'Changed meanwhile'`, `posts.id = $1`), before[0].Post)
	after, err := w.Facts(ctx, w.Site.ID, f)
	require.NoError(t, err)
	assert.Equal(t, []string{title, "Changed meanwhile"}, []string{before[0].Title, after[0].Title})
}

// A change of one post is noted as one of that post, whatever of it has changed.
func TestChangesNameTheirPosts(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	p, ctx := w.Draft(t, "One"), t.Context()
	noted := func(statement string, args ...any) (posts []int64) {
		t.Helper()
		_, err := w.DB().ExecContext(ctx, `truncate site_changes`)
		require.NoError(t, err)
		_, err = w.DB().ExecContext(ctx, statement, args...)
		require.NoError(t, err)
		require.NoError(t, w.DB().SelectContext(ctx, &posts, `select post_id from site_changes order by 1`))
		return posts
	}
	assert.Equal(t, []int64{p.ID}, noted(`update posts set evergreen = true where id = $1`, p.ID))
	assert.Equal(t, []int64{p.ID}, noted(`insert into comment_counts values ($1, 1)`, p.ID))
	assert.Equal(t, []int64{0}, noted(`update sites set paused_at = $2 where id = $1`, w.Site.ID, pgtest.Noon))
	assert.Equal(t, []int64{-1}, noted(`update sites set comments_days = 9 where id = $1`, w.Site.ID))
	assert.Equal(t, []int64{-1}, noted(`update categories set name = 'Other' where id = $1`, w.Category))
	assert.Empty(t, noted(`update users set preferences = preferences where id = $1`, w.Editor.ID), "nothing is foretold of what people prefer")
	assert.Equal(t, []int64{-1}, noted(`update users set name = 'Other' where id = $1`, w.Editor.ID))
	assert.Equal(t, []int64{0}, noted(`insert into rest_days (site_id, date, last, name, yearly) values ($1, $2::date, $2::date, '', false)`, w.Site.ID, pgtest.Noon.Add(24*time.Hour)))
}
