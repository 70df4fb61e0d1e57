package letters_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/letters"
)

func TestTitlesAreFoundInEitherCase(t *testing.T) {
	for _, c := range []struct{ text, needle string }{
		{"Рассвет над холмом", "рассвет"}, {"ΠΡΩΙ στο λόφο", "πρωι"}, {"Der Straßenrand", "STRASSE"}, {"GROẞE STRAẞE",
			"große straße"},
		{"İstanbul by night", "i̇stanbul"}, {"İstanbul by night", "istanbul"}, {"istanbul", "İSTANBUL"}, {"ΟΔΟΣ",
			"οδος"}, {"οδός", "ΟΔΌΣ"},
		{"Café hours", "CAFE\u0301"}, {"Cafe\u0301 hours", "café"}, {"ﬁne tuning", "FINE"}, {"Plain", "plain"}, {"",
			""},
	} {
		assert.True(t, letters.Contains(c.text, letters.Fold(c.needle)), "%q in %q", c.needle, c.text)
	}
	assert.False(t, letters.Contains("Рассвет", letters.Fold("закат")))
	assert.True(t, letters.Equal("STRASSE", "straße"))
	assert.True(t, letters.HasPrefix("Ζώα", letters.Fold("ΖΏ")))
}

func TestWordsAreWhole(t *testing.T) {
	for _, c := range []struct {
		text, word string
		has        bool
	}{
		{"the moon rises", "Moon", true}, {"moonrise", "moon", false}, {"moon", "moon", true}, {"a moon, a hill",
			"moon", true},
		{"cafe\u0301 closed", "cafe", false}, {"the cafe closed", "cafe", true}, {"x\u0323y", "x", false},
		{"на холме рассвет.", "Рассвет", true}, {"рассветный", "рассвет", false},
		{"冬の星空を見る", "星空", true}, {"moon1", "moon", false}, {"moonmoon moon", "moon", true},
	} {
		assert.Equal(t, c.has, letters.HasWord(c.text, letters.Fold(c.word)), "%q in %q", c.word, c.text)
	}
}

// Whatever the letters, a text holds itself, shouted or whispered.
func TestEveryTextHoldsItselfInEitherCase(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := strings.ToValidUTF8(rapid.String().Draw(t, "text"), "")
		require.True(t, letters.Contains("x "+text+" x", letters.Fold(text)))
		require.True(t, letters.Equal(text, letters.Fold(text)))
	})
}
