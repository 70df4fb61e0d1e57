package main

import (
	"bufio"
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"text/tabwriter"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/founding"
	"dapper.example/internal/people"
	"dapper.example/internal/store"
)

// These commands are for those who script an installation, or cannot read its mail.

// printed is the flag of commands that print what they found or made.
type printed struct {
	JSON bool `help:"Print JSON, for scripts."`
}

// print writes a thing as JSON, or as a person reads it.
func (p printed) print(out io.Writer, thing any, plain func(io.Writer)) error {
	if !p.JSON {
		plain(out)
		return nil
	}
	lines := json.NewEncoder(out)
	lines.SetEscapeHTML(false)
	lines.SetIndent("", "  ")
	return lines.Encode(thing)
}

// within runs work on the database, which must be of this version.
func (d database) within(ctx context.Context, work func(*store.Store) error) error {
	s, err := d.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.Current(ctx); err != nil {
		return err
	}
	return said(work(s))
}

// said names the flag that an error is about.
func said(err error) error {
	if bad, ok := errors.AsType[*act.Invalid](err); ok {
		return fmt.Errorf("%s: %s", bad.Field, bad.Message)
	}
	return err
}

type setupCodeCmd struct {
	database
	printed
}

// Run prints a setup code, in place of any that was printed before.
func (c setupCodeCmd) Run(ctx context.Context, out io.Writer) error {
	return c.within(ctx, func(s *store.Store) error {
		code, err := founding.AnotherCode(ctx, s.Queries)
		if errors.Is(err, founding.ErrSetUp) {
			return errors.New("this program has been set up already: sign in, or see: dapper person --help")
		}
		if err != nil {
			return err
		}
		return c.print(out, map[string]string{"setupCode": code}, func(w io.Writer) { fmt.Fprintln(w, code) })
	})
}

// findSite finds a blog by its name in addresses.
func findSite(ctx context.Context, s *store.Store, slug string) (store.Site, error) {
	site, err := s.SiteBySlug(ctx, slug)
	if errors.Is(err, store.ErrNotFound) {
		return site, fmt.Errorf("there is no blog %q; see: dapper site list", slug)
	}
	return site, err
}

type siteCmd struct {
	Add     siteAddCmd     `cmd:"" help:"Add a blog."`
	List    siteListCmd    `cmd:"" help:"List the blogs."`
	Archive siteArchiveCmd `cmd:"" help:"Take a blog out of readers' sight, or bring it back."`
}

// siteView is a blog as it is printed.
type siteView struct {
	Slug     string `json:"slug"`
	Title    string `json:"title"`
	Zone     string `json:"zone"`
	Language string `json:"language"`
	State    string `json:"state"` // open, paused or archived
}

func viewSite(s store.Site) siteView {
	state := "open"
	switch {
	case s.ArchivedAt != nil:
		state = "archived"
	case s.PausedAt != nil:
		state = "paused"
	}
	return siteView{s.Slug, s.Title, s.ZoneName, s.Language, state}
}

type siteAddCmd struct {
	database
	printed
	Title    string `arg:"" help:"The blog's title."`
	Slug     string `help:"Its name in addresses; made from the title where it is not said."`
	Tagline  string `help:"A line under the title."`
	Zone     string `help:"IANA time zone, such as Europe/Lisbon." required:""`
	Language string `help:"Of its readers, such as en-GB." default:"en-GB"`
	Start    string `help:"A rhythm to begin with: weekend, steady, daily or busy."`
	Owner    string `help:"Whose it is: the address of an account." required:"" placeholder:"EMAIL"`
}

// Run adds a blog.
func (c siteAddCmd) Run(ctx context.Context, out io.Writer) error {
	return c.within(ctx, func(s *store.Store) error {
		owner, err := people.House{Store: s}.Find(ctx, c.Owner)
		if err != nil {
			return err
		}
		site, err := founding.Add(ctx, s, owner.ID, founding.Blog{Title: c.Title, Tagline: c.Tagline,
			Slug: cmp.Or(c.Slug, address.SiteName(c.Title)), Zone: c.Zone, Language: c.Language, Start: c.Start}, newClock().Now())
		if err != nil {
			return err
		}
		return c.print(out, viewSite(site), func(w io.Writer) { fmt.Fprintf(w, "Added “%s” at /blog/%s/.\n", site.Title, site.Slug) })
	})
}

type siteListCmd struct {
	database
	printed
}

// Run lists the blogs.
func (c siteListCmd) Run(ctx context.Context, out io.Writer) error {
	return c.within(ctx, func(s *store.Store) error {
		all, err := s.Sites(ctx)
		if err != nil {
			return err
		}
		views := []siteView{}
		for _, site := range all {
			views = append(views, viewSite(site))
		}
		return c.print(out, views, func(w io.Writer) {
			table := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
			for _, v := range views {
				fmt.Fprintf(table, "%s\t%s\t%s\t%s\n", v.Slug, v.State, v.Zone, v.Title)
			}
			table.Flush()
		})
	})
}

type siteArchiveCmd struct {
	database
	printed
	Slug string `arg:"" help:"The blog's name in addresses."`
	Back bool   `help:"Bring it back instead; it stays paused until an editor resumes it."`
}

// Run archives a blog, or brings it back.
func (c siteArchiveCmd) Run(ctx context.Context, out io.Writer) error {
	return c.within(ctx, func(s *store.Store) error {
		site, err := findSite(ctx, s, c.Slug)
		if err != nil {
			return err
		}
		do, done := founding.Archive, "Archived “%s”: readers are told that it is gone, and nothing comes out.\n"
		if c.Back {
			do, done = founding.Unarchive, "Brought “%s” back. It is paused until an editor resumes it.\n"
		}
		if err := do(ctx, s, site, 0, newClock().Now()); err != nil {
			return err
		}
		if site, err = s.Site(ctx, site.ID); err != nil {
			return err
		}
		return c.print(out, viewSite(site), func(w io.Writer) { fmt.Fprintf(w, done, site.Title) })
	})
}

type personCmd struct {
	Add   personAddCmd   `cmd:"" help:"Make an account, and put its person on a blog."`
	Reset personResetCmd `cmd:"" help:"Print a link by which somebody chooses a new password."`
	Role  personRoleCmd  `cmd:"" help:"Give somebody a role on a blog."`
}

// personView is an account as it is printed.
type personView struct {
	Email string `json:"email"`
	Name  string `json:"name,omitempty"`
	Site  string `json:"site,omitempty"`
	Role  string `json:"role,omitempty"`
	Link  string `json:"link,omitempty"` // for choosing a password
}

type personAddCmd struct {
	database
	printed
	public
	Email         string `arg:"" help:"The address that they sign in with."`
	Name          string `help:"As readers see it under posts." required:""`
	Site          string `help:"A blog to put them on." placeholder:"SLUG"`
	Role          string `help:"What they are there: owner, editor or contributor." default:"editor" enum:"owner,editor,contributor"`
	PasswordStdin bool   `help:"Read their password from the first line of standard input; without it a link is printed by which they choose one."`
}

// Run makes an account.
func (c personAddCmd) Run(ctx context.Context, out io.Writer, in io.Reader) error {
	password := ""
	if c.PasswordStdin {
		line, err := bufio.NewReader(io.LimitReader(in, people.MaxPassword+2)).ReadString('\n')
		if err != nil && !errors.Is(err, io.EOF) {
			return fmt.Errorf("reading the password: %w", err)
		}
		if password = strings.TrimRight(line, "\r\n"); password == "" {
			return errors.New("no password came on standard input")
		}
	}
	return c.within(ctx, func(s *store.Store) error {
		house, now := people.House{Store: s}, newClock().Now()
		var site store.Site
		var err error
		if c.Site != "" {
			if site, err = findSite(ctx, s, c.Site); err != nil {
				return err
			}
		}
		user, err := house.Put(ctx, c.Email, c.Name, password, now)
		if err != nil {
			return err
		}
		view := personView{Email: user.Email, Name: user.Name}
		if c.Site != "" {
			if err := house.SetRole(ctx, site, user, people.Role(c.Role), now); err != nil {
				return err
			}
			view.Site, view.Role = c.Site, c.Role
		}
		if password == "" {
			if view.Link, err = house.ResetLink(ctx, user, c.address(defaultPort), now); err != nil {
				return err
			}
		}
		return c.print(out, view, func(w io.Writer) {
			fmt.Fprintf(w, "Made the account of %s.\n", user.Email)
			if view.Link != "" {
				fmt.Fprintf(w, "They choose a password here, within two hours:\n%s\n", view.Link)
			}
		})
	})
}

type personResetCmd struct {
	database
	printed
	public
	Email string `arg:"" help:"The address that they sign in with."`
}

// Run prints a link by which somebody chooses a new password.
func (c personResetCmd) Run(ctx context.Context, out io.Writer) error {
	return c.within(ctx, func(s *store.Store) error {
		house := people.House{Store: s}
		user, err := house.Find(ctx, c.Email)
		if err != nil {
			return err
		}
		link, err := house.ResetLink(ctx, user, c.address(defaultPort), newClock().Now())
		if err != nil {
			return err
		}
		return c.print(out, personView{Email: user.Email, Link: link}, func(w io.Writer) {
			fmt.Fprintf(w, "%s chooses a new password here, once, within two hours:\n%s\n", user.Email, link)
		})
	})
}

type personRoleCmd struct {
	database
	printed
	Email string `arg:"" help:"The address that they sign in with."`
	Site  string `arg:"" help:"The blog's name in addresses."`
	Role  string `arg:"" help:"owner, editor or contributor." enum:"owner,editor,contributor"`
}

// Run gives somebody a role.
func (c personRoleCmd) Run(ctx context.Context, out io.Writer) error {
	return c.within(ctx, func(s *store.Store) error {
		house := people.House{Store: s}
		site, err := findSite(ctx, s, c.Site)
		if err != nil {
			return err
		}
		user, err := house.Find(ctx, c.Email)
		if err != nil {
			return err
		}
		if err := house.SetRole(ctx, site, user, people.Role(c.Role), newClock().Now()); err != nil {
			return err
		}
		return c.print(out, personView{Email: user.Email, Name: user.Name, Site: c.Site, Role: c.Role}, func(w io.Writer) {
			fmt.Fprintf(w, "%s is %s of “%s”.\n", user.Name, c.Role, site.Title)
		})
	})
}
