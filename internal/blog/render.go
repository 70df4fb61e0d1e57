package blog

import (
	"bytes"
	"fmt"
	"html/template"
	"slices"
	"strconv"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/renderer/html"
	nethtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"dapper.example/internal/core/picture"
)

// Renderer turns the Markdown of posts into HTML that is safe to show. It is safe
// for concurrent use.
type Renderer struct {
	markdown goldmark.Markdown
	policy   *bluemonday.Policy
}

// NewRenderer returns a renderer for CommonMark 0.31 with tables, strike-through,
// task lists, autolinks, footnotes and typographic quotes. HTML in the Markdown is
// kept as far as it is harmless.
func NewRenderer() *Renderer {
	policy := bluemonday.UGCPolicy()
	policy.RequireNoFollowOnLinks(false)
	policy.AllowAttrs("class").Matching(bluemonday.SpaceSeparatedTokens).OnElements("div", "sup", "a", "li", "section")
	policy.AllowAttrs("type", "checked", "disabled").OnElements("input")
	return &Renderer{
		markdown: goldmark.New(
			goldmark.WithExtensions(extension.GFM, extension.Footnote, extension.Typographer),
			goldmark.WithParserOptions(parser.WithAutoHeadingID()),
			goldmark.WithRendererOptions(html.WithUnsafe()), // the policy below sees to safety
		),
		policy: policy,
	}
}

// HTML returns the Markdown as safe HTML.
func (r *Renderer) HTML(markdown string) template.HTML {
	return template.HTML(withPictures(r.policy.SanitizeBytes(r.raw(markdown)))) //nolint:gosec // sanitised here
}

// withPictures has browsers choose among the widths of our own pictures, keep their
// places free and fetch them when they are near.
func withPictures(fragment []byte) []byte {
	if !bytes.Contains(fragment, []byte("<img")) {
		return fragment
	}
	var out bytes.Buffer
	z := nethtml.NewTokenizer(bytes.NewReader(fragment))
	for {
		switch z.Next() {
		case nethtml.ErrorToken:
			return out.Bytes()
		case nethtml.StartTagToken, nethtml.SelfClosingTagToken:
			raw := bytes.Clone(z.Raw())
			if token := z.Token(); token.DataAtom == atom.Img {
				out.WriteString(imageOf(token).String())
				continue
			}
			out.Write(raw)
		default:
			out.Write(z.Raw())
		}
	}
}

// textWidth is how wide the text of a post is at most, for choosing a picture's width.
const textWidth = "(max-width: 44rem) 100vw, 44rem"

func imageOf(token nethtml.Token) nethtml.Token {
	set := func(name, value string) {
		for i, a := range token.Attr {
			if a.Key == name {
				token.Attr[i].Val = value
				return
			}
		}
		token.Attr = append(token.Attr, nethtml.Attribute{Key: name, Val: value})
	}
	set("loading", "lazy")
	for _, a := range token.Attr {
		if a.Key != "src" {
			continue
		}
		if srcset, width, height, ours := picture.Set(a.Val); ours {
			set("srcset", srcset)
			set("sizes", textWidth)
			set("width", strconv.Itoa(width))
			set("height", strconv.Itoa(height))
		}
		break
	}
	return token
}

// Words counts the words of a text, as the database does.
func Words(text string) int { return len(strings.Fields(text)) }

// wordsAMinute is how fast people read.
const wordsAMinute = 230

// Minutes is how long so many words take to read, in whole minutes, 1 at least.
func Minutes(words int) int { return max(1, (words+wordsAMinute/2)/wordsAMinute) }

func (r *Renderer) raw(markdown string) []byte {
	var out bytes.Buffer
	if err := r.markdown.Convert([]byte(markdown), &out); err != nil {
		// Writing to a buffer does not fail, and CommonMark has no wrong documents.
		panic(fmt.Sprintf("rendering Markdown: %v", err))
	}
	return out.Bytes()
}

// Removed lists what HTML would not show of the Markdown, such as "<script>" or
// "onclick on <a>", sorted and each once.
func (r *Renderer) Removed(markdown string) []string {
	raw := r.raw(markdown)
	before, after := marks(raw), marks(r.policy.SanitizeBytes(raw))
	var removed []string
	for mark, n := range before {
		if after[mark] < n {
			removed = append(removed, mark)
		}
	}
	slices.Sort(removed)
	return removed
}

// marks counts the elements of an HTML fragment, and the scripts hidden in their
// attributes.
func marks(fragment []byte) map[string]int {
	counts := make(map[string]int)
	z := nethtml.NewTokenizer(bytes.NewReader(fragment))
	for {
		switch z.Next() {
		case nethtml.ErrorToken:
			return counts
		case nethtml.StartTagToken, nethtml.SelfClosingTagToken:
			token := z.Token()
			counts["<"+token.Data+">"]++
			for _, a := range token.Attr {
				value := strings.ToLower(strings.TrimSpace(a.Val))
				if strings.HasPrefix(a.Key, "on") || strings.HasPrefix(value, "javascript:") {
					counts[a.Key+" on <"+token.Data+">"]++
				}
			}
		}
	}
}
