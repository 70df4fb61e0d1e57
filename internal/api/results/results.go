// Package results has the operation that tells what was brought by what was shared.
package results

import (
	"context"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/results"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

type part struct{ *operation.Tools }

// Register adds the operation.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	huma.Register(api, huma.Operation{OperationID: "get-results", Method: http.MethodGet, Path: "/api/v1/sites/{site}/results",
		Summary:     "What was brought by what was shared",
		Description: "Clicks of bots are not counted. Rates are medians with the interval that holds them with a probability of 90 %."}, s.get)
}

// mostRows is how many rows are shown.
const mostRows = 200

// mostNever is how many posts that were never shared are shown.
const mostNever = 20

type resultsInput struct {
	operation.SitePath
	By        string `query:"by" enum:"post,channel,rule,tour,wording,origin" default:"post"`
	Days      int    `query:"days" minimum:"1" maximum:"1461" default:"90" doc:"the last so many, today among them"`
	ChannelID int64  `query:"channelId" minimum:"0" doc:"0: all channels"`
	Zone      string `query:"zone" maxLength:"100" doc:"whose hours of the week are told; the site's where it is not said"`
}

// ResultsTally is what some outings brought.
type ResultsTally struct {
	Outings int     `json:"outings"`
	Clicks  int     `json:"clicks"`
	Rate    float64 `json:"rate" doc:"clicks an outing: the median"`
	Low     float64 `json:"low"`
	High    float64 `json:"high"`
}

// ResultsRow is what some outings brought, and what those of the period before did.
type ResultsRow struct {
	ID     int64        `json:"id"`
	Of     string       `json:"of" doc:"of wordings: rule or tour"`
	N      int          `json:"n" doc:"the number of a wording"`
	Name   string       `json:"name"`
	Now    ResultsTally `json:"now"`
	Before ResultsTally `json:"before"`
	Worn   bool         `json:"worn" doc:"of a post: it surely brings less than the blog’s usual"`
	Worth  bool         `json:"worth" doc:"of a post: it surely brings more than the blog’s usual"`
}

// ResultsHour is an hour of the week, smoothed over its neighbours.
type ResultsHour struct {
	Rate    float64 `json:"rate"`
	Low     float64 `json:"low"`
	High    float64 `json:"high"`
	Outings int     `json:"outings" doc:"of that hour alone"`
	Thin    bool    `json:"thin" doc:"so few are known that it says little"`
}

// ResultsWear is what is left when posts of a category are shared again.
type ResultsWear struct {
	Nth     int     `json:"nth"`
	Times   float64 `json:"times" doc:"how many times the clicks of a first outing"`
	Low     float64 `json:"low"`
	High    float64 `json:"high"`
	Outings int     `json:"outings"`
}

// ResultsCategory is a category's wear.
type ResultsCategory struct {
	Name string        `json:"name"`
	Wear []ResultsWear `json:"wear"`
}

// Never is a post that was never shared.
type Never struct {
	ID    int64  `json:"id"`
	Title string `json:"title"`
}

// Results tell what was brought by what was shared in a period.
type Results struct {
	From     civil.Date        `json:"from"`
	Until    civil.Date        `json:"until"`
	Zone     string            `json:"zone" doc:"whose hours of the week are told"`
	Total    ResultsTally      `json:"total"`
	Before   ResultsTally      `json:"before" doc:"of the period before"`
	Rows     []ResultsRow      `json:"rows" doc:"the most clicks first"`
	More     int               `json:"more" doc:"rows that are not shown"`
	Sentence string            `json:"sentence" doc:"of wordings: which does better, if that can be told"`
	Hours    [][]ResultsHour   `json:"hours" doc:"seven days from Monday, of 24 hours each"`
	Wear     []ResultsCategory `json:"wear"`
	Never    []Never           `json:"never" doc:"posts that are out and were never shared"`
	Nevers   int               `json:"nevers" doc:"how many those are"`
}

func (s part) get(ctx context.Context, in *resultsInput) (*struct{ Body Results }, error) {
	site := operation.DeskOf(ctx).Site
	zone := site.Zone()
	if in.Zone != "" {
		var err error
		if zone, err = civil.LoadZone(in.Zone); err != nil {
			return nil, s.Problem(act.Invalidf("zone", "There is no zone %q.", in.Zone))
		}
	}
	today := site.Zone().DateOf(s.Clock.Now())
	view := Results{From: today.Add(1 - in.Days), Until: today, Zone: zone.String()}
	now := store.ResultsFilter{From: site.Zone().At(view.From, 0), To: site.Zone().At(today.Add(1), 0), Channel: in.ChannelID}
	before := store.ResultsFilter{From: site.Zone().At(view.From.Add(-in.Days), 0), To: now.From, Channel: in.ChannelID}
	all := store.ResultsFilter{To: now.To, Channel: in.ChannelID} // since the beginning
	r := reading{view: &view, by: store.ResultsBy(in.By)}
	err := s.Store.Together(ctx,
		func(ctx context.Context) (err error) {
			r.groups, err = s.Store.ResultGroups(ctx, site.ID, all)
			return err
		},
		func(ctx context.Context) (err error) {
			r.rows, err = s.Store.Results(ctx, site.ID, now, r.by)
			return err
		},
		func(ctx context.Context) (err error) {
			r.past, err = s.Store.Results(ctx, site.ID, before, r.by)
			return err
		},
		func(ctx context.Context) (err error) {
			r.all, err = s.Store.Results(ctx, site.ID, now, store.ResultsByOrigin)
			return err
		},
		func(ctx context.Context) (err error) {
			r.allPast, err = s.Store.Results(ctx, site.ID, before, store.ResultsByOrigin)
			return err
		},
		func(ctx context.Context) (err error) {
			r.week, err = s.Store.ResultsOfWeek(ctx, site.ID, now, zone.String())
			return err
		},
		func(ctx context.Context) (err error) {
			r.nth, err = s.Store.ResultsByNth(ctx, site.ID, all)
			return err
		},
		func(ctx context.Context) (err error) {
			r.never, view.Nevers, err = s.Store.NeverShared(ctx, site.ID, mostNever)
			return err
		})
	if err != nil {
		return nil, s.Problem(err)
	}
	r.show()
	return &struct{ Body Results }{view}, nil
}

// reading is what was read for results.
type reading struct {
	view       *Results
	by         store.ResultsBy
	groups     []results.Tally
	rows, past []store.ResultsRow
	all        []store.ResultsRow // by origin: the outings of the period
	allPast    []store.ResultsRow // and of the one before
	week       results.Week
	nth        []store.WearRow
	never      []store.ResultsRow
}

func tally(p results.Prior, t results.Tally) ResultsTally {
	r := p.After(t)
	low, high := r.Interval()
	return ResultsTally{Outings: int(t.Outings), Clicks: int(t.Clicks), Rate: r.Median(), Low: low, High: high}
}

// key is what a row of this period and one of the period before are known by.
func key(r store.ResultsRow) string { return fmt.Sprintf("%s:%d:%d:%s", r.Of, r.ID, r.N, r.Name) }

func (r *reading) show() {
	prior, v := results.PriorOf(r.groups), r.view
	past := make(map[string]results.Tally)
	var total, before results.Tally
	for _, row := range r.past {
		past[key(row)] = row.Tally()
	}
	for _, row := range r.all {
		total = total.Plus(row.Tally())
	}
	for _, row := range r.allPast {
		before = before.Plus(row.Tally())
	}
	v.Total, v.Before, v.Rows = tally(prior, total), tally(prior, before), []ResultsRow{}
	usual := prior.After(total)
	for i, row := range r.rows {
		if i == mostRows {
			v.More = len(r.rows) - mostRows
			break
		}
		one := ResultsRow{ID: row.ID, Of: row.Of, N: row.N, Name: row.Name, Now: tally(prior, row.Tally()), Before: tally(prior, past[key(row)])}
		if r.by == store.ResultsByPost {
			exceeds := prior.After(row.Tally()).Exceeds(usual)
			one.Worth, one.Worn = exceeds > results.Sure, exceeds < 1-results.Sure
		}
		v.Rows = append(v.Rows, one)
	}
	if r.by == store.ResultsByWording {
		v.Sentence = sentence(prior, r.rows)
	}
	for _, day := range prior.Smooth(r.week) {
		hours := []ResultsHour{}
		for _, h := range day {
			hours = append(hours, ResultsHour{h.Median, h.Low, h.High, h.Outings, h.Thin})
		}
		v.Hours = append(v.Hours, hours)
	}
	v.Wear, v.Never = wearOf(prior, r.nth), []Never{}
	for _, p := range r.never {
		v.Never = append(v.Never, Never{p.ID, p.Name})
	}
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

func wearOf(prior results.Prior, rows []store.WearRow) []ResultsCategory {
	all := []ResultsCategory{}
	byNth := make(map[string][]results.Tally)
	var order []string
	for _, row := range rows {
		if byNth[row.Category] == nil {
			byNth[row.Category] = make([]results.Tally, store.MostAgain)
			order = append(order, row.Category)
		}
		byNth[row.Category][row.Nth-1] = row.Tally()
	}
	for _, name := range order {
		one := ResultsCategory{Name: name, Wear: []ResultsWear{}}
		for _, w := range prior.WearOf(byNth[name]) {
			one.Wear = append(one.Wear, ResultsWear{w.Nth, w.Times, w.Low, w.High, w.Outings})
		}
		if len(one.Wear) > 0 {
			all = append(all, one)
		}
	}
	return all
}
