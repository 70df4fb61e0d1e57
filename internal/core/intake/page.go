package intake

import (
	"golang.org/x/net/html"
	"golang.org/x/net/html/atom"
)

// around are parts of a page that are not what it says.
var around = map[atom.Atom]bool{atom.Nav: true, atom.Header: true, atom.Footer: true, atom.Aside: true, atom.Form: true, atom.Script: true, atom.Style: true, atom.Noscript: true,
	atom.Template: true, atom.Iframe: true, atom.Svg: true, atom.Button: true}

// TextOfPage is what a page's HTML says, as Markdown, without what stands around it: menus, headers, forms. It keeps to the limits of ParseHTML; why
// says, in a sentence, what is too much of it.
func TextOfPage(source string) (text, why string) {
	if len(source) > maxHTML {
		return "", "Its HTML has more than 2 MB."
	}
	doc, why := ParseHTML(source)
	if why != "" {
		return "", why
	}
	var gone []*html.Node
	for n := range doc.Descendants() {
		if n.Type == html.ElementNode && around[n.DataAtom] {
			gone = append(gone, n)
		}
	}
	for _, n := range gone {
		n.Parent.RemoveChild(n)
	}
	text, err := toMarkdown(doc)
	if err != nil {
		return "", "Its HTML can't be made Markdown."
	}
	return text, ""
}
