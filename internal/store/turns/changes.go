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
		select count(*) as n, coalesce(max(xid::text::bigint), 0) as last, coalesce(sum(hashint8extended(xid::text::bigint, 0)::numeric), 0)::text as sum
		from site_changes where site_id in ($1, 0)`, siteID)
	return m, err
}

// keptChanges is how many changes of a site are kept.
const keptChanges = 100

// ForgetChanges forgets old changes; marks taken before it hold no more.
func (q Queries) ForgetChanges(ctx context.Context) error {
	_, err := q.run.Do(ctx, `
		with forgotten as (
			delete from site_changes c using (
				select site_id, xid, row_number() over (partition by site_id order by xid desc) as n from site_changes) old
			where old.site_id = c.site_id and old.xid = c.xid and n > $1 returning c.site_id)
		insert into site_changes select distinct site_id, pg_current_xact_id() from forgotten on conflict do nothing`, keptChanges)
	return err
}
