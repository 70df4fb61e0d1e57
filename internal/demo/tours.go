package demo

import (
	"context"
	"fmt"
	"slices"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/followers"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/tour"
	"dapper.example/internal/store"
	"dapper.example/internal/tours"
)

// round is a tour of the demo.
type round struct {
	post     string
	begun    int // days ago that it was launched; 0: it is being made
	settings func(*tour.Settings)
}

// rounds are one tour that runs, and one that is being made.
func (w *world) rounds() []round {
	return []round{
		{post: "Cleaning a mirror without ruining it", begun: 45, settings: func(s *tour.Settings) {
			s.Shape.Days, s.Shape.Stops, s.Shape.Thinning = 180, 12, 1.18
			s.Wordings = []string{"{line} {link} {hashtags}", "From our workbench: {line} {link}"}
			s.Hashtags.List = []string{"telescopes", "workbench"}
		}},
		{post: "The Moon illusion, measured", settings: func(s *tour.Settings) {
			s.Shape.Days, s.Shape.Stops = 92, 8
			s.Wordings = []string{"{line} {link} {hashtags}"}
			s.Hashtags.List = []string{"Moon", "SkyGuide"}
		}},
	}
}

// tours gives the observatory its tours.
func (w *world) tours(ctx context.Context, posts []out, channels map[string]int64) error {
	speakers := []int64{channels[channel.Lantern], channels[channel.Hearth]}
	w.networks = map[int64]string{speakers[0]: channel.Lantern, speakers[1]: channel.Hearth}
	for i, r := range w.rounds() {
		at := slices.IndexFunc(posts, func(p out) bool { return p.Title == r.post })
		if at < 0 {
			return fmt.Errorf("there is no post %q to make a tour of", r.post)
		}
		if err := w.tour(ctx, r, posts[at].ID, speakers, int64(i+1)); err != nil {
			return err
		}
	}
	return nil
}

func (w *world) tour(ctx context.Context, r round, post int64, speakers []int64, seed int64) error {
	begun := w.now.AddDate(0, 0, -r.begun)
	facts, err := w.tx.Facts(ctx, w.site.ID, store.FactsFilter{IDs: []int64{post}, WithText: true})
	if err != nil {
		return err
	}
	lines, err := tour.Lines(facts[0].Title, facts[0].Text, facts[0].Tags, ctx.Err)
	if err != nil {
		return err
	}
	s := tour.Settings{Channels: speakers, Pictures: []int64{}, Picture: message.Picture{From: message.FeaturedPicture},
		Hashtags: message.Hashtags{Sources: []message.Source{message.FromList}, Style: message.Joined},
		Shape: tour.Shape{Start: w.site.Zone().DateOf(begun).Add(1), Thinning: 1, Weekdays: rhythm.EveryDay, From: civil.MustClock("09:00"),
			To: civil.MustClock("19:00")}}
	r.settings(&s)
	for _, l := range lines {
		if l.Score >= tour.Good && len(s.Lines) < s.Shape.Stops {
			s.Lines = append(s.Lines, l.Text)
		}
	}
	by := w.people["Ines Abara"]
	t := store.Tour{SiteID: w.site.ID, Post: store.ID(post), User: &by, Name: r.post, Settings: store.TourSettings{Settings: s}, Seed: seed, CreatedAt: begun, UpdatedAt: begun}
	if t.ID, err = w.tx.InsertTour(ctx, t); err != nil || r.begun == 0 {
		return err
	}
	if t, err = w.tx.LockTour(ctx, w.site.ID, t.ID); err != nil {
		return err
	}
	t.LaunchedAt, t.UpdatedAt = &begun, begun
	if err := w.tx.SaveTour(ctx, t); err != nil {
		return err
	}
	editor := tours.Editor{Desk: act.Desk{Site: w.site, Actor: by}, Public: "http://127.0.0.1:8080"}
	look, err := editor.Look(ctx, w.tx.Queries, t, begun)
	if err != nil {
		return err
	}
	for _, p := range look.Problems {
		return fmt.Errorf("the tour of %q: %s", r.post, p.Message)
	}
	for _, stop := range look.Stops {
		for _, m := range stop.Messages {
			if err := w.stop(ctx, t, stop.Stop, m, by); err != nil {
				return err
			}
		}
	}
	return nil
}

// stop is a message of a running tour: sent, or still to come.
func (w *world) stop(ctx context.Context, t store.Tour, s tour.Stop, m tours.Message, by int64) error {
	o := store.Outing{SiteID: w.site.ID, Channel: m.Channel, Post: t.Post, At: m.At, Origin: store.ByTour, Actor: &by, CreatedAt: *t.LaunchedAt, OwnText: m.Written,
		Text: m.Text, Wording: m.Wording, Pictures: store.IDs{}, Tour: &t.ID, Stop: &s.N}
	o.Extras.Hashtags, o.Extras.Short, o.Extras.Picture, o.Extras.Line = t.Settings.Hashtags, t.Settings.Short, t.Settings.Picture, s.Line
	if m.At.After(w.now) {
		_, err := w.tx.InsertPlanned(ctx, o)
		return err
	}
	w.said[nth{m.Channel, int64(t.Post)}]++
	o.Clicks = len(followers.Said{Network: w.networks[m.Channel], Text: m.Text, Wording: m.Written, Nth: w.said[nth{m.Channel, int64(t.Post)}], At: m.At}.Clicks())
	if o.Clicks == 0 {
		return w.tx.InsertSentOuting(ctx, o)
	}
	if err := w.tx.InsertSentOuting(ctx, o); err != nil {
		return err
	}
	return w.tx.InsertClicks(ctx, w.site.ID, int64(t.Post), w.site.Zone().DateOf(m.At).String(), o.Clicks)
}
