package bundle_test

import (
	"bytes"
	"image"
	"image/color"
	"maps"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/blog"
	"dapper.example/internal/bundle"
	"dapper.example/internal/imports"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// flat is all that a test compares of a post, free of the ids and addresses of the blog that it stands on.
type flat struct {
	Title, Kind, Link, Status, Slug, Body, Excerpt, Category, Featured, Alt, Notice string
	Tags, Old                                                                       []string
	Fields                                                                          map[string]string
	Published, First, Due, NotBefore, Deadline, Expires, Archived                   string
	Evergreen, NeverExpires, OnTop, CommentsOpen, Cleared                           bool
}

func moment(at *time.Time) string {
	if at == nil {
		return ""
	}
	return at.UTC().Format(time.RFC3339Nano)
}

// flatten reads all posts of a site that are not in the bin, by their titles. Pictures stand as what their files hold.
func flatten(t *testing.T, s *store.Store, site store.Site) map[string]flat {
	posts, err := s.PostsAfter(t.Context(), site.ID, 0, 1000)
	require.NoError(t, err)
	pictures, err := s.Pictures(t.Context(), site.ID, store.PictureFilter{}, 1000)
	require.NoError(t, err)
	var known []string
	for _, p := range pictures {
		_, data, err := s.PictureFile(t.Context(), site.ID, p.Key, p.Width)
		require.NoError(t, err)
		drawn, _, err := image.Decode(bytes.NewReader(data))
		require.NoError(t, err)
		r, g, b, _ := drawn.At(1, 1).RGBA()
		known = append(known, blog.PicturePath(site.Slug, picture.Name{Key: p.Key, Width: p.Width, Height: p.Height, Type: p.Type}.String()),
			"picture "+p.Name+" "+p.Alt+" "+string([]byte{'0' + byte(r>>15), '0' + byte(g>>15), '0' + byte(b>>15)}))
	}
	names := strings.NewReplacer(known...)
	all := make(map[string]flat)
	for _, p := range posts {
		old, err := s.OldSlugs(t.Context(), site.ID, []int64{p.ID})
		require.NoError(t, err)
		f := flat{Title: p.Title, Kind: p.Kind, Link: p.Link, Status: string(p.Status), Slug: p.Slug, Body: strings.TrimRight(names.Replace(p.Body), " \n"), Excerpt: p.Excerpt, Featured: names.Replace(p.FeaturedImage),
			Alt: p.FeaturedAlt, Notice: p.Notice, Tags: slices.Sorted(slices.Values(p.Tags)), Old: old[p.ID], Fields: maps.Clone(p.Fields), Published: moment(p.PublishedAt), First: moment(p.FirstPublishedAt),
			Due: moment(p.DueAt), NotBefore: moment(p.NotBefore), Deadline: moment(p.Deadline), Expires: moment(p.ExpiresAt), Archived: moment(p.ArchivedAt), Evergreen: p.Evergreen,
			NeverExpires: p.NeverExpires, OnTop: p.OnTop, CommentsOpen: p.CommentsOpen, Cleared: p.Cleared}
		if p.CategoryName != nil {
			f.Category = *p.CategoryName + " " + *p.CategorySlug
		}
		all[p.Title] = f
	}
	return all
}

func drawnIn(c color.Color) image.Image {
	drawn := image.NewRGBA(image.Rect(0, 0, 40, 30))
	for x := range 40 {
		for y := range 30 {
			drawn.Set(x, y, c)
		}
	}
	return drawn
}

// A blog that was written out and brought in on an empty one is the same blog, one for one.
func TestABlogIsBroughtInAgain(t *testing.T) {
	t.Parallel()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "dome")
	ctx, d := t.Context(), act.Desk{Store: s, Site: w.Site, Actor: w.Editor.ID}
	letters, err := s.InsertCategory(ctx, w.Site.ID, "post-bag", "Members Write", 1)
	require.NoError(t, err)
	require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error {
		return tx.SaveCategory(ctx, w.Site.ID, store.Category{ID: letters, Slug: "post-bag", Name: "Members Write", Description: "Letters from *readers*."})
	}))
	var addresses []string
	for n, c := range []color.Color{color.RGBA{255, 0, 0, 255}, color.RGBA{0, 0, 255, 255}} {
		made, err := picture.Of(drawnIn(c))
		require.NoError(t, err)
		p := store.Picture{SiteID: w.Site.ID, Name: []string{"red moon (1).png", "blue.png"}[n], Alt: []string{"A red moon", ""}[n], Type: made.Type, Width: made.Width, Height: made.Height, CreatedAt: pgtest.Noon}
		require.NoError(t, blog.KeepPicture(ctx, s, &p, made))
		addresses = append(addresses, blog.PicturePath("dome", picture.Name{Key: p.Key, Width: p.Width, Height: p.Height, Type: p.Type}.String()))
	}
	write := func(title string, text writing.Text, change string) {
		p := w.Draft(t, title)
		_, err := writing.Write(ctx, d, p.ID, p.Version, text, pgtest.Noon)
		require.NoError(t, err)
		_, err = s.DB().ExecContext(ctx, `update posts set `+change+` where id = $1`, p.ID)
		require.NoError(t, err)
	}
	tags, none, page := []string{"Moon & stars", "Ünder"}, int64(0), "page"
	fields := map[string]string{"price": "12.50", "note: odd": "a \"quoted\"\nline", "#": "- x"}
	body := "# A heading\n\nText with ![a moon](" + addresses[0] + ") and <img src=\"" + addresses[1] + "\">.\n\n---\n\n```\n{one-of:x} --- \n```\n    indented\n"
	excerpt := "In short: 'yes' — \"no\"."
	write("Published: the “first”", writing.Text{Body: &body, Tags: &tags, Excerpt: &excerpt, Fields: &fields, Featured: &writing.Featured{Address: addresses[1], Alt: "All blue"}},
		`slug = 'post-' || id, status = 'published', published_at = '2024-03-01 10:11:12.5Z', first_published_at = '2020-01-02 03:04:05Z', republished_at = '2024-03-01 10:11:12.5Z', times_republished = 1, evergreen = true`)
	write("Archived", writing.Text{Category: &letters}, `slug = 'post-' || id, status = 'archived', published_at = '2021-03-01 10:00Z', first_published_at = '2021-03-01 10:00Z', archived_at = '2025-01-01 00:00Z', notice = 'This is old.', comments_open = false`)
	write("Scheduled", writing.Text{Category: &none}, `slug = 'post-' || id, status = 'scheduled', due_at = '2027-01-02 10:00Z', pinned = true, never_expires = true`)
	write("A page", writing.Text{Kind: &page}, `slug = 'post-' || id, status = 'published', published_at = '2021-03-01 10:00Z', first_published_at = '2021-03-01 10:00Z', on_top = true`)
	write("A link item", writing.Text{Category: &letters, Excerpt: &excerpt}, `kind = 'link', link = 'https://ridge.example/a?b=c#d', status = 'linked', published_at = '2021-03-01 10:00Z', first_published_at = '2021-03-01 10:00Z'`)
	write("On the shelf", writing.Text{}, `cleared = true, shelf_rank = 4, not_before = '2027-01-01 00:00Z', deadline = '2027-02-01 00:00Z'`)
	write("A draft", writing.Text{}, `expires_at = '2028-01-01 00:00Z'`)
	write("---", writing.Text{Title: new("--- 1: a title?")}, `deadline = null`)
	_, err = s.DB().ExecContext(ctx, `insert into old_slugs (site_id, post_id, slug) select site_id, id, 'formerly' from posts where title = 'Archived'`)
	require.NoError(t, err)

	var out bytes.Buffer
	require.NoError(t, bundle.Write(ctx, s.Queries, w.Site, &out, pgtest.Noon, never))
	empty := pgtest.New(t)
	to := pgtest.NewWorld(t, empty, "new-dome")
	_, err = empty.DB().ExecContext(ctx, `delete from categories where site_id = $1`, to.Site.ID)
	require.NoError(t, err)
	desk := act.Desk{Store: empty, Site: to.Site, Actor: to.Editor.ID}
	i, err := imports.Begin(ctx, desk, "dome", pgtest.Noon)
	require.NoError(t, err)
	require.NoError(t, imports.AddFile(ctx, desk, i.ID, imports.Part{Path: "dome.zip", Last: true, Data: out.Bytes()}))
	look, err := imports.LookAt(ctx, empty.Queries, i, imports.Sheet{})
	require.NoError(t, err)
	assert.Empty(t, look.Left)
	_, err = imports.Read(ctx, desk, i.ID, i.Version, look.Guess, pgtest.Noon)
	require.NoError(t, err)
	runner := &imports.Runner{Store: empty, Clock: clockwork.NewFakeClockAt(pgtest.Noon), Log: pgtest.Quiet()}
	require.NoError(t, runner.Step(ctx))
	i, err = empty.Import(ctx, to.Site.ID, i.ID)
	require.NoError(t, err)
	proposal, err := imports.Propose(ctx, empty.Queries, to.Site, i, pgtest.Noon)
	require.NoError(t, err)
	_, err = imports.Commit(ctx, desk, i.ID, proposal.Token(), pgtest.Noon)
	require.NoError(t, err)
	require.NoError(t, runner.Step(ctx))

	want, got := flatten(t, s, w.Site), flatten(t, empty, to.Site)
	require.Len(t, want, 8)
	for title, post := range want {
		assert.Equal(t, post, got[title], title)
	}
	assert.Len(t, got, len(want))
	categories := func(s *store.Store, site int64) (all []store.Category) {
		all, err := s.Categories(ctx, site)
		require.NoError(t, err)
		for n := range all {
			all[n].ID = 0
		}
		return all
	}
	assert.Equal(t, categories(s, w.Site.ID), categories(empty, to.Site.ID))
}
