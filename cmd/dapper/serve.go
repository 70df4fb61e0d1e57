package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"strings"
	"syscall"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"golang.org/x/sync/errgroup"

	"dapper.example/internal/api"
	"dapper.example/internal/channel"
	"dapper.example/internal/deliver"
	"dapper.example/internal/digests"
	"dapper.example/internal/engine"
	"dapper.example/internal/founding"
	"dapper.example/internal/reach"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
	"dapper.example/web"
)

type serveCmd struct {
	database
	Host         string `help:"Address to serve on." default:"127.0.0.1" env:"HOST"`
	Port         int    `help:"Port to serve on." default:"8080" env:"PORT"`
	Engine       bool   `help:"Run the engine too." default:"true" negatable:"" env:"DAPPER_ENGINE"`
	MetricsToken string `help:"Bearer token that reads /metrics; without one only programs on this machine may." env:"DAPPER_METRICS_TOKEN"`
	Proxied      bool   `help:"A proxy of yours stands in front: believe its X-Forwarded-For and X-Request-Id." env:"DAPPER_PROXIED"`
	public
	mailing
	outside
}

// outside are the flags of commands that talk to networks.
type outside struct {
	Networks     string `help:"Where networks are, each at its name below this address." default:"http://127.0.0.1:8081" env:"DAPPER_NETWORKS" placeholder:"URL"`
	ReachInside  string `help:"Hosts of this machine's own network that addresses entered by people may lead to, as host or host:port, parted by commas; none unless said." env:"DAPPER_REACH_INSIDE" placeholder:"HOSTS"`
	Folders      string `help:"Folder below which each blog may have one of its own, into which its posts are written as Markdown; no blog may where it is not said. With several machines that work, it is one that all of them share." env:"DAPPER_FOLDERS" placeholder:"DIR"`
	TokenKeys    string `help:"Keys that seal the tokens of channels, 32 bytes each in base64, parted by commas: the first seals, the others open what was sealed before." env:"DAPPER_TOKEN_KEYS" placeholder:"KEYS"`
	TokenKeyFile string `help:"File with those keys, where they are not said; it is made with a new one where it is missing." default:".local/token-key" env:"DAPPER_TOKEN_KEY_FILE" placeholder:"FILE"`
}

func (o outside) allowed() reach.Allowed { return reach.ParseAllowed(o.ReachInside) }

// means are what a worker works with.
func (o outside) means(s *store.Store, clock clockwork.Clock, post deliver.PostOffice, box *secrets.Box, log *slog.Logger) deliver.Means {
	return deliver.Means{Store: s, Clock: clock, Post: post, Box: box, Allowed: o.allowed(), Folders: o.Folders, Log: log,
		Digest: digests.Writer{Store: s, Public: post.Public}.Write}
}

// box seals and opens the tokens of channels.
func (o outside) box() (*secrets.Box, error) {
	if o.TokenKeys != "" {
		return secrets.NewBox(o.TokenKeys)
	}
	return secrets.BoxFromFile(o.TokenKeyFile)
}

// public is the flag of commands that write links to the blog.
type public struct {
	PublicURL string `help:"Where readers reach the blog, for links in messages; http://127.0.0.1:8080 where it is not said." env:"DAPPER_PUBLIC_URL" placeholder:"URL"`
}

// mailing are the flags of commands that send mail.
type mailing struct {
	SMTP         string `help:"Server that takes mail, as host:port." default:"127.0.0.1:25" env:"DAPPER_SMTP"`
	SMTPUser     string `help:"Who signs in there; none where it is not said." env:"DAPPER_SMTP_USER"`
	SMTPPassword string `help:"With which password." env:"DAPPER_SMTP_PASSWORD"`
	MailFrom     string `help:"Sender of all mails." default:"almanac@localhost" env:"DAPPER_MAIL_FROM"`
}

func (m mailing) office(public string) deliver.PostOffice {
	return deliver.PostOffice{Address: m.SMTP, User: m.SMTPUser, Password: m.SMTPPassword, From: m.MailFrom,
		Public: public}
}

// address is where readers reach the blog; port is where this program would serve it.
func (p public) address(port int) string {
	if p.PublicURL == "" {
		return fmt.Sprintf("http://127.0.0.1:%d", port)
	}
	return strings.TrimRight(p.PublicURL, "/")
}

// defaultPort is where the program serves unless told otherwise.
const defaultPort = 8080

// shutdownGrace is how long open requests may take when the program is told to end.
const shutdownGrace = 10 * time.Second

// Run serves until it is told to end; open requests and the deed in hand are
// finished first.
func (c serveCmd) Run(ctx context.Context, log *slog.Logger) error {
	listener, err := c.listen()
	if err != nil {
		return err
	}
	defer listener.Close()
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.Current(ctx); err != nil {
		return err
	}
	box, err := c.box()
	if err != nil {
		return err
	}
	if err := sayHowToBegin(ctx, s, c.address(c.Port), log); err != nil {
		return err
	}
	group, ctx := errgroup.WithContext(ctx)
	clock := newClock()
	changes := s.Changes(log)
	group.Go(func() error { changes.Run(ctx); return nil })
	registry := prometheus.NewRegistry()
	registry.MustRegister(collectors.NewGoCollector(),
		collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), engine.Backlog(s, clock.Now))
	queue, err := deliver.NewQueue(s)
	if err != nil {
		return err
	}
	var e *engine.Engine
	if c.Engine {
		e = engine.New(s, changes, clock, engine.Outward{Queue: queue, Public: c.address(c.Port)}, log)
		registry.MustRegister(e.Collectors()...)
		group.Go(func() error { e.Run(ctx); return nil })
		worker, err := deliver.NewWorker(ctx, c.means(s, clock, c.office(c.address(c.Port)), box, log))
		if err != nil {
			return err
		}
		group.Go(func() error { return worker.Run(ctx) })
	}
	group.Go(func() error {
		if err := s.KeepFacts(ctx); err != nil && ctx.Err() == nil {
			log.Warn("reading what rules ask about posts", "error", err)
		}
		return nil
	})
	registry.MustRegister(laidOut(s)...)
	group.Go(func() error { layOut(ctx, s, clock, log); return nil })
	answers := api.New(ctx, api.Config{Store: s, Changes: changes, Clock: clock, Log: log, Web: web.Dist(),
		Version: version,
		Queue:   queue, Mail: queue, Public: c.address(c.Port), Proxied: c.Proxied,
		Box: box, Networks: channel.Addresses{Base: c.Networks}, Inside: c.allowed(), Folders: c.Folders,
		Metrics: promhttp.HandlerFor(registry, promhttp.HandlerOpts{}), MetricsToken: c.MetricsToken})
	registry.MustRegister(answers.Collectors()...)
	server := &http.Server{
		Handler:           withClock(answers.Handler(), clock, e),
		ReadHeaderTimeout: 10 * time.Second,
		ReadTimeout:       time.Minute,
		WriteTimeout:      time.Minute,
		IdleTimeout:       2 * time.Minute,
		MaxHeaderBytes:    64 << 10,
		ErrorLog:          slog.NewLogLogger(log.Handler(), slog.LevelWarn),
	}
	group.Go(func() error {
		log.Info("serving", "address", "http://"+listener.Addr().String(), "engine", c.Engine)
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			return err
		}
		return nil
	})
	group.Go(func() error {
		<-ctx.Done()
		log.Info("ending")
		grace, cancel := context.WithTimeout(context.WithoutCancel(ctx), shutdownGrace)
		defer cancel()
		return server.Shutdown(grace)
	})
	return group.Wait()
}

// sayHowToBegin logs the setup code of a program that is started for the first time.
func sayHowToBegin(ctx context.Context, s *store.Store, address string, log *slog.Logger) error {
	code, err := founding.FirstCode(ctx, s.Queries)
	if err != nil {
		return fmt.Errorf("making the setup code: %w", err)
	}
	if code != "" {
		log.Warn("nobody has set this program up yet; open its address and begin with the code", "address", address, "setup code", code)
		return nil
	}
	if is, err := s.IsSetUp(ctx); err != nil || is {
		return err
	}
	log.Warn("nobody has set this program up yet; its setup code was logged when it was first started, and `dapper setup-code` prints another", "address", address)
	return nil
}

func (c serveCmd) listen() (net.Listener, error) {
	listener, err := net.Listen("tcp", net.JoinHostPort(c.Host, fmt.Sprint(c.Port)))
	switch {
	case errors.Is(err, syscall.EADDRINUSE):
		return nil,
			fmt.Errorf("port %d is taken by another program; end that one, or choose another port, such as PORT=%d",
				c.Port, c.Port+1)
	case err != nil:
		return nil, fmt.Errorf("cannot serve on %s port %d: %w", c.Host, c.Port, err)
	}
	return listener, nil
}

type workCmd struct {
	database
	public
	mailing
	outside
}

// Run publishes what is due until it is told to end.
func (c workCmd) Run(ctx context.Context, log *slog.Logger) error {
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	if err := s.Current(ctx); err != nil {
		return err
	}
	queue, err := deliver.NewQueue(s)
	if err != nil {
		return err
	}
	box, err := c.box()
	if err != nil {
		return err
	}
	clock := newClock()
	worker, err := deliver.NewWorker(ctx, c.means(s, clock, c.office(c.address(defaultPort)), box, log))
	if err != nil {
		return err
	}
	changes := s.Changes(log)
	group, ctx := errgroup.WithContext(ctx)
	group.Go(func() error { changes.Run(ctx); return nil })
	group.Go(func() error { return worker.Run(ctx) })
	group.Go(func() error {
		engine.New(s, changes, clock, engine.Outward{Queue: queue, Public: c.address(defaultPort)}, log).Run(ctx)
		return nil
	})
	log.Info("working")
	return group.Wait()
}
