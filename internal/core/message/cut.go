package message

import (
	"slices"
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/rivo/uniseg"
)

// wordReach is how many graphemes a text may run on without a word's end before it is
// cut within: longer than any word that a reader would miss.
const wordReach = 40

// cuts lists the places, in bytes and in order, after which a text may be cut: where a
// word ends (Unicode Standard Annex 29), and within what runs on for more than wordReach
// graphemes without a word's end, after each grapheme. A link is never cut. The end of
// the text is left out.
func cuts(text string, links Links) []int {
	inside := links.Find(text)
	isWithin := func(at int) bool {
		i, _ := slices.BinarySearchFunc(inside, at, func(s Span, at int) int { return s.To - at })
		return i < len(inside) && inside[i].From < at && at < inside[i].To
	}
	ends := wordEnds(text)
	if len(inside) > 0 {
		ends = slices.DeleteFunc(ends, isWithin)
	}
	all := make([]int, 0, len(ends))
	from := 0
	for _, end := range append(ends, len(text)) {
		if run := text[from:end]; len(run) > wordReach && Graphemes(run) > wordReach {
			all = append(all, graphemeEnds(run, from, isWithin)...)
		}
		if end < len(text) {
			all = append(all, end)
		}
		from = end
	}
	return all
}

// wordEnds lists where the words of a text end (Unicode Standard Annex 29, section 4),
// one that ends with the text left out.
func wordEnds(text string) []int {
	ends := make([]int, 0, len(text)/5)
	if isASCII(text) && strings.IndexByte(text, '_') < 0 {
		for i := 1; i < len(text); i++ {
			if isAlphanumeric(text[i-1]) && !joins(text, i) {
				ends = append(ends, i)
			}
		}
		return ends
	}
	state, at := -1, 0
	for rest := text; rest != ""; {
		var word string
		word, rest, state = uniseg.FirstWordInString(rest, state)
		at += len(word)
		if rest != "" && strings.ContainsFunc(word, isReadable) {
			ends = append(ends, at)
		}
	}
	return ends
}

// joins tells of ASCII whether the word that ends before i goes on at i: rules WB5 to
// WB13b of the Annex.
func joins(text string, i int) bool {
	c := text[i]
	if isAlphanumeric(c) {
		return true
	}
	if i+1 == len(text) {
		return false
	}
	before, after := text[i-1], text[i+1]
	if isDigit(before) {
		return strings.IndexByte(`.,;'`, c) >= 0 && isDigit(after)
	}
	return strings.IndexByte(`.:'`, c) >= 0 && isAlphanumeric(after) && !isDigit(after)
}

func isDigit(c byte) bool { return '0' <= c && c <= '9' }

func isASCII(text string) bool {
	for i := range len(text) {
		if text[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// graphemeEnds lists where the graphemes of a run end that begins at a place, the last
// left out.
func graphemeEnds(run string, at int, isWithin func(int) bool) []int {
	var ends []int
	state := -1
	for rest := run; rest != ""; {
		var one string
		one, rest, _, state = uniseg.FirstGraphemeClusterInString(rest, state)
		at += len(one)
		if rest != "" && strings.TrimSpace(one) != "" && !isWithin(at) {
			ends = append(ends, at)
		}
	}
	return ends
}

// isReadable tells of the runes that make a segment a word rather than what stands
// between words.
func isReadable(r rune) bool {
	return unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsNumber(r) || unicode.Is(unicode.So, r)
}

// trimmed is a text that ends at a cut, without what should not stand before an ellipsis.
func trimmed(text string) string { return strings.TrimRight(text, " \t\n,;:–—-、，：；") }
