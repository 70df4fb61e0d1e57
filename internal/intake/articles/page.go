package articles

import (
	"dapper.example/internal/core/intake"
	"dapper.example/internal/intake/charset"
)

// Page is what a web page says: its own part, without what stands around it.
type Page struct {
	Title string
	Text  string // Markdown
	Tags  []string
}

// ReadPage reads a page of HTML, in whatever encoding; why says, in a sentence, why it can't be read.
func ReadPage(data []byte) (p Page, why string) {
	if isOther(data) {
		return p, "It is no web page."
	}
	source, err := charset.Decode(data)
	if err != nil {
		return p, "Its letters can't be read."
	}
	var l intake.Line
	l.Body = source
	if why := decodeHTML(&l); why != "" {
		return p, why
	}
	p = Page{Title: l.Title, Tags: l.Tags}
	p.Text, why = intake.TextOfPage(l.Body)
	return p, why
}
