package main

import (
	"context"
	"fmt"
	"io"
	"math"
	"os"
	"slices"
	"text/tabwriter"
	"time"

	"dapper.example/internal/api/forecasts"
	"dapper.example/internal/siterules"
)

type forecastCmd struct {
	database
	public
	Site  string `arg:"" help:"The site's name in addresses, such as quillmoor."`
	Days  int    `help:"How many days to foretell, up to two years." default:"90"`
	Table bool   `help:"Print a table for people instead of JSON."`
}

// maxForecastDays is two years.
const maxForecastDays = 731

// Run foretells what happens on a site. Progress goes to the error output.
func (c forecastCmd) Run(ctx context.Context) error {
	if c.Days < 1 || c.Days > maxForecastDays {
		return fmt.Errorf("--days is %d; say 1 to %d", c.Days, maxForecastDays)
	}
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	site, err := findSite(ctx, s, c.Site)
	if err != nil {
		return err
	}
	now := time.Now().UTC()
	to := site.Zone().AddDays(now, c.Days)
	shown := time.Now()
	told, err := siterules.Book{Site: site, Public: c.address(defaultPort)}.Forecast(ctx, s.Queries, nil, now, to,
		func(reached time.Time) {
			if time.Since(shown) > time.Second {
				shown = time.Now()
				fmt.Fprintln(os.Stderr, "foretold up to", reached.Format(time.DateOnly))
			}
		})
	if err != nil {
		return err
	}
	view := forecasts.ViewForecast(site, told, now, to, math.MaxInt)
	if c.Table {
		return printForecast(os.Stdout, view)
	}
	return printJSON(os.Stdout, view)
}

func printForecast(w io.Writer, f forecasts.Forecast) error {
	for _, warning := range f.Warnings {
		fmt.Fprintln(w, "! "+warning.Text)
	}
	out := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	fmt.Fprintln(out, "\nWHEN\tWHAT\tPOST\tWHY")
	for _, e := range f.Events {
		what := e.Kind
		if e.Channel != "" {
			what += " on " + e.Channel
		}
		fmt.Fprintf(out, "%s %02d:%02d\t%s\t%s\t%s\n", e.Date, e.Minute/60, e.Minute%60, what, e.Title, e.Reason)
	}
	var counts []string
	for kind, n := range f.Counts {
		counts = append(counts, fmt.Sprintf("%s %d", kind, n))
	}
	slices.Sort(counts)
	fmt.Fprintf(out, "\n%v up to %s (%s)\n", counts, f.To.Date, f.Zone)
	return out.Flush()
}
