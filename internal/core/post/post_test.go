package post_test

import (
	"encoding/json"
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
)

var (
	noon = time.Date(2026, 11, 24, 12, 0, 0, 0, time.UTC)
	slot = rhythm.SlotID{Rhythm: 3, Date: civil.MustDate("2026-11-25"), Opening: "a", Ordinal: 1}
)

func rank(n int64) *int64 { return &n }

func at(hours int) time.Time { return noon.Add(time.Duration(hours) * time.Hour) }

// What each change keeps and changes, written out.
func TestChanges(t *testing.T) {
	t.Parallel()
	draft := post.State{Status: post.Draft}
	handed := post.State{Status: post.Draft, HandedInAt: at(-1), Deadline: at(90)}
	shelved := post.State{Status: post.Draft, Cleared: true, Rank: rank(4), NotBefore: at(2)}
	scheduled := post.State{Status: post.Scheduled, DueAt: at(5), Slot: slot, FirstPublishedAt: at(-900)}
	pinned := post.State{Status: post.Scheduled, DueAt: at(5), Pinned: true}
	held := post.State{Status: post.Scheduled, DueAt: at(-5), Slot: slot, Held: true}
	out := post.State{Status: post.Published, PublishedAt: at(-30), FirstPublishedAt: at(-900), RepublishedAt: at(-30),
		TimesRepublished: 2, Slot: slot}
	archived := post.State{Status: post.Archived, PublishedAt: at(-30), FirstPublishedAt: at(-30), ArchivedAt: at(-2),
		Notice: "Old."}
	item := post.State{Status: post.Linked, PublishedAt: at(-7), FirstPublishedAt: at(-7)}
	for name, c := range map[string]struct{ is, want post.State }{
		"link":                {post.State{}.Link(at(-7)), item},
		"bin a link item":     {item.Bin(at(0)), post.State{Status: post.Binned, PublishedAt: at(-7), FirstPublishedAt: at(-7), BinnedAt: at(0), BinnedFrom: post.Linked}},
		"restore a link item": {item.Bin(at(0)).Restore(), item},
		"undo the bin of one": {item.Bin(at(0)).Undo(item, at(1)), item},

		"clear":     {handed.Clear(7), post.State{Status: post.Draft, Cleared: true, Rank: rank(7), Deadline: at(90)}},
		"unclear":   {shelved.Unclear(), post.State{Status: post.Draft, NotBefore: at(2)}},
		"hand in":   {draft.HandIn(at(0)), post.State{Status: post.Draft, HandedInAt: at(0)}},
		"give back": {handed.GiveBack(), post.State{Status: post.Draft, Deadline: at(90)}},
		"bound": {shelved.Bound(time.Time{}, at(9)), post.State{Status: post.Draft, Cleared: true,
			Rank: rank(4), Deadline: at(9)}},
		"schedule": {shelved.Schedule(at(5), slot), post.State{Status: post.Scheduled, DueAt: at(5), Slot: slot,
			NotBefore: at(2)}},
		"pin": {scheduled.Pin(at(6)), post.State{Status: post.Scheduled, DueAt: at(6), Pinned: true,
			FirstPublishedAt: at(-900)}},
		"move": {pinned.Move(at(7), slot), post.State{Status: post.Scheduled, DueAt: at(7), Pinned: true,
			Slot: slot}},
		"move a held": {held.Move(at(7), rhythm.SlotID{}), post.State{Status: post.Scheduled, DueAt: at(7)}},
		"hold": {scheduled.Hold(), post.State{Status: post.Scheduled, DueAt: at(5), Slot: slot, Held: true,
			FirstPublishedAt: at(-900)}},
		"release": {held.Release(), post.State{Status: post.Scheduled, DueAt: at(-5), Slot: slot}},
		"shelve": {scheduled.Shelve(-1), post.State{Status: post.Draft, Cleared: true, Rank: rank(-1),
			FirstPublishedAt: at(-900)}},
		"shelve a page": {post.State{Status: post.Scheduled, Page: true, DueAt: at(5)}.Shelve(-1),
			post.State{Status: post.Draft, Page: true}},
		"publish": {scheduled.Publish(at(5)), post.State{Status: post.Published, PublishedAt: at(5),
			FirstPublishedAt: at(-900), Slot: slot}},
		"publish pinned": {pinned.Publish(at(5)), post.State{Status: post.Published, PublishedAt: at(5),
			FirstPublishedAt: at(5), Pinned: true}},
		"publish now": {pinned.PublishIn(at(1), rhythm.SlotID{}),
			post.State{Status: post.Published, PublishedAt: at(1), FirstPublishedAt: at(1)}},
		"backdate": {shelved.PublishIn(at(-9), slot), post.State{Status: post.Published, PublishedAt: at(-9),
			FirstPublishedAt: at(-9), Slot: slot, NotBefore: at(2)}},
		"republish": {out.Republish(at(0)), post.State{Status: post.Published, PublishedAt: at(0),
			FirstPublishedAt: at(-900), RepublishedAt: at(0), TimesRepublished: 3}},
		"archive": {out.Archive(at(0), "Old."), post.State{Status: post.Archived, PublishedAt: at(-30),
			FirstPublishedAt: at(-900), RepublishedAt: at(-30),
			TimesRepublished: 2, ArchivedAt: at(0), Notice: "Old."}},
		"to draft": {archived.ToDraft(), post.State{Status: post.Draft, FirstPublishedAt: at(-30)}},
		"bin an archived": {archived.Bin(at(0)), post.State{Status: post.Binned, PublishedAt: at(-30),
			FirstPublishedAt: at(-30), ArchivedAt: at(-2), Notice: "Old.", BinnedAt: at(0), BinnedFrom: post.Archived}},
		"and back": {archived.Bin(at(0)).Restore(), archived},
		"bin a scheduled": {scheduled.Bin(at(0)).Restore(), post.State{Status: post.Draft,
			FirstPublishedAt: at(-900)}},
		"bin a shelved": {shelved.Bin(at(0)).Restore(), post.State{Status: post.Draft, NotBefore: at(2)}},
		"published, binned": {draft.PublishIn(at(-3), rhythm.SlotID{}).Bin(at(0)).Restore(),
			post.State{Status: post.Published, PublishedAt: at(-3), FirstPublishedAt: at(-3)}},
	} {
		assert.Equal(t, c.want, c.is, name)
	}
	assert.True(t, out.IsOut())
	assert.False(t, archived.IsOut())
}

func TestUndoing(t *testing.T) {
	t.Parallel()
	scheduled := post.State{Status: post.Scheduled, DueAt: at(5), Slot: slot}
	pinned := post.State{Status: post.Scheduled, DueAt: at(5), Pinned: true}
	out := post.State{Status: post.Published, PublishedAt: at(-30), FirstPublishedAt: at(-900), RepublishedAt: at(-30),
		TimesRepublished: 2}
	for name, c := range map[string]struct {
		changed, before post.State
		now             time.Time
		want            post.State
	}{
		"to its time": {scheduled.Shelve(1), scheduled, at(0), scheduled},
		"whose time has passed": {scheduled.Shelve(1), scheduled, at(6),
			post.State{Status: post.Draft, Cleared: true}},
		"a page's time has passed": {post.State{Status: post.Draft, Page: true}, scheduled, at(6),
			post.State{Status: post.Draft, Page: true}},
		"a publication, from its time": {pinned.Publish(at(2)), pinned, at(3), pinned},
		"the first one, time passed": {pinned.Publish(at(5)), pinned, at(6),
			post.State{Status: post.Draft, Cleared: true}},
		"a republication":        {out.Republish(at(0)), out, at(1), out},
		"an archiving":           {out.Archive(at(0), "Old."), out, at(1), out},
		"a taking back to draft": {out.ToDraft(), out, at(1), out},
		"a binning":              {out.Bin(at(0)), out, at(1), out},
		"a restoring": {out.Bin(at(0)).Restore(),
			post.State{Status: post.Binned, PublishedAt: at(-30)}, at(1), out.Bin(at(1))},
		"a move keeps bounds of today": {scheduled.Move(at(9), slot).Bound(at(1), at(90)), scheduled, at(0),
			scheduled.Bound(at(1), at(90))},
		"a later publication of a post": {post.State{Status: post.Scheduled, DueAt: at(5),
			FirstPublishedAt: at(-900)}.Publish(at(5)), scheduled, at(4), post.State{Status: post.Scheduled,
			DueAt: at(5), Slot: slot, FirstPublishedAt: at(-900)}},
	} {
		assert.Equal(t, c.want, c.changed.Undo(c.before, c.now), name)
	}
	assert.True(t, scheduled.Stands(scheduled))
	assert.True(t, scheduled.Stands(scheduled.Bound(at(1), at(2))), "bounds are another matter")
	for _, other := range []post.State{scheduled.Hold(), scheduled.Move(at(6), slot), scheduled.Publish(at(5)),
		scheduled.Shelve(1)} {
		assert.False(t, scheduled.Stands(other))
	}
}

// anything does some change that fits the state.
func anything(t *rapid.T, s post.State, now time.Time) post.State {
	slots := rapid.SampledFrom([]rhythm.SlotID{{}, slot})
	n := rapid.Int64Range(-5, 5).Draw(t, "rank")
	later := now.Add(time.Duration(rapid.IntRange(1, 100).Draw(t, "later")) * time.Hour)
	switch s.Status {
	case post.Draft:
		switch rapid.IntRange(0, 6).Draw(t, "of a draft") {
		case 0:
			if s.Page {
				return s
			}
			return s.Clear(n)
		case 1:
			return s.Unclear()
		case 2:
			return s.HandIn(now)
		case 3:
			return s.Pin(later)
		case 4:
			return s.Schedule(later, slots.Draw(t, "slot"))
		case 5:
			return s.PublishIn(now, slots.Draw(t, "slot"))
		}
	case post.Scheduled:
		switch rapid.IntRange(0, 5).Draw(t, "of a scheduled") {
		case 0:
			return s.Move(later, slots.Draw(t, "slot"))
		case 1:
			return s.Hold()
		case 2:
			return s.Release()
		case 3:
			return s.Shelve(n)
		case 4:
			return s.Publish(now)
		}
	case post.Published:
		switch rapid.IntRange(0, 3).Draw(t, "of a published") {
		case 0:
			return s.Republish(now)
		case 1:
			return s.Archive(now, "Old.")
		case 2:
			return s.ToDraft()
		}
	case post.Archived:
		if rapid.Bool().Draw(t, "of an archived") {
			return s.ToDraft()
		}
	case post.Binned:
		return s.Restore()
	}
	return s.Bin(now)
}

// sound says what of the rules of the data (the checks of the table posts) a state breaks.
func sound(s post.State) error {
	out, binned := s.Status == post.Published || s.Status == post.Archived, s.Status == post.Binned
	switch {
	case !binned && out == s.PublishedAt.IsZero():
		return fmt.Errorf("published has a date")
	case (s.Status == post.Scheduled) == s.DueAt.IsZero():
		return fmt.Errorf("scheduled has a time")
	case s.Cleared && (s.Status != post.Draft || s.Page), s.Cleared == (s.Rank == nil):
		return fmt.Errorf("only drafts are on the shelf")
	case s.Held && s.Status != post.Scheduled:
		return fmt.Errorf("only what waits is held")
	case !s.HandedInAt.IsZero() && (s.Status != post.Draft || s.Cleared):
		return fmt.Errorf("handed in is a draft")
	case binned == s.BinnedAt.IsZero(), binned == (s.BinnedFrom == ""):
		return fmt.Errorf("the bin knows from where")
	case !s.ArchivedAt.IsZero() && s.Status != post.Archived && !binned:
		return fmt.Errorf("archived has a date")
	case !s.PublishedAt.IsZero() && (s.FirstPublishedAt.IsZero() || s.FirstPublishedAt.After(s.PublishedAt)):
		return fmt.Errorf("the first publication is no later than the last")
	}
	return nil
}

// Whatever is done to a post, its state keeps the rules of the data, can be written down
// and read again, and each change can be undone at once.
func TestWhateverIsDoneTheStateIsSound(t *testing.T) {
	t.Parallel()
	rapid.Check(t, func(t *rapid.T) {
		s := post.State{Status: post.Draft, Page: rapid.Bool().Draw(t, "page")}
		first := time.Time{}
		for i := range rapid.IntRange(1, 20).Draw(t, "changes") {
			now := noon.Add(time.Duration(i) * time.Minute)
			next := anything(t, s, now)
			require.NoError(t, sound(next), "%+v after %+v", next, s)
			if first.IsZero() {
				first = next.FirstPublishedAt
			}
			require.Equal(t, first, next.FirstPublishedAt, "the first date is kept")
			raw, err := json.Marshal(next)
			require.NoError(t, err)
			read := post.State{}
			require.NoError(t, json.Unmarshal(raw, &read))
			read.Page = next.Page
			require.Equal(t, next, read)
			back := next.Undo(s, now)
			if back.Cleared && back.Rank == nil {
				back.Rank = rank(0)
			}
			require.NoError(t, sound(back), "undone %+v to %+v", next, s)
			if s.Status != post.Published { // its slot is not given back
				require.True(t, back.Stands(s) || s.Status == post.Scheduled && !s.DueAt.After(now),
					"%+v undone to %+v", s, back)
			}
			s = next
		}
	})
}

// Lines of the logbook from before states were whole can still be read.
func TestOldLinesAreRead(t *testing.T) {
	t.Parallel()
	var s post.State
	require.NoError(t, json.Unmarshal([]byte(`{"status": "scheduled", "due_at": "2026-11-24T17:00:00Z", "pinned": false, "rhythm_id": 3,
		"slot_date": "2026-11-25", "slot_opening": "a", "slot_ordinal": 1}`), &s))
	assert.Equal(t, post.State{Status: post.Scheduled, DueAt: at(5), Slot: slot}, s)
	require.Error(t, json.Unmarshal([]byte(`{"due_at": "soon"}`), &s))
}

func ExampleState_Publish() {
	s := post.State{Status: post.Scheduled, DueAt: noon}
	s = s.Publish(noon)
	s = s.Archive(noon.AddDate(0, 1, 0), "This page is old.")
	fmt.Println(s.Status, s.IsOut(), s.PublishedAt.Format(time.DateOnly))
	// Output: archived false 2026-11-24
}
