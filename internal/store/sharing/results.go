package sharing

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/core/civil"
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
	ResultsByLine    ResultsBy = "line" // of a tour
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
	added = `count(*)::float8 as outings, coalesce(sum(clicks), 0)::float8 as clicks, coalesce(sum(clicks::float8 * clicks), 0) as squares`
	// counted is the outings that can have had clicks. What it names, and what rows are made by, stands in the index outings_for_results.
	counted = ` where outings.site_id = $1 and state = 'sent' and parent_id is null and at >= $2 and at < $3 and ($4::bigint = 0 or channel_id = $4)`
)

// rowsBy is what rows are made by: what they are known and called by, with the tables for that.
var rowsBy = map[ResultsBy]struct{ columns, joins, where string }{
	ResultsByChannel: {`channel_id as id, '' as of, 0 as n, channels.name as name`, ` join channels on channels.id = channel_id`, ``},
	ResultsByRule:    {`rule_id as id, 'rule' as of, 0 as n, rules.name as name`, ` join rules on rules.id = rule_id`, ``},
	ResultsByTour:    {`tour_id as id, 'tour' as of, 0 as n, tours.name as name`, ` join tours on tours.id = tour_id`, ``},
	ResultsByWording: {`coalesce(rule_id, tour_id) as id, case when rule_id is null then 'tour' else 'rule' end as of, wording as n, coalesce(rules.name, tours.name) as name`,
		` left join rules on rules.id = rule_id left join tours on tours.id = tour_id`, ` and wording > 0 and (rule_id is not null or tour_id is not null)`},
	ResultsByOrigin: {`0::bigint as id, '' as of, 0 as n, origin as name`, ``, ``},
	ResultsByLine:   {`tour_id as id, 'tour' as of, 0 as n, extras->>'line' as name`, ``, ` and tour_id is not null and extras->>'line' <> ''`},
}

// Results adds up what outings brought, the most clicks first. By post, ResultPairs does.
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

// PairRow is what the outings of one post on one channel brought.
type PairRow struct {
	Post     int64  `db:"post"` // 0: of no post
	Title    string `db:"title"`
	Category string `db:"category"` // "" where it has none
	ResultsRow
	NowOutings    float64 `db:"now_outings"`
	NowClicks     float64 `db:"now_clicks"`
	NowSquares    float64 `db:"now_squares"`
	BeforeOutings float64 `db:"before_outings"`
	BeforeClicks  float64 `db:"before_clicks"`
	BeforeSquares float64 `db:"before_squares"`
	Firsts        string  `db:"firsts"`
}

// Now is what those of the period brought, Before those of the period before it.
func (r PairRow) Now() results.Tally {
	return results.Tally{Outings: r.NowOutings, Clicks: r.NowClicks, Squares: r.NowSquares}
}

// Before is what the outings of the period before brought.
func (r PairRow) Before() results.Tally {
	return results.Tally{Outings: r.BeforeOutings, Clicks: r.BeforeClicks, Squares: r.BeforeSquares}
}

// MostAgain is up to which outing of a post on a channel wear is looked at.
const MostAgain = 8

// First are the clicks of the first outings, up to MostAgain of them, in order.
func (r PairRow) First() (clicks []int, err error) {
	for text := range strings.SplitSeq(r.Firsts, ",") {
		n, err := strconv.Atoi(text)
		if err != nil {
			return nil, fmt.Errorf("reading clicks of outings: %w", err)
		}
		clicks = append(clicks, n)
	}
	return clicks, nil
}

// ResultPairs adds up outings by post and channel: all of them up to the end of a period, those of the period, and those of the period before it, which
// begins where before does. It reads the outings once, in the order of an index.
func (q Queries) ResultPairs(ctx context.Context, siteID int64, f ResultsFilter, before time.Time) (rows []PairRow, err error) {
	within := func(name, period string) string {
		when := ` filter (where ` + period + `)`
		return `, (count(*)` + when + `)::float8 as ` + name + `_outings, coalesce(sum(clicks)` + when + `, 0)::float8 as ` + name + `_clicks, coalesce(sum(clicks::float8 * clicks)` + when + `, 0) as ` + name + `_squares`
	}
	err = q.run.All(ctx, &rows, `
		select coalesce(post_id, 0) as post, coalesce(title, '') as title, coalesce(categories.name, '') as category, outings, clicks, squares,
			now_outings, now_clicks, now_squares, before_outings, before_clicks, before_squares, firsts
		from (select post_id, channel_id, `+added+within("now", `at >= $2`)+within("before", `at >= $5 and at < $2`)+`,
				array_to_string((array_agg(clicks order by at, id))[1:$6], ',') as firsts
			from outings where site_id = $1 and state = 'sent' and parent_id is null and at < $3 and ($4::bigint = 0 or channel_id = $4) group by post_id, channel_id) pairs
			left join posts on posts.id = post_id left join categories on categories.id = category_id
		order by post_id, channel_id`, siteID, f.From, f.To, f.Channel, before, MostAgain)
	return rows, err
}

// HourRow is what the outings of one hour brought.
type HourRow struct {
	Hour int `db:"hour"` // since the beginning of 1970, as clocks of a zone show it
	ResultsRow
}

// ResultsByHour adds up outings by the hour that the clocks of a zone showed, in order.
func (q Queries) ResultsByHour(ctx context.Context, siteID int64, f ResultsFilter, zone civil.Zone) (rows []HourRow, err error) {
	// How far clocks are ahead of UTC's is the same for all outings between two changes, so it is looked up but once for each.
	changes := zone.Changes(f.From, f.To)
	ahead := []float64{zone.Offset(f.From).Seconds()}
	for _, change := range changes {
		ahead = append(ahead, zone.Offset(change).Seconds())
	}
	err = q.run.All(ctx, &rows, `
		select floor((date_part('epoch', at) + ($6::float8[])[width_bucket(at, $5::timestamptz[]) + 1]) / 3600)::int as hour, `+added+
		` from outings`+counted+` group by 1 order by 1`, siteID, f.From, f.To, f.Channel, changes, ahead)
	return rows, err
}

// ClicksByDay counts the clicks of the dates from one to another on messages, whenever they went out, on one channel or on all (0).
func (q Queries) ClicksByDay(ctx context.Context, siteID int64, from, until civil.Date, channel int64) (map[civil.Date]int, error) {
	var rows []struct {
		Date string `db:"date"`
		N    int    `db:"n"`
	}
	err := q.run.All(ctx, &rows, `
		select date::text, sum(n) as n from click_days
		where site_id = $1 and date >= $2::date and date <= $3::date and ($4::bigint = 0 or channel_id = $4) and n > 0 group by click_days.date`,
		siteID, from.String(), until.String(), channel)
	days := make(map[civil.Date]int, len(rows))
	for _, r := range rows {
		date, problem := civil.ParseDate(r.Date)
		if problem != nil {
			return nil, problem
		}
		days[date] = r.N
	}
	return days, err
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
