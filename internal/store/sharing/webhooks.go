package sharing

import (
	"context"
	"time"

	"dapper.example/internal/store/db"
)

// Webhook is the address of another program that is told what happens on a blog.
type Webhook struct {
	ID           int64      `db:"id"`
	SiteID       int64      `db:"site_id"`
	Name         string     `db:"name"`
	Address      string     `db:"address"`
	Events       db.Strings `db:"events"`
	Secret       string     `db:"secret"`     // sealed
	OldSecret    string     `db:"old_secret"` // sealed; "": none
	OldEnds      *time.Time `db:"old_ends"`   // until when the old secret signs too
	OffAt        *time.Time `db:"off_at"`     // nil: it is on
	OffWhy       string     `db:"off_why"`
	FailingSince *time.Time `db:"failing_since"` // of the first try that failed since one arrived
	Version      int        `db:"version"`
	CreatedAt    time.Time  `db:"created_at"`
}

// The states of what a webhook is told.
const (
	HookWaiting   = "waiting"
	HookDelivered = "delivered"
	HookFailed    = "failed"
)

// HookDelivery is something that a webhook is told.
type HookDelivery struct {
	ID      int64      `db:"id"`
	SiteID  int64      `db:"site_id"`
	Hook    int64      `db:"hook_id"`
	Key     string     `db:"key"` // the same at each try
	Event   string     `db:"event"`
	Post    db.ID      `db:"post"`
	Outing  db.ID      `db:"outing"`
	Rule    db.ID      `db:"rule"`
	Line    db.ID      `db:"line"` // of the logbook
	Act     db.ID      `db:"act"`
	At      time.Time  `db:"at"` // when it happened
	Sample  bool       `db:"sample"`
	Body    string     `db:"body"` // "": it has not been tried
	State   string     `db:"state"`
	Tries   int        `db:"tries"`
	NextAt  time.Time  `db:"next_at"`
	Status  int        `db:"status"` // of the latest answer; 0: there was none
	Error   string     `db:"error"`
	TriedAt *time.Time `db:"tried_at"`
}

// Webhooks lists a site's webhooks.
func (q Queries) Webhooks(ctx context.Context, siteID int64) ([]Webhook, error) {
	var all []Webhook
	err := q.run.All(ctx, &all, `select * from webhooks where site_id = $1 order by id`, siteID)
	return all, err
}

// Webhook returns one webhook of a site.
func (q Queries) Webhook(ctx context.Context, siteID, id int64) (w Webhook, err error) {
	err = q.run.One(ctx, &w, `select * from webhooks where site_id = $1 and id = $2`, siteID, id)
	return w, err
}

// LockWebhook returns one webhook of a site, locked.
func (t *Tx) LockWebhook(ctx context.Context, siteID, id int64) (w Webhook, err error) {
	err = t.run.One(ctx, &w, `select * from webhooks where site_id = $1 and id = $2 for update`, siteID, id)
	return w, err
}

// InsertWebhook adds a webhook, and returns its id.
func (t *Tx) InsertWebhook(ctx context.Context, w Webhook) (id int64, err error) {
	err = t.run.One(ctx, &id, `insert into webhooks (site_id, name, address, events, secret, created_at) values ($1, $2, $3, $4, $5, $6) returning id`,
		w.SiteID, w.Name, w.Address, db.JSONOf(w.Events), w.Secret, w.CreatedAt)
	return id, err
}

// SaveWebhook writes a webhook, and counts its version up.
func (t *Tx) SaveWebhook(ctx context.Context, w Webhook) error {
	return t.run.Exec(ctx, `
		update webhooks set name = $3, address = $4, events = $5, secret = $6, old_secret = $7, old_ends = $8, off_at = $9, off_why = $10, failing_since = $11,
			version = version + 1
		where site_id = $1 and id = $2`, w.SiteID, w.ID, w.Name, w.Address, db.JSONOf(w.Events), w.Secret, w.OldSecret, w.OldEnds, w.OffAt, w.OffWhy, w.FailingSince)
}

// DeleteWebhook deletes a webhook with what it was told.
func (t *Tx) DeleteWebhook(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from webhooks where site_id = $1 and id = $2`, siteID, id)
}

// HookDeliveries lists what a webhook was told, latest first.
func (q Queries) HookDeliveries(ctx context.Context, siteID, hook int64, limit int) ([]HookDelivery, error) {
	var all []HookDelivery
	err := q.run.All(ctx, &all, `select * from hook_deliveries where site_id = $1 and hook_id = $2 order by id desc limit $3`, siteID, hook, limit)
	return all, err
}

// HookDelivery returns one thing that a webhook is told.
func (q Queries) HookDelivery(ctx context.Context, siteID, id int64) (d HookDelivery, err error) {
	err = q.run.One(ctx, &d, `select * from hook_deliveries where site_id = $1 and id = $2`, siteID, id)
	return d, err
}

// ClaimHookDeliveries takes what is due, the oldest first, and keeps others off it until a moment.
func (q Queries) ClaimHookDeliveries(ctx context.Context, now, until time.Time, limit int) ([]HookDelivery, error) {
	var all []HookDelivery
	err := q.run.All(ctx, &all, `
		update hook_deliveries set next_at = $2
		where id in (select id from hook_deliveries where state = 'waiting' and next_at <= $1 order by id limit $3 for update skip locked) returning *`,
		now, until, limit)
	return all, err
}

// WriteHookBody writes what a webhook is told, before the first try.
func (q Queries) WriteHookBody(ctx context.Context, id int64, body string) error {
	return q.run.Exec(ctx, `update hook_deliveries set body = $2 where id = $1`, id, body)
}

// SaveHookDelivery notes what came of a try.
func (q Queries) SaveHookDelivery(ctx context.Context, d HookDelivery) error {
	return q.run.Exec(ctx, `
		update hook_deliveries set state = $2, tries = $3, next_at = $4, status = $5, error = left($6, 500), tried_at = $7 where id = $1`,
		d.ID, d.State, d.Tries, d.NextAt, d.Status, d.Error, d.TriedAt)
}

// HookArrived notes that a webhook took something.
func (q Queries) HookArrived(ctx context.Context, siteID, hook int64) error {
	_, err := q.run.Do(ctx, `update webhooks set failing_since = null where site_id = $1 and id = $2 and failing_since is not null`, siteID, hook)
	return err
}

// HookFails notes since when a webhook takes nothing, and returns that.
func (q Queries) HookFails(ctx context.Context, siteID, hook int64, now time.Time) (since time.Time, err error) {
	err = q.run.One(ctx, &since, `update webhooks set failing_since = coalesce(failing_since, $3) where site_id = $1 and id = $2 returning failing_since`, siteID, hook, now)
	return since, err
}

// GiveUpHook gives up what a webhook was still to be told.
func (q Queries) GiveUpHook(ctx context.Context, siteID, hook int64, why string) error {
	_, err := q.run.Do(ctx, `update hook_deliveries set state = 'failed', error = $3 where site_id = $1 and hook_id = $2 and state = 'waiting'`, siteID, hook, why)
	return err
}

// InsertHookSample adds a sample, which whoever asked for it sends, for a webhook about the latest thing of its kind, and returns it; db.ErrNotFound where there has been none.
func (q Queries) InsertHookSample(ctx context.Context, siteID, hook int64, event string, now time.Time) (d HookDelivery, err error) {
	err = q.run.One(ctx, &d, `
		with found as (
			(select post_id as post, null::bigint as outing, rule_id as rule, id as line, act_id as act, 1 as rank, at from logbook
				where site_id = $1 and hook_event(deed, actor_id is null) = $3 order by id desc limit 1)
			union all
			(select post_id, id, rule_id, null, null, 1, at from outings
				where site_id = $1 and $3 = 'outing.' || case state when 'waiting' then 'due' else state end order by at desc, id desc limit 1)
			union all -- where that has not happened yet, something much like it
			(select id, null, null, null, null, 2, published_at from posts where site_id = $1 and status = 'published' and $3 like 'post.%' order by published_at desc limit 1)
			union all
			(select post_id, id, rule_id, null, null, 2, at from outings where site_id = $1 and $3 like 'outing.%' order by at desc, id desc limit 1)
			union all
			(select post_id, null, rule_id, id, act_id, 2, at from logbook where site_id = $1 and ($3 = 'plan.changed' or $3 = 'rule.held' and rule_id is not null) order by id desc limit 1)
			union all
			select null, null, null, null, null, 3, $4::timestamptz
		)
		insert into hook_deliveries (site_id, hook_id, event, post, outing, rule, line, act, at, sample, next_at)
		select $1, $2, $3, post, outing, rule, line, act, $4, true, $4 + interval '5 minutes' from found order by rank, at desc limit 1 returning *`, siteID, hook, event, now)
	return d, err
}

// ForgetHookDeliveries deletes what webhooks were told before a moment.
func (q Queries) ForgetHookDeliveries(ctx context.Context, before time.Time) error {
	_, err := q.run.Do(ctx, `delete from hook_deliveries where state <> 'waiting' and at < $1`, before)
	return err
}

// AgainHookDelivery has a webhook be told something once more.
func (q Queries) AgainHookDelivery(ctx context.Context, siteID, id int64, now time.Time) error {
	return q.run.Exec(ctx, `update hook_deliveries set state = 'waiting', tries = greatest(tries, 1), next_at = $3 where site_id = $1 and id = $2 and state <> 'waiting'`, siteID, id, now)
}

// SealedHooks lists the webhooks of all sites, locked, for their secrets to be sealed again.
func (t *Tx) SealedHooks(ctx context.Context) ([]Webhook, error) {
	var all []Webhook
	err := t.run.All(ctx, &all, `select * from webhooks order by id for update`)
	return all, err
}
