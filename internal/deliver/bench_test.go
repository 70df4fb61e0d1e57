package deliver

import (
	"context"
	"fmt"
	"sync/atomic"
	"testing"

	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/stretchr/testify/require"

	"dapper.example/internal/pgtest"
	"dapper.example/internal/store"
)

const delivered = 1000

// nothing is a job that does nothing.
type nothing struct{}

func (nothing) Kind() string { return "nothing" }

type idler struct {
	river.WorkerDefaults[nothing]
	done *atomic.Int64
	all  chan struct{}
}

func (w *idler) Work(context.Context, *river.Job[nothing]) error {
	if w.done.Add(1) == delivered {
		w.all <- struct{}{}
	}
	return nil
}

// counted does the job Share and tells when all are done.
type counted struct {
	*shares
	done *atomic.Int64
	all  chan struct{}
}

func (w *counted) Work(ctx context.Context, job *river.Job[Share]) error {
	err := w.shares.Work(ctx, job)
	if w.done.Add(1) == delivered {
		w.all <- struct{}{}
	}
	return err
}

// BenchmarkDeliver hands 1,000 messages to Lantern over HTTP, and does 1,000 jobs that
// do nothing, by the same library on the same server.
func BenchmarkDeliver(b *testing.B) {
	h := newHouse(b)
	var done atomic.Int64
	all := make(chan struct{})
	run := func(b *testing.B, fill func()) {
		pool, err := pgxpool.New(b.Context(), h.URL())
		require.NoError(b, err)
		defer pool.Close()
		for b.Loop() {
			b.StopTimer()
			fill()
			done.Store(0)
			jobs := river.NewWorkers()
			river.AddWorker(jobs, &counted{newShares(h.Store, clockwork.NewRealClock(), pgtest.Box), &done, all})
			river.AddWorker(jobs, &idler{done: &done, all: all})
			client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{Workers: jobs, Logger: pgtest.Quiet(),
				Queues:        map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: workers}},
				FetchCooldown: betweenFetches})
			require.NoError(b, err)
			b.StartTimer()
			require.NoError(b, client.Start(b.Context()))
			<-all
			b.StopTimer()
			require.NoError(b, client.Stop(b.Context()))
			b.StartTimer()
		}
		b.ReportMetric(float64(delivered)*float64(b.N)/b.Elapsed().Seconds(), "jobs/s")
	}
	b.Run("messages", func(b *testing.B) {
		run(b, func() {
			require.NoError(b, h.InTx(b.Context(), func(tx *store.Tx) error {
				for i := range delivered {
					id, err := tx.InsertOuting(b.Context(), store.Outing{SiteID: h.Site.ID, Channel: h.channel,
						Post: store.ID(h.post.ID), At: pgtest.Noon, Text: fmt.Sprint("Message ", i), Link: "l"})
					if err != nil {
						return err
					}
					if err := h.queue.Share(b.Context(), tx, id); err != nil {
						return err
					}
				}
				return nil
			}))
		})
	})
	b.Run("no-ops", func(b *testing.B) {
		run(b, func() {
			params := make([]river.InsertManyParams, delivered)
			for i := range params {
				params[i].Args = nothing{}
			}
			_, err := h.queue.river.InsertMany(b.Context(), params)
			require.NoError(b, err)
		})
	})
}
