package articles

import (
	"bytes"
	"path"
	"regexp"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"dapper.example/internal/core/intake"
	"dapper.example/internal/intake/charset"
)

// decode reads an article from a file, and says in a sentence why it cannot.
func decode(l *intake.Line, data []byte) (why string) {
	kind := strings.ToLower(path.Ext(l.File))
	switch {
	case kind == ".docx":
		return decodeDocx(l, data)
	case len(bytes.TrimSpace(data)) == 0:
		return "It is empty."
	case isOther(data):
		return "It is no text, though its name says so."
	}
	text, err := charset.Decode(data)
	if err != nil {
		return "Its letters can't be read. Save it in UTF-8."
	}
	if strings.ContainsRune(text, 0) {
		if strings.Count(text, "\x00") > len(text)/100+5 {
			return "It is no text, though its name says so."
		}
		text = strings.ReplaceAll(text, "\x00", "")
		l.Problem = "It held bytes that are no text; they were left out."
	}
	text = strings.ReplaceAll(text, "\r\n", "\n")
	m, body, err := readMatter(text)
	if err != nil {
		return "Its front matter can't be read: " + strings.TrimPrefix(strings.TrimSpace(err.Error()), "yaml: ") + "."
	}
	m.say(l)
	l.Body = body
	switch kind {
	case ".html", ".htm", ".xhtml":
		if why := decodeHTML(l); why != "" {
			return why
		}
	case ".txt", ".text":
		l.Format = intake.Plain
		if l.Title == "" {
			titleOfFirstLine(l)
		}
	default:
		l.Format = intake.Markdown
		if l.Title == "" {
			titleOfHeading(l)
		}
	}
	nameSays(l)
	return ""
}

// isOther tells whether a file is of a kind that is no text, by how it begins.
func isOther(data []byte) bool {
	for _, begin := range []string{"PK\x03\x04", "%PDF-", "\xd0\xcf\x11\xe0", "\x89PNG", "\xff\xd8\xff", "GIF8", "\x1f\x8b", "{\\rtf", "\x7fELF", "MZ\x90"} {
		if bytes.HasPrefix(data, []byte(begin)) {
			return true
		}
	}
	return false
}

// heading finds a heading at the beginning of a Markdown text (CommonMark 0.31, 4.2 and 4.3).
var heading = regexp.MustCompile(`^\s*(?:#[ \t]+([^\n]+?)[ \t]*#*[ \t]*(?:\n|$)|([^\s#>*+\-\d][^\n]*)\n=+[ \t]*(?:\n|$))`)

// laterHeading finds the first heading of any level further on.
var laterHeading = regexp.MustCompile(`(?m)^#{1,6}[ \t]+([^\n]+?)[ \t]*#*[ \t]*$`)

// titleOfHeading takes the title from the first heading. One that the text begins with is no longer of the text.
func titleOfHeading(l *intake.Line) {
	if at := heading.FindStringSubmatchIndex(l.Body); at != nil {
		for _, group := range []int{2, 4} {
			if at[group] >= 0 {
				l.Title = bare(l.Body[at[group]:at[group+1]])
			}
		}
		l.Body = l.Body[at[1]:]
		return
	}
	if found := laterHeading.FindStringSubmatch(l.Body); found != nil {
		l.Title = bare(found[1])
	}
}

// mark finds marks of Markdown in a title: emphasis, code, and links, of which the text stays.
var (
	linkMark = regexp.MustCompile(`!?\[([^\]]*)\]\([^)]*\)`)
	signMark = regexp.MustCompile("[*`]+|~~|(^|[ ])_+|_+([ ]|$)")
)

func bare(title string) string {
	title = linkMark.ReplaceAllString(title, "$1")
	return strings.TrimSpace(signMark.ReplaceAllString(title, "$1$2"))
}

// decodeHTML takes an article out of a page: its own part of it, and what the page's head says.
func decodeHTML(l *intake.Line) (why string) {
	doc, why := intake.ParseHTML(l.Body)
	if why != "" {
		return why
	}
	var title, h1, part *html.Node
	for n := range doc.Descendants() {
		if n.Type != html.ElementNode {
			continue
		}
		switch n.DataAtom {
		case atom.Title:
			title = first(title, n)
		case atom.H1:
			h1 = first(h1, n)
		case atom.Meta:
			meta(l, n)
		case atom.Article:
			if part == nil || part.DataAtom != atom.Article {
				part = n
			}
		case atom.Main, atom.Body:
			if part == nil || part.DataAtom == atom.Body {
				part = n
			}
		}
	}
	switch {
	case l.Title != "":
	case h1 != nil:
		l.Title = textOf(h1)
		h1.Parent.RemoveChild(h1)
	case title != nil:
		l.Title = textOf(title)
	}
	if part == nil {
		part = doc
	}
	var out strings.Builder
	for c := range part.ChildNodes() {
		if err := html.Render(&out, c); err != nil {
			return "Its HTML can't be read."
		}
	}
	l.Body, l.Format = out.String(), intake.HTML
	return ""
}

func first(a, b *html.Node) *html.Node {
	if a != nil {
		return a
	}
	return b
}

// meta reads what a page's head says of it.
func meta(l *intake.Line, n *html.Node) {
	var name, content string
	for _, a := range n.Attr {
		switch a.Key {
		case "name", "property":
			name = strings.ToLower(a.Val)
		case "content":
			content = strings.TrimSpace(a.Val)
		}
	}
	set := func(at *string) {
		if *at == "" {
			*at = content
		}
	}
	switch name {
	case "description", "og:description":
		set(&l.Excerpt)
	case "author":
		set(&l.Author)
	case "keywords":
		if len(l.Tags) == 0 {
			l.Tags = intake.ParseTags(content)
		}
	case "article:published_time", "date":
		set(&l.Date)
	case "og:image":
		set(&l.Picture)
	}
}

// textOf is the text of a node.
func textOf(n *html.Node) string {
	var out strings.Builder
	for c := range n.Descendants() {
		if c.Type == html.TextNode {
			out.WriteString(c.Data)
		}
	}
	return strings.Join(strings.Fields(out.String()), " ")
}

// dated finds a date at the beginning of a file's name.
var dated = regexp.MustCompile(`^(\d{4}-\d{2}-\d{2})[-_ ]?(.*)$`)

// nameSays takes a date and a title from a file's name where nothing else says them.
func nameSays(l *intake.Line) {
	name := strings.TrimSuffix(path.Base(l.File), path.Ext(l.File))
	if found := dated.FindStringSubmatch(name); found != nil {
		if l.Date == "" {
			l.Date = found[1]
		}
		name = found[2]
	}
	if l.Title != "" {
		return
	}
	if strings.EqualFold(name, "index") || name == "" {
		name = path.Base(path.Dir(l.File))
	}
	name = strings.Join(strings.FieldsFunc(name, func(r rune) bool { return r == '-' || r == '_' || unicode.IsSpace(r) }), " ")
	if r, size := utf8.DecodeRuneInString(name); size > 0 && name != "." {
		l.Title = string(unicode.ToUpper(r)) + name[size:]
	}
}

// longestTitle is up to how many characters the first line of a plain text may be its title.
const longestTitle = 120

// titleOfFirstLine takes the title from the first line of a plain text, where it stands by itself.
func titleOfFirstLine(l *intake.Line) {
	text := strings.TrimLeft(l.Body, "\n \t")
	line, rest, more := strings.Cut(text, "\n")
	if line = strings.TrimSpace(line); more && utf8.RuneCountInString(line) <= longestTitle && strings.HasPrefix(rest, "\n") && !strings.HasSuffix(line, ".") {
		l.Title, l.Body = line, rest
	}
}
