package rules

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"

	"dapper.example/internal/core/condition"
)

// Sieve is a question for posts: those for which at least one of the conditions holds, of those that were chosen.
type Sieve struct {
	Conditions []condition.Moment
	Only       map[int64]bool // nil: all
	Without    map[int64]bool
}

func (s Sieve) asks(t condition.Test) bool {
	return slices.ContainsFunc(s.Conditions, func(k condition.Moment) bool { return k.Asks(t) })
}

// Sifted is what a sieve caught.
type Sifted struct {
	Count  int
	Digest string // of which posts those are
	Posts  []int64
}

// digests distinguish one set of posts from others, in whatever order it is added up.
const digests = `coalesce(bit_xor(hashint8extended(id, 17)), 0) as one, coalesce(bit_xor(hashint8extended(id, 71)), 0) as other`

// sums are of the posts of a set.
type sums struct {
	Sure       bool
	N          int
	One, Other int64
}

// Sift counts the posts that a sieve catches and returns some of them: those that came out first, from the offset on. PostgreSQL
// decides what it can of the conditions, so that not all posts of a site need be read; core decides the rest.
func (q Queries) Sift(ctx context.Context, siteID int64, s Sieve, offset, limit int) (Sifted, error) {
	b := claims{q: q, site: siteID}
	if err := q.run.Each(ctx, func(rows *sqlx.Rows) error { return rows.Scan(&b.takes, &b.days) },
		`select comments_open, comments_days from sites where id = $1`, siteID); err != nil {
		return Sifted{}, err
	}
	site := "posts.site_id = " + b.arg(siteID)
	var alternatives []claim
	for _, k := range s.Conditions {
		c, err := b.of(ctx, k)
		if err != nil {
			return Sifted{}, err
		}
		alternatives = append(alternatives, c)
	}
	c := anyOf(alternatives)
	var scope strings.Builder
	scope.WriteString(site)
	if s.Only != nil {
		scope.WriteString(" and posts.id = any(" + b.arg(slices.Sorted(maps.Keys(s.Only))) + ")")
	}
	if len(s.Without) > 0 {
		scope.WriteString(" and posts.id <> all(" + b.arg(slices.Sorted(maps.Keys(s.Without))) + ")")
	}
	from := " from posts" + strings.Join(b.joins, "") + " where " + scope.String()
	var parts []sums
	query, args := b.statement(`select sure, count(*) as n, ` + digests + ` from (select posts.id, ` + c.sure + ` as sure` + from + ` and ` + c.maybe + `) sifted group by sure`)
	if err := q.run.All(ctx, &parts, query, args...); err != nil {
		return Sifted{}, fmt.Errorf("sifting posts: %w", err)
	}
	var sum sums
	more := []int64{}
	for _, p := range parts {
		if p.Sure {
			sum = p
			continue
		}
		query, args := b.statement(`select posts.id` + from + ` and ` + c.maybe + ` and not (` + c.sure + `)`)
		var err error
		if more, err = q.decide(ctx, siteID, s, query, args); err != nil {
			return Sifted{}, err
		}
	}
	if len(more) > 0 {
		var rest sums
		if err := q.run.One(ctx, &rest, `select count(*) as n, `+digests+` from unnest($1::bigint[]) id`, more); err != nil {
			return Sifted{}, err
		}
		sum.N, sum.One, sum.Other = sum.N+rest.N, sum.One^rest.One, sum.Other^rest.Other
	}
	found := Sifted{Count: sum.N, Digest: fmt.Sprintf("%d:%x:%x", sum.N, uint64(sum.One), uint64(sum.Other)), Posts: []int64{}}
	if limit == 0 || offset >= sum.N {
		return found, nil
	}
	in := c.sure
	if len(more) > 0 {
		in = "(" + c.sure + " or posts.id = any(" + b.arg(more) + "))"
	}
	query, args = b.statement(fmt.Sprintf(`select posts.id%s and %s order by published_at nulls first, posts.id offset %d limit %d`,
		from, in, offset, limit))
	err := q.run.All(ctx, &found.Posts, query, args...)
	return found, err
}

// decide has core decide about the posts of a query, some thousands at a time, and returns which of them are caught.
func (q Queries) decide(ctx context.Context, siteID int64, s Sieve, query string, args []any) (caught []int64, err error) {
	var ids []int64
	if err := q.run.All(ctx, &ids, query, args...); err != nil {
		return nil, fmt.Errorf("sifting posts: %w", err)
	}
	filter := FactsFilter{WithText: s.asks(condition.Text), WithClicks: s.asks(condition.Clicks)}
	for some := range slices.Chunk(ids, factsPage) {
		filter.IDs = some
		facts, err := q.Facts(ctx, siteID, filter)
		if err != nil {
			return nil, err
		}
		for _, f := range facts {
			if slices.ContainsFunc(s.Conditions, func(k condition.Moment) bool { return k.Catches(f) }) {
				caught = append(caught, f.Post)
			}
		}
	}
	return caught, nil
}

// someDate is a text that everybody takes for a date, perhaps with a time of day.
const someDate = `^[12][0-9]{3}-((0[1-9]|1[0-2])-(0[1-9]|1[0-9]|2[0-8])|(0[13-9]|1[0-2])-(29|30)|(0[13578]|1[02])-31)` +
	`([ T]([01][0-9]|2[0-3]):[0-5][0-9]|T([01][0-9]|2[0-3]):[0-5][0-9]:[0-5][0-9]Z)?$`

// Undated returns posts, of those that a filter lets in, of which a custom field holds something that may be no date: the first so many.
func (q Queries) Undated(ctx context.Context, siteID int64, f FactsFilter, fields []string, limit int) ([]int64, error) {
	where, args := f.where(3)
	args = append([]any{siteID, limit}, args...)
	var odd []string
	for _, name := range fields {
		args = append(args, name)
		value := fmt.Sprintf(`btrim(coalesce(fields->>$%d, ''))`, len(args))
		odd = append(odd, fmt.Sprintf(`%s <> '' and %s !~ '%s'`, value, value, someDate))
	}
	ids := []int64{}
	err := q.run.All(ctx, &ids, `select posts.id from posts join users on users.id = author_id left join categories on categories.id = category_id
		where posts.site_id = $1`+where+` and (`+strings.Join(odd, " or ")+`) order by posts.id limit $2`, args...)
	return ids, err
}
