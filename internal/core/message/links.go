package message

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// Links is what a network takes for a link in running text, and what one counts. The
// composer, the preview and the network's stand-in all use it, so that a message that is
// shown as fitting is taken.
//
// A link begins with one of the schemes and "://", in any case, where no letter or digit
// of ASCII stands before it, and has at least one more character. It runs over the
// characters of addresses (RFC 3986, section 2) and letters, marks and digits of any
// script. Closing punctuation at its end is not of it, nor is a closing bracket that was
// opened before the link.
type Links struct {
	Schemes []string // in lower case; none: nothing counts as a link
	Cost    int      // graphemes that a link counts, whatever its length; 0: its length
}

// Span is a part of a text, in bytes, To exclusive.
type Span struct{ From, To int }

// Find lists the links of a text in order; they do not overlap.
func (l Links) Find(text string) []Span {
	var found []Span
	for at := 0; ; {
		i := strings.Index(text[at:], "://")
		if i < 0 {
			return found
		}
		sep := at + i
		at = sep + len("://")
		from, ok := l.begins(text[:sep])
		if !ok {
			continue
		}
		if n := len(found); n > 0 && from < found[n-1].To {
			continue
		}
		if to := linkEnd(text, at); to > at {
			found = append(found, Span{from, to})
			at = to
		}
	}
}

// begins tells where the scheme begins with which the text ends.
func (l Links) begins(text string) (int, bool) {
	for _, scheme := range l.Schemes {
		from := len(text) - len(scheme)
		if from < 0 || !strings.EqualFold(text[from:], scheme) {
			continue
		}
		if from > 0 && isAlphanumeric(text[from-1]) {
			continue
		}
		return from, true
	}
	return 0, false
}

func isAlphanumeric(c byte) bool {
	return '0' <= c && c <= '9' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z'
}

// linkEnd is where a link ends whose scheme ends at a place.
func linkEnd(text string, from int) int {
	end := from
	for i, r := range text[from:] {
		if !isOfLink(r) {
			break
		}
		end = from + i + utf8.RuneLen(r)
	}
	opened := strings.Count(text[from:end], "(") - strings.Count(text[from:end], ")")
	squares := strings.Count(text[from:end], "[") - strings.Count(text[from:end], "]")
	for end > from {
		switch c := text[end-1]; {
		case strings.IndexByte(`.,;:!?'*_~`, c) >= 0:
		case c == ')' && opened < 0:
			opened++
		case c == ']' && squares < 0:
			squares++
		default:
			return end
		}
		end--
	}
	return end
}

// ofLink are the characters of addresses beside letters and digits: those that RFC 3986
// reserves and leaves unreserved, and the percent sign.
const ofLink = `-._~:/?#[]@!$&'()*+,;=%`

func isOfLink(r rune) bool {
	if r < utf8.RuneSelf {
		return isAlphanumeric(byte(r)) || strings.IndexByte(ofLink, byte(r)) >= 0
	}
	return r != utf8.RuneError && (unicode.IsLetter(r) || unicode.IsMark(r) || unicode.IsDigit(r))
}

// Length is a text's length in graphemes as the network counts it: each link by its
// cost.
func (l Links) Length(text string) int {
	if l.Cost == 0 {
		return Graphemes(text)
	}
	n, from := 0, 0
	for _, link := range l.Find(text) {
		n += Graphemes(text[from:link.From]) + l.Cost
		from = link.To
	}
	return n + Graphemes(text[from:])
}
