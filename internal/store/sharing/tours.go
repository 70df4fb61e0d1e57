package sharing

import (
	"context"
	"database/sql/driver"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/tour"
	"dapper.example/internal/store/db"
)

// TourSettings are what an editor says of a tour, kept as JSON.
type TourSettings struct{ tour.Settings }

// Scan reads a JSON object.
func (s *TourSettings) Scan(src any) error { return db.ScanJSON(src, &s.Settings) }

// Value writes a JSON object.
func (s TourSettings) Value() (driver.Value, error) { return db.JSON(s.Settings) }

// TourPage is a page elsewhere that a tour is of, as it was read.
type TourPage struct {
	Title   string   `json:"title"`
	Address string   `json:"address"`
	Text    string   `json:"text"` // Markdown
	Tags    []string `json:"tags,omitempty"`
}

// Scan reads a JSON object, or nothing.
func (p *TourPage) Scan(src any) error {
	if src == nil {
		*p = TourPage{}
		return nil
	}
	return db.ScanJSON(src, p)
}

// Value writes a JSON object, or nothing where it is of no page.
func (p TourPage) Value() (driver.Value, error) {
	if p.Address == "" {
		return nil, nil
	}
	return db.JSON(p)
}

// Tour is a series of outings of one post, or of one page elsewhere.
type Tour struct {
	ID         int64        `db:"id"`
	SiteID     int64        `db:"site_id"`
	Post       db.ID        `db:"post_id"` // 0: it is of Page
	Page       TourPage     `db:"page"`
	User       *int64       `db:"user_id"` // who made it
	Name       string       `db:"name"`
	Settings   TourSettings `db:"settings"`
	Seed       int64        `db:"seed"`
	LaunchedAt *time.Time   `db:"launched_at"` // the first time; nil: it is being made
	PausedAt   *time.Time   `db:"paused_at"`
	StoppedAt  *time.Time   `db:"stopped_at"` // it was ended before its last stop
	CreatedAt  time.Time    `db:"created_at"`
	UpdatedAt  time.Time    `db:"updated_at"`
	Version    int          `db:"version"`
	Title      string       `db:"title"`     // of its post or page; read only
	Waiting    int          `db:"waiting"`   // messages that wait for their time; read only
	Gone       int          `db:"gone"`      // messages that went out, or are on their way; read only
	Failed     int          `db:"failed"`    // messages that could not be sent or were left out; read only
	Following  *time.Time   `db:"following"` // when the next one goes out; read only
}

// TourState says how far a tour has got.
type TourState string

// The states of a tour.
const (
	TourBeingMade TourState = "draft"
	TourRunning   TourState = "running"
	TourPaused    TourState = "paused"
	TourStopped   TourState = "stopped" // before its last stop
	TourOver      TourState = "over"
)

// State follows from what became of its messages.
func (t Tour) State() TourState {
	switch {
	case t.Waiting > 0:
		return TourRunning
	case t.PausedAt != nil:
		return TourPaused
	case t.StoppedAt != nil:
		return TourStopped
	case t.Gone+t.Failed > 0:
		return TourOver
	}
	return TourBeingMade
}

// selectTour reads tours with their pages, or with what a list needs of those: a page's text is long.
func selectTour(page string) string {
	return `
	select tours.id, tours.site_id, tours.post_id, tours.user_id, tours.name, tours.settings, tours.seed, tours.launched_at, tours.paused_at, tours.stopped_at,
		tours.created_at, tours.updated_at, tours.version, ` + page + ` as page, coalesce(posts.title, page->>'title') as title, coalesce(told.waiting, 0) as waiting, coalesce(told.gone, 0) as gone, coalesce(told.failed, 0) as failed, told.following
	from tours left join posts on posts.id = post_id left join lateral (
		select count(*) filter (where state = 'planned') as waiting, count(*) filter (where state in ('waiting', 'sent')) as gone,
			count(*) filter (where state in ('failed', 'skipped', 'set aside')) as failed, min(at) filter (where state = 'planned') as following
		from outings where tour_id = tours.id) told on true`
}

// Tours lists a site's tours, the latest first, without the texts of their pages.
func (q Queries) Tours(ctx context.Context, siteID int64) ([]Tour, error) {
	tours := []Tour{}
	err := q.run.All(ctx, &tours, selectTour(`tours.page - 'text'`)+` where tours.site_id = $1 order by tours.id desc`, siteID)
	return tours, err
}

// Tour returns a tour of a site.
func (q Queries) Tour(ctx context.Context, siteID, id int64) (Tour, error) {
	var t Tour
	err := q.run.One(ctx, &t, selectTour(`tours.page`)+` where tours.site_id = $1 and tours.id = $2`, siteID, id)
	return t, err
}

// LockTour returns a tour of a site, locked.
func (t *Tx) LockTour(ctx context.Context, siteID, id int64) (Tour, error) {
	var one Tour
	err := t.run.One(ctx, &one, selectTour(`tours.page`)+` where tours.site_id = $1 and tours.id = $2 for update of tours`, siteID, id)
	return one, err
}

// InsertTour adds a tour, and returns its id.
func (t *Tx) InsertTour(ctx context.Context, one Tour) (int64, error) {
	var id int64
	err := t.run.One(ctx, &id, `
		insert into tours (site_id, post_id, user_id, name, settings, seed, created_at, updated_at, page) values ($1, $2, $3, $4, $5, $6, $7, $7, $8) returning id`,
		one.SiteID, one.Post, one.User, one.Name, one.Settings, one.Seed, one.CreatedAt, one.Page)
	return id, err
}

// SaveTour writes a tour, and counts its version up.
func (t *Tx) SaveTour(ctx context.Context, one Tour) error {
	return t.run.Exec(ctx, `
		update tours set name = $3, settings = $4, seed = $5, launched_at = $6, paused_at = $7, stopped_at = $8, updated_at = $9, version = version + 1
		where site_id = $1 and id = $2`,
		one.SiteID, one.ID, one.Name, one.Settings, one.Seed, one.LaunchedAt, one.PausedAt, one.StoppedAt, one.UpdatedAt)
}

// DeleteTour deletes a tour. What it sent stays.
func (t *Tx) DeleteTour(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from tours where site_id = $1 and id = $2`, siteID, id)
}

// StopsOf lists the outings of a tour, in the order of its stops.
func (q Queries) StopsOf(ctx context.Context, siteID, tour int64) ([]Outing, error) {
	outings := []Outing{}
	err := q.run.All(ctx, &outings, selectOuting+` where outings.site_id = $1 and tour_id = $2 and outings.parent_id is null order by outings.stop, outings.id`, siteID, tour)
	return outings, err
}

// TakenBeside lists the minutes that messages of a site have in its plan on their channels, but for those of a tour. Nothing else is told of them.
func (q Queries) TakenBeside(ctx context.Context, siteID, tour int64) ([]deed.Outing, error) {
	var rows []struct {
		ID      int64     `db:"id"`
		Channel int64     `db:"channel_id"`
		At      time.Time `db:"at"`
	}
	err := q.run.All(ctx, &rows, `
		select id, channel_id, at from outings
		where site_id = $1 and state = 'planned' and not unplaced and parent_id is null and tour_id is distinct from $2 order by at, id`, siteID, tour)
	taken := make([]deed.Outing, len(rows))
	for i, r := range rows {
		taken[i] = deed.Outing{ID: r.ID, Channel: r.Channel, At: r.At.UTC()}
	}
	return taken, err
}

// LockStops locks the outings of a tour that wait for their time, so that none goes out meanwhile, and returns them.
func (t *Tx) LockStops(ctx context.Context, siteID, tour int64) ([]Outing, error) {
	outings := []Outing{}
	err := t.run.All(ctx, &outings, selectOuting+` where outings.site_id = $1 and tour_id = $2 and state = 'planned' order by outings.id for update of outings`, siteID, tour)
	return outings, err
}

// TourTemplate is what tours have in common, kept by name.
type TourTemplate struct {
	ID        int64        `db:"id"`
	SiteID    int64        `db:"site_id"`
	Name      string       `db:"name"`
	Settings  TourSettings `db:"settings"`
	CreatedAt time.Time    `db:"created_at"`
}

// TourTemplates lists a site's templates of tours by name.
func (q Queries) TourTemplates(ctx context.Context, siteID int64) ([]TourTemplate, error) {
	all := []TourTemplate{}
	err := q.run.All(ctx, &all, `select * from tour_templates where site_id = $1 order by lower(name)`, siteID)
	return all, err
}

// TourTemplate returns a template of a site.
func (q Queries) TourTemplate(ctx context.Context, siteID, id int64) (TourTemplate, error) {
	var one TourTemplate
	err := q.run.One(ctx, &one, `select * from tour_templates where site_id = $1 and id = $2`, siteID, id)
	return one, err
}

// PutTourTemplate keeps a template, in the place of one of the same name.
func (t *Tx) PutTourTemplate(ctx context.Context, one TourTemplate) error {
	return t.run.Exec(ctx, `
		insert into tour_templates (site_id, name, settings, created_at) values ($1, $2, $3, $4)
		on conflict (site_id, lower(name)) do update set name = excluded.name, settings = excluded.settings`, one.SiteID, one.Name, one.Settings, one.CreatedAt)
}

// DeleteTourTemplate deletes a template. Tours that were begun with it stay as they are.
func (t *Tx) DeleteTourTemplate(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from tour_templates where site_id = $1 and id = $2`, siteID, id)
}
