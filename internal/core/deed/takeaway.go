package deed

import (
	"cmp"
	"slices"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/post"
)

// The names of what takes a post away from readers.
const (
	KindArchive Kind = "archive"
	KindToDraft Kind = "to draft"
	KindBin     Kind = "bin"
)

// Archive takes a published post out of lists and feeds. The page stays, with a notice.
type Archive struct {
	Base
	Notice  string // what readers see
	Answer  post.Answer
	LeadsTo int64 // with Elsewhere
}

// Describe tells what the deed is.
func (d Archive) Describe() Description { return d.describe(KindArchive, TakenAway) }

func (d Archive) apply(w *World, at time.Time) {
	w.takeAway(d.Post, func(s post.State) post.State { return s.Archive(at, d.Notice).Answering(d.Answer, d.LeadsTo) })
}

// ToDraft takes a post back to being written.
type ToDraft struct{ Base }

// Describe tells what the deed is.
func (d ToDraft) Describe() Description { return d.describe(KindToDraft, TakenAway) }

func (d ToDraft) apply(w *World, _ time.Time) {
	w.takeAway(d.Post, post.State.ToDraft)
}

// Bin puts a post into the bin.
type Bin struct{ Base }

// Describe tells what the deed is.
func (d Bin) Describe() Description { return d.describe(KindBin, TakenAway) }

func (d Bin) apply(w *World, at time.Time) {
	w.takeAway(d.Post, func(s post.State) post.State { return s.Bin(at) })
	w.putInBin(Binned{d.Post, at})
}

func (w *World) takeAway(id int64, how func(post.State) post.State) {
	i, _ := w.find(id)
	if stateOf(w.posts[i]).IsOut() {
		w.published--
	}
	w.plan.drop(id)
	w.plan.version++
	w.stand(i, how)
	w.expiring = slices.DeleteFunc(w.expiring, func(j int) bool { return j == i })
	w.touch(i)
}

// Notice is what readers of a post that was archived at a moment see.
func Notice(at time.Time, zone civil.Zone) string {
	return "This page was archived on " + zone.In(at).Format("2 January 2006") + ". What it says may no longer hold."
}

// expiries are the posts of a world with an expiry of their own.
type expiries struct{ w *World }

func (e expiries) stage() Stage { return OwnExpiries }

func (e expiries) due(time.Time) (time.Time, bool) {
	if len(e.w.expiring) == 0 {
		return time.Time{}, false
	}
	return ownExpiry(e.w.posts[e.w.expiring[0]]), true
}

func (e expiries) act(at time.Time) Decision {
	zone := e.w.scene.Zone
	var d Decision
	for _, i := range e.w.expiring {
		f := e.w.posts[i]
		if ownExpiry(f).After(at) {
			break
		}
		d.Deeds = append(d.Deeds, Archive{Notice: Notice(at, zone), Base: Base{Post: f.Post, Due: ownExpiry(f),
			Reason: "Set to expire on " + zone.DateWords(f.Expires, at) + zone.In(f.Expires).Format(", 15:04") + "."}})
	}
	return d
}

// ownExpiry is when a post that has an expiry of its own goes: then, or once it has been kept long enough.
func ownExpiry(f *condition.Facts) time.Time { return civil.Later(f.Expires, f.KeptUntil) }

func (w *World) expires(f *condition.Facts) bool {
	return !f.Expires.IsZero() && !f.NeverExpires && stateOf(f).IsOut()
}

func (w *World) sortExpiring() {
	slices.SortFunc(w.expiring, func(a, b int) int {
		return cmp.Or(ownExpiry(w.posts[a]).Compare(ownExpiry(w.posts[b])), cmp.Compare(w.posts[a].Post, w.posts[b].Post))
	})
}
