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
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// What PostgreSQL finds of a condition is what core catches, post by post, whatever the condition is and whatever letters,
// dates and numbers the posts hold.
func TestWhatIsSiftedIsWhatIsCaught(t *testing.T) {
	h := newHouse(t)
	oddPosts(h)
	facts, err := h.Facts(t.Context(), h.World.Site.ID, store.FactsFilter{WithText: true, WithClicks: true})
	require.NoError(t, err)
	require.Len(t, facts, 60)
	zone := h.World.Site.Zone()
	caughtAtAll := 0
	rapid.Check(t, func(t *rapid.T) {
		node := oddCondition(t, 3)
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
		caughtAtAll += len(ids)
	})
	assert.NotZero(t, caughtAtAll)
}

var (
	oddTitles = []string{"Notes from the dome", "STRASSE by night", "Straße bei Nacht", "The \u212aelvin scale", "e\u0301toiles", "Étoiles et nuits",
		"İzmir's sky", "A “quoted” night", "ﬁne weather", "café", "CAFE", "100 % dark", "weiſs", "ΣΊΣΥΦΟΣ", "", "i\u0307 dotted", "semi\u037ecolon"}
	oddValues = []string{"2026-11-20", "2026-11-26 19:30", "2026-11-24T10:00:00Z", "2026-02-29", "2024-02-29", "2026-02-31", " 2026-10-31 ", "next week", "12",
		"12.5", "-3e4", "0x10", "NaN", "1_000", "", "  ", "\u00a0", "\u00a012", "Yes", "yes", "ÇA", "ça", "2026-13-01", "0001-01-01", "9999-12-31", "1999-05-31"}
	oddNeedles = []string{"strasse", "k", "ss", "étoile", "izmir", "fi", "quot", "CAF", "café", "%", "_", "s", "σίσυφος", "i", ";", "\\", "'"}
	oddTags    = []string{"Mars", "mars rover", "Comètes", "STRASSE"}
)

// oddPosts are sixty posts of all sorts.
func oddPosts(h house) {
	ctx, site := h.t.Context(), h.World.Site.ID
	_, err := h.DB().ExecContext(ctx, `update sites set comments_open = true, comments_days = 30 where id = $1`, site)
	require.NoError(h.t, err)
	for i := range 60 {
		at := pgtest.Noon.Add(-time.Duration(i*i) * 7 * time.Hour).Add(time.Duration(i%3) * time.Microsecond)
		p := store.Post{SiteID: site, AuthorID: h.Editor.ID, Title: oddTitles[i%len(oddTitles)], Slug: fmt.Sprintf("Post-%d-strasse", i),
			Body: fmt.Sprintf("Some text, %s, and number %d.", oddNeedles[i%len(oddNeedles)], i), CreatedAt: at, PublishedAt: &at,
			Fields: map[string]string{"event": oddValues[i%len(oddValues)], "place": oddTitles[(i*7)%len(oddTitles)]}}
		if i%4 != 0 {
			p.CategoryID = &h.Category
		}
		id, err := h.InsertPublished(ctx, p)
		require.NoError(h.t, err)
		_, err = h.DB().ExecContext(ctx, `update posts set evergreen = $2, on_top = $3, never_expires = $4, times_republished = $5, comments_open = $6, import = $7,
			featured_image = case when $2 then 'a picture' else '' end, kept_until = case when $3 then now() + interval '100 years' end, notice = case when $4 then 'Old.' else '' end
			where id = $1`, id, i%2 == 0, i%5 == 0, i%7 == 0, i%4, i%3 != 0, []string{"", "Straße", "spring", "SPRING"}[i%4])
		require.NoError(h.t, err)
		for j, tag := range oddTags {
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

// oddCondition is any condition that the forms let an editor build.
func oddCondition(t *rapid.T, depth int) condition.Node {
	if depth > 0 && rapid.IntRange(0, 2).Draw(t, "group") == 0 {
		n := condition.Node{Group: rapid.SampledFrom([]condition.Group{condition.AllOf, condition.AnyOf, condition.NoneOf}).Draw(t, "kind")}
		for range rapid.IntRange(1, 3).Draw(t, "parts") {
			n.Parts = append(n.Parts, oddCondition(t, depth-1))
		}
		return n
	}
	form := rapid.SampledFrom(condition.Forms).Draw(t, "form")
	way := rapid.SampledFrom(form.Ways).Draw(t, "way")
	n := condition.Node{Test: form.Test, Match: way.Match}
	some := map[string][]string{"categories": {"Sky Guide", "sky guide", "none such"}, "tags": {"mars", "comètes", "strasse", "no such"},
		"authors": {"Marguerite Oyelaran", "nobody"}, "imports": {"STRASSE", "Spring", "autumn"}, "list": form.Choices, "": oddNeedles}[form.From]
	for _, need := range way.Needs {
		switch need {
		case condition.NeedValues:
			n.Values = rapid.SliceOfNDistinct(rapid.SampledFrom(some), 1, 2, rapid.ID[string]).Draw(t, "values")
		case condition.NeedValue:
			n.Values = []string{rapid.SampledFrom(slices.Concat(some, oddValues)).Draw(t, "value")}
		case condition.NeedField:
			n.Field = rapid.SampledFrom([]string{"event", "place", "none"}).Draw(t, "field")
		case condition.NeedNumber:
			n.N = rapid.IntRange(0, 60).Draw(t, "number")
		case condition.NeedSpan:
			n.N = rapid.OneOf(rapid.IntRange(0, 40), rapid.Just(100_000)).Draw(t, "span")
			n.Unit = rapid.SampledFrom(condition.Units).Draw(t, "unit")
		case condition.NeedDate:
			n.Date = rapid.SampledFrom([]string{"2026-11-20", "2026-03-01", "9999-12-31"}).Draw(t, "date")
		case condition.NeedDays:
			n.Days = rapid.IntRange(1, 12).Draw(t, "days")
		}
	}
	return n
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
