package articles

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/BurntSushi/toml"
	"github.com/adrg/frontmatter"
	"go.yaml.in/yaml/v3"

	"dapper.example/internal/core/intake"
)

const (
	maxMatter  = 64 << 10 // bytes of a front matter
	maxEntries = 200
)

// entry is a value of a front matter: a text, a list of texts, or texts by names.
type entry struct {
	text  string
	list  []string
	named map[string]string
}

func (e entry) String() string {
	switch {
	case e.list != nil:
		return strings.Join(e.list, ", ")
	case e.named != nil:
		var all []string
		for _, name := range slices.Sorted(maps.Keys(e.named)) {
			all = append(all, name+": "+e.named[name])
		}
		return strings.Join(all, ", ")
	}
	return e.text
}

// all are the texts of a value that may be one or several.
func (e entry) all() []string {
	if e.list != nil {
		return e.list
	}
	return intake.ParseTags(e.text)
}

// matter is a front matter, by its keys as they are written.
type matter map[string]entry

var errLong = fmt.Errorf("it has more than %d kB or %d entries", maxMatter>>10, maxEntries)

// formats are those of front matters. They read texts as they stand: a date without a time stays one.
var formats = []*frontmatter.Format{
	frontmatter.NewFormat("---", "---", readYAML), frontmatter.NewFormat("---yaml", "---", readYAML),
	frontmatter.NewFormat("+++", "+++", readTOML), frontmatter.NewFormat("---toml", "---", readTOML),
}

// readMatter parts a front matter from the text behind it. A text that only looks as if it began with one has none.
func readMatter(text string) (m matter, rest string, err error) {
	m = make(matter)
	body, err := frontmatter.Parse(strings.NewReader(text), &m, formats...)
	if err == nil {
		return m, string(body), nil
	}
	first, begin, _ := strings.Cut(strings.TrimLeft(text, "\r\n "), "\n")
	end := strings.Index(begin, "\n"+strings.TrimSpace(first[:min(3, len(first))]))
	if end < 0 || !looksLikeEntries(begin[:end]) {
		return matter{}, text, nil
	}
	return nil, text, err
}

// looksLikeEntries tells whether a text begins as front matters do: "key: value" or "key = value".
func looksLikeEntries(text string) bool {
	line, _, _ := strings.Cut(strings.TrimSpace(text), "\n")
	key, _, ok := strings.Cut(line, ":")
	if !ok {
		key, _, ok = strings.Cut(line, "=")
	}
	return ok && len(strings.Fields(key)) == 1 || strings.HasPrefix(line, "#")
}

func readYAML(data []byte, v any) error {
	if len(data) > maxMatter {
		return errLong
	}
	var nodes map[string]yaml.Node
	if err := yaml.Unmarshal(data, &nodes); err != nil {
		return err
	}
	if len(nodes) > maxEntries {
		return errLong
	}
	m := *v.(*matter)
	for key, n := range nodes {
		m[key] = entryOfNode(&n)
	}
	return nil
}

func entryOfNode(n *yaml.Node) (e entry) {
	switch n.Kind {
	case yaml.AliasNode:
		if n.Alias == nil || n.Alias.Kind != yaml.ScalarNode {
			return entry{}
		}
		return entry{text: scalar(n.Alias)}
	case yaml.ScalarNode:
		return entry{text: scalar(n)}
	case yaml.SequenceNode:
		e.list = []string{}
		for _, one := range n.Content {
			if one.Kind == yaml.ScalarNode && len(e.list) < maxEntries {
				e.list = append(e.list, scalar(one))
			}
		}
	case yaml.MappingNode:
		e.named = make(map[string]string)
		for i := 0; i+1 < len(n.Content) && len(e.named) < maxEntries; i += 2 {
			if n.Content[i].Kind == yaml.ScalarNode {
				e.named[n.Content[i].Value] = entryOfNode(n.Content[i+1]).String()
			}
		}
	}
	return e
}

func scalar(n *yaml.Node) string {
	if n.Tag == "!!null" {
		return ""
	}
	return n.Value
}

func readTOML(data []byte, v any) error {
	if len(data) > maxMatter || bytes.Count(data, []byte("[")) > 2000 {
		return errLong
	}
	var values map[string]any
	if err := toml.Unmarshal(data, &values); err != nil {
		if p, ok := errors.AsType[toml.ParseError](err); ok {
			return fmt.Errorf("line %d: %s", p.Position.Line, p.Message)
		}
		return err
	}
	if len(values) > maxEntries {
		return errLong
	}
	m := *v.(*matter)
	for key, value := range values {
		m[key] = entryOf(value)
	}
	return nil
}

func entryOf(value any) (e entry) {
	switch v := value.(type) {
	case []any:
		e.list = []string{}
		for _, one := range v {
			e.list = append(e.list, entryOf(one).String())
		}
	case map[string]any:
		e.named = make(map[string]string)
		for name, one := range v {
			e.named[name] = entryOf(one).String()
		}
	case time.Time:
		e.text = v.Format(time.RFC3339)
		switch v.Location().String() {
		case "date-local":
			e.text = v.Format(time.DateOnly)
		case "datetime-local":
			e.text = v.Format("2006-01-02T15:04:05")
		}
	case string:
		e.text = v
	case float64:
		e.text = strconv.FormatFloat(v, 'f', -1, 64)
	default:
		e.text = fmt.Sprint(v)
	}
	return e
}

// known are the keys of front matters, in small letters, and what each says of an article.
var known = map[string]func(*intake.Line, entry){
	"title": func(l *intake.Line, e entry) { l.Title = e.text },
	"date":  func(l *intake.Line, e entry) { l.Date = e.text },
	"slug":  func(l *intake.Line, e entry) { l.Slug = e.text },
	"category": func(l *intake.Line, e entry) {
		if all := e.all(); len(all) > 0 {
			l.Category = all[0]
			l.Tags = append(l.Tags, all[1:]...) // a post has one category
		}
	},
	"tags":    func(l *intake.Line, e entry) { l.Tags = append(l.Tags, e.all()...) },
	"excerpt": func(l *intake.Line, e entry) { l.Excerpt = e.text },
	"status":  func(l *intake.Line, e entry) { l.Status = strings.ToLower(e.text) },
	"link":    func(l *intake.Line, e entry) { l.Link = e.text },
	"kind":    func(l *intake.Line, e entry) { l.Kind = strings.ToLower(e.text) },
	"author": func(l *intake.Line, e entry) {
		switch {
		case e.named["name"] != "":
			l.Author = e.named["name"]
		case len(e.list) > 0:
			l.Author = e.list[0]
		default:
			l.Author = e.text
		}
	},
	"draft": func(l *intake.Line, e entry) {
		if isYes(e.text) {
			l.Status = "draft"
		}
	},
	"picture": func(l *intake.Line, e entry) {
		l.Picture = e.text
		for _, key := range []string{"src", "file", "url", "path", "image"} {
			if e.named[key] != "" {
				l.Picture = e.named[key]
			}
		}
		if e.named["alt"] != "" {
			l.Alt = e.named["alt"]
		}
		if len(e.list) > 0 {
			l.Picture = e.list[0]
		}
	},
	"picture_description": func(l *intake.Line, e entry) { l.Alt = e.text },
	"fields": func(l *intake.Line, e entry) {
		for name, value := range e.named {
			field(l, name, value)
		}
	},
	"evergreen":     func(l *intake.Line, e entry) { l.Care.Evergreen = isYes(e.text) },
	"never_expires": func(l *intake.Line, e entry) { l.Care.NeverExpires = isYes(e.text) },
	"on_top":        func(l *intake.Line, e entry) { l.Care.OnTop = isYes(e.text) },
	"comments": func(l *intake.Line, e entry) {
		l.Care.CommentsClosed = strings.EqualFold(e.text, "closed") || strings.EqualFold(e.text, "false") || strings.EqualFold(e.text, "no")
	},
	"expires":         func(l *intake.Line, e entry) { l.Care.Expires = moment(e.text) },
	"not_before":      func(l *intake.Line, e entry) { l.Care.NotBefore = moment(e.text) },
	"deadline":        func(l *intake.Line, e entry) { l.Care.Deadline = moment(e.text) },
	"first_published": func(l *intake.Line, e entry) { l.Care.FirstPublished = moment(e.text) },
	"archived":        func(l *intake.Line, e entry) { l.Care.Archived = moment(e.text) },
	"notice":          func(l *intake.Line, e entry) { l.Care.Notice = e.text },
	"gone":            func(l *intake.Line, e entry) { l.Care.Gone = isYes(e.text) },
	"on_the_shelf":    func(l *intake.Line, e entry) { l.Care.Shelved = isYes(e.text) },
	"old_addresses":   func(l *intake.Line, e entry) { l.Care.OldSlugs = e.list },
}

// alike are other names of the same, as many programs write them.
var alike = map[string]string{
	"published": "date", "publishdate": "date", "pubdate": "date", "publish_date": "date", "datetime": "date",
	"categories": "category", "section": "category", "keywords": "tags", "tag": "tags", "authors": "author",
	"summary": "excerpt", "description": "excerpt", "image": "picture", "featured_image": "picture", "cover": "picture", "thumbnail": "picture",
	"image_alt": "picture_description", "alt": "picture_description", "type": "kind", "layout": "kind", "canonical_url": "link", "source": "link",
}

// inOrder are those known keys that others of the same meaning go before: "draft: true" after "status".
var inOrder = []string{"title", "date", "slug", "category", "tags", "excerpt", "status", "draft", "link", "kind", "author", "picture", "picture_description", "fields",
	"evergreen", "never_expires", "on_top", "comments", "expires", "not_before", "deadline", "first_published", "archived", "notice", "gone", "on_the_shelf", "old_addresses"}

// say has a line say what its front matter says. Keys that mean nothing here become custom fields.
func (m matter) say(l *intake.Line) {
	means := make(map[string]entry)
	for _, key := range slices.Sorted(maps.Keys(m)) {
		e := m[key]
		l.Columns = append(l.Columns, intake.Column{Name: key, Value: e.String()})
		small := strings.ToLower(strings.ReplaceAll(key, "-", "_"))
		if other, ok := alike[small]; ok {
			if _, said := means[other]; !said {
				if _, itself := m[other]; !itself {
					means[other] = e
				}
			}
			continue
		}
		if known[small] != nil {
			means[small] = e
			continue
		}
		field(l, key, e.String())
	}
	for _, key := range inOrder {
		if e, ok := means[key]; ok {
			known[key](l, e)
		}
	}
}

func field(l *intake.Line, name, value string) {
	if value == "" {
		return
	}
	if l.Fields == nil {
		l.Fields = make(map[string]string)
	}
	l.Fields[name] = value
}

func isYes(text string) bool {
	yes, err := strconv.ParseBool(strings.ToLower(strings.TrimSpace(text)))
	return err == nil && yes || strings.EqualFold(text, "yes")
}

// moment reads a moment as a blog that was written out has it; nil for another.
func moment(text string) *time.Time {
	at, err := time.Parse(time.RFC3339Nano, text)
	if err != nil {
		return nil
	}
	at = at.UTC()
	return &at
}
