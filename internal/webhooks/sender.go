package webhooks

import (
	"context"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"net/http"
	"strconv"
	"strings"
	"sync"
	"time"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/core/signed"
	"dapper.example/internal/reach"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// Sender tells webhooks what happened.
type Sender struct {
	Store  *store.Store
	Clock  clockwork.Clock
	Box    *secrets.Box
	Client *http.Client
	Public string // where readers reach the blogs
	Log    *slog.Logger
}

const (
	// claimed is how many are taken in one go, and atOnce how many of them are sent at a time.
	claimed = 100
	atOnce  = 10
	// lease is how long others leave alone what one process has taken.
	lease = 2 * time.Minute
	// between is how often it is looked whether something is due.
	between = time.Second
	// offAfter is how long a webhook may take nothing until it is turned off.
	offAfter = 5 * 24 * time.Hour
	// longestWait bounds what a receiver may ask for.
	longestWait = 24 * time.Hour
	// answerRead bounds what is read of an answer, so that the connection can be used again.
	answerRead = 16 << 10
)

// waits are how long after each try that failed the next one follows; after the last nothing does.
var waits = []time.Duration{5 * time.Second, time.Minute, 5 * time.Minute, 30 * time.Minute, 2 * time.Hour, 5 * time.Hour, 10 * time.Hour, 14 * time.Hour,
	20 * time.Hour, 24 * time.Hour}

// Run sends what is due until the context ends.
func (s *Sender) Run(ctx context.Context) {
	tick := time.NewTicker(between)
	defer tick.Stop()
	for {
		n, err := s.Step(ctx)
		if err != nil && ctx.Err() == nil {
			s.Log.Error("telling webhooks", "error", err)
		}
		if n == claimed {
			continue
		}
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
	}
}

// Step sends what is due, and returns how many that were.
func (s *Sender) Step(ctx context.Context) (n int, err error) {
	now := s.Clock.Now()
	due, err := s.Store.ClaimHookDeliveries(ctx, now, now.Add(lease), claimed)
	if err != nil {
		return 0, fmt.Errorf("taking what webhooks are to be told: %w", err)
	}
	var mu sync.Mutex
	var all sync.WaitGroup
	room := make(chan struct{}, atOnce)
	for _, d := range due {
		room <- struct{}{}
		all.Add(1)
		go func() {
			defer func() { <-room; all.Done() }()
			if _, one := s.Send(ctx, d); one != nil {
				mu.Lock()
				err = errors.Join(err, one)
				mu.Unlock()
			}
		}()
	}
	all.Wait()
	return len(due), err
}

// Send tells a webhook one thing now, notes what came of it, and returns that.
func (s *Sender) Send(ctx context.Context, d store.HookDelivery) (store.HookDelivery, error) {
	w, err := s.Store.Webhook(ctx, d.SiteID, d.Hook)
	if errors.Is(err, store.ErrNotFound) {
		return d, nil
	}
	if err != nil {
		return d, err
	}
	if d.Body == "" {
		if d.Body, err = s.body(ctx, d); err != nil {
			return d, fmt.Errorf("writing what webhook %d is told: %w", d.Hook, err)
		}
		if err := s.Store.WriteHookBody(ctx, d.ID, d.Body); err != nil {
			return d, err
		}
	}
	answer, why, err := s.post(ctx, w, d)
	if err != nil {
		return d, err
	}
	if ctx.Err() != nil {
		return d, nil // the program ends; it is tried again
	}
	now := s.Clock.Now()
	d.Tries++
	d.Status, d.Error, d.TriedAt = answer.status, why, &now
	gone := answer.status == http.StatusGone
	switch {
	case why == "":
		d.State = store.HookDelivered
	case d.Sample || gone || d.Tries > len(waits):
		d.State = store.HookFailed
	default:
		d.NextAt = now.Add(max(waits[d.Tries-1], answer.wait))
	}
	if err := s.Store.SaveHookDelivery(ctx, d); err != nil {
		return d, err
	}
	if why == "" {
		return d, s.Store.HookArrived(ctx, d.SiteID, d.Hook)
	}
	if d.Sample || w.OffAt != nil {
		return d, nil
	}
	since, err := s.Store.HookFails(ctx, d.SiteID, d.Hook, now)
	if errors.Is(err, store.ErrNotFound) {
		return d, nil
	}
	if err != nil {
		return d, err
	}
	switch {
	case gone:
		return d, s.turnOff(ctx, d, "Turned off, since it answered that it is gone for good.", now)
	case now.Sub(since) >= offAfter:
		return d, s.turnOff(ctx, d, fmt.Sprintf("Turned off, since it has taken nothing for %d days. %s", int(offAfter.Hours()/24), why), now)
	}
	return d, nil
}

// turnOff turns a webhook off and says so, once.
func (s *Sender) turnOff(ctx context.Context, d store.HookDelivery, why string, now time.Time) error {
	return s.Store.InTx(ctx, func(tx *store.Tx) error {
		w, err := tx.LockWebhook(ctx, d.SiteID, d.Hook)
		if err != nil || w.OffAt != nil {
			return err
		}
		w.OffAt, w.OffWhy = &now, why
		if err := tx.SaveWebhook(ctx, w); err != nil {
			return err
		}
		if err := tx.GiveUpHook(ctx, d.SiteID, d.Hook, why); err != nil {
			return err
		}
		return tx.Log(ctx, store.LogEntry{SiteID: d.SiteID, At: now, Deed: store.DeedChannel, Reason: fmt.Sprintf("The webhook “%s”: %s", w.Name, why)})
	})
}

// reply is what a receiver answered.
type reply struct {
	status int // 0: nothing
	wait   time.Duration
}

// post sends what a webhook is told; why says why it did not arrive, or "".
func (s *Sender) post(ctx context.Context, w store.Webhook, d store.HookDelivery) (r reply, why string, err error) {
	keys, err := s.secretsOf(w)
	if err != nil {
		return r, "Its secret can’t be read: " + err.Error() + ".", nil
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, w.Address, strings.NewReader(d.Body))
	if err != nil {
		return r, "Its address is not one.", nil
	}
	if err := Sign(request, keys, d.Key, s.Clock.Now(), []byte(d.Body)); err != nil {
		return r, "", err
	}
	// Not sent: it says that the request may be made again where a connection that was kept turns out to be closed. Whoever receives
	// it knows it by its id.
	request.Header["Idempotency-Key"] = nil
	answer, err := s.Client.Do(request)
	if err != nil {
		return r, reach.Reason(err), nil
	}
	defer answer.Body.Close()
	_, _ = io.Copy(io.Discard, io.LimitReader(answer.Body, answerRead))
	r.status = answer.StatusCode
	if r.status >= 200 && r.status < 300 {
		return r, "", nil
	}
	if seconds, err := strconv.Atoi(answer.Header.Get("Retry-After")); err == nil && seconds > 0 {
		r.wait = min(time.Duration(min(seconds, int(longestWait/time.Second)))*time.Second, longestWait)
	}
	if r.status >= 300 && r.status < 400 {
		return r, fmt.Sprintf("It answered %d and led elsewhere. Enter the address that it leads to.", r.status), nil
	}
	return r, fmt.Sprintf("It answered %s.", strings.TrimSpace(fmt.Sprintf("%d %s", r.status, http.StatusText(r.status)))), nil
}

// secretsOf are the secrets that sign for a webhook now.
func (s *Sender) secretsOf(w store.Webhook) ([]string, error) {
	current, err := s.Box.Open(w.Secret)
	if err != nil {
		return nil, err
	}
	keys := []string{current}
	if w.OldSecret != "" && w.OldEnds != nil && s.Clock.Now().Before(*w.OldEnds) {
		old, err := s.Box.Open(w.OldSecret)
		if err != nil {
			return nil, err
		}
		keys = append(keys, old)
	}
	return keys, nil
}

// Sign puts the headers of a signed message on a request.
func Sign(r *http.Request, keys []string, id string, at time.Time, body []byte) error {
	headers, err := signed.Headers(keys, id, at, body)
	if err != nil {
		return err
	}
	r.Header.Set("Content-Type", "application/json")
	r.Header.Set("User-Agent", "Dapper-Almanac")
	for name, value := range headers {
		r.Header.Set(name, value)
	}
	return nil
}
