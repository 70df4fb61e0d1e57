// Package logbook keeps acts and the lines of the logbook that tell of them.
package logbook

import (
	"context"
	"encoding/json"
	"slices"
	"time"

	"dapper.example/internal/core/deed"
	"dapper.example/internal/store/db"
)

// Queries runs its statements on a pool or in a transaction.
type Queries struct{ run db.Runner }

// On returns the statements on a pool or a transaction.
func On(run db.Runner) Queries { return Queries{run} }

// Tx has, beside them, those that want a transaction.
type Tx struct {
	Queries
	told func(LogEntry)
}

// In returns the statements in a transaction; told, if it is not nil, hears of each line that
// is written one by one.
func In(run db.Runner, told func(LogEntry)) Tx { return Tx{On(run), told} }

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
	Act      int64           `db:"act_id"`    // whose line it is; 0 when it is written: an act of its own
	UndoneAt *time.Time      `db:"undone_at"` // the act; read only
	Undoes   *int64          `db:"undoes"`    // the line that this one takes back
	Together int             `db:"together"`  // how many lines the act has; read only
	Title    *string         `db:"title"`     // the post's; read only
	Rule     *int64          `db:"rule_id"`   // the rule whose deed it was, or that was changed
	Outing   *int64          `db:"outing_id"` // the outing that it tells of
}

// Act is one thing that a person or a rule did. Lines of the logbook say what it changed; it
// is undone as one.
type Act struct {
	SiteID int64
	At     time.Time
	Actor  *int64 // nil: the engine
	Rule   *int64 // the rule whose act it is, or that was changed
	Why    string // a sentence
	Undoes *int64 // the act that this one takes back
}

// Begin writes an act and returns its number. Its lines are written after it, in this
// transaction or later ones.
func (t *Tx) Begin(ctx context.Context, a Act) (int64, error) {
	var id int64
	err := t.run.One(ctx, &id,
		`insert into acts (site_id, at, actor_id, rule_id, why, undoes) values ($1, $2, $3, $4, $5, $6) returning id`,
		a.SiteID, a.At, a.Actor, a.Rule, a.Why, a.Undoes)
	return id, err
}

// Log writes a line of the logbook.
func (t *Tx) Log(ctx context.Context, e LogEntry) (err error) {
	if e.Act == 0 {
		if e.Act, err = t.Begin(ctx, Act{SiteID: e.SiteID, At: e.At, Actor: e.Actor, Rule: e.Rule,
			Why: e.Reason}); err != nil {
			return err
		}
	}
	if err := t.run.One(ctx, &e.ID, `
		insert into logbook (site_id, at, actor_id, deed, post_id, reason, before, after, act_id, rule_id, undoes, outing_id)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12) returning id`,
		e.SiteID, e.At, e.Actor, e.Deed, e.Post, e.Reason, nullJSON(e.Before), nullJSON(e.After), e.Act, e.Rule, e.Undoes,
		e.Outing); err != nil {
		return err
	}
	if t.told != nil {
		t.told(e)
	}
	return nil
}

// LogAll writes lines of the logbook, in their order. Who listens is told of the last one.
func (t *Tx) LogAll(ctx context.Context, entries []LogEntry) error {
	type row struct {
		Site   int64           `json:"site_id"`
		At     time.Time       `json:"at"`
		Actor  *int64          `json:"actor_id"`
		Deed   string          `json:"deed"`
		Post   *int64          `json:"post_id"`
		Reason string          `json:"reason"`
		Before json.RawMessage `json:"before"`
		After  json.RawMessage `json:"after"`
		Act    *int64          `json:"act_id"`
		Rule   *int64          `json:"rule_id"`
		Outing *int64          `json:"outing_id"`
	}
	rows := make([]row, len(entries))
	for i, e := range entries {
		rows[i] = row{e.SiteID, e.At, e.Actor, e.Deed, e.Post, e.Reason, e.Before, e.After, nil, e.Rule, e.Outing}
		if e.Act != 0 {
			rows[i].Act = &e.Act
		}
	}
	raw, err := json.Marshal(rows)
	if err != nil {
		return err
	}
	var last int64
	err = t.run.One(ctx, &last, `
		with given as materialized (
			select coalesce(act_id, nextval(pg_get_serial_sequence('acts', 'id'))) as act, act_id is null as alone, e.*
			from json_to_recordset($1::json) e (site_id bigint, at timestamptz, actor_id bigint, deed text, post_id bigint, reason text,
				before jsonb, after jsonb, act_id bigint, rule_id bigint, outing_id bigint)
		), made as (
			insert into acts (id, site_id, at, actor_id, rule_id, why) overriding system value
			select act, site_id, at, actor_id, rule_id, reason from given where alone
		), written as (
			insert into logbook (site_id, at, actor_id, deed, post_id, reason, before, after, act_id, rule_id, outing_id)
			select site_id, at, actor_id, deed, post_id, reason, nullif(before, 'null'), nullif(after, 'null'), act, rule_id, outing_id from given
			returning id
		)
		select coalesce(max(id), 0) from written`, string(raw))
	if err == nil && t.told != nil && last != 0 {
		told := entries[len(entries)-1]
		told.ID = last
		t.told(told)
	}
	return err
}

const selectLog = `
	select logbook.id, logbook.site_id, logbook.at, logbook.actor_id, coalesce(users.name, 'the engine') as who, deed, post_id, reason,
		coalesce(before, 'null') as before, coalesce(after, 'null') as after, act_id, acts.undone_at, logbook.undoes, coalesce(posts.title, nullif(gone_title, '')) as title, logbook.rule_id, logbook.outing_id,
		(select count(*) from logbook same where same.act_id = logbook.act_id) as together
	from logbook join acts on acts.id = act_id left join users on users.id = logbook.actor_id left join posts on posts.id = post_id`

// LogOf lists the logbook of one post, latest first.
func (q Queries) LogOf(ctx context.Context, siteID, postID int64) ([]LogEntry, error) {
	var entries []LogEntry
	err := q.run.All(ctx, &entries,
		selectLog+` where logbook.site_id = $1 and post_id = $2 order by logbook.at desc, logbook.id desc`, siteID, postID)
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
	err := q.run.All(ctx, &entries, selectLog+`
		where logbook.site_id = $1 and ($2 = '' or deed = $2) and (not $3 or logbook.actor_id is null) and ($4 = 0 or logbook.actor_id = $4)
			and ($5::timestamptz is null or (logbook.at, logbook.id) < ($5, $6))
		order by logbook.at desc, logbook.id desc limit $7`, siteID, f.Deed, f.Engine, f.Actor, before, f.BeforeID, limit)
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
	err := q.run.All(ctx, &lines, `
		select log.*, coalesce(rules.name, '') as rule_name, log.undone_at is null and log.before <> 'null' as undoable
		from (`+selectLog+` where logbook.site_id = $1 and logbook.at >= $2 and logbook.at < $3
			and deed = any($4) and acts.undone_at is null) log
		left join rules on rules.id = log.rule_id order by log.at, log.id`, siteID, from, to, marked())
	return lines, err
}

// marked are the deeds that the tape shows beside publications: that an outing was planned is not one,
// its going out is.
func marked() []deed.Kind {
	return slices.DeleteFunc(deed.Kinds(deed.ComesBack, deed.TakenAway, deed.Said, deed.Changed, deed.Erased, deed.NothingOf), deed.Kind.IsWord)
}

// CaughtUp lists what an engine did on a site since a moment to posts that were overdue by
// late or more, latest first, up to a hundred lines.
func (q Queries) CaughtUp(ctx context.Context, siteID int64, since time.Time, late time.Duration) ([]LogEntry, error) {
	var entries []LogEntry
	err := q.run.All(ctx, &entries, selectLog+`
		where logbook.site_id = $1 and logbook.at >= $2 and logbook.actor_id is null and deed = any($4)
			and (before->>'due_at')::timestamptz <= logbook.at - make_interval(secs => $3)
		order by logbook.at desc, logbook.id desc limit 100`, siteID, since, late.Seconds(), deed.Kinds(deed.ComesOut, deed.Replanned))
	return entries, err
}

// LogLine returns one line of a site's logbook.
func (q Queries) LogLine(ctx context.Context, siteID, id int64) (LogEntry, error) {
	var e LogEntry
	err := q.run.One(ctx, &e, selectLog+` where logbook.site_id = $1 and logbook.id = $2`, siteID, id)
	return e, err
}

// LinesOf lists the lines of one act, in their order.
func (q Queries) LinesOf(ctx context.Context, siteID, act int64) ([]LogEntry, error) {
	var entries []LogEntry
	err := q.run.All(ctx, &entries, selectLog+` where logbook.site_id = $1 and act_id = $2 order by logbook.id`, siteID,
		act)
	return entries, err
}

// UndoOf returns the latest line that undoes a line.
func (q Queries) UndoOf(ctx context.Context, siteID, line int64) (int64, error) {
	var id int64
	err := q.run.One(ctx, &id, `select id from logbook where site_id = $1 and undoes = $2 order by id desc limit 1`,
		siteID, line)
	return id, err
}

// MarkUndone notes that an act has been undone.
func (t *Tx) MarkUndone(ctx context.Context, siteID, act int64, now time.Time) error {
	return t.run.Exec(ctx, `update acts set undone_at = $3 where site_id = $1 and id = $2`, siteID, act, now)
}

func nullJSON(raw json.RawMessage) *string {
	if raw == nil {
		return nil
	}
	text := string(raw)
	return &text
}

// logAPortion is how many acts are forgotten in one statement.
const logAPortion = 5000

// ForgetLog forgets what is older in sites' logbooks than they keep, acts with their lines and runs of rules, in portions.
func (q Queries) ForgetLog(ctx context.Context, now time.Time) error {
	for {
		var n int
		if err := q.run.One(ctx, &n, `
			with gone as (
				delete from acts where id in (
					select acts.id from sites join acts on acts.site_id = sites.id and acts.at < $1::timestamptz - make_interval(days => log_days)
					where log_days > 0 limit $2)
				returning id)
			select count(*) from gone`, now, logAPortion); err != nil {
			return err
		}
		if n < logAPortion {
			break
		}
	}
	_, err := q.run.Do(ctx, `
		delete from rule_runs using sites where sites.id = site_id and log_days > 0 and rule_runs.at < $1::timestamptz - make_interval(days => log_days)`, now)
	return err
}

// Happened is a line of the logbook in short.
type Happened struct {
	At    time.Time `db:"at"`
	Deed  string    `db:"deed"`
	Post  *int64    `db:"post_id"`
	Title string    `db:"title"`
}

// Happened lists deeds of some kinds of a span of time that were not undone, in order.
func (q Queries) Happened(ctx context.Context, siteID int64, from, to time.Time, kinds []deed.Kind) ([]Happened, error) {
	var all []Happened
	err := q.run.All(ctx, &all, `
		select logbook.at, deed, post_id, coalesce(posts.title, gone_title) as title
		from logbook join acts on acts.id = act_id left join posts on posts.id = post_id
		where logbook.site_id = $1 and logbook.at > $2 and logbook.at <= $3 and deed = any($4) and acts.undone_at is null order by logbook.at, logbook.id`, siteID, from, to, kinds)
	return all, err
}
