// Package guide is the guide for editors as the screens show it: its pages, their sections, and where
// words are found in them.
package guide

import (
	"bytes"
	"fmt"
	"regexp"
	"slices"
	"strings"
	"sync"

	"github.com/yuin/goldmark"
	"github.com/yuin/goldmark/ast"
	"github.com/yuin/goldmark/extension"
	"github.com/yuin/goldmark/parser"
	"github.com/yuin/goldmark/text"

	"dapper.example/docs"
)

// Page is a page of the guide.
type Page struct {
	Name     string // such as "rules"
	Title    string
	HTML     string // of all of it but the title; its links to other pages are #page or #page/section
	Sections []Section
}

// Section is a part of a page.
type Section struct {
	Page, ID string // ID is "" of what stands before the first heading
	Title    string
	text     string // small letters
}

// names are the pages, in the order in which an editor meets them.
var names = []string{"your-own-blog", "guide", "planning-a-month", "how-times-are-chosen", "rules", "timed-edits", "upkeep", "tours", "results", "mails", "sharing", "channels", "webhooks", "forecast", "bringing-it-in", "taking-it-out"}

// Pages returns all pages, in the order in which an editor meets them.
var Pages = sync.OnceValue(func() []Page {
	pages := make([]Page, len(names))
	for i, name := range names {
		source, err := docs.Guide.ReadFile(name + ".md")
		if err != nil {
			panic(err) // it is linked into the program
		}
		pages[i] = read(name, source)
	}
	return pages
})

// Find returns the page with a name.
func Find(name string) (Page, bool) {
	pages := Pages()
	i := slices.IndexFunc(pages, func(p Page) bool { return p.Name == name })
	if i < 0 {
		return Page{}, false
	}
	return pages[i], true
}

// Search lists the sections in which all the words occur, those with them in the title first.
func Search(words string, most int) []Section {
	wanted := strings.Fields(strings.ToLower(words))
	if len(wanted) == 0 {
		return nil
	}
	has := func(text string) bool {
		return !slices.ContainsFunc(wanted, func(word string) bool { return !strings.Contains(text, word) })
	}
	var named, others []Section
	for _, p := range Pages() {
		for _, s := range p.Sections {
			switch title := strings.ToLower(s.Title); {
			case has(title):
				named = append(named, s)
			case has(title + " " + s.text):
				others = append(others, s)
			}
		}
	}
	found := slices.Concat(named, others)
	return found[:min(len(found), most)]
}

// link finds a link to another page of the guide.
var link = regexp.MustCompile(`href="([a-z-]+)\.md(?:#([a-z0-9-]+))?"`)

func read(name string, source []byte) Page {
	md := goldmark.New(goldmark.WithExtensions(extension.GFM), goldmark.WithParserOptions(parser.WithAutoHeadingID()))
	root := md.Parser().Parse(text.NewReader(source))
	page := Page{Name: name}
	section := Section{Page: name}
	var words strings.Builder
	end := func() {
		section.text = strings.ToLower(words.String())
		page.Sections = append(page.Sections, section)
		words.Reset()
	}
	for node := root.FirstChild(); node != nil; node = node.NextSibling() {
		heading, is := node.(*ast.Heading)
		if !is {
			words.WriteString(said(node, source) + " ")
			continue
		}
		title := strings.TrimSpace(said(heading, source))
		if heading.Level == 1 {
			page.Title, section.Title = title, title
			continue
		}
		end()
		id, _ := heading.AttributeString("id")
		section = Section{Page: name, ID: fmt.Sprintf("%s", id), Title: title}
	}
	end()
	if first := root.FirstChild(); first != nil && first.Kind() == ast.KindHeading {
		root.RemoveChild(root, first) // it is shown above
	}
	var out bytes.Buffer
	if err := md.Renderer().Render(&out, source, root); err != nil {
		panic(err) // to a buffer
	}
	page.HTML = link.ReplaceAllStringFunc(out.String(), func(href string) string {
		parts := link.FindStringSubmatch(href)
		if !slices.Contains(names, parts[1]) {
			return `href="#"`
		}
		if parts[2] != "" {
			return fmt.Sprintf(`href="#%s/%s"`, parts[1], parts[2])
		}
		return fmt.Sprintf(`href="#%s"`, parts[1])
	})
	return page
}

// said is the text of a node, without marks.
func said(node ast.Node, source []byte) string {
	var words strings.Builder
	_ = ast.Walk(node, func(n ast.Node, entering bool) (ast.WalkStatus, error) {
		switch n := n.(type) {
		case *ast.Text:
			if entering {
				words.Write(n.Segment.Value(source))
				if n.SoftLineBreak() {
					words.WriteByte(' ')
				}
			}
		default:
			if !entering && n.Type() == ast.TypeBlock {
				words.WriteByte(' ')
			}
		}
		return ast.WalkContinue, nil
	})
	return words.String()
}
