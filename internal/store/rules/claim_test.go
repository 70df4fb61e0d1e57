package rules

import (
	"regexp"
	"testing"
	"unicode"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"

	"dapper.example/internal/core/letters"
)

// Every letter beyond ASCII of which folding makes ASCII, alone or beside another, is looked for.
func TestLettersThatBecomeASCII(t *testing.T) {
	known := regexp.MustCompile(becomesASCII)
	for r := rune(utf8.RuneSelf); r <= utf8.MaxRune; r++ {
		if !utf8.ValidRune(r) || known.MatchString(string(r)) {
			continue
		}
		for _, text := range []string{string(r), "i" + string(r), "I" + string(r)} {
			folded := letters.Fold(text)
			plain := 0
			for i := range len(folded) {
				if folded[i] < utf8.RuneSelf {
					plain++
				}
			}
			if allowed := min(len(text)-utf8.RuneLen(r), 1); plain > allowed { // a million assertions take seconds
				assert.LessOrEqual(t, plain, allowed, "%U", r)
			}
		}
	}
}

func TestBlanksBeyondASCII(t *testing.T) {
	known := regexp.MustCompile(blanks)
	for r := rune(utf8.RuneSelf); r <= utf8.MaxRune; r++ {
		if utf8.ValidRune(r) && unicode.IsSpace(r) != known.MatchString(string(r)) {
			assert.Equal(t, unicode.IsSpace(r), known.MatchString(string(r)), "%U", r)
		}
	}
}
