package upkeep

import (
	"fmt"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
)

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
	deed.RuleBase
	Youngest condition.Span // since its last publication
	AtATime  int            // posts a turn, at least 1
	Order    Order
	Apart    int // fewest days between two republications of one post
	Bounds   cadence.Bounds
}

// Copy returns the rule as another value.
func (r *Republish) Copy() deed.Rule { c := *r; return &c }

// Stage is that of rules that bring posts back.
func (r *Republish) Stage() deed.Stage { return deed.BringingBack }

// Room is the plan: a post that comes out again keeps the gap.
func (r *Republish) Room(w *deed.World) deed.Room { return w.Plan(r.Bounds) }

// Judge tells whether the rule may bring a post out now: it is published, old enough,
// and its last republication is long enough past.
func (r *Republish) Judge(c deed.Case) (bool, time.Time) {
	f, at := c.Facts, c.At
	if f.Status != "published" || r.Excluded[f.Post] {
		return false, time.Time{}
	}
	caught, until := c.Moment.Judge(f)
	zone := r.Pace.Zone
	for _, comes := range []time.Time{r.Youngest.Comes(f.Published, at, zone), r.rested(f, zone)} {
		if comes.After(at) {
			caught = false
			until = civil.Sooner(until, comes)
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
func (r *Republish) Why(c deed.Case) condition.Verdict {
	f, at := c.Facts, c.At
	var kept []string
	zone := r.Pace.Zone
	switch {
	case f.Status != "published":
		kept = append(kept, "it is "+f.Status+", not published")
	case r.Excluded[f.Post]:
		kept = append(kept, "it was excluded from this rule by hand")
	default:
		if comes := r.Youngest.After(f.Published, zone); comes.After(at) {
			kept = append(kept, fmt.Sprintf("it came out less than %s ago; it is old enough on %s", r.Youngest,
				zone.DateWords(comes, at)))
		}
		if comes := r.rested(f, zone); comes.After(at) {
			kept = append(kept, fmt.Sprintf("it was republished less than %d days ago; it may come again on %s",
				r.Apart, zone.DateWords(comes, at)))
		}
	}
	return condition.Kept(kept, c.Moment.Explain(f))
}

// Key orders the posts.
func (r *Republish) Key(c deed.Case) catch.Key {
	f := c.Facts
	switch r.Order {
	case Oldest:
		return catch.Key{First: f.FirstOut.Unix(), Tie: uint64(f.Post)}
	case Shuffled:
		return deed.Shuffle(r.Seed, r.Round, c.Past.Round, f.Post)
	}
	return catch.Key{First: f.Published.Unix(), Tie: uint64(f.Post)}
}

// Act brings out the first posts of the pool.
func (r *Republish) Act(t *deed.Turn, run *deed.Run) []deed.Deed {
	if run.Caught == 0 {
		run.Note = "No post can come out again right now."
		return nil
	}
	var deeds []deed.Deed
	for i := range t.Posts() {
		c := t.Case(i, t.At())
		deeds = append(deeds, deed.Republish{Round: max(r.Round, c.Past.Round+1),
			Base: deed.Base{Post: c.Post, Due: run.Due, Rule: r.ID,
				Reason: fmt.Sprintf("Brought out again by the rule “%s”, %s.%s", r.Name, r.Order.Because(), t.PutOff())}})
		if len(deeds) == r.AtATime {
			break
		}
	}
	return deeds
}

// AfterTurn notes nothing: each deed is noted with its post.
func (r *Republish) AfterTurn(deed.Run) {}

// Warnings says what an editor should know before the rule acts.
func (r *Republish) Warnings(_ *deed.World, caught int) []string {
	warnings := deed.FewPosts(caught)
	if every := r.Pace.Shortest(); every > 0 && every < time.Hour {
		warnings = append(warnings,
			fmt.Sprintf("A post would come out again every %d min; few readers can keep up with that.",
				int(every/time.Minute)))
	}
	return warnings
}

// Because says why the order chose a post, for reasons.
func (o Order) Because() string {
	return map[Order]string{Oldest: "as the oldest", Longest: "since it came out the longest ago",
		Shuffled: "in the shuffled order"}[o]
}
