package imports_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/intake"
	"dapper.example/internal/imports"
	"dapper.example/internal/store"
	"dapper.example/internal/undo"
)

func TestItemsOfFeedsBecomeLinkItems(t *testing.T) {
	r := newRoom(t)
	ridge, feeder := newRidge(t), r.feeder()
	r.addFeed(imports.FeedSays{Name: "Ridge", Address: ridge.URL, Minutes: 60, Becomes: store.FeedLinks, Existing: true,
		Setup: imports.Setup{Landing: imports.Goal{As: imports.AsPlaced}, Recipe: intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Category: {Text: "Sky Guide"}}}}})
	r.looks(feeder, 0)
	items := r.posts()
	require.Len(t, items, 2)
	one := items["Note 1"]
	assert.Equal(t, []any{"link", store.Linked, "https://ridge.example/1", "", "Sky Guide", false}, []any{one.Kind, one.Status, one.Link, one.Slug, *one.CategoryName, one.Cleared})
	assert.Equal(t, r.now(), one.PublishedAt.UTC(), "it has no date, so it is of now")
	ridge.items = 3
	r.looks(feeder, 2*time.Hour)
	assert.Len(t, r.posts(), 3, "each once")

	listed, err := r.World.ListPosts(t.Context(), r.World.Site.ID, store.PostFilter{}, store.ByDate, true, nil, 10)
	require.NoError(t, err)
	assert.Empty(t, listed, "they are not among the posts")
	listed, err = r.World.ListPosts(t.Context(), r.World.Site.ID, store.PostFilter{Stages: []store.Stage{"linked"}}, store.ByDate, true, nil, 10)
	require.NoError(t, err)
	assert.Len(t, listed, 3)
	out, err := r.World.CountPublished(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	assert.Zero(t, out)

	_, err = undo.Undo(t.Context(), r.Desk, r.logged().ID, r.now())
	require.NoError(t, err)
	r.step()
	undone := r.World.Reload(t, listed[0].ID)
	assert.Equal(t, store.Binned, undone.Status, "an undone import puts its link items into the bin")
	assert.Equal(t, store.Linked, *undone.BinnedFrom)
}

func TestLinesBecomeLinkItemsWhereTheyHaveALink(t *testing.T) {
	r := newRoom(t)
	setup := imports.Setup{Sheet: imports.Sheet{Heading: 1, Key: "nr"}, Landing: imports.Goal{As: imports.AsLinks}, Recipe: intake.Recipe{Fill: map[intake.Field]intake.Fill{
		intake.Title: {Text: "{column:title}"}, intake.Link: {Text: "{column:link}"}, intake.Kind: {Text: "{column:kind}"}, intake.Body: {Text: "{column:text}"}}}}
	i := r.land(r.begin("Links", "l.csv", []byte("nr,title,link,kind,text\n1,Ridge walk,https://ridge.example/walk,,\n2,No link,,,\n3,Odd,ftp://ridge.example/a,,\n")), setup)
	needed := "left: A link item needs a link that begins with https:// or http://."
	assert.Equal(t, map[string]string{"1": "landed", "2": needed, "3": needed}, r.lines(i))
	assert.Equal(t, "https://ridge.example/walk", r.posts()["Ridge walk"].Link)

	i = r.land(r.begin("Links", "2.csv", []byte("nr,title,link,kind,text\n1,Ridge walk,https://ridge.example/walk/2,,\n")), setup)
	assert.Equal(t, "updated", r.lines(i)["1"])
	assert.Equal(t, "https://ridge.example/walk/2", r.posts()["Ridge walk"].Link)
	_, err := undo.Undo(t.Context(), r.Desk, r.logged().ID, r.now())
	require.NoError(t, err)
	r.step()
	assert.Equal(t, "https://ridge.example/walk", r.posts()["Ridge walk"].Link, "it leads where it led")

	setup.Landing.As = imports.AsShelf
	r.land(r.begin("Kinds", "k.csv", []byte("nr,title,link,kind,text\n1,Dark trails,https://ridge.example/dark,link,Text\n2,A post,https://ridge.example/post,,Text\n")), setup)
	items := r.posts()
	assert.Equal(t, []any{store.Linked, "link"}, []any{items["Dark trails"].Status, items["Dark trails"].Kind}, "where the line says so itself")
	assert.Equal(t, []any{store.Draft, "post", ""}, []any{items["A post"].Status, items["A post"].Kind, items["A post"].Link})
}
