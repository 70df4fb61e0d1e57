package destinations_test

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/blog"
	"dapper.example/internal/core/post"
	"dapper.example/internal/destinations"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

// A thousand posts of 800 words go to a new folder.
func BenchmarkAThousandPostsGoToAFolder(b *testing.B) {
	for b.Loop() {
		b.StopTimer()
		w := pgtest.NewWorld(b, pgtest.New(b), "dome")
		body := strings.Repeat("Some words of a text. ", 160)
		posts := make([]store.NewPost, 1000)
		for n := range posts {
			posts[n] = store.NewPost{Author: w.Editor.ID, Category: &w.Category, Title: fmt.Sprint("Post ", n), Slug: fmt.Sprint("post-", n), Body: body, State: post.State{}.Publish(pgtest.Noon)}
		}
		require.NoError(b, w.InTx(b.Context(), func(tx *store.Tx) error {
			_, err := tx.InsertPosts(b.Context(), w.Site.ID, posts, w.Editor.ID, pgtest.Noon)
			return err
		}))
		root, err := os.MkdirTemp("", "folders")
		require.NoError(b, err)
		clock := clockwork.NewFakeClockAt(pgtest.Noon)
		sender := &destinations.Sender{Store: w.Store, Clock: clock, Box: pgtest.Box, Renderer: blog.NewRenderer(), Public: "https://dome.example", Folders: root, Log: pgtest.Quiet()}
		_, err = destinations.Editor{Desk: act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}, Folders: root}.Add(b.Context(), destinations.Folder, 0,
			destinations.Wanted{Name: "Static", Setup: plain(), Archived: store.KeepArchived}, true, pgtest.Noon)
		require.NoError(b, err)
		b.StartTimer()
		for n := 1; n > 0; {
			n, err = sender.Step(b.Context())
			require.NoError(b, err)
		}
		b.StopTimer()
		files, err := os.ReadDir(filepath.Join(root, "dome-site", "posts"))
		require.NoError(b, err)
		require.Len(b, files, 1000)
		require.NoError(b, os.RemoveAll(root))
		b.StartTimer()
	}
}
