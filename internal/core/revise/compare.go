package revise

import (
	"strings"
	"unicode"
)

// Run is a stretch of a comparison.
type Run struct {
	Kind Kind   `json:"kind"`
	Text string `json:"text"`
}

// Kind says in which of two texts a stretch stands.
type Kind string

// The kinds.
const (
	Same    Kind = "same"
	Removed Kind = "removed" // in the former alone
	Added   Kind = "added"   // in the latter alone
)

// Difference is what differs in a part of two texts, word by word: the stretches together, less those that were added, are the
// former, and less those that were removed, the latter.
type Difference struct {
	Part Part  `json:"part"`
	Runs []Run `json:"runs"`
}

// Compare lists what differs from one text to another.
func Compare(from, to Text) (all []Difference) {
	for _, p := range Changed(from, to) {
		a, b := from.value(p), to.value(p)
		if _, is := p.Field(); is {
			a, b = strings.TrimPrefix(a, "="), strings.TrimPrefix(b, "=")
		}
		switch p {
		case Title, Excerpt, Body:
			all = append(all, Difference{p, Words(a, b)})
		default:
			all = append(all, Difference{p, whole(a, b)})
		}
	}
	return all
}

// whole is a comparison that takes one text for the other.
func whole(from, to string) (runs []Run) {
	if from != "" {
		runs = append(runs, Run{Removed, from})
	}
	if to != "" {
		runs = append(runs, Run{Added, to})
	}
	return runs
}

// mostWords is how many words are compared one by one; where more stand in paragraphs that were changed together, each takes
// the place of the other as a whole.
const mostWords = 1500

// Words compares two texts: their paragraphs first, and those that were changed word by word.
func Words(from, to string) (runs []Run) {
	a, b := paragraphs(from), paragraphs(to)
	say := func(more ...Run) { // what is alike becomes one stretch
		for _, r := range more {
			if n := len(runs) - 1; n >= 0 && runs[n].Kind == r.Kind {
				runs[n].Text += r.Text
			} else if r.Text != "" {
				runs = append(runs, r)
			}
		}
	}
	// A paragraph and the gap behind it are compared together, or a gap that changed would not be seen.
	lines := func(all []paragraph) []string {
		texts := make([]string, len(all))
		for i, p := range all {
			texts[i] = p.text + p.gap
		}
		return texts
	}
	before, after := lines(a), lines(b)
	i := 0
	for _, h := range align(before, after) {
		say(Run{Same, strings.Join(before[i:h.a0], "")})
		say(wordRuns(strings.Join(before[h.a0:h.a1], ""), strings.Join(after[h.b0:h.b1], ""))...)
		i = h.a1
	}
	say(Run{Same, strings.Join(before[i:], "")})
	return runs
}

func wordRuns(from, to string) (runs []Run) {
	a, b := tokens(from), tokens(to)
	if len(a) > mostWords*2 || len(b) > mostWords*2 {
		return whole(from, to)
	}
	i := 0
	for _, h := range align(a, b) {
		runs = append(runs, Run{Same, strings.Join(a[i:h.a0], "")}, Run{Removed, strings.Join(a[h.a0:h.a1], "")},
			Run{Added, strings.Join(b[h.b0:h.b1], "")})
		i = h.a1
	}
	return append(runs, Run{Same, strings.Join(a[i:], "")})
}

// tokens are the words of a text, and what stands between them: joined, they are the text.
func tokens(text string) (all []string) {
	kind := func(r rune) int {
		switch {
		case unicode.IsSpace(r):
			return 1
		case unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r) || r == '\'' || r == '’':
			return 2
		}
		return 3
	}
	begin, last := 0, 0
	for i, r := range text {
		if k := kind(r); k != last || k == 3 {
			if i > begin {
				all = append(all, text[begin:i])
			}
			begin, last = i, k
		}
	}
	if begin < len(text) {
		all = append(all, text[begin:])
	}
	return all
}
