package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"text/tabwriter"

	"dapper.example/internal/formats"
)

type planCmd struct {
	File   string `arg:"" optional:"" help:"The plan file, JSON; - for standard input."`
	Table  bool   `help:"Print a table for people instead of JSON."`
	Schema bool   `help:"Print the JSON Schema of plan files."`
}

// Run answers a plan file: slots and placement with reasons. It needs no database.
func (c planCmd) Run() error {
	if c.Schema {
		return printJSON(os.Stdout, formats.PlanSchema())
	}
	answer, err := c.answer()
	if err != nil {
		return err
	}
	if c.Table {
		return printTable(os.Stdout, answer)
	}
	return printJSON(os.Stdout, answer)
}

func (c planCmd) answer() (formats.Answer, error) {
	var in io.ReadCloser = os.Stdin
	switch c.File {
	case "":
		return formats.Answer{}, errors.New("name a plan file, or - for standard input")
	case "-":
	default:
		file, err := os.Open(c.File)
		if err != nil {
			return formats.Answer{}, err
		}
		in = file
	}
	defer in.Close()
	plan, err := formats.ReadPlan(in)
	if err != nil {
		return formats.Answer{}, fmt.Errorf("%s is refused:\n%w", c.File, err)
	}
	answer, err := plan.Answer()
	if err != nil {
		return formats.Answer{}, fmt.Errorf("%s is refused:\n%w", c.File, err)
	}
	return answer, nil
}

func printJSON(w io.Writer, value any) error {
	out := json.NewEncoder(w)
	out.SetEscapeHTML(false)
	out.SetIndent("", "  ")
	return out.Encode(value)
}

func printTable(w io.Writer, a formats.Answer) error {
	out := tabwriter.NewWriter(w, 0, 0, 2, ' ', 0)
	fmt.Fprintln(out, "PLACED\tDRAFT\tREASON")
	for _, p := range a.Placed {
		fmt.Fprintf(out, "%s\t%s\t%s\n", p.Local, p.Title, p.Reason)
	}
	if len(a.Unplaced) > 0 {
		fmt.Fprintln(out, "\nNOT PLACED\tDRAFT\tREASON")
		for _, u := range a.Unplaced {
			fmt.Fprintf(out, "-\t%s\t%s\n", u.Title, u.Reason)
		}
	}
	if len(a.Short) > 0 {
		fmt.Fprintln(out, "\nSHORT\tOPENING\tREASON")
		for _, s := range a.Short {
			fmt.Fprintf(out, "%s\t%s\t%s\n", s.Date, s.Opening, s.Reason)
		}
	}
	fmt.Fprintf(out, "\n%d slots, %d placed, %d not placed\n", len(a.Slots), len(a.Placed), len(a.Unplaced))
	return out.Flush()
}
