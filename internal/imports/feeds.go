package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/act"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/words"
	"dapper.example/internal/intake/articles"
	"dapper.example/internal/intake/feed"
	"dapper.example/internal/reach"
	"dapper.example/internal/store"
)

// KindFeed is an import of new items of a feed.
const KindFeed = "feed"

// Limits of feeds.
const (
	MaxFeeds     = 50
	minInterval  = 5 // minutes
	maxInterval  = 30 * 24 * 60
	feedsAtOnce  = 20
	feedLease    = 5 * time.Minute
	feedPatience = 30 * time.Second
	// mostFailing is after how many failures a feed is looked at as seldom as it gets.
	mostFailing = 8
	maxMessages = 2000
)

// FeedSays is what an editor says of a feed.
type FeedSays struct {
	Name     string
	Address  string
	Minutes  int // from one look to the next
	Existing bool
	Becomes  string
	Setup    Setup
	Paused   bool
}

// problem says what is wrong with what an editor says.
func (f *FeedSays) problem(d act.Desk, allowed reach.Allowed) *act.Invalid {
	f.Name, f.Address = strings.Join(strings.Fields(f.Name), " "), strings.TrimSpace(f.Address)
	if n := utf8.RuneCountInString(f.Name); n == 0 || n > maxSource || strings.ContainsRune(f.Name, 0) {
		return act.Invalidf("name", "Give the feed a name of 1 to %d characters.", maxSource)
	}
	if why := allowed.Check(f.Address); why != "" {
		return act.Invalidf("address", "%s", why)
	}
	if f.Minutes < minInterval || f.Minutes > maxInterval {
		return act.Invalidf("minutes", "It is looked at every %d minutes at the most often, and every 30 days at the least.", minInterval)
	}
	if !slices.Contains([]string{store.FeedPosts, store.FeedLinks, store.FeedMessages}, f.Becomes) {
		return act.Invalidf("becomes", "Choose what new items become.")
	}
	if f.Becomes == store.FeedLinks {
		f.Setup.Landing = Goal{As: AsLinks, Doubles: f.Setup.Landing.Doubles}
	}
	if f.Setup.Landing.Portion > 0 {
		return act.Invalidf("setup.landing.portion", "Items of feeds come as they are new, not in portions.")
	}
	return f.Setup.problem(d.Site.Zone())
}

func (f FeedSays) row(d act.Desk, now time.Time) (store.Feed, error) {
	raw, err := json.Marshal(f.Setup)
	return store.Feed{SiteID: d.Site.ID, User: d.Actor, Name: f.Name, Address: f.Address, Minutes: f.Minutes, Existing: f.Existing, Becomes: f.Becomes, Setup: raw, Paused: f.Paused,
		NextAt: now, CreatedAt: now}, err
}

// AddFeed adds a feed, which is looked at at once in the background. It fails with *act.Invalid.
func AddFeed(ctx context.Context, d act.Desk, says FeedSays, allowed reach.Allowed, now time.Time) (f store.Feed, err error) {
	if bad := says.problem(d, allowed); bad != nil {
		return f, bad
	}
	if f, err = says.row(d, now); err != nil {
		return f, err
	}
	err = d.Store.InTx(ctx, func(tx *store.Tx) error {
		all, err := tx.Queries.Feeds(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if len(all) >= MaxFeeds {
			return act.Invalidf("address", "There are %d feeds already. Delete one first.", len(all))
		}
		if f.ID, err = tx.InsertFeed(ctx, f); err != nil {
			return namedTwice(err)
		}
		f, err = tx.Queries.Feed(ctx, d.Site.ID, f.ID)
		return err
	})
	return f, err
}

func namedTwice(err error) error {
	if store.IsDuplicate(err) {
		return act.Invalidf("name", "Another feed has this name.")
	}
	return err
}

// SaveFeed changes a feed over the version that was seen; act.ErrStale where there is another.
func SaveFeed(ctx context.Context, d act.Desk, id int64, version int, says FeedSays, allowed reach.Allowed, now time.Time) (f store.Feed, err error) {
	if bad := says.problem(d, allowed); bad != nil {
		return f, bad
	}
	if f, err = says.row(d, now); err != nil {
		return f, err
	}
	f.ID, f.Version = id, version
	err = d.Store.InTx(ctx, func(tx *store.Tx) error {
		was, err := tx.Queries.Feed(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if was.Version != version {
			return act.ErrStale
		}
		if err := tx.SaveFeed(ctx, f); err != nil {
			return namedTwice(err)
		}
		f, err = tx.Queries.Feed(ctx, d.Site.ID, id)
		return err
	})
	return f, err
}

// PreviewFeed fetches a feed, and says what its items would become, the newest ones. It fails with *act.Invalid.
func PreviewFeed(ctx context.Context, d act.Desk, says FeedSays, allowed reach.Allowed, most int, now time.Time) (title string, all []Shown, err error) {
	if says.Name == "" {
		says.Name = "Feed"
	}
	if bad := says.problem(d, allowed); bad != nil {
		return "", nil, bad
	}
	f, err := feed.Fetch(ctx, feed.Client(allowed), says.Address, feed.Seen{}, now)
	if failed, ok := errors.AsType[*feed.Failed](err); ok {
		return "", nil, act.Invalidf("address", "%s", failed.Why)
	}
	if err != nil {
		return "", nil, err
	}
	j, err := newJudge(ctx, d.Store.Queries, store.Import{SiteID: d.Site.ID}, says.Setup, nil, nil, now)
	if err != nil {
		return "", nil, err
	}
	for n, l := range f.Lines[:min(len(f.Lines), most)] {
		line, post, err := j.take(ctx, n+1, articles.Read{Line: l})
		if err != nil {
			return "", nil, err
		}
		all = append(all, Shown{line, post})
	}
	return f.Title, all, nil
}

// Feeder looks at feeds when their time has come. Any number of them may run at once; each look is taken by one.
type Feeder struct {
	Store  *store.Store
	Clock  clockwork.Clock
	Client *http.Client
	Log    *slog.Logger
}

// Run looks until the context ends.
func (r *Feeder) Run(ctx context.Context) {
	tick := time.NewTicker(2 * time.Second)
	defer tick.Stop()
	for {
		if err := r.Step(ctx); err != nil && ctx.Err() == nil {
			r.Log.Error("looking at feeds", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Step looks at the feeds whose time has come.
func (r *Feeder) Step(ctx context.Context) error {
	now := r.Clock.Now()
	due, err := r.Store.ClaimFeeds(ctx, now, now.Add(feedLease), feedsAtOnce)
	if err != nil {
		return fmt.Errorf("taking feeds: %w", err)
	}
	var failed error
	for _, f := range due {
		if err := r.look(ctx, f); err != nil {
			failed = errors.Join(failed, fmt.Errorf("feed %d of site %d: %w", f.ID, f.SiteID, err))
		}
	}
	return failed
}

// look looks at a feed, brings what is new in it in, and notes when it is looked at next.
func (r *Feeder) look(ctx context.Context, f store.Feed) error {
	within, cancel := context.WithTimeout(ctx, feedPatience)
	defer cancel()
	now := r.Clock.Now()
	got, err := feed.Fetch(within, r.Client, f.Address, feed.Seen{ETag: f.ETag, Modified: f.Modified}, now)
	if ctx.Err() != nil {
		return nil // the program ends; it is looked at again
	}
	interval := time.Duration(f.Minutes) * time.Minute
	wait := got.Wait
	if failed, ok := errors.AsType[*feed.Failed](err); ok {
		f.Failing++
		f.Problem, wait = failed.Why, failed.Wait
		interval = min(interval<<min(f.Failing-1, mostFailing), max(interval, 24*time.Hour))
	} else if err != nil {
		return err
	} else {
		f.Failing, f.Problem = 0, ""
		if !got.Unchanged {
			if err := r.bring(ctx, f, got, now); err != nil {
				if bad, ok := errors.AsType[*act.Invalid](err); ok {
					f.Problem = bad.Message
				} else {
					return err
				}
			} else {
				f.ETag, f.Modified = got.ETag, got.Modified
			}
		}
	}
	first := f.LookedAt == nil
	f.LookedAt, f.NextAt = &now, now.Add(max(interval, wait))
	if first && f.Failing > 0 {
		f.LookedAt = nil // the items that are there at the first look are still to be told apart
	}
	err = r.Store.NoteLook(ctx, f)
	if errors.Is(err, store.ErrNotFound) {
		return nil // somebody deleted it
	}
	return err
}

// bring brings what is new in a feed in, the oldest first, each item once.
func (r *Feeder) bring(ctx context.Context, f store.Feed, got feed.Fetched, now time.Time) error {
	keys := make([]string, 0, len(got.Lines))
	byKey := make(map[string]intake.Line, len(got.Lines))
	for i := len(got.Lines) - 1; i >= 0; i-- {
		keys = append(keys, got.Lines[i].Key)
		byKey[got.Lines[i].Key] = got.Lines[i]
	}
	fresh, err := r.Store.FreshItems(ctx, f.ID, keys)
	if err != nil || len(fresh) == 0 {
		return err
	}
	if f.LookedAt == nil && !f.Existing {
		return r.Store.InTx(ctx, func(tx *store.Tx) error { return tx.NoteItems(ctx, f.ID, fresh) })
	}
	setup, err := SetupOf(store.Import{Setup: f.Setup})
	if err != nil {
		return err
	}
	i := store.Import{SiteID: f.SiteID, User: f.User, Source: f.Name, Kind: KindFeed, State: store.ImportLanding, Setup: f.Setup, CreatedAt: now, BegunAt: &now, Version: 1}
	reads := make([]articles.Read, len(fresh))
	for n, key := range fresh {
		reads[n].Line = byKey[key]
	}
	j, err := newJudge(ctx, r.Store.Queries, i, setup, nil, nil, now)
	if err != nil {
		return err
	}
	if f.Becomes == store.FeedMessages {
		return r.bringMessages(ctx, f, j, reads, fresh, now)
	}
	if err := j.knowTitles(ctx); err != nil {
		return err
	}
	return r.Store.InTx(ctx, func(tx *store.Tx) error {
		if i.ID, err = tx.InsertImport(ctx, i); err != nil {
			return err
		}
		j.i.ID, j.q = i.ID, tx.Queries
		lines, err := j.batch(ctx, 1, reads)
		if err != nil {
			return err
		}
		if err := tx.AddLines(ctx, lines); err != nil {
			return err
		}
		i.Read, i.Total = len(lines), len(lines)
		if setup.Landing.As == AsPlaced {
			p := Proposal{Import: i, Setup: setup}
			if err := p.placeIn(ctx, tx, now); err != nil {
				return err
			}
		}
		if err := tx.SaveImport(ctx, i); err != nil {
			return err
		}
		return tx.NoteItems(ctx, f.ID, fresh)
	})
}

// placeIn gives the lines of a proposal their times, and writes them down.
func (p *Proposal) placeIn(ctx context.Context, tx *store.Tx, now time.Time) error {
	site, err := tx.Queries.Site(ctx, p.Import.SiteID)
	if err != nil {
		return err
	}
	if err := p.place(ctx, tx.Queries, site, now); err != nil {
		return err
	}
	return p.keepTimes(ctx, tx)
}

// bringMessages has new items become prepared messages: a title and a link, which an editor releases for channels.
func (r *Feeder) bringMessages(ctx context.Context, f store.Feed, j *judge, reads []articles.Read, fresh []string, now time.Time) error {
	return r.Store.InTx(ctx, func(tx *store.Tx) error {
		n, err := tx.Queries.CountPrepared(ctx, f.SiteID)
		if err != nil {
			return err
		}
		if n+len(reads) > maxMessages {
			return act.Invalidf("name", "There are %s prepared already. Delete some, and the new items come with the next look.", words.Count(n, "message"))
		}
		for nr, read := range reads {
			line, p, err := j.take(ctx, nr+1, read)
			if err != nil {
				return err
			}
			if line.State != store.LineReady || p.Link == "" {
				continue
			}
			if _, err := tx.InsertPrepared(ctx, store.Prepared{SiteID: f.SiteID, Text: message.Escape(p.Title) + " {link}", Item: store.Item{Item: deed.Item{Title: p.Title, Link: p.Link}},
				Channels: store.IDs{}, CreatedAt: now}); err != nil {
				return err
			}
		}
		return tx.NoteItems(ctx, f.ID, fresh)
	})
}
