package store_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// laying is a second process on a world's database, which lays out sites however small.
func laying(t *testing.T, w pgtest.World, bytes int) *store.Store {
	t.Helper()
	s, err := store.Open(t.Context(), w.URL())
	require.NoError(t, err)
	t.Cleanup(func() { assert.NoError(t, s.Close()) })
	s.LayOutWithin(1, bytes)
	return s
}

const enough = 10 << 20

// asked are conditions that between them ask everything of a post that columns hold.
func asked(t *testing.T, zone civil.Zone) (all []condition.Moment) {
	t.Helper()
	for _, n := range []condition.Node{
		{Test: condition.Title, Match: condition.MatchContains, Values: []string{"a"}},
		{Test: condition.Text, Match: condition.MatchAny, Values: []string{"another"}},
		{Test: condition.Evergreen, Match: condition.MatchYes}, {Test: condition.OnTop, Match: condition.MatchYes}, {Test: condition.Image, Match: condition.MatchYes},
		{Test: condition.Slug, Match: condition.MatchBegins, Values: []string{"else"}}, {Test: condition.Import, Match: condition.MatchAny, Values: []string{"Batch"}},
		{Test: condition.Republished, Match: condition.MatchOver, N: 3}, {Test: condition.Tags, Match: condition.MatchAny, Values: []string{"red"}},
		{Test: condition.Tags, Match: condition.MatchAny, Values: []string{"MADDER"}}, {Test: condition.Category, Match: condition.MatchAny, Values: []string{"sky guide"}},
		{Test: condition.Author, Match: condition.MatchAny, Values: []string{"Ines Abara II"}}, {Test: condition.CommentsOpen, Match: condition.MatchYes},
		{Test: condition.Comments, Match: condition.MatchOver, N: 2}, {Test: condition.Status, Match: condition.MatchAny, Values: []string{"archived"}},
		{Test: condition.Shared, Match: condition.MatchOver, N: 0}, {Test: condition.Age, Match: condition.MatchOver, N: 4, Unit: condition.Days},
		{Test: condition.WordCount, Match: condition.MatchOver, N: 1}, {Test: condition.Clicks, Match: condition.MatchOver, N: 2, Days: 5},
	} {
		c, err := condition.Compile(n, zone)
		require.NoError(t, err)
		all = append(all, c.At(pgtest.Noon))
	}
	c := condition.All(zone).With(condition.Node{Test: condition.NeverExpires, Match: condition.MatchNo})
	return append(all, c.At(pgtest.Noon))
}

// What is sifted from columns is what PostgreSQL sifts, whatever has changed, and whoever changed it.
func TestColumnsAreAsPostsAre(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	other := pgtest.NewWorld(t, w.Store, "lanes")
	ctx := t.Context()
	s := laying(t, w, enough)
	lantern, err := w.InsertChannel(ctx, store.Channel{SiteID: w.Site.ID, Kind: channel.Lantern, Name: "Lantern", Address: "http://127.0.0.1:9", Apart: 5})
	require.NoError(t, err)
	var ids []int64
	for i := range 8 {
		ids = append(ids, w.Draft(t, fmt.Sprintf("Post %d", i)).ID)
	}
	other.Draft(t, "A post of another blog")
	do := func(statement string, args ...any) {
		t.Helper()
		_, err := w.DB().ExecContext(ctx, statement, args...)
		require.NoError(t, err, statement)
	}
	do(`update posts set status = 'published', slug = 'p-' || id, published_at = $1::timestamptz - make_interval(days => id::int), first_published_at = $1 where id = any($2)`, pgtest.Noon, ids[:6])
	do(`insert into clicks (site_id, post_id, date, n) select $1, unnest($2::bigint[]), $3::date - 2, 3`, w.Site.ID, ids[1:3], pgtest.Noon)
	conditions := asked(t, w.Site.Zone())
	ever := make([]bool, len(conditions)) // caught something
	same := func(what string) {
		t.Helper()
		for i, k := range conditions {
			sieve := store.Sieve{Conditions: []condition.Moment{k}, Without: map[int64]bool{ids[1]: true}}
			want, err := w.Sift(ctx, w.Site.ID, sieve, 0, 5000)
			require.NoError(t, err)
			got, err := s.Sift(ctx, w.Site.ID, sieve, 0, 5000)
			require.NoError(t, err)
			require.Equal(t, want, got, "%s, condition %d", what, i)
			ever[i] = ever[i] || want.Count > 0
		}
		for _, site := range []int64{w.Site.ID, other.Site.ID} {
			want, err := w.CountPublished(ctx, site)
			require.NoError(t, err)
			got, err := s.CountPublished(ctx, site)
			require.NoError(t, err)
			require.Equal(t, want, got, what)
		}
	}
	laidOut := func() int {
		posts, _ := s.InColumns()
		return posts
	}
	same("before anything is laid out")
	assert.Zero(t, laidOut())
	<-s.ToLayOut()
	require.NoError(t, s.LayOut(ctx))
	assert.Equal(t, 9, laidOut(), "the posts of both sites")
	same("at first")
	for _, statement := range changesOfAPost {
		do(fmt.Sprintf(statement, ids[2]))
		same(statement)
		require.NoError(t, s.LayOut(ctx))
		require.Equal(t, 9, laidOut(), statement)
	}
	do(`insert into outings (site_id, channel_id, post_id, at, wording, text, link, state, sent_at) values ($1, $2, $3, $4, 0, 'x', '', 'sent', $4)`, w.Site.ID, lantern, ids[0], pgtest.Noon)
	same("an outing")
	do(`update clicks set n = 1 where post_id = $1`, ids[2])
	same("clicks")
	do(`update posts set kept_until = $2 where id = $1`, ids[4], pgtest.Noon.AddDate(1, 0, 0))
	ids = append(ids, w.Draft(t, "A new one").ID)
	same("a new post")
	do(`delete from posts where id = any($1)`, []int64{ids[0], ids[3]})
	same("posts gone")

	open, err := w.DB().BeginTxx(ctx, nil)
	require.NoError(t, err)
	_, err = open.ExecContext(ctx, pgtest.Retitle(`'A late one'`, `posts.id = $1`), ids[4])
	require.NoError(t, err)
	do(pgtest.Retitle(`'An early one'`, `posts.id = $1`), ids[5])
	same("one of two at once")
	require.NoError(t, open.Commit())
	same("the other of the two")

	// More than is read again while somebody waits.
	pgtest.Put(t, w.Store, `site_id, author_id, title, body, created_at, updated_at`,
		`select $1::bigint, $2::bigint, 'Many ' || i, '', $3::timestamptz, $3::timestamptz from generate_series(1, 2100) i`, w.Site.ID, w.Editor.ID, pgtest.Noon)
	same("many")
	<-s.ToLayOut()
	require.NoError(t, s.LayOut(ctx))
	assert.Equal(t, 2108, laidOut())
	same("many that are laid out")
	for range 150 {
		do(`update posts set times_republished = times_republished + 1 where id = $1`, ids[5])
	}
	require.NoError(t, w.ForgetChanges(ctx))
	same("with changes forgotten that nobody had seen")
	require.NoError(t, s.LayOut(ctx))
	do(pgtest.Retitle(`'At last'`, `posts.id = $1`), ids[5])
	same("after it")
	for i, caught := range ever {
		assert.True(t, caught, "condition %d never caught anything", i)
	}

	// What nobody has asked about since it was read is not read again.
	require.NoError(t, s.LayOut(ctx))
	all := func() {
		do(`insert into site_changes (site_id, xid, post_id) values ($1, pg_current_xact_id(), -1)`, w.Site.ID)
		require.NoError(t, s.LayOut(ctx))
	}
	all()
	assert.Equal(t, 2108, laidOut(), "somebody had")
	all()
	assert.Equal(t, 1, laidOut(), "those of the other site")
	same("not laid out any more")
	require.NoError(t, s.LayOut(ctx))
	assert.Equal(t, 2108, laidOut())
}

func TestColumnsHaveLimits(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	lanes := pgtest.NewWorld(t, w.Store, "lanes")
	ctx := t.Context()
	for i := range 30 {
		w.Draft(t, fmt.Sprintf("Post %d", i))
		lanes.Draft(t, fmt.Sprintf("Post %d", i))
	}
	ask := func(s *store.Store, w pgtest.World) {
		t.Helper()
		got, err := s.Sift(ctx, w.Site.ID, store.Sieve{Conditions: []condition.Moment{condition.All(w.Site.Zone()).At(pgtest.Noon)}}, 0, 100)
		require.NoError(t, err)
		require.Len(t, got.Posts, 30)
	}
	size := func(s *store.Store) int {
		posts, _ := s.InColumns()
		return posts
	}
	lay := func(s *store.Store) {
		t.Helper()
		require.NoError(t, s.LayOut(ctx))
	}
	ample := laying(t, w, enough)
	lay(ample)
	_, bytes := ample.InColumns()
	require.Equal(t, 60, size(ample), "before anybody asks")

	one := laying(t, w, bytes*2/3)
	lay(one)
	assert.Equal(t, 30, size(one), "there is room for one")
	for _, world := range []pgtest.World{w, lanes, w} {
		ask(one, world)
		lay(one)
		assert.Equal(t, 30, size(one))
	}

	tight := laying(t, w, bytes/3)
	ask(tight, w)
	<-tight.ToLayOut()
	lay(tight)
	assert.Zero(t, size(tight), "too large")
	ask(tight, w)
	select {
	case <-tight.ToLayOut():
		assert.Fail(t, "what was too large is tried again only when there is a look at all of them")
	default:
	}

	usual, err := store.Open(ctx, w.URL())
	require.NoError(t, err)
	defer usual.Close()
	ask(usual, w)
	lay(usual)
	assert.Zero(t, size(usual), "thirty posts are not worth while")

	// What cannot be read of one site keeps none of the others from being laid out.
	tx, err := w.DB().BeginTxx(ctx, nil)
	require.NoError(t, err)
	for _, statement := range []string{`set local session_replication_role = replica`, fmt.Sprintf(`update posts set fields = '{"a": 1}' where site_id = %d`, w.Site.ID)} {
		_, err = tx.ExecContext(ctx, statement)
		require.NoError(t, err)
	}
	require.NoError(t, tx.Commit())
	broken := laying(t, w, enough)
	require.ErrorContains(t, broken.LayOut(ctx), "reading the fields of post")
	assert.Equal(t, 30, size(broken), "the other site")
}
