package sharing

import (
	"context"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/store/db"
)

// Channel is a network that a site's messages go to.
type Channel struct {
	ID        int64   `db:"id"`
	SiteID    int64   `db:"site_id"`
	Kind      string  `db:"kind"`
	Name      string  `db:"name"`
	Address   string  `db:"address"`
	Token     string  `db:"token"`
	Apart     int     `db:"apart_minutes"`
	ADay      int     `db:"a_day"` // 0: no limit
	QuietFrom int     `db:"quiet_from"`
	QuietTo   int     `db:"quiet_to"`
	ZoneName  *string `db:"zone"` // nil: the site's
	Version   int     `db:"version"`
}

// Channels lists a site's channels.
func (q Queries) Channels(ctx context.Context, siteID int64) ([]Channel, error) {
	var channels []Channel
	err := q.run.All(ctx, &channels, `select * from channels where site_id = $1 order by id`, siteID)
	return channels, err
}

// Channel returns one channel of a site.
func (q Queries) Channel(ctx context.Context, siteID, id int64) (Channel, error) {
	var c Channel
	err := q.run.One(ctx, &c, `select * from channels where site_id = $1 and id = $2`, siteID, id)
	return c, err
}

// InsertChannel adds a channel and returns its id.
func (q Queries) InsertChannel(ctx context.Context, c Channel) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into channels (site_id, kind, name, address, token, apart_minutes, a_day, quiet_from, quiet_to, zone)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) returning id`,
		c.SiteID, c.Kind, c.Name, c.Address, c.Token, c.Apart, c.ADay, c.QuietFrom, c.QuietTo, c.ZoneName)
	return id, err
}

// SaveChannel writes what an editor may change of a channel and counts its version up.
func (t *Tx) SaveChannel(ctx context.Context, c Channel) error {
	return t.run.Exec(ctx, `
		update channels set apart_minutes = $3, a_day = $4, quiet_from = $5, quiet_to = $6, zone = $7, version = version + 1
		where site_id = $1 and id = $2`, c.SiteID, c.ID, c.Apart, c.ADay, c.QuietFrom, c.QuietTo, c.ZoneName)
}

// MoveChannels points the channels of a kind to another address, as when the stand-ins
// are started on another port.
func (q Queries) MoveChannels(ctx context.Context, kind, address string) error {
	_, err := q.run.Do(ctx, `update channels set address = $2 where kind = $1 and address <> $2`, kind, address)
	return err
}

// The states of an outing.
const (
	Planned = "planned" // it waits for its time, and may be changed until then
	Waiting = "waiting" // it is on its way
	Sent    = "sent"
	Failed  = "failed"
	Skipped = "skipped" // its time came and it could not go out
)

// The origins of an outing.
const (
	ByRule        = "rule"
	ByHand        = "hand"
	ByPublication = "publication"
	ByTour        = "tour"
)

// WentOut is the outings that count: those that are on their way or have been sent.
const WentOut = `state in ('waiting', 'sent')`

// Outing is one sharing of one post on one channel.
type Outing struct {
	ID        int64      `db:"id"`
	SiteID    int64      `db:"site_id"`
	Rule      *int64     `db:"rule_id"`
	Channel   int64      `db:"channel_id"`
	Post      int64      `db:"post_id"`
	At        time.Time  `db:"at"`
	Wording   int        `db:"wording"`
	Round     int        `db:"round"`
	Due       *time.Time `db:"due"` // the turn of the rule that it was sent in
	Text      string     `db:"text"`
	Link      string     `db:"link"`
	Key       string     `db:"key"`
	State     string     `db:"state"`
	SentAt    *time.Time `db:"sent_at"`
	RemoteID  string     `db:"remote_id"`
	RemoteURL string     `db:"remote_url"`
	Tries     int        `db:"tries"`
	Error     string     `db:"error"`
	Clicks    int        `db:"clicks"`
	Origin    string     `db:"origin"`
	Parent    *int64     `db:"parent_id"` // the outing that it goes under; nil: none
	Pictures  db.IDs     `db:"pictures"`  // of the site's library
	OwnText   string     `db:"own_text"`  // of one that was planned: as it was written, with placeholders
	Actor     *int64     `db:"actor_id"`  // who planned it
	Version   int        `db:"version"`
	CreatedAt time.Time  `db:"created_at"`
	Title     string     `db:"title"`        // the post's; read only
	RuleName  string     `db:"rule_name"`    // read only
	Network   string     `db:"channel_name"` // read only
}

const selectOuting = `
	select outings.*, posts.title, coalesce(rules.name, '') as rule_name, channels.name as channel_name
	from outings join posts on posts.id = post_id join channels on channels.id = outings.channel_id left join rules on rules.id = rule_id`

// InsertOuting adds an outing that waits to be delivered, and returns its id.
func (t *Tx) InsertOuting(ctx context.Context, o Outing) (int64, error) {
	var id int64
	err := t.run.One(ctx, &id, `
		insert into outings (site_id, rule_id, channel_id, post_id, at, wording, round, text, link, due)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) returning id`,
		o.SiteID, o.Rule, o.Channel, o.Post, o.At, o.Wording, o.Round, o.Text, o.Link, o.Due)
	return id, err
}

// InsertPlanned adds an outing that waits for its time, and returns its id.
func (t *Tx) InsertPlanned(ctx context.Context, o Outing) (int64, error) {
	var id int64
	err := t.run.One(ctx, &id, `
		insert into outings (site_id, channel_id, post_id, at, due, wording, text, link, state, origin, parent_id, pictures, own_text, actor_id, created_at)
		values ($1, $2, $3, $4, $4, 0, '', '', 'planned', $5, $6, $7, $8, $9, $10) returning id`,
		o.SiteID, o.Channel, o.Post, o.At, o.Origin, o.Parent, o.Pictures, o.OwnText, o.Actor, o.CreatedAt)
	return id, err
}

// RestorePlanned puts back an outing that was planned and dropped, under its number. It
// fails where the number is taken.
func (t *Tx) RestorePlanned(ctx context.Context, o Outing) error {
	return t.run.Exec(ctx, `
		insert into outings (id, site_id, channel_id, post_id, at, due, wording, text, link, state, origin, parent_id, pictures, own_text, actor_id, version, created_at)
		overriding system value
		values ($11, $1, $2, $3, $4, $4, 0, '', '', 'planned', $5, (select id from outings where site_id = $1 and id = $6), $7, $8, $9, $12, $10)`,
		o.SiteID, o.Channel, o.Post, o.At, o.Origin, o.Parent, o.Pictures, o.OwnText, o.Actor, o.CreatedAt, o.ID, o.Version+1)
}

// Planned lists a site's outings that wait for their time, in time order.
func (q Queries) Planned(ctx context.Context, siteID int64) ([]Outing, error) {
	var outings []Outing
	err := q.run.All(ctx, &outings,
		selectOuting+` where outings.site_id = $1 and state = 'planned' order by at, outings.id`, siteID)
	return outings, err
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
		update outings set channel_id = $3, post_id = $4, at = $5, due = $5, parent_id = $6, pictures = $7, own_text = $8, version = version + 1
		where site_id = $1 and id = $2 and state = 'planned'`,
		o.SiteID, o.ID, o.Channel, o.Post, o.At, o.Parent, o.Pictures, o.OwnText)
}

// DropPlanned deletes an outing that waits for its time.
func (t *Tx) DropPlanned(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from outings where site_id = $1 and id = $2 and state = 'planned'`, siteID, id)
}

// SendPlanned notes the message of a planned outing, which is on its way from now on.
func (t *Tx) SendPlanned(ctx context.Context, o Outing) error {
	return t.run.Exec(ctx, `
		update outings set state = 'waiting', at = $3, text = $4, link = $5 where site_id = $1 and id = $2 and state = 'planned'`,
		o.SiteID, o.ID, o.At, o.Text, o.Link)
}

// SkipPlanned notes why a planned outing was left out.
func (t *Tx) SkipPlanned(ctx context.Context, siteID, id int64, why string) error {
	return t.run.Exec(ctx, `update outings set state = 'skipped', error = $3 where site_id = $1 and id = $2 and state = 'planned'`, siteID, id, why)
}

// InsertSentOuting adds an outing of the past.
func (q Queries) InsertSentOuting(ctx context.Context, o Outing) error {
	return q.run.Exec(ctx, `
		insert into outings (site_id, rule_id, channel_id, post_id, at, wording, round, text, link, state, sent_at, tries, clicks)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, 'sent', $5, 1, $10)`,
		o.SiteID, o.Rule, o.Channel, o.Post, o.At, o.Wording, o.Round, o.Text, o.Link, o.Clicks)
}

// Outing returns one outing.
func (q Queries) Outing(ctx context.Context, id int64) (Outing, error) {
	var o Outing
	err := q.run.One(ctx, &o, selectOuting+` where outings.id = $1`, id)
	return o, err
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

// MarkSent notes that the network has taken an outing's message.
func (q Queries) MarkSent(ctx context.Context, id int64, remoteID, remoteURL string, now time.Time) error {
	return q.run.Exec(ctx, `
		update outings set state = 'sent', sent_at = $2, remote_id = $3, remote_url = $4, tries = tries + 1, error = '' where id = $1`,
		id, now, remoteID, remoteURL)
}

// MarkTried notes that a try to deliver an outing failed; for good where failed is set.
func (q Queries) MarkTried(ctx context.Context, id int64, why string, failed bool) error {
	return q.run.Exec(ctx, `
		update outings set tries = tries + 1, error = $2, state = case when $3 then 'failed' else state end where id = $1 and state = 'waiting'`,
		id, why, failed)
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
	return q.pasts(ctx, siteID, 0, 0)
}

// PastsOf is Pasts of what one rule has to know: what was sent on its channel, by whomever,
// where it has one, and what it brought out again.
func (q Queries) PastsOf(ctx context.Context, siteID, rule, channel int64) ([]deed.Record, error) {
	if channel == 0 {
		channel = -1 // none
	}
	return q.pasts(ctx, siteID, rule, channel)
}

// pasts sums up, of one rule and one channel where they are not 0.
func (q Queries) pasts(ctx context.Context, siteID, rule, channel int64) ([]deed.Record, error) {
	var rows []struct {
		Rule    int64     `db:"rule"`
		Channel int64     `db:"channel"`
		Post    int64     `db:"post"`
		N       int       `db:"n"`
		Last    time.Time `db:"last"`
		Round   int       `db:"round"`
		Earned  int       `db:"earned"`
		Used    int       `db:"used"`
	}
	err := q.run.All(ctx, &rows, `
		select coalesce(rule_id, 0) as rule, channel_id as channel, post_id as post, count(*) as n, max(at) as last, max(round) as round, sum(clicks) as earned,
			(array_agg(wording order by at desc, id desc))[1] + 1 as used
		from outings where site_id = $1 and `+WentOut+` and ($3::bigint = 0 or channel_id = $3) group by 1, 2, 3
		union all
		select coalesce(rule_id, 0), 0, post_id, count(*), max(at), max(round), 0, 0 from republications
		where site_id = $1 and ($2::bigint = 0 or rule_id = $2) group by 1, 2, 3`, siteID, rule, channel)
	pasts := make([]deed.Record, len(rows))
	for i, r := range rows {
		pasts[i] = deed.Record{Rule: r.Rule, Channel: r.Channel, Post: r.Post, N: r.N, Last: r.Last.UTC(),
			Round: r.Round, Earned: r.Earned, Used: r.Used}
	}
	return pasts, err
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

// ShortLink is where a short link leads.
type ShortLink struct {
	Code   string      `db:"code"`
	SiteID int64       `db:"site_id"`
	Post   int64       `db:"post_id"`
	Outing *int64      `db:"outing_id"`
	Query  string      `db:"query"`
	Slug   string      `db:"slug"`   // the post's; read only
	Site   string      `db:"site"`   // the site's slug; read only
	Host   string      `db:"host"`   // the site's own; "" for none; read only
	Zone   string      `db:"zone"`   // the site's; read only
	Status post.Status `db:"status"` // the post's; read only
}

// InsertShortLink adds a short link; the same code for the same post stays.
func (t *Tx) InsertShortLink(ctx context.Context, l ShortLink) error {
	_, err := t.run.Do(ctx, `
		insert into short_links (code, site_id, post_id, outing_id, query) values ($1, $2, $3, $4, $5)
		on conflict (code) do update set outing_id = excluded.outing_id where short_links.post_id = excluded.post_id`, l.Code, l.SiteID, l.Post, l.Outing, l.Query)
	return err
}

// ShortLink finds where a short link leads.
func (q Queries) ShortLink(ctx context.Context, code string) (ShortLink, error) {
	var l ShortLink
	err := q.run.One(ctx, &l, `
		select short_links.*, posts.slug, posts.status, sites.slug as site, sites.host, sites.zone
		from short_links join posts on posts.id = post_id join sites on sites.id = short_links.site_id where code = $1`, code)
	return l, err
}

// CountClick counts a click on a short link, for the post on a date of its site, and
// for the outing.
func (q Queries) CountClick(ctx context.Context, l ShortLink, date string) error {
	if _, err := q.run.Do(ctx, `
		insert into clicks (site_id, post_id, date, n) values ($1, $2, $3::date, 1)
		on conflict (post_id, date) do update set n = clicks.n + 1`, l.SiteID, l.Post, date); err != nil {
		return err
	}
	if l.Outing == nil {
		return nil
	}
	_, err := q.run.Do(ctx, `update outings set clicks = clicks + 1 where id = $1`, *l.Outing)
	return err
}

// InsertClicks adds clicks of a date to a post.
func (q Queries) InsertClicks(ctx context.Context, siteID, post int64, date string, n int) error {
	return q.run.Exec(ctx, `
		insert into clicks (site_id, post_id, date, n) values ($1, $2, $3::date, $4)
		on conflict (post_id, date) do update set n = clicks.n + excluded.n`, siteID, post, date, n)
}
