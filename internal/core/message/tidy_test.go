package message_test

import (
	"testing"

	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/message"
)

// What empty placeholders leave behind is one space, or at most one empty line.
func TestWhatEmptyValuesLeaveIsJoined(t *testing.T) {
	t.Parallel()
	for wording, want := range map[string]string{
		"{title}":                         "Cables",
		"  {title} {line}  {link} ":       "Cables L",
		"{title}\t{line}\t{link}":         "Cables L",
		"{title} {line} \n {line} {link}": "Cables\nL",
		"{title}\r\n{line}\r\n\r\n{link}": "Cables\n\nL",
		"\n\n{line}\n{title}\n":           "Cables",
		"{line} {line}{title} {line}":     "Cables",
	} {
		w, err := message.ReadWording(wording)
		require.NoError(t, err)
		m, err := message.Compose(w, message.Post{Title: "Cables", Link: "L"}, message.Hashtags{}, message.Limits{Graphemes: 100})
		require.NoError(t, err)
		require.Equal(t, want, m.Text, "%q", wording)
	}
}
