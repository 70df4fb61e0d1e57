package articles

import (
	"archive/zip"
	"bytes"
	"encoding/xml"
	"errors"
	"fmt"
	"html"
	"io"
	"path"
	"strings"

	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/words"
)

// Limits of a .docx file (ECMA-376, part 1).
const (
	maxParts    = 2000
	maxPart     = 8 << 20 // bytes of a part, unpacked
	maxElements = 400_000
	maxDepth    = 100
	maxDocx     = 24 << 20 // bytes of the file, with its pictures
	maxShown    = 200      // pictures in one
)

// decodeDocx reads an article from a .docx file: paragraphs, headings, lists, tables, links, pictures, bold and italic letters.
func decodeDocx(l *intake.Line, data []byte) (why string) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(z.File) > maxParts {
		return "It is no .docx file, though its name says so, or it is damaged."
	}
	text, why := part(z, "word/document.xml", maxPart)
	if why != "" {
		return why
	}
	links, inside := make(map[string]string), make(map[string]string)
	if relations, why := part(z, "word/_rels/document.xml.rels", maxPart); why == "" {
		if err := eachElement(relations, func(e xml.StartElement, _ string) error {
			switch {
			case e.Name.Local != "Relationship":
			case attr(e, "TargetMode") == "External":
				links[attr(e, "Id")] = attr(e, "Target")
			default:
				inside[attr(e, "Id")] = partName(attr(e, "Target"))
			}
			return nil
		}); err != nil {
			return refusal(err)
		}
	}
	d := docx{file: l.File, links: links, inside: inside}
	if err := d.read(text); err != nil {
		return refusal(err)
	}
	if core, why := part(z, "docProps/core.xml", maxPart); why == "" {
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
	l.Body, l.Format, l.Own = d.out.String(), intake.HTML, d.shown
	if d.left > 0 {
		l.Problem = words.Count(d.left, "picture") + " in it left out: blogs show .jpg, .png, .gif and .webp, and no drawings."
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

// partName is the name of a part, from the target of a relation of the text (ECMA-376, part 2, 9.3): relative to the text's folder, or from
// the top.
func partName(target string) string {
	if rest, top := strings.CutPrefix(target, "/"); top {
		return path.Clean(rest)
	}
	return path.Join("word", target)
}

// pictureOfDocx reads a picture from a .docx file, by the name of its part.
func pictureOfDocx(data []byte, name string) (picture []byte, why string) {
	z, err := zip.NewReader(bytes.NewReader(data), int64(len(data)))
	if err != nil || len(z.File) > maxParts {
		return nil, "It is no .docx file, or it is damaged."
	}
	return part(z, name, maxPicture)
}

func part(z *zip.Reader, name string, most int64) (data []byte, why string) {
	for _, f := range z.File {
		if f.Name != name {
			continue
		}
		r, err := f.Open()
		if err != nil {
			return nil, "It can't be unpacked: it is damaged or cut off."
		}
		defer r.Close()
		data, err := io.ReadAll(io.LimitReader(r, most+1))
		switch {
		case err != nil:
			return nil, "It can't be unpacked: it is damaged or cut off."
		case int64(len(data)) > most:
			return nil, fmt.Sprintf("It has more than %d MB unpacked.", most>>20)
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
	file   string
	links  map[string]string // addresses elsewhere, by the ids of relations
	inside map[string]string // parts of the file
	out    strings.Builder
	title  string
	shown  []string // its pictures, by their paths
	left   int      // pictures that are left out

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
	says      string // what the picture in hand shows
	met       bool   // the drawing in hand has one
	pictured  bool   // the paragraph in hand has one
	fallback  int    // deep in what is for programs that don't know what stands before it (ECMA-376, part 3, 10.2)
}

func (d *docx) read(data []byte) error {
	err := tokens(data, func(t xml.Token) error {
		switch t := t.(type) {
		case xml.StartElement:
			d.begin(t)
		case xml.EndElement:
			d.end(t.Name.Local)
		case xml.CharData:
			if d.inText && d.deleted == 0 && d.fallback == 0 {
				d.write(string(t))
			}
		}
		return nil
	})
	d.closeList()
	return err
}

func (d *docx) begin(e xml.StartElement) {
	if e.Name.Local == "Fallback" || d.fallback > 0 {
		d.fallback++
		return
	}
	switch e.Name.Local {
	case "p":
		d.paragraph.Reset()
		d.plain.Reset()
		d.style, d.isList, d.pictured = "", false, false
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
		d.says, d.met = "", false
	case "docPr":
		d.says = attr(e, "descr")
	case "shape":
		d.says = attr(e, "alt")
	case "blip":
		d.show(attr(e, "embed"), attr(e, "link"))
	case "imagedata":
		d.show(attr(e, "id"), "")
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

// show shows a picture of the file, or one elsewhere.
func (d *docx) show(embedded, linked string) {
	d.met = true
	if d.deleted > 0 {
		return
	}
	part, there := d.inside[embedded]
	to := ""
	switch {
	case there && pictureKinds[strings.ToLower(path.Ext(part))] && len(d.shown) < maxShown:
		d.shown = append(d.shown, d.file+"/"+part)
		to = intake.OwnPicture(len(d.shown) - 1)
	case strings.HasPrefix(d.links[linked], "https://") || strings.HasPrefix(d.links[linked], "http://"):
		to = d.links[linked]
	default:
		d.left++
		return
	}
	d.pictured = true
	d.paragraph.WriteString(`<img src="` + html.EscapeString(to) + `" alt="` + html.EscapeString(strings.Join(strings.Fields(d.says), " ")) + `">`)
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
	if d.fallback > 0 {
		d.fallback--
		return
	}
	switch name {
	case "t":
		d.inText = false
	case "del":
		d.deleted--
	case "drawing", "pict":
		if !d.met && d.deleted == 0 { // a chart, or something drawn
			d.left++
		}
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
	if strings.TrimSpace(d.plain.String()) == "" && !d.pictured {
		return
	}
	level := strings.TrimPrefix(strings.ReplaceAll(d.style, " ", ""), "heading")
	isHeading := strings.HasPrefix(d.style, "heading") && len(level) == 1 && level >= "1" && level <= "6"
	if d.title == "" && d.out.Len() == 0 && !d.pictured && (d.style == "title" || isHeading && level == "1") {
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
