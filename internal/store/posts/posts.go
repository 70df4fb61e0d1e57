// Package posts keeps posts, their texts, addresses, pictures and previews, and the lists of them.
package posts

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"dapper.example/internal/store/plan"

	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
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

// Status is what a post is to its readers.
type Status = post.Status

// The statuses of a post.
const (
	Draft     = post.Draft
	Scheduled = post.Scheduled
	Published = post.Published
	Archived  = post.Archived
	Binned    = post.Binned
	Linked    = post.Linked
)

// Post is a post with its author's and category's names and its tags.
type Post struct {
	ID           int64      `db:"id"`
	SiteID       int64      `db:"site_id"`
	AuthorID     int64      `db:"author_id"`
	AuthorName   string     `db:"author_name"`
	AuthorAbout  string     `db:"author_about"` // a line for readers
	CategoryID   *int64     `db:"category_id"`
	CategoryName *string    `db:"category_name"`
	CategorySlug *string    `db:"category_slug"`
	Title        string     `db:"title"`
	Slug         string     `db:"slug"`    // "" until the post is first scheduled or published
	Body         string     `db:"body"`    // Markdown
	TextID       int64      `db:"text_id"` // the version of its text that is live
	Tags         db.Strings `db:"tags"`
	Status       Status     `db:"status"`
	Cleared      bool       `db:"cleared"`
	ShelfRank    *int64     `db:"shelf_rank"`
	DueAt        *time.Time `db:"due_at"`
	Pinned       bool       `db:"pinned"`
	RhythmID     *int64     `db:"rhythm_id"`
	SlotDate     *time.Time `db:"slot_date"`
	SlotOpening  *string    `db:"slot_opening"`
	SlotOrdinal  *int       `db:"slot_ordinal"`
	PublishedAt  *time.Time `db:"published_at"`
	NotBefore    *time.Time `db:"not_before"`
	Deadline     *time.Time `db:"deadline"`
	Held         bool       `db:"held"` // overdue, and held back for an editor
	Version      int        `db:"version"`
	CreatedAt    time.Time  `db:"created_at"`
	UpdatedAt    time.Time  `db:"updated_at"`

	Kind             string      `db:"kind"` // post, page or link
	Link             string      `db:"link"` // of a link item: where it leads
	Excerpt          string      `db:"excerpt"`
	Fields           db.Fields   `db:"fields"` // custom fields
	OnTop            bool        `db:"on_top"`
	CommentsOpen     bool        `db:"comments_open"`
	FeaturedImage    string      `db:"featured_image"` // its address; "" for none
	FeaturedAlt      string      `db:"featured_alt"`
	Evergreen        bool        `db:"evergreen"`
	Import           string      `db:"import"`
	ChangedAt        *time.Time  `db:"changed_at"` // last change of the text
	ExpiresAt        *time.Time  `db:"expires_at"` // its own expiry
	NeverExpires     bool        `db:"never_expires"`
	FirstPublishedAt *time.Time  `db:"first_published_at"`
	RepublishedAt    *time.Time  `db:"republished_at"`
	TimesRepublished int         `db:"times_republished"`
	ArchivedAt       *time.Time  `db:"archived_at"`
	Notice           string      `db:"notice"`     // to readers, of a post that is out or archived
	Answer           post.Answer `db:"answer"`     // what readers of an archived post get, as the rule said
	LeadsTo          db.ID       `db:"leads_to"`   // with post.Elsewhere
	OwnAnswer        *string     `db:"own_answer"` // the same as the post itself says: page, redirect or gone; nil: as the rule said
	OwnLeadsTo       db.ID       `db:"own_leads_to"`
	KeptUntil        *time.Time  `db:"kept_until"` // no rule takes it away before
	Words            int         `db:"words"`
	HandedInAt       *time.Time  `db:"handed_in_at"` // its contributor is done with it
	BinnedAt         *time.Time  `db:"binned_at"`
	BinnedFrom       *Status     `db:"binned_from"`
	Stage            Stage       `db:"stage"`
}

// Stage is where a post stands, as lists show it: its status, and of drafts whether they
// are handed in or cleared, and of scheduled posts whether they are held.
type Stage string

// Stages lists all stages, in the order of a post's life.
func Stages() []Stage {
	return []Stage{"draft", "handed in", "cleared", "scheduled", "held", "published", "archived", "linked", "binned"}
}

// Slot names the slot the post sits in, or is the zero SlotID.
func (p Post) Slot() rhythm.SlotID {
	return plan.SlotID(p.RhythmID, p.SlotDate, p.SlotOpening, p.SlotOrdinal)
}

const selectPost = `
	select posts.id, posts.site_id, author_id, category_id, title, posts.slug, status, cleared, shelf_rank, due_at, pinned,
		rhythm_id, slot_date, slot_opening, slot_ordinal, published_at, not_before, deadline, held, version, posts.created_at, updated_at,
		kind, link, excerpt, fields, on_top, comments_open, featured_image, featured_alt, evergreen, import, changed_at, expires_at, never_expires,
		first_published_at, republished_at, times_republished, archived_at, notice, words, handed_in_at, binned_at, binned_from, stage,
		answer, leads_to, own_answer, own_leads_to, kept_until,
		(select body from texts where texts.id = text_id) as body, text_id, users.name as author_name, users.about as author_about, categories.name as category_name, categories.slug as category_slug,
		(select coalesce(json_agg(tags.name order by tags.name), '[]') from post_tags join tags on tags.id = tag_id
		 where post_id = posts.id) as tags
	from posts join users on users.id = author_id left join categories on categories.id = category_id`

// PostsAfter lists the posts of a site that are not in the bin, with their texts, in the order of
// their ids, from an id on that is left out.
func (q Queries) PostsAfter(ctx context.Context, siteID, after int64, limit int) ([]Post, error) {
	var all []Post
	err := q.run.All(ctx, &all, selectPost+`
		where posts.site_id = $1 and posts.id > $2 and status <> 'binned' order by posts.id limit $3`, siteID, after, limit)
	return all, err
}

// Post returns one post of the site.
func (q Queries) Post(ctx context.Context, siteID, id int64) (Post, error) {
	var p Post
	err := q.run.One(ctx, &p, selectPost+` where posts.site_id = $1 and posts.id = $2`, siteID, id)
	return p, err
}

// LockPost returns one post of the site and keeps others from changing it until
// the transaction ends.
func (t *Tx) LockPost(ctx context.Context, siteID, id int64) (Post, error) {
	// It is read once it is locked: whoever waits for the lock in the middle of reading would see the post as
	// it is now beside the texts as they were before.
	var locked int64
	if err := t.run.One(ctx, &locked, `select id from posts where site_id = $1 and id = $2 for update`, siteID, id); err != nil {
		return Post{}, err
	}
	return t.Post(ctx, siteID, id)
}

// InsertDraft adds a draft that is not cleared.
func (q Queries) InsertDraft(ctx context.Context, p Post) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		with number as (select nextval(pg_get_serial_sequence('texts', 'id')) as id), post as (
			insert into posts (site_id, author_id, category_id, title, created_at, updated_at, changed_at, words, text_id)
			select $1, $2, $3, $4, $6, $6, $6, words_of($5), number.id from number returning id, text_id)
		insert into texts (id, site_id, post_id, title, body, actor_id, at) overriding system value
		select text_id, $1, id, $4, $5, $2, $6 from post returning post_id`,
		p.SiteID, p.AuthorID, p.CategoryID, p.Title, p.Body, p.CreatedAt)
	return id, err
}

// InsertPublished adds a post that came out in the past.
func (q Queries) InsertPublished(ctx context.Context, p Post) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `
		with number as (select nextval(pg_get_serial_sequence('texts', 'id')) as id), post as (
			insert into posts (site_id, author_id, category_id, title, slug, status, published_at, first_published_at, created_at, updated_at, changed_at, words, text_id)
			select $1, $2, $3, $4, $5, 'published', $7, $7, $8, $8, $8, words_of($6), number.id from number returning id, text_id)
		insert into texts (id, site_id, post_id, title, body, actor_id, at) overriding system value
		select text_id, $1, id, $4, $6, $2, $8 from post returning post_id`,
		p.SiteID, p.AuthorID, p.CategoryID, p.Title, p.Slug, p.Body, p.PublishedAt, p.CreatedAt)
	return id, err
}

// BlankDraft returns a draft of the author's in which nothing is written.
func (q Queries) BlankDraft(ctx context.Context, siteID, authorID int64) (Post, error) {
	var p Post
	err := q.run.One(ctx, &p, selectPost+`
		where posts.site_id = $1 and author_id = $2 and status = 'draft' and title = '' and words = 0
		order by posts.id limit 1`, siteID, authorID)
	return p, err
}

// SaveText writes what an editor can write of a post, which is locked, and counts its
// version up. Its text is a new version where it says something else than the live one.
func (t *Tx) SaveText(ctx context.Context, p Post, actor *int64, now time.Time) error {
	return t.saveText(ctx, p, actor, "", now, sitting)
}

// SaveVersion is SaveText for a text that is a version of its own, however little time has passed since the last.
func (t *Tx) SaveVersion(ctx context.Context, p Post, actor *int64, now time.Time) error {
	return t.saveText(ctx, p, actor, "", now, 0)
}

// SaveBecause is SaveVersion for a text that nobody wrote by hand: why there is one, is a sentence.
func (t *Tx) SaveBecause(ctx context.Context, p Post, actor *int64, why string, now time.Time) error {
	return t.saveText(ctx, p, actor, why, now, 0)
}

func (t *Tx) saveText(ctx context.Context, p Post, actor *int64, why string, now time.Time, sitting time.Duration) error {
	text, was, err := t.newText(ctx, p, actor, why, now, sitting)
	if err != nil {
		return fmt.Errorf("writing the text of post %d: %w", p.ID, err)
	}
	if err := t.run.Exec(ctx, `
		update posts set category_id = $3, version = version + 1, updated_at = $4,
			slug = $5, author_id = $6, kind = $7, featured_image = $8, featured_alt = $9, on_top = $10, comments_open = $11, link = $13,
			text_id = texts.id, title = texts.title, excerpt = texts.excerpt, fields = texts.fields, words = texts.words,
			changed_at = case when texts.title = posts.title and texts.body = live.body then changed_at else $4 end
		from texts, texts live
		where posts.site_id = $1 and posts.id = $2 and texts.id = $12 and live.id = posts.text_id`,
		p.SiteID, p.ID, p.CategoryID, now, p.Slug, p.AuthorID, p.Kind, p.FeaturedImage, p.FeaturedAlt, p.OnTop, p.CommentsOpen, text.ID, p.Link); err != nil {
		return err
	}
	if was == 0 {
		return nil
	}
	return t.dropText(ctx, was)
}

// State is where the post stands.
func (p Post) State() post.State {
	s := post.State{Status: p.Status, Page: p.Kind == "page", Cleared: p.Cleared, Rank: p.ShelfRank,
		HandedInAt: db.OrZero(p.HandedInAt),
		NotBefore:  db.OrZero(p.NotBefore), Deadline: db.OrZero(p.Deadline), DueAt: db.OrZero(p.DueAt), Pinned: p.Pinned, Held: p.Held, Slot: p.Slot(),
		PublishedAt: db.OrZero(p.PublishedAt), FirstPublishedAt: db.OrZero(p.FirstPublishedAt), RepublishedAt: db.OrZero(p.RepublishedAt),
		TimesRepublished: p.TimesRepublished, ArchivedAt: db.OrZero(p.ArchivedAt), Notice: p.Notice, BinnedAt: db.OrZero(p.BinnedAt),
		Answer: p.Answer, LeadsTo: int64(p.LeadsTo)}
	if p.BinnedFrom != nil {
		s.BinnedFrom = *p.BinnedFrom
	}
	return s
}

// Answers is what readers get of the archived post, and the post that they are sent on to: as it says itself, or as the
// rule said that archived it. Where that other post is gone, it is the page.
func (p Post) Answers() (answer post.Answer, leadsTo int64) {
	answer, leadsTo = p.Answer, int64(p.LeadsTo)
	if p.OwnAnswer != nil {
		answer, leadsTo = post.Answer(*p.OwnAnswer), int64(p.OwnLeadsTo)
	}
	if answer == post.Gone || answer == post.Elsewhere && leadsTo != 0 {
		return answer, leadsTo
	}
	return post.Page, 0
}

// Stand gives the post a state.
func (p *Post) Stand(s post.State) {
	p.Status, p.Cleared, p.ShelfRank, p.HandedInAt = s.Status, s.Cleared, s.Rank, orNone(s.HandedInAt)
	p.NotBefore, p.Deadline, p.DueAt, p.Pinned, p.Held = orNone(s.NotBefore), orNone(s.Deadline), orNone(s.DueAt), s.Pinned, s.Held
	p.sit(s.Slot)
	p.PublishedAt, p.FirstPublishedAt, p.RepublishedAt = orNone(s.PublishedAt), orNone(s.FirstPublishedAt), orNone(s.RepublishedAt)
	p.TimesRepublished, p.ArchivedAt, p.Notice, p.BinnedAt = s.TimesRepublished, orNone(s.ArchivedAt), s.Notice, orNone(s.BinnedAt)
	p.Answer, p.LeadsTo, p.BinnedFrom = s.Answer, db.ID(s.LeadsTo), nil
	if s.BinnedFrom != "" {
		p.BinnedFrom = &s.BinnedFrom
	}
}

func orNone(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}

// sit puts the post into a slot, or into none with the zero SlotID.
func (p *Post) sit(id rhythm.SlotID) {
	if id == (rhythm.SlotID{}) {
		p.RhythmID, p.SlotDate, p.SlotOpening, p.SlotOrdinal = nil, nil, nil, nil
		return
	}
	date, err := time.Parse(time.DateOnly, id.Date.String())
	if err != nil {
		panic(fmt.Sprintf("slot %s: %v", id, err)) // a Date is always written as one
	}
	p.RhythmID, p.SlotDate, p.SlotOpening, p.SlotOrdinal = &id.Rhythm, &date, &id.Opening, &id.Ordinal
}

// NewState is a post's new state, and the address that it has with it.
type NewState struct {
	SiteID, Post int64
	State        post.State
	Slug         string // "": the one that it has
}

// SaveStates writes where posts stand, and counts their versions up. It fails with
// db.ErrNotFound where one of them is not there.
func (t *Tx) SaveStates(ctx context.Context, all []NewState, now time.Time) error {
	ids := make([]int64, len(all))
	rows := []byte{'['}
	for i, s := range all {
		state, err := json.Marshal(s.State)
		if err != nil {
			return err
		}
		slug, err := json.Marshal(s.Slug)
		if err != nil {
			return err
		}
		if ids[i] = s.Post; i > 0 {
			rows = append(rows, ',')
		}
		// The state's fields, with whose it is and its address among them.
		rows = fmt.Appendf(rows, `{"site": %d, "id": %d, "slug": %s, %s`, s.SiteID, s.Post, slug, state[1:])
	}
	rows = append(rows, ']')
	done, err := t.run.Do(ctx, `
		update posts set status = s.status, cleared = coalesce(s.cleared, false), shelf_rank = s.shelf_rank, due_at = s.due_at,
			pinned = coalesce(s.pinned, false), held = coalesce(s.held, false),
			rhythm_id = s.rhythm_id, slot_date = s.slot_date, slot_opening = s.slot_opening, slot_ordinal = s.slot_ordinal,
			published_at = s.published_at, first_published_at = s.first_published_at, republished_at = s.republished_at,
			times_republished = coalesce(s.times_republished, 0), archived_at = s.archived_at, notice = coalesce(s.notice, ''),
			handed_in_at = s.handed_in_at, not_before = s.not_before, deadline = s.deadline, binned_at = s.binned_at, binned_from = s.binned_from,
			answer = coalesce(s.answer, ''), leads_to = (select led.id from posts led where led.site_id = s.site and led.id = s.leads_to),
			slug = coalesce(nullif(s.slug, ''), posts.slug), version = version + 1, updated_at = $3
		from json_to_recordset($1::json) s (site bigint, id bigint, slug text,
			status text, cleared boolean, shelf_rank bigint, due_at timestamptz, pinned boolean, held boolean,
			rhythm_id bigint, slot_date date, slot_opening text, slot_ordinal integer,
			published_at timestamptz, first_published_at timestamptz, republished_at timestamptz, times_republished integer,
			archived_at timestamptz, notice text, handed_in_at timestamptz, not_before timestamptz, deadline timestamptz,
			binned_at timestamptz, binned_from text, answer text, leads_to bigint)
		-- With the list of ids it leads to the primary key, however many are scheduled.
		where posts.id = any($2) and posts.site_id = s.site and posts.id = s.id`, string(rows), ids, now)
	if err != nil {
		return err
	}
	n, err := done.RowsAffected()
	if err == nil && n != int64(len(all)) {
		err = db.ErrNotFound
	}
	return err
}

// SaveState writes where a post stands, with its address, and counts its version up.
func (t *Tx) SaveState(ctx context.Context, p Post, now time.Time) error {
	return t.SaveStates(ctx, []NewState{{p.SiteID, p.ID, p.State(), p.Slug}}, now)
}

// SlugsLike lists the site's slugs that begin with the given text, those of before
// included.
func (q Queries) SlugsLike(ctx context.Context, siteID int64, beginning string) ([]string, error) {
	var slugs []string
	err := q.run.All(ctx, &slugs, `
		select slug from posts where site_id = $1 and starts_with(slug, $2)
		union all select slug from old_slugs where site_id = $1 and starts_with(slug, $2)`, siteID, beginning)
	return slugs, err
}

// SlugHolder finds the post that has a slug, or had it before.
func (q Queries) SlugHolder(ctx context.Context, siteID int64, slug string) (plan.Entry, error) {
	var e plan.Entry
	err := q.run.One(ctx, &e, plan.SelectEntry+`
		where posts.site_id = $1 and (posts.slug = $2
			or posts.id = (select post_id from old_slugs where site_id = $1 and slug = $2))
		order by posts.slug = $2 desc limit 1`, siteID, slug)
	return e, err
}

// MoveSlug keeps the address that a post had, so that it leads on to the new one.
func (t *Tx) MoveSlug(ctx context.Context, siteID, post int64, old, now string) error {
	if _, err := t.run.Do(ctx, `delete from old_slugs where site_id = $1 and post_id = $2 and slug = $3`,
		siteID, post, now); err != nil {
		return err
	}
	return t.run.Exec(ctx, `insert into old_slugs (site_id, post_id, slug) values ($1, $2, $3)`, siteID, post, old)
}

// DeletePost deletes a post that is in the bin, for good, with what was still to be sent of it. What was sent
// stays, and the logbook keeps its title.
func (t *Tx) DeletePost(ctx context.Context, siteID, id int64) error {
	if _, err := t.run.Do(ctx, `delete from outings where site_id = $1 and post_id = $2 and state in ('planned', 'set aside')`, siteID, id); err != nil {
		return err
	}
	if _, err := t.run.Do(ctx, `
		update logbook set gone_title = posts.title from posts
		where posts.site_id = $1 and posts.id = $2 and posts.status = 'binned' and logbook.site_id = $1 and logbook.post_id = $2`, siteID, id); err != nil {
		return err
	}
	return t.run.Exec(ctx, `delete from posts where site_id = $1 and id = $2 and status = 'binned'`, siteID, id)
}

// InBin is a post in the bin, and since when.
type InBin struct {
	Post int64     `db:"id"`
	At   time.Time `db:"binned_at"`
}

// InBin lists the posts in a site's bin, those that have been there for longest first; limit 0 is none.
func (q Queries) InBin(ctx context.Context, siteID int64, limit int) ([]InBin, error) {
	var all []InBin
	err := q.run.All(ctx, &all, `select id, binned_at from posts where site_id = $1 and status = 'binned' order by binned_at, id limit nullif($2, 0)`, siteID, limit)
	return all, err
}

// FindPosts lists posts whose title contains a text, in any case; the latest changed
// first.
func (q Queries) FindPosts(ctx context.Context, siteID int64, title string, limit int) ([]plan.Entry, error) {
	var entries []plan.Entry
	err := q.run.All(ctx, &entries, plan.SelectEntry+`
		where posts.site_id = $1 and lower(title) like '%' || replace(replace(replace(lower($2), '\', '\\'), '%', '\%'), '_', '\_') || '%'
		order by posts.updated_at desc, posts.id desc limit $3`, siteID, title, limit)
	return entries, err
}

// Titles returns the titles of posts by their numbers.
func (q Queries) Titles(ctx context.Context, siteID int64, ids []int64) (map[int64]string, error) {
	var rows []struct {
		ID    int64  `db:"id"`
		Title string `db:"title"`
	}
	err := q.run.All(ctx, &rows, `select id, title from posts where site_id = $1 and id = any($2)`, siteID, ids)
	titles := make(map[int64]string, len(rows))
	for _, r := range rows {
		titles[r.ID] = r.Title
	}
	return titles, err
}

// Drafts lists the drafts that are not cleared, last changed first, without their
// bodies.
func (q Queries) Drafts(ctx context.Context, siteID int64, limit int) ([]plan.Entry, error) {
	var entries []plan.Entry
	err := q.run.All(ctx, &entries, plan.SelectEntry+`
		where posts.site_id = $1 and status = 'draft' and not cleared
		order by posts.updated_at desc, posts.id desc limit $2`, siteID, limit)
	return entries, err
}

// SaveCare writes what rules are to know of a post beside its text (its own expiry, never, kept until,
// evergreen, what readers get once it is archived) and counts its version up.
func (t *Tx) SaveCare(ctx context.Context, p Post, now time.Time) error {
	return t.run.Exec(ctx, `
		update posts set expires_at = $3, never_expires = $4, evergreen = $5, version = version + 1, updated_at = $6,
			own_answer = $7, own_leads_to = $8, kept_until = $9
		where site_id = $1 and id = $2`,
		p.SiteID, p.ID, p.ExpiresAt, p.NeverExpires, p.Evergreen, now, p.OwnAnswer, p.OwnLeadsTo, p.KeptUntil)
}

// Owner is whose a post is, and in which category it is.
type Owner struct {
	ID       int64 `db:"id"`
	Author   int64 `db:"author_id"`
	Category db.ID `db:"category_id"`
}

// Owners returns, by their ids, whose posts of a site are.
func (q Queries) Owners(ctx context.Context, siteID int64, ids []int64) (map[int64]Owner, error) {
	var rows []Owner
	err := q.run.All(ctx, &rows, `select id, author_id, category_id from posts where site_id = $1 and id = any($2)`, siteID, ids)
	owners := make(map[int64]Owner, len(rows))
	for _, o := range rows {
		owners[o.ID] = o
	}
	return owners, err
}
