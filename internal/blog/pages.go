package blog

import (
	"bytes"
	"errors"
	"fmt"
	"html/template"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/message"
	corepost "dapper.example/internal/core/post"
	"dapper.example/internal/core/revise"
	"dapper.example/internal/core/words"
	"dapper.example/internal/letters"
	"dapper.example/internal/picture"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// page is what every page shows; what follows Main is set by the page's kind.
type page struct {
	Site      store.Site
	Style     string // address of the style sheet of the look
	Logo      *image // in place of the title
	Icon      string // address of the picture for the browser's tab
	AllPosts  string // address of the latest posts, where the front page is another
	Home      string
	Title     string // of the window
	Canonical string
	Feed      string // path of the feeds that fit, less their endings
	Hidden    bool   // from search engines
	Preview   string // until when its secret link opens; "" for what is public
	Meta      meta
	Menu      []menuItem

	Heading    string // of a list; "" on the front page
	Lead       string
	About      string
	Face       *image // of an author
	Query      string // what was searched for
	Posts      []teaser
	Empty      string // said where there are no posts
	Newer      string // address of the page of newer posts
	Older      string
	Post       *reading
	Discussion *discussion // nil where nothing is said and nothing can be
	Years      []year
	Letters    *lettersPage
	Mails      string // address at which mails are asked for; "" where there are none
}

type link struct {
	Name, Path string
	Here       bool
	N          int
}

// image is a picture with the widths that a browser may choose from.
type image struct {
	Src, Srcset, Alt string
	Width, Height    int // 0: not known
}

func (v visit) imageAt(address, alt string) *image {
	if address == "" {
		return nil
	}
	i := &image{Src: v.here.Of(address), Alt: alt}
	i.Srcset, i.Width, i.Height, _ = picture.Set(address)
	i.Srcset = inSet(i.Srcset, v.here.Of)
	return i
}

type teaser struct {
	Path, Title, Date, Machine, Excerpt string
	Author, Category                    *link
	Image                               *image
	OnTop                               bool
	Comments                            int // that readers see
}

type reading struct {
	teaser
	Page    bool // no date, no author
	Tags    []link
	HTML    template.HTML
	Minutes int
	Notice  string
	About   string // a line about the author
	Face    *image // of the author
	First   string // of a post that came out again: when it first did
	Before  *link  // the post that came out before it
	After   *link
}

type year struct {
	Year   int
	Months []link
}

const (
	maxPage  = 100_000 // beyond it a page number is a mistake
	maxQuery = 200     // bytes of what is searched for
)

// page begins a page at a path below the site's.
func (v visit) page(title, path string) (page, error) {
	p := page{Site: v.site, Home: v.path(""), Title: title, Canonical: v.address(path),
		Feed: v.path("feed"), Style: v.path("look.css?" + styleName(v.site.Appearance))}
	if err := v.dress(&p); err != nil {
		return p, err
	}
	pages, err := v.Store.PublicPages(v.r.Context(), v.site.ID)
	if err != nil {
		return p, err
	}
	topics, err := v.Store.PublicCategories(v.r.Context(), v.site.ID)
	if err != nil {
		return p, err
	}
	p.Menu = v.menu(path, topics, pages)
	if v.frontPage(pages) != nil {
		p.AllPosts = v.path(latest[1:])
	}
	lists, err := v.Store.MailChannels(v.r.Context(), v.site.ID)
	if len(lists) > 0 {
		p.Mails = v.path(letters.Path)
	}
	p.Meta = siteMeta(p)
	return p, err
}

func (v visit) show(status int, t *template.Template, p page) error {
	var out bytes.Buffer
	if err := t.ExecuteTemplate(&out, "layout", p); err != nil {
		return err
	}
	if status == http.StatusOK && p.Preview == "" && p.Letters == nil {
		return v.send("text/html; charset=utf-8", out.Bytes(), time.Time{}) // it shows settings and comments, too
	}
	v.w.Header().Set("Content-Type", "text/html; charset=utf-8")
	v.w.Header().Set("Cache-Control", "no-store")
	v.w.WriteHeader(status)
	_, err := v.w.Write(out.Bytes())
	if err != nil {
		return nil // the reader has gone
	}
	return nil
}

// latest is the address of the latest posts where the front page is another, below the site's.
const latest = "/archive/latest"

// frontPage is the page that the site has chosen for its front page, where it is out; nil where
// that is the latest posts.
func (v visit) frontPage(pages []store.Entry) *store.Entry {
	for i, e := range pages {
		if v.site.FrontPage != nil && e.ID == *v.site.FrontPage {
			return &pages[i]
		}
	}
	return nil
}

func (b *Blog) serveFront(v visit) error {
	if v.site.FrontPage != nil {
		pages, err := v.Store.PublicPages(v.r.Context(), v.site.ID)
		if err != nil {
			return err
		}
		if e := v.frontPage(pages); e != nil {
			return v.servePage(*e)
		}
	}
	p, err := v.page(v.site.Title, "")
	if err != nil {
		return err
	}
	return v.showLatest(p, "")
}

// serveLatest shows the latest posts where the front page is another; else it leads on to it.
func (b *Blog) serveLatest(v visit) error {
	p, err := v.page("All posts · "+v.site.Title, latest[1:])
	if err != nil {
		return err
	}
	if p.AllPosts == "" {
		return elsewhere(v.path(""))
	}
	p.Heading = "All posts"
	return v.showLatest(p, latest[1:])
}

// servePage shows a page as the front page.
func (v visit) servePage(e store.Entry) error {
	post, err := v.Store.PublicPost(v.r.Context(), v.site.ID, e.Slug)
	if err != nil {
		return err
	}
	p, err := v.reading(post, "")
	if err != nil {
		return err
	}
	p.Title = v.site.Title
	return v.show(http.StatusOK, v.post, p)
}

// showLatest shows the latest posts, those on top first, at a path below the site's.
func (v visit) showLatest(p page, path string) error {
	on, off := true, false
	p.Empty = "Nothing has been published here yet."
	if err := v.list(&p, path, store.PublicFilter{OnTop: &off}); err != nil {
		return err
	}
	if p.Newer == "" {
		first, err := v.Store.PublicPosts(v.r.Context(), v.site.ID, store.PublicFilter{OnTop: &on}, 0, v.site.PostsAPage)
		if err != nil {
			return err
		}
		top, err := v.teasers(first)
		if err != nil {
			return err
		}
		p.Posts = slices.Concat(top, p.Posts)
	}
	return v.show(http.StatusOK, v.Blog.list, p)
}

// list fills a page with the posts of a filter. It fails with store.ErrNotFound for a
// page number that there is none of.
func (v visit) list(p *page, path string, f store.PublicFilter) error {
	number := 1
	query := v.r.URL.Query()
	if given := query.Get("page"); given != "" {
		n, err := strconv.Atoi(given)
		if err != nil || n < 1 || n > maxPage {
			return store.ErrNotFound
		}
		number = n
	}
	posts, err := v.Store.PublicPosts(v.r.Context(), v.site.ID, f, (number-1)*v.site.PostsAPage, v.site.PostsAPage+1)
	if err != nil {
		return err
	}
	if len(posts) == 0 && number > 1 {
		return store.ErrNotFound
	}
	turn := func(n int) string {
		values := url.Values{}
		if f.Text != "" {
			values.Set("q", f.Text)
		}
		if n > 1 {
			values.Set("page", strconv.Itoa(n))
		}
		address := v.path(path)
		if len(values) > 0 {
			address += "?" + values.Encode()
		}
		return address
	}
	if number > 1 {
		p.Newer = turn(number - 1)
		p.Canonical += fmt.Sprintf("?page=%d", number)
	}
	if len(posts) > v.site.PostsAPage {
		p.Older, posts = turn(number+1), posts[:v.site.PostsAPage]
	}
	p.Posts, err = v.teasers(posts)
	return err
}

func (v visit) teasers(posts []store.Post) ([]teaser, error) {
	ids := make([]int64, len(posts))
	for i, p := range posts {
		ids[i] = p.ID
	}
	comments, err := v.Store.CommentsShown(v.r.Context(), ids)
	if err != nil {
		return nil, err
	}
	all := make([]teaser, len(posts))
	for i, p := range posts {
		all[i] = v.tease(p)
		all[i].Comments = comments[p.ID]
	}
	return all, nil
}

// Says is how many comments readers see, in words; "" where there are none.
func (t teaser) Says() string {
	if t.Comments == 0 {
		return ""
	}
	return words.Count(t.Comments, "comment")
}

func (v visit) tease(p store.Post) teaser {
	shown := v.site.Zone().In(*p.PublishedAt)
	t := teaser{
		Path: v.path(p.Slug), Title: p.Title, Date: dateOf(v.site, *p.PublishedAt), Machine: shown.Format(time.RFC3339),
		Excerpt: excerptOf(p), Image: v.imageAt(p.FeaturedImage, p.FeaturedAlt), OnTop: p.OnTop,
		Author: &link{Name: p.AuthorName, Path: v.path("author/" + authorSlug(p.AuthorID, p.AuthorName))},
	}
	if p.CategoryName != nil {
		t.Category = &link{Name: *p.CategoryName, Path: v.path("category/" + *p.CategorySlug)}
	}
	return t
}

func excerptOf(p store.Post) string {
	if p.Excerpt != "" {
		return p.Excerpt
	}
	return message.ExcerptOf(p.Body)
}

// authorSlug is how an author stands in addresses: by name, and by number, for two may
// be called the same.
func authorSlug(id int64, name string) string {
	return strings.TrimPrefix(address.Slug(name)+"-"+strconv.FormatInt(id, 10), "-")
}

func (b *Blog) serveCategory(v visit) error {
	topic, err := v.category()
	if err != nil {
		return err
	}
	path := "category/" + topic.Slug
	p, err := v.page(topic.Name+" · "+v.site.Title, path)
	if err != nil {
		return err
	}
	p.About = topic.About
	p.Heading, p.Feed = topic.Name, v.path(path+"/feed")
	if err := v.list(&p, path, store.PublicFilter{Category: topic.ID}); err != nil {
		return err
	}
	return v.show(http.StatusOK, v.Blog.list, p)
}

// category is the one of the address.
func (v visit) category() (store.Topic, error) {
	topics, err := v.Store.PublicCategories(v.r.Context(), v.site.ID)
	if err != nil {
		return store.Topic{}, err
	}
	for _, t := range topics {
		if t.Slug == v.param("slug") {
			return t, nil
		}
	}
	old := v.param("slug")
	now, err := v.Store.CategoryByOldSlug(v.r.Context(), v.site.ID, old)
	if err != nil {
		return store.Topic{}, err
	}
	return store.Topic{}, elsewhere(strings.Replace(v.r.URL.Path, "/category/"+old, "/category/"+now, 1))
}

func (b *Blog) serveTag(v visit) error {
	topic, err := v.Store.PublicTag(v.r.Context(), v.site.ID, v.param("slug"))
	if errors.Is(err, store.ErrNotFound) {
		now, err := v.Store.TagByOldSlug(v.r.Context(), v.site.ID, v.param("slug"))
		if err != nil {
			return err
		}
		return elsewhere(v.path("tag/" + now))
	}
	if err != nil {
		return err
	}
	path := "tag/" + topic.Slug
	p, err := v.page(topic.Name+" · "+v.site.Title, path)
	if err != nil {
		return err
	}
	p.Heading, p.Lead = topic.Name, "Posts with this tag"
	if err := v.list(&p, path, store.PublicFilter{Tag: topic.ID}); err != nil {
		return err
	}
	return v.show(http.StatusOK, v.Blog.list, p)
}

func (b *Blog) serveAuthor(v visit) error {
	authors, err := v.Store.PublicAuthors(v.r.Context(), v.site.ID)
	if err != nil {
		return err
	}
	for _, a := range authors {
		if authorSlug(a.ID, a.Name) != v.param("slug") {
			continue
		}
		path := "author/" + v.param("slug")
		p, err := v.page(a.Name+" · "+v.site.Title, path)
		if err != nil {
			return err
		}
		p.Heading, p.Lead, p.About = a.Name, "Posts by this author", a.About
		if p.Face, err = v.face(a.ID); err != nil {
			return err
		}
		if err := v.list(&p, path, store.PublicFilter{Author: a.ID}); err != nil {
			return err
		}
		return v.show(http.StatusOK, v.Blog.list, p)
	}
	return store.ErrNotFound
}

func (b *Blog) serveMonths(v visit) error {
	p, err := v.page("All months · "+v.site.Title, "archive")
	if err != nil {
		return err
	}
	months, err := v.Store.PublicMonths(v.r.Context(), v.site.ID, v.site.ZoneName)
	if err != nil {
		return err
	}
	for _, m := range months {
		if len(p.Years) == 0 || p.Years[len(p.Years)-1].Year != m.Year {
			p.Years = append(p.Years, year{Year: m.Year})
		}
		last := &p.Years[len(p.Years)-1]
		last.Months = append(last.Months, link{Name: monthOf(v.site, time.Month(m.Month)),
			Path: v.path(fmt.Sprintf("archive/%04d-%02d", m.Year, m.Month)), N: m.N})
	}
	return v.show(http.StatusOK, v.months, p)
}

func (b *Blog) serveMonth(v visit) error {
	first, err := civil.ParseDate(v.param("month") + "-01")
	if err != nil {
		return store.ErrNotFound
	}
	path := "archive/" + v.param("month")
	day := v.site.Zone().In(v.site.Zone().At(first, 12*60))
	name := monthIn(v.site, day.Year(), day.Month())
	p, err := v.page(name+" · "+v.site.Title, path)
	if err != nil {
		return err
	}
	p.Heading = name
	err = v.list(&p, path, store.PublicFilter{From: v.site.Zone().At(first, 0),
		To: v.site.Zone().At(first.AddMonths(1), 0)})
	if err != nil {
		return err
	}
	if len(p.Posts) == 0 {
		return store.ErrNotFound
	}
	return v.show(http.StatusOK, v.Blog.list, p)
}

func (b *Blog) serveSearch(v visit) error {
	query := strings.ToValidUTF8(strings.ReplaceAll(strings.TrimSpace(v.r.URL.Query().Get("q")), "\x00", ""), "")
	if len(query) > maxQuery {
		query = strings.ToValidUTF8(query[:maxQuery], "")
	}
	p, err := v.page("Search · "+v.site.Title, "search")
	if err != nil {
		return err
	}
	p.Hidden, p.Query, p.Heading = true, query, "Search"
	if query != "" {
		p.Heading, p.Empty = fmt.Sprintf("Found for “%s”", query), "Nothing found. Try fewer or different words."
		if err := v.list(&p, "search", store.PublicFilter{Text: query}); err != nil {
			return err
		}
	}
	return v.show(http.StatusOK, v.Blog.list, p)
}

func (b *Blog) servePost(v visit) error {
	slug := v.param("slug")
	post, err := v.Store.PublicPost(v.r.Context(), v.site.ID, slug)
	if errors.Is(err, store.ErrNotFound) {
		return v.leadOn(slug)
	}
	if err != nil {
		return err
	}
	if post.Status == store.Archived {
		if answered, err := v.answer(post); answered || err != nil {
			return err
		}
	}
	if v.site.FrontPage != nil && post.ID == *v.site.FrontPage && post.Status == store.Published {
		return elsewhere(v.path(""))
	}
	p, err := v.reading(post, post.Slug)
	if err != nil {
		return err
	}
	p.Post.Notice = post.Notice
	if post.Status == store.Archived {
		p.Hidden = true
	} else if post.Kind == "post" {
		older, newer, err := v.Store.Neighbours(v.r.Context(), post)
		if err != nil {
			return err
		}
		p.Post.Before, p.Post.After = v.linkTo(older), v.linkTo(newer)
	}
	if err := v.discuss(&p, post, commentForm{}); err != nil {
		return err
	}
	return v.show(http.StatusOK, v.post, p)
}

func (v visit) linkTo(e *store.Entry) *link {
	if e == nil {
		return nil
	}
	return &link{Name: e.Title, Path: v.path(e.Slug)}
}

// reading is a page that shows a post at a path below the site's.
func (v visit) reading(post store.Post, path string) (page, error) {
	p, err := v.page(post.Title+" · "+v.site.Title, path)
	if err != nil {
		return p, err
	}
	laid, err := v.Renderer.Of(v.r.Context(), v.Store.Queries, post.ID, post.Body)
	if err != nil {
		return p, err
	}
	p.Post = &reading{teaser: v.tease(post), Page: post.Kind == "page", HTML: template.HTML(Rewritten(string(laid.HTML), v.here.Of)), //nolint:gosec // it was made safe before it was kept
		Minutes: Minutes(post.Words),
		About:   post.AuthorAbout}
	for _, tag := range post.Tags {
		p.Post.Tags = append(p.Post.Tags, link{Name: tag, Path: v.path("tag/" + address.Slug(tag))})
	}
	comments, err := v.Store.CommentsShown(v.r.Context(), []int64{post.ID})
	if err != nil {
		return p, err
	}
	p.Post.Comments = comments[post.ID]
	if !p.Post.Page {
		if p.Post.Face, err = v.face(post.AuthorID); err != nil {
			return p, err
		}
	}
	if first := post.FirstPublishedAt; first != nil && v.site.FirstDateShown && first.Before(*post.PublishedAt) {
		p.Post.First = dateOf(v.site, *first)
	}
	p.Meta = postMeta(p, v.home, post)
	return p, nil
}

// face is the picture that shows a person; nil where there is none. Its text is empty: the name stands beside it.
func (v visit) face(author int64) (*image, error) {
	p, err := v.Store.Portrait(v.r.Context(), v.site.ID, author)
	if errors.Is(err, store.ErrNotFound) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	return v.imageOf(p, ""), nil
}

// imageOf is a picture of the site.
func (v visit) imageOf(p store.Picture, alt string) *image {
	name := picture.Name{Key: p.Key, Width: p.Width, Height: p.Height, Type: p.Type}
	return v.imageAt(PicturePath(v.site.Slug, name.String()), alt)
}

// leadOn sends a reader who has an old address of a post on to its present one.
func (v visit) leadOn(slug string) error {
	e, err := v.Store.SlugHolder(v.r.Context(), v.site.ID, slug)
	if err != nil {
		return err
	}
	if e.Slug == slug || e.Status != store.Published && e.Status != store.Archived {
		return store.ErrNotFound
	}
	v.w.Header().Set("Cache-Control", "no-cache") // the address may be given to another post again
	http.Redirect(v.w, v.r, v.path(e.Slug), http.StatusMovedPermanently)
	return nil
}

// answer answers readers of an archived post in another way than by its page, and tells whether it did: they are sent on to
// the post that is there in its place, where that is out, or told that it is gone.
func (v visit) answer(p store.Post) (bool, error) {
	v.w.Header().Set("Cache-Control", "no-cache") // it may come back
	switch answer, leadsTo := p.Answers(); answer {
	case corepost.Gone:
		gone, err := v.page("No longer here · "+v.site.Title, "")
		if err != nil {
			return true, err
		}
		gone.Hidden, gone.Meta, gone.Canonical, gone.Heading = true, meta{}, "", "No longer here"
		return true, v.show(http.StatusGone, v.missing, gone)
	case corepost.Elsewhere:
		to, err := v.Store.Post(v.r.Context(), v.site.ID, leadsTo)
		if err != nil || to.Status != store.Published {
			return false, err
		}
		http.Redirect(v.w, v.r, v.path(to.Slug), http.StatusMovedPermanently)
		return true, nil
	}
	return false, nil
}

// PreviewPath is the secret address at which a post is seen before it is out.
func PreviewPath(siteSlug, secret string) string { return address.Path(siteSlug, "preview/"+secret) }

// servePreview shows a post as it will be, to whoever has the link.
func (b *Blog) servePreview(v visit) error {
	post, link, err := v.Store.Previewed(v.r.Context(), v.site.ID, secrets.Hash(v.param("secret")), v.Now())
	if err != nil {
		return err
	}
	if link.Edit != nil {
		if post, err = v.edited(post, *link.Edit); err != nil {
			return err
		}
	}
	if post.PublishedAt == nil {
		at := v.Now()
		if post.DueAt != nil {
			at = *post.DueAt
		}
		post.PublishedAt = &at
	}
	if post.Title == "" {
		post.Title = "No title yet"
	}
	p, err := v.reading(post, post.Slug)
	if err != nil {
		return err
	}
	p.Hidden, p.Meta, p.Canonical = true, meta{}, ""
	until := link.ExpiresAt
	p.Preview = dateOf(v.site, until) + v.site.Zone().In(until).Format(", 15:04")
	v.w.Header().Set("Referrer-Policy", "no-referrer")
	return v.show(http.StatusOK, v.post, p)
}

// edited is a post as a timed edit will leave it: where they clash, with the edit's word.
func (v visit) edited(post store.Post, id int64) (store.Post, error) {
	e, err := v.Store.TimedEdit(v.r.Context(), v.site.ID, id)
	if err != nil {
		return post, err
	}
	if e.State == store.EditWaiting || e.State == store.EditHeld {
		wanted := e.Says(v.site.Zone())
		_, clashes := revise.Merge(e.Base.Text, wanted, post.Says())
		merged, _ := revise.Settle(e.Base.Text, wanted, post.Says(), slices.Repeat([]revise.Choice{revise.Ours}, len(clashes)))
		post.Say(merged)
	}
	return post, nil
}

func (b *Blog) serveMissing(v visit) error {
	p, err := v.page("Not here · "+v.site.Title, "")
	if err != nil {
		return err
	}
	p.Hidden, p.Meta, p.Canonical = true, meta{}, ""
	return v.show(http.StatusNotFound, v.missing, p)
}
