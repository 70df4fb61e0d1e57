package imports

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"dapper.example/internal/budget"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/intake/articles"
	"dapper.example/internal/store"
)

// Look is what an import's files hold.
type Look struct {
	Kind     string
	Articles int // of articles
	Pictures int
	Left     []articles.Left // files that are left out
	Sheet    SheetView       // of a sheet
	Guess    Setup           // what the setup may be
}

// LookAt looks at the files of an import, and guesses how they are to be read. It fails with *Unreadable.
func LookAt(ctx context.Context, q store.Queries, i store.Import, setup Sheet) (l Look, err error) {
	src, err := open(ctx, q, i.ID)
	if err != nil {
		return l, err
	}
	defer src.close()
	l = Look{Kind: src.kind, Articles: src.tree.Count(), Pictures: src.tree.CountPictures(), Left: src.tree.Left()}
	if src.kind == KindArticles {
		l.Guess, err = src.guessArticles(ctx)
		return l, err
	}
	if l.Guess.Sheet, l.Guess.Recipe, err = src.guessSheet(ctx); err != nil {
		return l, err
	}
	if setup.Name == "" && setup.Heading == 0 && setup.Skip == 0 {
		setup = l.Guess.Sheet
	}
	l.Sheet, err = src.view(ctx, setup)
	return l, err
}

// Shown is a line as the editor sees it before it lands.
type Shown struct {
	store.ImportLine
	Post intake.Post // what it becomes, where it does
}

// Preview tries a setup on the first lines of an import, without keeping anything. It fails with *Unreadable, and with *act.Invalid
// where the setup is wrong.
func Preview(ctx context.Context, q store.Queries, i store.Import, setup Setup, most int, now time.Time) (all []Shown, err error) {
	site, err := q.Site(ctx, i.SiteID)
	if err != nil {
		return nil, err
	}
	if bad := setup.problem(site.Zone()); bad != nil {
		return nil, bad
	}
	src, err := open(ctx, q, i.ID)
	if err != nil {
		return nil, err
	}
	defer src.close()
	headings, err := src.headings(ctx, setup.Sheet)
	if err != nil {
		return nil, err
	}
	j, err := newJudge(ctx, q, i, setup, src, headings, now)
	if err != nil {
		return nil, err
	}
	nr := 0
	for read, err := range src.lines(ctx, setup.Sheet, 0) {
		if err != nil {
			return nil, err
		}
		nr++
		line, post, err := j.take(ctx, nr, read)
		if err != nil {
			return nil, fmt.Errorf("trying line %d of import %d: %w", nr, i.ID, err)
		}
		if all = append(all, Shown{line, post}); len(all) == most {
			break
		}
	}
	return all, nil
}

// headings are those of a sheet by a setup; nil for articles, whose columns differ.
func (s *source) headings(ctx context.Context, setup Sheet) ([]string, error) {
	if s.kind != KindSheet {
		return nil, nil
	}
	v, err := s.view(ctx, setup)
	return v.Headings, err
}

// pictureMegabytes is what reading a picture takes at most.
const pictureMegabytes = 48

// PictureOf reads a picture of an import's files, for its preview. It fails with *Unreadable.
func PictureOf(ctx context.Context, q store.Queries, i store.Import, path string) ([]byte, error) {
	release, err := budget.Take(ctx, pictureMegabytes, sheetWait)
	if err != nil {
		return nil, err
	}
	defer release()
	src, err := open(ctx, q, i.ID)
	if err != nil {
		return nil, err
	}
	defer src.close()
	data, err := src.tree.Picture(ctx, path)
	return data, readable(err)
}

// ShownOf is a line with what it becomes.
func ShownOf(line store.ImportLine) (s Shown, err error) {
	s.ImportLine = line
	if len(line.Post) == 0 || string(line.Post) == "null" {
		return s, nil
	}
	var m made
	if err := json.Unmarshal(line.Post, &m); err != nil {
		return s, fmt.Errorf("reading line %d: %w", line.Nr, err)
	}
	s.Post = m.Post
	return s, nil
}

// LeftFiles are the files that an import leaves out.
func LeftFiles(i store.Import) (left []articles.Left, err error) {
	if len(i.LeftFiles) > 0 {
		err = json.Unmarshal(i.LeftFiles, &left)
	}
	return left, err
}
