// Package rulebook keeps a site's rules: it reads them and all they need from the
// store into a scene, saves and arms them for an editor, and carries out what core
// decided.
//
// It decides nothing itself. It has no clock: callers say what time it is.
package rulebook

import (
	"context"
	"fmt"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/blog"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/reshare"
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
	takes    map[int64][]int
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
	f.Scene = deed.Scene{Zone: b.Site.Zone(), Paused: b.Site.PausedAt != nil, Resumed: orZero(b.Site.ResumedAt), CatchUp: deed.CatchUp(b.Site.CatchUp),
		Fresh: time.Duration(b.Site.CatchUpMinutes) * time.Minute, Rhythm: kept.In(b.Site.Zone()), Link: b.link}
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
	if f.takes, err = q.Takes(ctx, b.Site.ID, upkeep.Remembered); err != nil {
		return nil, err
	}
	if f.Channels, err = q.Channels(ctx, b.Site.ID); err != nil {
		return nil, err
	}
	if err := f.readChannels(ctx, q, b.Site, now); err != nil {
		return nil, err
	}
	return f, f.addRules()
}

func orZero(t *time.Time) time.Time {
	if t == nil {
		return time.Time{}
	}
	return t.UTC()
}

func (f *Frame) readPlan(ctx context.Context, q store.Queries, siteID int64, now time.Time) error {
	standing, err := q.Standing(ctx, siteID, now.Add(-lookBack))
	if err != nil {
		return err
	}
	for _, s := range standing {
		if s.Waits {
			f.Scene.Scheduled = append(f.Scene.Scheduled, deed.Scheduled{Post: s.Post, Due: s.At.UTC(), Pinned: s.Pinned, Slot: s.Slot})
			continue
		}
		f.Scene.Standing = append(f.Scene.Standing, deed.Standing{Post: s.Post, Occupied: s.Occupied})
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
		f.Scene.Channels = append(f.Scene.Channels, deed.Channel{Channel: core, Recent: recent[c.ID]})
	}
	return nil
}

// ChannelOf is a kept channel as core knows it.
func ChannelOf(c store.Channel, site store.Site) (reshare.Channel, error) {
	network, ok := channel.Networks[c.Kind]
	if !ok {
		return reshare.Channel{}, fmt.Errorf("there is no network %q", c.Kind)
	}
	zone := site.Zone()
	if c.ZoneName != nil {
		var err error
		if zone, err = civil.LoadZone(*c.ZoneName); err != nil {
			return reshare.Channel{}, err
		}
	}
	return reshare.Channel{ID: c.ID, Name: c.Name, Limits: network.Limits, Apart: c.Apart, ADay: c.ADay, Zone: zone,
		Quiet: cadence.Quiet{From: civil.Clock(c.QuietFrom), To: civil.Clock(c.QuietTo), Zone: zone}}, nil
}

func (f *Frame) addRules() error {
	for _, r := range f.Rules {
		base, err := f.base(r)
		if err != nil {
			return fmt.Errorf("the rule “%s”: %w", r.Name, err)
		}
		bounds := cadence.Bounds{Zone: f.Scene.Zone, Rests: f.Scene.Rhythm.Rests, Weekdays: r.Settings.Weekdays, From: r.Settings.From, To: r.Settings.To}
		s := r.Settings
		switch r.Kind {
		case store.Expire:
			f.Scene.Expire = append(f.Scene.Expire, upkeep.Expire{Rule: base, Action: upkeep.Action(s.Action), MostARun: s.MostARun,
				Took: f.takes[r.ID], Allowed: r.Allowed})
		case store.Republish:
			f.Scene.Republish = append(f.Scene.Republish, upkeep.Republish{Rule: base, Youngest: s.Youngest, AtATime: max(s.AtATime, 1),
				Order: upkeep.Order(s.Order), Apart: s.Apart, Bounds: bounds})
		case store.Reshare:
			share := reshare.Rule{Rule: base, Channel: r.Channel, Youngest: s.Youngest, Oldest: s.Oldest, Apart: s.Apart, Most: s.Most,
				Order: reshare.Order(s.Order), Bounds: bounds, Hashtags: s.Hashtags, Params: s.Params, Short: s.Short}
			for _, text := range s.Wordings {
				w, err := message.ReadWording(text)
				if err != nil {
					return fmt.Errorf("the rule “%s”: %w", r.Name, err)
				}
				share.Wordings = append(share.Wordings, w)
			}
			f.Scene.Reshare = append(f.Scene.Reshare, share)
		}
	}
	return nil
}

func (f *Frame) base(r store.Rule) (upkeep.Rule, error) {
	c, err := condition.Compile(r.Condition, f.Scene.Zone)
	if err != nil {
		return upkeep.Rule{}, err
	}
	base := upkeep.Rule{ID: r.ID, Name: r.Name, Position: r.Position, Seed: r.Seed, Condition: c, Armed: r.ArmedAt != nil, Held: r.HeldAt != nil,
		Excluded: f.excluded[r.ID],
		Pace:     cadence.Pace{Cadence: r.Cadence, Rule: r.ID, Seed: r.Seed, Zone: f.Scene.Zone, Gap: 1}}
	base.Pace.Anchor = orZero(r.ArmedAt)
	base.Served, base.Owed = orZero(r.ServedAt), orZero(r.OwedAt)
	if r.Kind == store.Republish {
		base.Pace.Gap = f.Scene.Rhythm.Gap
	}
	for _, c := range f.Scene.Channels {
		if c.ID == r.Channel {
			base.Pace.Gap = c.Apart
		}
	}
	return base, nil
}

// readPasts reads what the rules did before, and from it in which round each is.
func (f *Frame) readPasts(ctx context.Context, q store.Queries, siteID int64) (err error) {
	if f.Scene.Pasts, err = q.Pasts(ctx, siteID); err != nil {
		return err
	}
	if f.Scene.Refusals, err = q.Refusals(ctx, siteID); err != nil {
		return err
	}
	rounds := make(map[int64]int)
	for _, p := range f.Scene.Pasts {
		rounds[p.Rule] = max(rounds[p.Rule], p.Round)
	}
	for i, r := range f.Scene.Republish {
		f.Scene.Republish[i].Round = rounds[r.ID]
	}
	for i, r := range f.Scene.Reshare {
		f.Scene.Reshare[i].Round = rounds[r.ID]
	}
	return nil
}

// condition returns the compiled condition of a rule of the frame.
func (f *Frame) condition(rule int64) *condition.Condition {
	for _, r := range f.Scene.Expire {
		if r.ID == rule {
			return r.Condition
		}
	}
	for _, r := range f.Scene.Republish {
		if r.ID == rule {
			return r.Condition
		}
	}
	for _, r := range f.Scene.Reshare {
		if r.ID == rule {
			return r.Condition
		}
	}
	return nil
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

// AddCandidates reads the posts that a rule may catch at a moment, and how many are
// published. The condition's hints spare reading most others.
func (f *Frame) AddCandidates(ctx context.Context, q store.Queries, siteID, rule int64, now time.Time) error {
	kept, ok := f.rule(rule)
	if !ok {
		return store.ErrNotFound
	}
	if err := f.readSums(ctx, q, siteID); err != nil {
		return err
	}
	return f.add(ctx, q, siteID, f.reach(kept, now, f.needs(kept)))
}

// AddReachable reads the posts that any rule that acts may catch up to a moment, and
// those that will come out: all that a forecast up to then needs to know of.
func (f *Frame) AddReachable(ctx context.Context, q store.Queries, siteID int64, until time.Time) error {
	live := f.live()
	needs := f.needs(live...)
	f.Scene.Posts = nil
	if err := f.readSums(ctx, q, siteID); err != nil {
		return err
	}
	waiting, expiring := needs, needs
	waiting.Statuses, expiring.OwnExpiry = []string{string(store.Scheduled)}, true
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
		needs.WithClicks = needs.WithClicks || c.Asks(condition.Clicks)
		needs.WithOpening = needs.WithOpening || r.Kind == store.Reshare
	}
	return needs
}

// reach is a filter that leaves out no post that the rule may catch up to a moment.
func (f *Frame) reach(r store.Rule, until time.Time, filter store.FactsFilter) store.FactsFilter {
	c := f.condition(r.ID)
	h := c.Hints(until)
	filter.Statuses, filter.Categories, filter.Authors, filter.Imports = h.Statuses, h.Categories, h.Authors, h.Imports
	filter.Evergreen, filter.PublishedBefore = h.Evergreen, h.PublishedBefore
	if r.Kind != store.Expire || !c.Asks(condition.Status) {
		filter.Statuses = []string{string(store.Published)}
	}
	return filter
}

// readSums reads what the rules did before, and how many posts are published.
func (f *Frame) readSums(ctx context.Context, q store.Queries, siteID int64) (err error) {
	if f.Scene.Published, err = q.CountPublished(ctx, siteID); err != nil {
		return err
	}
	return f.readPasts(ctx, q, siteID)
}

func (f *Frame) add(ctx context.Context, q store.Queries, siteID int64, filter store.FactsFilter) error {
	facts, err := q.Facts(ctx, siteID, filter)
	if err != nil {
		return err
	}
	have := make(map[int64]int, len(f.Scene.Posts))
	for i, p := range f.Scene.Posts {
		have[p.Post] = i
	}
	for _, p := range facts {
		if i, ok := have[p.Post]; ok {
			f.Scene.Posts[i] = p // the later reading may hold more
			continue
		}
		f.Scene.Posts = append(f.Scene.Posts, p)
	}
	return nil
}

// ShortPath is where short links begin.
const ShortPath = "/s/"

// link is the address of a post in a message of a rule.
func (b Book) link(f *condition.Facts, r *reshare.Rule) string {
	if r.Short {
		return b.Public + ShortPath + Code(b.Site.ID, r.ID, f.Post)
	}
	return b.Public + blog.Path(b.Site.Slug, f.Slug)
}

// codeBits is how many bits of a hash a short link's code is made of: ten characters.
const codeBits = 50

// Code is the code of the short link of a post in the messages of a rule.
func Code(site, rule, post int64) string {
	h := cadence.Mix(uint64(site), uint64(rule), uint64(post)) >> (64 - codeBits)
	code := strconv.FormatUint(h, 36)
	return strings.Repeat("0", max(10-len(code), 0)) + code
}

// query is what a short link of a rule adds to the address it leads to.
func query(params []message.Param) string {
	text := message.WithParams("", params)
	return strings.TrimPrefix(text, "?")
}
