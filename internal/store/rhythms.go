package store

import (
	"context"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Rhythm is a site's rhythm as it is kept: what core needs to draw it, and a name.
type Rhythm struct {
	ID       int64
	SiteID   int64
	Name     string
	Gap      int // minutes
	Seed     uint64
	Openings []rhythm.Opening // lanes are names of categories
	Uneven   bool
	From     civil.Date // the zero Date: no bound
	Until    civil.Date
	RestDays []civil.Date
	Version  int
}

// In returns the rhythm for drawing it in a zone.
func (r Rhythm) In(zone civil.Zone) rhythm.Rhythm {
	return rhythm.Rhythm{ID: r.ID, Zone: zone, Gap: r.Gap, Seed: r.Seed, Openings: r.Openings,
		Uneven: r.Uneven, From: r.From, Until: r.Until, RestDays: r.RestDays}
}

// RhythmOf returns the site's rhythm.
func (q Queries) RhythmOf(ctx context.Context, siteID int64) (Rhythm, error) {
	var row struct {
		ID      int64      `db:"id"`
		Name    string     `db:"name"`
		Gap     int        `db:"gap_minutes"`
		Seed    int64      `db:"seed"`
		Version int        `db:"version"`
		Uneven  bool       `db:"uneven"`
		Starts  *time.Time `db:"starts"`
		Ends    *time.Time `db:"ends"`
	}
	if err := q.one(ctx, &row, `
		select id, name, gap_minutes, seed, version, uneven, starts, ends from rhythms where site_id = $1`, siteID); err != nil {
		return Rhythm{}, err
	}
	var openings []struct {
		Key      string     `db:"key"`
		Weekdays uint8      `db:"weekdays"`
		From     int        `db:"from_minute"`
		To       *int       `db:"to_minute"`
		Count    int        `db:"count"`
		Sway     int        `db:"sway"`
		Weeks    int        `db:"every_weeks"`
		Anchor   *time.Time `db:"anchor"`
		Zone     *string    `db:"zone"`
		Lane     Strings    `db:"lane"`
	}
	if err := q.all(ctx, &openings, `
		select key, weekdays, from_minute, to_minute, count, sway, every_weeks, anchor, zone,
			(select coalesce(json_agg(name order by categories.position, name), '[]')
			 from opening_lanes join categories on categories.id = category_id
			 where opening_lanes.rhythm_id = openings.rhythm_id and opening_key = key) as lane
		from openings where site_id = $1 and rhythm_id = $2 order by position`, siteID, row.ID); err != nil {
		return Rhythm{}, err
	}
	r := Rhythm{ID: row.ID, SiteID: siteID, Name: row.Name, Gap: row.Gap, Seed: uint64(row.Seed), Version: row.Version,
		Uneven: row.Uneven, From: dateOf(row.Starts), Until: dateOf(row.Ends)}
	var rest []time.Time
	if err := q.all(ctx, &rest, `select date from rest_days where site_id = $1 order by date`, siteID); err != nil {
		return Rhythm{}, err
	}
	for _, d := range rest {
		r.RestDays = append(r.RestDays, civil.NewDate(d.Date()))
	}
	for _, o := range openings {
		opening := rhythm.Opening{Key: o.Key, Weekdays: rhythm.Weekdays(o.Weekdays), From: civil.Clock(o.From), Count: o.Count, Sway: o.Sway,
			EveryWeeks: o.Weeks, Anchor: dateOf(o.Anchor), Lane: o.Lane}
		if o.Zone != nil {
			zone, err := civil.LoadZone(*o.Zone)
			if err != nil {
				return Rhythm{}, err
			}
			opening.Audience = &zone
		}
		if o.To != nil {
			opening.To = civil.Clock(*o.To)
		}
		r.Openings = append(r.Openings, opening)
	}
	return r, nil
}

// InsertRhythm adds a site's rhythm and returns its id.
func (q Queries) InsertRhythm(ctx context.Context, r Rhythm, now time.Time) (int64, error) {
	err := q.one(ctx, &r.ID, `
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
	if err := t.exec(ctx, `
		update rhythms set name = $3, gap_minutes = $4, seed = $5, uneven = $6, starts = $7::date, ends = $8::date,
			version = version + 1, updated_at = $9
		where site_id = $1 and id = $2`, r.SiteID, r.ID, r.Name, r.Gap, int64(r.Seed), r.Uneven, nullDate(r.From), nullDate(r.Until), now); err != nil {
		return err
	}
	if _, err := t.q.ExecContext(ctx, `delete from rest_days where site_id = $1`, r.SiteID); err != nil {
		return err
	}
	if _, err := t.q.ExecContext(ctx, `delete from openings where site_id = $1 and rhythm_id = $2`, r.SiteID, r.ID); err != nil {
		return err
	}
	return t.insertParts(ctx, r)
}

// insertParts adds the rhythm's openings with their lanes, and its rest days.
func (q Queries) insertParts(ctx context.Context, r Rhythm) error {
	for i, o := range r.Openings {
		if err := q.insertOpening(ctx, r, i, o); err != nil {
			return err
		}
	}
	dates := make([]string, len(r.RestDays))
	for i, d := range r.RestDays {
		dates[i] = d.String()
	}
	_, err := q.q.ExecContext(ctx, `
		insert into rest_days (site_id, date) select $1, unnest($2::text[])::date on conflict do nothing`, r.SiteID, dates)
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
	if err := q.exec(ctx, `
		insert into openings (site_id, rhythm_id, key, position, weekdays, from_minute, to_minute, count, sway, every_weeks, anchor, zone)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11::date, $12)`,
		r.SiteID, r.ID, o.Key, position, int(o.Weekdays), int(o.From), to, o.Count, o.Sway, max(o.EveryWeeks, 1), nullDate(o.Anchor), zone); err != nil {
		return err
	}
	_, err := q.q.ExecContext(ctx, `
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
