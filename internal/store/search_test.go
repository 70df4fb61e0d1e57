package store_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/hostile"
	"dapper.example/internal/limited"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// Texts that PostgreSQL's parser takes long over are saved and searched like all others.
func TestTextsThatAreSlowToSearchAreSavedAndFound(t *testing.T) {
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	texts, size := map[string]string{}, 200_000
	if testing.Short() {
		size = 50_000
	}
	for name, text := range hostile.Texts {
		texts[name] = text(size)
	}
	for _, part := range []string{"./", "~/", "a_b-", "<!--", "a@b-", "http://a/", "</", "&#x"} {
		texts[part] = strings.Repeat(part, size/len(part))
	}
	for name, text := range texts {
		limited.Work(t, 100, func() {
			p := w.Draft(t, "Comet "+name)
			_, err := w.DB().ExecContext(t.Context(), pgtest.Retell(`t.title`, `$2`, `posts.id = $1`), p.ID,
				"A zodiacal light. "+text)
			require.NoError(t, err)
		})
	}
	limited.Work(t, 200, func() {
		found, err := w.ListPosts(t.Context(), w.Site.ID, store.PostFilter{Text: "zodiacal light "}, store.ByRelevance,
			true, nil, 200)
		require.NoError(t, err)
		assert.Len(t, found, len(texts))
		assert.Contains(t, found[0].Snippet, "zodiacal")
	})
	long := w.Draft(t, "Long words")
	_, err := w.DB().ExecContext(t.Context(), pgtest.Retell(`t.title`, `$2`, `posts.id = $1`), long.ID,
		"It is well-known: a<bolide, see https://dome.example/one/two.")
	require.NoError(t, err)
	for _, asked := range []string{"well-known ", "known ", "dome.example ", "bolide "} {
		found, err := w.ListPosts(t.Context(), w.Site.ID, store.PostFilter{Text: asked}, store.ByRelevance, true, nil,
			5)
		require.NoError(t, err)
		assert.Len(t, found, 1, asked)
	}
}
