package blog

import (
	"context"
	"errors"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"

	"dapper.example/internal/core/address"
	"dapper.example/internal/core/message"
	"dapper.example/internal/store"
)

type hostKey struct{}

// hosted is a site and the host of its own by which it is asked for.
type hosted struct {
	site store.Site
	host string
}

// OwnHosts answers requests to the hosts that are blogs' own with these blogs, and passes others on. Nothing but the
// blog is reached there: no editor's screen and no other blog. follow follows
// short links; around goes around all of it.
func (b *Blog) OwnHosts(follow http.HandlerFunc, around ...func(http.Handler) http.Handler) func(http.Handler) http.Handler {
	own := chi.NewRouter()
	own.Use(around...)
	own.Use(b.policed)
	own.Get("/blog/blog.css", b.serveCSS)
	own.Get("/blog/fonts/{name}", b.serveFont)
	own.Get("/blog/*", b.leave)
	own.Get(message.ShortPath+"{code}", follow)
	b.pagesOf(own, atOwnHost)
	ours := address.HostOf(strings.TrimPrefix(strings.TrimPrefix(b.Public, "https://"), "http://"))
	return func(next http.Handler) http.Handler {
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			host := address.HostOf(r.Host)
			if !strings.Contains(host, ".") || host == ours || b.Store == nil {
				next.ServeHTTP(w, r)
				return
			}
			site, err := b.Store.SiteByHost(r.Context(), host)
			if errors.Is(err, store.ErrNotFound) || store.IsUnfit(err) {
				next.ServeHTTP(w, r)
				return
			}
			if err != nil {
				b.Log.Error("a blog could not be found by its host", "error", err)
				http.Error(w, "The blog cannot be shown just now. Please try again in a minute.", http.StatusServiceUnavailable)
				return
			}
			own.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), hostKey{}, hosted{site, host})))
		})
	}
}

// atOwnHost finds the site whose own host is asked.
func atOwnHost(r *http.Request) (store.Site, string, error) {
	h, _ := r.Context().Value(hostKey{}).(hosted)
	return h.site, h.host, nil
}

// leave leads from an address below the program's own host, at the blog's: to the same thing of this blog, else to
// the program's host.
func (b *Blog) leave(w http.ResponseWriter, r *http.Request) {
	site, _, _ := atOwnHost(r)
	http.Redirect(w, r, site.Home(b.Public).FullOf(r.URL.RequestURI()), http.StatusMovedPermanently)
}
