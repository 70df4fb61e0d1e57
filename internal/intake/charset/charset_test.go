package charset_test

import (
	"testing"
	"unicode/utf16"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/intake/charset"
)

// in16 writes a text as UTF-16 by hand (RFC 2781).
func in16(text string, mark, little bool) []byte {
	var out []byte
	units := utf16.Encode([]rune(text))
	if mark {
		units = append([]uint16{0xfeff}, units...)
	}
	for _, u := range units {
		if little {
			out = append(out, byte(u), byte(u>>8))
		} else {
			out = append(out, byte(u>>8), byte(u))
		}
	}
	return out
}

func TestEncodings(t *testing.T) {
	t.Parallel()
	const text = "Clear skies – “tonight”, café, 2 €\n"
	for name, c := range map[string]struct {
		bytes []byte
		is    charset.Encoding
		reads string
	}{
		"UTF-8":                           {[]byte(text), charset.UTF8, text},
		"UTF-8 with a mark":               {[]byte("\xef\xbb\xbf" + text), charset.UTF8, text},
		"UTF-16, little, with a mark":     {in16(text, true, true), charset.UTF16LE, text},
		"UTF-16, big, with a mark":        {in16(text, true, false), charset.UTF16BE, text},
		"UTF-16, little, without a mark":  {in16(text, false, true), charset.UTF16LE, text},
		"UTF-16, big, without a mark":     {in16(text, false, false), charset.UTF16BE, text},
		"Windows-1252":                    {[]byte("Clear skies \x96 \x93tonight\x94, caf\xe9, 2 \x80\n"), charset.Windows1252, text},
		"nothing":                         {nil, charset.UTF8, ""},
		"a mark alone":                    {[]byte("\xef\xbb\xbf"), charset.UTF8, ""},
		"letters beyond the first plane":  {in16("🔭 and 👨‍👩‍👧", true, true), charset.UTF16LE, "🔭 and 👨‍👩‍👧"},
		"half a letter at the end":        {append(in16("ab", true, true), 0x3d), charset.UTF16LE, "ab\ufffd"},
		"a NUL in the middle of UTF-8":    {[]byte("ab\x00cd efgh"), charset.UTF8, "ab\x00cd efgh"},
		"UTF-8 that is cut in a letter":   {[]byte("café \xf0\x9f"), charset.UTF8, "café \ufffd"},
		"Windows-1252 with a last é":      {[]byte("caf\xe9"), charset.Windows1252, "café"},
		"one byte that is none in any":    {[]byte{0x81}, charset.Windows1252, "\ufffd"},
		"a single letter, two bytes each": {[]byte{'a', 0}, charset.UTF16LE, "a"},
	} {
		assert.Equal(t, c.is, charset.Detect(c.bytes), name)
		got, err := charset.Decode(c.bytes)
		require.NoError(t, err, name)
		assert.Equal(t, c.reads, got, name)
	}
}

func TestAnyBytesAreReadAsSomeText(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		_, err := charset.Decode(rapid.SliceOf(rapid.Byte()).Draw(t, "bytes"))
		require.NoError(t, err)
	})
}

func TestTextIsReadAsItWasWritten(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.String().Draw(t, "text")
		for _, written := range [][]byte{append([]byte("\xef\xbb\xbf"), text...), in16(text, true, true), in16(text, true, false)} {
			got, err := charset.Decode(written)
			require.NoError(t, err)
			require.Equal(t, text, got)
		}
	})
}
