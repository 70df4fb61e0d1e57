package imports

import (
	"context"
	"errors"
	"fmt"
	"io"
	"iter"
	"path"
	"slices"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/budget"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/intake/articles"
	"dapper.example/internal/intake/sheet"
	"dapper.example/internal/store"
)

// The kinds of sources.
const (
	KindArticles = "articles"
	KindSheet    = "sheet"
)

// sheetLimits are those of sheets as sources.
var sheetLimits = sheet.Limits{Bytes: 64 << 20, Unpacked: 512 << 20, Rows: 100_000, Columns: 200, Cell: 200_000}

// source is what an import reads.
type source struct {
	kind string
	tree *articles.Tree // of articles, and of pictures beside a sheet
	book *sheet.File    // of a sheet
	give func()         // gives the memory of a sheet back; nil: it took none
}

// Unreadable says, in a sentence, why a source cannot be read.
type Unreadable struct{ Why string }

func (u *Unreadable) Error() string { return u.Why }

func unreadable(format string, args ...any) error { return &Unreadable{fmt.Sprintf(format, args...)} }

// readable turns what the readers of files say into *Unreadable.
func readable(err error) error {
	if a, ok := errors.AsType[*articles.Unreadable](err); ok {
		return &Unreadable{a.Why}
	}
	if s, ok := errors.AsType[*sheet.Unreadable](err); ok {
		return &Unreadable{s.Why}
	}
	return err
}

// kept reads a file from its chunks.
type kept struct {
	ctx   context.Context
	q     store.Queries
	file  store.ImportFile
	nr    int // of the chunk in hand; -1: none
	chunk []byte
}

// ReadAt reads from the chunks. It is for one goroutine at a time.
func (k *kept) ReadAt(p []byte, at int64) (n int, err error) {
	for n < len(p) {
		if at >= k.file.Size {
			return n, io.EOF
		}
		if nr := int(at / chunkSize); nr != k.nr || k.chunk == nil {
			if k.chunk, err = k.q.Chunk(k.ctx, k.file.ID, nr); err != nil {
				k.nr = -1
				return n, fmt.Errorf("reading file %d: %w", k.file.ID, err)
			}
			k.nr = nr
		}
		got := copy(p[n:], k.chunk[min(int(at%chunkSize), len(k.chunk)):])
		if got == 0 {
			return n, io.ErrUnexpectedEOF
		}
		n, at = n+got, at+int64(got)
	}
	return n, nil
}

// sheetWait is for how long a sheet waits for its memory.
const sheetWait = 20 * time.Second

var sheetKinds = map[string]bool{".xlsx": true, ".csv": true, ".tsv": true}

// open opens the files of an import. It fails with *Unreadable. Close it afterwards.
func open(ctx context.Context, q store.Queries, id int64) (s *source, err error) {
	files, err := q.ImportFiles(ctx, id)
	if err != nil {
		return nil, fmt.Errorf("listing the files of import %d: %w", id, err)
	}
	s = &source{kind: KindArticles}
	var uploads []articles.Upload
	var sheets []store.ImportFile
	for _, f := range files {
		if sheetKinds[strings.ToLower(path.Ext(f.Path))] {
			sheets = append(sheets, f)
			continue
		}
		uploads = append(uploads, articles.Upload{Path: f.Path, Size: f.Size, ReaderAt: &kept{ctx: ctx, q: q, file: f, nr: -1}})
	}
	switch {
	case len(files) == 0:
		return nil, unreadable("No file has been brought yet.")
	case len(sheets) > 1:
		return nil, unreadable("There are %d sheets. Bring one at a time.", len(sheets))
	}
	if s.tree, err = articles.Open(ctx, uploads); err != nil {
		return nil, readable(err)
	}
	if len(sheets) == 1 {
		s.kind = KindSheet
		if sheets[0].Size > int64(sheetLimits.Bytes) {
			return nil, unreadable("The sheet has more than %d MB. Save a part of it as a file of its own.", sheetLimits.Bytes>>20)
		}
		give, err := budget.Take(ctx, 4+sheets[0].Size>>20, sheetWait)
		if err != nil {
			return nil, err
		}
		defer func() {
			if s == nil { // it failed
				give()
			}
		}()
		s.give = give
		data, err := io.ReadAll(io.NewSectionReader(&kept{ctx: ctx, q: q, file: sheets[0], nr: -1}, 0, sheets[0].Size))
		if err != nil {
			return nil, err
		}
		if s.book, err = sheet.Open(ctx, data, sheetLimits); err != nil {
			return nil, readable(err)
		}
		return s, nil
	}
	if s.tree.Count() == 0 && len(s.tree.Left()) == 0 {
		return nil, unreadable("There are no articles in these files: no .md, .txt, .html or .docx.")
	}
	return s, nil
}

func (s *source) close() {
	if s.book != nil {
		_ = s.book.Close() // its temporary files
	}
	if s.give != nil {
		s.give()
	}
}

// total is how many lines there are; 0: not known before they are read.
func (s *source) total() int {
	if s.kind == KindArticles {
		return s.tree.Count()
	}
	return 0
}

// lines yields the lines from one on that is counted from 0.
func (s *source) lines(ctx context.Context, setup Sheet, from int) iter.Seq2[articles.Read, error] {
	return func(yield func(articles.Read, error) bool) {
		all := s.rows(ctx, setup)
		if s.kind == KindArticles {
			all = s.tree.Lines(ctx, from)
			from = 0
		}
		for one, err := range all {
			if err == nil && from > 0 {
				from--
				continue
			}
			if !yield(one, readable(err)) || err != nil {
				return
			}
		}
	}
}

// sheetName is the sheet that is meant.
func (s *source) sheetName(setup Sheet) string {
	if names := s.book.Names(); !slices.Contains(names, setup.Name) {
		return names[0]
	}
	return setup.Name
}

// rows yields the rows of a sheet as lines.
func (s *source) rows(ctx context.Context, setup Sheet) iter.Seq2[articles.Read, error] {
	return func(yield func(articles.Read, error) bool) {
		var headings []string
		for row, err := range s.book.Rows(ctx, s.sheetName(setup)) {
			if err != nil {
				yield(articles.Read{}, err)
				return
			}
			if row.Line == setup.Heading {
				headings = headingsOf(row.Cells)
			}
			if row.Line <= max(setup.Heading, setup.Skip) {
				continue
			}
			if one, counts := setup.line(row, headings); counts && !yield(one, nil) {
				return
			}
		}
	}
}

// headingsOf are the headings of a row. Columns without one, and those whose heading another one has, go by their numbers.
func headingsOf(cells []string) []string {
	headings := make([]string, len(cells))
	for i, c := range cells {
		headings[i] = strings.Join(strings.Fields(c), " ")
		if headings[i] == "" || slices.ContainsFunc(headings[:i], func(h string) bool { return letters.Equal(h, headings[i]) }) {
			headings[i] = strconv.Itoa(i + 1)
		}
	}
	return headings
}

// line is a row as a line; counts is false for one that has fewer filled cells than are asked for.
func (s Sheet) line(row sheet.Row, headings []string) (one articles.Read, counts bool) {
	place := fmt.Sprintf("row %d", row.Line)
	one.Line = intake.Line{Key: place, Place: place, Problem: row.Problem}
	filled := 0
	for i, c := range row.Cells {
		heading := strconv.Itoa(i + 1)
		if i < len(headings) {
			heading = headings[i]
		}
		if strings.TrimSpace(c) != "" {
			filled++
		}
		one.Columns = append(one.Columns, intake.Column{Name: heading, Value: c})
	}
	if filled < s.Fewest {
		return one, false
	}
	for _, needed := range s.Needed {
		if value, _ := one.Column(needed); strings.TrimSpace(value) == "" {
			one.Why = fmt.Sprintf("The column “%s” is empty.", needed)
		}
	}
	if s.Key != "" {
		key, _ := one.Column(s.Key)
		if key = strings.TrimSpace(key); key == "" {
			one.Why = fmt.Sprintf("The column “%s”, by which rows are known again, is empty.", s.Key)
		} else if len(key) > maxKey {
			one.Why = fmt.Sprintf("The column “%s”, by which rows are known again, is longer than %d characters.", s.Key, maxKey)
		} else {
			one.Key = key
		}
	}
	return one, true
}

const maxKey = 500

// SheetView is a sheet as the editor sees it while setting up.
type SheetView struct {
	Names    []string
	Name     string
	Rows     []sheet.Row // the first ones, as they stand
	Headings []string    // by the setup
}

const (
	rowsShown   = 12
	cellShown   = 300
	rowsToGuess = 20
)

// view shows the first rows of a sheet, and its headings by the setup.
func (s *source) view(ctx context.Context, setup Sheet) (v SheetView, err error) {
	v.Names, v.Name = s.book.Names(), s.sheetName(setup)
	widest := 0
	for row, err := range s.book.Rows(ctx, v.Name) {
		if err != nil {
			return v, readable(err)
		}
		if row.Line == setup.Heading {
			v.Headings = headingsOf(row.Cells)
		}
		widest = max(widest, len(row.Cells))
		if len(v.Rows) < rowsShown {
			shown := row
			shown.Cells = slices.Clone(row.Cells)
			for i, c := range shown.Cells {
				if r := []rune(c); len(r) > cellShown {
					shown.Cells[i] = string(r[:cellShown]) + "…"
				}
			}
			v.Rows = append(v.Rows, shown)
		}
		if row.Line > setup.Heading && len(v.Rows) >= rowsShown {
			break
		}
	}
	if v.Headings == nil {
		v.Headings = make([]string, widest)
		for i := range v.Headings {
			v.Headings[i] = strconv.Itoa(i + 1)
		}
	}
	return v, nil
}

// guessSheet says how a sheet is to be read: the first row of which most cells are filled with short texts is that of the
// headings, and the columns are for what those say.
func (s *source) guessSheet(ctx context.Context) (setup Sheet, recipe intake.Recipe, err error) {
	var rows []sheet.Row
	widest := 0
	for row, err := range s.book.Rows(ctx, s.book.Names()[0]) {
		if err != nil {
			return setup, recipe, readable(err)
		}
		if rows = append(rows, row); len(rows) == rowsToGuess {
			break
		}
		widest = max(widest, len(row.Cells))
	}
	for i, row := range rows {
		if looksLikeHeadings(row.Cells, widest) && i+1 < len(rows) {
			setup.Heading = row.Line
			headings := headingsOf(row.Cells)
			recipe.Fill, setup.Key = intake.Guess(headings)
			break
		}
	}
	if s.tree.CountPictures() == 0 {
		delete(recipe.Fill, intake.Picture)
		delete(recipe.Fill, intake.Alt)
	}
	return setup, recipe, nil
}

// looksLikeHeadings tells whether cells are headings: nearly all are filled, differ, and are short and no numbers.
func looksLikeHeadings(cells []string, widest int) bool {
	filled := 0
	seen := make(map[string]bool)
	for _, c := range cells {
		c = strings.TrimSpace(c)
		if c == "" {
			continue
		}
		filled++
		if _, err := strconv.ParseFloat(strings.ReplaceAll(c, ",", "."), 64); err == nil || len(c) > 60 || seen[strings.ToLower(c)] || strings.Contains(c, "\n") {
			return false
		}
		seen[strings.ToLower(c)] = true
	}
	return filled >= 2 && filled*4 >= widest*3 || widest == 1 && filled == 1
}
