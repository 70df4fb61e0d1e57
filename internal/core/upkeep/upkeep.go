// Package upkeep says what rules for published posts want to do: take posts away that
// have had their time (Expire), and bring good ones out again (Republish).
//
// A rule says which posts it catches, in which order, and when it would rather ask an
// editor first. What is done and when is decided in package deed. The package is pure.
package upkeep

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
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

// Rule is what both kinds of rules have.
type Rule struct {
	ID        int64
	Name      string
	Position  int // rules of a kind take their turns in this order
	Seed      uint64
	Condition *condition.Condition
	Pace      cadence.Pace
	Served    time.Time // turns up to this moment are served
	Owed      time.Time // a turn that is served but whose message was refused: it is taken again; zero: none
	Armed     bool
	Held      bool // waits for an editor's word
	Excluded  map[int64]bool
}

// IsLive tells whether the rule acts by itself.
func (r Rule) IsLive() bool { return r.Armed && !r.Held }

// Expire takes posts away.
type Expire struct {
	Rule
	Action   Action
	MostARun int // 0: no limit
	// Took is how many posts past runs took, the latest last; runs that took none are left
	// out.
	Took []int
	// Allowed is how large a catch an editor has agreed to.
	Allowed int
}

// Judge tells whether the rule catches a post. Only published posts are caught, unless
// the condition asks for a status itself; a post that never expires, and one that is
// where the rule would put it, never are.
func (e *Expire) Judge(f *condition.Facts, k *condition.Moment) (bool, time.Time) {
	if e.outOfReach(f) != "" {
		return false, time.Time{}
	}
	return k.Judge(f)
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
func (e *Expire) Why(f *condition.Facts, k *condition.Moment) condition.Verdict {
	if reason := e.outOfReach(f); reason != "" {
		return Kept([]string{reason}, condition.Verdict{})
	}
	return k.Explain(f)
}

// Key orders the catch: what came out first goes first.
func (e *Expire) Key(f *condition.Facts) catch.Key {
	return catch.Key{First: f.Published.Unix(), Tie: uint64(f.Post)}
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
		return fmt.Sprintf("It would affect %s of the blog's %d published posts, more than a fifth.", words.Count(caught, "post"), published)
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

// Order is the order in which posts come out again.
type Order string

// The orders of republishing.
const (
	Oldest   Order = "oldest"   // by first publication
	Longest  Order = "longest"  // since it was last out
	Shuffled Order = "shuffled" // rounds: each once before any repeats
)

// Orders lists the orders.
var Orders = []Order{Oldest, Longest, Shuffled}

// Republish brings posts out again.
type Republish struct {
	Rule
	Youngest condition.Span // since its last publication
	AtATime  int            // posts a turn, at least 1
	Order    Order
	Apart    int // fewest days between two republications of one post
	Bounds   cadence.Bounds
	Round    int // of shuffled rounds: the present one
}

// Judge tells whether the rule may bring a post out now: it is published, old enough,
// and its last republication is long enough past.
func (r *Republish) Judge(f *condition.Facts, at time.Time, k *condition.Moment) (bool, time.Time) {
	if f.Status != "published" || r.Excluded[f.Post] {
		return false, time.Time{}
	}
	caught, until := k.Judge(f)
	zone := r.Pace.Zone
	for _, comes := range []time.Time{r.Youngest.Comes(f.Published, at, zone), r.rested(f, zone)} {
		if comes.After(at) {
			caught = false
			until = Sooner(until, comes)
		}
	}
	return caught, until
}

// rested is from when on the rule's distance between republications is kept.
func (r *Republish) rested(f *condition.Facts, zone civil.Zone) time.Time {
	if f.LastRun.IsZero() {
		return time.Time{}
	}
	return zone.AddDays(f.LastRun, r.Apart)
}

// Why is Judge with the reasons.
func (r *Republish) Why(f *condition.Facts, at time.Time, k *condition.Moment) condition.Verdict {
	var kept []string
	zone := r.Pace.Zone
	switch {
	case f.Status != "published":
		kept = append(kept, "it is "+f.Status+", not published")
	case r.Excluded[f.Post]:
		kept = append(kept, "it was excluded from this rule by hand")
	default:
		if comes := r.Youngest.After(f.Published, zone); comes.After(at) {
			kept = append(kept, fmt.Sprintf("it came out less than %s ago; it is old enough on %s", r.Youngest, Day(comes, at, zone)))
		}
		if comes := r.rested(f, zone); comes.After(at) {
			kept = append(kept, fmt.Sprintf("it was republished less than %d days ago; it may come again on %s", r.Apart, Day(comes, at, zone)))
		}
	}
	return Kept(kept, k.Explain(f))
}

// Kept is a condition's verdict on a post that a rule keeps out for reasons of its own,
// or the verdict itself where there are none.
func Kept(reasons []string, verdict condition.Verdict) condition.Verdict {
	if len(reasons) == 0 {
		return verdict
	}
	var because []condition.Reason
	for _, text := range reasons {
		because = append(because, condition.Reason{Text: text})
	}
	if !verdict.Caught {
		because = append(because, verdict.Because...)
	}
	return condition.Verdict{Because: because}
}

// Key orders the posts; round is the last one in which the post came out.
func (r *Republish) Key(f *condition.Facts, round int) catch.Key {
	switch r.Order {
	case Oldest:
		return catch.Key{First: f.FirstOut.Unix(), Tie: uint64(f.Post)}
	case Shuffled:
		return Shuffle(r.Seed, r.Round, round, f.Post)
	}
	return catch.Key{First: f.Published.Unix(), Tie: uint64(f.Post)}
}

// Shuffle is the key of shuffled rounds: posts that have not come out in the present
// round are first, in an order of the round's own.
func Shuffle(seed uint64, present, last int, post int64) catch.Key {
	round := max(present, last+1, 1)
	return catch.Key{First: int64(round), Tie: cadence.Mix(seed, uint64(round), uint64(post))}
}

// Sooner returns the earlier of two moments; the zero time is no moment.
func Sooner(a, b time.Time) time.Time {
	if a.IsZero() || !b.IsZero() && b.Before(a) {
		return b
	}
	return a
}

// Day writes the date of a moment in a zone, as it is said at another one.
func Day(t, now time.Time, zone civil.Zone) string { return zone.DateOf(t).Words(zone.DateOf(now)) }

// Notice is what readers of an archived post see.
func Notice(action Action, at time.Time, zone civil.Zone) string {
	if action != Archive {
		return ""
	}
	return "This page was archived on " + zone.In(at).Format("2 January 2006") + ". What it says may no longer hold."
}

// Verb says what the action does, for reasons and screens.
func (a Action) Verb() string {
	return map[Action]string{Archive: "archived", ToDraft: "taken back to draft", Bin: "put into the bin"}[a]
}

// Reason is the sentence for the logbook of what a rule did.
func Reason(rule string, verdict condition.Verdict) string {
	return fmt.Sprintf("The rule “%s” matched it: %s.", rule, strings.TrimSuffix(verdict.String(), "."))
}

// Because says why the order chose a post, for reasons.
func (o Order) Because() string {
	return map[Order]string{Oldest: "as the oldest", Longest: "since it came out the longest ago",
		Shuffled: "in the shuffled order"}[o]
}
