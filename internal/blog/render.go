package blog

import (
	"bytes"
	"context"
	"errors"
	"html/template"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/microcosm-cc/bluemonday"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/renderer/html"
	nethtml "golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"dapper.example/internal/budget"
	"dapper.example/internal/core/markdown"
	"dapper.example/internal/picture"
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
			goldmark.WithExtensions(extension.GFM, extension.Footnote, extension.Typographer, markdown.Budgeted{}),
			goldmark.WithParserOptions(parser.WithAutoHeadingID()),
			goldmark.WithRendererOptions(html.WithUnsafe()), // the policy below sees to safety
		),
		policy: policy,
	}
}

// TooInvolved says that a text takes more work to lay out than a text may, and where.
type TooInvolved = markdown.TooInvolved

// Laid is a text as it is shown.
type Laid struct {
	HTML template.HTML // safe to show
	// Removed lists what of the Markdown readers do not see, such as "<script>" or "onclick
	// on <a>", sorted and each once.
	Removed []string
}

// Lay lays a text out for as long as a context lasts. It fails with *TooInvolved for text
// that takes more work than it may, and with budget.ErrBusy where too much is done at once.
func (r *Renderer) Lay(ctx context.Context, markdown string) (Laid, error) {
	raw, release, err := r.raw(ctx, markdown)
	if err != nil {
		return Laid{}, err
	}
	defer release()
	safe := r.policy.SanitizeBytes(raw)
	return Laid{template.HTML(withPictures(safe)), removed(raw, safe)}, nil //nolint:gosec // sanitised here
}

// LayAnyway is Lay for what is shown in any case: text that is too involved comes as it was
// written, with a word about it.
func (r *Renderer) LayAnyway(ctx context.Context, markdown string) (Laid, error) {
	laid, err := r.Lay(ctx, markdown)
	var involved *TooInvolved
	if errors.As(err, &involved) {
		//nolint:gosec // escaped here
		plain := template.HTML(`<p><em>This text is too involved to be laid out. Here it is as it was written.</em></p><pre>` +
			template.HTMLEscapeString(markdown) + `</pre>`)
		return Laid{HTML: plain}, nil
	}
	return laid, err
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

// wordsAMinute is how fast people read.
const wordsAMinute = 230

// Minutes is how long so many words take to read, in whole minutes, 1 at least.
func Minutes(words int) int { return max(1, (words+wordsAMinute/2)/wordsAMinute) }

// layWait is how long a text may wait for its turn.
const layWait = 10 * time.Second

// megabytesOf is about how much memory it takes to lay a text out.
func megabytesOf(markdown string) int64 { return 4 + int64(len(markdown))*120>>20 }

// raw is the HTML of a text before anything is removed from it. What it took of the
// memory is given back by release.
func (r *Renderer) raw(ctx context.Context, text string) (html []byte, release func(), err error) {
	giveBack, err := budget.Take(ctx, megabytesOf(text), layWait)
	if err != nil {
		return nil, nil, err
	}
	laid := false
	defer func() {
		if !laid { // it failed, or panics
			giveBack()
		}
	}()
	if html, err = markdown.Convert(r.markdown, []byte(text), ctx.Err); err != nil {
		return nil, nil, err
	}
	laid = true
	return html, giveBack, nil
}

// removed lists what one fragment has and the other has not.
func removed(raw, safe []byte) []string {
	before, after := marks(raw), marks(safe)
	var removed []string
	for mark, n := range before {
		if after[mark] < n {
			removed = append(removed, clipped(mark))
		}
	}
	slices.Sort(removed)
	return removed[:min(len(removed), mostRemoved)]
}

const (
	// mostRemoved is how many kinds of what is removed are told of.
	mostRemoved = 50
	longestMark = 80
)

func clipped(mark string) string {
	if len(mark) > longestMark {
		return strings.ToValidUTF8(mark[:longestMark], "") + "…"
	}
	return mark
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
