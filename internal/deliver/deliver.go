// Package deliver does the work that leaves the house, as jobs in PostgreSQL.
//
// A job is put in the transaction of the deed that wants it, so there is never the one
// without the other. A job that fails is tried again, later and later. A job may be
// done twice, where a process dies between sending and noting; what is sent carries a
// key by which the receiver knows it again.
package deliver

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"net/http"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jonboulle/clockwork"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverdatabasesql"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivertype"

	"dapper.example/internal/blog"
	"dapper.example/internal/channel"
	"dapper.example/internal/destinations"
	"dapper.example/internal/imports"
	"dapper.example/internal/intake/feed"
	"dapper.example/internal/people"
	"dapper.example/internal/reach"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
	"dapper.example/internal/tokens"
	"dapper.example/internal/webhooks"
)

// Share is the job of handing an outing's message to its network.
type Share struct {
	Outing int64 `json:"outing"`
}

// Kind names the job.
func (Share) Kind() string { return "share" }

// maxAttempts is how often a delivery is tried: with River's waits, of the fourth power
// of the attempt in seconds, for about two days.
const maxAttempts = 13

// Queue puts jobs.
type Queue struct {
	river *river.Client[*sql.Tx]
}

// NewQueue returns a queue on a store's database; it does no jobs itself.
func NewQueue(s *store.Store) (*Queue, error) {
	client, err := river.NewClient(riverdatabasesql.New(s.DB().DB),
		&river.Config{Logger: slog.New(slog.DiscardHandler)})
	if err != nil {
		return nil, fmt.Errorf("opening the queue of jobs: %w", err)
	}
	return &Queue{client}, nil
}

// Share puts the delivery of an outing into a transaction.
func (q *Queue) Share(ctx context.Context, tx *store.Tx, outing int64) error {
	_, err := q.river.InsertTx(ctx, tx.SQL(), Share{outing}, &river.InsertOpts{MaxAttempts: maxAttempts})
	return err
}

// Worker does jobs until it is told to stop.
type Worker struct {
	pool  *pgxpool.Pool
	river *river.Client[pgx.Tx]
	hooks *webhooks.Sender
	bring *imports.Runner
	feeds *imports.Feeder

	places *destinations.Sender
}

// DonePath is where outside hands tell, signed, what became of a message.
const DonePath = "/api/v1/hands"

// workers is how many jobs one process does at once. They mostly wait for networks.
const workers = 100

// betweenFetches is how long a process waits at least before it asks for more jobs. At River's own tenth of a
// second 20 workers would get 200 jobs a second at most, however quickly they do them.
const betweenFetches = 10 * time.Millisecond

// Means are what a worker works with.
type Means struct {
	Store   *store.Store
	Clock   clockwork.Clock
	Post    PostOffice
	Box     *secrets.Box  // opens the tokens of channels
	Allowed reach.Allowed // what is reached of the own network, for addresses that people entered
	Folders string        // below which the folders lie that posts are written to; "": there are none on this machine
	Log     *slog.Logger
	// Digest writes the digest of a site for one of its people, of a moment; nil where none are sent.
	Digest func(ctx context.Context, site, user int64, at time.Time) (people.Letter, error)
}

// NewWorker returns a worker. Start it with Run.
func NewWorker(ctx context.Context, m Means) (*Worker, error) {
	s, clock, post, box, allowed, log := m.Store, m.Clock, m.Post, m.Box, m.Allowed, m.Log
	pool, err := pgxpool.New(ctx, s.URL())
	if err != nil {
		return nil, fmt.Errorf("connecting the worker: %w", err)
	}
	jobs := river.NewWorkers()
	shares := newShares(s, clock, box)
	shares.post, shares.outside, shares.done = post, reach.Client(allowed), post.Public+DonePath
	if err := river.AddWorkerSafely(jobs, shares); err != nil {
		pool.Close()
		return nil, err
	}
	if err := river.AddWorkerSafely(jobs, &tidying{store: s, clock: clock}); err != nil {
		pool.Close()
		return nil, err
	}
	if err := river.AddWorkerSafely(jobs, &mails{store: s, clock: clock, post: post, digest: m.Digest}); err != nil {
		pool.Close()
		return nil, err
	}
	client, err := river.NewClient(riverpgxv5.New(pool), &river.Config{
		Queues:               map[string]river.QueueConfig{river.QueueDefault: {MaxWorkers: workers}},
		FetchCooldown:        betweenFetches,
		Workers:              jobs,
		Logger:               slog.New(quieter{log.Handler()}),
		JobTimeout:           jobPatience,
		RescueStuckJobsAfter: rescueAfter,
		PeriodicJobs: []*river.PeriodicJob{river.NewPeriodicJob(river.PeriodicInterval(tidyEvery),
			func() (river.JobArgs, *river.InsertOpts) { return Tidy{}, nil }, nil)},
	})
	if err != nil {
		pool.Close()
		return nil, err
	}
	hooks := &webhooks.Sender{Store: s, Clock: clock, Box: box, Client: reach.Client(allowed), Public: post.Public, Log: log}
	queue, err := NewQueue(s)
	if err != nil {
		pool.Close()
		return nil, err
	}
	bring := &imports.Runner{Store: s, Clock: clock, Log: log, Ended: queue.reportImport}
	feeds := &imports.Feeder{Store: s, Clock: clock, Client: feed.Client(allowed), Log: log}
	places := &destinations.Sender{Store: s, Clock: clock, Box: box, Client: reach.Client(allowed), Renderer: blog.NewRenderer(), Public: post.Public, Folders: m.Folders, Log: log}
	return &Worker{pool, client, hooks, bring, feeds, places}, nil
}

const (
	jobPatience  = 30 * time.Second
	stopPatience = 10 * time.Second
	// A job whose process died is taken up again once it has run for this long: twice as
	// long as any job may take. The library looks every 30 seconds.
	rescueAfter = 2 * jobPatience
)

// Run does jobs until the context ends; jobs in hand are finished first.
func (w *Worker) Run(ctx context.Context) error {
	defer w.pool.Close()
	// The client would take the end of its context as a word to drop the jobs in hand.
	if err := w.river.Start(context.WithoutCancel(ctx)); err != nil {
		return fmt.Errorf("starting the worker: %w", err)
	}
	var loops sync.WaitGroup
	loops.Go(func() { w.hooks.Run(ctx) })
	loops.Go(func() { w.bring.Run(ctx) })
	loops.Go(func() { w.feeds.Run(ctx) })
	loops.Go(func() { w.places.Run(ctx) })
	loops.Wait()
	grace, cancel := context.WithTimeout(context.WithoutCancel(ctx), stopPatience)
	defer cancel()
	if err := w.river.Stop(grace); err != nil {
		return w.river.StopAndCancel(context.WithoutCancel(ctx))
	}
	return nil
}

// quieter lets only warnings and worse of the library through.
type quieter struct{ slog.Handler }

// Enabled tells whether the level is one that is let through.
func (q quieter) Enabled(ctx context.Context, level slog.Level) bool {
	return level >= slog.LevelWarn && q.Handler.Enabled(ctx, level)
}

// shares does the job Share.
type shares struct {
	river.WorkerDefaults[Share]
	store *store.Store
	clock clockwork.Clock
	box   *secrets.Box

	post    PostOffice   // takes mails
	outside *http.Client // reaches addresses that people entered
	done    string       // where outside hands tell what became of messages

	reading together[int64, *store.Delivery] // nil: it is gone
	noting  together[store.Arrived, struct{}]
}

func newShares(s *store.Store, clock clockwork.Clock, box *secrets.Box) *shares {
	w := &shares{store: s, clock: clock, box: box}
	w.reading.do, w.noting.do = w.read, w.note
	return w
}

// read returns outings for their delivery, nil for those that are gone.
func (w *shares) read(ctx context.Context, ids []int64) ([]*store.Delivery, error) {
	found, err := w.store.Deliveries(ctx, ids)
	if err != nil {
		return nil, err
	}
	byID := make(map[int64]*store.Delivery, len(found))
	for i := range found {
		byID[found[i].ID] = &found[i]
	}
	all := make([]*store.Delivery, len(ids))
	for i, id := range ids {
		all[i] = byID[id]
	}
	return all, nil
}

// note notes that networks have taken messages.
func (w *shares) note(ctx context.Context, arrived []store.Arrived) ([]struct{}, error) {
	return make([]struct{}, len(arrived)), w.store.MarkSent(ctx, arrived, w.clock.Now())
}

// betweenLooks is after how long a delivery looks again whether its channel speaks again.
const betweenLooks = 30 * time.Second

// untilSent is after how long a reply looks whether what it goes under was sent: a second at first, for both may be due at
// once, and twice as long after each look, up to betweenLooks.
func untilSent(job *rivertype.JobRow) time.Duration {
	var looked struct {
		Snoozes int `json:"snoozes"` // counted by River
	}
	if len(job.Metadata) > 0 && json.Unmarshal(job.Metadata, &looked) != nil || looked.Snoozes >= 5 {
		return betweenLooks
	}
	return time.Second << max(looked.Snoozes, 0)
}

// Work hands the message over and notes what came of it.
func (w *shares) Work(ctx context.Context, job *river.Job[Share]) error {
	found, err := w.reading.ask(ctx, job.Args.Outing)
	if err != nil {
		return err
	}
	if found == nil {
		return river.JobCancel(store.ErrNotFound) // its site, post or channel is gone
	}
	d := *found
	if d.State != store.Waiting || d.HandedAt != nil {
		return nil
	}
	if wait := w.hold(d); wait > 0 {
		return river.JobSnooze(wait)
	}
	network, known := channel.Of(d.To.Kind)
	if !known {
		return fmt.Errorf("outing %d goes to a network %q, which there is not", d.ID, d.To.Kind)
	}
	if d.To.Kind == channel.Mail && d.ArchivedAt == nil {
		if err = w.mailed(ctx, d); err == nil || errors.As(err, new(*river.JobSnoozeError)) {
			return err
		}
		return w.failed(ctx, job.JobRow, d, network, err)
	}
	receipt, err := w.send(ctx, network, d)
	if err == nil {
		return w.sent(ctx, d.Outing, receipt)
	}
	return w.failed(ctx, job.JobRow, d, network, err)
}

// hold is how long a delivery waits since its channel says nothing for now; 0: not at all.
func (w *shares) hold(d store.Delivery) time.Duration {
	if d.ArchivedAt != nil {
		return 0 // it is refused
	}
	if d.To.IsSilent() {
		return betweenLooks
	}
	if d.To.RestsUntil != nil {
		return max(d.To.RestsUntil.Sub(w.clock.Now()), 0)
	}
	return 0
}

// send hands a message over, with new tokens where the network does not know the old ones any more.
func (w *shares) send(ctx context.Context, network channel.Network, d store.Delivery) (channel.Receipt, error) {
	m, err := w.message(ctx, d)
	if err != nil {
		return channel.Receipt{}, err
	}
	for c, try := d.To, 0; ; try++ {
		var account channel.Account
		if account, c, err = w.account(ctx, c, try > 0); err != nil {
			return channel.Receipt{}, err
		}
		receipt, err := network.Send(ctx, account, m)
		var out *channel.SignedOut
		if !errors.As(err, &out) || c.Refresh == "" || try == tokens.MostRenewals {
			return receipt, err
		}
	}
}

// account is as whom a channel's messages are sent, and the channel with the tokens that it has now.
func (w *shares) account(ctx context.Context, c store.Channel, refused bool) (channel.Account, store.Channel, error) {
	token, c, err := w.tokens().Of(ctx, c, refused)
	return channel.Account{Address: c.Address, Token: token, Name: c.Name, Done: w.done, Now: w.clock.Now(), Client: w.outside}, c, err
}

func (w *shares) tokens() tokens.Keeper {
	return tokens.Keeper{Store: w.store, Clock: w.clock, Box: w.box, Client: w.outside}
}

// sent notes that the network has the message.
func (w *shares) sent(ctx context.Context, o store.Outing, receipt channel.Receipt) error {
	if receipt.Handed {
		if err := w.store.MarkHanded(ctx, o.ID, w.clock.Now()); err != nil {
			return fmt.Errorf("noting that outing %d was handed on: %w", o.ID, err)
		}
		return nil
	}
	if _, err := w.noting.ask(ctx, store.Arrived{ID: o.ID, RemoteID: receipt.ID, RemoteURL: receipt.URL}); err != nil {
		return fmt.Errorf("noting that outing %d was sent: %w", o.ID, err)
	}
	return nil
}

// message is what the network is handed of an outing. It fails with *notYet while
// the message that it goes under has not been sent, and with *channel.Refused where that
// will not be, or where the blog is archived.
func (w *shares) message(ctx context.Context, o store.Delivery) (channel.Message, error) {
	m := channel.Message{Key: o.Key, Text: o.Text}
	switch {
	case o.ArchivedAt != nil:
		return m, &channel.Refused{Reason: "The blog was archived before this message was sent."}
	case o.Parent == nil:
	case o.ParentState == store.Failed || o.ParentState == store.Skipped:
		return m, &channel.Refused{Reason: "The message that this is a reply to was not sent."}
	case o.ParentState != store.Sent:
		return m, &notYet{}
	}
	m.ReplyTo = o.ParentRemote
	for _, id := range o.Pictures {
		p, err := w.store.Picture(ctx, o.SiteID, id)
		if err != nil {
			return m, fmt.Errorf("reading picture %d of outing %d: %w", id, o.ID, err)
		}
		_, data, err := w.store.PictureFile(ctx, o.SiteID, p.Key, p.Width)
		if err != nil {
			return m, fmt.Errorf("reading picture %d of outing %d: %w", id, o.ID, err)
		}
		m.Media = append(m.Media, channel.Media{Type: "image/" + p.Type, Alt: p.Alt, Data: data})
	}
	return m, nil
}

// notYet says that the message that a reply goes under has not been sent.
type notYet struct{}

// Error says so.
func (*notYet) Error() string { return "the message that it replies to has not been sent yet" }

// failed notes a try that failed, and says what is to become of the job.
func (w *shares) failed(ctx context.Context, job *rivertype.JobRow, d store.Delivery, network channel.Network,
	err error) error {
	o := d.Outing
	var out *channel.SignedOut
	var waits *notYet
	var later *channel.Later
	switch {
	case errors.As(err, &waits):
		return river.JobSnooze(untilSent(job))
	case errors.As(err, &out):
		return w.signedOut(ctx, d, out)
	case errors.As(err, &later):
		if err := w.store.Rest(ctx, o.SiteID, o.Channel, w.clock.Now().Add(later.After)); err != nil {
			return err
		}
	}
	var refused *channel.Refused
	final := errors.As(err, &refused) || job.Attempt >= job.MaxAttempts
	noted := w.store.InTx(context.WithoutCancel(ctx), func(tx *store.Tx) error {
		if err := tx.MarkTried(ctx, o.ID, err.Error(), final); err != nil || !final {
			return err
		}
		why := fmt.Sprintf("The message to %s was given up after %d tries: %v.", o.Network, o.Tries+1, err)
		if refused != nil && refused.OfMessage {
			if err := tx.Refuse(ctx, o, refused.Reason, w.clock.Now()); err != nil {
				return err
			}
			if over := network.Limits().Over(o.Text); over > 0 {
				why += fmt.Sprintf(" It is %d over what %s takes.", over, o.Network)
			}
			if o.Rule != nil {
				why += " It is not tried again until its wording or its post has changed; the rule goes on with the next post."
			}
		}
		return tx.Log(ctx, store.LogEntry{SiteID: o.SiteID, At: w.clock.Now(), Deed: store.DeedDelivery, Post: o.Post.Pointer(),
			Rule: o.Rule, Reason: why})
	})
	if noted != nil && !errors.Is(noted, store.ErrNotFound) {
		return errors.Join(err, noted)
	}
	switch {
	case final:
		return river.JobCancel(err)
	case later != nil:
		return river.JobSnooze(later.After)
	}
	return err
}

// signedOut has a channel wait for an editor to sign in again, and says so once. Its outings wait with it.
func (w *shares) signedOut(ctx context.Context, d store.Delivery, why *channel.SignedOut) error {
	news, err := w.store.WantSignIn(ctx, d.SiteID, d.Channel, why.Reason)
	if err != nil {
		return err
	}
	if news {
		err = w.store.InTx(ctx, func(tx *store.Tx) error {
			if err := tx.Ask(ctx, d.SiteID, w.clock.Now()); err != nil {
				return err
			}
			return tx.Log(ctx, store.LogEntry{SiteID: d.SiteID, At: w.clock.Now(), Deed: store.DeedChannel,
				Reason: fmt.Sprintf("%s needs you to sign in again: %s. Its messages wait until then.", d.To.Name,
					strings.TrimRight(why.Reason, "."))})
		})
	}
	return errors.Join(err, river.JobSnooze(betweenLooks))
}
