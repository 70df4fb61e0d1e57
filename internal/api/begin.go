package api

import (
	"context"
	"io/fs"
	"net/http"
	"path"
	"strings"
	"sync/atomic"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/gate"
)

// beginMark is how the page of the screens is told that the program is to be set up.
const beginMark = `<html data-begin `

// begun are addresses of the API that are answered before the program has been set up, by how
// they begin.
var begun = []string{"/api/v1/setup", "/api/v1/new-blog", "/api/openapi", "/healthz", "/readyz", "/metrics"}

// door leads everybody to Begin until the program has its first owner.
type door struct {
	s      *Server
	closed atomic.Bool // for good
}

// isOpen tells whether nobody has set the program up yet. Where that cannot be known it is not.
func (d *door) isOpen(ctx context.Context) bool {
	if d.closed.Load() {
		return false
	}
	is, err := d.s.Store.IsSetUp(ctx)
	if err != nil {
		return false
	}
	d.closed.Store(is)
	return !is
}

// Guard answers every address with Begin while the door is open.
func (d *door) Guard(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if d.closed.Load() || d.s.passes(r.URL.Path) || !d.isOpen(r.Context()) {
			next.ServeHTTP(w, r)
			return
		}
		if strings.HasPrefix(r.URL.Path, "/api/") {
			w.Header().Set("Content-Type", "application/problem+json")
			w.WriteHeader(http.StatusServiceUnavailable)
			err := gate.JSON.Marshal(w, huma.Error503ServiceUnavailable("Nobody has set this program up yet. Open its address in a browser, and begin."))
			if err != nil {
				d.s.Log.Debug("an answer was not sent to its end", "error", err)
			}
			return
		}
		d.s.page(w, r, func(page string) string { return strings.Replace(page, "<html ", beginMark, 1) })
	})
}

// passes tells whether an address is answered even before the program has been set up: what
// Begin itself is made of, and what programs ask that watch this one.
func (s *Server) passes(address string) bool {
	for _, one := range begun {
		if address == one || strings.HasPrefix(address, one+"/") || strings.HasPrefix(address, one+".") {
			return true
		}
	}
	if s.config.Web == nil {
		return false
	}
	name := strings.TrimPrefix(path.Clean(address), "/")
	info, err := fs.Stat(s.config.Web, name)
	return err == nil && !info.IsDir() && name != "index.html"
}
