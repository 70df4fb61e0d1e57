package siterules

import (
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/store"
)

// readEdits reads when timed edits are due, without what they say.
func (f *Frame) readEdits(ctx context.Context, q store.Queries, siteID int64) error {
	waiting, err := q.WaitingEdits(ctx, siteID)
	if err != nil {
		return fmt.Errorf("reading the timed edits: %w", err)
	}
	for _, e := range waiting {
		f.Scene.Edits = append(f.Scene.Edits, deed.Edit{ID: e.ID, Post: e.Post, At: e.DueAt.UTC()})
	}
	return nil
}

// addEdits reads what the timed edits say that are due up to a moment, and what their posts say now.
func (f *Frame) addEdits(ctx context.Context, q store.Queries, siteID int64, until time.Time, needs store.FactsFilter,
	live func(ctx context.Context, siteID int64, posts []int64) (map[int64]revise.Text, error)) error {
	if !slices.ContainsFunc(f.Scene.Edits, func(e deed.Edit) bool { return !e.At.After(until) }) {
		return nil
	}
	due, err := q.EditsDue(ctx, siteID, until)
	if err != nil {
		return fmt.Errorf("reading what timed edits say: %w", err)
	}
	var posts []int64
	var slugs []string
	for _, e := range due {
		if n := slices.IndexFunc(f.Scene.Edits, func(one deed.Edit) bool { return one.ID == e.ID }); n >= 0 {
			f.Scene.Edits[n] = EditOf(e)
		}
		if !slices.Contains(posts, e.Post) {
			posts = append(posts, e.Post)
		}
		if e.Wanted.Slug != "" && e.Wanted.Slug != e.Base.Slug {
			slugs = append(slugs, e.Wanted.Slug)
		}
	}
	if f.Scene.Live, err = live(ctx, siteID, posts); err != nil {
		return err
	}
	if f.Scene.Slugs, err = q.SlugsHeld(ctx, siteID, slugs); err != nil {
		return err
	}
	categories, err := q.Categories(ctx, siteID)
	if err != nil {
		return err
	}
	f.Scene.Categories = make(map[int64]string, len(categories))
	for _, c := range categories {
		f.Scene.Categories[c.ID] = c.Name
	}
	needs.IDs = posts
	return f.add(ctx, q, siteID, needs)
}

// EditOf is a timed edit as core knows it.
func EditOf(e store.TimedEdit) deed.Edit {
	return deed.Edit{ID: e.ID, Post: e.Post, At: e.DueAt.UTC(), Base: e.Base.Text, Wanted: e.Wanted.Text, Yearly: e.Yearly.Yearly}
}
