package intake_test

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/message"
)

var halifax = civil.MustZone("America/Halifax")

// dome is a blog, and a source with some pictures.
func dome(t *testing.T, lists map[string][]string) intake.Place {
	read, problems := message.ReadLists(lists)
	require.Empty(t, problems)
	return intake.Place{Zone: halifax, Now: halifax.At(civil.MustDate("2026-11-24"), civil.MustClock("12:00")), Categories: []string{"Sky Guide", "Workbench"},
		Lists: read, Pictures: intake.PicturesOf([]string{"spring/moon.jpg", "pictures/Dome.PNG", "a/same.jpg", "b/same.jpg", "two words (1).jpg"})}
}

func ready(t *testing.T, r intake.Recipe, at intake.Place) *intake.Pipeline {
	p, problems := intake.Ready(r, at, nil)
	require.Empty(t, problems)
	return p
}

func take(t *testing.T, p *intake.Pipeline, l intake.Line) intake.Result {
	result, err := p.Take(t.Context(), l)
	require.NoError(t, err)
	return result
}

// article is a line with a title and a body in Markdown.
func article(body string) intake.Line {
	return intake.Line{Key: "a", Place: "row 2", File: "spring/a.md", Article: intake.Article{Title: "Moon", Body: body, Format: intake.Markdown}}
}

func row(cells ...string) intake.Line {
	l := intake.Line{Key: cells[0], Place: "row 2"}
	for i, heading := range []string{"ID", "Name", "Price", "Note"} {
		if i < len(cells) {
			l.Columns = append(l.Columns, intake.Column{Name: heading, Value: cells[i]})
		}
	}
	return l
}

func TestTextsAreComposedOfColumns(t *testing.T) {
	t.Parallel()
	for _, one := range []struct {
		template string
		row      intake.Line
		want     string
	}{
		{"{column:Name} for {column:Price}", row("7", "Red torch", "12 dollars"), "Red torch for 12 dollars"},
		{"{column:2} ({column:name})", row("7", " Red torch "), "Red torch (Red torch)"},
		{"{{{column:Name}}}", row("7", "Red torch"), "{Red torch}"},
		{"Only {column:Price}", row("7", "Red torch", "  "), ""},                                      // what names columns says nothing where they are empty
		{"{column:Name}: {column:Note}", row("7", "Red torch", "12"), "Red torch:"},                   // a row may be shorter than its headings
		{"Torch of the week", row("7"), "Torch of the week"},                                          // fixed
		{"{one-of:kind} {column:Name}", row("7", "torch"), "A small torch"},                           // from a list
		{"{column:Name}\n\n{column:Note}", row("7", "Red", "1", "{column:ID}"), "Red\n\n{column:ID}"}, // cells are text
	} {
		r := intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Title: {Text: "x"}, intake.Body: {Text: "y"}, intake.Excerpt: {Text: one.template}}}
		got := take(t, ready(t, r, dome(t, map[string][]string{"kind": {"A {one-of:size}"}, "size": {"small"}})), one.row)
		assert.Empty(t, got.Left)
		assert.Equal(t, one.want, got.Post.Excerpt, one.template)
	}
}

func TestFieldsAreMappedOrFixed(t *testing.T) {
	t.Parallel()
	r := intake.Recipe{Fill: map[intake.Field]intake.Fill{
		intake.Title: {Text: "{column:Name}"}, intake.Body: {Text: "<p>About <b>{column:Name}</b></p>"}, intake.Tags: {Text: "torches, {column:Note}; light"},
		intake.Author: {Text: "Ines Abara"}, intake.Category: {Text: "workbench"}, intake.Kind: {Text: "page"}, intake.Date: {Text: "{column:Price}"},
	}, Fields: map[string]string{"sku": "{column:ID}", "empty": "{column:Note}"}, Comments: "closed"}
	got := take(t, ready(t, r, dome(t, nil)), row("7", "Red torch", "4 Dec 2026"))
	assert.Empty(t, got.Left)
	assert.Equal(t, intake.Post{Title: "Red torch", Body: "About **Red torch**", Tags: []string{"torches", "light"}, Author: "Ines Abara", Category: "workbench",
		Page: true, At: halifax.At(civil.MustDate("2026-12-04"), civil.MustClock("09:00")), Fields: map[string]string{"sku": "7"}, CommentsOpen: new(false)}, got.Post)

	said := intake.Article{Title: "Own title", Body: "Text.", Author: "Pell", Tags: []string{"x"}}
	r = intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Title: {Text: "Other"}, intake.Author: {Text: "Ines", Always: true}}}
	got = take(t, ready(t, r, dome(t, nil)), intake.Line{Key: "k", Article: said})
	assert.Equal(t, "Own title", got.Post.Title, "what a line says goes first")
	assert.Equal(t, "Ines", got.Post.Author, "unless it is meant always")
}

func TestCategoriesAndTagsAreFoundByWords(t *testing.T) {
	t.Parallel()
	r := intake.Recipe{Categories: []intake.TopicWords{{"Workbench", []string{"soldering iron"}}, {"Sky Guide", []string{"comet", "moon"}}},
		Tags: []intake.TopicWords{{"comets", []string{"Comet"}}, {"tools", []string{"iron", "ladder"}}}}
	p := ready(t, r, dome(t, nil))
	for body, want := range map[string]struct {
		category string
		tags     []string
	}{
		"A COMET over the dome":              {"Sky Guide", []string{"comets"}},
		"Comets, in the plural only":         {"Sky Guide", nil}, // by the title "Moon"
		"The soldering   iron and the comet": {"Sky Guide", []string{"comets", "tools"}},
		"The soldering iron and the comet":   {"Workbench", []string{"comets", "tools"}},
		"<!-- comet -->":                     {"Sky Guide", []string{"comets"}},
	} {
		got := take(t, p, article(body))
		assert.Equal(t, want.category, got.Post.Category, body)
		assert.Equal(t, want.tags, got.Post.Tags, body)
	}
	html := article("<p>A co<b>met</b></p><script>ladder</script>")
	html.Format, html.Title = intake.HTML, "Star"
	got := take(t, p, html)
	assert.Equal(t, "Sky Guide", got.Post.Category, "in HTML readers' words count")
	assert.Equal(t, []string{"comets"}, got.Post.Tags)
	assert.Contains(t, got.Notes, "Category Sky Guide, since “comet” occurs.")

	own := article("comet")
	own.Category = "Workbench"
	assert.Equal(t, "Workbench", take(t, p, own).Post.Category)
	own.Category = "Letters"
	got = take(t, p, own)
	assert.Empty(t, got.Post.Category)
	assert.Contains(t, got.Notes, "There is no category “Letters”; it gets none.")
	r.NewCategories = true
	assert.Equal(t, "Letters", take(t, ready(t, r, dome(t, nil)), own).Post.Category)
}

func TestLinesAreLeftOutWithTheReason(t *testing.T) {
	t.Parallel()
	for _, one := range []struct {
		recipe intake.Recipe
		body   string
		want   string
	}{
		{intake.Recipe{Must: []string{"dome", "roof"}}, "The Dome.", "It doesn't have “roof”."},
		{intake.Recipe{MustNot: []string{"casino"}}, "Our Casino!", "It has “casino”."},
		{intake.Recipe{MustNot: []string{"casino"}}, "casinos", ""},
		{intake.Recipe{Title: intake.Range{Fewest: 2}}, "Text", "Its title has 1 word; at least 2 are asked for."},
		{intake.Recipe{Body: intake.Range{Fewest: 4}}, "only three words", "Its text has 3 words; at least 4 are asked for."},
		{intake.Recipe{Body: intake.Range{Fewest: 3, Most: 3}}, "only three words", ""},
		{intake.Recipe{Body: intake.Range{Most: 2}}, "only three words", "Its text has 3 words; at most 2 are asked for."},
		{intake.Recipe{NoPicture: intake.PictureLeave}, "no picture", "It has no picture."},
		{intake.Recipe{NoPicture: intake.PictureDefault, PictureElse: "/x"}, "no picture", ""},
	} {
		assert.Equal(t, one.want, take(t, ready(t, one.recipe, dome(t, nil)), article(one.body)).Left)
	}
	nameless := article("Text")
	nameless.Title = " \n "
	assert.Equal(t, "It has no title.", take(t, ready(t, intake.Recipe{}, dome(t, nil)), nameless).Left)
}

func TestHTMLBecomesMarkdownWithoutWhatIsNotWanted(t *testing.T) {
	t.Parallel()
	for _, one := range []struct {
		recipe     intake.Recipe
		html, want string
	}{
		{intake.Recipe{}, `<h2>Moon</h2><p>It <em>rises</em> at <a href="https://example.org/9">nine</a>.</p><script>alert(1)</script>`,
			"## Moon\n\nIt *rises* at [nine](https://example.org/9)."},
		{intake.Recipe{StripLinks: true}, `<p>At <a href="/x"><b>nine</b></a>.</p>`, "At **nine**."},
		{intake.Recipe{Remove: []string{".advert", "#foot > p", "h1 + div"}},
			`<h1>A</h1><div>gone</div><p class="x advert">gone</p><div id="foot"><p>gone</p><ul><li>stays</li></ul></div>`, "# A\n\n- stays"},
		{intake.Recipe{}, `<table><tr><th>a</th><th>b</th></tr><tr><td>1</td><td>2</td></tr></table>`, "| a | b |\n|---|---|\n| 1 | 2 |"},
		{intake.Recipe{}, `<p>1 * 2 * 3 and [not a link]</p>`, `1 * 2 * 3 and \[not a link]`},
	} {
		l := article(one.html)
		l.Format = intake.HTML
		got := take(t, ready(t, one.recipe, dome(t, nil)), l)
		assert.Equal(t, one.want, got.Post.Body, one.html)
	}
	got := take(t, ready(t, intake.Recipe{StripLinks: true}, dome(t, nil)), article("See [the moon](https://example.org) and *stars*, <https://example.net>."))
	assert.Equal(t, "See the moon and *stars*, https\\://example.net.", strings.ReplaceAll(got.Post.Body, "https://", `https\://`), "links of Markdown too")
	assert.Equal(t, "A [link](x) and `code` stay.", take(t, ready(t, intake.Recipe{}, dome(t, nil)), article("A [link](x) and `code` stay.")).Post.Body)
}

func TestPlainTextSaysJustItself(t *testing.T) {
	t.Parallel()
	l := article("# no heading\n* no list\n1. no list\n> none\n\n2 * 3 * 4, snake_case_name, <b>, [x](y)\r\n  indented")
	l.Format = intake.Plain
	got := take(t, ready(t, intake.Recipe{}, dome(t, nil)), l)
	assert.Equal(t, "\\# no heading\n\\* no list\n1\\. no list\n\\> none\n\n2 \\* 3 \\* 4, snake\\_case\\_name, \\<b>, \\[x\\](y)\nindented", got.Post.Body)
}

func TestHouseLinks(t *testing.T) {
	t.Parallel()
	links := []intake.HouseLink{{Word: "moon", Address: "/blog/dome/moon", Most: 2}, {Word: "full moon", Address: "https://example.org/full(1)"}, {Word: "Straße", Address: "/s"}}
	p := ready(t, intake.Recipe{Links: links}, dome(t, nil))
	for body, want := range map[string]string{
		"The Moon, the moon, the MOON.":                          "The [Moon](/blog/dome/moon), the [moon](/blog/dome/moon), the MOON.",
		"A full moon and a moon":                                 "A [full moon](https://example.org/full%281%29) and a [moon](/blog/dome/moon)",
		"# Moon\n\nmoonlight, half-moon":                         "# Moon\n\nmoonlight, half-[moon](/blog/dome/moon)",
		"Moon\n----\n\ntext":                                     "Moon\n----\n\ntext",
		"[the moon](x) ![moon](y) `moon` <https://moon.example>": "[the moon](x) ![moon](y) `moon` <https://moon.example>",
		"    moon\n\n```\nmoon\n```":                             "    moon\n\n```\nmoon\n```",
		`<a href="x">the moon</a> *moon*`:                        `<a href="x">the moon</a> *[moon](/blog/dome/moon)*`,
		"<div>\nmoon\n</div>\n":                                  "<div>\nmoon\n</div>",
		"Die STRASSE":                                            "Die [STRASSE](/s)",
		"| moon |\n|---|\n| 1 |":                                 "| [moon](/blog/dome/moon) |\n|---|\n| 1 |",
		"> - moon":                                               "> - [moon](/blog/dome/moon)",
	} {
		assert.Equal(t, want, take(t, p, article(body)).Post.Body)
	}
}

func TestAlternativesAreDrawnBySeedAndLine(t *testing.T) {
	t.Parallel()
	lists := map[string][]string{"hello": {"Hello", "Good evening", "Look up: {title}", "{one-of:night}"}, "night": {"Clear skies", "Dark skies"}}
	body := "{one-of:hello}! {not: a thing} {one-of:nobody}"
	p := ready(t, intake.Recipe{Seed: 1}, dome(t, lists))
	first := take(t, p, article(body))
	assert.Equal(t, first, take(t, p, article(body)), "the same seed and line say the same")
	assert.Contains(t, first.Post.Body, "! {not: a thing} {one-of:nobody}")
	assert.Contains(t, first.Notes, "There is no word list “nobody”, so its place in the text stays as it is.")
	seen := map[string]bool{}
	for n := range 200 {
		l := article("{one-of:hello}")
		l.Key = strings.Repeat("k", n)
		seen[take(t, p, l).Post.Body] = true
	}
	assert.Equal(t, map[string]bool{"Hello": true, "Good evening": true, "Look up: Moon": true, "Clear skies": true, "Dark skies": true}, seen)
}

func TestPicturesOfTheSourceAreFound(t *testing.T) {
	t.Parallel()
	p := ready(t, intake.Recipe{}, dome(t, nil))
	for meant, want := range map[string]string{
		"moon.jpg": "spring/moon.jpg", "./moon.jpg": "spring/moon.jpg", "../pictures/dome.png": "pictures/Dome.PNG", "/pictures/Dome.PNG": "pictures/Dome.PNG",
		"dome.png": "pictures/Dome.PNG", `..\pictures\dome.png`: "pictures/Dome.PNG", "same.jpg": "", "b/same.jpg": "b/same.jpg", "../../../etc/passwd": "", "gone.jpg": "", "": "",
	} {
		l := article("Text")
		l.Picture = meant
		got := take(t, p, l)
		if want == "" {
			assert.Empty(t, got.Post.Picture, meant)
			continue
		}
		assert.Equal(t, want, got.Post.WithPictures(got.Post.Picture, func(file string) string { return file }), meant)
	}
	l := article("![Moon](moon.jpg \"a title\") ![](<../two words (1).jpg>) <img alt=x src=\"moon.jpg\">\n\n![again][r] ![x](gone.jpg) ![y](https://example.org/a.jpg)\n\n[r]: moon.jpg\n")
	got := take(t, p, l)
	assert.Equal(t, "![Moon](/p/spring/moon.jpg \"a title\") ![](/p/two words (1).jpg) <img alt=x src=\"/p/spring/moon.jpg\">\n\n![again][r] ![x](gone.jpg) ![y](https://example.org/a.jpg)\n\n[r]: /p/spring/moon.jpg",
		got.Post.WithPictures(got.Post.Body, func(file string) string { return "/p/" + file }))
	assert.Equal(t, []string{"spring/moon.jpg", "two words (1).jpg"}, got.Post.Pictures)
	assert.Equal(t, []string{"The picture “gone.jpg” is not among the files."}, got.Notes)
}

func TestWhatIsWrongWithARecipeIsSaid(t *testing.T) {
	t.Parallel()
	for _, one := range []struct {
		recipe        intake.Recipe
		path, message string
	}{
		{intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Title: {Text: "{column:Prize}"}}}, "fill.title", "There is no column “Prize”."},
		{intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Title: {Text: "{column:3}"}}}, "fill.title", "There is no column “3”."},
		{intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Title: {Text: "{name}"}}}, "fill.title", "There is no {name}. Write {column:NAME}, {column:3} or {one-of:NAME}."},
		{intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Body: {Text: "a } b"}}}, "fill.body", "A brace stands alone. Double it to have it in the text."},
		{intake.Recipe{Fill: map[intake.Field]intake.Fill{"colour": {Text: "a"}}}, "fill.colour", "There is no field colour."},
		{intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Body: {Text: "{one-of:hi}"}}}, "fill.body", "There is no word list “hi”. Make it under Channels, or choose another."},
		{intake.Recipe{Categories: []intake.TopicWords{{"Letters", []string{"x"}}}}, "categories[0].name", "There is no category “Letters”. Add it first, or have new categories added."},
		{intake.Recipe{Tags: []intake.TopicWords{{"x", nil}}}, "tags[0].words", "Give 1 to 200 words."},
		{intake.Recipe{Must: []string{" "}}, "must", "A word is empty. Take it out."},
		{intake.Recipe{Body: intake.Range{Fewest: 5, Most: 3}}, "body", "The most, 3 words, is less than the fewest, 5."},
		{intake.Recipe{Remove: []string{"p["}}, "remove", "“p[” is no CSS selector. Write one such as .advert, footer or #related."},
		{intake.Recipe{Links: []intake.HouseLink{{Word: "x", Address: "javascript:alert(1)"}}}, "links[0].address", "Write an address such as https://example.org/page or /blog/name/page."},
		{intake.Recipe{Links: []intake.HouseLink{{Word: "x", Address: "/x", Most: 99}}}, "links[0].most", "A word becomes a link 1 to 20 times a post."},
		{intake.Recipe{NoPicture: intake.PictureDefault}, "pictureElse", "Choose the picture for posts that have none."},
		{intake.Recipe{Format: "rtf"}, "format", "Texts are Markdown, HTML or plain text."},
	} {
		_, problems := intake.Ready(one.recipe, dome(t, nil), []string{"Name", "Price"})
		if assert.Len(t, problems, 1, one.message) {
			assert.Equal(t, one.path, problems[0].Path)
			assert.Equal(t, one.message, problems[0].Message)
		}
	}
}

func TestColumnsAreGuessed(t *testing.T) {
	t.Parallel()
	fill, key := intake.Guess([]string{"No.", "Headline", "Body", "summary", "Key Words", "Keywords", "Publish_Date", "Image-File", "Colour"})
	assert.Equal(t, map[intake.Field]intake.Fill{intake.Title: {Text: "{column:Headline}"}, intake.Body: {Text: "{column:Body}"}, intake.Excerpt: {Text: "{column:summary}"},
		intake.Tags: {Text: "{column:Keywords}"}, intake.Date: {Text: "{column:Publish_Date}"}, intake.Picture: {Text: "{column:Image-File}"}}, fill)
	assert.Equal(t, "No.", key)
}

// Whatever a line holds, it becomes a post or is left out with a reason, the same each time, within a moment.
func TestAnyLineIsTaken(t *testing.T) {
	t.Parallel()
	at := dome(t, map[string][]string{"x": {"a", "{title}"}})
	p := ready(t, intake.Recipe{Fill: map[intake.Field]intake.Fill{intake.Excerpt: {Text: "{column:1} {one-of:x}"}}, Remove: []string{"div p"}, StripLinks: true,
		Links: []intake.HouseLink{{Word: "a", Address: "/a", Most: 3}}, Tags: []intake.TopicWords{{"t", []string{"b"}}}, Body: intake.Range{Most: 1000}}, at)
	rapid.Check(t, func(t *rapid.T) {
		body := strings.Join(rapid.SliceOfN(rapid.SampledFrom([]string{"a", "<div>", "</p>", "<a href=x>", "![](moon.jpg)", "{one-of:x}", "\n\n", "# ", "`", "[a](b)", "İ", "\x00", "<table>", "|", "intake:0:"}), 0, 40).Draw(t, "body"), " ")
		l := intake.Line{Key: "k", File: "spring/x", Article: intake.Article{Title: rapid.String().Draw(t, "title"), Body: body, Date: rapid.String().Draw(t, "date"),
			Format: rapid.SampledFrom([]intake.Format{"", intake.HTML, intake.Markdown, intake.Plain}).Draw(t, "format")}}
		one, err := p.Take(t.Context(), l)
		require.NoError(t, err)
		again, err := p.Take(t.Context(), l)
		require.NoError(t, err)
		assert.Equal(t, one, again)
		assert.True(t, one.Left != "" || one.Post.Title != "")
	})
}

func TestShufflingIsBySeed(t *testing.T) {
	t.Parallel()
	assert.Equal(t, intake.Rank(1, "a"), intake.Rank(1, "a"))
	assert.NotEqual(t, intake.Rank(1, "a"), intake.Rank(2, "a"))
	assert.NotEqual(t, intake.Rank(1, "a"), intake.Rank(1, "b"))
}

func TestDatesOfLines(t *testing.T) {
	t.Parallel()
	p := ready(t, intake.Recipe{}, dome(t, nil))
	l := article("x")
	l.Date = "2024-03-01T10:00:00Z"
	assert.Equal(t, time.Date(2024, 3, 1, 10, 0, 0, 0, time.UTC), take(t, p, l).Post.At)
	l.Date = "some day"
	got := take(t, p, l)
	assert.True(t, got.Post.At.IsZero())
	assert.Equal(t, []string{"“some day” is no date and time; write 2026-12-04 09:40. It is brought in without."}, got.Notes)
}
