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
	// maxPage is how much of a page's text is kept, in bytes: lines are found in that.
	maxPage = 200_000
)

// A new tour has a stop a week for a quarter of a year.
const (
	usualStops = 13
	usualDays  = 12*7 + 1
)

// Like says in whose manner tours begin: that of another tour, or of a template; 0 is neither.
type Like struct{ Tour, Template int64 }

// Begin makes tours of posts that are out, or one of a page elsewhere, with lines and a shape to begin with, and returns their ids. Of another tour, or a
// template, they take all but the lines. Several begin one after the other, so that their stops take turns.
func (d Editor) Begin(ctx context.Context, posts []int64, page store.TourPage, like Like, now time.Time) (ids []int64, err error) {
	of := posts
	if len(page.Text) > maxPage {
		page.Text = strings.ToValidUTF8(page.Text[:maxPage], "")
	}
	if page.Address != "" {
		of = []int64{0}
	}
	err = d.Change(ctx, func(tx *store.Tx) error {
		all, err := tx.Tours(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if len(all)+len(of) > maxTours {
			return act.Invalidf("postIds", "A blog has at most %d tours, and there are %d. Delete some first.", maxTours, len(all))
		}
		for i, post := range of {
			t := store.Tour{SiteID: d.Site.ID, Post: store.ID(post), Page: page, User: &d.Actor, Seed: int64(act.NewSeed()), CreatedAt: now}
			if err := d.begin(ctx, tx.Queries, &t, like, now); err != nil {
				return err
			}
			t.Settings.Shape = t.Settings.Shape.Later(i, len(of))
			id, err := tx.InsertTour(ctx, t)
			if err != nil {
				return err
			}
			ids = append(ids, id)
		}
		return nil
	})
	return ids, err
}

// begin gives a tour its name, its settings and the best lines of what it is of.
func (d Editor) begin(ctx context.Context, q store.Queries, t *store.Tour, like Like, now time.Time) error {
	f, lines, err := d.linesOf(ctx, q, *t)
	if err != nil {
		return err
	}
	if f != nil && f.Status != string(store.Published) {
		return act.Invalidf("postIds", "A tour is made of a post that is out; “%s” is not.", f.Title)
	}
	t.Name = nameOf(t.Page.Title)
	if f != nil {
		t.Name = nameOf(f.Title)
	}
	switch {
	case like.Tour != 0:
		t.Settings.Settings, err = d.like(ctx, q, like.Tour, now)
	case like.Template != 0:
		var kept store.TourTemplate
		kept, err = q.TourTemplate(ctx, d.Site.ID, like.Template)
		if errors.Is(err, store.ErrNotFound) {
			err = act.Invalidf("template", "There is no such template.")
		}
		t.Settings.Settings = kept.Settings.Settings
		t.Settings.Shape.Start = d.Site.Zone().DateOf(now).Add(1)
	default:
		t.Settings.Settings, err = d.usual(ctx, q, now)
	}
	if err != nil {
		return err
	}
	if err := d.keepChannels(ctx, q, &t.Settings.Settings, f); err != nil {
		return err
	}
	t.Settings.Hashtags = hashtagsOf(f, t.Page)
	for _, l := range lines {
		if l.Score >= tour.Good && len(t.Settings.Lines) < t.Settings.Shape.Stops {
			t.Settings.Lines = append(t.Settings.Lines, l.Text)
		}
	}
	return nil
}

// maxTemplates is how many templates a site may have.
const maxTemplates = 100

// KeepTemplate keeps what a tour has beside its post, its lines and what was changed of single stops, by a name. One of the same name is replaced.
func (d Editor) KeepTemplate(ctx context.Context, id int64, name string, now time.Time) error {
	if name = strings.TrimSpace(name); name == "" || letters.Length(name, maxName) > maxName {
		return act.Invalidf("name", "A template's name has 1 to %d characters.", maxName)
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		s, err := d.like(ctx, tx.Queries, id, now)
		if err != nil {
			return err
		}
		all, err := tx.TourTemplates(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if len(all) >= maxTemplates && !slices.ContainsFunc(all, func(t store.TourTemplate) bool { return strings.EqualFold(t.Name, name) }) {
			return act.Invalidf("name", "There are %d templates, which is the most. Delete one first.", maxTemplates)
		}
		return tx.PutTourTemplate(ctx, store.TourTemplate{SiteID: d.Site.ID, Name: name, Settings: store.TourSettings{Settings: s}, CreatedAt: now})
	})
}

// DeleteTemplate deletes a template.
func (d Editor) DeleteTemplate(ctx context.Context, id int64) error {
	return d.Change(ctx, func(tx *store.Tx) error { return tx.DeleteTourTemplate(ctx, d.Site.ID, id) })
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

// usual are the settings that a tour begins with, with all channels.
func (d Editor) usual(ctx context.Context, q store.Queries, now time.Time) (tour.Settings, error) {
	s := tour.Settings{Lines: []string{}, Wordings: []string{"{line} {link} {hashtags}"}, Channels: []int64{}, Pictures: []int64{},
		Picture: message.Picture{From: message.FeaturedPicture},
		Short:   true,
		Shape: tour.Shape{Start: d.Site.Zone().DateOf(now).Add(1), Days: usualDays, Stops: usualStops, Thinning: 1, Weekdays: rhythm.EveryDay,
			From: civil.MustClock("09:00"), To: civil.MustClock("19:00")}}
	channels, err := q.Channels(ctx, d.Site.ID)
	for _, c := range channels {
		s.Channels = append(s.Channels, c.ID)
	}
	return s, err
}

// keepChannels leaves those channels of a new tour that can take its messages: where a picture is required, it must have one.
func (d Editor) keepChannels(ctx context.Context, q store.Queries, s *tour.Settings, f *condition.Facts) error {
	channels, err := q.Channels(ctx, d.Site.ID)
	pictured := len(s.Pictures) > 0 || f != nil && f.FeaturedImage
	s.Channels = slices.DeleteFunc(slices.Clone(s.Channels), func(id int64) bool {
		i := slices.IndexFunc(channels, func(c store.Channel) bool { return c.ID == id })
		if i < 0 {
			return true
		}
		network, known := channel.Of(channels[i].Kind)
		return !known || network.Limits().Image == message.Required && !pictured
	})
	return err
}

// hashtagsOf are the hashtags that a post, or a page, suggests, as a list that an editor changes.
func hashtagsOf(f *condition.Facts, page store.TourPage) message.Hashtags {
	suggested := message.Hashtags{Sources: []message.Source{message.FromTags, message.FromCategory}, Style: message.Joined}
	kept := message.Hashtags{Sources: []message.Source{message.FromList}, List: []string{}, Style: message.Joined}
	p := message.Post{Tags: page.Tags}
	if f != nil {
		p = deed.PostOf(f, "")
	}
	for _, tag := range suggested.Of(p) {
		if len(kept.List) < mostHashtags {
			kept.List = append(kept.List, strings.TrimPrefix(tag, "#"))
		}
	}
	return kept
}

// mostHashtags is how many hashtags are suggested.
const mostHashtags = 20

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

// linesOf ranks the sentences of the post of a tour, whose facts it returns as well, or of its page.
func (d Editor) linesOf(ctx context.Context, q store.Queries, t store.Tour) (*condition.Facts, []tour.Line, error) {
	title, text, tags := t.Page.Title, t.Page.Text, t.Page.Tags
	var f *condition.Facts
	if t.Post != 0 {
		facts, err := q.Facts(ctx, d.Site.ID, store.FactsFilter{IDs: []int64{int64(t.Post)}, WithText: true})
		if err != nil {
			return nil, nil, err
		}
		if len(facts) == 0 {
			return nil, nil, act.Invalidf("postIds", "There is no such post on this site.")
		}
		f = facts[0]
		title, text, tags = f.Title, f.Text, f.Tags
	}
	lines, err := tour.Lines(title, text, tags, ctx.Err)
	if err != nil {
		if ctx.Err() != nil {
			return nil, nil, ctx.Err()
		}
		lines = nil // a text too involved to be laid out has no lines; they can be written by hand
	}
	return f, lines, nil
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
	f, lines, err := d.linesOf(ctx, q, t)
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
	w, err := d.world(ctx, q, t, f)
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

// world is a world of the site's channels, with what is planned on them beside a tour, and of its post, in which messages are composed.
func (d Editor) world(ctx context.Context, q store.Queries, t store.Tour, f *condition.Facts) (*deed.World, error) {
	scene, err := siterules.Book{Site: d.Site, Public: d.Public}.Voices(ctx, q)
	if err != nil {
		return nil, err
	}
	if f != nil {
		scene.Posts = []*condition.Facts{f}
	}
	scene.Planned, err = q.TakenBeside(ctx, d.Site.ID, t.ID)
	return deed.NewWorld(scene), err
}

// composer composes the messages of a tour.
type composer struct {
	d      Editor
	w      *deed.World
	post   *condition.Facts // nil: it is of a page
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
		said, err := c.w.Say(v, deed.Saying{Post: c.post, Item: o.Item.Item, Wording: wording, Number: o.Wording, Extras: extras, Due: o.At})
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
	said, err := c.w.Say(v, deed.Saying{Post: c.post, Item: itemOf(c.tour), Wording: wording, Number: number, Extras: c.extras(picture), Due: m.At})
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

// itemOf is the page that a tour is of; nothing of a post's.
func itemOf(t store.Tour) deed.Item { return deed.Item{Title: t.Page.Title, Link: t.Page.Address} }

func (c *composer) extras(picture int64) deed.Extras {
	e := deed.Extras{Hashtags: c.s.Hashtags, Short: c.s.Short, Picture: c.s.Picture}
	if picture != 0 {
		e.Picture = message.Picture{From: message.ThisPicture, ID: picture}
	}
	return e
}
