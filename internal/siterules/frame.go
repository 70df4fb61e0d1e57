// Package siterules keeps a site's rules: it reads them and all they need from the
// store into a scene, saves and arms them for an editor, and carries out what core
// decided.
//
// It decides nothing itself. It has no clock: callers say what time it is.
package siterules

import (
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/store"
)

// Book is the rules of one site.
type Book struct {
	Site store.Site
	// Public is where readers reach the blog, such as https://blog.example, for the links
	// in messages.
	Public string
}

// Frame is a site's scene without its posts, and what was read for it.
type Frame struct {
	Scene    deed.Scene
	Rules    []store.Rule
	Channels []store.Channel
	excluded map[int64]map[int64]bool
	picked   map[int64]map[int64]bool
	takes    map[int64][]int
	read     []store.FactsFilter // the posts that were read

	// What the actions of expiry rules need.
	categories map[int64]string
	tags       []string
	there      map[int64]int64 // the posts that readers are sent on to, those that are there
}

// lookBack is for how long a published post is still told of to rules that keep the gap.
const lookBack = rhythm.MaxGap*time.Minute + 3*24*time.Hour

// Frame reads the site's rules, channels and plan. Where override is given, it stands
// in for the kept rule of its number, or beside all others where it is 0.
func (b Book) Frame(ctx context.Context, q store.Queries, now time.Time, override *store.Rule) (*Frame, error) {
	f := &Frame{}
	kept, err := q.RhythmOf(ctx, b.Site.ID)
	if err != nil {
		return nil, fmt.Errorf("reading the rhythm of %s: %w", b.Site.Slug, err)
	}
	f.Scene = deed.Scene{Zone: b.Site.Zone(), Paused: b.Site.PausedAt != nil, Resumed: orZero(b.Site.ResumedAt),
		CatchUp: deed.CatchUp(b.Site.CatchUp),
		Fresh:   time.Duration(b.Site.CatchUpMinutes) * time.Minute, Rhythm: kept.In(b.Site.Zone()), Site: b.Site.ID,
		Link: b.Link, Short: b.Short}
	if err := f.readPlan(ctx, q, b.Site.ID, now); err != nil {
		return nil, fmt.Errorf("reading the plan of %s: %w", b.Site.Slug, err)
	}
	if f.Rules, err = q.Rules(ctx, b.Site.ID); err != nil {
		return nil, fmt.Errorf("reading the rules of %s: %w", b.Site.Slug, err)
	}
	f.override(override)
	if f.excluded, err = q.Exclusions(ctx, b.Site.ID); err != nil {
		return nil, err
	}
	if f.picked, err = q.Picks(ctx, b.Site.ID); err != nil {
		return nil, err
	}
	if f.takes, err = q.Takes(ctx, b.Site.ID, upkeep.Remembered); err != nil {
		return nil, err
	}
	if f.Channels, err = q.Channels(ctx, b.Site.ID); err != nil {
		return nil, err
	}
	if err := f.readChannels(ctx, q, b.Site, now); err != nil {
		return nil, err
	}
	if err := f.readPlanned(ctx, q, b.Site.ID); err != nil {
		return nil, err
	}
	if err := f.readAnnouncements(ctx, q, b.Site.ID); err != nil {
		return nil, err
	}
	if err := f.readEdits(ctx, q, b.Site.ID); err != nil {
		return nil, err
	}
	if f.Scene.Lists, err = Lists(ctx, q, b.Site.ID); err != nil {
		return nil, err
	}
	if err := f.readExtras(ctx, q, b.Site, binned); err != nil {
		return nil, err
	}
	return f, f.addRules()
}

// Lists are the site's lists for alternatives in wordings.
func Lists(ctx context.Context, q store.Queries, siteID int64) (message.Lists, error) {
	kept, err := q.WordLists(ctx, siteID)
	if err != nil {
		return message.Lists{}, fmt.Errorf("reading the lists: %w", err)
	}
	texts := make(map[string][]string, len(kept))
	for _, l := range kept {
		texts[l.Name] = l.Entries
	}
	lists, _ := message.ReadLists(texts) // what is wrong with them was said when they were saved
	return lists, nil
}

// readAnnouncements reads what follows when posts come out.
func (f *Frame) readAnnouncements(ctx context.Context, q store.Queries, siteID int64) error {
	all, err := q.Announcements(ctx, siteID)
	if err != nil {
		return fmt.Errorf("reading the announcements: %w", err)
	}
	own, err := q.HaveOwnSay(ctx, siteID)
	if err != nil {
		return err
	}
	f.Scene.OwnAnnouncements = make(map[int64][]deed.Announcement, len(own))
	for _, post := range own {
		f.Scene.OwnAnnouncements[post] = nil
	}
	for _, a := range all {
		one, err := announcementOf(a)
		if err != nil {
			return fmt.Errorf("reading announcement %d: %w", a.ID, err)
		}
		if a.Post == 0 {
			f.Scene.Announcements = append(f.Scene.Announcements, one)
			continue
		}
		post := int64(a.Post)
		f.Scene.OwnAnnouncements[post] = append(f.Scene.OwnAnnouncements[post], one)
	}
	return nil
}

func announcementOf(a store.Announcement) (deed.Announcement, error) {
	w, err := message.ReadWording(a.Text)
	if err != nil {
		return deed.Announcement{}, err
	}
	reply, err := replyOf(a.ReplyText, a.ReplyAfter)
	return deed.Announcement{Channel: a.Channel, After: a.After, Wording: w, Extras: a.Extras.Extras, Reply: reply}, err
}

// replyOf is what follows under a message; nil where there is no text.
func replyOf(text string, after int) (*deed.Reply, error) {
	if text == "" {
		return nil, nil
	}
	w, err := message.ReadWording(text)
	return &deed.Reply{After: after, Wording: w}, err
}

// readPlanned reads the outings that wait for their time.
func (f *Frame) readPlanned(ctx context.Context, q store.Queries, siteID int64) error {
	planned, err := q.Planned(ctx, siteID)
	if err != nil {
		return fmt.Errorf("reading the planned outings: %w", err)
	}
	for _, o := range planned {
		core, err := OutingOf(o)
		if err != nil {
			return fmt.Errorf("reading outing %d: %w", o.ID, err)
		}
		f.Scene.Planned = append(f.Scene.Planned, core)
	}
	f.Scene.InHand, err = q.InHand(ctx, siteID)
	return err
}

// OutingOf is a planned outing as core knows it.
func OutingOf(o store.Outing) (deed.Outing, error) {
	w, err := message.ReadWording(o.OwnText)
	if err != nil {
		return deed.Outing{}, err
	}
	core := deed.Outing{ID: o.ID, Origin: deed.Origin(o.Origin), Channel: o.Channel, Post: int64(o.Post), Item: o.Item.Item,
		At: o.At.UTC(), Unplaced: o.Unplaced, Wording: w, Number: o.Wording, Round: o.Round, Extras: o.Extras.Extras,
		Turn: orZero(o.Turn), Tour: o.TourName}
	if o.Stop != nil {
		core.Stop = *o.Stop
	}
	if len(o.Pictures) > 0 {
		core.Extras.Picture = message.Picture{From: message.ThisPicture, ID: o.Pictures[0]}
	}
	if o.Rule != nil {
		core.Rule = *o.Rule
	}
	if o.Parent != nil {
		core.Parent = *o.Parent
	}
	core.Reply, err = replyOf(o.ReplyText, o.ReplyAfter)
	return core, err
}

func orZero(t *time.Time) time.Time {
	if t == nil {
		return time.Time{}
	}
	return t.UTC()
}

func (f *Frame) readPlan(ctx context.Context, q store.Queries, siteID int64, now time.Time) error {
	standing, err := q.Placed(ctx, siteID, now.Add(-lookBack))
	if err != nil {
		return err
	}
	for _, s := range standing {
		if s.Waits {
			f.Scene.Scheduled = append(f.Scene.Scheduled, deed.Scheduled{Post: s.Post, Due: s.At.UTC(),
				Pinned: s.Pinned, Slot: s.Slot})
			continue
		}
		f.Scene.Standing = append(f.Scene.Standing, deed.Place{Post: s.Post, Occupied: s.Occupied})
	}
	return nil
}

// Unsaved is the number of a rule that has not been saved, in a frame and all that
// follows from it.
const Unsaved = -1

// numbered returns the rule with a number of its own, saved or not.
func numbered(r store.Rule) store.Rule {
	if r.ID == 0 {
		r.ID = Unsaved
	}
	return r
}

func (f *Frame) override(rule *store.Rule) {
	if rule == nil {
		return
	}
	for i, r := range f.Rules {
		if r.ID == rule.ID {
			f.Rules[i] = *rule
			return
		}
	}
	f.Rules = append(f.Rules, *rule)
}

func (f *Frame) readChannels(ctx context.Context, q store.Queries, site store.Site, now time.Time) error {
	recent, err := q.RecentMessages(ctx, site.ID, now.Add(-deed.CrowdReach))
	if err != nil {
		return err
	}
	for _, c := range f.Channels {
		core, err := ChannelOf(c, site)
		if err != nil {
			return err
		}
		core.Recent = recent[c.ID]
		f.Scene.Channels = append(f.Scene.Channels, core)
	}
	return nil
}

// ChannelOf is a kept channel as core knows it.
func ChannelOf(c store.Channel, site store.Site) (deed.Channel, error) {
	network, ok := channel.Of(c.Kind)
	if !ok {
		return deed.Channel{}, fmt.Errorf("there is no network %q", c.Kind)
	}
	zone := site.Zone()
	if c.ZoneName != nil {
		var err error
		if zone, err = civil.LoadZone(*c.ZoneName); err != nil {
			return deed.Channel{}, err
		}
	}
	return deed.Channel{ID: c.ID, Name: c.Name, Network: network.Name(), Limits: network.Limits(), Apart: c.Apart,
		ADay: c.ADay, Zone: zone, Silent: c.IsSilent(), Habits: c.Habits.Habits,
		Quiet: cadence.Quiet{From: civil.Clock(c.QuietFrom), To: civil.Clock(c.QuietTo), Zone: zone}}, nil
}

func (f *Frame) addRules() error {
	for _, r := range f.Rules {
		base, err := f.base(r)
		if err != nil {
			return fmt.Errorf("the rule “%s”: %w", r.Name, err)
		}
		k, known := kinds[r.Kind]
		if !known {
			return fmt.Errorf("the rule “%s” is of the kind %q, which there is not", r.Name, r.Kind)
		}
		rule, err := k.rule(f, r, base)
		if err != nil {
			return fmt.Errorf("the rule “%s”: %w", r.Name, err)
		}
		f.Scene.Rules = append(f.Scene.Rules, rule)
	}
	return nil
}

func (f *Frame) base(r store.Rule) (deed.RuleBase, error) {
	c := condition.All(f.Scene.Zone)
	if r.Settings.Only == nil {
		var err error
		if c, err = condition.Compile(r.Condition, f.Scene.Zone); err != nil {
			return deed.RuleBase{}, err
		}
	}
	return deed.RuleBase{ID: r.ID, Name: r.Name, Position: r.Position, Seed: r.Seed, Condition: c,
		Armed: r.ArmedAt != nil, Held: r.HeldAt != nil,
		Excluded: f.excluded[r.ID], Served: orZero(r.ServedAt), Owed: orZero(r.OwedAt), OwedOn: r.OwedOn,
		From: f.begins(r.Settings.Starts), Until: f.ends(r.Settings.Ends),
		Pace: cadence.Pace{Cadence: r.Cadence, Rule: r.ID, Seed: r.Seed, Zone: f.Scene.Zone, Gap: 1,
			Anchor: orZero(r.ArmedAt)}}, nil
}

// begins is when a date begins at the site; the zero time of none.
func (f *Frame) begins(d *civil.Date) time.Time {
	if d == nil {
		return time.Time{}
	}
	return f.Scene.Zone.At(*d, 0)
}

// ends is when a date is over at the site; the zero time of none.
func (f *Frame) ends(d *civil.Date) time.Time {
	if d == nil {
		return time.Time{}
	}
	return f.Scene.Zone.At(d.Add(1), 0)
}

// bounds are the minutes in which a rule that brings posts out may act.
func (f *Frame) bounds(s store.RuleSettings) cadence.Bounds {
	return cadence.Bounds{Zone: f.Scene.Zone, Rests: f.Scene.Rhythm.Rests, Weekdays: s.Weekdays, From: s.From, To: s.To}
}

// channelOf returns a channel of the frame; the zero Channel where there is none of the
// number.
func (f *Frame) channelOf(id int64) deed.Channel {
	for _, c := range f.Scene.Channels {
		if c.ID == id {
			return c
		}
	}
	return deed.Channel{}
}

// readPasts reads what the rules did before.
func (f *Frame) readPasts(ctx context.Context, q store.Queries, siteID int64) error {
	pasts, err := q.Pasts(ctx, siteID)
	if err != nil {
		return err
	}
	return f.remember(ctx, q, siteID, pasts)
}

// remember takes in what rules did before, and from it in which round each is.
func (f *Frame) remember(ctx context.Context, q store.Queries, siteID int64, pasts []deed.Record) (err error) {
	f.Scene.Pasts = pasts
	if f.Scene.Refusals, err = q.Refusals(ctx, siteID); err != nil {
		return err
	}
	rounds := make(map[int64]int)
	for _, p := range f.Scene.Pasts {
		if r, known := f.rule(p.Rule); known && (p.Channel == 0 || slices.Contains(r.Settings.Channels, p.Channel)) {
			rounds[p.Rule] = max(rounds[p.Rule], p.Round)
		}
	}
	for _, r := range f.Scene.Rules {
		r.Base().Round = rounds[r.Base().ID]
	}
	return nil
}

// acting returns a rule of the frame as core knows it; nil where there is none.
func (f *Frame) acting(id int64) deed.Rule {
	for _, r := range f.Scene.Rules {
		if r.Base().ID == id {
			return r
		}
	}
	return nil
}

// condition returns the compiled condition of a rule of the frame.
func (f *Frame) condition(id int64) *condition.Condition { return f.acting(id).Base().Condition }

// RuleOf is the kept rule whose turn a decision is; the zero rule where it is none's.
func (f *Frame) RuleOf(d deed.Decision) store.Rule {
	if d.Run == nil {
		return store.Rule{}
	}
	r, _ := f.rule(d.Run.Rule)
	return r
}

// rule returns a kept rule of the frame.
func (f *Frame) rule(id int64) (store.Rule, bool) {
	for _, r := range f.Rules {
		if r.ID == id {
			return r, true
		}
	}
	return store.Rule{}, false
}

// AddExpiring reads the posts that have an expiry of their own.
func (f *Frame) AddExpiring(ctx context.Context, q store.Queries, siteID int64) error {
	return f.add(ctx, q, siteID, store.FactsFilter{OwnExpiry: true})
}

// AddPlanned reads the posts of outings that are planned up to a moment.
func (f *Frame) AddPlanned(ctx context.Context, q store.Queries, siteID int64, until time.Time) error {
	return f.addPlanned(ctx, q, siteID, until, store.FactsFilter{})
}

func (f *Frame) addPlanned(ctx context.Context, q store.Queries, siteID int64, until time.Time, needs store.FactsFilter) error {
	var ids []int64
	for _, o := range f.Scene.Planned {
		if o.Post != 0 && !o.At.After(until) {
			ids = append(ids, o.Post)
		}
	}
	if len(ids) == 0 {
		return nil
	}
	if f.Scene.Refusals == nil {
		var err error
		if f.Scene.Refusals, err = q.Refusals(ctx, siteID); err != nil {
			return err
		}
	}
	needs.IDs, needs.WithOpening = ids, true
	return f.add(ctx, q, siteID, needs)
}

// AddCandidates reads the posts that a rule may catch at a moment, and how many are
// published. The condition's hints spare reading most others.
func (f *Frame) AddCandidates(ctx context.Context, q store.Queries, siteID, rule int64, now time.Time) error {
	kept, ok := f.rule(rule)
	if !ok {
		return store.ErrNotFound
	}
	if err := f.readPublished(ctx, q, siteID); err != nil {
		return err
	}
	pasts, err := q.PastsOf(ctx, siteID, rule, kept.Settings.Channels)
	if err != nil {
		return err
	}
	if err := f.remember(ctx, q, siteID, pasts); err != nil {
		return err
	}
	return f.add(ctx, q, siteID, f.reach(kept, now, f.needs(kept)))
}

// AddReachable reads the posts that any rule that acts may catch up to a moment, and
// those that will come out: all that a forecast up to then needs to know of.
func (f *Frame) AddReachable(ctx context.Context, q store.Queries, siteID int64, until time.Time) error {
	live := f.live()
	needs := f.needs(live...)
	if err := f.readSums(ctx, q, siteID); err != nil {
		return err
	}
	waiting, expiring := needs, needs
	waiting.Statuses, expiring.OwnExpiry = []string{string(store.Scheduled)}, true
	if err := f.addPlanned(ctx, q, siteID, until, needs); err != nil {
		return err
	}
	if err := f.addEdits(ctx, q, siteID, until, needs, q.LiveTexts); err != nil {
		return err
	}
	if len(f.Scene.Binned) == binned { // all of them, for a forecast
		if err := f.readBin(ctx, q, store.Site{ID: siteID, Settings: store.Settings{BinDays: f.Scene.BinDays}}, 0); err != nil {
			return err
		}
	}
	filters := []store.FactsFilter{waiting, expiring}
	for _, r := range live {
		filters = append(filters, f.reach(r, until, needs))
	}
	for _, filter := range filters {
		if err := f.add(ctx, q, siteID, filter); err != nil {
			return err
		}
	}
	return nil
}

// live are the rules that act.
func (f *Frame) live() (live []store.Rule) {
	for _, r := range f.Rules {
		if r.ArmedAt != nil && r.HeldAt == nil {
			live = append(live, r)
		}
	}
	return live
}

// needs says what rules ask of posts beside the plain facts.
func (f *Frame) needs(rules ...store.Rule) store.FactsFilter {
	var needs store.FactsFilter
	for _, r := range rules {
		c := f.condition(r.ID)
		needs.WithText = needs.WithText || c.Asks(condition.Text)
		needs.WithClicks = needs.WithClicks || c.Asks(condition.Clicks) || r.Settings.Order == string(upkeep.Clicked)
		_, speaks := f.acting(r.ID).(deed.Speaker)
		needs.WithOpening = needs.WithOpening || speaks
	}
	return needs
}

// reach is a filter that leaves out no post that the rule may catch up to a moment.
func (f *Frame) reach(r store.Rule, until time.Time, filter store.FactsFilter) store.FactsFilter {
	if r.Settings.Only != nil {
		filter.IDs = r.Settings.Only
		return filter
	}
	c := f.condition(r.ID)
	if told := max(r.Settings.TellDays, r.Settings.ReadDays); told > 0 { // of what is to come, people are told before
		until = until.AddDate(0, 0, told+1)
	}
	h := c.Hints(until)
	filter.Statuses, filter.Categories, filter.Authors, filter.Imports = h.Statuses, h.Categories, h.Authors, h.Imports
	filter.Evergreen, filter.PublishedBefore = h.Evergreen, h.PublishedBefore
	if upkeep.Action(r.Settings.Action) == upkeep.Delete {
		filter.Statuses, filter.PublishedBefore = []string{string(store.Binned)}, time.Time{}
		return filter
	}
	if f.acting(r.ID).Stage() != deed.TakingAway || !c.Asks(condition.Status) {
		filter.Statuses = []string{string(store.Published)}
		if stage := f.acting(r.ID).Stage(); stage == deed.Sharing || stage == deed.TakingAway && c.Asks(condition.Kind) {
			filter.Statuses = append(filter.Statuses, string(store.Linked))
		}
	}
	return filter
}

// readSums reads what the rules did before, and how many posts are published.
func (f *Frame) readSums(ctx context.Context, q store.Queries, siteID int64) error {
	if err := f.readPublished(ctx, q, siteID); err != nil {
		return err
	}
	return f.readPasts(ctx, q, siteID)
}

// readPublished counts the posts that are published, once.
func (f *Frame) readPublished(ctx context.Context, q store.Queries, siteID int64) (err error) {
	if f.Scene.Published == 0 {
		f.Scene.Published, err = q.CountPublished(ctx, siteID)
	}
	return err
}

// add reads posts that have not been read.
func (f *Frame) add(ctx context.Context, q store.Queries, siteID int64, filter store.FactsFilter) error {
	for _, read := range f.read {
		var more bool
		if filter, more = filter.After(read); !more {
			return nil
		}
	}
	facts, err := q.Facts(ctx, siteID, filter)
	if err != nil {
		return err
	}
	f.read = append(f.read, filter)
	if len(f.Scene.Posts) == 0 {
		f.Scene.Posts = facts
		return nil
	}
	if len(facts) == 0 {
		return nil
	}
	fresh := make(map[int64]int, len(facts))
	for i := range facts {
		fresh[facts[i].Post] = i
	}
	posts := slices.Grow(slices.Clone(f.Scene.Posts), len(facts)) // others may have them too
	twice := make([]bool, len(facts))
	for i := range posts {
		if j, again := fresh[posts[i].Post]; again {
			posts[i], twice[j] = fuller(facts[j], posts[i]), true
		}
	}
	for j, p := range facts {
		if !twice[j] {
			posts = append(posts, p)
		}
	}
	f.Scene.Posts = posts
	return nil
}

// fuller is a post as it was read twice, the second time with more or with less of its text and
// of what goes with it.
func fuller(now, before *condition.Facts) *condition.Facts {
	p := *now
	if len(p.Text) < len(before.Text) {
		p.Text = before.Text
	}
	p.InText = max(p.InText, before.InText)
	if p.Clicks == nil {
		p.Clicks = before.Clicks
	}
	return &p
}

// Link is the address of a post in a message.
func (b Book) Link(f *condition.Facts) string {
	if f.Link != "" {
		return f.Link
	}
	return b.Site.Home(b.Public).Full(f.Slug)
}

// Short is the address of a short link.
func (b Book) Short(code string) string {
	return b.Site.Home(b.Public).Origin() + message.ShortPath + code
}
