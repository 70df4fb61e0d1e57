package message

import (
	"strings"
	"testing"

	"github.com/rivo/uniseg"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// The short way for ASCII finds the ends that the Annex's rules give.
func TestWordEndsAgreeWithTheAnnex(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringOf(rapid.SampledFrom([]rune("ab1 2_.,:;'\"-/\n"))).Draw(t, "text")
		var want []int
		state, at := -1, 0
		for rest := text; rest != ""; {
			var word string
			word, rest, state = uniseg.FirstWordInString(rest, state)
			at += len(word)
			if rest != "" && strings.ContainsFunc(word, isReadable) {
				want = append(want, at)
			}
		}
		got := wordEnds(text)
		require.Equal(t, len(want), len(got), "%q: %v, %v", text, want, got)
		for i := range want {
			require.Equal(t, want[i], got[i], "%q: %v, %v", text, want, got)
		}
	})
}
