package sharing

import (
	"context"

	"dapper.example/internal/core/post"
	"dapper.example/internal/store/db"
)

// ShortLink is where a short link leads.
type ShortLink struct {
	Code   string      `db:"code"`
	SiteID int64       `db:"site_id"`
	Post   db.ID       `db:"post_id"` // 0: it leads elsewhere
	URL    string      `db:"url"`     // where, then
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
		insert into short_links (code, site_id, post_id, url, outing_id, query) values ($1, $2, $3, $6, $4, $5)
		on conflict (code) do update set outing_id = excluded.outing_id
		where short_links.post_id is not distinct from excluded.post_id and short_links.url = excluded.url`,
		l.Code, l.SiteID, l.Post, l.Outing, l.Query, l.URL)
	return err
}

// ShortLink finds where a short link leads.
func (q Queries) ShortLink(ctx context.Context, code string) (ShortLink, error) {
	var l ShortLink
	err := q.run.One(ctx, &l, `
		select code, short_links.site_id, post_id, outing_id, query, coalesce(nullif(url, ''), posts.link, '') as url, coalesce(posts.slug, '') as slug, coalesce(posts.status, '') as status, sites.slug as site, sites.host, sites.zone
		from short_links left join posts on posts.id = post_id join sites on sites.id = short_links.site_id where code = $1`, code)
	return l, err
}

// CountClick counts a click on a short link, for the post on a date of its site, and
// for the outing.
func (q Queries) CountClick(ctx context.Context, l ShortLink, date string) error {
	if l.Post != 0 {
		if _, err := q.run.Do(ctx, `
			insert into clicks (site_id, post_id, date, n) values ($1, $2, $3::date, 1)
			on conflict (post_id, date) do update set n = clicks.n + 1`, l.SiteID, l.Post, date); err != nil {
			return err
		}
	}
	if l.Outing == nil {
		return nil
	}
	return q.addClicks(ctx, *l.Outing, date, 1)
}

// addClicks counts clicks on what an outing sent, on a date of its site.
func (q Queries) addClicks(ctx context.Context, outing int64, date string, n int) error {
	_, err := q.run.Do(ctx, `
		with counted as (update outings set clicks = clicks + $3 where id = $1 returning id, site_id, channel_id)
		insert into outing_clicks (outing_id, site_id, channel_id, date, n) select id, site_id, channel_id, $2::date, $3 from counted
		on conflict (outing_id, date) do update set n = outing_clicks.n + excluded.n`, outing, date, n)
	return err
}

// InsertClicks adds clicks of a date to a post. They are no outing's.
func (q Queries) InsertClicks(ctx context.Context, siteID, post int64, date string, n int) error {
	return q.run.Exec(ctx, `
		insert into clicks (site_id, post_id, date, n) values ($1, $2, $3::date, $4)
		on conflict (post_id, date) do update set n = clicks.n + excluded.n`, siteID, post, date, n)
}
