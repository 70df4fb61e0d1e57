package sharing

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/store/db"
)

// Prepared is a message that was written beforehand.
type Prepared struct {
	ID        int64      `db:"id"`
	SiteID    int64      `db:"site_id"`
	Text      string     `db:"text"` // with placeholders
	Post      db.ID      `db:"post_id"`
	Item      Item       `db:"item"` // of no post
	Picture   db.ID      `db:"picture_id"`
	Channels  db.IDs     `db:"channels"`
	At        *time.Time `db:"at"`      // nil: it takes an opening
	Opening   *time.Time `db:"opening"` // that it took when it was released
	Version   int        `db:"version"`
	CreatedAt time.Time  `db:"created_at"`
	PostTitle string     `db:"post_title"` // read only
	Out       db.Strings `db:"out"`        // the states of its outings; none: it is being prepared; read only
	Next      *time.Time `db:"next"`       // when the first of its outings that wait goes out; read only
	Sent      *time.Time `db:"sent"`       // when the last of its outings went out; read only
}

const selectPrepared = `
	select prepared.*, coalesce(posts.title, '') as post_title, coalesce(states, '[]') as out, next, sent
	from prepared left join posts on posts.id = post_id left join lateral (
		select jsonb_agg(state order by id) as states, min(at) filter (where state = 'planned') as next, max(at) filter (where state = 'sent') as sent
		from outings where prepared_id = prepared.id) o on true`

// PreparedMessages lists a site's prepared messages in the order in which they were written; with ids only those.
func (q Queries) PreparedMessages(ctx context.Context, siteID int64, ids []int64) ([]Prepared, error) {
	var all []Prepared
	err := q.run.All(ctx, &all, selectPrepared+` where prepared.site_id = $1 and ($2::bigint[] is null or prepared.id = any($2)) order by prepared.id`, siteID, ids)
	return all, err
}

// CountPrepared counts a site's prepared messages.
func (q Queries) CountPrepared(ctx context.Context, siteID int64) (n int, err error) {
	err = q.run.One(ctx, &n, `select count(*) from prepared where site_id = $1`, siteID)
	return n, err
}

// InsertPrepared adds a prepared message, and returns its id.
func (t *Tx) InsertPrepared(ctx context.Context, p Prepared) (id int64, err error) {
	err = t.run.One(ctx, &id, `
		insert into prepared (site_id, text, post_id, item, picture_id, channels, at, created_at) values ($1, $2, $3, $4, $5, $6, $7, $8) returning id`,
		p.SiteID, p.Text, p.Post, p.Item, p.Picture, p.Channels, p.At, p.CreatedAt)
	return id, err
}

// SavePrepared writes a prepared message over the version that was seen; db.ErrNotFound where there is another.
func (t *Tx) SavePrepared(ctx context.Context, p Prepared) error {
	return t.run.Exec(ctx, `
		update prepared set text = $4, post_id = $5, item = $6, picture_id = $7, channels = $8, at = $9, version = version + 1
		where site_id = $1 and id = $2 and version = $3`, p.SiteID, p.ID, p.Version, p.Text, p.Post, p.Item, p.Picture, p.Channels, p.At)
}

// TakeOpening notes the opening that a prepared message takes; nil: none any more.
func (t *Tx) TakeOpening(ctx context.Context, siteID, id int64, at *time.Time) error {
	return t.run.Exec(ctx, `update prepared set opening = $3, version = version + 1 where site_id = $1 and id = $2`, siteID, id, at)
}

// DeletePrepared deletes a prepared message; its outings stay.
func (t *Tx) DeletePrepared(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from prepared where site_id = $1 and id = $2`, siteID, id)
}

// OutingsOfPrepared lists the outings of a prepared message.
func (q Queries) OutingsOfPrepared(ctx context.Context, siteID, id int64) ([]Outing, error) {
	var outings []Outing
	err := q.run.All(ctx, &outings, selectOuting+` where outings.site_id = $1 and prepared_id = $2 order by outings.id`, siteID, id)
	return outings, err
}

// TakenOpenings lists the openings to come for which messages of a site wait.
func (q Queries) TakenOpenings(ctx context.Context, siteID int64, after time.Time) ([]time.Time, error) {
	var all []time.Time
	err := q.run.All(ctx, &all, `
		select distinct opening from prepared where site_id = $1 and opening > $2 and exists (select from outings where prepared_id = prepared.id and state <> 'skipped')`,
		siteID, after)
	return all, err
}

// PreparedOpenings says when prepared messages without a time go out; version 0 and ok false where a site has said nothing.
func (q Queries) PreparedOpenings(ctx context.Context, siteID int64) (c cadence.Cadence, version int, ok bool, err error) {
	var row struct {
		Cadence json.RawMessage `db:"cadence"`
		Version int             `db:"version"`
	}
	err = q.run.One(ctx, &row, `select cadence, version from prepared_openings where site_id = $1`, siteID)
	if errors.Is(err, db.ErrNotFound) {
		return c, 0, false, nil
	}
	if err != nil {
		return c, 0, false, err
	}
	if err := json.Unmarshal(row.Cadence, &c); err != nil {
		return c, 0, false, fmt.Errorf("reading the openings of prepared messages: %w", err)
	}
	return c, row.Version, true, nil
}

// SavePreparedOpenings writes when prepared messages without a time go out, over the version that was seen; db.ErrNotFound where there is another.
func (t *Tx) SavePreparedOpenings(ctx context.Context, siteID int64, c cadence.Cadence, version int) error {
	text, err := json.Marshal(c)
	if err != nil {
		return err
	}
	if version == 0 {
		return t.run.Exec(ctx, `insert into prepared_openings (site_id, cadence) values ($1, $2)`, siteID, string(text))
	}
	return t.run.Exec(ctx, `update prepared_openings set cadence = $3, version = version + 1 where site_id = $1 and version = $2`, siteID, version, string(text))
}
