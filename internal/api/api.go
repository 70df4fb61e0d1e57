// Package api is the program over HTTP: the operations under /api/v1 with their
// OpenAPI document, sessions, server-sent events, the editor's screens and the blog.
//
// It translates and checks; it decides nothing about the plan. Every operation on a
// site first asks whether the signed-in person is of that site, and answers 404
// where not.
package api

import (
	"context"
	"io/fs"
	"log/slog"
	"net/http"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/jonboulle/clockwork"

	"dapper.example/internal/blog"
	"dapper.example/internal/rulebook"
	"dapper.example/internal/store"
)

// Config is what the server works with.
type Config struct {
	Store   *store.Store
	Changes *store.Changes
	Clock   clockwork.Clock
	Log     *slog.Logger
	Web     fs.FS        // the built screens
	Metrics http.Handler // at /metrics; none where nil
	Version string
	Queue   rulebook.Sharer // of what leaves the house
	Public  string          // where readers reach the blog, such as https://blog.example
}

// Server answers HTTP requests; see Handler.
type Server struct {
	Config
	sessions *scs.SessionManager
	renderer *blog.Renderer
	closing  context.Context
	// sweep ends the clean-up of ended sessions.
	sweep *postgresstore.PostgresStore
}

// New returns a server. Its event streams end when the context does, so that a
// graceful shutdown need not wait for them.
func New(closing context.Context, config Config) *Server {
	s := &Server{Config: config, renderer: blog.NewRenderer(), closing: closing}
	if config.Store != nil {
		s.sweep = postgresstore.New(config.Store.DB().DB)
		s.sessions = newSessions(s.sweep)
		context.AfterFunc(closing, s.sweep.StopCleanup)
	} else {
		s.sessions = scs.New() // only the OpenAPI document is wanted
	}
	return s
}

const sessionLifetime = 30 * 24 * time.Hour

func newSessions(kept scs.Store) *scs.SessionManager {
	m := scs.New()
	m.Store = kept
	m.Lifetime = sessionLifetime
	m.Cookie.Name = "dapper_session"
	m.Cookie.HttpOnly = true
	m.Cookie.SameSite = http.SameSiteLaxMode
	return m
}

// Handler returns all of it: API, screens, blog, and the probes /healthz and
// /readyz.
func (s *Server) Handler() http.Handler {
	r := chi.NewRouter()
	r.Use(middleware.RequestID, s.logRequests, s.recover, headers)
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { w.Write([]byte("ok\n")) })
	r.Get("/readyz", s.ready)
	if s.Metrics != nil {
		r.Handle("/metrics", s.Metrics)
	}
	r.Group(func(r chi.Router) {
		r.Use(middleware.Compress(5, "text/html", "text/css", "text/javascript", "application/json", "application/atom+xml", "image/svg+xml"))
		r.Route("/blog", blog.New(s.Store, s.renderer, s.Log).Routes)
		r.Group(func(r chi.Router) {
			r.Use(http.NewCrossOriginProtection().Handler, s.sessions.LoadAndSave)
			s.Operations(r)
		})
		conditionSchema(r)
		r.Get(rulebook.ShortPath+"{code}", s.followShortLink)
		s.screens(r)
	})
	return r
}

// Operations adds the operations under /api/v1 to a router and returns their
// description.
func (s *Server) Operations(r chi.Router) huma.API {
	config := huma.DefaultConfig("Dapper Almanac", s.Version)
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = ""
	config.CreateHooks = nil // no $schema links in answers
	api := humachi.New(r, config)
	s.sessionOperations(api)
	s.almanacOperations(api)
	s.postOperations(api)
	s.rhythmOperations(api)
	s.logbookOperations(api)
	s.settingsOperations(api)
	s.ruleOperations(api)
	s.channelOperations(api)
	s.forecastOperations(api)
	s.eventOperations(api)
	return api
}

func (s *Server) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
	defer cancel()
	if err := s.Store.Current(ctx); err != nil {
		s.Log.Warn("not ready", "error", err)
		http.Error(w, "not ready: the database does not answer or is of another version", http.StatusServiceUnavailable)
		return
	}
	w.Write([]byte("ready\n"))
}

// headers are for every answer: no guessing of types, no framing by others, no
// scripts but our own.
func headers(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		h := w.Header()
		h.Set("X-Content-Type-Options", "nosniff")
		h.Set("Referrer-Policy", "same-origin")
		h.Set("Content-Security-Policy",
			"default-src 'self'; img-src 'self' data: https:; style-src 'self' 'unsafe-inline'; object-src 'none'; base-uri 'none'; frame-ancestors 'none'")
		next.ServeHTTP(w, r)
	})
}

func (s *Server) logRequests(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		began := s.Clock.Now()
		seen := middleware.NewWrapResponseWriter(w, r.ProtoMajor)
		next.ServeHTTP(seen, r)
		level := slog.LevelDebug
		if seen.Status() >= http.StatusInternalServerError {
			level = slog.LevelError
		}
		s.Log.Log(r.Context(), level, "request", "id", middleware.GetReqID(r.Context()),
			"method", r.Method, "path", r.URL.Path, "status", seen.Status(), "took", s.Clock.Since(began))
	})
}

// recover turns a panic into an answer and a log line, so that the process lives on.
func (s *Server) recover(next http.Handler) http.Handler {
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		defer func() {
			if p := recover(); p != nil {
				if p == http.ErrAbortHandler {
					panic(p)
				}
				s.Log.Error("a request failed unexpectedly", "path", r.URL.Path, "panic", p)
				http.Error(w, "Something went wrong on our side. Nothing was changed.", http.StatusInternalServerError)
			}
		}()
		next.ServeHTTP(w, r)
	})
}
