// Package topics makes, renames, orders and deletes a site's categories, and renames and deletes its tags. What refers to
// one goes along: posts, openings, conditions of rules, lenses, addresses.
package topics

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

const (
	maxName        = 60  // characters
	maxDescription = 400 // characters
	// Most is how many categories a site has at most.
	Most = 200
)

// Category is a category with what refers to it.
type Category struct {
	store.Category
	Posts    int
	Openings int
	Rules    []store.Rule // whose conditions name it
	Lenses   int          // that filter by it, everybody's
	Default  bool
}

// List lists a site's categories in their order.
func List(ctx context.Context, q store.Queries, site store.Site) ([]Category, error) {
	all, err := q.Categories(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	uses, err := q.CategoryUses(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	rules, err := q.Rules(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	lenses, err := q.LensesListing(ctx, site.ID, store.ListedCategories)
	if err != nil {
		return nil, err
	}
	list := make([]Category, len(all))
	for i, c := range all {
		list[i] = Category{Category: c, Default: site.DefaultCategory != nil && *site.DefaultCategory == c.ID}
		for _, u := range uses {
			if u.Category == c.ID {
				list[i].Posts, list[i].Openings = u.Posts, u.Openings
			}
		}
		list[i].Lenses = lenses[c.ID]
		for _, r := range rules {
			if _, names := r.Condition.Renamed(condition.Category, c.Name, c.Name); names {
				list[i].Rules = append(list[i].Rules, r)
			}
		}
	}
	return list, nil
}

// cleaned returns a category as it is kept. It fails with *act.Invalid.
func cleaned(c store.Category) (store.Category, error) {
	c.Name, c.Description = strings.Join(strings.Fields(c.Name), " "), strings.Join(strings.Fields(c.Description), " ")
	switch n := letters.Length(c.Name, maxName); {
	case !strings.ContainsFunc(c.Name, func(r rune) bool { return unicode.IsLetter(r) || unicode.IsNumber(r) || unicode.IsSymbol(r) }):
		return c, act.Invalidf("name", "Give the category a name.")
	case n > maxName:
		return c, act.Invalidf("name", "The name has more than %d characters. Shorten it.", maxName)
	case strings.ContainsFunc(c.Name, unicode.IsControl):
		return c, act.Invalidf("name", "The name has a control character in it. Remove it.")
	case letters.Length(c.Description, maxDescription) > maxDescription:
		return c, act.Invalidf("description", "The description has more than %d characters. Shorten it.", maxDescription)
	}
	if c.Slug = strings.TrimSpace(c.Slug); c.Slug == "" {
		if c.Slug = address.Slug(c.Name); c.Slug == "" {
			return c, act.Invalidf("slug", "Enter the name that the category has in its address, such as garden-paths.")
		}
	}
	if len(c.Slug) > address.MaxSlug || address.Slug(c.Slug) != c.Slug {
		return c, act.Invalidf("slug", "Use small letters, digits and hyphens only, at most %d of them, such as garden-paths.", address.MaxSlug)
	}
	return c, nil
}

// fits refuses a name, or a name in addresses, that another category of the site has.
func fits(all []store.Category, c store.Category) error {
	for _, other := range all {
		switch {
		case other.ID == c.ID:
		case strings.EqualFold(other.Name, c.Name):
			return act.Invalidf("name", "There is a category “%s” already. Choose another name.", other.Name)
		case other.Slug == c.Slug:
			return act.Invalidf("slug", "“%s” has the address “%s” already. Choose another.", other.Name, c.Slug)
		}
	}
	return nil
}

// Add adds a category after the others and returns its id. It fails with *act.Invalid.
func Add(ctx context.Context, d act.Desk, c store.Category, now time.Time) (id int64, err error) {
	c.ID = 0
	if c, err = cleaned(c); err != nil {
		return 0, err
	}
	err = d.Change(ctx, func(tx *store.Tx) error {
		all, err := tx.Categories(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		if len(all) >= Most {
			return act.Invalidf("name", "A blog has at most %d categories. Tags have no such limit.", Most)
		}
		if err := fits(all, c); err != nil {
			return err
		}
		if id, err = tx.InsertCategory(ctx, d.Site.ID, c.Slug, c.Name, len(all)+1); err != nil {
			return fmt.Errorf("adding a category to %s: %w", d.Site.Slug, err)
		}
		c.ID = id
		if err := tx.SaveCategory(ctx, d.Site.ID, c); err != nil {
			return err
		}
		return log(ctx, d, tx, now, "The category “%s” was added.", c.Name)
	})
	return id, err
}

// Save writes a category. Rules that name it name it as it is called now; its old address leads on
// to the new one. It fails with *act.Invalid.
func Save(ctx context.Context, d act.Desk, c store.Category, now time.Time) (err error) {
	if c, err = cleaned(c); err != nil {
		return err
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		all, was, err := find(ctx, d, tx, c.ID)
		if err != nil {
			return err
		}
		if err := fits(all, c); err != nil {
			return err
		}
		if was == c {
			return nil
		}
		if err := tx.SaveCategory(ctx, d.Site.ID, c); err != nil {
			return fmt.Errorf("saving a category of %s: %w", d.Site.Slug, err)
		}
		if was.Name == c.Name {
			return log(ctx, d, tx, now, "The category “%s” was changed.", c.Name)
		}
		rules, err := naming(ctx, d, tx, condition.Category, was.Name, c.Name)
		if err != nil {
			return err
		}
		for _, r := range rules {
			if err := tx.SaveRule(ctx, r, now); err != nil {
				return fmt.Errorf("renaming a category in rule %d: %w", r.ID, err)
			}
		}
		return log(ctx, d, tx, now, "The category “%s” was renamed “%s”.", was.Name, c.Name)
	})
}

func find(ctx context.Context, d act.Desk, tx *store.Tx, id int64) (all []store.Category, c store.Category, err error) {
	if all, err = tx.Categories(ctx, d.Site.ID); err != nil {
		return nil, c, err
	}
	i := slices.IndexFunc(all, func(c store.Category) bool { return c.ID == id })
	if i < 0 {
		return all, c, store.ErrNotFound
	}
	return all, all[i], nil
}

// naming lists the rules whose conditions name a category or a tag, as they are with another name for it.
func naming(ctx context.Context, d act.Desk, tx *store.Tx, test condition.Test, from, to string) (rules []store.Rule, err error) {
	all, err := tx.Rules(ctx, d.Site.ID)
	for _, r := range all {
		if renamed, names := r.Condition.Renamed(test, from, to); names {
			r.Condition = renamed
			rules = append(rules, r)
		}
	}
	return rules, err
}

// Order puts the categories in another order: ids has all of them. It fails with act.ErrStale
// where there are others by now.
func Order(ctx context.Context, d act.Desk, ids []int64, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		all, err := tx.Categories(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		var present []int64
		for _, c := range all {
			present = append(present, c.ID)
		}
		if slices.Equal(present, ids) {
			return nil
		}
		if !slices.Equal(slices.Sorted(slices.Values(present)), slices.Sorted(slices.Values(ids))) {
			return act.ErrStale
		}
		if err := tx.OrderCategories(ctx, d.Site.ID, ids); err != nil {
			return fmt.Errorf("ordering the categories of %s: %w", d.Site.Slug, err)
		}
		return log(ctx, d, tx, now, "The categories were put in another order.")
	})
}

// SetDefault says in which category drafts are begun; 0 for none.
func SetDefault(ctx context.Context, d act.Desk, id int64, now time.Time) error {
	return d.Change(ctx, func(tx *store.Tx) error {
		site, err := tx.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		name := "no category"
		site.DefaultCategory = nil
		if id != 0 {
			_, c, err := find(ctx, d, tx, id)
			if err != nil {
				return err
			}
			site.DefaultCategory, name = &id, fmt.Sprintf("“%s”", c.Name)
		}
		if err := tx.SaveSite(ctx, site); err != nil {
			return fmt.Errorf("saving the default category of %s: %w", site.Slug, err)
		}
		return log(ctx, d, tx, now, "New drafts begin in %s.", name)
	})
}

// Fate is what becomes of what refers to a category or a tag that is deleted.
type Fate struct {
	Into  int64 // the one that its posts go to; 0 for none
	Posts int   // how many posts were seen to have it: with others by now nothing is done
}

// Delete deletes a category. Its posts go to another one, or have none then. Rules that name it
// name that other one, and those that are in action wait for an editor: what they catch is not what
// it was. It fails with *act.Invalid, and with act.ErrStale where other posts have it than were seen.
func Delete(ctx context.Context, d act.Desk, id int64, fate Fate, now time.Time) error {
	if id == fate.Into {
		return act.Invalidf("into", "A category can’t be merged into itself. Choose another.")
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		all, c, err := find(ctx, d, tx, id)
		if err != nil {
			return err
		}
		into := ""
		if fate.Into != 0 {
			i := slices.IndexFunc(all, func(c store.Category) bool { return c.ID == fate.Into })
			if i < 0 {
				return act.Invalidf("into", "There is no such category on this blog. Choose another.")
			}
			into = all[i].Name
			if err := tx.Relist(ctx, d.Site.ID, store.ListedCategories, id, fate.Into); err != nil {
				return fmt.Errorf("pointing lenses at another category: %w", err)
			}
		}
		uses, err := tx.CategoryUses(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		for _, u := range uses {
			if u.Category == id && u.Posts != fate.Posts {
				return act.ErrStale
			}
		}
		rules, err := naming(ctx, d, tx, condition.Category, c.Name, into)
		if err != nil {
			return err
		}
		if err := tx.MoveCategory(ctx, d.Site.ID, id, fate.Into, now); err != nil {
			return fmt.Errorf("moving what belongs to category %d: %w", id, err)
		}
		if err := tx.DeleteCategory(ctx, d.Site.ID, id, fate.Into); err != nil {
			return fmt.Errorf("deleting category %d: %w", id, err)
		}
		if err := hold(ctx, d, tx, rules, "category", c.Name, into, now); err != nil {
			return err
		}
		posts := words.Count(fate.Posts, "post")
		if into == "" {
			return log(ctx, d, tx, now, "The category “%s” was deleted; %s have none now.", c.Name, posts)
		}
		return log(ctx, d, tx, now, "The category “%s” was merged into “%s”, with %s.", c.Name, into, posts)
	})
}

// hold has rules that named a category or a tag wait for an editor, where they are in action.
func hold(ctx context.Context, d act.Desk, tx *store.Tx, rules []store.Rule, kind, name, into string, now time.Time) error {
	for _, r := range rules {
		why := fmt.Sprintf("The %s “%s”, which this rule names, was deleted.", kind, name)
		if into != "" {
			why = fmt.Sprintf("The %s “%s”, which this rule named, was merged into “%s”, so the rule applies to other posts now.", kind, name, into)
			if err := tx.SaveRule(ctx, r, now); err != nil {
				return fmt.Errorf("renaming a %s in rule %d: %w", kind, r.ID, err)
			}
		}
		if r.ArmedAt == nil {
			continue
		}
		if err := tx.HoldRule(ctx, d.Site.ID, r.ID, why, now); err != nil && !errors.Is(err, store.ErrNotFound) {
			return fmt.Errorf("holding rule %d: %w", r.ID, err)
		}
	}
	return nil
}

func log(ctx context.Context, d act.Desk, tx *store.Tx, now time.Time, format string, args ...any) error {
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedSettings, Reason: fmt.Sprintf(format, args...)})
}
