package message

import (
	"fmt"
	"slices"
	"strings"

	"dapper.example/internal/core/letters"
)

// Placeholder names what a wording may take from a post.
type Placeholder string

// The placeholders, written in single braces; a custom field is {field:NAME}.
const (
	Title    Placeholder = "title"
	Excerpt  Placeholder = "excerpt"
	Link     Placeholder = "link"
	Category Placeholder = "category"
	Author   Placeholder = "author"
	Line     Placeholder = "line"
	Hashtag  Placeholder = "hashtags"
	Field    Placeholder = "field"
)

// Placeholders lists those that stand by themselves.
var Placeholders = []Placeholder{Title, Excerpt, Link, Category, Author, Line, Hashtag}

// Wording is a text with placeholders, read once and used for many posts.
type Wording struct {
	text   string
	pieces []piece
	uses   map[Placeholder]bool
}

// piece is text as it stands, or a placeholder; of a custom field or a list, text is its name.
type piece struct {
	name Placeholder
	text string
}

// Refused says what is wrong with a wording, in a sentence for the editor.
type Refused struct{ Message string }

// Error returns the sentence.
func (e *Refused) Error() string { return e.Message }

func refuse(format string, args ...any) error { return &Refused{fmt.Sprintf(format, args...)} }

// MaxWording is the longest wording, in graphemes.
const MaxWording = 5000

// ReadWording reads a wording. A brace that is meant as such is doubled. It fails
// with *Refused where a placeholder is unknown or a brace stands alone.
func ReadWording(text string) (Wording, error) {
	w := Wording{text: text, uses: make(map[Placeholder]bool)}
	if strings.TrimSpace(text) == "" {
		return w, refuse("The wording is empty. Write at least {title} {link}.")
	}
	if n := letters.Length(text, MaxWording); n > MaxWording {
		return w, refuse("The wording has %d characters; it may have %d at most.", n, MaxWording)
	}
	var plain strings.Builder
	flush := func() {
		if plain.Len() > 0 {
			w.pieces = append(w.pieces, piece{text: plain.String()})
			plain.Reset()
		}
	}
	for rest := text; rest != ""; {
		i := strings.IndexAny(rest, "{}")
		if i < 0 {
			plain.WriteString(rest)
			break
		}
		plain.WriteString(rest[:i])
		brace := rest[i]
		rest = rest[i+1:]
		if rest != "" && rest[0] == brace { // doubled: meant as such
			plain.WriteByte(brace)
			rest = rest[1:]
			continue
		}
		if brace == '}' {
			return w, refuse("There is a } on its own. Write }} for a brace.")
		}
		end := strings.IndexByte(rest, '}')
		if end < 0 {
			return w, refuse("The placeholder {%s is not closed. Write {{ for a plain brace.", clip(rest))
		}
		p, err := placeholder(rest[:end])
		if err != nil {
			return w, err
		}
		flush()
		w.pieces = append(w.pieces, p)
		w.uses[p.name] = true
		rest = rest[end+1:]
	}
	flush()
	return w, nil
}

func placeholder(name string) (piece, error) {
	if slices.Contains(Placeholders, Placeholder(name)) {
		return piece{name: Placeholder(name)}, nil
	}
	for _, named := range []Placeholder{Field, OneOf} {
		if of, ok := strings.CutPrefix(name, string(named)+":"); ok && strings.TrimSpace(of) != "" {
			return piece{named, strings.TrimSpace(of)}, nil
		}
	}
	var known []string
	for _, p := range Placeholders {
		known = append(known, "{"+string(p)+"}")
	}
	return piece{}, refuse("There is no placeholder {%s}. Use %s, {field:NAME} or {one-of:NAME}.", clip(name),
		strings.Join(known, ", "))
}

func clip(text string) string {
	if r := []rune(text); len(r) > 30 {
		return string(r[:30]) + ellipsis
	}
	return text
}

// String returns the wording as it was written.
func (w Wording) String() string { return w.text }

// Uses tells whether the wording has the placeholder.
func (w Wording) Uses(p Placeholder) bool { return w.uses[p] }

// Escape is a text as a wording that says just it.
func Escape(text string) string {
	return strings.NewReplacer("{", "{{", "}", "}}").Replace(text)
}

// WithLine is the text of the wording with a line in the place of {line}; its other placeholders stay.
func (w Wording) WithLine(line string) string {
	var out strings.Builder
	for _, p := range w.pieces {
		switch p.name {
		case "":
			out.WriteString(Escape(p.text))
		case Line:
			out.WriteString(Escape(line))
		case Field, OneOf:
			out.WriteString("{" + string(p.name) + ":" + p.text + "}")
		default:
			out.WriteString("{" + string(p.name) + "}")
		}
	}
	return out.String()
}

// Fill is what a wording says with a value for each of its placeholders, by its name and for {field:NAME} and
// {one-of:NAME} that of the field or list.
func (w Wording) Fill(value func(p Placeholder, name string) string) string {
	var out strings.Builder
	for _, p := range w.pieces {
		if p.name == "" {
			out.WriteString(p.text)
		} else {
			out.WriteString(value(p.name, p.text))
		}
	}
	return out.String()
}
