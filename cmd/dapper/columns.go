package main

import (
	"context"
	"log/slog"
	"time"

	"github.com/jonboulle/clockwork"
	"github.com/prometheus/client_golang/prometheus"

	"dapper.example/internal/store"
)

// layOutEvery is how often what has changed on sites that are laid out is read again, though nobody asks: changes are forgotten after
// a while, and all of a site would have to be read again.
const layOutEvery = 30 * time.Second

// layOut keeps the posts of large sites laid out for previews of rules.
func layOut(ctx context.Context, s *store.Store, clock clockwork.Clock, log *slog.Logger) {
	ticker := clock.NewTicker(layOutEvery)
	defer ticker.Stop()
	for {
		if err := s.LayOut(ctx); err != nil && ctx.Err() == nil {
			log.Warn("laying out the posts of large sites; previews of rules take longer until then", "error", err)
		}
		select {
		case <-ctx.Done():
			return
		case <-s.ToLayOut():
		case <-ticker.Chan():
		}
	}
}

// laidOut tells how much is laid out.
func laidOut(s *store.Store) []prometheus.Collector {
	gauge := func(name, help string, of func(posts, bytes int) int) prometheus.Collector {
		return prometheus.NewGaugeFunc(prometheus.GaugeOpts{Name: name, Help: help}, func() float64 { return float64(of(s.InColumns())) })
	}
	return []prometheus.Collector{
		gauge("dapper_columns_posts", "Posts of large sites that are laid out in memory for previews of rules.", func(posts, _ int) int { return posts }),
		gauge("dapper_columns_bytes", "About how much memory they take.", func(_, bytes int) int { return bytes }),
	}
}
