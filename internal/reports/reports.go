// Package reports tells what was brought by what a blog shared in a period: it reads the sums from the store and has core say what they mean.
// The screen, the tables and the monthly mail show the same report. It has no clock.
package reports

import (
	"cmp"
	"context"
	"fmt"
	"maps"
	"math"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/results"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// Asked is what a report is to tell of.
type Asked struct {
	By          store.ResultsBy
	From, Until civil.Date // dates of the site, both counted
	Channel     int64      // 0: all
	Zone        civil.Zone // whose hours of the week are told
	Most        int        // how many rows are told of
}

// Days is how many days the period has.
func (a Asked) Days() int { return a.Until.Sub(a.From) + 1 }

// mostDays is the longest period that is told of.
const mostDays = 1461

// Month is the period of a month, given as 2026-11, within the years that plans may lie in.
func Month(text string) (from, until civil.Date, err error) {
	from, err = civil.ParseDate(text + "-01")
	if year, _, _ := from.Parts(); err != nil || year < civil.FirstYear || year > civil.LastYear {
		return from, until, act.Invalidf("month", "There is no month %q to tell of. Write it as 2026-11.", text)
	}
	return from, from.AddMonths(1).Add(-1), nil
}

// Rate is a tally with what is held of its clicks an outing.
type Rate struct {
	results.Tally
	Median, Low, High float64
}

// Row is what some outings brought, and what those of the period before did.
type Row struct {
	store.ResultsRow
	Now, Before Rate
	Worn, Worth bool // of a post: it surely brings less, or more, than the blog's usual
}

// Category is what is left of the clicks when posts of a category are shared again.
type Category struct {
	Name string
	Wear []results.Wear
}

// Day is what a day brought.
type Day struct {
	Date            civil.Date
	Outings, Clicks int
}

// Report tells what was brought by what was shared.
type Report struct {
	Asked
	Total, Before Rate  // of the period, and of as many days before it
	Rows          []Row // the most clicks first
	All           int   // how many rows there are
	Sentence      string
	Hours         [7][24]results.Hour
	Best          []results.Best
	Days          []Day // with those of which there is nothing to tell
	Wear          []Category
	Never         []store.ResultsRow // posts that are out and were never shared, the latest first
	Nevers        int                // how many those are
}

// mostNever is how many posts that were never shared are named.
const mostNever = 20

// Read makes a report on a site.
func Read(ctx context.Context, q store.Queries, site store.Site, a Asked) (Report, error) {
	r := Report{Asked: a}
	if a.Until.Before(a.From) || a.Days() > mostDays {
		return r, act.Invalidf("until", "A period has 1 to %d days.", mostDays)
	}
	now := store.ResultsFilter{From: site.Zone().At(a.From, 0), To: site.Zone().At(a.Until.Add(1), 0), Channel: a.Channel}
	before := store.ResultsFilter{From: site.Zone().At(a.From.Add(-a.Days()), 0), To: now.From, Channel: a.Channel}
	var (
		pairs      []store.PairRow
		rows, past []store.ResultsRow
		hours      []store.HourRow // by the site's clocks
		theirs     []store.HourRow // by those of another zone, where that is asked for
		clicks     map[civil.Date]int
	)
	elsewhere := a.Zone.String() != site.Zone().String()
	readings := []func(context.Context) error{
		func(ctx context.Context) (err error) {
			pairs, err = q.ResultPairs(ctx, site.ID, now, before.From)
			return err
		},
		func(ctx context.Context) (err error) {
			hours, err = q.ResultsByHour(ctx, site.ID, now, site.Zone())
			return err
		},
		func(ctx context.Context) (err error) {
			clicks, err = q.ClicksByDay(ctx, site.ID, a.From, a.Until, a.Channel)
			return err
		},
		func(ctx context.Context) (err error) {
			r.Never, r.Nevers, err = q.NeverShared(ctx, site.ID, mostNever)
			return err
		},
	}
	if a.By != store.ResultsByPost {
		readings = append(readings, func(ctx context.Context) (err error) {
			rows, err = q.Results(ctx, site.ID, now, a.By)
			return err
		}, func(ctx context.Context) (err error) {
			past, err = q.Results(ctx, site.ID, before, a.By)
			return err
		})
	}
	if elsewhere {
		readings = append(readings, func(ctx context.Context) (err error) {
			theirs, err = q.ResultsByHour(ctx, site.ID, now, a.Zone)
			return err
		})
	}
	if err := q.Together(ctx, readings...); err != nil {
		return r, err
	}
	summed, err := sum(pairs)
	if err != nil {
		return r, err
	}
	if a.By == store.ResultsByPost {
		rows, past = summed.rows, summed.past
	}
	prior := results.PriorOf(summed.groups)
	r.Total, r.Before, r.All = rateOf(prior, summed.now), rateOf(prior, summed.before), len(rows)
	r.Rows = rowsOf(prior, a.By, rows[:min(len(rows), a.Most)], past, prior.After(summed.now))
	if a.By == store.ResultsByWording {
		r.Sentence = sentence(prior, rows)
	}
	var week results.Week
	outings := make(map[civil.Date]int)
	for _, h := range hours {
		outings[dateOf(h.Hour)] += int(h.Outings)
		week.Add(h.Hour, h.Tally())
	}
	if elsewhere {
		week = results.Week{}
		for _, h := range theirs {
			week.Add(h.Hour, h.Tally())
		}
	}
	r.Hours, r.Best, r.Wear = prior.Smooth(week), prior.BestHours(week), wearOf(prior, summed.nth)
	for date := a.From; !date.After(a.Until); date = date.Add(1) {
		r.Days = append(r.Days, Day{date, outings[date], clicks[date]})
	}
	return r, nil
}

// sums are what pairs of posts and channels add up to.
type sums struct {
	now, before results.Tally
	groups      []results.Tally                           // outings that are alike
	rows, past  []store.ResultsRow                        // by post, the most clicks first; and of the period before
	nth         map[string][store.MostAgain]results.Tally // by category
}

func sum(pairs []store.PairRow) (s sums, err error) {
	s.nth = make(map[string][store.MostAgain]results.Tally)
	now, before := make(map[int64]store.ResultsRow), make(map[int64]store.ResultsRow)
	for _, p := range pairs {
		s.groups = append(s.groups, p.Tally())
		s.now, s.before = s.now.Plus(p.Now()), s.before.Plus(p.Before())
		if p.Post == 0 {
			continue
		}
		addRow(now, p, p.Now())
		addRow(before, p, p.Before())
		first, err := p.First()
		if err != nil {
			return s, err
		}
		nth := s.nth[p.Category]
		for i, clicks := range first {
			nth[i] = nth[i].Plus(results.Of(clicks))
		}
		s.nth[p.Category] = nth
	}
	s.rows = slices.SortedFunc(maps.Values(now), func(a, b store.ResultsRow) int {
		return cmp.Or(cmp.Compare(b.Clicks, a.Clicks), cmp.Compare(b.Outings, a.Outings), cmp.Compare(a.ID, b.ID))
	})
	s.past = slices.Collect(maps.Values(before))
	return s, nil
}

// addRow adds to the row of a post, where there is anything to add.
func addRow(rows map[int64]store.ResultsRow, p store.PairRow, t results.Tally) {
	if t.Outings == 0 {
		return
	}
	whole := rows[p.Post].Tally().Plus(t)
	rows[p.Post] = store.ResultsRow{ID: p.Post, Name: p.Title, Outings: whole.Outings, Clicks: whole.Clicks, Squares: whole.Squares}
}

// dateOf is the date of an hour that is counted from the beginning of 1970.
func dateOf(hour int) civil.Date {
	return civil.NewDate(1970, time.January, 1).Add(int(math.Floor(float64(hour) / 24)))
}

func rateOf(p results.Prior, t results.Tally) Rate {
	held := p.After(t)
	low, high := held.Interval()
	return Rate{t, held.Median(), low, high}
}

// key is what a row of this period and one of the period before are known by.
func key(r store.ResultsRow) string { return fmt.Sprintf("%s:%d:%d:%s", r.Of, r.ID, r.N, r.Name) }

func rowsOf(prior results.Prior, by store.ResultsBy, now, before []store.ResultsRow, usual results.Rate) []Row {
	past := make(map[string]results.Tally)
	for _, row := range before {
		past[key(row)] = row.Tally()
	}
	rows := []Row{}
	for _, row := range now {
		one := Row{ResultsRow: row, Now: rateOf(prior, row.Tally()), Before: rateOf(prior, past[key(row)])}
		if by == store.ResultsByPost {
			exceeds := prior.After(row.Tally()).Exceeds(usual)
			one.Worth, one.Worn = exceeds > results.Sure, exceeds < 1-results.Sure
		}
		rows = append(rows, one)
	}
	return rows
}

// sentence compares the wordings of the rule or tour that has the most outings with several of them.
func sentence(prior results.Prior, rows []store.ResultsRow) string {
	of := make(map[string][]store.ResultsRow)
	most, best := 0.0, ""
	for _, row := range rows {
		whose := fmt.Sprintf("%s:%d", row.Of, row.ID)
		of[whose] = append(of[whose], row)
		sum := 0.0
		for _, one := range of[whose] {
			sum += one.Outings
		}
		if len(of[whose]) > 1 && sum > most {
			most, best = sum, whose
		}
	}
	if best == "" {
		return ""
	}
	var tallies []results.Tally
	for _, row := range of[best] {
		tallies = append(tallies, row.Tally())
	}
	said := prior.Compare(tallies).Sentence(func(i int) string { return fmt.Sprintf("wording %d", of[best][i].N) })
	return fmt.Sprintf("Of “%s”, with %s: %s", of[best][0].Name, words.Count(int(most), "outing"), said)
}

func wearOf(prior results.Prior, nth map[string][store.MostAgain]results.Tally) []Category {
	all := []Category{}
	for _, name := range slices.Sorted(maps.Keys(nth)) {
		tallies := nth[name]
		if wear := prior.WearOf(tallies[:]); len(wear) > 0 {
			all = append(all, Category{name, wear})
		}
	}
	return all
}
