package sharing

import (
	"context"
	"database/sql/driver"
	"time"

	"dapper.example/internal/core/message"
	"dapper.example/internal/store/db"
)

// Channel is an account on a network that a site's messages go to.
type Channel struct {
	ID         int64      `db:"id"`
	SiteID     int64      `db:"site_id"`
	Kind       string     `db:"kind"`
	Name       string     `db:"name"`
	Address    string     `db:"address"`
	Token      string     `db:"token"`         // sealed
	Refresh    string     `db:"refresh_token"` // sealed; "": it has none
	TokenEnds  *time.Time `db:"token_ends"`    // nil: never
	Handle     string     `db:"handle"`        // who it is on the network
	Home       string     `db:"home"`          // the page by which its site is known; "": it is on a network
	Apart      int        `db:"apart_minutes"`
	ADay       int        `db:"a_day"` // 0: no limit
	QuietFrom  int        `db:"quiet_from"`
	QuietTo    int        `db:"quiet_to"`
	ZoneName   *string    `db:"zone"` // nil: the site's
	Habits     Habits     `db:"habits"`
	PausedAt   *time.Time `db:"paused_at"`   // nil: it is not paused
	SignInWhy  string     `db:"sign_in_why"` // why it wants signing in again; "": it does not
	RestsUntil *time.Time `db:"rests_until"` // its network asked to be left alone until then
	AMinute    int        `db:"a_minute"`    // of a mailing list: how many mails a minute it sends
	Version    int        `db:"version"`
}

// IsSilent tells whether nothing is sent to the channel until an editor does something.
func (c Channel) IsSilent() bool { return c.PausedAt != nil || c.SignInWhy != "" }

// Habits are what all messages of a channel have in common, kept as JSON.
type Habits struct{ message.Habits }

// Scan reads a JSON object.
func (h *Habits) Scan(src any) error { return db.ScanJSON(src, &h.Habits) }

// Value writes a JSON object.
func (h Habits) Value() (driver.Value, error) { return db.JSON(h.Habits) }

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
		insert into channels (site_id, kind, name, address, token, apart_minutes, a_day, quiet_from, quiet_to, zone, habits, handle, refresh_token, token_ends, home)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13, $14, $15) returning id`,
		c.SiteID, c.Kind, c.Name, c.Address, c.Token, c.Apart, c.ADay, c.QuietFrom, c.QuietTo, c.ZoneName, c.Habits, c.Handle, c.Refresh, c.TokenEnds, c.Home)
	return id, err
}

// SaveChannel writes what an editor may change of a channel and counts its version up.
func (t *Tx) SaveChannel(ctx context.Context, c Channel) error {
	return t.run.Exec(ctx, `
		update channels set name = $8, apart_minutes = $3, a_day = $4, quiet_from = $5, quiet_to = $6, zone = $7, habits = $9, paused_at = $10, version = version + 1
		where site_id = $1 and id = $2`, c.SiteID, c.ID, c.Apart, c.ADay, c.QuietFrom, c.QuietTo, c.ZoneName, c.Name, c.Habits, c.PausedAt)
}

// SignIn writes the tokens that a channel got, sealed, and who it is on its network. It wants
// signing in no more.
func (q Queries) SignIn(ctx context.Context, c Channel) error {
	return q.run.Exec(ctx, `
		update channels set address = $3, token = $4, refresh_token = $5, token_ends = $6, handle = $7, home = $8, sign_in_why = '', rests_until = null, version = version + 1
		where site_id = $1 and id = $2`, c.SiteID, c.ID, c.Address, c.Token, c.Refresh, c.TokenEnds, c.Handle, c.Home)
}

// Renew writes the tokens that a channel got in the place of ones that ended, sealed. The
// version stays: an editor's open form is not stale by it.
func (q Queries) Renew(ctx context.Context, c Channel) error {
	return q.run.Exec(ctx, `update channels set token = $3, refresh_token = $4, token_ends = $5 where site_id = $1 and id = $2`,
		c.SiteID, c.ID, c.Token, c.Refresh, c.TokenEnds)
}

// RenewAccount is Renew for a channel and for all its copies, on whatever site: they have one sign-in, and a token to refresh with
// is good once. before is that token, as it was sealed.
func (t *Tx) RenewAccount(ctx context.Context, c Channel, before string) error {
	return t.run.Exec(ctx, `
		update channels set token = $3, refresh_token = $4, token_ends = $5
		where site_id = $1 and id = $2 or refresh_token = $6 and refresh_token <> ''`, c.SiteID, c.ID, c.Token, c.Refresh, c.TokenEnds, before)
}

// LockAccount returns one channel of a site, locked with all its copies.
func (t *Tx) LockAccount(ctx context.Context, siteID, id int64) (c Channel, err error) {
	var all []Channel
	err = t.run.All(ctx, &all, `
		select * from channels where site_id = $1 and id = $2
			or refresh_token <> '' and refresh_token = (select refresh_token from channels where site_id = $1 and id = $2)
		order by id for update`, siteID, id)
	for _, one := range all {
		if one.ID == id {
			return one, err
		}
	}
	if err == nil {
		err = db.ErrNotFound
	}
	return c, err
}

// LockChannel returns one channel of a site, locked.
func (t *Tx) LockChannel(ctx context.Context, siteID, id int64) (Channel, error) {
	var c Channel
	err := t.run.One(ctx, &c, `select * from channels where site_id = $1 and id = $2 for update`, siteID, id)
	return c, err
}

// WantSignIn notes that a channel wants signing in again, and why; it tells whether that is news.
func (q Queries) WantSignIn(ctx context.Context, siteID, id int64, why string) (news bool, err error) {
	result, err := q.run.Do(ctx, `update channels set sign_in_why = left($3, 300) where site_id = $1 and id = $2 and sign_in_why = ''`, siteID, id, why)
	if err != nil {
		return false, err
	}
	n, err := result.RowsAffected()
	return n > 0, err
}

// Rest notes until when a channel's network wants to be left alone.
func (q Queries) Rest(ctx context.Context, siteID, id int64, until time.Time) error {
	_, err := q.run.Do(ctx, `update channels set rests_until = greatest(coalesce(rests_until, $3), $3) where site_id = $1 and id = $2`, siteID, id, until)
	return err
}

// DeleteChannel deletes a channel with all its outings.
func (t *Tx) DeleteChannel(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from channels where site_id = $1 and id = $2`, siteID, id)
}

// ChannelCount says what goes along with a channel.
type ChannelCount struct {
	Planned int `db:"planned"` // outings that have not gone out
	Sent    int `db:"sent"`
}

// CountOfChannel counts the outings of a channel.
func (q Queries) CountOfChannel(ctx context.Context, siteID, id int64) (ChannelCount, error) {
	var n ChannelCount
	err := q.run.One(ctx, &n, `
		select count(*) filter (where state in ('planned', 'set aside', 'waiting')) as planned, count(*) filter (where state = 'sent') as sent
		from outings where site_id = $1 and channel_id = $2`, siteID, id)
	return n, err
}

// SealedTokens lists the tokens of all channels as they are kept.
func (q Queries) SealedTokens(ctx context.Context) ([]Channel, error) {
	var channels []Channel
	err := q.run.All(ctx, &channels, `select * from channels order by id`)
	return channels, err
}

// MoveChannels points the channels of a kind to another address, as when the stand-ins
// are started on another port.
func (q Queries) MoveChannels(ctx context.Context, kind, address string) error {
	_, err := q.run.Do(ctx, `update channels set address = $2 where kind = $1 and address <> $2`, kind, address)
	return err
}

// Connection is a sign-in at a network that somebody has begun.
type Connection struct {
	State     []byte    `db:"state"` // a hash
	SiteID    int64     `db:"site_id"`
	User      int64     `db:"user_id"`
	Channel   db.ID     `db:"channel_id"` // to be signed in again; 0: a new one
	Kind      string    `db:"kind"`
	Address   string    `db:"address"`
	Verifier  string    `db:"verifier"` // sealed
	CreatedAt time.Time `db:"created_at"`
}

// connectionsKept is for how long one that is not finished is kept.
const connectionsKept = time.Hour

// InsertConnection notes that a sign-in was begun; old ones go.
func (q Queries) InsertConnection(ctx context.Context, c Connection) error {
	if _, err := q.run.Do(ctx, `delete from connections where created_at < $1`, c.CreatedAt.Add(-connectionsKept)); err != nil {
		return err
	}
	return q.run.Exec(ctx, `
		insert into connections (state, site_id, user_id, channel_id, kind, address, verifier, created_at) values ($1, $2, $3, $4, $5, $6, $7, $8)`,
		c.State, c.SiteID, c.User, c.Channel, c.Kind, c.Address, c.Verifier, c.CreatedAt)
}

// Connection returns a sign-in that was begun.
func (q Queries) Connection(ctx context.Context, state []byte) (Connection, error) {
	var c Connection
	err := q.run.One(ctx, &c, `select * from connections where state = $1`, state)
	return c, err
}

// TakeConnection returns a sign-in that was begun, once.
func (q Queries) TakeConnection(ctx context.Context, state []byte) (Connection, error) {
	var c Connection
	err := q.run.One(ctx, &c, `delete from connections where state = $1 returning *`, state)
	return c, err
}
