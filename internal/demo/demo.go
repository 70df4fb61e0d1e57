// Package demo loads the demo world: Quillmoor Observatory and its blog, all of it
// invented.
//
// Times are relative to the moment of loading; all else is the same every time.
package demo

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"math/rand/v2"
	"slices"
	"time"

	"github.com/adrg/frontmatter"
	"github.com/alexedwards/argon2id"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/planning"
	"dapper.example/internal/store"
)

//go:embed posts/*.md
var texts embed.FS

// Password opens every demo account.
const Password = "quiet dome at dusk"

// SiteSlug is the demo site's name in addresses.
const SiteSlug = "quillmoor"

// Person is one of the demo's writers.
type Person struct {
	Name, Email, Role string
}

// People lists the demo's writers.
func People() []Person {
	return []Person{
		{"Ines Abara", "ines@quillmoor.example", "owner"},
		{"Tobias Wren", "tobias@quillmoor.example", "editor"},
		{"Marguerite Oyelaran", "marguerite@quillmoor.example", "editor"},
		{"Pell Hanrahan", "pell@quillmoor.example", "contributor"},
	}
}

// ErrLoaded says that the demo world is there already.
var ErrLoaded = errors.New("the demo world is loaded already")

// seed fixes everything in the demo that is left to chance.
const seed = 20

// firstDue is when the first scheduled post comes out after loading, so that a
// newcomer sees one go out.
const firstDue = 2 * time.Minute

// text is a post of the demo world as it lies in posts/.
type text struct {
	Title    string   `yaml:"title"`
	Category string   `yaml:"category"`
	Author   string   `yaml:"author"`
	Tags     []string `yaml:"tags"`
	Status   string   `yaml:"status"` // published, cleared or draft
	Body     string   `yaml:"-"`
}

func read() ([]text, error) {
	names, err := fs.Glob(texts, "posts/*.md")
	if err != nil {
		return nil, err
	}
	var all []text
	for _, name := range names {
		file, err := texts.Open(name)
		if err != nil {
			return nil, err
		}
		var t text
		body, err := frontmatter.MustParse(file, &t)
		file.Close()
		if err != nil {
			return nil, fmt.Errorf("reading %s: %w", name, err)
		}
		t.Body = string(body)
		all = append(all, t)
	}
	return all, nil
}

// Load adds the demo world to a store, in one transaction; ErrLoaded where it is
// there.
func Load(ctx context.Context, s *store.Store, now time.Time) error {
	posts, err := read()
	if err != nil {
		return err
	}
	hash, err := argon2id.CreateHash(Password, argon2id.DefaultParams)
	if err != nil {
		return err
	}
	return s.InTx(ctx, func(tx *store.Tx) error {
		if _, err := tx.SiteBySlug(ctx, SiteSlug); !errors.Is(err, store.ErrNotFound) {
			return errors.Join(err, ErrLoaded)
		}
		w := world{tx: tx, now: now.Truncate(time.Second), chance: rand.New(rand.NewPCG(seed, 1)), people: make(map[string]int64), categories: make(map[string]int64)}
		if err := w.found(ctx, hash); err != nil {
			return fmt.Errorf("making the demo site: %w", err)
		}
		if err := w.fill(ctx, posts); err != nil {
			return fmt.Errorf("filling the demo site: %w", err)
		}
		if err := w.rules(ctx); err != nil {
			return fmt.Errorf("giving the demo site its rules: %w", err)
		}
		return nil
	})
}

// Remove deletes the demo world and its people.
func Remove(ctx context.Context, s *store.Store) error {
	return s.InTx(ctx, func(tx *store.Tx) error {
		var emails []string
		for _, p := range People() {
			emails = append(emails, p.Email)
		}
		return tx.DeleteSite(ctx, SiteSlug, emails)
	})
}

type world struct {
	tx         *store.Tx
	now        time.Time
	chance     *rand.Rand
	site       store.Site
	people     map[string]int64
	categories map[string]int64
	rhythm     store.Rhythm
}

// found makes the site, its people, categories and rhythm.
func (w *world) found(ctx context.Context, hash string) (err error) {
	began := w.now.AddDate(-4, 0, 0)
	w.site, err = w.tx.InsertSite(ctx, store.Site{
		Slug: SiteSlug, Title: "Notes from the Dome", Tagline: "Quillmoor Observatory, run by volunteers on a hilltop",
		ZoneName: "America/Halifax", CreatedAt: began,
	})
	if err != nil {
		return err
	}
	for _, p := range People() {
		u, err := w.tx.InsertUser(ctx, store.User{Email: p.Email, Name: p.Name, PasswordHash: hash, CreatedAt: began})
		if err != nil {
			return err
		}
		w.people[p.Name] = u.ID
		if err := w.tx.InsertMembership(ctx, w.site.ID, u.ID, p.Role); err != nil {
			return err
		}
	}
	for i, name := range []string{"Sky Guide", "Workbench", "Meteor Diary", "Viewing Nights", "Dome Notices", "Members Write"} {
		id, err := w.tx.InsertCategory(ctx, w.site.ID, planning.Slug(name), name, i)
		if err != nil {
			return err
		}
		w.categories[name] = id
	}
	w.rhythm = store.Rhythm{
		SiteID: w.site.ID, Name: "The observatory's week", Gap: 150, Seed: seed,
		Openings: []rhythm.Opening{
			rhythm.Window("mornings", rhythm.On(time.Monday, time.Wednesday, time.Friday), civil.MustClock("06:30"), civil.MustClock("10:30"), 1),
			rhythm.Fixed("evenings", rhythm.On(time.Tuesday, time.Thursday), civil.MustClock("19:00"), 25),
			rhythm.Window("weekends", rhythm.On(time.Saturday), civil.MustClock("09:00"), civil.MustClock("21:00"), 2),
		},
	}
	w.rhythm.ID, err = w.tx.InsertRhythm(ctx, w.rhythm, began)
	return err
}

// fill adds the posts: published ones into past slots of the rhythm, latest first;
// the first cleared draft is due in two minutes; the rest of the cleared ones are on
// the shelf.
func (w *world) fill(ctx context.Context, posts []text) error {
	past := w.pastSlots(countOf(posts, "published"))
	w.chance.Shuffle(len(past), func(i, j int) { past[i], past[j] = past[j], past[i] })
	for _, t := range posts {
		if t.Status == "published" {
			if err := w.publish(ctx, t, past[0]); err != nil {
				return err
			}
			past = past[1:]
			continue
		}
		if err := w.draft(ctx, t); err != nil {
			return err
		}
	}
	return w.scheduleFirst(ctx)
}

func countOf(posts []text, status string) int {
	n := 0
	for _, t := range posts {
		if t.Status == status {
			n++
		}
	}
	return n
}

// pastSlots returns the rhythm's latest n slots before now, latest first.
func (w *world) pastSlots(n int) []rhythm.Slot {
	r := w.rhythm.In(w.site.Zone())
	var slots []rhythm.Slot
	for date := w.site.Zone().DateOf(w.now); len(slots) < n; date = date.Add(-1) {
		day := r.Day(date, nil).Slots
		slices.Reverse(day)
		for _, s := range day {
			if s.At.Before(w.now) && len(slots) < n {
				slots = append(slots, s)
			}
		}
	}
	return slots
}

func (w *world) base(t text) store.Post {
	category := w.categories[t.Category]
	return store.Post{SiteID: w.site.ID, AuthorID: w.people[t.Author], CategoryID: &category, Title: t.Title, Body: t.Body}
}

func (w *world) tag(ctx context.Context, id int64, t text) error {
	var tags []store.Tag
	for _, name := range t.Tags {
		tags = append(tags, store.Tag{Slug: planning.Slug(name), Name: name})
	}
	return w.tx.SetTags(ctx, w.site.ID, id, tags)
}

func (w *world) publish(ctx context.Context, t text, slot rhythm.Slot) error {
	p := w.base(t)
	p.PublishedAt, p.Slug = &slot.At, planning.Slug(t.Title)
	p.CreatedAt = slot.At.Add(-time.Duration(3+w.chance.IntN(20)) * 24 * time.Hour)
	id, err := w.tx.InsertPublished(ctx, p)
	if err != nil {
		return err
	}
	if err := w.tag(ctx, id, t); err != nil {
		return err
	}
	return w.tx.Log(ctx, store.LogEntry{SiteID: w.site.ID, At: slot.At, Deed: store.DeedPublish, Post: &id, Reason: "Its slot in the rhythm had come."})
}

func (w *world) draft(ctx context.Context, t text) error {
	p := w.base(t)
	p.CreatedAt = w.now.Add(-time.Duration(1+w.chance.IntN(300)) * time.Hour)
	id, err := w.tx.InsertDraft(ctx, p)
	if err != nil {
		return err
	}
	if err := w.tag(ctx, id, t); err != nil {
		return err
	}
	if t.Status != "cleared" {
		return nil
	}
	post, err := w.tx.Post(ctx, w.site.ID, id)
	if err != nil {
		return err
	}
	_, last, err := w.tx.ShelfEnds(ctx, w.site.ID)
	if err != nil {
		return err
	}
	rank := last + 1
	post.Cleared, post.ShelfRank = true, &rank
	return w.tx.SavePlace(ctx, post, p.CreatedAt)
}

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
	post.Status, post.DueAt, post.Pinned, post.Slug = store.Scheduled, &due, true, planning.Slug(post.Title)
	if err := w.tx.SavePlace(ctx, post, w.now); err != nil {
		return err
	}
	ines := w.people["Ines Abara"]
	return w.tx.Log(ctx, store.LogEntry{SiteID: w.site.ID, At: w.now, Actor: &ines, Deed: store.DeedRetime, Post: &id, Reason: "Given a time by hand."})
}
