package siterules_test

import (
	"cmp"
	"fmt"
	"maps"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/condition/conditiontest"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// What PostgreSQL finds of a condition is what core catches, post by post, and so is what is found from columns, whatever the condition is and whatever letters,
// dates and numbers the posts hold.
func TestWhatIsSiftedIsWhatIsCaught(t *testing.T) {
	h := newHouse(t)
	oddPosts(h)
	facts, err := h.Facts(t.Context(), h.World.Site.ID, store.FactsFilter{WithText: true, WithClicks: true})
	require.NoError(t, err)
	require.Len(t, facts, 60)
	zone := h.World.Site.Zone()
	laid, err := store.Open(t.Context(), h.World.URL())
	require.NoError(t, err)
	defer laid.Close()
	laid.LayOutWithin(1, 1<<20)
	_, err = laid.Sift(t.Context(), h.World.Site.ID, store.Sieve{}, 0, 0)
	require.NoError(t, err)
	require.NoError(t, laid.LayOut(t.Context()))
	posts, _ := laid.InColumns()
	require.Equal(t, 60, posts)
	caughtAtAll := 0
	rapid.Check(t, func(t *rapid.T) {
		node := conditiontest.Node(t, 3)
		c, err := condition.Compile(node, zone)
		if err != nil {
			t.Skip(err)
		}
		now := pgtest.Noon.Add(time.Duration(rapid.IntRange(-5000, 5000).Draw(t, "now")) * time.Minute)
		k := c.At(now)
		s := store.Sieve{Conditions: []condition.Moment{k}}
		if rapid.Bool().Draw(t, "later, too") {
			s.Conditions = append(s.Conditions, c.At(now.AddDate(0, 0, 9)))
		}
		if rapid.Bool().Draw(t, "chosen") {
			s.Only = map[int64]bool{facts[3].Post: true, facts[17].Post: true, facts[44].Post: true}
		}
		if rapid.Bool().Draw(t, "left out") {
			s.Without = map[int64]bool{facts[3].Post: true, facts[20].Post: true}
		}
		var want []*condition.Facts
		for _, f := range facts {
			if (s.Only == nil || s.Only[f.Post]) && !s.Without[f.Post] &&
				slices.ContainsFunc(s.Conditions, func(k condition.Moment) bool { return k.Catches(f) }) {
				want = append(want, f)
			}
		}
		slices.SortFunc(want, func(a, b *condition.Facts) int {
			return cmp.Or(a.Published.Compare(b.Published), cmp.Compare(a.Post, b.Post))
		})
		ids := []int64{}
		for _, f := range want {
			ids = append(ids, f.Post)
		}
		got, err := h.Sift(h.t.Context(), h.World.Site.ID, s, 0, 100)
		require.NoError(t, err, "%+v", node)
		require.Equal(t, ids, got.Posts, "%+v at %s", node, now)
		require.Equal(t, len(ids), got.Count)
		page, err := h.Sift(h.t.Context(), h.World.Site.ID, s, 1, 2)
		require.NoError(t, err)
		require.Equal(t, slices.Clone(ids[min(1, len(ids)):min(3, len(ids))]), page.Posts)
		require.Equal(t, got.Digest, page.Digest)
		columns, err := laid.Sift(h.t.Context(), h.World.Site.ID, s, 0, 100)
		require.NoError(t, err, "%+v", node)
		require.Equal(t, got, columns, "%+v at %s, from columns", node, now)
		columns, err = laid.Sift(h.t.Context(), h.World.Site.ID, s, 1, 2)
		require.NoError(t, err)
		require.Equal(t, page, columns)
		fields := []string{"event", "place"}
		undated, err := h.Undated(h.t.Context(), h.World.Site.ID, store.FactsFilter{Statuses: []string{"published"}}, fields, zone, 100)
		require.NoError(t, err)
		bad, err := laid.Undated(h.t.Context(), h.World.Site.ID, store.FactsFilter{Statuses: []string{"published"}}, fields, zone, 100)
		require.NoError(t, err)
		require.Subset(t, undated, bad, "PostgreSQL lets in what core need not hold to be bad")
		require.NotEmpty(t, bad)
		caughtAtAll += len(ids)
	})
	assert.NotZero(t, caughtAtAll)
}

// oddPosts are sixty posts of all sorts.
func oddPosts(h house) {
	ctx, site := h.t.Context(), h.World.Site.ID
	_, err := h.DB().ExecContext(ctx, `update sites set comments_open = true, comments_days = 30 where id = $1`, site)
	require.NoError(h.t, err)
	for i := range 60 {
		at := pgtest.Noon.Add(-time.Duration(i*i) * 7 * time.Hour).Add(time.Duration(i%3) * time.Microsecond)
		p := store.Post{SiteID: site, AuthorID: h.Editor.ID, Title: conditiontest.Titles[i%len(conditiontest.Titles)], Slug: fmt.Sprintf("Post-%d-strasse", i),
			Body: fmt.Sprintf("Some text, %s, and number %d.", conditiontest.Needles[i%len(conditiontest.Needles)], i), CreatedAt: at, PublishedAt: &at}
		if i%4 != 0 {
			p.CategoryID = &h.Category
		}
		id, err := h.InsertPublished(ctx, p)
		require.NoError(h.t, err)
		_, err = h.DB().ExecContext(ctx, `
			with made as (
				insert into texts (site_id, post_id, made_from, title, body, excerpt, tags, fields, at)
				select site_id, post_id, id, title, body, excerpt, tags, jsonb_build_object('event', $2::text, 'place', $3::text), at from texts where post_id = $1
				returning id, post_id, fields)
			update posts set text_id = made.id, fields = made.fields from made where posts.id = made.post_id`,
			id, conditiontest.Values[i%len(conditiontest.Values)], conditiontest.Titles[(i*7)%len(conditiontest.Titles)])
		require.NoError(h.t, err)
		_, err = h.DB().ExecContext(ctx, `update posts set evergreen = $2, on_top = $3, never_expires = $4, times_republished = $5, comments_open = $6, import = $7,
			featured_image = case when $2 then 'a picture' else '' end, kept_until = case when $3 then now() + interval '100 years' end, notice = case when $4 then 'Old.' else '' end
			where id = $1`, id, i%2 == 0, i%5 == 0, i%7 == 0, i%4, i%3 != 0, []string{"", "Straße", "spring", "SPRING"}[i%4])
		require.NoError(h.t, err)
		for j, tag := range conditiontest.Tags {
			if i%(j+2) == 0 {
				_, err := h.DB().ExecContext(ctx, `with tag as (insert into tags (site_id, slug, name) values ($1, $2, $3) on conflict (site_id, slug) do update set name = tags.name returning id)
					insert into post_tags (site_id, post_id, tag_id) select $1, $4, id from tag`, site, fmt.Sprint("tag-", j), tag, id)
				require.NoError(h.t, err)
			}
		}
		if i%3 == 0 {
			_, err := h.DB().ExecContext(ctx, `insert into clicks (site_id, post_id, date, n) select $1, $2, $3::date - day, $4 from generate_series(0, 9) day`,
				site, id, pgtest.Noon, i)
			require.NoError(h.t, err)
		}
	}
	_, err = h.DB().ExecContext(ctx, `update posts set status = 'archived', archived_at = published_at where site_id = $1 and id % 11 = 0`, site)
	require.NoError(h.t, err)
	_, err = h.DB().ExecContext(ctx, `update posts set status = 'draft', published_at = null, first_published_at = null where site_id = $1 and id % 13 = 0`, site)
	require.NoError(h.t, err)
}

// A rule's judgement as conditions is its judgement.
func TestWhatARuleAsksIsWhatItJudges(t *testing.T) {
	h := newHouse(t)
	oddPosts(h)
	facts, err := h.Facts(t.Context(), h.World.Site.ID, store.FactsFilter{WithText: true, WithClicks: true})
	require.NoError(t, err)
	now := deed.Minute(pgtest.Noon)
	for _, action := range upkeep.Actions {
		for _, c := range []condition.Node{{Test: condition.Evergreen, Match: condition.MatchYes},
			{Test: condition.Status, Match: condition.MatchAny, Values: []string{"archived", "draft", "binned"}},
			{Test: condition.Kind, Match: condition.MatchAny, Values: []string{"post"}}} {
			for _, tell := range []int{0, 30} {
				r := h.expiry(func(r *store.Rule) {
					r.Condition, r.Settings = c, store.RuleSettings{Action: string(action), TellDays: tell, Tag: "MARS rover!", Category: h.Category}
				})
				f, err := h.Frame(t.Context(), h.Queries, now, &r)
				require.NoError(t, err)
				f.Scene.Posts = facts
				pool := deed.NewWorld(f.Scene).Turn(r.ID, now).Pool()
				want := map[int64]bool{}
				for i := range pool.All() {
					want[facts[i].Post] = true
				}
				p, err := h.Preview(t.Context(), h.Queries, r, siterules.PreviewPage{Limit: 100}, now)
				require.NoError(t, err)
				got := map[int64]bool{}
				for _, c := range p.Posts {
					assert.True(t, c.Verdict.Caught)
					got[c.Post.Post] = true
				}
				assert.Equal(t, slices.Sorted(maps.Keys(want)), slices.Sorted(maps.Keys(got)), "%s, %v, told %d days before", action, c, tell)
				assert.Equal(t, len(want), p.Count)
			}
		}
	}
}
