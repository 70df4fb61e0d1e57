package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"syscall"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/prometheus/client_golang/prometheus"
	"github.com/prometheus/client_golang/prometheus/collectors"
	"github.com/prometheus/client_golang/prometheus/promhttp"
	"golang.org/x/sync/errgroup"

	"dapper.example/internal/api"
	"dapper.example/internal/engine"
	"dapper.example/internal/store"
	"dapper.example/web"
)

type serveCmd struct {
	database
	Host   string `help:"Address to serve on." default:"127.0.0.1" env:"HOST"`
	Port   int    `help:"Port to serve on." default:"8080" env:"PORT"`
	Engine bool   `help:"Run the engine too." default:"true" negatable:"" env:"DAPPER_ENGINE"`
}

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
	group, ctx := errgroup.WithContext(ctx)
	clock := clockwork.NewRealClock()
	changes := s.Changes(log)
	group.Go(func() error { changes.Run(ctx); return nil })
	registry := prometheus.NewRegistry()
	registry.MustRegister(collectors.NewGoCollector(), collectors.NewProcessCollector(collectors.ProcessCollectorOpts{}), engine.Backlog(s, clock.Now))
	if c.Engine {
		e := engine.New(s, changes, clock, log)
		registry.MustRegister(e.Collectors()...)
		group.Go(func() error { e.Run(ctx); return nil })
	}
	handler := api.New(ctx, api.Config{Store: s, Changes: changes, Clock: clock, Log: log, Web: web.Dist(), Version: version,
		Metrics: promhttp.HandlerFor(registry, promhttp.HandlerOpts{})}).Handler()
	server := &http.Server{
		Handler: handler, ReadHeaderTimeout: 10 * time.Second, ReadTimeout: time.Minute, IdleTimeout: 2 * time.Minute,
		ErrorLog: slog.NewLogLogger(log.Handler(), slog.LevelWarn),
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

func (c serveCmd) listen() (net.Listener, error) {
	listener, err := net.Listen("tcp", net.JoinHostPort(c.Host, fmt.Sprint(c.Port)))
	switch {
	case errors.Is(err, syscall.EADDRINUSE):
		return nil, fmt.Errorf("port %d is taken by another program; end that one, or choose another port, such as PORT=%d", c.Port, c.Port+1)
	case err != nil:
		return nil, fmt.Errorf("cannot serve on %s port %d: %w", c.Host, c.Port, err)
	}
	return listener, nil
}

type workCmd struct {
	database
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
	work(ctx, s, log)
	return nil
}

func work(ctx context.Context, s *store.Store, log *slog.Logger) {
	changes := s.Changes(log)
	listening, stop := context.WithCancel(ctx)
	defer stop()
	go changes.Run(listening)
	log.Info("working")
	engine.New(s, changes, clockwork.NewRealClock(), log).Run(ctx)
}
