package imports_test

import (
	"archive/zip"
	"bytes"
	"context"
	"fmt"
	"image"
	"image/png"
	"io"
	"strings"
	"testing"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/desktest"
	"dapper.example/internal/formats"
	"dapper.example/internal/imports"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
	"dapper.example/internal/undo"
	"dapper.example/internal/writing"
)

// room is a blog, its editor's desk, and a runner of imports on a clock of its own.
type room struct {
	desktest.Room
	clock  *clockwork.FakeClock
	runner *imports.Runner
	t      *testing.T
}

func newRoom(t *testing.T) room {
	r := room{Room: desktest.New(t), clock: clockwork.NewFakeClockAt(pgtest.Noon), t: t}
	r.runner = &imports.Runner{Store: r.World.Store, Clock: r.clock, Log: pgtest.Quiet()}
	return r
}

func (r room) now() time.Time { return r.clock.Now() }

// packed is an archive of files by their paths.
func packed(t *testing.T, files map[string]string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for path, text := range files {
		w, err := z.Create(path)
		require.NoError(t, err)
		_, err = io.WriteString(w, text)
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

func drawn(t *testing.T) string {
	var out bytes.Buffer
	require.NoError(t, png.Encode(&out, image.NewRGBA(image.Rect(0, 0, 40, 30))))
	return out.String()
}

// begin begins an import with a file.
func (r room) begin(source, path string, data []byte) store.Import {
	i, err := imports.Begin(r.t.Context(), r.Desk, source, r.now())
	require.NoError(r.t, err)
	r.add(i, path, data)
	return i
}

func (r room) add(i store.Import, path string, data []byte) {
	require.NoError(r.t, imports.AddFile(r.t.Context(), r.Desk, i.ID, imports.Part{Path: path, Last: true, Data: data}))
}

func (r room) load(id int64) store.Import {
	i, err := r.World.Import(r.t.Context(), r.World.Site.ID, id)
	require.NoError(r.t, err)
	return i
}

func (r room) step() { require.NoError(r.t, r.runner.Step(r.t.Context())) }

// read has an import read.
func (r room) read(i store.Import, setup imports.Setup) store.Import {
	_, err := imports.Read(r.t.Context(), r.Desk, i.ID, r.load(i.ID).Version, setup, r.now())
	require.NoError(r.t, err)
	r.step()
	i = r.load(i.ID)
	require.Equal(r.t, store.ImportProposed, i.State, i.Problem)
	return i
}

func (r room) propose(i store.Import) imports.Proposal {
	p, err := imports.Propose(r.t.Context(), r.World.Queries, r.World.Site, r.load(i.ID), r.now())
	require.NoError(r.t, err)
	return p
}

// land reads an import and has it land.
func (r room) land(i store.Import, setup imports.Setup) store.Import {
	i = r.read(i, setup)
	_, err := imports.Commit(r.t.Context(), r.Desk, i.ID, r.propose(i).Token(), r.now())
	require.NoError(r.t, err)
	r.step()
	i = r.load(i.ID)
	require.Equal(r.t, store.ImportDone, i.State, i.Problem)
	return i
}

// lines are what became of an import's lines, by their keys: states and reasons.
func (r room) lines(i store.Import) map[string]string {
	all, err := r.World.ImportLines(r.t.Context(), i.ID, nil, 0, 1000)
	require.NoError(r.t, err)
	said := make(map[string]string)
	for _, l := range all {
		said[l.Key] = strings.TrimSpace(string(l.State) + ": " + l.Reason)
		if l.Reason == "" {
			said[l.Key] = string(l.State)
		}
	}
	return said
}

func (r room) posts() map[string]store.Post {
	all, err := r.World.PostsAfter(r.t.Context(), r.World.Site.ID, 0, 10_000)
	require.NoError(r.t, err)
	titled := make(map[string]store.Post)
	for _, p := range all {
		titled[p.Title] = p
	}
	return titled
}

func TestAnArchiveBecomesDrafts(t *testing.T) {
	r := newRoom(t)
	data := packed(t, map[string]string{
		"spring/crocus.md":   "---\ntags: [crocus, Sky]\ncategory: sky guide\nauthor: ines abara\nprice: 12\npicture: crocus.png\n---\n# Crocus time\n\nText ![a crocus](crocus.png).",
		"spring/crocus.png":  drawn(t),
		"notes.txt":          "Two notes\n\nAnd more.",
		"page.html":          "<title>A page</title><p>See <a href='https://example.org'>this</a> ![](gone.png)",
		"empty.md":           "",
		"broken/picture.png": "no picture",
		"uses-broken.md":     "![x](broken/picture.png)",
	})
	i := r.land(r.begin("Spring", "spring.zip", data), imports.Setup{})
	assert.Equal(t, map[string]string{"spring/crocus.md": "landed", "notes.txt": "landed", "page.html": "landed", "empty.md": "left: It is empty.", "uses-broken.md": "landed"}, r.lines(i))
	posts := r.posts()
	crocus := posts["Crocus time"]
	assert.Equal(t, store.Draft, crocus.Status)
	assert.ElementsMatch(t, []string{"crocus", "Sky"}, []string(crocus.Tags))
	assert.Equal(t, "Sky Guide", *crocus.CategoryName)
	assert.Equal(t, "Ines Abara", crocus.AuthorName)
	assert.Equal(t, "Spring", crocus.Import)
	assert.Equal(t, map[string]string{"price": "12"}, map[string]string(crocus.Fields))
	assert.Regexp(t, `^/blog/dome/pictures/[0-9a-f]{16}-40x30\.png$`, crocus.FeaturedImage)
	assert.Equal(t, "Text ![a crocus]("+crocus.FeaturedImage+").", crocus.Body, "one picture, however often it is shown")
	pictures, err := r.World.Pictures(t.Context(), r.World.Site.ID, store.PictureFilter{Titles: 5}, 10)
	require.NoError(t, err)
	require.Len(t, pictures, 1)
	assert.Equal(t, "crocus.png", pictures[0].Name)
	assert.Equal(t, "a crocus", pictures[0].Alt)
	assert.Equal(t, 1, pictures[0].Uses)
	assert.Equal(t, "See [this](https://example.org) !\\[](gone.png)", posts["A page"].Body)
	text, err := r.World.Text(t.Context(), r.World.Site.ID, crocus.ID, crocus.TextID)
	require.NoError(t, err)
	assert.Equal(t, crocus.Body, text.Body)
	found, err := r.World.PostIDs(t.Context(), r.World.Site.ID, store.PostFilter{Text: "crocus"}, 10)
	require.NoError(t, err)
	assert.Len(t, found, 1, "the search finds it")
	files, err := r.World.ImportFiles(t.Context(), i.ID)
	require.NoError(t, err)
	assert.Empty(t, files, "its files are let go")
}

// sheetOf is a sheet of so many rows, with columns Nr, Name, Text and Day.
func sheetOf(n int) []byte {
	var out bytes.Buffer
	out.WriteString("Nr;Name;Text;Day\n")
	for k := range n {
		fmt.Fprintf(&out, "k%d;Torch %d;Text %d;%d Mar 2026\n", k+1, k+1, k+1, k%28+1)
	}
	return out.Bytes()
}

// composed makes posts of those rows.
func composed() imports.Setup {
	return imports.Setup{Sheet: imports.Sheet{Heading: 1, Key: "Nr"}, Recipe: intake.Recipe{Fill: map[intake.Field]intake.Fill{
		intake.Title: {Text: "{column:Name}"}, intake.Body: {Text: "About {column:Name}.\n\n{column:Text}"}}}}
}

func TestASheetIsGuessedAndComposed(t *testing.T) {
	r := newRoom(t)
	i := r.begin("Torches", "torches.csv", []byte("Our list\n\nID,Headline,Text,Price\n1,Red torch,<p>It is <b>red</b></p>,12\n2,,nothing,\n,No key,x,1\n3,Blue torch,Blue,\n"))
	look, err := imports.LookAt(t.Context(), r.World.Queries, i, imports.Sheet{})
	require.NoError(t, err)
	assert.Equal(t, "sheet", look.Kind)
	assert.Equal(t, []string{"ID", "Headline", "Text", "Price"}, look.Sheet.Headings)
	setup := look.Guess
	assert.Equal(t, imports.Sheet{Heading: 3, Key: "ID"}, setup.Sheet)
	assert.Equal(t, "{column:Headline}", setup.Recipe.Fill[intake.Title].Text)
	setup.Sheet.Needed = []string{"Headline"}
	setup.Recipe.Fields = map[string]string{"price": "{column:Price}"}
	shown, err := imports.Preview(t.Context(), r.World.Queries, i, setup, 2, r.now())
	require.NoError(t, err)
	require.Len(t, shown, 2)
	assert.Equal(t, "It is **red**", shown[0].Post.Body)
	assert.Equal(t, "The column “Headline” is empty.", shown[1].Reason)
	i = r.land(i, setup)
	assert.Equal(t, map[string]string{"1": "landed", "row 5": "left: The column “Headline” is empty.", "row 6": "left: The column “ID”, by which rows are known again, is empty.", "3": "landed"},
		r.withoutKey2(i))
	assert.Equal(t, map[string]string{"price": "12"}, map[string]string(r.posts()["Red torch"].Fields))

	setup.Sheet.Fewest = 3
	again := r.begin("Others", "torches.csv", []byte("Our list\n\nID,Headline,Text,Price\n1,Green torch,a,12\n2,Few,,\n"))
	again = r.land(again, setup)
	assert.Equal(t, map[string]string{"1": "landed"}, r.lines(again), "rows with fewer filled cells do not count")
}

// withoutKey2 is what became of lines, where a row that is left out may go by its key or its number.
func (r room) withoutKey2(i store.Import) map[string]string {
	lines := r.lines(i)
	if said, ok := lines["2"]; ok {
		delete(lines, "2")
		lines["row 5"] = said
	}
	return lines
}

func TestPostsAreGivenTimes(t *testing.T) {
	r := newRoom(t)
	setup := composed()
	setup.Landing = imports.Goal{As: imports.AsPlaced, Start: new(civil.MustDate("2026-11-30")),
		Pattern: &reflow.Pattern{EveryDays: 1, From: civil.MustClock("08:00"), To: civil.MustClock("12:00"), Count: 1, Gap: 60, Uneven: true, Seed: 3}}
	i := r.read(r.begin("Torches", "t.csv", sheetOf(5)), setup)
	p := r.propose(i)
	require.Len(t, p.Times, 5)
	token := p.Token()

	// What somebody schedules meanwhile makes another proposal, and nothing is done.
	at := p.Times[2].At
	r.Pinned(t, "In the way", at)
	_, err := imports.Commit(t.Context(), r.Desk, i.ID, token, r.now())
	var outdated *act.Outdated[imports.Proposal]
	require.ErrorAs(t, err, &outdated)
	assert.NotEqual(t, token, outdated.Now.Token())

	_, err = imports.Commit(t.Context(), r.Desk, i.ID, outdated.Now.Token(), r.now())
	require.NoError(t, err)
	r.step()
	posts := r.posts()
	for n, one := range outdated.Now.Times {
		p := posts[fmt.Sprintf("Torch %d", n+1)]
		assert.Equal(t, store.Scheduled, p.Status)
		assert.Equal(t, one.At, p.DueAt.UTC())
		date, clock := r.World.Site.Zone().Local(*p.DueAt)
		assert.Equal(t, civil.MustDate("2026-11-30").Add(n), date)
		assert.True(t, clock >= civil.MustClock("08:00") && clock < civil.MustClock("12:00") && clock%5 != 0, clock.String())
		assert.NotEmpty(t, p.Slug)
	}
}

func TestPostsTakeSlotsOfTheRhythm(t *testing.T) {
	r := newRoom(t)
	setup := composed()
	setup.Landing.As = imports.AsPlaced
	r.land(r.begin("Torches", "t.csv", sheetOf(4)), setup)
	for _, p := range r.posts() {
		assert.Equal(t, store.Scheduled, p.Status)
		assert.NotNil(t, p.SlotDate, "it sits in a slot")
	}
	back := setup
	back.Landing.Start = new(civil.MustDate("2026-11-02"))
	i := r.begin("Older", "t.csv", []byte("Nr;Name;Text;Day\na;An older one;x;\n"))
	r.land(i, back)
	older := r.posts()["An older one"]
	assert.Equal(t, store.Published, older.Status, "what is past comes out at once, with its date")
	assert.Equal(t, civil.MustDate("2026-11-02"), r.World.Site.Zone().DateOf(*older.PublishedAt))
}

func TestPagesAndDraftsDoNotQueue(t *testing.T) {
	r := newRoom(t)
	files := packed(t, map[string]string{"a.md": "# A post", "b.md": "---\ntitle: A page\nkind: page\n---\n", "c.md": "---\ntitle: Unfinished\ndraft: true\n---\n"})
	for source, as := range map[string]string{"Placed": imports.AsPlaced, "Shelf": imports.AsShelf} {
		i := r.land(r.begin(source, "a.zip", files), imports.Setup{Landing: imports.Goal{As: as, Doubles: true}})
		lines, err := r.World.ImportLines(t.Context(), i.ID, nil, 0, 10)
		require.NoError(t, err)
		for n, says := range []string{"", "Pages don't queue; it is a draft.", "It says that it is a draft, so it stays one."} {
			p := r.Reload(t, *lines[n].PostID)
			if says == "" {
				assert.True(t, p.Cleared || p.Status == store.Scheduled)
				continue
			}
			assert.Equal(t, []string{says}, []string(lines[n].Notes))
			assert.Equal(t, store.Draft, p.Status)
			assert.False(t, p.Cleared)
		}
	}
}

func TestDatesOfTheSourceAreKept(t *testing.T) {
	r := newRoom(t)
	setup := imports.Setup{Landing: imports.Goal{As: imports.AsDated}, Recipe: intake.Recipe{NewCategories: true}}
	r.land(r.begin("Old blog", "old.zip", packed(t, map[string]string{
		"1.md": "---\ntitle: Out\ndate: 2020-03-01T10:00:00Z\ncategory: Roof Work\n---\n", "2.md": "---\ntitle: To come\ndate: 2027-03-01T10:00:00Z\n---\n",
		"3.md": "---\ntitle: A draft\ndate: 2020-03-01\ndraft: true\n---\n", "4.md": "---\ntitle: Away\ndate: 2020-03-01T10:00:00Z\nstatus: archived\nnotice: Old.\n---\n",
		"5.md": "---\ntitle: About\nkind: page\ndate: 2020-03-01T10:00:00Z\nslug: about-us\n---\n", "6.md": "---\ntitle: Dateless\n---\n", "7.md": "---\ntitle: Again\nslug: about-us\ndate: 2020-03-02T10:00:00Z\n---\n",
	})), setup)
	posts := r.posts()
	assert.Equal(t, store.Published, posts["Out"].Status)
	assert.Equal(t, "2020-03-01T10:00:00Z", posts["Out"].PublishedAt.UTC().Format(time.RFC3339))
	assert.Equal(t, "roof-work", *posts["Out"].CategorySlug)
	assert.True(t, posts["To come"].Pinned)
	assert.Equal(t, store.Draft, posts["A draft"].Status)
	assert.Equal(t, []any{store.Archived, "Old."}, []any{posts["Away"].Status, posts["Away"].Notice})
	assert.Equal(t, []string{"page", "about-us"}, []string{posts["About"].Kind, posts["About"].Slug})
	assert.Equal(t, store.Draft, posts["Dateless"].Status)
	assert.Equal(t, "about-us-2", posts["Again"].Slug)
}

func TestWhatTheBlogHasIsLeftOut(t *testing.T) {
	r := newRoom(t)
	r.Draft(t, "Cables that can be found in the dark")
	setup := imports.Setup{}
	files := packed(t, map[string]string{"a.md": "# Cables that can be found in the night", "b.md": "# Something else entirely new", "c.md": "# cables that can be found in the dark"})
	i := r.read(r.begin("S", "s.zip", files), setup)
	assert.Equal(t, map[string]string{"a.md": "left: There is a post with nearly the same title: “Cables that can be found in the dark”.", "b.md": "ready", "c.md": "left: There is a post with the same title."}, r.lines(i))
	setup.Landing.Doubles = true
	i = r.read(i, setup)
	assert.Equal(t, map[string]string{"a.md": "ready", "b.md": "ready", "c.md": "ready"}, r.lines(i), "it is read anew")
	again := r.read(r.begin("K", "k.csv", []byte("Nr,Name,Text\n1,One,a\n1,Two,b\n")), imports.Setup{Sheet: imports.Sheet{Heading: 1, Key: "Nr"}, Recipe: composed().Recipe})
	counts, err := r.World.CountLines(t.Context(), again.ID)
	require.NoError(t, err)
	assert.Equal(t, map[store.LineState]int{store.LineReady: 1, store.LineLeft: 1}, counts)
}

func TestTheSameSourceChangesItsPosts(t *testing.T) {
	r := newRoom(t)
	sheet := func(rows ...string) []byte { return []byte("Nr;Name;Text;Day\n" + strings.Join(rows, "\n") + "\n") }
	first := r.land(r.begin("Torches", "t.csv", sheet("1;Red;a;", "2;Blue;b;", "3;Green;c;", "4;White;d;")), composed())
	posts := r.posts()
	body := "Mine."
	_, err := writing.Write(t.Context(), r.Desk, posts["Blue"].ID, posts["Blue"].Version, writing.Text{Body: &body}, r.now().Add(time.Hour))
	require.NoError(t, err)
	_, err = writing.Write(t.Context(), r.Desk, posts["White"].ID, posts["White"].Version, writing.Text{Body: &body}, r.now().Add(time.Hour))
	require.NoError(t, err)

	i := r.land(r.begin("Torches", "t2.csv", sheet("1;Red;better;", "2;Blue;better;", "3;Green;c;", "4;White;d;", "5;Black;e;")), composed())
	assert.Equal(t, map[string]string{"1": "updated", "2": "clash: Both it and its post, “Blue”, have changed since. The post stays as it is.", "3": "same: It was brought in before, and says the same.",
		"4": "same: It was brought in before, and says the same.", "5": "landed"}, r.lines(i))
	posts = r.posts()
	assert.Equal(t, "About Red.\n\nbetter", posts["Red"].Body)
	assert.Equal(t, "Mine.", posts["Blue"].Body)
	assert.Len(t, posts, 5)
	entry := r.logged()
	assert.Equal(t, "1 post brought in and 1 post changed from “Torches”.", entry.Reason)

	// Undone, the changed one says what it said before.
	_, err = undo.Undo(t.Context(), r.Desk, entry.ID, r.now())
	require.NoError(t, err)
	r.step()
	assert.Equal(t, store.ImportUndone, r.load(i.ID).State)
	posts = r.posts()
	assert.Equal(t, "About Red.\n\na", posts["Red"].Body)
	assert.NotContains(t, posts, "Black")
	assert.Equal(t, store.ImportDone, r.load(first.ID).State)
}

// logged is the latest line of the logbook that tells of an import.
func (r room) logged() store.LogEntry {
	all, err := r.World.Logbook(r.t.Context(), r.World.Site.ID, store.LogFilter{Deed: store.DeedImport}, 10)
	require.NoError(r.t, err)
	require.NotEmpty(r.t, all)
	return all[0]
}

// Pictures within a .docx come into the library, and stand in the text where they stood.
func TestPicturesOfADocxComeAlong(t *testing.T) {
	r := newRoom(t)
	file := packed(t, map[string]string{
		"word/document.xml": `<w:document xmlns:w="w" xmlns:wp="wp" xmlns:a="a" xmlns:r="r"><w:body><w:p><w:pPr><w:pStyle w:val="Title"/></w:pPr><w:r><w:t>The moon</w:t></w:r></w:p><w:p><w:r><w:t>It rises.</w:t></w:r></w:p>` +
			`<w:p><w:r><w:drawing><wp:docPr descr="A red moon"/><a:blip r:embed="r1"/></w:drawing></w:r></w:p></w:body></w:document>`,
		"word/_rels/document.xml.rels": `<Relationships><Relationship Id="r1" Target="media/image1.png"/></Relationships>`,
		"word/media/image1.png":        drawn(t)})
	i := r.begin("Letters", "in/moon.docx", file)
	r.land(i, imports.Setup{})
	assert.Regexp(t, `^It rises\.\n\n!\[A red moon\]\(/blog/dome/pictures/[0-9a-z]{16}-40x30\.(png|jpg)\)$`, r.posts()["The moon"].Body)
	all, err := r.World.Pictures(t.Context(), r.World.Site.ID, store.PictureFilter{}, 10)
	require.NoError(t, err)
	require.Len(t, all, 1)
	assert.Equal(t, []any{"image1.png", "A red moon", 1}, []any{all[0].Name, all[0].Alt, all[0].Uses})
}

// What a line changes beside a text is given back too, but for what somebody has set since; and the source's next version finds the post again.
func TestUndoingGivesBackWhatStoodBesideTheText(t *testing.T) {
	r := newRoom(t)
	setup := imports.Setup{Sheet: imports.Sheet{Heading: 1, Key: "Nr"}, Recipe: intake.Recipe{NewCategories: true, Fill: map[intake.Field]intake.Fill{
		intake.Title: {Text: "{column:Name}"}, intake.Body: {Text: "{column:Text}"}, intake.Category: {Text: "{column:Topic}"}, intake.Tags: {Text: "{column:Tags}"}}}}
	sheet := func(rows ...string) []byte {
		return []byte("Nr;Name;Text;Topic;Tags\n" + strings.Join(rows, "\n") + "\n")
	}
	r.land(r.begin("T", "1.csv", sheet("1;Red;a;Roof;x", "2;Blue;b;Roof;x", "3;Green;c;;x")), setup)
	r.land(r.begin("T", "2.csv", sheet("1;Red;a two;Roof;x", "2;Blue;b;Roof;x", "3;Green;c;;x")), setup)
	before := r.posts()
	last := r.land(r.begin("T", "3.csv", sheet("1;Red;a two;Cellar;x", "2;Blue;b three;Cellar;y", "3;Green;c three;Cellar;y")), setup)
	posts := r.posts()
	require.Equal(t, []string{"cellar", "cellar", "cellar"}, []string{*posts["Red"].CategorySlug, *posts["Blue"].CategorySlug, *posts["Green"].CategorySlug})
	_, err := writing.Write(t.Context(), r.Desk, posts["Green"].ID, posts["Green"].Version, writing.Text{Category: before["Red"].CategoryID}, r.now())
	require.NoError(t, err)

	_, err = undo.Undo(t.Context(), r.Desk, r.logged().ID, r.now())
	require.NoError(t, err)
	r.step()
	require.Equal(t, store.ImportUndone, r.load(last.ID).State)
	posts = r.posts()
	assert.Equal(t, []string{"roof", "roof", "roof"}, []string{*posts["Red"].CategorySlug, *posts["Blue"].CategorySlug, *posts["Green"].CategorySlug}, "Green was moved by hand since")
	assert.Equal(t, []string{"a two", "b", "c"}, []string{posts["Red"].Body, posts["Blue"].Body, posts["Green"].Body})
	assert.Equal(t, []string{"x"}, []string(posts["Blue"].Tags))

	again := r.land(r.begin("T", "4.csv", sheet("1;Red;a two;Roof;x", "2;Blue;b four;Roof;x", "3;Green;c;;x")), setup)
	assert.Equal(t, map[string]string{"1": "same: It was brought in before, and says the same.", "2": "updated", "3": "same: It was brought in before, and says the same."}, r.lines(again))
}

func TestAnImportIsUndoneButForWhatWasChanged(t *testing.T) {
	r := newRoom(t)
	setup := composed()
	setup.Landing.As = imports.AsShelf
	i := r.land(r.begin("Torches", "t.csv", sheetOf(60)), setup)
	posts := r.posts()
	require.Len(t, posts, 60)
	edited := posts["Torch 2"]
	for n := 2; n <= 60; n++ {
		assert.Less(t, *posts[fmt.Sprint("Torch ", n-1)].ShelfRank, *posts[fmt.Sprint("Torch ", n)].ShelfRank, "in the order of the sheet")
	}
	body := "Mine."
	_, err := writing.Write(t.Context(), r.Desk, edited.ID, edited.Version, writing.Text{Body: &body}, r.now().Add(time.Hour))
	require.NoError(t, err)
	entry := r.logged()
	assert.Equal(t, "60 posts brought in from “Torches”.", entry.Reason)
	assert.True(t, undo.CanUndo(entry))
	again, err := undo.Undo(t.Context(), r.Desk, entry.ID, r.now())
	require.NoError(t, err)
	r.step()
	assert.Equal(t, store.ImportUndone, r.load(i.ID).State)
	left := r.posts()
	assert.Len(t, left, 1)
	assert.Equal(t, "kept: It was changed since, so it stays.", r.lines(i)["k2"])
	assert.Equal(t, "undone", r.lines(i)["k3"])
	if again != 0 {
		_, err = undo.Undo(t.Context(), r.Desk, again, r.now())
		require.Error(t, err, "it is brought in anew instead")
	}
	// What is in the bin is no post of the source any more: bringing it in again makes new ones.
	i = r.land(r.begin("Torches", "t.csv", sheetOf(3)), setup)
	assert.Equal(t, "landed", r.lines(i)["k1"])
}

// failing is a runner's store that dies after some transactions: what a kill leaves behind.
func TestARunGoesOnWhereItWas(t *testing.T) {
	r := newRoom(t)
	i := r.begin("Torches", "t.csv", sheetOf(230))
	_, err := imports.Read(t.Context(), r.Desk, i.ID, 1, composed(), r.now())
	require.NoError(t, err)
	// It dies in the middle of reading, and of landing, whenever that is.
	died := 0
	run := func(until store.ImportState) {
		for n, tries := 1, 0; r.load(i.ID).State != until; tries++ {
			ctx, kill := context.WithCancel(t.Context())
			r.clock.Advance(time.Second)
			watching := make(chan struct{})
			go func() {
				defer close(watching)
				for ctx.Err() == nil {
					counts, err := r.World.CountLines(ctx, i.ID)
					if err != nil {
						return
					}
					done := counts[store.LineLanded]
					if until == store.ImportProposed {
						done = counts[store.LineReady]
					}
					if done >= n*50 {
						n++
						died++
						kill()
					}
				}
			}()
			_ = r.runner.Step(ctx)
			kill()
			<-watching
			// The lock of one that died may be held for a moment longer, in which nothing is done.
			require.Less(t, tries, 100_000)
		}
	}
	run(store.ImportProposed)
	_, err = imports.Commit(t.Context(), r.Desk, i.ID, r.propose(i).Token(), r.now())
	require.NoError(t, err)
	run(store.ImportDone)
	assert.Positive(t, died)
	assert.Equal(t, 230, len(r.posts()), "no line twice, and none left")
	assert.Equal(t, "230 posts brought in from “Torches”.", r.logged().Reason)
}

// One line that the database refuses once its post is there: the lines beside it still become one post each, and it becomes none.
func TestALineThatCannotBeSavedIsLeftOutAlone(t *testing.T) {
	r := newRoom(t)
	_, err := r.World.DB().Exec(`
		create function refuse() returns trigger language plpgsql as $$
		begin
			raise exception 'refused' using errcode = '22000';
		end $$;
		create trigger refuse before update on import_lines for each row when (new.key = 'k3' and new.state = 'landed') execute function refuse()`)
	require.NoError(t, err)
	setup := composed()
	setup.Recipe.Fill[intake.Slug] = intake.Fill{Text: "torch"}
	i := r.land(r.begin("Torches", "t.csv", sheetOf(5)), setup)
	assert.Equal(t, map[string]string{"k1": "landed", "k2": "landed", "k3": "left: It holds something that can't be saved.", "k4": "landed", "k5": "landed"}, r.lines(i))
	posts := r.posts()
	lines, err := r.World.ImportLines(t.Context(), i.ID, nil, 0, 1000)
	require.NoError(t, err)
	for k, notes := range map[int][]string{0: nil, 1: {"The address torch was taken; it has torch-2."}, 3: {"The address torch was taken; it has torch-3."}, 4: {"The address torch was taken; it has torch-4."}} {
		assert.Equal(t, posts[fmt.Sprintf("Torch %d", k+1)].ID, *lines[k].PostID)
		assert.ElementsMatch(t, notes, lines[k].Notes)
	}
	assert.Nil(t, lines[2].PostID)
	assert.Len(t, posts, 4)
}

func TestAnImportIsPausedResumedAndCancelled(t *testing.T) {
	r := newRoom(t)
	i := r.read(r.begin("Torches", "t.csv", sheetOf(120)), composed())
	i, err := imports.Commit(t.Context(), r.Desk, i.ID, r.propose(i).Token(), r.now())
	require.NoError(t, err)
	paused, err := imports.Pause(t.Context(), r.Desk, i.ID, i.Version)
	require.NoError(t, err)
	r.step()
	assert.Empty(t, r.posts())
	_, err = imports.Pause(t.Context(), r.Desk, i.ID, i.Version)
	require.ErrorIs(t, err, act.ErrStale)
	resumed, err := imports.Resume(t.Context(), r.Desk, i.ID, paused.Version)
	require.NoError(t, err)
	assert.Equal(t, store.ImportLanding, resumed.State)
	cancelled, err := imports.Cancel(t.Context(), r.Desk, i.ID, resumed.Version, r.now())
	require.NoError(t, err)
	assert.Equal(t, store.ImportCancelled, cancelled.State)
	r.step()
	assert.Empty(t, r.posts())
	_, err = imports.Resume(t.Context(), r.Desk, i.ID, cancelled.Version)
	require.Error(t, err)
}

func TestPortionsComeAtTheirTurns(t *testing.T) {
	r := newRoom(t)
	setup := composed()
	setup.Landing = imports.Goal{As: imports.AsPlaced, Portion: 3, Every: &formats.Cadence{By: "every", N: 1, Unit: "days", At: civil.MustClock("06:00")}}
	i := r.read(r.begin("Torches", "t.csv", sheetOf(8)), setup)
	p := r.propose(i)
	assert.Empty(t, p.Times, "each portion gets its times as it comes")
	i, err := imports.Commit(t.Context(), r.Desk, i.ID, p.Token(), r.now())
	require.NoError(t, err)
	r.step()
	assert.Len(t, r.posts(), 3)
	r.step()
	assert.Len(t, r.posts(), 3, "it rests")
	i = r.load(i.ID)
	assert.Equal(t, r.World.Site.Zone().At(civil.MustDate("2026-11-25"), civil.MustClock("06:00")), i.NextAt.UTC())

	// The program was away for three days: one turn is served, not three.
	r.clock.Advance(70 * time.Hour)
	r.step()
	assert.Len(t, r.posts(), 6)
	for _, post := range r.posts() {
		assert.Equal(t, store.Scheduled, post.Status)
		assert.True(t, post.DueAt.After(pgtest.Noon))
	}

	// Asked for from outside, the last ones come at once; then it is over, and the address with it.
	secret, i, err := imports.MakeTrigger(t.Context(), r.Desk, i.ID, r.load(i.ID).Version)
	require.NoError(t, err)
	found, err := r.World.ImportByTrigger(t.Context(), secrets.Hash(secret))
	require.NoError(t, err)
	assert.Equal(t, i.ID, found.ID)
	_, err = imports.Hurry(t.Context(), r.World.Store, r.World.Site.ID, i.ID)
	require.NoError(t, err)
	r.step()
	assert.Len(t, r.posts(), 8)
	assert.Equal(t, store.ImportDone, r.load(i.ID).State)
	_, err = r.World.ImportByTrigger(t.Context(), secrets.Hash(secret))
	require.ErrorIs(t, err, store.ErrNotFound)

	for _, c := range []struct {
		goal  imports.Goal
		field string
	}{
		{imports.Goal{Portion: 3}, "setup.landing.every"}, {imports.Goal{Portion: 3, Every: &formats.Cadence{By: "every", N: 0, Unit: "days"}}, "setup.landing.every.n"},
		{imports.Goal{Portion: -1}, "setup.landing.portion"}, {imports.Goal{Portion: 3, As: imports.AsPlaced, Start: new(civil.MustDate("2026-12-01")), Every: setup.Landing.Every}, "setup.landing.start"},
	} {
		other := r.begin("Other", "t.csv", sheetOf(2))
		bad := composed()
		bad.Landing = c.goal
		_, err := imports.Read(t.Context(), r.Desk, other.ID, 1, bad, r.now())
		var invalid *act.Invalid
		require.ErrorAs(t, err, &invalid)
		assert.Equal(t, c.field, invalid.Field)
	}
}

func TestWhatCannotBeBroughtInIsSaid(t *testing.T) {
	r := newRoom(t)
	ctx := t.Context()
	for name, c := range map[string]struct {
		path string
		data []byte
		says string
	}{
		"no archive":  {"a.zip", []byte("text"), "“a.zip” is no .zip archive, or it is cut off. Pack it once more."},
		"no articles": {"a.jpg", []byte(drawn(t)), "There are no articles in these files: no .md, .txt, .html or .docx."},
		"no sheet":    {"a.xlsx", []byte("PK\x03\x04"), "This file is cut off or damaged. Save it once more."},
	} {
		i := r.begin(name, c.path, c.data)
		_, err := imports.LookAt(ctx, r.World.Queries, i, imports.Sheet{})
		var u *imports.Unreadable
		require.ErrorAs(t, err, &u, name)
		assert.Equal(t, c.says, u.Why)
	}
	i := r.begin("Torches", "t.csv", sheetOf(2))
	for _, c := range []struct {
		setup       imports.Setup
		field, says string
	}{
		{imports.Setup{Recipe: intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Title: {Text: "{column:Nam}"}}}, Sheet: imports.Sheet{Heading: 1}}, "setup.recipe.fill.title", "There is no column “Nam”."},
		{imports.Setup{Sheet: imports.Sheet{Heading: 1, Key: "Id"}}, "setup.sheet.key", "There is no column “Id”."},
		{imports.Setup{Landing: imports.Goal{As: "somewhere"}}, "setup.landing.as", "Choose where the posts go."},
		{imports.Setup{Landing: imports.Goal{As: imports.AsPlaced, Pattern: &reflow.Pattern{}}}, "setup.landing.pattern.everyDays", "Every 0 days is not possible; choose 1 to 366."},
	} {
		_, err := imports.Read(ctx, r.Desk, i.ID, 1, c.setup, r.now())
		var bad *act.Invalid
		require.ErrorAs(t, err, &bad)
		assert.Equal(t, []string{c.field, c.says}, []string{bad.Field, bad.Message})
	}
	for _, path := range []string{"", "../x.md", "a\x00b.md", strings.Repeat("a", 600)} {
		var bad *act.Invalid
		require.ErrorAs(t, imports.AddFile(ctx, r.Desk, i.ID, imports.Part{Path: path, Last: true, Data: []byte("x")}), &bad)
		assert.Equal(t, "path", bad.Field)
	}
	half := imports.Part{Path: "half.md", Data: make([]byte, 1<<20)}
	require.NoError(t, imports.AddFile(ctx, r.Desk, i.ID, half))
	files, err := r.World.ImportFiles(ctx, i.ID)
	require.NoError(t, err)
	assert.Len(t, files, 1, "what has not arrived to its end does not count")
	for _, part := range []imports.Part{{Path: "half.md", From: 2 << 20, Last: true}, {Path: "half.md", From: 5, Last: true}, {Path: "other.md", From: 1 << 20, Last: true},
		{Path: "half.md", From: 1 << 20, Data: []byte("x")}, {Path: "half.md", Last: true, Data: make([]byte, 5<<20)}} {
		var bad *act.Invalid
		require.ErrorAs(t, imports.AddFile(ctx, r.Desk, i.ID, part), &bad)
		assert.Equal(t, "from", bad.Field)
	}
	half.From, half.Last, half.Data = 1<<20, true, []byte("end")
	require.NoError(t, imports.AddFile(ctx, r.Desk, i.ID, half))
	_, err = imports.Commit(ctx, r.Desk, i.ID, "x", r.now())
	require.Error(t, err, "it has to be read first")
	require.NoError(t, imports.Delete(ctx, r.Desk, i.ID))
	_, err = r.World.Import(ctx, r.World.Site.ID, i.ID)
	require.ErrorIs(t, err, store.ErrNotFound)
}

func TestSetupsAreKeptByName(t *testing.T) {
	r := newRoom(t)
	require.NoError(t, imports.SaveRecipe(t.Context(), r.Desk, " Torch  list ", composed(), r.now()))
	require.NoError(t, imports.SaveRecipe(t.Context(), r.Desk, "Torch list", composed(), r.now()))
	all, err := r.World.ImportRecipes(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	require.Len(t, all, 1)
	setup, err := imports.SetupOf(store.Import{Setup: all[0].Setup})
	require.NoError(t, err)
	assert.Equal(t, composed(), setup)
	var bad *act.Invalid
	require.ErrorAs(t, imports.SaveRecipe(t.Context(), r.Desk, "", composed(), r.now()), &bad)
}

func TestLogsAreKeptForAsLongAsTheSiteSays(t *testing.T) {
	r := newRoom(t)
	done := r.land(r.begin("Torches", "t.csv", sheetOf(2)), composed())
	open := r.begin("Others", "t.csv", sheetOf(2))
	require.NoError(t, r.World.SaveImportDays(t.Context(), r.World.Site.ID, 10))
	left := func(after time.Duration) (ids []int64) {
		now := r.now().Add(after)
		require.NoError(t, r.World.TidyImports(t.Context(), now.Add(-imports.KeptFor), now))
		all, err := r.World.Queries.Imports(t.Context(), r.World.Site.ID, 10)
		require.NoError(t, err)
		for _, i := range all {
			ids = append(ids, i.ID)
		}
		return ids
	}
	assert.Equal(t, []int64{open.ID, done.ID}, left(6*24*time.Hour))
	assert.Equal(t, []int64{done.ID}, left(8*24*time.Hour), "what nobody committed")
	assert.Empty(t, left(11*24*time.Hour))
	assert.Len(t, r.posts(), 2)
}
