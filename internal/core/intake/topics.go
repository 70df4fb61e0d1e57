package intake

import (
	"strings"

	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"

	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/words"
)

// visible is what readers would see of title and body.
func (l *line) visible() string {
	if l.text == "" {
		l.text = l.post.Title + "\n" + l.visibleBody()
	}
	return l.text
}

func (l *line) visibleBody() string {
	if l.from.Format == HTML {
		return visibleText(l.post.Body)
	}
	return l.post.Body
}

// visibleText is the text of HTML, without scripts and styles.
func visibleText(source string) string {
	var out strings.Builder
	hidden := atom.Atom(0)
	z := html.NewTokenizer(strings.NewReader(source))
	for {
		switch z.Next() {
		case html.ErrorToken:
			return out.String()
		case html.StartTagToken:
			name, _ := z.TagName()
			if a := atom.Lookup(name); a == atom.Script || a == atom.Style {
				hidden = a
			} else if !inline[a] {
				out.WriteByte('\n')
			}
		case html.EndTagToken:
			name, _ := z.TagName()
			if a := atom.Lookup(name); a == hidden {
				hidden = 0
			} else if !inline[a] {
				out.WriteByte('\n')
			}
		case html.TextToken:
			if hidden == 0 {
				out.Write(z.Text())
			}
		}
	}
}

// inline are elements that part no words.
var inline = map[atom.Atom]bool{atom.A: true, atom.B: true, atom.I: true, atom.Em: true, atom.Strong: true, atom.Span: true, atom.Code: true, atom.U: true,
	atom.S: true, atom.Sub: true, atom.Sup: true, atom.Mark: true, atom.Small: true, atom.Abbr: true, atom.Cite: true, atom.Q: true, atom.Del: true, atom.Ins: true}

// occurring is the first of a topic's words that a text has.
func occurring(text string, all []string) (word string, ok bool) {
	for _, w := range all {
		if letters.HasWord(text, letters.Fold(strings.Join(strings.Fields(w), " "))) {
			return w, true
		}
	}
	return "", false
}

// findTopics finds a category for a line without one, and tags.
func (l *line) findTopics() error {
	if l.post.Category == "" {
		for _, t := range l.recipe.Categories {
			if w, ok := occurring(l.visible(), t.Words); ok {
				l.post.Category = strings.TrimSpace(t.Name)
				l.note("Category %s, since “%s” occurs.", l.post.Category, named(w))
				break
			}
		}
	}
	for _, t := range l.recipe.Tags {
		if w, ok := occurring(l.visible(), t.Words); ok {
			before := len(l.post.Tags)
			if l.post.Tags = trimTags(append(l.post.Tags, t.Name)); len(l.post.Tags) > before {
				l.note("Tagged %s, since “%s” occurs.", strings.TrimSpace(t.Name), named(w))
			}
		}
	}
	return nil
}

// require leaves a line out that has not what is asked for.
func (l *line) require() error {
	for i, w := range l.must {
		if !letters.HasWord(l.visible(), w) {
			l.leave("It doesn't have “%s”.", named(l.recipe.Must[i]))
			return nil
		}
	}
	for i, w := range l.not {
		if letters.HasWord(l.visible(), w) {
			l.leave("It has “%s”.", named(l.recipe.MustNot[i]))
			return nil
		}
	}
	for _, one := range []struct {
		what   string
		text   func() string
		bounds Range
	}{{"title", func() string { return l.post.Title }, l.recipe.Title}, {"text", l.visibleBody, l.recipe.Body}} {
		if one.bounds == (Range{}) {
			continue
		}
		n := words.In(one.text())
		switch {
		case n < one.bounds.Fewest:
			l.leave("Its %s has %s; at least %d are asked for.", one.what, words.Count(n, "word"), one.bounds.Fewest)
			return nil
		case one.bounds.Most > 0 && n > one.bounds.Most:
			l.leave("Its %s has %s; at most %d are asked for.", one.what, words.Count(n, "word"), one.bounds.Most)
			return nil
		}
	}
	return nil
}
