package demo

import (
	"context"
	"time"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/store"
)

// preparedMessage is a row of the demo's table of prepared messages.
type preparedMessage struct {
	text, link, title string
	post              string // the slug of its post
	on                []string
	day               int    // from today; 0: no time
	at                string // HH:MM
	ready, sent       bool
}

var preparedMessages = []preparedMessage{
	{text: "Frost on the dome tonight, and the steadiest air of the year. We are open from eight.", on: []string{channel.Lantern, channel.Hearth}, day: -9, at: "16:20", sent: true},
	{text: "Our hut has a stove again. Thank you, whoever left the kindling.", on: []string{channel.Hearth}, day: -4, at: "11:45", sent: true},
	{text: "Full moon, and nothing to see? Not quite. {title}: {link}", post: "what-to-look-at-when-the-moon-is-full", on: []string{channel.Lantern}, day: 3, at: "13:10", ready: true},
	{text: "A year of variable stars from one garden: {link}", link: "https://stars.example/variable-years", title: "Variable years", on: []string{channel.Hearth}, day: 6, at: "19:25", ready: true},
	{text: "Ten minutes, a pencil and the half moon. That is all it takes: {title} {link}", post: "sketching-at-the-eyepiece-for-people-who-cannot-draw", on: []string{channel.Lantern, channel.Hearth}},
	{text: "Cloudy again? Then it is a night for the workbench: {title} {link}", post: "a-dew-heater-from-a-string-of-resistors", on: []string{channel.Lantern}},
	{text: "What would you like us to point the ten-inch at in January? Answer here; we read everything.", on: []string{channel.Hearth}},
	{text: "The sun sets at half past four. That is {one-of:nothing-yet}", on: []string{channel.Lantern}},
	{text: "Calling everybody who counted Orionids from the south lawn: please hand in your sheets before the end of the month, even the wet ones, even the ones on the backs of envelopes, and even if you think that you counted too few, because a quiet hour is a number like any other and the curve needs its quiet hours as much as its loud ones, and we mean to print it with your names in the spring, if you agree to that.", on: []string{channel.Lantern}, day: 8, at: "12:00"},
	{text: "Last call for the talk by lantern: six seats are left.", on: []string{channel.Lantern, channel.Crier}, day: -1, at: "17:30"},
	{text: "A picture for the shortest day.", on: []string{channel.Vitrine}, day: 24, at: "15:40"},
	{text: "", link: "https://stars.example/almanac-for-walkers", title: "An almanac for walkers"},
}

// prepared fills the table of prepared messages: some sent, some ready, some not finished.
func (w *world) prepared(ctx context.Context, posts []out, channels map[string]int64) error {
	today := w.site.Zone().DateOf(w.now)
	for _, m := range preparedMessages {
		row := store.Prepared{SiteID: w.site.ID, Text: m.text, Item: store.Item{Item: deed.Item{Title: m.title, Link: m.link}}, CreatedAt: w.now.AddDate(0, 0, -12)}
		for _, p := range posts {
			if m.post != "" && p.Slug == m.post {
				row.Post = store.ID(p.ID)
			}
		}
		for _, kind := range m.on {
			row.Channels = append(row.Channels, channels[kind])
		}
		var at time.Time
		if m.at != "" {
			at = w.site.Zone().At(today.Add(m.day), civil.MustClock(m.at))
			row.At = &at
		}
		id, err := w.tx.InsertPrepared(ctx, row)
		if err != nil {
			return err
		}
		for _, c := range row.Channels {
			o := store.Outing{SiteID: w.site.ID, Channel: c, Post: row.Post, Item: row.Item, At: at, OwnText: m.text, Text: m.text, Origin: store.ByHand,
				Prepared: store.ID(id), CreatedAt: row.CreatedAt, Pictures: store.IDs{}}
			switch {
			case m.sent:
				o.Clicks = w.chance.IntN(9)
				err = w.tx.InsertSentOuting(ctx, o)
			case m.ready:
				_, err = w.tx.InsertPlanned(ctx, o)
			}
			if err != nil {
				return err
			}
		}
	}
	return nil
}
