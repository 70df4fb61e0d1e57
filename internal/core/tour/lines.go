package tour

import (
	"cmp"
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/rivo/uniseg"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"

	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/markdown"
)

// Line is a sentence of a post that a stop may be built on.
type Line struct {
	Text  string
	Score int    // the higher, the better it stands alone
	Why   string // what speaks against it most; "": nothing does
	Place int    // its number among the sentences of the post, from 0
}

// Good is the score from which a sentence stands well alone.
const Good = 50

// MostLines is how many sentences of a post are looked at.
const MostLines = 1000

// Lines ranks the sentences of a Markdown text (CommonMark, with tables) by how well they stand alone: the best first. Sentences
// are those of Unicode Standard Annex 29, so of any language; what is said of pronouns and joining words is known for English only.
//
// Every sentence begins with 50 points. Length counts most: 60 to 160 characters are best, less than 25 or more than 280 worst. Points are
// lost by a beginning that points back ("It", "This", "However"), by words that refer to the page ("above", "the following"),
// by an end that is none, by an open bracket or quotation, and by the echo of a heading. Points are won by numbers, names and the
// post's own terms, and by a place at its beginning or end. Of sentences that say nearly the same, all but the best come last.
//
// The same text gives the same lines. It fails as markdown.Parse does, where a text is too involved or nobody waits any more.
func Lines(title, text string, tags []string, ended func() error) ([]Line, error) {
	source := []byte(text)
	doc, err := markdown.Parse(goldmark.New(goldmark.WithExtensions(extension.Table, markdown.Budgeted{})), source, ended)
	if err != nil {
		return nil, err
	}
	r := reader{source: source}
	r.blocks(doc)
	r.headings = append(r.headings, title)
	found := r.sentences()
	j := judgeOf(r.headings, tags)
	for i := range found {
		j.score(&found[i], len(found))
	}
	lines := ranked(found)
	return lines, nil
}

// sentence is a sentence and where it stands.
type sentence struct {
	Line
	opens  bool // it begins its paragraph
	ofList bool
	words  []string // folded
}

// reader takes the running text out of a document.
type reader struct {
	source   []byte
	headings []string
	running  []paragraph
}

type paragraph struct {
	text   string
	ofList bool
}

func (r *reader) blocks(doc ast.Node) {
	_ = ast.Walk(doc, func(n ast.Node, entering bool) (ast.WalkStatus, error) { // nothing here fails
		if !entering {
			return ast.WalkContinue, nil
		}
		switch n := n.(type) {
		case *ast.Heading:
			r.headings = append(r.headings, r.plain(n))
			return ast.WalkSkipChildren, nil
		case *ast.Paragraph, *ast.TextBlock:
			_, ofList := n.Parent().(*ast.ListItem)
			if text := r.plain(n); text != "" {
				r.running = append(r.running, paragraph{text, ofList})
			}
			return ast.WalkSkipChildren, nil
		case *ast.FencedCodeBlock, *ast.CodeBlock, *ast.HTMLBlock:
			return ast.WalkSkipChildren, nil
		}
		if n.Kind().String() == "Table" {
			return ast.WalkSkipChildren, nil
		}
		return ast.WalkContinue, nil
	})
}

// plain is the text of a block as it is read: pictures and raw HTML are left out.
func (r *reader) plain(block ast.Node) string {
	var out strings.Builder
	_ = ast.Walk(block, func(n ast.Node, entering bool) (ast.WalkStatus, error) { // nothing here fails
		switch n := n.(type) {
		case *ast.Image, *ast.RawHTML:
			return ast.WalkSkipChildren, nil
		case *ast.AutoLink:
			if entering {
				out.Write(n.Label(r.source))
			}
			return ast.WalkSkipChildren, nil
		case *ast.String:
			if entering {
				out.Write(n.Value)
			}
		case *ast.Text:
			if entering {
				out.Write(n.Value(r.source))
				if n.SoftLineBreak() || n.HardLineBreak() {
					out.WriteByte(' ')
				}
			}
		}
		return ast.WalkContinue, nil
	})
	return strings.ToValidUTF8(strings.Join(strings.Fields(out.String()), " "), "")
}

// sentences parts the running text, paragraph by paragraph.
func (r *reader) sentences() []sentence {
	var found []sentence
	for _, p := range r.running {
		opens := true
		for _, text := range parted(p.text) {
			if len(found) == MostLines {
				return found
			}
			s := sentence{Line: Line{Text: text, Place: len(found)}, opens: opens, ofList: p.ofList, words: wordsOf(text)}
			opens = false
			if len(s.words) > 0 {
				found = append(found, s)
			}
		}
	}
	return found
}

// titles end with a full stop without ending a sentence.
var titles = []string{"Dr.", "Mr.", "Mrs.", "Ms.", "St.", "Prof.", "No.", "Fig.", "vs.", "approx.", "e.g.", "i.e.", "c.", "ca.", "Jr.", "Sr."}

// parted are the sentences of a paragraph (Unicode Standard Annex 29); one that ends with a title goes on with the next.
func parted(text string) (all []string) {
	var open string
	state := -1
	for text != "" {
		var one string
		one, text, state = uniseg.FirstSentenceInString(text, state)
		open += one
		said := strings.TrimSpace(open)
		last := said[strings.LastIndexByte(said, ' ')+1:]
		if text != "" && (slices.Contains(titles, last) || isInitial(last)) {
			continue
		}
		if said != "" {
			all = append(all, said)
		}
		open = ""
	}
	return all
}

// isInitial tells whether a word is a capital with a full stop, as in "J. Smith".
func isInitial(word string) bool {
	r, size := utf8.DecodeRuneInString(word)
	return unicode.IsUpper(r) && word[size:] == "." && r != 'I'
}

// wordsOf are the words of a text, folded.
func wordsOf(text string) []string {
	return strings.FieldsFunc(letters.Fold(text), func(r rune) bool {
		return !unicode.IsLetter(r) && !unicode.IsDigit(r) && r != '\'' && r != '’'
	})
}

// ranked orders sentences, the best first, after setting back those that repeat a better one.
func ranked(found []sentence) []Line {
	byScore := func(a, b sentence) int { return cmp.Or(cmp.Compare(b.Score, a.Score), cmp.Compare(a.Place, b.Place)) }
	slices.SortStableFunc(found, byScore)
	numbers := make(map[string]int)
	sets := make([][]int, len(found))
	for i, s := range found {
		for _, w := range s.words {
			n, known := numbers[w]
			if !known {
				n = len(numbers)
				numbers[w] = n
			}
			sets[i] = append(sets[i], n)
		}
		slices.Sort(sets[i])
		sets[i] = slices.Compact(sets[i])
	}
	for i := range found {
		for j := range i {
			if alike(sets[j], sets[i]) {
				found[i].Score = min(found[i].Score, 0)
				found[i].Why = "it says nearly the same as another"
				break
			}
		}
	}
	slices.SortStableFunc(found, byScore)
	lines := make([]Line, len(found))
	for i, s := range found {
		lines[i] = s.Line
	}
	return lines
}

// alike tells whether two sets of words, in order, have at least three fifths of all their words in common.
func alike(a, b []int) bool {
	if len(a)*5 < len(b)*3 || len(b)*5 < len(a)*3 {
		return false
	}
	common := 0
	for i, j := 0, 0; i < len(a) && j < len(b); {
		switch {
		case a[i] < b[j]:
			i++
		case a[i] > b[j]:
			j++
		default:
			common, i, j = common+1, i+1, j+1
		}
	}
	return common*5 >= (len(a)+len(b)-common)*3
}
