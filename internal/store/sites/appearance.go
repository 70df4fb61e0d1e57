package sites

import (
	"context"
	"database/sql/driver"
	"encoding/json"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/comment"
	"dapper.example/internal/store/db"
)

// Reading is how readers read a site, and where they find it.
type Reading struct {
	PostsAPage int    `db:"posts_a_page"` // in lists
	FeedsWhole bool   `db:"feeds_whole"`  // whole texts; else excerpts
	Footer     string `db:"footer"`       // a line at the foot of every page
	Host       string `db:"host"`         // of its own; "" for none
	DateStyle  string `db:"date_style"`   // one of DateStyles
	Logo       *int64 `db:"logo_id"`      // a picture in place of the title
	Icon       *int64 `db:"icon_id"`      // a picture for the browser's tab
	FrontPage  *int64 `db:"front_page_id"`
}

// DateStyles are the ways in which readers see dates.
var DateStyles = []string{"long", "full", "medium", "numeric"}

// Appearance is how a site looks to readers.
type Appearance struct {
	Look   string `db:"look"`   // one of core/look's
	Accent string `db:"accent"` // #rrggbb; "" for the first of core/look's
	Menu   Menu   `db:"menu"`   // nil: all categories that have posts, then all pages
}

// Menu is what a site's menu leads to, in its order.
type Menu []MenuItem

// MenuItem leads to a category or a page.
type MenuItem struct {
	Kind string `json:"kind"` // MenuCategory or MenuPage
	ID   int64  `json:"id"`
}

// The kinds of MenuItem.
const (
	MenuCategory = "category"
	MenuPage     = "page"
)

// Scan reads a JSON array, or null.
func (m *Menu) Scan(src any) error {
	*m = nil
	return db.ScanJSON(src, m)
}

// Value writes a JSON array, or null.
func (m Menu) Value() (driver.Value, error) {
	text, err := json.Marshal(m)
	return string(text), err
}

// Home is where readers find the site; public is where the program is reached.
func (s Site) Home(public string) address.Home { return address.HomeOf(public, s.Slug, s.Host) }

// SiteByHost finds a site by the host of its own.
func (q Queries) SiteByHost(ctx context.Context, host string) (Site, error) {
	var s Site
	err := q.run.One(ctx, &s, `select * from sites where host = $1 and host <> ''`, host)
	return s, err
}

// HostIsTaken tells whether another site has a host of its own.
func (q Queries) HostIsTaken(ctx context.Context, host string, siteID int64) (bool, error) {
	var taken bool
	err := q.run.One(ctx, &taken, `select exists (select from sites where host = $1 and host <> '' and id <> $2)`, host, siteID)
	return taken, err
}

// Commenting is what a site has chosen for readers' comments.
type Commenting struct {
	Open  bool         `db:"comments_open"`
	Days  int          `db:"comments_days"` // that a post takes comments for; 0 for ever
	Hold  comment.Hold `db:"comments_hold"`
	Links int          `db:"comments_links"` // in a comment, at most
}

// CommentRules are the site's rules for comments.
func (s Site) CommentRules() comment.Rules { return comment.Rules(s.Commenting) }

// SaveCommenting writes what a site has chosen for comments, and counts its version up.
func (t *Tx) SaveCommenting(ctx context.Context, siteID int64, c Commenting) error {
	return t.run.Exec(ctx, `
		update sites set comments_open = $2, comments_days = $3, comments_hold = $4, comments_links = $5, version = version + 1 where id = $1`,
		siteID, c.Open, c.Days, c.Hold, c.Links)
}

// SaveAppearance writes how a site looks, and counts its version up.
func (t *Tx) SaveAppearance(ctx context.Context, siteID int64, a Appearance) error {
	return t.run.Exec(ctx, `update sites set look = $2, accent = $3, menu = $4, version = version + 1 where id = $1`,
		siteID, a.Look, a.Accent, a.Menu)
}
