// Package charset reads text whose encoding nobody has named. It is pure.
package charset

import (
	"bytes"
	"fmt"
	"unicode/utf8"

	"golang.org/x/text/encoding"
	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"
)

// Encoding is how a text is written.
type Encoding string

// The encodings that are known.
const (
	UTF8        Encoding = "UTF-8"
	UTF16LE     Encoding = "UTF-16, little end first"
	UTF16BE     Encoding = "UTF-16, big end first"
	Windows1252 Encoding = "Windows-1252"
)

var decoders = map[Encoding]encoding.Encoding{
	UTF16LE: unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM), UTF16BE: unicode.UTF16(unicode.BigEndian, unicode.IgnoreBOM),
	Windows1252: charmap.Windows1252,
}

// looked is how many bytes of a text without a mark its encoding is guessed from.
const looked = 64 << 10

// Detect says how a text is written: by its byte order mark, else UTF-8 where it is valid as that, UTF-16 where every other byte
// is mostly zero, as in all languages with Latin letters, and otherwise Windows-1252, in which any text can be read.
func Detect(text []byte) Encoding {
	switch {
	case bytes.HasPrefix(text, []byte("\xef\xbb\xbf")):
		return UTF8
	case bytes.HasPrefix(text, []byte("\xff\xfe")):
		return UTF16LE
	case bytes.HasPrefix(text, []byte("\xfe\xff")):
		return UTF16BE
	}
	var zeros [2]int
	begin := text[:min(len(text), looked)]
	for i, b := range begin {
		if b == 0 {
			zeros[i%2]++
		}
	}
	half := len(begin) / 2
	switch {
	case half > 0 && zeros[1] > half/2 && zeros[0] < half/8+1:
		return UTF16LE
	case half > 0 && zeros[0] > half/2 && zeros[1] < half/8+1:
		return UTF16BE
	case utf8.Valid(text) || isCut(text):
		return UTF8
	}
	return Windows1252
}

// isCut tells whether a text is UTF-8 that ends within a letter, and has others that are not ASCII's.
func isCut(text []byte) bool {
	for n := 1; n < utf8.UTFMax && n < len(text); n++ {
		whole, rest := text[:len(text)-n], text[len(text)-n:]
		if utf8.RuneStart(rest[0]) {
			return !utf8.FullRune(rest) && utf8.Valid(whole) && utf8.RuneCount(whole) < len(whole)
		}
	}
	return false
}

// Decode reads a text in the encoding that Detect finds, without its byte order mark. What is not valid in UTF-16 becomes
// U+FFFD. It fails only where a decoder does, which these do not.
func Decode(text []byte) (string, error) {
	e := Detect(text)
	for _, mark := range []string{"\xef\xbb\xbf", "\xff\xfe", "\xfe\xff"} {
		if rest, marked := bytes.CutPrefix(text, []byte(mark)); marked && e != Windows1252 {
			text = rest
			break
		}
	}
	decoder, other := decoders[e]
	if !other {
		return string(bytes.ToValidUTF8(text, []byte("\ufffd"))), nil
	}
	read, err := decoder.NewDecoder().Bytes(text)
	if err != nil {
		return "", fmt.Errorf("reading text as %s: %w", e, err)
	}
	return string(read), nil
}
