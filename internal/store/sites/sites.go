// Package sites keeps sites, their settings, rhythms, categories and tags.
package sites

import (
	"cmp"
	"context"
	"fmt"
	"sync"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/store/db"
	"dapper.example/internal/store/turns"
)

// Queries runs its statements on a pool or in a transaction.
type Queries struct{ run db.Runner }

// On returns the statements on a pool or a transaction.
func On(run db.Runner) Queries { return Queries{run} }

// Tx has, beside them, those that want a transaction.
type Tx struct{ Queries }

// In returns the statements in a transaction.
func In(run db.Runner) Tx { return Tx{On(run)} }

// Site is one blog.
type Site struct {
	ID        int64      `db:"id"`
	Slug      string     `db:"slug"`
	Title     string     `db:"title"`
	Tagline   string     `db:"tagline"`
	ZoneName  string     `db:"zone"`
	CreatedAt time.Time  `db:"created_at"`
	Version   int        `db:"version"`
	ResumedAt *time.Time `db:"resumed_at"` // when it was let go on last; nil: never
	Language  string     `db:"language"`   // of its readers (BCP 47)
	// ArchivedAt is since when readers are told that it is gone; nil: they are not. An archived site
	// is paused.
	ArchivedAt *time.Time `db:"archived_at"`
	// DefaultCategory is what a draft is begun in; nil: none.
	DefaultCategory *int64 `db:"default_category_id"`
	// LastingName is the name in addresses that it began with: feeds know its posts by it.
	LastingName string `db:"lasting_name"`
	Reading
	Appearance
	Commenting
	Settings
	PagesOn    bool   `db:"pages_on"`    // the built-in pages; without them, readers are led on to where a post is
	Hub        string `db:"hub"`         // address of the WebSub hub that is told of changes; "": none
	ImportDays int    `db:"import_days"` // for how many days the logs of imports are kept that are over
}

// Settings are what a site's owners and editors choose for the whole site.
type Settings struct {
	CatchUp         string     `db:"catch_up"`         // one of core/deed's choices
	CatchUpMinutes  int        `db:"catch_up_minutes"` // how old is still fresh
	PausedAt        *time.Time `db:"paused_at"`        // nil: not paused
	ShelfOrder      string     `db:"shelf_order"`      // one of core/queue's orders
	ShelfSeed       int64      `db:"shelf_seed"`
	CapDay          int        `db:"cap_day"`
	CapAuthorDay    int        `db:"cap_author_day"`
	CapAuthorWeek   int        `db:"cap_author_week"`
	CapCategoryDays int        `db:"cap_category_days"`
	FirstDateShown  bool       `db:"first_date_shown"` // to readers of a post that came out again
	ReadyChecks     db.Strings `db:"ready_checks"`     // of core/readiness, those that are on
	AudienceZones   db.Strings `db:"audience_zones"`   // of readers, whose clocks are laid under the tape
	BinDays         int        `db:"bin_days"`         // after so many, posts in the bin are deleted for good; 0: never
	LogDays         int        `db:"log_days"`         // for so many the logbook is kept; 0: for ever
}

// Caps are the settings' limits on what comes out.
func (s Settings) Caps() queue.Caps {
	return queue.Caps{Day: s.CapDay, AuthorDay: s.CapAuthorDay, AuthorWeek: s.CapAuthorWeek,
		CategoryDays: s.CapCategoryDays}
}

// Zone is the site's time zone.
func (s Site) Zone() civil.Zone {
	if z, known := zones.Load(s.ZoneName); known {
		return z.(civil.Zone)
	}
	z, err := civil.LoadZone(s.ZoneName)
	if err != nil {
		// Zones are checked when a site is made or changed, against the same
		// database that is linked into the program.
		panic(fmt.Sprintf("site %d: %v", s.ID, err))
	}
	zones.Store(s.ZoneName, z)
	return z
}

// zones are those of sites by their names, some hundreds at most: to load one takes longer
// than most of what is done with it.
var zones sync.Map

// Membership is what a person may do on a site.
type Membership struct {
	Site
	Role string `db:"role"`
}

// defaultLanguage is that of sites of which none is said.
const defaultLanguage = "en-GB"

// InsertSite adds a site; its zone is checked.
func (q Queries) InsertSite(ctx context.Context, s Site) (Site, error) {
	if _, err := civil.LoadZone(s.ZoneName); err != nil {
		return Site{}, err
	}
	err := q.run.One(ctx, &s, `
		insert into sites (slug, lasting_name, title, tagline, zone, created_at, language) values ($1, $1, $2, $3, $4, $5, $6)
		returning *`, s.Slug, s.Title, s.Tagline, s.ZoneName, s.CreatedAt, cmp.Or(s.Language, defaultLanguage))
	return s, err
}

// SiteBySlug finds a site by the name in its address.
func (q Queries) SiteBySlug(ctx context.Context, slug string) (Site, error) {
	var s Site
	err := q.run.One(ctx, &s, `select * from sites where slug = $1`, slug)
	return s, err
}

// SiteByOldSlug finds a site by a name that it had in addresses before.
func (q Queries) SiteByOldSlug(ctx context.Context, slug string) (Site, error) {
	var s Site
	err := q.run.One(ctx, &s, `select sites.* from sites join old_site_slugs old on site_id = sites.id where old.slug = $1`, slug)
	return s, err
}

// SlugIsTaken tells whether another site has, or had, a name in addresses.
func (q Queries) SlugIsTaken(ctx context.Context, slug string, siteID int64) (bool, error) {
	var taken bool
	err := q.run.One(ctx, &taken, `
		select exists (select from sites where slug = $1 and id <> $2) or exists (select from old_site_slugs where slug = $1 and site_id <> $2)`,
		slug, siteID)
	return taken, err
}

// SaveSite writes what a site is called, its name in addresses, the language of its readers, how they
// read it and the default category, and counts its version up. The name that it had leads on to the new one.
func (t *Tx) SaveSite(ctx context.Context, s Site) error {
	for _, statement := range []string{
		`delete from old_site_slugs where site_id = $1 and slug = $2`,
		`insert into old_site_slugs (slug, site_id) select slug, id from sites where id = $1 and slug <> $2`,
	} {
		if _, err := t.run.Do(ctx, statement, s.ID, s.Slug); err != nil {
			return err
		}
	}
	return t.run.Exec(ctx, `
		update sites set title = $2, tagline = $3, slug = $4, language = $5, default_category_id = $6, posts_a_page = $7, feeds_whole = $8, footer = $9,
			host = $10, date_style = $11, logo_id = $12, icon_id = $13, front_page_id = $14, version = version + 1
		where id = $1`, s.ID, s.Title, s.Tagline, s.Slug, s.Language, s.DefaultCategory, s.PostsAPage, s.FeedsWhole, s.Footer,
		s.Host, s.DateStyle, s.Logo, s.Icon, s.FrontPage)
}

// SaveSettings writes the zone and the settings of a site and counts its version up.
func (t *Tx) SaveSettings(ctx context.Context, s Site) error {
	return t.run.Exec(ctx, `
		update sites set zone = $2, catch_up = $3, catch_up_minutes = $4, paused_at = $5, shelf_order = $6, shelf_seed = $7,
			cap_day = $8, cap_author_day = $9, cap_author_week = $10, cap_category_days = $11, first_date_shown = $12, ready_checks = $13, audience_zones = $14, bin_days = $15, log_days = $16, version = version + 1
		where id = $1`,
		s.ID, s.ZoneName, s.CatchUp, s.CatchUpMinutes, s.PausedAt, s.ShelfOrder, s.ShelfSeed,
		s.CapDay, s.CapAuthorDay, s.CapAuthorWeek, s.CapCategoryDays, s.FirstDateShown, db.JSONOf(s.ReadyChecks), db.JSONOf(s.AudienceZones), s.BinDays, s.LogDays)
}

// NoteResumed notes that a site was let go on, and has the engine ask about it from the
// first whole minute on.
func (t *Tx) NoteResumed(ctx context.Context, siteID int64, now time.Time) error {
	if err := t.run.Exec(ctx, `update sites set resumed_at = $2 where id = $1`, siteID, now); err != nil {
		return err
	}
	return turns.On(t.run).Ask(ctx, siteID, deed.FirstMinute(now))
}

// Site returns a site by its id.
func (q Queries) Site(ctx context.Context, id int64) (Site, error) {
	var s Site
	err := q.run.One(ctx, &s, `select * from sites where id = $1`, id)
	return s, err
}

// LockSite makes changes to the site's plan take turns: it waits for others that
// hold the lock and holds it until the transaction ends.
func (t *Tx) LockSite(ctx context.Context, siteID int64) error {
	var id int64
	return t.run.One(ctx, &id, `select id from sites where id = $1 for no key update`, siteID)
}

// turnOf asks for a site on which something is still to be decided; see SitesToTurn.
const turnOf = `
	select * from sites where id = $1 and paused_at is null
		and (exists (select from asks where site_id = $1 and at <= $2)
			or catch_up <> 'at once' and exists (select from posts where site_id = $1 and status = 'scheduled' and not held and due_at <= $3))
	for no key update `

// TakeTurn locks a site for an engine that is to decide on it, and returns it. It does not
// wait: it fails with db.ErrNotFound where somebody else holds the site, and where nothing is to
// be decided any more, since another engine has been there.
func (t *Tx) TakeTurn(ctx context.Context, siteID int64, at, overdue time.Time) (Site, error) {
	var site Site
	err := t.run.One(ctx, &site, turnOf+`skip locked`, siteID, at, overdue)
	return site, err
}

// AwaitTurn is TakeTurn, but waits for whoever holds the site.
func (t *Tx) AwaitTurn(ctx context.Context, siteID int64, at, overdue time.Time) (Site, error) {
	var site Site
	err := t.run.One(ctx, &site, turnOf, siteID, at, overdue)
	return site, err
}

// MembershipOf returns the site by its slug with the user's role on it, or
// db.ErrNotFound where there is no such site or the user is not of it.
func (q Queries) MembershipOf(ctx context.Context, userID int64, siteSlug string) (Membership, error) {
	var m Membership
	err := q.run.One(ctx, &m, `
		select sites.*, role from sites join memberships on site_id = sites.id
		where user_id = $1 and slug = $2`, userID, siteSlug)
	return m, err
}

// Memberships lists the sites of a user: those that are theirs first.
func (q Queries) Memberships(ctx context.Context, userID int64) ([]Membership, error) {
	var ms []Membership
	err := q.run.All(ctx, &ms, `
		select sites.*, role from sites join memberships on site_id = sites.id
		where user_id = $1 order by array_position(array['owner', 'editor', 'contributor'], role), sites.id`, userID)
	return ms, err
}

// InsertMembership gives a user a role on a site.
func (q Queries) InsertMembership(ctx context.Context, siteID, userID int64, role string) error {
	return q.run.Exec(ctx, `insert into memberships (site_id, user_id, role) values ($1, $2, $3)`, siteID, userID, role)
}

// Beyond tells whether there is a site other than those of the slugs, or a person who has
// none of the addresses and is not on one of these sites.
func (q Queries) Beyond(ctx context.Context, slugs, emails []string) (bool, error) {
	var found bool
	err := q.run.One(ctx, &found, `
		select exists (select from sites where slug <> all($1)) or exists (
			select from users where lower(email) <> all($2) and not exists (
				select from memberships join sites on sites.id = site_id where user_id = users.id))`, slugs, emails)
	return found, err
}

// DeleteSite deletes a site with all that belongs to it, and those of the given
// people who are then on no site. It is for the demo world; what is not there is no
// error.
func (t *Tx) DeleteSite(ctx context.Context, slug string, emails []string) error {
	if _, err := t.run.Do(ctx, `delete from logbook where site_id in (select id from sites where slug = $1)`,
		slug); err != nil {
		return err
	}
	if _, err := t.run.Do(ctx, `delete from rules where site_id in (select id from sites where slug = $1)`,
		slug); err != nil {
		return err
	}
	if _, err := t.run.Do(ctx, `delete from posts where site_id in (select id from sites where slug = $1)`,
		slug); err != nil {
		return err
	}
	if _, err := t.run.Do(ctx, `delete from sites where slug = $1`, slug); err != nil {
		return err
	}
	_, err := t.run.Do(ctx, `
		delete from users where lower(email) = any($1)
		and not exists (select from memberships where user_id = users.id)`, emails)
	return err
}

// Archive takes a site out of readers' sight, and pauses it.
func (t *Tx) Archive(ctx context.Context, siteID int64, now time.Time) error {
	return t.run.Exec(ctx, `
		update sites set archived_at = $2, paused_at = coalesce(paused_at, $2), version = version + 1
		where id = $1 and archived_at is null`, siteID, now)
}

// Unarchive shows a site to readers again. It stays paused.
func (t *Tx) Unarchive(ctx context.Context, siteID int64) error {
	return t.run.Exec(ctx, `
		update sites set archived_at = null, version = version + 1 where id = $1 and archived_at is not null`, siteID)
}

// MayAddSites tells whether somebody owns a site, or there is none.
func (q Queries) MayAddSites(ctx context.Context, user int64) (bool, error) {
	var may bool
	err := q.run.One(ctx, &may, `
		select exists (select from memberships where user_id = $1 and role = 'owner') or not exists (select from sites)`, user)
	return may, err
}

// Sites lists all sites, the oldest first.
func (q Queries) Sites(ctx context.Context) ([]Site, error) {
	var all []Site
	err := q.run.All(ctx, &all, `select * from sites order by id`)
	return all, err
}
