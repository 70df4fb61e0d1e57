package demo

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/post"
	"dapper.example/internal/store"
)

// linkItems adds pages elsewhere that the first blog's rules may share: a title, where it leads, and how many days ago it was found.
func (w *world) linkItems(ctx context.Context) error {
	var items []store.NewPost
	for _, one := range []struct {
		title, link, excerpt string
		days                 int
	}{
		{"A hill without a lamp: how Ridge Farm gave its yard back to the night", "https://ridge-farm.example/dark-yard", "One farm, eleven lamps fewer, and owls again.", 64},
		{"Counting meteors from a balcony", "https://street-sky.example/balcony", "", 30},
		{"How to read a cloud chart in five minutes", "https://ridge-weather.example/cloud-chart", "Four symbols are enough for most nights.", 12},
		{"The tide table that also knows the moon", "https://harbour-tables.example/moon", "", 3},
	} {
		items = append(items, store.NewPost{Author: w.people["Tobias Wren"], Title: one.title, Link: one.link, Excerpt: one.excerpt, Tags: []string{"elsewhere"}, TagSlugs: []string{"elsewhere"},
			Import: "Neighbours", State: post.State{}.Link(w.now.AddDate(0, 0, -one.days).Truncate(time.Minute))})
	}
	if _, err := w.tx.InsertPosts(ctx, w.site.ID, items, w.people["Tobias Wren"], w.now); err != nil {
		return fmt.Errorf("adding link items: %w", err)
	}
	return nil
}
