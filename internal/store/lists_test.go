package store_test

import (
	"cmp"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// listed is a post as the lists' tests think of it.
type listed struct {
	id       int64
	title    string
	words    int
	author   int64
	category int64
	tags     []string
	kind     string
	stage    store.Stage
	shown    time.Time
	changed  time.Time
}

// library is a site with posts of all kinds, and another with some of its own.
type library struct {
	pgtest.World
	posts      []listed
	authors    []int64
	categories []int64
	tags       map[string]int64
}

func newLibrary(t *testing.T) library {
	t.Helper()
	s := pgtest.New(t)
	l := library{World: pgtest.NewWorld(t, s, "dome")}
	other := pgtest.NewWorld(t, s, "lanes")
	l.authors = []int64{l.Editor.ID, other.Editor.ID}
	l.categories = []int64{0, l.Category}
	id, err := s.InsertCategory(t.Context(), l.Site.ID, "notes", "Notes", 1)
	require.NoError(t, err)
	l.categories = append(l.categories, id)
	_, err = s.DB().ExecContext(t.Context(),
		`insert into tags (site_id, slug, name) values ($1, 'moon', 'Moon'), ($1, 'lens', 'Lens')`, l.Site.ID)
	require.NoError(t, err)
	tags, err := s.Tags(t.Context(), l.Site.ID)
	require.NoError(t, err)
	l.tags = map[string]int64{"none": 1 << 40}
	for _, tag := range tags {
		l.tags[tag.Name] = tag.ID
	}
	words := []string{"comet", "Mirror", "über", "zebra", "a night", "Comet"}
	for i := range 60 {
		// Few different values each, so that many are alike and the ids decide.
		p := listed{title: words[i*7%6] + []string{"", "", " again"}[i%3], words: i * 5 % 4, author: l.authors[i%2],
			category: l.categories[i%3],
			kind:     []string{"post", "post", "page"}[i*5%3], changed: pgtest.Noon.Add(time.Duration(i*11%5) * time.Hour)}
		for k, tag := range []string{"Moon", "Lens"} {
			if i>>k%3 == 1 {
				p.tags = append(p.tags, tag)
			}
		}
		created, at := pgtest.Noon.Add(-time.Duration(i%4)*24*time.Hour), pgtest.Noon.Add(time.Duration(i*13%9)*24*time.Hour)
		status, set := "draft", ""
		p.shown = created
		switch i % 7 {
		case 0:
			p.stage = "draft"
		case 1:
			p.stage, set = "handed in", `, handed_in_at = now()`
		case 2:
			p.kind = "post" // pages do not queue
			p.stage, set = "cleared", `, cleared = true, shelf_rank = id`
		case 3:
			status, p.stage, p.shown, set = "scheduled", "scheduled", at, `, due_at = $3`
		case 4:
			status, p.stage, p.shown, set = "scheduled", "held", at, `, due_at = $3, held = true`
		case 5:
			status, p.stage, p.shown, set = "published", "published", at, `, published_at = $3`
		case 6:
			status, p.stage, set = "binned", "binned", `, binned_at = now(), binned_from = 'draft'`
		}
		p.id, err = s.InsertDraft(t.Context(), store.Post{SiteID: l.Site.ID, AuthorID: p.author, Title: p.title,
			Body: strings.TrimSpace(strings.Repeat("word ", p.words)), CreatedAt: created})
		require.NoError(t, err)
		args := []any{p.id, p.kind, at, p.changed, status, p.category}
		_, err = s.DB().ExecContext(t.Context(),
			`update posts set slug = 'post-' || id, kind = $2, updated_at = $4, status = $5, category_id = nullif($6::bigint, 0)`+set+
				` where id = $1 and $3::timestamptz is not null`, args...)
		require.NoError(t, err)
		for _, tag := range p.tags {
			_, err = s.DB().ExecContext(t.Context(),
				`insert into post_tags (site_id, post_id, tag_id) select $1, $2, id from tags where name = $3 and site_id = $1`, l.Site.ID, p.id, tag)
			require.NoError(t, err)
		}
		l.posts = append(l.posts, p)
		other.Draft(t, p.title)
	}
	return l
}

// holds is what a filter without words asks for, said once more.
func (l library) holds(f store.PostFilter, p listed, stages bool) bool {
	if stages && (len(f.Stages) > 0 && !slices.Contains(f.Stages, p.stage) || len(f.Stages) == 0 &&
		p.stage == "binned") {
		return false
	}
	return (len(f.Authors) == 0 || slices.Contains(f.Authors, p.author)) &&
		(len(f.Categories) == 0 || slices.Contains(f.Categories, cmp.Or(p.category, store.NoCategory))) &&
		(len(f.Tags) == 0 || slices.ContainsFunc(p.tags, func(tag string) bool {
			return slices.Contains(f.Tags, l.tags[tag])
		})) &&
		(f.Kind == "" || f.Kind == p.kind) &&
		(f.From.IsZero() || !p.shown.Before(f.From)) && (f.To.IsZero() || p.shown.Before(f.To)) &&
		(f.IDs == nil || slices.Contains(f.IDs, p.id))
}

func (l library) anyFilter(t *rapid.T) store.PostFilter {
	var f store.PostFilter
	maybe := func(what string) bool { return rapid.IntRange(0, 3).Draw(t, what) == 0 }
	if maybe("stages") {
		f.Stages = rapid.SliceOfNDistinct(rapid.SampledFrom([]store.Stage{"draft", "handed in", "cleared", "scheduled",
			"held", "published", "binned"}), 1, 3, rapid.ID).Draw(t, "which")
	}
	if maybe("author") {
		f.Authors = rapid.SliceOfNDistinct(rapid.SampledFrom(append(l.authors, 1<<40)), 1, 3, rapid.ID).Draw(t, "whose")
	}
	if maybe("category") {
		f.Categories = rapid.SliceOfNDistinct(rapid.SampledFrom([]int64{store.NoCategory, l.categories[1],
			l.categories[2]}), 1, 3, rapid.ID).Draw(t, "of")
	}
	if maybe("tag") {
		for _, tag := range rapid.SliceOfNDistinct(rapid.SampledFrom([]string{"Moon", "Lens", "none"}), 1, 3,
			rapid.ID).Draw(t, "tagged") {
			f.Tags = append(f.Tags, l.tags[tag])
		}
	}
	if maybe("kind") {
		f.Kind = rapid.SampledFrom([]string{"post", "page"}).Draw(t, "a")
	}
	if maybe("from") {
		f.From = pgtest.Noon.Add(time.Duration(rapid.IntRange(-5, 9).Draw(t, "first")) * 24 * time.Hour)
	}
	if maybe("to") {
		f.To = pgtest.Noon.Add(time.Duration(rapid.IntRange(-5, 9).Draw(t, "last")) * 24 * time.Hour)
	}
	if maybe("ids") {
		for range rapid.IntRange(0, 20).Draw(t, "many") {
			f.IDs = append(f.IDs, rapid.SampledFrom(l.posts).Draw(t, "one").id)
		}
	}
	return f
}

// A list that is paged through has every post of the filter once, in the order that was
// asked for, whatever the filter, the order and the size of its pages.
func TestListsHaveEveryPostOnce(t *testing.T) {
	t.Parallel()
	l := newLibrary(t)
	var lower map[int64]string // as the database orders them
	{
		var rows []struct {
			ID    int64  `db:"id"`
			Place string `db:"place"`
		}
		require.NoError(t, l.DB().SelectContext(t.Context(), &rows,
			`select id, lpad(dense_rank() over (order by lower(title))::text, 6, '0') as place from posts where site_id = $1`, l.Site.ID))
		lower = make(map[int64]string, len(rows))
		for _, r := range rows {
			lower[r.ID] = r.Place
		}
	}
	by := map[string]func(a, b listed) int{
		store.ByChange:    func(a, b listed) int { return a.changed.Compare(b.changed) },
		store.ByDate:      func(a, b listed) int { return a.shown.Compare(b.shown) },
		store.ByTitle:     func(a, b listed) int { return cmp.Compare(lower[a.id], lower[b.id]) },
		store.ByWords:     func(a, b listed) int { return cmp.Compare(a.words, b.words) },
		store.ByRelevance: func(a, b listed) int { return a.changed.Compare(b.changed) }, // nothing is searched for
	}
	rapid.Check(t, func(t *rapid.T) {
		f, order, down := l.anyFilter(t), rapid.SampledFrom([]string{store.ByChange, store.ByDate, store.ByTitle,
			store.ByWords, store.ByRelevance}).Draw(t, "order"), rapid.Bool().Draw(t, "down")
		size := rapid.IntRange(1, 25).Draw(t, "page")
		wanted := []int64{}
		counts := make(map[store.Stage]int)
		var held []listed
		for _, p := range l.posts {
			if l.holds(f, p, true) {
				held = append(held, p)
			}
			if l.holds(f, p, false) {
				counts[p.stage]++
			}
		}
		slices.SortFunc(held, func(a, b listed) int {
			c := cmp.Or(by[order](a, b), cmp.Compare(a.id, b.id))
			if down {
				return -c
			}
			return c
		})
		for _, p := range held {
			wanted = append(wanted, p.id)
		}
		got := []int64{}
		var after *store.ListPlace
		for {
			rows, err := l.ListPosts(t.Context(), l.Site.ID, f, order, down, after, size)
			require.NoError(t, err)
			for _, r := range rows {
				got = append(got, r.ID)
				after = &store.ListPlace{Key: r.Key, ID: r.ID}
			}
			if len(rows) < size {
				break
			}
		}
		require.Equal(t, wanted, got)
		told, err := l.CountStages(t.Context(), l.Site.ID, f)
		require.NoError(t, err)
		require.Equal(t, counts, told)
		ids, err := l.PostIDs(t.Context(), l.Site.ID, f, 1000)
		require.NoError(t, err)
		require.ElementsMatch(t, wanted, ids)
	})
	_, err := l.ListPosts(t.Context(), l.Site.ID, store.PostFilter{}, "luck", false, nil, 5)
	assert.ErrorContains(t, err, `no order "luck"`)
}

func TestARowOfAListSaysWhatThePostIs(t *testing.T) {
	t.Parallel()
	l := newLibrary(t)
	for _, p := range l.posts {
		rows, err := l.ListPosts(t.Context(), l.Site.ID, store.PostFilter{IDs: []int64{p.id},
			Stages: []store.Stage{p.stage}}, store.ByChange, true, nil, 5)
		require.NoError(t, err)
		require.Len(t, rows, 1, fmt.Sprint(p))
		r := rows[0]
		assert.Equal(t, p.title, r.Title)
		assert.Equal(t, p.words, r.Words)
		assert.Equal(t, p.author, r.AuthorID)
		assert.Equal(t, "Ines Abara", r.AuthorName)
		assert.Equal(t, p.kind, r.Kind)
		slices.Sort(p.tags)
		assert.ElementsMatch(t, p.tags, r.Tags)
		assert.Equal(t, p.category == 0, r.CategoryID == nil)
		assert.Empty(t, r.Marked+r.Snippet, "nothing was searched for")
	}
}

func TestWordsAreFound(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	write := func(title, body string) {
		p := w.Draft(t, title)
		_, err := w.DB().ExecContext(t.Context(), pgtest.Retell(`t.title`, `$2`, `posts.id = $1`), p.ID, body)
		require.NoError(t, err)
	}
	write("Grinding a mirror", "How a mirror ground slowly shines, night after night.")
	write("A comet returns", "It was seen in the mirror of a neighbour.")
	write("Comets and clouds", "No comet without clouds. Nights are long.")
	write("Empty", "")
	find := func(text string) []string {
		rows, err := w.ListPosts(t.Context(), w.Site.ID, store.PostFilter{Text: text}, store.ByRelevance, true, nil, 10)
		require.NoError(t, err, text)
		titles := []string{}
		for _, r := range rows {
			titles = append(titles, r.Title)
		}
		return titles
	}
	const grinding, returns, clouds = "Grinding a mirror", "A comet returns", "Comets and clouds"
	for text, titles := range map[string][]string{
		"mirror":            {grinding, returns}, // a title counts more than a text
		"MIRRORS":           {grinding, returns},
		"mir":               {grinding, returns}, // still being written
		"comet clo":         {clouds},
		"comet -clouds":     {returns},
		`"ground slowly"`:   {grinding},
		`"slowly ground"`:   {},
		`"ground slowly`:    {grinding}, // the quotes are still open
		"grinding or comet": {clouds, returns, grinding},
		"zebra":             {},
	} {
		if text == "grinding or comet" {
			assert.ElementsMatch(t, titles, find(text), text)
			continue
		}
		assert.Equal(t, titles, find(text), text)
	}
	for _, text := range []string{"", " ", "-", `""`, "&|!:*()", "'"} {
		assert.Len(t, find(text), 4, "%q asks for nothing: all are shown", text)
	}
	rapid.Check(t, func(t *rapid.T) { // whatever is typed, it is an answer and no failure
		text := rapid.OneOf(rapid.StringN(0, 30, -1),
			rapid.StringMatching(`([a-c"'&|!:*()<>\\-]{0,5} ?){0,6}`)).Draw(t, "text")
		if strings.ContainsRune(text, 0) || strings.ToValidUTF8(text, "") != text {
			return // the API refuses these
		}
		_, err := w.ListPosts(t.Context(), w.Site.ID, store.PostFilter{Text: text}, store.ByRelevance, true, nil, 3)
		require.NoError(t, err)
		_, err = w.CountStages(t.Context(), w.Site.ID, store.PostFilter{Text: text})
		require.NoError(t, err)
	})

	rows, err := w.ListPosts(t.Context(), w.Site.ID, store.PostFilter{Text: "mirror"}, store.ByRelevance, true, nil, 10)
	require.NoError(t, err)
	assert.Equal(t, "Grinding a "+store.MarkOpen+"mirror"+store.MarkClose, rows[0].Marked)
	assert.Contains(t, rows[1].Snippet, store.MarkOpen+"mirror"+store.MarkClose)
}
