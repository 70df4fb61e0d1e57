package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"time"

	"github.com/go-chi/chi/v5"

	"dapper.example/internal/api"
	"dapper.example/internal/channel"
	"dapper.example/internal/channels"
	"dapper.example/internal/core/message"
	"dapper.example/internal/demo"
	"dapper.example/internal/standin"
	"dapper.example/internal/store"
)

type migrateCmd struct {
	database
}

// Run brings the schema up to date.
func (c migrateCmd) Run(ctx context.Context, log *slog.Logger) error {
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	n, err := s.Migrate(ctx)
	if err != nil {
		return err
	}
	log.Info("the schema is up to date", "migrations", n)
	return nil
}

type demoCmd struct {
	database
	Reset bool   `help:"Delete the demo world first, with all that was done to it."`
	Quiet bool   `help:"Do not print the sign-ins."`
	Wall  string `help:"Folder of the simulated networks' data, where what the demo blog shared so far is put." placeholder:"DIR"`
	outside
}

// Run loads the demo world where it is missing and prints how to sign in.
func (c demoCmd) Run(ctx context.Context, log *slog.Logger) error {
	s, err := c.open(ctx)
	if err != nil {
		return err
	}
	defer s.Close()
	if c.Reset {
		if err := demo.Remove(ctx, s); err != nil {
			return err
		}
	}
	now := time.Now()
	switch err := demo.Load(ctx, s, now); {
	case errors.Is(err, demo.ErrLoaded):
		log.Info("the demo world is there already; it was left as it is")
	case err != nil:
		return err
	default:
		if err := demo.GoElsewhere(ctx, s, c.Folders, c.Networks+"/hub/", now); err != nil {
			return err
		}
		if c.Wall == "" {
			break
		}
		if err := c.putOnTheWall(ctx, s, now); err != nil {
			return fmt.Errorf("putting the demo's messages on the wall: %w", err)
		}
	}
	box, err := c.box()
	if err != nil {
		return err
	}
	for _, n := range channel.All() {
		if err := s.MoveChannels(ctx, n.Kind(), channel.Addresses{Base: c.Networks}.Of(n.Kind())); err != nil {
			return err
		}
	}
	if _, err := channels.SealAgain(ctx, s, box); err != nil {
		return fmt.Errorf("sealing the tokens of the demo's channels: %w", err)
	}
	if !c.Quiet {
		fmt.Println("Demo sign-ins (password for all: " + demo.Password + ")")
		for _, p := range demo.People() {
			fmt.Printf("  %-34s %s, %s\n", p.Email, p.Name, p.Role)
		}
	}
	return nil
}

// putOnTheWall has the simulated networks show what the demo blog has shared so far.
func (c demoCmd) putOnTheWall(ctx context.Context, s *store.Store, now time.Time) error {
	shared, err := demo.Shared(ctx, s.Queries, now)
	if err != nil {
		return err
	}
	for _, n := range channel.All() {
		var messages []standin.Seeded
		for _, o := range shared[n.Kind()] {
			one := standin.Seeded{Message: standin.Message{Key: fmt.Sprintf("past-%d", o.ID), From: demo.Handle, Text: o.Text,
				At: o.At.UTC()}}
			if n.Limits().Image == message.Required {
				if one.Alts, one.Media, err = pictureOf(ctx, s, o); err != nil {
					return err
				}
			}
			messages = append(messages, one)
		}
		if err := standin.Seed(n.Kind(), c.Wall, messages, map[string]string{demo.TokenOf(n.Kind()): demo.Handle}); err != nil {
			return err
		}
	}
	return nil
}

// pictureOf is the picture that an outing of the past had: its post's featured image.
func pictureOf(ctx context.Context, s *store.Store, o store.Outing) (alts []string, media [][]byte, err error) {
	ids, err := s.PictureOf(ctx, o.SiteID, int64(o.Post), false)
	if err != nil || len(ids) == 0 {
		return nil, nil, err
	}
	p, err := s.Picture(ctx, o.SiteID, ids[0])
	if err != nil {
		return nil, nil, err
	}
	_, data, err := s.PictureFile(ctx, o.SiteID, p.Key, p.Width)
	return []string{p.Alt}, [][]byte{data}, err
}

type openapiCmd struct{}

// Run prints the OpenAPI document; it needs no database.
func (openapiCmd) Run(ctx context.Context, log *slog.Logger) error {
	description := api.New(ctx, api.Config{Log: log, Version: "1"}).Operations(chi.NewRouter())
	out := json.NewEncoder(os.Stdout)
	out.SetIndent("", "  ")
	return out.Encode(description.OpenAPI())
}
