// Package results has the operations that tell what was brought by what was shared.
package results

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/formats"
	"dapper.example/internal/reports"
	"dapper.example/internal/store"
	"dapper.example/internal/takeout"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	huma.Register(api, huma.Operation{OperationID: "get-results", Method: http.MethodGet, Path: "/api/v1/sites/{site}/results",
		Summary:     "What was brought by what was shared",
		Description: "Clicks of bots are not counted. Rates are medians with the interval that holds them with a probability of 90 %."}, s.get)
	huma.Register(api, operation.TableOf(huma.Operation{OperationID: "table-of-results", Path: "/api/v1/sites/{site}/tables/results", Summary: "Results as a table",
		Description: "As .csv, what brought what; as .xlsx, all of the report, a sheet each."}), s.table)
}

const (
	// mostRows is how many rows are shown.
	mostRows = 200
	// mostTableRows is how many rows a table has.
	mostTableRows = 100_000
)

// ResultsAsked says what results are asked for.
type ResultsAsked struct {
	operation.SitePath
	By        string `query:"by" enum:"post,channel,rule,tour,wording,line,origin" default:"post"`
	Days      int    `query:"days" minimum:"1" maximum:"1461" default:"90" doc:"the last so many, today among them"`
	Month     string `query:"month" maxLength:"20" doc:"the month that is told of, as 2026-11, instead of the last days"`
	ChannelID int64  `query:"channelId" minimum:"0" doc:"0: all channels"`
	Zone      string `query:"zone" maxLength:"100" doc:"whose hours of the week are told; the site's where it is not said"`
}

// read makes the report that is asked for.
func (s part) read(ctx context.Context, in *ResultsAsked, most int) (reports.Report, error) {
	site := operation.DeskOf(ctx).Site
	a := reports.Asked{By: store.ResultsBy(in.By), Until: site.Zone().DateOf(s.Clock.Now()), Channel: in.ChannelID, Zone: site.Zone(), Most: most}
	a.From = a.Until.Add(1 - in.Days)
	var err error
	if in.Month != "" {
		if a.From, a.Until, err = reports.Month(in.Month); err != nil {
			return reports.Report{}, err
		}
	}
	if in.Zone != "" {
		if a.Zone, err = civil.LoadZone(in.Zone); err != nil {
			return reports.Report{}, act.Invalidf("zone", "There is no zone %q.", in.Zone)
		}
	}
	return reports.Read(ctx, s.Store.Queries, site, a)
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

// ResultsBest is a stretch of hours that did better than the usual hour.
type ResultsBest struct {
	Weekdays []string    `json:"weekdays" enum:"monday,tuesday,wednesday,thursday,friday,saturday,sunday"`
	From     civil.Clock `json:"from" example:"18:00"`
	To       civil.Clock `json:"to" example:"20:00"`
	Days     string      `json:"days" doc:"the weekdays in words"`
	Times    float64     `json:"times" doc:"how many times the clicks of the usual hour it brings"`
	Sure     bool        `json:"sure" doc:"the probability that all its hours are better is over 95 %, shrunk for how many hours were compared"`
	Outings  int         `json:"outings"`
}

// ResultsDay is what a day brought.
type ResultsDay struct {
	Date    civil.Date `json:"date"`
	Outings int        `json:"outings" doc:"that went out on it"`
	Clicks  int        `json:"clicks" doc:"that came on it, on messages of whatever day"`
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
	Zones    []string          `json:"zones" doc:"whose hours can be asked for: the site's, then those of its audience"`
	Total    ResultsTally      `json:"total"`
	Before   ResultsTally      `json:"before" doc:"of the period before"`
	Rows     []ResultsRow      `json:"rows" doc:"the most clicks first"`
	More     int               `json:"more" doc:"rows that are not shown"`
	Sentence string            `json:"sentence" doc:"of wordings: which does better, if that can be told"`
	Hours    [][]ResultsHour   `json:"hours" doc:"seven days from Monday, of 24 hours each"`
	Best     []ResultsBest     `json:"best" doc:"the best first"`
	Days     []ResultsDay      `json:"days" doc:"each of the period"`
	Wear     []ResultsCategory `json:"wear"`
	Never    []Never           `json:"never" doc:"posts that are out and were never shared"`
	Nevers   int               `json:"nevers" doc:"how many those are"`
}

func (s part) get(ctx context.Context, in *ResultsAsked) (*struct{ Body Results }, error) {
	r, err := s.read(ctx, in, mostRows)
	if err != nil {
		return nil, s.Problem(err)
	}
	body, site := view(r), operation.DeskOf(ctx).Site
	body.Zones = append([]string{site.Zone().String()}, site.AudienceZones...)
	return &struct{ Body Results }{body}, nil
}

func (s part) table(ctx context.Context, in *struct {
	ResultsAsked
	operation.TableFormat
}) (*huma.StreamResponse, error) {
	r, err := s.read(ctx, &in.ResultsAsked, mostTableRows)
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.WriteTables(ctx, "results", takeout.Format(in.Format), r.Tables()...), nil
}

func tally(r reports.Rate) ResultsTally {
	return ResultsTally{Outings: int(r.Outings), Clicks: int(r.Clicks), Rate: r.Median, Low: r.Low, High: r.High}
}

func view(r reports.Report) Results {
	v := Results{From: r.From, Until: r.Until, Zone: r.Zone.String(), Total: tally(r.Total), Before: tally(r.Before), Rows: []ResultsRow{}, Sentence: r.Sentence,
		Best: []ResultsBest{}, Days: []ResultsDay{}, Wear: []ResultsCategory{}, Never: []Never{}, Nevers: r.Nevers, More: r.All - len(r.Rows)}
	for _, row := range r.Rows {
		v.Rows = append(v.Rows, ResultsRow{ID: row.ID, Of: row.Of, N: row.N, Name: row.Name, Now: tally(row.Now), Before: tally(row.Before), Worn: row.Worn, Worth: row.Worth})
	}
	for _, day := range r.Hours {
		hours := []ResultsHour{}
		for _, h := range day {
			hours = append(hours, ResultsHour{h.Median, h.Low, h.High, h.Outings, h.Thin})
		}
		v.Hours = append(v.Hours, hours)
	}
	for _, b := range r.Best {
		var on []time.Weekday
		for d, is := range b.Days {
			if is {
				on = append(on, time.Weekday((d+1)%7))
			}
		}
		v.Best = append(v.Best, ResultsBest{Weekdays: formats.ViewWeekdays(rhythm.On(on...)), From: civil.Clock(b.From * 60), To: civil.Clock(b.To * 60), Days: reports.Weekdays(b.Days),
			Times: b.Times, Sure: b.Sure, Outings: b.Outings})
	}
	for _, d := range r.Days {
		v.Days = append(v.Days, ResultsDay{d.Date, d.Outings, d.Clicks})
	}
	for _, c := range r.Wear {
		one := ResultsCategory{Name: c.Name, Wear: []ResultsWear{}}
		for _, w := range c.Wear {
			one.Wear = append(one.Wear, ResultsWear{w.Nth, w.Times, w.Low, w.High, w.Outings})
		}
		v.Wear = append(v.Wear, one)
	}
	for _, p := range r.Never {
		v.Never = append(v.Never, Never{p.ID, p.Name})
	}
	return v
}
