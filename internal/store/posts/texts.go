package posts

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"time"

	"dapper.example/internal/core/revise"
	"dapper.example/internal/store/db"
)

// Text is one version of a post's text. It never changes; the next one is another row.
type Text struct {
	ID       int64      `db:"id"`
	SiteID   int64      `db:"site_id"`
	Post     int64      `db:"post_id"`
	MadeFrom *int64     `db:"made_from"` // the version that it was written over; nil: none
	Title    string     `db:"title"`
	Body     string     `db:"body"` // Markdown
	Excerpt  string     `db:"excerpt"`
	Tags     db.Strings `db:"tags"` // names
	Fields   db.Fields  `db:"fields"`
	Words    int        `db:"words"`
	Packed   []byte     `db:"packed"`    // how to get its body from that of PackedOn; nil: it is whole
	PackedOn *int64     `db:"packed_on"` // a later version
	Actor    *int64     `db:"actor_id"`  // nil: nobody of this installation
	At       time.Time  `db:"at"`
	Name     string     `db:"name"` // that an editor gave it; "": none
	Why      string     `db:"why"`  // there is one that nobody wrote by hand, a sentence; "": somebody did
	Who      string     `db:"who"`  // the actor's name; read only
	Live     bool       `db:"live"` // the post points at it; read only
}

const selectText = `
	select texts.*, coalesce(users.name, '') as who, exists (select from posts where text_id = texts.id) as live
	from texts left join users on users.id = actor_id`

// Texts lists the versions of a post's text, the latest first, without their bodies.
func (q Queries) Texts(ctx context.Context, siteID, post int64, limit int) ([]Text, error) {
	var texts []Text
	err := q.run.All(ctx, &texts, `
		select texts.id, texts.site_id, post_id, made_from, title, excerpt, tags, fields, words, actor_id, at, texts.name, why,
			coalesce(users.name, '') as who, exists (select from posts where text_id = texts.id) as live
		from texts left join users on users.id = actor_id where texts.site_id = $1 and post_id = $2 order by texts.id desc limit $3`,
		siteID, post, limit)
	return texts, err
}

// chain is how many versions are packed on one another at most.
const chain = 25

// Text returns one version of a post's text.
func (q Queries) Text(ctx context.Context, siteID, post, id int64) (Text, error) {
	var t Text
	if err := q.run.One(ctx, &t, selectText+` where texts.site_id = $1 and post_id = $2 and texts.id = $3`, siteID, post, id); err != nil {
		return t, err
	}
	return t, q.unpack(ctx, &t)
}

// unpack gets the body of a version from the later ones that it is packed on.
func (q Queries) unpack(ctx context.Context, t *Text) error {
	if t.PackedOn == nil {
		return nil
	}
	var steps []struct {
		Body   string `db:"body"`
		Packed []byte `db:"packed"`
	}
	if err := q.run.All(ctx, &steps, `
		with recursive way (n, body, packed, packed_on) as (
			select 1, body, packed, packed_on from texts where id = $1
			union all select n + 1, texts.body, texts.packed, texts.packed_on from way join texts on texts.id = way.packed_on where n <= $2)
		select body, packed from way order by n desc`, t.ID, chain*2); err != nil {
		return fmt.Errorf("reading what version %d is packed on: %w", t.ID, err)
	}
	body := steps[0].Body // the whole one
	for _, step := range steps[1:] {
		var err error
		if body, err = revise.Unpack(body, step.Packed); err != nil {
			return fmt.Errorf("unpacking version %d: %w", t.ID, err)
		}
	}
	t.Body, t.Packed, t.PackedOn = body, nil, nil
	return nil
}

// packBefore keeps the version that one was made from as what differs from it, where that takes less room. The one is whole, and is not live
// any more: nothing takes its place.
func (t *Tx) packBefore(ctx context.Context, next Text) error {
	if next.MadeFrom == nil || next.PackedOn != nil {
		return nil
	}
	var one struct {
		Body string `db:"body"`
		Nr   int    `db:"nr"`
	}
	err := t.run.One(ctx, &one, `
		select body, (select count(*) from texts earlier where earlier.post_id = texts.post_id and earlier.id <= texts.id) as nr
		from texts where id = $1 and packed is null`, *next.MadeFrom)
	if errors.Is(err, db.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	if one.Nr%chain == 0 {
		return nil // it stays whole
	}
	packed := revise.Pack(next.Body, one.Body)
	if len(packed) > len(one.Body)/2 {
		return nil
	}
	return t.run.Exec(ctx, `update texts set body = '', packed = $2, packed_on = $3 where id = $1`, *next.MadeFrom, string(packed), next.ID)
}

// sitting is for how long what one person writes on is one version.
const sitting = 10 * time.Minute

// says tells whether the text of a post is that of the version.
func (t Text) says(p Post) bool {
	return t.Title == p.Title && t.Body == p.Body && t.Excerpt == p.Excerpt &&
		slices.Equal(sorted(t.Tags), sorted(p.Tags)) && maps.Equal(t.Fields, p.Fields)
}

func sorted(names []string) []string { return slices.Sorted(slices.Values(names)) }

// newText writes the text of a locked post as a new version, where it differs from the
// live one, and returns the one that is to be live. Where was is not 0, the version of that
// number is replaced by it and may go: what one person writes in one sitting, which lasts so long, is one
// version, unless it was out meanwhile.
func (t *Tx) newText(ctx context.Context, p Post, actor *int64, why string, now time.Time, sitting time.Duration) (text Text, was int64, err error) {
	var live Text
	if err := t.run.One(ctx, &live,
		selectText+` where texts.id = (select text_id from posts where site_id = $1 and id = $2)`, p.SiteID, p.ID); err != nil {
		return live, 0, err
	}
	if live.says(p) {
		return live, 0, nil
	}
	from := &live.ID
	if live.Actor != nil && actor != nil && *live.Actor == *actor && live.Name == "" && live.Why == "" && !now.Before(live.At) &&
		now.Sub(live.At) < sitting &&
		(p.PublishedAt == nil || p.PublishedAt.Before(live.At)) {
		was, from = live.ID, live.MadeFrom
	}
	tags, err := json.Marshal(append([]string{}, p.Tags...))
	if err != nil {
		return live, 0, err
	}
	err = t.run.One(ctx, &text, `
		insert into texts (site_id, post_id, made_from, title, body, excerpt, tags, fields, actor_id, at, why)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) returning *`,
		p.SiteID, p.ID, from, p.Title, p.Body, p.Excerpt, string(tags), p.Fields, actor, now, why)
	if err == nil && was == 0 {
		err = t.packBefore(ctx, live)
	}
	return text, was, err
}

// dropText deletes a version that nothing was made from.
func (t *Tx) dropText(ctx context.Context, id int64) error {
	_, err := t.run.Do(ctx,
		`delete from texts where id = $1 and not exists (select from texts later where later.made_from = texts.id or later.packed_on = texts.id)`, id)
	return err
}

// NameText gives a version of a post's text a name.
func (t *Tx) NameText(ctx context.Context, siteID, post, id int64, name string) error {
	return t.run.Exec(ctx, `update texts set name = $4 where site_id = $1 and post_id = $2 and id = $3`, siteID, post, id, name)
}
