// Package letter makes a message into a mail: a subject, plain text and HTML that say the same. It is pure.
package letter

import (
	"html"
	"strings"
	"unicode/utf8"

	"dapper.example/internal/core/message"
)

// Mail is what a subscriber gets.
type Mail struct{ Subject, Text, HTML string }

// About is what stands around a message.
type About struct {
	Blog string // its title
	End  string // the address at which one ends it
}

// subjectSize is the longest subject, in characters.
const subjectSize = 78

var links = message.Links{Schemes: []string{"http", "https"}}

// Of makes a message into a mail. The subject is its first line, cut short at a word, without links.
func Of(text string, about About) Mail {
	text = strings.TrimSpace(strings.ReplaceAll(text, "\r\n", "\n"))
	why := "You get this mail because you asked for it on “" + about.Blog + "”."
	var body strings.Builder
	body.WriteString("<!doctype html>\n<html><body style=\"font: 16px/1.5 Georgia, serif; max-width: 36em; margin: 0 auto; padding: 1em\">\n")
	for paragraph := range strings.SplitSeq(text, "\n\n") {
		if paragraph = strings.TrimSpace(paragraph); paragraph != "" {
			body.WriteString("<p>" + linked(paragraph) + "</p>\n")
		}
	}
	body.WriteString("<hr>\n<p><small>" + html.EscapeString(why) + " <a href=\"" + html.EscapeString(about.End) + "\">Unsubscribe</a></small></p>\n</body></html>\n")
	return Mail{Subject: subject(text, about.Blog), Text: text + "\n\n-- \n" + why + "\nUnsubscribe: " + about.End + "\n", HTML: body.String()}
}

// linked is a paragraph as HTML, its links as anchors.
func linked(text string) string {
	var out strings.Builder
	from := 0
	for _, link := range links.Find(text) {
		at := html.EscapeString(text[link.From:link.To])
		out.WriteString(escaped(text[from:link.From]) + "<a href=\"" + at + "\">" + at + "</a>")
		from = link.To
	}
	out.WriteString(escaped(text[from:]))
	return out.String()
}

func escaped(text string) string { return strings.ReplaceAll(html.EscapeString(text), "\n", "<br>\n") }

// subject is the first line of a text that has words beside links; the blog's title where none has.
func subject(text, blog string) string {
	for line := range strings.SplitSeq(text, "\n") {
		for _, link := range links.Find(line) {
			line = strings.Replace(line, line[link.From:link.To], strings.Repeat(" ", link.To-link.From), 1)
		}
		line = strings.Join(strings.FieldsFunc(line, func(r rune) bool { return r <= ' ' || r == 0x7f }), " ")
		if line == "" {
			continue
		}
		if utf8.RuneCountInString(line) <= subjectSize {
			return line
		}
		cut := string([]rune(line)[:subjectSize-1])
		if at := strings.LastIndex(cut, " "); at > subjectSize/2 {
			cut = cut[:at]
		}
		return cut + "…"
	}
	return blog
}
