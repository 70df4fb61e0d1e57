// Package tours makes tours of posts, launches them, and pauses and ends them. As soon as a tour is launched its stops are planned outings, which
// go out as any others do: by the one decision that the forecast foretells.
package tours

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/tour"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// Editor is somebody who makes tours of one site.
type Editor struct {
	act.Desk
	Public string // where readers reach the blog, as a siterules.Book has it
}

const (
	// maxTours is how many tours a site may have.
	maxTours = 1000
	// maxName is the longest name of a tour, in characters.
	maxName = 200
)

// A new tour has a stop a week for a quarter of a year.
const (
	usualStops = 13
	usualDays  = 12*7 + 1
)

// Begin makes a tour of a post, with lines and a shape to begin with, and returns its id. Of another tour it takes all but the
// lines; 0 is none.
func (d Editor) Begin(ctx context.Context, post, like int64, now time.Time) (id int64, err error) {
	err = d.Change(ctx, func(tx *store.Tx) error {
		all, err := tx.Tours(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if len(all) >= maxTours {
			return act.Invalidf("postId", "There are %d tours, which is the most. Delete one first.", maxTours)
		}
		f, lines, err := d.linesOf(ctx, tx.Queries, post)
		if err != nil {
			return err
		}
		if f.Status != string(store.Published) {
			return act.Invalidf("postId", "A tour is made of a post that is out; “%s” is not.", f.Title)
		}
		t := store.Tour{SiteID: d.Site.ID, Post: post, User: &d.Actor, Name: nameOf(f.Title), Seed: int64(act.NewSeed()), CreatedAt: now}
		if like == 0 {
			t.Settings.Settings, err = d.usual(ctx, tx.Queries, f, now)
		} else {
			t.Settings.Settings, err = d.like(ctx, tx.Queries, like, now)
			t.Settings.Hashtags = hashtagsOf(f)
		}
		if err != nil {
			return err
		}
		for _, l := range lines {
			if l.Score >= tour.Good && len(t.Settings.Lines) < t.Settings.Shape.Stops {
				t.Settings.Lines = append(t.Settings.Lines, l.Text)
			}
		}
		id, err = tx.InsertTour(ctx, t)
		return err
	})
	return id, err
}

func nameOf(title string) string {
	if letters.Length(title, maxName) > maxName {
		title = string([]rune(title)[:maxName-1]) + "…"
	}
	if strings.TrimSpace(title) == "" {
		return "Untitled"
	}
	return title
}

// usual are the settings that a tour begins with: all channels that can take its messages.
func (d Editor) usual(ctx context.Context, q store.Queries, f *condition.Facts, now time.Time) (tour.Settings, error) {
	s := tour.Settings{Lines: []string{}, Wordings: []string{"{line} {link} {hashtags}"}, Channels: []int64{}, Pictures: []int64{},
		Picture:  message.Picture{From: message.FeaturedPicture},
		Hashtags: hashtagsOf(f), Short: true,
		Shape: tour.Shape{Start: d.Site.Zone().DateOf(now).Add(1), Days: usualDays, Stops: usualStops, Thinning: 1, Weekdays: rhythm.EveryDay,
			From: civil.MustClock("09:00"), To: civil.MustClock("19:00")}}
	channels, err := q.Channels(ctx, d.Site.ID)
	for _, c := range channels {
		network, known := channel.Of(c.Kind)
		if known && (network.Limits().Image != message.Required || f.FeaturedImage) {
			s.Channels = append(s.Channels, c.ID)
		}
	}
	return s, err
}

// hashtagsOf are the hashtags that a post suggests, as a list that an editor changes.
func hashtagsOf(f *condition.Facts) message.Hashtags {
	suggested := message.Hashtags{Sources: []message.Source{message.FromTags, message.FromCategory}, Style: message.Joined}
	kept := message.Hashtags{Sources: []message.Source{message.FromList}, List: []string{}, Style: message.Joined}
	for _, tag := range suggested.Of(deed.PostOf(f, "")) {
		kept.List = append(kept.List, strings.TrimPrefix(tag, "#"))
	}
	return kept
}

// like are the settings of another tour, from tomorrow on.
func (d Editor) like(ctx context.Context, q store.Queries, id int64, now time.Time) (tour.Settings, error) {
	t, err := q.Tour(ctx, d.Site.ID, id)
	if errors.Is(err, store.ErrNotFound) {
		return tour.Settings{}, act.Invalidf("like", "There is no such tour.")
	}
	s := t.Settings.Settings
	s.Lines, s.Moved, s.Own, s.Left = []string{}, nil, nil, nil
	s.Shape.Start = d.Site.Zone().DateOf(now).Add(1)
	return s, err
}

// linesOf ranks the sentences of a post.
func (d Editor) linesOf(ctx context.Context, q store.Queries, post int64) (*condition.Facts, []tour.Line, error) {
	facts, err := q.Facts(ctx, d.Site.ID, store.FactsFilter{IDs: []int64{post}, WithText: true})
	if err != nil {
		return nil, nil, err
	}
	if len(facts) == 0 {
		return nil, nil, act.Invalidf("postId", "There is no such post on this site.")
	}
	lines, err := tour.Lines(facts[0].Title, facts[0].Text, facts[0].Tags, ctx.Err)
	if err != nil {
		if ctx.Err() != nil {
			return nil, nil, ctx.Err()
		}
		lines = nil // a text too involved to be laid out has no lines; they can be written by hand
	}
	return facts[0], lines, nil
}

// Look is a tour as it would be with some settings.
type Look struct {
	Tour  store.Tour
	Lines []tour.Line // of the post, the best first
	Stops []Stop
	// Problems are what stands in the way of launching it, by stop and channel; none: it can be launched.
	Problems []Problem
}

// Stop is a stop of a tour with its messages.
type Stop struct {
	tour.Stop
	Messages []Message
}

// Message is what a stop says on a channel.
type Message struct {
	Channel   int64
	At        time.Time // as the channel takes it
	Text      string
	Written   string // with placeholders
	Own       bool   // it was changed by hand
	Graphemes int
	Limit     int // 0: any length
	Over      int
	Fit       string // what the composer had to give up, or ""
	Problem   string
	Missed    bool          // its time passed while the tour was paused
	Outing    *store.Outing // nil: not planned
	Wording   int           // its number, from 1
	picture   int64
}

// Problem is one thing that stands in the way of launching a tour.
type Problem struct {
	Field   string // of the settings; "" where it is a message
	Stop    int    // 0: no single one's
	Channel int64
	Message string
}

// Look tells what a tour would be with some settings: all its stops with their messages, and what is wrong with them. What has gone out, or
// waits to, is shown as it is. Of a tour that is being made, or is paused, so is what would be planned; of another nothing more is to come, and a
// message that somebody dropped is missing.
func (d Editor) Look(ctx context.Context, q store.Queries, t store.Tour, now time.Time) (Look, error) {
	state := t.State()
	return d.look(ctx, q, t, state == store.TourBeingMade || state == store.TourPaused, now)
}

// look is Look; comes tells whether what is not planned would be.
func (d Editor) look(ctx context.Context, q store.Queries, t store.Tour, comes bool, now time.Time) (Look, error) {
	look := Look{Tour: t}
	f, lines, err := d.linesOf(ctx, q, t.Post)
	if err != nil {
		return look, err
	}
	look.Lines = lines
	s := t.Settings.Settings
	for _, p := range s.Problems() {
		look.Problems = append(look.Problems, Problem{Field: p.Path, Message: p.Message})
	}
	if len(look.Problems) > 0 {
		return look, nil
	}
	w, err := d.world(ctx, q, f)
	if err != nil {
		return look, err
	}
	planned, served := make(map[string]*store.Outing), make(map[int]bool)
	if t.LaunchedAt != nil {
		kept, err := q.StopsOf(ctx, d.Site.ID, t.ID)
		if err != nil {
			return look, err
		}
		for i, o := range kept {
			planned[tour.Place(*o.Stop, o.Channel)], served[*o.Stop] = &kept[i], true
		}
	}
	lists, err := siterules.Lists(ctx, q, d.Site.ID)
	if err != nil {
		return look, err
	}
	c := composer{d: d, w: w, post: f, lists: lists, s: s, placer: w.Placer(), now: now, tour: t}
	for _, stop := range s.Stops(d.Site.Zone(), uint64(t.Seed)) {
		one := Stop{Stop: stop}
		isToCome := comes && !slices.Contains(s.Left, stop.N)
		for i, ch := range s.Channels {
			if o := planned[tour.Place(stop.N, ch)]; o != nil {
				one.At = o.At
				one.Messages = append(one.Messages, c.gone(o))
				continue
			}
			if !isToCome || served[stop.N] && !stop.At.After(now) { // it went out on other channels alone
				continue
			}
			m := c.say(stop, i)
			if m.Problem != "" {
				look.Problems = append(look.Problems, Problem{Stop: stop.N, Channel: ch, Message: m.Problem})
			}
			one.Messages = append(one.Messages, m)
		}
		look.Stops = append(look.Stops, one)
	}
	if comes && !slices.ContainsFunc(look.Stops, func(s Stop) bool { return len(s.Messages) > 0 }) {
		look.Problems = append(look.Problems, Problem{Field: "shape.stops", Message: "No stop is left to come."})
	}
	return look, nil
}

// world is a world of the site's channels and of one post, in which messages are composed.
func (d Editor) world(ctx context.Context, q store.Queries, f *condition.Facts) (*deed.World, error) {
	scene, err := siterules.Book{Site: d.Site, Public: d.Public}.Voices(ctx, q)
	if err != nil {
		return nil, err
	}
	scene.Posts = []*condition.Facts{f}
	return deed.NewWorld(scene), nil
}

// composer composes the messages of a tour.
type composer struct {
	d      Editor
	w      *deed.World
	post   *condition.Facts
	lists  message.Lists
	s      tour.Settings
	placer *deed.Placer
	now    time.Time
	tour   store.Tour
}

// gone is a message of the plan, or one that went out: what waits is composed as the post is now.
func (c *composer) gone(o *store.Outing) Message {
	m := Message{Channel: o.Channel, At: o.At, Text: o.Text, Written: o.OwnText, Outing: o}
	v := c.w.Voice(o.Channel)
	if wording, err := message.ReadWording(o.OwnText); err == nil && o.State == store.Planned && v != nil {
		extras := o.Extras.Extras
		if len(o.Pictures) > 0 {
			extras.Picture = message.Picture{From: message.ThisPicture, ID: o.Pictures[0]}
		}
		said, err := c.w.Say(v, deed.Saying{Post: c.post, Wording: wording, Number: o.Wording, Extras: extras, Due: o.At})
		if m.Text = said.Text; err != nil {
			m.Text, m.Problem = o.OwnText, err.Error()
		}
	}
	return m
}

// say is what a stop would say on the channel of a place in the settings.
func (c *composer) say(stop tour.Stop, place int) Message {
	text, number, picture, own := c.s.Says(stop, place)
	m := Message{Channel: c.s.Channels[place], At: stop.At, Written: text, Own: own, Wording: number, picture: picture}
	v := c.w.Voice(m.Channel)
	if v == nil {
		m.Problem = "This channel is gone. Take it out of the tour."
		return m
	}
	m.Limit = v.Limits.Graphemes
	wording, err := message.ReadWording(text)
	if err != nil {
		m.Problem = err.Error()
		return m
	}
	if missing := wording.Missing(c.lists); len(missing) > 0 {
		m.Problem = fmt.Sprintf("There is no list %q. Make it under Channels, or choose another.", missing[0])
		return m
	}
	switch {
	case stop.At.IsZero():
		m.Problem = "There is no room for this stop. Let the tour take more days or hours, or make fewer stops."
		return m
	case !stop.At.After(c.now) && c.tour.PausedAt != nil:
		m.Missed = true // whoever resumes the tour says what becomes of it
		return m
	case !stop.At.After(c.now):
		m.Problem = "The time of this stop has passed. Let the tour begin later, or move the stop."
	default:
		m.At = c.placer.Place(m.Channel, stop.At)
	}
	said, err := c.w.Say(v, deed.Saying{Post: c.post, Wording: wording, Number: number, Extras: c.extras(picture), Due: m.At})
	m.Text, m.Graphemes, m.Fit = said.Text, said.Graphemes, said.Fit.String()
	var long *message.TooLong
	if errors.As(err, &long) {
		m.Over = long.Over
	}
	if err != nil && m.Problem == "" {
		m.Problem = err.Error()
	}
	return m
}

func (c *composer) extras(picture int64) deed.Extras {
	e := deed.Extras{Hashtags: c.s.Hashtags, Short: c.s.Short, Picture: c.s.Picture}
	if picture != 0 {
		e.Picture = message.Picture{From: message.ThisPicture, ID: picture}
	}
	return e
}
