package act

import (
	"context"
	"crypto/rand"
	"encoding/binary"
	"fmt"
	"time"

	"dapper.example/internal/core/post"
	"dapper.example/internal/store"
)

// Desk is where an editor works on one site: whatever they change, they change from here.
type Desk struct {
	Store *store.Store
	Site  store.Site
	Actor int64 // the editor's user id

	Act    int64  // whose lines it writes; 0: each line is an act of its own
	Undoes *int64 // the line of the logbook that is being taken back, if one is
}

// PostVersion is a post in the version that the editor saw.
type PostVersion struct {
	Post    int64
	Version int
}

// LeftPost is a post that a change leaves as it is, and why.
type LeftPost struct {
	ID            int64
	Title, Reason string
}

// Change is Change for the desk's site.
func (d Desk) Change(ctx context.Context, work func(*store.Tx) error) error {
	return Change(ctx, d.Store, d.Site, work)
}

// ChangePost is Change for one post. It fails with ErrStale where the post no longer has the
// version that the editor saw.
func (d Desk) ChangePost(ctx context.Context, id int64, version int, work func(*store.Tx, store.Post) error) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		p, err := tx.LockPost(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if p.Version != version {
			return ErrStale
		}
		return work(tx, p)
	})
}

// Begin begins an act of the desk's: the lines that it writes from now on belong to it.
func (d *Desk) Begin(ctx context.Context, tx *store.Tx, why string, now time.Time) (err error) {
	d.Act, err = tx.Begin(ctx, store.Act{SiteID: d.Site.ID, At: now, Actor: &d.Actor, Why: why})
	return err
}

// Log writes a line of the logbook in the editor's name. It belongs to the desk's act only where the line
// says so: what is told beside it, such as another address, is not undone with it.
func (d Desk) Log(ctx context.Context, tx *store.Tx, line store.LogEntry) error {
	line.SiteID, line.Actor = d.Site.ID, &d.Actor
	if err := tx.Log(ctx, line); err != nil {
		return fmt.Errorf("writing the logbook: %w", err)
	}
	return nil
}

// Stand gives a post a new state and writes the line of the logbook. A post that readers may
// see from now on gets an address if it has none.
func (d Desk) Stand(ctx context.Context, tx *store.Tx, p store.Post, state post.State, deed, reason string,
	now time.Time) error {
	before := JSON(p.State())
	p.Stand(state)
	if p.Status != store.Draft && p.Status != store.Binned && p.Status != store.Linked && p.Slug == "" {
		slug, err := FreeSlug(ctx, tx.Queries, d.Site.ID, p.Title)
		if err != nil {
			return err
		}
		p.Slug = slug
	}
	if err := tx.SaveState(ctx, p, now); err != nil {
		return fmt.Errorf("changing post %d: %w", p.ID, err)
	}
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: deed, Post: &p.ID, Reason: reason, Before: before,
		After: JSON(state), Act: d.Act, Undoes: d.Undoes})
}

// NewSeed draws what the chance of a rule or a rhythm comes from; it is kept with that. It has
// 53 bits, which browsers hold exactly.
func NewSeed() uint64 {
	var b [8]byte
	rand.Read(b[:])
	return binary.BigEndian.Uint64(b[:]) >> 11
}
