package sharing

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/store/turns"
)

// Refusal is a message that a network refused for good.
type Refusal struct {
	Channel int64     `db:"channel_id"`
	Post    int64     `db:"post_id"`
	Wording int       `db:"wording"` // its number in the rule
	Text    string    `db:"text"`
	Reason  string    `db:"reason"`
	At      time.Time `db:"at"`
	Title   string    `db:"title"`        // the post's
	Network string    `db:"channel_name"` // the channel's
}

// mostRefused is how many messages of one turn a network may refuse before the turn is let
// go: one that refuses everything is not sent the whole blog.
const mostRefused = 20

// Refuse notes that a network refused an outing's message for good, and has its rule take
// the turn again at once with another post, unless a later turn has been served or the
// turn has seen many refusals. The network's reason may be long.
func (t *Tx) Refuse(ctx context.Context, o Outing, reason string, now time.Time) error {
	if err := t.run.Exec(ctx, `
		insert into refusals (site_id, channel_id, post_id, rule_id, outing_id, wording, text, reason, due, at)
		values ($1, $2, $3, $4, $5, $6, $7, left($8, 500), $9, $10)`,
		o.SiteID, o.Channel, o.Post, o.Rule, o.ID, o.Wording, o.Text, reason, o.Due, now); err != nil {
		return fmt.Errorf("noting that outing %d was refused: %w", o.ID, err)
	}
	if o.Rule == nil || o.Due == nil {
		return nil
	}
	if _, err := t.run.Do(ctx, `
		update rules set owed_at = $3, owed_on = case when owed_at = $3 then owed_on else '[]' end || jsonb_build_array($6::bigint)
		where site_id = $1 and id = $2 and armed_at is not null and served_at = $4
			and (select count(*) from refusals where rule_id = $2 and due = $3) < $5`,
		o.SiteID, *o.Rule, *o.Due, o.At, mostRefused, o.Channel); err != nil {
		return fmt.Errorf("owing rule %d a turn: %w", *o.Rule, err)
	}
	return turns.On(t.run).Ask(ctx, o.SiteID, now)
}

// Refusals lists the messages of a site that are refused still: their posts have not
// changed since.
func (q Queries) Refusals(ctx context.Context, siteID int64) ([]deed.Refusal, error) {
	var rows []struct {
		Channel int64     `db:"channel_id"`
		Post    int64     `db:"post_id"`
		Text    string    `db:"text"`
		At      time.Time `db:"at"`
	}
	err := q.run.All(ctx, &rows, `
		select channel_id, post_id, text, at from refusals join posts on posts.id = post_id
		where refusals.site_id = $1 and at >= coalesce(changed_at, posts.created_at) order by refusals.id`, siteID)
	refusals := make([]deed.Refusal, len(rows))
	for i, r := range rows {
		refusals[i] = deed.Refusal{Channel: r.Channel, Post: r.Post, Text: r.Text, At: r.At.UTC()}
	}
	return refusals, err
}

// RefusedOf lists what was refused of a rule's messages and is so still, latest first.
func (q Queries) RefusedOf(ctx context.Context, siteID, rule int64, limit int) ([]Refusal, error) {
	var refused []Refusal
	err := q.run.All(ctx, &refused, `
		select channel_id, post_id, wording, text, reason, at, posts.title, channels.name as channel_name
		from refusals join posts on posts.id = post_id join channels on channels.id = channel_id
		where refusals.site_id = $1 and rule_id = $2 and at >= coalesce(changed_at, posts.created_at)
		order by at desc, refusals.id desc limit $3`, siteID, rule, limit)
	return refused, err
}
