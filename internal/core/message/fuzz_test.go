package message_test

import (
	"strings"
	"testing"

	"dapper.example/internal/core/message"
	"dapper.example/internal/limited"
)

// Whatever a wording and a post say, what is composed fits, or it is said why it does not.
func FuzzCompose(f *testing.F) {
	f.Add("{title} {link}", "First light", "One. Two.", "a b c", uint16(300), uint16(0), uint8(23))
	f.Add("({link}) {{x}} {excerpt} {hashtags}", "日本語の題名", "一つの文。もう一つの文。", "日本", uint16(60), uint16(0), uint8(0))
	f.Add("{line}{line}{line} http://a.bc", "http://a.bc http://a.bc", "e"+strings.Repeat("\u0301", 500), "",
		uint16(10), uint16(40), uint8(1))
	f.Add("{field:x} {category} {author} {", "👩‍👩‍👧‍👧🇨🇦", "\u202e", "#", uint16(0), uint16(0), uint8(200))
	f.Fuzz(func(t *testing.T, wording, title, excerpt, tag string, graphemes, bytes uint16, link uint8) {
		limited.Work(t, 200, func() {
			w, err := message.ReadWording(wording)
			if err != nil {
				return
			}
			limits := message.Limits{Graphemes: int(graphemes), Bytes: int(bytes),
				Links: message.Links{Schemes: []string{"http", "https"}, Cost: int(link)}}
			made, err := message.Compose(w, message.Post{Title: title, Excerpt: excerpt, Line: excerpt,
				Link: "https://dome.example/p", Tags: []string{tag}, Fields: map[string]string{"x": tag}},
				message.Hashtags{Sources: []message.Source{message.FromTags}}, limits)
			if err == nil && limits.Over(made.Text) > 0 {
				t.Fatalf("%q is %d over", made.Text, limits.Over(made.Text))
			}
		})
	})
}
