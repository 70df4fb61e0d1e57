package destinations_test

import (
	"context"
	"fmt"
	"image"
	"io/fs"
	"maps"
	"net/http"
	"net/http/httptest"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/blog"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/post"
	"dapper.example/internal/desktest"
	"dapper.example/internal/destinations"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/picture"
	"dapper.example/internal/reach"
	"dapper.example/internal/standin"
	"dapper.example/internal/status"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// house is a blog, somewhere for its posts to go, and who brings them there, on a clock of its own.
type house struct {
	desktest.Room
	t      *testing.T
	clock  *clockwork.FakeClock
	sender *destinations.Sender
	editor destinations.Editor
	root   string
	site   *standin.Site
	server *httptest.Server
	hub    *standin.Hub
}

func newHouse(t *testing.T) *house {
	r := desktest.New(t)
	clock := clockwork.NewFakeClockAt(pgtest.Noon)
	h := &house{Room: r, t: t, clock: clock, root: t.TempDir(), site: standin.NewSite(clock), hub: standin.NewHub(clock)}
	mux := http.NewServeMux()
	mux.Handle("/tam/", http.StripPrefix("/tam", prefixed("/tam", h.site.Handler())))
	mux.Handle("/hub/", http.StripPrefix("/hub", h.hub.Handler()))
	h.server = httptest.NewServer(mux)
	t.Cleanup(h.server.Close)
	allowed := reach.ParseAllowed("127.0.0.1")
	h.sender = &destinations.Sender{Store: r.World.Store, Clock: clock, Box: pgtest.Box, Client: reach.Client(allowed), Renderer: blog.NewRenderer(),
		Public: "https://dome.example", Folders: h.root, Log: pgtest.Quiet()}
	h.editor = destinations.Editor{Desk: r.Desk, Folders: h.root, Allowed: allowed}
	return h
}

// prefixed tells a stand-in below which path it is.
func prefixed(prefix string, to http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		r.Header.Set("X-Forwarded-Prefix", prefix)
		to.ServeHTTP(w, r)
	})
}

// plain are the settings of a folder.
func plain() store.DestinationSetup {
	return store.DestinationSetup{Folder: "dome-site", Posts: "posts/{slug}.md", Pages: "{slug}.md", Pictures: "pictures"}
}

func (h *house) addFolder(setup store.DestinationSetup, existing bool) int64 {
	h.t.Helper()
	id, err := h.editor.Add(h.t.Context(), destinations.Folder, 0, destinations.Wanted{Name: "Static site", Setup: setup, Archived: store.KeepArchived}, existing, h.clock.Now())
	require.NoError(h.t, err)
	return id
}

// addSite has posts go to the stand-in site.
func (h *house) addSite() int64 {
	h.t.Helper()
	ctx := h.t.Context()
	h.site.Let("a-token")
	c, err := h.World.InsertChannel(ctx, store.Channel{SiteID: h.World.Site.ID, Kind: channel.Micropub, Name: "Tam", Address: h.server.URL + "/tam/notes", Home: h.server.URL + "/tam/",
		Handle: "tam", Token: pgtest.Box.Seal("a-token"), Apart: 30})
	require.NoError(h.t, err)
	id, err := h.editor.Add(ctx, destinations.OwnSite, c, destinations.Wanted{Name: "Tam’s site", Archived: store.RemoveArchived}, true, h.clock.Now())
	require.NoError(h.t, err)
	return id
}

// out is a post that came out an hour ago.
func (h *house) out(title string) store.Post {
	h.t.Helper()
	p := h.Draft(h.t, title)
	p.Slug = strings.ToLower(strings.ReplaceAll(title, " ", "-"))
	return h.stand(p, func(s post.State) post.State { return s.Publish(pgtest.Noon.Add(-time.Hour)) })
}

// stand gives a post another state.
func (h *house) stand(p store.Post, to func(post.State) post.State) store.Post {
	h.t.Helper()
	p = h.fresh(p)
	p.Stand(to(p.State()))
	require.NoError(h.t, h.World.InTx(h.t.Context(), func(tx *store.Tx) error { return tx.SaveState(h.t.Context(), p, h.clock.Now()) }))
	return h.Reload(h.t, p.ID)
}

// fresh is a post as it is kept now, with the name in addresses that it was given here.
func (h *house) fresh(p store.Post) store.Post {
	now := h.Reload(h.t, p.ID)
	if now.Slug == "" {
		now.Slug = p.Slug
	}
	return now
}

// picture is a picture of the library, and its address.
func (h *house) picture() (store.Picture, string) {
	h.t.Helper()
	made, err := picture.Of(image.NewRGBA(image.Rect(0, 0, 1200, 800)))
	require.NoError(h.t, err)
	p := store.Picture{SiteID: h.World.Site.ID, Name: "torch.png", Alt: "A red torch", Type: made.Type, Width: made.Width, Height: made.Height, CreatedAt: pgtest.Noon}
	require.NoError(h.t, blog.KeepPicture(h.t.Context(), h.World.Store, &p, made))
	return p, blog.PicturePath("dome", picture.Name{Key: p.Key, Width: p.Width, Height: p.Height, Type: p.Type}.String())
}

func (h *house) write(p store.Post, text writing.Text) {
	h.t.Helper()
	_, err := writing.Write(h.t.Context(), h.Desk, p.ID, h.Reload(h.t, p.ID).Version, text, h.clock.Now())
	require.NoError(h.t, err)
}

// step lets the sender work until nothing is due.
func (h *house) step() {
	h.t.Helper()
	for n := 1; n > 0; {
		var err error
		n, err = h.sender.Step(h.t.Context())
		require.NoError(h.t, err)
	}
}

// files are what is in the folder of the blog, by paths.
func (h *house) files() map[string]string {
	h.t.Helper()
	all := make(map[string]string)
	require.NoError(h.t, filepath.WalkDir(filepath.Join(h.root, "dome-site"), func(path string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() {
			return err
		}
		text, err := os.ReadFile(path)
		name, _ := filepath.Rel(filepath.Join(h.root, "dome-site"), path)
		all[filepath.ToSlash(name)] = string(text)
		return err
	}))
	return all
}

func (h *house) names() []string { return slices.Sorted(maps.Keys(h.files())) }

func (h *house) copyOf(destination int64, p store.Post) store.Copy {
	h.t.Helper()
	c, err := h.World.CopyOf(h.t.Context(), h.World.Site.ID, destination, p.ID)
	require.NoError(h.t, err)
	return c
}

func TestPostsAreFilesForAsLongAsTheyAreOut(t *testing.T) {
	h := newHouse(t)
	old := h.out("Red Torches")
	h.Draft(t, "Nobody sees this")
	id := h.addFolder(plain(), true)
	h.step()
	require.Equal(t, []string{"posts/red-torches.md"}, h.names())
	text := h.files()["posts/red-torches.md"]
	assert.True(t, strings.HasPrefix(text, "---\ntitle: Red Torches\nslug: red-torches\nstatus: published\ndate: 2026-11-24T15:00:00Z\n"), text)

	// A new one, when it comes out; what changes, when it changes.
	fresh := h.out("Second Post")
	body, tags := "With **new** words.", []string{"Torch"}
	h.write(old, writing.Text{Body: &body, Tags: &tags})
	h.step()
	assert.Equal(t, []string{"posts/red-torches.md", "posts/second-post.md"}, h.names())
	assert.Contains(t, h.files()["posts/red-torches.md"], "tags:\n    - Torch\n")
	assert.True(t, strings.HasSuffix(h.files()["posts/red-torches.md"], "---\n\nWith **new** words.\n"))

	// Another address: another file, and the old one goes.
	slug := "lamps"
	h.write(old, writing.Text{Slug: &slug})
	h.step()
	assert.Equal(t, []string{"posts/lamps.md", "posts/second-post.md"}, h.names())
	assert.Contains(t, h.files()["posts/lamps.md"], "old_addresses:\n    - red-torches\n")

	// Out again with another date; archived with its notice; away; back.
	h.stand(fresh, func(s post.State) post.State { return s.Republish(pgtest.Noon) })
	h.stand(old, func(s post.State) post.State { return s.Archive(pgtest.Noon, "This is old.") })
	h.step()
	assert.Contains(t, h.files()["posts/second-post.md"], "date: 2026-11-24T16:00:00Z\n")
	assert.Contains(t, h.files()["posts/second-post.md"], "first_published: 2026-11-24T15:00:00Z\n")
	assert.Contains(t, h.files()["posts/lamps.md"], "status: archived\n")
	assert.Contains(t, h.files()["posts/lamps.md"], "notice: This is old.\n")
	h.stand(fresh, func(s post.State) post.State { return s.Bin(pgtest.Noon) })
	d, err := h.World.Destination(t.Context(), h.World.Site.ID, id)
	require.NoError(t, err)
	require.NoError(t, h.editor.Save(t.Context(), id, d.Version, destinations.Wanted{Name: "Static site", Setup: plain(), Archived: store.RemoveArchived}, true, h.clock.Now()))
	h.step()
	assert.Empty(t, h.names())
	_, err = os.Stat(filepath.Join(h.root, "dome-site", "posts"))
	assert.ErrorIs(t, err, fs.ErrNotExist, "folders that are empty go too")
	h.stand(fresh, func(s post.State) post.State { return s.Restore() })
	h.step()
	assert.Equal(t, []string{"posts/second-post.md"}, h.names())
	_, err = h.World.DB().ExecContext(t.Context(), `delete from posts where id = $1`, fresh.ID)
	require.NoError(t, err)
	h.step()
	assert.Empty(t, h.names())
}

// Whoever reads the folder never sees half a file, and nothing is written anew that is there as it is.
func TestWhatIsThereStays(t *testing.T) {
	h := newHouse(t)
	p := h.out("Red Torches")
	id := h.addFolder(plain(), true)
	h.step()
	at := filepath.Join(h.root, "dome-site", "posts", "red-torches.md")
	before, err := os.Stat(at)
	require.NoError(t, err)
	done := h.copyOf(id, p).Done
	_, err = h.World.DB().ExecContext(t.Context(), `update posts set version = version + 1 where id = $1`, p.ID)
	require.NoError(t, err)
	assert.True(t, h.copyOf(id, p).Waits())
	h.step()
	after, err := os.Stat(at)
	require.NoError(t, err)
	assert.Greater(t, h.copyOf(id, p).Done, done)
	assert.True(t, os.SameFile(before, after), "a change that readers don't see writes nothing")
	body := "Other words."
	h.write(p, writing.Text{Body: &body})
	h.step()
	after, err = os.Stat(at)
	require.NoError(t, err)
	assert.False(t, os.SameFile(before, after), "a changed file is another one in its place")
	// Somebody deleted it: all are sent anew.
	require.NoError(t, os.Remove(at))
	d, err := h.World.Destination(t.Context(), h.World.Site.ID, id)
	require.NoError(t, err)
	require.NoError(t, h.editor.SendAll(t.Context(), id, d.Version, h.clock.Now()))
	h.step()
	assert.Equal(t, []string{"posts/red-torches.md"}, h.names())
}

func TestPicturesLieBesidePosts(t *testing.T) {
	h := newHouse(t)
	pic, address := h.picture()
	one, two := h.out("One"), h.out("Two")
	body, featured := "![Torch]("+address+")", writing.Featured{Address: address, Alt: "Red"}
	h.write(one, writing.Text{Body: &body, Featured: &featured})
	h.write(two, writing.Text{Body: &body})
	h.addFolder(plain(), true)
	h.step()
	file := "pictures/" + pic.Key + "." + pic.Type
	assert.Equal(t, []string{file, "posts/one.md", "posts/two.md"}, h.names())
	assert.Contains(t, h.files()["posts/one.md"], "picture: ../"+file+"\npicture_description: Red\n")
	assert.Contains(t, h.files()["posts/one.md"], "![Torch](../"+file+")")
	kind := http.DetectContentType([]byte(h.files()[file]))
	assert.True(t, strings.HasPrefix(kind, "image/"), kind)

	// It stays for as long as one of them shows it.
	none := "No picture."
	h.write(one, writing.Text{Body: &none, Featured: &writing.Featured{}})
	h.step()
	assert.Contains(t, h.names(), file)
	h.stand(two, func(s post.State) post.State { return s.ToDraft() })
	h.step()
	assert.Equal(t, []string{"posts/one.md"}, h.names())
}

// With another pattern all files move, pages too; and texts say where pictures are served.
func TestAnotherPatternMovesAll(t *testing.T) {
	h := newHouse(t)
	pic, address := h.picture()
	body := "![Torch](" + address + ")"
	one := h.out("One")
	h.write(one, writing.Text{Body: &body})
	page := h.Page(t, "About")
	page.Slug = "about"
	h.stand(page, func(s post.State) post.State { return s.Publish(pgtest.Noon) })
	id := h.addFolder(plain(), true)
	h.step()
	assert.Equal(t, []string{"about.md", "pictures/" + pic.Key + "." + pic.Type, "posts/one.md"}, h.names())
	setup := plain()
	setup.Posts, setup.Pages, setup.Pictures, setup.PictureLink, setup.Address = "content/{category}/{year}/{slug}.md", "content/pages/{slug}.md", "static/pics", "/pics", "https://lamps.example/{slug}/"
	require.NoError(t, h.editor.Save(t.Context(), id, 1, destinations.Wanted{Name: "Static site", Setup: setup, Archived: store.KeepArchived}, true, h.clock.Now()))
	h.step()
	assert.Equal(t, []string{"content/pages/about.md", "content/sky-guide/2026/one.md", "static/pics/" + pic.Key + "." + pic.Type}, h.names())
	assert.Contains(t, h.files()["content/sky-guide/2026/one.md"], "![Torch](/pics/"+pic.Key+"."+pic.Type+")")
	assert.Equal(t, "https://lamps.example/one/", h.copyOf(id, one).URL)
	// A category's name in addresses is part of the paths.
	require.NoError(t, h.World.InTx(t.Context(), func(tx *store.Tx) error {
		return tx.SaveCategory(t.Context(), h.World.Site.ID, store.Category{ID: h.Category, Slug: "night-sky", Name: "Night Sky"})
	}))
	h.step()
	assert.Contains(t, h.names(), "content/night-sky/2026/one.md")
	assert.Contains(t, h.files()["content/night-sky/2026/one.md"], "category: Night Sky\n")
}

// Where readers find a post may change with its file as it was.
func TestAnAddressFollowsACategorysName(t *testing.T) {
	h := newHouse(t)
	p := h.out("One")
	setup := plain()
	setup.Address = "https://lamps.example/{category}/{slug}/"
	id := h.addFolder(setup, true)
	h.step()
	before := h.files()
	assert.Equal(t, "https://lamps.example/sky-guide/one/", h.copyOf(id, p).URL)
	require.NoError(t, h.World.InTx(t.Context(), func(tx *store.Tx) error {
		return tx.SaveCategory(t.Context(), h.World.Site.ID, store.Category{ID: h.Category, Slug: "night-sky", Name: "Sky Guide"})
	}))
	h.step()
	assert.Equal(t, before, h.files())
	assert.Equal(t, "https://lamps.example/night-sky/one/", h.copyOf(id, p).URL)
}

func TestNoFileThatIsNotOursIsTouched(t *testing.T) {
	h := newHouse(t)
	p := h.out("One")
	h.out("Two")
	theirs := filepath.Join(h.root, "dome-site", "posts", "one.md")
	require.NoError(t, os.MkdirAll(filepath.Dir(theirs), 0o755))
	require.NoError(t, os.WriteFile(theirs, []byte("Their own."), 0o644))
	id := h.addFolder(plain(), true)
	h.step()
	assert.Equal(t, "Their own.", h.files()["posts/one.md"])
	assert.Contains(t, h.files()["posts/two.md"], "title: Two", "the others go on")
	c := h.copyOf(id, p)
	assert.True(t, c.Held)
	assert.Equal(t, "There is a file posts/one.md already that was not written from here, and it stays.", c.Error)
	assert.Contains(t, h.Lines(t, p.ID)[0].Reason, "could not be brought to “Static site”: There is a file")
	h.stand(p, func(s post.State) post.State { return s.Bin(pgtest.Noon) })
	h.step()
	assert.Equal(t, "Their own.", h.files()["posts/one.md"], "nor is it taken away")
	h.stand(p, func(s post.State) post.State { return s.Restore() })
	h.step()
	require.NoError(t, h.editor.Again(t.Context(), id, p.ID, destinations.Decision{}, h.clock.Now()))
	h.step()
	assert.Equal(t, "Their own.", h.files()["posts/one.md"])
	require.NoError(t, h.editor.Again(t.Context(), id, p.ID, destinations.Decision{Replace: true}, h.clock.Now()))
	h.step()
	assert.Contains(t, h.files()["posts/one.md"], "title: One")
}

// A link in the folder that leads out of it is not followed.
func TestNothingOutsideTheFolderIsWritten(t *testing.T) {
	h := newHouse(t)
	outside := t.TempDir()
	require.NoError(t, os.MkdirAll(filepath.Join(h.root, "dome-site"), 0o755))
	require.NoError(t, os.Symlink(outside, filepath.Join(h.root, "dome-site", "posts")))
	p := h.out("One")
	id := h.addFolder(plain(), true)
	h.step()
	left, err := os.ReadDir(outside)
	require.NoError(t, err)
	assert.Empty(t, left)
	c := h.copyOf(id, p)
	assert.Equal(t, "A link in the folder leads out of it.", c.Error)
	assert.False(t, c.Held, "it is tried again")
	require.NoError(t, os.Remove(filepath.Join(h.root, "dome-site", "posts")))
	h.step()
	assert.Empty(t, h.names(), "not before its time")
	h.clock.Advance(5 * time.Second)
	h.step()
	assert.Equal(t, []string{"posts/one.md"}, h.names())
}

// Wherever a process ends, what it began is finished or taken away by whoever goes on.
func TestAFolderAfterAKill(t *testing.T) {
	h := newHouse(t)
	p := h.out("One")
	id := h.addFolder(plain(), true)
	h.step()
	// It had noted where the file goes next, had written it, and had not taken the old one away.
	for _, name := range []string{"posts/moved.md", "posts/.moved.md.part"} {
		require.NoError(t, os.WriteFile(filepath.Join(h.root, "dome-site", name), []byte("Half a"), 0o644))
	}
	_, err := h.World.DB().ExecContext(t.Context(), `update copies set places = '["posts/one.md", "posts/moved.md"]', leased_until = $2 where destination_id = $1`, id, pgtest.Noon.Add(time.Minute))
	require.NoError(t, err)
	slug := "moved"
	h.write(p, writing.Text{Slug: &slug})
	h.step()
	assert.Equal(t, "Half a", h.files()["posts/moved.md"], "another process may still be at it")
	h.clock.Advance(time.Minute)
	h.step()
	assert.Equal(t, []string{"posts/moved.md"}, h.names())
	assert.Contains(t, h.files()["posts/moved.md"], "title: One")

	// A transaction that was taken back marks nothing.
	require.ErrorIs(t, h.World.InTx(t.Context(), func(tx *store.Tx) error {
		p := h.Reload(t, p.ID)
		p.Stand(p.State().Bin(pgtest.Noon))
		require.NoError(t, tx.SaveState(t.Context(), p, pgtest.Noon))
		return context.Canceled
	}), context.Canceled)
	assert.False(t, h.copyOf(id, p).Waits())
	// One that ends with its context is left to others.
	body := "New."
	h.write(p, writing.Text{Body: &body})
	ended, cancel := context.WithCancel(t.Context())
	cancel()
	_, err = h.sender.Step(ended)
	require.Error(t, err)
	assert.Zero(t, h.copyOf(id, p).Tries)
}

func TestOnlyWhatComesOutFromNowOn(t *testing.T) {
	h := newHouse(t)
	old := h.out("Old")
	setup := plain()
	h.addFolder(setup, false)
	p := h.Draft(t, "New")
	p.Slug = "new"
	h.clock.Advance(time.Hour)
	h.stand(p, func(s post.State) post.State { return s.Publish(h.clock.Now()) })
	body := "Changed."
	h.write(old, writing.Text{Body: &body})
	h.step()
	assert.Equal(t, []string{"posts/new.md"}, h.names())
}

func TestPostsOfASiteAreAddedChangedRemovedAndBroughtBack(t *testing.T) {
	h := newHouse(t)
	_, address := h.picture()
	p := h.out("Red Torches")
	body, tags, excerpt := "![Torch]("+address+") and [the rest](/blog/dome/rest).", []string{"Torch"}, "In short."
	h.write(p, writing.Text{Body: &body, Tags: &tags, Excerpt: &excerpt, Featured: &writing.Featured{Address: address, Alt: "Red"}})
	id := h.addSite()
	h.step()
	all := h.site.Posts()
	require.Len(t, all, 1)
	one := all[0]
	assert.Equal(t, []any{"red-torches", "Red Torches", "In short.", "2026-11-24T15:00:00Z", "Red", false, 0},
		[]any{one.Slug, one.Title, one.Summary, one.Published, one.Alt, one.Deleted, one.Changes})
	assert.Equal(t, []string{"Sky Guide", "Torch"}, one.Categories)
	assert.True(t, strings.HasPrefix(one.Photo, h.server.URL+"/tam/media/"), one.Photo)
	assert.Contains(t, one.HTML, `src="`+one.Photo)
	assert.Contains(t, one.HTML, `href="https://dome.example/blog/dome/rest"`)
	assert.NotContains(t, one.HTML, "/pictures/")
	assert.Equal(t, 1, h.site.Pictures(), "a picture is handed over once")
	at := h.server.URL + "/tam/posts/red-torches"
	assert.Equal(t, at, h.copyOf(id, p).URL)

	h.write(p, writing.Text{Body: new("Other words."), Excerpt: new(""), Featured: &writing.Featured{}})
	h.step()
	one = h.site.Posts()[0]
	assert.Equal(t, []any{"<p>Other words.</p>\n", "", "", 1}, []any{one.HTML, one.Summary, one.Photo, one.Changes})
	h.stand(p, func(s post.State) post.State { return s.Republish(pgtest.Noon) })
	h.step()
	assert.Equal(t, "2026-11-24T16:00:00Z", h.site.Posts()[0].Published)
	h.stand(p, func(s post.State) post.State { return s.Archive(pgtest.Noon, "Old.") })
	h.step()
	assert.True(t, h.site.Posts()[0].Deleted)
	assert.Equal(t, store.CopyRemoved, h.copyOf(id, p).State)
	h.stand(p, func(s post.State) post.State { return s.Publish(pgtest.Noon.Add(time.Minute)) })
	h.step()
	one = h.site.Posts()[0]
	assert.False(t, one.Deleted)
	assert.Equal(t, "2026-11-24T16:01:00Z", one.Published)
	assert.Len(t, h.site.Posts(), 1)
	_, err := h.World.DB().ExecContext(t.Context(), `delete from posts where id = $1`, p.ID)
	require.NoError(t, err)
	h.step()
	assert.True(t, h.site.Posts()[0].Deleted)
}

// Where it is not known whether the site took a post, it is asked; no post is there twice.
func TestAPostIsAddedOnceWhateverTheSiteAnswers(t *testing.T) {
	h := newHouse(t)
	p := h.out("Red Torches")
	id := h.addSite()
	broken := true
	h.site.After = func(w http.ResponseWriter, _ *http.Request) bool {
		if broken {
			w.WriteHeader(http.StatusBadGateway)
		}
		return broken
	}
	h.step()
	c := h.copyOf(id, p)
	assert.Equal(t, []any{"The site answered 502 Bad Gateway.", 1, true}, []any{c.Error, c.Tries, c.AskedAt != nil})
	require.Len(t, h.site.Posts(), 1, "it has it all the same")
	h.write(p, writing.Text{Title: new("Blue Torches")})
	broken = false
	h.step()
	assert.Equal(t, "Red Torches", h.site.Posts()[0].Title, "not before its time")
	h.clock.Advance(5 * time.Second)
	h.step()
	require.Len(t, h.site.Posts(), 1)
	assert.Equal(t, "Blue Torches", h.site.Posts()[0].Title)
	assert.False(t, h.copyOf(id, p).Waits())

	// A site that can't be asked: somebody has to look.
	other := h.out("Green Torches")
	broken = true
	h.step()
	broken = false
	h.site.Trouble = func(w http.ResponseWriter, r *http.Request) bool {
		if r.Method == http.MethodGet {
			w.WriteHeader(http.StatusBadRequest)
		}
		return r.Method == http.MethodGet
	}
	h.clock.Advance(5 * time.Second)
	h.step()
	c = h.copyOf(id, other)
	assert.True(t, c.Held)
	assert.Contains(t, c.Error, "Look there")
	err := h.editor.Again(t.Context(), id, other.ID, destinations.Decision{URL: "nowhere"}, h.clock.Now())
	var invalid *act.Invalid
	require.ErrorAs(t, err, &invalid)
	require.NoError(t, h.editor.Again(t.Context(), id, other.ID, destinations.Decision{URL: h.server.URL + "/tam/posts/green-torches"}, h.clock.Now()))
	h.step()
	assert.Len(t, h.site.Posts(), 2)
	assert.Equal(t, h.server.URL+"/tam/posts/green-torches", h.copyOf(id, other).URL)
}

func TestWhatASiteRefusesWaitsForSomebody(t *testing.T) {
	h := newHouse(t)
	p := h.out("Red Torches")
	id := h.addSite()
	refusing := true
	h.site.Trouble = func(w http.ResponseWriter, r *http.Request) bool {
		if refusing && r.Method == http.MethodPost {
			w.Header().Set("Content-Type", "application/json")
			w.WriteHeader(http.StatusBadRequest)
			fmt.Fprint(w, `{"error": "invalid_request", "error_description": "No torches here"}`)
			return true
		}
		return false
	}
	h.step()
	c := h.copyOf(id, p)
	assert.Equal(t, []any{true, "No torches here.", 1}, []any{c.Held, c.Error, c.Tries})
	assert.Nil(t, c.AskedAt, "it has said no")
	h.clock.Advance(1000 * time.Hour)
	h.step()
	assert.Equal(t, 1, h.copyOf(id, p).Tries)
	tally, err := h.World.Tallies(t.Context(), h.World.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, store.CopyTally{Destination: id, Held: 1}, tally[id])
	troubled, err := h.World.TroubledCopies(t.Context(), h.World.Site.ID, id, 10)
	require.NoError(t, err)
	require.Len(t, troubled, 1)
	assert.Equal(t, "Red Torches", troubled[0].Title)
	refusing = false
	require.NoError(t, h.editor.Again(t.Context(), id, p.ID, destinations.Decision{}, h.clock.Now()))
	h.step()
	assert.Len(t, h.site.Posts(), 1)
	latest, err := h.World.LatestCopies(t.Context(), h.World.Site.ID, id, 10)
	require.NoError(t, err)
	require.Len(t, latest, 1)
	assert.Equal(t, store.CopyThere, latest[0].State)
	// Somebody deletes it there: it is not added anew unless one wants that.
	h.site.Trouble = func(w http.ResponseWriter, r *http.Request) bool {
		if r.Method == http.MethodPost {
			w.WriteHeader(http.StatusGone)
		}
		return r.Method == http.MethodPost
	}
	h.write(p, writing.Text{Title: new("Blue Torches")})
	h.step()
	h.site.Trouble = nil
	h.write(p, writing.Text{Title: new("White Torches")})
	h.step()
	c = h.copyOf(id, p)
	assert.Equal(t, []any{store.CopyLost, true}, []any{c.State, c.Held})
	assert.Contains(t, c.Error, "somebody deleted it there")
	require.NoError(t, h.editor.Again(t.Context(), id, p.ID, destinations.Decision{}, h.clock.Now()))
	h.step()
	assert.Equal(t, store.CopyThere, h.copyOf(id, p).State)
	assert.Equal(t, "White Torches", h.site.Posts()[0].Title)
}

// It is tried again for as long as it is wanted, later and later, and the logbook says so once.
func TestWhatFailsIsTriedAgainAndNotLost(t *testing.T) {
	h := newHouse(t)
	p := h.out("Red Torches")
	id := h.addSite()
	h.server.CloseClientConnections()
	down := true
	h.site.Trouble = func(w http.ResponseWriter, _ *http.Request) bool {
		if down {
			w.Header().Set("Retry-After", "soon")
			w.WriteHeader(http.StatusInternalServerError)
		}
		return down
	}
	var tried []time.Duration
	for range 40 * 24 {
		before := h.copyOf(id, p).Tries
		h.step()
		if h.copyOf(id, p).Tries > before {
			tried = append(tried, h.clock.Now().Sub(pgtest.Noon))
		}
		h.clock.Advance(time.Hour)
	}
	assert.GreaterOrEqual(t, len(tried), 30, "every day")
	var said []string
	for _, line := range h.Lines(t, p.ID) {
		if line.Deed == store.DeedDelivery {
			said = append(said, line.Reason)
		}
	}
	require.Len(t, said, 1)
	assert.Contains(t, said[0], "It is tried again, later and later.")
	down = false
	h.clock.Advance(24 * time.Hour)
	h.step()
	assert.Len(t, h.site.Posts(), 1)
	d, err := h.World.Destination(t.Context(), h.World.Site.ID, id)
	require.NoError(t, err)
	assert.Nil(t, d.FailingSince)
}

func TestASignInThatEndedIsSaidOnce(t *testing.T) {
	h := newHouse(t)
	p := h.out("Red Torches")
	id := h.addSite()
	h.site.SignOut()
	h.step()
	c := h.copyOf(id, p)
	assert.Zero(t, c.Tries)
	d, err := h.World.Destination(t.Context(), h.World.Site.ID, id)
	require.NoError(t, err)
	ch, err := h.World.Channel(t.Context(), h.World.Site.ID, int64(d.Channel))
	require.NoError(t, err)
	assert.NotEmpty(t, ch.SignInWhy)
	assert.Contains(t, h.Last(t).Reason, "needs you to sign in again, under Channels")
	h.clock.Advance(time.Hour)
	h.step()
	lines, err := h.Logbook(t.Context(), h.World.Site.ID, store.LogFilter{Deed: store.DeedChannel}, 10)
	require.NoError(t, err)
	assert.Len(t, lines, 2, "and that posts go there")
	h.site.Let("another")
	ch.Token = pgtest.Box.Seal("another")
	require.NoError(t, h.World.SignIn(t.Context(), ch))
	h.clock.Advance(5 * time.Minute)
	h.step()
	assert.Len(t, h.site.Posts(), 1)
}

func TestADestinationEndsWithItsPostsOrWithoutThem(t *testing.T) {
	h := newHouse(t)
	h.out("One")
	h.out("Two")
	id := h.addFolder(plain(), true)
	h.step()
	require.ErrorIs(t, h.editor.End(t.Context(), id, 7, true, h.clock.Now()), act.ErrStale)
	require.NoError(t, h.editor.End(t.Context(), id, 1, true, h.clock.Now()))
	h.step()
	assert.Empty(t, h.names())
	_, err := h.World.Destination(t.Context(), h.World.Site.ID, id)
	require.ErrorIs(t, err, store.ErrNotFound)
	assert.Contains(t, h.Last(t).Reason, "All posts were removed from “Static site”")

	id = h.addFolder(plain(), true)
	h.step()
	require.NoError(t, h.editor.End(t.Context(), id, 1, false, h.clock.Now()))
	h.step()
	assert.Len(t, h.names(), 2)
	// Once more, where they are as they were: they are taken for what they are.
	id = h.addFolder(plain(), true)
	h.step()
	tally, err := h.World.Tallies(t.Context(), h.World.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, store.CopyTally{Destination: id, There: 2}, tally[id])
	site := h.addSite()
	h.step()
	require.NoError(t, h.editor.End(t.Context(), site, 1, true, h.clock.Now()))
	h.step()
	assert.True(t, h.site.Posts()[0].Deleted && h.site.Posts()[1].Deleted)
	_, err = h.World.Destination(t.Context(), h.World.Site.ID, site)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestAPausedDestinationIsBehind(t *testing.T) {
	h := newHouse(t)
	h.out("One")
	id := h.addFolder(plain(), true)
	w := destinations.Wanted{Name: "Static site", Setup: plain(), Archived: store.KeepArchived}
	require.NoError(t, h.editor.Save(t.Context(), id, 1, w, false, h.clock.Now()))
	h.step()
	_, err := os.Stat(filepath.Join(h.root, "dome-site"))
	require.ErrorIs(t, err, fs.ErrNotExist)
	require.NoError(t, h.editor.Save(t.Context(), id, 2, w, true, h.clock.Now()))
	h.step()
	assert.Equal(t, []string{"posts/one.md"}, h.names())
}

func TestWhatAnEditorMaySayOfADestination(t *testing.T) {
	h := newHouse(t)
	ctx := t.Context()
	add := func(change func(*destinations.Wanted)) string {
		w := destinations.Wanted{Name: "Static site", Setup: plain(), Archived: store.KeepArchived}
		change(&w)
		_, err := h.editor.Add(ctx, destinations.Folder, 0, w, true, h.clock.Now())
		var invalid *act.Invalid
		if err == nil {
			return ""
		}
		require.ErrorAs(t, err, &invalid)
		return invalid.Field + ": " + invalid.Error()
	}
	for _, c := range []struct {
		change func(*destinations.Wanted)
		says   string
	}{
		{func(w *destinations.Wanted) { w.Name = " " }, "name: Enter a name"},
		{func(w *destinations.Wanted) { w.Setup.Folder = "../up" }, "folder: Enter the folder’s name"},
		{func(w *destinations.Wanted) { w.Setup.Folder = "" }, "folder: Enter the folder’s name"},
		{func(w *destinations.Wanted) { w.Setup.Posts = "posts.md" }, "posts: Put {slug} in"},
		{func(w *destinations.Wanted) { w.Setup.Pages = "{slug}" }, "pages: End it with .md"},
		{func(w *destinations.Wanted) { w.Setup.Pictures = "" }, "pictures: Leave out slashes"},
		{func(w *destinations.Wanted) { w.Setup.PictureLink = "javascript:x" }, "pictureLink: Enter what stands before"},
		{func(w *destinations.Wanted) { w.Setup.PictureLink = "/a b)" }, "pictureLink: Enter what stands before"},
		{func(w *destinations.Wanted) { w.Setup.Address = "lamps.example/{slug}" }, "address: Enter an address"},
		{func(w *destinations.Wanted) { w.Archived = "burn" }, "archived: Archived posts stay"},
	} {
		assert.Contains(t, add(c.change), c.says)
	}
	assert.Empty(t, add(func(*destinations.Wanted) {}))
	assert.Contains(t, add(func(w *destinations.Wanted) { w.Setup.Folder = "another" }), "name: Another place has that name")
	assert.Contains(t, add(func(w *destinations.Wanted) { w.Name = "Another" }), "folder: Posts go to a folder of that name already")
	_, err := h.editor.Add(ctx, destinations.OwnSite, 77, destinations.Wanted{Name: "Mine", Archived: store.KeepArchived}, true, h.clock.Now())
	require.ErrorContains(t, err, "Choose a site of your own")
	off := h.editor
	off.Folders = ""
	_, err = off.Add(ctx, destinations.Folder, 0, destinations.Wanted{Name: "Mine", Setup: plain(), Archived: store.KeepArchived}, true, h.clock.Now())
	require.ErrorContains(t, err, "DAPPER_FOLDERS")
	require.ErrorContains(t, h.editor.SavePages(ctx, false, "", h.World.Site.Version, h.clock.Now()), "led on to where a post is")
	require.ErrorContains(t, h.editor.SavePages(ctx, true, "http://10.0.0.1/", h.World.Site.Version, h.clock.Now()), "own network")
	require.ErrorContains(t, h.editor.SavePages(ctx, true, `https://hub.example/>; rel="self`, h.World.Site.Version, h.clock.Now()), "Leave blanks")
	h.addSite()
	require.NoError(t, h.editor.SavePages(ctx, false, "", h.World.Site.Version, h.clock.Now()))
	require.ErrorIs(t, h.editor.SavePages(ctx, true, "", h.World.Site.Version, h.clock.Now()), act.ErrStale)
	all, err := h.World.Destinations(ctx, h.World.Site.ID)
	require.NoError(t, err)
	require.ErrorContains(t, h.editor.End(ctx, all[1].ID, 1, false, h.clock.Now()), "Turn the pages on first")
}

func TestAHubIsToldWhenFeedsChange(t *testing.T) {
	h := newHouse(t)
	require.NoError(t, h.editor.SavePages(t.Context(), true, h.server.URL+"/hub/", h.World.Site.Version, h.clock.Now()))
	h.step()
	topics := func() (all []string) {
		for _, one := range h.hub.Told() {
			all = append(all, one.Topic)
		}
		return all
	}
	assert.Equal(t, []string{"https://dome.example/blog/dome/feed.json", "https://dome.example/blog/dome/feed.rss", "https://dome.example/blog/dome/feed.atom"}, topics())
	h.clock.Advance(time.Hour)
	p := h.Draft(t, "A draft")
	_, err := status.Retime(t.Context(), h.Desk, p.ID, p.Version, h.clock.Now().Add(time.Hour), h.clock.Now())
	require.NoError(t, err)
	h.step()
	assert.Len(t, topics(), 3, "a draft changes no feed")
	one := h.out("One")
	h.step()
	assert.Len(t, topics(), 6)
	h.out("Two")
	h.out("Three")
	h.step()
	assert.Len(t, topics(), 6, "what follows at once is told together")
	h.clock.Advance(30 * time.Second)
	h.step()
	assert.Len(t, topics(), 9)
	h.clock.Advance(time.Hour)
	_, err = h.World.DB().ExecContext(t.Context(), `update posts set version = version + 1 where id = $1`, one.ID)
	require.NoError(t, err)
	h.step()
	assert.Len(t, topics(), 9, "readers see no difference")
	h.stand(one, func(s post.State) post.State { return s.Archive(h.clock.Now(), "") })
	h.server.Close()
	h.step()
	told, err := h.World.TellingOf(t.Context(), h.World.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, []any{1, "Nothing answers at that address."}, []any{told.Tries, told.Error})
	assert.Greater(t, told.Wanted, told.Done, "it is told later")
}

// However long a disk takes, whoever publishes does not wait for it.
func TestPublishingDoesNotWaitForAFolder(t *testing.T) {
	h := newHouse(t)
	id := h.addFolder(plain(), true)
	p := h.Draft(t, "One")
	p.Slug = "one"
	ctx := t.Context()
	require.NoError(t, h.World.InTx(ctx, func(writing *store.Tx) error {
		if _, err := writing.LockDestination(ctx, h.World.Site.ID, id); err != nil {
			return err
		}
		return h.World.InTx(ctx, func(publishing *store.Tx) error {
			if _, err := publishing.SQL().ExecContext(ctx, `set local lock_timeout = '2s'`); err != nil {
				return err
			}
			p.Stand(p.State().Publish(pgtest.Noon))
			return publishing.SaveState(ctx, p, pgtest.Noon)
		})
	}))
	h.step()
	assert.Equal(t, []string{"posts/one.md"}, h.names())
}
