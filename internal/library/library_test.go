package library_test

import (
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/library"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

func shelf(t *testing.T) (pgtest.World, act.Desk) {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	return w, act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}
}

func TestAPictureInUseIsNotDeleted(t *testing.T) {
	w, d := shelf(t)
	p := w.Picture(t, "The dome")
	post := w.Draft(t, "Shows it")
	lane, err := w.InsertChannel(t.Context(), store.Channel{SiteID: w.Site.ID, Kind: "lantern", Name: "Lantern", Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(t, err)
	address := "/blog/dome/pictures/" + p.Key + "-1200x800.jpg"
	for name, c := range map[string]struct{ use, free func() }{
		"“Shows it”":      {func() { w.Rewrite(t, post.ID, "Shows it", "![]("+address+")") }, func() { w.Rewrite(t, post.ID, "Shows it", "None.") }},
		"the blog’s logo": {func() { exec(t, w, `update sites set logo_id = $1`, p.ID) }, func() { exec(t, w, `update sites set logo_id = null`) }},
		"the blog’s icon": {func() { exec(t, w, `update sites set icon_id = $1`, p.ID) }, func() { exec(t, w, `update sites set icon_id = null`) }},
		"the picture of Ines Abara": {func() { require.NoError(t, library.SetPortrait(t.Context(), d, w.Editor.ID, p.ID)) },
			func() { require.NoError(t, library.SetPortrait(t.Context(), d, w.Editor.ID, 0)) }},
		"1 planned message": {func() {
			exec(t, w, `insert into outings (site_id, channel_id, post_id, at, due, wording, text, link, state, origin, pictures, own_text, created_at)
				select $1, $2, $3, $4, $4, 0, '', '', 'planned', 'hand', jsonb_build_array($5::bigint), 'x', $4`, w.Site.ID, lane, post.ID, pgtest.Noon, p.ID)
		}, func() { exec(t, w, `delete from outings`) }},
	} {
		c.use()
		unused, err := w.Pictures(t.Context(), w.Site.ID, store.PictureFilter{Unused: true}, 10)
		require.NoError(t, err)
		assert.Empty(t, unused, name)
		err = library.Delete(t.Context(), d, p.ID, pgtest.Noon)
		used, is := errors.AsType[*library.Used](err)
		require.True(t, is, "%s: %v", name, err)
		assert.Contains(t, used.Error(), "in use: "+name+". Take it out")
		c.free()
	}
	require.NoError(t, library.Delete(t.Context(), d, p.ID, pgtest.Noon))
	require.ErrorIs(t, library.Delete(t.Context(), d, p.ID, pgtest.Noon), store.ErrNotFound)
}

func exec(t *testing.T, w pgtest.World, statement string, args ...any) {
	t.Helper()
	_, err := w.DB().Exec(statement, args...)
	require.NoError(t, err)
}

func TestManyUsesAreCounted(t *testing.T) {
	w, d := shelf(t)
	p := w.Picture(t, "The dome")
	for i, post := range w.Drafts(t, 5) {
		w.Rewrite(t, post.ID, []string{"One", "Two", "Three", "Four", ""}[i], "![](/blog/dome/pictures/"+p.Key+"-1200x800.jpg)")
	}
	err := library.Delete(t.Context(), d, p.ID, pgtest.Noon)
	require.Error(t, err)
	assert.Contains(t, err.Error(), ", 2 more posts. Take")
}

func TestADeletedPictureComesBack(t *testing.T) {
	w, d := shelf(t)
	p := w.Picture(t, "The dome")
	require.NoError(t, w.InsertPictureFile(t.Context(), p.ID, 1200, []byte("file")))
	require.NoError(t, library.Delete(t.Context(), d, p.ID, pgtest.Noon))
	_, _, err := w.PictureFile(t.Context(), w.Site.ID, p.Key, 1200)
	require.ErrorIs(t, err, store.ErrNotFound, "readers do not see it")
	listed, err := w.Pictures(t.Context(), w.Site.ID, store.PictureFilter{}, 10)
	require.NoError(t, err)
	assert.Empty(t, listed)
	for _, id := range []int64{p.ID, p.ID + 100} {
		require.Error(t, library.SetPortrait(t.Context(), d, w.Editor.ID, id), "it cannot be chosen")
	}
	require.NoError(t, library.Restore(t.Context(), d, p.ID, pgtest.Noon))
	require.NoError(t, library.Restore(t.Context(), d, p.ID, pgtest.Noon), "once more is no error")
	_, data, err := w.PictureFile(t.Context(), w.Site.ID, p.Key, 1200)
	require.NoError(t, err)
	assert.Equal(t, "file", string(data))

	// After 30 days it is gone for good, unless something has begun to show it.
	other := w.Picture(t, "Shown again")
	for _, id := range []int64{p.ID, other.ID} {
		require.NoError(t, library.Delete(t.Context(), d, id, pgtest.Noon))
	}
	require.NoError(t, w.InsertPictureFile(t.Context(), other.ID, 1200, []byte("file")))
	w.Rewrite(t, w.Draft(t, "A post").ID, "A post", "![](/blog/dome/pictures/"+other.Key+"-1200x800.jpg)")
	_, _, err = w.PictureFile(t.Context(), w.Site.ID, other.Key, 1200)
	require.NoError(t, err, "readers of the post see it")
	left := func(days time.Duration) (ids []int64) {
		require.NoError(t, w.EmptyPictureBin(t.Context(), pgtest.Noon.Add(days*24*time.Hour-library.BinnedFor)))
		binned, err := w.Pictures(t.Context(), w.Site.ID, store.PictureFilter{Binned: true}, 10)
		require.NoError(t, err)
		for _, b := range binned {
			ids = append(ids, b.ID)
		}
		return ids
	}
	assert.Equal(t, []int64{other.ID, p.ID}, left(30))
	assert.Equal(t, []int64{other.ID}, left(31))
}

func TestOfTwoWhoDeleteAPictureOneDoes(t *testing.T) {
	w, d := shelf(t)
	p := w.Picture(t, "The dome")
	var group sync.WaitGroup
	errs := make([]error, 8)
	for i := range errs {
		group.Go(func() { errs[i] = library.Delete(t.Context(), d, p.ID, pgtest.Noon) })
	}
	group.Wait()
	done := 0
	for _, err := range errs {
		if err == nil {
			done++
			continue
		}
		require.ErrorIs(t, err, store.ErrNotFound)
	}
	assert.Equal(t, 1, done)
}

func TestAReplacedPictureKeepsItsAddresses(t *testing.T) {
	w, d := shelf(t)
	p := w.Picture(t, "The dome")
	for _, width := range []int{480, 960, 1200} {
		require.NoError(t, w.InsertPictureFile(t.Context(), p.ID, width, []byte("old")))
	}
	later := pgtest.Noon.Add(time.Hour)
	require.NoError(t, library.Replace(t.Context(), d, p.ID, "new.png", picture.Made{Type: "png", Width: 700, Height: 700,
		Files: []picture.File{{Width: 480, Data: []byte("480")}, {Width: 700, Data: []byte("700")}}}, later))
	for width, want := range map[int]string{480: "480", 481: "700", 700: "700", 960: "700", 1200: "700", 1: "480"} {
		now, data, err := w.PictureFile(t.Context(), w.Site.ID, p.Key, width)
		require.NoError(t, err)
		assert.Equal(t, want, string(data), width)
		assert.Equal(t, "png", now.Type)
		require.NotNil(t, now.ReplacedAt)
		assert.True(t, later.Equal(*now.ReplacedAt))
	}
	require.ErrorIs(t, library.Replace(t.Context(), d, p.ID+1, "x", picture.Made{}, later), store.ErrNotFound)
	elsewhere := d
	elsewhere.Site = pgtest.NewWorld(t, w.Store, "lanes").Site
	require.ErrorIs(t, library.Delete(t.Context(), elsewhere, p.ID, later), store.ErrNotFound)
}
