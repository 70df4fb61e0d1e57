package rules

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"runtime/debug"
	"slices"
	"sync"

	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/letters"
)

// Kept are the facts of sites' posts as they were read, for readers outside of transactions. Before they are used, those of
// posts that have changed since are read again: the database notes which (site_changes).
type Kept struct {
	most  int // posts over all sites
	mu    sync.Mutex
	sites map[int64]*keptSite
	large map[int64]bool // sites with more posts than may be kept
	asked int64          // how often

	columns *Columns
}

type keptSite struct {
	used    int64         // the asking that used it last
	reading chan struct{} // holds one: whoever takes it reads
	// facts are those of all posts, in the order of their ids, without clicks and of the text the opening only. They are shared:
	// nobody changes them, others are put in their place. They are as they were when all transactions before settled had ended.
	facts   []*condition.Facts
	settled string
	asked   map[string]answer // of these facts, by filter
}

// NewKept keeps nothing yet, and at most what takes an eighth of the memory that the process may take.
func NewKept() *Kept {
	limit := debug.SetMemoryLimit(-1) // asks for it
	return &Kept{sites: make(map[int64]*keptSite), large: make(map[int64]bool), most: int(min(mostKept, limit/8/keptBytes)), columns: newColumns()}
}

type answer struct {
	filter FactsFilter
	facts  []*condition.Facts
}

const (
	// mostKept is how many posts are kept over all sites, where there is memory for them.
	mostKept = 120_000
	// keptBytes is what one takes: 1.8 kB were measured for posts without an excerpt, of which the opening of the text is kept.
	keptBytes = 2 << 10
	// mostAgain is how many posts are read one by one; where more have changed, all are read.
	mostAgain = 2000
	// mostAsked is how many filters' answers are kept of a site: 800 kB each where it has 100,000 posts.
	mostAsked = 16
)

// areKept tells whether a filter asks for nothing but what is kept, and for so much of a site that reading all of it is no
// waste.
func (f FactsFilter) areKept() bool {
	return f.IDs == nil && !f.OwnExpiry && !f.WithText && !f.WithClicks && f.Categories == nil && f.Authors == nil && f.Imports == nil &&
		f.Evergreen == nil && (f.Statuses == nil || slices.Contains(f.Statuses, "published"))
}

// mayUse tells whether a filter can be answered from all that is kept.
func (f FactsFilter) mayUse() bool { return f.IDs == nil && !f.WithText && !f.WithClicks }

// lets tells whether a filter lets a post in, as its query would.
func (f FactsFilter) lets(p *condition.Facts) bool {
	if f.Statuses != nil && !slices.Contains(f.Statuses, p.Status) || f.Evergreen != nil && *f.Evergreen != p.Evergreen ||
		!oneOf(f.Categories, p.Category) || !oneOf(f.Authors, p.Author) || !oneOf(f.Imports, p.Import) {
		return false
	}
	if f.OwnExpiry && (p.Expires.IsZero() || p.NeverExpires || f.Statuses == nil && p.Status != "published") {
		return false
	}
	return f.inTime(p)
}

// inTime tells whether a post came out within the filter's times.
func (f FactsFilter) inTime(p *condition.Facts) bool {
	if !f.PublishedFrom.IsZero() && p.Published.Before(f.PublishedFrom) {
		return false
	}
	return f.PublishedBefore.IsZero() || !p.Published.IsZero() && p.Published.Before(f.PublishedBefore)
}

func oneOf(names []string, name string) bool {
	return names == nil || slices.ContainsFunc(names, func(n string) bool { return letters.Fold(n) == letters.Fold(name) })
}

// find are the facts of a filter's posts, as far as they may be kept: ok is false where they are not. The slice may be shared.
func (k *Kept) find(ctx context.Context, q Queries, siteID int64, f FactsFilter) (found []*condition.Facts, ok bool, err error) {
	if k == nil || !f.mayUse() {
		return nil, false, nil
	}
	site := k.site(siteID, f.areKept())
	if site == nil {
		return nil, false, nil
	}
	select {
	case site.reading <- struct{}{}:
	case <-ctx.Done():
		return nil, false, ctx.Err()
	}
	err = site.refresh(ctx, q, siteID)
	found = site.which(f.widened())
	<-site.reading
	if err != nil {
		return nil, false, fmt.Errorf("reading what has changed of posts: %w", err)
	}
	k.bound()
	if f.PublishedFrom.IsZero() && f.PublishedBefore.IsZero() {
		return found, true, nil
	}
	timely := make([]*condition.Facts, 0, len(found))
	for _, p := range found {
		if f.inTime(p) {
			timely = append(timely, p)
		}
	}
	return timely, true, nil
}

// which are the facts of a filter's posts, as they are kept. Answers are kept, too.
func (s *keptSite) which(f FactsFilter) []*condition.Facts {
	key, err := json.Marshal(f)
	if err != nil {
		return f.among(s.facts)
	}
	known, ok := s.asked[string(key)]
	if !ok {
		known = answer{f, f.among(s.facts)}
		if len(s.asked) >= mostAsked || s.asked == nil {
			s.asked = make(map[string]answer)
		}
		s.asked[string(key)] = known
	}
	return known.facts
}

// among are those of facts that a filter lets in.
func (f FactsFilter) among(facts []*condition.Facts) []*condition.Facts {
	found := make([]*condition.Facts, 0, len(facts))
	for _, p := range facts {
		if f.lets(p) {
			found = append(found, p)
		}
	}
	return slices.Clip(found)
}

// worthReading is how many posts a site has at least whose facts are read before anybody asks for them.
const worthReading = 2000

// KeepFacts reads the facts of large sites whose rules bring posts out, as far as they may be kept, so that whoever asks first need
// not wait.
func (q Queries) KeepFacts(ctx context.Context) error {
	if q.kept == nil {
		return nil
	}
	var large []struct {
		SiteID int64 `db:"site_id"`
		Posts  int   `db:"posts"`
	}
	err := q.run.All(ctx, &large, `
		select site_id, count(*) as posts from posts
		where site_id in (select site_id from rules where armed_at is not null and deleted_at is null and kind <> 'expire')
		group by site_id having count(*) >= $1 order by posts desc, site_id`, worthReading)
	if err != nil {
		return fmt.Errorf("looking for sites with many posts: %w", err)
	}
	room := q.kept.most
	for _, site := range large {
		if room -= site.Posts; room < 0 {
			return nil
		}
		if _, err := q.Facts(ctx, site.SiteID, FactsFilter{Statuses: []string{"published"}, WithOpening: true}); err != nil {
			return err
		}
	}
	return nil
}

// has tells whether anything is kept of a site.
func (k *Kept) has(siteID int64) bool { return k != nil && k.site(siteID, false) != nil }

// site is what is kept of a site; nil where it is not, and is not to be.
func (k *Kept) site(id int64, begin bool) *keptSite {
	k.mu.Lock()
	defer k.mu.Unlock()
	site := k.sites[id]
	if site == nil && begin && !k.large[id] {
		site = &keptSite{reading: make(chan struct{}, 1)}
		k.sites[id] = site
	}
	if site != nil {
		k.asked++
		site.used = k.asked
	}
	return site
}

// bound forgets what was used the longest ago, until no more is kept than may be.
func (k *Kept) bound() {
	k.mu.Lock()
	defer k.mu.Unlock()
	for {
		sum, oldest := 0, int64(0)
		for id, site := range k.sites {
			size := site.size()
			if sum += size; size > k.most {
				oldest = id
				break
			}
			if first := k.sites[oldest]; first == nil || site.used < first.used {
				oldest = id
			}
		}
		if sum <= k.most {
			return
		}
		k.large[oldest] = k.sites[oldest].size() > k.most
		delete(k.sites, oldest) // who uses it now, uses it on
	}
}

// size is how many posts are kept; 0 while they are being read.
func (s *keptSite) size() int {
	select {
	case s.reading <- struct{}{}:
		defer func() { <-s.reading }()
		return len(s.facts)
	default:
		return 0
	}
}

// refresh reads what has changed.
func (s *keptSite) refresh(ctx context.Context, q Queries, siteID int64) error {
	settled, changed, err := q.changedSince(ctx, siteID, s.settled)
	if err != nil {
		return err
	}
	switch {
	case s.settled == "" || slices.Contains(changed, -1) || len(changed) > mostAgain:
		all, err := q.read(ctx, siteID, FactsFilter{WithOpening: true})
		if err != nil {
			return err
		}
		s.facts, s.asked = slices.Clip(all), nil
	case len(changed) > 0:
		fresh, err := q.read(ctx, siteID, FactsFilter{IDs: changed, WithOpening: true})
		if err != nil {
			return err
		}
		slices.Sort(changed)
		s.facts = replaced(s.facts, changed, fresh)
		for key, known := range s.asked {
			known.facts = replaced(known.facts, changed, known.filter.among(fresh))
			s.asked[key] = known
		}
	}
	s.settled = settled
	return nil
}

// replaced are facts, in the order of their posts, with those of some posts, in order, as they are now; posts that are not among
// fresh are there no more.
func replaced(facts []*condition.Facts, changed []int64, fresh []*condition.Facts) []*condition.Facts {
	now := make([]*condition.Facts, 0, len(facts)+len(fresh))
	rest := facts
	for _, post := range changed {
		at, _ := slices.BinarySearchFunc(rest, post, byPost)
		now = append(now, rest[:at]...)
		if rest = rest[at:]; len(rest) > 0 && rest[0].Post == post {
			rest = rest[1:]
		}
		if len(fresh) > 0 && fresh[0].Post == post {
			now, fresh = append(now, fresh[0]), fresh[1:]
		}
	}
	return append(now, rest...)
}

func byPost(f *condition.Facts, post int64) int { return cmp.Compare(f.Post, post) }
