package plan

import (
	"cmp"
	"context"
	"maps"
	"slices"
	"sync"
	"time"

	"github.com/jmoiron/sqlx"

	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
)

// Span is a stretch of time: From inclusive, To exclusive. The zero Span holds nothing.
type Span struct {
	From, To time.Time
}

// Placed is a post whose place in the plan is settled.
type Placed struct {
	Post int64
	rhythm.Occupied
	Author, Category string
	Waits            bool // scheduled and not held
	Pinned           bool
}

// Placed is the entry's place in the plan; of a draft it means nothing.
func (e Entry) Placed() Placed {
	s := Placed{Post: e.ID, Author: e.AuthorName, Waits: e.Status == post.Scheduled && !e.Held, Pinned: e.Pinned}
	s.At, s.Slot = e.At(), e.Slot()
	if e.CategoryName != nil {
		s.Category = *e.CategoryName
	}
	return s
}

// Placed lists the times that are taken in the plan: those of scheduled posts, and
// of posts published since the given moment.
func (q Queries) Placed(ctx context.Context, siteID int64, since time.Time) ([]Placed, error) {
	seats, err := q.Seats(ctx, siteID, since, Span{})
	standing := make([]Placed, len(seats))
	for i, e := range seats {
		standing[i] = e.Placed()
	}
	return standing, err
}

// Seats lists the posts that have a time in the plan, in time order: all that are
// scheduled, those published since a moment, and those published within a span. Their
// bounds, and when they were begun and changed, are left out.
func (q Queries) Seats(ctx context.Context, siteID int64, since time.Time, shown Span) ([]Entry, error) {
	return q.seats(ctx, `
		site_id = $1 and status = 'scheduled' or
		site_id = $1 and status = 'published' and published_at >= $2 or
		site_id = $1 and status = 'published' and published_at >= $3 and published_at < $4`, siteID, since, shown.From, shown.To)
}

// EntriesBetween lists the scheduled and published posts of a span of time as Seats does.
func (q Queries) EntriesBetween(ctx context.Context, siteID int64, from, to time.Time) ([]Entry, error) {
	return q.seats(ctx, `
		site_id = $1 and status = 'scheduled' and due_at >= $2 and due_at < $3 or
		site_id = $1 and status = 'published' and published_at >= $2 and published_at < $3`, siteID, from, to)
}

// seats finds posts of the plan and puts them in the order of time. Of thousands of them
// what is done for each one counts: the names of authors and categories, which are few,
// come by a query of their own instead of by joins.
func (q Queries) seats(ctx context.Context, which string, args ...any) ([]Entry, error) {
	found, err := q.findSeats(ctx, which, args)
	if err != nil || len(found) == 0 {
		return nil, err
	}
	names, err := q.names(ctx, found)
	if err != nil {
		return nil, err
	}
	slices.SortFunc(found, func(a, b *seat) int {
		return cmp.Or(a.at.Compare(b.at),
			cmp.Compare(a.entry.ID, b.entry.ID))
	})
	entries := make([]Entry, len(found))
	for i, s := range found {
		entries[i] = s.entry
		entries[i].AuthorName, entries[i].CategoryName = names.authors[s.author], names.categories[s.category]
	}
	return entries, nil
}

// findSeats reads only what has been written since the last reading, where it can.
func (q Queries) findSeats(ctx context.Context, which string, args []any) ([]*seat, error) {
	if q.run.Within {
		return q.readSeats(ctx, which, args...)
	}
	const attempts, most = 3, 500
	for range attempts {
		var versions []version
		err := q.run.Each(ctx, func(rows *sqlx.Rows) error {
			var id, xmin any
			err := rows.Scan(&id, &xmin)
			versions = append(versions, version{id.(int64), xmin.(int64)})
			return err
		}, `select id, xmin from posts where `+which, args...)
		if err != nil {
			return nil, err
		}
		found, missing := q.kept.find(versions)
		if len(missing) > most {
			break
		}
		if len(missing) > 0 {
			fresh, err := q.readSeats(ctx, `id = any($1)`, missing)
			if err != nil {
				return nil, err
			}
			q.kept.keep(fresh)
			found, missing = q.kept.find(versions)
		}
		if len(missing) == 0 {
			return found, nil
		}
		// Some were written between the two queries: what they come to is looked for anew.
	}
	all, err := q.readSeats(ctx, which, args...)
	q.kept.keep(all)
	return all, err
}

// version names what a post was when it was last written: xmin is the transaction that
// wrote it (PostgreSQL, System Columns). Only the last writing of a transaction is ever
// seen from outside of it.
type version struct {
	id, xmin int64
}

// seat is a post with a time in the plan, as it was read once. It is not changed.
type seat struct {
	version
	entry            Entry // less the names
	at               time.Time
	author, category int64 // ids; category 0: none
}

const seatColumns = `id, xmin, author_id, category_id, title, slug, status, held, pinned, kind, version, due_at, published_at,
	rhythm_id, slot_date, slot_opening, slot_ordinal`

func (q Queries) readSeats(ctx context.Context, which string, args ...any) (found []*seat, err error) {
	err = q.run.Each(ctx, func(rows *sqlx.Rows) error {
		var s seat
		var category *int64
		e := &s.entry
		err := rows.Scan(&s.id, &s.xmin, &s.author, &category, &e.Title, &e.Slug, &e.Status, &e.Held, &e.Pinned,
			&e.Kind, &e.Version,
			&e.DueAt, &e.PublishedAt, &e.RhythmID, &e.SlotDate, &e.SlotOpening, &e.SlotOrdinal)
		if category != nil {
			s.category = *category
		}
		e.ID, s.at = s.id, e.At()
		found = append(found, &s)
		return err
	}, `select `+seatColumns+` from posts where `+which, args...)
	return found, err
}

// Kept are the seats that were read lately. They are for readers outside of transactions:
// a transaction sees its own writings, which all have one xmin.
type Kept struct {
	mu    sync.Mutex
	seats map[int64]*seat
}

// NewKept keeps nothing yet.
func NewKept() *Kept { return &Kept{seats: make(map[int64]*seat)} }

// mostKept bounds the memory: a seat takes about 400 bytes.
const mostKept = 20_000

func (k *Kept) find(versions []version) (found []*seat, missing []int64) {
	k.mu.Lock()
	defer k.mu.Unlock()
	found = make([]*seat, 0, len(versions))
	for _, v := range versions {
		if s := k.seats[v.id]; s != nil && s.version == v {
			found = append(found, s)
		} else {
			missing = append(missing, v.id)
		}
	}
	return found, missing
}

func (k *Kept) keep(fresh []*seat) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if len(k.seats)+len(fresh) > mostKept {
		clear(k.seats)
	}
	for _, s := range fresh {
		k.seats[s.id] = s
	}
}

// names are those of authors and categories by their ids.
type names struct {
	authors    map[int64]string
	categories map[int64]*string
}

func (q Queries) names(ctx context.Context, found []*seat) (names, error) {
	n := names{make(map[int64]string), make(map[int64]*string)}
	for _, s := range found {
		n.authors[s.author], n.categories[s.category] = "", nil
	}
	err := q.run.Each(ctx, func(rows *sqlx.Rows) error {
		var ofUser bool
		var id int64
		var name string
		err := rows.Scan(&ofUser, &id, &name)
		if ofUser {
			n.authors[id] = name
		} else {
			n.categories[id] = &name
		}
		return err
	}, `
		select true, id, name from users where id = any($1)
		union all
		select false, id, name from categories where id = any($2)`, slices.Collect(maps.Keys(n.authors)), slices.Collect(maps.Keys(n.categories)))
	return n, err
}
