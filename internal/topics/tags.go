package topics

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
	"dapper.example/internal/writing"
)

// Tag is a tag with what refers to it.
type Tag struct {
	store.TagUse
	Rules  []store.Rule // whose conditions name it
	Lenses int          // that filter by it, everybody's
}

// MostTags is how many tags are listed at once.
const MostTags = 300

// Tags lists a site's tags by name, those of whose name a text is a part where one is given. More tells whether there are
// others.
func Tags(ctx context.Context, q store.Queries, site int64, find string) (list []Tag, more bool, err error) {
	uses, err := q.TagUses(ctx, site, find, MostTags+1)
	if err != nil {
		return nil, false, err
	}
	if more = len(uses) > MostTags; more {
		uses = uses[:MostTags]
	}
	rules, err := q.Rules(ctx, site)
	if err != nil {
		return nil, false, err
	}
	lenses, err := q.LensesListing(ctx, site, store.ListedTags)
	if err != nil {
		return nil, false, err
	}
	for _, use := range uses {
		tag := Tag{TagUse: use, Lenses: lenses[use.ID]}
		for _, r := range rules {
			if _, names := r.Condition.Renamed(condition.Tags, use.Name, use.Name); names {
				tag.Rules = append(tag.Rules, r)
			}
		}
		list = append(list, tag)
	}
	return list, more, nil
}

// RenameTag gives a tag another name: its posts get a new version of their texts, rules that name it go along, and its old
// address leads on to the new one. It fails with *act.Invalid.
func RenameTag(ctx context.Context, d act.Desk, id int64, name string, now time.Time) error {
	name = strings.Join(strings.Fields(name), " ")
	slug := address.Slug(name)
	switch {
	case slug == "":
		return act.Invalidf("name", "Give the tag a name with a letter or a digit in it.")
	case letters.Length(name, writing.MaxTag) > writing.MaxTag:
		return act.Invalidf("name", "The name has more than %d characters. Shorten it.", writing.MaxTag)
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		was, err := tx.LockTag(ctx, d.Site.ID, id)
		if err != nil || was.Name == name {
			return err
		}
		other, err := tx.TagBySlug(ctx, d.Site.ID, slug)
		if err == nil && other.ID != id {
			return act.Invalidf("name", "There is a tag “%s” already. Merge this one into it instead.", other.Name)
		}
		if err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
		if err := tx.RenameTag(ctx, d.Site.ID, store.Tag{ID: id, Slug: slug, Name: name}); err != nil {
			return fmt.Errorf("renaming tag %d: %w", id, err)
		}
		posts, err := tx.PostsTagged(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if err := tx.RewriteTags(ctx, d.Site.ID, posts, d.Actor, now); err != nil {
			return fmt.Errorf("writing the tags of %d posts: %w", len(posts), err)
		}
		rules, err := naming(ctx, d, tx, condition.Tags, was.Name, name)
		if err != nil {
			return err
		}
		for _, r := range rules {
			if err := tx.SaveRule(ctx, r, now); err != nil {
				return fmt.Errorf("renaming a tag in rule %d: %w", r.ID, err)
			}
		}
		return log(ctx, d, tx, now, "The tag “%s” was renamed “%s”.", was.Name, name)
	})
}

// DeleteTag deletes a tag. Its posts have another one instead, or do without. Rules that name it name that other one, and
// those that are in action wait for an editor. It fails with *act.Invalid, and with act.ErrStale where other posts have it than
// were seen.
func DeleteTag(ctx context.Context, d act.Desk, id int64, fate Fate, now time.Time) error {
	if id == fate.Into {
		return act.Invalidf("into", "A tag can’t be merged into itself. Choose another.")
	}
	return d.Change(ctx, func(tx *store.Tx) error {
		tag, err := tx.LockTag(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if tag.Posts != fate.Posts {
			return act.ErrStale
		}
		into := ""
		if fate.Into != 0 {
			other, err := tx.LockTag(ctx, d.Site.ID, fate.Into)
			if errors.Is(err, store.ErrNotFound) {
				return act.Invalidf("into", "There is no such tag on this blog. Choose another.")
			}
			if err != nil {
				return err
			}
			into = other.Name
			if err := tx.Relist(ctx, d.Site.ID, store.ListedTags, id, fate.Into); err != nil {
				return fmt.Errorf("pointing lenses at another tag: %w", err)
			}
		}
		rules, err := naming(ctx, d, tx, condition.Tags, tag.Name, into)
		if err != nil {
			return err
		}
		posts, err := tx.DeleteTag(ctx, d.Site.ID, id, fate.Into)
		if err != nil {
			return fmt.Errorf("deleting tag %d: %w", id, err)
		}
		if err := tx.RewriteTags(ctx, d.Site.ID, posts, d.Actor, now); err != nil {
			return fmt.Errorf("writing the tags of %d posts: %w", len(posts), err)
		}
		if err := hold(ctx, d, tx, rules, "tag", tag.Name, into, now); err != nil {
			return err
		}
		n := words.Count(fate.Posts, "post")
		if into == "" {
			return log(ctx, d, tx, now, "The tag “%s” was deleted from %s.", tag.Name, n)
		}
		return log(ctx, d, tx, now, "The tag “%s” was merged into “%s”, with %s.", tag.Name, into, n)
	})
}
