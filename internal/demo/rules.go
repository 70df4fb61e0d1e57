package demo

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/followers"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/store"
)

// networks is where the demo's channels find the stand-in networks, until they are told otherwise.
var networks = channel.Addresses{Base: "http://127.0.0.1:8081"}

// Shared lists what the demo blog's channels have shared so far, the oldest first, by the kinds of
// their networks.
func Shared(ctx context.Context, q store.Queries, now time.Time) (map[string][]store.Outing, error) {
	site, err := q.SiteBySlug(ctx, SiteSlug)
	if err != nil {
		return nil, err
	}
	channels, err := q.Channels(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	kinds := make(map[int64]string, len(channels))
	for _, c := range channels {
		kinds[c.ID] = c.Kind
	}
	all, err := q.OutingsBetween(ctx, site.ID, now.AddDate(-1, 0, 0), now)
	shared := make(map[string][]store.Outing)
	for _, o := range all {
		shared[kinds[o.Channel]] = append(shared[kinds[o.Channel]], o)
	}
	return shared, err
}

// Handle is who the demo's channels are on all networks.
const Handle = "quillmoor"

// TokenOf is what the demo's channel on a network signs in with.
func TokenOf(kind string) string { return "dome-" + kind + "-token" }

// eventField is the custom field that holds the date of a viewing night.
const eventField = "event"

// ruleAge is how long the demo's rules have been at work.
const ruleAge = age * 366 * 24 * time.Hour

// out is a published post of the demo as its rules see it.
type out struct {
	store.Post
	category string
}

// rules makes the channel, the rules and what they did so far.
func (w *world) rules(ctx context.Context) error {
	posts, err := w.published(ctx)
	if err != nil {
		return err
	}
	if err := w.care(ctx, posts); err != nil {
		return fmt.Errorf("marking evergreens and events: %w", err)
	}
	channels := make(map[string]int64)
	for _, n := range channel.All() {
		c := store.Channel{SiteID: w.site.ID, Kind: n.Kind(), Name: n.Name(), Address: networks.Of(n.Kind()), Token: TokenOf(n.Kind()),
			Handle: Handle, QuietFrom: 22 * 60, QuietTo: 7 * 60}
		c.Habits.Short = n.Kind() == channel.Hearth || n.Kind() == channel.Crier // their clicks are counted
		c.Apart, c.ADay = n.Pace()
		if channels[n.Kind()], err = w.tx.InsertChannel(ctx, c); err != nil {
			return err
		}
	}
	ids := make(map[string]int64)
	for i, r := range demoRules(channels) {
		r.SiteID, r.Position, r.Seed, r.CreatedAt = w.site.ID, i, seed+uint64(i), w.now.Add(-ruleAge)
		if r.ArmedAt != nil {
			armed, served := w.now.Add(-ruleAge), w.now
			r.ArmedAt, r.ServedAt = &armed, &served
		}
		if ids[r.Name], err = w.tx.InsertRule(ctx, r); err != nil {
			return err
		}
	}
	if err := w.pastExpiries(ctx, posts, ids[afterNight], ids[staleNotices]); err != nil {
		return fmt.Errorf("archiving what was stale: %w", err)
	}
	if err := w.announcements(ctx, channels); err != nil {
		return fmt.Errorf("saying what is shared when posts come out: %w", err)
	}
	if err := w.pastOutings(ctx, posts, channels, ids); err != nil {
		return fmt.Errorf("sharing what was shared: %w", err)
	}
	if err := w.prepared(ctx, posts, channels); err != nil {
		return fmt.Errorf("preparing messages: %w", err)
	}
	if err := w.tours(ctx, posts, channels); err != nil {
		return fmt.Errorf("making tours: %w", err)
	}
	if err := w.pastRepublication(ctx, posts, ids[skyGuideBack]); err != nil {
		return fmt.Errorf("republishing what was: %w", err)
	}
	w.site.BinDays = 30
	if err := w.tx.SaveSettings(ctx, w.site); err != nil {
		return fmt.Errorf("saying how long the bin is kept: %w", err)
	}
	return w.tx.Ask(ctx, w.site.ID, w.now)
}

// The names of the demo's rules.
const (
	afterNight   = "The day after a viewing night"
	staleNotices = "Dome notices after ten days"
	oldLetters   = "A notice above old letters"
	skyGuideBack = "Sky Guide comes round"
	showersBack  = "Showers come back a week before their night"
	workbenchOut = "Workbench, morning and noon"
	meteorsOut   = "Meteor diary in pictures"
	eveningsOut  = "Sky Guide for European evenings"
)

func demoRules(channels map[string]int64) []store.Rule {
	lantern, hearth, vitrine := channels[channel.Lantern], channels[channel.Hearth], channels[channel.Vitrine]
	on := &time.Time{} // stands for the moment of arming
	in := func(name string) condition.Node {
		return condition.Node{Test: condition.Category, Match: condition.MatchAny, Values: []string{name}}
	}
	all := func(parts ...condition.Node) condition.Node {
		return condition.Node{Group: condition.AllOf, Parts: parts}
	}
	daily := func(at string) cadence.Cadence {
		return cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Days, At: civil.MustClock(at)}
	}
	noon := daily("12:30")
	noon.Sway = 75
	evergreen := condition.Node{Test: condition.Evergreen, Match: condition.MatchYes}
	tags := message.Hashtags{Sources: []message.Source{message.FromCategory, message.FromTags}, Style: message.Joined}
	return []store.Rule{
		{Kind: store.Expire, Name: afterNight, ArmedAt: on, Cadence: daily("04:10"),
			Settings: store.RuleSettings{Action: string(upkeep.Archive), MostARun: 10},
			Condition: all(in("Viewing Nights"), condition.Node{Test: condition.Field, Match: condition.MatchPassed,
				Field: eventField, N: 0, Unit: condition.Days})},
		{Kind: store.Expire, Name: staleNotices, ArmedAt: on, Cadence: daily("04:40"),
			Settings: store.RuleSettings{Action: string(upkeep.Archive), MostARun: 10},
			Condition: all(in("Dome Notices"), condition.Node{Test: condition.Age, Match: condition.MatchOver, N: 10,
				Unit: condition.Days})},
		{Kind: store.Expire, Name: oldLetters, Cadence: daily("05:10"),
			Settings: store.RuleSettings{Action: string(upkeep.PutNotice), MostARun: 20,
				Notice: "This letter is from {published}. Its writer may see things differently by now."},
			Condition: all(in("Members Write"), condition.Node{Test: condition.Age, Match: condition.MatchOver, N: 18,
				Unit: condition.Months})},
		{Kind: store.Republish, Name: skyGuideBack, ArmedAt: on,
			Cadence: cadence.Cadence{By: cadence.Every, N: 1, Unit: cadence.Weeks, Weekdays: rhythm.On(time.Sunday),
				At: civil.MustClock("10:15"), Sway: 40},
			Condition: all(in("Sky Guide"), evergreen),
			Settings: store.RuleSettings{Youngest: condition.Span{N: 4, Unit: condition.Weeks}, AtATime: 1,
				Order: string(upkeep.Longest), Apart: 60,
				From: civil.MustClock("09:00"), To: civil.MustClock("20:00")}},
		{Kind: store.Republish, Name: showersBack, ArmedAt: on, Cadence: daily("09:20"),
			Condition: all(in("Meteor Diary"), condition.Node{Test: condition.Field, Match: condition.MatchRound, Field: eventField, N: 7,
				Unit: condition.Days}),
			Settings: store.RuleSettings{Youngest: condition.Span{N: 6, Unit: condition.Months}, AtATime: 1, Order: string(upkeep.Oldest), Apart: 300,
				ReadDays: 4, Unread: true, Channels: []int64{lantern}, SayAfter: 45, Say: "It comes round again: {title} {link}",
				From: civil.MustClock("08:00"), To: civil.MustClock("20:00")}},
		{Kind: store.Reshare, Name: workbenchOut, ArmedAt: on, Cadence: noon,
			Condition: all(in("Workbench"), evergreen),
			Settings: store.RuleSettings{Channels: []int64{lantern, hearth}, Mode: string(reshare.Staggered), Between: 90,
				Youngest: condition.Span{N: 3, Unit: condition.Days}, Apart: 5,
				Order: string(reshare.Longest), Hashtags: tags, Wordings: workbenchWordings,
				ByChannel: map[int64][]string{hearth: {hearthWording}},
				Params:    []message.Param{{Name: "utm_source", Value: "{channel}"}}}},
		{Kind: store.Reshare, Name: meteorsOut, ArmedAt: on, Condition: in("Meteor Diary"),
			Cadence: cadence.Cadence{By: cadence.Openings, Openings: []rhythm.Opening{
				rhythm.Window("evenings", rhythm.On(time.Wednesday, time.Saturday), civil.MustClock("18:00"),
					civil.MustClock("21:00"), 1)}},
			Settings: store.RuleSettings{Channels: []int64{vitrine}, Youngest: condition.Span{N: 1, Unit: condition.Weeks}, Apart: 14,
				Order: string(reshare.Shuffled), Hashtags: tags, Wordings: meteorWordings}},
		{Kind: store.Reshare, Name: eveningsOut, ArmedAt: on, Condition: all(in("Sky Guide"), evergreen),
			Cadence: cadence.Cadence{By: cadence.Openings, Openings: []rhythm.Opening{
				inLisbon(rhythm.Window("lisbon", rhythm.On(time.Monday, time.Thursday), civil.MustClock("19:00"),
					civil.MustClock("21:30"), 1))}},
			Settings: store.RuleSettings{Channels: []int64{lantern, hearth}, Mode: string(reshare.InTurn),
				Youngest: condition.Span{N: 2, Unit: condition.Weeks}, Apart: 21, Order: string(reshare.Weighted), Hashtags: tags,
				Wordings: eveningWordings, ReplyText: "Not sure where to look? The star chart is here: {link}", ReplyAfter: 12}},
	}
}

// inLisbon is an opening by the clocks of Lisbon.
func inLisbon(o rhythm.Opening) rhythm.Opening {
	lisbon := civil.MustZone("Europe/Lisbon")
	o.Audience = &lisbon
	return o
}

// What the demo's rules say.
var (
	workbenchWordings = []string{"From the workbench: {title}. {link} {hashtags}",
		"{title} – {excerpt} {link} {hashtags}", "Cloudy tonight? A job for the bench: {title} {link}"}
	meteorWordings  = []string{"{title} {hashtags}", "From the meteor diary: {excerpt} {link}"}
	eveningWordings = []string{"Tonight: {title} {link} {hashtags}", "{excerpt} {link}"}
)

const hearthWording = "{title}\n\n{excerpt}\n\nRead on, and tell us how you do it: {link}"

// announcements are what the demo shares when a post comes out.
func (w *world) announcements(ctx context.Context, channels map[string]int64) error {
	tags := message.Hashtags{Sources: []message.Source{message.FromCategory}, Style: message.Joined}
	return w.tx.SaveAnnouncements(ctx, w.site.ID, 0, true, []store.Announcement{
		{Channel: channels[channel.Lantern], Text: "New from the dome: {title} {link} {hashtags}",
			Extras: store.Extras{Extras: deed.Extras{Hashtags: tags}}},
		{Channel: channels[channel.Crier], After: 30, Text: crierText},
	})
}

const crierText = "{title}\n\n{excerpt}\n\n{link}"

// published lists the demo's published posts, oldest first.
func (w *world) published(ctx context.Context) ([]out, error) {
	kept, err := w.tx.PublicPosts(ctx, w.site.ID, store.PublicFilter{}, 0, 1000)
	if err != nil {
		return nil, err
	}
	var posts []out
	for _, p := range kept {
		posts = append(posts, out{p, *p.CategoryName})
	}
	slices.SortFunc(posts, func(a, b out) int { return a.PublishedAt.Compare(*b.PublishedAt) })
	return posts, nil
}

func of(posts []out, category string) []out {
	return slices.DeleteFunc(slices.Clone(posts), func(p out) bool { return p.category != category })
}

// care marks the evergreens, and gives viewing nights their dates: some days after they
// were announced, those of the latest two still to come.
func (w *world) care(ctx context.Context, posts []out) error {
	today := w.site.Zone().DateOf(w.now)
	nights := of(posts, "Viewing Nights")
	for i := range posts {
		p := &posts[i]
		p.Fields = store.Fields{}
		p.Evergreen = p.category == "Sky Guide" || p.category == "Workbench"
		if p.category == "Meteor Diary" {
			if night, known := showerOf(p.Title); known {
				p.Fields[eventField] = w.site.Zone().In(*p.PublishedAt).Format("2006-") + night
			}
		}
		for n, night := range nights {
			if night.ID != p.ID {
				continue
			}
			date := w.site.Zone().DateOf(*p.PublishedAt).Add(4)
			if left := len(nights) - n; left <= 2 {
				date = today.Add(20 - 7*left)
			}
			p.Fields[eventField] = date.String()
		}
		if err := w.saveFields(ctx, p.Post, *p.PublishedAt); err != nil {
			return err
		}
	}
	return w.careForScheduled(ctx, today)
}

// showers are the nights on which showers of meteors are at their best, as month and day.
var showers = map[string]string{"Quadrantid": "01-03", "Lyrid": "04-22", "eta Aquariid": "05-06", "delta Aquariid": "07-30", "Perseid": "08-12",
	"Draconid": "10-08", "Orionid": "10-21", "Taurid": "11-05", "Leonid": "11-17", "Monocerotid": "11-21", "Geminid": "12-14", "Ursid": "12-22"}

// showerOf is the night of the shower that a title names.
func showerOf(title string) (night string, known bool) {
	for shower, night := range showers {
		if strings.Contains(title, shower) {
			return night, true
		}
	}
	return "", false
}

// careForScheduled dates the night that is about to be announced.
func (w *world) careForScheduled(ctx context.Context, today civil.Date) error {
	next, err := w.tx.NextDue(ctx, w.site.ID)
	if err != nil {
		return err
	}
	p, err := w.tx.Post(ctx, w.site.ID, next.ID)
	if err != nil {
		return err
	}
	p.Fields = store.Fields{eventField: today.String()}
	return w.saveFields(ctx, p, w.now)
}

// saveFields writes a post's custom fields and what rules know of it.
func (w *world) saveFields(ctx context.Context, p store.Post, at time.Time) error {
	if err := w.tx.SaveText(ctx, p, &p.AuthorID, at); err != nil {
		return err
	}
	return w.tx.SaveCare(ctx, p, at)
}

// pastExpiries archives the nights that are over and the notices that are old, each at
// the turn of its rule.
func (w *world) pastExpiries(ctx context.Context, posts []out, nights, notices int64) error {
	zone := w.site.Zone()
	for _, p := range posts {
		var rule int64
		var at time.Time
		var why string
		switch p.category {
		case "Viewing Nights":
			date, err := civil.ParseDate(p.Fields[eventField])
			if err != nil {
				return err
			}
			rule, at = nights, zone.At(date.Add(1), civil.MustClock("04:10"))
			why = fmt.Sprintf("The rule “%s” matched it: its category is Viewing Nights; its “event”, %s, passed 1 day ago.", afterNight, date.Words(date))
		case "Dome Notices":
			stale := zone.AddDays(*p.PublishedAt, 10)
			at = zone.At(zone.DateOf(stale), civil.MustClock("04:40"))
			if at.Before(stale) {
				at = zone.At(zone.DateOf(stale).Add(1), civil.MustClock("04:40"))
			}
			rule = notices
			why = fmt.Sprintf("The rule “%s” matched it: its category is Dome Notices; it came out 10 days ago, on %s.", staleNotices, zone.DateOf(*p.PublishedAt).Words(zone.DateOf(at)))
		default:
			continue
		}
		if !at.Before(w.now) {
			continue
		}
		if err := w.archive(ctx, p.Post, rule, at, why); err != nil {
			return err
		}
	}
	return nil
}

func (w *world) archive(ctx context.Context, p store.Post, rule int64, at time.Time, why string) error {
	p.Stand(p.State().Archive(at, deed.Notice(at, w.site.Zone())))
	if err := w.tx.SaveState(ctx, p, at); err != nil {
		return err
	}
	if err := w.tx.InsertRun(ctx, store.RuleRun{SiteID: w.site.ID, Rule: rule, At: at, Due: at, Caught: 1,
		Took: 1}); err != nil {
		return err
	}
	return w.tx.Log(ctx, store.LogEntry{SiteID: w.site.ID, At: at, Deed: "archive", Post: &p.ID, Rule: &rule,
		Reason: why})
}

const (
	// pastWeeks is for how long the demo's rules have been sharing.
	pastWeeks = 6
	// channelWeeks is for how long its channels have been speaking: before the rules, somebody shared by hand.
	channelWeeks = 53
)

// pastOutings is what the demo's channels said in the last weeks: workbench posts about noon of each day
// on Lantern and an hour and a half later on Hearth, the one that was out longest ago first; meteors on
// Vitrine twice a week; and what came out, on Lantern and on Crier.
func (w *world) pastOutings(ctx context.Context, posts []out, channels, rules map[string]int64) error {
	bench, meteors := of(posts, "Workbench"), of(posts, "Meteor Diary")
	last := make(map[int64]time.Time)
	n := make(map[int64]int)
	zone := w.site.Zone()
	next := func(all []out, at time.Time) (out, bool) {
		may := slices.DeleteFunc(slices.Clone(all), func(p out) bool { return p.PublishedAt.AddDate(0, 0, 5).After(at) })
		if len(may) == 0 {
			return out{}, false
		}
		p := slices.MinFunc(may, func(a, b out) int {
			return cmp.Or(last[a.ID].Compare(last[b.ID]), cmp.Compare(a.ID, b.ID))
		})
		last[p.ID] = at
		n[p.ID]++
		return p, true
	}
	if err := w.byHand(ctx, posts, channels, next); err != nil {
		return err
	}
	for ago := pastWeeks * 7; ago >= 1; ago-- {
		day := zone.DateOf(w.now).Add(-ago)
		at := zone.At(day, civil.MustClock("11:15")).Add(time.Duration(w.chance.IntN(150)) * time.Minute)
		if p, any := next(bench, at); any {
			said := pastOuting{channel: channels[channel.Lantern], name: "Lantern", rule: rules[workbenchOut], ruleName: workbenchOut,
				wording: (n[p.ID] - 1) % len(workbenchWordings)}
			said.text = workbenchWordings[said.wording]
			if err := w.outing(ctx, p, said, at); err != nil {
				return err
			}
			said.channel, said.name, said.text, said.wording = channels[channel.Hearth], "Hearth", hearthWording, 0
			if err := w.outing(ctx, p, said, at.Add(90*time.Minute)); err != nil {
				return err
			}
		}
		if d := day.Weekday(); d != time.Wednesday && d != time.Saturday {
			continue
		}
		at = zone.At(day, civil.MustClock("18:00")).Add(time.Duration(w.chance.IntN(180)) * time.Minute)
		if p, any := next(meteors, at); any && p.FeaturedImage != "" {
			said := pastOuting{channel: channels[channel.Vitrine], name: "Vitrine", rule: rules[meteorsOut], ruleName: meteorsOut}
			said.text = meteorWordings[0]
			if err := w.outing(ctx, p, said, at); err != nil {
				return err
			}
		}
	}
	for _, p := range posts {
		at := *p.PublishedAt
		if w.now.Sub(at) > channelWeeks*7*24*time.Hour {
			continue
		}
		for _, said := range []pastOuting{{channel: channels[channel.Lantern], name: "Lantern", text: "New from the dome: {title} {link} {hashtags}"},
			{channel: channels[channel.Crier], name: "Crier", text: crierText, after: 30 * time.Minute}} {
			if at.Add(said.after).After(w.now) {
				continue
			}
			if err := w.outing(ctx, p, said, at.Add(said.after)); err != nil {
				return err
			}
		}
	}
	return nil
}

// byHand shares an old post twice a week, in the year before there were rules: on Lantern and on Hearth in turn, at some hour between seven and eleven.
func (w *world) byHand(ctx context.Context, posts []out, channels map[string]int64, next func([]out, time.Time) (out, bool)) error {
	lasting := append(append(of(posts, "Sky Guide"), of(posts, "Workbench")...), of(posts, "Meteor Diary")...)
	zone := w.site.Zone()
	for ago := channelWeeks * 7; ago > pastWeeks*7; ago-- {
		day := zone.DateOf(w.now).Add(-ago)
		if d := day.Weekday(); d != time.Tuesday && d != time.Friday {
			continue
		}
		at := zone.At(day, civil.MustClock("07:00")).Add(time.Duration(w.chance.IntN(16*60)) * time.Minute)
		said := pastOuting{channel: channels[channel.Lantern], name: "Lantern", text: "From the shelf: {title} {link} {hashtags}", hand: true}
		if day.Weekday() == time.Friday {
			said.channel, said.name = channels[channel.Hearth], "Hearth"
		}
		if p, any := next(lasting, at); any {
			if err := w.outing(ctx, p, said, at); err != nil {
				return err
			}
		}
	}
	return nil
}

// pastOuting is something that was said.
type pastOuting struct {
	channel        int64
	name           string
	rule           int64 // 0: it was shared as it came out
	ruleName, text string
	wording        int
	after          time.Duration
	hand           bool // somebody shared it
}

// nth tells the messages of a post on a channel apart from others.
type nth struct{ channel, post int64 }

func (w *world) outing(ctx context.Context, p out, said pastOuting, at time.Time) error {
	link := "http://127.0.0.1:8080/blog/" + SiteSlug + "/" + p.Slug
	wording, err := message.ReadWording(said.text)
	if err != nil {
		return err
	}
	m, err := message.Compose(wording, message.Post{Title: p.Title, Excerpt: p.Excerpt, Link: link, Category: p.category, HasImage: true},
		message.Hashtags{Sources: []message.Source{message.FromCategory}}, message.Limits{Hashtags: 3})
	if err != nil {
		return err
	}
	o := store.Outing{SiteID: w.site.ID, Channel: said.channel, Post: store.ID(p.ID), At: at, Wording: said.wording, Link: link, Text: m.Text,
		Origin: store.ByPublication}
	w.said[nth{said.channel, p.ID}]++
	o.Clicks = len(followers.Said{Network: strings.ToLower(said.name), Text: m.Text, Wording: said.text, Nth: w.said[nth{said.channel, p.ID}], At: at}.Clicks())
	why := fmt.Sprintf("Shared on %s since the post came out.", said.name)
	if said.hand {
		o.Origin = store.ByHand
		why = fmt.Sprintf("Shared on %s by Ines Abara.", said.name)
	}
	if said.rule != 0 {
		o.Rule, o.Origin = &said.rule, store.ByRule
		why = fmt.Sprintf("Shared on %s by the rule “%s”, since it was shared the longest ago.", said.name, said.ruleName)
	}
	if err := w.tx.InsertSentOuting(ctx, o); err != nil {
		return err
	}
	if o.Clicks > 0 {
		if err := w.tx.InsertClicks(ctx, w.site.ID, p.ID, w.site.Zone().DateOf(at).String(), o.Clicks); err != nil {
			return err
		}
	}
	if said.rule != 0 && said.name != "Hearth" {
		if err := w.tx.InsertRun(ctx, store.RuleRun{SiteID: w.site.ID, Rule: said.rule, At: at, Due: at, Caught: 1, Took: 1}); err != nil {
			return err
		}
	}
	return w.tx.Log(ctx, store.LogEntry{SiteID: w.site.ID, At: at, Deed: "share", Post: &p.ID, Rule: o.Rule, Reason: why})
}

// pastRepublication brings the oldest Sky Guide out again on the Sunday before last.
func (w *world) pastRepublication(ctx context.Context, posts []out, rule int64) error {
	guides := of(posts, "Sky Guide")
	if len(guides) == 0 {
		return nil
	}
	p := guides[0].Post
	zone := w.site.Zone()
	sunday := zone.DateOf(w.now).Add(-8)
	for sunday.Weekday() != time.Sunday {
		sunday = sunday.Add(-1)
	}
	at := zone.At(sunday, civil.MustClock("10:31"))
	p.Stand(p.State().Republish(at))
	if err := w.tx.SaveState(ctx, p, at); err != nil {
		return err
	}
	if err := w.tx.InsertRepublication(ctx, store.Republication{SiteID: w.site.ID, Rule: &rule, Post: p.ID, At: at,
		Round: 1}); err != nil {
		return err
	}
	if err := w.tx.InsertRun(ctx, store.RuleRun{SiteID: w.site.ID, Rule: rule, At: at, Due: at, Caught: 1,
		Took: 1}); err != nil {
		return err
	}
	return w.tx.Log(ctx, store.LogEntry{SiteID: w.site.ID, At: at, Deed: "republish", Post: &p.ID, Rule: &rule,
		Reason: fmt.Sprintf("Brought out again by the rule “%s”, since it came out the longest ago.", skyGuideBack)})
}
