package posts

import (
	"context"
	"maps"
	"time"

	"dapper.example/internal/store/db"
	"dapper.example/internal/store/plan"
)

// Picture is one of a site's pictures, without its files.
type Picture struct {
	ID        int64     `db:"id"`
	SiteID    int64     `db:"site_id"`
	Key       string    `db:"key"`  // in addresses
	Name      string    `db:"name"` // of the file that was brought
	Alt       string    `db:"alt"`  // what it shows
	Type      string    `db:"type"`
	Width     int       `db:"width"`
	Height    int       `db:"height"`
	User      *int64    `db:"user_id"` // who brought it
	CreatedAt time.Time `db:"created_at"`
	// ReplacedAt is when another picture took its place last; nil: never.
	ReplacedAt *time.Time `db:"replaced_at"`
	// BinnedAt is since when it is in the bin; nil: it is not.
	BinnedAt *time.Time `db:"binned_at"`
}

// InsertPicture adds a picture.
func (q Queries) InsertPicture(ctx context.Context, p Picture) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into pictures (site_id, key, name, alt, type, width, height, user_id, created_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9) returning id`,
		p.SiteID, p.Key, p.Name, p.Alt, p.Type, p.Width, p.Height, p.User, p.CreatedAt)
	return id, err
}

// InsertPictureFile adds a picture in a width.
func (q Queries) InsertPictureFile(ctx context.Context, picture int64, width int, data []byte) error {
	return q.run.Exec(ctx, `insert into picture_files (picture_id, width, data) values ($1, $2, $3)`, picture, width, data)
}

// PictureFile returns a picture of the site in a width, or the nearest that there is: a replaced picture keeps the addresses of its
// other widths. It returns the picture, too. One in the bin is shown where something shows it.
func (q Queries) PictureFile(ctx context.Context, siteID int64, key string, width int) (Picture, []byte, error) {
	var found struct {
		Picture
		Data []byte `db:"data"`
	}
	err := q.run.One(ctx, &found, `
		select pictures.*, data from pictures join picture_files on picture_id = id
		where site_id = $1 and key = $2 and (binned_at is null or exists (select from post_pictures where picture_id = pictures.id))
		order by picture_files.width >= $3 desc, abs(picture_files.width - $3) limit 1`, siteID, key, width)
	return found.Picture, found.Data, err
}

// UsedPicture is a picture, and where it is used.
type UsedPicture struct {
	Picture
	Uses   int             `db:"uses"`    // posts that show it, those in the bin too
	UsedIn plan.PostTitles `db:"used_in"` // the latest changed of them
	Logo   bool            `db:"is_logo"` // of the site
	Icon   bool            `db:"is_icon"`
	Shows  db.Strings      `db:"shows"`   // the people whom it shows
	ToSend int             `db:"to_send"` // messages with it that are still to be sent
}

// IsUsed tells whether anything shows it.
func (p UsedPicture) IsUsed() bool {
	return p.Uses > 0 || p.Logo || p.Icon || len(p.Shows) > 0 || p.ToSend > 0
}

// PictureFilter says which of a site's pictures are asked for; what is empty does not narrow it.
type PictureFilter struct {
	Below       int64  // an id
	ID          int64  // this one
	Find        string // a part of the name or the description
	Undescribed bool
	Unused      bool
	Binned      bool // those in the bin; else those that are not
	Titles      int  // how many titles of posts are wanted
}

// toSend counts the messages that are still to be sent with a picture.
const toSend = `select count(*) from outings where outings.site_id = pictures.site_id and state in ('planned', 'waiting', 'set aside') and outings.pictures <> '[]' and outings.pictures @> jsonb_build_array(pictures.id)`

// Pictures lists a site's pictures, the latest first.
func (q Queries) Pictures(ctx context.Context, siteID int64, f PictureFilter, limit int) ([]UsedPicture, error) {
	var all []UsedPicture
	err := q.run.All(ctx, &all, `
		select pictures.*, used.uses, used.used_in, coalesce(pictures.id = sites.logo_id, false) as is_logo, coalesce(pictures.id = sites.icon_id, false) as is_icon,
			(select coalesce(json_agg(users.name order by users.name), '[]') from memberships join users on users.id = user_id
				where picture_id = pictures.id) as shows, (`+toSend+`) as to_send
		from (
			select * from pictures
			where site_id = $1 and ($2::bigint = 0 or id < $2) and ($3::text = '' or strpos(lower(name || E'\n' || alt), lower($3)) > 0)
				and ($5::bigint = 0 or id = $5) and (not $6::boolean or alt = '') and $7::boolean = (binned_at is not null)
				and (not $8::boolean or not exists (select from post_pictures where picture_id = pictures.id)
					and not exists (select from memberships where picture_id = pictures.id) and (`+toSend+`) = 0
					and not exists (select from sites where sites.id = pictures.site_id and pictures.id in (logo_id, icon_id)))
			order by id desc limit $4
		) pictures join sites on sites.id = pictures.site_id, lateral (
			select count(*) as uses, coalesce(json_agg(json_build_object('id', post_id, 'title', title) order by updated_at desc, post_id desc) filter (where nth <= $9), '[]') as used_in
			from (
				select post_id, title, updated_at, row_number() over (order by updated_at desc, post_id desc) as nth
				from post_pictures join posts on posts.id = post_id where picture_id = pictures.id
			) posts
		) used
		order by pictures.id desc`, siteID, f.Below, f.Find, limit, f.ID, f.Undescribed, f.Binned, f.Unused, f.Titles)
	return all, err
}

// PictureOf is the picture that a message about a post brings along: its featured image, or the
// first in its text; none where it has no such picture.
func (q Queries) PictureOf(ctx context.Context, siteID, post int64, inText bool) (db.IDs, error) {
	ids := db.IDs{}
	query := `select pictures.id from posts join post_pictures on post_id = posts.id join pictures on pictures.id = picture_id
		where posts.site_id = $1 and posts.id = $2 and strpos(featured_image, pictures.key) > 0`
	if inText {
		query = `select pictures.id from posts join texts on texts.id = text_id join post_pictures on post_id = posts.id join pictures on pictures.id = picture_id
		where posts.site_id = $1 and posts.id = $2 and strpos(body, pictures.key) > 0 order by strpos(body, pictures.key)`
	}
	err := q.run.All(ctx, &ids, query+` limit 1`, siteID, post)
	return ids, err
}

// LockPicture has changes of a picture take turns: it waits for others that hold it.
func (t *Tx) LockPicture(ctx context.Context, siteID, id int64) (Picture, error) {
	var p Picture
	err := t.run.One(ctx, &p, `select * from pictures where site_id = $1 and id = $2 for update`, siteID, id)
	return p, err
}

// ReplacePicture writes another picture in the place of one; its files are added afterwards.
func (t *Tx) ReplacePicture(ctx context.Context, p Picture) error {
	if _, err := t.run.Do(ctx, `delete from picture_files where picture_id = $1`, p.ID); err != nil {
		return err
	}
	return t.run.Exec(ctx, `update pictures set name = $3, type = $4, width = $5, height = $6, replaced_at = $7 where site_id = $1 and id = $2`,
		p.SiteID, p.ID, p.Name, p.Type, p.Width, p.Height, p.ReplacedAt)
}

// ReplacedTypes are the types of the pictures of a site that another one has taken the place of, by their keys: their addresses may
// end otherwise.
func (q Queries) ReplacedTypes(ctx context.Context, siteID int64) (map[string]string, error) {
	var rows []struct {
		Key  string `db:"key"`
		Type string `db:"type"`
	}
	err := q.run.All(ctx, &rows, `select key, type from pictures where site_id = $1 and replaced_at is not null`, siteID)
	types := make(map[string]string, len(rows))
	for _, r := range rows {
		types[r.Key] = r.Type
	}
	return types, err
}

// BinPicture puts a picture into the bin at a moment, or with nil takes it out.
func (q Queries) BinPicture(ctx context.Context, siteID, id int64, at *time.Time) error {
	return q.run.Exec(ctx, `update pictures set binned_at = $3 where site_id = $1 and id = $2`, siteID, id, at)
}

// EmptyPictureBin deletes the pictures for good that were put into the bin before a moment and that nothing shows.
func (q Queries) EmptyPictureBin(ctx context.Context, before time.Time) error {
	_, err := q.run.Do(ctx, `delete from pictures where binned_at < $1 and not exists (select from post_pictures where picture_id = pictures.id)`, before)
	return err
}

// SetPortrait says which of a site's pictures shows a person; nil for none.
func (q Queries) SetPortrait(ctx context.Context, siteID, user int64, picture *int64) error {
	return q.run.Exec(ctx, `update memberships set picture_id = $3 where site_id = $1 and user_id = $2`, siteID, user, picture)
}

// Portrait is the picture that shows a person on a site. It fails with db.ErrNotFound.
func (q Queries) Portrait(ctx context.Context, siteID, user int64) (Picture, error) {
	var p Picture
	err := q.run.One(ctx, &p, `
		select pictures.* from memberships join pictures on pictures.id = picture_id
		where memberships.site_id = $1 and memberships.user_id = $2`, siteID, user)
	return p, err
}

// Picture returns one of a site's pictures.
func (q Queries) Picture(ctx context.Context, siteID, id int64) (Picture, error) {
	var p Picture
	err := q.run.One(ctx, &p, `select * from pictures where site_id = $1 and id = $2`, siteID, id)
	return p, err
}

// KnownPictures returns those of the ids that are pictures of a site.
func (q Queries) KnownPictures(ctx context.Context, siteID int64, ids []int64) ([]int64, error) {
	var known []int64
	err := q.run.All(ctx, &known, `select id from pictures where site_id = $1 and id = any($2) and binned_at is null`, siteID, ids)
	return known, err
}

// DescribePicture says what a picture shows.
func (q Queries) DescribePicture(ctx context.Context, siteID, id int64, alt string) error {
	return q.run.Exec(ctx, `update pictures set alt = $3 where site_id = $1 and id = $2`, siteID, id, alt)
}

// PreviewLink is a secret address at which a post is seen before it is out.
type PreviewLink struct {
	ID        int64     `db:"id"`
	SiteID    int64     `db:"site_id"`
	Post      int64     `db:"post_id"`
	Hash      []byte    `db:"hash"`
	Edit      *int64    `db:"edit_id"` // the timed edit that it shows; nil: none
	User      int64     `db:"user_id"` // who made it
	Who       string    `db:"who"`     // their name; read only
	CreatedAt time.Time `db:"created_at"`
	ExpiresAt time.Time `db:"expires_at"`
}

// InsertPreviewLink adds a link.
func (q Queries) InsertPreviewLink(ctx context.Context, l PreviewLink) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into preview_links (site_id, post_id, hash, user_id, created_at, expires_at, edit_id) values ($1, $2, $3, $4, $5, $6, $7) returning id`,
		l.SiteID, l.Post, l.Hash, l.User, l.CreatedAt, l.ExpiresAt, l.Edit)
	return id, err
}

// PreviewLinks lists the links of a post that have not ended, latest first.
func (q Queries) PreviewLinks(ctx context.Context, siteID, post int64, now time.Time) ([]PreviewLink, error) {
	var all []PreviewLink
	err := q.run.All(ctx, &all, `
		select preview_links.*, users.name as who from preview_links join users on users.id = user_id
		where site_id = $1 and post_id = $2 and expires_at > $3 order by preview_links.id desc`, siteID, post, now)
	return all, err
}

// PreviewMaker returns who made a link of a post.
func (q Queries) PreviewMaker(ctx context.Context, siteID, post, id int64) (int64, error) {
	var user int64
	err := q.run.One(ctx, &user, `select user_id from preview_links where site_id = $1 and post_id = $2 and id = $3`,
		siteID, post, id)
	return user, err
}

// EndPreviewLink ends a link of a post.
func (q Queries) EndPreviewLink(ctx context.Context, siteID, post, id int64) error {
	return q.run.Exec(ctx, `delete from preview_links where site_id = $1 and post_id = $2 and id = $3`, siteID, post, id)
}

// Previewed returns the post that a link's secret opens, and the link. A link opens nothing
// any more once its maker is not of the site, or its post is in the bin.
func (q Queries) Previewed(ctx context.Context, siteID int64, hash []byte, now time.Time) (Post, PreviewLink, error) {
	var l PreviewLink
	err := q.run.One(ctx, &l, `
		select preview_links.*, '' as who from preview_links
		join memberships on memberships.site_id = preview_links.site_id and memberships.user_id = preview_links.user_id
		join posts on posts.id = preview_links.post_id and posts.status <> 'binned'
		where preview_links.site_id = $1 and preview_links.hash = $2 and preview_links.expires_at > $3`, siteID, hash, now)
	if err != nil {
		return Post{}, l, err
	}
	p, err := q.Post(ctx, siteID, l.Post)
	return p, l, err
}

// PicturesNamed are the latest pictures of a site's library by the names of their files, in small letters.
func (q Queries) PicturesNamed(ctx context.Context, siteID int64, names []string) (map[string]int64, error) {
	return q.named(ctx, `select lower(name) as name, max(id) as id from pictures where site_id = $1 and lower(name) = any($2) and binned_at is null group by 1`, siteID, names)
}

// PostsNamed are a site's posts by their slugs and by their titles in small letters; of several of one title the latest.
func (q Queries) PostsNamed(ctx context.Context, siteID int64, names []string) (map[string]int64, error) {
	titled, err := q.named(ctx, `select lower(title) as name, max(id) as id from posts where site_id = $1 and lower(title) = any($2) and status <> 'binned' group by 1`, siteID, names)
	if err != nil {
		return nil, err
	}
	slugged, err := q.named(ctx, `select slug as name, id from posts where site_id = $1 and slug = any($2) and status <> 'binned'`, siteID, names)
	maps.Copy(titled, slugged)
	return titled, err
}

// named reads ids by the names that a query gives them.
func (q Queries) named(ctx context.Context, query string, siteID int64, names []string) (map[string]int64, error) {
	var rows []struct {
		Name string `db:"name"`
		ID   int64  `db:"id"`
	}
	found := make(map[string]int64)
	if len(names) == 0 {
		return found, nil
	}
	err := q.run.All(ctx, &rows, query, siteID, names)
	for _, r := range rows {
		found[r.Name] = r.ID
	}
	return found, err
}

// PicturesByID returns those of the ids that are pictures of a site, in the bin or not.
func (q Queries) PicturesByID(ctx context.Context, siteID int64, ids []int64) (map[int64]Picture, error) {
	var found []Picture
	err := q.run.All(ctx, &found, `select * from pictures where site_id = $1 and id = any($2)`, siteID, ids)
	pictures := make(map[int64]Picture)
	for _, p := range found {
		pictures[p.ID] = p
	}
	return pictures, err
}
