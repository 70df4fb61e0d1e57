package posts

import (
	"context"
	"time"

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

// PictureFile returns a picture of the site in a width.
func (q Queries) PictureFile(ctx context.Context, siteID int64, key string, width int) ([]byte, error) {
	var data []byte
	err := q.run.One(ctx, &data, `
		select data from pictures join picture_files on picture_id = id
		where site_id = $1 and key = $2 and picture_files.width = $3`, siteID, key, width)
	return data, err
}

// UsedPicture is a picture, and where it is used.
type UsedPicture struct {
	Picture
	Uses   int             `db:"uses"`    // posts that show it, those in the bin too
	UsedIn plan.PostTitles `db:"used_in"` // the latest changed of them, three at most
}

// Pictures lists a site's pictures, the latest first, below an id where one is given; those
// of whose name or description a text is a part, where one is given.
func (q Queries) Pictures(ctx context.Context, siteID, below int64, find string, limit int) ([]UsedPicture, error) {
	var all []UsedPicture
	err := q.run.All(ctx, &all, `
		select pictures.*, used.uses, used.used_in
		from (
			select * from pictures
			where site_id = $1 and ($2::bigint = 0 or id < $2) and ($3::text = '' or strpos(lower(name || E'\n' || alt), lower($3)) > 0)
			order by id desc limit $4
		) pictures, lateral (
			select count(*) as uses, coalesce(json_agg(json_build_object('id', post_id, 'title', title) order by updated_at desc, post_id desc) filter (where nth <= 3), '[]') as used_in
			from (
				select post_id, title, updated_at, row_number() over (order by updated_at desc, post_id desc) as nth
				from post_pictures join posts on posts.id = post_id where picture_id = pictures.id
			) posts
		) used
		order by pictures.id desc`, siteID, below, find, limit)
	return all, err
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
	err := q.run.All(ctx, &known, `select id from pictures where site_id = $1 and id = any($2)`, siteID, ids)
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
	User      int64     `db:"user_id"` // who made it
	Who       string    `db:"who"`     // their name; read only
	CreatedAt time.Time `db:"created_at"`
	ExpiresAt time.Time `db:"expires_at"`
}

// InsertPreviewLink adds a link.
func (q Queries) InsertPreviewLink(ctx context.Context, l PreviewLink) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		insert into preview_links (site_id, post_id, hash, user_id, created_at, expires_at) values ($1, $2, $3, $4, $5, $6) returning id`,
		l.SiteID, l.Post, l.Hash, l.User, l.CreatedAt, l.ExpiresAt)
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

// Previewed returns the post that a link's secret opens, and until when. A link opens nothing
// any more once its maker is not of the site, or its post is in the bin.
func (q Queries) Previewed(ctx context.Context, siteID int64, hash []byte, now time.Time) (Post, time.Time, error) {
	var l PreviewLink
	err := q.run.One(ctx, &l, `
		select preview_links.*, '' as who from preview_links
		join memberships on memberships.site_id = preview_links.site_id and memberships.user_id = preview_links.user_id
		join posts on posts.id = preview_links.post_id and posts.status <> 'binned'
		where preview_links.site_id = $1 and preview_links.hash = $2 and preview_links.expires_at > $3`, siteID, hash, now)
	if err != nil {
		return Post{}, time.Time{}, err
	}
	p, err := q.Post(ctx, siteID, l.Post)
	return p, l.ExpiresAt, err
}
