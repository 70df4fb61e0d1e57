// Package blog is the public blog that ships with the program: what readers see.
//
// It shows published posts and pages, and archived ones with their notice; a draft, a
// scheduled post and a post that never was are the same 404 to a reader. It needs no
// script and changes nothing.
//
// Every answer carries an ETag of its content, and feeds and sitemaps the moment at which anything of the
// site's posts last changed, so that caches and feed readers ask again and are told
// "not modified" until the plan brings something new.
package blog

import (
	"bytes"
	"crypto/sha256"
	"embed"
	"encoding/base64"
	"errors"
	"html/template"
	"io/fs"
	"log/slog"
	"net/http"
	"strings"
	"time"

	"github.com/go-chi/chi/v5"

	"dapper.example/internal/core/address"
	"dapper.example/internal/letters"
	"dapper.example/internal/store"
)

//go:embed pages/*.html
var pages embed.FS

//go:embed blog.css
var css []byte

//go:embed fonts/*.woff2
var fonts embed.FS

// Config is what a blog works with.
type Config struct {
	Store    *store.Store
	Renderer *Renderer
	Now      func() time.Time
	Log      *slog.Logger
	Public   string // where readers reach it, such as https://blog.example
	// From is the address of the network that a request comes from.
	From func(*http.Request) string
	// Asker queues mails in which people confirm that they want mails.
	Asker letters.Asker
}

// Blog serves the blogs of all sites of a store.
type Blog struct {
	Config
	list, post, months, missing, letters, gone *template.Template
}

// New returns the blog of a store.
func New(config Config) *Blog {
	page := func(name string) *template.Template {
		return template.Must(template.ParseFS(pages, "pages/layout.html", "pages/"+name))
	}
	return &Blog{config, page("list.html"), page("post.html"), page("months.html"), page("missing.html"), page("letters.html"),
		template.Must(template.ParseFS(pages, "pages/gone.html"))}
}

// policy lets the blog's pages show pictures and use the blog's own style, and run
// nothing (Content Security Policy, level 3).
const policy = "default-src 'none'; img-src 'self' https: http: data:; style-src 'self'; font-src 'self'; form-action 'self'; " +
	"base-uri 'none'; frame-ancestors 'none'"

// Routes adds the blogs of all sites to a router, each under its slug.
func (b *Blog) Routes(r chi.Router) {
	r.Use(b.policed)
	r.Get("/blog.css", b.serveCSS)
	r.Get("/fonts/{name}", b.serveFont)
	r.Route("/{site}", func(r chi.Router) { b.pagesOf(r, b.named) })
}

func (b *Blog) policed(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Content-Security-Policy", policy)
		next.ServeHTTP(w, r)
	})
}

// pagesOf adds the pages of a site; where finds the one that is asked for.
func (b *Blog) pagesOf(r chi.Router, where finder) {
	always := func(path string, serve func(visit) error) { r.Get(path, b.at(where, serve)) }
	get := func(path string, serve func(visit) error) { always(path, whilePagesAreOn(serve)) }
	r.Get("/", b.at(where, b.orLead(b.serveFront, b.leadHome)))
	get("/search", b.serveSearch)
	get("/category/{slug}", b.serveCategory)
	get("/tag/{slug}", b.serveTag)
	get("/author/{slug}", b.serveAuthor)
	get("/archive", b.serveMonths)
	get(latest, b.serveLatest)
	get("/archive/{month}", b.serveMonth)
	get("/feed.{form}", b.serveFeed)
	get("/category/{slug}/feed.{form}", b.serveFeed)
	get("/sitemap.xml", b.serveSitemap)
	always("/look.css", b.serveLook)
	always("/pictures/{name}", b.servePicture)
	always("/preview/{secret}", b.servePreview)
	get("/comments.atom", b.serveComments)
	get("/{slug}/comments.atom", b.serveComments)
	r.With(http.NewCrossOriginProtection().Handler).Post("/{slug}/comments", b.at(where, whilePagesAreOn(b.receiveComment)))
	always("/"+letters.Path, b.serveLetters)
	r.With(http.NewCrossOriginProtection().Handler).Post("/"+letters.Path, b.at(where, b.receiveAsking))
	always("/"+letters.Path+"/{token}", b.serveLetter)
	r.Post("/"+letters.Path+"/{token}", b.at(where, b.receiveLetter))
	r.Get("/{slug}", b.at(where, b.orLead(b.servePost, b.leadToCopy)))
	r.NotFound(b.at(where, b.serveMissing))
}

// visit is a reader's asking for something of a site.
type visit struct {
	*Blog
	w    http.ResponseWriter
	r    *http.Request
	site store.Site
	here address.Home // where the reader is: the links of pages stay there
	home address.Home // where the blog is found
}

// finder finds the site that is asked for, and the host of its own on which it is; "" where it is
// on the program's.
type finder func(r *http.Request) (site store.Site, host string, err error)

// named finds the site of the name in the address.
func (b *Blog) named(r *http.Request) (store.Site, string, error) {
	site, err := b.Store.SiteBySlug(r.Context(), chi.URLParam(r, "site"))
	return site, "", err
}

// at finds the site, or answers 404 itself.
func (b *Blog) at(find finder, serve func(visit) error) http.HandlerFunc {
	return func(w http.ResponseWriter, r *http.Request) {
		site, host, err := find(r)
		if errors.Is(err, store.ErrNotFound) {
			b.leadOn(w, r)
			return
		}
		v := visit{b, w, r, site, address.HomeOf(b.Public, site.Slug, host), site.Home(b.Public)}
		if err == nil && site.ArchivedAt != nil {
			err = v.serveGone()
		} else if err == nil {
			err = serve(v)
		}
		if to, moved := errors.AsType[elsewhere](err); moved {
			http.Redirect(w, r, string(to), http.StatusMovedPermanently)
			return
		}
		if errors.Is(err, store.ErrNotFound) || store.IsUnfit(err) {
			err = b.serveMissing(v)
		}
		if err != nil {
			if r.Context().Err() == nil {
				b.Log.Error("the blog could not be shown", "route", chi.RouteContext(r.Context()).RoutePattern(),
					"site", site.Slug, "error", err)
			}
			http.Error(w, "The blog cannot be shown just now. Please try again in a minute.",
				http.StatusInternalServerError)
		}
	}
}

// leadOn leads from a name that a blog had in addresses to the one that it has.
func (b *Blog) leadOn(w http.ResponseWriter, r *http.Request) {
	old := chi.URLParam(r, "site")
	site, err := b.Store.SiteByOldSlug(r.Context(), old)
	if err != nil {
		http.Error(w, "There is no blog at this address.", http.StatusNotFound)
		return
	}
	to := *r.URL
	to.Path, to.RawPath = strings.Replace(to.Path, "/"+old+"/", "/"+site.Slug+"/", 1), ""
	http.Redirect(w, r, to.RequestURI(), http.StatusMovedPermanently)
}

// elsewhere is the path of what has another address by now.
type elsewhere string

// Error names the path.
func (e elsewhere) Error() string { return "it is at " + string(e) }

// serveGone tells readers of an archived site that it is gone (RFC 9110, section 15.5.11).
func (v visit) serveGone() error {
	h := v.w.Header()
	h.Set("Content-Type", "text/html; charset=utf-8")
	h.Set("Cache-Control", "no-cache")
	v.w.WriteHeader(http.StatusGone)
	return v.gone.Execute(v.w, v.site)
}

// param is a part of the address.
func (v visit) param(name string) string { return chi.URLParam(v.r, name) }

// address is the full address of something of the site.
func (v visit) address(path string) string { return v.home.Full(path) }

// path is the address of something of the site on the host where the reader is.
func (v visit) path(path string) string { return v.here.Path(path) }

// sendPosts is send for what shows nothing but posts: it tells, too, when these last changed.
func (v visit) sendPosts(kind string, content []byte) error {
	changed, err := v.Store.LastChange(v.r.Context(), v.site.ID)
	if err != nil {
		return err
	}
	return v.send(kind, content, changed)
}

// send answers with a content, or that the reader has it already (RFC 9110, section
// 13). The name of the content is a hash of it. changed is when it last changed, zero where only its name tells.
func (v visit) send(kind string, content []byte, changed time.Time) error {
	h := v.w.Header()
	h.Set("Content-Type", kind)
	h.Set("Cache-Control", "public, max-age=0, must-revalidate")
	h.Set("ETag", etag(content))
	http.ServeContent(v.w, v.r, "", changed, bytes.NewReader(content))
	return nil
}

// etag names a content. It is weak, for the answer may be compressed on its way.
func etag(content []byte) string {
	sum := sha256.Sum256(content)
	return `W/"` + base64.RawURLEncoding.EncodeToString(sum[:12]) + `"`
}

// fixed serves what is the same until the program is another.
func fixed(w http.ResponseWriter, r *http.Request, kind string, content []byte) {
	w.Header().Set("Content-Type", kind)
	w.Header().Set("Cache-Control", "public, max-age=3600")
	w.Header().Set("ETag", etag(content))
	http.ServeContent(w, r, "", time.Time{}, bytes.NewReader(content))
}

func (b *Blog) serveCSS(w http.ResponseWriter, r *http.Request) {
	fixed(w, r, "text/css; charset=utf-8", css)
}

func (b *Blog) serveFont(w http.ResponseWriter, r *http.Request) {
	font, err := fs.ReadFile(fonts, "fonts/"+chi.URLParam(r, "name"))
	if err != nil || !strings.HasSuffix(chi.URLParam(r, "name"), ".woff2") {
		http.NotFound(w, r)
		return
	}
	fixed(w, r, "font/woff2", font)
}
