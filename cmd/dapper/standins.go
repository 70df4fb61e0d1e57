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

	"dapper.example/internal/standin"
)

type standinsCmd struct {
	Host string `help:"Address to serve on." default:"127.0.0.1"`
	Port int    `help:"Port to serve on." default:"8081" env:"STANDINS_PORT"`
	Data string `help:"Folder to keep their data in; none: in memory." placeholder:"DIR"`
}

// Run serves the stand-ins until it is told to end: Lantern at /lantern.
func (c standinsCmd) Run(ctx context.Context, log *slog.Logger) error {
	lantern, err := standin.NewLantern(c.Data, clockwork.NewRealClock())
	if err != nil {
		return err
	}
	defer lantern.Close()
	address := net.JoinHostPort(c.Host, fmt.Sprint(c.Port))
	listener, err := net.Listen("tcp", address)
	if errors.Is(err, syscall.EADDRINUSE) {
		return fmt.Errorf("port %d is taken by another program; end that one, or choose another port, such as STANDINS_PORT=%d", c.Port, c.Port+1)
	}
	if err != nil {
		return err
	}
	server := &http.Server{Handler: prefixed("/lantern", lantern.Handler()), ReadHeaderTimeout: 10 * time.Second}
	context.AfterFunc(ctx, func() { server.Close() })
	log.Info("the stand-ins are open", "lantern", "http://"+address+"/lantern/")
	if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
		return err
	}
	return nil
}

// prefixed serves a handler below a path.
func prefixed(path string, handler http.Handler) http.Handler {
	mux := http.NewServeMux()
	mux.Handle(path+"/", http.StripPrefix(path, http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		r.Header.Set("X-Forwarded-Prefix", path)
		handler.ServeHTTP(w, r)
	})))
	return mux
}
