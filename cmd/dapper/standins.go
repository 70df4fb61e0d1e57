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

	"github.com/emersion/go-smtp"
	"github.com/jonboulle/clockwork"
	"golang.org/x/sync/errgroup"

	"dapper.example/internal/channel"
	"dapper.example/internal/standin"
)

type standinsCmd struct {
	Host string `help:"Address to serve on." default:"127.0.0.1"`
	Port int    `help:"Port to serve on." default:"8081" env:"STANDINS_PORT"`
	SMTP int    `help:"Port to take mail on." default:"8025" env:"STANDINS_SMTP_PORT"`
	Data string `help:"Folder to keep their data in; none: in memory." placeholder:"DIR"`
}

// Run serves the stand-ins until it is told to end: each network below its name, and a mailbox
// at /mail that takes every mail.
func (c standinsCmd) Run(ctx context.Context, log *slog.Logger) error {
	var networks []*standin.Network
	for _, n := range channel.All() {
		one, err := standin.New(n.Kind(), c.Data, clockwork.NewRealClock())
		if err != nil {
			return err
		}
		defer one.Close()
		one.Follow(ctx)
		networks = append(networks, one)
	}
	address := net.JoinHostPort(c.Host, fmt.Sprint(c.Port))
	listener, err := net.Listen("tcp", address)
	if errors.Is(err, syscall.EADDRINUSE) {
		return fmt.Errorf("port %d is taken by another program; end that one, or choose another port, such as STANDINS_PORT=%d", c.Port, c.Port+1)
	}
	if err != nil {
		return err
	}
	box := standin.NewMailbox(clockwork.NewRealClock())
	mails, err := net.Listen("tcp", net.JoinHostPort(c.Host, fmt.Sprint(c.SMTP)))
	if err != nil {
		return fmt.Errorf("mail cannot be taken on port %d (choose another with STANDINS_SMTP_PORT): %w", c.SMTP, err)
	}
	server := &http.Server{Handler: standin.Handler(networks, box), ReadHeaderTimeout: 10 * time.Second}
	post := box.Server()
	context.AfterFunc(ctx, func() { server.Close(); post.Close() })
	log.Info("the stand-ins are open", "address", "http://"+address+"/",
		"smtp", mails.Addr().String())
	group := errgroup.Group{}
	group.Go(func() error {
		if err := post.Serve(mails); !errors.Is(err, smtp.ErrServerClosed) && ctx.Err() == nil {
			return err
		}
		return nil
	})
	group.Go(func() error {
		if err := server.Serve(listener); !errors.Is(err, http.ErrServerClosed) {
			return err
		}
		return nil
	})
	return group.Wait()
}
