// Package destinations brings the posts of a blog to where they go beside its built-in pages: as Markdown into a folder, and by
// Micropub to a site of one's own; and tells a blog's WebSub hub of changes.
//
// What is behind is noted by the database, in the transaction in which a post changes. A Sender brings it over, as the post is by then:
// what has changed twice meanwhile goes once. Each thing it does can be done twice without harm, for a process may end between doing it
// and noting that. What fails is tried again for as long as it is wanted; what a receiver refuses waits for somebody to decide, or for the
// post to change.
package destinations

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"net/http"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/blog"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/pattern"
	"dapper.example/internal/core/post"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
	"dapper.example/internal/tokens"
)

// The kinds of destinations.
const (
	Folder  = "folder"
	OwnSite = "micropub"
)

// kind is how posts come to destinations of one kind. Its methods change what is known of the copy, and keep what has to be known
// whatever happens then. They fail with *channel.Refused where it is of no use to try again, with *channel.Later, with
// *channel.SignedOut, and else with an error after which it is tried again.
type kind interface {
	// put has a destination have a post as it is.
	put(ctx context.Context, s *Sender, d store.Destination, p piece, c *store.Copy) error
	// remove has it not have it.
	remove(ctx context.Context, s *Sender, d store.Destination, c *store.Copy) error
}

// piece is a post that goes out.
type piece struct {
	site store.Site
	post store.Post
	old  []string // names that it had in addresses before
}

// values are what patterns take of it.
func (p piece) values() (v pattern.Values) {
	v.Slug = p.post.Slug
	if p.post.CategorySlug != nil {
		v.Category = *p.post.CategorySlug
	}
	first := p.post.FirstPublishedAt
	if first == nil {
		first = p.post.PublishedAt
	}
	if first != nil {
		v.First, _ = p.site.Zone().Local(*first)
	}
	return v
}

// Sender brings over what is behind. Any number of them may run at once.
type Sender struct {
	Store    *store.Store
	Clock    clockwork.Clock
	Box      *secrets.Box
	Client   *http.Client // reaches addresses that people entered
	Renderer *blog.Renderer
	Public   string // where readers reach the blogs
	Folders  string // below which folders lie; "": there are none on this machine
	Log      *slog.Logger
}

const (
	// claimed is how many are taken in one go, and atOnce how many of them are worked on at a time.
	claimed = 60
	atOnce  = 4
	// lease is how long others leave alone what one process has taken.
	lease = 5 * time.Minute
	// between is how often it is looked whether something is behind.
	between = time.Second
	// signInWait is how long it waits between looks whether somebody has signed in again.
	signInWait = 5 * time.Minute
	// tellAfter is after how many failures in a row the logbook says so: about 40 minutes.
	tellAfter = 5
)

// waits are how long after each try that failed the next one follows; the last is kept from then on.
var waits = []time.Duration{5 * time.Second, time.Minute, 5 * time.Minute, 30 * time.Minute, 2 * time.Hour, 6 * time.Hour, 24 * time.Hour}

// epoch is the time of what is due at once.
var epoch = time.Unix(0, 0).UTC()

// kinds are the kinds that this process can bring to.
func (s *Sender) kinds() map[string]kind {
	all := map[string]kind{OwnSite: ownSite{}}
	if s.Folders != "" {
		all[Folder] = folder{}
	}
	return all
}

// Run brings over what is behind until the context ends.
func (s *Sender) Run(ctx context.Context) {
	tick := time.NewTicker(between)
	defer tick.Stop()
	for {
		n, err := s.Step(ctx)
		if err != nil && ctx.Err() == nil {
			s.Log.Error("bringing posts to where they go", "error", err)
		}
		if n == claimed && err == nil {
			continue
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Step brings over some of what is behind, and tells hubs what they are to be told. It returns how many posts it was at.
func (s *Sender) Step(ctx context.Context) (n int, err error) {
	if err := s.tellHubs(ctx); err != nil {
		return 0, err
	}
	kinds := s.kinds()
	now := s.Clock.Now()
	due, err := s.Store.ClaimCopies(ctx, slices.Collect(maps.Keys(kinds)), now, now.Add(lease), claimed)
	if err != nil {
		return 0, fmt.Errorf("taking posts that are behind: %w", err)
	}
	var mu sync.Mutex
	var all sync.WaitGroup
	room := make(chan struct{}, atOnce)
	for _, c := range due {
		room <- struct{}{}
		all.Go(func() {
			defer func() { <-room }()
			if one := s.bring(ctx, kinds, c); one != nil {
				mu.Lock()
				err = errors.Join(err, fmt.Errorf("post %d: %w", c.Post, one))
				mu.Unlock()
			}
		})
	}
	all.Wait()
	return len(due), err
}

// bring brings one post over, and notes what came of it. It fails where the store does.
func (s *Sender) bring(ctx context.Context, kinds map[string]kind, c store.Copy) error {
	d, err := s.Store.Destination(ctx, c.SiteID, c.Destination)
	if errors.Is(err, store.ErrNotFound) {
		return nil
	}
	if err != nil {
		return err
	}
	p, gone, err := s.piece(ctx, c)
	if err != nil {
		return err
	}
	to := kinds[d.Kind]
	away := gone || !goesThere(d, p.post)
	var failed error
	if away {
		if c.State == store.CopyThere || c.AskedAt != nil || c.State == store.CopyNone && len(c.Places) > 0 {
			failed = to.remove(ctx, s, d, &c)
		}
	} else {
		failed = to.put(ctx, s, d, p, &c)
	}
	if ctx.Err() != nil {
		return nil // the program ends; another goes on when the lease ends
	}
	if failed == nil && away && (c.State == store.CopyNone || gone || d.EndingAt != nil) {
		return s.drop(ctx, d, c)
	}
	return s.settle(ctx, d, c, p, failed)
}

// piece reads a post; gone tells that it was deleted.
func (s *Sender) piece(ctx context.Context, c store.Copy) (p piece, gone bool, err error) {
	if p.site, err = s.Store.Site(ctx, c.SiteID); err != nil {
		return p, false, err
	}
	p.post, err = s.Store.Post(ctx, c.SiteID, c.Post)
	if errors.Is(err, store.ErrNotFound) {
		return p, true, nil
	}
	if err != nil {
		return p, false, err
	}
	old, err := s.Store.OldSlugs(ctx, c.SiteID, []int64{c.Post})
	p.old = old[c.Post]
	return p, false, err
}

// goesThere tells whether a destination is to have a post. One that readers are told is gone, or are sent on from, is not
// there either.
func goesThere(d store.Destination, p store.Post) bool {
	switch {
	case d.EndingAt != nil:
		return false
	case p.Status == store.Published:
		return true
	}
	answer, _ := p.Answers()
	return p.Status == store.Archived && d.Archived == store.KeepArchived && answer == post.Page
}

// drop forgets a copy of which nothing is left, and with the last one of a destination that ends, that.
func (s *Sender) drop(ctx context.Context, d store.Destination, c store.Copy) error {
	if err := s.Store.DropCopy(ctx, c); err != nil || d.EndingAt == nil {
		return err
	}
	return s.endIfEmpty(ctx, d)
}

// endIfEmpty deletes a destination whose posts were all removed.
func (s *Sender) endIfEmpty(ctx context.Context, d store.Destination) error {
	return s.Store.InTx(ctx, func(tx *store.Tx) error {
		if _, err := tx.LockDestination(ctx, d.SiteID, d.ID); err != nil {
			if errors.Is(err, store.ErrNotFound) {
				return nil
			}
			return err
		}
		left, err := tx.Queries.CountCopies(ctx, d.SiteID, d.ID)
		if err != nil || left > 0 {
			return err
		}
		if err := tx.DeleteDestination(ctx, d.SiteID, d.ID); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: d.SiteID, At: s.Clock.Now(), Deed: store.DeedChannel,
			Reason: fmt.Sprintf("All posts were removed from “%s”, and it was deleted.", d.Name)})
	})
}

// settle notes what came of a try.
func (s *Sender) settle(ctx context.Context, d store.Destination, c store.Copy, p piece, failed error) error {
	now := s.Clock.Now()
	c.TriedAt = &now
	inTrouble := c.Tries > 0 || c.Held
	if failed == nil {
		c.Done, c.Held, c.Tries, c.Error, c.NextAt, c.At, c.AskedAt = c.Wanted, false, 0, "", epoch, &now, nil
		if err := s.Store.SettleCopy(ctx, c); err != nil {
			return err
		}
		if inTrouble {
			if err := s.Store.TellOfDestination(ctx, d.SiteID, d.ID); err != nil {
				return err
			}
		}
		return s.Store.DestinationWorks(ctx, d.SiteID, d.ID)
	}
	c.Error = sentence(failed)
	var refused *channel.Refused
	var out *channel.SignedOut
	var later *channel.Later
	switch {
	case errors.As(failed, &out):
		c.NextAt = now.Add(signInWait)
	case errors.As(failed, &later):
		c.NextAt = now.Add(later.After)
	case errors.As(failed, &refused):
		c.Held = true
		c.Tries++
	default:
		c.NextAt = now.Add(waits[min(c.Tries, len(waits)-1)])
		c.Tries++
	}
	if err := s.Store.SettleCopy(ctx, c); err != nil {
		return err
	}
	if out != nil {
		return s.wantSignIn(ctx, d, out)
	}
	if refused == nil {
		if err := s.Store.DestinationFails(ctx, d.SiteID, d.ID, now); err != nil {
			return err
		}
	}
	if !c.Held && c.Tries != tellAfter {
		return nil
	}
	if err := s.Store.TellOfDestination(ctx, d.SiteID, d.ID); err != nil {
		return err
	}
	what := fmt.Sprintf("“%s” could not be brought to “%s”: %s", p.post.Title, d.Name, c.Error)
	if p.post.ID == 0 {
		what = fmt.Sprintf("A deleted post could not be removed from “%s”: %s", d.Name, c.Error)
	}
	if !c.Held {
		what += " It is tried again, later and later."
	}
	entry := store.LogEntry{SiteID: d.SiteID, At: now, Deed: store.DeedDelivery, Reason: what}
	if p.post.ID != 0 {
		entry.Post = &p.post.ID
	}
	return s.Store.InTx(ctx, func(tx *store.Tx) error { return tx.Log(ctx, entry) })
}

// wantSignIn says, once, that somebody has to sign in at a site again.
func (s *Sender) wantSignIn(ctx context.Context, d store.Destination, why *channel.SignedOut) error {
	news, err := s.Store.WantSignIn(ctx, d.SiteID, int64(d.Channel), why.Reason)
	if err != nil || !news {
		return err
	}
	return s.Store.InTx(ctx, func(tx *store.Tx) error {
		return tx.Log(ctx, store.LogEntry{SiteID: d.SiteID, At: s.Clock.Now(), Deed: store.DeedChannel,
			Reason: fmt.Sprintf("“%s” needs you to sign in again, under Channels: %s. Posts wait until then.", d.Name, strings.TrimRight(why.Reason, "."))})
	})
}

// sentence is an error as it is shown.
func sentence(err error) string {
	text := err.Error()
	var refused *channel.Refused
	if errors.As(err, &refused) {
		text = refused.Reason
	}
	text = strings.TrimRight(text, ".")
	if text == "" {
		return ""
	}
	r := []rune(text)
	return strings.ToUpper(string(r[0])) + string(r[1:]) + "."
}

func (s *Sender) tokens() tokens.Keeper {
	return tokens.Keeper{Store: s.Store, Clock: s.Clock, Box: s.Box, Client: s.Client}
}

// with is a list that has an entry, too.
func with(list []string, entry string) []string {
	if slices.Contains(list, entry) {
		return list
	}
	return append(slices.Clone(list), entry)
}
