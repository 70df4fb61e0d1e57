// Package deed decides what is to be done now.
//
// A World is made of a scene: all that is known of a site at a moment, its posts,
// plan, rules and past outings. Decide answers for a moment with the deeds whose turn
// it is, each with its reason, and the moment at which to ask again. The engine does
// these deeds for real; a forecast applies them to its world and moves its clock on.
// Nothing else decides. The package is pure.
//
// What is due at once is settled one turn after another, each seeing what the ones
// before it did, in the order of their Stage:
//
//  1. publications: overdue ones by the site's catch-up choice, then those on time;
//  2. timed edits of posts that are out, in order of their time;
//  3. posts whose own expiry has come, in order of that time;
//  4. posts that have been in the bin for as long as they may;
//  5. rules that take posts away, 6. rules that bring them out again;
//  7. outings that are only wished for get their minutes, and planned ones whose minute has
//     come go out;
//  8. rules that share, those of a stage in the editor's order.
//
// So a post that expires at a minute is neither republished nor shared at that minute,
// and one that has just come out is not shared until its distance is kept.
//
// Each deed is a type in a file of its own, with what it does to a world (apply) and what
// is to be told of it (Describe). Each kind of rule is a type that implements Rule, in the
// package named after it (upkeep, reshare). Nothing here or elsewhere asks which kind a
// rule is of.
package deed

import (
	"slices"
	"time"
)

// Deed is one thing to do, as a rule to one post. The deeds are those of this package.
type Deed interface {
	// Describe tells what the deed is, for all who log, show or compare deeds.
	Describe() Description
	// apply does the deed in a world.
	apply(w *World, at time.Time)
}

// Base is what all deeds have.
type Base struct {
	Post   int64     // 0 of a deed that concerns none
	Rule   int64     // the rule that wants it; 0 for none
	Due    time.Time // when it should have been done; never after the moment asked about
	Reason string    // a sentence for the logbook
}

// describe begins the description of a deed.
func (b Base) describe(k Kind, e Effect) Description {
	return Description{Base: b, Kind: k, Effect: e}
}

// Description is what is told of a deed.
type Description struct {
	Base
	Kind    Kind
	Effect  Effect
	Channel int64     // of a message
	Text    string    // of a message: all of it
	To      time.Time // of a move, or of what is planned: the new time
}

// Kind is the name of a deed, in the logbook and the API.
type Kind string

// Effect is what a deed means to a blog, whatever its kind.
type Effect string

// The effects.
const (
	ComesOut  Effect = "comes out"  // a post that was not out
	Replanned Effect = "replanned"  // a post waits for another time, or for an editor
	ComesBack Effect = "comes back" // a post that is out comes out again
	TakenAway Effect = "taken away" // a post is not out any more
	Said      Effect = "said"       // a message goes to a channel
	Changed   Effect = "changed"    // a post that is out says something else
	Erased    Effect = "erased"     // a post is deleted for good
	NothingOf Effect = "nothing"    // nothing changes for readers
)

// all has a deed of each type.
var all = []Deed{Publish{}, Move{}, Hold{}, Archive{}, ToDraft{}, Bin{}, Republish{}, Share{}, Plan{}, Skip{}, SetAside{}, Ask{}, TimedEdit{}, HoldEdit{},
	Refile{}, AddTag{}, PutNotice{}, CloseComments{}, Delete{}, Warn{}, AskToRead{}}

// Kinds lists the names of all deeds with one of the effects; of all deeds where none is
// given.
func Kinds(effects ...Effect) []Kind {
	var kinds []Kind
	for _, one := range all {
		if told := one.Describe(); len(effects) == 0 || slices.Contains(effects, told.Effect) {
			kinds = append(kinds, told.Kind)
		}
	}
	return kinds
}

// IsWord tells whether a deed of the kind is only word of what is to come: that an outing was planned, or that somebody was
// told. The tape does not show it; what comes of it is.
func (k Kind) IsWord() bool { return k == KindPlan || k == KindWarn || k == KindAskToRead }

// Effect is what the deeds of a kind mean to a blog; "" of what is no deed.
func (k Kind) Effect() Effect {
	for _, one := range all {
		if told := one.Describe(); told.Kind == k {
			return told.Effect
		}
	}
	return ""
}

// Decision is the answer for one moment.
type Decision struct {
	Deeds []Deed    // in the order in which they are to be done
	Run   *Run      // the rule whose turn it was; nil where it was none's
	Next  time.Time // when to ask again; zero where nothing waits
}

// IsIdle tells whether nothing is due.
func (d Decision) IsIdle() bool { return len(d.Deeds) == 0 && d.Run == nil }

// Describe describes the deeds, in their order.
func (d Decision) Describe() []Description {
	all := make([]Description, len(d.Deeds))
	for i, one := range d.Deeds {
		all[i] = one.Describe()
	}
	return all
}

// Run is one turn of a rule: from then on, its turns up to the moment are served.
type Run struct {
	Rule   int64
	Due    time.Time // when its turn came
	Caught int       // posts that the rule catches or may bring out
	Took   int       // those it did something to
	Asks   string    // why it holds and asks an editor instead, or ""
	Note   string    // why it did nothing, or ""
	// Refused is how many posts it left out since the network refused their messages, where
	// it did nothing.
	Refused int
	// Spoke is the channel that it spoke on, of a rule whose channels take turns; 0 otherwise.
	Spoke int64
	Ends  string // why the rule is off from now on, or ""
}

// Taken is how many posts deeds are done to. To tell somebody of a post does nothing to it.
func Taken(deeds []Deed) int {
	posts := make(map[int64]bool, len(deeds))
	for _, one := range deeds {
		if told := one.Describe(); told.Kind != KindWarn && told.Kind != KindAskToRead {
			posts[told.Post] = true
		}
	}
	return len(posts)
}

// Minute is the minute that is running at a moment. Plans are made of whole minutes, and
// so are decisions: seconds play no part in them, however late in its minute somebody
// gets to ask.
func Minute(at time.Time) time.Time { return at.Truncate(time.Minute) }

// FirstMinute is the first whole minute that is not before a moment.
func FirstMinute(at time.Time) time.Time {
	minute := Minute(at)
	if minute.Before(at) {
		return minute.Add(time.Minute)
	}
	return minute
}
