// Package words says numbers of things and lists of names in English, for the sentences
// that the rest of core writes. It knows nothing of what it counts.
package words

import (
	"strconv"
	"strings"
	"unicode"
)

// Count says a number of things: "1 post", "3 posts", "0 posts". The thing takes an s in
// the plural.
func Count(n int, thing string) string {
	if n == 1 {
		return "1 " + thing
	}
	return strconv.Itoa(n) + " " + thing + "s"
}

// For returns the word for one thing or for several: "is" or "are".
func For(n int, one, many string) string {
	if n == 1 {
		return one
	}
	return many
}

// List joins names: "a", "a and b", "a, b and c"; and is the word before the last. No
// names are the empty text.
func List(names []string, and string) string {
	if len(names) < 2 {
		return strings.Join(names, "")
	}
	return strings.Join(names[:len(names)-1], ", ") + " " + and + " " + names[len(names)-1]
}

// IsRune tells whether words are made of the rune: a letter or a digit of any script.
func IsRune(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

// In counts the words of a text, as the database does.
func In(text string) int { return len(strings.Fields(text)) }
