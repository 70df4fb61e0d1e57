package upkeep

import (
	"fmt"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/words"
)

// Order is the order in which posts come out again.
type Order string

// The orders of republishing.
const (
	Oldest   Order = "oldest"   // by first publication
	Longest  Order = "longest"  // since it was last out
	Shuffled Order = "shuffled" // rounds: each once before any repeats
	Clicked  Order = "clicked"  // what got the most clicks first
)

// Orders lists the orders.
var Orders = []Order{Oldest, Longest, Shuffled, Clicked}

// Republish brings posts out again.
type Republish struct {
	deed.RuleBase
	Youngest condition.Span // since its last publication
	AtATime  int            // posts a turn, at least 1
	Order    Order
	Apart    int // fewest days between two republications of one post
	Bounds   cadence.Bounds
	// ReadDays is how many days before it brings a post out the rule asks that somebody read it, in spans of 24 hours; 0:
	// nobody needs to.
	ReadDays int
	Unread   bool // a post that nobody said yes to comes out all the same; otherwise it waits
	// Says is what is shared of a post that comes out again.
	Says []deed.Announcement

	ahead ahead
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
	if c.Status != "published" || r.Excluded[c.Post] {
		return false, time.Time{}
	}
	return r.lead().judge(r.Condition, c, r.may)
}

// lead is the rule some days ahead.
func (r *Republish) lead() *ahead {
	r.ahead.days = r.ReadDays
	return &r.ahead
}

// may tells whether a post may come out again at a moment, and until when that stays so.
func (r *Republish) may(f *condition.Facts, at time.Time, m *condition.Moment) (bool, time.Time) {
	caught, until := m.Judge(f)
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
	return r.lead().explain(r.Condition, c, r.Pace.Zone, r.why)
}

func (r *Republish) why(f *condition.Facts, at time.Time, m *condition.Moment) condition.Verdict {
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
	return condition.Kept(kept, m.Explain(f))
}

// Key orders the posts.
func (r *Republish) Key(c deed.Case) catch.Key {
	f := c.Facts
	switch r.Order {
	case Oldest:
		return catch.Key{First: f.FirstOut.Unix(), Tie: uint64(f.Post)}
	case Shuffled:
		return deed.Shuffle(r.Seed, r.Round, c.Past.Round, f.Post)
	case Clicked:
		clicks := 0
		for _, day := range f.Clicks {
			clicks += day.N
		}
		return catch.Key{First: -int64(clicks), Tie: uint64(f.Post)}
	}
	return catch.Key{First: f.Published.Unix(), Tie: uint64(f.Post)}
}

// Act brings out the first posts of the pool; of a rule whose posts are to be read first, the first of those that were, and
// it asks for the next ones to be read.
func (r *Republish) Act(t *deed.Turn, run *deed.Run) []deed.Deed {
	if run.Caught == 0 {
		run.Note = "No post can come out again right now."
		return nil
	}
	var deeds []deed.Deed
	out, asked := 0, 0
	for i := range t.Posts() {
		c := t.Case(i, t.At())
		base := deed.Base{Post: c.Post, Due: run.Due, Rule: r.ID}
		switch told := r.ReadDays > 0 && r.lead().isTold(c); {
		case r.ReadDays == 0, told && r.isReady(c):
			if out < r.AtATime {
				base.Reason = fmt.Sprintf("Brought out again by the rule “%s”, %s.%s%s", r.Name, r.Order.Because(), r.unread(c), t.PutOff())
				deeds = append(deeds, deed.Republish{Round: max(r.Round, c.Past.Round+1), Base: base, Says: r.Says})
				out++
			}
		case !told && asked < r.AtATime:
			on := c.At.Add(r.lead().notice())
			base.Reason = fmt.Sprintf("It is to be read first: the rule “%s” brings it out again on %s or later.", r.Name, t.World.Zone().DateWords(on, c.At))
			deeds = append(deeds, deed.AskToRead{Word: deed.Word{Base: base, On: on}})
			asked++
		}
		if out == r.AtATime && (r.ReadDays == 0 || asked == r.AtATime) {
			break
		}
	}
	switch {
	case out > 0:
	case asked > 0:
		run.Note = "It asked for " + words.Count(asked, "post") + " to be read first."
	default:
		run.Note = "No post that was read first may come out yet."
	}
	return deeds
}

// isReady tells whether a post that somebody was asked to read comes out now.
func (r *Republish) isReady(c deed.Case) bool {
	now, _ := r.may(c.Facts, c.At, c.Moment)
	return now && r.lead().isOver(c) && (r.Unread || r.isRead(c))
}

// isRead tells whether somebody said that a post may come out, since it was asked last.
func (r *Republish) isRead(c deed.Case) bool {
	return !c.Past.Read.IsZero() && !c.Past.Read.Before(c.Past.Told)
}

// unread says that nobody read a post, where the rule asked.
func (r *Republish) unread(c deed.Case) string {
	if r.ReadDays == 0 || r.isRead(c) {
		return ""
	}
	return " Nobody had looked through it."
}

// AfterTurn notes nothing: each deed is noted with its post.
func (r *Republish) AfterTurn(deed.Run) {}

// Warnings says what an editor should know before the rule acts.
func (r *Republish) Warnings(_ *deed.World, caught int) []string {
	var warnings []string
	if !r.Condition.ComesRound() { // of what comes round each year there is none for most of it
		warnings = deed.FewPosts(caught)
	}
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
		Shuffled: "in the shuffled order", Clicked: "as the most clicked"}[o]
}
