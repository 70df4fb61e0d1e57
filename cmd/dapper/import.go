package main

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/act"
	"dapper.example/internal/core/words"
	"dapper.example/internal/imports"
	"dapper.example/internal/store"
)

type importCmd struct {
	database
	Site   string   `arg:"" help:"The site's name in addresses, such as quillmoor."`
	Paths  []string `arg:"" help:"Files and folders: a .zip, articles (.md, .txt, .html, .docx) with their pictures, or a sheet (.xlsx, .csv, .tsv)." type:"path"`
	By     string   `help:"The e-mail address of whoever brings them in; an owner of the site where it is not given." placeholder:"ADDRESS"`
	Source string   `help:"The name by which lines are known again when they are brought in another time; that of the first file where it is not given."`
	Setup  string   `help:"A setup that is kept by this name." placeholder:"NAME"`
	As     string   `help:"What the posts become: drafts, on the shelf, placed by the rhythm, or dated as their source says." enum:",drafts,shelf,placed,dated" default:""`
	DryRun bool     `name:"dry-run" help:"Say what it would come to, and bring in nothing."`
}

// between is how long it rests where another process does the work.
const between = 300 * time.Millisecond

// Run brings files in: what becomes of them is said before it is done.
func (c importCmd) Run(ctx context.Context, log *slog.Logger, out io.Writer) error {
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	site, err := findSite(ctx, s, c.Site)
	if err != nil {
		return err
	}
	desk := act.Desk{Store: s, Site: site}
	if desk.Actor, err = c.actor(ctx, s, site); err != nil {
		return err
	}
	if c.Source == "" {
		c.Source = strings.TrimSuffix(filepath.Base(c.Paths[0]), filepath.Ext(c.Paths[0]))
	}
	i, err := imports.Begin(ctx, desk, c.Source, time.Now())
	if err != nil {
		return err
	}
	committed := false
	defer func() {
		if !committed { // nothing of it is of any use
			_ = imports.Delete(context.WithoutCancel(ctx), desk, i.ID)
		}
	}()
	if err := c.send(ctx, desk, i.ID); err != nil {
		return err
	}
	setup, err := c.setup(ctx, s, i)
	if err != nil {
		return err
	}
	if i, err = imports.Read(ctx, desk, i.ID, i.Version, setup, time.Now()); err != nil {
		return err
	}
	if i, err = follow(ctx, s, i, log); err != nil {
		return err
	}
	p, err := imports.Propose(ctx, s.Queries, site, i, time.Now())
	if err != nil {
		return err
	}
	if err := say(ctx, s, p, out); err != nil || c.DryRun {
		return err
	}
	if i, err = imports.Commit(ctx, desk, i.ID, p.Token(), time.Now()); err != nil {
		return err
	}
	committed = true
	if i, err = follow(ctx, s, i, log); err != nil {
		return fmt.Errorf("it goes on in the background of dapper serve, or can be cancelled there: %w", err)
	}
	counts, err := s.CountLines(ctx, i.ID)
	if err != nil {
		return err
	}
	fmt.Fprintf(out, "Done: %s brought in, %d changed. It can be undone from the logbook.\n", words.Count(counts[store.LineLanded], "post"), counts[store.LineUpdated])
	return nil
}

// actor is who brings the files in.
func (c importCmd) actor(ctx context.Context, s *store.Store, site store.Site) (int64, error) {
	members, err := s.Members(ctx, site.ID)
	if err != nil {
		return 0, err
	}
	for _, m := range members {
		if c.By != "" && strings.EqualFold(m.Email, c.By) || c.By == "" && m.Role == "owner" {
			return m.ID, nil
		}
	}
	if c.By != "" {
		return 0, fmt.Errorf("nobody on %s has the address %s", site.Slug, c.By)
	}
	return 0, errors.New("the site has no owner; say --by with somebody's address")
}

// send hands the files over, those of folders with the folders.
func (c importCmd) send(ctx context.Context, d act.Desk, id int64) error {
	for _, path := range c.Paths {
		above := filepath.Dir(filepath.Clean(path))
		err := filepath.WalkDir(path, func(file string, entry fs.DirEntry, err error) error {
			if err != nil || entry.IsDir() || strings.HasPrefix(entry.Name(), ".") || !entry.Type().IsRegular() {
				return err
			}
			name, err := filepath.Rel(above, file)
			if err != nil {
				return err
			}
			return sendFile(ctx, d, id, file, filepath.ToSlash(name))
		})
		if err != nil {
			return err
		}
	}
	return nil
}

func sendFile(ctx context.Context, d act.Desk, id int64, file, name string) error {
	in, err := os.Open(file)
	if err != nil {
		return err
	}
	defer in.Close()
	info, err := in.Stat()
	if err != nil {
		return err
	}
	for from := int64(0); ; {
		data := make([]byte, min(imports.MaxPart, info.Size()-from))
		if _, err := io.ReadFull(in, data); err != nil {
			return fmt.Errorf("reading %s: %w", file, err)
		}
		part := imports.Part{Path: name, From: from, Last: from+int64(len(data)) == info.Size(), Data: data}
		if err := imports.AddFile(ctx, d, id, part); err != nil {
			return fmt.Errorf("%s: %w", name, err)
		}
		if from += int64(len(data)); part.Last {
			return nil
		}
	}
}

// setup is the one that is kept by a name, or what the files may mean.
func (c importCmd) setup(ctx context.Context, s *store.Store, i store.Import) (imports.Setup, error) {
	look, err := imports.LookAt(ctx, s.Queries, i, imports.Sheet{})
	if err != nil {
		return imports.Setup{}, err
	}
	setup := look.Guess
	if c.Setup != "" {
		all, err := s.ImportRecipes(ctx, i.SiteID)
		if err != nil {
			return setup, err
		}
		found := false
		for _, r := range all {
			if r.Name == c.Setup {
				found = true
				if setup, err = imports.SetupOf(store.Import{Setup: r.Setup}); err != nil {
					return setup, err
				}
			}
		}
		if !found {
			return setup, fmt.Errorf("there is no setup %q; make one where imports are set up", c.Setup)
		}
	}
	if c.As != "" {
		setup.Landing.As = c.As
	}
	return setup, nil
}

// follow does the work of an import, or waits while another process does it, and says how far it has come.
func follow(ctx context.Context, s *store.Store, i store.Import, log *slog.Logger) (store.Import, error) {
	runner := imports.Runner{Store: s, Clock: clockwork.NewRealClock(), Log: log}
	for {
		if err := runner.Step(ctx); err != nil {
			return i, err
		}
		var err error
		if i, err = s.Import(ctx, i.SiteID, i.ID); err != nil {
			return i, err
		}
		if i.State == store.ImportFailed {
			return i, errors.New(i.Problem)
		}
		if !i.IsAtWork() {
			return i, nil
		}
		select {
		case <-ctx.Done():
			return i, ctx.Err()
		case <-time.After(between):
		}
	}
}

// leftNamed is how many lines that are left out are named.
const leftNamed = 50

// say says what an import comes to.
func say(ctx context.Context, s *store.Store, p imports.Proposal, out io.Writer) error {
	fmt.Fprintf(out, "%s read: %d become posts, %d change theirs, %d unchanged, %d changed on both sides, %d left out.\n", words.Count(p.Import.Read, "line"),
		p.Counts[store.LineReady], p.Counts[store.LineUpdate], p.Counts[store.LineSame], p.Counts[store.LineClash], p.Counts[store.LineLeft])
	left, err := s.ImportLines(ctx, p.Import.ID, []store.LineState{store.LineLeft, store.LineClash}, 0, leftNamed)
	if err != nil {
		return err
	}
	for _, l := range left {
		fmt.Fprintf(out, "  %s: %s\n", l.Place, l.Reason)
	}
	if more := p.Counts[store.LineLeft] + p.Counts[store.LineClash] - len(left); more > 0 {
		fmt.Fprintf(out, "  and %d more\n", more)
	}
	return nil
}
