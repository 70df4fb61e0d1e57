package sitesettings

import (
	"context"
	"fmt"
	"slices"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/look"
	"dapper.example/internal/store"
)

// maxMenu is how many categories and pages a menu has at most.
const maxMenu = 30

// SaveAppearance writes how the blog looks to its readers, and what its menu leads to, over the version
// that was seen. It fails with *act.Invalid and act.ErrStale.
func SaveAppearance(ctx context.Context, d act.Desk, a store.Appearance, version int, now time.Time) error {
	if !look.Look(a.Look).Known() {
		return act.Invalidf("look", "There is no such look: %q.", a.Look)
	}
	if a.Accent != "" {
		accent, err := look.ParseColour(a.Accent)
		if err != nil {
			return act.Invalidf("accent", "Write the colour as # and six digits or letters from a to f, such as #15506b.")
		}
		a.Accent = accent.String()
	}
	if len(a.Menu) > maxMenu {
		return act.Invalidf("menu", "A menu has at most %d categories and pages, not %d.", maxMenu, len(a.Menu))
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if site.Version != version {
			return act.ErrStale
		}
		if err := checkMenu(ctx, tx, site.ID, a.Menu); err != nil {
			return err
		}
		before := act.JSON(site)
		site.Appearance = a
		if err := tx.SaveAppearance(ctx, site.ID, a); err != nil {
			return fmt.Errorf("saving how %s looks: %w", site.Slug, err)
		}
		return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedSettings, Reason: "How the blog looks to readers was changed.",
			Before: before, After: act.JSON(site)})
	})
}

// checkMenu refuses what is in a menu twice, and what the blog does not have.
func checkMenu(ctx context.Context, tx *store.Tx, site int64, menu store.Menu) error {
	if len(menu) == 0 {
		return nil
	}
	categories, err := tx.Categories(ctx, site)
	if err != nil {
		return err
	}
	pages, err := tx.Pages(ctx, site)
	if err != nil {
		return err
	}
	for i, item := range menu {
		known := item.Kind == store.MenuCategory && slices.ContainsFunc(categories, func(c store.Category) bool { return c.ID == item.ID }) ||
			item.Kind == store.MenuPage && slices.ContainsFunc(pages, func(p store.Entry) bool { return p.ID == item.ID })
		if !known {
			return act.Invalidf("menu", "A %s of the menu has been deleted meanwhile. Load the menu again.", item.Kind)
		}
		if slices.Contains(menu[:i], item) {
			return act.Invalidf("menu", "A %s is in the menu twice.", item.Kind)
		}
	}
	return nil
}
