package bundle_test

import (
	"archive/zip"
	"bytes"
	"encoding/json"
	"errors"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"go.yaml.in/yaml/v3"

	"dapper.example/internal/bundle"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

func never() error { return nil }

func files(t *testing.T, data []byte) map[string]string {
	t.Helper()
	in, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	require.NoError(t, err)
	all := make(map[string]string)
	for _, f := range in.File {
		r, err := f.Open()
		require.NoError(t, err)
		text, err := io.ReadAll(r)
		require.NoError(t, err)
		all[f.Name] = string(text)
	}
	return all
}

func TestABlogAsAZip(t *testing.T) {
	s := pgtest.New(t)
	w, other := pgtest.NewWorld(t, s, "dome"), pgtest.NewWorld(t, s, "lanes")
	draft := w.Draft(t, "A draft: “quoted”, --- and more")
	scheduled := w.Scheduled(t, "Soon", pgtest.Noon.Add(time.Hour))
	w.Rewrite(t, scheduled.ID, "Soon", "A text.\n\n---\n\nWith a rule in it.")
	binned := w.Draft(t, "Thrown away")
	_, err := s.DB().Exec(`update posts set status = 'binned', binned_at = now(), binned_from = 'draft' where id = $1`, binned.ID)
	require.NoError(t, err)
	other.Draft(t, "Another site's")
	picture, err := s.InsertPicture(t.Context(), store.Picture{SiteID: w.Site.ID, Key: "abcdefgh12345678", Name: "moon.png", Type: "png", Width: 4, Height: 4, CreatedAt: pgtest.Noon})
	require.NoError(t, err)
	require.NoError(t, s.InsertPictureFile(t.Context(), picture, 4, []byte("picture")))

	said, err := s.InsertComment(t.Context(), store.Comment{SiteID: w.Site.ID, Post: scheduled.ID, Name: "Tam", Text: "A <b>line</b>.\nAnother.", Status: comment.Shown, At: pgtest.Noon})
	require.NoError(t, err)
	_, err = s.InsertComment(t.Context(), store.Comment{SiteID: w.Site.ID, Post: scheduled.ID, Answers: &said, User: &w.Editor.ID, Name: "Ines", Text: "Yes.", Status: comment.Shown, At: pgtest.Noon})
	require.NoError(t, err)

	var out bytes.Buffer
	require.NoError(t, bundle.Write(t.Context(), s.Queries, w.Site, &out, pgtest.Noon, never))
	all := files(t, out.Bytes())
	require.Len(t, all, 6)
	var comments []bundle.Comment
	for lines := json.NewDecoder(strings.NewReader(all["comments.jsonl"])); lines.More(); {
		var c bundle.Comment
		require.NoError(t, lines.Decode(&c))
		comments = append(comments, c)
	}
	require.Len(t, comments, 2)
	assert.Equal(t, bundle.Comment{ID: said, Post: scheduled.Slug, Name: "Tam", At: pgtest.Noon, Status: "shown", Text: "A <b>line</b>.\nAnother."}, comments[1])
	assert.Equal(t, said, comments[0].Answers)
	assert.True(t, comments[0].Team)
	assert.Equal(t, "picture", all["pictures/abcdefgh12345678.png"])
	var blog bundle.Blog
	require.NoError(t, json.Unmarshal([]byte(all["blog.json"]), &blog))
	assert.Equal(t, "Notes from dome", blog.Title)
	assert.Equal(t, []bundle.Category{{Name: "Sky Guide", Slug: "sky-guide"}}, blog.Categories)
	assert.NotEmpty(t, blog.Openings)
	for name, text := range all {
		if !strings.HasSuffix(name, ".md") {
			continue
		}
		front, body, found := strings.Cut(strings.TrimPrefix(text, "---\n"), "\n---\n\n")
		require.True(t, found, name)
		var m bundle.Matter
		require.NoError(t, yaml.Unmarshal([]byte(front), &m), name)
		assert.Equal(t, "Ines Abara", m.Author)
		assert.Equal(t, "Sky Guide", m.Category)
		if strings.HasPrefix(name, "drafts/") {
			assert.Equal(t, draft.Title, m.Title)
			assert.Nil(t, m.Date)
			continue
		}
		assert.Regexp(t, `^scheduled/2026-11-24-\d+-soon\.md$`, name)
		assert.True(t, m.Date.Equal(pgtest.Noon.Add(time.Hour)))
		assert.Equal(t, "A text.\n\n---\n\nWith a rule in it.\n", body)
	}
}

func TestACopyEndsWithItsRequest(t *testing.T) {
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	w.Drafts(t, 150)
	gone, asked := errors.New("gone"), 0
	var out bytes.Buffer
	err := bundle.Write(t.Context(), s.Queries, w.Site, &out, pgtest.Noon, func() error {
		if asked++; asked > 120 {
			return gone
		}
		return nil
	})
	require.ErrorIs(t, err, gone)
	assert.Equal(t, 121, asked)
	_, err = zip.NewReader(bytes.NewReader(out.Bytes()), int64(out.Len()))
	require.Error(t, err, "what was not written to its end cannot be opened")
}
