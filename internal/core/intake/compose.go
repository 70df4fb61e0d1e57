package intake

import (
	"fmt"
	"maps"
	"regexp"
	"strings"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/message"
)

// template is text with columns and entries of lists in it.
type template struct{ pieces []piece }

type piece struct {
	of   kind
	text string
}

type kind int

const (
	plain kind = iota
	column
	oneOf
)

var kinds = map[string]kind{"column": column, string(message.OneOf): oneOf}

// readTemplate reads a template, and says in a sentence what is wrong with it.
func readTemplate(text string) (t template, problem string) {
	if len(text) > MaxTemplate {
		return t, fmt.Sprintf("This is longer than %d kB.", MaxTemplate/1000)
	}
	var out strings.Builder
	flush := func() {
		if out.Len() > 0 {
			t.pieces = append(t.pieces, piece{plain, out.String()})
			out.Reset()
		}
	}
	for rest := text; rest != ""; {
		i := strings.IndexAny(rest, "{}")
		if i < 0 {
			out.WriteString(rest)
			break
		}
		out.WriteString(rest[:i])
		brace := rest[i]
		if rest = rest[i+1:]; rest != "" && rest[0] == brace {
			out.WriteByte(brace)
			rest = rest[1:]
			continue
		}
		inside, after, closed := strings.Cut(rest, "}")
		if brace == '}' || !closed {
			return t, "A brace stands alone. Double it to have it in the text."
		}
		name, value, _ := strings.Cut(inside, ":")
		of, known := kinds[name]
		if value = strings.TrimSpace(value); !known || value == "" {
			return t, fmt.Sprintf("There is no {%s}. Write {column:NAME}, {column:3} or {one-of:NAME}.", named(inside))
		}
		flush()
		t.pieces, rest = append(t.pieces, piece{of, value}), after
	}
	flush()
	return t, ""
}

// say is what a template comes to for a line; nothing where it names columns and all of them are empty.
func (t template) say(l *line, chance uint64) string {
	text, columns, filled := t.whole(l, chance)
	if columns > 0 && filled == 0 {
		return ""
	}
	return text
}

// whole is what a template comes to for a line, how many columns it names, and how many of them are filled.
func (t template) whole(l *line, chance uint64) (text string, columns, filled int) {
	var out strings.Builder
	for i, p := range t.pieces {
		switch p.of {
		case plain:
			out.WriteString(p.text)
		case column:
			columns++
			if at, ok := columnOf(l.from.Columns, p.text); ok && at < len(l.from.Columns) {
				value := strings.TrimSpace(l.from.Columns[at].Value)
				if value != "" {
					filled++
				}
				out.WriteString(value)
			}
		case oneOf:
			out.WriteString(l.draw(p.text, cadence.Mix(chance, uint64(i))))
		}
	}
	return strings.TrimSpace(out.String()), columns, filled
}

// compose makes the post's texts of the line and its columns.
func (l *line) compose() error {
	a := l.from.Article
	fields := maps.Clone(a.Fields)
	if fields == nil {
		fields = make(map[string]string)
	}
	format := a.Format
	for n, field := range FieldsToFill() {
		t, there := l.fill[field]
		if !there {
			continue
		}
		said := a.text(field)
		if !l.recipe.Fill[field].Always && strings.TrimSpace(said) != "" {
			continue
		}
		value := t.say(l, cadence.Mix(l.seed, uint64(n)))
		if field == Tags { // an empty column is one tag less
			value, _, _ = t.whole(l, cadence.Mix(l.seed, uint64(n)))
		}
		if value != "" {
			a.set(field, value)
			if field == Body {
				format = ""
			}
		}
	}
	for n, f := range l.fields {
		if value := f.say(l, cadence.Mix(l.seed, fieldChance, uint64(n))); value != "" && fields[f.name] == "" {
			fields[f.name] = value
		}
	}
	if l.recipe.Format != "" {
		format = l.recipe.Format
	}
	if format == "" {
		format = guessFormat(a.Body)
	}
	l.from.Format = format
	l.date = strings.TrimSpace(a.Date)
	l.post = Post{Title: a.Title, Body: a.Body, Excerpt: a.Excerpt, Slug: a.Slug, Category: strings.TrimSpace(a.Category), Tags: trimTags(a.Tags),
		Author: strings.TrimSpace(a.Author), Page: letters.Equal(strings.TrimSpace(a.Kind), "page"), Linked: letters.Equal(strings.TrimSpace(a.Kind), "link"), Status: a.Status, Picture: strings.TrimSpace(a.Picture),
		Alt: strings.TrimSpace(a.Alt), Link: strings.TrimSpace(a.Link), Care: a.Care}
	if len(fields) > 0 {
		l.post.Fields = fields
	}
	return nil
}

// fieldChance keeps the chance of custom fields apart from that of others.
const fieldChance = 1 << 32

// at is where a field of an article is kept; nil for tags.
func (a *Article) at(f Field) *string {
	switch f {
	case Title:
		return &a.Title
	case Body:
		return &a.Body
	case Excerpt:
		return &a.Excerpt
	case Slug:
		return &a.Slug
	case Category:
		return &a.Category
	case Author:
		return &a.Author
	case Kind:
		return &a.Kind
	case Date:
		return &a.Date
	case Picture:
		return &a.Picture
	case Alt:
		return &a.Alt
	case Link:
		return &a.Link
	}
	return nil
}

func (a *Article) text(f Field) string {
	if at := a.at(f); at != nil {
		return *at
	}
	return strings.Join(a.Tags, ", ")
}

func (a *Article) set(f Field, text string) {
	if at := a.at(f); at != nil {
		*at = text
		return
	}
	a.Tags = ParseTags(text)
}

// tagged finds tags of HTML as articles have them.
var tagged = regexp.MustCompile(`(?i)<(p|br|div|h[1-6]|ul|ol|li|table|a|img|strong|em|b|i|blockquote)(\s[^>]*)?/?>`)

// guessFormat says how a body is written: as HTML where it has tags that articles have, else as Markdown.
func guessFormat(body string) Format {
	if tagged.MatchString(body) {
		return HTML
	}
	return Markdown
}

// guesses are the headings by which fields are known, in small letters.
var guesses = map[string]Field{
	"title": Title, "headline": Title, "heading": Title, "name": Title, "subject": Title,
	"body": Body, "text": Body, "content": Body, "article": Body, "html": Body, "markdown": Body, "copy": Body,
	"excerpt": Excerpt, "summary": Excerpt, "description": Excerpt, "teaser": Excerpt, "intro": Excerpt, "standfirst": Excerpt,
	"slug": Slug, "category": Category, "section": Category, "topic": Category,
	"tags": Tags, "tag": Tags, "keywords": Tags, "labels": Tags,
	"author": Author, "writer": Author, "by": Author, "byline": Author,
	"type": Kind, "kind": Kind, "date": Date, "published": Date, "publish date": Date, "publication date": Date, "when": Date, "published at": Date,
	"image": Picture, "picture": Picture, "photo": Picture, "featured image": Picture, "file": Picture, "image file": Picture,
	"alt": Alt, "alt text": Alt, "picture description": Alt, "caption": Alt,
	"link": Link, "url": Link, "address": Link, "source": Link,
}

// keys are the headings by which the column is known that lines are known again by.
var keys = []string{"id", "key", "number", "no", "no.", "nr", "sku", "guid", "code"}

// Guess says what the columns of a sheet are for, by their headings, and which of them lines may be known again by; "" for none.
// A text of which nothing is guessed stays for the editor.
func Guess(headings []string) (fill map[Field]Fill, key string) {
	fill = make(map[Field]Fill)
	for _, h := range headings {
		folded := strings.ToLower(strings.Join(strings.FieldsFunc(h, func(r rune) bool { return r == ' ' || r == '_' || r == '-' }), " "))
		if field, known := guesses[folded]; known && fill[field].Text == "" {
			fill[field] = Fill{Text: "{column:" + strings.TrimSpace(h) + "}"}
		}
	}
	for _, k := range keys {
		for _, h := range headings {
			if key == "" && strings.EqualFold(strings.TrimSpace(h), k) {
				key = strings.TrimSpace(h)
			}
		}
	}
	return fill, key
}
