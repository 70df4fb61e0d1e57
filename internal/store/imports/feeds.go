package imports

import (
	"context"
	"encoding/json"
	"time"
)

// What the items of feeds become.
const (
	FeedPosts    = "posts"
	FeedLinks    = "links"    // link items, which rules share
	FeedMessages = "messages" // prepared messages, to be shared, with a title and a link of no page of the blog
)

// Feed is a feed whose new items are brought in.
type Feed struct {
	ID        int64           `db:"id"`
	SiteID    int64           `db:"site_id"`
	User      int64           `db:"user_id"` // who added it; its posts are theirs
	Name      string          `db:"name"`
	Address   string          `db:"address"`
	Minutes   int             `db:"minutes"`  // from one look to the next
	Existing  bool            `db:"existing"` // items that were there at the first look come too
	Becomes   string          `db:"becomes"`
	Setup     json.RawMessage `db:"setup"`
	Paused    bool            `db:"paused"`
	ETag      string          `db:"etag"`
	Modified  string          `db:"modified"`
	LookedAt  *time.Time      `db:"looked_at"` // nil: never
	NextAt    time.Time       `db:"next_at"`
	Failing   int             `db:"failing"` // looks that failed one after another
	Problem   string          `db:"problem"` // why the last one failed, a sentence
	Version   int             `db:"version"`
	CreatedAt time.Time       `db:"created_at"`
}

// Feeds lists a site's feeds by name.
func (q Queries) Feeds(ctx context.Context, siteID int64) ([]Feed, error) {
	var all []Feed
	err := q.run.All(ctx, &all, `select * from feeds where site_id = $1 order by lower(name), id`, siteID)
	return all, err
}

// Feed returns one feed of a site.
func (q Queries) Feed(ctx context.Context, siteID, id int64) (Feed, error) {
	var f Feed
	err := q.run.One(ctx, &f, `select * from feeds where site_id = $1 and id = $2`, siteID, id)
	return f, err
}

// ClaimFeeds returns feeds that are to be looked at, and has others leave them alone for a while. Feeds of archived sites rest.
func (q Queries) ClaimFeeds(ctx context.Context, now, until time.Time, limit int) ([]Feed, error) {
	var all []Feed
	err := q.run.All(ctx, &all, `
		update feeds set next_at = $2 from (
			select feeds.id from feeds join sites on sites.id = site_id where not paused and next_at <= $1 and archived_at is null
			order by next_at limit $3 for update of feeds skip locked) due
		where feeds.id = due.id returning feeds.*`, now, until, limit)
	return all, err
}

// InsertFeed adds a feed.
func (t *Tx) InsertFeed(ctx context.Context, f Feed) (id int64, err error) {
	err = t.run.One(ctx, &id, `
		insert into feeds (site_id, user_id, name, address, minutes, existing, becomes, setup, next_at, created_at) values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $9) returning id`,
		f.SiteID, f.User, f.Name, f.Address, f.Minutes, f.Existing, f.Becomes, orObject(f.Setup), f.CreatedAt)
	return id, err
}

// SaveFeed writes what an editor says of a feed over the version that was seen; db.ErrNotFound where there is another.
func (t *Tx) SaveFeed(ctx context.Context, f Feed) error {
	return t.run.Exec(ctx, `
		update feeds set name = $4, address = $5, minutes = $6, existing = $7, becomes = $8, setup = $9, paused = $10, next_at = $11, failing = 0, problem = '', version = version + 1,
			etag = case when address = $5 then etag else '' end, modified = case when address = $5 then modified else '' end
		where site_id = $1 and id = $2 and version = $3`, f.SiteID, f.ID, f.Version, f.Name, f.Address, f.Minutes, f.Existing, f.Becomes, orObject(f.Setup), f.Paused, f.NextAt)
}

// NoteLook writes what came of a look at a feed.
func (q Queries) NoteLook(ctx context.Context, f Feed) error {
	return q.run.Exec(ctx, `update feeds set etag = $3, modified = $4, looked_at = $5, next_at = $6, failing = $7, problem = $8 where site_id = $1 and id = $2`,
		f.SiteID, f.ID, f.ETag, f.Modified, f.LookedAt, f.NextAt, f.Failing, f.Problem)
}

// HurryFeed has a feed looked at now.
func (q Queries) HurryFeed(ctx context.Context, siteID, id int64, now time.Time) error {
	return q.run.Exec(ctx, `update feeds set next_at = $3 where site_id = $1 and id = $2`, siteID, id, now)
}

// DeleteFeed deletes a feed; what it brought stays.
func (q Queries) DeleteFeed(ctx context.Context, siteID, id int64) error {
	return q.run.Exec(ctx, `delete from feeds where site_id = $1 and id = $2`, siteID, id)
}

// FreshItems are, in their order, those of some keys that a feed has not been seen with.
func (q Queries) FreshItems(ctx context.Context, feed int64, keys []string) ([]string, error) {
	var fresh []string
	err := q.run.All(ctx, &fresh, `
		select key from unnest($2::text[]) with ordinality given (key, nr) where not exists (select from feed_items where feed_id = $1 and feed_items.key = given.key) order by nr`, feed, keys)
	return fresh, err
}

// NoteItems notes that a feed was seen with items.
func (t *Tx) NoteItems(ctx context.Context, feed int64, keys []string) error {
	_, err := t.run.Do(ctx, `insert into feed_items (feed_id, key) select $1, key from unnest($2::text[]) given (key) on conflict do nothing`, feed, keys)
	return err
}
