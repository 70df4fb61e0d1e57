package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"time"

	"dapper.example/internal/bundle"
	"dapper.example/internal/store"
	"dapper.example/internal/takeout"
)

type exportCmd struct {
	database
	public
	Site   string `arg:"" help:"The site's name in addresses, such as quillmoor."`
	File   string `arg:"" help:"The file to write, - for standard output. Its ending says how: .zip, .json, .csv or .xlsx; of standard output --as does."`
	What   string `help:"What to write: everything (as .zip or .json), posts or plan (as .csv or .xlsx)." enum:"everything,posts,plan" default:"everything"`
	Format string `name:"as" help:"The format, where the file's ending does not say it." enum:",zip,json,csv,xlsx" default:"" placeholder:"FORMAT"`
	Force  bool   `help:"Write over a file that is there."`
}

// formatOf is the format that is asked for.
func (c exportCmd) formatOf() (string, error) {
	format := c.Format
	if ending := filepath.Ext(c.File); format == "" && ending != "" {
		format = ending[1:]
	}
	switch {
	case c.What == "everything" && (format == "zip" || format == ""):
		return "zip", nil
	case c.What == "everything" && format == "json":
		return format, nil
	case c.What != "everything" && (format == "csv" || format == "xlsx"):
		return format, nil
	case c.What == "everything":
		return "", errors.New("everything is written as .zip or .json; say --what posts or --what plan for a table")
	}
	return "", errors.New("a table is written as .csv or .xlsx; name the file so, or say --as")
}

// Run writes a blog, or a table of it, to a file: all of it, or none.
func (c exportCmd) Run(ctx context.Context) error {
	format, err := c.formatOf()
	if err != nil {
		return err
	}
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	site, err := findSite(ctx, s, c.Site)
	if err != nil {
		return err
	}
	if c.File == "-" {
		out := bufio.NewWriter(os.Stdout)
		if err := c.write(ctx, s, site, format, out); err != nil {
			return err
		}
		return out.Flush()
	}
	if _, err := os.Stat(c.File); err == nil && !c.Force {
		return fmt.Errorf("%s is there already; say --force to write over it", c.File)
	}
	file, err := os.CreateTemp(filepath.Dir(c.File), ".export-*")
	if err != nil {
		return err
	}
	defer os.Remove(file.Name()) // it is elsewhere by then, if all went well
	err = c.write(ctx, s, site, format, file)
	if err == nil {
		err = file.Sync()
	}
	if err = errors.Join(err, file.Close()); err != nil {
		return fmt.Errorf("nothing was written: %w", err)
	}
	return os.Rename(file.Name(), c.File)
}

func (c exportCmd) write(ctx context.Context, s *store.Store, site store.Site, format string, w io.Writer) error {
	switch c.What {
	case "posts":
		t, err := takeout.Posts(ctx, s.Queries, site, c.address(defaultPort), store.PostFilter{})
		if err != nil {
			return err
		}
		return takeout.Format(format).Write(w, t)
	case "plan":
		t, err := takeout.Plan(ctx, s.Queries, site)
		if err != nil {
			return err
		}
		return takeout.Format(format).Write(w, t)
	}
	if format == "json" {
		return bundle.WriteDocument(ctx, s.Queries, site, w, c.address(defaultPort), time.Now(), ctx.Err)
	}
	return bundle.Write(ctx, s.Queries, site, w, time.Now(), ctx.Err)
}
