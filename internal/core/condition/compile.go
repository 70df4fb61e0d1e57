package condition

import (
	"fmt"
	"time"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/core/letters"
)

// Condition is a tree made ready for asking. It holds no moment and may be shared.
type Condition struct {
	root  part
	node  Node
	zone  civil.Zone
	timed []*leaf // the tests whose answer changes with time alone
	tests map[Test]bool
}

// Compile makes a condition ready, with its calendar in a zone; it fails with the first
// problem of Check.
func Compile(n Node, zone civil.Zone) (*Condition, error) {
	if problems := Check(n); len(problems) > 0 {
		p := problems[0]
		return nil, fmt.Errorf("the condition is not right at %q: %s", p.Path, p.Message)
	}
	c := &Condition{node: n, zone: zone, tests: make(map[Test]bool)}
	c.root = c.part(n, "")
	return c, nil
}

// Node returns the tree that was compiled.
func (c *Condition) Node() Node { return c.node }

// Asks tells whether the condition has a test of the kind anywhere.
func (c *Condition) Asks(t Test) bool { return c.tests[t] }

// part is a node made ready.
type part interface {
	holds(f *Facts, at *moment) bool
	explain(f *Facts, at *moment, reasons *[]Reason) bool
}

// moment is what the tests need to know of the moment.
type moment struct {
	at    time.Time
	today civil.Date
	zone  civil.Zone
}

// At fixes the moment from which ages are measured.
func (c *Condition) At(at time.Time) Moment {
	return Moment{c, moment{at, c.zone.DateOf(at), c.zone}}
}

// Moment is a condition at one moment.
type Moment struct {
	c *Condition
	m moment
}

// Node is the tree of the condition.
func (k Moment) Node() Node { return k.c.node }

// Now is the moment.
func (k Moment) Now() time.Time { return k.m.at }

// Zone is whose calendar counts.
func (k Moment) Zone() civil.Zone { return k.m.zone }

// Asks tells whether the condition has a test of the kind anywhere.
func (k Moment) Asks(t Test) bool { return k.c.Asks(t) }

// Catches tells whether the condition holds for a post.
func (k *Moment) Catches(f *Facts) bool { return k.c.root.holds(f, &k.m) }

// Judge tells whether the condition holds for a post, and until when that stays so if
// the post does not change; the zero time is for good. It may name a moment at which
// the answer turns out the same, but never one too late.
func (k *Moment) Judge(f *Facts) (bool, time.Time) {
	var until time.Time
	for _, l := range k.c.timed {
		if t := l.turns(f, &k.m); !t.IsZero() && (until.IsZero() || t.Before(until)) {
			until = t
		}
	}
	return k.c.root.holds(f, &k.m), until
}

type group struct {
	kind  Group
	parts []part
	path  string
}

func (g *group) holds(f *Facts, at *moment) bool {
	for _, p := range g.parts {
		if p.holds(f, at) != (g.kind == AllOf) {
			return g.kind == AnyOf
		}
	}
	return g.kind != AnyOf
}

// leaf is a test made ready.
type leaf struct {
	Node
	path   string
	zone   civil.Zone
	folded []string // the values; see letters.Fold
	span   Span
	least  time.Duration
	most   time.Duration
	from   time.Time // of a date: where it begins
	to     time.Time // and ends
	ask    func(l *leaf, f *Facts, at *moment) bool
}

func (l *leaf) holds(f *Facts, at *moment) bool { return l.ask(l, f, at) }

func (c *Condition) part(n Node, path string) part {
	if n.IsGroup() {
		g := &group{kind: n.Group, path: path}
		for i, p := range n.Parts {
			g.parts = append(g.parts, c.part(p, below(path, fmt.Sprintf("parts[%d]", i))))
		}
		return g
	}
	l := &leaf{Node: n, path: path, zone: c.zone, ask: asks[n.Test], span: Span{n.N, n.Unit}}
	c.tests[n.Test] = true
	for _, v := range n.Values {
		l.folded = append(l.folded, letters.Fold(v))
	}
	l.least, l.most = l.span.Bounds()
	if d, err := civil.ParseDate(n.Date); err == nil {
		l.from, l.to = c.zone.At(d, 0), c.zone.At(d.Add(1), 0)
	}
	if l.isTimed() {
		c.timed = append(c.timed, l)
	}
	return l
}

func (l *leaf) isTimed() bool {
	switch l.Test {
	case Age, SinceChange:
		return l.Match == MatchOver || l.Match == MatchUnder
	case Field:
		return l.Match == MatchPassed || l.Match == MatchRound
	}
	return l.Test == Clicks || l.Test == CommentsOpen || l.Test == KeptForNow
}

// asks holds the question of each test.
var asks = map[Test]func(l *leaf, f *Facts, at *moment) bool{
	Kind:         func(l *leaf, f *Facts, _ *moment) bool { return l.oneOf(f.Kind) },
	Status:       func(l *leaf, f *Facts, _ *moment) bool { return l.oneOf(f.Status) },
	Category:     func(l *leaf, f *Facts, _ *moment) bool { return l.oneOf(f.Category) },
	Author:       func(l *leaf, f *Facts, _ *moment) bool { return l.oneOf(f.Author) },
	Import:       func(l *leaf, f *Facts, _ *moment) bool { return l.oneOf(f.Import) },
	Tags:         func(l *leaf, f *Facts, _ *moment) bool { return l.several(f.hasTag) },
	Title:        func(l *leaf, f *Facts, _ *moment) bool { return letters.Contains(f.Title, l.folded[0]) },
	Text:         func(l *leaf, f *Facts, _ *moment) bool { return l.several(f.hasWord) },
	Slug:         (*leaf).slug,
	Age:          func(l *leaf, f *Facts, at *moment) bool { return l.age(f.Published, at) },
	SinceChange:  func(l *leaf, f *Facts, at *moment) bool { return l.age(f.Changed, at) },
	Field:        (*leaf).field,
	OnTop:        func(l *leaf, f *Facts, _ *moment) bool { return f.OnTop == (l.Match == MatchYes) },
	CommentsOpen: func(l *leaf, f *Facts, at *moment) bool { return f.takesComments(at) == (l.Match == MatchYes) },
	Comments:     func(l *leaf, f *Facts, _ *moment) bool { return l.count(f.Comments) },
	Image:        func(l *leaf, f *Facts, _ *moment) bool { return f.FeaturedImage == (l.Match == MatchYes) },
	Evergreen:    func(l *leaf, f *Facts, _ *moment) bool { return f.Evergreen == (l.Match == MatchYes) },
	WordCount:    func(l *leaf, f *Facts, _ *moment) bool { return l.count(f.Words) },
	Clicks:       func(l *leaf, f *Facts, at *moment) bool { return l.count(f.clicksSince(at.today.Add(-l.Days))) },
	Shared:       func(l *leaf, f *Facts, _ *moment) bool { return l.count(f.Shared) },
	Republished:  func(l *leaf, f *Facts, _ *moment) bool { return l.count(f.Republished) },

	NeverExpires:  func(l *leaf, f *Facts, _ *moment) bool { return f.NeverExpires == (l.Match == MatchYes) },
	KeptForNow:    func(l *leaf, f *Facts, at *moment) bool { return f.KeptUntil.After(at.at) == (l.Match == MatchYes) },
	HasNotice:     func(l *leaf, f *Facts, _ *moment) bool { return (f.Notice != "") == (l.Match == MatchYes) },
	TakesComments: func(l *leaf, f *Facts, _ *moment) bool { return f.CommentsOpen == (l.Match == MatchYes) },
	TaggedLike: func(l *leaf, f *Facts, _ *moment) bool {
		return address.IsAmong(l.Values[0], f.Tags) == (l.Match == MatchAny)
	},
}

// takesComments tells whether readers may comment on the post, or will once it is out.
func (f *Facts) takesComments(at *moment) bool {
	rules := comment.Rules{Open: true, Days: f.CommentDays}
	return f.CommentsOpen && (f.Published.IsZero() || rules.IsOpen(true, f.Published, at.zone, at.at))
}

func (l *leaf) oneOf(value string) bool {
	for _, v := range l.Values {
		if letters.Equal(v, value) {
			return l.Match == MatchAny
		}
	}
	return l.Match == MatchNone
}

// several asks for each value, folded, and combines as the match says.
func (l *leaf) several(has func(folded string) bool) bool {
	for _, v := range l.folded {
		if has(v) != (l.Match == MatchAll) {
			return l.Match == MatchAny
		}
	}
	return l.Match != MatchAny
}

func (l *leaf) count(n int) bool {
	if l.Match == MatchOver {
		return n > l.N
	}
	return n < l.N
}

func (l *leaf) slug(f *Facts, _ *moment) bool {
	switch l.Match {
	case MatchEquals:
		return letters.Equal(f.Slug, l.folded[0])
	case MatchBegins:
		return letters.HasPrefix(f.Slug, l.folded[0])
	}
	return letters.Contains(f.Slug, l.folded[0])
}

func (l *leaf) age(since time.Time, at *moment) bool {
	if since.IsZero() {
		return false // what is not out has no age
	}
	switch l.Match {
	case MatchBefore:
		return since.Before(l.from)
	case MatchAfter:
		return !since.Before(l.to)
	}
	return l.isOlder(since, at) == (l.Match == MatchOver)
}

func (l *leaf) isOlder(since time.Time, at *moment) bool {
	age := at.at.Sub(since)
	if isPast(age, l.most) {
		return true
	}
	return age >= l.least && !at.at.Before(l.span.After(since, l.zone))
}

// turns is when the answer changes by the mere passing of time; zero for never.
func (l *leaf) turns(f *Facts, at *moment) time.Time {
	var t time.Time
	switch l.Test {
	case Age:
		t = l.comesOfAge(f.Published, at)
	case SinceChange:
		t = l.comesOfAge(f.Changed, at)
	case Field:
		if begins, ends, ok := l.round(f, at); ok && l.Match == MatchRound {
			if t = begins; !t.After(at.at) {
				t = ends
			}
		} else if date, ok := dateOf(f.Fields[l.Field], l.zone); ok && l.Match == MatchPassed {
			t = l.span.After(date, l.zone)
		}
	case KeptForNow:
		t = f.KeptUntil
	case CommentsOpen:
		if f.CommentsOpen && f.CommentDays > 0 && !f.Published.IsZero() {
			t = comment.Closes(f.Published, f.CommentDays, l.zone)
		}
	case Clicks:
		first := at.today.Add(-l.Days) // clicks after this date count
		for _, c := range f.Clicks {
			if c.Date.After(first) && c.N > 0 {
				t = l.zone.At(c.Date.Add(l.Days), 0)
				break
			}
		}
	}
	if !t.After(at.at) {
		return time.Time{}
	}
	return t
}

func (l *leaf) comesOfAge(since time.Time, at *moment) time.Time {
	if since.IsZero() || isPast(at.at.Sub(since), l.most) {
		return time.Time{}
	}
	return l.span.After(since, l.zone)
}
