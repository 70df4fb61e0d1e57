package blog_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/blog"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/readiness"
	"dapper.example/internal/pgtest"
)

func TestLinksToTheBlogItself(t *testing.T) {
	t.Parallel()
	r := blog.NewRenderer()
	links := func(markdown string) []string {
		return r.Links(t.Context(), markdown, address.HomeOf("https://dome.example", "dome", ""))
	}
	for markdown, want := range map[string][]string{
		"[a](/blog/dome/a-post)":                                    {"a-post"},
		"[a](/blog/dome/a-post#top) and [b](/blog/dome/a-post?x=1)": {"a-post"},
		"[a](https://dome.example/blog/dome/b)":                     {"b"},
		"<a href=\"/blog/dome/c\">c</a>":                            {"c"},
		"[ref][1]\n\n[1]: /blog/dome/d":                             {"d"},
		"[a](https://elsewhere.example/blog/dome/a-post)":           nil,
		"[a](/blog/other/a-post)":                                   nil,
		"[a](/blog/dome/category/sky-guide)":                        nil,
		"[a](/blog/dome/feed.atom)":                                 nil,
		"[a](/blog/dome/)":                                          nil,
		"`/blog/dome/code`":                                         nil,
		"![a](/blog/dome/pictures/x.jpg)":                           nil,
	} {
		assert.Equal(t, want, links(markdown), markdown)
	}
	assert.Len(t, links(strings.Repeat("[a](/blog/dome/same) ", 500)), 1, "each once")
}

func TestALinkToWhatIsScheduledOrHasMovedLeadsSomewhere(t *testing.T) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	p := w.Scheduled(t, "One", pgtest.Noon.Add(time.Hour))
	other := w.Scheduled(t, "Another thing altogether", pgtest.Noon.Add(2*time.Hour))
	_, err := w.DB().ExecContext(t.Context(), `insert into old_slugs (site_id, slug, post_id) values ($1, 'once', $2)`,
		w.Site.ID, other.ID)
	require.NoError(t, err)
	body := "[a](/blog/dome/" + other.Slug + ") [b](/blog/dome/once) [c](/blog/dome/never)"
	w.Rewrite(t, p.ID, p.Title, body)
	_, err = w.DB().ExecContext(t.Context(), `update posts set featured_image = '/x.jpg' where id = $1`, p.ID)
	require.NoError(t, err)
	_, err = w.DB().ExecContext(t.Context(), `update sites set ready_checks = '["links"]'`)
	require.NoError(t, err)
	site, err := w.SiteBySlug(t.Context(), "dome")
	require.NoError(t, err)
	found, posts, err := blog.Unready(t.Context(), w.Queries, blog.NewRenderer(), site, "https://dome.example",
		pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, found, 1)
	assert.Equal(t, readiness.Links, found[0].Check)
	assert.Equal(t, "A link leads nowhere on the blog: /blog/dome/never.", found[0].Message)
	assert.Equal(t, "One", posts[found[0].Post].Title)
}
