package articles_test

import (
	"archive/zip"
	"bytes"
	"context"
	"encoding/binary"
	"fmt"
	"io/fs"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/text/encoding/unicode"

	"dapper.example/internal/core/intake"
	"dapper.example/internal/intake/articles"
	"dapper.example/internal/limited"
)

func upload(path string, data []byte) articles.Upload {
	return articles.Upload{Path: path, Size: int64(len(data)), ReaderAt: bytes.NewReader(data)}
}

// packed is an archive of files, by their paths.
func packed(t testing.TB, files ...[2]string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for _, f := range files {
		w, err := z.Create(f[0])
		require.NoError(t, err)
		_, err = w.Write([]byte(f[1]))
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}

func open(t testing.TB, uploads ...articles.Upload) *articles.Tree {
	tree, err := articles.Open(t.Context(), uploads)
	require.NoError(t, err)
	return tree
}

func lines(t testing.TB, tree *articles.Tree) (all []articles.Read) {
	for one, err := range tree.Lines(t.Context(), 0) {
		require.NoError(t, err)
		all = append(all, one)
	}
	return all
}

// one is a file as it is read.
func one(t testing.TB, path, text string) articles.Read {
	all := lines(t, open(t, upload(path, []byte(text))))
	require.Len(t, all, 1)
	return all[0]
}

func TestFrontMatterIsRespected(t *testing.T) {
	t.Parallel()
	want := intake.Article{Format: intake.Markdown, Title: "A roof: greased", Body: "\nText.\n", Excerpt: "In short", Slug: "roof", Category: "Workbench", Tags: []string{"roof", "grease"},
		Author: "Pell Hanrahan", Date: "2024-03-01", Status: "draft", Picture: "roof.jpg", Alt: "A roof", Fields: map[string]string{"price": "12.50", "tools": "brush, rag"}}
	for name, text := range map[string]string{
		"YAML": "---\ntitle: 'A roof: greased'\ndate: 2024-03-01\nslug: roof\ncategory: Workbench\ntags: [roof, grease]\nauthor: Pell Hanrahan\ndraft: true\n" +
			"excerpt: In short\npicture: roof.jpg\npicture_description: A roof\nprice: 12.50\ntools:\n  - brush\n  - rag\n---\n\nText.\n",
		"TOML": "+++\ntitle = \"A roof: greased\"\ndate = 2024-03-01\nslug = \"roof\"\ncategory = \"Workbench\"\ntags = [\"roof\", \"grease\"]\nauthor = \"Pell Hanrahan\"\ndraft = true\n" +
			"excerpt = \"In short\"\npicture = \"roof.jpg\"\npicture_description = \"A roof\"\nprice = \"12.50\"\ntools = [\"brush\", \"rag\"]\n+++\n\nText.\n",
		"others' names": "---\nTitle: 'A roof: greased'\npublishDate: 2024-03-01\nslug: roof\ncategories: [Workbench, grease]\nkeywords: roof\nauthors: [Pell Hanrahan]\ndraft: yes\n" +
			"description: In short\ncover:\n  image: roof.jpg\n  alt: A roof\nprice: 12.50\ntools: brush, rag\n---\n\nText.\n",
		"CRLF": strings.ReplaceAll("---\ntitle: 'A roof: greased'\ndate: 2024-03-01\nslug: roof\ncategory: Workbench\ntags: roof; grease\nauthor: {name: Pell Hanrahan}\nstatus: Draft\n"+
			"summary: In short\nimage: roof.jpg\nalt: A roof\nprice: 12.50\ntools: brush, rag\n---\n\nText.\n", "\n", "\r\n"),
	} {
		got := one(t, "a.md", text)
		require.Empty(t, got.Why, name)
		if name == "others' names" {
			assert.ElementsMatch(t, want.Tags, got.Tags, name)
			got.Tags = want.Tags
		}
		assert.Equal(t, want, got.Article, name)
		assert.Contains(t, got.Columns, intake.Column{Name: "price", Value: "12.50"}, name)
	}
	bundled := one(t, "a.md", "---\ntitle: x\nkind: page\nevergreen: true\nnever_expires: true\non_top: true\ncomments: closed\nexpires: 2027-01-02T10:00:00Z\nfields: {a: b}\n---\n")
	expires := time.Date(2027, 1, 2, 10, 0, 0, 0, time.UTC)
	assert.Equal(t, intake.Care{Evergreen: true, NeverExpires: true, OnTop: true, CommentsClosed: true, Expires: &expires}, bundled.Care)
	assert.Equal(t, "page", bundled.Kind)
	assert.Equal(t, map[string]string{"a": "b"}, bundled.Fields)
}

func TestTitlesComeFromHeadingsAndNames(t *testing.T) {
	t.Parallel()
	for _, c := range []struct{ path, text, title, body, date string }{
		{"a.md", "# The *moon* at [nine](x)\n\nText", "The moon at nine", "\nText", ""},
		{"a.md", "The moon\n========\nText", "The moon", "Text", ""},
		{"a.md", "Text\n\n## Moon\nmore", "Moon", "Text\n\n## Moon\nmore", ""},
		{"2024-03-01-the-long_night.md", "Text", "The long night", "Text", "2024-03-01"},
		{"x/greasing-the-roof/index.md", "Text", "Greasing the roof", "Text", ""},
		{"a.md", "---\n\nnot front matter\n---\nText", "A", "---\n\nnot front matter\n---\nText", ""},
		{"a.txt", "The moon\n\nIt rises.", "The moon", "\nIt rises.", ""},
		{"night.txt", "It rises at nine.\n\nThen it sets.", "Night", "It rises at nine.\n\nThen it sets.", ""},
		{"a.html", "<html><head><title>x</title></head><body><nav>n</nav><main><h1>The <b>moon</b></h1><p>Text</p></main></body>", "The moon", "<p>Text</p>", ""},
		{"a.htm", "<title>The moon</title><p>Text", "The moon", "<p>Text</p>", ""},
		{"a.html", "---\ntitle: Own\n---\n<article><h1>x</h1></article>", "Own", "<h1>x</h1>", ""},
	} {
		got := one(t, c.path, c.text)
		assert.Empty(t, got.Why)
		assert.Equal(t, c.title, got.Title, c.text)
		assert.Equal(t, c.body, got.Body, c.text)
		assert.Equal(t, c.date, got.Date, c.path)
	}
	page := one(t, "a.html", `<head><meta name=description content="In short"><meta name=keywords content="a, b"><meta name=author content=Pell><meta property="article:published_time" content="2024-03-01T10:00:00Z"></head><p>x`)
	assert.Equal(t, []any{"In short", []string{"a", "b"}, "Pell", "2024-03-01T10:00:00Z"}, []any{page.Excerpt, page.Tags, page.Author, page.Date})
}

func TestEncodingsAreDetected(t *testing.T) {
	t.Parallel()
	for _, e := range []struct {
		name string
		text []byte
	}{
		{"UTF-8 with a mark", []byte("\xef\xbb\xbf# Über Straßen")}, {"UTF-8", []byte("# Über Straßen")}, {"Windows-1252", []byte("# \xdcber Stra\xdfen")},
	} {
		assert.Equal(t, "Über Straßen", one(t, "a.md", string(e.text)).Title, e.name)
	}
	for _, order := range []unicode.Endianness{unicode.LittleEndian, unicode.BigEndian} {
		text, err := unicode.UTF16(order, unicode.UseBOM).NewEncoder().String("---\ntitle: Über Straßen\n---\n")
		require.NoError(t, err)
		assert.Equal(t, "Über Straßen", one(t, "a.md", text).Title)
	}
}

// docx is a .docx file with a body, and relations.
func docx(t testing.TB, body, relations string) []byte {
	return packed(t, [2]string{"[Content_Types].xml", "<Types/>"},
		[2]string{"word/document.xml", `<?xml version="1.0"?><w:document xmlns:w="w" xmlns:r="r"><w:body>` + body + `</w:body></w:document>`},
		[2]string{"word/_rels/document.xml.rels", "<Relationships>" + relations + "</Relationships>"},
		[2]string{"docProps/core.xml", `<c:p xmlns:c="c" xmlns:dc="d"><dc:title>Properties</dc:title><dc:creator>Pell</dc:creator><c:keywords>a; b</c:keywords></c:p>`})
}

func TestDocxIsRead(t *testing.T) {
	t.Parallel()
	paragraph := func(style, runs string) string {
		if style != "" {
			style = `<w:pPr><w:pStyle w:val="` + style + `"/></w:pPr>`
		}
		return "<w:p>" + style + runs + "</w:p>"
	}
	run := func(text string) string { return "<w:r><w:t>" + text + "</w:t></w:r>" }
	body := paragraph("Title", run("The moon")) + paragraph("", run("It ")+`<w:r><w:rPr><w:b/></w:rPr><w:t>rises</w:t></w:r>`+run(" at ")+`<w:hyperlink r:id="r1">`+run("nine &lt;")+`</w:hyperlink><w:del>`+run("gone")+`</w:del>`) +
		paragraph("Heading2", run("Where")) + `<w:p><w:pPr><w:numPr/></w:pPr>` + run("east") + `</w:p><w:p><w:pPr><w:numPr/></w:pPr><w:r><w:rPr><w:i/><w:b w:val="0"/></w:rPr><w:t>west</w:t></w:r></w:p>` +
		`<w:tbl><w:tr><w:tc>` + paragraph("", run("1")) + `</w:tc></w:tr></w:tbl>` + paragraph("", "<w:r><w:drawing/></w:r>")
	got := one(t, "a.docx", string(docx(t, body, `<Relationship Id="r1" Target="https://example.org/9" TargetMode="External"/>`)))
	require.Empty(t, got.Why)
	assert.Equal(t, "The moon", got.Title)
	assert.Equal(t, "Pell", got.Author)
	assert.Equal(t, []string{"a", "b"}, got.Tags)
	assert.Equal(t, `<p>It <strong>rises</strong> at <a href="https://example.org/9">nine &lt;</a></p><h2>Where</h2><ul><li>east</li><li><em>west</em></li></ul><table><tr><td><p>1</p></td></tr></table>`, got.Body)
	assert.Equal(t, "1 picture in it left out: blogs show .jpg, .png, .gif and .webp, and no drawings.", got.Problem)
}

// Pictures of a .docx stand where they stood, with what they show, and are read from the file itself.
func TestPicturesOfADocx(t *testing.T) {
	t.Parallel()
	blip := func(id, says string) string {
		return `<w:r><w:drawing><wp:inline><wp:docPr descr="` + says + `"/><a:graphic><pic:blipFill><a:blip r:embed="` + id + `"/></pic:blipFill></a:graphic></wp:inline></w:drawing></w:r>`
	}
	text := func(s string) string { return "<w:r><w:t>" + s + "</w:t></w:r>" }
	body := `<w:p>` + blip("r1", "The &quot;red&quot; moon") + `</w:p><w:p>` + text("Before ") + blip("r2", "") + text(" after") + `</w:p><w:p>` + blip("r3", "A drawing") + `</w:p>` +
		`<w:p><mc:AlternateContent><mc:Choice>` + blip("r1", "Again") + `</mc:Choice><mc:Fallback><w:pict><v:shape alt="Old"><v:imagedata r:id="r1"/></v:shape></w:pict>` + text("old words") + `</mc:Fallback></mc:AlternateContent></w:p>` +
		`<w:p><w:r><w:pict><v:shape alt="Older"><v:imagedata r:id="r4"/></v:shape></w:pict></w:r></w:p><w:p><w:del>` + blip("r1", "Deleted") + `</w:del></w:p><w:p>` + blip("r5", "Nowhere") + `</w:p>` +
		`<w:p><w:r><w:drawing><wp:docPr descr="Linked"/><a:blip r:link="r6"/></w:drawing></w:r></w:p>`
	file := packed(t, [2]string{"word/document.xml", `<w:document xmlns:w="w" xmlns:wp="wp" xmlns:a="a" xmlns:pic="pic" xmlns:r="r" xmlns:mc="mc" xmlns:v="v"><w:body>` + body + `</w:body></w:document>`},
		[2]string{"word/_rels/document.xml.rels", `<Relationships><Relationship Id="r1" Target="media/image1.png"/><Relationship Id="r2" Target="/word/media/image2.JPG"/>` +
			`<Relationship Id="r3" Target="media/image3.emf"/><Relationship Id="r4" Target="media/image4.gif"/><Relationship Id="r6" Target="https://example.org/moon.png" TargetMode="External"/></Relationships>`},
		[2]string{"word/media/image1.png", "one"}, [2]string{"word/media/image2.JPG", "two"})
	tree := open(t, upload("in/moon.docx", file))
	got := lines(t, tree)[0]
	require.Empty(t, got.Why)
	assert.Equal(t, `<p><img src="own-picture:0" alt="The &#34;red&#34; moon"></p><p>Before <img src="own-picture:1" alt=""> after</p><p><img src="own-picture:2" alt="Again"></p>`+
		`<p><img src="own-picture:3" alt="Older"></p><p><img src="https://example.org/moon.png" alt="Linked"></p>`, got.Body)
	assert.Equal(t, []string{"in/moon.docx/word/media/image1.png", "in/moon.docx/word/media/image2.JPG", "in/moon.docx/word/media/image1.png", "in/moon.docx/word/media/image4.gif"}, got.Own)
	assert.Equal(t, "2 pictures in it left out: blogs show .jpg, .png, .gif and .webp, and no drawings.", got.Problem)
	for path, want := range map[string]string{got.Own[0]: "one", got.Own[1]: "two"} {
		data, err := tree.Picture(t.Context(), path)
		require.NoError(t, err, path)
		assert.Equal(t, want, string(data), path)
	}
	for _, path := range []string{got.Own[3], "in/moon.docx/", "in/moon.docx/../x", "in/other.docx/word/media/image1.png"} {
		_, err := tree.Picture(t.Context(), path)
		var u *articles.Unreadable
		require.ErrorAs(t, err, &u, path)
	}
}

func TestWhatCannotBeReadIsLeftOutWithTheReason(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct{ path, text, why string }{
		"empty":        {"a.md", " \n", "It is empty."},
		"a picture":    {"a.md", "\x89PNG\r\n", "It is no text, though its name says so."},
		"binary":       {"a.txt", strings.Repeat("a\x00\x01", 500), "It is no text, though its name says so."},
		"broken YAML":  {"a.md", "---\ntitle: [a\n---\n", "Its front matter can't be read: line 1: did not find expected ',' or ']'."},
		"broken TOML":  {"a.md", "+++\ntitle = a b\n+++\n", "Its front matter can't be read: line 1: "},
		"aliases":      {"a.md", "---\na: &a [x,x,x,x,x,x,x,x,x]\nb: &b [*a,*a,*a,*a,*a,*a,*a,*a]\nc: &c [*b,*b,*b,*b,*b,*b,*b]\n---\n", ""},
		"long matter":  {"a.md", "---\n" + strings.Repeat("a: b\n", 20_000) + "---\n", "Its front matter can't be read: "},
		"no docx":      {"a.docx", "text", "It is no .docx file, though its name says so, or it is damaged."},
		"another zip":  {"a.docx", string(packed(t, [2]string{"x", "y"})), "It is no .docx file, though its name says so: there is no text in it."},
		"entities":     {"a.docx", string(packed(t, [2]string{"word/document.xml", `<!DOCTYPE x [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]><x>&b;</x>`})), "It declares types of its own (<!DOCTYPE), which is not allowed in such files."},
		"broken docx":  {"a.docx", string(docx(t, "<w:p>", "")), "It is damaged: its text is no well-formed XML."},
		"deep docx":    {"a.docx", string(docx(t, strings.Repeat("<a>", 200_000), "")), "It has more than 400000 elements, or they are nested more than 100 deep."},
		"unknown name": {"a.docx", string(docx(t, "&nobody;", "")), "It is damaged: its text is no well-formed XML."},
	} {
		got := one(t, c.path, c.text)
		if c.why == "" {
			assert.Empty(t, got.Why, name)
			continue
		}
		assert.True(t, strings.HasPrefix(got.Why, c.why), "%s: %s", name, got.Why)
	}
	nul := one(t, "a.md", "# Moon\n\n"+strings.Repeat("word ", 100)+"\x00more")
	assert.Empty(t, nul.Why)
	assert.Equal(t, "It held bytes that are no text; they were left out.", nul.Problem)
	assert.NotContains(t, nul.Body, "\x00")
}

func TestArchives(t *testing.T) {
	t.Parallel()
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	link := &zip.FileHeader{Name: "link.md"}
	link.SetMode(fs.ModeSymlink | 0o777)
	for _, h := range []*zip.FileHeader{{Name: "b/10.md"}, {Name: "b/9.md"}, {Name: "b/"}, {Name: "../up.md"}, {Name: "/etc/passwd.md"}, {Name: `c:\x.md`}, {Name: `b\back.md`}, link,
		{Name: "moon.jpg"}, {Name: "inner.zip"}, {Name: "a.exe"}, {Name: "__MACOSX/b/._9.md"}, {Name: ".DS_Store"}, {Name: "blog.json"}, {Name: "caf\x82.md", NonUTF8: true}} {
		w, err := z.CreateHeader(h)
		require.NoError(t, err)
		if !strings.HasSuffix(h.Name, "/") {
			fmt.Fprintf(w, "# %q", h.Name)
		}
	}
	require.NoError(t, z.Close())
	tree := open(t, upload("all.zip", out.Bytes()), upload("loose/one.md", []byte("# One")))
	var paths []string
	for _, l := range lines(t, tree) {
		assert.Empty(t, l.Why)
		assert.Equal(t, l.Key, l.Place)
		paths = append(paths, l.Key)
	}
	assert.Equal(t, []string{"b/9.md", "b/10.md", "b/back.md", "café.md", "loose/one.md"}, paths, "numbers are sorted by their value")
	assert.Equal(t, []articles.Left{{"../up.md", "Its path leads out of the archive."}, {"/etc/passwd.md", "Its path leads out of the archive."}, {"c:/x.md", "Its path leads out of the archive."},
		{"link.md", "It is a link to another file, which is not followed."}, {"inner.zip", "It is an archive within an archive. Bring it in by itself."},
		{"a.exe", "It is neither an article (.md, .txt, .html, .docx) nor a picture (.jpg, .png, .gif, .webp)."}}, tree.Left())
	assert.Equal(t, 1, tree.CountPictures())
	found, ok := tree.Pictures().Find("b/9.md", "../moon.jpg")
	assert.True(t, ok)
	data, err := tree.Picture(t.Context(), found)
	require.NoError(t, err)
	assert.Equal(t, `# "moon.jpg"`, string(data))
	data, err = tree.Data(t.Context(), "blog.json")
	require.NoError(t, err)
	assert.NotEmpty(t, data)

	var rest []string
	for l, err := range tree.Lines(t.Context(), 3) {
		require.NoError(t, err)
		rest = append(rest, l.Key)
	}
	assert.Equal(t, []string{"café.md", "loose/one.md"}, rest, "it goes on where it was")
}

// says makes an archive say another size of its first file than it has.
func says(data []byte, size uint32) []byte {
	data = bytes.Clone(data)
	at := bytes.LastIndex(data, []byte("PK\x01\x02"))
	binary.LittleEndian.PutUint32(data[at+24:], size)
	return data
}

func TestHarmfulArchives(t *testing.T) {
	bomb := packed(t, [2]string{"a.md", strings.Repeat("a", 200<<20)})
	cut := packed(t, [2]string{"a.md", strings.Repeat("moon ", 5000)}, [2]string{"b.md", "# b"})
	damaged := bytes.Clone(cut)
	copy(damaged[40:], "xxxxxxxxxxxx")
	for name, c := range map[string]struct {
		data []byte
		why  string // of the whole
		left string // of the first file
	}{
		"a bomb":                {bomb, "", "It has more than 4 MB."},
		"a bomb that lies":      {says(bomb, 100), "", "It can't be unpacked: it is damaged or cut off."},
		"cut off":               {cut[:len(cut)-30], "“x.zip” is no .zip archive, or it is cut off. Pack it once more.", ""},
		"damaged":               {damaged, "", "It can't be unpacked: it is damaged or cut off."},
		"no archive":            {[]byte("text"), "“x.zip” is no .zip archive, or it is cut off. Pack it once more.", ""},
		"100,000 files":         {many(t, 100_000, ""), "“x.zip” has 100000 files; 20000 is the most. Pack them in parts.", ""},
		"20,001 files":          {many(t, 20_001, ""), "“x.zip” has 20001 files; 20000 is the most. Pack them in parts.", ""},
		"very long names":       {many(t, 9_000, strings.Repeat("n", 900)), "“x.zip” has more files than can be brought in at once. Pack up to 20000 into one archive.", ""},
		"a directory that lies": {append(many(t, 10, ""), make([]byte, 100)...), "", ""},
	} {
		limited.Work(t, 120, func() {
			tree, err := articles.Open(t.Context(), []articles.Upload{upload("x.zip", c.data)})
			if c.why != "" {
				var u *articles.Unreadable
				if assert.ErrorAs(t, err, &u, name) {
					assert.Equal(t, c.why, u.Why, name)
				}
				return
			}
			if name == "a directory that lies" {
				return // it may be read or not
			}
			require.NoError(t, err, name)
			if left := tree.Left(); len(left) > 0 {
				assert.Equal(t, c.left, left[0].Why, name)
				return
			}
			for l, err := range tree.Lines(t.Context(), 0) {
				require.NoError(t, err, name)
				assert.Equal(t, c.left, l.Why, name)
				break
			}
		})
	}
	ended, cancel := context.WithCancel(t.Context())
	cancel()
	_, err := articles.Open(ended, []articles.Upload{upload("x.zip", cut)})
	assert.ErrorIs(t, err, context.Canceled)
}

func many(t testing.TB, n int, suffix string) []byte {
	var out bytes.Buffer
	z := zip.NewWriter(&out)
	for i := range n {
		_, err := z.CreateHeader(&zip.FileHeader{Name: fmt.Sprintf("a folder/of several/%06d-article%s.md", i, suffix)})
		require.NoError(t, err)
	}
	require.NoError(t, z.Close())
	return out.Bytes()
}
