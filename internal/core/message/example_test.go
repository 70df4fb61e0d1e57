package message_test

import (
	"fmt"

	"dapper.example/internal/core/message"
)

// Where a message is too long, hashtags go first, then the excerpt is shortened at a word.
func ExampleCompose() {
	w, err := message.ReadWording("{title}: {excerpt} {link}")
	if err != nil {
		panic(err)
	}
	post := message.Post{Title: "Cables", Excerpt: "White tape that can be found in the dark.", Link: "https://dome.example/cables"}
	m, err := message.Compose(w, post, message.Hashtags{}, message.Limits{Graphemes: 60})
	fmt.Println(m.Text, err)
	fmt.Println(m.Graphemes, m.Fit)
	// Output:
	// Cables: White tape that can be… https://dome.example/cables <nil>
	// 59 shortened the excerpt
}
