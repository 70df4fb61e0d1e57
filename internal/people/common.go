package people

import (
	"crypto/sha256"
	_ "embed"
	"sort"
	"strings"
	"unicode"

	"dapper.example/internal/core/letters"
)

// commonList holds the marks of the commonest 10,000 passwords of MinPassword characters or
// more, sorted. scripts/common-passwords makes it.
//
//go:embed common.bin
var commonList string

// markSize is how much of a hash a mark is, in bytes: enough that no other password shares
// one by chance.
const markSize = 8

// CommonMark is what a password is listed by: the beginning of a hash of it in lower case.
func CommonMark(password string) []byte {
	sum := sha256.Sum256([]byte(letters.Fold(password)))
	return sum[:markSize]
}

// isCommon tells whether a password is one of the commonest, or one with some digits or
// signs behind it.
func isCommon(password string) bool {
	return isListed(password) || isListed(strings.TrimRightFunc(password,
		func(r rune) bool { return !unicode.IsLetter(r) }))
}

func isListed(password string) bool {
	mark := string(CommonMark(password))
	n := len(commonList) / markSize
	at := func(i int) string { return commonList[i*markSize : (i+1)*markSize] }
	i := sort.Search(n, func(i int) bool { return at(i) >= mark })
	return i < n && at(i) == mark
}

// ownLetters is how many letters and digits a password needs beside a name that it holds.
const ownLetters = 6

// isName tells whether a password is little more than a name.
func isName(password, name string) bool {
	p, n := squeezed(password), squeezed(name)
	if len(n) < 4 || p == "" {
		return false
	}
	return strings.Contains(n, p) || strings.Contains(p, n) && len(p)-len(n) < ownLetters
}

// squeezed is a text in lower case with nothing but its letters and digits.
func squeezed(text string) string {
	return strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return r
		}
		return -1
	}, letters.Fold(text))
}
