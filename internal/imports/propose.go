package imports

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"dapper.example/internal/act"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/core/words"
	"dapper.example/internal/planning"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

// MaxPlaced is how many posts are given times at once.
const MaxPlaced = 5000

// Read has an import read by a setup, in the background. It fails with act.ErrStale where somebody else has changed the import,
// with *Unreadable, and with *act.Invalid where the setup is wrong.
func Read(ctx context.Context, d act.Desk, id int64, version int, setup Setup, now time.Time) (store.Import, error) {
	if bad := setup.problem(d.Site.Zone()); bad != nil {
		return store.Import{}, bad
	}
	i, err := d.Store.Import(ctx, d.Site.ID, id)
	if err != nil {
		return i, err
	}
	// What is wrong is said at once, and not by a run that fails.
	if _, err := Preview(ctx, d.Store.Queries, i, setup, 1, now); err != nil {
		return i, err
	}
	raw, err := json.Marshal(setup)
	if err != nil {
		return i, err
	}
	return change(ctx, d, id, version, func(tx *store.Tx, i *store.Import) error {
		switch i.State {
		case store.ImportCollecting, store.ImportProposed, store.ImportReading, store.ImportFailed:
		case store.ImportPaused:
			if i.PausedIn != store.ImportReading {
				return act.Invalidf("id", "This import is landing already. Cancel it to begin anew.")
			}
		default:
			return act.Invalidf("id", "This import is over. Begin another one.")
		}
		if i.BegunAt != nil {
			return act.Invalidf("id", "This import is over. Begin another one.")
		}
		i.Setup, i.State, i.PausedIn, i.Problem, i.Read, i.Total, i.Spent, i.NextAt = raw, store.ImportReading, "", "", 0, 0, 0, nil
		return tx.DropLines(ctx, i.ID)
	})
}

// change changes an import that has the version that the editor saw.
func change(ctx context.Context, d act.Desk, id int64, version int, work func(*store.Tx, *store.Import) error) (i store.Import, err error) {
	err = d.Store.InTx(ctx, func(tx *store.Tx) error {
		if i, err = tx.LockImport(ctx, d.Site.ID, id); err != nil {
			return err
		}
		if i.Version != version {
			return act.ErrStale
		}
		if err := work(tx, &i); err != nil {
			return err
		}
		i.Version++
		return tx.SaveImport(ctx, i)
	})
	return i, err
}

// Timed is a line with the time that it is to have.
type Timed struct {
	Nr     int
	At     time.Time
	Slot   rhythm.SlotID
	Reason string
	Past   bool // it comes out at once, with that date
}

// Proposal is what an import comes to: nothing of it has been done.
type Proposal struct {
	Import store.Import
	Setup  Setup
	Counts map[store.LineState]int
	Times  []Timed        // in time order, where the posts get times
	Untime map[int]string // lines that find no time go to the shelf: why, by their numbers
	// Problem says why it cannot be committed as it is; "": it can.
	Problem string
}

// Token stands for exactly this.
func (p Proposal) Token() string {
	times := make([][2]int64, len(p.Times))
	for i, t := range p.Times {
		times[i] = [2]int64{int64(t.Nr), t.At.Unix()}
	}
	return act.TokenOf("import", p.Import.ID, p.Import.Version, p.Counts, times)
}

// Propose says what an import that was read comes to.
func Propose(ctx context.Context, q store.Queries, site store.Site, i store.Import, now time.Time) (p Proposal, err error) {
	p.Import = i
	if p.Setup, err = SetupOf(i); err != nil {
		return p, err
	}
	if p.Counts, err = q.CountLines(ctx, i.ID); err != nil {
		return p, fmt.Errorf("counting the lines of import %d: %w", i.ID, err)
	}
	if i.State != store.ImportProposed || p.Setup.Landing.As != AsPlaced || p.Setup.Landing.Portion > 0 {
		return p, nil // a portion gets its times as it comes
	}
	return p, p.place(ctx, q, site, now)
}

// place gives the lines their times.
func (p *Proposal) place(ctx context.Context, q store.Queries, site store.Site, now time.Time) error {
	if n := p.Counts[store.LineReady]; n > MaxPlaced {
		p.Problem = fmt.Sprintf("%s are too many to be given times at once; %d is the most. Bring them in on the shelf, or in parts.", words.Count(n, "post"), MaxPlaced)
		return nil
	}
	ready, err := q.ReadyTitles(ctx, p.Import.ID, MaxPlaced)
	if err != nil {
		return err
	}
	p.Times, p.Untime, err = placed(ctx, q, site, p.Import, p.Setup.Landing, ready, now)
	return err
}

// placed gives lines times, and says of those that find none why.
func placed(ctx context.Context, q store.Queries, site store.Site, i store.Import, goal Goal, ready []store.ReadyLine, now time.Time) (times []Timed, untimed map[int]string, err error) {
	members, err := q.MembersNamed(ctx, site.ID)
	if err != nil {
		return nil, nil, err
	}
	drafts := make([]queue.Draft, 0, len(ready))
	for _, r := range ready {
		if r.Page || r.Draft {
			continue // they do not queue
		}
		author := i.Who
		if m, known := memberNamed(members, r.Author); known {
			author = m.Name
		}
		drafts = append(drafts, queue.Draft{ID: int64(r.Nr), Title: r.Title, Author: author, Category: r.Category, Added: now})
	}
	var start civil.Date
	if goal.Start != nil {
		start = *goal.Start
	}
	placement, err := planning.PlaceDrafts(ctx, q, site, drafts, start, goal.Pattern, now)
	if err != nil {
		return nil, nil, err
	}
	for _, one := range placement.Placed {
		times = append(times, Timed{int(one.Draft.ID), one.Slot.At, one.Slot.ID, one.Reason, !one.Slot.At.After(now)})
	}
	untimed = make(map[int]string)
	for _, one := range placement.Unplaced {
		untimed[int(one.Draft.ID)] = one.Reason
	}
	return times, untimed, nil
}

// Commit has exactly what was shown land, in the background. It fails with *act.Outdated[Proposal] where it is another by now.
func Commit(ctx context.Context, d act.Desk, id int64, token string, now time.Time) (i store.Import, err error) {
	err = d.Change(ctx, func(tx *store.Tx) error {
		if i, err = tx.LockImport(ctx, d.Site.ID, id); err != nil {
			return err
		}
		if i.State != store.ImportProposed {
			return act.Invalidf("id", "This import has been begun already, or has to be read first.")
		}
		site, err := tx.Queries.Site(ctx, d.Site.ID)
		if err != nil {
			return err
		}
		p, err := Propose(ctx, tx.Queries, site, i, now)
		if err != nil {
			return err
		}
		if p, err = act.Seen(p, token); err != nil {
			return err
		}
		switch {
		case p.Problem != "":
			return act.Invalidf("id", "%s", p.Problem)
		case p.Counts[store.LineReady]+p.Counts[store.LineUpdate] == 0:
			return act.Invalidf("id", "Nothing would be brought in. Change the setup first.")
		}
		if err := p.keepTimes(ctx, tx); err != nil {
			return err
		}
		i.State, i.User, i.BegunAt, i.Spent, i.NextAt, i.Problem = store.ImportLanding, d.Actor, &now, 0, nil, ""
		i.Version++
		return tx.SaveImport(ctx, i)
	})
	return i, err
}

// keepTimes writes the times of lines down.
func (p Proposal) keepTimes(ctx context.Context, tx *store.Tx) error {
	lines := make([]store.ImportLine, 0, len(p.Times)+len(p.Untime))
	for _, t := range p.Times {
		line := store.ImportLine{Import: p.Import.ID, Nr: t.Nr}
		if err := t.give(&line); err != nil {
			return err
		}
		lines = append(lines, line)
	}
	for nr, why := range p.Untime {
		lines = append(lines, store.ImportLine{Import: p.Import.ID, Nr: nr, Reason: why})
	}
	return tx.TimeLines(ctx, lines)
}

// give gives a line its time.
func (t Timed) give(line *store.ImportLine) error {
	line.At, line.Reason = &t.At, t.Reason
	if t.Slot == (rhythm.SlotID{}) {
		return nil
	}
	date, err := time.Parse(time.DateOnly, t.Slot.Date.String())
	if err != nil {
		return err
	}
	line.Rhythm, line.Date, line.Opening, line.Ordinal = &t.Slot.Rhythm, &date, &t.Slot.Opening, &t.Slot.Ordinal
	return nil
}

// Pause stops an import that is at work, until it is resumed.
func Pause(ctx context.Context, d act.Desk, id int64, version int) (store.Import, error) {
	return change(ctx, d, id, version, func(_ *store.Tx, i *store.Import) error {
		if i.State != store.ImportReading && i.State != store.ImportLanding {
			return act.Invalidf("id", "This import is not at work.")
		}
		i.State, i.PausedIn, i.Problem = store.ImportPaused, i.State, ""
		return nil
	})
}

// Resume has an import go on that was paused.
func Resume(ctx context.Context, d act.Desk, id int64, version int) (store.Import, error) {
	return change(ctx, d, id, version, func(_ *store.Tx, i *store.Import) error {
		if i.State != store.ImportPaused {
			return act.Invalidf("id", "This import is not paused.")
		}
		i.State, i.PausedIn, i.Problem, i.Spent = i.PausedIn, "", "", 0 // a portion comes when it would have come
		return nil
	})
}

// Hurry has the next portion of an import come now.
func Hurry(ctx context.Context, s *store.Store, site, id int64) (i store.Import, err error) {
	err = s.InTx(ctx, func(tx *store.Tx) error {
		if i, err = tx.LockImport(ctx, site, id); err != nil {
			return err
		}
		if i.State != store.ImportLanding {
			return act.Invalidf("id", "This import is not at work.")
		}
		if i.NextAt == nil && i.Portion > 0 {
			return nil // it is coming
		}
		at := time.Unix(0, 0).UTC()
		i.NextAt = &at
		return tx.SaveImport(ctx, i)
	})
	return i, err
}

// MakeTrigger makes a secret by which the next portion of an import is asked for from outside, in the place of one that there was.
func MakeTrigger(ctx context.Context, d act.Desk, id int64, version int) (secret string, i store.Import, err error) {
	secret, hash := secrets.New()
	i, err = change(ctx, d, id, version, func(_ *store.Tx, i *store.Import) error {
		setup, err := SetupOf(*i)
		if err != nil {
			return err
		}
		if i.State != store.ImportLanding && i.State != store.ImportPaused || setup.Landing.Portion == 0 {
			return act.Invalidf("id", "Only an import that comes in portions can be asked for the next one.")
		}
		i.Trigger = hash
		return nil
	})
	return secret, i, err
}

// Cancel ends an import. What has landed stays, and can be undone.
func Cancel(ctx context.Context, d act.Desk, id int64, version int, now time.Time) (store.Import, error) {
	return change(ctx, d, id, version, func(tx *store.Tx, i *store.Import) error {
		switch i.State {
		case store.ImportReading, store.ImportLanding, store.ImportPaused:
		default:
			return act.Invalidf("id", "This import is not at work.")
		}
		i.State, i.PausedIn, i.Problem = store.ImportCancelled, "", ""
		return end(ctx, tx, i, now)
	})
}

// end notes in the logbook what an import did, and lets its files go.
func end(ctx context.Context, tx *store.Tx, i *store.Import, now time.Time) error {
	i.EndedAt, i.Trigger, i.NextAt = &now, nil, nil
	counts, err := tx.Queries.CountLines(ctx, i.ID)
	if err != nil {
		return err
	}
	if i.BegunAt != nil {
		if err := tx.Queries.DropFiles(ctx, i.ID); err != nil {
			return err
		}
	}
	landed, updated := counts[store.LineLanded], counts[store.LineUpdated]
	if landed+updated == 0 {
		return nil
	}
	why := words.Count(landed, "post") + " brought in"
	if updated > 0 {
		why += " and " + words.Count(updated, "post") + " changed"
	}
	why += fmt.Sprintf(" from “%s”.", i.Source)
	if i.State == store.ImportCancelled {
		why += " Cancelled before its end."
	}
	line := store.LogEntry{SiteID: i.SiteID, At: now, Actor: &i.User, Deed: store.DeedImport, Reason: why, After: act.JSON(logged{i.ID, landed + updated})}
	if line.Act, err = tx.Begin(ctx, store.Act{SiteID: i.SiteID, At: now, Actor: &i.User, Why: why}); err != nil {
		return err
	}
	i.Act = &line.Act
	return tx.Log(ctx, line)
}

// logged is what the logbook keeps of an import.
type logged struct {
	Import int64 `json:"import"`
	Posts  int   `json:"posts"`
}

// Undo takes back what an import did, in the background: its posts go to the bin, but for those that were changed since. It is
// what undoes the import's line of the logbook.
func Undo(ctx context.Context, d act.Desk, tx *store.Tx, line store.LogEntry, now time.Time) error {
	var of logged
	if err := json.Unmarshal(line.After, &of); err != nil {
		return fmt.Errorf("reading line %d of the logbook: %w", line.ID, err)
	}
	i, err := tx.LockImport(ctx, d.Site.ID, of.Import)
	if err != nil {
		return act.Invalidf("id", "The log of this import is gone, so it can't be undone any more. Its posts can be put into the bin from the list.")
	}
	if i.State != store.ImportDone && i.State != store.ImportCancelled && i.State != store.ImportFailed {
		return act.Invalidf("id", "This import is at work. Cancel it first.")
	}
	i.State, i.Spent, i.NextAt, i.Problem = store.ImportUndoing, 0, nil, ""
	i.Version++
	if err := tx.SaveImport(ctx, i); err != nil {
		return err
	}
	// It can't be done again by hand: the posts are restored from the bin one by one, or brought in anew.
	return d.LogUndo(ctx, tx, line, nil, nil, now)
}
