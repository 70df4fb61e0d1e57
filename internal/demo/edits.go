package demo

import (
	"context"
	"fmt"
	"time"

	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/store"
)

// timedEdits has three prepared changes wait: one in some days, one at the turn of the year, and one that comes every year.
func (w *world) timedEdits(ctx context.Context) error {
	zone := w.site.Zone()
	today := zone.DateOf(w.now)
	year, _, _ := today.Parts()
	newYear := zone.At(civil.NewDate(year+1, time.January, 1), 0)
	for _, one := range []struct {
		title, by string
		at        time.Time
		yearly    bool
		change    func(t *revise.Text)
	}{
		{"The quiet joy of a red torch", "Tobias Wren", zone.At(today.Add(3), civil.MustClock("07:30")), false, func(t *revise.Text) {
			t.Body += "\n\nThe shop in the harbour has ours again, with two layers of wrapper already in place."
			t.Tags = append(t.Tags, "shop")
		}},
		{"Finding the Winter Hexagon without a chart", "Ines Abara", newYear, false, func(t *revise.Text) {
			t.Title, t.Excerpt = "Finding the Winter Hexagon, with a hand and no chart", "Six bright stars, and an open hand to measure with."
		}},
		{"How we count so that the numbers can be used", "Marguerite Oyelaran", newYear, true, func(t *revise.Text) {
			t.Title = "How we count in {year}, so that the numbers can be used"
			t.Body += "\n\nThe cards for {year} hang at the gate from the first of January."
		}},
	} {
		found, err := w.tx.FindPosts(ctx, w.site.ID, one.title, 1)
		if err != nil {
			return err
		}
		if len(found) == 0 {
			return fmt.Errorf("no post is called %q", one.title)
		}
		id := found[0].ID
		p, err := w.tx.Post(ctx, w.site.ID, id)
		if err != nil {
			return err
		}
		by, wanted := w.people[one.by], p.Says()
		one.change(&wanted)
		e := store.TimedEdit{SiteID: w.site.ID, Post: id, User: &by, Base: store.Wording{Text: p.Says()}, Wanted: store.Wording{Text: wanted}, DueAt: one.at, CreatedAt: w.now}
		if one.yearly {
			yearly := revise.YearlyOf(one.at, zone)
			e.Yearly = store.EachYear{Yearly: &yearly}
		}
		if _, err := w.tx.InsertEdit(ctx, e); err != nil {
			return fmt.Errorf("preparing a change of “%s”: %w", one.title, err)
		}
	}
	return nil
}
