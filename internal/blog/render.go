package blog

import (
	"bytes"
	"fmt"
	"html/template"
	"slices"
	"strings"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/renderer/html"
	nethtml "golang.org/x/net/html"
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
	return template.HTML(r.policy.SanitizeBytes(r.raw(markdown))) //nolint:gosec // sanitised here
}

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
