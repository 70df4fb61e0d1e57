package deed

import (
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/catch"
	"dapper.example/internal/core/condition"
)

// Rule is a rule of some kind. A kind of rule is a type of its own; this is all that the
// decision knows of it.
type Rule interface {
	// Base is what rules of all kinds have. A world notes there how far its copy has got.
	Base() *RuleBase
	// Copy returns the rule as another value, for a world to change.
	Copy() Rule
	// Stage says whose turn is first of what is due at one moment.
	Stage() Stage
	// Judge tells whether the rule may act on a post now, and until when that stays so if the
	// post does not change; the zero time is for good.
	Judge(c Case) (belongs bool, until time.Time)
	// Why is Judge with the reasons, in words.
	Why(c Case) condition.Verdict
	// Key is the post's place in the order in which the rule takes its posts.
	Key(c Case) catch.Key
	// Room is where a turn finds its minute; nil where it is served at its own minute whatever
	// else happens.
	Room(w *World) Room
	// Act is a turn of the rule: the deeds it wants done. It may note in the run why it wants
	// none, or that it asks an editor instead.
	Act(t *Turn, run *Run) []Deed
	// AfterTurn tells the rule what came of its turn.
	AfterTurn(run Run)
	// Warnings says what an editor should know before the rule acts, while it catches so many
	// posts.
	Warnings(w *World, caught int) []string
}

// Stage is a place in the order of what is due at one moment: the lower is first.
type Stage int

// The stages.
const (
	Publications Stage = iota
	Editing            // timed edits
	OwnExpiries
	Emptying   // of the bin
	TakingAway // rules that take posts away
	BringingBack
	Placing // of outings that are only wished for
	PlannedOutings
	Sharing
)

// RuleBase is what rules of all kinds have.
type RuleBase struct {
	ID        int64
	Name      string
	Position  int // rules of a stage take their turns in this order
	Seed      uint64
	Condition *condition.Condition
	Pace      cadence.Pace
	Served    time.Time // turns up to this moment are served
	Owed      time.Time // a turn that is served but whose message was refused: it is taken again; zero: none
	OwedOn    []int64   // the channels that refused
	From      time.Time // no turn before; zero: any
	Until     time.Time // no turn then or later; zero: for good
	Armed     bool
	Held      bool // waits for an editor's word
	Excluded  map[int64]bool
	Round     int // of shuffled rounds: the present one
}

// Base returns the base itself, for kinds that embed it.
func (r *RuleBase) Base() *RuleBase { return r }

// IsLive tells whether the rule acts by itself.
func (r *RuleBase) IsLive() bool { return r.Armed && !r.Held }

// Case is a post that is put before a rule at a moment.
type Case struct {
	*condition.Facts
	Past   Past // what the rule, and its channel, did with it before
	At     time.Time
	Moment *condition.Moment // the rule's condition at that moment
}

// Past is what a rule knows of what was done with a post before.
type Past struct {
	N             int // how often, by the rule
	Round         int // the last round in which the rule took it
	Earned        int // clicks, by the rule
	Used          int // the number of the wording that the rule used last, counted from 1; 0: not known
	OnChannel     int // how many outings, by whomever; the most on any of the rule's channels
	LastOnChannel time.Time
	Waits         bool      // an outing of the rule that is about it waits for its time
	Told          time.Time // when somebody was told last that the rule is about to act on it; zero: never
	Read          time.Time // when somebody said last that it may come out again; zero: never
	NextOnChannel time.Time // when the next one that is planned on a channel of the rule goes out; zero: none
}

// Guarded is a rule that does not act on a catch that is larger than an editor would
// expect: it asks first.
type Guarded interface {
	Rule
	// Takes is how many posts of a catch one turn takes.
	Takes(caught int) int
	// Asked is the rule's judgement at a moment as conditions, for a store that finds posts by itself: the rule catches a post,
	// of those of Chosen, where at least one of them holds.
	Asked(at time.Time) []condition.Moment
	// Chosen are the posts that were chosen by hand, nil for all, and those that were left out by hand.
	Chosen() (only, without map[int64]bool)
	// Agree notes that an editor has agreed to a catch of a size.
	Agree(caught int)
}

// Speaker is a rule that sends messages to channels.
type Speaker interface {
	Rule
	// Speaks are the numbers of the channels, in the rule's order.
	Speaks() []int64
	// Unfit lists messages that a channel cannot take, those of the posts that would go out
	// next first: at most so many, of at most so many posts.
	Unfit(t *Turn, most, posts int) []Unfit
}

// Unfit is a message of a rule that a channel cannot take.
type Unfit struct {
	Post    int64
	Channel int64
	Wording int // its number
	Over    int // by how much it is too long, in graphemes, or in bytes where only those are too many; 0: it is not
	Why     string
}

// Shuffle is the key of shuffled rounds: posts that have not come out in the present
// round are first, in an order of the round's own.
func Shuffle(seed uint64, present, last int, post int64) catch.Key {
	round := max(present, last+1, 1)
	return catch.Key{First: int64(round), Tie: cadence.Mix(seed, uint64(round), uint64(post))}
}

// FewPosts warns of a rule that brings posts out and has none, or only one.
func FewPosts(caught int) []string {
	switch caught {
	case 0:
		return []string{"This rule has no post to bring out right now. Loosen its conditions, ages or rest periods."}
	case 1:
		return []string{"This rule has only one post to bring out right now; it would be the same one every time."}
	}
	return nil
}
