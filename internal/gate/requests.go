package gate

import (
	"context"
	"log/slog"
	"net"
	"net/http"
	"strings"

	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
)

// screensPolicy lets the screens run the program's own scripts and nothing else
// (Content Security Policy, level 3). Styles may be inline: the editor of texts makes
// them as it runs.
const screensPolicy = "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob: https:; " +
	"object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"

// Headers are for every answer: no guessing of types, no framing by others, no scripts
// but our own. The blog and its pictures say stricter ones themselves.
func (g *Gate) Headers(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("X-Frame-Options", "DENY")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Cross-Origin-Opener-Policy", "same-origin")
		h.Set("Content-Security-Policy", screensPolicy)
		if g.IsSecure() {
			h.Set("Strict-Transport-Security", "max-age=31536000") // a year (RFC 6797)
		}
		if strings.HasPrefix(r.URL.Path, "/api/") {
			h.Set("Cache-Control", "no-store")
		}
		next.ServeHTTP(w, r)
	})
}

type addressKey struct{}

// AddressOf is the address of the network that a request came from.
func AddressOf(ctx context.Context) string {
	address, _ := ctx.Value(addressKey{}).(string)
	return address
}

// Identify gives every request a name for the log, which the answer carries too, and
// finds out where it came from. Only a proxy of ours is believed about either.
func (g *Gate) Identify(next http.Handler) http.Handler {
	named := middleware.RequestID(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set(middleware.RequestIDHeader, middleware.GetReqID(r.Context()))
		next.ServeHTTP(w, r)
	}))
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		address, _, err := net.SplitHostPort(r.RemoteAddr)
		if err != nil {
			address = r.RemoteAddr
		}
		if g.Proxied {
			// The last one is what our proxy has seen; those before it may be made up.
			hops := strings.Split(r.Header.Get("X-Forwarded-For"), ",")
			if last := strings.TrimSpace(hops[len(hops)-1]); net.ParseIP(last) != nil {
				address = last
			}
		} else {
			r.Header.Del(middleware.RequestIDHeader)
		}
		named.ServeHTTP(w, r.WithContext(context.WithValue(r.Context(), addressKey{}, address)))
	})
}

// LogRequests writes a line for each request. It names the route and not the address:
// some addresses hold secrets.
func (g *Gate) LogRequests(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		began := g.Clock.Now()
		seen := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(seen, r)
		route, took := chi.RouteContext(r.Context()), g.Clock.Since(began)
		g.measured(route.RoutePattern(), r.Method, seen.Status(), took.Seconds())
		level := slog.LevelInfo
		switch {
		case seen.Status() >= http.StatusInternalServerError:
			level = slog.LevelError
		case !strings.HasPrefix(route.RoutePattern(), "/api/") && !strings.HasPrefix(route.RoutePattern(), "/blog/"):
			level = slog.LevelDebug // probes and the files of the screens
		}
		g.Log.Log(r.Context(), level, "request", "id", middleware.GetReqID(r.Context()), "method", r.Method,
			"route", route.RoutePattern(), "site", route.URLParam("site"), "status", seen.Status(), "bytes", seen.BytesWritten(),
			"from", AddressOf(r.Context()), "took", took)
	})
}

// Recover turns a panic into an answer and a log line, so that the process lives on.
func (g *Gate) Recover(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if p := recover(); p != nil {
				if p == http.ErrAbortHandler {
					panic(p)
				}
				g.Log.Error("a request failed unexpectedly", "id", middleware.GetReqID(r.Context()),
					"route", chi.RouteContext(r.Context()).RoutePattern(), "panic", p)
				http.Error(w, "Something went wrong on our side. Nothing was changed.", http.StatusInternalServerError)
			}
		}()
		next.ServeHTTP(w, r)
	})
}
