// Package imports brings writing in: archives of articles and sheets become posts, as a proposal first.
//
// An editor brings files, says what is to be done with them, and has them read in the background; each line of them becomes a
// post or is left out, with a reason. What came out is shown, and committed by the token of what was seen. Then the posts land,
// in portions that are one transaction each, so that the process may die at any point: it goes on after the last line that has
// landed, and no line lands twice. A whole import can be undone.
package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"path"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"dapper.example/internal/act"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/formats"
	"dapper.example/internal/intake/articles"
	"dapper.example/internal/store"
)

// Limits of what is brought.
const (
	MaxBytes   = 256 << 20 // of all files of an import
	maxOpen    = 20        // imports of a site that nobody has committed
	maxPathLen = 500
	maxSource  = 120 // characters of a source's name
	chunkSize  = 1 << 20
)

// KeptFor is for how long files and lines are kept that nobody commits.
const KeptFor = 7 * 24 * time.Hour

// Setup is what is to be done with a source.
type Setup struct {
	Sheet   Sheet         `json:"sheet,omitzero"`
	Recipe  intake.Recipe `json:"recipe,omitzero"`
	Landing Goal          `json:"landing,omitzero"`
}

// Sheet says how a sheet is read.
type Sheet struct {
	Name    string   `json:"name,omitempty"`    // of several sheets; "": the first
	Heading int      `json:"heading,omitempty"` // the row with the headings, from 1; 0: there is none
	Skip    int      `json:"skip,omitempty"`    // rows at the top that are left out
	Fewest  int      `json:"fewest,omitempty"`  // filled cells for a row to count
	Needed  []string `json:"needed,omitempty"`  // columns that must not be empty
	Key     string   `json:"key,omitempty"`     // the column that rows are known again by; "": their numbers
}

// How posts land.
const (
	AsDrafts = "drafts"
	AsShelf  = "shelf"
	AsPlaced = "placed" // with times, by the rhythm or a pattern
	AsLinks  = "links"  // as link items, which rules share
	AsDated  = "dated"  // as the source has them: out where their dates are past, scheduled where they are to come
)

// Goal says how posts land.
type Goal struct {
	As      string          `json:"as,omitempty"`      // "" is AsDrafts
	Start   *civil.Date     `json:"start,omitempty"`   // of AsPlaced; nil: now
	Pattern *reflow.Pattern `json:"pattern,omitempty"` // of AsPlaced; nil: the rhythm
	Doubles bool            `json:"doubles,omitempty"` // also lines that look like posts that the blog has
	Minutes int             `json:"minutes,omitempty"` // it pauses after so long; 0: never
	// Portion is how many lines land together, where not all do at once: the first ones as the import is committed, further ones at
	// the turns of Every. 0: all at once.
	Portion int              `json:"portion,omitempty"`
	Every   *formats.Cadence `json:"every,omitempty"`
	Mail    bool             `json:"mail,omitempty"` // who begins it gets a report by mail at its end
}

const (
	maxMinutes = 24 * 60
	maxFewest  = 100
	maxNeeded  = 50
)

// SetupOf is the setup of an import.
func SetupOf(i store.Import) (s Setup, err error) {
	if len(i.Setup) > 0 {
		if err = json.Unmarshal(i.Setup, &s); err != nil {
			err = fmt.Errorf("reading the setup of import %d: %w", i.ID, err)
		}
	}
	return s, err
}

func (s Setup) problem(zone civil.Zone) *act.Invalid {
	if bad := s.Landing.portionProblem(zone); bad != nil {
		return bad
	}
	switch {
	case s.Sheet.Heading < 0 || s.Sheet.Skip < 0:
		return act.Invalidf("setup.sheet.heading", "Rows are counted from 1.")
	case s.Sheet.Fewest < 0 || s.Sheet.Fewest > maxFewest:
		return act.Invalidf("setup.sheet.fewest", "A row counts from 0 to %d filled cells on.", maxFewest)
	case len(s.Sheet.Needed) > maxNeeded:
		return act.Invalidf("setup.sheet.needed", "Name up to %d columns.", maxNeeded)
	case !slices.Contains([]string{"", AsDrafts, AsShelf, AsPlaced, AsDated, AsLinks}, s.Landing.As):
		return act.Invalidf("setup.landing.as", "Choose where the posts go.")
	case s.Landing.Minutes < 0 || s.Landing.Minutes > maxMinutes:
		return act.Invalidf("setup.landing.minutes", "It may run for 1 to %d minutes.", maxMinutes)
	}
	if p := s.Landing.Pattern; p != nil && s.Landing.As == AsPlaced {
		if problems := p.Problems(); len(problems) > 0 {
			return act.Invalidf("setup.landing.pattern."+problems[0].Path, "%s", problems[0].Message)
		}
	}
	return nil
}

const maxPortion = 1000

func (g Goal) portionProblem(zone civil.Zone) *act.Invalid {
	switch {
	case g.Portion == 0:
		return nil
	case g.Portion < 0 || g.Portion > maxPortion:
		return act.Invalidf("setup.landing.portion", "A portion has 1 to %d lines.", maxPortion)
	case g.Every == nil:
		return act.Invalidf("setup.landing.every", "Say how often a portion comes.")
	case g.As == AsPlaced && g.Start != nil:
		return act.Invalidf("setup.landing.start", "Portions get the next free times as they come; leave the start empty.")
	}
	c, found := g.Every.Read()
	found = append(found, c.Problems(zone, 1)...)
	if c.By == cadence.Hand {
		found = nil
	}
	if len(found) > 0 {
		return act.Invalidf("setup.landing.every."+found[0].Path, "%s", found[0].Message)
	}
	return nil
}

// next is when a portion comes after a moment; nil where none does by itself.
func (g Goal) next(i store.Import, zone civil.Zone, after time.Time) *time.Time {
	if g.Every == nil || i.BegunAt == nil {
		return nil
	}
	c, _ := g.Every.Read()                                                                                                 // what is wrong with it was said when it was set up
	at, ok := cadence.Pace{Cadence: c, Rule: i.ID, Seed: uint64(i.ID), Anchor: *i.BegunAt, Zone: zone, Gap: 1}.Next(after) //nolint:gosec // a number is one
	if !ok {
		return nil
	}
	return &at
}

// Begin begins an import, to which files are added then. Its source is the name by which its lines are known again later.
func Begin(ctx context.Context, d act.Desk, source string, now time.Time) (i store.Import, err error) {
	source = strings.Join(strings.Fields(source), " ")
	if n := utf8.RuneCountInString(source); n == 0 || n > maxSource || strings.ContainsRune(source, 0) {
		return i, act.Invalidf("source", "Give the source a name of 1 to %d characters.", maxSource)
	}
	err = d.Store.InTx(ctx, func(tx *store.Tx) error {
		latest, err := tx.Queries.Imports(ctx, d.Site.ID, 100)
		if err != nil {
			return err
		}
		open := 0
		for _, one := range latest {
			if one.State == store.ImportCollecting || one.State == store.ImportProposed {
				open++
			}
		}
		if open >= maxOpen {
			return act.Invalidf("source", "%d imports wait to be finished. Finish or delete some of them first.", open)
		}
		id, err := tx.InsertImport(ctx, store.Import{SiteID: d.Site.ID, User: d.Actor, Source: source, CreatedAt: now})
		if err != nil {
			return fmt.Errorf("beginning an import: %w", err)
		}
		i, err = tx.Queries.Import(ctx, d.Site.ID, id)
		return err
	})
	return i, err
}

// Part is a part of a file that is brought. Parts come in their order; all but the last are whole megabytes.
type Part struct {
	Path string // of the file, with its folders
	From int64  // how many bytes of the file came before
	Last bool   // the file ends with it
	Data []byte
}

// MaxPart is the largest part of a file, in bytes.
const MaxPart = 4 << 20

// AddFile adds a part of a file to an import; the first takes the place of a file of the same path. It fails with *act.Invalid,
// and leaves the file as it was.
func AddFile(ctx context.Context, d act.Desk, id int64, part Part) error {
	part.Path = strings.TrimLeft(path.Clean(strings.ReplaceAll(part.Path, `\`, "/")), "/")
	if part.Path == "" || part.Path == "." || strings.HasPrefix(part.Path, "..") || len(part.Path) > maxPathLen || !utf8.ValidString(part.Path) || strings.ContainsRune(part.Path, 0) {
		return act.Invalidf("path", "Name the file, with its folders, in up to %d characters.", maxPathLen)
	}
	if len(part.Data) > MaxPart || part.From%chunkSize != 0 || !part.Last && len(part.Data)%chunkSize != 0 {
		return act.Invalidf("from", "A file comes in parts of whole megabytes, up to %d of them; only the last may be any size.", MaxPart/chunkSize)
	}
	return d.Store.InTx(ctx, func(tx *store.Tx) error {
		i, err := tx.LockImport(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if i.State != store.ImportCollecting {
			return act.Invalidf("id", "This import has its files already. Begin another one.")
		}
		file, err := fileOf(ctx, tx, id, part)
		if err != nil {
			return err
		}
		for from := 0; from < len(part.Data); from += chunkSize {
			if err := tx.Queries.AddChunk(ctx, file, int(part.From/chunkSize)+from/chunkSize, part.Data[from:min(from+chunkSize, len(part.Data))]); err != nil {
				return fmt.Errorf("keeping a file: %w", err)
			}
		}
		if !part.Last {
			return nil
		}
		return tx.Queries.EndFile(ctx, file)
	})
}

// fileOf is the file that a part belongs to.
func fileOf(ctx context.Context, tx *store.Tx, id int64, part Part) (int64, error) {
	had, files, err := tx.Queries.ImportSize(ctx, id)
	if err != nil {
		return 0, err
	}
	switch {
	case had+int64(len(part.Data)) > MaxBytes:
		return 0, act.Invalidf("path", "The files have more than %d MB together. Bring them in in parts.", MaxBytes>>20)
	case part.From > 0:
		file, err := tx.Queries.FileAt(ctx, id, part.Path)
		if errors.Is(err, store.ErrNotFound) || err == nil && (file.Whole || file.Size != part.From) {
			return 0, act.Invalidf("from", "This part doesn't follow on the one before. Send the file from its beginning.")
		}
		return file.ID, err
	case files >= articles.MaxFiles:
		return 0, act.Invalidf("path", "There are more than %d files. Bring them in in parts.", articles.MaxFiles)
	}
	return tx.BeginFile(ctx, id, part.Path)
}

// Delete deletes an import with its files and its log; its posts stay. One that is at work is cancelled first.
func Delete(ctx context.Context, d act.Desk, id int64) error {
	return d.Store.InTx(ctx, func(tx *store.Tx) error {
		i, err := tx.LockImport(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if i.State == store.ImportLanding || i.State == store.ImportUndoing {
			return act.Invalidf("id", "This import is at work. Cancel it first.")
		}
		return tx.DeleteImport(ctx, d.Site.ID, id)
	})
}

// Limits of setups that are kept.
const (
	MaxRecipes    = 100
	maxRecipeName = 60
)

// SaveRecipe keeps a setup by name.
func SaveRecipe(ctx context.Context, d act.Desk, name string, s Setup, now time.Time) error {
	name = strings.Join(strings.Fields(name), " ")
	if n := utf8.RuneCountInString(name); n == 0 || n > maxRecipeName || strings.ContainsRune(name, 0) {
		return act.Invalidf("name", "Give it a name of 1 to %d characters.", maxRecipeName)
	}
	if bad := s.problem(d.Site.Zone()); bad != nil {
		return bad
	}
	all, err := d.Store.ImportRecipes(ctx, d.Site.ID)
	if err != nil {
		return err
	}
	if len(all) >= MaxRecipes && !slices.ContainsFunc(all, func(r store.ImportRecipe) bool { return r.Name == name }) {
		return act.Invalidf("name", "There are %d setups already. Delete one first.", len(all))
	}
	raw, err := json.Marshal(s)
	if err != nil {
		return err
	}
	return d.Store.SaveImportRecipe(ctx, store.ImportRecipe{SiteID: d.Site.ID, Name: name, Setup: raw, At: now})
}
