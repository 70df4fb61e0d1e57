package demo

import (
	"context"
	"errors"
	"fmt"
	"hash/fnv"
	"math/rand/v2"
	"slices"
	"time"

	"dapper.example/internal/blog"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

// world is a site of the demo in the making.
type world struct {
	tx         *store.Tx
	now        time.Time
	hash       string // of the password
	chance     *rand.Rand
	site       store.Site
	rhythm     store.Rhythm
	people     map[string]int64
	categories map[string]int64
	taken      map[time.Time]bool // slots in which something came out
	said       map[nth]int        // how often a channel spoke of a post
	networks   map[int64]string   // of the channels of tours
}

func newWorld(tx *store.Tx, now time.Time, hash string, stream uint64) *world {
	return &world{tx: tx, now: now.Truncate(time.Second), hash: hash, chance: rand.New(rand.NewPCG(seed, stream)),
		people: make(map[string]int64), categories: make(map[string]int64), taken: make(map[time.Time]bool), said: make(map[nth]int)}
}

// age is how long the demo's sites have been there, in years.
const age = 4

// found makes a site with its people, categories and rhythm.
func (w *world) found(ctx context.Context, site store.Site, people []Person, categories []string,
	r store.Rhythm) (err error) {
	began := w.now.AddDate(-age, 0, -14)
	site.CreatedAt = began
	if w.site, err = w.tx.InsertSite(ctx, site); err != nil {
		return err
	}
	for _, p := range people {
		u, err := w.tx.UserByEmail(ctx, p.Email)
		if errors.Is(err, store.ErrNotFound) {
			u, err = w.tx.InsertUser(ctx, store.User{Email: p.Email, Name: p.Name, PasswordHash: w.hash,
				CreatedAt: began})
		}
		if err != nil {
			return err
		}
		w.people[p.Name] = u.ID
		if err := w.tx.InsertMembership(ctx, w.site.ID, u.ID, p.Role); err != nil {
			return err
		}
	}
	for i, name := range categories {
		if w.categories[name], err = w.tx.InsertCategory(ctx, w.site.ID, address.Slug(name), name, i); err != nil {
			return err
		}
	}
	r.SiteID, r.Seed = w.site.ID, seed
	w.rhythm = r
	w.rhythm.ID, err = w.tx.InsertRhythm(ctx, w.rhythm, began)
	return err
}

// yearly is a rest of every year since the site's first, from one day of the calendar to
// another.
func (w *world) yearly(name, first, last string) civil.Rest {
	day := func(d string) civil.Date { return civil.MustDate(fmt.Sprintf("%04d-%s", w.now.Year()-age-1, d)) }
	return civil.Rest{First: day(first), Last: day(last), Yearly: true, Name: name}
}

func (w *world) foundObservatory(ctx context.Context) error {
	return w.found(ctx,
		store.Site{Slug: SiteSlug, Title: "Notes from the Dome",
			Tagline: "Quillmoor Observatory, run by volunteers on a hilltop", ZoneName: "America/Halifax"},
		People(), []string{"Sky Guide", "Workbench", "Meteor Diary", "Viewing Nights", "Dome Notices", "Members Write"},
		store.Rhythm{Name: "The observatory's week", Gap: 150, Rests: civil.Rests{w.yearly("Winter holidays", "12-24",
			"12-25"), w.yearly("New Year", "01-01", "01-01")}, Openings: []rhythm.Opening{
			rhythm.Window("mornings", rhythm.On(time.Monday, time.Wednesday, time.Friday), civil.MustClock("06:30"),
				civil.MustClock("10:30"), 1),
			rhythm.Fixed("evenings", rhythm.On(time.Tuesday, time.Thursday), civil.MustClock("19:00"), 25),
			rhythm.Window("weekends", rhythm.On(time.Saturday), civil.MustClock("09:00"), civil.MustClock("21:00"), 2),
		}})
}

func (w *world) foundLanes(ctx context.Context) error {
	return w.found(ctx,
		store.Site{Slug: LanesSlug, Title: "Dark Lanes", Tagline: "For footpaths without lamps",
			ZoneName: "Europe/Lisbon"},
		lanesPeople(), []string{"Walks", "Creatures", "Arguments"},
		store.Rhythm{Name: "Thursdays and some Sundays", Gap: 240,
			Rests: civil.Rests{w.yearly("Winter", "12-25", "12-25"), w.yearly("New Year", "01-01", "01-01"),
				w.yearly("Midsummer", "06-24", "06-24")}, Openings: []rhythm.Opening{
				rhythm.Fixed("thursdays", rhythm.On(time.Thursday), civil.MustClock("18:30"), 20),
				rhythm.Window("sundays", rhythm.On(time.Sunday), civil.MustClock("08:00"), civil.MustClock("12:00"), 1),
			}})
}

// fill adds the posts: those of a month into a slot of it, the others into the latest
// slots; the cleared ones go to the shelf.
func (w *world) fill(ctx context.Context, posts []text) error {
	late := slices.DeleteFunc(slices.Clone(posts), func(t text) bool { return t.Status != "published" || t.Month != 0 })
	latest := w.latestSlots(len(late))
	w.chance.Shuffle(len(latest), func(i, j int) { latest[i], latest[j] = latest[j], latest[i] })
	for _, t := range posts {
		var err error
		switch {
		case t.Status == "page":
			err = w.page(ctx, t)
		case t.Status == "scheduled":
			err = w.schedule(ctx, t)
		case t.Status != "published":
			_, err = w.draft(ctx, t)
		case t.Month == 0:
			err = w.publish(ctx, t, latest[0])
			latest = latest[1:]
		default:
			err = w.publish(ctx, t, w.slotIn(t.Month, t.Ago))
		}
		if err != nil {
			return fmt.Errorf("“%s”: %w", t.Title, err)
		}
	}
	return nil
}

// latestSlots returns the rhythm's latest n slots before now, latest first, and takes
// them.
func (w *world) latestSlots(n int) []rhythm.Slot {
	r := w.rhythm.In(w.site.Zone())
	var slots []rhythm.Slot
	for date := w.site.Zone().DateOf(w.now); len(slots) < n; date = date.Add(-1) {
		day := r.Day(date, nil).Slots
		slices.Reverse(day)
		for _, s := range day {
			if s.At.Before(w.now) && len(slots) < n {
				slots = append(slots, s)
				w.taken[s.At] = true
			}
		}
	}
	return slots
}

// slotIn takes a free slot of a month, the last such one that has begun or so many years
// before it; of a neighbouring month where it has none left.
func (w *world) slotIn(month, ago int) rhythm.Slot {
	today := w.site.Zone().In(w.now)
	year := today.Year()
	if time.Month(month) > today.Month() {
		year--
	}
	r := w.rhythm.In(w.site.Zone())
	for first := civil.NewDate(year-ago, time.Month(month), 1); ; first = first.AddMonths(-1) {
		var free []rhythm.Slot
		for date := first; date.Before(first.AddMonths(1)); date = date.Add(1) {
			for _, s := range r.Day(date, nil).Slots {
				if s.At.Before(w.now) && !w.taken[s.At] {
					free = append(free, s)
				}
			}
		}
		if len(free) > 0 {
			slot := free[w.chance.IntN(len(free))]
			w.taken[slot.At] = true
			return slot
		}
	}
}

// base is a post of the demo with its featured image, which is kept.
func (w *world) base(ctx context.Context, t text, at time.Time) (store.Post, error) {
	p := store.Post{SiteID: w.site.ID, AuthorID: w.people[t.Author], Title: t.Title, Body: t.Body, Kind: "post",
		CommentsOpen: true, CreatedAt: at}
	if p.AuthorID == 0 {
		return p, fmt.Errorf("nobody is called %q", t.Author)
	}
	if t.Status != "page" {
		category := w.categories[t.Category]
		p.CategoryID = &category
	}
	if t.image == nil {
		return p, nil
	}
	kept := store.Picture{SiteID: w.site.ID, Name: address.Slug(t.Title) + ".jpg", Alt: t.image.alt, Type: t.image.Type,
		Width: t.image.Width, Height: t.image.Height, User: &p.AuthorID, CreatedAt: at}
	if err := blog.KeepPictureIn(ctx, w.tx, keyOf(w.site.Slug+t.Title), &kept, t.image.Made); err != nil {
		return p, err
	}
	name := picture.Name{Key: kept.Key, Width: kept.Width, Height: kept.Height, Type: kept.Type}
	p.FeaturedImage, p.FeaturedAlt = blog.PicturePath(w.site.Slug, name.String()), kept.Alt
	return p, nil
}

// keyOf makes a picture's key, the same every time.
func keyOf(name string) string {
	h := fnv.New64a()
	h.Write([]byte(name))
	return fmt.Sprintf("%016x", h.Sum64())
}

// finish writes what a new post has beside its text.
func (w *world) finish(ctx context.Context, id int64, p store.Post, t text) error {
	var tags []store.Tag
	for _, name := range t.Tags {
		tags = append(tags, store.Tag{Slug: address.Slug(name), Name: name})
	}
	if err := w.tx.SetTags(ctx, w.site.ID, id, tags); err != nil {
		return err
	}
	p.ID, p.Tags = id, t.Tags
	return w.tx.SaveText(ctx, p, &p.AuthorID, p.CreatedAt)
}

func (w *world) publish(ctx context.Context, t text, slot rhythm.Slot) error {
	p, err := w.base(ctx, t, slot.At.Add(-time.Duration(3+w.chance.IntN(20))*24*time.Hour))
	if err != nil {
		return err
	}
	id, err := w.bringOut(ctx, p, t, slot.At)
	if err != nil {
		return err
	}
	return w.tx.Log(ctx, store.LogEntry{SiteID: w.site.ID, At: slot.At, Deed: store.DeedPublish, Post: &id,
		Reason: "Scheduled in this slot."})
}

func (w *world) bringOut(ctx context.Context, p store.Post, t text, at time.Time) (int64, error) {
	p.PublishedAt, p.Slug = &at, address.Slug(t.Title)
	id, err := w.tx.InsertPublished(ctx, p)
	if err != nil {
		return 0, err
	}
	if err := w.finish(ctx, id, p, t); err != nil {
		return 0, err
	}
	return id, w.touched(ctx, id, at)
}

// touched says when a post last changed, which is later than its text was written.
func (w *world) touched(ctx context.Context, id int64, at time.Time) error {
	p, err := w.tx.Post(ctx, w.site.ID, id)
	if err != nil {
		return err
	}
	return w.tx.SaveState(ctx, p, at)
}

func (w *world) page(ctx context.Context, t text) error {
	at := w.now.AddDate(-age, 0, 0)
	p, err := w.base(ctx, t, at)
	if err != nil {
		return err
	}
	p.Kind = "page"
	_, err = w.bringOut(ctx, p, t, at)
	return err
}

func (w *world) draft(ctx context.Context, t text) (post store.Post, err error) {
	p, err := w.base(ctx, t, w.now.Add(-time.Duration(1+w.chance.IntN(300))*time.Hour))
	if err != nil {
		return post, err
	}
	id, err := w.tx.InsertDraft(ctx, p)
	if err != nil {
		return post, err
	}
	if err := w.finish(ctx, id, p, t); err != nil {
		return post, err
	}
	if post, err = w.tx.Post(ctx, w.site.ID, id); err != nil || t.Status != "cleared" {
		return post, err
	}
	_, last, err := w.tx.ShelfEnds(ctx, w.site.ID)
	if err != nil {
		return post, err
	}
	post.Stand(post.State().Clear(last + 1))
	return post, w.tx.SaveState(ctx, post, p.CreatedAt)
}

// schedule gives a draft the rhythm's next free slot from tomorrow on.
func (w *world) schedule(ctx context.Context, t text) error {
	post, err := w.draft(ctx, t)
	if err != nil {
		return err
	}
	r := w.rhythm.In(w.site.Zone())
	for date := w.site.Zone().DateOf(w.now).Add(1); ; date = date.Add(1) {
		for _, s := range r.Day(date, nil).Slots {
			if w.taken[s.At] {
				continue
			}
			w.taken[s.At] = true
			post.Slug = address.Slug(post.Title)
			post.Stand(post.State().Schedule(s.At, s.ID))
			if err := w.tx.SaveState(ctx, post, w.now); err != nil {
				return err
			}
			return w.tx.Log(ctx, store.LogEntry{SiteID: w.site.ID, At: w.now, Actor: &post.AuthorID,
				Deed: store.DeedCommit, Post: &post.ID,
				Reason: "First free slot."})
		}
	}
}

// firstDue is how soon after the loading the first post comes out.
const firstDue = 2 * time.Minute

// scheduleFirst pins an open night's announcement two minutes from now.
func (w *world) scheduleFirst(ctx context.Context) error {
	due := w.now.Add(firstDue).Truncate(time.Minute)
	if due.Before(w.now.Add(firstDue)) {
		due = due.Add(time.Minute)
	}
	category := w.categories["Viewing Nights"]
	id, err := w.tx.InsertDraft(ctx, store.Post{
		SiteID: w.site.ID, AuthorID: w.people["Ines Abara"], CategoryID: &category, CreatedAt: w.now.Add(-time.Hour),
		Title: "Clear tonight: the dome opens at eight",
		Body:  "The front has gone through and the air is washed. The flag is up, the kettle is on, and the gate opens at eight.\n\nJupiter is well placed until midnight. Come early if you want it high.\n",
	})
	if err != nil {
		return err
	}
	post, err := w.tx.Post(ctx, w.site.ID, id)
	if err != nil {
		return err
	}
	post.Slug = address.Slug(post.Title)
	post.Stand(post.State().Pin(due))
	if err := w.tx.SaveState(ctx, post, w.now); err != nil {
		return err
	}
	ines := w.people["Ines Abara"]
	return w.tx.Log(ctx, store.LogEntry{SiteID: w.site.ID, At: w.now, Actor: &ines, Deed: store.DeedRetime, Post: &id,
		Reason: "Time set by hand."})
}
