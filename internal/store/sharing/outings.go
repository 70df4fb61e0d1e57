package sharing

import (
	"context"
	"database/sql/driver"
	"regexp"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/store/db"
)

// The states of an outing.
const (
	Planned = "planned" // it waits for its time, and may be changed until then
	Waiting = "waiting" // it is on its way
	Sent    = "sent"
	Failed  = "failed"
	Skipped = "skipped"   // its time came and it could not go out, or an editor left it out
	Aside   = "set aside" // its time passed, and an editor says what becomes of it
)

// The origins of an outing.
const (
	ByRule        = "rule"
	ByHand        = "hand"
	ByPublication = "publication"
	ByTour        = "tour"
)

// WentOut is the outings that count: those that are on their way or have been sent. Replies go
// with what they reply to.
const WentOut = `state in ('waiting', 'sent') and parent_id is null`

// Outing is one message on one channel, of a post or of none.
type Outing struct {
	ID         int64      `db:"id"`
	SiteID     int64      `db:"site_id"`
	Rule       *int64     `db:"rule_id"`
	Channel    int64      `db:"channel_id"`
	Post       db.ID      `db:"post_id"`
	Item       Item       `db:"item"` // of no post
	Turn       *time.Time `db:"turn"` // of the rule that an editor took in hand
	Unplaced   bool       `db:"unplaced"`
	Extras     Extras     `db:"extras"`
	ReplyText  string     `db:"reply_text"`  // what follows under it; "": nothing
	ReplyAfter int        `db:"reply_after"` // minutes
	At         time.Time  `db:"at"`
	Wording    int        `db:"wording"`
	Round      int        `db:"round"`
	Due        *time.Time `db:"due"` // the turn of the rule that it was sent in
	Text       string     `db:"text"`
	Link       string     `db:"link"`
	Key        string     `db:"key"`
	State      string     `db:"state"`
	SentAt     *time.Time `db:"sent_at"`
	RemoteID   string     `db:"remote_id"`
	RemoteURL  string     `db:"remote_url"`
	Tries      int        `db:"tries"`
	Error      string     `db:"error"`
	Clicks     int        `db:"clicks"`
	Origin     string     `db:"origin"`
	Parent     *int64     `db:"parent_id"`   // the outing that it goes under; nil: none
	Pictures   db.IDs     `db:"pictures"`    // of the site's library
	OwnText    string     `db:"own_text"`    // of one that was planned: as it was written, with placeholders
	Actor      *int64     `db:"actor_id"`    // who planned it
	Prepared   db.ID      `db:"prepared_id"` // the prepared message that it is of
	Tour       *int64     `db:"tour_id"`     // whose stop it is; nil: no tour's
	Stop       *int       `db:"stop"`        // its number, from 1
	HandedAt   *time.Time `db:"handed_at"`   // when it was handed to somebody outside, who says when it is done
	Version    int        `db:"version"`
	CreatedAt  time.Time  `db:"created_at"`
	Title      string     `db:"title"`        // the post's; read only
	RuleName   string     `db:"rule_name"`    // read only
	Network    string     `db:"channel_name"` // read only
	TourName   string     `db:"tour_name"`    // read only
}

// Item is a page elsewhere that a message is about, kept as JSON.
type Item struct{ deed.Item }

// Scan reads a JSON object.
func (i *Item) Scan(src any) error { return db.ScanJSON(src, &i.Item) }

// Value writes a JSON object.
func (i Item) Value() (driver.Value, error) { return db.JSON(i.Item) }

// Extras are what a message has beside its wording, kept as JSON.
type Extras struct{ deed.Extras }

// Scan reads a JSON object.
func (e *Extras) Scan(src any) error { return db.ScanJSON(src, &e.Extras) }

// Value writes a JSON object.
func (e Extras) Value() (driver.Value, error) { return db.JSON(e.Extras) }

const selectOuting = `
	select outings.*, coalesce(posts.title, outings.item->>'title', '') as title, coalesce(rules.name, '') as rule_name, channels.name as channel_name,
		coalesce(tours.name, '') as tour_name
	from outings left join posts on posts.id = outings.post_id join channels on channels.id = outings.channel_id left join rules on rules.id = rule_id
		left join tours on tours.id = tour_id`

// InsertOuting adds an outing that waits to be delivered, and returns its id.
func (t *Tx) InsertOuting(ctx context.Context, o Outing) (int64, error) {
	var id int64
	err := t.run.One(ctx, &id, `
		insert into outings (site_id, rule_id, channel_id, post_id, at, wording, round, text, link, due, item, extras, pictures, reply_text, reply_after, origin)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15, coalesce(nullif($16, ''), 'rule')) returning id`,
		o.SiteID, o.Rule, o.Channel, o.Post, o.At, o.Wording, o.Round, o.Text, o.Link, o.Due, o.Item, o.Extras, o.Pictures,
		o.ReplyText, o.ReplyAfter, o.Origin)
	return id, err
}

// InsertPlanned adds an outing that waits for its time, and returns its id.
func (t *Tx) InsertPlanned(ctx context.Context, o Outing) (int64, error) {
	if o.State == "" {
		o.State = Planned
	}
	var id int64
	err := t.run.One(ctx, &id, `
		insert into outings (site_id, channel_id, post_id, at, due, wording, round, text, link, state, origin, parent_id, pictures, own_text, actor_id, created_at,
			rule_id, turn, unplaced, item, extras, reply_text, reply_after, error, prepared_id, tour_id, stop)
		values ($1, $2, $3, $4, $4, $11, $12, '', '', $13, $5, $6, $7, $8, $9, $10, $14, $15, $16, $17, $18, $19, $20, $21, $22, $23, $24) returning id`,
		o.SiteID, o.Channel, o.Post, o.At, o.Origin, o.Parent, o.Pictures, o.OwnText, o.Actor, o.CreatedAt, o.Wording, o.Round, o.State,
		o.Rule, o.Turn, o.Unplaced, o.Item, o.Extras, o.ReplyText, o.ReplyAfter, o.Error, o.Prepared, o.Tour, o.Stop)
	return id, err
}

// RestorePlanned puts back an outing that was planned and dropped, under its number. It
// fails where the number is taken.
func (t *Tx) RestorePlanned(ctx context.Context, o Outing) error {
	return t.run.Exec(ctx, `
		insert into outings (id, site_id, channel_id, post_id, at, due, wording, round, text, link, state, origin, parent_id, pictures, own_text, actor_id, version, created_at,
			rule_id, turn, unplaced, item, extras, reply_text, reply_after, prepared_id, tour_id, stop)
		overriding system value
		values ($11, $1, $2, $3, $4, $4, $13, $14, '', '', 'planned', $5, (select id from outings where site_id = $1 and id = $6), $7, $8, $9, $12, $10,
			(select id from rules where site_id = $1 and id = $15), $16, $17, $18, $19, $20, $21,
			(select id from prepared where site_id = $1 and id = $22), (select id from tours where site_id = $1 and id = $23),
			(select $24::integer from tours where site_id = $1 and id = $23))`,
		o.SiteID, o.Channel, o.Post, o.At, o.Origin, o.Parent, o.Pictures, o.OwnText, o.Actor, o.CreatedAt, o.ID, o.Version+1, o.Wording, o.Round,
		o.Rule, o.Turn, o.Unplaced, o.Item, o.Extras, o.ReplyText, o.ReplyAfter, o.Prepared, o.Tour, o.Stop)
}

// Planned lists a site's outings that wait for their time, in time order.
func (q Queries) Planned(ctx context.Context, siteID int64) ([]Outing, error) {
	var outings []Outing
	err := q.run.All(ctx, &outings,
		selectOuting+` where outings.site_id = $1 and state = 'planned' order by at, outings.id`, siteID)
	return outings, err
}

// AsideOutings lists a site's outings that were set aside for an editor, in time order.
func (q Queries) AsideOutings(ctx context.Context, siteID int64) ([]Outing, error) {
	var outings []Outing
	err := q.run.All(ctx, &outings, selectOuting+` where outings.site_id = $1 and state = 'set aside' order by at, outings.id`, siteID)
	return outings, err
}

// FailedOutings lists a site's outings that could not be sent and that nobody has let go, latest first.
func (q Queries) FailedOutings(ctx context.Context, siteID int64, limit int) ([]Outing, error) {
	var outings []Outing
	err := q.run.All(ctx, &outings, selectOuting+` where outings.site_id = $1 and state = 'failed' order by at desc, outings.id desc limit $2`, siteID, limit)
	return outings, err
}

// CountAside counts a site's outings that could not be sent and that nobody has let go, and those that were set aside for an editor.
func (q Queries) CountAside(ctx context.Context, siteID int64) (failed, aside int, err error) {
	var n struct {
		Failed int `db:"failed"`
		Aside  int `db:"aside"`
	}
	err = q.run.One(ctx, &n, `
		select (select count(*) from outings where site_id = $1 and state = 'failed') as failed, (select count(*) from outings where site_id = $1 and state = 'set aside') as aside`, siteID)
	return n.Failed, n.Aside, err
}

// Retry has an outing that could not be sent be on its way again, with the key that it had.
func (t *Tx) Retry(ctx context.Context, siteID, id int64, now time.Time) error {
	return t.run.Exec(ctx, `update outings set state = 'waiting', at = $3, version = version + 1 where site_id = $1 and id = $2 and state = 'failed'`, siteID, id, now)
}

// LockPlanned returns an outing of a site that waits for its time, locked; it fails with
// db.ErrNotFound where there is none, or no more.
func (t *Tx) LockPlanned(ctx context.Context, siteID, id int64) (Outing, error) {
	var o Outing
	err := t.run.One(ctx, &o,
		selectOuting+` where outings.site_id = $1 and outings.id = $2 and state = 'planned' for update of outings`, siteID, id)
	return o, err
}

// SavePlanned writes an outing that waits for its time, and counts its version up.
func (t *Tx) SavePlanned(ctx context.Context, o Outing) error {
	return t.run.Exec(ctx, `
		update outings set channel_id = $3, post_id = $4, at = $5, due = $5, parent_id = $6, pictures = $7, own_text = $8,
			item = $9, extras = $10, reply_text = $11, reply_after = $12, unplaced = $13, wording = $14, error = '', tries = 0, version = version + 1,
			key = case when state = 'failed' then gen_random_uuid() else key end, state = 'planned' -- another message has another key
		where site_id = $1 and id = $2 and state in ('planned', 'set aside', 'skipped', 'failed')`,
		o.SiteID, o.ID, o.Channel, o.Post, o.At, o.Parent, o.Pictures, o.OwnText, o.Item, o.Extras, o.ReplyText, o.ReplyAfter, o.Unplaced, o.Wording)
}

// PlacePlanned gives an outing that waits the minute at which it goes out. The version stays:
// an editor's open form is not stale by it.
func (t *Tx) PlacePlanned(ctx context.Context, siteID, id int64, at time.Time) error {
	return t.run.Exec(ctx, `update outings set at = $3, due = $3, unplaced = false where site_id = $1 and id = $2 and state = 'planned'`, siteID, id, at)
}

// SetAside leaves an outing whose time passed to an editor.
func (t *Tx) SetAside(ctx context.Context, siteID, id int64, why string) error {
	return t.run.Exec(ctx, `update outings set state = 'set aside', error = $3, version = version + 1 where site_id = $1 and id = $2 and state = 'planned'`, siteID, id, why)
}

// LockOuting returns an outing of a site that has not gone out, locked: one that waits for its
// time, was set aside or left out, or could not be sent; db.ErrNotFound otherwise.
func (t *Tx) LockOuting(ctx context.Context, siteID, id int64) (Outing, error) {
	var o Outing
	err := t.run.One(ctx, &o, selectOuting+`
		where outings.site_id = $1 and outings.id = $2 and state in ('planned', 'set aside', 'skipped', 'failed') for update of outings`, siteID, id)
	return o, err
}

// LockWaiting returns an outing whose message waits to be delivered, locked; db.ErrNotFound where it does not wait any more.
func (t *Tx) LockWaiting(ctx context.Context, id int64) (Outing, error) {
	var o Outing
	err := t.run.One(ctx, &o, selectOuting+` where outings.id = $1 and state = 'waiting' for update of outings`, id)
	return o, err
}

// InHand lists the turns of rules that editors took in hand and that have not been served yet.
func (q Queries) InHand(ctx context.Context, siteID int64) ([]deed.InHand, error) {
	var rows []struct {
		Rule int64     `db:"rule_id"`
		Turn time.Time `db:"turn"`
	}
	err := q.run.All(ctx, &rows, `
		select distinct rule_id, turn from outings join rules on rules.id = rule_id
		where outings.site_id = $1 and turn is not null and turn > coalesce(served_at, '-infinity') order by rule_id, turn`, siteID)
	turns := make([]deed.InHand, len(rows))
	for i, row := range rows {
		turns[i] = deed.InHand{Rule: row.Rule, Turn: row.Turn.UTC()}
	}
	return turns, err
}

// OutingsOfTurn lists the outings by which an editor took a turn of a rule in hand.
func (q Queries) OutingsOfTurn(ctx context.Context, siteID, rule int64, turn time.Time) ([]Outing, error) {
	var outings []Outing
	err := q.run.All(ctx, &outings, selectOuting+` where outings.site_id = $1 and rule_id = $2 and turn = $3 order by outings.id`, siteID, rule, turn)
	return outings, err
}

// DropPlanned deletes an outing that has not gone out.
func (t *Tx) DropPlanned(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from outings where site_id = $1 and id = $2 and state in ('planned', 'set aside', 'skipped')`, siteID, id)
}

// LeaveOut notes that an outing that has not gone out is not to, and why.
func (t *Tx) LeaveOut(ctx context.Context, siteID, id int64, why string) error {
	return t.run.Exec(ctx, `
		update outings set state = 'skipped', error = $3, version = version + 1
		where site_id = $1 and id = $2 and state in ('planned', 'set aside', 'skipped', 'failed')`, siteID, id, why)
}

// SendPlanned notes the message of a planned outing, which is on its way from now on.
func (t *Tx) SendPlanned(ctx context.Context, o Outing) error {
	return t.run.Exec(ctx, `
		update outings set state = 'waiting', at = $3, text = $4, link = $5, pictures = $6 where site_id = $1 and id = $2 and state = 'planned'`,
		o.SiteID, o.ID, o.At, o.Text, o.Link, o.Pictures)
}

// SkipPlanned notes why a planned outing was left out.
func (t *Tx) SkipPlanned(ctx context.Context, siteID, id int64, why string) error {
	return t.run.Exec(ctx, `update outings set state = 'skipped', error = $3 where site_id = $1 and id = $2 and state = 'planned'`, siteID, id, why)
}

// InsertSentOuting adds an outing of the past, whose clicks are put on its day.
func (q Queries) InsertSentOuting(ctx context.Context, o Outing) error {
	return q.run.Exec(ctx, `
		with sent as (
			insert into outings (site_id, rule_id, channel_id, post_id, at, wording, round, text, link, state, sent_at, tries, clicks, origin, item, prepared_id, tour_id, stop, extras)
			values ($1, $2, $3, $4, $5, $6, $7, $8, $9, 'sent', $5, 1, $10, coalesce(nullif($11, ''), 'rule'), $12, $13, $14, $15, $16)
			returning id, site_id, channel_id, at, clicks),
		counted as (
			insert into outing_clicks (outing_id, site_id, channel_id, date, n)
			select sent.id, site_id, channel_id, (at at time zone zone)::date, clicks from sent join sites on sites.id = site_id where clicks > 0)
		select id from sent`,
		o.SiteID, o.Rule, o.Channel, o.Post, o.At, o.Wording, o.Round, o.Text, o.Link, o.Clicks, o.Origin, o.Item, o.Prepared, o.Tour, o.Stop, o.Extras)
}

// Outing returns one outing.
func (q Queries) Outing(ctx context.Context, id int64) (Outing, error) {
	var o Outing
	err := q.run.One(ctx, &o, selectOuting+` where outings.id = $1`, id)
	return o, err
}

// Delivery is an outing with all that its delivery needs to know.
type Delivery struct {
	Outing
	To           Channel    `db:"to"`
	ArchivedAt   *time.Time `db:"archived_at"` // of its site
	ParentState  string     `db:"parent_state"`
	ParentRemote string     `db:"parent_remote"`
}

// Deliveries returns outings for their delivery; those that are gone are left out.
func (q Queries) Deliveries(ctx context.Context, ids []int64) ([]Delivery, error) {
	var all []Delivery
	err := q.run.All(ctx, &all, `
		select outings.*, channels.name as channel_name, sites.archived_at, coalesce(parents.state, '') as parent_state, coalesce(parents.remote_id, '') as parent_remote,
			channels.id as "to.id", channels.site_id as "to.site_id", channels.kind as "to.kind", channels.name as "to.name", channels.address as "to.address",
			channels.token as "to.token", channels.refresh_token as "to.refresh_token", channels.token_ends as "to.token_ends",
			channels.paused_at as "to.paused_at", channels.a_minute as "to.a_minute", channels.home as "to.home", channels.sign_in_why as "to.sign_in_why", channels.rests_until as "to.rests_until"
		from outings join channels on channels.id = outings.channel_id join sites on sites.id = outings.site_id left join outings parents on parents.id = outings.parent_id
		where outings.id = any($1)`, ids)
	return all, err
}

// OutingsBetween lists a site's outings of a span of time, in time order.
func (q Queries) OutingsBetween(ctx context.Context, siteID int64, from, to time.Time) ([]Outing, error) {
	var outings []Outing
	err := q.run.All(ctx, &outings,
		selectOuting+` where outings.site_id = $1 and at >= $2 and at < $3 order by at, outings.id`, siteID, from, to)
	return outings, err
}

// OutingsOf lists what a rule shared, latest first.
func (q Queries) OutingsOf(ctx context.Context, siteID, rule int64, limit int) ([]Outing, error) {
	var outings []Outing
	err := q.run.All(ctx, &outings,
		selectOuting+` where outings.site_id = $1 and rule_id = $2 order by at desc, outings.id desc limit $3`, siteID, rule, limit)
	return outings, err
}

// Arrived says that a network has taken an outing's message.
type Arrived struct {
	ID                  int64
	RemoteID, RemoteURL string
}

// MarkSent notes that networks have taken outings' messages.
func (q Queries) MarkSent(ctx context.Context, arrived []Arrived, now time.Time) error {
	ids, remotes, urls := make([]int64, len(arrived)), make([]string, len(arrived)), make([]string, len(arrived))
	for i, a := range arrived {
		ids[i], remotes[i], urls[i] = a.ID, a.RemoteID, a.RemoteURL
	}
	_, err := q.run.Do(ctx, `
		update outings set state = 'sent', sent_at = $4, remote_id = arrived.remote_id, remote_url = arrived.remote_url, tries = tries + 1, error = ''
		from unnest($1::bigint[], $2::text[], $3::text[]) arrived(id, remote_id, remote_url) where outings.id = arrived.id`, ids, remotes, urls, now)
	return err
}

// MarkHanded notes that a message was handed to somebody outside.
func (q Queries) MarkHanded(ctx context.Context, id int64, now time.Time) error {
	return q.run.Exec(ctx, `update outings set handed_at = $2, tries = tries + 1, error = '' where id = $1 and state = 'waiting'`, id, now)
}

// HandedOutings lists a site's outings that somebody outside has to see to, in time order.
func (q Queries) HandedOutings(ctx context.Context, siteID int64) ([]Outing, error) {
	var all []Outing
	err := q.run.All(ctx, &all, selectOuting+` where outings.site_id = $1 and state = 'waiting' and handed_at is not null order by at, outings.id`, siteID)
	return all, err
}

// keys are what keys look like (UUID, RFC 9562, section 4).
var keys = regexp.MustCompile(`^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$`)

// OutingByKey finds an outing by its key; db.ErrNotFound where there is none.
func (q Queries) OutingByKey(ctx context.Context, key string) (Outing, error) {
	var o Outing
	if !keys.MatchString(key) {
		return o, db.ErrNotFound
	}
	err := q.run.One(ctx, &o, selectOuting+` where outings.key = $1::uuid`, key)
	return o, err
}

// MarkTried notes that a try to deliver an outing failed; for good where failed is set.
func (q Queries) MarkTried(ctx context.Context, id int64, why string, failed bool) error {
	return q.run.Exec(ctx, `
		update outings set tries = tries + 1, error = $2, state = case when $3 then 'failed' else state end where id = $1 and state = 'waiting'`,
		id, why, failed)
}

// LostOutings lists outings that are on their way since before a moment, and of which no job is left that
// would deliver them.
func (q Queries) LostOutings(ctx context.Context, before time.Time) ([]Outing, error) {
	var lost []Outing
	err := q.run.All(ctx, &lost, selectOuting+`
		where state = 'waiting' and handed_at is null and outings.at < $1 and not exists (
			select from river_job where kind = 'share' and river_job.state in ('available', 'pending', 'retryable', 'running', 'scheduled')
				and (args->>'outing')::bigint = outings.id)
		order by outings.id limit 1000`, before)
	return lost, err
}

// RecentMessages lists, by channel, when a site's messages since a moment went out.
func (q Queries) RecentMessages(ctx context.Context, siteID int64, since time.Time) (map[int64][]time.Time, error) {
	var rows []struct {
		Channel int64     `db:"channel_id"`
		At      time.Time `db:"at"`
	}
	err := q.run.All(ctx, &rows,
		`select channel_id, at from outings where site_id = $1 and at >= $2 and `+WentOut+` order by at`, siteID, since)
	recent := make(map[int64][]time.Time)
	for _, row := range rows {
		recent[row.Channel] = append(recent[row.Channel], row.At.UTC())
	}
	return recent, err
}

// Pasts sums up what rules did with posts: outings by rule and channel, and
// republications by rule.
func (q Queries) Pasts(ctx context.Context, siteID int64) ([]deed.Record, error) {
	return q.pasts(ctx, siteID, 0, nil)
}

// PastsOf is Pasts of what one rule has to know: what was sent on its channels, by whomever,
// where it has any, and what it brought out again.
func (q Queries) PastsOf(ctx context.Context, siteID, rule int64, channels []int64) ([]deed.Record, error) {
	if channels == nil {
		channels = []int64{}
	}
	return q.pasts(ctx, siteID, rule, channels)
}

// pasts sums up: all where channels is nil, else those of one rule and of channels.
func (q Queries) pasts(ctx context.Context, siteID, rule int64, channels []int64) ([]deed.Record, error) {
	var rows []struct {
		Rule    int64     `db:"rule"`
		Channel int64     `db:"channel"`
		Post    int64     `db:"post"`
		N       int       `db:"n"`
		Last    time.Time `db:"last"`
		Round   int       `db:"round"`
		Earned  int       `db:"earned"`
		Used    int       `db:"used"`
		Told    time.Time `db:"told"`
		Read    time.Time `db:"read"`
	}
	err := q.run.All(ctx, &rows, `
		with pasts as (select coalesce(rule_id, 0) as rule, channel_id as channel, post_id as post, count(*) as n, max(at) as last, max(round) as round, sum(clicks) as earned,
			(array_agg(wording order by at desc, id desc))[1] + 1 as used
		from outings where site_id = $1 and post_id is not null and `+WentOut+` and ($3::bigint[] is null or channel_id = any($3)) group by 1, 2, 3
		union all
		select coalesce(rule_id, 0), 0, post_id, count(*), max(at), max(round), 0, 0 from republications
		where site_id = $1 and ($2::bigint = 0 or rule_id = $2) group by 1, 2, 3),
		told as (select rule_id as rule, 0::bigint as channel, post_id as post, at, read_at from rule_notices where site_id = $1 and ($2::bigint = 0 or rule_id = $2))
		select rule, channel, post, coalesce(n, 0) as n, coalesce(last, 'epoch') as last, coalesce(round, 0) as round, coalesce(earned, 0) as earned, coalesce(used, 0) as used,
			coalesce(told.at, 'epoch') as told, coalesce(read_at, 'epoch') as read
		from pasts full join told using (rule, channel, post)`, siteID, rule, channels)
	pasts := make([]deed.Record, len(rows))
	for i, r := range rows {
		pasts[i] = deed.Record{Rule: r.Rule, Channel: r.Channel, Post: r.Post, N: r.N, Last: r.Last.UTC(),
			Round: r.Round, Earned: r.Earned, Used: r.Used, Told: sinceEpoch(r.Told), Read: sinceEpoch(r.Read)}
		if r.N == 0 {
			pasts[i].Last = time.Time{}
		}
	}
	return pasts, err
}

// sinceEpoch is a moment, where it is not the epoch, which stands for none.
func sinceEpoch(t time.Time) time.Time {
	if t.Unix() == 0 {
		return time.Time{}
	}
	return t.UTC()
}

// Republication is one coming out again of a post, by a rule.
type Republication struct {
	SiteID int64
	Rule   *int64
	Post   int64
	At     time.Time
	Round  int
}

// InsertRepublication notes that a post came out again.
func (q Queries) InsertRepublication(ctx context.Context, r Republication) error {
	return q.run.Exec(ctx, `insert into republications (site_id, rule_id, post_id, at, round) values ($1, $2, $3, $4, $5)`,
		r.SiteID, r.Rule, r.Post, r.At, r.Round)
}

// ForgetRepublication takes the note of a republication back.
func (t *Tx) ForgetRepublication(ctx context.Context, siteID, post int64, at time.Time) error {
	_, err := t.run.Do(ctx, `delete from republications where site_id = $1 and post_id = $2 and at = $3`,
		siteID, post, at)
	return err
}
