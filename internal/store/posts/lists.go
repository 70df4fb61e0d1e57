package posts

import (
	"context"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"
	"unicode"

	"dapper.example/internal/core/words"
	"dapper.example/internal/store/db"
)

// PostFilter says which posts a list shows; what is empty does not narrow it.
type PostFilter struct {
	Text       string  // words of title, excerpt or text; a search engine's quotes, or and - are understood
	Stages     []Stage // empty: all but link items and the bin
	Authors    []int64 // of any of these
	Categories []int64 // in any of these; NoCategory: without one
	Tags       []int64 // with any of these
	Kind       string
	From, To   time.Time // shown in [From, To)
	IDs        []int64
}

// NoCategory filters for posts that have none.
const NoCategory = -1

// The orders of a list of posts.
const (
	ByChange    = "changed"
	ByDate      = "date"
	ByTitle     = "title"
	ByWords     = "words"
	ByRelevance = "relevance" // of a search; by change where nothing is searched for
)

// orders says by which column each order goes, and of which type it is.
var orders = map[string]struct{ column, kind string }{
	ByChange:    {"posts.updated_at", "timestamptz"},
	ByDate:      {"posts.shown_at", "timestamptz"},
	ByTitle:     {"lower(posts.title)", "text"},
	ByWords:     {"posts.words", "integer"},
	ByRelevance: {"ts_rank(post_search.search, query)::float8", "float8"},
}

// ListPlace is where a page of a list ends: the last post's value of the order's column,
// as text, and its id.
type ListPlace struct {
	Key string
	ID  int64
}

// ListRow is a post in a list.
type ListRow struct {
	ID           int64      `db:"id"`
	Title        string     `db:"title"`
	Slug         string     `db:"slug"`
	Status       Status     `db:"status"`
	Stage        Stage      `db:"stage"`
	Kind         string     `db:"kind"`
	AuthorID     int64      `db:"author_id"`
	AuthorName   string     `db:"author_name"`
	CategoryID   *int64     `db:"category_id"`
	CategoryName *string    `db:"category_name"`
	Tags         db.Strings `db:"tags"`
	DueAt        *time.Time `db:"due_at"`
	PublishedAt  *time.Time `db:"published_at"`
	UpdatedAt    time.Time  `db:"updated_at"`
	Words        int        `db:"words"`
	Pinned       bool       `db:"pinned"`
	OnTop        bool       `db:"on_top"`
	Evergreen    bool       `db:"evergreen"`
	Featured     bool       `db:"featured"`
	Version      int        `db:"version"`
	Cleared      bool       `db:"cleared"`
	Held         bool       `db:"held"`
	HasText      bool       `db:"has_text"`
	Marked       string     `db:"marked"`  // the title with what was found between MarkOpen and MarkClose
	Snippet      string     `db:"snippet"` // a stretch of the text with what was found
	Key          string     `db:"key"`     // of the order
}

// Marks round what a search found, in Marked and Snippet. They are code points for
// private use and taken out of the texts beforehand.
const (
	MarkOpen  = "\ue000"
	MarkClose = "\ue001"
)

// snippetOf is how much of a text is looked through for a snippet, in characters.
const snippetOf = 50_000

// where writes the conditions of the filter and gathers their arguments; the stages are
// left out where they are counted.
func (f PostFilter) where(siteID int64, stages bool) (from, where string, args []any) {
	args = []any{siteID}
	arg := func(v any) string {
		args = append(args, v)
		return fmt.Sprintf("$%d", len(args))
	}
	parts := []string{"posts.site_id = $1"}
	from = "posts"
	if f.searches() {
		from += " join post_search on post_search.post_id = posts.id, (select " + queryOf(f.Text, arg) +
			" as query) asked"
		parts = append(parts, "post_search.search @@ query")
	}
	if stages {
		if len(f.Stages) > 0 {
			parts = append(parts, "posts.stage = any("+arg(f.Stages)+"::text[])")
		} else {
			parts = append(parts, "posts.stage not in ('binned', 'linked')")
		}
	}
	if len(f.Authors) > 0 {
		parts = append(parts, "posts.author_id = any("+arg(f.Authors)+")")
	}
	if len(f.Categories) > 0 {
		in := "posts.category_id = any(" + arg(f.Categories) + ")"
		if slices.Contains(f.Categories, NoCategory) {
			in = "(" + in + " or posts.category_id is null)"
		}
		parts = append(parts, in)
	}
	if len(f.Tags) > 0 {
		parts = append(parts,
			"exists (select from post_tags where post_id = posts.id and tag_id = any("+arg(f.Tags)+"))")
	}
	if f.Kind != "" {
		parts = append(parts, "posts.kind = "+arg(f.Kind))
	}
	if !f.From.IsZero() {
		parts = append(parts, "posts.shown_at >= "+arg(f.From))
	}
	if !f.To.IsZero() {
		parts = append(parts, "posts.shown_at < "+arg(f.To))
	}
	if f.IDs != nil {
		parts = append(parts, "posts.id = any("+arg(f.IDs)+")")
	}
	return from, strings.Join(parts, " and "), args
}

// searches tells whether there is a word to look for.
func (f PostFilter) searches() bool { return strings.ContainsFunc(f.Text, words.IsRune) }

// queryOf writes a search query: what search engines understand, and a last word that
// is still being written.
func queryOf(text string, arg func(any) string) string {
	text = cleanSearch(text)
	last := text[strings.LastIndexFunc(text, func(r rune) bool { return unicode.IsSpace(r) })+1:]
	rest := strings.TrimSuffix(text, last)
	begun := last != "" && !strings.ContainsFunc(last, func(r rune) bool { return !words.IsRune(r) }) &&
		strings.Count(rest, `"`)%2 == 0
	before := strings.Fields(rest)
	if !begun || len(before) > 0 && strings.EqualFold(before[len(before)-1], "or") {
		return "websearch_to_tsquery('english', " + arg(text) + ")"
	}
	beginning := "to_tsquery('english', " + arg(last) + " || ':*')"
	if !strings.ContainsFunc(rest, words.IsRune) {
		return beginning
	}
	return "websearch_to_tsquery('english', " + arg(rest) + ") && " + beginning
}

// cleanSearch takes from what is searched for what says nothing, and of signs that follow one
// another all but one: PostgreSQL nests each, up to its own limits.
func cleanSearch(text string) string {
	kept := slices.DeleteFunc(strings.Fields(text), func(w string) bool {
		return w != `"` &&
			!strings.ContainsFunc(w, words.IsRune)
	})
	kept = kept[:min(len(kept), mostWords)]
	for i, w := range kept {
		kept[i] = manyHyphens.ReplaceAllString(w, "-")
	}
	clean := strings.Join(kept, " ")
	if strings.TrimRightFunc(text, unicode.IsSpace) != text {
		clean += " " // the last word is whole
	}
	return clean
}

// mostWords is how many words are searched for at most.
const mostWords = 30

var manyHyphens = regexp.MustCompile(`-{2,}`)

// ListPosts lists a page of posts in an order, after a place where one is given.
func (q Queries) ListPosts(ctx context.Context, siteID int64, f PostFilter, order string, down bool, after *ListPlace,
	limit int) ([]ListRow, error) {
	if order == ByRelevance && !f.searches() {
		order = ByChange
	}
	by, known := orders[order]
	if !known {
		return nil, fmt.Errorf("listing posts: there is no order %q", order)
	}
	from, where, args := f.where(siteID, true)
	arg := func(v any) string {
		args = append(args, v)
		return fmt.Sprintf("$%d", len(args))
	}
	direction, beyond := "asc", ">"
	if down {
		direction, beyond = "desc", "<"
	}
	if after != nil {
		where += fmt.Sprintf(" and (%s, posts.id) %s (%s::%s, %s)", by.column, beyond, arg(after.Key), by.kind,
			arg(after.ID))
	}
	// The page is found first; only its rows are joined, and marked where something was searched for.
	marked, snippet, query := "''", "''", "null::tsquery"
	if f.searches() {
		query = "query"
		clean := "translate(%s, '" + MarkOpen + MarkClose + "', '')"
		marks := "StartSel=" + MarkOpen + ", StopSel=" + MarkClose
		marked = fmt.Sprintf("ts_headline('english', "+clean+", page.query, '%s, HighlightAll=true')", "posts.title",
			marks)
		snippet = fmt.Sprintf("ts_headline('english', "+clean+", page.query, '%s, MaxWords=28, MinWords=14, MaxFragments=1')",
			fmt.Sprintf("searchable(left((select body from texts where texts.id = posts.text_id), %d))",
				snippetOf), marks)
	}
	statement := fmt.Sprintf(`
		select posts.id, title, posts.slug, status, stage, kind, author_id, users.name as author_name, category_id, categories.name as category_name,
			(select coalesce(json_agg(tags.name order by tags.name), '[]') from post_tags join tags on tags.id = tag_id where post_id = posts.id) as tags,
			due_at, published_at, updated_at, words, pinned, on_top, evergreen, featured_image <> '' as featured, version, cleared, held, words > 0 as has_text,
			%s as marked, %s as snippet, page.key::text as key
		from (
			select posts.id, %s as key, %s as query from %s where %s
			order by %s %s, posts.id %s limit %s
		) page join posts on posts.id = page.id join users on users.id = author_id left join categories on categories.id = category_id
		order by page.key %s, posts.id %s`,
		marked, snippet, by.column, query, from, where, by.column, direction, direction, arg(limit), direction, direction)
	var rows []ListRow
	err := q.run.All(ctx, &rows, statement, args...)
	return rows, err
}

// CountStages counts the posts of a filter by their stages, whatever stages it is for.
func (q Queries) CountStages(ctx context.Context, siteID int64, f PostFilter) (map[Stage]int, error) {
	from, where, args := f.where(siteID, false)
	var rows []struct {
		Stage Stage `db:"stage"`
		N     int   `db:"n"`
	}
	err := q.run.All(ctx, &rows, `select stage, count(*) as n from `+from+` where `+where+` group by stage`, args...)
	counts := make(map[Stage]int, len(rows))
	for _, r := range rows {
		counts[r.Stage] = r.N
	}
	return counts, err
}

// PostIDs lists the ids of a filter's posts, the latest changed first.
func (q Queries) PostIDs(ctx context.Context, siteID int64, f PostFilter, limit int) ([]int64, error) {
	from, where, args := f.where(siteID, true)
	var ids []int64
	args = append(args, limit)
	err := q.run.All(ctx, &ids,
		fmt.Sprintf(`select posts.id from %s where %s order by posts.updated_at desc, posts.id desc limit $%d`, from,
			where, len(args)), args...)
	return ids, err
}

// TableRow is a post in a table that says all of it but its text.
type TableRow struct {
	ID          int64      `db:"id"`
	Title       string     `db:"title"`
	Kind        string     `db:"kind"`
	Stage       Stage      `db:"stage"`
	Slug        string     `db:"slug"`
	Author      string     `db:"author"`
	Category    string     `db:"category"`
	Tags        db.Strings `db:"tags"`
	Excerpt     string     `db:"excerpt"`
	DueAt       *time.Time `db:"due_at"`
	PublishedAt *time.Time `db:"published_at"`
	FirstAt     *time.Time `db:"first_published_at"`
	CreatedAt   time.Time  `db:"created_at"`
	UpdatedAt   time.Time  `db:"updated_at"`
	Words       int        `db:"words"`
	Evergreen   bool       `db:"evergreen"`
	Pinned      bool       `db:"pinned"`
	Picture     string     `db:"picture"`
	Fields      db.Fields  `db:"fields"`
}

// TablePosts lists a page of the posts of a filter for a table, in the order of their ids, after one of them.
func (q Queries) TablePosts(ctx context.Context, siteID int64, f PostFilter, after int64, limit int) ([]TableRow, error) {
	from, where, args := f.where(siteID, true)
	args = append(args, after, limit)
	var rows []TableRow
	err := q.run.All(ctx, &rows, fmt.Sprintf(`
		select posts.id, posts.title, posts.kind, posts.stage, posts.slug, users.name as author, coalesce(categories.name, '') as category,
			(select json_agg(tags.name order by lower(tags.name)) from post_tags join tags on tags.id = tag_id where post_id = posts.id) as tags,
			posts.excerpt, posts.due_at, posts.published_at, posts.first_published_at, posts.created_at, posts.updated_at, posts.words, posts.evergreen,
			posts.pinned, posts.featured_image as picture, posts.fields
		from (select posts.id from %s where %s and posts.id > $%d order by posts.id limit $%d) page join posts on posts.id = page.id
			join users on users.id = posts.author_id left join categories on categories.id = posts.category_id
		order by posts.id`, from, where, len(args)-1, len(args)), args...)
	return rows, err
}

// FieldNames are the names of the custom fields that posts of a site have, in order.
func (q Queries) FieldNames(ctx context.Context, siteID int64) ([]string, error) {
	var names []string
	err := q.run.All(ctx, &names, `select distinct jsonb_object_keys(fields) as name from posts where site_id = $1 and fields <> '{}' order by name`, siteID)
	return names, err
}
