// Package upkeep holds the kinds of rules that care for published posts: one takes
// posts away that have had their time (Expire), one brings good ones out again (Republish).
//
// A rule says which posts it catches, in which order, what is to be done with them, and
// when it would rather ask an editor first. Whose turn it is, package deed says. The
// package is pure.
package upkeep

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/words"
)

// Action is what an expiry rule does to a post.
type Action string

// The actions.
const (
	Archive Action = "archive" // out of lists, feeds and sitemap; the page stays, with a notice
	ToDraft Action = "draft"   // back to being written
	Bin     Action = "bin"
)

// Actions lists the actions.
var Actions = []Action{Archive, ToDraft, Bin}

// Expire takes posts away.
type Expire struct {
	deed.RuleBase
	Action   Action
	MostARun int // 0: no limit
	// Took is how many posts past runs took, the latest last; runs that took none are left
	// out.
	Took []int
	// Allowed is how large a catch an editor has agreed to.
	Allowed int
}

// Copy returns the rule as another value.
func (e *Expire) Copy() deed.Rule { c := *e; return &c }

// Stage is that of rules that take posts away.
func (e *Expire) Stage() deed.Stage { return deed.TakingAway }

// Room is none: posts are taken away whatever else happens at that minute.
func (e *Expire) Room(*deed.World) deed.Room { return nil }

// Judge tells whether the rule catches a post. Only published posts are caught, unless
// the condition asks for a status itself; a post that never expires, and one that is
// where the rule would put it, never are.
func (e *Expire) Judge(c deed.Case) (bool, time.Time) {
	if e.outOfReach(c.Facts) != "" {
		return false, time.Time{}
	}
	return c.Moment.Judge(c.Facts)
}

// outOfReach says why the rule does not look at a post, or "".
func (e *Expire) outOfReach(f *condition.Facts) string {
	switch {
	case f.NeverExpires:
		return "it is marked as never expiring"
	case e.Excluded[f.Post]:
		return "it was excluded from this rule by hand"
	case f.Status == "scheduled":
		return "it is scheduled; a rule takes nothing out of the plan"
	case f.Status == "linked" && !e.Condition.Asks(condition.Kind):
		return "it is a link item; a rule looks at those only where its condition asks for the kind"
	case f.Status == "linked" && e.Action != Bin:
		return "it is a link item, which can only go to the bin"
	case f.Status == "linked":
		return ""
	case !e.Condition.Asks(condition.Status) && f.Status != "published":
		return "it is " + f.Status + ", not published"
	case e.Action == Archive && f.Status != "published":
		return "it is " + f.Status + "; only published posts are archived"
	case e.Action == ToDraft && f.Status == "draft", e.Action == Bin && f.Status == "binned":
		return "it is " + f.Status + " already"
	case f.Status == "binned":
		return "it is in the bin"
	}
	return ""
}

// Why is Judge with the reasons.
func (e *Expire) Why(c deed.Case) condition.Verdict {
	if reason := e.outOfReach(c.Facts); reason != "" {
		return condition.Kept([]string{reason}, condition.Verdict{})
	}
	return c.Moment.Explain(c.Facts)
}

// Key orders the catch: what came out first goes first.
func (e *Expire) Key(c deed.Case) catch.Key {
	return catch.Key{First: c.Published.Unix(), Tie: uint64(c.Post)}
}

// Act takes the catch, or as much of it as one run may take; or asks.
func (e *Expire) Act(t *deed.Turn, run *deed.Run) []deed.Deed {
	if run.Asks = e.Asks(run.Caught, t.World.Published()); run.Asks != "" {
		return []deed.Deed{deed.Ask{Base: deed.Base{Rule: e.ID, Due: run.Due,
			Reason: fmt.Sprintf("The rule “%s” holds and asks. %s", e.Name, run.Asks)}}}
	}
	take := e.Takes(run.Caught)
	if take == 0 {
		run.Note = "No post matches."
		return nil
	}
	var deeds []deed.Deed
	for i := range t.Posts() {
		c := t.Case(i, t.At())
		reason := fmt.Sprintf("The rule “%s” matched it: %s.", e.Name,
			strings.TrimSuffix(c.Moment.Explain(c.Facts).String(), "."))
		base := deed.Base{Post: c.Post, Due: run.Due, Rule: e.ID, Reason: reason}
		if deeds = append(deeds, e.Action.deed(base, t)); len(deeds) == take {
			break
		}
	}
	return deeds
}

// deed is what the action does to a post.
func (a Action) deed(b deed.Base, t *deed.Turn) deed.Deed {
	switch a {
	case ToDraft:
		return deed.ToDraft{Base: b}
	case Bin:
		return deed.Bin{Base: b}
	}
	return deed.Archive{Base: b, Notice: deed.Notice(t.At(), t.World.Zone())}
}

// AfterTurn notes how many posts a run took.
func (e *Expire) AfterTurn(run deed.Run) {
	e.Took = Remember(e.Took, run.Took)
	e.Allowed = max(e.Allowed-run.Took, 0)
}

// Agree notes that an editor has agreed to a catch of a size.
func (e *Expire) Agree(caught int) { e.Allowed = max(e.Allowed, caught) }

// Warnings are none: a rule that catches nothing to take away is no reason to worry.
func (e *Expire) Warnings(*deed.World, int) []string { return nil }

const (
	// share is the part of a site's posts, as a divisor, beyond which a rule asks first.
	share = 5
	// growth is how many times its usual a rule may take unasked.
	growth = 3
	// usualRuns is how many runs make a usual.
	usualRuns = 3
	// handful is what a run may always take: three times one post is no alarm.
	handful = 5
)

// IsWide tells whether a catch is more than a fifth of the site's published posts.
func IsWide(caught, published int) bool { return caught*share > published }

// Asks says why the rule holds and asks an editor before it takes a catch of that size,
// or "" where it goes ahead.
func (e *Expire) Asks(caught, published int) string {
	if caught <= e.Allowed {
		return ""
	}
	if caught > 1 && IsWide(caught, published) {
		return fmt.Sprintf("It would affect %s of the blog's %d published posts, more than a fifth.",
			words.Count(caught, "post"), published)
	}
	take := e.Takes(caught)
	if usual, ok := e.usual(); ok && take > handful && float64(take) > growth*usual {
		return fmt.Sprintf("It would affect %s at once; it usually affects %.0f.", words.Count(take, "post"), usual)
	}
	return ""
}

// Takes is how many posts of the catch one run takes.
func (e *Expire) Takes(caught int) int {
	if e.MostARun > 0 {
		return min(caught, e.MostARun)
	}
	return caught
}

func (e *Expire) usual() (float64, bool) {
	if len(e.Took) < usualRuns {
		return 0, false
	}
	sum := 0
	for _, n := range e.Took {
		sum += n
	}
	return float64(sum) / float64(len(e.Took)), true
}

// Remembered is how many past runs make up what is usual.
const Remembered = 10

// Remember returns the past takes with one more.
func Remember(took []int, n int) []int {
	if n == 0 {
		return took
	}
	took = append(slices.Clone(took), n)
	return took[max(0, len(took)-Remembered):]
}

// Reason is the sentence for the logbook of what a rule did.
func Reason(rule string, verdict condition.Verdict) string {
	return fmt.Sprintf("The rule “%s” matched it: %s.", rule, strings.TrimSuffix(verdict.String(), "."))
}
