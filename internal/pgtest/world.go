package pgtest

import (
	"context"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store"
)

// Noon is the moment at which the worlds of tests begin: Tuesday 24 November 2026,
// 12:00 in Halifax.
var Noon = time.Date(2026, 11, 24, 16, 0, 0, 0, time.UTC)

// World is a small site with an editor and a rhythm: one post every morning
// between 08:00 and 11:00, and one every evening at 19:00, give or take 15 min, 60 min apart.
type World struct {
	*store.Store
	Site     store.Site
	Editor   store.User
	Category int64
	Rhythm   store.Rhythm
}

// NewWorld makes a world with the slug in a store.
func NewWorld(t testing.TB, s *store.Store, slug string) World {
	t.Helper()
	ctx := context.Background()
	w := World{Store: s}
	var err error
	w.Site, err = s.InsertSite(ctx, store.Site{Slug: slug, Title: "Notes from " + slug, Tagline: "A made-up blog", ZoneName: "America/Halifax", CreatedAt: Noon})
	require.NoError(t, err)
	w.Editor, err = s.InsertUser(ctx, store.User{Email: slug + "@example.org", Name: "Ines Abara", PasswordHash: "-", CreatedAt: Noon})
	require.NoError(t, err)
	require.NoError(t, s.InsertMembership(ctx, w.Site.ID, w.Editor.ID, "editor"))
	w.Category, err = s.InsertCategory(ctx, w.Site.ID, "sky-guide", "Sky Guide", 0)
	require.NoError(t, err)
	w.Rhythm = store.Rhythm{SiteID: w.Site.ID, Name: "The week", Gap: 60, Seed: 7, Version: 1, Openings: []rhythm.Opening{
		rhythm.Window("morning", rhythm.EveryDay, civil.MustClock("08:00"), civil.MustClock("11:00"), 1),
		rhythm.Fixed("evening", rhythm.EveryDay, civil.MustClock("19:00"), 15),
	}}
	w.Rhythm.ID, err = s.InsertRhythm(ctx, w.Rhythm, Noon)
	require.NoError(t, err)
	return w
}

// Draft adds a draft with a text.
func (w World) Draft(t testing.TB, title string) store.Post {
	t.Helper()
	id, err := w.InsertDraft(context.Background(), store.Post{
		SiteID: w.Site.ID, AuthorID: w.Editor.ID, CategoryID: &w.Category, Title: title, Body: "Some text.", CreatedAt: Noon})
	require.NoError(t, err)
	return w.Reload(t, id)
}

// Drafts adds several drafts.
func (w World) Drafts(t testing.TB, n int) []store.Post {
	t.Helper()
	posts := make([]store.Post, n)
	for i := range posts {
		posts[i] = w.Draft(t, fmt.Sprintf("Draft %d", i+1))
	}
	return posts
}

// Scheduled adds a post that is pinned at a time.
func (w World) Scheduled(t testing.TB, title string, due time.Time) store.Post {
	t.Helper()
	p := w.Draft(t, title)
	p.Slug = fmt.Sprintf("post-%d", p.ID)
	p.Stand(p.State().Pin(due))
	// It is read before an engine can have published it.
	require.NoError(t, w.InTx(context.Background(), func(tx *store.Tx) error {
		err := tx.SaveState(context.Background(), p, Noon)
		if err == nil {
			p, err = tx.Post(context.Background(), p.SiteID, p.ID)
		}
		return err
	}))
	return p
}

// Reload reads a post of the world as it is now.
func (w World) Reload(t testing.TB, id int64) store.Post {
	t.Helper()
	p, err := w.Post(context.Background(), w.Site.ID, id)
	require.NoError(t, err)
	return p
}
