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
	"sync"
	"time"

	"github.com/alexedwards/scs/postgresstore"
	"github.com/alexedwards/scs/v2"
	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5"
	"github.com/jonboulle/clockwork"
	"github.com/prometheus/client_golang/prometheus"
	"golang.org/x/time/rate"

	"dapper.example/internal/api/accounts"
	"dapper.example/internal/api/blogs"
	"dapper.example/internal/api/channels"
	"dapper.example/internal/api/comments"
	"dapper.example/internal/api/destinations"
	"dapper.example/internal/api/forecasts"
	"dapper.example/internal/api/imports"
	"dapper.example/internal/api/logbook"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/api/plan"
	"dapper.example/internal/api/posts"
	"dapper.example/internal/api/results"
	"dapper.example/internal/api/rhythms"
	"dapper.example/internal/api/rules"
	"dapper.example/internal/api/tours"
	"dapper.example/internal/blog"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/message"
	"dapper.example/internal/enact"
	"dapper.example/internal/gate"
	"dapper.example/internal/people"
	"dapper.example/internal/reach"
	"dapper.example/internal/secrets"
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
	// MetricsToken is what reads /metrics, as a bearer token; without one only programs on
	// this machine may.
	MetricsToken string
	Version      string
	Queue        enact.Sharer      // of what leaves the house
	Mail         people.Mailer     // of letters to people
	Public       string            // where readers and editors reach the program, such as https://blog.example
	Box          *secrets.Box      // seals the tokens of channels
	Networks     channel.Addresses // where networks are
	Inside       reach.Allowed     // hosts of the own network that addresses entered by people may lead to
	Folders      string            // below which the folders lie that posts are written to; "": there are none
	// Patience is how long a request may take; 30 seconds where it is 0.
	Patience time.Duration
	// Proxied says that a proxy of ours stands in front, whose word on where a request
	// comes from (X-Forwarded-For) and which it is (X-Request-Id) is taken.
	Proxied bool
}

// Server answers HTTP requests; see Handler.
type Server struct {
	*operation.Tools
	config   Config
	failures *rate.Limiter
	gate     *gate.Gate
	closing  <-chan struct{}
	// sweep ends the clean-up of ended sessions.
	sweep *postgresstore.PostgresStore
	// writable remembers for a while whether the database takes writing.
	writable remembered
}

// remembered is the answer to a question that is not to be asked too often.
type remembered struct {
	mu    sync.Mutex
	asked time.Time
	err   error
}

// rememberFor is for how long an answer is good.
const rememberFor = 10 * time.Second

func (r *remembered) ask(ctx context.Context, now time.Time, question func(context.Context) error) error {
	r.mu.Lock()
	defer r.mu.Unlock()
	if since := now.Sub(r.asked); r.asked.IsZero() || r.err != nil || since < 0 || since >= rememberFor {
		r.asked, r.err = now, question(ctx)
	}
	return r.err
}

// New returns a server. Its event streams end when the context does, so that a
// graceful shutdown need not wait for them.
func New(closing context.Context, config Config) *Server {
	s := &Server{config: config, closing: closing.Done(), failures: newFailureLimit(),
		gate: gate.New(gate.Config{Clock: config.Clock, Log: config.Log, Public: config.Public, Proxied: config.Proxied,
			Patience: config.Patience, Streams: []string{eventsPath, followPath, blogs.CopyPath, blogs.DocumentPath, blogs.PostsTablePath, blogs.PlanTablePath}, Metrics: config.Metrics,
			MetricsToken: config.MetricsToken})}
	s.Tools = &operation.Tools{Store: config.Store, Clock: config.Clock, Log: config.Log, Queue: config.Queue,
		Mail:   config.Mail,
		Public: config.Public, Renderer: blog.NewRenderer(), Secure: s.gate.IsSecure(), Box: config.Box,
		Networks: config.Networks, Inside: config.Inside, Folders: config.Folders}
	if config.Store == nil {
		s.Sessions = scs.New() // only the OpenAPI document is wanted
		return s
	}
	s.sweep = postgresstore.New(config.Store.DB().DB)
	s.Sessions = accounts.NewSessions(s.sweep, s.Secure)
	context.AfterFunc(closing, s.sweep.StopCleanup)
	return s
}

// Collectors are the metrics of the requests this server answers, for a registry.
func (s *Server) Collectors() []prometheus.Collector { return s.gate.Collectors() }

// Handler returns all of it: API, screens, blog, and the probes /healthz and
// /readyz.
func (s *Server) Handler() http.Handler {
	r := chi.NewRouter()
	r.Use(s.gate.Identify, s.gate.LogRequests, s.gate.Recover, s.gate.Headers, s.gate.Sane)
	r.Use((&door{s: s}).Guard)
	readers := blog.New(blog.Config{Store: s.Store, Renderer: s.Renderer, Now: s.Clock.Now, Log: s.Log, Public: s.Public, Asker: s.Mail,
		From: func(r *http.Request) string { return gate.AddressOf(r.Context()) }})
	r.Use(readers.OwnHosts(s.followShortLink, gate.Compressed(), s.gate.Timely))
	r.Get("/healthz", func(w http.ResponseWriter, _ *http.Request) { w.Write([]byte("ok\n")) })
	r.Get("/readyz", s.ready)
	if s.config.Metrics != nil {
		r.Get("/metrics", s.gate.ServeMetrics)
	}
	r.Group(func(r chi.Router) {
		r.Use(gate.Compressed())
		r.With(s.gate.Timely).Route("/blog", readers.Routes)
		r.Group(func(r chi.Router) {
			r.Use(http.NewCrossOriginProtection().Handler, s.Sessions.LoadAndSave, operation.Tell, s.gate.Timely)
			s.Operations(r)
		})
		rules.ConditionSchema(r)
		blogs.DocumentSchema(r)
		r.Get(calendarPath+"{file}", s.serveCalendar)
		r.Get(message.ShortPath+"{code}", s.followShortLink)
		s.screens(r)
	})
	return r
}

// Operations adds the operations under /api/v1 to a router and returns their
// description.
func (s *Server) Operations(r chi.Router) huma.API {
	api := humachi.New(r, s.form())
	api.UseMiddleware(s.Admit(api))
	accounts.Register(api, s.Tools)
	plan.Register(api, s.Tools)
	posts.Register(api, s.Tools)
	rhythms.Register(api, s.Tools)
	logbook.Register(api, s.Tools)
	rules.Register(api, s.Tools)
	channels.Register(api, s.Tools)
	forecasts.Register(api, s.Tools)
	blogs.Register(api, s.Tools)
	comments.Register(api, s.Tools)
	imports.Register(api, s.Tools)
	destinations.Register(api, s.Tools)
	tours.Register(api, s.Tools)
	results.Register(api, s.Tools)
	s.guideOperations(api)
	s.lensOperations(api)
	s.calendarOperations(api)
	s.digestOperations(api)
	s.failureOperations(api)
	s.eventOperations(api)
	operation.RequireAccess(api)
	return api
}

// form is how all operations read and write.
func (s *Server) form() huma.Config {
	config := huma.DefaultConfig("Dapper Almanac", s.config.Version)
	config.Formats = map[string]huma.Format{"application/json": gate.JSON, "json": gate.JSON}
	config.OpenAPIPath = "/api/openapi"
	config.DocsPath = ""
	config.SchemasPath = ""
	config.CreateHooks = nil // no $schema links in answers
	config.Components.SecuritySchemes = map[string]*huma.SecurityScheme{
		"session": {Type: "apiKey", In: "cookie", Name: accounts.SessionCookie, Description: "made by signing in"},
		"token":   {Type: "http", Scheme: "bearer", Description: "made in the settings of a site, for that site"},
	}
	return config
}

func (s *Server) ready(w http.ResponseWriter, r *http.Request) {
	ctx, cancel := context.WithTimeout(r.Context(), 2*time.Second)
	defer cancel()
	if err := s.Store.Current(ctx); err != nil {
		s.Log.Warn("not ready", "error", err)
		http.Error(w, "not ready: the database does not answer or is of another version", http.StatusServiceUnavailable)
		return
	}
	if err := s.writable.ask(ctx, s.Clock.Now(), s.Store.Writable); err != nil {
		s.Log.Warn("not ready", "error", err)
		http.Error(w, "not ready: the database takes no writing; its disk may be full", http.StatusServiceUnavailable)
		return
	}
	w.Write([]byte("ready\n"))
}
