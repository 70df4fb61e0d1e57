// Package letters compares text as readers do: without regard to case, and whichever way
// an accent is encoded.
//
// Folding is Unicode's full case folding (Unicode Standard, section 3.13) after
// normalisation to NFC (Unicode Standard Annex 15). The package is pure.
package letters

import (
	"strings"
	"unicode"
	"unicode/utf8"

	"github.com/rivo/uniseg"
	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// Fold returns the text in the form in which two texts that differ only in case are the
// same: "ẞ" and "SS" become "ss", "Σ" and "ς" become "σ". A dotted capital İ folds to a
// plain i, so that either spelling finds the other.
func Fold(text string) string {
	if isASCII(text) {
		return strings.ToLower(text)
	}
	folded := norm.NFC.String(cases.Fold().String(norm.NFC.String(text)))
	return strings.ReplaceAll(folded, "i\u0307", "i")
}

// Equal tells whether two texts are the same but for case.
func Equal(a, b string) bool {
	if a == b || strings.EqualFold(a, b) {
		return true
	}
	if isASCII(a) && isASCII(b) {
		return false
	}
	return Fold(a) == Fold(b)
}

// Contains tells whether the text holds the needle, which is folded.
func Contains(text, folded string) bool {
	if isASCII(text) {
		return indexASCII(text, folded, 0) >= 0
	}
	return strings.Contains(Fold(text), folded)
}

// HasPrefix tells whether the text begins with the folded one.
func HasPrefix(text, folded string) bool { return strings.HasPrefix(Fold(text), folded) }

// HasWord tells whether the text holds the word, which is folded, as a whole word: with
// no letter, digit or mark next to it that would make it part of another. Scripts that
// put no space between words have a word's border between any two letters.
func HasWord(text, folded string) bool {
	index := strings.Index
	if isASCII(text) {
		index = func(text, word string) int { return indexASCII(text, word, 0) }
	} else {
		text = Fold(text)
	}
	for from := 0; from <= len(text); {
		i := index(text[from:], folded)
		if i < 0 {
			return false
		}
		at := from + i
		if isBorder(text, at) && isBorder(text, at+len(folded)) {
			return true
		}
		_, size := utf8.DecodeRuneInString(text[at:])
		from = at + max(size, 1)
	}
	return false
}

// IsBorder tells whether a word may begin or end at a place of a text, as HasWord has it.
func IsBorder(text string, at int) bool { return isBorder(text, at) }

// isBorder tells whether a word may begin or end at the place.
func isBorder(text string, at int) bool {
	before, sizeBefore := utf8.DecodeLastRuneInString(text[:at])
	after, sizeAfter := utf8.DecodeRuneInString(text[at:])
	if sizeBefore == 0 || sizeAfter == 0 {
		return true
	}
	if unicode.IsMark(after) {
		return false // it belongs to the letter before
	}
	if !isLetter(before) || !isLetter(after) {
		return true
	}
	return unicode.In(before, unspaced...) || unicode.In(after, unspaced...)
}

// unspaced are the scripts that are written without spaces between words.
var unspaced = []*unicode.RangeTable{unicode.Han, unicode.Hiragana, unicode.Katakana, unicode.Thai, unicode.Lao,
	unicode.Khmer, unicode.Myanmar}

func isLetter(r rune) bool {
	return r != utf8.RuneError && (unicode.IsLetter(r) || unicode.IsDigit(r) || unicode.IsMark(r))
}

func isASCII(text string) bool {
	for i := range len(text) {
		if text[i] >= utf8.RuneSelf {
			return false
		}
	}
	return true
}

// indexASCII is where the folded needle begins in a text of ASCII, at `from` or later,
// or -1.
func indexASCII(text, needle string, from int) int {
	n := len(needle)
	if n == 0 {
		return from
	}
	low := needle[0]
	high := low
	if 'a' <= low && low <= 'z' {
		high = low - 'a' + 'A'
	}
	for i := from; i+n <= len(text); i++ {
		if c := text[i]; c != low && c != high {
			continue
		}
		if equalASCII(text[i:i+n], needle) {
			return i
		}
	}
	return -1
}

func equalASCII(text, needle string) bool {
	for i := range len(needle) {
		a, b := text[i], needle[i]
		if a != b && !('A' <= a && a <= 'Z' && a+('a'-'A') == b) {
			return false
		}
	}
	return true
}

// BytesEach is how many bytes a grapheme may take on average before a text counts as longer
// than its graphemes: one letter may carry thousands of marks.
const BytesEach = 16

// Length is how long a text is against a limit: its graphemes (Unicode Standard Annex 29), or
// where it has more than BytesEach bytes for each grapheme of the limit, a number beyond the
// limit that grows with its bytes. It looks through short texts only.
func Length(text string, limit int) int {
	if len(text) > limit*BytesEach {
		return max(limit+1, len(text)/BytesEach)
	}
	return uniseg.GraphemeClusterCount(text)
}
