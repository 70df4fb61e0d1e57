package engine

import (
	"context"
	"fmt"
	"math/rand/v2"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"dapper.example/internal/act"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/forecast"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/reshare"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/outings"
	"dapper.example/internal/pgtest"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

// lawBegins is when the worlds of the law begin: all their zones change their clocks
// within the 90 days that follow.
var lawBegins = time.Date(2026, 10, 1, 12, 0, 0, 0, time.UTC)

// The law is tried on few worlds for a short while where tests are to be short.
const (
	lawDays        = 90
	lawWorlds      = 30
	shortLawDays   = 20
	shortLawWorlds = 4
)

func lawSize() (days, worlds int) {
	if testing.Short() {
		return shortLawDays, shortLawWorlds
	}
	return lawDays, lawWorlds
}

// lawWorld is a blog that rapid drew.
type lawWorld struct {
	zone    string
	catchUp deed.CatchUp
	gap     int
	posts   []lawPost
	rules   []store.Rule
	planned []lawOuting
	quiet   [2]int
	aDay    int
	rest    []civil.Date
	says    []store.Announcement // by the number of the channel, and of the post where one is its own
	silent  bool                 // the third channel is paused
	edits   []lawEdit
	binDays int
}

// lawEdit is a prepared change of a post.
type lawEdit struct {
	post, in int    // the number of the post; minutes from the beginning
	what     string // it changes
	yearly   bool
}

type lawPost struct {
	category  int
	ago       int // minutes since publication; of scheduled posts, until it, negative
	scheduled bool
	event     string
	evergreen bool
	expires   int  // hours from the beginning; 0: none
	kept      int  // days from the beginning until which it is kept; 0: it is not
	told      bool // its author was told by every rule a week before the beginning
	read      bool // and somebody looked through it
	never     bool
	linked    bool // a link item
}

// lawOuting is an outing that an editor planned.
type lawOuting struct {
	post, in int // the number of the post; minutes from the beginning
	text     string
	channel  int  // its number
	unplaced bool // any minute from then on that its channel allows
	reply    int  // minutes after which a reply follows; 0: none
}

func drawCondition(t *rapid.T) condition.Node {
	category := condition.Node{Test: condition.Category, Match: condition.MatchAny,
		Values: []string{rapid.SampledFrom([]string{"Sky Guide", "Viewing Nights"}).Draw(t, "category")}}
	other := rapid.SampledFrom([]condition.Node{
		{Test: condition.Age, Match: condition.MatchOver, N: 3, Unit: condition.Weeks},
		{Test: condition.Age, Match: condition.MatchOver, N: 1, Unit: condition.Months},
		{Test: condition.Field, Match: condition.MatchPassed, Field: "event", N: 1, Unit: condition.Days},
		{Test: condition.Evergreen, Match: condition.MatchYes},
		{Test: condition.Shared, Match: condition.MatchOver, N: 2},
		{Test: condition.Clicks, Match: condition.MatchUnder, N: 3, Days: 20},
		{Test: condition.Text, Match: condition.MatchAny, Values: []string{"even"}},
		{Test: condition.Republished, Match: condition.MatchUnder, N: 2},
		{Test: condition.Kind, Match: condition.MatchAny, Values: []string{"post", "link"}},
	}).Draw(t, "other")
	group := rapid.SampledFrom([]condition.Group{condition.AllOf, condition.AllOf, condition.AnyOf}).Draw(t, "group")
	return condition.Node{Group: group, Parts: []condition.Node{category, other}}
}

func drawCadence(t *rapid.T) cadence.Cadence {
	return rapid.SampledFrom([]cadence.Cadence{
		// a time that clock changes skip and repeat
		{By: cadence.Every, N: 2, Unit: cadence.Days, At: civil.MustClock("02:30")},
		{By: cadence.Every, N: 3, Unit: cadence.Days, At: civil.MustClock("08:00"), Sway: 90},
		{By: cadence.Every, N: 31, Unit: cadence.Hours, Sway: 60},
		{By: cadence.Every, N: 1, Unit: cadence.Weeks, Weekdays: rhythm.On(time.Tuesday, time.Sunday),
			At: civil.MustClock("02:30")},
		{By: cadence.Openings, Openings: []rhythm.Opening{rhythm.Window("w", rhythm.On(time.Thursday, time.Sunday),
			civil.MustClock("20:00"), civil.MustClock("26:00"), 2)}},
	}).Draw(t, "cadence")
}

func drawRule(t *rapid.T, kind store.RuleKind, i int) store.Rule {
	r := store.Rule{Kind: kind, Name: fmt.Sprintf("%s %d", kind, i),
		Position: rapid.IntRange(0, 2).Draw(t, "position"), Condition: drawCondition(t),
		Cadence: drawCadence(t), Seed: rapid.Uint64().Draw(t, "seed")}
	s := &r.Settings
	switch kind {
	case store.Expire:
		s.Action = string(upkeep.Actions[r.Seed%uint64(len(upkeep.Actions))]) // rapid prefers the first
		s.MostARun = rapid.IntRange(0, 3).Draw(t, "most")
		s.TellDays = rapid.SampledFrom([]int{0, 0, 1, 9}).Draw(t, "tell")
		s.Category, s.Tag = int64(rapid.IntRange(0, 1).Draw(t, "to category")), "Old news"
		s.Answer = string(rapid.SampledFrom(post.Answers).Draw(t, "answer"))
		r.Allowed = rapid.SampledFrom([]int{0, 0, 20}).Draw(t, "allowed")
	case store.Republish:
		s.Order = string(rapid.SampledFrom(upkeep.Orders).Draw(t, "order"))
		s.AtATime, s.Apart = rapid.IntRange(1, 2).Draw(t, "at a time"), rapid.IntRange(0, 30).Draw(t, "apart")
		s.Youngest = condition.Span{N: rapid.IntRange(0, 3).Draw(t, "youngest"), Unit: condition.Weeks}
		s.From, s.To = civil.MustClock("07:00"), civil.MustClock("22:00")
		s.ReadDays, s.Unread = rapid.SampledFrom([]int{0, 0, 2, 5}).Draw(t, "read"), rapid.Bool().Draw(t, "unread")
		if rapid.Bool().Draw(t, "shared again") {
			s.Channels = rapid.SampledFrom([][]int64{{0}, {1, 0}, {2}}).Draw(t, "shared on")
			s.Say, s.SayAfter = "Once more: {title} {link}", rapid.SampledFrom([]int{0, 45}).Draw(t, "shared after")
		}
	case store.Reshare:
		s.Order = rapid.SampledFrom([]string{"longest", "oldest", "newest", "shuffled", "weighted"}).Draw(t, "order")
		s.Apart, s.Most = rapid.IntRange(0, 20).Draw(t, "apart"), rapid.SampledFrom([]int{0, 0, 4}).Draw(t,
			"most outings")
		s.Wordings = []string{"{title} {link} {hashtags}", "Again: {title} – {excerpt} {link}",
			"{category}: {field:event} {title}"}[:rapid.IntRange(1, 3).Draw(t, "wordings")]
		s.Hashtags = message.Hashtags{Sources: []message.Source{message.FromCategory}, Style: message.Lower}
		s.Short = rapid.Bool().Draw(t, "short")
		s.Channels = rapid.SampledFrom([][]int64{{0}, {0}, {1, 0}, {0, 1, 2}, {2}}).Draw(t, "channels")
		s.Mode = string(rapid.SampledFrom(reshare.Modes).Draw(t, "mode"))
		s.Between, s.AtATime = 50, rapid.SampledFrom([]int{1, 1, 3}).Draw(t, "posts a turn")
		s.Once = rapid.IntRange(0, 5).Draw(t, "once") == 0
		if rapid.IntRange(0, 2).Draw(t, "replies") == 0 {
			s.ReplyText, s.ReplyAfter = "Read on: {link}", rapid.IntRange(1, 300).Draw(t, "reply after")
		}
		if rapid.IntRange(0, 3).Draw(t, "ends") == 0 {
			ends := civil.MustDate("2026-10-30")
			s.Ends = &ends
		}
		if rapid.Bool().Draw(t, "oldest") {
			s.Oldest = condition.Span{N: 3, Unit: condition.Months}
		}
	}
	return r
}

var lawWorldsDrawn = rapid.Custom(func(t *rapid.T) lawWorld {
	w := lawWorld{
		zone:    rapid.SampledFrom([]string{"America/Halifax", "Europe/Lisbon", "Australia/Lord_Howe"}).Draw(t, "zone"),
		catchUp: rapid.SampledFrom(deed.CatchUps).Draw(t, "catch-up"),
		gap:     rapid.SampledFrom([]int{1, 45, 600}).Draw(t, "gap"),
		aDay:    rapid.IntRange(0, 3).Draw(t, "a day"),
		rest:    []civil.Date{civil.MustDate("2026-10-12"), civil.MustDate("2026-11-01")},
	}
	w.quiet[0], w.quiet[1] = rapid.IntRange(0, 1439).Draw(t, "quiet from"), rapid.IntRange(0, 1439).Draw(t, "quiet to")
	for range rapid.IntRange(8, 30).Draw(t, "posts") {
		p := lawPost{category: rapid.IntRange(0, 1).Draw(t, "category"),
			ago: rapid.IntRange(1, 120*24*60).Draw(t, "ago"), evergreen: rapid.Bool().Draw(t, "evergreen")}
		if rapid.IntRange(0, 3).Draw(t, "scheduled") == 0 {
			p.scheduled, p.ago = true, -rapid.IntRange(-3*24*60, 80*24*60).Draw(t, "due")
		}
		p.linked = !p.scheduled && rapid.IntRange(0, 5).Draw(t, "linked") == 0
		if rapid.Bool().Draw(t, "event") {
			p.event = lawBegins.AddDate(0, 0, rapid.IntRange(-20, 80).Draw(t, "date")).Format(time.DateOnly)
		}
		if rapid.IntRange(0, 5).Draw(t, "expires") == 0 {
			p.expires = rapid.IntRange(-100, 80*24).Draw(t, "in hours")
		}
		p.kept = rapid.SampledFrom([]int{0, 0, 0, 5, 30}).Draw(t, "kept")
		p.told, p.read = rapid.IntRange(0, 2).Draw(t, "told") == 0, rapid.Bool().Draw(t, "is read")
		p.never = p.expires == 0 && rapid.IntRange(0, 9).Draw(t, "never") == 0
		w.posts = append(w.posts, p)
	}
	for range rapid.IntRange(1, 5).Draw(t, "planned") {
		post := rapid.IntRange(0, len(w.posts)-1).Draw(t, "of post")
		if slices.ContainsFunc(w.planned, func(o lawOuting) bool { return o.post == post }) {
			continue // two messages of one post at one moment could not be told apart in the logbook
		}
		w.planned = append(w.planned, lawOuting{post: post, in: rapid.IntRange(-60, 70*24*60).Draw(t, "goes out"),
			text:    rapid.SampledFrom([]string{"Look: {title} {link}", "{excerpt}", "{title} {field:event}"}).Draw(t, "text"),
			channel: rapid.IntRange(0, 2).Draw(t, "on"), unplaced: rapid.IntRange(0, 3).Draw(t, "unplaced") == 0,
			reply: rapid.SampledFrom([]int{0, 0, 7}).Draw(t, "reply")})
	}
	w.binDays = rapid.SampledFrom([]int{0, 7, 20}).Draw(t, "bin days")
	w.silent = rapid.IntRange(0, 2).Draw(t, "silent") == 0
	for range rapid.IntRange(0, 3).Draw(t, "announcements") {
		w.says = append(w.says, store.Announcement{Channel: int64(rapid.IntRange(0, 2).Draw(t, "announced on")),
			Post: store.ID(rapid.SampledFrom([]int{0, 0, 1, 2, 3}).Draw(t, "announced of")), After: rapid.SampledFrom([]int{0, 20, 3000}).Draw(t, "so long after"),
			Text: "New: {title} {link}"})
	}
	for range rapid.IntRange(0, 6).Draw(t, "edits") {
		w.edits = append(w.edits, lawEdit{post: rapid.IntRange(0, len(w.posts)-1).Draw(t, "edited"), in: rapid.SampledFrom([]int{-50, 1440, 1441, rapid.IntRange(1, 60*24*60).Draw(t, "edited in")}).Draw(t, "edited at"),
			what: rapid.SampledFrom([]string{"title", "body", "category", "event", "tags", "slug", "excerpt", "clash", "nothing"}).Draw(t, "edits what"), yearly: rapid.IntRange(0, 4).Draw(t, "yearly") == 0})
	}
	for _, kind := range store.RuleKinds {
		most := 3
		if kind == store.Republish {
			most = 2
		}
		for i := range rapid.IntRange(1, most).Draw(t, string(kind)) {
			w.rules = append(w.rules, drawRule(t, kind, i))
		}
	}
	return w
})

// make puts the world into a store.
func (w lawWorld) make(t *testing.T, s *store.Store) store.Site {
	ctx := t.Context()
	site, err := s.InsertSite(ctx, store.Site{Slug: "law", Title: "Law", ZoneName: w.zone, CreatedAt: lawBegins})
	require.NoError(t, err)
	user, err := s.InsertUser(ctx, store.User{Email: "law@example.org", Name: "Ines Abara", PasswordHash: "-",
		CreatedAt: lawBegins})
	require.NoError(t, err)
	var categories []int64
	for i, name := range []string{"Sky Guide", "Viewing Nights"} {
		id, err := s.InsertCategory(ctx, site.ID, fmt.Sprint("c", i), name, i)
		require.NoError(t, err)
		categories = append(categories, id)
	}
	_, err = s.InsertRhythm(ctx, store.Rhythm{SiteID: site.ID, Name: "The week", Gap: w.gap, Seed: 5,
		Rests: civil.RestOn(w.rest...),
		Openings: []rhythm.Opening{rhythm.Window("o", rhythm.EveryDay, civil.MustClock("08:00"),
			civil.MustClock("20:00"), 1)}}, lawBegins)
	require.NoError(t, err)
	var posts []int64
	for i, p := range w.posts {
		posts = append(posts, w.insert(t, s, site, user.ID, categories[p.category], i, p))
	}
	var channels []int64
	for i, name := range []string{"Lantern", "Hill", "Dome"} {
		c := store.Channel{SiteID: site.ID, Kind: channel.Lantern, Name: name, Address: "http://127.0.0.1:9", Token: "t",
			Apart: 35, ADay: w.aDay, QuietFrom: w.quiet[0], QuietTo: w.quiet[1]}
		if i > 0 {
			c.Apart, c.ADay, c.QuietFrom = 80*i, 0, c.QuietTo
			c.Habits.Short, c.Habits.Before = i == 1, "★"
		}
		id, err := s.InsertChannel(ctx, c)
		require.NoError(t, err)
		channels = append(channels, id)
		if c.ID, c.PausedAt = id, &lawBegins; i == 2 && w.silent {
			require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error { return tx.SaveChannel(ctx, c) }))
		}
	}
	require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error { return w.announce(ctx, tx, site.ID, channels, posts) }))
	for _, o := range w.planned {
		require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error {
			row := store.Outing{SiteID: site.ID, Channel: channels[o.channel], Post: store.ID(posts[o.post]),
				At:     lawBegins.Add(time.Duration(o.in) * time.Minute),
				Origin: store.ByHand, OwnText: o.text, Actor: &user.ID, CreatedAt: lawBegins, Unplaced: o.unplaced}
			if o.reply > 0 {
				row.ReplyText, row.ReplyAfter = "And: {link}", o.reply
			}
			_, err := tx.InsertPlanned(ctx, row)
			return err
		}))
	}
	for _, e := range w.edits {
		e.make(t, s, site, user.ID, categories, posts[e.post])
	}
	for _, r := range w.rules {
		r.SiteID, r.CreatedAt, r.ArmedAt, r.ServedAt = site.ID, lawBegins, &lawBegins, &lawBegins
		if r.Kind == store.Expire {
			r.Settings.Category, r.Settings.LeadsTo = categories[r.Settings.Category], posts[len(posts)/2]
		}
		if r.Kind != store.Expire {
			on := make([]int64, len(r.Settings.Channels))
			for i, n := range r.Settings.Channels {
				on[i] = channels[n]
			}
			r.Settings.Channels = on
		}
		id, err := s.InsertRule(ctx, r)
		require.NoError(t, err)
		for i, p := range w.posts {
			if p.told && r.Kind != store.Reshare {
				require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error {
					at := lawBegins.AddDate(0, 0, -7)
					if err := tx.Tell(ctx, store.Notice{SiteID: site.ID, Rule: id, Post: posts[i], At: at, DueOn: at}); err != nil || !p.read {
						return err
					}
					return tx.MarkRead(ctx, site.ID, id, posts[i], user.ID, lawBegins)
				}))
			}
		}
		if r.Kind == store.Reshare && r.Seed%2 == 0 {
			w.takeInHand(t, s, site, id, posts)
		}
	}
	require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error {
		site.CatchUp, site.CatchUpMinutes, site.BinDays = string(w.catchUp), 24*60, w.binDays
		return tx.SaveSettings(ctx, site)
	}))
	_, err = s.DB().ExecContext(ctx, `update sites set comments_open = true where id = $1`, site.ID)
	require.NoError(t, err)
	require.NoError(t, s.Ask(ctx, site.ID, lawBegins))
	site, err = s.Site(ctx, site.ID)
	require.NoError(t, err)
	return site
}

// make prepares the change.
func (e lawEdit) make(t *testing.T, s *store.Store, site store.Site, user int64, categories []int64, post int64) {
	ctx := t.Context()
	p, err := s.Post(ctx, site.ID, post)
	require.NoError(t, err)
	row := store.TimedEdit{SiteID: site.ID, Post: post, User: &user, Base: store.Wording{Text: p.Says()}, Wanted: store.Wording{Text: p.Says()},
		DueAt: lawBegins.Add(time.Duration(e.in) * time.Minute), CreatedAt: lawBegins}
	wanted := &row.Wanted.Text
	switch e.what {
	case "title":
		wanted.Title = fmt.Sprintf("Edited in {year} after %d", e.in)
	case "body":
		wanted.Body += "\n\nAn even newer paragraph."
	case "category":
		wanted.Category = categories[(e.post+1)%2]
	case "event":
		wanted.Fields = map[string]string{"event": lawBegins.AddDate(0, 0, 30).Format(time.DateOnly)}
	case "tags":
		wanted.Tags = []string{"Night walks", "hill"}
	case "slug":
		wanted.Slug = "moved"
	case "excerpt":
		wanted.Excerpt = "In short."
	case "clash":
		row.Base.Title, wanted.Title = "What it never was", "What it is not to be"
	}
	if e.yearly {
		yearly := revise.YearlyOf(row.DueAt, site.Zone())
		row.Yearly.Yearly = &yearly
	}
	require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error {
		_, err := tx.InsertEdit(ctx, row)
		return err
	}))
}

// announce has the site, and some posts themselves, say what is shared when they come out.
func (w lawWorld) announce(ctx context.Context, tx *store.Tx, site int64, channels, posts []int64) error {
	say := make(map[int64][]store.Announcement)
	for _, a := range w.says {
		of := int64(0)
		if a.Post != 0 {
			of = posts[a.Post]
		}
		a.Channel = channels[a.Channel]
		say[of] = append(say[of], a)
	}
	for of, all := range say {
		if err := tx.SaveAnnouncements(ctx, site, of, true, all); err != nil {
			return err
		}
	}
	return nil
}

// takeInHand moves the first turn of a rule by some hours and leaves the second out, as an
// editor does.
func (w lawWorld) takeInHand(t *testing.T, s *store.Store, site store.Site, rule int64, posts []int64) {
	ctx := t.Context()
	desk := outings.Editor{Desk: act.Desk{Store: s, Site: site, Actor: 1}, Public: "https://dome.example"}
	require.NoError(t, s.DB().GetContext(ctx, &desk.Actor, `select min(id) from users`))
	frame, err := siterules.Book{Site: site}.Frame(ctx, s.Queries, lawBegins, nil)
	require.NoError(t, err)
	for _, r := range frame.Scene.Rules {
		if r.Base().ID != rule {
			continue
		}
		n := 0
		for turn := range deed.TurnsOf(r, nil) {
			var wishes []outings.Wish
			if n == 0 && r.(deed.Speaker).Speaks()[0] != 0 {
				wishes = []outings.Wish{{Channel: r.(deed.Speaker).Speaks()[0], At: turn.Add(5 * time.Hour), Text: "A word from us",
					Item: deed.Item{Link: "https://sky.example/"}}}
			}
			require.NoError(t, desk.Take(ctx, rule, turn, wishes, lawBegins))
			if n++; n == 2 {
				return
			}
		}
	}
}

func (w lawWorld) insert(t *testing.T, s *store.Store, site store.Site, author, category int64, i int,
	p lawPost) int64 {
	ctx := t.Context()
	at := lawBegins.Add(-time.Duration(p.ago) * time.Minute)
	post := store.Post{SiteID: site.ID, AuthorID: author, CategoryID: &category,
		Title: fmt.Sprintf("Post %d: stars over the hill", i), Slug: fmt.Sprint("post-", i),
		Body: map[bool]string{true: "An even text.", false: "An odd one."}[i%2 == 0] +
			" It goes on for a while.", CreatedAt: lawBegins.AddDate(0, -6, 0), PublishedAt: &at}
	id, err := int64(0), error(nil)
	if p.scheduled {
		id, err = s.InsertDraft(ctx, post)
	} else {
		id, err = s.InsertPublished(ctx, post)
	}
	require.NoError(t, err)
	kept, err := s.Post(ctx, site.ID, id)
	require.NoError(t, err)
	require.NoError(t, s.InTx(ctx, func(tx *store.Tx) error {
		if p.scheduled {
			kept.Slug = post.Slug
			kept.Stand(kept.State().Pin(at))
			if err := tx.SaveState(ctx, kept, lawBegins); err != nil {
				return err
			}
		}
		if p.expires != 0 {
			expires := lawBegins.Add(time.Duration(p.expires) * time.Hour)
			kept.ExpiresAt = &expires
		}
		if p.kept != 0 {
			until := lawBegins.AddDate(0, 0, p.kept)
			kept.KeptUntil = &until
		}
		kept.NeverExpires, kept.Evergreen, kept.Fields = p.never, p.evergreen, store.Fields{}
		if p.event != "" {
			kept.Fields["event"] = p.event
		}
		if err := tx.SaveText(ctx, kept, nil, lawBegins.AddDate(0, -6, 0)); err != nil {
			return err
		}
		return tx.SaveCare(ctx, kept, lawBegins)
	}))
	if p.linked {
		_, err := s.DB().ExecContext(ctx, `update posts set kind = 'link', status = 'linked', link = 'https://ridge.example/' || id, slug = '' where id = $1`, id)
		require.NoError(t, err)
	}
	if i%3 == 0 {
		require.NoError(t, s.InsertClicks(ctx, site.ID, id, lawBegins.AddDate(0, 0, -5).Format(time.DateOnly), 4))
	}
	return id
}

// did is a deed as the law compares it.
type did struct {
	At     string
	Deed   string
	Post   int64
	Rule   int64
	Reason string
	Text   string
}

func foretold(t *testing.T, s *store.Store, site store.Site) []did {
	days, _ := lawSize()
	return foretoldBetween(t, s, site, lawBegins, lawBegins.AddDate(0, 0, days))
}

func foretoldBetween(t *testing.T, s *store.Store, site store.Site, from, to time.Time) []did {
	ctx := t.Context()
	frame, err := siterules.Book{Site: site, Public: "https://dome.example"}.Frame(ctx, s.Queries, from, nil)
	require.NoError(t, err)
	require.NoError(t, frame.AddReachable(ctx, s.Queries, site.ID, to))
	f := forecast.Run(forecast.Request{Scene: frame.Scene, From: from, To: to})
	require.Nil(t, f.Stuck)
	var all []did
	for _, e := range f.Events {
		all = append(all, did{e.At.UTC().Format(time.RFC3339), string(e.Kind), e.Post, e.Rule, e.Reason, e.Text})
	}
	return all
}

// happened runs engines on the store over the span, each until chance ends it, some in
// the midst of a transaction and all of them some seconds late, and reads the logbook.
func happened(t *testing.T, s *store.Store, site store.Site, seed uint64) []did {
	ctx := t.Context()
	// The logbook forgets the numbers of posts that are deleted; here it keeps them, so that deeds can be compared.
	_, err := s.DB().ExecContext(ctx, `alter table logbook drop constraint logbook_site_id_post_id_fkey`)
	require.NoError(t, err)
	chance := rand.New(rand.NewPCG(seed, 1))
	e, clock := engineAt(s, lawBegins)
	days, _ := lawSize()
	end := lawBegins.AddDate(0, 0, days)
	restarts := 0
	for {
		step, cancel := context.WithCancel(ctx)
		if chance.IntN(25) == 0 { // this engine dies with a step half done
			e.claimed = func([]int64) { cancel() }
		}
		n, err := e.Step(step)
		dead := step.Err() != nil
		cancel()
		if dead || chance.IntN(40) == 0 {
			at := clock.Now()
			e, clock = engineAt(s, at)
			restarts++
			continue
		}
		require.NoError(t, err)
		if n > 0 {
			continue
		}
		next, err := e.Next(ctx, clock.Now())
		require.NoError(t, err)
		if next.IsZero() || next.After(end) {
			break
		}
		require.True(t, next.After(clock.Now()))
		// Engines are never quite on time.
		late := time.Duration(chance.IntN(50_000)) * time.Millisecond
		clock.Advance(next.Sub(clock.Now()) + late)
	}
	require.NotZero(t, restarts)
	return logged(t, s, site)
}

func logged(t *testing.T, s *store.Store, site store.Site) []did {
	var rows []struct {
		At     time.Time `db:"at"`
		Deed   string    `db:"deed"`
		Post   int64     `db:"post"`
		Rule   int64     `db:"rule"`
		Reason string    `db:"reason"`
		Text   string    `db:"text"`
	}
	require.NoError(t, s.DB().SelectContext(t.Context(), &rows, `
		select logbook.at, deed, coalesce(logbook.post_id, 0) as post, coalesce(logbook.rule_id, 0) as rule, reason, coalesce(outings.text, '') as text
		from logbook left join outings on deed = 'share' and outings.id = logbook.outing_id
		where logbook.site_id = $1 and logbook.actor_id is null order by logbook.id`, site.ID))
	var all []did
	for _, r := range rows {
		all = append(all, did{r.At.UTC().Format(time.RFC3339), r.Deed, r.Post, r.Rule, r.Reason, r.Text})
	}
	return all
}

// The law: over the same span from the same snapshot, what the engine does is what was
// foretold, one for one: the same deeds, in the same order, at the same times, with the
// same reasons and texts.
func TestTheForecastIsWhatHappens(t *testing.T) {
	t.Parallel()
	_, worlds := lawSize()
	kinds := make(chan map[string]int, worlds)
	t.Run("worlds", func(t *testing.T) {
		for i := range worlds {
			t.Run(fmt.Sprint(i), func(t *testing.T) {
				t.Parallel()
				w := lawWorldsDrawn.Example(i + 1)
				s := pgtest.New(t)
				site := w.make(t, s)
				want := foretold(t, s, site)
				got := happened(t, s, site, uint64(i))
				require.Equal(t, len(want), len(got))
				for j := range want {
					require.Equal(t, want[j], got[j], "deed %d of %d", j, len(want))
				}
				count := make(map[string]int)
				for _, d := range got {
					count[d.Deed]++
				}
				kinds <- count
			})
		}
	})
	close(kinds)
	total := make(map[string]int)
	for count := range kinds {
		for kind, n := range count {
			total[kind] += n
		}
	}
	t.Log("deeds compared:", total)
	if !t.Failed() {
		kinds := deed.Kinds()
		if testing.Short() { // few worlds need not have all of them
			kinds = []deed.Kind{deed.KindPublish, deed.KindArchive, deed.KindRepublish, deed.KindShare}
		}
		for _, kind := range kinds {
			assert.NotZero(t, total[string(kind)], kind)
		}
	}
}
