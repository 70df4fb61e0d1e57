// Package deed decides what is to be done now.
//
// Decide takes a snapshot of a site's plan and a moment and returns the deeds that
// are due, each with its reason, and the moment at which to ask again. The engine
// does these deeds for real; a forecast applies them to its copy of the snapshot
// and moves its clock on. Nothing else decides. The package is pure.
package deed

import (
	"cmp"
	"slices"
	"strconv"
	"time"
)

// Kind says what a deed does.
type Kind string

// Publish makes a scheduled post public.
const Publish Kind = "publish"

// Scheduled is a post that waits for its time.
type Scheduled struct {
	Post   int64
	Due    time.Time
	Pinned bool // its time was chosen by hand
}

// Snapshot is what Decide needs to know of a site: the posts that wait, in any
// order. It may leave out posts that are due after others it holds, but then the
// moment to ask again is only as good as what it holds.
type Snapshot struct {
	Scheduled []Scheduled
}

// Deed is one thing to do to one post.
type Deed struct {
	Kind   Kind
	Post   int64
	Due    time.Time // when it should have been done; never after the moment asked about
	Reason string    // a sentence for the logbook
}

// Decision is the answer for one moment.
type Decision struct {
	Deeds []Deed    // in order of their time, then of the post's number
	Next  time.Time // when to ask again; zero where nothing waits
}

// late is from when on a publication counts as late rather than on time.
const late = time.Minute

// Decide returns what is due at the moment. A post is never published before its
// time, and a post that is not in the snapshot is not touched.
func Decide(s Snapshot, at time.Time) Decision {
	var d Decision
	for _, p := range s.Scheduled {
		if p.Due.After(at) {
			if d.Next.IsZero() || p.Due.Before(d.Next) {
				d.Next = p.Due
			}
			continue
		}
		d.Deeds = append(d.Deeds, Deed{Publish, p.Post, p.Due, reason(p, at)})
	}
	slices.SortFunc(d.Deeds, func(a, b Deed) int {
		return cmp.Or(a.Due.Compare(b.Due), cmp.Compare(a.Post, b.Post))
	})
	return d
}

func reason(p Scheduled, at time.Time) string {
	why := "Its slot in the rhythm had come."
	if p.Pinned {
		why = "The time set by hand had come."
	}
	if overdue := at.Sub(p.Due); overdue >= late {
		return why + " It was " + spell(overdue) + " overdue, since nothing could publish it before."
	}
	return why
}

// spell says a duration in its largest unit, such as "3 hours".
func spell(d time.Duration) string {
	units := []struct {
		size time.Duration
		name string
	}{{24 * time.Hour, "day"}, {time.Hour, "hour"}, {time.Minute, "minute"}}
	for _, u := range units {
		if n := int(d / u.size); n > 0 {
			return count(n, u.name)
		}
	}
	return "less than a minute"
}

// count says a number of things: "1 day", "3 days".
func count(n int, thing string) string {
	if n == 1 {
		return "1 " + thing
	}
	return strconv.Itoa(n) + " " + thing + "s"
}
