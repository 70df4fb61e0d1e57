package turns

import "context"

// Mark tells one state of a site from another: as long as it is the same, nothing that is foretold of the site has changed.
type Mark struct {
	N    int    `db:"n"`
	Last int64  `db:"last"`
	Sum  string `db:"sum"`
}

// MarkOf is the mark of a site as it is now. Take it before what it is to stand for is read.
func (q Queries) MarkOf(ctx context.Context, siteID int64) (m Mark, err error) {
	err = q.run.One(ctx, &m, `
		select count(*) as n, coalesce(max(xid::text::bigint), 0) as last, coalesce(sum(hashint8extended(xid::text::bigint, post_id)::numeric), 0)::text as sum
		from site_changes where site_id in ($1, 0)`, siteID)
	return m, err
}

// The latest changes of a site that are kept: so many transactions, and so many of the posts in them.
const (
	keptChanges = 100
	keptPosts   = 5000
)

// ForgetChanges forgets old changes; marks taken before it hold no more. One row stays for them, of the latest, that says: all
// posts. Whoever has seen less than that has to read all of them.
func (q Queries) ForgetChanges(ctx context.Context) error {
	// Transactions that have not begun are those of another cluster, of which somebody has brought the data here.
	if _, err := q.run.Do(ctx, `delete from site_changes where xid >= pg_snapshot_xmax(pg_current_snapshot())`); err != nil {
		return err
	}
	_, err := q.run.Do(ctx, `
		with forgotten as (
			delete from site_changes c using (
				select site_id, xid, post_id, dense_rank() over (partition by site_id order by xid desc) as n,
					row_number() over (partition by site_id order by xid desc) as post from site_changes) old
			where old.site_id = c.site_id and old.xid = c.xid and old.post_id = c.post_id and (n > $1 or post > $2) returning c.site_id, c.xid)
		insert into site_changes select distinct on (site_id) site_id, xid, -1 from forgotten order by site_id, xid desc on conflict do nothing`, keptChanges, keptPosts)
	return err
}
