// Package upkeep holds the kinds of rules that care for published posts: one lets
// posts expire that have had their time (Expire), one brings good ones out again (Republish).
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
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/words"
)

// Expire is a rule for posts that have had their time.
type Expire struct {
	deed.RuleBase
	Action Action
	With   Extras // what the action needs
	// TellDays is how many days before it takes a post the rule tells its author, in spans of 24 hours; 0: it tells
	// nobody.
	TellDays int
	MostARun int            // 0: no limit
	Only     map[int64]bool // the posts that were chosen by hand, of what is done once; nil: all
	// Took is how many posts past runs took, the latest last; runs that took none are left
	// out.
	Took []int
	// Allowed is how large a catch an editor has agreed to.
	Allowed int

	ahead ahead
}

// Copy returns the rule as another value.
func (e *Expire) Copy() deed.Rule { c := *e; return &c }

// Stage is that of rules that take posts away.
func (e *Expire) Stage() deed.Stage { return deed.TakingAway }

// Room is none: posts are taken away whatever else happens at that minute.
func (e *Expire) Room(*deed.World) deed.Room { return nil }

// Judge tells whether the rule catches a post. Only published posts are caught, unless
// the condition asks for a status itself; a post that never expires, one that is kept for now, and one that is
// where the rule would put it, never are. A rule that tells authors before catches what it
// will take so many days ahead, too.
func (e *Expire) Judge(c deed.Case) (bool, time.Time) {
	if e.outOfReach(c.Facts) != "" {
		return false, time.Time{}
	}
	return e.lead().judge(e.Condition, c, holds)
}

// lead is the rule some days ahead.
func (e *Expire) lead() *ahead {
	e.ahead.days = e.TellDays
	return &e.ahead
}

// holds tells whether a post may be taken at a moment, and until when that stays so.
func holds(f *condition.Facts, at time.Time, m *condition.Moment) (bool, time.Time) {
	if f.KeptUntil.After(at) {
		return false, f.KeptUntil
	}
	return m.Judge(f)
}

// outOfReach says why the rule does not look at a post, or "".
func (e *Expire) outOfReach(f *condition.Facts) string {
	switch {
	case f.Status == deed.Deleted:
		return "it was deleted for good"
	case e.Only != nil && !e.Only[f.Post]:
		return "it was not chosen"
	case f.NeverExpires:
		return "it is marked as never expiring"
	case e.Excluded[f.Post]:
		return "it was excluded from this rule by hand"
	case f.Status == "scheduled":
		return "it is scheduled; a rule takes nothing out of the plan"
	case f.Status == "linked" && !e.Condition.Asks(condition.Kind):
		return "it is a link item; a rule looks at those only where its condition asks for the kind"
	case e.Only == nil && !e.Condition.Asks(condition.Status) && f.Status != "published" && f.Status != "linked" && e.Action != Delete:
		return "it is " + f.Status + ", not published"
	}
	return e.Action.misses(e.With, f)
}

// Why is Judge with the reasons.
func (e *Expire) Why(c deed.Case) condition.Verdict {
	if reason := e.outOfReach(c.Facts); reason != "" {
		return condition.Kept([]string{reason}, condition.Verdict{})
	}
	return e.lead().explain(e.Condition, c, e.Pace.Zone, e.why)
}

func (e *Expire) why(f *condition.Facts, at time.Time, m *condition.Moment) condition.Verdict {
	if f.KeptUntil.After(at) {
		return condition.Kept([]string{"it is kept until " + e.Pace.Zone.DateWords(f.KeptUntil, at)}, condition.Verdict{})
	}
	return m.Explain(f)
}

// Key orders the catch: what came out first goes first.
func (e *Expire) Key(c deed.Case) catch.Key {
	return catch.Key{First: c.Published.UnixMicro(), Tie: uint64(c.Post)}
}

// Act takes the catch, or as much of it as one run may take, and tells authors of what it will take; or asks.
func (e *Expire) Act(t *deed.Turn, run *deed.Run) []deed.Deed {
	if run.Asks = e.asks(run.Caught, t.World.Published()); run.Asks != "" {
		return []deed.Deed{deed.Ask{Base: deed.Base{Rule: e.ID, Due: run.Due,
			Reason: fmt.Sprintf("The rule “%s” holds and asks. %s", e.Name, run.Asks)}}}
	}
	take := e.Takes(run.Caught)
	var deeds []deed.Deed
	taken, told := 0, 0
	for i := range t.Posts() {
		c := t.Case(i, t.At())
		base := deed.Base{Post: c.Post, Due: run.Due, Rule: e.ID}
		switch {
		case e.mayTake(c):
			if taken < take {
				base.Reason = e.because(c.Moment.Explain(c.Facts))
				deeds = append(deeds, e.Action.deed(e.With, base, c, t.World.Zone()))
				taken++
			}
		case !e.isTold(c):
			deeds = append(deeds, e.warn(base, c, t.World.Zone()))
			told++
		}
		if taken == take && e.TellDays == 0 {
			break
		}
	}
	switch {
	case told > 0 && taken == 0:
		run.Note = "Authors were told of " + words.Count(told, "post") + "."
	case taken > 0:
	case run.Caught > 0:
		run.Note = "The authors of what matches were told not long enough ago."
	default:
		run.Note = "No post matches."
	}
	return deeds
}

// because is the sentence for the logbook of why a post is taken.
func (e *Expire) because(v condition.Verdict) string {
	if e.Name != "" {
		return Reason(e.Name, v)
	}
	if e.Only != nil {
		return "Done by hand to posts that were chosen."
	}
	return fmt.Sprintf("Done by hand, once, since it matched: %s.", strings.TrimSuffix(v.String(), "."))
}

// asks says why the rule asks an editor instead, or "".
func (e *Expire) asks(caught, published int) string {
	if caught > 0 && e.Action == ToCategory && e.With.CategoryName == "" {
		return "The category that it moves posts to was deleted. Choose another."
	}
	return e.Asks(caught, published)
}

// mayTake tells whether a post of the catch is taken now: the condition holds now, and its author was told so
// many days ago.
func (e *Expire) mayTake(c deed.Case) bool {
	if e.TellDays == 0 {
		return true
	}
	now, _ := holds(c.Facts, c.At, c.Moment)
	return now && e.isTold(c) && e.lead().isOver(c)
}

// isTold tells whether the author was told of this: not of an earlier coming out or of an earlier text, nor
// long ago.
func (e *Expire) isTold(c deed.Case) bool {
	return e.lead().isTold(c) && !c.Past.Told.Before(c.Changed)
}

// warn tells the author of a post that is caught now or will be within the days of notice.
func (e *Expire) warn(b deed.Base, c deed.Case, zone civil.Zone) deed.Deed {
	m, on := e.lead().of(e.Condition, c.At)
	why := e.why(c.Facts, on, m)
	if now, _ := holds(c.Facts, c.At, c.Moment); now {
		why = c.Moment.Explain(c.Facts)
	}
	b.Reason = fmt.Sprintf("Its author is told: the rule “%s” %s it on %s or later, since it matches: %s.", e.Name, e.Action.will(e.With),
		zone.DateWords(on, c.At), strings.TrimSuffix(why.String(), "."))
	return deed.Warn{Word: deed.Word{Base: b, On: on}}
}

// AfterTurn notes how many posts a run took.
func (e *Expire) AfterTurn(run deed.Run) {
	e.Took = Remember(e.Took, run.Took)
	e.Allowed = max(e.Allowed-run.Took, 0)
}

// Agree notes that an editor has agreed to a catch of a size.
func (e *Expire) Agree(caught int) { e.Allowed = max(e.Allowed, caught) }

// Warnings says what an editor should know before the rule acts. That it catches nothing to take away is no reason
// to worry.
func (e *Expire) Warnings(*deed.World, int) []string {
	switch {
	case e.Action == Delete:
		return []string{"What this rule deletes can’t be brought back, by undo or otherwise."}
	case e.Action == Archive && e.With.Answer == post.Elsewhere && e.With.LeadsTo == 0:
		return []string{"The post that readers would be sent on to is gone, so they get the archived page instead."}
	}
	return nil
}

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
