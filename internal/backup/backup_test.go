package backup_test

import (
	"bytes"
	"context"
	"fmt"
	"image"
	"image/color"
	"os"
	"path/filepath"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/backup"
	"dapper.example/internal/blog"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

// lived is a database in which something has happened.
func lived(t *testing.T) *store.Store {
	t.Helper()
	s := pgtest.New(t)
	w := pgtest.NewWorld(t, s, "quillmoor")
	w.Drafts(t, 3)
	w.Scheduled(t, "Der Mond, “nah” — 月は近い", pgtest.Noon.Add(-time.Hour))
	pixels := image.NewRGBA(image.Rect(0, 0, 1200, 700))
	for x := range 1200 {
		pixels.Set(x, x%700, color.RGBA{uint8(x), 90, uint8(x / 5), 255})
	}
	made, err := picture.Of(pixels)
	require.NoError(t, err)
	require.NoError(t, blog.KeepPicture(t.Context(), s, &store.Picture{SiteID: w.Site.ID, Name: "moon.jpg",
		Alt: "The moon", User: &w.Editor.ID,
		Type: made.Type, Width: made.Width, Height: made.Height, CreatedAt: pgtest.Noon}, made))
	_, err = s.DB().ExecContext(t.Context(),
		`insert into sessions (token, data, expiry) values ('a-session', 'x', now() + interval '1 day')`)
	require.NoError(t, err)
	_, err = s.DB().ExecContext(t.Context(), `insert into tokens (site_id, user_id, name, hash, hint, scopes, created_at, expires_at)
		values ($1, $2, 'script', decode(repeat('ab', 32), 'hex'), 'abcd', '{read}', now(), now() + interval '1 day')`, w.Site.ID, w.Editor.ID)
	require.NoError(t, err)
	return s
}

// sums are a digest of every table's lines.
func sums(t *testing.T, url string) map[string]string {
	t.Helper()
	s, err := store.Open(t.Context(), url)
	require.NoError(t, err)
	defer s.Close()
	var tables []string
	require.NoError(t, s.DB().SelectContext(t.Context(), &tables,
		`select tablename from pg_tables where schemaname = 'public' order by 1`))
	all := map[string]string{}
	for _, table := range tables {
		var sum string
		require.NoError(t, s.DB().GetContext(t.Context(), &sum,
			fmt.Sprintf(`select count(*) || ' ' || coalesce(md5(string_agg(l::text, e'\n' order by l::text)), '') from %q l`, table)))
		all[table] = sum
	}
	return all
}

func TestWhatWasBackedUpComesBack(t *testing.T) {
	s := lived(t)
	file := filepath.Join(t.TempDir(), "monday.dump")
	kept, err := backup.Vault{URL: s.URL()}.Backup(t.Context(), file, false, nil)
	require.NoError(t, err)
	assert.Greater(t, kept.Tables, 25)
	assert.Greater(t, kept.Bytes, int64(10_000))
	at, err := os.Stat(file)
	require.NoError(t, err)
	assert.Equal(t, os.FileMode(0o600), at.Mode().Perm(),
		"a backup holds drafts and password hashes: it is for its owner's eyes")
	assert.NoFileExists(t, file+".part")

	empty := backup.Vault{URL: pgtest.EmptyURL(t)}
	brought, err := empty.Restore(t.Context(), file, false, false)
	require.NoError(t, err)
	assert.Equal(t, backup.Brought{Sites: 1, Posts: 4, Pictures: 1, Overdue: 1}, brought)

	want, got := sums(t, s.URL()), sums(t, empty.URL)
	assert.Equal(t, "0 ", got["sessions"], "nobody is signed in to a restored blog")
	assert.Equal(t, "1 ", want["sessions"][:2])
	assert.Equal(t, "0 ", got["site_changes"], "transactions of another cluster say nothing in this one")
	for _, apart := range []string{"sessions", "asks", "site_changes"} { // asks: all is looked at anew
		delete(want, apart)
		delete(got, apart)
	}
	assert.Equal(t, want, got)
	assert.NotEqual(t, "0 ", want["picture_files"][:2])
	assert.Equal(t, "1 ", want["tokens"][:2])

	// It goes on from there: new lines get ids of their own.
	restored, err := store.Open(t.Context(), empty.URL)
	require.NoError(t, err)
	defer restored.Close()
	pgtest.NewWorld(t, restored, "dark-lanes").Drafts(t, 2)
}

func TestARestoreTakesAPlaceOnlyWhenToldTo(t *testing.T) {
	s := lived(t)
	file := filepath.Join(t.TempDir(), "monday.dump")
	v := backup.Vault{URL: s.URL()}
	_, err := v.Backup(t.Context(), file, false, nil)
	require.NoError(t, err)

	other := pgtest.New(t)
	pgtest.NewWorld(t, other, "later").Drafts(t, 9)
	to := backup.Vault{URL: other.URL()}
	before := sums(t, other.URL())
	_, err = to.Restore(t.Context(), file, false, false)
	require.ErrorIs(t, err, backup.ErrNotEmpty)
	assert.Equal(t, before, sums(t, other.URL()))

	brought, err := to.Restore(t.Context(), file, true, true)
	require.NoError(t, err)
	assert.Equal(t, 4, brought.Posts)
	var paused int
	require.NoError(t, other.DB().GetContext(t.Context(), &paused,
		`select count(*) from sites where paused_at is not null and slug = 'quillmoor'`))
	assert.Equal(t, 1, paused, "nothing comes out before somebody has looked")
	assert.NotContains(t, slices.Collect(keys(sums(t, other.URL()))), "later")
}

func keys(m map[string]string) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}

func TestADamagedBackupChangesNothing(t *testing.T) {
	s := lived(t)
	dir := t.TempDir()
	file := filepath.Join(dir, "monday.dump")
	v := backup.Vault{URL: s.URL()}
	_, err := v.Backup(t.Context(), file, false, nil)
	require.NoError(t, err)
	before := sums(t, s.URL())

	whole, err := os.ReadFile(file)
	require.NoError(t, err)
	for name, bad := range map[string][]byte{
		"cut short":     whole[:len(whole)*3/4],
		"not a backup":  []byte("once upon a time"),
		"nothing in it": nil,
	} {
		path := filepath.Join(dir, "bad.dump")
		require.NoError(t, os.WriteFile(path, bad, 0o600))
		_, err := v.Restore(t.Context(), path, true, false)
		require.Error(t, err, name)
		assert.Equal(t, before, sums(t, s.URL()), name)
	}
	// Two bits of the list of contents are turned over: pg_restore would not notice.
	turned := bytes.Clone(whole)
	turned[len(turned)/100] ^= 1
	turned[len(turned)/50] ^= 1
	require.NoError(t, os.WriteFile(file, turned, 0o600))
	_, err = v.Restore(t.Context(), file, true, false)
	require.ErrorContains(t, err, "is damaged")
	assert.Equal(t, before, sums(t, s.URL()))
	require.NoError(t, os.WriteFile(file, whole, 0o600))
	_, err = v.Restore(t.Context(), file, true, false)
	require.NoError(t, err)
	_, err = v.Restore(t.Context(), filepath.Join(dir, "missing"), true, false)
	assert.ErrorContains(t, err, "cannot be read")
}

func TestABackupWritesOverNothingByItself(t *testing.T) {
	s := lived(t)
	v := backup.Vault{URL: s.URL()}
	file := filepath.Join(t.TempDir(), "monday.dump")
	require.NoError(t, os.WriteFile(file, []byte("the only copy"), 0o600))
	_, err := v.Backup(t.Context(), file, false, nil)
	require.ErrorIs(t, err, backup.ErrThere)
	text, err := os.ReadFile(file)
	require.NoError(t, err)
	assert.Equal(t, "the only copy", string(text))
	_, err = v.Backup(t.Context(), file, true, nil)
	require.NoError(t, err)

	ended, end := context.WithCancel(t.Context())
	end()
	_, err = v.Backup(ended, filepath.Join(t.TempDir(), "x.dump"), false, nil)
	require.ErrorIs(t, err, context.Canceled)
	_, err = backup.Vault{URL: v.URL, Programs: t.TempDir()}.Backup(t.Context(), file, true, nil)
	require.Error(t, err)
	assert.FileExists(t, file, "a backup that fails leaves the one before")
}
