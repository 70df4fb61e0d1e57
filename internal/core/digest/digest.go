// Package digest is about mails that sum up what happens on a blog, for one of its people: when one is due, and how it reads,
// as plain text and as HTML that say the same. It is pure.
package digest

import (
	"fmt"
	"html"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/letter"
)

// Every is how often a digest comes.
type Every string

// How often.
const (
	Day   Every = "day"
	Week  Every = "week"
	Month Every = "month" // on the first of each
)

// Part is what a digest may tell of.
type Part string

// The parts, in the order in which they stand in a mail.
const (
	Held     Part = "held"     // what waits for a decision
	Remarks  Part = "remarks"  // by others about one's posts, and requests
	Failed   Part = "failed"   // what could not be sent
	Coming   Part = "coming"   // what goes out in the coming day, or week
	Expiring Part = "expiring" // what is about to expire
	WentOut  Part = "went out"
	Runs     Part = "runs"    // of rules
	Results  Part = "results" // of the month that has ended: told once, in the first digest after its end
)

// Parts lists the parts.
var Parts = []Part{Held, Remarks, Failed, Coming, Expiring, WentOut, Runs, Results}

// Wish is what somebody wants to be told of, and when.
type Wish struct {
	Every   Every
	Weekday time.Weekday // of weekly ones
	At      civil.Clock  // by the clocks of Zone, below 24:00
	Zone    civil.Zone
	Parts   []Part
}

// Next is the first moment after another at which a digest is due: at its time of day, which comes once a day whatever
// clocks do.
func (w Wish) Next(after time.Time) time.Time {
	day := w.Zone.DateOf(after).Add(-1)
	for {
		if at := w.Zone.At(day, w.At); at.After(after) && w.isOn(day) {
			return at
		}
		day = day.Add(1)
	}
}

// isOn tells whether digests are due on a date.
func (w Wish) isOn(d civil.Date) bool {
	switch w.Every {
	case Week:
		return d.Weekday() == w.Weekday
	case Month:
		_, _, day := d.Parts()
		return day == 1
	}
	return true
}

// Ahead is how far a digest looks ahead.
func (w Wish) Ahead() time.Duration {
	switch w.Every {
	case Week:
		return 7 * 24 * time.Hour
	case Month:
		return 31 * 24 * time.Hour
	}
	return 24 * time.Hour
}

// Ended is the first date of the month that ended after one moment and not after another, by the clocks of the reader; of several the last.
func (w Wish) Ended(after, at time.Time) (month civil.Date, ok bool) {
	today := w.Zone.DateOf(at)
	year, m, _ := today.Parts()
	first := civil.NewDate(year, m, 1)
	return first.AddMonths(-1), w.Zone.At(first, 0).After(after)
}

// Problem is what is wrong with a wish, by its field.
type Problem struct{ Path, Message string }

// Problems lists what is wrong with a wish.
func (w Wish) Problems() (found []Problem) {
	if w.Every != Day && w.Every != Week && w.Every != Month {
		found = append(found, Problem{"every", "A digest comes every day, every week or every month."})
	}
	if w.Weekday < time.Sunday || w.Weekday > time.Saturday {
		found = append(found, Problem{"weekday", "There is no such day of the week."})
	}
	if w.At < 0 || w.At >= 24*60 {
		found = append(found, Problem{"at", "Enter a time of day, such as 7:30."})
	}
	if len(w.Parts) == 0 {
		found = append(found, Problem{"parts", "Choose at least one thing to be told of."})
	}
	for i, p := range w.Parts {
		if !slices.Contains(Parts, p) || slices.Contains(w.Parts[:i], p) {
			found = append(found, Problem{"parts", fmt.Sprintf("There is no part %q, or it is there twice.", p)})
		}
	}
	return found
}

// Line is one thing that a digest tells of.
type Line struct {
	Text string // a clause: what, and when
	More string // a sentence that says why, or ""
	Link string // where it is seen; "" for nowhere
}

// Section is what a digest tells of one part.
type Section struct {
	Part  Part
	Lines []Line
	Rest  int // how many more there are than Lines
}

// Digest is what a mail says.
type Digest struct {
	Blog     string // its title
	Name     string // of who it is for
	Every    Every
	Sections []Section // without empty ones
	Home     string    // address of the blog's Almanac
	Change   string    // address where it is changed
	End      string    // address that ends it in one click
}

var titles = map[Part]string{Held: "Needs your decision", Remarks: "Said about your posts", Failed: "Could not be sent", Coming: "Coming up", Expiring: "About to expire",
	WentOut: "Went out", Runs: "What rules did", Results: "What sharing brought"}

// MostLines is how many lines a section has; the others are counted.
const MostLines = 20

// Mail is the digest as a mail. The subject says what matters most.
func (d Digest) Mail() letter.Mail {
	return letter.Mail{Subject: d.subject(), Text: d.text(), HTML: d.html()}
}

func (d Digest) subject() string {
	var said []string
	for _, s := range d.Sections {
		n := len(s.Lines) + s.Rest
		switch s.Part {
		case Held:
			said = append(said, fmt.Sprintf("%d to decide", n))
		case Failed:
			said = append(said, fmt.Sprintf("%d not sent", n))
		case Coming:
			said = append(said, fmt.Sprintf("%d coming up", n))
		case Expiring:
			said = append(said, fmt.Sprintf("%d about to expire", n))
		}
	}
	if len(said) == 0 {
		said = append(said, map[Every]string{Day: "the last day", Week: "the last week", Month: "the last month"}[d.Every])
	}
	return oneLine(d.Blog + ": " + strings.Join(said, ", "))
}

func (d Digest) why() string {
	return fmt.Sprintf("You get this mail every %s, since you asked for it on “%s”.", d.Every, oneLine(d.Blog))
}

func (d Digest) text() string {
	var b strings.Builder
	fmt.Fprintf(&b, "Hello %s,\n", oneLine(d.Name))
	for _, s := range d.Sections {
		title := titles[s.Part]
		fmt.Fprintf(&b, "\n%s\n%s\n", title, strings.Repeat("-", len(title)))
		for _, l := range s.Lines {
			fmt.Fprintf(&b, "- %s\n", oneLine(l.Text))
			if l.More != "" {
				fmt.Fprintf(&b, "  %s\n", oneLine(l.More))
			}
			if l.Link != "" {
				fmt.Fprintf(&b, "  %s\n", l.Link)
			}
		}
		if s.Rest > 0 {
			fmt.Fprintf(&b, "- and %d more\n", s.Rest)
		}
	}
	fmt.Fprintf(&b, "\nThe plan: %s\n\n-- \n%s\nChange it: %s\nUnsubscribe: %s\n", d.Home, d.why(), d.Change, d.End)
	return b.String()
}

func (d Digest) html() string {
	var b strings.Builder
	b.WriteString("<!doctype html>\n<html lang=\"en\"><body style=\"font: 16px/1.5 Georgia, serif; color: #16202a; max-width: 36em; margin: 0 auto; padding: 1em\">\n")
	fmt.Fprintf(&b, "<p>Hello %s,</p>\n", escaped(d.Name))
	for _, s := range d.Sections {
		fmt.Fprintf(&b, "<h2 style=\"font-size: 18px; margin: 1.2em 0 .3em\">%s</h2>\n<ul style=\"margin: 0; padding-left: 1.2em\">\n", escaped(titles[s.Part]))
		for _, l := range s.Lines {
			text := escaped(l.Text)
			if l.Link != "" {
				text = "<a href=\"" + html.EscapeString(l.Link) + "\" style=\"color: #16202a\">" + text + "</a>"
			}
			if l.More != "" {
				text += "<br><small style=\"color: #54616d\">" + escaped(l.More) + "</small>"
			}
			b.WriteString("<li>" + text + "</li>\n")
		}
		if s.Rest > 0 {
			fmt.Fprintf(&b, "<li>and %d more</li>\n", s.Rest)
		}
		b.WriteString("</ul>\n")
	}
	fmt.Fprintf(&b, "<p><a href=\"%s\">See the plan</a></p>\n<hr>\n<p><small>%s <a href=\"%s\">Change it</a> · <a href=\"%s\">Unsubscribe</a></small></p>\n</body></html>\n",
		html.EscapeString(d.Home), escaped(d.why()), html.EscapeString(d.Change), html.EscapeString(d.End))
	return b.String()
}

func escaped(text string) string { return html.EscapeString(oneLine(text)) }

// oneLine is a text without line breaks and other control characters, so that nothing in it can pass for a line of its own.
func oneLine(text string) string {
	return strings.Join(strings.FieldsFunc(text, func(r rune) bool { return r <= ' ' || r == 0x7f }), " ")
}

// Cut makes a section of lines, those first that come first; ok is false where there are none.
func Cut(p Part, lines []Line) (s Section, ok bool) {
	n := min(len(lines), MostLines)
	return Section{Part: p, Lines: lines[:n], Rest: len(lines) - n}, n > 0
}
