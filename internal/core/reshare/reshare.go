// Package reshare says which post a rule would share next on a channel, in which
// wording, and which posts it may not share yet.
//
// What is done and when is decided in package deed. The package is pure.
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
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/upkeep"
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

// Channel is where messages go.
type Channel struct {
	ID     int64
	Name   string
	Limits message.Limits
	Apart  int // fewest minutes between two messages
	ADay   int // most messages a day; 0: no limit
	Quiet  cadence.Quiet
	Zone   civil.Zone // its own: of its days and quiet hours
}

// Rule shares posts of a pool on a channel.
type Rule struct {
	upkeep.Rule
	Channel  int64
	Youngest condition.Span // since publication; the zero Span: any
	Oldest   condition.Span
	Apart    int // days since the post's last outing on the channel, or publication
	Most     int // fewer than so many outings on the channel; 0: any number
	Order    Order
	Bounds   cadence.Bounds
	Wordings []message.Wording
	Hashtags message.Hashtags
	Params   []message.Param
	Short    bool // short links
	Round    int  // of shuffled rounds: the present one
}

// Past is what is known of a post's outings.
type Past struct {
	OnChannel int       // how many, on the rule's channel
	Last      time.Time // the last of them
	ByRule    int       // how many, by the rule
	Round     int       // the last round in which the rule shared it
	Earned    int       // clicks
}

// Judge tells whether the rule may share a post now, and until when that stays so.
func (r *Rule) Judge(f *condition.Facts, past Past, at time.Time, k *condition.Moment) (bool, time.Time) {
	if f.Status != "published" || r.Excluded[f.Post] || r.Most > 0 && past.OnChannel >= r.Most {
		return false, time.Time{}
	}
	zone := r.Pace.Zone
	if !r.Oldest.IsZero() {
		if ends := r.Oldest.After(f.Published, zone); !ends.After(at) {
			return false, time.Time{}
		}
	}
	comes := r.comes(f, past, at)
	if comes.After(at) {
		return false, comes // the condition need not be asked before
	}
	caught, until := k.Judge(f)
	if !r.Oldest.IsZero() {
		until = upkeep.Sooner(until, r.Oldest.After(f.Published, zone))
	}
	return caught, until
}

// comes is from when on the post is old enough and far enough from its last outing and
// publication.
func (r *Rule) comes(f *condition.Facts, past Past, at time.Time) time.Time {
	comes := r.Youngest.Comes(f.Published, at, r.Pace.Zone)
	if rested := r.rested(f, past, at); rested.After(comes) {
		return rested
	}
	return comes
}

func (r *Rule) rested(f *condition.Facts, past Past, at time.Time) time.Time {
	last := f.Published
	if past.Last.After(last) {
		last = past.Last
	}
	return condition.Span{N: r.Apart, Unit: condition.Days}.Comes(last, at, r.Pace.Zone)
}

// Why is Judge with the reasons.
func (r *Rule) Why(f *condition.Facts, past Past, at time.Time, k *condition.Moment) condition.Verdict {
	var kept []string
	zone := r.Pace.Zone
	switch {
	case f.Status != "published":
		kept = append(kept, "it is "+f.Status+", not published")
	case r.Excluded[f.Post]:
		kept = append(kept, "it was excluded from this rule by hand")
	case r.Most > 0 && past.OnChannel >= r.Most:
		kept = append(kept, fmt.Sprintf("it has been shared %d times here; the rule shares a post fewer than %d times", past.OnChannel, r.Most+1))
	default:
		if comes := r.Youngest.After(f.Published, zone); comes.After(at) {
			kept = append(kept, fmt.Sprintf("it came out less than %s ago; it is old enough on %s", r.Youngest, upkeep.Day(comes, at, zone)))
		}
		if comes := r.rested(f, past, at); comes.After(at) {
			what := "it was published"
			if past.Last.After(f.Published) {
				what = "it was shared here"
			}
			kept = append(kept, fmt.Sprintf("%s less than %d days ago; it may go out again on %s", what, r.Apart, upkeep.Day(comes, at, zone)))
		}
		if !r.Oldest.IsZero() && !r.Oldest.After(f.Published, zone).After(at) {
			kept = append(kept, fmt.Sprintf("it came out more than %s ago", r.Oldest))
		}
	}
	return upkeep.Kept(kept, k.Explain(f))
}

// Key orders the pool; of the weighted order it says nothing, see Draw.
func (r *Rule) Key(f *condition.Facts, past Past) catch.Key {
	tie := cadence.Mix(r.Seed, uint64(f.Post))
	switch r.Order {
	case Oldest:
		return catch.Key{First: f.Published.Unix(), Tie: tie}
	case Newest:
		return catch.Key{First: -f.Published.Unix(), Tie: tie}
	case Shuffled:
		return upkeep.Shuffle(r.Seed, r.Round, past.Round, f.Post)
	}
	if past.Last.IsZero() {
		return catch.Key{First: math.MinInt64, Tie: tie}
	}
	return catch.Key{First: past.Last.Unix(), Tie: tie}
}

// Draw is the post's lot in the weighted order: the lowest is shared. Lots are
// exponential with the post's weight, 1 and its clicks, as their rate, so that a post
// is drawn with its share of all weights (Efraimidis and Spirakis, 2006).
func (r *Rule) Draw(f *condition.Facts, past Past, turn time.Time) float64 {
	chance := rand.New(rand.NewPCG(cadence.Mix(r.Seed, uint64(turn.Unix())), uint64(f.Post)))
	return chance.ExpFloat64() / float64(1+past.Earned)
}

// Wording is the number of the wording whose turn it is for a post: they go round, from
// one that differs from post to post, so that none comes again before all have been.
func (r *Rule) Wording(post int64, past Past) int {
	n := uint64(len(r.Wordings))
	return int((cadence.Mix(r.Seed, uint64(post))%n + uint64(past.ByRule)) % n)
}

// Compose makes the message of a post in a wording; the facts hold its excerpt.
func (r *Rule) Compose(f *condition.Facts, wording int, link string, limits message.Limits) (message.Message, error) {
	if !r.Short { // a short link adds the parameters where it leads on
		link = message.WithParams(link, r.Params)
	}
	return message.Compose(r.Wordings[wording], message.Post{
		Title: f.Title, Excerpt: f.Excerpt, Link: link, Category: f.Category, Tags: f.Tags,
		Author: f.Author, Fields: f.Fields, HasImage: f.FeaturedImage,
	}, r.Hashtags, limits)
}

// busy is the shortest time between two messages of one rule that needs no warning.
const busy = 20 * time.Minute

// Warnings says what an editor should know before the rule runs: it asks for more than
// the channel takes, or for messages very often.
func (r *Rule) Warnings(c Channel) []string {
	var warnings []string
	every := r.Pace.Shortest()
	if every == 0 {
		return nil
	}
	minutes := int(every / time.Minute)
	if every < busy {
		warnings = append(warnings, fmt.Sprintf("A message every %d min is a lot; more than one in 20 min looks automated.", minutes))
	}
	if minutes < c.Apart {
		warnings = append(warnings, fmt.Sprintf("%s takes messages at least %d min apart; a turn every %d min will be put off or let go.", c.Name, c.Apart, minutes))
	}
	if c.ADay > 0 && r.Pace.By == cadence.Every && int(24*time.Hour/every) > c.ADay {
		warnings = append(warnings, fmt.Sprintf("%s takes at most %d messages a day; this rule alone asks for %d.", c.Name, c.ADay, int(24*time.Hour/every)))
	}
	return warnings
}

// Because says why the order chose a post, for reasons.
func (o Order) Because() string {
	return map[Order]string{Longest: "since it was shared the longest ago", Oldest: "as the oldest",
		Newest: "as the newest", Shuffled: "in the shuffled order", Weighted: "drawn by the clicks it had"}[o]
}
