package imports

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/jonboulle/clockwork"

	"dapper.example/internal/act"
	"dapper.example/internal/intake/articles"
	"dapper.example/internal/store"
)

// Runner does the work of imports: it reads, lands and undoes. Any number of them may run at once; each import is worked on by one
// at a time. One whose process ends, in whatever way, is taken up by another where it was.
type Runner struct {
	Store *store.Store
	Clock clockwork.Clock
	Log   *slog.Logger
	// Ended is told within the transaction that an import has ended; nil: nobody is.
	Ended func(ctx context.Context, tx *store.Tx, i store.Import) error
}

const (
	// between is how long a runner rests before it looks for work again.
	between = 500 * time.Millisecond
	// afterFailure is how long it rests where the database or a disk failed it.
	afterFailure = 3 * time.Second
	readTogether = 100
	landTogether = 200
	undoTogether = 200
	// bytesTogether bounds how much text is in memory at once.
	bytesTogether = 8 << 20
)

// Run works until the context ends.
func (r *Runner) Run(ctx context.Context) {
	timer := time.NewTimer(0)
	defer timer.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-timer.C:
		}
		rest := between
		if err := r.Step(ctx); err != nil && ctx.Err() == nil {
			r.Log.Error("bringing writing in; it goes on where it was", "error", err)
			rest = afterFailure
		}
		timer.Reset(rest)
	}
}

// Step does all the work that there is, and fails with what kept some of it from being done.
func (r *Runner) Step(ctx context.Context) error {
	all, err := r.Store.ImportsAtWork(ctx, r.Clock.Now())
	if err != nil {
		return fmt.Errorf("looking for imports at work: %w", err)
	}
	var failed error
	for _, i := range all {
		if err := r.work(ctx, i); err != nil {
			failed = errors.Join(failed, fmt.Errorf("import %d of site %d: %w", i.ID, i.SiteID, err))
		}
	}
	return failed
}

// errStopped says that an import is not at that work any more: somebody paused, cancelled or deleted it.
var errStopped = errors.New("it was stopped")

// work works on an import for as long as it is at the same work.
func (r *Runner) work(ctx context.Context, i store.Import) error {
	release, ok, err := r.Store.HoldImport(ctx, i.ID)
	if err != nil || !ok {
		return err
	}
	defer release()
	if i, err = r.Store.Import(ctx, i.SiteID, i.ID); err != nil || !i.IsAtWork() {
		if errors.Is(err, store.ErrNotFound) {
			return nil
		}
		return err
	}
	do := map[store.ImportState]func(context.Context, store.Import) error{store.ImportReading: r.read, store.ImportLanding: r.land, store.ImportUndoing: r.undo}[i.State]
	err = do(ctx, i)
	invalid, wrong := errors.AsType[*act.Invalid](err)
	unread, unreadable := errors.AsType[*Unreadable](err)
	switch {
	case errors.Is(err, errStopped), ctx.Err() != nil:
		return nil
	case wrong:
		return r.fail(ctx, i, invalid.Message)
	case unreadable:
		return r.fail(ctx, i, unread.Why)
	}
	return err
}

// portion does a part of an import's work in one transaction, with how far it has come.
func (r *Runner) portion(ctx context.Context, i *store.Import, began time.Time, do func(tx *store.Tx, now *store.Import) error) error {
	return r.Store.InTx(ctx, func(tx *store.Tx) error {
		now, err := tx.LockImport(ctx, i.SiteID, i.ID)
		if errors.Is(err, store.ErrNotFound) || err == nil && now.State != i.State {
			return errStopped
		}
		if err != nil {
			return err
		}
		now.Spent += r.Clock.Since(began).Seconds()
		if err := do(tx, &now); err != nil {
			return err
		}
		setup, err := SetupOf(now)
		if err != nil {
			return err
		}
		if limit := float64(setup.Landing.Minutes * 60); limit > 0 && now.Spent > limit && now.State == store.ImportLanding {
			now.State, now.PausedIn = store.ImportPaused, now.State
			now.Problem = fmt.Sprintf("It ran for its %d minutes. Resume it to go on.", setup.Landing.Minutes)
			now.Version++
		}
		if err := tx.SaveImport(ctx, now); err != nil {
			return err
		}
		*i = now
		return nil
	})
}

// fail ends an import that cannot go on.
func (r *Runner) fail(ctx context.Context, i store.Import, why string) error {
	err := r.portion(ctx, &i, r.Clock.Now(), func(tx *store.Tx, now *store.Import) error {
		now.State, now.Problem = store.ImportFailed, why
		now.Version++
		return r.end(ctx, tx, now)
	})
	if errors.Is(err, errStopped) {
		return nil
	}
	return err
}

func (r *Runner) end(ctx context.Context, tx *store.Tx, i *store.Import) error {
	if err := end(ctx, tx, i, r.Clock.Now()); err != nil {
		return err
	}
	if r.Ended == nil || i.BegunAt == nil {
		return nil
	}
	return r.Ended(ctx, tx, *i)
}

// read reads the lines of an import and says what becomes of them, from the one on where it was.
func (r *Runner) read(ctx context.Context, i store.Import) error {
	setup, err := SetupOf(i)
	if err != nil {
		return err
	}
	src, err := open(ctx, r.Store.Queries, i.ID)
	if err != nil {
		return err
	}
	defer src.close()
	j, err := newJudge(ctx, r.Store.Queries, i, setup, src, nil, r.Clock.Now())
	if err != nil {
		return err
	}
	if err := j.knowTitles(ctx); err != nil {
		return err
	}
	var batch []articles.Read
	held := 0 // bytes of their texts
	flush := func(done bool) error {
		began := r.Clock.Now()
		lines, err := j.batch(ctx, i.Read+1, batch)
		if err != nil {
			return err
		}
		return r.portion(ctx, &i, began, func(tx *store.Tx, now *store.Import) error {
			if now.Version != i.Version {
				return errStopped // it is read by another setup by now
			}
			if err := tx.AddLines(ctx, lines); err != nil {
				return fmt.Errorf("keeping lines: %w", err)
			}
			now.Kind, now.Read, now.Total = src.kind, i.Read+len(lines), src.total()
			batch = batch[:0]
			if !done {
				return nil
			}
			if now.LeftFiles, err = json.Marshal(src.tree.Left()); err != nil {
				return err
			}
			now.State, now.Total = store.ImportProposed, now.Read
			now.Version++
			return nil
		})
	}
	for one, err := range src.lines(ctx, setup.Sheet, i.Read) {
		if err != nil {
			return err
		}
		batch, held = append(batch, one), held+len(one.Body)
		if len(batch) < readTogether && held < bytesTogether {
			continue
		}
		if err := flush(false); err != nil {
			return err
		}
		held = 0
	}
	return flush(true)
}
