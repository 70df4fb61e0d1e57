package intake

import (
	"bytes"
	"errors"
	"fmt"
	"strconv"
	"strings"

	"github.com/JohannesKaufmann/html-to-markdown/v2/converter"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/base"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/commonmark"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/strikethrough"
	"github.com/JohannesKaufmann/html-to-markdown/v2/plugin/table"
	"github.com/andybalholm/cascadia"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	goldmarkhtml "github.com/yuin/goldmark/renderer/html"
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"dapper.example/internal/core/markdown"
)

// What the HTML of one line may have. An article that somebody has written stays far below.
const (
	maxHTML  = 2 << 20 // bytes
	maxNodes = 60_000
	maxDeep  = 200
	maxSpan  = 20 // columns or rows that a cell of a table goes over
	// maxLook is how much the selectors of a recipe may look at together: nodes, for each step of each selector.
	maxLook = 20_000_000
)

// clean makes the body Markdown without what is not wanted in it.
func (l *line) clean() error {
	body := strings.ReplaceAll(l.post.Body, "\r\n", "\n")
	asked := len(l.selectors) > 0 || l.recipe.StripLinks
	switch {
	case l.from.Format == Plain:
		body = escaped(body)
	case l.from.Format == HTML:
		return l.cleanHTML(body)
	case asked && (strings.Contains(body, "](") || strings.Contains(body, "<") || strings.Contains(body, "://") || strings.Contains(body, "]:")):
		// What is to go is found in the page that the text makes.
		m := goldmark.New(goldmark.WithExtensions(extension.GFM, extension.Footnote, markdown.Budgeted{}), goldmark.WithRendererOptions(goldmarkhtml.WithUnsafe()))
		page, err := markdown.Convert(m, []byte(body), l.ctx.Err)
		if involved, ok := errors.AsType[*markdown.TooInvolved](err); ok {
			l.leave("%s", involved)
			return nil
		}
		if err != nil {
			return err
		}
		return l.cleanHTML(string(page))
	}
	l.post.Body = withoutBlankEnds(body)
	return nil
}

// withoutBlankEnds is a text without empty lines at its ends; its first line keeps its indentation, which means something.
func withoutBlankEnds(text string) string {
	text = strings.TrimRight(text, " \t\n")
	for {
		first, rest, more := strings.Cut(text, "\n")
		if !more || strings.TrimSpace(first) != "" {
			return text
		}
		text = rest
	}
}

func (l *line) cleanHTML(source string) error {
	if len(source) > maxHTML {
		l.leave("Its HTML has more than %d MB.", maxHTML>>20)
		return nil
	}
	doc, why := ParseHTML(source)
	if why != "" {
		l.leave("%s", why)
		return nil
	}
	if err := l.remove(doc); err != nil || l.out.Left != "" {
		return err
	}
	if err := l.ctx.Err(); err != nil {
		return err
	}
	text, err := toMarkdown(doc)
	if err != nil {
		l.leave("Its HTML can't be made Markdown: %s.", err)
		return nil
	}
	l.post.Body = text
	return nil
}

// ParseHTML reads HTML within limits; why says, in a sentence, what is too much of it.
func ParseHTML(source string) (doc *html.Node, why string) {
	z, depth, nodes := html.NewTokenizer(strings.NewReader(source)), 0, 0
	for {
		kind := z.Next()
		if kind == html.ErrorToken {
			break
		}
		if nodes++; nodes > maxNodes {
			return nil, fmt.Sprintf("Its HTML has more than %d elements.", maxNodes)
		}
		switch kind {
		case html.StartTagToken:
			if name, _ := z.TagName(); !void[atom.Lookup(name)] {
				depth++
			}
		case html.EndTagToken:
			depth = max(depth-1, 0)
		}
		if depth > 4*maxDeep {
			return nil, "Its HTML is nested too deeply."
		}
	}
	doc, err := html.Parse(strings.NewReader(source))
	if err != nil {
		return nil, fmt.Sprintf("Its HTML can't be read: %s.", err)
	}
	if deepest(doc) > maxDeep {
		return nil, fmt.Sprintf("Its HTML is nested more than %d deep.", maxDeep)
	}
	return doc, ""
}

// void are elements without an end (HTML Living Standard, 13.1.2), and those whose end is often not written.
var void = map[atom.Atom]bool{atom.Area: true, atom.Base: true, atom.Br: true, atom.Col: true, atom.Embed: true, atom.Hr: true, atom.Img: true, atom.Input: true,
	atom.Link: true, atom.Meta: true, atom.Source: true, atom.Track: true, atom.Wbr: true, atom.P: true, atom.Li: true, atom.Td: true, atom.Th: true, atom.Tr: true,
	atom.Dt: true, atom.Dd: true, atom.Option: true}

// deepest is how deep the nodes of a document lie in one another.
func deepest(doc *html.Node) int {
	most := 0
	for n, depth := doc, 1; n != nil; {
		most = max(most, depth)
		switch {
		case n.FirstChild != nil:
			n, depth = n.FirstChild, depth+1
			continue
		case n == doc:
			return most
		}
		for n != doc && n.NextSibling == nil {
			n, depth = n.Parent, depth-1
		}
		if n == doc {
			return most
		}
		n = n.NextSibling
	}
	return most
}

// remove takes out of a document what the recipe says, and what no post has.
func (l *line) remove(doc *html.Node) error {
	var all []*html.Node
	for n := range doc.Descendants() {
		all = append(all, n)
	}
	look := 0
	for i, sel := range l.selectors {
		look += len(all) * (1 + strings.Count(l.recipe.Remove[i], " ") + 8*strings.Count(l.recipe.Remove[i], ":"))
		if look > maxLook {
			l.leave("It is too long for so many selectors. Take some out.")
			return nil
		}
		for _, n := range cascadia.QueryAll(doc, sel) {
			if n.Parent != nil {
				n.Parent.RemoveChild(n)
			}
		}
		if err := l.ctx.Err(); err != nil {
			return err
		}
	}
	for _, n := range all {
		if n.Type == html.CommentNode || n.Type == html.ElementNode && never[n.DataAtom] {
			if n.Parent != nil {
				n.Parent.RemoveChild(n)
			}
			continue
		}
		for i, a := range n.Attr {
			if wide, err := strconv.Atoi(a.Val); (a.Key == "colspan" || a.Key == "rowspan") && (err != nil || wide < 1 || wide > maxSpan) {
				n.Attr[i].Val = "1"
			}
		}
		if l.recipe.StripLinks && n.Type == html.ElementNode && n.DataAtom == atom.A {
			unwrap(n)
		}
	}
	return nil
}

// never are elements that no post has.
var never = map[atom.Atom]bool{atom.Script: true, atom.Style: true, atom.Noscript: true, atom.Template: true, atom.Form: true, atom.Object: true, atom.Embed: true,
	atom.Head: true}

// unwrap puts what an element holds in its place.
func unwrap(n *html.Node) {
	parent := n.Parent
	if parent == nil {
		return
	}
	for c := n.FirstChild; c != nil; c = n.FirstChild {
		n.RemoveChild(c)
		parent.InsertBefore(c, n)
	}
	parent.RemoveChild(n)
}

func toMarkdown(doc *html.Node) (string, error) {
	c := converter.NewConverter(converter.WithPlugins(base.NewBasePlugin(), commonmark.NewCommonmarkPlugin(), table.NewTablePlugin(), strikethrough.NewStrikethroughPlugin()))
	text, err := c.ConvertNode(doc)
	return string(bytes.TrimSpace(text)), err
}

// escaped is plain text as Markdown that says just it.
func escaped(text string) string {
	lines := strings.Split(text, "\n")
	for i, line := range lines {
		line = strings.TrimRight(inWords.Replace(line), " \t")
		trimmed := strings.TrimLeft(line, " \t")
		if n := atStart(trimmed); n >= 0 {
			trimmed = trimmed[:n] + `\` + trimmed[n:]
		}
		lines[i] = trimmed
	}
	return strings.Join(lines, "\n")
}

// inWords are marks of Markdown anywhere in a line.
var inWords = strings.NewReplacer(`\`, `\\`, "`", "\\`", "*", `\*`, "_", `\_`, "[", `\[`, "]", `\]`, "<", `\<`, "~~", `\~\~`, "|", `\|`)

// atStart is where, in a line, a mark stands that would begin a heading, a list, a quotation or a rule; -1: nowhere.
func atStart(line string) int {
	if line == "" {
		return -1
	}
	if strings.IndexByte("#>+-=", line[0]) >= 0 {
		return 0
	}
	digits := len(line) - len(strings.TrimLeft(line, "0123456789"))
	if digits > 0 && digits < len(line) && (line[digits] == '.' || line[digits] == ')') {
		return digits
	}
	return -1
}
