package comment_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/comment"
)

func TestWhetherAPostTakesComments(t *testing.T) {
	lisbon, err := civil.LoadZone("Europe/Lisbon")
	require.NoError(t, err)
	// Lisbon's clocks go back on 25 October 2026: seven days by the calendar are 169 hours.
	out := time.Date(2026, 10, 22, 11, 0, 0, 0, time.UTC) // noon in Lisbon
	week := comment.Rules{Open: true, Days: 7}
	for name, c := range map[string]struct {
		rules     comment.Rules
		ticked    bool
		published time.Time
		at        time.Time
		want      bool
	}{
		"for ever":           {comment.Rules{Open: true}, true, out, out.AddDate(10, 0, 0), true},
		"not here":           {comment.Rules{}, true, out, out, false},
		"not on this post":   {comment.Rules{Open: true}, false, out, out, false},
		"not out":            {comment.Rules{Open: true}, true, time.Time{}, out, false},
		"at once":            {week, true, out, out, true},
		"the last moment":    {week, true, out, out.Add(169*time.Hour - time.Nanosecond), true},
		"seven days later":   {week, true, out, out.Add(169 * time.Hour), false},
		"closed and not out": {week, true, time.Time{}, out, false},
	} {
		assert.Equal(t, c.want, c.rules.IsOpen(c.ticked, c.published, lisbon, c.at), name)
	}
}

func TestWhatWaitsForApproval(t *testing.T) {
	for _, c := range []struct {
		hold  comment.Hold
		known bool
		want  comment.Status
	}{
		{comment.HoldAll, false, comment.Held}, {comment.HoldAll, true, comment.Held},
		{comment.HoldUnknown, false, comment.Held}, {comment.HoldUnknown, true, comment.Shown},
		{"", true, comment.Held},
	} {
		assert.Equal(t, c.want, comment.Rules{Hold: c.hold}.Fate(c.known), "%s %t", c.hold, c.known)
	}
}

func TestCommentsAreReadAsTheyAreKept(t *testing.T) {
	rules := comment.Rules{Links: 2}
	kept, problems := rules.Read(comment.Written{Name: "  Tam\n  Okonedo ", Text: "\r\n Hello.\r\n\r\n\r\n\r\nMore\rlines.\x00\u202e \n"})
	assert.Empty(t, problems)
	assert.Equal(t, comment.Written{Name: "Tam Okonedo", Text: "Hello.\n\nMore\nlines."}, kept)
	for name, c := range map[string]struct {
		written     comment.Written
		field, says string
	}{
		"no name":           {comment.Written{Text: "x"}, "name", "Enter the name"},
		"spaces":            {comment.Written{Name: " \u200b\u202e ", Text: "x"}, "name", "Enter the name"},
		"a long name":       {comment.Written{Name: strings.Repeat("x", 81), Text: "x"}, "name", "longer than 80"},
		"no text":           {comment.Written{Name: "x", Text: " \n\u200d\n"}, "text", "Write something"},
		"a long text":       {comment.Written{Name: "x", Text: strings.Repeat("é", 5001)}, "text", "longer than 5000"},
		"a very long text":  {comment.Written{Name: "x", Text: strings.Repeat("http://x.example ", 100_000)}, "text", "longer than 5000"},
		"three links":       {comment.Written{Name: "x", Text: "http://a.example HTTPS://b.example www.c.example"}, "text", "2 links at most"},
		"two hundred links": {comment.Written{Name: "x", Text: strings.Repeat("http://a.b ", 200)}, "text", "2 links at most"},
	} {
		_, problems := rules.Read(c.written)
		require.Len(t, problems, 1, name)
		assert.Equal(t, c.field, problems[0].Field, name)
		assert.Contains(t, problems[0].Message, c.says, name)
	}
	_, problems = comment.Rules{}.Read(comment.Written{Name: "x", Text: "http://a.example"})
	require.Len(t, problems, 1)
	assert.Contains(t, problems[0].Message, "Links are not allowed")
	_, problems = comment.Rules{Links: 1}.Read(comment.Written{Name: "مريم", Text: "👨‍👩‍👧 https://a.example"})
	assert.Empty(t, problems)
}

func TestHowCommentsAreShown(t *testing.T) {
	text := func(s string) comment.Piece { return comment.Piece{Text: s} }
	link := func(s string) comment.Piece { return comment.Piece{Text: s, Address: s} }
	for written, want := range map[string][]comment.Paragraph{
		"One.\nTwo.\n\nThree.":              {{{text("One.")}, {text("Two.")}}, {{text("Three.")}}},
		"See https://a.example/x?y=1.":      {{{text("See "), link("https://a.example/x?y=1"), text(".")}}},
		"(http://a.example)":                {{{text("("), link("http://a.example"), text(")")}}},
		"http://a.example http://b.example": {{{link("http://a.example"), text(" "), link("http://b.example")}}},
		"javascript:alert(1)":               {{{text("javascript:alert(1)")}}},
		"<script>https://x\"onload=1":       {{{text("<script>"), link("https://x"), text("\"onload=1")}}},
		"https://":                          {{{text("https://")}}},
		"":                                  {{{text("")}}},
	} {
		assert.Equal(t, want, comment.Paragraphs(written), written)
	}
}

// Nothing of a text is lost or added where it is shown, and links are of the web alone.
func TestNothingIsLostWhereACommentIsShown(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		kept, _ := comment.Rules{Links: 9}.Read(comment.Written{Name: "x", Text: rapid.StringOf(rapid.SampledFrom([]rune("ab \nh:/tps.<>\"')"))).Draw(t, "text")})
		var parts []string
		for _, p := range comment.Paragraphs(kept.Text) {
			var lines []string
			for _, l := range p {
				line := ""
				for _, piece := range l {
					line += piece.Text
					if piece.Address != "" && !strings.HasPrefix(strings.ToLower(piece.Address), "http") {
						t.Fatalf("a link to %q", piece.Address)
					}
				}
				lines = append(lines, line)
			}
			parts = append(parts, strings.Join(lines, "\n"))
		}
		if got := strings.Join(parts, "\n\n"); got != kept.Text {
			t.Fatalf("%q is shown as %q", kept.Text, got)
		}
	})
}

func ExampleParagraphs() {
	for _, p := range comment.Paragraphs("Lovely.\n\nSee https://dome.example!") {
		fmt.Println(p)
	}
	// Output:
	// [[{Lovely. }]]
	// [[{See  } {https://dome.example https://dome.example} {! }]]
}
