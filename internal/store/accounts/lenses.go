package accounts

import (
	"context"
	"encoding/json"
	"time"
)

// The screens of which lenses keep views.
const (
	LensOfPlan  = "plan"
	LensOfPosts = "posts"
)

// Lens is a named view of a site's plan, or of its list of posts, that one person keeps.
type Lens struct {
	ID        int64           `db:"id"`
	SiteID    int64           `db:"site_id"`
	User      int64           `db:"user_id"`
	Screen    string          `db:"screen"` // LensOfPlan or LensOfPosts
	Name      string          `db:"name"`
	Shown     json.RawMessage `db:"shown"` // what it shows, as the API has it
	CreatedAt time.Time       `db:"created_at"`
}

// Lenses lists a person's lenses of a site by their names.
func (q Queries) Lenses(ctx context.Context, siteID, user int64) ([]Lens, error) {
	var lenses []Lens
	err := q.run.All(ctx, &lenses, `select * from lenses where site_id = $1 and user_id = $2 order by lower(name), id`,
		siteID, user)
	return lenses, err
}

// KeepLens keeps a lens; one of the same screen and name is replaced.
func (q Queries) KeepLens(ctx context.Context, l Lens) error {
	return q.run.Exec(ctx, `
		insert into lenses (site_id, user_id, screen, name, shown, created_at) values ($1, $2, $3, $4, $5, $6)
		on conflict (site_id, user_id, screen, name) do update set shown = excluded.shown`,
		l.SiteID, l.User, l.Screen, l.Name, string(l.Shown), l.CreatedAt)
}

// DropLens drops a person's lens.
func (q Queries) DropLens(ctx context.Context, siteID, user, id int64) error {
	return q.run.Exec(ctx, `delete from lenses where site_id = $1 and user_id = $2 and id = $3`, siteID, user, id)
}
