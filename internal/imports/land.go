package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/blog"
	"dapper.example/internal/budget"
	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/intake"
	"dapper.example/internal/core/letters"
	"dapper.example/internal/core/post"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/picture"
	"dapper.example/internal/store"
)

// landed is a line that is landing.
type landed struct {
	store.ImportLine
	made made
}

// lander lands the lines of an import.
type lander struct {
	*Runner
	i          store.Import
	setup      Setup
	site       store.Site
	members    []store.Member
	categories []store.Category
	src        *source           // articles: from the start; other sources: once a picture is wanted
	pictures   map[string]string // addresses of pictures of the source, by their paths
	refused    map[string]string // why pictures of the source could not be made, by their paths
	written    *written          // of a blog that was written out
}

// land has the lines of an import become posts, some at a time, from where it was.
func (r *Runner) land(ctx context.Context, i store.Import) (err error) {
	l := &lander{Runner: r, i: i, pictures: make(map[string]string), refused: make(map[string]string)}
	if l.setup, err = SetupOf(i); err != nil {
		return err
	}
	defer func() {
		if l.src != nil {
			l.src.close()
		}
	}()
	if i.Kind == KindArticles {
		if l.src, err = open(ctx, r.Store.Queries, i.ID); err != nil {
			return err
		}
		if l.written, err = l.src.writtenOut(ctx); err != nil {
			return err
		}
	}
	var last store.ImportLine
	for {
		began := r.Clock.Now()
		lines, err := l.next(ctx, last)
		if err != nil {
			return fmt.Errorf("reading lines: %w", err)
		}
		if len(lines) == 0 {
			return r.portion(ctx, &l.i, began, func(tx *store.Tx, now *store.Import) error {
				now.State = store.ImportDone
				now.Version++
				return r.end(ctx, tx, now)
			})
		}
		if err := l.some(ctx, lines, began); err != nil {
			return err
		}
		last = lines[len(lines)-1]
		if l.i.State != store.ImportLanding {
			return nil
		}
		if l.i.NextAt == nil {
			continue
		}
		if rest, err := r.Store.LinesToLand(ctx, i.ID, last, 1); err != nil || len(rest) > 0 {
			return err // it rests until the next portion
		}
	}
}

// fetched is how many lines are fetched at a time.
const fetched = 20

// next are the lines that land together next, after one: so many, and so much text, as may be in memory at once.
func (l *lander) next(ctx context.Context, last store.ImportLine) (lines []store.ImportLine, err error) {
	for held, most := 0, l.most(); len(lines) < most && held < bytesTogether; {
		some, err := l.Store.LinesToLand(ctx, l.i.ID, last, min(fetched, most-len(lines)))
		if err != nil || len(some) == 0 {
			return lines, err
		}
		for _, one := range some {
			held += len(one.Post)
		}
		lines, last = append(lines, some...), some[len(some)-1]
	}
	return lines, nil
}

// most is how many lines land together now.
func (l *lander) most() int {
	switch portion := l.setup.Landing.Portion; {
	case portion == 0:
		return landTogether
	case l.i.Portion > 0: // it was stopped in the middle of one
		return min(l.i.Portion, landTogether)
	default:
		return min(portion, landTogether)
	}
}

// count counts lines off the present portion; once it is over, it says when the next one comes. An import whose portions come by hand
// rests until then.
func (l *lander) count(now *store.Import, n int) {
	portion := l.setup.Landing.Portion
	if portion == 0 {
		return
	}
	if now.Portion == 0 {
		now.Portion, now.NextAt = portion, nil
	}
	if now.Portion = max(now.Portion-n, 0); now.Portion == 0 {
		if now.NextAt = l.setup.Landing.next(*now, l.site.Zone(), l.Clock.Now()); now.NextAt == nil {
			far := l.Clock.Now().AddDate(100, 0, 0)
			now.NextAt = &far
		}
	}
}

// some lands some lines. Where they do not land together, it is tried one by one, and one that cannot be saved is left out.
func (l *lander) some(ctx context.Context, lines []store.ImportLine, began time.Time) error {
	all := make([]landed, len(lines))
	for n, line := range lines {
		all[n].ImportLine = line
		if err := json.Unmarshal(line.Post, &all[n].made); err != nil {
			return fmt.Errorf("reading line %d: %w", line.Nr, err)
		}
		if err := l.bringPictures(ctx, &all[n]); err != nil {
			return err
		}
	}
	err := l.together(ctx, all, began)
	if err == nil || !store.IsUnfit(err) && !store.IsDuplicate(err) {
		return err
	}
	for n := range all {
		one := all[n : n+1]
		if err = l.together(ctx, one, l.Clock.Now()); err == nil {
			continue
		}
		if !store.IsUnfit(err) && !store.IsDuplicate(err) {
			return err
		}
		l.Log.Warn("a line could not be brought in", "import", l.i.ID, "line", one[0].Nr, "error", err)
		if err := l.portion(ctx, &l.i, l.Clock.Now(), func(tx *store.Tx, _ *store.Import) error {
			one[0].State, one[0].Reason = store.LineLeft, "It holds something that can't be saved."
			return tx.SettleLines(ctx, []store.ImportLine{one[0].ImportLine})
		}); err != nil {
			return err
		}
	}
	return nil
}

// together lands lines in one transaction. The lines given stay as they are: where it fails, nothing became of them.
func (l *lander) together(ctx context.Context, ready []landed, began time.Time) error {
	return l.portion(ctx, &l.i, began, func(tx *store.Tx, i *store.Import) error {
		all := slices.Clone(ready)
		for n := range all {
			all[n].Notes = slices.Clone(all[n].Notes)
		}
		if err := tx.LockSite(ctx, l.i.SiteID); err != nil {
			return err
		}
		if err := l.know(ctx, tx); err != nil {
			return err
		}
		if err := l.placeNow(ctx, tx, all); err != nil {
			return err
		}
		l.count(i, len(all))
		if err := l.addCategories(ctx, tx, all); err != nil {
			return err
		}
		now := l.Clock.Now()
		if err := l.insert(ctx, tx, all, now); err != nil {
			return err
		}
		if err := l.update(ctx, tx, all, now); err != nil {
			return err
		}
		lines := make([]store.ImportLine, len(all))
		var became []store.ImportPost
		for n, one := range all {
			if lines[n] = one.ImportLine; one.PostID != nil && (one.State == store.LineLanded || one.State == store.LineUpdated) {
				became = append(became, store.ImportPost{SiteID: l.i.SiteID, Source: l.i.Source, Key: one.Key, Post: *one.PostID, Digest: one.made.Digest, Place: one.Place})
			}
		}
		if err := tx.NoteImported(ctx, became); err != nil {
			return fmt.Errorf("noting what lines became: %w", err)
		}
		if err := tx.SettleLines(ctx, lines); err != nil {
			return fmt.Errorf("noting what became of lines: %w", err)
		}
		return tx.Ask(ctx, l.i.SiteID, time.Unix(0, 0).UTC()) // rules keep the gap from the plan
	})
}

// placeNow gives the lines of a portion the next free times.
func (l *lander) placeNow(ctx context.Context, tx *store.Tx, all []landed) error {
	if l.setup.Landing.Portion == 0 || l.setup.Landing.As != AsPlaced {
		return nil
	}
	var ready []store.ReadyLine
	for _, one := range all {
		if p := one.made.Post; one.State == store.LineReady {
			ready = append(ready, store.ReadyLine{Nr: one.Nr, Title: p.Title, Category: p.Category, Author: p.Author, Page: p.Page, Draft: p.Status == string(store.Draft)})
		}
	}
	times, untimed, err := placed(ctx, tx.Queries, l.site, l.i, l.setup.Landing, ready, l.Clock.Now())
	if err != nil {
		return err
	}
	for n := range all {
		all[n].Reason = untimed[all[n].Nr]
		for _, t := range times {
			if t.Nr == all[n].Nr {
				if err := t.give(&all[n].ImportLine); err != nil {
					return err
				}
			}
		}
	}
	return nil
}

// know reads what the blog has now.
func (l *lander) know(ctx context.Context, tx *store.Tx) (err error) {
	if l.site, err = tx.Queries.Site(ctx, l.i.SiteID); err != nil {
		return err
	}
	if l.members, err = tx.Queries.MembersNamed(ctx, l.i.SiteID); err != nil {
		return err
	}
	l.categories, err = tx.Queries.Categories(ctx, l.i.SiteID)
	return err
}

func (l *lander) category(name string) *int64 {
	for _, c := range l.categories {
		if letters.Equal(c.Name, name) {
			return &c.ID
		}
	}
	return nil
}

// addCategories adds those that lines have and the blog has not, where the recipe says so.
func (l *lander) addCategories(ctx context.Context, tx *store.Tx, all []landed) error {
	if !l.setup.Recipe.NewCategories {
		return nil
	}
	for _, c := range l.written.missing(l.categories) {
		id, err := tx.Queries.InsertCategory(ctx, l.i.SiteID, c.Slug, c.Name, len(l.categories))
		if c.ID = id; err == nil && c.Description != "" {
			err = tx.SaveCategory(ctx, l.i.SiteID, c)
		}
		if err != nil {
			return fmt.Errorf("adding the category %q: %w", c.Name, err)
		}
		l.categories = append(l.categories, c)
	}
	for _, one := range all {
		name := strings.Join(strings.Fields(one.made.Post.Category), " ")
		if name == "" || l.category(name) != nil {
			continue
		}
		slug := freeCategorySlug(l.categories, name)
		id, err := tx.Queries.InsertCategory(ctx, l.i.SiteID, slug, name, len(l.categories))
		if err != nil {
			return fmt.Errorf("adding the category %q: %w", name, err)
		}
		l.categories = append(l.categories, store.Category{ID: id, Slug: slug, Name: name})
	}
	return nil
}

// author is who a post is by: the person that the line names, else who brings it in.
func (l *lander) author(name string) int64 {
	if m, known := memberNamed(l.members, name); known && name != "" {
		return m.ID
	}
	return l.i.User
}

// insert adds the posts of lines that have none.
func (l *lander) insert(ctx context.Context, tx *store.Tx, all []landed, now time.Time) error {
	var which []int
	var posts []store.NewPost
	_, high, err := tx.Queries.ShelfEnds(ctx, l.i.SiteID)
	if err != nil {
		return err
	}
	for n := range all {
		one := &all[n]
		if one.State != store.LineReady {
			continue
		}
		p := one.made.Post
		state, note := l.state(*one, now)
		if note != "" {
			one.Notes = append(one.Notes, note)
		}
		if state.Cleared {
			high++
			rank := high // each its own
			state.Rank = &rank
		}
		fresh := store.NewPost{Author: l.author(p.Author), Category: l.category(p.Category), Title: p.Title, Body: l.pictured(p, p.Body), Excerpt: p.Excerpt, Fields: p.Fields,
			Slug: address.Slug(p.Slug), Page: p.Page, Link: linkOf(p), OnTop: p.Care.OnTop, CommentsOpen: p.CommentsOpen == nil || *p.CommentsOpen, Featured: l.pictured(p, p.Picture), FeaturedAlt: p.Alt,
			Evergreen: p.Care.Evergreen, NeverExpires: p.Care.NeverExpires, Expires: p.Care.Expires, Import: l.i.Source, State: state}
		if fresh.NeverExpires {
			fresh.Expires = nil
		}
		fresh.Tags, fresh.TagSlugs = tagsOf(p.Tags)
		which, posts = append(which, n), append(posts, fresh)
	}
	if len(posts) == 0 {
		return nil
	}
	if err := l.freeSlugs(ctx, tx, posts); err != nil {
		return err
	}
	if err := l.freeSlots(ctx, tx, posts); err != nil {
		return err
	}
	ids, err := tx.InsertPosts(ctx, l.i.SiteID, posts, l.i.User, now)
	if err != nil {
		return fmt.Errorf("adding posts: %w", err)
	}
	for k, n := range which {
		if wish := address.Slug(all[n].made.Post.Slug); wish != "" && posts[k].Slug != wish {
			all[n].Notes = append(all[n].Notes, fmt.Sprintf("The address %s was taken; it has %s.", wish, posts[k].Slug))
		}
		for _, old := range all[n].made.Post.Care.OldSlugs {
			if err := tx.KeepOldSlug(ctx, l.i.SiteID, ids[k], address.Slug(old)); err != nil {
				return err
			}
		}
		all[n].State, all[n].PostID = store.LineLanded, &ids[k]
	}
	return nil
}

func tagsOf(names []string) (kept, slugs []string) {
	for _, name := range names {
		if slug := address.Slug(name); slug != "" && !slices.Contains(slugs, slug) {
			kept, slugs = append(kept, name), append(slugs, slug)
		}
	}
	return kept, slugs
}

// setTags gives a post tags by their names; kept are those that can be tags, each once.
func setTags(ctx context.Context, tx *store.Tx, p store.Post, names []string) (kept []string, err error) {
	kept, slugs := tagsOf(names)
	tags := make([]store.Tag, len(kept))
	for n := range kept {
		tags[n] = store.Tag{Slug: slugs[n], Name: kept[n]}
	}
	return kept, tx.Queries.SetTags(ctx, p.SiteID, p.ID, tags)
}

// pictured is a text with the addresses of its pictures. One that could not be made keeps its path.
func (l *lander) pictured(p intake.Post, text string) string {
	return p.WithPictures(text, func(file string) string {
		if at, ok := l.pictures[file]; ok {
			return at
		}
		if text == p.Picture {
			return "" // there is none
		}
		return strings.NewReplacer(" ", "%20", "(", "%28", ")", "%29").Replace(file)
	})
}

// state is where a new post stands, with a word on it where that is not what was asked for.
func (l *lander) state(one landed, now time.Time) (s post.State, note string) {
	p := one.made.Post
	s = post.State{Status: store.Draft, Page: p.Page}
	if p.Care.NotBefore != nil || p.Care.Deadline != nil {
		s = s.Bound(orZero(p.Care.NotBefore), orZero(p.Care.Deadline))
	}
	if p.Linked {
		at := p.At
		if at.IsZero() || at.After(now) {
			at = now
		}
		return s.Link(at), ""
	}
	as := l.setup.Landing.As
	if as == AsShelf || as == AsPlaced {
		switch {
		case p.Page:
			return s, "Pages don't queue; it is a draft."
		case p.Status == string(store.Draft):
			return s, "It says that it is a draft, so it stays one."
		}
	}
	switch as {
	case AsShelf:
		return s.Clear(0), ""
	case AsPlaced:
		switch {
		case one.At == nil:
			return s.Clear(0), "It found no time, so it is on the shelf. " + one.Reason
		case one.At.After(now):
			return s.Schedule(*one.At, slotOf(one.ImportLine)), ""
		}
		return s.Publish(*one.At), ""
	case AsDated:
		return dated(s, p, now), ""
	}
	return s, ""
}

// linkOf is where a link item leads; "" of what is none.
func linkOf(p intake.Post) string {
	if p.Linked {
		return p.Link
	}
	return ""
}

// dated is where a post stands by what its source says.
func dated(s post.State, p intake.Post, now time.Time) post.State {
	switch {
	case p.Status == string(store.Draft) || p.At.IsZero():
		if p.Care.Shelved && !p.Page {
			return s.Clear(0)
		}
		return s
	case p.At.After(now):
		return s.Pin(p.At)
	}
	s = s.Publish(p.At)
	if first := p.Care.FirstPublished; first != nil && first.Before(p.At) {
		s.FirstPublishedAt = *first
	}
	if p.Status == string(store.Archived) {
		at := now
		if p.Care.Archived != nil {
			at = *p.Care.Archived
		}
		s = s.Archive(at, p.Care.Notice)
		if p.Care.Gone {
			s = s.Answering(post.Gone, 0)
		}
		return s
	}
	return s.Notify(p.Care.Notice)
}

func orZero(t *time.Time) time.Time {
	if t == nil {
		return time.Time{}
	}
	return *t
}

func slotOf(line store.ImportLine) rhythm.SlotID {
	if line.Rhythm == nil || line.Date == nil || line.Opening == nil || line.Ordinal == nil {
		return rhythm.SlotID{}
	}
	return rhythm.SlotID{Rhythm: *line.Rhythm, Date: civil.NewDate(line.Date.Year(), line.Date.Month(), line.Date.Day()), Opening: *line.Opening, Ordinal: *line.Ordinal}
}

// freeSlugs gives posts addresses: the wished one, or one made from the title where readers see the post; with a number behind it
// where it is taken.
func (l *lander) freeSlugs(ctx context.Context, tx *store.Tx, posts []store.NewPost) error {
	given := make(map[string]bool)
	left := make(map[int]int) // posts without an address yet, and which number they try
	for n, p := range posts {
		if p.Slug == "" && (p.State.Status == store.Draft || p.State.Status == store.Linked) {
			continue
		}
		if p.Slug == "" {
			if posts[n].Slug = address.Slug(p.Title); posts[n].Slug == "" {
				posts[n].Slug = "post"
			}
		}
		left[n] = 1
	}
	for len(left) > 0 {
		try := make(map[int]string, len(left))
		var asked []string
		for n, number := range left {
			try[n] = posts[n].Slug
			if number > 1 {
				try[n] += "-" + strconv.Itoa(number)
			}
			asked = append(asked, try[n])
		}
		taken, err := tx.Queries.PostsWithSlugs(ctx, l.i.SiteID, asked)
		if err != nil {
			return err
		}
		for n := range posts { // in the order of the lines
			slug, tries := try[n]
			if !tries {
				continue
			}
			if _, there := taken[slug]; there || given[slug] || slices.Contains(act.OwnPages, slug) {
				left[n]++
				continue
			}
			given[slug], posts[n].Slug = true, slug
			delete(left, n)
		}
	}
	return nil
}

// freeSlots puts posts on the shelf whose slots somebody took since they were given.
func (l *lander) freeSlots(ctx context.Context, tx *store.Tx, posts []store.NewPost) error {
	for n, p := range posts {
		if p.State.Slot == (rhythm.SlotID{}) {
			continue
		}
		taken, err := tx.Queries.SlotTaken(ctx, p.State.Slot)
		if err != nil {
			return err
		}
		if taken {
			_, high, err := tx.Queries.ShelfEnds(ctx, l.i.SiteID)
			if err != nil {
				return err
			}
			posts[n].State = p.State.Shelve(high + 1 + int64(n))
		}
	}
	return nil
}

// update changes the posts of lines that became posts before, and which nobody has changed since.
func (l *lander) update(ctx context.Context, tx *store.Tx, all []landed, now time.Time) error {
	for n := range all {
		one := &all[n]
		if one.State != store.LineUpdate {
			continue
		}
		if one.PostID == nil {
			return fmt.Errorf("line %d changes no post", one.Nr)
		}
		p, err := tx.LockPost(ctx, l.i.SiteID, *one.PostID)
		if errors.Is(err, store.ErrNotFound) {
			one.State, one.Reason, one.PostID = store.LineLeft, "Its post was deleted meanwhile.", nil
			continue
		}
		if err != nil {
			return err
		}
		unchanged, err := tx.Queries.UnchangedSince(ctx, l.i.SiteID, l.i.Source, []int64{p.ID})
		if err != nil {
			return err
		}
		if !unchanged[p.ID] {
			one.State, one.Reason = store.LineClash, "Its post was changed meanwhile. It stays as it is."
			continue
		}
		known, err := tx.Queries.Imported(ctx, l.i.SiteID, l.i.Source, []string{one.Key})
		if err != nil {
			return err
		}
		before := partsOf(p)
		from := one.made.Post
		p.Title, p.Body, p.Excerpt, p.Fields = from.Title, l.pictured(from, from.Body), from.Excerpt, from.Fields
		if c := l.category(from.Category); c != nil || from.Category == "" {
			p.CategoryID = c
		}
		if link := linkOf(from); p.Kind == "link" && link != "" {
			p.Link = link
		}
		if image := l.pictured(from, from.Picture); image != "" {
			p.FeaturedImage, p.FeaturedAlt = image, from.Alt
		}
		if from.Author != "" {
			p.AuthorID = l.author(from.Author)
		}
		if p.Tags, err = setTags(ctx, tx, p, from.Tags); err != nil {
			return err
		}
		if one.Former, err = json.Marshal(former{Text: p.TextID, Digest: known[one.Key].Digest, Before: before, After: partsOf(p)}); err != nil {
			return err
		}
		if err := tx.SaveVersion(ctx, p, &l.i.User, now); err != nil {
			return fmt.Errorf("changing post %d: %w", p.ID, err)
		}
		one.State, one.Reason = store.LineUpdated, ""
	}
	return nil
}

// makingWait is how long a picture waits for its turn.
const makingWait = time.Minute

// bringPictures puts the pictures that a line shows into the library, each once for the import.
func (l *lander) bringPictures(ctx context.Context, one *landed) error {
	var missing []string
	for _, file := range one.made.Post.Pictures {
		if l.pictures[file] == "" && l.refused[file] == "" && !slices.Contains(missing, file) {
			missing = append(missing, file)
		}
	}
	if len(missing) > 0 {
		if err := l.knowPictures(ctx, missing); err != nil {
			return err
		}
	}
	for _, file := range missing {
		if l.pictures[file] != "" {
			continue
		}
		if err := l.bringPicture(ctx, file, one.made.Post); err != nil {
			return err
		}
	}
	for _, file := range one.made.Post.Pictures {
		if why := l.refused[file]; why != "" {
			one.Notes = append(one.Notes, fmt.Sprintf("The picture “%s” was left out: %s", clip(file), why))
		}
	}
	return nil
}

// knowPictures finds those that have been brought already.
func (l *lander) knowPictures(ctx context.Context, files []string) error {
	known, err := l.Store.ImportPictures(ctx, l.i.ID, files)
	if err != nil || len(known) == 0 {
		return err
	}
	ids := make([]int64, 0, len(known))
	for _, id := range known {
		ids = append(ids, id)
	}
	pictures, err := l.Store.PicturesByID(ctx, l.i.SiteID, ids)
	if err != nil {
		return err
	}
	site, err := l.Store.Site(ctx, l.i.SiteID)
	if err != nil {
		return err
	}
	for file, id := range known {
		if p, there := pictures[id]; there {
			l.pictures[file] = addressOf(site, p)
		}
	}
	return nil
}

func addressOf(site store.Site, p store.Picture) string {
	return blog.PicturePath(site.Slug, picture.Name{Key: p.Key, Width: p.Width, Height: p.Height, Type: p.Type}.String())
}

func (l *lander) bringPicture(ctx context.Context, file string, p intake.Post) (err error) {
	if l.src == nil {
		if l.src, err = open(ctx, l.Store.Queries, l.i.ID); err != nil {
			return err
		}
	}
	data, err := l.src.tree.Picture(ctx, file)
	if u, ok := errors.AsType[*Unreadable](readable(err)); ok {
		l.refused[file] = u.Why
		return nil
	}
	if err != nil {
		return err
	}
	release, err := budget.Take(ctx, picture.Megabytes(data), makingWait)
	if err != nil {
		return err
	}
	defer release()
	fresh, err := picture.MakeWithin(ctx, data)
	if refused, ok := errors.AsType[*picture.Refused](err); ok {
		l.refused[file] = refused.Why
		return nil
	}
	if err != nil {
		return err
	}
	site, err := l.Store.Site(ctx, l.i.SiteID)
	if err != nil {
		return err
	}
	named, alt := nameOf(file), altOf(p, file)
	if l.written != nil {
		if said, there := l.written.pictures[file]; there && said.Name != "" {
			named, alt = nameOf(said.Name), said.Alt
		}
	}
	kept := store.Picture{SiteID: l.i.SiteID, Name: named, Alt: alt, Type: fresh.Type, Width: fresh.Width, Height: fresh.Height, User: &l.i.User, CreatedAt: l.Clock.Now()}
	if err := l.Store.InTx(ctx, func(tx *store.Tx) error {
		if err := blog.KeepPictureIn(ctx, tx, blog.NewPictureKey(), &kept, fresh); err != nil {
			return err
		}
		return tx.NotePicture(ctx, l.i.ID, file, kept.ID)
	}); err != nil {
		return fmt.Errorf("keeping the picture %q: %w", file, err)
	}
	l.pictures[file] = addressOf(site, kept)
	return nil
}

func nameOf(file string) string {
	name := file[strings.LastIndexByte(file, '/')+1:]
	if r := []rune(name); len(r) > 200 {
		name = string(r[:200])
	}
	return name
}

// altOf is what a post says that a picture of its source shows.
func altOf(p intake.Post, file string) string {
	n := slices.Index(p.Pictures, file)
	if n < 0 {
		return ""
	}
	mark := intake.PictureMark(n)
	if p.Picture == mark && p.Alt != "" {
		return p.Alt
	}
	before, _, found := strings.Cut(p.Body, "]("+mark)
	if open := strings.LastIndex(before, "!["); found && open >= 0 {
		alt := before[open+2:]
		if r := []rune(alt); len(r) <= 300 && !strings.Contains(alt, "\n") {
			return alt
		}
	}
	return ""
}
