package articles

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"html"
	"io"
	"strings"

	"dapper.example/internal/core/intake"
)

// Limits of a .docx file (ECMA-376, part 1).
const (
	maxParts    = 2000
	maxPart     = 8 << 20 // bytes of a part, unpacked
	maxElements = 400_000
	maxDepth    = 100
)

// decodeDocx reads an article from a .docx file: paragraphs, headings, lists, tables, links, bold and italic letters. Its pictures
// are left out: they have no names by which they could be known.
func decodeDocx(l *intake.Line, data []byte) (why string) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(z.File) > maxParts {
		return "It is no .docx file, though its name says so, or it is damaged."
	}
	text, why := part(z, "word/document.xml")
	if why != "" {
		return why
	}
	links := make(map[string]string)
	if relations, why := part(z, "word/_rels/document.xml.rels"); why == "" {
		if err := eachElement(relations, func(e xml.StartElement, _ string) error {
			if e.Name.Local == "Relationship" && attr(e, "TargetMode") == "External" {
				links[attr(e, "Id")] = attr(e, "Target")
			}
			return nil
		}); err != nil {
			return refusal(err)
		}
	}
	d := docx{links: links}
	if err := d.read(text); err != nil {
		return refusal(err)
	}
	if core, why := part(z, "docProps/core.xml"); why == "" {
		if err := eachElement(core, func(e xml.StartElement, text string) error {
			switch text = strings.TrimSpace(text); e.Name.Local {
			case "title":
				l.Title = text
			case "creator":
				l.Author = text
			case "keywords":
				l.Tags = intake.ParseTags(text)
			case "description":
				l.Excerpt = text
			}
			return nil
		}); err != nil {
			return refusal(err)
		}
	}
	if d.title != "" {
		l.Title = d.title
	}
	l.Body, l.Format = d.out.String(), intake.HTML
	if d.pictures > 0 {
		l.Problem = "Its pictures were left out; bring them in by themselves."
	}
	nameSays(l)
	return ""
}

func refusal(err error) string {
	if u, ok := errors.AsType[*Unreadable](err); ok {
		return u.Why
	}
	return "It is damaged: its text is no well-formed XML."
}

func part(z *zip.Reader, name string) (data []byte, why string) {
	for _, f := range z.File {
		if f.Name != name {
			continue
		}
		r, err := f.Open()
		if err != nil {
			return nil, "It can't be unpacked: it is damaged or cut off."
		}
		defer r.Close()
		data, err := io.ReadAll(io.LimitReader(r, maxPart+1))
		switch {
		case err != nil:
			return nil, "It can't be unpacked: it is damaged or cut off."
		case len(data) > maxPart:
			return nil, fmt.Sprintf("It has more than %d MB unpacked.", maxPart>>20)
		}
		return data, ""
	}
	return nil, "It is no .docx file, though its name says so: there is no text in it."
}

func attr(e xml.StartElement, name string) string {
	for _, a := range e.Attr {
		if a.Name.Local == name {
			return a.Value
		}
	}
	return ""
}

// tokens yields the tokens of XML within limits. Entities that a file declares itself are not known, and refused.
func tokens(data []byte, take func(xml.Token) error) error {
	d := xml.NewDecoder(bytes.NewReader(data))
	depth, elements := 0, 0
	for {
		t, err := d.Token()
		if errors.Is(err, io.EOF) {
			return nil
		}
		if err != nil {
			return err
		}
		switch t.(type) {
		case xml.StartElement:
			depth++
			if elements++; depth > maxDepth || elements > maxElements {
				return unreadable("It has more than %d elements, or they are nested more than %d deep.", maxElements, maxDepth)
			}
		case xml.EndElement:
			depth--
		case xml.Directive:
			return unreadable("It declares types of its own (<!DOCTYPE), which is not allowed in such files.")
		}
		if err := take(t); err != nil {
			return err
		}
	}
}

// eachElement takes the elements with the text directly in them, as they end.
func eachElement(data []byte, take func(e xml.StartElement, text string) error) error {
	var open []xml.StartElement
	var texts []string
	return tokens(data, func(t xml.Token) error {
		switch t := t.(type) {
		case xml.StartElement:
			open, texts = append(open, t.Copy()), append(texts, "")
		case xml.CharData:
			if len(texts) > 0 {
				texts[len(texts)-1] += string(t)
			}
		case xml.EndElement:
			last := len(open) - 1
			e, text := open[last], texts[last]
			open, texts = open[:last], texts[:last]
			return take(e, text)
		}
		return nil
	})
}

// docx writes the text of a document as HTML.
type docx struct {
	links    map[string]string
	out      strings.Builder
	title    string
	pictures int

	paragraph strings.Builder // of the paragraph in hand
	plain     strings.Builder // its letters alone
	style     string
	isList    bool
	inList    bool
	bold      bool
	italic    bool
	inText    bool
	deleted   int
	linked    bool
}

func (d *docx) read(data []byte) error {
	err := tokens(data, func(t xml.Token) error {
		switch t := t.(type) {
		case xml.StartElement:
			d.begin(t)
		case xml.EndElement:
			d.end(t.Name.Local)
		case xml.CharData:
			if d.inText && d.deleted == 0 {
				d.write(string(t))
			}
		}
		return nil
	})
	d.closeList()
	return err
}

func (d *docx) begin(e xml.StartElement) {
	switch e.Name.Local {
	case "p":
		d.paragraph.Reset()
		d.plain.Reset()
		d.style, d.isList = "", false
	case "pStyle":
		d.style = strings.ToLower(attr(e, "val"))
	case "numPr":
		d.isList = true
	case "r":
		d.bold, d.italic = false, false
	case "b":
		d.bold = isOn(attr(e, "val"))
	case "i":
		d.italic = isOn(attr(e, "val"))
	case "t":
		d.inText = true
	case "del":
		d.deleted++
	case "br", "cr":
		d.paragraph.WriteString("<br>")
	case "tab":
		d.write(" ")
	case "drawing", "pict":
		d.pictures++
	case "hyperlink":
		if to := d.links[attr(e, "id")]; to != "" {
			d.linked = true
			d.paragraph.WriteString(`<a href="` + html.EscapeString(to) + `">`)
		}
	case "tbl":
		d.closeList()
		d.out.WriteString("<table>")
	case "tr":
		d.out.WriteString("<tr>")
	case "tc":
		d.out.WriteString("<td>")
	}
}

// isOn reads a switch (ECMA-376, part 1, 17.17.4): without a value it is on.
func isOn(value string) bool { return value != "0" && value != "false" && value != "off" }

func (d *docx) write(text string) {
	d.plain.WriteString(text)
	text = html.EscapeString(text)
	if d.italic && strings.TrimSpace(text) != "" {
		text = "<em>" + text + "</em>"
	}
	if d.bold && strings.TrimSpace(text) != "" {
		text = "<strong>" + text + "</strong>"
	}
	d.paragraph.WriteString(text)
}

func (d *docx) end(name string) {
	switch name {
	case "t":
		d.inText = false
	case "del":
		d.deleted--
	case "hyperlink":
		if d.linked {
			d.linked = false
			d.paragraph.WriteString("</a>")
		}
	case "p":
		d.endParagraph()
	case "tc":
		d.closeList()
		d.out.WriteString("</td>")
	case "tr":
		d.out.WriteString("</tr>")
	case "tbl":
		d.out.WriteString("</table>")
	}
}

func (d *docx) endParagraph() {
	if strings.TrimSpace(d.plain.String()) == "" {
		return
	}
	level := strings.TrimPrefix(strings.ReplaceAll(d.style, " ", ""), "heading")
	isHeading := strings.HasPrefix(d.style, "heading") && len(level) == 1 && level >= "1" && level <= "6"
	if d.title == "" && d.out.Len() == 0 && (d.style == "title" || isHeading && level == "1") {
		d.title = strings.TrimSpace(d.plain.String())
		return
	}
	element := "p"
	switch {
	case d.isList:
		if !d.inList {
			d.inList = true
			d.out.WriteString("<ul>")
		}
		d.out.WriteString("<li>" + d.paragraph.String() + "</li>")
		return
	case isHeading:
		element = "h" + level
	case strings.Contains(d.style, "quote"):
		element = "blockquote"
	}
	d.closeList()
	d.out.WriteString("<" + element + ">" + d.paragraph.String() + "</" + element + ">")
}

func (d *docx) closeList() {
	if d.inList {
		d.inList = false
		d.out.WriteString("</ul>")
	}
}
