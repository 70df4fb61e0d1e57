// Package post says where a post stands, and how that changes.
//
// A State is all that the plan, the rules and the readers know of where a post stands:
// its text is another matter. Each change is a method that returns the new state and
// leaves the old one as it was; its comment says what it keeps. Whether a change may be
// made, and by whom, is for callers to say. The package is pure.
package post

import (
	"encoding/json"
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
)

// Status is what a post is to its readers.
type Status string

// The statuses. A draft may be cleared; the others are what they say.
const (
	Draft     Status = "draft"
	Scheduled Status = "scheduled"
	Published Status = "published"
	Archived  Status = "archived"
	Binned    Status = "binned"
	Linked    Status = "linked" // a link item: shared by rules, without a page
)

// Answer is what readers get who ask for an archived post.
type Answer string

// The answers.
const (
	Page      Answer = ""         // the page, with its notice
	Elsewhere Answer = "redirect" // another post (301, RFC 9110, section 15.4.2)
	Gone      Answer = "gone"     // word that it is gone (410, RFC 9110, section 15.5.11)
)

// Answers lists the answers.
var Answers = []Answer{Page, Elsewhere, Gone}

// State is where a post stands. Its zero times are none.
type State struct {
	Status Status
	Page   bool // pages do not queue: they have no place on the shelf

	Cleared    bool   // a draft on the shelf
	Rank       *int64 // its place there, the lower first; nil where it is not
	HandedInAt time.Time
	NotBefore  time.Time // when a draft may come out
	Deadline   time.Time

	DueAt  time.Time // of a scheduled post
	Pinned bool      // an editor chose that time
	Held   bool      // it waits for an editor instead of coming out
	Slot   rhythm.SlotID

	PublishedAt      time.Time // last time it came out
	FirstPublishedAt time.Time
	RepublishedAt    time.Time // last time it came out again
	TimesRepublished int

	ArchivedAt time.Time
	Notice     string // to readers, above the text of a post that is out or archived
	Answer     Answer // what readers of an archived post get
	LeadsTo    int64  // with Elsewhere: the post that they are sent on to; 0 where it is gone

	BinnedAt   time.Time
	BinnedFrom Status // what it was before; "" where it is not in the bin
}

// IsOut tells whether readers find the post in lists and feeds.
func (s State) IsOut() bool { return s.Status == Published }

// CanBeShared tells whether messages about the post may be sent: readers find what it tells of.
func (s State) CanBeShared() bool { return s.Status == Published || s.Status == Linked }

// Link makes a new post a link item, of a moment.
func (s State) Link(at time.Time) State {
	s = s.offPlan()
	s.Status, s.PublishedAt, s.FirstPublishedAt = Linked, at, at
	return s
}

// offPlan is the state without its place on the shelf or in the plan.
func (s State) offPlan() State {
	s.Cleared, s.Rank, s.HandedInAt = false, nil, time.Time{}
	s.DueAt, s.Pinned, s.Held, s.Slot = time.Time{}, false, false, rhythm.SlotID{}
	s.BinnedAt, s.BinnedFrom = time.Time{}, ""
	return s
}

// Clear puts a draft on the shelf, at a rank.
func (s State) Clear(rank int64) State {
	s = s.offPlan()
	s.Cleared, s.Rank = true, &rank
	return s
}

// Unclear takes a draft off the shelf, to be written on.
func (s State) Unclear() State { return s.offPlan() }

// HandIn says that a contributor is done with a draft.
func (s State) HandIn(at time.Time) State {
	s = s.offPlan()
	s.HandedInAt = at
	return s
}

// GiveBack gives a draft that was handed in back to its author.
func (s State) GiveBack() State { return s.offPlan() }

// Bound says when a draft may come out; zero times are no bounds. All else stays.
func (s State) Bound(notBefore, deadline time.Time) State {
	s.NotBefore, s.Deadline = notBefore, deadline
	return s
}

// Schedule gives a post a time, in a slot or beside all slots (the zero SlotID). When it
// was out before stays.
func (s State) Schedule(at time.Time, slot rhythm.SlotID) State {
	s = s.offPlan()
	s.Status, s.DueAt, s.Slot = Scheduled, at, slot
	return s
}

// Pin gives a post a time that an editor chose, beside all slots.
func (s State) Pin(at time.Time) State {
	s = s.Schedule(at, rhythm.SlotID{})
	s.Pinned = true
	return s
}

// Move gives a scheduled post another time: that it is pinned stays, that it is held ends.
func (s State) Move(at time.Time, slot rhythm.SlotID) State {
	pinned := s.Pinned
	s = s.Schedule(at, slot)
	s.Pinned = pinned
	return s
}

// Hold keeps a scheduled post from coming out. Its place in the plan stays its own.
func (s State) Hold() State {
	s.Held = true
	return s
}

// Release ends a hold.
func (s State) Release() State {
	s.Held = false
	return s
}

// Shelve takes a scheduled post out of the plan, back to the shelf at a rank. A page, which
// does not queue, is a draft again.
func (s State) Shelve(rank int64) State {
	s = s.offPlan()
	s.Status = Draft
	if s.Page {
		return s
	}
	return s.Clear(rank)
}

// Publish makes a post public at a moment. The first such moment is kept, and so is the
// slot it sits in: it stays used up.
func (s State) Publish(at time.Time) State {
	slot, pinned := s.Slot, s.Pinned
	s = s.offPlan()
	s.Status, s.PublishedAt, s.Slot, s.Pinned = Published, at, slot, pinned
	if s.FirstPublishedAt.IsZero() {
		s.FirstPublishedAt = at
	}
	return s.unarchived()
}

// unarchived is the state without what is only said of archived posts, and without a notice.
func (s State) unarchived() State {
	s.ArchivedAt, s.Notice, s.Answer, s.LeadsTo = time.Time{}, "", Page, 0
	return s
}

// Notify puts a notice to readers above a post that is out; "" takes it away. It stays until the post comes out
// again.
func (s State) Notify(notice string) State {
	s.Notice = notice
	return s
}

// PublishIn is Publish in a slot, or beside all slots (the zero SlotID), wherever the post
// was before.
func (s State) PublishIn(at time.Time, slot rhythm.SlotID) State {
	s.Slot, s.Pinned = slot, false
	return s.Publish(at)
}

// Republish brings a post that is out, out again: its date is now. The first date stays; a notice, which told of
// its age, does not.
func (s State) Republish(at time.Time) State {
	s = s.offPlan()
	s.Notice = ""
	s.PublishedAt, s.RepublishedAt = at, at
	s.TimesRepublished++
	return s
}

// Archive takes a post out of lists and feeds. Its page stays, with a notice, and its dates
// do.
func (s State) Archive(at time.Time, notice string) State {
	s = s.offPlan()
	s.Status, s.ArchivedAt, s.Notice = Archived, at, notice
	return s
}

// Answering says what readers of an archived post get; leadsTo is the post they are sent on to, with Elsewhere.
func (s State) Answering(a Answer, leadsTo int64) State {
	if a != Elsewhere {
		leadsTo = 0
	}
	s.Answer, s.LeadsTo = a, leadsTo
	return s
}

// ToDraft takes a post back to being written. When it first came out, and how often again,
// stays.
func (s State) ToDraft() State {
	s = s.offPlan()
	s.Status, s.PublishedAt = Draft, time.Time{}
	return s.unarchived()
}

// Bin puts a post into the bin. What it was is kept, with all its dates.
func (s State) Bin(at time.Time) State {
	was := s.Status
	s = s.offPlan()
	s.Status, s.BinnedAt, s.BinnedFrom = Binned, at, was
	return s
}

// Restore takes a post out of the bin. It is what it was before; one that was scheduled or
// never out is a draft, for its place may have gone to another.
func (s State) Restore() State {
	was := s.BinnedFrom
	s = s.offPlan()
	s.Status = was
	if s.Status == Scheduled || s.PublishedAt.IsZero() {
		s.Status = Draft
	}
	return s
}

// exact is as finely as moments are kept.
const exact = time.Microsecond

func same(a, b time.Time) bool { return a.IsZero() == b.IsZero() && a.Sub(b).Abs() <= exact }

// Stands tells whether another state is the same as far as undoing a change goes: nothing
// happened in between that undoing it would overrule.
func (s State) Stands(now State) bool {
	return s.Status == now.Status && s.Cleared == now.Cleared && s.Held == now.Held &&
		s.HandedInAt.IsZero() == now.HandedInAt.IsZero() &&
		same(s.DueAt, now.DueAt) && same(s.PublishedAt, now.PublishedAt) && s.Notice == now.Notice
}

// Undo is this state with what a change took from it given back: the state before that
// change. A time in the plan that has passed by now is not given back, since nothing may
// come out by an undo: the post goes to the shelf instead, without a rank.
func (s State) Undo(before State, now time.Time) State {
	back := before
	back.Page, back.NotBefore, back.Deadline = s.Page, s.NotBefore, s.Deadline
	if before.Status == Scheduled && !before.DueAt.After(now) {
		back = s.offPlan()
		back.Status, back.Cleared, back.PublishedAt = Draft, !s.Page, time.Time{}
	}
	back.FirstPublishedAt = s.FirstPublishedAt
	if same(s.FirstPublishedAt, s.PublishedAt) && !same(back.PublishedAt, s.PublishedAt) {
		back.FirstPublishedAt = back.PublishedAt // it was this publication that is undone
	}
	if !(s.IsOut() && before.IsOut()) { // otherwise it was a republication
		back.RepublishedAt, back.TimesRepublished = s.RepublishedAt, s.TimesRepublished
	}
	switch back.Status {
	case Archived, Binned:
	case Published:
		back.ArchivedAt, back.Answer, back.LeadsTo = time.Time{}, Page, 0
	default:
		back = back.unarchived()
	}
	if back.Status != Scheduled {
		back.Held, back.Slot = false, rhythm.SlotID{}
	}
	if back.Status == Binned && back.BinnedFrom == "" {
		back.BinnedAt, back.BinnedFrom = now, s.Status
	}
	return back
}

// kept is a state as it is written down.
type kept struct {
	Status           Status      `json:"status"`
	Cleared          bool        `json:"cleared,omitempty"`
	Rank             *int64      `json:"shelf_rank,omitempty"`
	DueAt            time.Time   `json:"due_at,omitzero"`
	Pinned           bool        `json:"pinned,omitempty"`
	Held             bool        `json:"held,omitempty"`
	RhythmID         int64       `json:"rhythm_id,omitempty"`
	SlotDate         *civil.Date `json:"slot_date,omitempty"`
	SlotOpening      *string     `json:"slot_opening,omitempty"`
	SlotOrdinal      *int        `json:"slot_ordinal,omitempty"`
	PublishedAt      time.Time   `json:"published_at,omitzero"`
	NotBefore        time.Time   `json:"not_before,omitzero"`
	Deadline         time.Time   `json:"deadline,omitzero"`
	FirstPublishedAt time.Time   `json:"first_published_at,omitzero"`
	RepublishedAt    time.Time   `json:"republished_at,omitzero"`
	TimesRepublished int         `json:"times_republished,omitempty"`
	ArchivedAt       time.Time   `json:"archived_at,omitzero"`
	HandedInAt       time.Time   `json:"handed_in_at,omitzero"`
	Notice           string      `json:"notice,omitempty"`
	Answer           Answer      `json:"answer,omitempty"`
	LeadsTo          *int64      `json:"leads_to,omitempty"`
	BinnedAt         time.Time   `json:"binned_at,omitzero"`
	BinnedFrom       Status      `json:"binned_from,omitempty"`
}

// MarshalJSON writes the state as the logbook keeps it; whether the post is a page is not
// part of that.
func (s State) MarshalJSON() ([]byte, error) {
	k := kept{Status: s.Status, Cleared: s.Cleared, Rank: s.Rank, DueAt: s.DueAt, Pinned: s.Pinned, Held: s.Held,
		PublishedAt: s.PublishedAt,
		NotBefore:   s.NotBefore, Deadline: s.Deadline, FirstPublishedAt: s.FirstPublishedAt, RepublishedAt: s.RepublishedAt,
		TimesRepublished: s.TimesRepublished, ArchivedAt: s.ArchivedAt, HandedInAt: s.HandedInAt, Notice: s.Notice,
		Answer: s.Answer, BinnedAt: s.BinnedAt, BinnedFrom: s.BinnedFrom}
	if s.LeadsTo != 0 {
		k.LeadsTo = &s.LeadsTo
	}
	if s.Slot != (rhythm.SlotID{}) {
		k.RhythmID, k.SlotDate, k.SlotOpening, k.SlotOrdinal = s.Slot.Rhythm, &s.Slot.Date, &s.Slot.Opening, &s.Slot.Ordinal
	}
	return json.Marshal(k)
}

// UnmarshalJSON reads what MarshalJSON wrote.
func (s *State) UnmarshalJSON(text []byte) error {
	var k kept
	if err := json.Unmarshal(text, &k); err != nil {
		return fmt.Errorf("reading a post's state: %w", err)
	}
	*s = State{Status: k.Status, Cleared: k.Cleared, Rank: k.Rank, DueAt: k.DueAt, Pinned: k.Pinned, Held: k.Held,
		PublishedAt: k.PublishedAt,
		NotBefore:   k.NotBefore, Deadline: k.Deadline, FirstPublishedAt: k.FirstPublishedAt, RepublishedAt: k.RepublishedAt,
		TimesRepublished: k.TimesRepublished, ArchivedAt: k.ArchivedAt, HandedInAt: k.HandedInAt, Notice: k.Notice,
		Answer: k.Answer, BinnedAt: k.BinnedAt, BinnedFrom: k.BinnedFrom}
	if k.LeadsTo != nil {
		s.LeadsTo = *k.LeadsTo
	}
	if k.SlotDate != nil && k.SlotOpening != nil && k.SlotOrdinal != nil {
		s.Slot = rhythm.SlotID{Rhythm: k.RhythmID, Date: *k.SlotDate, Opening: *k.SlotOpening, Ordinal: *k.SlotOrdinal}
	}
	return nil
}
