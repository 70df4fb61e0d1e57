// Package pattern expands the patterns by which posts that go elsewhere get their files and addresses there, such as
// posts/{year}/{slug}.md and https://notes.example/{slug}/. The package is pure.
package pattern

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"dapper.example/internal/core/civil"
)

// Values are what a pattern takes of a post.
type Values struct {
	Slug     string     // its name in addresses
	Category string     // that of its category; "" where it has none
	First    civil.Date // on which it first came out, by the site's clocks; so it stays where it is when it comes out again
}

// NoCategory stands for the category of a post that has none.
const NoCategory = "no-category"

// names are the placeholders that there are, each with what it takes.
var names = []struct {
	name string
	of   func(Values) string
}{
	{"slug", func(v Values) string { return v.Slug }},
	{"category", func(v Values) string {
		if v.Category == "" {
			return NoCategory
		}
		return v.Category
	}},
	// A date is written as 2006-01-02.
	{"year", func(v Values) string { return v.First.String()[:4] }},
	{"month", func(v Values) string { return v.First.String()[5:7] }},
	{"day", func(v Values) string { return v.First.String()[8:] }},
}

// Names lists the placeholders, in braces.
func Names() (all []string) {
	for _, n := range names {
		all = append(all, "{"+n.name+"}")
	}
	return all
}

// Pattern is a text with placeholders.
type Pattern struct{ parts []part }

// part is a text, or what a placeholder takes.
type part struct {
	text string
	of   func(Values) string
}

// Of is what a pattern gives for a post.
func (p Pattern) Of(v Values) string {
	var out strings.Builder
	for _, one := range p.parts {
		if one.of != nil {
			out.WriteString(one.of(v))
		} else {
			out.WriteString(one.text)
		}
	}
	return out.String()
}

// MaxLength is the longest pattern, in bytes.
const MaxLength = 200

// parse reads a pattern; problem says what is wrong with it, "" where nothing is.
func parse(text string) (p Pattern, problem string) {
	if len(text) > MaxLength {
		return p, fmt.Sprintf("This is longer than %d characters. Shorten it.", MaxLength)
	}
	for rest := text; rest != ""; {
		before, after, braced := strings.Cut(rest, "{")
		if strings.Contains(before, "}") {
			return p, "There is a } without its {. Take it out."
		}
		if before != "" {
			p.parts = append(p.parts, part{text: before})
		}
		if !braced {
			break
		}
		name, next, closed := strings.Cut(after, "}")
		if !closed {
			return p, "There is a { without its }. Close it, or take it out."
		}
		at := slices.IndexFunc(names, func(n struct {
			name string
			of   func(Values) string
		}) bool {
			return n.name == name
		})
		if at < 0 {
			return p, fmt.Sprintf("There is no placeholder {%s}. There are %s.", name, strings.Join(Names(), ", "))
		}
		p.parts = append(p.parts, part{of: names[at].of})
		rest = next
	}
	if !strings.Contains(text, "{slug}") {
		return p, "Put {slug} in, so that each post has a place of its own."
	}
	return p, ""
}

// Path reads the pattern of a file's path below a folder, such as posts/{slug}.md; problem says what is wrong with it, "" where
// nothing is. Whatever it gives stays within the folder: its parts are plain names, and placeholders give nothing else.
func Path(text string) (p Pattern, problem string) {
	if p, problem = parse(text); problem != "" {
		return p, problem
	}
	if !strings.HasSuffix(text, ".md") {
		return p, "End it with .md, since posts are written as Markdown."
	}
	return p, pathProblem(text)
}

// Folder says what is wrong with the path of a folder below another, such as static/pictures; "" where nothing is.
func Folder(text string) (problem string) {
	if len(text) > MaxLength {
		return fmt.Sprintf("This is longer than %d characters. Shorten it.", MaxLength)
	}
	if strings.ContainsAny(text, "{}") {
		return "No placeholders here: pictures of all posts lie in one folder."
	}
	return pathProblem(text)
}

func pathProblem(text string) string {
	for segment := range strings.SplitSeq(text, "/") {
		switch {
		case segment == "":
			return "Leave out slashes at the beginning and the end, and doubled ones."
		case strings.HasPrefix(segment, "."):
			return "Names that begin with a dot are not written. Take the dot away."
		case strings.Trim(segment, letters+"{}") != "":
			return "Use letters of the English alphabet, digits, dots, hyphens and underscores only, and / between folders."
		}
	}
	return ""
}

const letters = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789-_."

// Address reads the pattern of addresses at which readers find posts, such as https://notes.example/{slug}/; problem says what is
// wrong with it, "" where nothing is.
func Address(text string) (p Pattern, problem string) {
	if p, problem = parse(text); problem != "" {
		return p, problem
	}
	u, err := url.Parse(p.Of(Values{Slug: "slug", Category: "category", First: civil.NewDate(2000, 1, 1)}))
	switch {
	case err != nil || u.Scheme != "https" && u.Scheme != "http" || u.Hostname() == "":
		return p, "Enter an address that begins with https:// or http://, such as https://notes.example/{slug}/."
	case u.User != nil:
		return p, "Leave the user name and the password out of the address."
	}
	_, behind, _ := strings.Cut(text, "://")
	if host, _, _ := strings.Cut(behind, "/"); strings.Contains(host, "{") {
		return p, "Placeholders go behind the host and its slash."
	}
	return p, ""
}
