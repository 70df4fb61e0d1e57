package rules

import (
	"context"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/jmoiron/sqlx"

	"dapper.example/internal/core/civil"
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
const digests = `count(*) as n, coalesce(bit_xor(hashint8extended(id, 17)), 0) as one, coalesce(bit_xor(hashint8extended(id, 71)), 0) as other` // see hashOf

// sums are of the posts of a set.
type sums struct {
	N          int
	One, Other int64
}

func (s sums) digest() string { return fmt.Sprintf("%d:%x:%x", s.N, uint64(s.One), uint64(s.Other)) }

func (s *sums) add(more sums) {
	s.N, s.One, s.Other = s.N+more.N, s.One^more.One, s.Other^more.Other
}

// Sift counts the posts that a sieve catches and returns some of them: those that came out first, from the offset on. PostgreSQL
// decides what it can of the conditions, so that not all posts of a site need be read; core decides the rest. Of large sites core
// decides about their Columns.
func (q Queries) Sift(ctx context.Context, siteID int64, s Sieve, offset, limit int) (Sifted, error) {
	if s.Only == nil {
		if c, err := q.columns(ctx, siteID); err != nil {
			return Sifted{}, err
		} else if c != nil {
			return q.siftColumns(ctx, siteID, c, s, offset, limit)
		}
		q.laid.want(siteID)
	}
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
	scope := site
	if s.Only != nil {
		scope += " and posts.id = any(" + b.arg(slices.Sorted(maps.Keys(s.Only))) + ")"
	}
	if len(s.Without) > 0 {
		scope += " and posts.id <> all(" + b.arg(slices.Sorted(maps.Keys(s.Without))) + ")"
	}
	gate, rest := c.split()
	plain := " from posts where " + scope + gate // the gate needs none of the joins
	from := " from posts" + strings.Join(b.joins, "") + " where " + scope + gate
	sum, doubtful, err := q.weigh(ctx, b.statement, from, rest)
	if err != nil {
		return Sifted{}, err
	}
	more, err := q.decide(ctx, siteID, s, doubtful)
	if err != nil {
		return Sifted{}, err
	}
	if len(more) > 0 {
		var rest sums
		if err := q.run.One(ctx, &rest, `select `+digests+` from unnest($1::bigint[]) id`, more); err != nil {
			return Sifted{}, err
		}
		sum.add(rest)
	}
	found := Sifted{Count: sum.N, Digest: sum.digest(), Posts: []int64{}}
	if limit == 0 || offset >= sum.N {
		return found, nil
	}
	order := " order by published_at" + nullsFirst(gate) + ", posts.id"
	if found.Posts, err = q.walk(ctx, siteID, s, b.statement, plain+order, offset, limit); err != nil || len(found.Posts) > 0 {
		return found, err
	}
	in := rest.sure
	if len(more) > 0 {
		in = "(" + in + " or posts.id = any(" + b.arg(more) + "))"
	}
	query, args := b.statement(fmt.Sprintf(`select posts.id%s and %s%s offset %d limit %d`, from, in, order, offset, limit))
	err = q.run.All(ctx, &found.Posts, query, args...)
	return found, err
}

// walked is how many posts are looked at one by one for a page of what is caught.
const walked = 500

// walk looks for a page among the first posts that the gate lets in, which is enough where most are caught. It returns nothing where
// it is not.
func (q Queries) walk(ctx context.Context, siteID int64, s Sieve, statement func(string) (string, []any), from string, offset, limit int) ([]int64, error) {
	query, args := statement(fmt.Sprintf(`select posts.id%s limit %d`, from, walked+1))
	var first []int64
	if err := q.run.All(ctx, &first, query, args...); err != nil {
		return nil, err
	}
	isAll := len(first) <= walked
	first = first[:min(len(first), walked)]
	found, err := q.decide(ctx, siteID, s, first)
	if err != nil {
		return nil, err
	}
	caught := make(map[int64]bool, len(found))
	for _, id := range found {
		caught[id] = true
	}
	page := slices.DeleteFunc(first, func(id int64) bool { return !caught[id] })
	if page = page[min(offset, len(page)):]; len(page) < limit && !isAll {
		return nil, nil
	}
	return page[:min(limit, len(page))], nil
}

// onlyOut is the claim that a post is out, as the index of those has it.
const onlyOut = "status = 'published'"

// nullsFirst puts what never came out first, where the gate lets it in.
func nullsFirst(gate string) string {
	if strings.Contains(gate, " and "+onlyOut) {
		return "" // what is out has a date, and the index need not be told
	}
	return " nulls first"
}

// weigh adds up the posts of a reading that a claim surely catches, and returns those of which that is not sure.
func (q Queries) weigh(ctx context.Context, statement func(string) (string, []any), from string, rest claim) (sure sums, doubtful []int64, err error) {
	weighed := "true"
	if rest.isExact() {
		from += " and " + rest.sure
	} else {
		weighed = "case when " + rest.sure + " then true when " + rest.maybe + " then false end"
	}
	// Of what is not sure each post is a group of its own.
	query, args := statement(`select sure, who, ` + digests + ` from (select posts.id, ` + weighed + ` as sure` + from + `) weighed cross join lateral (select case when not sure then id end as who) one group by sure, who`)
	err = q.run.Each(ctx, func(rows *sqlx.Rows) error {
		var isSure *bool
		var who *int64
		var s sums
		if err := rows.Scan(&isSure, &who, &s.N, &s.One, &s.Other); err != nil {
			return err
		}
		switch {
		case isSure == nil:
		case *isSure:
			sure = s
		default:
			doubtful = append(doubtful, *who)
		}
		return nil
	}, query, args...)
	if err != nil {
		err = fmt.Errorf("sifting posts: %w", err)
	}
	return sure, doubtful, err
}

// decide has core decide about posts, some thousands at a time, and returns which of them are caught.
func (q Queries) decide(ctx context.Context, siteID int64, s Sieve, ids []int64) (caught []int64, err error) {
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
const someDate = `^` + onCalendar +
	`([ T]([01][0-9]|2[0-3]):[0-5][0-9]|T([01][0-9]|2[0-3]):[0-5][0-9]:[0-5][0-9]Z)?$`

// Undated returns posts, of those that a filter lets in, of which a custom field holds something that may be no date: the first so many.
func (q Queries) Undated(ctx context.Context, siteID int64, f FactsFilter, fields []string, zone civil.Zone, limit int) ([]int64, error) {
	if f.mayUse() && !f.OwnExpiry {
		if c, err := q.columns(ctx, siteID); err != nil {
			return nil, err
		} else if c != nil {
			return undatedOf(c, f, fields, zone, limit), nil
		}
	}
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

// undatedOf is Undated from columns.
func undatedOf(c *condition.Columns, f FactsFilter, fields []string, zone civil.Zone, limit int) []int64 {
	ids := []int64{}
	c.Undated(fields, zone, func(p *condition.Facts) bool {
		if f.lets(p) {
			ids = append(ids, p.Post)
		}
		return len(ids) < limit
	})
	return ids
}
