// Package revise changes texts of posts: what differs between two of them, and how a change that was prepared over one
// version is brought onto another (a three-way merge by paragraph). The package is pure; its answers depend on its
// arguments alone, however large they are.
package revise

import (
	"maps"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/core/civil"
)

// Text is all that a prepared change may change of a post. The zero Text says nothing.
type Text struct {
	Title    string            `json:"title"`
	Body     string            `json:"body"` // Markdown
	Excerpt  string            `json:"excerpt"`
	Slug     string            `json:"slug"`
	Category int64             `json:"category"` // 0: none
	Tags     []string          `json:"tags"`
	Fields   map[string]string `json:"fields"` // custom fields
	Image    string            `json:"image"`  // the featured image's address; "": none
	Alt      string            `json:"alt"`    // what it shows
}

// Part names a part of a text.
type Part string

// The parts. A custom field is FieldPart of its name.
const (
	Title    Part = "title"
	Slug     Part = "address"
	Category Part = "category"
	Tags     Part = "tags"
	Excerpt  Part = "excerpt"
	Image    Part = "featured image"
	Body     Part = "text"
)

// fieldMark is before the name of a custom field in its Part.
const fieldMark = "field "

// FieldPart is the part that a custom field is.
func FieldPart(name string) Part { return Part(fieldMark + name) }

// Field is the name of the custom field that a part is; ok is false of other parts.
func (p Part) Field() (name string, ok bool) { return strings.CutPrefix(string(p), fieldMark) }

// String says a part as people do.
func (p Part) String() string {
	if name, ok := p.Field(); ok {
		return "the field “" + name + "”"
	}
	return string(p)
}

// value is what a text says in a part, in one string, to be compared and shown.
func (t Text) value(p Part) string {
	switch p {
	case Title:
		return t.Title
	case Slug:
		return t.Slug
	case Category:
		return strconv.FormatInt(t.Category, 10)
	case Excerpt:
		return t.Excerpt
	case Image:
		if t.Image == "" && t.Alt == "" {
			return ""
		}
		return t.Image + "\n" + t.Alt
	case Body:
		return t.Body
	case Tags:
		return strings.Join(slices.Sorted(slices.Values(t.Tags)), "\n")
	}
	name, _ := p.Field()
	if v, there := t.Fields[name]; there {
		return "=" + v
	}
	return ""
}

// parts lists those of some texts, in the order in which they are told.
func parts(texts ...Text) []Part {
	all := []Part{Title, Body, Excerpt, Slug, Category, Tags, Image}
	names := make(map[string]bool)
	for _, t := range texts {
		for name := range t.Fields {
			names[name] = true
		}
	}
	for _, name := range slices.Sorted(maps.Keys(names)) {
		all = append(all, FieldPart(name))
	}
	return all
}

// Changed lists the parts in which two texts differ. The order of tags makes no difference.
func Changed(from, to Text) (changed []Part) {
	for _, p := range parts(from, to) {
		if from.value(p) != to.value(p) {
			changed = append(changed, p)
		}
	}
	return changed
}

// ownPicture finds the keys of the blog's pictures in a text.
var ownPicture = regexp.MustCompile(`/pictures/([0-9a-z]{16})`)

// Pictures is how many pictures of the blog the text shows beside its featured image.
func (t Text) Pictures() int {
	keys := make(map[string]bool)
	for _, found := range ownPicture.FindAllStringSubmatch(t.Body, -1) {
		if !strings.Contains(t.Image, found[1]) {
			keys[found[1]] = true
		}
	}
	return len(keys)
}

// yearMark stands for the year in texts that come every year.
const yearMark = "{year}"

// InYear is the text as it is in a year: {year} in its title, text, excerpt and fields is that number. The address keeps
// what it is.
func (t Text) InYear(year int) Text {
	say := func(s string) string { return strings.ReplaceAll(s, yearMark, strconv.Itoa(year)) }
	t.Title, t.Body, t.Excerpt = say(t.Title), say(t.Body), say(t.Excerpt)
	if t.Fields != nil {
		fields := make(map[string]string, len(t.Fields))
		for name, v := range t.Fields {
			fields[name] = say(v)
		}
		t.Fields = fields
	}
	return t
}

// Yearly is a date that comes every year, at a time of day. 29 February is 28 February in years without it.
type Yearly struct {
	Month time.Month  `json:"month"`
	Day   int         `json:"day"`
	At    civil.Clock `json:"at"`
}

// YearlyOf is the date of a moment, to come every year.
func YearlyOf(at time.Time, zone civil.Zone) Yearly {
	date, clock := zone.Local(at)
	_, month, day := date.Parts()
	return Yearly{month, day, clock}
}

// In is the date in a year, as a moment.
func (y Yearly) In(year int, zone civil.Zone) time.Time {
	last := time.Date(year, y.Month+1, 0, 0, 0, 0, 0, time.UTC).Day()
	return zone.At(civil.NewDate(year, y.Month, min(y.Day, last)), y.At)
}

// Due is what a prepared text says at a moment: in words of that year where it comes every year; yearly is nil where it does not.
func (t Text) Due(at time.Time, yearly *Yearly, zone civil.Zone) Text {
	if yearly == nil {
		return t
	}
	year, _, _ := zone.DateOf(at).Parts()
	return t.InYear(year)
}

// After is the first moment of the date after another moment.
func (y Yearly) After(at time.Time, zone civil.Zone) time.Time {
	year, _, _ := zone.DateOf(at).Parts()
	for {
		if next := y.In(year, zone); next.After(at) {
			return next
		}
		year++
	}
}
