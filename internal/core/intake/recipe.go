package intake

import (
	"fmt"
	"maps"
	"net/url"
	"slices"
	"strings"

	"github.com/andybalholm/cascadia"
	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/extension"

	"dapper.example/internal/core/check"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/markdown"
)

// Field is what a column may be for.
type Field string

// The fields of posts that a recipe fills.
const (
	Title    Field = "title"
	Body     Field = "body"
	Excerpt  Field = "excerpt"
	Slug     Field = "slug"
	Category Field = "category"
	Tags     Field = "tags"
	Author   Field = "author"
	Kind     Field = "kind"
	Date     Field = "date"
	Picture  Field = "picture"
	Alt      Field = "alt"
	Link     Field = "link"
)

// FieldsToFill lists them in the order in which people think of them.
func FieldsToFill() []Field {
	return []Field{Title, Body, Excerpt, Category, Tags, Author, Date, Slug, Picture, Alt, Link, Kind}
}

// Recipe says what is done with the lines of a source.
type Recipe struct {
	// Fill says what fields are made of. What a line says itself goes before it, unless it is meant Always.
	Fill map[Field]Fill `json:"fill,omitempty"`
	// Fields are templates of custom fields by their names.
	Fields map[string]string `json:"fields,omitempty"`
	Format Format            `json:"format,omitempty"` // of bodies; "": as the source says, else found out from each

	Categories    []TopicWords `json:"categories,omitempty"` // the first whose word occurs, for lines without one
	NewCategories bool         `json:"newCategories,omitempty"`
	Tags          []TopicWords `json:"tags,omitempty"` // all whose words occur

	Must    []string `json:"must,omitempty"`    // each must occur
	MustNot []string `json:"mustNot,omitempty"` // none may
	// Title and Body bound how many words they have.
	Title Range `json:"title,omitzero"`
	Body  Range `json:"body,omitzero"`

	Remove     []string    `json:"remove,omitempty"` // CSS selectors of elements
	StripLinks bool        `json:"stripLinks,omitempty"`
	Links      []HouseLink `json:"links,omitempty"`

	NoPicture   string `json:"noPicture,omitempty"`   // what of lines without a picture: "", PictureDefault, PictureLeave
	PictureElse string `json:"pictureElse,omitempty"` // the address of the default one
	Comments    string `json:"comments,omitempty"`    // open, closed, or "": as the blog has it
	Shuffled    bool   `json:"shuffled,omitempty"`    // else in the source's order
	Seed        uint64 `json:"seed,omitempty"`
}

// What becomes of lines without a picture.
const (
	PictureDefault = "default"
	PictureLeave   = "leave"
)

// Fill is what a field is made of: text with {column:NAME}, {column:3} and {one-of:NAME} in it. A brace that is meant as such is
// doubled. Where it names columns and all of them are empty, it says nothing.
type Fill struct {
	Text   string `json:"text"`
	Always bool   `json:"always,omitempty"` // also where the line says it itself
}

// TopicWords is a category or a tag, with the words by which it is found.
type TopicWords struct {
	Name  string   `json:"name"`
	Words []string `json:"words"`
}

// Range bounds a number; 0: not.
type Range struct {
	Fewest int `json:"fewest,omitempty"`
	Most   int `json:"most,omitempty"`
}

// HouseLink makes a word a link, so many times a post at most.
type HouseLink struct {
	Word    string `json:"word"`
	Address string `json:"address"`
	Most    int    `json:"most,omitempty"` // 0: once
}

// Limits of recipes.
const (
	MaxTopics   = 200
	MaxWords    = 200 // of a topic, or of those that must or must not occur
	MaxLinks    = 200
	MaxOften    = 20
	MaxRemoved  = 50
	MaxTemplate = 20_000 // bytes
	maxWord     = 100    // characters
	maxSelector = 300
)

// Pipeline is a recipe made ready. It may be used by one goroutine at a time.
type Pipeline struct {
	recipe    Recipe
	place     Place
	fill      map[Field]template
	fields    []namedTemplate
	selectors []cascadia.Sel
	links     []HouseLink
	must, not []string // folded
	markdown  goldmark.Markdown
}

type namedTemplate struct {
	name string
	template
}

// Ready makes a recipe ready. It says what is wrong with it, by the names of fields, where anything is. With headings it says
// too where a template asks for a column that there is not.
func Ready(r Recipe, at Place, headings []string) (*Pipeline, []check.FieldProblem) {
	p := &Pipeline{recipe: r, place: at, fill: make(map[Field]template), markdown: goldmark.New(goldmark.WithExtensions(extension.GFM, extension.Footnote, markdown.Budgeted{}))}
	var found []check.FieldProblem
	say := func(path, format string, args ...any) {
		found = append(found, check.FieldProblem{Path: path, Message: fmt.Sprintf(format, args...)})
	}
	read := func(path, text string) template {
		t, problem := readTemplate(text)
		if problem != "" {
			say(path, "%s", problem)
			return t
		}
		for _, one := range t.pieces {
			switch {
			case one.of == column && headings != nil && !hasColumn(headings, one.text):
				say(path, "There is no column “%s”.", named(one.text))
			case one.of == oneOf && !at.Lists.Has(one.text):
				say(path, "There is no word list “%s”. Make it under Channels, or choose another.", named(one.text))
			}
		}
		return t
	}
	for field, fill := range r.Fill {
		if !slices.Contains(FieldsToFill(), field) {
			say("fill."+string(field), "There is no field %s.", named(string(field)))
			continue
		}
		if strings.TrimSpace(fill.Text) != "" {
			p.fill[field] = read("fill."+string(field), fill.Text)
		}
	}
	for _, name := range slices.Sorted(maps.Keys(r.Fields)) {
		if strings.TrimSpace(name) == "" {
			say("fields", "Give each custom field a name.")
		}
		p.fields = append(p.fields, namedTemplate{strings.TrimSpace(name), read("fields."+name, r.Fields[name])})
	}
	topics := func(path string, all []TopicWords) {
		if len(all) > MaxTopics {
			say(path, "%d are too many; %d is the most.", len(all), MaxTopics)
		}
		for i, t := range all {
			if strings.TrimSpace(t.Name) == "" {
				say(fmt.Sprintf("%s[%d].name", path, i), "Give it a name.")
			}
			wordProblems(fmt.Sprintf("%s[%d].words", path, i), t.Words, say)
		}
	}
	topics("categories", r.Categories)
	for i, t := range r.Categories {
		if t.Name != "" && !r.NewCategories && !slices.ContainsFunc(at.Categories, func(c string) bool { return letters.Equal(c, t.Name) }) {
			say(fmt.Sprintf("categories[%d].name", i), "There is no category “%s”. Add it first, or have new categories added.", named(t.Name))
		}
	}
	topics("tags", r.Tags)
	if len(r.Must) > 0 {
		wordProblems("must", r.Must, say)
	}
	if len(r.MustNot) > 0 {
		wordProblems("mustNot", r.MustNot, say)
	}
	p.must, p.not = folded(r.Must), folded(r.MustNot)
	for path, bounds := range map[string]Range{"title": r.Title, "body": r.Body} {
		if bounds.Fewest < 0 || bounds.Most < 0 {
			say(path, "A number of words can't be below 0.")
		} else if bounds.Most > 0 && bounds.Most < bounds.Fewest {
			say(path, "The most, %d words, is less than the fewest, %d.", bounds.Most, bounds.Fewest)
		}
	}
	p.readRemoved(say)
	p.readLinks(say)
	switch r.NoPicture {
	case "", PictureLeave:
	case PictureDefault:
		if strings.TrimSpace(r.PictureElse) == "" {
			say("pictureElse", "Choose the picture for posts that have none.")
		}
	default:
		say("noPicture", "Choose what happens to lines without a picture.")
	}
	if !slices.Contains([]string{"", "open", "closed"}, r.Comments) {
		say("comments", "Comments are open or closed, or as the blog has them.")
	}
	if !slices.Contains([]Format{"", Markdown, HTML, Plain}, r.Format) {
		say("format", "Texts are Markdown, HTML or plain text.")
	}
	return p, sortedBy(found, func(f check.FieldProblem) string { return f.Path })
}

func hasColumn(headings []string, name string) bool {
	columns := make([]Column, len(headings))
	for i, h := range headings {
		columns[i].Name = h
	}
	at, ok := columnOf(columns, name)
	return ok && at < len(headings)
}

func wordProblems(path string, words []string, say func(path, format string, args ...any)) {
	if len(words) == 0 || len(words) > MaxWords {
		say(path, "Give 1 to %d words.", MaxWords)
	}
	for _, w := range words {
		if n := letters.Length(w, maxWord); n > maxWord {
			say(path, "“%s” is longer than %d characters.", named(w), maxWord)
		} else if strings.TrimSpace(w) == "" {
			say(path, "A word is empty. Take it out.")
		}
	}
}

func folded(words []string) (all []string) {
	for _, w := range words {
		all = append(all, letters.Fold(strings.Join(strings.Fields(w), " ")))
	}
	return all
}

func (p *Pipeline) readRemoved(say func(path, format string, args ...any)) {
	if len(p.recipe.Remove) > MaxRemoved {
		say("remove", "%d selectors are too many; %d is the most.", len(p.recipe.Remove), MaxRemoved)
		return
	}
	for _, text := range p.recipe.Remove {
		if len(text) > maxSelector || strings.Count(text, "(") > 3 || strings.Count(text, " ") > 20 {
			say("remove", "“%s” is too long for a selector.", named(text))
			continue
		}
		sel, err := cascadia.Parse(strings.TrimSpace(text))
		if err != nil {
			say("remove", "“%s” is no CSS selector. Write one such as .advert, footer or #related.", named(text))
			continue
		}
		p.selectors = append(p.selectors, sel)
	}
}

func (p *Pipeline) readLinks(say func(path, format string, args ...any)) {
	if len(p.recipe.Links) > MaxLinks {
		say("links", "%d house links are too many; %d is the most.", len(p.recipe.Links), MaxLinks)
		return
	}
	for i, link := range p.recipe.Links {
		at := fmt.Sprintf("links[%d].", i)
		link.Word, link.Address = strings.Join(strings.Fields(link.Word), " "), strings.TrimSpace(link.Address)
		if link.Word == "" || letters.Length(link.Word, maxWord) > maxWord {
			say(at+"word", "Give the word that becomes a link, of up to %d characters.", maxWord)
		}
		to, err := url.Parse(link.Address)
		if err != nil || strings.ContainsAny(link.Address, " <>\n") || to.Scheme != "http" && to.Scheme != "https" && !strings.HasPrefix(link.Address, "/") {
			say(at+"address", "Write an address such as https://example.org/page or /blog/name/page.")
		}
		if link.Most == 0 {
			link.Most = 1
		}
		if link.Most < 1 || link.Most > MaxOften {
			say(at+"most", "A word becomes a link 1 to %d times a post.", MaxOften)
		}
		p.links = append(p.links, link)
	}
	// Of two that begin alike, the longer one is meant where it stands.
	p.links = sortedBy(p.links, func(l HouseLink) int { return -len(l.Word) })
}
