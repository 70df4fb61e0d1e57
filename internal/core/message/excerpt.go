package message

import (
	"sort"
	"strings"
	"unicode/utf8"

	"github.com/rivo/uniseg"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/text"
)

// excerptLength is how long an excerpt is at most that is taken from a text, in graphemes.
const excerptLength = 300

// OpeningLength is how much of a text an excerpt is taken from, in characters (Unicode
// code points): the rest of the text makes no difference to it.
const OpeningLength = 1200

// opening is the part of a text that an excerpt is taken from.
func opening(text string) string {
	n := 0
	for i := range text {
		if n++; n > OpeningLength {
			return text[:i]
		}
	}
	return text
}

// ExcerptOf is the beginning of a Markdown text (CommonMark) in plain words: whole
// paragraphs, or sentences, or words, as many as come to about 300 characters.
func ExcerptOf(markdown string) string {
	source := []byte(opening(markdown))
	var out strings.Builder
	mute := false // within a script or a style, whose text nobody reads
	root := goldmark.DefaultParser().Parse(text.NewReader(source))
	ast.Walk(root, func(n ast.Node, entering bool) (ast.WalkStatus, error) {
		switch n := n.(type) {
		case *ast.RawHTML:
			if entering {
				tag := strings.ToLower(string(n.Segments.Value(source)))
				mute = strings.HasPrefix(tag, "<script") || strings.HasPrefix(tag, "<style")
			}
			return ast.WalkSkipChildren, nil
		case *ast.Heading, *ast.Image, *ast.FencedCodeBlock, *ast.CodeBlock, *ast.HTMLBlock:
			return ast.WalkSkipChildren, nil
		case *ast.Paragraph:
			if entering && out.Len() > 0 {
				if utf8.RuneCountInString(out.String()) > excerptLength/2 {
					return ast.WalkStop, nil
				}
				out.WriteByte(' ')
			}
		case *ast.Text:
			if entering && !mute {
				out.Write(n.Segment.Value(source))
				if n.SoftLineBreak() || n.HardLineBreak() {
					out.WriteByte(' ')
				}
			}
		}
		return ast.WalkContinue, nil
	})
	plain := strings.ToValidUTF8(strings.Join(strings.Fields(out.String()), " "), "")
	return beginning(plain)
}

// beginning is as much of a plain text as comes to excerptLength graphemes: whole
// sentences (Unicode Standard Annex 29), or where the first is longer, words.
func beginning(plain string) string {
	if Graphemes(plain) <= excerptLength {
		return plain
	}
	end, length, state := 0, 0, -1
	for rest := plain; rest != ""; {
		var sentence string
		sentence, rest, state = uniseg.FirstSentenceInString(rest, state)
		if length += Graphemes(sentence); length > excerptLength+1 { // the space after it is no part
			break
		}
		end += len(sentence)
	}
	if end > 0 {
		return strings.TrimSpace(plain[:end])
	}
	places := cuts(plain, Links{Schemes: []string{"http", "https"}})
	n := sort.Search(len(places), func(n int) bool { return Graphemes(plain[:places[n]]) >= excerptLength })
	if n == 0 {
		return plain // one address, which is not cut
	}
	return trimmed(plain[:places[n-1]]) + ellipsis
}
