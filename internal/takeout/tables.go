// Package takeout writes what a blog holds as tables that other programs read: its posts, and its plan.
package takeout

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/intake/sheet"
	"dapper.example/internal/store"
)

// page is how many posts are in memory at once.
const page = 500

// stages is what the stages of posts are called where people read them.
var stages = map[store.Stage]string{"draft": "draft", "handed in": "waiting for review", "cleared": "on the shelf", "scheduled": "scheduled", "held": "on hold",
	"published": "out", "archived": "archived", "linked": "link item", "binned": "in the bin"}

// Posts is the table of a filter's posts, in the order in which they came to be: all that is said of them but their texts. What is
// read of the database is read as the table is written.
func Posts(ctx context.Context, q store.Queries, site store.Site, public string, f store.PostFilter) (sheet.Table, error) {
	fields, err := q.FieldNames(ctx, site.ID)
	if err != nil {
		return sheet.Table{}, fmt.Errorf("reading the names of custom fields: %w", err)
	}
	t := sheet.Table{Name: "Posts", Headings: []string{"id", "title", "kind", "status", "address", "author", "category", "tags", "excerpt", "due", "published",
		"first published", "created", "changed", "words", "evergreen", "picture"}}
	for _, name := range fields {
		t.Headings = append(t.Headings, "field: "+name)
	}
	home := site.Home(public)
	at := func(m *time.Time) sheet.Moment { return momentOf(site.Zone(), m) }
	t.Rows = func(yield func([]any, error) bool) {
		for after := int64(0); ; {
			rows, err := q.TablePosts(ctx, site.ID, f, after, page)
			if err != nil {
				yield(nil, fmt.Errorf("reading posts: %w", err))
				return
			}
			for _, p := range rows {
				where := ""
				if p.Slug != "" {
					where = home.Full(p.Slug)
				}
				cells := []any{int(p.ID), p.Title, p.Kind, stages[p.Stage], where, p.Author, p.Category, strings.Join(p.Tags, ", "), p.Excerpt, at(p.DueAt),
					at(p.PublishedAt), at(p.FirstAt), at(&p.CreatedAt), at(&p.UpdatedAt), p.Words, p.Evergreen, p.Picture}
				for _, name := range fields {
					cells = append(cells, p.Fields[name])
				}
				if !yield(cells, nil) {
					return
				}
				after = p.ID
			}
			if len(rows) < page {
				return
			}
		}
	}
	return t, nil
}

func momentOf(zone civil.Zone, at *time.Time) sheet.Moment {
	if at == nil {
		return sheet.Moment{}
	}
	return sheet.Moment{Time: zone.In(*at)}
}

// Plan is the table of what is to come: scheduled posts, and messages that are planned, in the order of their times.
func Plan(ctx context.Context, q store.Queries, site store.Site) (sheet.Table, error) {
	type line struct {
		at    time.Time
		cells []any
	}
	var lines []line
	for after := int64(0); ; {
		rows, err := q.TablePosts(ctx, site.ID, store.PostFilter{Stages: []store.Stage{"scheduled", "held"}}, after, page)
		if err != nil {
			return sheet.Table{}, fmt.Errorf("reading the plan: %w", err)
		}
		for _, p := range rows {
			after = p.ID
			if p.DueAt != nil {
				lines = append(lines, line{*p.DueAt, []any{p.Kind, p.Title, stages[p.Stage], p.Author, p.Category, p.Pinned, ""}})
			}
		}
		if len(rows) < page {
			break
		}
	}
	planned, err := q.Planned(ctx, site.ID)
	if err != nil {
		return sheet.Table{}, fmt.Errorf("reading planned messages: %w", err)
	}
	var about []int64
	for _, o := range planned {
		about = append(about, int64(o.Post))
	}
	titles, err := q.Titles(ctx, site.ID, about)
	if err != nil {
		return sheet.Table{}, err
	}
	for _, o := range planned {
		lines = append(lines, line{o.At, []any{"message", cmp.Or(titles[int64(o.Post)], o.Item.Title), "planned", "", "", true, o.Network}})
	}
	slices.SortStableFunc(lines, func(a, b line) int { return a.at.Compare(b.at) })
	return sheet.Table{Name: "Plan", Headings: []string{"when", "weekday", "kind", "title", "status", "author", "category", "pinned", "channel"},
		Rows: func(yield func([]any, error) bool) {
			for _, l := range lines {
				when := momentOf(site.Zone(), &l.at)
				if !yield(append([]any{when, when.Format("Mon")}, l.cells...), ctx.Err()) {
					return
				}
			}
		}}, nil
}

// Format is how tables are written.
type Format string

// The formats.
const (
	CSV  Format = "csv"
	Book Format = "xlsx"
)

// Type is the format's media type (RFC 7111 for CSV).
func (f Format) Type() string {
	if f == CSV {
		return "text/csv; charset=utf-8"
	}
	return "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
}

// Write writes tables: all of them as the sheets of a book, the first alone as CSV.
func (f Format) Write(w io.Writer, tables ...sheet.Table) error {
	if f == CSV {
		return sheet.WriteCSV(w, tables[0])
	}
	return sheet.WriteBook(w, tables...)
}
