package store

import (
	"context"
	"encoding/json"
	"time"

	"dapper.example/internal/core/deed"
)

// Deeds that the logbook knows, beside the kinds of core's deeds.
const (
	DeedPublish  = "publish"
	DeedCommit   = "commit"
	DeedRetime   = "retime"
	DeedShelve   = "shelve"
	DeedClear    = "clear"
	DeedUnclear  = "unclear"
	DeedReorder  = "reorder"
	DeedRhythm   = "rhythm"
	DeedBounds   = "bounds"
	DeedSettings = "settings"
	DeedPause    = "pause"
	DeedResume   = "resume"
	DeedRelease  = "release" // a held post was let go before its time
	DeedCloseUp  = "close-up"
	DeedMove     = "move"
	DeedUndo     = "undo"
	DeedRule     = "rule"    // a rule was made, changed or deleted
	DeedArm      = "arm"     // a rule was armed, or let go on
	DeedDisarm   = "disarm"  // a rule was put out of action
	DeedExclude  = "exclude" // a post was excluded from a rule, or let in again
	DeedUpkeep   = "upkeep"  // a post's own expiry and the like
	DeedChannel  = "channel" // a channel was changed
	DeedDelivery = "delivery"
	DeedBin      = "bin"
	DeedRestore  = "restore" // out of the bin
	DeedDelete   = "delete"  // for good
	DeedHandIn   = "hand in"
	DeedGiveBack = "give back" // a draft that was handed in
	DeedEdit     = "edit"      // fields of a post were changed in a list
	DeedAddress  = "address"   // a post that is out got another address
	DeedOuting   = "outing"    // an outing was planned, changed or dropped
	DeedPeople   = "people"    // somebody was invited, joined, left or got another role
)

// LogEntry is one line of the logbook: what was done, when, why and by whom.
type LogEntry struct {
	ID       int64           `db:"id"`
	SiteID   int64           `db:"site_id"`
	At       time.Time       `db:"at"`
	Actor    *int64          `db:"actor_id"` // nil: the engine
	Who      string          `db:"who"`      // the actor's name; read only
	Deed     string          `db:"deed"`
	Post     *int64          `db:"post_id"`
	Reason   string          `db:"reason"`
	Before   json.RawMessage `db:"before"` // what the deed changed, for undoing it
	After    json.RawMessage `db:"after"`
	Batch    *int64          `db:"batch"` // lines of one act, undone together
	UndoneAt *time.Time      `db:"undone_at"`
	Undoes   *int64          `db:"undoes"`   // the line that this one takes back
	Together int             `db:"together"` // lines of the batch not undone yet; read only
	Title    *string         `db:"title"`    // the post's; read only
	Rule     *int64          `db:"rule_id"`  // the rule whose deed it was, or that was changed
}

// Log writes a line of the logbook.
func (q Queries) Log(ctx context.Context, e LogEntry) error {
	if err := q.one(ctx, &e.ID, `
		insert into logbook (site_id, at, actor_id, deed, post_id, reason, before, after, batch, rule_id, undoes)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11) returning id`,
		e.SiteID, e.At, e.Actor, e.Deed, e.Post, e.Reason, nullJSON(e.Before), nullJSON(e.After), e.Batch, e.Rule, e.Undoes); err != nil {
		return err
	}
	if told, ok := ctx.Value(toldKey{}).(*LogEntry); ok {
		*told = e
	}
	return nil
}

// LogAll writes lines of the logbook, in their order, of which nobody is told.
func (q Queries) LogAll(ctx context.Context, entries []LogEntry) error {
	type row struct {
		Site   int64           `json:"site_id"`
		At     time.Time       `json:"at"`
		Actor  *int64          `json:"actor_id"`
		Deed   string          `json:"deed"`
		Post   *int64          `json:"post_id"`
		Reason string          `json:"reason"`
		Before json.RawMessage `json:"before"`
		After  json.RawMessage `json:"after"`
		Batch  *int64          `json:"batch"`
		Rule   *int64          `json:"rule_id"`
	}
	rows := make([]row, len(entries))
	for i, e := range entries {
		rows[i] = row{e.SiteID, e.At, e.Actor, e.Deed, e.Post, e.Reason, e.Before, e.After, e.Batch, e.Rule}
	}
	raw, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	_, err = q.q.ExecContext(ctx, `
		insert into logbook (site_id, at, actor_id, deed, post_id, reason, before, after, batch, rule_id)
		select site_id, at, actor_id, deed, post_id, reason, nullif(before, 'null'), nullif(after, 'null'), batch, rule_id
		from jsonb_to_recordset($1::jsonb) e (site_id bigint, at timestamptz, actor_id bigint, deed text, post_id bigint, reason text,
			before jsonb, after jsonb, batch bigint, rule_id bigint)`, string(raw))
	return err
}

type toldKey struct{}

// Telling returns a context in which the last line that is written of the logbook is
// told: it is the zero line before. Its transaction may yet fail.
func Telling(ctx context.Context) (context.Context, *LogEntry) {
	told := new(LogEntry)
	return context.WithValue(ctx, toldKey{}, told), told
}

const selectLog = `
	select logbook.id, logbook.site_id, at, actor_id, coalesce(users.name, 'the engine') as who, deed, post_id, reason,
		coalesce(before, 'null') as before, coalesce(after, 'null') as after, batch, undone_at, undoes, posts.title, logbook.rule_id,
		(select count(*) from logbook same where same.batch = logbook.batch and same.undone_at is null) as together
	from logbook left join users on users.id = actor_id left join posts on posts.id = post_id`

// LogOf lists the logbook of one post, latest first.
func (q Queries) LogOf(ctx context.Context, siteID, postID int64) ([]LogEntry, error) {
	var entries []LogEntry
	err := q.all(ctx, &entries, selectLog+` where logbook.site_id = $1 and post_id = $2 order by at desc, logbook.id desc`, siteID, postID)
	return entries, err
}

// LogFilter picks lines of the logbook; zero fields pick all.
type LogFilter struct {
	Deed   string
	Engine bool  // only what the engine did
	Actor  int64 // only what this person did
	// Before is the place to go on from: the time and id of the last line of the page
	// before.
	Before   time.Time
	BeforeID int64
}

// Logbook lists lines of a site's logbook, latest first.
func (q Queries) Logbook(ctx context.Context, siteID int64, f LogFilter, limit int) ([]LogEntry, error) {
	var entries []LogEntry
	var before *time.Time
	if !f.Before.IsZero() {
		before = &f.Before
	}
	err := q.all(ctx, &entries, selectLog+`
		where logbook.site_id = $1 and ($2 = '' or deed = $2) and (not $3 or actor_id is null) and ($4 = 0 or actor_id = $4)
			and ($5::timestamptz is null or (at, logbook.id) < ($5, $6))
		order by at desc, logbook.id desc limit $7`, siteID, f.Deed, f.Engine, f.Actor, before, f.BeforeID, limit)
	return entries, err
}

// UpkeepLine is a line of the logbook about a rule's deed, or a post's own expiry.
type UpkeepLine struct {
	LogEntry
	RuleName string `db:"rule_name"`
	Undoable bool   `db:"undoable"`
}

// LogOfUpkeep lists what was done on a site beside publications, by rules, own expiries and
// planned outings, in a span of time, in order.
func (q Queries) LogOfUpkeep(ctx context.Context, siteID int64, from, to time.Time) ([]UpkeepLine, error) {
	var lines []UpkeepLine
	err := q.all(ctx, &lines, `
		select log.*, coalesce(rules.name, '') as rule_name, log.undone_at is null and log.before <> 'null' as undoable
		from (`+selectLog+` where logbook.site_id = $1 and at >= $2 and at < $3
			and deed = any($4) and undone_at is null) log
		left join rules on rules.id = log.rule_id order by log.at, log.id`, siteID, from, to, deed.Kinds(deed.ComesBack, deed.TakenAway, deed.Said, deed.NothingOf))
	return lines, err
}

// CaughtUp lists what an engine did on a site since a moment to posts that were overdue by
// late or more, latest first, up to a hundred lines.
func (q Queries) CaughtUp(ctx context.Context, siteID int64, since time.Time, late time.Duration) ([]LogEntry, error) {
	var entries []LogEntry
	err := q.all(ctx, &entries, selectLog+`
		where logbook.site_id = $1 and at >= $2 and actor_id is null and deed in ('publish', 'move', 'hold')
			and (before->>'due_at')::timestamptz <= at - make_interval(secs => $3)
		order by at desc, logbook.id desc limit 100`, siteID, since, late.Seconds())
	return entries, err
}

// LogLine returns one line of a site's logbook.
func (q Queries) LogLine(ctx context.Context, siteID, id int64) (LogEntry, error) {
	var e LogEntry
	err := q.one(ctx, &e, selectLog+` where logbook.site_id = $1 and logbook.id = $2`, siteID, id)
	return e, err
}

// LogBatch lists the lines of one act that have not been undone.
func (q Queries) LogBatch(ctx context.Context, siteID, batch int64) ([]LogEntry, error) {
	var entries []LogEntry
	err := q.all(ctx, &entries, selectLog+` where logbook.site_id = $1 and batch = $2 and undone_at is null order by logbook.id`, siteID, batch)
	return entries, err
}

// UndoOf returns the latest line that undoes a line.
func (q Queries) UndoOf(ctx context.Context, siteID, line int64) (int64, error) {
	var id int64
	err := q.one(ctx, &id, `select id from logbook where site_id = $1 and undoes = $2 order by id desc limit 1`, siteID, line)
	return id, err
}

// NextBatch returns the number of a new act.
func (t *Tx) NextBatch(ctx context.Context) (int64, error) {
	var batch int64
	err := t.one(ctx, &batch, `select nextval('logbook_batch')`)
	return batch, err
}

// MarkUndone notes that lines have been undone.
func (t *Tx) MarkUndone(ctx context.Context, siteID int64, ids []int64, now time.Time) error {
	return t.exec(ctx, `update logbook set undone_at = $3 where site_id = $1 and id = any($2)`, siteID, ids, now)
}

func nullJSON(raw json.RawMessage) *string {
	if raw == nil {
		return nil
	}
	text := string(raw)
	return &text
}
