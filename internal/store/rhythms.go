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
	Openings []rhythm.Opening
	Version  int
}

// In returns the rhythm for drawing it in a zone.
func (r Rhythm) In(zone civil.Zone) rhythm.Rhythm {
	return rhythm.Rhythm{ID: r.ID, Zone: zone, Gap: r.Gap, Seed: r.Seed, Openings: r.Openings}
}

// RhythmOf returns the site's rhythm.
func (q Queries) RhythmOf(ctx context.Context, siteID int64) (Rhythm, error) {
	var row struct {
		ID      int64  `db:"id"`
		Name    string `db:"name"`
		Gap     int    `db:"gap_minutes"`
		Seed    int64  `db:"seed"`
		Version int    `db:"version"`
	}
	if err := q.one(ctx, &row, `
		select id, name, gap_minutes, seed, version from rhythms where site_id = $1`, siteID); err != nil {
		return Rhythm{}, err
	}
	var openings []struct {
		Key      string `db:"key"`
		Weekdays uint8  `db:"weekdays"`
		From     int    `db:"from_minute"`
		To       *int   `db:"to_minute"`
		Count    int    `db:"count"`
		Sway     int    `db:"sway"`
	}
	if err := q.all(ctx, &openings, `
		select key, weekdays, from_minute, to_minute, count, sway from openings
		where site_id = $1 and rhythm_id = $2 order by position`, siteID, row.ID); err != nil {
		return Rhythm{}, err
	}
	r := Rhythm{ID: row.ID, SiteID: siteID, Name: row.Name, Gap: row.Gap, Seed: uint64(row.Seed), Version: row.Version}
	for _, o := range openings {
		opening := rhythm.Opening{Key: o.Key, Weekdays: rhythm.Weekdays(o.Weekdays), From: civil.Clock(o.From), Count: o.Count, Sway: o.Sway}
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
		insert into rhythms (site_id, name, gap_minutes, seed, updated_at) values ($1, $2, $3, $4, $5)
		returning id`, r.SiteID, r.Name, r.Gap, int64(r.Seed), now)
	if err != nil {
		return 0, err
	}
	return r.ID, q.insertOpenings(ctx, r)
}

// SaveRhythm writes the rhythm and its openings and counts its version up.
func (t *Tx) SaveRhythm(ctx context.Context, r Rhythm, now time.Time) error {
	if err := t.exec(ctx, `
		update rhythms set name = $3, gap_minutes = $4, seed = $5, version = version + 1, updated_at = $6
		where site_id = $1 and id = $2`, r.SiteID, r.ID, r.Name, r.Gap, int64(r.Seed), now); err != nil {
		return err
	}
	if _, err := t.q.ExecContext(ctx, `delete from openings where site_id = $1 and rhythm_id = $2`, r.SiteID, r.ID); err != nil {
		return err
	}
	return t.insertOpenings(ctx, r)
}

func (q Queries) insertOpenings(ctx context.Context, r Rhythm) error {
	for i, o := range r.Openings {
		var to *int
		if !o.IsFixed() {
			minute := int(o.To)
			to = &minute
		}
		if err := q.exec(ctx, `
			insert into openings (site_id, rhythm_id, key, position, weekdays, from_minute, to_minute, count, sway)
			values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
			r.SiteID, r.ID, o.Key, i, int(o.Weekdays), int(o.From), to, o.Count, o.Sway); err != nil {
			return err
		}
	}
	return nil
}
