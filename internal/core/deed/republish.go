package deed

import (
	"time"

	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
)

// KindRepublish is the name of bringing a published post out again.
const KindRepublish Kind = "republish"

// Republish brings a published post out again, with a new date. Its address and its first
// date stay.
type Republish struct {
	Base
	Round int            // of shuffled rounds
	Says  []Announcement // what is shared of it then
}

// Describe tells what the deed is.
func (d Republish) Describe() Description { return d.describe(KindRepublish, ComesBack) }

func (d Republish) apply(w *World, at time.Time) {
	w.move(d.Post, at, rhythm.SlotID{})
	i, _ := w.find(d.Post)
	w.stand(i, func(s post.State) post.State { return s.Republish(at) })
	w.did(d.Rule, i, 0, done{at: at, round: d.Round})
	w.touch(i)
	w.announceAs(i, d.Says, at)
}
