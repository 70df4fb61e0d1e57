package sheet

import (
	"archive/zip"
	"bufio"
	"bytes"
	"context"
	"encoding/xml"
	"errors"
	"io"
	"path"
	"regexp"
	"strconv"
	"strings"
)

// The library that reads sheets takes the first thing that is wrong with one for its end. So that no row is lost in silence, a
// sheet is looked through beforehand, without being read.

// outline is what a sheet has at least, if it is whole.
type outline struct {
	lastRow int // its number; 0: none was seen
}

// parts finds the parts of an .xlsx file by the names of its sheets.
func parts(z *zip.Reader) map[string]*zip.File {
	byPath := make(map[string]*zip.File, len(z.File))
	for _, f := range z.File {
		byPath[strings.ToLower(strings.TrimPrefix(f.Name, "/"))] = f
	}
	var book struct {
		Sheets []struct {
			Name  string     `xml:"name,attr"`
			Attrs []xml.Attr `xml:",any,attr"`
		} `xml:"sheets>sheet"`
	}
	var links struct {
		Links []struct {
			ID     string `xml:"Id,attr"`
			Target string `xml:"Target,attr"`
		} `xml:"Relationship"`
	}
	readPart(byPath["xl/workbook.xml"], &book)
	readPart(byPath["xl/_rels/workbook.xml.rels"], &links)
	targets := make(map[string]string, len(links.Links))
	for _, l := range links.Links {
		target := l.Target
		if !strings.HasPrefix(target, "/") {
			target = path.Join("xl", target)
		}
		targets[l.ID] = strings.ToLower(strings.TrimPrefix(target, "/"))
	}
	found := make(map[string]*zip.File, len(book.Sheets))
	for _, s := range book.Sheets {
		for _, a := range s.Attrs {
			if a.Name.Local == "id" && byPath[targets[a.Value]] != nil {
				found[s.Name] = byPath[targets[a.Value]]
			}
		}
	}
	return found
}

// readPart reads a small part; of one that cannot be read, as much as can be.
func readPart(f *zip.File, into any) {
	if f == nil {
		return
	}
	r, err := f.Open()
	if err != nil {
		return
	}
	defer r.Close()
	_ = xml.NewDecoder(io.LimitReader(r, mostOther)).Decode(into) // what is missing then has no part
}

const (
	// tagSize is how many bytes of a tag are looked at.
	tagSize = 256
	// lastRowSize is up to which size the last row is checked, in bytes.
	lastRowSize = 1 << 20
)

var rowNumber = regexp.MustCompile(`\sr\s*=\s*["'](\d{1,7})["']`)

// look goes through a sheet. It fails with *Unreadable where the sheet is cut off, defines entities, or its last row is no XML.
func look(ctx context.Context, name string, f *zip.File) (o outline, err error) {
	part, err := f.Open()
	if err != nil {
		return o, unreadable("The sheet “%s” can't be read.", name)
	}
	defer part.Close()
	r := bufio.NewReaderSize(part, 64<<10)
	var last bytes.Buffer // from the beginning of the last row on
	closed := false
	for n := 0; ; n++ {
		if n%10_000 == 0 && ctx.Err() != nil {
			return o, ctx.Err()
		}
		piece, err := r.ReadSlice('<')
		if last.Len() > 0 && last.Len() < lastRowSize && !closed {
			last.Write(piece)
		}
		switch {
		case errors.Is(err, bufio.ErrBufferFull):
			continue
		case errors.Is(err, io.EOF):
			return o, o.finish(name, closed, last.Bytes())
		case err != nil:
			return o, unreadable("The sheet “%s” is damaged. Save it once more, or as .csv.", name)
		}
		tag, _ := r.Peek(tagSize)
		switch element, rest := elementOf(tag); element {
		case "!DOCTYPE", "!ENTITY":
			return o, unreadable("The sheet “%s” defines entities, which sheets don't. Save it once more, or as .csv.", name)
		case "row":
			o.lastRow++
			if m := rowNumber.FindSubmatch(rest); m != nil {
				o.lastRow, _ = strconv.Atoi(string(m[1]))
			}
			last.Reset()
			last.WriteByte('<')
		case "/sheetData":
			closed = true
		case "sheetData":
			closed = bytes.HasSuffix(rest, []byte("/"))
		}
	}
}

// elementOf is the name of a tag that begins after its “<”, without its prefix, and what comes after it.
func elementOf(tag []byte) (name string, rest []byte) {
	if end := bytes.IndexByte(tag, '>'); end >= 0 {
		tag = tag[:end]
	}
	end := bytes.IndexAny(tag, " \t\r\n")
	if end < 0 {
		end = len(tag)
	}
	name, rest = string(tag[:end]), tag[end:]
	if end == len(tag) && strings.HasSuffix(name, "/") && name != "/" {
		name, rest = name[:len(name)-1], []byte("/")
	}
	slash := strings.HasPrefix(name, "/")
	if _, local, has := strings.Cut(name, ":"); has {
		if name = local; slash {
			name = "/" + local
		}
	}
	return name, rest
}

// finish judges what was seen.
func (o outline) finish(name string, closed bool, last []byte) error {
	if !closed {
		return unreadable("The sheet “%s” is cut off after row %d. Save it once more.", name, o.lastRow)
	}
	if len(last) == 0 || len(last) >= lastRowSize {
		return nil
	}
	// The end of the sheet is part of what is kept: the row must be over by then.
	d := xml.NewDecoder(bytes.NewReader(last))
	for depth := 0; ; {
		token, err := d.Token()
		if err != nil {
			return o.broken(name)
		}
		switch token.(type) {
		case xml.StartElement:
			depth++
		case xml.EndElement:
			if depth--; depth == 0 {
				return nil
			}
		}
	}
}

func (o outline) broken(name string) error {
	return unreadable("Row %d of the sheet “%s” is damaged. Save it once more, or as .csv.", o.lastRow, name)
}
