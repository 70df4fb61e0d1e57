package pgtest

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"fmt"
	"strings"
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
	w.Site, err = s.InsertSite(ctx, store.Site{Slug: slug, Title: "Notes from " + slug, Tagline: "A made-up blog",
		ZoneName: "America/Halifax", CreatedAt: Noon})
	require.NoError(t, err)
	w.Editor, err = s.InsertUser(ctx, store.User{Email: slug + "@example.org", Name: "Ines Abara", PasswordHash: "-",
		CreatedAt: Noon})
	require.NoError(t, err)
	require.NoError(t, s.InsertMembership(ctx, w.Site.ID, w.Editor.ID, "editor"))
	w.Category, err = s.InsertCategory(ctx, w.Site.ID, "sky-guide", "Sky Guide", 0)
	require.NoError(t, err)
	w.Rhythm = store.Rhythm{SiteID: w.Site.ID, Name: "The week", Gap: 60, Seed: 7, Version: 1,
		Openings: []rhythm.Opening{
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

// Page adds a draft of a page.
func (w World) Page(t testing.TB, title string) store.Post {
	t.Helper()
	p := w.Draft(t, title)
	_, err := w.DB().Exec(`update posts set kind = 'page' where id = $1`, p.ID)
	require.NoError(t, err)
	return w.Reload(t, p.ID)
}

// Picture adds a picture of 1200 by 800 that has no files.
func (w World) Picture(t testing.TB, alt string) store.Picture {
	t.Helper()
	var drawn [8]byte
	rand.Read(drawn[:])
	p := store.Picture{SiteID: w.Site.ID, Key: hex.EncodeToString(drawn[:]), Name: alt + ".jpg", Alt: alt, Type: "jpg", Width: 1200, Height: 800, CreatedAt: Noon}
	var err error
	p.ID, err = w.InsertPicture(context.Background(), p)
	require.NoError(t, err)
	return p
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

// Rewrite gives a post another text, as somebody else might. Its version counts up.
func (w World) Rewrite(t testing.TB, id int64, title, body string) {
	t.Helper()
	require.NoError(t, w.InTx(context.Background(), func(tx *store.Tx) error {
		p, err := tx.LockPost(context.Background(), w.Site.ID, id)
		if err != nil {
			return err
		}
		p.Title, p.Body = title, body
		return tx.SaveText(context.Background(), p, nil, p.UpdatedAt)
	}))
}

// Retitle is Retell of the title alone.
func Retitle(title, which string) string { return Retell(title, `t.body`, which) }

// Retell is a statement that gives posts other texts, each as a new version: title, body and
// which posts are expressions over posts and their live texts t.
func Retell(title, body, which string) string {
	return `
		with made as (
			insert into texts (site_id, post_id, made_from, title, body, excerpt, tags, fields, at)
			select t.site_id, t.post_id, t.id, ` + title + `, ` + body + `, t.excerpt, t.tags, t.fields, t.at
			from posts join texts t on t.id = text_id where ` + which + `
			returning id, post_id, title, words
		)
		update posts set text_id = made.id, title = made.title, words = made.words, version = version + 1 from made where posts.id = made.post_id`
}

// Put adds many posts at once: the columns, a body among them, of the rows that a query
// yields.
func Put(t testing.TB, s *store.Store, columns, query string, args ...any) {
	t.Helper()
	var of []string
	for column := range strings.SplitSeq(columns, ",") {
		if column = strings.TrimSpace(column); column != "body" {
			of = append(of, column)
		}
	}
	list := strings.Join(of, ", ")
	_, err := s.DB().ExecContext(context.Background(), `
		with given as materialized (
			select nextval(pg_get_serial_sequence('posts', 'id')) as id, nextval(pg_get_serial_sequence('texts', 'id')) as text_id, q.*
			from (`+query+`) q (`+columns+`)
		), post as (
			insert into posts (id, text_id, words, `+list+`) overriding system value
			select id, text_id, words_of(body), `+list+` from given
		)
		insert into texts (id, site_id, post_id, title, body, at) overriding system value
		select text_id, site_id, id, title, body, created_at from given`, args...)
	require.NoError(t, err)
}
