package revise

import (
	"maps"
	"slices"
	"strings"
)

// Clash is a place where two changes of one text touch and say different things.
type Clash struct {
	Part Part `json:"part"`
	// What the text said where they touch, and what each makes of it. Of a category they are its number; of a field they
	// begin with "=", and are empty where there is none.
	Base   string `json:"base"`
	Ours   string `json:"ours"`
	Theirs string `json:"theirs"`
}

// Merge brings a change, from base to ours, onto theirs, another change of base. Changes of a text merge where they touch no
// paragraph in common; tags and custom fields merge one by one. Where the two say different things of one place, it is a clash,
// and the merged text has theirs there.
func Merge(base, ours, theirs Text) (merged Text, clashes []Clash) {
	return Settle(base, ours, theirs, nil)
}

// Choice says what becomes of a clash.
type Choice string

// The choices.
const (
	Theirs Choice = "theirs"
	Ours   Choice = "ours"
	Both   Choice = "both" // of a text: theirs, then ours
)

// Choices lists the choices.
var Choices = []Choice{Theirs, Ours, Both}

// Settle is Merge with a choice for each clash, in their order; those without one stay as theirs. Both is Ours where there can be only one.
func Settle(base, ours, theirs Text, choices []Choice) (merged Text, clashes []Clash) {
	clash := func(c Clash) Choice {
		clashes = append(clashes, c)
		if n := len(clashes); n <= len(choices) {
			return choices[n-1]
		}
		return Theirs
	}
	merged = theirs
	merged.Fields = maps.Clone(theirs.Fields)
	for _, p := range parts(base, ours, theirs) {
		was, wanted, is := base.value(p), ours.value(p), theirs.value(p)
		switch {
		case wanted == was || wanted == is:
		case is == was: // ours alone: to the letter
			merged.take(p, ours)
		case p == Body:
			merged.Body = mergeBodies(base.Body, ours.Body, theirs.Body, clash)
		case p == Tags:
			merged.Tags = mergeTags(base.Tags, ours.Tags, theirs.Tags)
		case clash(Clash{p, was, wanted, is}) != Theirs:
			merged.take(p, ours)
		}
	}
	return merged, clashes
}

// take has the text say in a part what another one says.
func (t *Text) take(p Part, from Text) {
	switch p {
	case Title:
		t.Title = from.Title
	case Slug:
		t.Slug = from.Slug
	case Category:
		t.Category = from.Category
	case Excerpt:
		t.Excerpt = from.Excerpt
	case Image:
		t.Image, t.Alt = from.Image, from.Alt
	case Body:
		t.Body = from.Body
	case Tags:
		t.Tags = from.Tags
	default:
		name, _ := p.Field()
		v, there := from.Fields[name]
		if !there {
			delete(t.Fields, name)
			return
		}
		if t.Fields == nil {
			t.Fields = make(map[string]string)
		}
		t.Fields[name] = v
	}
}

// mergeTags are theirs with those that ours has more than base, less those that it has not.
func mergeTags(base, ours, theirs []string) []string {
	merged := slices.DeleteFunc(slices.Clone(theirs), func(tag string) bool { return slices.Contains(base, tag) && !slices.Contains(ours, tag) })
	for _, tag := range ours {
		if !slices.Contains(base, tag) && !slices.Contains(merged, tag) {
			merged = append(merged, tag)
		}
	}
	return merged
}

// paragraph is a stretch of a text up to the next blank line, and what stands between the two.
type paragraph struct{ text, gap string }

// paragraphs parts a text at its blank lines. Joined again, they are the text.
func paragraphs(text string) (all []paragraph) {
	for text != "" {
		end, next := len(text), len(text)
		for at := 0; at < len(text); {
			line := strings.IndexByte(text[at:], '\n')
			if line < 0 {
				break
			}
			at += line + 1
			rest := at
			for rest < len(text) {
				nl := strings.IndexByte(text[rest:], '\n')
				if nl < 0 {
					nl = len(text) - rest - 1
				}
				if strings.TrimSpace(text[rest:rest+nl+1]) != "" {
					break
				}
				rest += nl + 1
			}
			if rest > at || rest == len(text) {
				end, next = at, rest
				break
			}
		}
		cut := len(strings.TrimRight(text[:end], "\r\n"))
		all = append(all, paragraph{text[:cut], text[cut:next]})
		text = text[next:]
	}
	return all
}

func textsOf(all []paragraph) []string {
	texts := make([]string, len(all))
	for i, p := range all {
		texts[i] = p.text
	}
	return texts
}

// joined is the text of paragraphs: each with the gap that it had, and a blank line where it had none and another follows.
func joined(all []paragraph) string {
	var out strings.Builder
	for i, p := range all {
		out.WriteString(p.text)
		gap := p.gap
		if i < len(all)-1 && strings.Count(gap, "\n") < 2 {
			gap = "\n\n"
		}
		out.WriteString(gap)
	}
	return out.String()
}

// touches tells whether a hunk has a paragraph of the base in common with a stretch of it, or adds something at its edge.
func touches(lo, hi int, h hunk) bool {
	if lo == hi || h.a0 == h.a1 {
		return h.a0 <= hi && lo <= h.a1
	}
	return h.a0 < hi && lo < h.a1
}

// side is one of two changes of a list.
type side struct {
	list  []paragraph
	hunks []hunk // that are still to come
	shift int    // how much further the list is than its base, up to the next of them
}

// changes lists where the list differs from its base. Where paragraphs that follow one another were each written over, each is a change of its
// own: one that can still be told for the same.
func (s *side) changes(base []paragraph) (all []hunk) {
	for _, h := range align(textsOf(base), textsOf(s.list)) {
		n := h.a1 - h.a0
		alike := n > 1 && n == h.b1-h.b0
		for i := 0; alike && i < n; i++ {
			alike = areAlike(base[h.a0+i].text, s.list[h.b0+i].text)
		}
		if !alike {
			all = append(all, h)
			continue
		}
		for i := range n {
			all = append(all, hunk{h.a0 + i, h.a0 + i + 1, h.b0 + i, h.b0 + i + 1})
		}
	}
	return all
}

// areAlike tells whether two paragraphs have at least half of their words in common.
func areAlike(a, b string) bool {
	counts := make(map[string]int)
	first, second := strings.Fields(a), strings.Fields(b)
	for _, w := range first {
		counts[w]++
	}
	common := 0
	for _, w := range second {
		if counts[w] > 0 {
			counts[w]--
			common++
		}
	}
	return common*2 >= max(len(first), len(second))
}

// next is where the next hunk begins, or an end where there is none.
func (s *side) next(end int) int {
	if len(s.hunks) == 0 {
		return end
	}
	return s.hunks[0].a0
}

// spread makes a stretch of the base as wide as the next hunks that touch it, from the one of a number on, and returns the number of the
// first that does not.
func (s *side) spread(lo, hi, n int) (int, int, int) {
	for n < len(s.hunks) && touches(lo, hi, s.hunks[n]) {
		lo, hi = min(lo, s.hunks[n].a0), max(hi, s.hunks[n].a1)
		n++
	}
	return lo, hi, n
}

// take is what the list says of a stretch of the base with its next n hunks, which are done with then.
func (s *side) take(lo, hi, n int) []paragraph {
	from := lo + s.shift
	if n > 0 {
		s.shift = s.hunks[n-1].b1 - s.hunks[n-1].a1
		s.hunks = s.hunks[n:]
	}
	return s.list[from : hi+s.shift]
}

// mergeBodies merges two changes of a text by its paragraphs.
func mergeBodies(base, ours, theirs string, clash func(Clash) Choice) string {
	was := paragraphs(base)
	mine, other := side{list: paragraphs(ours)}, side{list: paragraphs(theirs)}
	mine.hunks, other.hunks = mine.changes(was), other.changes(was)
	var merged []paragraph
	done := 0 // so much of the base
	for len(mine.hunks) > 0 || len(other.hunks) > 0 {
		lo := min(mine.next(len(was)), other.next(len(was)))
		same := other.take(done, lo, 0)
		mine.take(done, lo, 0)
		merged = append(merged, same...)
		hi, m, o := lo, 0, 0
		for before := -1; before != m+o; {
			before = m + o
			lo, hi, m = mine.spread(lo, hi, m)
			lo, hi, o = other.spread(lo, hi, o)
		}
		a, b := mine.take(lo, hi, m), other.take(lo, hi, o)
		merged = append(merged, settled(was[lo:hi], a, b, m > 0, o > 0, clash)...)
		done = hi
	}
	merged = append(merged, other.take(done, len(was), 0)...)
	if n := len(merged); n > 0 { // it ends as theirs does
		merged[n-1].gap = ""
		if last := len(other.list); last > 0 {
			merged[n-1].gap = other.list[last-1].gap
		}
	}
	return joined(merged)
}

// settled is what becomes of a stretch that one of two sides has changed, or both.
func settled(base, ours, theirs []paragraph, oursChanged, theirsChanged bool, clash func(Clash) Choice) []paragraph {
	switch {
	case !oursChanged || slices.Equal(textsOf(ours), textsOf(theirs)):
		return theirs
	case !theirsChanged:
		return ours
	}
	say := func(all []paragraph) string { return strings.Trim(joined(all), "\r\n") }
	switch clash(Clash{Body, say(base), say(ours), say(theirs)}) {
	case Ours:
		return ours
	case Both:
		return slices.Concat(theirs, ours)
	}
	return theirs
}
