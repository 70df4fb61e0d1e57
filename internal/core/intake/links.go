package intake

import (
	"bytes"
	"errors"
	"iter"
	"slices"
	"strings"

	"github.com/yuin/goldmark/ast"

	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/markdown"
)

// parsed returns what the body consists of; nil where it is too involved, and the line is left out.
func (l *line) parsed(body []byte) (ast.Node, error) {
	doc, err := markdown.Parse(l.markdown, body, l.ctx.Err)
	if involved, ok := errors.AsType[*markdown.TooInvolved](err); ok {
		l.leave("%s", involved)
		return nil, nil
	}
	return doc, err
}

// link makes words house links: each the first so many times that it stands in the text, never within a link, a heading or code.
func (l *line) link() error {
	if len(l.links) == 0 || l.post.Body == "" {
		return nil
	}
	body := []byte(l.post.Body)
	doc, err := l.parsed(body)
	if doc == nil {
		return err
	}
	var spans []span
	for _, s := range textSpans(doc, body) {
		spans = append(spans, spanOf(l.post.Body, s[0], s[1]))
	}
	ends := make(map[int]int) // of new links, by where they begin
	to := make(map[int]string)
	taken := make([]bool, len(body))
	for i, link := range l.links {
		want := letters.Fold(link.Word)
		left := link.Most
		for _, s := range spans {
			if left == 0 {
				break
			}
			for at := range s.occurrences(want) {
				if left == 0 {
					break
				}
				if !slices.Contains(taken[at[0]:at[1]], true) {
					ends[at[0]], to[at[0]] = at[1], link.Address
					for k := at[0]; k < at[1]; k++ {
						taken[k] = true
					}
					left--
				}
			}
		}
		if err := l.ctx.Err(); i%16 == 0 && err != nil {
			return err
		}
	}
	if len(ends) == 0 {
		return nil
	}
	var out bytes.Buffer
	for i := 0; i < len(body); {
		end, linked := ends[i]
		if !linked {
			out.WriteByte(body[i])
			i++
			continue
		}
		out.WriteByte('[')
		out.Write(body[i:end])
		out.WriteString("](" + addressEscaper.Replace(to[i]) + ")")
		i = end
	}
	l.post.Body = out.String()
	return nil
}

// addressEscaper writes an address so that it ends no link.
var addressEscaper = strings.NewReplacer("(", "%28", ")", "%29")

// textSpans are the stretches of a text that are words of its own: not of links, headings, code, pictures or HTML.
func textSpans(doc ast.Node, source []byte) (spans [][2]int) {
	anchor := false // within <a> that was written as HTML
	_ = ast.Walk(doc, func(n ast.Node, entering bool) (ast.WalkStatus, error) {
		if !entering {
			return ast.WalkContinue, nil
		}
		switch n := n.(type) {
		case *ast.Link, *ast.AutoLink, *ast.Image, *ast.Heading, *ast.CodeSpan, *ast.CodeBlock, *ast.FencedCodeBlock, *ast.HTMLBlock:
			return ast.WalkSkipChildren, nil
		case *ast.RawHTML:
			tag := strings.ToLower(string(n.Segments.Value(source)))
			switch {
			case strings.HasPrefix(tag, "<a ") || strings.HasPrefix(tag, "<a>"):
				anchor = true
			case strings.HasPrefix(tag, "</a"):
				anchor = false
			}
			return ast.WalkSkipChildren, nil
		case *ast.Text:
			if !anchor {
				spans = append(spans, [2]int{n.Segment.Start, n.Segment.Stop})
			}
		default:
			if n.Type() == ast.TypeBlock {
				anchor = false
			}
		}
		return ast.WalkContinue, nil
	})
	return joined(spans)
}

// joined puts stretches together that touch: the parser parts words at marks that mean nothing.
func joined(spans [][2]int) (all [][2]int) {
	for _, s := range spans {
		if last := len(all) - 1; last >= 0 && all[last][1] == s[0] {
			all[last][1] = s[1]
			continue
		}
		all = append(all, s)
	}
	return all
}

// span is a stretch of a text, with its letters folded.
type span struct {
	text   string // all of it
	folded string
	places []int // where each byte of folded begins in the text; -1 within a letter
	begins []int // the places of folded at which a word may begin
}

// spanOf folds a stretch letter by letter.
func spanOf(text string, from, to int) span {
	s := span{text: text, places: make([]int, 0, to-from+1)}
	var out strings.Builder
	for i, r := range text[from:to] {
		one := letters.Fold(string(r))
		out.WriteString(one)
		for n := range len(one) {
			if n == 0 {
				s.places = append(s.places, from+i)
			} else {
				s.places = append(s.places, -1)
			}
		}
	}
	s.folded, s.places = out.String(), append(s.places, to)
	for i, place := range s.places[:len(s.places)-1] {
		if place >= 0 && letters.IsBorder(text, place) {
			s.begins = append(s.begins, i)
		}
	}
	return s
}

// occurrences yields where a folded word stands as a whole word: from and to in the text.
func (s span) occurrences(want string) iter.Seq[[2]int] {
	return func(yield func([2]int) bool) {
		from := 0
		for _, at := range s.begins {
			if at < from || !strings.HasPrefix(s.folded[at:], want) {
				continue
			}
			stop := s.places[at+len(want)]
			if stop < 0 || !letters.IsBorder(s.text, stop) {
				continue
			}
			if from = at + len(want); !yield([2]int{s.places[at], stop}) {
				return
			}
		}
	}
}
