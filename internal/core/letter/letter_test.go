package letter_test

import (
	"strings"
	"testing"
	"unicode/utf8"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"dapper.example/internal/core/letter"
)

var about = letter.About{Blog: "Notes & Dome", End: "https://dome.example/x?a=1&b=2"}

func TestAMessageAsAMail(t *testing.T) {
	m := letter.Of("Earthshine\n\nA <b>glow</b> on the Moon.\nTwice.\n\nhttps://dome.example/e?a=1&b=2", about)
	assert.Equal(t, "Earthshine", m.Subject)
	assert.Contains(t, m.Text, "A <b>glow</b> on the Moon.\nTwice.\n\nhttps://dome.example/e?a=1&b=2\n\n-- \nYou get this mail because you asked for it on “Notes & Dome”.\nUnsubscribe: https://dome.example/x?a=1&b=2\n")
	assert.Contains(t, m.HTML, "<p>Earthshine</p>\n<p>A &lt;b&gt;glow&lt;/b&gt; on the Moon.<br>\nTwice.</p>\n<p><a href=\"https://dome.example/e?a=1&amp;b=2\">https://dome.example/e?a=1&amp;b=2</a></p>")
	assert.Contains(t, m.HTML, "<a href=\"https://dome.example/x?a=1&amp;b=2\">Unsubscribe</a>")
}

func TestSubjects(t *testing.T) {
	for text, want := range map[string]string{
		"":                                     "Notes & Dome",
		"https://dome.example/a":               "Notes & Dome",
		"https://dome.example/a\nThen words":   "Then words",
		"Look: https://dome.example/a tonight": "Look: tonight",
		"One\tline\r\nand another":             "One line",
		strings.Repeat("word ", 40):            strings.TrimSpace(strings.Repeat("word ", 15)) + "…",
		strings.Repeat("ö", 100):               strings.Repeat("ö", 77) + "…",
	} {
		assert.Equal(t, want, letter.Of(text, about).Subject, text)
	}
}

// A subject is one line of at most 78 characters, whatever the message: headers cannot be smuggled in.
func TestSubjectsAreOneShortLine(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		m := letter.Of(rapid.String().Draw(t, "text"), about)
		assert.NotContains(t, m.Subject, "\n")
		assert.NotContains(t, m.Subject, "\r")
		assert.LessOrEqual(t, utf8.RuneCountInString(m.Subject), 78)
	})
}
