package sharing

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/results"
)

// ResultsBy says what outings are added up by.
type ResultsBy string

// What outings are added up by.
const (
	ResultsByPost    ResultsBy = "post"
	ResultsByChannel ResultsBy = "channel"
	ResultsByRule    ResultsBy = "rule"
	ResultsByTour    ResultsBy = "tour"
	ResultsByWording ResultsBy = "wording" // of a rule or a tour
	ResultsByOrigin  ResultsBy = "origin"
)

// ResultsFilter says which outings are looked at: those that went out from From on and before To.
type ResultsFilter struct {
	From, To time.Time
	Channel  int64 // 0: all
}

// ResultsRow is what some outings brought together.
type ResultsRow struct {
	ID      int64   `db:"id"`   // of the post, channel, rule or tour; 0: of none
	Of      string  `db:"of"`   // rule or tour, of wordings
	N       int     `db:"n"`    // the number of the wording
	Name    string  `db:"name"` // of what they are added up by
	Outings float64 `db:"outings"`
	Clicks  float64 `db:"clicks"`
	Squares float64 `db:"squares"`
}

// Tally is the row as core adds it up.
func (r ResultsRow) Tally() results.Tally {
	return results.Tally{Outings: r.Outings, Clicks: r.Clicks, Squares: r.Squares}
}

const (
	// added is how outings are added up.
	added = `count(*)::float8 as outings, coalesce(sum(clicks), 0)::float8 as clicks, coalesce(sum(clicks::bigint * clicks), 0)::float8 as squares`
	// counted is the outings that can have had clicks.
	counted = ` where outings.site_id = $1 and state = 'sent' and parent_id is null and at >= $2 and at < $3 and ($4::bigint = 0 or channel_id = $4)`
)

// rowsBy is what rows are made by: what they are known and called by, with the tables for that.
var rowsBy = map[ResultsBy]struct{ columns, joins, where string }{
	ResultsByPost:    {`coalesce(post_id, 0) as id, '' as of, 0 as n, coalesce(posts.title, '') as name`, ` left join posts on posts.id = post_id`, ` and post_id is not null`},
	ResultsByChannel: {`channel_id as id, '' as of, 0 as n, channels.name as name`, ` join channels on channels.id = channel_id`, ``},
	ResultsByRule:    {`rule_id as id, 'rule' as of, 0 as n, rules.name as name`, ` join rules on rules.id = rule_id`, ``},
	ResultsByTour:    {`tour_id as id, 'tour' as of, 0 as n, tours.name as name`, ` join tours on tours.id = tour_id`, ``},
	ResultsByWording: {`coalesce(rule_id, tour_id) as id, case when rule_id is null then 'tour' else 'rule' end as of, wording as n, coalesce(rules.name, tours.name) as name`,
		` left join rules on rules.id = rule_id left join tours on tours.id = tour_id`, ` and wording > 0 and (rule_id is not null or tour_id is not null)`},
	ResultsByOrigin: {`0::bigint as id, '' as of, 0 as n, origin as name`, ``, ``},
}

// Results adds up what outings brought, the most clicks first.
func (q Queries) Results(ctx context.Context, siteID int64, f ResultsFilter, by ResultsBy) ([]ResultsRow, error) {
	k, known := rowsBy[by]
	if !known {
		return nil, fmt.Errorf("outings cannot be added up by %q", by)
	}
	rows := []ResultsRow{}
	err := q.run.All(ctx, &rows, `select `+k.columns+`, `+added+` from outings`+k.joins+counted+k.where+` group by 1, 2, 3, 4 order by clicks desc, outings desc, id, n`,
		siteID, f.From, f.To, f.Channel)
	return rows, err
}

// ResultGroups adds up outings that are alike: those of one post on one channel.
func (q Queries) ResultGroups(ctx context.Context, siteID int64, f ResultsFilter) ([]results.Tally, error) {
	var rows []ResultsRow
	err := q.run.All(ctx, &rows, `select `+added+` from outings`+counted+` group by post_id, channel_id`, siteID, f.From, f.To, f.Channel)
	tallies := make([]results.Tally, len(rows))
	for i, r := range rows {
		tallies[i] = r.Tally()
	}
	return tallies, err
}

// ResultsOfWeek adds up outings by the hour of the week that the clocks of a zone showed.
func (q Queries) ResultsOfWeek(ctx context.Context, siteID int64, f ResultsFilter, zone string) (w results.Week, err error) {
	var rows []struct {
		Day  int `db:"day"`
		Hour int `db:"hour"`
		ResultsRow
	}
	err = q.run.All(ctx, &rows, `select extract(isodow from at at time zone $5)::int - 1 as day, extract(hour from at at time zone $5)::int as hour, `+added+
		` from outings`+counted+` group by 1, 2`, siteID, f.From, f.To, f.Channel, zone)
	for _, r := range rows {
		w[r.Day][r.Hour] = r.Tally()
	}
	return w, err
}

// MostAgain is up to which outing of a post on a channel wear is looked at.
const MostAgain = 8

// WearRow is what the n-th outings of a category's posts brought.
type WearRow struct {
	Category string `db:"category"`
	Nth      int    `db:"nth"`
	ResultsRow
}

// ResultsByNth adds up outings by category and by how often their post had been out on their channel before, from 1.
func (q Queries) ResultsByNth(ctx context.Context, siteID int64, f ResultsFilter) ([]WearRow, error) {
	var rows []WearRow
	err := q.run.All(ctx, &rows, `
		select coalesce(categories.name, '') as category, nth, `+added+` from (
			select post_id, channel_id, at, clicks, row_number() over (partition by post_id, channel_id order by at, id)::int as nth
			from outings where site_id = $1 and state = 'sent' and parent_id is null and post_id is not null) outings
			join posts on posts.id = outings.post_id left join categories on categories.id = category_id
		where outings.at >= $2 and outings.at < $3 and ($4::bigint = 0 or channel_id = $4) and nth <= $5
		group by 1, 2 order by 1, 2`, siteID, f.From, f.To, f.Channel, MostAgain)
	return rows, err
}

// NeverShared lists posts that are out and were never shared, the latest first, and how many there are.
func (q Queries) NeverShared(ctx context.Context, siteID int64, limit int) (rows []ResultsRow, n int, err error) {
	const never = ` from posts where site_id = $1 and status = 'published' and kind = 'post' and not exists (select from outings where post_id = posts.id and ` + WentOut + `)`
	if err := q.run.One(ctx, &n, `select count(*)`+never, siteID); err != nil {
		return nil, 0, err
	}
	rows = []ResultsRow{}
	err = q.run.All(ctx, &rows, `select id, '' as of, 0 as n, title as name, 0::float8 as outings, 0::float8 as clicks, 0::float8 as squares`+never+
		` order by published_at desc, id desc limit $2`, siteID, limit)
	return rows, n, err
}
