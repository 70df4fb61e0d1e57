package bundle

import (
	"context"
	_ "embed"
	"encoding/json"
	"fmt"
	"io"
	"time"

	"dapper.example/internal/store"
)

// Schema says what a blog as one document of JSON holds (JSON Schema, draft 2020-12).
//
//go:embed blog.schema.json
var Schema []byte

// SchemaPath is where the schema is read.
const SchemaPath = "/api/v1/blog.schema.json"

// PostDocument is a post in a document.
type PostDocument struct {
	ID int64 `json:"id"`
	Matter
	Text string `json:"text"` // Markdown
}

// PictureDocument is a picture in a document, with its file.
type PictureDocument struct {
	Key    string    `json:"key"` // it stands in the picture's addresses
	Name   string    `json:"name"`
	Alt    string    `json:"alt,omitempty"`
	Type   string    `json:"type"`
	Width  int       `json:"width"`
	Height int       `json:"height"`
	Made   time.Time `json:"made"`
	File   []byte    `json:"file"` // base64 (RFC 4648, section 4)
}

// WriteDocument writes a site to w as one document of JSON, as it goes; more is asked before each of its parts, and ends the writing with
// its error. The bin is left out. Public is where the program is reached. A document that was not written to its end cannot be read.
func WriteDocument(ctx context.Context, q store.Queries, site store.Site, w io.Writer, public string, now time.Time, more func() error) error {
	blog, err := blogOf(ctx, q, site, now)
	if err != nil {
		return err
	}
	out := document{w: w}
	out.raw("{\n")
	out.value(`"$schema": `, public+SchemaPath)
	out.value(`, "blog": `, blog)
	out.raw(`, "posts": [`)
	if err := eachPost(ctx, q, site, more, func(p store.Post, old []string) error {
		return out.entry(PostDocument{p.ID, MatterOf(p, old), p.Body})
	}); err != nil {
		return err
	}
	out.raw(`], "comments": [`)
	if err := eachComment(ctx, q, site, more, func(c Comment) error { return out.entry(c) }); err != nil {
		return err
	}
	out.raw(`], "pictures": [`)
	if err := eachPicture(ctx, q, site, more, func(p store.UsedPicture, data []byte) error {
		return out.entry(PictureDocument{p.Key, p.Name, p.Alt, p.Type, p.Width, p.Height, p.CreatedAt.UTC(), data})
	}); err != nil {
		return err
	}
	out.raw("]}\n")
	return out.err
}

// document writes JSON part by part; the first error ends it.
type document struct {
	w     io.Writer
	begun bool // the list in hand has an entry
	err   error
}

func (d *document) raw(text string) {
	if d.begun = false; d.err == nil {
		_, d.err = io.WriteString(d.w, text)
	}
}

func (d *document) value(before string, value any) {
	if d.raw(before); d.err != nil {
		return
	}
	lines := json.NewEncoder(d.w)
	lines.SetEscapeHTML(false)
	if err := lines.Encode(value); err != nil {
		d.err = fmt.Errorf("writing %T: %w", value, err)
	}
}

// entry writes the next entry of a list.
func (d *document) entry(value any) error {
	before := "\n"
	if d.begun {
		before = ","
	}
	d.value(before, value)
	d.begun = true
	return d.err
}
