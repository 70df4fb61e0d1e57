package store

import (
	"context"
	"database/sql"
	"time"

	"dapper.example/internal/core/rhythm"
)

// Claim is a scheduled post that this transaction alone may publish.
type Claim struct {
	ID     int64     `db:"id"`
	SiteID int64     `db:"site_id"`
	DueAt  time.Time `db:"due_at"`
	Pinned bool      `db:"pinned"`
}

// ClaimDue locks up to limit posts that are due at the moment and that no other
// transaction holds, earliest first. Left out are sites that are paused, and those that
// have overdue posts and a choice other than to publish them at once.
func (t *Tx) ClaimDue(ctx context.Context, at, overdue time.Time, limit int) ([]Claim, error) {
	var claims []Claim
	err := t.all(ctx, &claims, `
		select id, site_id, due_at, pinned from posts
		where status = 'scheduled' and not held and due_at <= $1
			and site_id not in (select id from sites where paused_at is not null or resumed_at > $1)
			and site_id not in (
				select behind.site_id from posts behind join sites on sites.id = behind.site_id
				where behind.status = 'scheduled' and not behind.held and behind.due_at <= $2 and sites.catch_up <> 'at once')
		order by due_at, id limit $3
		for update skip locked`, at, overdue, limit)
	return claims, err
}

// SitesToTurn lists the sites on which something is to be decided by a moment: those
// that have posts overdue since another and a choice other than to publish them at once,
// and those about whose rules the engine is to ask. Paused sites are left out. What it
// costs follows what is due, not how many sites there are.
func (q Queries) SitesToTurn(ctx context.Context, at, overdue time.Time) ([]int64, error) {
	var ids []int64
	err := q.all(ctx, &ids, `
		with due as (
			select site_id, false as late from asks where at <= $1
			union
			select site_id, true from posts where status = 'scheduled' and not held and due_at <= $2
		)
		select distinct id from sites join due on site_id = id
		where paused_at is null and (not late or catch_up <> 'at once') order by id`, at, overdue)
	return ids, err
}

// ClaimSite locks all posts of a site that are due at the moment; the site must be
// locked already.
func (t *Tx) ClaimSite(ctx context.Context, siteID int64, at time.Time) ([]Claim, error) {
	var claims []Claim
	err := t.all(ctx, &claims, `
		select id, site_id, due_at, pinned from posts
		where site_id = $1 and status = 'scheduled' and not held and due_at <= $2
		order by due_at, id for update`, siteID, at)
	return claims, err
}

// Move gives a claimed post another time, and the slot there if it has one, as the
// engine's deed.
func (t *Tx) Move(ctx context.Context, p Publication, to time.Time, slot rhythm.SlotID, at time.Time) error {
	var place Post
	place.Sit(slot)
	var date *string
	if place.SlotDate != nil {
		text := place.SlotDate.Format(time.DateOnly)
		date = &text
	}
	return t.exec(ctx, `
		with moved as (
			update posts set due_at = $4, pinned = false, rhythm_id = $5, slot_date = $6::date, slot_opening = $7, slot_ordinal = $8,
				version = version + 1, updated_at = $9
			where site_id = $1 and id = $2 and status = 'scheduled' returning id
		)
		insert into logbook (site_id, at, deed, post_id, reason, before, after)
		select $1, $9, 'move', id, $10, jsonb_build_object('status', 'scheduled', 'due_at', $3::timestamptz),
			jsonb_build_object('status', 'scheduled', 'due_at', $4::timestamptz)
		from moved`,
		p.SiteID, p.Post, p.Due, to, place.RhythmID, date, place.SlotOpening, place.SlotOrdinal, at, p.Reason)
}

// Hold leaves a claimed post to an editor, as the engine's deed.
func (t *Tx) Hold(ctx context.Context, p Publication, at time.Time) error {
	return t.exec(ctx, `
		with held as (
			update posts set held = true, version = version + 1, updated_at = $4
			where site_id = $1 and id = $2 and status = 'scheduled' returning id
		)
		insert into logbook (site_id, at, deed, post_id, reason, before, after)
		select $1, $4, 'hold', id, $5, jsonb_build_object('status', 'scheduled', 'due_at', $3::timestamptz),
			jsonb_build_object('status', 'scheduled', 'due_at', $3::timestamptz, 'held', true)
		from held`, p.SiteID, p.Post, p.Due, at, p.Reason)
}

// Publication is a deed of publishing: which post, and the reason for the logbook.
type Publication struct {
	SiteID, Post int64
	Due          time.Time
	Reason       string
}

// Publish makes claimed posts public at the moment, none before it is due, and writes a
// line of the logbook for each, as the engine's deed.
func (t *Tx) Publish(ctx context.Context, publications []Publication, at time.Time) error {
	sites, ids := make([]int64, len(publications)), make([]int64, len(publications))
	dues, reasons := make([]time.Time, len(publications)), make([]string, len(publications))
	for i, p := range publications {
		sites[i], ids[i], dues[i], reasons[i] = p.SiteID, p.Post, p.Due, p.Reason
	}
	_, err := t.q.ExecContext(ctx, `
		with given as (
			select * from unnest($1::bigint[], $2::bigint[], $3::timestamptz[], $4::text[]) given (site_id, id, due, reason)
		), published as (
			update posts set status = 'published', published_at = greatest(given.due, $5), due_at = null, version = version + 1, updated_at = $5,
				first_published_at = coalesce(first_published_at, greatest(given.due, $5))
			from given
			-- Scheduled posts are those with a time. Said so, and with the list of ids, it leads to
			-- the primary key rather than through the index of all that is scheduled.
			where posts.id = any($2) and posts.site_id = given.site_id and posts.id = given.id and due_at is not null
			returning posts.site_id, posts.id, published_at, given.due, given.reason,
				jsonb_strip_nulls(jsonb_build_object('status', 'scheduled', 'due_at', given.due, 'pinned', pinned, 'rhythm_id', rhythm_id,
					'slot_date', slot_date, 'slot_opening', slot_opening, 'slot_ordinal', slot_ordinal)) as place
		)
		insert into logbook (site_id, at, deed, post_id, reason, before, after)
		select site_id, published_at, 'publish', id, reason, place,
			jsonb_build_object('status', 'published', 'published_at', published_at)
		from published order by due, id`, sites, ids, dues, reasons, at)
	return err
}

// NextDueAfter returns when the next scheduled post of any site is due after the
// moment; the zero time where none waits.
func (q Queries) NextDueAfter(ctx context.Context, at time.Time) (time.Time, error) {
	var next sql.NullTime
	err := q.one(ctx, &next, `select min(due_at) from posts where status = 'scheduled' and not held and due_at > $1`, at)
	return next.Time, err
}
