// Package blog is the public blog that ships with the program: what readers see.
//
// It shows published posts and nothing else; a draft, a scheduled post and a post
// that never was are the same 404 to a reader. It needs no script and changes
// nothing.
package blog

import (
	"bytes"
	"embed"
	"encoding/xml"
	"errors"
	"fmt"
	"html/template"
	"log/slog"
	"net/http"
	"strconv"
	"time"

	"github.com/go-chi/chi/v5"
	"github.com/gorilla/feeds"

	"dapper.example/internal/store"
)

//go:embed pages/*.html
var pages embed.FS

//go:embed blog.css
var css []byte

// Blog serves the blogs of all sites of a store.
type Blog struct {
	store    *store.Store
	renderer *Renderer
	log      *slog.Logger
	front    *template.Template
	post     *template.Template
	missing  *template.Template
}

// New returns the blog of a store.
func New(s *store.Store, renderer *Renderer, log *slog.Logger) *Blog {
	page := func(name string) *template.Template {
		return template.Must(template.ParseFS(pages, "pages/layout.html", "pages/"+name))
	}
	return &Blog{s, renderer, log, page("front.html"), page("post.html"), page("missing.html")}
}

// Routes adds the blog's pages to a router: for each site the front page, one page
// a post, and an Atom feed.
func (b *Blog) Routes(r chi.Router) {
	r.Get("/blog.css", b.serveCSS)
	r.Route("/{site}", func(r chi.Router) {
		r.Get("/", b.serveFront)
		r.Get("/feed.atom", b.serveFeed)
		r.Get("/sitemap.xml", b.serveSitemap)
		r.Get("/{slug}", b.servePost)
		r.NotFound(b.serveMissing)
	})
}

// page is what every page shows; posts or post are set by the page's kind.
type page struct {
	Site      store.Site
	Title     string
	Posts     []teaser
	Post      *reading
	Newer     int // page number, 0 for none
	Older     int
	Canonical string
	Feed      string
	Hidden    bool // from search engines
}

type teaser struct {
	Path, Title, Date, Machine, Author, Category string
}

type reading struct {
	teaser
	Tags   []string
	HTML   template.HTML
	Notice string // of an archived post
	First  string // of a post that came out again: when it first did
}

// dayLayout is how readers see a date.
const dayLayout = "2 January 2006"

const (
	postsAPage = 20
	feedLength = 20
	maxPage    = 100_000 // beyond it a page number is a mistake
)

func (b *Blog) serveCSS(w http.ResponseWriter, _ *http.Request) {
	w.Header().Set("Content-Type", "text/css; charset=utf-8")
	w.Header().Set("Cache-Control", "max-age=300")
	w.Write(css)
}

func (b *Blog) serveFront(w http.ResponseWriter, r *http.Request) {
	site, ok := b.site(w, r)
	if !ok {
		return
	}
	number := 1
	if given := r.URL.Query().Get("page"); given != "" {
		n, err := strconv.Atoi(given)
		if err != nil || n < 1 || n > maxPage {
			b.serveMissing(w, r)
			return
		}
		number = n
	}
	posts, err := b.store.PublishedPosts(r.Context(), site.ID, (number-1)*postsAPage, postsAPage+1)
	if err != nil {
		b.fail(w, r, err)
		return
	}
	if len(posts) == 0 && number > 1 {
		b.serveMissing(w, r)
		return
	}
	p := b.page(r, site, site.Title)
	p.Newer = number - 1
	if len(posts) > postsAPage {
		p.Older, posts = number+1, posts[:postsAPage]
	}
	for _, post := range posts {
		p.Posts = append(p.Posts, tease(site, post))
	}
	b.write(w, r, http.StatusOK, b.front, p)
}

func (b *Blog) servePost(w http.ResponseWriter, r *http.Request) {
	site, ok := b.site(w, r)
	if !ok {
		return
	}
	post, err := b.store.PublicPost(r.Context(), site.ID, chi.URLParam(r, "slug"))
	if errors.Is(err, store.ErrNotFound) {
		b.serveMissing(w, r)
		return
	}
	if err != nil {
		b.fail(w, r, err)
		return
	}
	p := b.page(r, site, post.Title+" · "+site.Title)
	p.Post = &reading{teaser: tease(site, post), Tags: post.Tags, HTML: b.renderer.HTML(post.Body)}
	if post.Status == store.Archived {
		p.Post.Notice, p.Hidden = post.Notice, true
	}
	if first := post.FirstPublishedAt; first != nil && site.FirstDateShown && first.Before(*post.PublishedAt) {
		p.Post.First = site.Zone().In(*first).Format(dayLayout)
	}
	p.Canonical = origin(r) + p.Post.Path
	b.write(w, r, http.StatusOK, b.post, p)
}

// serveFeed writes the latest posts as Atom (RFC 4287).
func (b *Blog) serveFeed(w http.ResponseWriter, r *http.Request) {
	site, ok := b.site(w, r)
	if !ok {
		return
	}
	posts, err := b.store.PublishedPosts(r.Context(), site.ID, 0, feedLength)
	if err != nil {
		b.fail(w, r, err)
		return
	}
	home := origin(r) + Path(site.Slug, "")
	feed := &feeds.Feed{
		Title: site.Title, Subtitle: site.Tagline, Link: &feeds.Link{Href: home}, Id: home,
		Updated: site.CreatedAt, Author: &feeds.Author{Name: site.Title},
	}
	for i, post := range posts {
		address := origin(r) + Path(site.Slug, post.Slug)
		feed.Items = append(feed.Items, &feeds.Item{
			Id: address, Title: post.Title, Link: &feeds.Link{Href: address},
			Author: &feeds.Author{Name: post.AuthorName}, Created: *post.PublishedAt, Updated: post.UpdatedAt,
			Content: string(b.renderer.HTML(post.Body)),
		})
		if i == 0 || post.UpdatedAt.After(feed.Updated) {
			feed.Updated = post.UpdatedAt
		}
	}
	text, err := feed.ToAtom()
	if err != nil {
		b.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/atom+xml; charset=utf-8")
	w.Write([]byte(text))
}

// sitemapLength is the most addresses that one sitemap may hold by its protocol.
const sitemapLength = 50_000

// address is one entry of a sitemap.
type address struct {
	Loc     string `xml:"loc"`
	LastMod string `xml:"lastmod"`
}

// serveSitemap lists the published posts for search engines (the protocol of
// sitemaps.org, version 0.9).
func (b *Blog) serveSitemap(w http.ResponseWriter, r *http.Request) {
	site, ok := b.site(w, r)
	if !ok {
		return
	}
	posts, err := b.store.Addresses(r.Context(), site.ID, sitemapLength)
	if err != nil {
		b.fail(w, r, err)
		return
	}
	list := struct {
		XMLName xml.Name  `xml:"http://www.sitemaps.org/schemas/sitemap/0.9 urlset"`
		URLs    []address `xml:"url"`
	}{}
	for _, p := range posts {
		list.URLs = append(list.URLs, address{origin(r) + Path(site.Slug, p.Slug), p.UpdatedAt.UTC().Format(time.RFC3339)})
	}
	text, err := xml.Marshal(list)
	if err != nil {
		b.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "application/xml; charset=utf-8")
	w.Write([]byte(xml.Header))
	w.Write(text)
}

func (b *Blog) serveMissing(w http.ResponseWriter, r *http.Request) {
	site, ok := b.site(w, r)
	if !ok {
		return
	}
	b.write(w, r, http.StatusNotFound, b.missing, b.page(r, site, "Not here · "+site.Title))
}

// site finds the site of the address, or answers 404 itself.
func (b *Blog) site(w http.ResponseWriter, r *http.Request) (store.Site, bool) {
	site, err := b.store.SiteBySlug(r.Context(), chi.URLParam(r, "site"))
	switch {
	case errors.Is(err, store.ErrNotFound):
		http.Error(w, "There is no blog at this address.", http.StatusNotFound)
	case err != nil:
		b.fail(w, r, err)
	}
	return site, err == nil
}

func (b *Blog) page(r *http.Request, site store.Site, title string) page {
	return page{Site: site, Title: title, Canonical: origin(r) + Path(site.Slug, ""), Feed: Path(site.Slug, "feed.atom")}
}

func (b *Blog) write(w http.ResponseWriter, r *http.Request, status int, t *template.Template, p page) {
	var out bytes.Buffer
	if err := t.ExecuteTemplate(&out, "layout", p); err != nil {
		b.fail(w, r, err)
		return
	}
	w.Header().Set("Content-Type", "text/html; charset=utf-8")
	w.Header().Set("Cache-Control", "no-cache")
	w.WriteHeader(status)
	w.Write(out.Bytes())
}

func (b *Blog) fail(w http.ResponseWriter, r *http.Request, err error) {
	if r.Context().Err() == nil {
		b.log.Error("the blog could not be shown", "path", r.URL.Path, "error", err)
	}
	http.Error(w, "The blog cannot be shown just now. Please try again in a minute.", http.StatusInternalServerError)
}

// Path is the address of a post on the blog of a site, or of its front page with an
// empty slug.
func Path(siteSlug, slug string) string { return fmt.Sprintf("/blog/%s/%s", siteSlug, slug) }

func origin(r *http.Request) string {
	scheme := "http"
	if r.TLS != nil {
		scheme = "https"
	}
	return scheme + "://" + r.Host
}

func tease(site store.Site, p store.Post) teaser {
	shown := site.Zone().In(*p.PublishedAt)
	t := teaser{
		Path: Path(site.Slug, p.Slug), Title: p.Title, Author: p.AuthorName,
		Date: shown.Format(dayLayout), Machine: shown.Format(time.RFC3339),
	}
	if p.CategoryName != nil {
		t.Category = *p.CategoryName
	}
	return t
}
