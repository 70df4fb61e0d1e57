// Package destinations keeps where the posts of blogs go beside their built-in pages, and what has become of each there. That a
// post has changed is noted by the database, in the transaction in which it does.
package destinations

import (
	"context"
	"database/sql/driver"
	"time"

	"dapper.example/internal/store/db"
)

// Queries runs its statements on a pool or in a transaction.
type Queries struct{ run db.Runner }

// On returns the statements on a pool or a transaction.
func On(run db.Runner) Queries { return Queries{run} }

// Tx has, beside them, those that want a transaction.
type Tx struct{ Queries }

// In returns the statements in a transaction.
func In(run db.Runner) Tx { return Tx{On(run)} }

// Setup is what an editor says of a folder, kept as JSON.
type Setup struct {
	Folder      string `json:"folder,omitempty"`      // its name below the one that the configuration names
	Posts       string `json:"posts,omitempty"`       // pattern of the paths of posts
	Pages       string `json:"pages,omitempty"`       // and of pages
	Pictures    string `json:"pictures,omitempty"`    // folder of pictures, below it
	PictureLink string `json:"pictureLink,omitempty"` // what stands before a picture's name in texts; "": the way from the post's file
	Address     string `json:"address,omitempty"`     // pattern of the addresses at which readers find posts; "": not known
}

// Scan reads a JSON object.
func (s *Setup) Scan(src any) error { return db.ScanJSON(src, s) }

// Value writes a JSON object.
func (s Setup) Value() (driver.Value, error) { return db.JSON(s) }

// What becomes of archived posts at a destination.
const (
	KeepArchived   = "keep"
	RemoveArchived = "remove"
)

// Destination is somewhere that posts go.
type Destination struct {
	ID           int64      `db:"id"`
	SiteID       int64      `db:"site_id"`
	Kind         string     `db:"kind"`
	Name         string     `db:"name"`
	Channel      db.ID      `db:"channel_id"` // of the site that takes posts; 0: none
	Setup        Setup      `db:"setup"`
	Archived     string     `db:"archived"`
	Since        *time.Time `db:"since"`     // posts that first came out before it are left out
	PausedAt     *time.Time `db:"paused_at"` // nil: it is on
	EndingAt     *time.Time `db:"ending_at"` // since when its posts are being removed
	Media        string     `db:"media"`     // where it takes pictures; "": not known yet, "-": nowhere
	FailingSince *time.Time `db:"failing_since"`
	Version      int        `db:"version"`
	CreatedAt    time.Time  `db:"created_at"`
}

// The states of copies.
const (
	CopyNone    = "none"    // it has not been there
	CopyThere   = "there"   // it is
	CopyRemoved = "removed" // it was, and can come back
	CopyLost    = "lost"    // it was, and somebody deleted it there
)

// Copy is what has become of a post at a destination.
type Copy struct {
	Destination int64      `db:"destination_id"`
	SiteID      int64      `db:"site_id"`
	Post        int64      `db:"post_id"`
	Wanted      int64      `db:"wanted"` // counts what changed
	Done        int64      `db:"done"`   // up to where that has been brought over
	State       string     `db:"state"`
	Places      db.Strings `db:"places"`   // paths or addresses at which it is, or may be
	Pictures    db.Strings `db:"pictures"` // files of pictures that it uses, or may
	URL         string     `db:"url"`      // where readers find it; "": not known
	Digest      []byte     `db:"digest"`   // of what was brought over last
	Key         string     `db:"key"`      // the same at each try to add it
	AskedAt     *time.Time `db:"asked_at"` // since when it is not known whether it was added
	Held        bool       `db:"held"`
	Tries       int        `db:"tries"`
	Error       string     `db:"error"`
	TriedAt     *time.Time `db:"tried_at"`
	NextAt      time.Time  `db:"next_at"`
	LeasedUntil *time.Time `db:"leased_until"`
	At          *time.Time `db:"at"` // when it was brought over last
}

// Waits tells whether something of a copy is still to be brought over.
func (c Copy) Waits() bool { return c.Wanted > c.Done }

// Destinations lists those of a site.
func (q Queries) Destinations(ctx context.Context, siteID int64) ([]Destination, error) {
	var all []Destination
	err := q.run.All(ctx, &all, `select * from destinations where site_id = $1 order by id`, siteID)
	return all, err
}

// Destination returns one of a site.
func (q Queries) Destination(ctx context.Context, siteID, id int64) (d Destination, err error) {
	err = q.run.One(ctx, &d, `select * from destinations where site_id = $1 and id = $2`, siteID, id)
	return d, err
}

// LockDestination returns one of a site, locked; posts may still be given copies there, so whoever publishes does not wait.
func (t *Tx) LockDestination(ctx context.Context, siteID, id int64) (d Destination, err error) {
	err = t.run.One(ctx, &d, `select * from destinations where site_id = $1 and id = $2 for no key update`, siteID, id)
	return d, err
}

// FolderIsTaken tells whether a folder belongs to another destination, of whatever site.
func (q Queries) FolderIsTaken(ctx context.Context, folder string, id int64) (taken bool, err error) {
	err = q.run.One(ctx, &taken, `select exists (select from destinations where kind = 'folder' and setup->>'folder' = $1 and id <> $2)`, folder, id)
	return taken, err
}

// InsertDestination adds one, and returns its id.
func (t *Tx) InsertDestination(ctx context.Context, d Destination) (id int64, err error) {
	err = t.run.One(ctx, &id, `
		insert into destinations (site_id, kind, name, channel_id, setup, archived, since, created_at) values ($1, $2, $3, $4, $5, $6, $7, $8) returning id`,
		d.SiteID, d.Kind, d.Name, d.Channel, d.Setup, d.Archived, d.Since, d.CreatedAt)
	return id, err
}

// SaveDestination writes one, and counts its version up.
func (t *Tx) SaveDestination(ctx context.Context, d Destination) error {
	return t.run.Exec(ctx, `
		update destinations set name = $3, setup = $4, archived = $5, since = $6, paused_at = $7, ending_at = $8, media = $9, version = version + 1
		where site_id = $1 and id = $2`, d.SiteID, d.ID, d.Name, d.Setup, d.Archived, d.Since, d.PausedAt, d.EndingAt, d.Media)
}

// KnowMedia notes where a destination takes pictures.
func (q Queries) KnowMedia(ctx context.Context, siteID, id int64, media string) error {
	return q.run.Exec(ctx, `update destinations set media = $3 where site_id = $1 and id = $2`, siteID, id, media)
}

// DeleteDestination deletes one, with all that is known of its copies.
func (t *Tx) DeleteDestination(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from destinations where site_id = $1 and id = $2`, siteID, id)
}

// DestinationWorks notes that a destination took something.
func (q Queries) DestinationWorks(ctx context.Context, siteID, id int64) error {
	_, err := q.run.Do(ctx, `update destinations set failing_since = null where site_id = $1 and id = $2 and failing_since is not null`, siteID, id)
	return err
}

// DestinationFails notes since when a destination takes nothing.
func (q Queries) DestinationFails(ctx context.Context, siteID, id int64, now time.Time) error {
	_, err := q.run.Do(ctx, `update destinations set failing_since = $3 where site_id = $1 and id = $2 and failing_since is null`, siteID, id, now)
	return err
}

// TellOfDestination has open screens look at a destination again.
func (q Queries) TellOfDestination(ctx context.Context, siteID, id int64) error {
	_, err := q.run.Do(ctx, `update destinations set name = name where site_id = $1 and id = $2`, siteID, id)
	return err
}

// MarkAll has all posts of a destination looked at again, those that have no copy yet too. With anew, they are brought over even
// where they are as they were.
func (t *Tx) MarkAll(ctx context.Context, siteID, id int64, anew bool) error {
	if _, err := t.run.Do(ctx, `
		insert into copies (destination_id, site_id, post_id)
		select destinations.id, posts.site_id, posts.id from posts join destinations using (site_id)
		where destinations.site_id = $1 and destinations.id = $2 and posts.status in ('published', 'archived') and (since is null or posts.first_published_at >= since)
		on conflict do nothing`, siteID, id); err != nil {
		return err
	}
	_, err := t.run.Do(ctx, `
		update copies set wanted = wanted + 1, held = false, tries = 0, next_at = 'epoch', digest = case when $3 then null else digest end
		where site_id = $1 and destination_id = $2`, siteID, id, anew)
	return err
}

// ClaimCopies takes what is due at destinations of some kinds, what has waited longest first, and keeps others off it until a moment.
func (q Queries) ClaimCopies(ctx context.Context, kinds []string, now, until time.Time, limit int) ([]Copy, error) {
	var all []Copy
	err := q.run.All(ctx, &all, `
		update copies set leased_until = $3 where (destination_id, post_id) in (
			select destination_id, post_id from copies join destinations on destinations.id = destination_id
			where wanted > done and not held and next_at <= $2 and (leased_until is null or leased_until <= $2) and paused_at is null and kind = any($1)
			order by next_at, post_id limit $4 for update of copies skip locked) returning *`, kinds, now, until, limit)
	return all, err
}

// KeepCopy writes what is known of a copy while a worker is at it.
func (q Queries) KeepCopy(ctx context.Context, c Copy) error {
	return q.run.Exec(ctx, `
		update copies set state = $3, places = $4, pictures = $5, url = $6, digest = $7, key = $8, asked_at = $9 where destination_id = $1 and post_id = $2`,
		c.Destination, c.Post, c.State, db.JSONOf(c.Places), db.JSONOf(c.Pictures), c.URL, c.Digest, c.Key, c.AskedAt)
}

// SettleCopy writes what came of a try, up to what the worker had seen of the post, and ends its lease.
func (q Queries) SettleCopy(ctx context.Context, c Copy) error {
	_, err := q.run.Do(ctx, `
		update copies set state = $3, places = $4, pictures = $5, url = $6, digest = $7, key = $8, asked_at = $9, done = greatest(done, $10),
			held = $11 and wanted = $12, tries = $13, error = left($14, 500), tried_at = $15, next_at = $16, at = $17, leased_until = null
		where destination_id = $1 and post_id = $2`,
		c.Destination, c.Post, c.State, db.JSONOf(c.Places), db.JSONOf(c.Pictures), c.URL, c.Digest, c.Key, c.AskedAt, c.Done,
		c.Held, c.Wanted, c.Tries, c.Error, c.TriedAt, c.NextAt, c.At)
	return err
}

// DropCopy forgets a copy of which nothing is left, unless it is wanted again meanwhile.
func (q Queries) DropCopy(ctx context.Context, c Copy) error {
	_, err := q.run.Do(ctx, `delete from copies where destination_id = $1 and post_id = $2 and wanted = $3`, c.Destination, c.Post, c.Wanted)
	return err
}

// PictureIsUsed tells whether a copy other than one uses a file of a picture at its destination, or may.
func (q Queries) PictureIsUsed(ctx context.Context, c Copy, file string) (used bool, err error) {
	err = q.run.One(ctx, &used, `select exists (select from copies where destination_id = $1 and post_id <> $2 and pictures ? $3)`, c.Destination, c.Post, file)
	return used, err
}

// PlaceOwner is the post that has a place at a destination, other than the one of a copy; 0: none.
func (q Queries) PlaceOwner(ctx context.Context, c Copy, place string) (post int64, err error) {
	err = q.run.One(ctx, &post, `select coalesce((select post_id from copies where destination_id = $1 and post_id <> $2 and places ? $3 limit 1), 0)`, c.Destination, c.Post, place)
	return post, err
}

// KnownPicture is where a destination has a picture; db.ErrNotFound where it has not.
func (q Queries) KnownPicture(ctx context.Context, destination int64, key string) (url string, err error) {
	err = q.run.One(ctx, &url, `select url from destination_pictures where destination_id = $1 and key = $2`, destination, key)
	return url, err
}

// KnowPicture notes where a destination has a picture.
func (q Queries) KnowPicture(ctx context.Context, destination int64, key, url string) error {
	_, err := q.run.Do(ctx, `
		insert into destination_pictures (destination_id, key, url) values ($1, $2, $3) on conflict (destination_id, key) do update set url = excluded.url`, destination, key, url)
	return err
}

// Tally counts the copies of a destination.
type Tally struct {
	Destination int64 `db:"destination_id"`
	There       int   `db:"there"`
	Waiting     int   `db:"waiting"` // something of them is to be brought over, and is tried
	Failing     int   `db:"failing"` // of those, the ones whose last try failed
	Held        int   `db:"held"`    // they want somebody to decide
}

// Tallies counts the copies of a site's destinations, by these.
func (q Queries) Tallies(ctx context.Context, siteID int64) (map[int64]Tally, error) {
	var rows []Tally
	err := q.run.All(ctx, &rows, `
		select destination_id, count(*) filter (where state = 'there') as there, count(*) filter (where wanted > done and not held) as waiting,
			count(*) filter (where wanted > done and not held and tries > 0) as failing, count(*) filter (where held) as held
		from copies where site_id = $1 group by destination_id`, siteID)
	all := make(map[int64]Tally, len(rows))
	for _, r := range rows {
		all[r.Destination] = r
	}
	return all, err
}

// TitledCopy is a copy with what its post is called; "" where that was deleted.
type TitledCopy struct {
	Copy
	Title string `db:"title"`
}

const selectTitled = `select copies.*, coalesce(posts.title, '') as title from copies left join posts on posts.site_id = copies.site_id and posts.id = post_id`

// TroubledCopies lists the copies of a destination that want somebody to decide, and those whose last try failed.
func (q Queries) TroubledCopies(ctx context.Context, siteID, destination int64, limit int) ([]TitledCopy, error) {
	var all []TitledCopy
	err := q.run.All(ctx, &all, selectTitled+`
		where copies.site_id = $1 and destination_id = $2 and wanted > done and (copies.held or tries > 0) order by copies.held desc, tries desc, post_id desc limit $3`, siteID, destination, limit)
	return all, err
}

// LatestCopies lists the copies of a destination that were brought over, the latest first.
func (q Queries) LatestCopies(ctx context.Context, siteID, destination int64, limit int) ([]TitledCopy, error) {
	var all []TitledCopy
	err := q.run.All(ctx, &all, selectTitled+` where copies.site_id = $1 and destination_id = $2 and at is not null order by at desc, post_id desc limit $3`, siteID, destination, limit)
	return all, err
}

// CopiesOf lists the copies of a post.
func (q Queries) CopiesOf(ctx context.Context, siteID, post int64) ([]Copy, error) {
	var all []Copy
	err := q.run.All(ctx, &all, `select * from copies where site_id = $1 and post_id = $2 order by destination_id`, siteID, post)
	return all, err
}

// CopyOf returns the copy of a post at a destination.
func (q Queries) CopyOf(ctx context.Context, siteID, destination, post int64) (c Copy, err error) {
	err = q.run.One(ctx, &c, `select * from copies where site_id = $1 and destination_id = $2 and post_id = $3`, siteID, destination, post)
	return c, err
}

// LockCopy returns the copy of a post at a destination, locked.
func (t *Tx) LockCopy(ctx context.Context, siteID, destination, post int64) (c Copy, err error) {
	err = t.run.One(ctx, &c, `select * from copies where site_id = $1 and destination_id = $2 and post_id = $3 for update`, siteID, destination, post)
	return c, err
}

// AddressOfCopy is where readers find a post that has an address elsewhere; db.ErrNotFound where it has none.
func (q Queries) AddressOfCopy(ctx context.Context, siteID, post int64) (url string, err error) {
	err = q.run.One(ctx, &url, `select url from copies where site_id = $1 and post_id = $2 and state = 'there' and url <> '' order by destination_id limit 1`, siteID, post)
	return url, err
}

// SavePages writes whether a site has its built-in pages, and which hub is told of changes; it counts the site's version up.
func (t *Tx) SavePages(ctx context.Context, siteID int64, on bool, hub string) error {
	if err := t.run.Exec(ctx, `update sites set pages_on = $2, hub = $3, version = version + 1 where id = $1`, siteID, on, hub); err != nil {
		return err
	}
	if hub == "" {
		_, err := t.run.Do(ctx, `delete from hub_tellings where site_id = $1`, siteID)
		return err
	}
	return nil
}

// Telling is what a site's hub is to be told, or was.
type Telling struct {
	SiteID      int64      `db:"site_id"`
	Wanted      int64      `db:"wanted"`
	Done        int64      `db:"done"`
	Tries       int        `db:"tries"`
	Error       string     `db:"error"`
	TriedAt     *time.Time `db:"tried_at"`
	ToldAt      *time.Time `db:"told_at"` // nil: never
	NextAt      time.Time  `db:"next_at"`
	LeasedUntil *time.Time `db:"leased_until"`
}

// ClaimTellings takes the sites whose hubs are to be told something, and keeps others off them until a moment.
func (q Queries) ClaimTellings(ctx context.Context, now, until time.Time, limit int) ([]Telling, error) {
	var all []Telling
	err := q.run.All(ctx, &all, `
		update hub_tellings set leased_until = $2 where site_id in (
			select site_id from hub_tellings where wanted > done and next_at <= $1 and (leased_until is null or leased_until <= $1)
			order by next_at limit $3 for update skip locked) returning *`, now, until, limit)
	return all, err
}

// SettleTelling writes what came of telling a hub.
func (q Queries) SettleTelling(ctx context.Context, t Telling) error {
	_, err := q.run.Do(ctx, `
		update hub_tellings set done = greatest(done, $2), tries = $3, error = left($4, 500), tried_at = $5, told_at = $6, next_at = $7, leased_until = null where site_id = $1`,
		t.SiteID, t.Done, t.Tries, t.Error, t.TriedAt, t.ToldAt, t.NextAt)
	return err
}

// TellingOf is what a site's hub is to be told, or was; db.ErrNotFound where there has been nothing.
func (q Queries) TellingOf(ctx context.Context, siteID int64) (t Telling, err error) {
	err = q.run.One(ctx, &t, `select * from hub_tellings where site_id = $1`, siteID)
	return t, err
}

// TellAgain has a site's hub told once more.
func (q Queries) TellAgain(ctx context.Context, siteID int64) error {
	_, err := q.run.Do(ctx, `
		insert into hub_tellings (site_id) values ($1) on conflict (site_id) do update set wanted = hub_tellings.wanted + 1, tries = 0, next_at = 'epoch'`, siteID)
	return err
}

// CountCopies counts all copies of a destination.
func (q Queries) CountCopies(ctx context.Context, siteID, destination int64) (n int, err error) {
	err = q.run.One(ctx, &n, `select count(*) from copies where site_id = $1 and destination_id = $2`, siteID, destination)
	return n, err
}

// TryCopy has a copy tried again now.
func (q Queries) TryCopy(ctx context.Context, c Copy) error {
	return q.run.Exec(ctx, `update copies set held = false, tries = 0, error = '', next_at = 'epoch' where destination_id = $1 and post_id = $2`, c.Destination, c.Post)
}

// StuckDestinations lists the destinations of a site that want somebody to look: posts wait for a decision, or none has arrived since a
// moment.
func (q Queries) StuckDestinations(ctx context.Context, siteID int64, since time.Time) ([]Destination, error) {
	var all []Destination
	err := q.run.All(ctx, &all, `
		select * from destinations where site_id = $1 and paused_at is null
			and (failing_since < $2 or exists (select from copies where destination_id = destinations.id and wanted > done and held))
		order by id`, siteID, since)
	return all, err
}
