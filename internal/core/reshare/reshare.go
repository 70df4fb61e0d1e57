// Package reshare holds the kind of rule that shares posts on a channel: which post it
// shares next, in which wording, and which posts it may not share yet.
//
// Whose turn it is, package deed says. The package is pure.
package reshare

import (
	"fmt"
	"math"
	"math/rand/v2"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/post"
)

// Order is the order in which posts are shared.
type Order string

// The orders.
const (
	Longest  Order = "longest"  // since the last outing; those never out first
	Oldest   Order = "oldest"   // by publication
	Newest   Order = "newest"   // by publication
	Shuffled Order = "shuffled" // rounds: each once before any repeats
	Weighted Order = "weighted" // by chance, by what past outings earned in clicks
)

// Orders lists the orders.
var Orders = []Order{Longest, Oldest, Newest, Shuffled, Weighted}

// Mode is how several channels of one rule share its turns.
type Mode string

// The modes.
const (
	Together  Mode = "together"  // each turn speaks on all of them at one minute
	InTurn    Mode = "in turn"   // each turn speaks on the next of them
	Staggered Mode = "staggered" // each turn speaks on the first, and so many minutes later on the next
)

// Modes lists the modes.
var Modes = []Mode{Together, InTurn, Staggered}

// Reshare is the kind of rule that shares posts of a pool on channels.
type Reshare struct {
	deed.RuleBase
	Channels []int64
	Mode     Mode           // "" is Together
	Between  int            // minutes, of Staggered
	Spoke    int64          // the channel that spoke last, of InTurn; 0: none yet
	Youngest condition.Span // since publication; the zero Span: any
	Oldest   condition.Span
	Apart    int            // days since the post's last outing on any of the channels, or publication
	Most     int            // fewer than so many outings on each channel; 0: any number
	AtATime  int            // posts a turn; 0 is 1
	Once     bool           // each post once, then the rule is off
	Picked   map[int64]bool // only these posts; nil: any
	Order    Order
	Bounds   cadence.Bounds
	Wordings []message.Wording
	// ByChannel are wordings for one channel, which take the place of the others there.
	ByChannel map[int64][]message.Wording
	Extras    deed.Extras
	Reply     *deed.Reply // what follows each message; nil: nothing
}

// Copy returns the rule as another value.
func (r *Reshare) Copy() deed.Rule { c := *r; return &c }

// Stage is that of rules that share.
func (r *Reshare) Stage() deed.Stage { return deed.Sharing }

// Speaks are the numbers of the rule's channels.
func (r *Reshare) Speaks() []int64 { return r.Channels }

// Room is the channels that speak at the minute of a turn, whose quiet hours it keeps too.
func (r *Reshare) Room(w *deed.World) deed.Room {
	return deed.Speech{Bounds: r.Bounds, Voices: func() []*deed.Voice {
		now, _ := r.speakers(w)
		return now
	}}
}

// Judge tells whether the rule may share a post now, and until when that stays so.
func (r *Reshare) Judge(c deed.Case) (bool, time.Time) {
	f, past, at := c.Facts, c.Past, c.At
	if !shareable(f) || r.Excluded[f.Post] || r.Most > 0 && past.OnChannel >= r.Most ||
		r.Picked != nil && !r.Picked[f.Post] || r.Once && past.N > 0 || past.Waits {
		return false, time.Time{}
	}
	nears := r.nears(past)
	if !nears.IsZero() && !nears.After(at) {
		return false, time.Time{} // until that outing has gone
	}
	zone := r.Pace.Zone
	if !r.Oldest.IsZero() {
		if ends := r.Oldest.After(f.Published, zone); !ends.After(at) {
			return false, time.Time{}
		}
	}
	comes := r.comes(c)
	if comes.After(at) {
		return false, comes // the condition need not be asked before
	}
	caught, until := c.Moment.Judge(f)
	until = civil.Sooner(until, nears)
	if !r.Oldest.IsZero() {
		until = civil.Sooner(until, r.Oldest.After(f.Published, zone))
	}
	return caught, until
}

// shareable tells whether readers find what a message tells of: a post that is out, or where a link item leads.
func shareable(f *condition.Facts) bool {
	return post.State{Status: post.Status(f.Status)}.CanBeShared()
}

// nears is from when on an outing of the post that is planned on one of the channels is too near
// for another; the zero time where none is.
func (r *Reshare) nears(past deed.Past) time.Time {
	if past.NextOnChannel.IsZero() || r.Apart == 0 {
		return time.Time{}
	}
	return past.NextOnChannel.Add(-time.Duration(r.Apart) * 24 * time.Hour)
}

// comes is from when on the post is old enough and far enough from its last outing and
// publication.
func (r *Reshare) comes(c deed.Case) time.Time {
	comes := r.Youngest.Comes(c.Published, c.At, r.Pace.Zone)
	if rested := r.rested(c); rested.After(comes) {
		return rested
	}
	return comes
}

func (r *Reshare) rested(c deed.Case) time.Time {
	last := civil.Later(c.Published, c.Past.LastOnChannel)
	return condition.Span{N: r.Apart, Unit: condition.Days}.Comes(last, c.At, r.Pace.Zone)
}

// Why is Judge with the reasons.
func (r *Reshare) Why(c deed.Case) condition.Verdict {
	f, past, at := c.Facts, c.Past, c.At
	var kept []string
	zone := r.Pace.Zone
	switch {
	case !shareable(f):
		kept = append(kept, "it is "+f.Status+", not published")
	case r.Excluded[f.Post]:
		kept = append(kept, "it was excluded from this rule by hand")
	case r.Picked != nil && !r.Picked[f.Post]:
		kept = append(kept, "it is not one of the posts picked for this rule")
	case r.Once && past.N > 0:
		kept = append(kept, "this rule has shared it once")
	case past.Waits:
		kept = append(kept, "it is planned to go out by this rule on "+zone.DateWords(past.NextOnChannel, at))
	case r.Most > 0 && past.OnChannel >= r.Most:
		kept = append(kept, fmt.Sprintf("it has been shared %d times here; the rule shares a post fewer than %d times",
			past.OnChannel, r.Most+1))
	default:
		if comes := r.Youngest.After(f.Published, zone); comes.After(at) {
			kept = append(kept, fmt.Sprintf("it came out less than %s ago; it is old enough on %s", r.Youngest,
				zone.DateWords(comes, at)))
		}
		if comes := r.rested(c); comes.After(at) {
			what := "it was published"
			if past.LastOnChannel.After(f.Published) {
				what = "it was shared here"
			}
			kept = append(kept, fmt.Sprintf("%s less than %d days ago; it may go out again on %s", what, r.Apart,
				zone.DateWords(comes, at)))
		}
		if nears := r.nears(past); !nears.IsZero() && !nears.After(at) {
			kept = append(kept, "it is planned to go out here on "+zone.DateWords(past.NextOnChannel, at))
		}
		if !r.Oldest.IsZero() && !r.Oldest.After(f.Published, zone).After(at) {
			kept = append(kept, fmt.Sprintf("it came out more than %s ago", r.Oldest))
		}
	}
	return condition.Kept(kept, c.Moment.Explain(f))
}

// Key orders the pool; of the weighted order it says nothing, see Draw.
func (r *Reshare) Key(c deed.Case) catch.Key {
	f, past := c.Facts, c.Past
	tie := cadence.Mix(r.Seed, uint64(f.Post))
	switch r.Order {
	case Oldest:
		return catch.Key{First: f.Published.Unix(), Tie: tie}
	case Newest:
		return catch.Key{First: -f.Published.Unix(), Tie: tie}
	case Shuffled:
		return deed.Shuffle(r.Seed, r.Round, past.Round, f.Post)
	}
	if past.LastOnChannel.IsZero() {
		return catch.Key{First: math.MinInt64, Tie: tie}
	}
	return catch.Key{First: past.LastOnChannel.Unix(), Tie: tie}
}

// Draw is the post's lot in the weighted order: the lowest is shared. Lots are
// exponential with the post's weight, 1 and its clicks, as their rate, so that a post
// is drawn with its share of all weights (Efraimidis and Spirakis, 2006).
func (r *Reshare) Draw(c deed.Case, turn time.Time) float64 {
	chance := rand.New(rand.NewPCG(cadence.Mix(r.Seed, uint64(turn.Unix())), uint64(c.Post)))
	return chance.ExpFloat64() / float64(1+c.Past.Earned)
}

// Wording is the number of the wording whose turn it is for a post: the one after the one
// it had last. They go round, from one that differs from post to post, so that none comes
// again before all have been.
func (r *Reshare) Wording(c deed.Case) int { return r.first(c, len(r.Wordings)) }

// first is Wording among so many.
func (r *Reshare) first(c deed.Case, of int) int {
	if of == 0 {
		return 0
	}
	if c.Past.Used > 0 {
		return c.Past.Used % of
	}
	n := uint64(of)
	return int((cadence.Mix(r.Seed, uint64(c.Post))%n + uint64(c.Past.N)) % n)
}

// busy is the shortest time between two messages of one rule that needs no warning.
const busy = 20 * time.Minute

// Warnings says what an editor should know before the rule acts: it asks for more than
// the channel takes, or for messages very often, or has wordings without a link.
func (r *Reshare) Warnings(w *deed.World, caught int) []string {
	warnings := deed.FewPosts(caught)
	every := r.Pace.Shortest()
	if every > 0 && every < busy {
		warnings = append(warnings, fmt.Sprintf("A message every %d min is a lot; more than one in 20 min looks automated.",
			int(every/time.Minute)))
	}
	for _, id := range r.Channels {
		v := w.Voice(id)
		if v == nil {
			continue
		}
		warnings = append(warnings, r.tooOften(v.Channel, every)...)
		if v.Silent {
			warnings = append(warnings, fmt.Sprintf("Nothing is sent to %s for now; the rule leaves it out.", v.Name))
		}
		if v.Limits.Image == message.Required && r.Extras.Picture.From == message.NoPicture {
			warnings = append(warnings, v.Name+" takes no message without a picture, and this rule sends none.")
		}
	}
	for i, wording := range r.Wordings {
		if !wording.Uses(message.Link) {
			warnings = append(warnings, fmt.Sprintf("Wording %d has no {link}; readers cannot get to the post.", i+1))
		}
	}
	return warnings
}

func (r *Reshare) tooOften(c deed.Channel, every time.Duration) []string {
	if every == 0 {
		return nil
	}
	if r.Mode == InTurn {
		every *= time.Duration(len(r.Channels))
	}
	var warnings []string
	minutes := int(every / time.Minute)
	each := ""
	if n := max(r.AtATime, 1); n > 1 {
		minutes, each = minutes/n, fmt.Sprintf(" with %d posts", n)
	}
	if minutes < c.Apart {
		warnings = append(warnings,
			fmt.Sprintf("%s takes messages at least %d min apart; a turn%s every %d min will be put off or let go.",
				c.Name, c.Apart, each, int(every/time.Minute)))
	}
	if a := int(24*time.Hour/every) * max(r.AtATime, 1); c.ADay > 0 && r.Pace.By == cadence.Every && a > c.ADay {
		warnings = append(warnings, fmt.Sprintf("%s takes at most %d messages a day; this rule alone asks for %d.",
			c.Name, c.ADay, a))
	}
	return warnings
}

// Because says why the order chose a post, for reasons.
func (o Order) Because() string {
	return map[Order]string{Longest: "since it was shared the longest ago", Oldest: "as the oldest",
		Newest: "as the newest", Shuffled: "in the shuffled order", Weighted: "drawn by the clicks it had"}[o]
}
