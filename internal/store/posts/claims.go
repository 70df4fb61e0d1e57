package posts

import (
	"context"
	"time"

	"dapper.example/internal/core/post"
	"dapper.example/internal/store/db"
)

// Claim is a scheduled post that this transaction alone may change.
type Claim struct {
	ID, SiteID int64
	Slug       string
	State      post.State
}

// selectClaim reads where posts stand.
const selectClaim = `
	select id, site_id, kind, slug, status, cleared, shelf_rank, due_at, pinned, held, rhythm_id, slot_date, slot_opening, slot_ordinal,
		published_at, first_published_at, republished_at, times_republished, archived_at, notice, answer, leads_to, handed_in_at, not_before, deadline, binned_at, binned_from
	from posts `

func (t *Tx) claim(ctx context.Context, where string, args ...any) ([]Claim, error) {
	var rows []Post
	if err := t.run.All(ctx, &rows, selectClaim+where, args...); err != nil {
		return nil, err
	}
	claims := make([]Claim, len(rows))
	for i, row := range rows {
		claims[i] = Claim{row.ID, row.SiteID, row.Slug, row.State()}
	}
	return claims, nil
}

// ClaimDue locks up to limit posts that are due at the moment and that no other
// transaction holds, earliest first. Left out are sites that are paused, and those that
// have overdue posts and a choice other than to publish them at once.
func (t *Tx) ClaimDue(ctx context.Context, at, overdue time.Time, limit int) ([]Claim, error) {
	return t.claim(ctx, `
		where status = 'scheduled' and not held and due_at <= $1
			and site_id not in (select id from sites where paused_at is not null or resumed_at > $1)
			and site_id not in (
				select behind.site_id from posts behind join sites on sites.id = behind.site_id
				where behind.status = 'scheduled' and not behind.held and behind.due_at <= $2 and sites.catch_up <> 'at once')
		order by due_at, id limit $3
		for update skip locked`, at, overdue, limit)
}

// ClaimSite locks all posts of a site that are due at the moment; the site must be
// locked already.
func (t *Tx) ClaimSite(ctx context.Context, siteID int64, at time.Time) ([]Claim, error) {
	return t.claim(ctx, `
		where site_id = $1 and status = 'scheduled' and not held and due_at <= $2
		order by due_at, id for update`, siteID, at)
}

// ClaimPosts locks posts of a site, in the order of their ids. It fails with db.ErrNotFound where one of them is not there.
func (t *Tx) ClaimPosts(ctx context.Context, siteID int64, ids []int64) ([]Claim, error) {
	claims, err := t.claim(ctx, `where site_id = $1 and id = any($2) order by id for update`, siteID, ids)
	if err == nil && len(claims) != len(ids) {
		err = db.ErrNotFound
	}
	return claims, err
}

// ClaimPost locks a post of a site.
func (t *Tx) ClaimPost(ctx context.Context, siteID, id int64) (Claim, error) {
	claims, err := t.claim(ctx, `where site_id = $1 and id = $2 for update`, siteID, id)
	if err == nil && len(claims) == 0 {
		err = db.ErrNotFound
	}
	if err != nil {
		return Claim{}, err
	}
	return claims[0], nil
}
