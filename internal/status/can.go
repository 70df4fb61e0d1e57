package status

import (
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/store"
)

// PostDeed is something that somebody does to one post.
type PostDeed string

// The deeds to one post.
const (
	DoClear    PostDeed = "clear"     // put a draft on the shelf
	DoUnclear  PostDeed = "unclear"   // take it off the shelf
	DoPlace    PostDeed = "place"     // have the rhythm, or a pattern, give it a time
	DoRetime   PostDeed = "retime"    // give it a time by hand
	DoBound    PostDeed = "bound"     // say between which dates it may come out
	DoShelve   PostDeed = "shelve"    // take its time from it
	DoHold     PostDeed = "hold"      // keep it from coming out
	DoRelease  PostDeed = "release"   // let it go before its time
	DoPublish  PostDeed = "publish"   // make it public now
	DoHandIn   PostDeed = "hand in"   // ask for its review
	DoGiveBack PostDeed = "give back" // send it back to its author
	DoBin      PostDeed = "bin"
	DoRestore  PostDeed = "restore" // take it out of the bin
	DoDelete   PostDeed = "delete"  // for good
)

// PostDeeds are all deeds to one post, in the order in which a screen offers them.
func PostDeeds() []PostDeed {
	return []PostDeed{DoPlace, DoClear, DoUnclear, DoRetime, DoBound, DoShelve, DoHold, DoRelease, DoPublish, DoHandIn,
		DoGiveBack, DoRestore, DoDelete, DoBin}
}

// Situation is what of a post decides which deeds can be done to it.
type Situation struct {
	Status   store.Status
	Kind     string // post, page or link
	Title    string
	HasText  bool
	Cleared  bool
	Held     bool
	HandedIn bool
	DueAt    *time.Time
}

// SituationOf is that of a post.
func SituationOf(p store.Post) Situation {
	return Situation{Status: p.Status, Kind: p.Kind, Title: p.Title, HasText: p.Body != "", Cleared: p.Cleared,
		Held: p.Held, HandedIn: p.HandedInAt != nil, DueAt: p.DueAt}
}

// Offered lists the deeds that can be done to the post as it stands, and those that only
// a title or a text of it is wanting for.
func (s Situation) Offered(now time.Time) (offered []PostDeed) {
	for _, deed := range PostDeeds() {
		if bad := s.Bars(deed, now); bad == nil || bad.Field == "title" || bad.Field == "body" {
			offered = append(offered, deed)
		}
	}
	return offered
}

// Bars says why a deed cannot be done to the post as it stands; nil where it can.
func (s Situation) Bars(deed PostDeed, now time.Time) *act.Invalid {
	if s.Kind == "link" && deed != DoBin && deed != DoRestore && deed != DoDelete {
		return act.Invalidf("kind", "A link item has no page to publish; rules share it as it is.")
	}
	draft, scheduled := s.Status == store.Draft, s.Status == store.Scheduled
	switch deed {
	case DoClear:
		switch {
		case !draft:
			return act.Invalidf("cleared", "Only a draft can go on the shelf; this one is %s.", s.Status)
		case s.Cleared:
			return act.Invalidf("cleared", "It is on the shelf already.")
		case s.Kind != "post":
			return act.Invalidf("kind", "A page doesn’t go on the shelf. Publish it, or give it a time.")
		}
		return s.lacks("put it on the shelf")
	case DoPlace:
		switch {
		case s.Kind != "post":
			return act.Invalidf("kind", "A page doesn’t go on the shelf. Publish it, or give it a time.")
		case scheduled:
			return act.Invalidf("status", "It already has a time. Take it back to the shelf first.")
		case !draft:
			return act.Invalidf("status", "It is %s, not a draft.", s.Status)
		case s.Title == "":
			return act.Invalidf("title", "It has no title yet.")
		case !s.HasText:
			return act.Invalidf("body", "It has no text yet.")
		}
	case DoUnclear:
		if !s.Cleared {
			return act.Invalidf("cleared", "It is not on the shelf.")
		}
	case DoRetime:
		switch {
		case !draft && !scheduled:
			return act.Invalidf("at", "This post is %s already; it has no time to change.", s.Status)
		case s.Title == "":
			return act.Invalidf("title", "Give the post a title before you give it a time.")
		}
	case DoBound:
		if !draft {
			return act.Invalidf("status", "Only a draft has bounds; this post is %s.", s.Status)
		}
	case DoShelve:
		if !scheduled {
			return act.Invalidf("status", "Only a scheduled post can go back to the shelf; this one is %s.", s.Status)
		}
	case DoHold:
		switch {
		case !scheduled:
			return act.Invalidf("status", "Only a scheduled post can be held; this one is %s.", s.Status)
		case s.Held:
			return act.Invalidf("status", "It is on hold already.")
		}
	case DoRelease:
		switch {
		case !s.Held:
			return act.Invalidf("status", "This post is not on hold.")
		case !s.DueAt.After(now):
			return act.Invalidf("status", "Its time has passed. Publish it now, or give it another time.")
		}
	case DoPublish:
		if !draft && !scheduled {
			return act.Invalidf("status", "This post is %s already.", s.Status)
		}
		return s.lacks("publish it")
	case DoHandIn:
		switch {
		case !draft || s.Cleared:
			return act.Invalidf("status", "Only a draft that is not on the shelf can be sent for review.")
		case s.HandedIn:
			return act.Invalidf("status", "It is waiting for review already.")
		}
		return s.lacks("send it for review")
	case DoGiveBack:
		if !s.HandedIn {
			return act.Invalidf("status", "It is not waiting for review.")
		}
	case DoBin:
		if s.Status == store.Binned {
			return act.Invalidf("status", "It is in the bin already.")
		}
	case DoRestore:
		if s.Status != store.Binned {
			return act.Invalidf("status", "It is not in the bin.")
		}
	case DoDelete:
		if s.Status != store.Binned {
			return act.Invalidf("status", "Only a post in the bin can be deleted for good. Put it there first.")
		}
	}
	return nil
}

// lacks says what a post wants before it can be put before readers.
func (s Situation) lacks(before string) *act.Invalid {
	switch {
	case s.Title == "":
		return &act.Invalid{Field: "title", Message: fmt.Sprintf("Give the post a title before you %s.", before)}
	case !s.HasText:
		return &act.Invalid{Field: "body", Message: fmt.Sprintf("The post has no text yet. Write it before you %s.",
			before)}
	}
	return nil
}

// fits fails with *act.Invalid where a deed cannot be done to a post as it stands.
func fits(deed PostDeed, p store.Post, now time.Time) error {
	if bad := SituationOf(p).Bars(deed, now); bad != nil {
		return bad
	}
	return nil
}
