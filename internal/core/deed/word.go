package deed

import "time"

// The names of what people are told before a rule acts on a post.
const (
	KindWarn      Kind = "warn"        // its author: it is about to expire
	KindAskToRead Kind = "ask to read" // it is to be looked through before it comes out again
)

// Word is what somebody is told before a rule acts on a post.
type Word struct {
	Base
	On time.Time // the rule does not act before
}

func (d Word) describe(k Kind) Description {
	told := d.Base.describe(k, NothingOf)
	told.To = d.On
	return told
}

func (d Word) apply(w *World, at time.Time) {
	i, _ := w.find(d.Post)
	w.told(d.Rule, i, at)
	w.touch(i)
}

// Warn tells a post's author that a rule is about to take it.
type Warn struct{ Word }

// Describe tells what the deed is.
func (d Warn) Describe() Description { return d.describe(KindWarn) }

// AskToRead asks that somebody look through a post before a rule brings it out again.
type AskToRead struct{ Word }

// Describe tells what the deed is.
func (d AskToRead) Describe() Description { return d.describe(KindAskToRead) }
