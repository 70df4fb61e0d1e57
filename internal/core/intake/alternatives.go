package intake

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/message"
)

// drawn finds {one-of:NAME} in texts of a source; all other braces there are text.
var drawn = regexp.MustCompile(`\{one-of:([^{}\n]{1,60})\}`)

const mostDrawn = 200 // of one text

// drawAlternatives puts an entry of a list in the place of each {one-of:NAME} of title, excerpt, body and custom fields.
func (l *line) drawAlternatives() error {
	l.post.Title = l.withAlternatives(l.post.Title, 1)
	l.post.Excerpt = l.withAlternatives(l.post.Excerpt, 2)
	l.post.Body = l.withAlternatives(l.post.Body, 3)
	for name, text := range l.post.Fields {
		l.post.Fields[name] = l.withAlternatives(text, keyHash(name))
	}
	return nil
}

func (l *line) withAlternatives(text string, chance uint64) string {
	if !strings.Contains(text, "{one-of:") && !strings.Contains(text, `{one\-of:`) {
		return text
	}
	n := 0
	return drawn.ReplaceAllStringFunc(text, func(found string) string {
		if n++; n > mostDrawn {
			return found
		}
		name := strings.TrimSpace(drawn.FindStringSubmatch(found)[1])
		if !l.place.Lists.Has(name) {
			l.note("There is no word list “%s”, so its place in the text stays as it is.", named(name))
			return found
		}
		return l.draw(name, cadence.Mix(l.seed, chance, uint64(n)))
	})
}

// draw is an entry of a list with what the line says in its own placeholders.
func (l *line) draw(name string, chance uint64) string {
	w, _ := l.place.Lists.One(name, chance)
	return w.Fill(func(p message.Placeholder, field string) string {
		switch p {
		case message.Title:
			return l.post.Title
		case message.Excerpt:
			return l.post.Excerpt
		case message.Category:
			return l.post.Category
		case message.Author:
			return l.post.Author
		case message.Link:
			return l.post.Link
		case message.Field:
			return l.post.Fields[field]
		}
		return ""
	})
}

// seePicture finds the pictures that the post names among those of its source, and sees to a line without a picture.
func (l *line) seePicture() error {
	if err := l.inText(); err != nil || l.out.Left != "" {
		return err
	}
	if p := l.post.Picture; p != "" {
		if file, ok := l.ofSource(p); ok {
			l.post.Picture = l.mark(file)
		} else if !isAddress(p) {
			l.note("The picture “%s” is not among the files.", named(p))
			l.post.Picture = ""
		}
	}
	if l.post.Picture == "" {
		switch l.recipe.NoPicture {
		case PictureLeave:
			l.leave("It has no picture.")
		case PictureDefault:
			l.post.Picture = l.recipe.PictureElse
		}
	}
	return nil
}

// isAddress tells whether a picture lies elsewhere, or in the blog's library.
func isAddress(text string) bool {
	return strings.HasPrefix(text, "/") && strings.Contains(text, "/pictures/") || strings.HasPrefix(text, "https://") || strings.HasPrefix(text, "http://")
}

// ofSource is the picture of the source that a text means.
func (l *line) ofSource(meant string) (file string, ok bool) {
	if number, own := strings.CutPrefix(meant, ownPicture); own {
		n, err := strconv.Atoi(number)
		if err != nil || n < 0 || n >= len(l.from.Own) {
			return "", false
		}
		return l.from.Own[n], true
	}
	if strings.Contains(meant, ":") || strings.HasPrefix(meant, "#") {
		return "", false
	}
	return l.place.Pictures.Find(l.from.File, meant)
}

// mark stands for a picture of the source.
func (l *line) mark(file string) string {
	for i, one := range l.post.Pictures {
		if one == file {
			return PictureMark(i)
		}
	}
	l.post.Pictures = append(l.post.Pictures, file)
	return PictureMark(len(l.post.Pictures) - 1)
}

// shown finds the pictures of Markdown and of HTML in it, with what they are called.
var shown = regexp.MustCompile(`(!\[[^\]\n]*\]\(\s*)(<[^>\n]+>|[^)\s]+)|(<img\b[^>]*?\bsrc=["'])([^"'>]+)|(?m)(^\s{0,3}\[[^\]\n]+\]:\s*)(<[^>\n]+>|\S+)`)

// inText puts marks in the place of the pictures in the text that the source has.
func (l *line) inText() error {
	l.post.Body = shown.ReplaceAllStringFunc(l.post.Body, func(found string) string {
		parts := shown.FindStringSubmatch(found)
		before, meant := parts[1]+parts[3]+parts[5], parts[2]+parts[4]+parts[6]
		meant = strings.TrimSuffix(strings.TrimPrefix(meant, "<"), ">")
		if file, ok := l.ofSource(unescaped(meant)); ok {
			return before + l.mark(file)
		}
		if parts[5] == "" && !isAddress(meant) && !strings.Contains(meant, ":") {
			l.note("The picture “%s” is not among the files.", named(meant))
		}
		return found
	})
	return nil
}

// unescaped is a path as a file has it, of one in an address (RFC 3986, section 2.1) or in Markdown.
func unescaped(path string) string {
	var out strings.Builder
	for i := 0; i < len(path); i++ {
		var b byte
		if path[i] == '%' && i+2 < len(path) {
			if _, err := fmt.Sscanf(path[i+1:i+3], "%02x", &b); err == nil {
				out.WriteByte(b)
				i += 2
				continue
			}
		}
		if path[i] == '\\' && i+1 < len(path) {
			continue
		}
		out.WriteByte(path[i])
	}
	return out.String()
}
