package engine

import (
	"context"
	"time"

	"github.com/prometheus/client_golang/prometheus"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/store"
)

// metrics count what one engine does.
type metrics struct {
	deeds    *prometheus.CounterVec
	lag      prometheus.Histogram
	failures prometheus.Counter
}

func newMetrics() metrics {
	return metrics{
		deeds: prometheus.NewCounterVec(prometheus.CounterOpts{
			Name: "dapper_deeds_total", Help: "Deeds done by this process, by kind."}, []string{"kind"}),
		lag: prometheus.NewHistogram(prometheus.HistogramOpts{
			Name: "dapper_publication_lag_seconds", Help: "How long after its time a post came out.",
			Buckets: []float64{.005, .01, .05, .1, .25, .5, 1, 5, 30, 60, 3600, 86400}}),
		failures: prometheus.NewCounter(prometheus.CounterOpts{
			Name: "dapper_step_failures_total", Help: "Steps of the engine that failed and were undone."}),
	}
}

func (m metrics) did(d deed.Description, now time.Time) {
	m.deeds.WithLabelValues(string(d.Kind)).Inc()
	if d.Effect == deed.ComesOut {
		m.lag.Observe(now.Sub(d.Due).Seconds())
	}
}

// Collectors are this engine's metrics, for a registry.
func (e *Engine) Collectors() []prometheus.Collector {
	return []prometheus.Collector{e.metrics.deeds, e.metrics.lag, e.metrics.failures}
}

// Backlog returns metrics of what waits in the whole database, read when asked for.
func Backlog(s *store.Store, now func() time.Time) prometheus.Collector {
	return &backlog{s, now}
}

type backlog struct {
	store *store.Store
	now   func() time.Time
}

var (
	waitingDesc = prometheus.NewDesc("dapper_posts_waiting", "Scheduled posts, by how they wait.", []string{"how"}, nil)
	shelfDesc   = prometheus.NewDesc("dapper_shelf_posts", "Cleared drafts that wait for a slot.", nil, nil)
	silenceDesc = prometheus.NewDesc("dapper_engine_silence_seconds", "How long ago any engine was last heard of.",
		nil, nil)
	jobsDesc = prometheus.NewDesc("dapper_jobs_waiting", "Deliveries and mails that wait or are in hand, by kind.",
		[]string{"kind"}, nil)
	failedDesc = prometheus.NewDesc("dapper_jobs_failed",
		"Of those, the ones that failed before and are tried again.", []string{"kind"}, nil)
	lateDesc = prometheus.NewDesc("dapper_jobs_late_seconds",
		"How long the oldest of them has waited past its time.", []string{"kind"}, nil)
)

func (b *backlog) Describe(out chan<- *prometheus.Desc) {
	for _, d := range []*prometheus.Desc{waitingDesc, shelfDesc, silenceDesc, jobsDesc, failedDesc, lateDesc} {
		out <- d
	}
}

// readingTime bounds how long a reading of the metrics may take.
const readingTime = 2 * time.Second

func (b *backlog) Collect(out chan<- prometheus.Metric) {
	ctx, cancel := context.WithTimeout(context.Background(), readingTime)
	defer cancel()
	now := b.now()
	gauge := func(d *prometheus.Desc, value float64, labels ...string) {
		out <- prometheus.MustNewConstMetric(d, prometheus.GaugeValue, value, labels...)
	}
	counts, err := b.store.BacklogAt(ctx, now)
	if err != nil {
		out <- prometheus.NewInvalidMetric(waitingDesc, err)
		return
	}
	for how, n := range map[string]int{"on time": counts.Scheduled - counts.Overdue - counts.Held,
		"overdue": counts.Overdue, "held": counts.Held} {
		gauge(waitingDesc, float64(n), how)
	}
	gauge(shelfDesc, float64(counts.Shelf))
	beat, err := b.store.LastBeat(ctx)
	if err != nil {
		out <- prometheus.NewInvalidMetric(silenceDesc, err)
		return
	}
	if !beat.IsZero() {
		gauge(silenceDesc, now.Sub(beat).Seconds())
	}
	jobs, err := b.store.JobsWaiting(ctx, now)
	if err != nil {
		out <- prometheus.NewInvalidMetric(jobsDesc, err)
		return
	}
	for _, j := range jobs {
		gauge(jobsDesc, float64(j.Jobs), j.Kind)
		gauge(failedDesc, float64(j.Failed), j.Kind)
		gauge(lateDesc, j.Late, j.Kind)
	}
}
