package deed

import (
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/core/rhythm"
)

// Scene is all that is known of a site at a moment.
type Scene struct {
	Zone   civil.Zone
	Paused bool
	// Resumed is when an editor let the site go on last; nothing is decided before the first
	// whole minute from then on. Zero: never paused.
	Resumed time.Time
	CatchUp CatchUp
	Fresh   time.Duration // with AtOnceIfFresh
	Rhythm  rhythm.Rhythm // its gap, and the slots of catching up

	// Posts are the facts of the posts that rules may apply to, and of those that wait or of
	// which an outing is planned. For deciding a single turn it is enough to hold what that
	// turn may concern.
	Posts []*condition.Facts
	// Published is how many posts the site has published, where Posts does not hold them
	// all; 0 means that it does.
	Published int
	// Scheduled are the posts that wait for their time, without those that are held.
	Scheduled []Scheduled
	// Standing are the times of other posts that the gap is kept from: published lately,
	// or held.
	Standing []Place

	Rules    []Rule // of all kinds, in any order
	Channels []Channel
	Planned  []Outing // that have not gone out yet
	InHand   []InHand // turns that have not been served
	// Announcements are what is shared when a post comes out; those of posts that have their
	// own say are in OwnAnnouncements, by post.
	Announcements    []Announcement
	OwnAnnouncements map[int64][]Announcement
	Pasts            []Record
	// Edits are the timed edits that wait. Those that are asked about have their texts, and their posts are in Live; Categories are then all
	// of the site, and Slugs say which posts the addresses that they want belong to.
	Edits      []Edit
	Live       map[int64]revise.Text
	Categories map[int64]string
	Slugs      map[string]int64
	// Binned are posts in the bin, which are deleted for good after so many days; 0: they stay.
	Binned   []Binned
	BinDays  int
	Refusals []Refusal // by the networks, still in force when the scene was made

	Site  int64         // its number, for short links
	Lists message.Lists // for alternatives in wordings
	// Link returns the address of a post for a message; nil leaves links out.
	Link func(f *condition.Facts) string
	// Short returns the address of a short link; nil: there are none.
	Short func(code string) string
	// Until is the latest moment that will be asked about; the zero time is no bound.
	Until time.Time

	ids int64 // how many outings were planned in the world that it was made of
}

// Record is what one rule did with one post before: how often it was shared on the
// channel, when last, in which round, and what it earned. A rule that republishes has
// the channel 0, and outings without a rule have the rule 0.
type Record struct {
	Rule, Channel, Post int64
	N                   int
	Last                time.Time
	Round               int
	Earned              int
	Used                int // the number of the wording it used last, counted from 1; 0: not known
	// Told is when somebody was told last that the rule is about to act on the post; zero: never.
	Told time.Time
	// Read is when somebody said last that the post may come out again; zero: never.
	Read time.Time
}
