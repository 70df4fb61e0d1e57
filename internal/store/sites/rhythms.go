package sites

import (
	"context"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store/db"
)

// Rhythm is a site's rhythm as it is kept: what core needs to draw it, and a name.
type Rhythm struct {
	ID       int64
	SiteID   int64
	Name     string
	Gap      int // minutes; of a season 0: the usual one
	Seed     uint64
	Openings []rhythm.Opening // lanes are names of categories
	Uneven   bool
	From     civil.Date // the zero Date: no bound
	Until    civil.Date
	Rests    civil.Rests
	Version  int

	Priority int      // of a season
	Seasons  []Rhythm // of the usual rhythm: what holds between its dates instead, in order of their first dates
}

// Season returns the season with an id.
func (r Rhythm) Season(id int64) (Rhythm, bool) {
	for _, s := range r.Seasons {
		if s.ID == id {
			return s, true
		}
	}
	return Rhythm{}, false
}

// In returns the rhythm for drawing it in a zone.
func (r Rhythm) In(zone civil.Zone) rhythm.Rhythm {
	var seasons []rhythm.Season
	for _, s := range r.Seasons {
		seasons = append(seasons, rhythm.Season{ID: s.ID, Name: s.Name, From: s.From, Until: s.Until,
			Priority: s.Priority, Gap: s.Gap, Seed: s.Seed, Uneven: s.Uneven, Openings: s.Openings})
	}
	return rhythm.Rhythm{Seasons: seasons, ID: r.ID, Zone: zone, Gap: r.Gap, Seed: r.Seed, Openings: r.Openings,
		Uneven: r.Uneven, From: r.From, Until: r.Until, Rests: r.Rests}
}

// openingRow is an opening as it is kept.
type openingRow struct {
	Rhythm   int64      `db:"rhythm_id"`
	Key      string     `db:"key"`
	Weekdays uint8      `db:"weekdays"`
	From     int        `db:"from_minute"`
	To       *int       `db:"to_minute"`
	Count    int        `db:"count"`
	Sway     int        `db:"sway"`
	Weeks    int        `db:"every_weeks"`
	Anchor   *time.Time `db:"anchor"`
	Zone     *string    `db:"zone"`
	Lane     db.Strings `db:"lane"`
}

func (o openingRow) opening() (rhythm.Opening, error) {
	opening := rhythm.Opening{Key: o.Key, Weekdays: rhythm.Weekdays(o.Weekdays), From: civil.Clock(o.From),
		Count: o.Count, Sway: o.Sway,
		EveryWeeks: o.Weeks, Anchor: dateOf(o.Anchor), Lane: o.Lane}
	if o.Zone != nil {
		zone, err := civil.LoadZone(*o.Zone)
		if err != nil {
			return opening, err
		}
		opening.Audience = &zone
	}
	if o.To != nil {
		opening.To = civil.Clock(*o.To)
	}
	return opening, nil
}

// RhythmOf returns the site's usual rhythm with its seasons.
func (q Queries) RhythmOf(ctx context.Context, siteID int64) (Rhythm, error) {
	var rows []struct {
		ID       int64      `db:"id"`
		Name     string     `db:"name"`
		Gap      int        `db:"gap_minutes"`
		Seed     int64      `db:"seed"`
		Version  int        `db:"version"`
		Uneven   bool       `db:"uneven"`
		Starts   *time.Time `db:"starts"`
		Ends     *time.Time `db:"ends"`
		Priority *int       `db:"priority"`
	}
	if err := q.run.All(ctx, &rows, `
		select id, name, coalesce(gap_minutes, 0) as gap_minutes, seed, version, uneven, starts, ends, priority from rhythms
		where site_id = $1 order by priority is not null, starts, id`, siteID); err != nil {
		return Rhythm{}, err
	}
	if len(rows) == 0 || rows[0].Priority != nil {
		return Rhythm{}, db.ErrNotFound
	}
	var openings []openingRow
	if err := q.run.All(ctx, &openings, `
		select rhythm_id, key, weekdays, from_minute, to_minute, count, sway, every_weeks, anchor, zone,
			(select coalesce(json_agg(name order by categories.position, name), '[]')
			 from opening_lanes join categories on categories.id = category_id
			 where opening_lanes.rhythm_id = openings.rhythm_id and opening_key = key) as lane
		from openings where site_id = $1 order by rhythm_id, position`, siteID); err != nil {
		return Rhythm{}, err
	}
	of := make(map[int64][]rhythm.Opening)
	for _, o := range openings {
		opening, err := o.opening()
		if err != nil {
			return Rhythm{}, err
		}
		of[o.Rhythm] = append(of[o.Rhythm], opening)
	}
	var r Rhythm
	for i, row := range rows {
		one := Rhythm{ID: row.ID, SiteID: siteID, Name: row.Name, Gap: row.Gap, Seed: uint64(row.Seed),
			Version: row.Version,
			Uneven:  row.Uneven, From: dateOf(row.Starts), Until: dateOf(row.Ends), Openings: of[row.ID]}
		if i == 0 {
			r = one
			continue
		}
		one.Priority = *row.Priority
		r.Seasons = append(r.Seasons, one)
	}
	var err error
	r.Rests, err = q.rests(ctx, siteID)
	return r, err
}

func (q Queries) rests(ctx context.Context, siteID int64) (rests civil.Rests, err error) {
	var rows []struct {
		First  time.Time `db:"date"`
		Last   time.Time `db:"last"`
		Yearly bool      `db:"yearly"`
		Name   string    `db:"name"`
	}
	err = q.run.All(ctx, &rows,
		`select date, last, yearly, name from rest_days where site_id = $1 order by date, last, yearly`, siteID)
	for _, rest := range rows {
		rests = append(rests, civil.Rest{First: dateOf(&rest.First), Last: dateOf(&rest.Last), Yearly: rest.Yearly,
			Name: rest.Name})
	}
	return rests, err
}

// InsertSeason adds a season to a site and returns its id: its own, where it had one
// before it was dropped, else a new one. Its rests are the usual rhythm's.
func (t *Tx) InsertSeason(ctx context.Context, s Rhythm, now time.Time) (int64, error) {
	err := t.run.One(ctx, &s.ID, `
		insert into rhythms (id, site_id, name, gap_minutes, seed, uneven, starts, ends, priority, updated_at)
		overriding system value
		values (coalesce(nullif($10::bigint, 0), nextval(pg_get_serial_sequence('rhythms', 'id'))), $1, $2, nullif($3::integer, 0), $4, $5, $6::date, $7::date, $8, $9)
		returning id`, s.SiteID, s.Name, s.Gap, int64(s.Seed), s.Uneven, nullDate(s.From), nullDate(s.Until), s.Priority, now, s.ID)
	if err != nil {
		return 0, err
	}
	return s.ID, t.insertOpenings(ctx, s)
}

// SaveSeason writes a season and its openings and counts its version up.
func (t *Tx) SaveSeason(ctx context.Context, s Rhythm, now time.Time) error {
	if err := t.run.Exec(ctx, `
		update rhythms set name = $3, seed = $4, uneven = $5, starts = $6::date, ends = $7::date, priority = $8, version = version + 1, updated_at = $9,
			gap_minutes = nullif($10::integer, 0)
		where site_id = $1 and id = $2 and priority is not null`, s.SiteID, s.ID, s.Name, int64(s.Seed), s.Uneven, nullDate(s.From), nullDate(s.Until), s.Priority, now, s.Gap); err != nil {
		return err
	}
	if _, err := t.run.Do(ctx, `delete from openings where site_id = $1 and rhythm_id = $2`, s.SiteID,
		s.ID); err != nil {
		return err
	}
	return t.insertOpenings(ctx, s)
}

// DropSeason deletes a season. Posts in its slots keep their times.
func (t *Tx) DropSeason(ctx context.Context, siteID, id int64) error {
	if _, err := t.run.Do(ctx, `
		update posts set rhythm_id = null, slot_date = null, slot_opening = null, slot_ordinal = null
		where site_id = $1 and rhythm_id = $2`, siteID, id); err != nil {
		return err
	}
	return t.run.Exec(ctx, `delete from rhythms where site_id = $1 and id = $2 and priority is not null`, siteID, id)
}

// InsertRhythm adds a site's rhythm and returns its id.
func (q Queries) InsertRhythm(ctx context.Context, r Rhythm, now time.Time) (int64, error) {
	err := q.run.One(ctx, &r.ID, `
		insert into rhythms (site_id, name, gap_minutes, seed, uneven, starts, ends, updated_at)
		values ($1, $2, $3, $4, $5, $6::date, $7::date, $8)
		returning id`, r.SiteID, r.Name, r.Gap, int64(r.Seed), r.Uneven, nullDate(r.From), nullDate(r.Until), now)
	if err != nil {
		return 0, err
	}
	return r.ID, q.insertParts(ctx, r)
}

// SaveRhythm writes the rhythm and its openings and counts its version up.
func (t *Tx) SaveRhythm(ctx context.Context, r Rhythm, now time.Time) error {
	if err := t.run.Exec(ctx, `
		update rhythms set name = $3, gap_minutes = $4, seed = $5, uneven = $6, starts = $7::date, ends = $8::date,
			version = version + 1, updated_at = $9
		where site_id = $1 and id = $2`, r.SiteID, r.ID, r.Name, r.Gap, int64(r.Seed), r.Uneven, nullDate(r.From), nullDate(r.Until), now); err != nil {
		return err
	}
	if _, err := t.run.Do(ctx, `delete from rest_days where site_id = $1`, r.SiteID); err != nil {
		return err
	}
	if _, err := t.run.Do(ctx, `delete from openings where site_id = $1 and rhythm_id = $2`, r.SiteID,
		r.ID); err != nil {
		return err
	}
	return t.insertParts(ctx, r)
}

// insertOpenings adds the rhythm's openings with their lanes.
func (q Queries) insertOpenings(ctx context.Context, r Rhythm) error {
	for i, o := range r.Openings {
		if err := q.insertOpening(ctx, r, i, o); err != nil {
			return err
		}
	}
	return nil
}

// insertParts adds the rhythm's openings, and the site's rest days.
func (q Queries) insertParts(ctx context.Context, r Rhythm) error {
	if err := q.insertOpenings(ctx, r); err != nil {
		return err
	}
	var first, last, names []string
	var yearly []bool
	for _, rest := range r.Rests {
		first, last = append(first, rest.First.String()), append(last, rest.Last.String())
		yearly, names = append(yearly, rest.Yearly), append(names, rest.Name)
	}
	_, err := q.run.Do(ctx, `
		insert into rest_days (site_id, date, last, yearly, name)
		select $1, first::date, last::date, yearly, name from unnest($2::text[], $3::text[], $4::boolean[], $5::text[]) rest (first, last, yearly, name)
		on conflict do nothing`, r.SiteID, first, last, yearly, names)
	return err
}

func (q Queries) insertOpening(ctx context.Context, r Rhythm, position int, o rhythm.Opening) error {
	var to *int
	if !o.IsFixed() {
		minute := int(o.To)
		to = &minute
	}
	var zone *string
	if o.Audience != nil {
		name := o.Audience.String()
		zone = &name
	}
	if err := q.run.Exec(ctx, `
		insert into openings (site_id, rhythm_id, key, position, weekdays, from_minute, to_minute, count, sway, every_weeks, anchor, zone)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11::date, $12)`,
		r.SiteID, r.ID, o.Key, position, int(o.Weekdays), int(o.From), to, o.Count, o.Sway, max(o.EveryWeeks,
			1), nullDate(o.Anchor), zone); err != nil {
		return err
	}
	_, err := q.run.Do(ctx, `
		insert into opening_lanes (site_id, rhythm_id, opening_key, category_id)
		select $1, $2, $3, id from categories where site_id = $1 and name = any($4)
		on conflict do nothing`, r.SiteID, r.ID, o.Key, o.Lane)
	return err
}

func dateOf(t *time.Time) civil.Date {
	if t == nil {
		return civil.Date{}
	}
	return civil.NewDate(t.Date())
}

func nullDate(d civil.Date) *string {
	if d.IsZero() {
		return nil
	}
	text := d.String()
	return &text
}
