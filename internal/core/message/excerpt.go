package message

import (
	"strings"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/text"
)

// excerptLength is about how long an excerpt is that is taken from a text, in bytes.
const excerptLength = 300

// ExcerptOf is the beginning of a Markdown text (CommonMark) in plain words: whole
// paragraphs, or sentences, or words, as many as come to about 300 characters.
func ExcerptOf(markdown string) string {
	source := []byte(markdown[:min(len(markdown), 4*excerptLength)])
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
				if out.Len() > excerptLength/2 {
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
	if len(plain) <= excerptLength {
		return plain
	}
	end := 0
	for i := range plain[:excerptLength] {
		if c := plain[i]; (c == '.' || c == '?' || c == '!') && isSpace(plain[i+1]) {
			end = i + 1
		}
	}
	if end > 0 {
		return plain[:end]
	}
	if i := strings.LastIndexByte(plain[:excerptLength], ' '); i > 0 {
		return plain[:i] + ellipsis
	}
	return plain
}
