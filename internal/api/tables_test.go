package api_test

import (
	"bytes"
	"encoding/csv"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"github.com/xuri/excelize/v2"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// table is a table of the site as an answer holds it.
func (c *client) table(path string) (header http.Header, body []byte) {
	c.t.Helper()
	r, err := http.NewRequestWithContext(c.t.Context(), http.MethodGet, c.url+site+path, nil)
	require.NoError(c.t, err)
	answer, err := c.http.Do(r)
	require.NoError(c.t, err)
	defer answer.Body.Close()
	body, err = io.ReadAll(answer.Body)
	require.NoError(c.t, err)
	require.Equal(c.t, http.StatusOK, answer.StatusCode, string(body))
	return answer.Header, body
}

func TestPostsAndThePlanAsTables(t *testing.T) {
	c := newClient(t)
	c.signIn()
	p := c.world.Scheduled(t, "=First light", pgtest.Noon.Add(21*time.Hour))
	c.world.Draft(t, "A draft")
	_, err := c.world.DB().ExecContext(t.Context(), pgtest.Retell(`t.title`, `'Four words are here'`, fmt.Sprintf("posts.id = %d", p.ID)))
	require.NoError(t, err)
	other := pgtest.NewWorld(t, c.world.Store, "lanes")
	other.Draft(t, "Of another blog")

	header, body := c.table("/tables/posts?format=csv")
	assert.Equal(t, "text/csv; charset=utf-8", header.Get("Content-Type"))
	assert.Equal(t, `attachment; filename="dome-posts-2026-11-24.csv"`, header.Get("Content-Disposition"))
	rows, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(body, []byte("\ufeff")))).ReadAll()
	require.NoError(t, err)
	require.Len(t, rows, 3)
	one := make(map[string]string)
	for i, name := range rows[0] {
		one[name] = rows[1][i]
	}
	assert.Equal(t, []string{"'=First light", "scheduled", "2026-11-25 09:00", "4", "Ines Abara", "Sky Guide", "post"},
		[]string{one["title"], one["status"], one["due"], one["words"], one["author"], one["category"], one["kind"]})

	_, body = c.table("/tables/posts?format=csv&stages=draft")
	assert.Contains(t, string(body), "A draft")
	assert.NotContains(t, string(body), "First light", "the filter of the list")

	lantern := c.lantern()
	c.call("POST", site+"/outings", map[string]any{"channelId": lantern, "postId": 0, "title": "The kettle", "link": "https://dome.example/x", "text": "On: {link}",
		"at": pgtest.Noon.Add(20 * time.Hour)}, 201, nil)
	header, body = c.table("/tables/plan?format=xlsx")
	assert.Contains(t, header.Get("Content-Type"), "spreadsheetml")
	book, err := excelize.OpenReader(bytes.NewReader(body))
	require.NoError(t, err)
	all, err := book.GetRows("Plan")
	require.NoError(t, err)
	require.NoError(t, book.Close())
	var plan []string
	for _, r := range all[1:] {
		plan = append(plan, strings.Join(r[:5], " | "))
	}
	assert.Equal(t, []string{"2026-11-25 08:00 | Wed | message | The kettle | planned", "2026-11-25 09:00 | Wed | post | =First light | scheduled"}, plan)

	c.call("GET", site+"/tables/posts?format=pdf", nil, 422, nil)
	c.call("GET", site+"/tables/posts?from=soon", nil, 422, nil)
}

// A table holds all posts of a filter, once, whatever the size of the pages that are read.
func TestATableHoldsAllPosts(t *testing.T) {
	c := newClient(t)
	c.signIn()
	pgtest.Put(t, c.world.Store, `site_id, author_id, title, body, created_at, updated_at`,
		`select $1::bigint, $2::bigint, 'Mirror ' || i, 'x', $3::timestamptz, $3::timestamptz from generate_series(1, 1000) i`, c.world.Site.ID, c.world.Editor.ID, pgtest.Noon)
	for _, path := range []string{"/tables/posts", "/tables/posts?text=mirror"} {
		_, body := c.table(path)
		rows, err := csv.NewReader(bytes.NewReader(bytes.TrimPrefix(body, []byte("\ufeff")))).ReadAll()
		require.NoError(t, err)
		seen := make(map[string]bool)
		for _, r := range rows[1:] {
			seen[r[0]] = true
		}
		assert.Len(t, seen, 1000, path)
		assert.Len(t, rows, 1001, path)
	}
	names, err := c.world.FieldNames(t.Context(), c.world.Site.ID)
	require.NoError(t, err)
	assert.Empty(t, names)
	none, err := c.world.TablePosts(t.Context(), c.world.Site.ID, store.PostFilter{Text: "nowhere"}, 0, 10)
	require.NoError(t, err)
	assert.Empty(t, none)
}

// A blog as one document comes whole, and its schema with it.
func TestABlogAsADocument(t *testing.T) {
	c := newClient(t)
	c.signIn()
	c.begin("Cables")
	_, err := c.world.DB().ExecContext(t.Context(), `update memberships set role = 'owner'`)
	require.NoError(t, err)
	for path, says := range map[string]string{"/api/v1/sites/dome/copy.json": `"title":"Cables"`, "/api/v1/blog.schema.json": `"A blog as one document"`} {
		answer, err := c.http.Get(c.url + path)
		require.NoError(t, err)
		body, err := io.ReadAll(answer.Body)
		answer.Body.Close()
		require.NoError(t, err)
		assert.Equal(t, http.StatusOK, answer.StatusCode, path)
		assert.True(t, json.Valid(body), path)
		assert.Contains(t, string(body), says)
	}
}
