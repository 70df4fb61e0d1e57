package condition

import (
	"slices"
	"time"

	"dapper.example/internal/core/civil"
)

// Sieve finds the posts of Columns that at least one of some conditions catches. It says what Catches says of each post, but
// where it cannot know: of texts, and of clicks that nobody counted for it. It may be used by many at once, each with a Hand of their own.
type Sieve struct {
	c    *Columns
	root asker
}

// Clicked are the posts that were clicked at least so often after a date.
type Clicked struct {
	After   civil.Date
	AtLeast int
}

// ClickedIn lists the counts of clicks that conditions ask for, for NewSieve to be given.
func ClickedIn(conditions []Moment) []Clicked {
	var all []Clicked
	for _, k := range conditions {
		k.c.node.each(func(n Node) {
			if n.Test == Clicks {
				if asked := clickedOf(n, &k.m); !slices.Contains(all, asked) {
					all = append(all, asked)
				}
			}
		})
	}
	return all
}

func clickedOf(n Node, at *moment) Clicked {
	asked := Clicked{After: at.today.Add(-n.Days), AtLeast: n.N}
	if n.Match == MatchOver {
		asked.AtLeast++
	}
	return asked
}

func (n Node) each(do func(Node)) {
	do(n)
	for _, p := range n.Parts {
		p.each(do)
	}
}

// NewSieve makes conditions ready for columns. Of each count of clicks that was made for it, it takes the posts, in order.
func NewSieve(c *Columns, conditions []Moment, clicked map[Clicked][]int64) *Sieve {
	m := maker{c: c, clicked: clicked}
	root := groupAsker{kind: AnyOf}
	for i := range conditions {
		root.parts = append(root.parts, m.asker(conditions[i].c.root, &conditions[i].m))
	}
	return &Sieve{c: c, root: root.sorted()}
}

// Blocks is in how many parts the columns are judged, which may be at the same time.
func (s *Sieve) Blocks() int { return len(s.c.blocks) }

// Sifted is a post that a sieve catches, or may.
type Sifted struct {
	Post      int64
	Published int64 // in µs since 1970; what never came out has the least number there is
	Sure      bool
}

// Hand judges blocks one after the other.
type Hand struct {
	s       *Sieve
	answers [][]answer
	rows    [][]uint16
	facts   Facts
	field   map[string]string
	known   map[*fieldAsker]map[string]answer
}

// Hand returns what judges blocks, for one at a time.
func (s *Sieve) Hand() *Hand {
	return &Hand{s: s, field: make(map[string]string, 1), known: make(map[*fieldAsker]map[string]answer)}
}

// Judge appends the posts of a block that are caught, or may be, in the order of their ids.
func (h *Hand) Judge(to []Sifted, number int) []Sifted {
	b := h.s.c.blocks[number]
	rows, answers := h.takeRows(), h.takeAnswers()
	for row := range b.posts {
		rows = append(rows, uint16(row))
	}
	h.s.root.ask(h, b, rows, answers)
	for row, post := range b.posts {
		if answers[row] != denied {
			to = append(to, Sifted{post, b.published[row], answers[row] == granted})
		}
	}
	h.giveBack(rows, answers)
	return to
}

func (h *Hand) takeRows() []uint16 {
	if n := len(h.rows); n > 0 {
		rows := h.rows[n-1]
		h.rows = h.rows[:n-1]
		return rows[:0]
	}
	return make([]uint16, 0, blockPosts)
}

func (h *Hand) takeAnswers() []answer {
	if n := len(h.answers); n > 0 {
		answers := h.answers[n-1]
		h.answers = h.answers[:n-1]
		return answers
	}
	return make([]answer, blockPosts)
}

func (h *Hand) giveBack(rows []uint16, answers []answer) {
	h.rows, h.answers = append(h.rows, rows), append(h.answers, answers)
}

// answer is what columns say of a post.
type answer uint8

const (
	denied answer = iota
	perhaps
	granted
)

func answerOf(is bool) answer {
	if is {
		return granted
	}
	return denied
}

// asker asks one node of a tree.
type asker interface {
	// ask writes the answers for some rows of a block, each at its row.
	ask(h *Hand, b *block, rows []uint16, to []answer)
	cost() int // of a row, in about nanoseconds
}

// groupAsker combines what its parts answer, and asks each part only of what is still open.
type groupAsker struct {
	kind  Group
	parts []asker
}

func (g groupAsker) cost() (all int) {
	for _, p := range g.parts {
		all += p.cost()
	}
	return all
}

// sorted is the group with what costs least first.
func (g groupAsker) sorted() asker {
	slices.SortStableFunc(g.parts, func(a, b asker) int { return a.cost() - b.cost() })
	if len(g.parts) == 1 && g.kind != NoneOf {
		return g.parts[0]
	}
	return g
}

func (g groupAsker) ask(h *Hand, b *block, rows []uint16, to []answer) {
	settled := granted // that settles a row
	if g.kind == AllOf {
		settled = denied
	}
	for _, row := range rows {
		to[row] = granted - settled
	}
	open, answers := append(h.takeRows(), rows...), h.takeAnswers()
	for _, p := range g.parts {
		if len(open) == 0 {
			break
		}
		p.ask(h, b, open, answers)
		still := open[:0]
		for _, row := range open {
			switch a := answers[row]; {
			case a == settled:
				to[row] = a
				continue
			case a == perhaps:
				to[row] = a
			}
			still = append(still, row)
		}
		open = still
	}
	h.giveBack(open, answers)
	if g.kind == NoneOf {
		for _, row := range rows {
			to[row] = granted - to[row]
		}
	}
}

// maker makes askers of the parts of conditions.
type maker struct {
	c       *Columns
	clicked map[Clicked][]int64
}

func (m *maker) asker(p part, at *moment) asker {
	g, is := p.(*group)
	if !is {
		return m.leaf(p.(*leaf), at)
	}
	made := groupAsker{kind: g.kind}
	for _, p := range g.parts {
		made.parts = append(made.parts, m.asker(p, at))
	}
	return made.sorted()
}

func (m *maker) leaf(l *leaf, at *moment) asker {
	one := leafAsker{l, at}
	switch l.Test {
	case Kind:
		return m.coded(one, ofKinds, func(f *Facts, v string) { f.Kind = v })
	case Status:
		return m.coded(one, ofStatuses, func(f *Facts, v string) { f.Status = v })
	case Category:
		return m.coded(one, ofCategories, func(f *Facts, v string) { f.Category = v })
	case Author:
		return m.coded(one, ofAuthors, func(f *Facts, v string) { f.Author = v })
	case Import:
		return m.coded(one, ofImports, func(f *Facts, v string) { f.Import = v })
	case OnTop:
		return one.flagged(onTop, func(f *Facts, is bool) { f.OnTop = is })
	case Image:
		return one.flagged(withImage, func(f *Facts, is bool) { f.FeaturedImage = is })
	case Evergreen:
		return one.flagged(isEvergreen, func(f *Facts, is bool) { f.Evergreen = is })
	case NeverExpires:
		return one.flagged(neverExpires, func(f *Facts, is bool) { f.NeverExpires = is })
	case TakesComments:
		return one.flagged(takesComments, func(f *Facts, is bool) { f.CommentsOpen = is })
	case HasNotice:
		return one.flagged(hasNotice, func(f *Facts, is bool) {
			if f.Notice = ""; is {
				f.Notice = someNotice
			}
		})
	case WordCount:
		return countAsker{l, func(b *block) []int32 { return b.words }}
	case Republished:
		return countAsker{l, func(b *block) []int32 { return b.republished }}
	case Comments:
		return countAsker{l, func(b *block) []int32 { return b.comments }}
	case Shared:
		return countAsker{l, func(b *block) []int32 { return b.shared }}
	case Age:
		return one.aged(func(b *block) []int64 { return b.published })
	case SinceChange:
		return one.aged(func(b *block) []int64 { return b.changed })
	case Tags, TaggedLike:
		return m.tagged(one)
	case Clicks:
		return m.clicks(one)
	case Field:
		return m.field(one)
	case KeptForNow:
		return factAsker{one, 10, func(_ *Columns, b *block, row int, f *Facts) {
			f.KeptUntil = time.Time{}
			if until, is := b.kept[row]; is {
				f.KeptUntil = timeOf(until)
			}
		}}
	}
	if fill := filling[l.Test]; fill != nil {
		return factAsker{one, dear, fill}
	}
	return fixedAsker(perhaps)
}

// fixedAsker has one answer for all.
type fixedAsker answer

func (a fixedAsker) cost() int { return 0 }

func (a fixedAsker) ask(_ *Hand, _ *block, rows []uint16, to []answer) {
	for _, row := range rows {
		to[row] = answer(a)
	}
}

// leafAsker asks a test of facts.
type leafAsker struct {
	*leaf
	at *moment
}

func (l leafAsker) of(f *Facts) answer { return answerOf(l.holds(f, l.at)) }

// codedAsker knows the answer for each value of a dictionary.
type codedAsker struct {
	list  int
	table []answer
}

func (m *maker) coded(l leafAsker, list int, fill func(*Facts, string)) asker {
	a := codedAsker{list: list}
	for _, v := range m.c.lists[list].values {
		var f Facts
		fill(&f, v)
		a.table = append(a.table, l.of(&f))
	}
	return a
}

func (a codedAsker) cost() int { return 2 }

func (a codedAsker) ask(_ *Hand, b *block, rows []uint16, to []answer) {
	codes := b.codes[a.list]
	for _, row := range rows {
		to[row] = a.table[codes[row]]
	}
}

// flagAsker knows the answer for a flag that is set, and for one that is not.
type flagAsker struct {
	flag     uint8
	set, not answer
}

func (l leafAsker) flagged(flag uint8, fill func(*Facts, bool)) asker {
	var set, not Facts
	fill(&set, true)
	fill(&not, false)
	return flagAsker{flag, l.of(&set), l.of(&not)}
}

func (a flagAsker) cost() int { return 2 }

func (a flagAsker) ask(_ *Hand, b *block, rows []uint16, to []answer) {
	for _, row := range rows {
		if to[row] = a.not; b.flags[row]&a.flag != 0 {
			to[row] = a.set
		}
	}
}

type countAsker struct {
	l      *leaf
	column func(*block) []int32
}

func (a countAsker) cost() int { return 3 }

func (a countAsker) ask(_ *Hand, b *block, rows []uint16, to []answer) {
	counts := a.column(b)
	for _, row := range rows {
		to[row] = answerOf(a.l.count(int(counts[row])))
	}
}

// agedAsker needs no calendar for what is surely older than a span, or younger.
type agedAsker struct {
	leafAsker
	column     func(*block) []int64
	sure, from int64 // what is as old as `sure` is older, what is younger than `from` is not
	older      answer
}

func (l leafAsker) aged(column func(*block) []int64) asker {
	a := agedAsker{leafAsker: l, column: column, older: answerOf(l.Match == MatchOver || l.Match == MatchBefore)}
	sure, from := l.from.Add(-time.Microsecond), l.from // dates are whole
	switch l.Match {
	case MatchAfter:
		sure, from = l.to.Add(-time.Microsecond), l.to
	case MatchOver, MatchUnder:
		sure, from = l.span.Since(l.at.at, l.zone)
		from = from.Add(time.Microsecond)
	}
	a.sure, a.from = micros(sure), micros(from)
	if !isTellable(sure) || !isTellable(from) {
		a.sure, a.from = none, 1<<62
	}
	return a
}

// isTellable tells whether the microseconds since 1970 of a time are a number that tells it.
func isTellable(t time.Time) bool { return t.Year() > 0 && t.Year() < 100_000 }

func (a agedAsker) cost() int { return 3 }

func (a agedAsker) ask(_ *Hand, b *block, rows []uint16, to []answer) {
	times := a.column(b)
	for _, row := range rows {
		switch t := times[row]; {
		case t == none:
			to[row] = denied // what is not out has no age
		case t <= a.sure:
			to[row] = a.older
		case t >= a.from:
			to[row] = granted - a.older
		default:
			to[row] = answerOf(a.age(timeOf(t), a.at))
		}
	}
}

// taggedAsker knows of each tag which of the values it is one of.
type taggedAsker struct {
	match Match
	table []uint64 // a bit for each value
	all   uint64
}

// mostBits is how many values a taggedAsker can hold apart.
const mostBits = 64

func (m *maker) tagged(l leafAsker) asker {
	if len(l.folded) > mostBits {
		return factAsker{l, dear, func(c *Columns, b *block, row int, f *Facts) {
			f.Tags = f.Tags[:0]
			for _, tag := range b.tags.at(row) {
				f.Tags = append(f.Tags, c.lists[ofTags].values[tag])
			}
		}}
	}
	a := taggedAsker{match: l.Match, all: 1<<len(l.folded) - 1} // also where there are 64
	for _, tag := range m.c.lists[ofTags].values {
		f := Facts{Tags: []string{tag}}
		var bits uint64
		if l.Test == TaggedLike {
			if l.holds(&f, l.at) == (l.Match == MatchAny) {
				bits = 1
			}
		} else {
			for i, v := range l.folded {
				if f.hasTag(v) {
					bits |= 1 << i
				}
			}
		}
		a.table = append(a.table, bits)
	}
	return a
}

func (a taggedAsker) cost() int { return 8 }

func (a taggedAsker) ask(_ *Hand, b *block, rows []uint16, to []answer) {
	for _, row := range rows {
		var found uint64
		for _, tag := range b.tags.at(int(row)) {
			found |= a.table[tag]
		}
		switch a.match {
		case MatchAll:
			to[row] = answerOf(found == a.all)
		case MatchAny:
			to[row] = answerOf(found != 0)
		default:
			to[row] = answerOf(found == 0)
		}
	}
}

// clickedAsker knows which posts were clicked often enough.
type clickedAsker struct {
	posts   []int64
	in, out answer
}

func (m *maker) clicks(l leafAsker) asker {
	asked := clickedOf(l.Node, l.at)
	a := clickedAsker{in: answerOf(l.Match == MatchOver), out: answerOf(l.Match == MatchUnder)}
	if asked.AtLeast <= 0 {
		return fixedAsker(a.in) // every post
	}
	posts, known := m.clicked[asked]
	if !known {
		return fixedAsker(perhaps)
	}
	a.posts = posts
	return a
}

func (a clickedAsker) cost() int { return 10 }

func (a clickedAsker) ask(_ *Hand, b *block, rows []uint16, to []answer) {
	if len(rows) == 0 {
		return
	}
	at, _ := slices.BinarySearch(a.posts, b.posts[rows[0]])
	for _, row := range rows { // ascending, as the posts are
		for at < len(a.posts) && a.posts[at] < b.posts[row] {
			at++
		}
		if to[row] = a.out; at < len(a.posts) && a.posts[at] == b.posts[row] {
			to[row] = a.in
		}
	}
}

// factAsker asks a test of facts that are filled in from a row.
type factAsker struct {
	leafAsker
	costs int
	fill  func(c *Columns, b *block, row int, f *Facts)
}

// dear is about what a test of a text or of the calendar costs.
const dear = 80

// filling fills in the facts that other tests ask about.
var filling = map[Test]func(c *Columns, b *block, row int, f *Facts){
	Title: func(_ *Columns, b *block, row int, f *Facts) { f.Title = b.titles.at(row) },
	Slug:  func(_ *Columns, b *block, row int, f *Facts) { f.Slug = b.slugs.at(row) },
	CommentsOpen: func(_ *Columns, b *block, row int, f *Facts) {
		f.CommentsOpen, f.CommentDays, f.Published = b.flags[row]&takesComments != 0, int(b.openDays[row]), timeOf(b.published[row])
	},
}

func (a factAsker) cost() int { return a.costs }

func (a factAsker) ask(h *Hand, b *block, rows []uint16, to []answer) {
	for _, row := range rows {
		a.fill(h.s.c, b, int(row), &h.facts)
		to[row] = a.of(&h.facts)
	}
}

// fieldAsker asks a test of the values of a custom field, each of which it asks about once, as far as it can remember.
type fieldAsker struct {
	leafAsker
	code    uint32
	missing answer // for posts that lack the field
}

// mostKnown is how many values of a field are remembered.
const mostKnown = 20_000

func (m *maker) field(l leafAsker) asker {
	missing := l.of(&Facts{})
	code, known := m.c.lists[ofFields].codes[l.Field]
	if !known {
		return fixedAsker(missing)
	}
	return &fieldAsker{l, code, missing}
}

func (a *fieldAsker) cost() int { return 40 }

func (a *fieldAsker) ask(h *Hand, b *block, rows []uint16, to []answer) {
	known := h.known[a]
	if known == nil {
		known = make(map[string]answer)
		h.known[a] = known
	}
	for _, row := range rows {
		value, has := b.field(int(row), a.code)
		if !has {
			to[row] = a.missing
			continue
		}
		found, is := known[value]
		if !is {
			h.field[a.Field] = value
			h.facts.Fields = h.field
			if found = a.of(&h.facts); len(known) < mostKnown {
				known[value] = found
			}
			delete(h.field, a.Field)
		}
		to[row] = found
	}
}

// field is a post's value of a custom field.
func (b *block) field(row int, code uint32) (value string, has bool) {
	for i, to := b.fields.span(row); i < to; i++ {
		if b.fields.all[i] == code {
			return b.values.at(i), true
		}
	}
	return "", false
}
