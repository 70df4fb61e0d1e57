package pattern_test

import (
	"path"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/pattern"
)

var torch = pattern.Values{Slug: "red-torches", Category: "workbench", First: civil.MustDate("2026-03-09")}

func TestPathsAndAddresses(t *testing.T) {
	t.Parallel()
	for text, want := range map[string]string{
		"posts/{slug}.md":                       "posts/red-torches.md",
		"{slug}.md":                             "red-torches.md",
		"{year}/{month}/{day}-{slug}.md":        "2026/03/09-red-torches.md",
		"content/{category}/{slug}/index.md":    "content/workbench/red-torches/index.md",
		"src/content_new/v1.2/{slug}.{year}.md": "src/content_new/v1.2/red-torches.2026.md",
		"{slug}/{slug}.md":                      "red-torches/red-torches.md",
	} {
		p, problem := pattern.Path(text)
		assert.Empty(t, problem, text)
		assert.Equal(t, want, p.Of(torch), text)
	}
	for text, want := range map[string]string{
		"https://notes.example/{slug}/":                "https://notes.example/red-torches/",
		"http://notes.example:8080/{year}/{slug}.html": "http://notes.example:8080/2026/red-torches.html",
		"https://notes.example/?post={slug}":           "https://notes.example/?post=red-torches",
	} {
		p, problem := pattern.Address(text)
		assert.Empty(t, problem, text)
		assert.Equal(t, want, p.Of(torch), text)
	}
	p, _ := pattern.Path("{category}/{slug}.md")
	assert.Equal(t, "no-category/x.md", p.Of(pattern.Values{Slug: "x"}))
}

func TestWhatIsWrongWithPatterns(t *testing.T) {
	t.Parallel()
	for text, says := range map[string]string{
		"":                                     "Put {slug} in",
		"posts/post.md":                        "Put {slug} in",
		"{slug}":                               "End it with .md",
		"{slug}.html":                          "End it with .md",
		"/posts/{slug}.md":                     "slashes",
		"posts//{slug}.md":                     "slashes",
		"../{slug}.md":                         "begin with a dot",
		"posts/../../{slug}.md":                "begin with a dot",
		"posts/.{slug}.md":                     "begin with a dot",
		"posts\\{slug}.md":                     "English alphabet",
		"c:/{slug}.md":                         "English alphabet",
		"pösts/{slug}.md":                      "English alphabet",
		"{slug}\x00.md":                        "English alphabet",
		"{slug} .md":                           "English alphabet",
		"{title}/{slug}.md":                    "There is no placeholder {title}. There are {slug}, {category}, {year}, {month}, {day}.",
		"{slug.md":                             "without its }",
		"slug}{slug}.md":                       "without its {",
		"{{slug}}.md":                          "no placeholder {{slug}",
		strings.Repeat("a", 200) + "{slug}.md": "longer than 200",
	} {
		_, problem := pattern.Path(text)
		assert.Contains(t, problem, says, "%q", text)
	}
	for text, says := range map[string]string{
		"":                                 "Put {slug} in",
		"notes.example/{slug}":             "begins with https://",
		"ftp://notes.example/{slug}":       "begins with https://",
		"javascript:{slug}":                "begins with https://",
		"https:///{slug}":                  "begins with https://",
		"https://a:b@notes.example/{slug}": "user name",
		"https://{slug}.example/":          "Placeholders go behind the host",
		"https://{slug}.example":           "Placeholders go behind the host",
	} {
		_, problem := pattern.Address(text)
		assert.Contains(t, problem, says, "%q", text)
	}
	assert.Empty(t, pattern.Folder("static/pictures"))
	assert.Contains(t, pattern.Folder("static/{year}"), "No placeholders")
	assert.Contains(t, pattern.Folder("../x"), "dot")
	assert.Contains(t, pattern.Folder(""), "slashes")
	assert.Contains(t, pattern.Folder(strings.Repeat("a", 300)), "longer")
}

// Whatever is taken as a pattern gives a path that stays below its folder, and another one for another post.
func TestPathsStayWithin(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOfN(rapid.SampledFrom([]rune("ab./\\{}-_ é")), 0, 12, -1).Draw(t, "before") + "{slug}" +
			rapid.SampledFrom([]string{"", "/index", "-{year}", "/{category}", "/../x"}).Draw(t, "after") + ".md"
		p, problem := pattern.Path(text)
		if problem != "" {
			return
		}
		v := pattern.Values{Slug: address.Slug(rapid.String().Draw(t, "slug") + "x"), Category: address.Slug(rapid.String().Draw(t, "category")),
			First: civil.MustDate("2026-03-09")}
		got := p.Of(v)
		if !strings.HasPrefix(path.Join("/root/in", got), "/root/in/") || path.Clean(got) != got || strings.ContainsAny(got, "\\{} \x00") {
			t.Fatalf("%q gives %q", text, got)
		}
		other := v
		other.Slug += "y"
		if p.Of(other) == got {
			t.Fatalf("%q gives %q for two posts", text, got)
		}
	})
}
