// Package desktest gives tests a blog of their own with an editor at the desk.
package desktest

import (
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/planning"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/undo"
)

// Room is a blog and the desk of its editor. Whatever is done is done at pgtest.Noon.
type Room struct {
	pgtest.World
	act.Desk
}

// New is a room for a test, which runs beside others.
func New(t *testing.T) Room {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	return Room{w, act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}}
}

// Shelved puts n new drafts on the shelf.
func (r Room) Shelved(t *testing.T, n int) []store.Post {
	t.Helper()
	posts := r.Drafts(t, n)
	for i, p := range posts {
		require.NoError(t, status.Clear(t.Context(), r.Desk, p.ID, p.Version, pgtest.Noon))
		posts[i] = r.Reload(t, p.ID)
	}
	return posts
}

// Pinned gives a new draft a time by hand.
func (r Room) Pinned(t *testing.T, title string, at time.Time) int64 {
	t.Helper()
	p := r.Draft(t, title)
	_, err := status.Retime(t.Context(), r.Desk, p.ID, p.Version, at, pgtest.Noon)
	require.NoError(t, err)
	return p.ID
}

// Propose is what the shelf comes to.
func (r Room) Propose(t *testing.T) planning.Plan {
	t.Helper()
	plan, err := planning.Propose(t.Context(), r.World.Queries, r.World.Site, pgtest.Noon)
	require.NoError(t, err)
	return plan
}

// Seen are posts in their present versions.
func (r Room) Seen(t *testing.T, ids ...int64) (posts []act.PostVersion) {
	t.Helper()
	for _, id := range ids {
		posts = append(posts, act.PostVersion{Post: id, Version: r.Reload(t, id).Version})
	}
	return posts
}

// Due is when a post comes out, in the site's zone; "" where it has no time.
func (r Room) Due(t *testing.T, id int64) string {
	t.Helper()
	p := r.Reload(t, id)
	if p.DueAt == nil {
		return ""
	}
	return r.World.Site.Zone().In(*p.DueAt).Format("Jan 2 15:04")
}

// Lines are what the logbook says of a post, the latest first.
func (r Room) Lines(t *testing.T, post int64) []store.LogEntry {
	t.Helper()
	lines, err := r.LogOf(t.Context(), r.World.Site.ID, post)
	require.NoError(t, err)
	return lines
}

// Last is the latest line of the logbook.
func (r Room) Last(t *testing.T) store.LogEntry {
	t.Helper()
	lines, err := r.Logbook(t.Context(), r.World.Site.ID, store.LogFilter{}, 1)
	require.NoError(t, err)
	require.Len(t, lines, 1)
	return lines[0]
}

// Undo takes a line back.
func (r Room) Undo(t *testing.T, line int64, now time.Time) error {
	_, err := undo.Undo(t.Context(), r.Desk, line, now)
	return err
}

// UndoLast takes the latest line back.
func (r Room) UndoLast(t *testing.T) {
	t.Helper()
	require.NoError(t, r.Undo(t, r.Last(t).ID, pgtest.Noon))
}

// Rearrange proposes and applies a wish as it was shown.
func (r Room) Rearrange(t *testing.T, w planning.Wish) planning.Reflow {
	t.Helper()
	out, err := planning.ProposeReflow(t.Context(), r.Queries, r.World.Site, w, pgtest.Noon)
	require.NoError(t, err)
	require.NoError(t, planning.ApplyReflow(t.Context(), r.Desk, w, out.Token(), nil, pgtest.Noon))
	return out
}

// IDs are those of posts.
func IDs(posts []store.Post) (ids []int64) {
	for _, p := range posts {
		ids = append(ids, p.ID)
	}
	return ids
}
