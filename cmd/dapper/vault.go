package main

import (
	"context"
	"fmt"
	"os"

	"dapper.example/internal/backup"
)

// programs is the flag of commands that run PostgreSQL's own programs.
type programs struct {
	PGPrograms string `name:"pg-programs" help:"Folder of pg_dump, pg_restore and psql, of the server's version or newer; where it is not said, they are looked for." env:"DAPPER_PG_PROGRAMS" placeholder:"DIR"`
}

type backupCmd struct {
	database
	programs
	File  string `arg:"" help:"The file to write; all of it or nothing."`
	Force bool   `help:"Write over a file that is there."`
}

// Run writes a backup while the program goes on.
func (c backupCmd) Run(ctx context.Context) error {
	v := backup.Vault{URL: c.DatabaseURL, Programs: c.PGPrograms}
	kept, err := v.Backup(ctx, c.File, c.Force, func(bytes int64) {
		fmt.Fprintf(os.Stderr, "%s so far\n", megabytes(bytes))
	})
	if err != nil {
		return err
	}
	fmt.Printf("%s holds everything, pictures too: %d tables, %s. Sign-ins are left out. Its checksum is beside it, in %s.sha256; keep both.\n",
		c.File, kept.Tables, megabytes(kept.Bytes), c.File)
	return nil
}

type restoreCmd struct {
	database
	programs
	File    string `arg:"" help:"A file that backup wrote."`
	Replace bool   `help:"Lose what the database holds now."`
	Pause   bool   `help:"Pause every site, to look before anything comes out."`
}

// Run fills the database from a backup.
func (c restoreCmd) Run(ctx context.Context) error {
	v := backup.Vault{URL: c.DatabaseURL, Programs: c.PGPrograms}
	b, err := v.Restore(ctx, c.File, c.Replace, c.Pause)
	if err != nil {
		return err
	}
	fmt.Printf("Restored: %d sites, %d posts, %d pictures.\n", b.Sites, b.Posts, b.Pictures)
	if b.Unchecked {
		fmt.Printf("There was no checksum beside the backup (%s.sha256), so nobody can tell whether it is just as it was written.\n", c.File)
	}
	if b.Migrations > 0 {
		fmt.Printf("The backup was of an older version; %d steps brought it up to date.\n", b.Migrations)
	}
	switch {
	case c.Pause:
		fmt.Printf("Every site is paused. %d posts have fallen due since the backup; let each site go on from its settings.\n", b.Overdue)
	case b.Overdue > 0:
		fmt.Printf("%d posts have fallen due since the backup. They come out by each site's rule for overdue posts, once the engine runs.\n", b.Overdue)
	}
	return nil
}

func megabytes(bytes int64) string { return fmt.Sprintf("%.1f MB", float64(bytes)/1e6) }
