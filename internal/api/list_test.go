package api_test

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/api/logbook"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/people"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

func (c *client) list(query string) posts.PostsPage {
	c.t.Helper()
	var page posts.PostsPage
	c.call("GET", site+"/posts?"+query, nil, 200, &page)
	return page
}

func (c *client) counts(query string) map[string]int {
	c.t.Helper()
	var counts map[string]int
	c.call("GET", site+"/posts/counts?"+query, nil, 200, &counts)
	return counts
}

func titles(page posts.PostsPage) (all []string) {
	for _, p := range page.Posts {
		all = append(all, p.Title)
	}
	return all
}

// put writes fields of a post and returns it as it is then.
func (c *client) put(p posts.Post, fields map[string]any) posts.Post {
	c.t.Helper()
	fields["version"] = p.Version
	c.call("PATCH", c.path(p, ""), fields, 200, &p)
	return p
}

func (c *client) does(p posts.Post, deed string) posts.Post {
	c.t.Helper()
	c.call("POST", c.path(p, "/"+deed), map[string]int{"version": p.Version}, 200, &p)
	return p
}

func TestThePostListFindsAndNarrows(t *testing.T) {
	c := signedIn(t)
	mirror := c.put(c.begin("Grinding a mirror"),
		map[string]any{"body": "Carborundum, *patience* and water. <b>Never</b> in haste.", "tags": []string{"optics"},
			"categoryId": c.world.Category})
	meteors := c.put(c.begin("Counting meteors"),
		map[string]any{"body": "We ground our teeth in the cold; nobody mirrored us.",
			"excerpt": "A hundred and eleven."})
	c.put(c.begin("About us"), map[string]any{"kind": "page"})
	c.does(mirror, "clear")
	c.does(meteors, "publish")

	all := c.list("")
	assert.Len(t, all.Posts, 3)
	var topics posts.Topics
	c.call("GET", site+"/topics", nil, 200, &topics)
	optics := topics.Tags[slices.IndexFunc(topics.Tags, func(t posts.Topic) bool {
		return strings.EqualFold(t.Name, "Optics")
	})].ID
	assert.Equal(t, map[string]int{"draft": 1, "handed in": 0, "cleared": 1, "scheduled": 0, "held": 0, "published": 1,
		"archived": 0, "linked": 0, "binned": 0}, c.counts(""))
	for query, want := range map[string][]string{
		"text=mirrors":                                {"Grinding a mirror", "Counting meteors"},
		"text=mirrors&sort=relevance&order=down":      {"Grinding a mirror", "Counting meteors"},
		"text=" + url.QueryEscape("mirror -teeth"):    {"Grinding a mirror"},
		"text=" + url.QueryEscape(`"in the cold"`):    {"Counting meteors"},
		"text=" + url.QueryEscape("hundred el"):       {"Counting meteors"},
		"text=" + url.QueryEscape("carb or eleven"):   {"Counting meteors"},
		"text=" + url.QueryEscape("water or eleven "): {"Grinding a mirror", "Counting meteors"},
		"text=" + url.QueryEscape("it's ((!! & |"):    nil,
		"text=zebra":       nil,
		"stages=published": {"Counting meteors"},
		"stages=published&stages=cleared&sort=title&order=up": {"Counting meteors", "Grinding a mirror"},
		"kind=page": {"About us"},
		fmt.Sprintf("tags=%d&tags=%d", optics, int64(1)<<40):  {"Grinding a mirror"},
		"categories=-1&sort=title":                            {"Counting meteors", "About us"},
		"from=2026-11-24&to=2026-11-24&sort=words&order=down": {"Counting meteors", "Grinding a mirror", "About us"},
		"from=2026-11-25":                                     nil,
		fmt.Sprintf("authors=%d&authors=0&kind=post&sort=title&order=up", c.world.Editor.ID): {"Counting meteors",
			"Grinding a mirror"},
	} {
		got := titles(c.list(query))
		if strings.Contains(query, "sort=") {
			assert.Equal(t, want, got, query)
		} else {
			assert.ElementsMatch(t, want, got, query)
		}
	}
	found := c.list("text=carborundum").Posts[0]
	assert.Contains(t, found.Snippet, posts.Marked{Text: "Carborundum", Hit: true})
	assert.Contains(t, c.list("text=grind").Posts[0].Found, posts.Marked{Text: "Grinding", Hit: true})
	assert.Equal(t, "body.from", strings.Replace(c.fails("GET", site+"/posts?from=soon", nil, 422).Errors[0].Location,
		"query", "body", 1))
}

func TestEveryPageOfTheListComesOnce(t *testing.T) {
	c := signedIn(t)
	pgtest.Put(t, c.world.Store, `site_id, author_id, title, body, created_at, updated_at`, `
		select $1::bigint, $2::bigint, 'Draft ' || (i % 50), repeat('word ', i % 7), $3::timestamptz + i % 11 * interval '1 day', $3::timestamptz + i % 13 * interval '1 minute'
		from generate_series(1, 250) i`, c.world.Site.ID, c.world.Editor.ID, pgtest.Noon)
	for _, sort := range []string{"changed", "date", "title", "words", "relevance", "relevance&text=draft"} {
		for _, order := range []string{"up", "down"} {
			query, seen, cursor := "sort="+sort+"&order="+order, map[int64]bool{}, ""
			for pages := 1; ; pages++ {
				page := c.list(query + cursor)
				for _, p := range page.Posts {
					assert.False(t, seen[p.ID], "%s: post %d twice", query, p.ID)
					seen[p.ID] = true
				}
				if page.Next == "" {
					assert.Equal(t, 3, pages)
					break
				}
				cursor = "&cursor=" + page.Next
			}
			assert.Len(t, seen, 250, query)
		}
	}
	other := c.list("sort=title")
	assert.Contains(t, c.fails("GET", site+"/posts?sort=date&cursor="+other.Next, nil, 422).Detail, "cursor")
	c.fails("GET", site+"/posts?cursor=eyJTb3J0IjoiY2hhbmdlZCIsIk9yZGVyIjoiZG93biIsIktleSI6IngiLCJJRCI6MX0", nil, 422)
}

func TestManyPostsAtOnce(t *testing.T) {
	c := signedIn(t)
	good, other, empty := c.begin("First"), c.begin("Second"), c.put(c.begin("Third"), map[string]any{"body": ""})
	bulk := func(body map[string]any) (out posts.BulkOutcome) {
		t.Helper()
		c.call("POST", site+"/posts/bulk", body, 200, &out)
		return out
	}
	out := bulk(map[string]any{"do": "clear", "ids": []int64{good.ID, other.ID, empty.ID, 999_999}})
	assert.Equal(t, 2, out.Done)
	assert.Equal(t, []posts.SkippedPost{{ID: empty.ID, Title: "Third",
		Why: "The post has no text yet. Write it before you put it on the shelf."},
		{ID: 999_999, Why: "It is gone."}}, out.Skipped)
	assert.Equal(t, 2, c.counts("")["cleared"])

	var log logbook.LogbookPage
	c.call("GET", site+"/logbook", nil, 200, &log)
	assert.Equal(t, 2, log.Lines[0].Together)
	c.call("POST", fmt.Sprintf("%s/logbook/%d/undo", site, log.Lines[0].ID), nil, 200, nil)
	assert.Equal(t, 3, c.counts("")["draft"])

	c.fails("POST", site+"/posts/bulk", map[string]any{"do": "bin",
		"match": map[string]any{"stages": []string{"draft"}}, "count": 2}, 409)
	assert.Equal(t, 3, bulk(map[string]any{"do": "bin", "match": map[string]any{"stages": []string{"draft"}},
		"count": 3}).Done)
	assert.Empty(t, c.list("").Posts, "the bin is shown when it is asked for")
	assert.Len(t, c.list("stages=binned").Posts, 3)
	assert.Equal(t, 3, bulk(map[string]any{"do": "restore", "ids": []int64{good.ID, other.ID, empty.ID}}).Done)
	assert.Contains(t, c.fails("POST", site+"/posts/bulk", map[string]any{"do": "bin"}, 422).Detail, "Say which posts")
	many := make([]int64, 2001)
	for i := range many {
		many[i] = int64(i + 1)
	}
	assert.Contains(t, c.fails("POST", site+"/posts/bulk", map[string]any{"do": "bin", "ids": many}, 422).Detail,
		"the limit is 2000")
}

func TestTheBinAndTheWayBack(t *testing.T) {
	c := signedIn(t)
	out := c.does(c.begin("Out"), "publish")
	address := out.Address
	out = c.does(out, "bin")
	assert.Equal(t, "binned", out.Stage)
	c.call("GET", address, nil, 404, nil)
	taken := c.fails("PATCH", c.path(c.begin("Another"), ""), map[string]any{"version": 2, "slug": "Out"}, 422)
	assert.Equal(t, "“out” is the address of “Out”, which is in the bin. Choose another, or delete that post for good first.", taken.Detail)
	back := c.does(out, "restore")
	assert.Equal(t, "published", back.Stage)
	c.reader(address)

	scheduled := c.begin("Planned")
	c.call("POST", c.path(scheduled, "/retime"), map[string]any{"version": scheduled.Version, "date": "2026-12-01",
		"time": "09:40"}, 200, &scheduled)
	assert.Equal(t, "draft", c.does(c.does(scheduled, "bin"), "restore").Stage, "its time may have gone to another")

	gone := c.does(back, "bin")
	path := c.path(gone, "")
	assert.Contains(t, c.fails("DELETE", fmt.Sprintf("%s?version=%d&confirm=Ou", path, gone.Version), nil, 422).Detail,
		"Type the title of the post exactly")
	c.call("DELETE", fmt.Sprintf("%s?version=%d&confirm=Out", path, gone.Version), nil, 204, nil)
	c.fails("GET", path, nil, 404)
	p := c.begin("Not in the bin")
	c.fails("DELETE", fmt.Sprintf("%s?version=%d&confirm=Not+in+the+bin", c.path(p, ""), p.Version), nil, 422)
}

func TestAnAddressChangesAndTheOldOneLeadsOn(t *testing.T) {
	c := signedIn(t)
	p := c.put(c.begin("A draft"), map[string]any{"slug": "Früher Name"})
	assert.Equal(t, "fruher-name", p.Slug)
	p = c.put(p, map[string]any{"slug": "first"})
	p = c.does(p, "publish")
	p = c.put(p, map[string]any{"slug": "second"})
	p = c.put(p, map[string]any{"slug": "third"})
	for _, old := range []string{"first", "second"} {
		code, to := c.hop("/blog/dome/" + old)
		assert.Equal(t, 301, code)
		assert.Equal(t, "/blog/dome/third", to)
	}
	code, _ := c.hop("/blog/dome/fruher-name")
	assert.Equal(t, 404, code, "nobody has seen it under that one")
	other := c.begin("Other")
	says := func(slug string) string {
		return c.fails("PATCH", c.path(other, ""), map[string]any{"version": other.Version, "slug": slug},
			422).Errors[0].Message
	}
	assert.Contains(t, says("third"), "is the address of “A draft”")
	assert.Contains(t, says("first"), "used to be the address of “A draft”")
	assert.Contains(t, says("search"), "“search” is used by the blog itself")
	assert.Contains(t, says("!!!"), "“!!!” has nothing that can be used in an address")
	assert.Equal(t, "first-2", c.does(c.begin("First"), "publish").Slug, "what is made keeps off them too")
	p = c.put(p, map[string]any{"slug": "first"})
	code, to := c.hop("/blog/dome/third")
	assert.Equal(t, []any{301, "/blog/dome/first"}, []any{code, to})
	c.reader("/blog/dome/first")
	assert.Contains(t, c.fails("PATCH", c.path(p, ""), map[string]any{"version": p.Version, "slug": ""}, 422).Detail,
		"needs an address")
}

func TestAllThatAPostHas(t *testing.T) {
	c := signedIn(t)
	p := c.begin("Everything")
	p = c.put(p, map[string]any{"excerpt": "In short.", "onTop": true, "commentsOpen": false, "kind": "page",
		"featured": map[string]string{"address": "https://pictures.example/a.jpg",
			"alt": "A dome"}, "fields": map[string]string{"event": "2026-12-01"}})
	assert.Equal(t, "In short.", p.Excerpt)
	assert.Equal(t, posts.Featured{Address: "https://pictures.example/a.jpg", Alt: "A dome"}, p.Featured)
	assert.True(t, p.OnTop)
	assert.False(t, p.CommentsOpen)
	assert.Equal(t, "page", p.Kind)
	assert.Equal(t, 2, p.Words)
	for field, body := range map[string]map[string]any{
		"featured":   {"featured": map[string]string{"address": "javascript:alert(1)", "alt": ""}},
		"authorId":   {"authorId": 999_999},
		"categoryId": {"categoryId": 999_999},
		"excerpt":    {"excerpt": strings.Repeat("x", 2001)},
		"fields":     {"fields": map[string]string{" ": "x"}},
		"title":      {"title": strings.Repeat("ש", 400)},
		"body":       {"body": "a\x00b"},
	} {
		body["version"] = p.Version
		assert.Equal(t, "body."+field, c.fails("PATCH", c.path(p, ""), body, 422).Errors[0].Location, field)
	}
	assert.Contains(t, c.fails("POST", c.path(p, "/clear"), map[string]int{"version": p.Version}, 422).Detail,
		"A page doesn’t go on the shelf")
	rtl := c.put(c.begin("ליל כוכבים"), map[string]any{})
	assert.Equal(t, "ליל כוכבים", c.does(rtl, "publish").Title)
	c.fails("PATCH", c.path(p, ""), map[string]any{"version": p.Version, "body": strings.Repeat("x", 5<<20)}, 413)
	assert.Contains(t, c.fails("PATCH", c.path(p, ""), map[string]any{"version": p.Version,
		"body": strings.Repeat("x", 3<<20)}, 422).Detail, "at most 1024 kB")
}

func TestContributors(t *testing.T) {
	c := signedIn(t)
	pell := c.as(people.Contributor, c.world.Site)
	theirs := c.begin("An editor's")
	pell.fails("PATCH", c.path(theirs, ""), map[string]any{"version": theirs.Version, "title": "Mine now"}, 403)
	pell.fails("POST", c.path(theirs, "/hand-in"), map[string]int{"version": theirs.Version}, 403)

	p := pell.begin("A letter")
	assert.Equal(t, "body.onTop", pell.fails("PATCH", c.path(p, ""),
		map[string]any{"version": p.Version, "onTop": true}, 422).Errors[0].Location)
	p = pell.put(p, map[string]any{"excerpt": "Dear all.", "tags": []string{"letters"}})
	p = pell.does(p, "hand-in")
	assert.Equal(t, "handed in", p.Stage)
	pell.fails("PATCH", c.path(p, ""), map[string]any{"version": p.Version, "title": "Later"}, 403)
	for _, deed := range []string{"clear", "publish", "bin"} {
		pell.fails("POST", c.path(p, "/"+deed), map[string]int{"version": p.Version}, 403)
	}
	assert.Equal(t, 1, c.counts("")["handed in"])
	p = c.does(p, "give-back")
	p = pell.does(p, "hand-in")
	p = c.does(p, "clear")
	assert.Equal(t, "cleared", p.Stage)
	p = c.does(p, "unclear")
	assert.Equal(t, "draft", p.Stage)
	pell.call("GET", site+"/almanac", nil, 200, nil)
}

func TestTwoTabsOnOneDraft(t *testing.T) {
	c := signedIn(t)
	p := c.begin("Two tabs")
	first := c.put(p, map[string]any{"body": "Written in the first."})
	conflict := c.fails("PATCH", c.path(p, ""), map[string]any{"version": p.Version, "body": "Written in the second."},
		409)
	require.NotNil(t, conflict.Present)
	assert.Equal(t, "Written in the first.", conflict.Present.Body)
	assert.Equal(t, first.Version, conflict.Present.Version)
}

func TestPreviewLinksOpenUntilTheyEnd(t *testing.T) {
	c := signedIn(t)
	p := c.put(c.begin("Not yet out"), map[string]any{"body": "Soon. <script>alert(1)</script>"})
	links := c.path(p, "/previews")
	var made posts.SecretLink
	c.call("POST", links, map[string]int{"days": 2}, 201, &made)
	path := strings.TrimPrefix(made.Address, "https://dome.example")
	page := c.reader(path)
	assert.Contains(t, page, "Soon.")
	assert.Contains(t, page, `content="noindex"`)
	assert.NotContains(t, page, "alert(1)")
	c.put(p, map[string]any{"body": "Written on."})
	assert.Contains(t, c.reader(path), "Written on.", "it shows the post as it is now")
	c.call("GET", "/blog/dome/preview/guess", nil, 404, nil)
	var list []posts.SecretLink
	c.call("GET", links, nil, 200, &list)
	require.Len(t, list, 1)
	assert.Empty(t, list[0].Address)
	c.clock.Advance(48 * time.Hour)
	c.call("GET", path, nil, 404, nil)
	c.call("POST", links, map[string]int{"days": 90}, 201, &made)
	c.call("DELETE", links+"/"+itoa(made.ID), nil, 204, nil)
	c.call("GET", strings.TrimPrefix(made.Address, "https://dome.example"), nil, 404, nil)
	assert.Equal(t, store.Draft, c.world.Reload(t, p.ID).Status)

	var seen posts.Rendered
	c.call("POST", site+"/render", map[string]string{"body": "Some *words* <iframe src=x></iframe>"}, 200, &seen)
	assert.Equal(t, "<p>Some <em>words</em> </p>\n", seen.HTML)
	assert.Len(t, seen.Notes, 1)
	assert.Equal(t, 1, seen.Minutes)
}

// hop asks without following where it is led.
func (c *client) hop(path string) (status int, to string) {
	c.t.Helper()
	still := http.Client{CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	answer, err := still.Get(c.url + path)
	require.NoError(c.t, err)
	answer.Body.Close()
	return answer.StatusCode, answer.Header.Get("Location")
}
