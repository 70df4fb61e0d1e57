package sharing

import (
	"context"
	"time"
)

// The states of a subscriber.
const (
	SubscriberAsked = "asked" // they have not confirmed it
	SubscriberOn    = "on"
	SubscriberOff   = "off" // they ended it
)

// Subscriber is somebody who asked for the messages of a mailing list.
type Subscriber struct {
	ID      int64      `db:"id"`
	SiteID  int64      `db:"site_id"`
	Channel int64      `db:"channel_id"`
	Email   string     `db:"email"`
	State   string     `db:"state"`
	Token   string     `db:"token"` // by which they confirm and end it
	AskedAt time.Time  `db:"asked_at"`
	OnAt    *time.Time `db:"on_at"`
	OffAt   *time.Time `db:"off_at"`
}

// AskSubscriber notes that somebody asked for a mailing list's messages. Whoever had them before keeps their token, so that the
// links in the mails they have stay good. It fails with db.ErrNotFound where they get
// them already, or were asked to confirm it after a moment.
func (q Queries) AskSubscriber(ctx context.Context, s Subscriber, after time.Time) (id int64, err error) {
	err = q.run.One(ctx, &id, `
		insert into subscribers as s (site_id, channel_id, email, state, token, asked_at) values ($1, $2, $3, 'asked', $4, $5)
		on conflict (channel_id, lower(email)) do update set state = 'asked', asked_at = excluded.asked_at, off_at = null
			where s.state <> 'on' and s.asked_at <= $6
		returning id`, s.SiteID, s.Channel, s.Email, s.Token, s.AskedAt, after)
	return id, err
}

// Subscriber returns one subscriber.
func (q Queries) Subscriber(ctx context.Context, id int64) (s Subscriber, err error) {
	err = q.run.One(ctx, &s, `select * from subscribers where id = $1`, id)
	return s, err
}

// SubscriberByToken finds a subscriber of a site by their token.
func (q Queries) SubscriberByToken(ctx context.Context, siteID int64, token string) (s Subscriber, err error) {
	err = q.run.One(ctx, &s, `select * from subscribers where site_id = $1 and token = $2`, siteID, token)
	return s, err
}

// ConfirmSubscriber has somebody who asked for it get messages from now on.
func (q Queries) ConfirmSubscriber(ctx context.Context, id int64, now time.Time) error {
	_, err := q.run.Do(ctx, `update subscribers set state = 'on', on_at = $2 where id = $1 and state = 'asked'`, id, now)
	return err
}

// EndSubscriber has somebody get no more messages.
func (q Queries) EndSubscriber(ctx context.Context, id int64, now time.Time) error {
	_, err := q.run.Do(ctx, `update subscribers set state = 'off', off_at = $2 where id = $1 and state <> 'off'`, id, now)
	return err
}

// DeleteSubscriber forgets a subscriber of a site.
func (q Queries) DeleteSubscriber(ctx context.Context, siteID, id int64) error {
	return q.run.Exec(ctx, `delete from subscribers where site_id = $1 and id = $2`, siteID, id)
}

// Subscribers lists those of a channel, the latest first.
func (q Queries) Subscribers(ctx context.Context, siteID, channel int64, limit int) (all []Subscriber, err error) {
	err = q.run.All(ctx, &all, `select * from subscribers where site_id = $1 and channel_id = $2 order by id desc limit $3`, siteID, channel, limit)
	return all, err
}

// CountSubscribers counts those of a channel by their states.
func (q Queries) CountSubscribers(ctx context.Context, channel int64) (counts map[string]int, err error) {
	var rows []struct {
		State string `db:"state"`
		N     int    `db:"n"`
	}
	err = q.run.All(ctx, &rows, `select state, count(*) as n from subscribers where channel_id = $1 group by 1`, channel)
	counts = make(map[string]int)
	for _, r := range rows {
		counts[r.State] = r.N
	}
	return counts, err
}

// Recipients lists subscribers of a channel whom a message has not been mailed to.
func (q Queries) Recipients(ctx context.Context, channel, outing int64, limit int) (all []Subscriber, err error) {
	err = q.run.All(ctx, &all, `
		select * from subscribers where channel_id = $1 and state = 'on' and not exists (select from mailings where outing_id = $2 and subscriber_id = subscribers.id)
		order by id limit $3`, channel, outing, limit)
	return all, err
}

// NoteMailed notes that a message was mailed to somebody, or with why that their server refused it for good.
func (q Queries) NoteMailed(ctx context.Context, outing, subscriber int64, now time.Time, why string) error {
	_, err := q.run.Do(ctx, `insert into mailings (outing_id, subscriber_id, at, error) values ($1, $2, $3, left($4, 300)) on conflict do nothing`, outing, subscriber, now, why)
	return err
}

// MailedOf counts to how many somebody's message was mailed, and how many refused it.
func (q Queries) MailedOf(ctx context.Context, outing int64) (mailed, refused int, err error) {
	var row struct {
		Mailed  int `db:"mailed"`
		Refused int `db:"refused"`
	}
	err = q.run.One(ctx, &row, `select count(*) filter (where error = '') as mailed, count(*) filter (where error <> '') as refused from mailings where outing_id = $1`, outing)
	return row.Mailed, row.Refused, err
}

// MailChannels lists a site's channels that are mailing lists.
func (q Queries) MailChannels(ctx context.Context, siteID int64) (all []Channel, err error) {
	err = q.run.All(ctx, &all, `select * from channels where site_id = $1 and kind = 'mail' order by id`, siteID)
	return all, err
}

// SetRate says how many mails a minute a mailing list sends.
func (q Queries) SetRate(ctx context.Context, siteID, channel int64, aMinute int) error {
	return q.run.Exec(ctx, `update channels set a_minute = $3 where site_id = $1 and id = $2`, siteID, channel, aMinute)
}
