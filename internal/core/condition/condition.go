// Package condition says which posts a rule catches, and why.
//
// A condition is data: a tree of groups (all of, any of, none of) over tests of one
// fact each, written as JSON (see Schema). Check lists what is wrong with a tree;
// Compile makes it ready; At fixes the moment that "older than" is measured from.
// Then Judge answers for one post and says until when the answer is good, and
// Explain gives the reasons, both ways.
//
// The package is pure: it sees plain facts and no database, and has no clock.
package condition

import (
	"math"
	"time"

	"dapper.example/internal/core/civil"
)

// Group is how the parts of a group combine.
type Group string

// The groups.
const (
	AllOf  Group = "all"  // every part holds
	AnyOf  Group = "any"  // at least one holds
	NoneOf Group = "none" // none holds
)

// Node is one node of the tree: a group with its parts, or a test with what it needs.
// The fields that a test needs are listed in Forms.
type Node struct {
	Group Group  `json:"group,omitempty" enum:"all,any,none" doc:"of a group: how its parts combine"`
	Parts []Node `json:"parts,omitempty" doc:"of a group: its parts"`

	Test   Test     `json:"test,omitempty" doc:"of a test: what it looks at"`
	Match  Match    `json:"match,omitempty" doc:"of a test: how it compares"`
	Values []string `json:"values,omitempty" doc:"names or words to compare with"`
	Field  string   `json:"field,omitempty" doc:"the custom field's name"`
	N      int      `json:"n,omitempty" doc:"the number to compare with, or how many units of time"`
	Unit   Unit     `json:"unit,omitempty" enum:"hours,days,weeks,months,years" doc:"of time"`
	Date   string   `json:"date,omitempty" doc:"a date of the site, such as 2026-11-24"`
	Days   int      `json:"days,omitempty" doc:"clicks of the last so many days"`
}

// IsGroup tells whether the node is a group rather than a test.
func (n Node) IsGroup() bool { return n.Group != "" }

// IsZero tells whether the node says nothing at all.
func (n Node) IsZero() bool {
	return n.Group == "" && n.Test == "" && n.Parts == nil && n.Match == "" && n.Values == nil
}

// Test is what a test looks at.
type Test string

// The tests.
const (
	Kind         Test = "kind"
	Status       Test = "status"
	Category     Test = "category"
	Tags         Test = "tags"
	Author       Test = "author"
	Title        Test = "title"
	Text         Test = "text"
	Slug         Test = "slug"
	Age          Test = "age"          // since publication
	SinceChange  Test = "since change" // since the text was last changed
	Field        Test = "field"
	OnTop        Test = "on top"
	CommentsOpen Test = "comments open"
	Comments     Test = "comments" // how many readers see
	Image        Test = "featured image"
	WordCount    Test = "word count"
	Clicks       Test = "clicks"
	Shared       Test = "times shared"
	Republished  Test = "times republished"
	Evergreen    Test = "evergreen"
	Import       Test = "import"
)

// Match is how a test compares.
type Match string

// The ways to compare; Forms lists which of them each test knows.
const (
	MatchAny      Match = "any"
	MatchAll      Match = "all"
	MatchNone     Match = "none"
	MatchContains Match = "contains"
	MatchEquals   Match = "equals"
	MatchDiffers  Match = "differs"
	MatchBegins   Match = "begins"
	MatchOver     Match = "over"
	MatchUnder    Match = "under"
	MatchBefore   Match = "before"
	MatchAfter    Match = "after"
	MatchPresent  Match = "present"
	MatchMissing  Match = "missing"
	MatchPassed   Match = "passed"
	MatchRound    Match = "round" // its day comes round, every year
	MatchYes      Match = "yes"
	MatchNo       Match = "no"
)

// Unit is a unit of time. Days and weeks are counted by the calendar of the site's
// zone, as months and years are: a post of noon is a day old at noon.
type Unit string

// The units.
const (
	Hours  Unit = "hours"
	Days   Unit = "days"
	Weeks  Unit = "weeks"
	Months Unit = "months"
	Years  Unit = "years"
)

// Units lists the units from the shortest to the longest.
var Units = []Unit{Hours, Days, Weeks, Months, Years}

// Facts is all that a condition may ask about one post.
type Facts struct {
	Post          int64
	Kind          string // post, page or link
	Link          string // of a link item: where it leads
	Status        string // draft, scheduled, published, archived or binned
	Title         string
	Slug          string
	Text          string // Markdown
	Category      string // "" for none
	Tags          []string
	Author        string
	Published     time.Time // last publication; zero where the post is not out
	Changed       time.Time // last change of the text
	Fields        map[string]string
	OnTop         bool
	CommentsOpen  bool // by the site and by the post itself
	CommentDays   int  // for how many days from publication on; 0 for ever
	Comments      int  // that readers see
	FeaturedImage bool
	Evergreen     bool
	Words         int
	Clicks        []DayClicks // by date, ascending
	Shared        int         // outings
	Republished   int
	Import        string // the import that brought it, "" for none

	// Beside conditions: what rules know of a post.
	Excerpt      string
	NeverExpires bool
	Expires      time.Time // its own expiry; zero for none
	KeptUntil    time.Time // no rule takes it away before, nor does its own expiry; zero for none
	Notice       string    // to readers, above its text
	FirstOut     time.Time // first publication
	LastRun      time.Time // last republication; zero for none
	InText       int       // pictures in its text
	Wordings     []OwnWording
}

// OwnWording is a wording that a post itself has, for its messages.
type OwnWording struct {
	Channel int64  `json:"channel,omitempty"` // that it is for; 0: any
	Text    string `json:"text"`
}

// DayClicks is how many clicks a post got on one date of the site.
type DayClicks struct {
	Date civil.Date
	N    int
}

// Span is a length of time in one unit; the zero Span is none.
type Span struct {
	N    int  `json:"n" minimum:"0" maximum:"100000"`
	Unit Unit `json:"unit" enum:"hours,days,weeks,months,years"`
}

// IsZero tells whether the span is none.
func (s Span) IsZero() bool { return s.N == 0 }

// After returns the moment at which something of time t is that old, by the calendar
// of the zone: months that lack the day end with their last day, so what is of 31
// January is a month old on the last of February.
func (s Span) After(t time.Time, zone civil.Zone) time.Time {
	switch s.Unit {
	case Hours:
		return t.Add(time.Duration(s.N) * time.Hour)
	case Weeks:
		return zone.AddDays(t, 7*s.N)
	case Months:
		return zone.AddMonths(t, s.N)
	case Years:
		return zone.AddMonths(t, 12*s.N)
	}
	return zone.AddDays(t, s.N)
}

// Comes is After for what is asked at a moment: where something of time t has long been
// that old, it is the zero time, which spares the calendar.
func (s Span) Comes(t, at time.Time, zone civil.Zone) time.Time {
	if _, most := s.Bounds(); isPast(at.Sub(t), most) {
		return time.Time{}
	}
	return s.After(t, zone)
}

// days are the fewest and the most days of 24 hours that the span has, clock changes aside.
func (s Span) days() (fewest, most float64) {
	n := float64(s.N)
	switch s.Unit {
	case Hours:
		return n / 24, n / 24
	case Weeks:
		return 7 * n, 7 * n
	case Months:
		return 28 * n, 31 * n
	case Years:
		return 365 * n, 366 * n
	}
	return n, n
}

// forever is longer than any length of time that a time.Duration holds apart from others.
const forever = time.Duration(math.MaxInt64)

// Bounds are lengths of time: what is at least `most` old is as old as the span, what is younger than `least` is not, in
// every zone and whichever months or years are counted, so that most posts need no calendar. Of spans longer than a
// time.Duration can tell, `most` is the longest there is, which nothing is known to have reached.
func (s Span) Bounds() (least, most time.Duration) {
	const moved = 48 * time.Hour // more than any zone's clocks have been
	fewest, longest := s.days()
	return lengthOf(fewest) - moved, min(lengthOf(longest), forever-moved) + moved
}

// lengthOf is so many days, or forever.
func lengthOf(days float64) time.Duration {
	if ns := days * float64(24*time.Hour); ns < float64(forever) {
		return time.Duration(ns)
	}
	return forever
}

// isPast tells whether an age is surely that of a span with such bounds.
func isPast(age, most time.Duration) bool { return age >= most && most < forever }

// Since are two moments by which something that is as old as the span at a moment must have begun: what began by `sure` is,
// what began after `maybe` is not.
func (s Span) Since(at time.Time, zone civil.Zone) (sure, maybe time.Time) {
	const slack = 5 // days: months end on the 28th to the 31st, and clocks have been moved by a day
	switch s.Unit {
	case Hours:
		if least, _ := s.Bounds(); least < forever/2 {
			then := at.Add(-time.Duration(s.N) * time.Hour)
			return then, then
		}
		return time.Time{}, at
	case Weeks:
		at = zone.AddDays(at, -7*s.N)
	case Months:
		at = zone.AddMonths(at, -s.N)
	case Years:
		at = zone.AddMonths(at, -12*s.N)
	default:
		at = zone.AddDays(at, -s.N)
	}
	return at.AddDate(0, 0, -slack), at.AddDate(0, 0, slack)
}

// String spells the span, such as "3 months".
func (s Span) String() string {
	if s.N == 1 {
		return "1 " + string(s.Unit[:max(len(s.Unit)-1, 0)])
	}
	return number(s.N) + " " + string(s.Unit)
}
