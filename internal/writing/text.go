// Package writing saves what people write: the text of a post with all that belongs to it, and fields of
// many posts at once. It never changes where a post stands, nor its time.
package writing

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"time"
	"unicode"

	"dapper.example/internal/act"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/words"
	"dapper.example/internal/store"
)

// Limits on what an editor writes. Lengths are in characters as readers count them
// (grapheme clusters, Unicode Standard Annex 29), the body's in bytes.
const (
	MaxTitle   = 200
	MaxBody    = 1 << 20
	MaxTag     = 60
	MaxTags    = 30
	MaxExcerpt = 2000
	MaxAlt     = 500
	maxFields  = 50
	maxField   = 500 // of a custom field's name or value
	maxAddress = 2000
)

// Text is what an editor changes of a post; nil fields stay as they are.
type Text struct {
	Title *string
	Body  *string
	// Category is the new category's id, or 0 for none.
	Category *int64
	Tags     *[]string
	// Slug is the address; "" has one made from the title when it is needed.
	Slug     *string
	Excerpt  *string
	Author   *int64  // of the site's people
	Kind     *string // post or page; a link item stays one
	Link     *string // of a link item
	Featured *Featured
	// OnTop keeps it before all others on the blog's front page.
	OnTop        *bool
	CommentsOpen *bool

	Evergreen    *bool
	NeverExpires *bool
	Expires      *time.Time // its own expiry; the zero time for none
	Fields       *map[string]string
}

// Featured is the picture that stands for a post, and what it shows; with no address
// there is none.
type Featured struct {
	Address string
	Alt     string
}

// forEditors lists the fields that contributors leave to editors.
func (t Text) forEditors() string {
	switch {
	case t.Author != nil:
		return "authorId"
	case t.Kind != nil:
		return "kind"
	case t.Link != nil:
		return "link"
	case t.OnTop != nil:
		return "onTop"
	case t.CommentsOpen != nil:
		return "commentsOpen"
	case t.Evergreen != nil:
		return "evergreen"
	case t.NeverExpires != nil:
		return "neverExpires"
	case t.Expires != nil:
		return "expires"
	}
	return ""
}

// OfContributor tells what is wrong with a contributor's writing this; nil for nothing.
func (t Text) OfContributor() *act.Invalid {
	if field := t.forEditors(); field != "" {
		return &act.Invalid{Field: field, Message: "Only editors can do this. Ask one of them."}
	}
	return nil
}

// caresFor tells whether the text says something that rules ask about and that lies
// outside the text proper.
func (t Text) caresFor() bool {
	return t.Evergreen != nil || t.NeverExpires != nil || t.Expires != nil || t.Fields != nil
}

// Problems lists what is wrong with the text, by field. What depends on the rest of the
// site (category, author, address) is checked when the text is saved.
func (t Text) Problems() []*act.Invalid {
	var found []*act.Invalid
	say := func(field, format string, args ...any) {
		found = append(found, &act.Invalid{Field: field, Message: fmt.Sprintf(format, args...)})
	}
	if t.Title != nil {
		title := strings.TrimSpace(*t.Title)
		switch length := letters.Length(title, MaxTitle); {
		case length > MaxTitle:
			say("title", "The title has %d characters; at most %d fit. Shorten it by %d.", length, MaxTitle,
				length-MaxTitle)
		case title != "" && !strings.ContainsFunc(title, words.IsRune):
			say("title", "The title has no letter or digit, so the post would have no address. Add a word to it.")
		case strings.ContainsFunc(title, unicode.IsControl):
			say("title", "The title has a line break or another control character in it. Remove it.")
		}
	}
	if t.Body != nil && len(*t.Body) > MaxBody {
		say("body", "The text has %d kB; at most %d kB fit. Split it into several posts.", len(*t.Body)>>10,
			MaxBody>>10)
	}
	for field, text := range map[string]*string{"title": t.Title, "body": t.Body, "excerpt": t.Excerpt} {
		if text != nil && strings.ContainsRune(*text, 0) {
			say(field, "It contains a character that is not text (NUL). Remove it.")
		}
	}
	if t.Excerpt != nil {
		if n := letters.Length(*t.Excerpt, MaxExcerpt); n > MaxExcerpt {
			say("excerpt", "The excerpt has %d characters; at most %d fit.", n, MaxExcerpt)
		}
	}
	if t.Slug != nil && *t.Slug != "" && address.Slug(*t.Slug) == "" {
		say("slug", "“%s” has nothing that can be used in an address. Use letters a to z, digits and hyphens.", *t.Slug)
	}
	if t.Kind != nil && *t.Kind != "post" && *t.Kind != "page" && *t.Kind != linkItem {
		say("kind", "It is either a post or a page.")
	}
	if t.Link != nil && !address.IsWeb(*t.Link) {
		say("link", "Enter a link that begins with https:// or http://.")
	}
	if t.Featured != nil {
		if why := t.Featured.problem(); why != "" {
			say("featured", "%s", why)
		}
	}
	if t.Fields != nil {
		found = append(found, fieldProblems(*t.Fields)...)
	}
	return append(found, tagProblems(t.Tags)...)
}

func (f Featured) problem() string {
	switch {
	case len(f.Address) > maxAddress:
		return "The address of the featured image is too long."
	case f.Address != "" && !strings.HasPrefix(f.Address, "/blog/") && !strings.HasPrefix(f.Address, "https://") &&
		!strings.HasPrefix(f.Address, "http://"):
		return "The featured image is one of the blog's pictures, or an address that begins with https://."
	case letters.Length(f.Alt, MaxAlt) > MaxAlt:
		return fmt.Sprintf("What the image shows is said in at most %d characters.", MaxAlt)
	}
	return ""
}

func fieldProblems(fields map[string]string) []*act.Invalid {
	if len(fields) > maxFields {
		return []*act.Invalid{act.Invalidf("fields", "There are %d custom fields; a post has at most %d.", len(fields),
			maxFields)}
	}
	for name, value := range fields {
		switch {
		case strings.TrimSpace(name) == "":
			return []*act.Invalid{act.Invalidf("fields", "A custom field needs a name.")}
		case letters.Length(name, maxField) > maxField || letters.Length(value, maxField) > maxField:
			return []*act.Invalid{act.Invalidf("fields."+name,
				"A custom field's name and value have at most %d characters.", maxField)}
		case strings.ContainsRune(name+value, 0):
			return []*act.Invalid{act.Invalidf("fields."+name,
				"It contains a character that is not text (NUL). Remove it.")}
		}
	}
	return nil
}

func tagProblems(tags *[]string) (found []*act.Invalid) {
	if tags == nil {
		return nil
	}
	if len(*tags) > MaxTags {
		found = append(found, &act.Invalid{Field: "tags", Message: fmt.Sprintf("There are %d tags; at most %d fit.",
			len(*tags), MaxTags)})
	}
	for i, tag := range *tags {
		field := fmt.Sprintf("tags[%d]", i)
		switch tag = strings.TrimSpace(tag); {
		case letters.Length(tag, MaxTag) > MaxTag:
			found = append(found, &act.Invalid{Field: field,
				Message: fmt.Sprintf("The tag “%s” is too long; at most %d characters fit.", tag, MaxTag)})
		case address.Slug(tag) == "":
			found = append(found, &act.Invalid{Field: field,
				Message: fmt.Sprintf("The tag “%s” has no letter or digit. Add a word to it or remove it.", tag)})
		}
	}
	return found
}

// Write saves an editor's text over the version that the editor saw. It fails with
// act.ErrStale where the post has a later version, and with *act.Invalid for a category or an
// author that the site lacks and for an address that is taken.
func Write(ctx context.Context, d act.Desk, id int64, version int, text Text, now time.Time) (store.Post, error) {
	var saved store.Post
	change := d.Store.InTx
	if text.caresFor() {
		change = d.Change // rules may have to be asked anew
	}
	err := change(ctx, func(tx *store.Tx) error {
		post, err := tx.LockPost(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if post.Version != version {
			return act.ErrStale
		}
		if err := put(ctx, d, tx, &post, text, now); err != nil {
			return err
		}
		saved, err = tx.Post(ctx, d.Site.ID, id)
		return err
	})
	return saved, err
}

// put changes the post as the text says and writes it.
func put(ctx context.Context, d act.Desk, tx *store.Tx, post *store.Post, text Text, now time.Time) error {
	if err := apply(ctx, d, tx, post, text, now); err != nil {
		return err
	}
	if err := tx.SaveText(ctx, *post, &d.Actor, now); err != nil {
		return fmt.Errorf("saving post %d: %w", post.ID, err)
	}
	if !text.caresFor() {
		return nil
	}
	if err := tx.SaveCare(ctx, *post, now); err != nil {
		return fmt.Errorf("saving post %d: %w", post.ID, err)
	}
	return d.Log(ctx, tx, store.LogEntry{At: now, Deed: store.DeedUpkeep,
		Post: &post.ID, Reason: "Its upkeep settings were changed."})
}

// apply changes the post as the text says, and writes its tags and addresses.
func apply(ctx context.Context, d act.Desk, tx *store.Tx, post *store.Post, text Text, now time.Time) error {
	if text.Title != nil {
		post.Title = strings.TrimSpace(*text.Title)
		if post.Title == "" && (post.Cleared || post.Status != store.Draft) {
			return act.Invalidf("title", "A post that is on the shelf, scheduled or out needs a title.")
		}
	}
	set(&post.Body, text.Body)
	set(&post.Excerpt, text.Excerpt)
	set(&post.OnTop, text.OnTop)
	set(&post.CommentsOpen, text.CommentsOpen)
	if text.Featured != nil {
		post.FeaturedImage, post.FeaturedAlt = text.Featured.Address, text.Featured.Alt
	}
	if err := text.care(post); err != nil {
		return err
	}
	if text.Link != nil {
		if post.Kind != linkItem {
			return act.Invalidf("link", "Only a link item leads to a page elsewhere.")
		}
		post.Link = *text.Link
	}
	if text.Kind != nil && *text.Kind != post.Kind {
		if post.Kind == linkItem || *text.Kind == linkItem {
			return act.Invalidf("kind", "A link item stays one, and a post doesn't become one. Add another beside it.")
		}
		if post.Cleared {
			return act.Invalidf("kind", "This post is on the shelf, where pages can’t go. Take it off the shelf first.")
		}
		post.Kind = *text.Kind
	}
	if text.Author != nil {
		if _, err := tx.Member(ctx, d.Site.ID, *text.Author); errors.Is(err, store.ErrNotFound) {
			return act.Invalidf("authorId", "That person is not on this blog. Choose somebody who is.")
		} else if err != nil {
			return err
		}
		post.AuthorID = *text.Author
	}
	if text.Category != nil {
		if err := setCategory(ctx, d, tx, post, *text.Category); err != nil {
			return err
		}
	}
	if text.Slug != nil {
		if err := setSlug(ctx, d, tx, post, *text.Slug, now); err != nil {
			return err
		}
	}
	if text.Tags == nil {
		return nil
	}
	tags := tagsOf(*text.Tags)
	post.Tags = nil
	for _, tag := range tags {
		post.Tags = append(post.Tags, tag.Name)
	}
	return tx.SetTags(ctx, d.Site.ID, post.ID, tags)
}

// set puts a value where one is given.
func set[T any](at *T, given *T) {
	if given != nil {
		*at = *given
	}
}

// care changes what rules are to know of the post. An expiry in the past archives it as
// soon as the engine looks.
func (t Text) care(post *store.Post) error {
	set(&post.Evergreen, t.Evergreen)
	set(&post.NeverExpires, t.NeverExpires)
	if t.Expires != nil {
		post.ExpiresAt = orNil(*t.Expires)
	}
	if t.Fields != nil {
		post.Fields = *t.Fields
	}
	if post.NeverExpires && post.ExpiresAt != nil && (t.NeverExpires != nil || t.Expires != nil) {
		return act.Invalidf("expires", "The post can’t both expire and never expire. Choose one of the two.")
	}
	return nil
}

func setCategory(ctx context.Context, d act.Desk, tx *store.Tx, post *store.Post, category int64) error {
	if category == 0 {
		post.CategoryID = nil
		return nil
	}
	has, err := tx.HasCategory(ctx, d.Site.ID, category)
	if err != nil {
		return err
	}
	if !has {
		return act.Invalidf("categoryId", "This site has no such category. Choose one that it has.")
	}
	post.CategoryID = &category
	return nil
}

// tagsOf drops repetitions, by the form that stands in addresses.
func tagsOf(names []string) []store.Tag {
	var tags []store.Tag
	seen := make(map[string]bool)
	for _, name := range names {
		name = strings.TrimSpace(name)
		if s := address.Slug(name); !seen[s] {
			seen[s] = true
			tags = append(tags, store.Tag{Slug: s, Name: name})
		}
	}
	return tags
}

// BeginDraft adds a draft by the actor. Where nothing is written yet and the actor has a
// blank draft already, that one is returned instead of a second.
func BeginDraft(ctx context.Context, d act.Desk, text Text, now time.Time) (store.Post, error) {
	var begun store.Post
	err := d.Store.InTx(ctx, func(tx *store.Tx) error {
		if text == (Text{}) {
			blank, err := tx.BlankDraft(ctx, d.Site.ID, d.Actor)
			if !errors.Is(err, store.ErrNotFound) {
				begun = blank
				return err
			}
		}
		id, err := tx.InsertDraft(ctx, store.Post{SiteID: d.Site.ID, AuthorID: d.Actor,
			CategoryID: d.Site.DefaultCategory, CreatedAt: now})
		if err != nil {
			return fmt.Errorf("beginning a draft: %w", err)
		}
		post, err := tx.LockPost(ctx, d.Site.ID, id)
		if err != nil {
			return err
		}
		if err := put(ctx, d, tx, &post, text, now); err != nil {
			return err
		}
		begun, err = tx.Post(ctx, d.Site.ID, id)
		return err
	})
	return begun, err
}

// linkItem is the kind of posts that are shared, without a page of their own.
const linkItem = "link"

// OfLinkItem lists what a new link item lacks, by field.
func (t Text) OfLinkItem() (wrong []*act.Invalid) {
	if t.Title == nil || strings.TrimSpace(*t.Title) == "" {
		wrong = append(wrong, act.Invalidf("title", "Give it a title, which messages show."))
	}
	if t.Link == nil || !address.IsWeb(*t.Link) {
		wrong = append(wrong, act.Invalidf("link", "Enter a link that begins with https:// or http://."))
	}
	return wrong
}

// AddLinkItem adds a link item of the actor's, which rules may share from now on. It fails with *act.Invalid.
func AddLinkItem(ctx context.Context, d act.Desk, text Text, now time.Time) (store.Post, error) {
	var added store.Post
	if wrong := text.OfLinkItem(); len(wrong) > 0 {
		return added, wrong[0]
	}
	err := d.Change(ctx, func(tx *store.Tx) error {
		fresh := store.NewPost{Author: d.Actor, Title: strings.TrimSpace(*text.Title), Link: *text.Link, State: post.State{}.Link(now)}
		ids, err := tx.InsertPosts(ctx, d.Site.ID, []store.NewPost{fresh}, d.Actor, now)
		if err != nil {
			return fmt.Errorf("adding a link item: %w", err)
		}
		item, err := tx.LockPost(ctx, d.Site.ID, ids[0])
		if err != nil {
			return err
		}
		if err := put(ctx, d, tx, &item, text, now); err != nil {
			return err
		}
		added, err = tx.Post(ctx, d.Site.ID, item.ID)
		return err
	})
	return added, err
}

func orNil(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	return &t
}
