package accounts

import (
	"context"
	"time"

	"dapper.example/internal/store/db"
)

// Digest is what somebody wants to be told of a site by mail, and how far that has come.
type Digest struct {
	SiteID    int64      `db:"site_id"`
	User      int64      `db:"user_id"`
	Every     string     `db:"every"` // of core/digest
	Weekday   int        `db:"weekday"`
	At        int        `db:"at"` // minutes of the day by the clocks of ZoneName
	ZoneName  string     `db:"zone"`
	Parts     db.Strings `db:"parts"`
	Token     string     `db:"token"` // by which it is ended from a mail
	Off       bool       `db:"off"`
	NextAt    time.Time  `db:"next_at"`
	SentAt    time.Time  `db:"sent_at"`    // up to when the last one told
	HandingAt *time.Time `db:"handing_at"` // the one that is being handed in, or was when its process died; nil: none
	Version   int        `db:"version"`
}

// Digest returns what somebody is told of a site; db.ErrNotFound where that is nothing.
func (q Queries) Digest(ctx context.Context, siteID, user int64) (Digest, error) {
	var d Digest
	err := q.run.One(ctx, &d, `select * from digests where site_id = $1 and user_id = $2`, siteID, user)
	return d, err
}

// DigestByToken returns the digest that a mail's link is about.
func (q Queries) DigestByToken(ctx context.Context, token string) (Digest, error) {
	var d Digest
	err := q.run.One(ctx, &d, `select * from digests where token = $1`, token)
	return d, err
}

// PutDigest writes what somebody wants to be told. What was told and the token stay.
func (t *Tx) PutDigest(ctx context.Context, d Digest) error {
	return t.run.Exec(ctx, `
		insert into digests (site_id, user_id, every, weekday, at, zone, parts, token, off, next_at, sent_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11)
		on conflict (site_id, user_id) do update set every = $3, weekday = $4, at = $5, zone = $6, parts = $7, off = $9, next_at = $10, version = digests.version + 1`,
		d.SiteID, d.User, d.Every, d.Weekday, d.At, d.ZoneName, db.JSONOf(d.Parts), d.Token, d.Off, d.NextAt, d.SentAt)
}

// DropDigest ends what somebody is told of a site.
func (t *Tx) DropDigest(ctx context.Context, siteID, user int64) error {
	_, err := t.run.Do(ctx, `delete from digests where site_id = $1 and user_id = $2`, siteID, user)
	return err
}

// TurnDigest ends a digest, or has it go on, by the token of its mails. It fails with db.ErrNotFound where there is none.
func (q Queries) TurnDigest(ctx context.Context, token string, off bool) error {
	return q.run.Exec(ctx, `update digests set off = $2, version = version + 1 where token = $1`, token, off)
}

// ClaimDigests locks digests that are due, those that have waited longest first. Those of archived sites rest.
func (t *Tx) ClaimDigests(ctx context.Context, now time.Time, limit int) ([]Digest, error) {
	var due []Digest
	err := t.run.All(ctx, &due, `
		select digests.* from digests join sites on sites.id = site_id
		where not off and next_at <= $1 and archived_at is null order by next_at, site_id, user_id limit $2 for update of digests skip locked`, now, limit)
	return due, err
}

// SetNextDigest says when a digest is due next.
func (t *Tx) SetNextDigest(ctx context.Context, siteID, user int64, next time.Time) error {
	return t.run.Exec(ctx, `update digests set next_at = $3 where site_id = $1 and user_id = $2`, siteID, user, next)
}

// NextDigest is when a digest is due next, after a moment; the zero time where none is.
func (q Queries) NextDigest(ctx context.Context, after time.Time) (time.Time, error) {
	var next *time.Time
	err := q.run.One(ctx, &next, `select min(next_at) from digests join sites on sites.id = site_id where not off and archived_at is null and next_at > $1`, after)
	return db.OrZero(next), err
}

// HandIn notes that the digest of a moment is being handed in, and tells whether it may be: not where it, or a later one, was before,
// even if it is not known whether that arrived.
func (q Queries) HandIn(ctx context.Context, siteID, user int64, at time.Time) (bool, error) {
	done, err := q.run.Do(ctx, `
		update digests set handing_at = $3 where site_id = $1 and user_id = $2 and not off and sent_at < $3 and (handing_at is null or handing_at < $3)`, siteID, user, at)
	if err != nil {
		return false, err
	}
	n, err := done.RowsAffected()
	return n > 0, err
}

// TakeBack notes that the digest of a moment was not taken, so that it may be handed in again.
func (q Queries) TakeBack(ctx context.Context, siteID, user int64, at time.Time) error {
	_, err := q.run.Do(ctx, `update digests set handing_at = null where site_id = $1 and user_id = $2 and handing_at = $3`, siteID, user, at)
	return err
}

// HandedIn notes that the digest of a moment was sent, or that there was nothing to tell: the next one tells of what comes after.
func (q Queries) HandedIn(ctx context.Context, siteID, user int64, at time.Time) error {
	_, err := q.run.Do(ctx, `update digests set sent_at = $3, handing_at = null where site_id = $1 and user_id = $2 and sent_at < $3`, siteID, user, at)
	return err
}
