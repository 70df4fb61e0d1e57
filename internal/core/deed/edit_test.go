package deed_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/core/upkeep"
)

// edited is a blog of two posts with a prepared change of the first one's title at noon of the 24th.
func edited() scene {
	s := blog(2)
	text := revise.Text{Title: "Post 1", Body: "A hill.\n\nA dome.", Slug: "post-1", Category: 3, Tags: []string{"hill"}}
	wanted := text
	wanted.Title = "Post 1 in winter"
	s.Live = map[int64]revise.Text{1: text}
	s.Categories = map[int64]string{3: "A", 4: "B"}
	s.Slugs = map[string]int64{"post-2": 2}
	s.Edits = []deed.Edit{{ID: 9, Post: 1, At: day(24, "12:00"), Base: text, Wanted: wanted}}
	return s
}

func TestATimedEditIsAppliedAtItsTime(t *testing.T) {
	t.Parallel()
	s := edited()
	e := &s.Edits[0]
	e.Wanted.Body, e.Wanted.Category, e.Wanted.Tags, e.Wanted.Fields, e.Wanted.Image = "A hill.\n\nA dome in snow.", 4, []string{"hill", "snow"}, map[string]string{"event": "2026-12-01"}, "/a.jpg"
	w := worldOf(s)
	assert.Equal(t, day(24, "12:00"), w.Decide(day(24, "09:00")).Next)
	d := w.Decide(day(24, "12:00"))
	require.Len(t, d.Deeds, 1)
	edit := d.Deeds[0].(deed.TimedEdit)
	assert.Equal(t, deed.Base{Post: 1, Due: day(24, "12:00"), Reason: "Changed as it was prepared: title, text, category, tags, featured image and the field “event”."}, edit.Base)
	assert.Equal(t, e.Wanted, edit.Text)
	w.Apply(d, day(24, "12:00"))
	f, _ := w.Post(1)
	assert.Equal(t, []any{"Post 1 in winter", "A hill.\n\nA dome in snow.", "B", []string{"hill", "snow"}, map[string]string{"event": "2026-12-01"}, true, day(24, "12:00"), 6},
		[]any{f.Title, f.Text, f.Category, f.Tags, f.Fields, f.FeaturedImage, f.Changed, f.Words})
	assert.Equal(t, "Post 1", s.Posts[0].Title, "the scene stays as it was")
	assert.True(t, w.Decide(day(24, "12:00")).IsIdle(), "once")
}

// What was changed meanwhile and does not touch stays; what touches holds the edit.
func TestATimedEditMergesOrWaitsForAnEditor(t *testing.T) {
	t.Parallel()
	for name, c := range map[string]struct {
		change func(*scene)
		says   string
		title  string
	}{
		"a change elsewhere": {func(s *scene) {
			text := s.Live[1]
			text.Body, text.Excerpt = "A hill.\n\nA dome by the sea.", "Short."
			s.Live[1] = text
		}, "Changed as it was prepared: title.", "Post 1 in winter"},
		"the same change": {func(s *scene) {
			s.Live[1] = s.Edits[0].Wanted
		}, "It says already what was prepared.", "Post 1 in winter"},
		"the same place": {func(s *scene) {
			text := s.Live[1]
			text.Title = "Post 1 by the sea"
			s.Live[1] = text
		}, "A timed edit is on hold: the post was changed meanwhile in the same places, in its title.", ""},
		"archived":  {func(s *scene) { s.Posts[0].Status = "archived" }, "A timed edit is on hold: its post is archived.", ""},
		"binned":    {func(s *scene) { s.Posts[0].Status = "binned" }, "A timed edit is on hold: its post is in the bin.", ""},
		"a draft":   {func(s *scene) { s.Posts[0].Status = "draft" }, "A timed edit is on hold: its post is a draft.", ""},
		"gone":      {func(s *scene) { s.Posts = nil }, "A timed edit is on hold: its post is gone.", ""},
		"category":  {func(s *scene) { s.Edits[0].Wanted.Category = 77 }, "A timed edit is on hold: its new category was deleted.", ""},
		"address":   {func(s *scene) { s.Edits[0].Wanted.Slug = "post-2" }, "A timed edit is on hold: its new address, post-2, belongs to another post.", ""},
		"its own":   {func(s *scene) { s.Edits[0].Wanted.Slug = "was-mine"; s.Slugs["was-mine"] = 1 }, "Changed as it was prepared: title and address.", "Post 1 in winter"},
		"an outage": {func(s *scene) { s.Edits[0].At = day(22, "12:00") }, "Changed as it was prepared: title. It was 2 days late.", "Post 1 in winter"},
	} {
		s := edited()
		c.change(&s)
		d := worldOf(s).Decide(day(24, "12:00"))
		require.Len(t, d.Deeds, 1, name)
		told := d.Describe()[0]
		assert.Equal(t, c.says, told.Reason, name)
		if c.title == "" {
			assert.Equal(t, deed.HoldEdit{Edit: 9, Base: told.Base}, d.Deeds[0], name)
			continue
		}
		edit := d.Deeds[0].(deed.TimedEdit)
		assert.Equal(t, c.title, edit.Text.Title, name)
		assert.Equal(t, s.Live[1].Excerpt, edit.Text.Excerpt, name)
		assert.Equal(t, s.Live[1].Body, edit.Text.Body, name)
	}
}

// Two edits of one minute follow one another, each on what the one before it left. Where both want one place, the second waits for an editor.
func TestTimedEditsOfOneMinuteFollowOneAnother(t *testing.T) {
	t.Parallel()
	s := edited()
	second, third := s.Edits[0], s.Edits[0]
	second.ID, second.Wanted.Title, second.Wanted.Excerpt = 10, "Post 1", "Short."
	third.ID, third.Wanted.Title = 11, "Post 1 in spring"
	s.Edits = []deed.Edit{third, second, s.Edits[0]}
	w := worldOf(s)
	var kinds []deed.Kind
	for {
		d := w.Decide(day(24, "12:00"))
		if d.IsIdle() {
			break
		}
		require.Len(t, d.Deeds, 1)
		kinds = append(kinds, d.Describe()[0].Kind)
		w.Apply(d, day(24, "12:00"))
	}
	assert.Equal(t, []deed.Kind{deed.KindTimedEdit, deed.KindTimedEdit, deed.KindHoldEdit}, kinds)
	f, _ := w.Post(1)
	assert.Equal(t, []string{"Post 1 in winter", "Short."}, []string{f.Title, f.Excerpt})
}

// An edit comes before its post's expiry, and before rules and outings of its minute: they see what it made of the post.
func TestATimedEditComesBeforeTheRules(t *testing.T) {
	t.Parallel()
	s := edited()
	s.Posts[0].Expires = day(24, "12:00")
	s.Planned = []deed.Outing{planned(t, 7, 1, day(24, "12:00"))}
	s.Posts[0].Category, s.Edits[0].Wanted.Category = "A", 4
	s.Expire = []upkeep.Expire{{RuleBase: base(t, 1, inCategory("B")), Action: upkeep.Bin}}
	all, _ := live(worldOf(s), day(24, "11:00"), day(24, "12:30"))
	require.NotEmpty(t, all)
	assert.Equal(t, happening{"24 12:00", deed.KindTimedEdit, 1}, all[0])
	assert.Equal(t, happening{"24 12:00", deed.KindArchive, 1}, all[1])

	s = edited()
	s.Planned = []deed.Outing{planned(t, 7, 1, day(24, "12:00"))}
	w := worldOf(s)
	w.Apply(w.Decide(day(24, "12:00")), day(24, "12:00"))
	d := w.Decide(day(24, "12:00"))
	require.Len(t, d.Deeds, 1)
	assert.Equal(t, "Look: Post 1 in winter", d.Deeds[0].(deed.Share).Message.Text)
}

// One that comes every year says so, each year with its number; in between, what editors change stays.
func TestAYearlyEditComesAgain(t *testing.T) {
	t.Parallel()
	s := edited()
	e := &s.Edits[0]
	yearly := revise.YearlyOf(e.At, halifax)
	e.Yearly, e.Wanted.Title = &yearly, "Showers of {year}"
	w := worldOf(s)
	d := w.Decide(day(24, "12:00"))
	edit := d.Deeds[0].(deed.TimedEdit)
	assert.Equal(t, "Showers of 2026", edit.Text.Title)
	assert.Equal(t, "Showers of 2026", edit.From.Title)
	next := yearly.In(2027, halifax)
	assert.Equal(t, next, edit.Next)
	w.Apply(d, day(24, "12:00"))
	d = w.Decide(day(24, "12:00"))
	assert.Equal(t, next, d.Next)
	d = w.Decide(next)
	assert.Equal(t, "Showers of 2027", d.Deeds[0].(deed.TimedEdit).Text.Title)
	assert.Equal(t, s.Edits[0].At, day(24, "12:00"), "the scene stays as it was")
}

func TestAPausedBlogEditsNothingUntilItGoesOn(t *testing.T) {
	t.Parallel()
	s := edited()
	s.Paused = true
	assert.True(t, worldOf(s).Decide(day(25, "00:00")).IsIdle())
	s.Paused, s.Resumed = false, day(25, "08:00")
	assert.Equal(t, deed.KindTimedEdit, worldOf(s).Decide(day(25, "08:00")).Describe()[0].Kind)
}
