package rules

import (
	"cmp"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"math/bits"
	"runtime"
	"runtime/debug"
	"slices"
	"sync"
	"sync/atomic"

	"github.com/jmoiron/sqlx"
	"github.com/segmentio/encoding/json"
	"golang.org/x/sync/errgroup"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/store/db"
	"dapper.example/internal/store/sharing"
)

// Columns are what conditions ask of the posts of large sites, laid out in memory, for previews of what rules catch. They are
// laid out by LayOut, beside whoever asks: where that has not been done yet, or too much has changed since, PostgreSQL answers.
// Before they are used, posts that have changed since are read again (see Kept), so that they are never behind.
type Columns struct {
	least int // posts of a site for which they are worth while
	most  int // bytes over all sites

	mu     sync.Mutex
	sites  map[int64]*columnSite
	wanted map[int64]bool // asked for, and not there
	others map[int64]bool // sites that have too few posts, or too many
	asked  int64
	begun  bool // LayOut alone looks at it
	news   chan struct{}
}

type columnSite struct {
	used    int64 // the asking that used it last
	isUsed  bool  // since all of it was read
	reading chan struct{}
	columns *condition.Columns
	settled string                     // as all transactions before it left them
	size    struct{ posts, bytes int } // when all of it was read
}

const (
	// leastColumns is how many posts a site has for which PostgreSQL takes long enough.
	leastColumns = 20_000
	// mostColumns is for how many bytes there is room where memory is not limited: about three million posts.
	mostColumns = 512 << 20
	// columnBytes is what a post takes at least.
	columnBytes = 100
	// columnsPage is how many posts are read at once.
	columnsPage = 5_000
)

// newColumns holds nothing yet, and at most what takes a sixteenth of the memory that the process may take.
func newColumns() *Columns {
	limit := debug.SetMemoryLimit(-1) // asks for it
	return &Columns{least: leastColumns, most: int(min(mostColumns, limit/16)), sites: make(map[int64]*columnSite), wanted: make(map[int64]bool),
		others: make(map[int64]bool), news: make(chan struct{}, 1)}
}

// LayOutWithin sets how many posts a site must have for LayOut to lay it out, and how many bytes all may take, instead of what is
// worth while and what there is room for. Set it before anybody asks.
func (q Queries) LayOutWithin(posts, bytes int) { q.laid.least, q.laid.most = posts, bytes }

// InColumns is how many posts are laid out, and about how many bytes they take.
func (q Queries) InColumns() (posts, bytes int) {
	q.laid.mu.Lock()
	defer q.laid.mu.Unlock()
	for _, site := range q.laid.sites {
		posts, bytes = posts+site.size.posts, bytes+site.size.bytes
	}
	return posts, bytes
}

// ToLayOut tells when somebody asked for what LayOut has not laid out yet.
func (q Queries) ToLayOut() <-chan struct{} { return q.laid.news }

// LayOut lays out the columns of sites that were asked about, the first time those of all that are large, and reads again what
// has changed of the others. One site that fails keeps none of the others from it. One goroutine at a time calls it.
func (q Queries) LayOut(ctx context.Context) error {
	k := q.laid
	if err := k.begin(ctx, q); err != nil {
		return err
	}
	var failed []error
	for _, id := range k.due() {
		if err := k.layOut(ctx, q, id); err != nil {
			failed = append(failed, fmt.Errorf("laying out the posts of site %d: %w", id, err))
		}
	}
	return errors.Join(failed...)
}

// begin wants large sites, once. Nobody who asks meanwhile waits for it.
func (k *Columns) begin(ctx context.Context, q Queries) error {
	if k.begun {
		return nil
	}
	var large []int64
	if err := q.run.All(ctx, &large, `
		select site_id from posts group by site_id having count(*) >= $1`, k.least); err != nil {
		return fmt.Errorf("looking for sites with many posts: %w", err)
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	for _, id := range large {
		k.wanted[id] = true
	}
	k.begun = true
	return nil
}

// due are the sites to look after.
func (k *Columns) due() []int64 {
	k.mu.Lock()
	defer k.mu.Unlock()
	var all []int64
	for id := range k.wanted {
		all = append(all, id)
	}
	for id := range k.sites {
		if !k.wanted[id] {
			all = append(all, id)
		}
	}
	return all
}

// layOut brings a site's columns up to date.
func (k *Columns) layOut(ctx context.Context, q Queries, siteID int64) error {
	k.mu.Lock()
	site, wanted := k.sites[siteID], k.wanted[siteID]
	k.mu.Unlock()
	if site != nil {
		columns, err := site.refreshed(ctx, q, siteID)
		if err != nil || columns != nil {
			return err
		}
		k.mu.Lock()
		delete(k.sites, siteID)
		wanted = wanted || site.isUsed
		k.mu.Unlock()
	}
	if !wanted {
		return nil // nobody has asked since it was read; whoever asks wants it again
	}
	fresh, err := k.read(ctx, q, siteID)
	k.mu.Lock()
	defer k.mu.Unlock()
	switch {
	case errors.Is(err, errNotWorth):
		k.others[siteID] = true
		delete(k.wanted, siteID)
		return nil
	case err != nil:
		return err
	}
	k.asked++
	fresh.used = k.asked
	k.sites[siteID] = fresh
	delete(k.wanted, siteID)
	delete(k.others, siteID)
	k.bound(siteID)
	return nil
}

// bound forgets what was used the longest ago, until no more is kept than may be.
func (k *Columns) bound(latest int64) {
	sum := 0
	for _, site := range k.sites {
		sum += site.size.bytes
	}
	for sum > k.most && len(k.sites) > 1 {
		oldest := latest
		for id, site := range k.sites {
			if oldest == latest || id != latest && site.used < k.sites[oldest].used {
				oldest = id
			}
		}
		sum -= k.sites[oldest].size.bytes
		delete(k.sites, oldest)
	}
}

// errNotWorth is that a site has too few posts for columns, or more than there is room for.
var errNotWorth = errors.New("no columns for a site of that size")

// columns are a site's columns as it is now; nil where it has none.
func (q Queries) columns(ctx context.Context, siteID int64) (*condition.Columns, error) {
	if q.laid == nil {
		return nil, nil
	}
	site := q.laid.find(siteID)
	if site == nil {
		return nil, nil
	}
	return site.refreshed(ctx, q, siteID)
}

// find is a site that is laid out; nil where it is not.
func (k *Columns) find(siteID int64) *columnSite {
	k.mu.Lock()
	defer k.mu.Unlock()
	site := k.sites[siteID]
	if site != nil {
		k.asked++
		site.used, site.isUsed = k.asked, true
	}
	return site
}

// want has a site laid out: soon, but where it was not worth while before: when there is a look at all of them.
func (k *Columns) want(siteID int64) {
	if k == nil {
		return
	}
	k.mu.Lock()
	defer k.mu.Unlock()
	k.wanted[siteID] = true
	if k.others[siteID] {
		return
	}
	select {
	case k.news <- struct{}{}:
	default:
	}
}

// refreshed reads again what has changed; it returns nil where that is too much.
func (s *columnSite) refreshed(ctx context.Context, q Queries, siteID int64) (*condition.Columns, error) {
	select {
	case s.reading <- struct{}{}:
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	defer func() { <-s.reading }()
	settled, changed, err := q.changedSince(ctx, siteID, s.settled)
	switch {
	case err != nil:
		return nil, err
	case len(changed) > mostAgain || slices.Contains(changed, -1):
		return nil, nil
	case len(changed) > 0:
		fresh, err := q.read(ctx, siteID, FactsFilter{IDs: changed})
		if err != nil {
			return nil, err
		}
		slices.Sort(changed)
		s.columns = s.columns.With(changed, fresh)
	}
	s.settled = settled
	return s.columns, nil
}

// changedSince are the posts of a site that changed since all transactions before one had ended (-1: all of them), and the
// transaction before which all have ended now. One statement sees one state of the database: what is not in changed had not ended,
// and is not settled.
func (q Queries) changedSince(ctx context.Context, siteID int64, settled string) (now string, changed []int64, err error) {
	var row struct {
		Settled string `db:"settled"`
		Changed db.IDs `db:"changed"`
	}
	err = q.run.One(ctx, &row, `
		select pg_snapshot_xmin(pg_current_snapshot())::text as settled,
			(select json_agg(distinct post_id) from site_changes where site_id in ($1, 0) and xid >= $2::text::xid8
				and xid < pg_snapshot_xmax(pg_current_snapshot())) as changed`, siteID, cmp.Or(settled, "0"))
	return row.Settled, slices.DeleteFunc(row.Changed, func(post int64) bool { return post == 0 }), err
}

// read reads all posts of a site.
func (k *Columns) read(ctx context.Context, q Queries, siteID int64) (*columnSite, error) {
	settled, _, err := q.changedSince(ctx, siteID, "")
	if err != nil {
		return nil, err
	}
	r := columnReader{q: q, site: siteID, most: k.most, builder: condition.NewBuilder()}
	err = q.run.Each(ctx, func(rows *sqlx.Rows) error { return rows.Scan(&r.posts, &r.takes, &r.days) }, `
		select (select count(*) from posts where site_id = $1) as posts, comments_open, comments_days from sites where id = $1`, siteID)
	switch {
	case err != nil:
		return nil, err
	case r.posts < k.least, r.posts*columnBytes > k.most:
		return nil, errNotWorth
	}
	if err := r.names(ctx); err != nil {
		return nil, err
	}
	if err := r.all(ctx); err != nil {
		return nil, err
	}
	site := &columnSite{reading: make(chan struct{}, 1), columns: r.builder.Columns(), settled: settled}
	site.size.posts, site.size.bytes = site.columns.Len(), site.columns.Bytes()
	return site, nil
}

// columnReader reads the posts of a site in pages.
type columnReader struct {
	q                         Queries
	site                      int64
	posts, days               int
	takes                     bool // the blog takes comments
	categories, authors, tags map[int64]string
	most                      int // bytes
	builder                   *condition.Builder
}

func (r *columnReader) names(ctx context.Context) error {
	for _, list := range []struct {
		to    *map[int64]string
		query string
	}{
		{&r.categories, `select id, name from categories where site_id = $1`},
		{&r.authors, `select id, name from users where id in (select author_id from posts where site_id = $1)`},
		{&r.tags, `select id, name from tags where site_id = $1`},
	} {
		names := make(map[int64]string)
		*list.to = names
		if err := r.q.run.Each(ctx, func(rows *sqlx.Rows) error {
			var id int64
			var name string
			err := rows.Scan(&id, &name)
			names[id] = name
			return err
		}, list.query, r.site); err != nil {
			return err
		}
	}
	return nil
}

// columnRow is a post as it is read.
type columnRow struct {
	condition.Facts
	fields []byte // JSON
}

// all reads page after page: the next one while what stands beside the posts of this one is read.
func (r *columnReader) all(ctx context.Context) error {
	pages := make(chan []columnRow)
	group, ctx := errgroup.WithContext(ctx)
	group.Go(func() error {
		defer close(pages)
		for after := int64(0); ; {
			page, err := r.rows(ctx, after)
			if err != nil || len(page) == 0 {
				return err
			}
			after = page[len(page)-1].Post
			select {
			case pages <- page:
			case <-ctx.Done():
				return ctx.Err()
			}
		}
	})
	group.Go(func() error {
		fields := make(map[string]string)
		for page := range pages {
			if err := r.beside(ctx, page); err != nil {
				return err
			}
			for i := range page {
				f := &page[i].Facts
				clear(fields)
				if err := json.Unmarshal(page[i].fields, &fields); err != nil {
					return fmt.Errorf("reading the fields of post %d: %w", f.Post, err)
				}
				f.Fields = fields // which are copied
				r.builder.Add(f)
			}
			if r.builder.Bytes() > r.most {
				return errNotWorth
			}
		}
		return nil
	})
	return group.Wait()
}

// beside reads what is known of posts beside them.
func (r *columnReader) beside(ctx context.Context, rows []columnRow) error {
	from, to := rows[0].Post, rows[len(rows)-1].Post
	each := func(of func(f *condition.Facts, id int64), query string) func(context.Context) error {
		return func(ctx context.Context) error {
			at := 0
			return r.q.run.Each(ctx, func(row *sqlx.Rows) error {
				var post, id int64
				if err := row.Scan(&post, &id); err != nil {
					return err
				}
				for at < len(rows) && rows[at].Post < post {
					at++
				}
				if at < len(rows) && rows[at].Post == post {
					of(&rows[at].Facts, id)
				}
				return nil
			}, query, r.site, from, to)
		}
	}
	return r.q.run.Together(ctx,
		each(func(f *condition.Facts, id int64) {
			if name, known := r.tags[id]; known {
				f.Tags = append(f.Tags, name)
			}
		}, `select post_id, tag_id from post_tags where site_id = $1 and post_id between $2 and $3 order by post_id`),
		each(func(f *condition.Facts, n int64) { f.Comments = int(n) },
			`select post_id, n from comment_counts where $1::bigint > 0 and post_id between $2 and $3 order by post_id`),
		each(func(f *condition.Facts, n int64) { f.Shared = int(n) },
			`select post_id, count(*) from outings where site_id = $1 and post_id between $2 and $3 and `+sharing.WentOut+` group by post_id order by post_id`),
	)
}

// rows reads the next posts after one.
func (r *columnReader) rows(ctx context.Context, after int64) (all []columnRow, err error) {
	all = make([]columnRow, 0, columnsPage)
	err = r.q.run.Each(ctx, func(rows *sqlx.Rows) error {
		all = append(all, columnRow{Facts: condition.Facts{CommentDays: r.days}})
		row := &all[len(all)-1]
		f := &row.Facts
		var category, author db.ID
		var published, kept sql.NullTime
		var hasNotice bool
		if err := rows.Scan(&f.Post, &f.Kind, &f.Status, &category, &author, &f.Import, &published, &f.Changed, &f.Words, &f.Republished, &f.OnTop,
			&f.CommentsOpen, &f.FeaturedImage, &f.Evergreen, &f.NeverExpires, &kept, &hasNotice, &f.Title, &f.Slug, &row.fields); err != nil {
			return err
		}
		f.Category, f.Author = r.categories[int64(category)], r.authors[int64(author)]
		f.Published, f.KeptUntil = published.Time, kept.Time // the zero time for null
		if hasNotice {
			f.Notice = "…"
		}
		return nil
	}, `
		select id, kind, status, category_id, author_id, import, published_at, coalesce(changed_at, created_at), words, times_republished, on_top,
			$4 and comments_open and kind = 'post', featured_image <> '', evergreen, never_expires, kept_until, notice <> '', title, slug, fields
		from posts where site_id = $1 and id > $2 order by id limit $3`, r.site, after, columnsPage, r.takes)
	return all, err
}

// siftColumns is Sift from columns.
func (q Queries) siftColumns(ctx context.Context, siteID int64, c *condition.Columns, s Sieve, offset, limit int) (Sifted, error) {
	clicked, err := q.clicked(ctx, siteID, s.Conditions)
	if err != nil {
		return Sifted{}, err
	}
	sieve := condition.NewSieve(c, s.Conditions, clicked)
	found := make([]catch, min(runtime.GOMAXPROCS(0), sieve.Blocks()+1))
	var next atomic.Int64
	group, inGroup := errgroup.WithContext(ctx)
	for i := range found {
		group.Go(func() error {
			own := catch{keep: offset + limit}
			hand := sieve.Hand()
			var posts []condition.Sifted
			for b := int(next.Add(1)) - 1; b < sieve.Blocks() && inGroup.Err() == nil; b = int(next.Add(1)) - 1 {
				posts = hand.Judge(posts[:0], b)
				own.add(posts, s.Without)
			}
			found[i] = own
			return inGroup.Err()
		})
	}
	if err := group.Wait(); err != nil {
		return Sifted{}, err
	}
	all := catch{keep: offset + limit}
	for _, one := range found {
		all.join(one)
	}
	if len(all.doubtful) > 0 {
		ids := make([]int64, len(all.doubtful))
		for i, one := range all.doubtful {
			ids[i] = one.Post
		}
		slices.Sort(ids)
		caught, err := q.decide(ctx, siteID, s, ids)
		if err != nil {
			return Sifted{}, err
		}
		isCaught := make(map[int64]bool, len(caught))
		for _, id := range caught {
			isCaught[id] = true
		}
		sure := all.doubtful[:0]
		for _, one := range all.doubtful {
			if isCaught[one.Post] {
				one.Sure = true
				sure = append(sure, one)
			}
		}
		all.doubtful = nil
		all.add(sure, nil)
	}
	return Sifted{Count: all.sums.N, Digest: all.sums.digest(), Posts: all.page(offset, limit)}, nil
}

// clicked counts the clicks that conditions ask for.
func (q Queries) clicked(ctx context.Context, siteID int64, conditions []condition.Moment) (map[condition.Clicked][]int64, error) {
	counted := make(map[condition.Clicked][]int64)
	for _, asked := range condition.ClickedIn(conditions) {
		if asked.AtLeast <= 0 {
			continue
		}
		posts := []int64{}
		if err := q.run.All(ctx, &posts, `
			select post_id from clicks where site_id = $1 and date > $2 group by post_id having sum(n) >= $3 order by post_id`, siteID, asked.After, asked.AtLeast); err != nil {
			return nil, fmt.Errorf("counting clicks: %w", err)
		}
		counted[asked] = posts
	}
	return counted, nil
}

// catch adds up what a sieve caught, and keeps the posts that came out first.
type catch struct {
	keep     int
	sums     sums
	first    []condition.Sifted
	doubtful []condition.Sifted
}

func (c *catch) add(posts []condition.Sifted, without map[int64]bool) {
	for _, one := range posts {
		switch {
		case without[one.Post]:
		case !one.Sure:
			c.doubtful = append(c.doubtful, one)
		default:
			c.sums.add(sums{1, int64(hashOf(one.Post, ofOne)), int64(hashOf(one.Post, ofOther))})
			c.first = append(c.first, one)
		}
	}
	if len(c.first) >= 2*c.keep+columnsPage {
		c.cut()
	}
}

// cut leaves those that came out first.
func (c *catch) cut() {
	slices.SortFunc(c.first, func(a, b condition.Sifted) int {
		return cmp.Or(cmp.Compare(a.Published, b.Published), cmp.Compare(a.Post, b.Post))
	})
	c.first = c.first[:min(len(c.first), c.keep)]
}

func (c *catch) join(other catch) {
	c.sums.add(other.sums)
	c.first = append(c.first, other.first...)
	c.doubtful = append(c.doubtful, other.doubtful...)
}

func (c *catch) page(offset, limit int) []int64 {
	c.cut()
	ids := []int64{}
	for _, one := range c.first[min(offset, len(c.first)):] {
		ids = append(ids, one.Post)
	}
	return ids[:min(len(ids), limit)]
}

// The seeds of the two hashes of a digest.
const (
	ofOne   = 17
	ofOther = 71
)

// hashOf is PostgreSQL's hashint8extended for a seed that is not 0, so that a digest is the same whoever adds it up: the mixing
// of Bob Jenkins' lookup3 (2006) of a number's halves.
func hashOf(id int64, seed uint64) uint64 {
	const begin = 0x9e3779b9 + 4 + 3923095
	low, high := uint32(id), uint32(id>>32)
	if id < 0 {
		high = ^high
	}
	a, b, c := uint32(begin)+uint32(seed>>32), uint32(begin)+uint32(seed), uint32(begin)
	for _, by := range [...]int{4, 6, 8, 16, 19, 4} {
		a = (a - c) ^ bits.RotateLeft32(c, by)
		c += b
		a, b, c = b, c, a
	}
	a += low ^ high
	for _, by := range [...]int{14, 11, 25, 16, 4, 14, 24} {
		c = (c ^ b) - bits.RotateLeft32(b, by)
		a, b, c = b, c, a
	}
	return uint64(a)<<32 | uint64(b) // what were b and c before the last change of names
}
