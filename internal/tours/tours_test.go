package tours_test

import (
	"context"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/tour"
	"dapper.example/internal/enact"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
	"dapper.example/internal/tours"
	"dapper.example/internal/undo"
)

type room struct {
	pgtest.World
	tours.Editor
	t       *testing.T
	lantern int64
	hearth  int64
	post    int64
}

const body = `A mirror that looks dirty by torchlight is usually clean enough for another year.

We wash ours every second spring, in forty litres of cold water with three drops of soap.

Marguerite dropped one in 2019, and the chip at its edge has never cost us a star.`

func newRoom(t *testing.T) room {
	t.Parallel()
	w := pgtest.NewWorld(t, pgtest.New(t), "dome")
	r := room{World: w, t: t, Editor: tours.Editor{Public: "https://dome.example", Desk: act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}}}
	r.lantern, r.hearth = r.channel("Lantern", channel.Lantern), r.channel("Hearth", channel.Hearth)
	at := pgtest.Noon.AddDate(0, -1, 0)
	id, err := w.InsertPublished(t.Context(), store.Post{SiteID: w.Site.ID, AuthorID: w.Editor.ID, CategoryID: &w.Category, Title: "Cleaning a mirror", Slug: "mirror",
		Body: body, PublishedAt: &at, CreatedAt: at})
	require.NoError(t, err)
	r.post = id
	return r
}

func (r room) channel(name, kind string) int64 {
	id, err := r.World.InsertChannel(r.t.Context(), store.Channel{SiteID: r.World.Site.ID, Kind: kind, Name: name, Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
	require.NoError(r.t, err)
	return id
}

func (r room) begin() store.Tour {
	r.t.Helper()
	return r.beginOf(store.TourPage{}, r.post)[0]
}

// beginOf begins tours of posts, or one of a page.
func (r room) beginOf(page store.TourPage, posts ...int64) (all []store.Tour) {
	r.t.Helper()
	ids, err := r.Begin(r.t.Context(), posts, page, tours.Like{}, pgtest.Noon)
	require.NoError(r.t, err)
	for _, id := range ids {
		all = append(all, r.tour(id))
	}
	return all
}

func (r room) tour(id int64) store.Tour {
	r.t.Helper()
	t, err := r.World.Tour(r.t.Context(), r.World.Site.ID, id)
	require.NoError(r.t, err)
	return t
}

// seen names tours as they were seen.
func seen(all ...store.Tour) (named []tours.Seen) {
	for _, t := range all {
		named = append(named, tours.Seen{ID: t.ID, Version: t.Version})
	}
	return named
}

// change saves a tour with changed settings.
func (r room) change(t store.Tour, change func(*tour.Settings)) store.Tour {
	r.t.Helper()
	change(&t.Settings.Settings)
	require.NoError(r.t, r.Save(r.t.Context(), t.ID, t.Version, t.Name, t.Settings.Settings, pgtest.Noon))
	return r.tour(t.ID)
}

func (r room) stops(t store.Tour) []store.Outing {
	r.t.Helper()
	all, err := r.World.StopsOf(r.t.Context(), r.World.Site.ID, t.ID)
	require.NoError(r.t, err)
	return all
}

// send has what is due at a moment go out.
func (r room) send(at time.Time) {
	r.t.Helper()
	book := siterules.Book{Site: r.World.Site, Public: "https://dome.example"}
	for range 20 {
		idle := false
		require.NoError(r.t, r.World.InTx(r.t.Context(), func(tx *store.Tx) error {
			d, f, err := book.Decide(r.t.Context(), tx, at)
			if idle = err != nil || d.IsIdle(); idle {
				return err
			}
			_, err = enact.Doer{Site: r.World.Site.ID, Now: at, Queue: quiet{}}.Do(r.t.Context(), tx, f.RuleOf(d), d)
			return err
		}))
		if idle {
			return
		}
	}
}

// quiet hands nothing to anybody.
type quiet struct{ enact.Sharer }

func (quiet) Share(context.Context, *store.Tx, int64) error { return nil }

func (r room) refused(err error, field, message string) {
	r.t.Helper()
	var invalid *act.Invalid
	require.ErrorAs(r.t, err, &invalid)
	assert.Equal(r.t, field, invalid.Field)
	assert.Contains(r.t, invalid.Message, message)
}

func TestATourIsMadeOfAPost(t *testing.T) {
	r := newRoom(t)
	one := r.begin()
	s := one.Settings
	assert.Equal(t, "Cleaning a mirror", one.Name)
	assert.Equal(t, store.TourBeingMade, one.State())
	assert.Equal(t, []string{"A mirror that looks dirty by torchlight is usually clean enough for another year.",
		"Marguerite dropped one in 2019, and the chip at its edge has never cost us a star.",
		"We wash ours every second spring, in forty litres of cold water with three drops of soap."}, inOrder(s.Lines))
	assert.ElementsMatch(t, []int64{r.lantern, r.hearth}, s.Channels)
	assert.Equal(t, civil.MustDate("2026-11-25"), s.Shape.Start, "tomorrow")
	assert.Equal(t, []string{"SkyGuide"}, s.Hashtags.List, "its category")

	look, err := r.Look(t.Context(), r.World.Queries, one, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, look.Stops, 13)
	assert.Empty(t, look.Problems)
	for i, stop := range look.Stops {
		assert.Equal(t, s.Lines[i%3], stop.Line, "none comes again before all had their turn")
		require.Len(t, stop.Messages, 2)
		for _, m := range stop.Messages {
			assert.True(t, strings.HasPrefix(m.Text, stop.Line+" https://dome.example/"), m.Text)
			assert.Contains(t, m.Text, "#SkyGuide")
		}
	}
	assert.Empty(t, r.stops(one), "nothing is planned by looking")
}

func inOrder(lines []string) []string {
	all := []string{"", "", ""}
	for _, l := range lines {
		switch l[0] {
		case 'A':
			all[0] = l
		case 'M':
			all[1] = l
		case 'W':
			all[2] = l
		}
	}
	return all
}

func TestATourIsLaunchedOnlyIfEveryMessageFits(t *testing.T) {
	r := newRoom(t)
	one := r.change(r.begin(), func(s *tour.Settings) {
		s.Shape.Stops, s.Shape.Days = 4, 22
		s.Own = map[string]string{tour.Place(3, r.lantern): strings.Repeat("Far too long. ", 30) + "{link}"}
	})
	look, err := r.Look(t.Context(), r.World.Queries, one, pgtest.Noon)
	require.NoError(t, err)
	require.Len(t, look.Problems, 1)
	assert.Equal(t, 3, look.Problems[0].Stop)
	assert.Equal(t, r.lantern, look.Problems[0].Channel)
	over := 0
	for _, m := range look.Stops[2].Messages {
		if m.Channel == r.lantern {
			over = m.Over
			assert.True(t, m.Own)
		}
	}
	assert.Equal(t, 30*14+24-channelLimit(t), over)

	_, err = r.Launch(t.Context(), seen(one), pgtest.Noon)
	r.refused(err, "stops."+tour.Place(3, r.lantern), "Stop 3 on Lantern: ")
	assert.Empty(t, r.stops(one), "none is planned where one cannot be sent")

	one = r.change(r.tour(one.ID), func(s *tour.Settings) { s.Own = nil })
	n, err := r.Launch(t.Context(), seen(one), pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 8, n)
	one = r.tour(one.ID)
	assert.Equal(t, store.TourRunning, one.State())
	assert.Equal(t, 8, one.Waiting)
	for _, o := range r.stops(one) {
		assert.Equal(t, store.ByTour, o.Origin)
		assert.Equal(t, "Cleaning a mirror", o.TourName)
	}
	r.refused(r.Save(t.Context(), one.ID, one.Version, one.Name, one.Settings.Settings, pgtest.Noon), "id", "Pause it before")
	_, err = r.Launch(t.Context(), seen(one), pgtest.Noon)
	r.refused(err, "id", "is running already")
}

func channelLimit(t *testing.T) int {
	n, known := channel.Of(channel.Lantern)
	require.True(t, known)
	return n.Limits().Graphemes
}

func TestATourIsPausedResumedAndEnded(t *testing.T) {
	for _, c := range []struct {
		how  tours.How
		left int // stops that still come
	}{{tours.Shift, 3}, {tours.Skip, 2}} {
		t.Run(string(c.how), func(t *testing.T) {
			r := newRoom(t)
			one := r.change(r.begin(), func(s *tour.Settings) {
				s.Shape.Stops, s.Shape.Days, s.Channels = 4, 22, []int64{r.lantern}
			})
			_, err := r.Launch(t.Context(), seen(one), pgtest.Noon)
			require.NoError(t, err)
			all := r.stops(r.tour(one.ID))
			require.Len(t, all, 4)
			r.send(all[0].At)
			one = r.tour(one.ID)
			assert.Equal(t, []int{1, 3}, []int{one.Gone, one.Waiting})
			lines, err := r.World.LogOf(t.Context(), r.World.Site.ID, r.post)
			require.NoError(t, err)
			assert.Contains(t, lines[0].Reason, "Stop 1 of the tour “Cleaning a mirror”, on Lantern.")

			require.NoError(t, r.Pause(t.Context(), one.ID, one.Version, all[0].At.Add(time.Hour)))
			one = r.tour(one.ID)
			assert.Equal(t, store.TourPaused, one.State())
			assert.Len(t, r.stops(one), 1, "what went out stays")
			r.send(all[3].At.Add(24 * time.Hour))
			assert.Len(t, r.stops(r.tour(one.ID)), 1, "a paused tour sends nothing")

			back := all[1].At.Add(30 * time.Hour) // the second stop passed
			resumed, err := r.Resumed(t.Context(), r.World.Queries, one, c.how, back)
			require.NoError(t, err)
			assert.Len(t, resumed.Left, 3-c.left)
			assert.Nil(t, one.Settings.Left, "looking changes nothing")
			n, err := r.Resume(t.Context(), one.ID, one.Version, c.how, back)
			require.NoError(t, err)
			assert.Equal(t, c.left, n)
			again := r.stops(r.tour(one.ID))[1:]
			require.Len(t, again, c.left)
			zone := r.World.Site.Zone()
			if c.how == tours.Shift {
				for i, o := range again {
					assert.True(t, zone.AddDays(all[i+1].At, 2).Equal(o.At), "two days later by the clock: %s", o.At)
				}
			} else {
				for i, o := range again {
					assert.True(t, all[i+2].At.Equal(o.At), "at its time")
				}
			}
			one = r.tour(one.ID)
			require.NoError(t, r.End(t.Context(), one.ID, one.Version, back))
			one = r.tour(one.ID)
			assert.Equal(t, store.TourStopped, one.State())
			require.NoError(t, r.Delete(t.Context(), one.ID, one.Version))
			left, err := r.World.OutingsBetween(t.Context(), r.World.Site.ID, pgtest.Noon, all[3].At.Add(time.Hour))
			require.NoError(t, err)
			assert.Len(t, left, 1, "what it sent stays")
		})
	}
}

func TestLaunchingIsUndoneAsOne(t *testing.T) {
	r := newRoom(t)
	one := r.begin()
	_, err := r.Launch(t.Context(), seen(one), pgtest.Noon)
	require.NoError(t, err)
	entries, err := r.World.LogOf(t.Context(), r.World.Site.ID, r.post)
	require.NoError(t, err)
	_, err = undo.Undo(t.Context(), r.Desk, entries[0].ID, pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, store.TourBeingMade, r.tour(one.ID).State())
	assert.Empty(t, r.stops(one))
}

func TestBadTours(t *testing.T) {
	r := newRoom(t)
	one := r.begin()
	for field, change := range map[string]func(*tour.Settings){
		"shape.stops":    func(s *tour.Settings) { s.Shape.Stops = 401 },
		"shape.days":     func(s *tour.Settings) { s.Shape.Days = 0 },
		"shape.thinning": func(s *tour.Settings) { s.Shape.Thinning = 0.5 },
		"shape.weekdays": func(s *tour.Settings) { s.Shape.Weekdays = 0 },
		"shape.from":     func(s *tour.Settings) { s.Shape.To = s.Shape.From },
		"lines":          func(s *tour.Settings) { s.Lines = nil },
		"lines[0]":       func(s *tour.Settings) { s.Lines = []string{" "} },
		"wordings[0]":    func(s *tour.Settings) { s.Wordings = []string{"{nothing}"} },
		"channels":       func(s *tour.Settings) { s.Channels = nil },
		"channels[0]":    func(s *tour.Settings) { s.Channels = []int64{999} },
		"pictures[0]":    func(s *tour.Settings) { s.Pictures = []int64{999} },
	} {
		s := one.Settings.Settings
		change(&s)
		r.refused(r.Save(t.Context(), one.ID, one.Version, one.Name, s, pgtest.Noon), field, "")
	}
	require.ErrorIs(t, r.Save(t.Context(), one.ID, one.Version+1, one.Name, one.Settings.Settings, pgtest.Noon), act.ErrStale)
	for what, change := range map[string]func(*tour.Settings){
		"has passed":             func(s *tour.Settings) { s.Shape.Start = civil.MustDate("2026-11-01") },
		"no room for this stop":  func(s *tour.Settings) { s.Shape.Days, s.Shape.Stops = 1, 400 },
		"There is no room for t": func(s *tour.Settings) { s.Shape.To = s.Shape.From + 1; s.Shape.Days, s.Shape.Stops = 1, 2 },
	} {
		changed := r.change(r.tour(one.ID), change)
		_, err := r.Launch(t.Context(), seen(changed), pgtest.Noon)
		var invalid *act.Invalid
		require.ErrorAs(t, err, &invalid, what)
		assert.Contains(t, invalid.Message, what)
		r.change(changed, func(s *tour.Settings) { *s = one.Settings.Settings })
	}
	draft := r.World.Draft(t, "Not out")
	_, err := r.Begin(t.Context(), []int64{draft.ID}, store.TourPage{}, tours.Like{}, pgtest.Noon)
	r.refused(err, "postIds", "is not")
	_, err = r.Begin(t.Context(), []int64{99_999}, store.TourPage{}, tours.Like{}, pgtest.Noon)
	r.refused(err, "postIds", "no such post")
}

// A post that is taken away in mid-tour: its stops are left out, and say why.
func TestAPostTakenAwayInMidTour(t *testing.T) {
	r := newRoom(t)
	one := r.change(r.begin(), func(s *tour.Settings) { s.Shape.Stops, s.Shape.Days, s.Channels = 2, 8, []int64{r.lantern} })
	_, err := r.Launch(t.Context(), seen(one), pgtest.Noon)
	require.NoError(t, err)
	_, err = r.World.DB().ExecContext(t.Context(), `update posts set status = 'draft', published_at = null where id = $1`, r.post)
	require.NoError(t, err)
	all := r.stops(one)
	r.send(all[0].At)
	all = r.stops(one)
	assert.Equal(t, store.Skipped, all[0].State)
	assert.Contains(t, all[0].Error, "the post was not out at that time")
}

// A message that somebody dropped on the Almanac is not shown as one that is to come.
func TestADroppedMessageIsMissing(t *testing.T) {
	r := newRoom(t)
	one := r.change(r.begin(), func(s *tour.Settings) { s.Shape.Stops, s.Shape.Days = 2, 8 })
	_, err := r.Launch(t.Context(), seen(one), pgtest.Noon)
	require.NoError(t, err)
	require.NoError(t, r.World.InTx(t.Context(), func(tx *store.Tx) error {
		return tx.DropPlanned(t.Context(), r.World.Site.ID, r.stops(one)[0].ID)
	}))
	look, err := r.Look(t.Context(), r.World.Queries, r.tour(one.ID), pgtest.Noon)
	require.NoError(t, err)
	assert.Empty(t, look.Problems)
	assert.Len(t, look.Stops[0].Messages, 1)
	assert.Len(t, look.Stops[1].Messages, 2)
}

// BenchmarkLook composes and checks a tour of 52 stops on four channels.
func BenchmarkLook(b *testing.B) {
	w := pgtest.NewWorld(b, pgtest.New(b), "dome")
	d := tours.Editor{Public: "https://dome.example", Desk: act.Desk{Store: w.Store, Site: w.Site, Actor: w.Editor.ID}}
	for _, kind := range []string{channel.Lantern, channel.Hearth, channel.Lantern, channel.Hearth} {
		_, err := w.InsertChannel(b.Context(), store.Channel{SiteID: w.Site.ID, Kind: kind, Name: kind, Address: "http://127.0.0.1:9", Token: "t", Apart: 20})
		require.NoError(b, err)
	}
	at := pgtest.Noon.AddDate(0, -1, 0)
	post, err := w.InsertPublished(b.Context(), store.Post{SiteID: w.Site.ID, AuthorID: w.Editor.ID, CategoryID: &w.Category, Title: "Cleaning a mirror", Slug: "mirror",
		Body: body, PublishedAt: &at, CreatedAt: at})
	require.NoError(b, err)
	ids, err := d.Begin(b.Context(), []int64{post}, store.TourPage{}, tours.Like{}, pgtest.Noon)
	require.NoError(b, err)
	one, err := w.Tour(b.Context(), w.Site.ID, ids[0])
	require.NoError(b, err)
	one.Settings.Shape.Stops, one.Settings.Shape.Days = 52, 365
	for b.Loop() {
		look, err := d.Look(b.Context(), w.Queries, one, pgtest.Noon)
		require.NoError(b, err)
		require.Len(b, look.Stops, 52)
		require.Len(b, look.Stops[0].Messages, 4)
	}
}

// A page elsewhere is toured like a post: its messages carry its title and its address.
func TestATourOfAPage(t *testing.T) {
	r := newRoom(t)
	page := store.TourPage{Title: "When the harbour dries", Address: "https://harbour.example/dry", Tags: []string{"low tide"},
		Text: "The harbour of Brae dries for two hours at each low tide.\n\nBoats with two keels may stand on its sand from April to October."}
	one := r.beginOf(page)[0]
	assert.Equal(t, "When the harbour dries", one.Name)
	listed, err := r.World.Tours(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	assert.Equal(t, []string{page.Address, ""}, []string{listed[0].Page.Address, listed[0].Page.Text}, "a list has no use for texts")
	much := page
	much.Text = strings.Repeat("é", 150_000)
	assert.Len(t, r.beginOf(much)[0].Page.Text, 200_000)
	assert.Equal(t, []string{"LowTide"}, one.Settings.Hashtags.List)
	require.Len(t, one.Settings.Lines, 2)
	one = r.change(one, func(s *tour.Settings) { s.Shape.Stops, s.Shape.Days, s.Short = 4, 22, false })
	n, err := r.Launch(t.Context(), seen(one), pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 4*len(one.Settings.Channels), n)
	for _, o := range r.stops(one) {
		assert.Zero(t, o.Post)
		assert.Equal(t, page.Address, o.Item.Link)
		r.send(o.At)
	}
	for _, o := range r.stops(one) {
		assert.Equal(t, store.Waiting, o.State)
		assert.Contains(t, o.Text, "https://harbour.example/dry")
		assert.Contains(t, o.Text, o.Extras.Line)
	}
}

// Tours of several posts take turns, are launched in one act or not at all, and are undone as one.
func TestToursOfSeveralPosts(t *testing.T) {
	r := newRoom(t)
	posts := []int64{r.post}
	for _, title := range []string{"Second", "Third"} {
		at := pgtest.Noon.AddDate(0, -2, 0)
		id, err := r.World.InsertPublished(t.Context(), store.Post{SiteID: r.World.Site.ID, AuthorID: r.World.Editor.ID, CategoryID: &r.World.Category, Title: title, Slug: strings.ToLower(title),
			Body: body, PublishedAt: &at, CreatedAt: at})
		require.NoError(t, err)
		posts = append(posts, id)
	}
	all := r.beginOf(store.TourPage{}, posts...)
	require.Len(t, all, 3)
	assert.Equal(t, []string{"2026-11-25", "2026-11-27", "2026-11-29"}, []string{all[0].Settings.Shape.Start.String(), all[1].Settings.Shape.Start.String(), all[2].Settings.Shape.Start.String()})
	all[1] = r.change(all[1], func(s *tour.Settings) { s.Wordings = []string{strings.Repeat("Long ", 100) + "{line}"} })
	_, err := r.Launch(t.Context(), seen(all...), pgtest.Noon)
	r.refused(err, "stops."+tour.Place(1, r.lantern), "“Second”: Stop 1 on Lantern: ")
	for _, one := range all {
		assert.Empty(t, r.stops(one), "none was launched")
	}
	all[1] = r.change(r.tour(all[1].ID), func(s *tour.Settings) { s.Wordings = []string{"{line} {link}"} })
	n, err := r.Launch(t.Context(), seen(all...), pgtest.Noon)
	require.NoError(t, err)
	assert.Equal(t, 3*13*2, n)
	last := make(map[int64]time.Time)
	planned, err := r.World.Planned(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	require.Len(t, planned, n)
	for _, o := range planned {
		assert.GreaterOrEqual(t, o.At.Sub(last[o.Channel]), 20*time.Minute, "no channel is crowded")
		last[o.Channel] = o.At
	}
	_, err = r.Launch(t.Context(), nil, pgtest.Noon)
	r.refused(err, "tours", "at least one")
}

// What tours have in common is kept by a name, and begins others.
func TestTemplatesOfTours(t *testing.T) {
	r := newRoom(t)
	one := r.change(r.begin(), func(s *tour.Settings) {
		s.Shape.Stops, s.Shape.Thinning, s.Wordings, s.Channels, s.Hold = 7, 1.4, []string{"Once more: {line} {link}"}, []int64{r.hearth}, true
		s.Own = map[string]string{tour.Place(1, r.hearth): "Mine {link}"}
	})
	require.NoError(t, r.KeepTemplate(t.Context(), one.ID, " Slow and steady ", pgtest.Noon))
	require.NoError(t, r.KeepTemplate(t.Context(), one.ID, "slow and Steady", pgtest.Noon))
	long := strings.Repeat("e\u0301", 200)
	require.NoError(t, r.KeepTemplate(t.Context(), one.ID, long, pgtest.Noon), "a letter may have several code points")
	require.NoError(t, r.Save(t.Context(), one.ID, one.Version, long, one.Settings.Settings, pgtest.Noon))
	all, err := r.World.TourTemplates(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	require.Len(t, all, 2)
	require.NoError(t, r.DeleteTemplate(t.Context(), all[0].ID))
	kept, err := r.World.TourTemplates(t.Context(), r.World.Site.ID)
	require.NoError(t, err)
	require.Len(t, kept, 1, "one of the same name is replaced")
	assert.Equal(t, "slow and Steady", kept[0].Name)
	assert.Empty(t, kept[0].Settings.Lines)
	assert.Empty(t, kept[0].Settings.Own)
	ids, err := r.Begin(t.Context(), []int64{r.post}, store.TourPage{}, tours.Like{Template: kept[0].ID}, pgtest.Noon.AddDate(0, 1, 0))
	require.NoError(t, err)
	like := r.tour(ids[0]).Settings
	assert.Equal(t, []any{7, 1.4, []int64{r.hearth}, true, "2026-12-25"}, []any{like.Shape.Stops, like.Shape.Thinning, like.Channels, like.Hold, like.Shape.Start.String()})
	assert.NotEmpty(t, like.Lines)
	r.refused(r.KeepTemplate(t.Context(), one.ID, "  ", pgtest.Noon), "name", "1 to 200")
	_, err = r.Begin(t.Context(), []int64{r.post}, store.TourPage{}, tours.Like{Template: 99_999}, pgtest.Noon)
	r.refused(err, "template", "no such template")
	require.NoError(t, r.DeleteTemplate(t.Context(), kept[0].ID))
	assert.ErrorIs(t, r.DeleteTemplate(t.Context(), kept[0].ID), store.ErrNotFound)
}

// Where the editor wished so beforehand, a stop whose post is not out waits; it is not lost.
func TestHeldStopsOfATour(t *testing.T) {
	r := newRoom(t)
	one := r.change(r.begin(), func(s *tour.Settings) { s.Shape.Stops, s.Shape.Days, s.Hold = 2, 8, true })
	_, err := r.Launch(t.Context(), seen(one), pgtest.Noon)
	require.NoError(t, err)
	_, err = r.World.DB().ExecContext(t.Context(), `update posts set status = 'archived', archived_at = $2 where id = $1`, r.post, pgtest.Noon)
	require.NoError(t, err)
	for _, o := range r.stops(one) {
		r.send(o.At)
	}
	for _, o := range r.stops(one) {
		assert.Equal(t, store.Aside, o.State)
		assert.Equal(t, "Set aside, since the post was not out at that time.", o.Error)
	}
}
