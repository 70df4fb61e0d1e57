// Package markdown parses the Markdown of posts (CommonMark 0.31 with GitHub's tables, task lists, strike-through and autolinks,
// footnotes) within a budget of work, whatever the text holds. It is pure.
package markdown

import (
	"bytes"
	"fmt"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"
	"github.com/yuin/goldmark/util"
)

// TooInvolved says that a text takes more work to lay out than a text may, and where.
type TooInvolved struct {
	Line int // of the text, from 1
	Why  string
}

// Error says so in a sentence for whoever wrote it.
func (t *TooInvolved) Error() string {
	return fmt.Sprintf("The text can’t be laid out: %s, at line %d. Shorten or split it there.", t.Why, t.Line)
}

// What one text may take. A text of a megabyte that somebody has written stays far below
// each of these; they are reached by text that was made to be costly.
const (
	// maxWork is the work of finding marks in lines, in steps of a few nanoseconds: for each
	// mark those before it in its paragraph, with which it may pair, and how far it is to be
	// looked for its end.
	maxWork = 20_000_000
	// maxMarks is how many marks (brackets, asterisks, quotes and so on) a text may have.
	maxMarks = 200_000
	// maxBlocks is how many lines may begin a paragraph, a list or another block.
	maxBlocks = 60_000
	// maxDepth is how deep quotes and lists may lie in one another.
	maxDepth = 60
	// maxCells is how many cells the tables of a text may have.
	maxCells = 40_000
	// maxAddresses is how many words may look like an address.
	maxAddresses = 20_000
	// maxReferences is how many addresses may be given for links to refer to.
	maxReferences = 5_000
	// maxTag is the longest tag of HTML, in bytes.
	maxTag = 16 << 10
	// outFactor and outSpare say how much longer than its text a page may be, in bytes.
	outFactor = 8
	outSpare  = 256 << 10
	// askEvery is after how many marks or blocks it asks whether anybody still waits.
	askEvery = 256
)

// within does work on a text, and fails with *TooInvolved where it takes too much, or with why nobody waits for it any more.
// goldmark's parsers and renderers return no errors, so a panic is the only way out of them.
func within(source []byte, ended func() error, do func(*work, parser.Context)) (err error) {
	defer func() {
		switch p := recover().(type) {
		case nil:
		case *TooInvolved:
			err = p
		case stopped:
			err = p.error
		default:
			panic(p)
		}
	}()
	w := &work{ended: ended, source: source}
	w.glance()
	pc := parser.NewContext(parser.WithIDs(&names{make(map[string]bool), make(map[string]int)}))
	pc.Set(workKey, w)
	do(w, pc)
	return nil
}

// Convert lays a text out as HTML with a Markdown that is Budgeted. It fails with *TooInvolved, or with what ended says once
// nobody waits for it any more.
func Convert(m goldmark.Markdown, source []byte, ended func() error) (html []byte, err error) {
	err = within(source, ended, func(w *work, pc parser.Context) {
		out := &pageWriter{w: w, most: outFactor*len(source) + outSpare}
		if err := m.Convert(source, out, parser.WithContext(pc)); err != nil {
			// Writing to a buffer does not fail, and CommonMark has no wrong documents.
			panic(fmt.Sprintf("rendering Markdown: %v", err))
		}
		html = out.Bytes()
	})
	return html, err
}

// Parse returns what a text consists of, by a Markdown that is Budgeted. It fails as Convert does.
func Parse(m goldmark.Markdown, source []byte, ended func() error) (doc ast.Node, err error) {
	err = within(source, ended, func(_ *work, pc parser.Context) {
		doc = m.Parser().Parse(text.NewReader(source), parser.WithContext(pc))
	})
	return doc, err
}

// work is what the laying out of one text has taken so far.
type work struct {
	ended  func() error // why nobody waits for it any more; nil: somebody does
	source []byte

	steps, marks, blocks, cells int

	paragraph ast.Node // in which marks are counted
	inIt      int
}

var workKey = parser.NewContextKey()

// stopped ends work whose request has ended.
type stopped struct{ error }

func workOf(pc parser.Context) *work {
	w, _ := pc.Get(workKey).(*work)
	return w
}

// refuse ends the work; within catches it.
func (w *work) refuse(at int, format string, args ...any) {
	panic(&TooInvolved{1 + bytes.Count(w.source[:min(max(at, 0), len(w.source))], []byte("\n")),
		fmt.Sprintf(format, args...)})
}

func (w *work) ask(n int) {
	if n%askEvery == 0 {
		if err := w.ended(); err != nil {
			panic(stopped{err})
		}
	}
}

// glance looks for what the counters do not see: words that look like addresses, and tags
// of HTML that are very long.
func (w *work) glance() {
	w.few(maxAddresses, "addresses", "@", "://", "www.")
	w.few(maxReferences, "references", "]:")
	tag := -1
	for i, c := range w.source {
		switch {
		case c == '<' && tag < 0:
			tag = i
		case c == '>', c == '\n' && i > 0 && w.source[i-1] == '\n':
			tag = -1
		case tag >= 0 && i-tag > maxTag && c == '=':
			w.refuse(tag, "a tag of HTML has more than %d kB", maxTag>>10)
		}
	}
}

// few refuses a text that has more of some marks than it may.
func (w *work) few(most int, what string, marks ...string) {
	n := 0
	for _, mark := range marks {
		for at := 0; ; {
			i := bytes.Index(w.source[at:], []byte(mark))
			if i < 0 {
				break
			}
			at += i + len(mark)
			if n++; n > most {
				w.refuse(at, "there are more than %d %s", most, what)
			}
		}
	}
}

// names gives headings their ids: their letters and digits, and where they have been used a
// number behind them.
type names struct {
	used map[string]bool
	last map[string]int // by name: the number used last
}

// Generate returns an id that has not been used.
func (n *names) Generate(value []byte, kind ast.NodeKind) []byte {
	var id []byte
	for _, c := range bytes.TrimSpace(value) {
		switch {
		case 'A' <= c && c <= 'Z':
			id = append(id, c+'a'-'A')
		case 'a' <= c && c <= 'z', '0' <= c && c <= '9':
			id = append(id, c)
		case c == ' ' || c == '\t' || c == '\n' || c == '\r' || c == '-' || c == '_':
			id = append(id, '-')
		}
	}
	if len(id) == 0 {
		id = []byte("id")
		if kind == ast.KindHeading {
			id = []byte("heading")
		}
	}
	base := string(id)
	for name := base; ; name = fmt.Sprintf("%s-%d", base, n.last[base]) {
		if !n.used[name] {
			n.used[name] = true
			return []byte(name)
		}
		n.last[base]++
	}
}

// Put notes an id that the text gives itself.
func (n *names) Put(value []byte) { n.used[string(value)] = true }

// Budgeted has goldmark count what it does, for Convert and Parse.
type Budgeted struct{}

// Extend adds the counters before all other parsers.
func (Budgeted) Extend(m goldmark.Markdown) {
	m.Parser().AddOptions(
		parser.WithInlineParsers(util.Prioritized(markCounter{}, -1)),
		parser.WithBlockParsers(util.Prioritized(blockCounter{}, -1)),
		parser.WithParagraphTransformers(util.Prioritized(cellCounter{}, -1)),
	)
}

// markCounter counts the characters that may begin or end something within a line.
type markCounter struct{}

// Trigger lists them.
func (markCounter) Trigger() []byte { return []byte("!\"'*_[]~<`&:(") }

// Parse counts and parses nothing.
func (markCounter) Parse(parent ast.Node, block text.Reader, pc parser.Context) ast.Node {
	w := workOf(pc)
	if w == nil {
		return nil
	}
	if parent != w.paragraph {
		w.paragraph, w.inIt = parent, 0
	}
	line, segment := block.PeekLine()
	rest := len(line)
	if parent.Type() == ast.TypeBlock {
		if lines := parent.Lines(); lines != nil && lines.Len() > 0 {
			rest = max(rest, lines.At(lines.Len()-1).Stop-segment.Start)
		}
	}
	w.inIt++
	w.marks++
	w.steps += w.inIt + rest/64 + run(line)
	if line[0] == '`' {
		w.steps += rest / 8 // all of the rest is searched for as many
	}
	w.ask(w.marks)
	switch {
	case w.marks > maxMarks:
		w.refuse(segment.Start, "there are more than %d brackets, asterisks, quotes and other marks", maxMarks)
	case w.steps > maxWork:
		w.refuse(segment.Start, "too many brackets, asterisks, quotes and other marks stand in one paragraph")
	}
	return nil
}

// run is how many characters follow one another without a space: how far an address is
// looked for.
func run(line []byte) int {
	if end := bytes.IndexAny(line, " \t\r\n"); end >= 0 {
		return end
	}
	return len(line)
}

// blockCounter counts the lines that may begin a block, and how deep they lie.
type blockCounter struct{}

// Trigger lists all there is, so that it is asked before the others at whatever begins.
func (blockCounter) Trigger() []byte {
	all := make([]byte, 256)
	for i := range all {
		all[i] = byte(i)
	}
	return all
}

// Open counts and opens nothing.
func (blockCounter) Open(parent ast.Node, reader text.Reader, pc parser.Context) (ast.Node, parser.State) {
	w := workOf(pc)
	if w == nil {
		return nil, parser.NoChildren
	}
	_, segment := reader.PeekLine()
	if w.blocks++; w.blocks > maxBlocks {
		w.refuse(segment.Start, "there are more than %d paragraphs, list entries and other blocks", maxBlocks)
	}
	w.ask(w.blocks)
	depth := 0
	for n := parent; n != nil; n = n.Parent() {
		if depth++; depth > maxDepth {
			w.refuse(segment.Start, "quotes and lists lie more than %d deep in one another", maxDepth)
		}
	}
	return nil, parser.NoChildren
}

// Continue is never asked.
func (blockCounter) Continue(ast.Node, text.Reader, parser.Context) parser.State { return parser.Close }

// Close has nothing to do.
func (blockCounter) Close(ast.Node, text.Reader, parser.Context) {}

// CanInterruptParagraph lets lines of paragraphs be counted too.
func (blockCounter) CanInterruptParagraph() bool { return true }

// CanAcceptIndentedLine lets indented lines be counted too.
func (blockCounter) CanAcceptIndentedLine() bool { return true }

// cellCounter counts the cells of tables before they are made: each row gets as many as
// the head has, however short it is.
type cellCounter struct{}

// Transform counts and changes nothing.
func (cellCounter) Transform(node *ast.Paragraph, reader text.Reader, pc parser.Context) {
	w := workOf(pc)
	lines := node.Lines()
	if w == nil || lines.Len() < 2 {
		return
	}
	for i := 1; i < lines.Len(); i++ {
		line := lines.At(i)
		rule := line.Value(reader.Source())
		if len(bytes.Trim(rule, " \t\r\n|:-")) > 0 || !bytes.Contains(rule, []byte("-")) {
			continue
		}
		w.cells += (bytes.Count(rule, []byte("|")) + 1) * (lines.Len() - i + 1)
		if w.cells > maxCells {
			w.refuse(line.Start, "its tables have more than %d cells", maxCells)
		}
		return
	}
}

// page is where the HTML is written, as long as it is not too long.
type pageWriter struct {
	bytes.Buffer
	w    *work
	most int
}

// Write writes, or ends the laying out.
func (p *pageWriter) Write(b []byte) (int, error) {
	if p.Len()+len(b) > p.most {
		p.w.refuse(longestLine(p.w.source), "it would come to a page of more than %d kB, by what is repeated in it",
			p.most>>10)
	}
	p.w.ask(0)
	return p.Buffer.Write(b)
}

// longestLine is where the longest line of a text begins.
func longestLine(source []byte) int {
	at, longest, from := 0, 0, 0
	for i := 0; i <= len(source); i++ {
		if i == len(source) || source[i] == '\n' {
			if i-from > longest {
				at, longest = from, i-from
			}
			from = i + 1
		}
	}
	return at
}
