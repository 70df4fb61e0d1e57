// Package rules keeps rules, their runs, and what their conditions know of posts.
package rules

import (
	"context"
	"encoding/json"
	"fmt"
	"time"

	"dapper.example/internal/core/cadence"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/message"
	"dapper.example/internal/core/rhythm"
	"dapper.example/internal/store/db"
)

// Queries runs its statements on a pool or in a transaction.
type Queries struct {
	run  db.Runner
	kept *Kept
	laid *Columns
}

// On returns the statements on a pool, with what is kept, or in a transaction, with nil.
func On(run db.Runner, kept *Kept) Queries {
	if kept == nil {
		return Queries{run: run}
	}
	return Queries{run, kept, kept.columns}
}

// Tx has, beside them, those that want a transaction.
type Tx struct{ Queries }

// In returns the statements in a transaction.
func In(run db.Runner) Tx { return Tx{On(run, nil)} }

// RuleKind is what a rule does.
type RuleKind string

// The kinds of rules.
const (
	Expire    RuleKind = "expire"
	Republish RuleKind = "republish"
	Reshare   RuleKind = "reshare"
)

// RuleKinds lists the kinds in the order in which those that are due at once take their
// turns.
var RuleKinds = []RuleKind{Expire, Republish, Reshare}

// Rule is a rule of a site as it is kept.
type Rule struct {
	ID        int64
	SiteID    int64
	Kind      RuleKind
	Name      string
	Position  int // rules of a kind take their turns in this order
	Condition condition.Node
	Cadence   cadence.Cadence
	Settings  RuleSettings
	Seed      uint64
	ArmedAt   *time.Time // nil: off
	ServedAt  *time.Time // its turns up to here are served
	OwedAt    *time.Time // a turn whose message was refused, to be taken again; nil: none
	OwedOn    db.IDs     // the channels that refused
	SpokeOn   int64      // the channel that spoke last, where they take turns; 0: none
	HeldAt    *time.Time // it waits for an editor
	HeldWhy   string
	Allowed   int // how large a catch an editor has agreed to
	Version   int
	CreatedAt time.Time
	UpdatedAt time.Time
}

// RuleSettings are what rules have beside their condition and cadence; each kind uses
// some of them.
type RuleSettings struct {
	// Of expiry rules.
	Action      string `json:"action,omitempty"`
	MostARun    int    `json:"most_a_run,omitempty"`
	MostSeconds int    `json:"most_seconds,omitempty"` // a run stops after so long and goes on at the next; 0: no limit
	TellDays    int    `json:"tell_days,omitempty"`    // authors are told so many days before; 0: they are not
	Category    int64  `json:"category,omitempty"`     // that posts are moved to
	Tag         string `json:"tag,omitempty"`          // that is added
	Notice      string `json:"notice,omitempty"`       // to readers; "": the usual one
	Answer      string `json:"answer,omitempty"`       // what readers of an archived post get
	LeadsTo     int64  `json:"leads_to,omitempty"`     // the post that they are sent on to
	Only        db.IDs `json:"only,omitempty"`         // posts that were chosen by hand, of what is done once

	// Of rules that bring posts out.
	Youngest condition.Span  `json:"youngest,omitzero"`
	Oldest   condition.Span  `json:"oldest,omitzero"`
	Apart    int             `json:"apart,omitempty"` // days between two outings, or republications, of one post
	Most     int             `json:"most,omitempty"`  // outings of one post
	AtATime  int             `json:"at_a_time,omitempty"`
	Order    string          `json:"order,omitempty"`
	Weekdays rhythm.Weekdays `json:"weekdays,omitempty"` // on which it may act; 0: all
	From     civil.Clock     `json:"from,omitempty"`     // the hours it keeps; both zero: all
	To       civil.Clock     `json:"to,omitempty"`

	// Of republish rules.
	ReadDays int  `json:"read_days,omitempty"` // posts are to be read so many days before they come out again; 0: they are not
	Unread   bool `json:"unread,omitempty"`    // one that nobody read comes out all the same
	// What is shared when a post comes out again: on Channels, so many minutes later.
	SayAfter int    `json:"say_after,omitempty"`
	Say      string `json:"say,omitempty"`

	// Of reshare rules.
	Channels   []int64            `json:"channels,omitempty"` // in the rule's order
	Mode       string             `json:"mode,omitempty"`     // how they share its turns
	Between    int                `json:"between,omitempty"`  // minutes, where they are staggered
	Once       bool               `json:"once,omitempty"`     // each post once, then it is off
	Picked     bool               `json:"picked,omitempty"`   // only posts that were picked by hand
	Starts     *civil.Date        `json:"starts,omitempty"`   // no turn before that date
	Ends       *civil.Date        `json:"ends,omitempty"`     // no turn after it
	Picture    message.Picture    `json:"picture,omitzero"`
	ByChannel  map[int64][]string `json:"by_channel,omitempty"`  // wordings in the place of the others
	ReplyText  string             `json:"reply_text,omitempty"`  // "": nothing follows
	ReplyAfter int                `json:"reply_after,omitempty"` // minutes

	Wordings []string         `json:"wordings,omitempty"`
	Hashtags message.Hashtags `json:"hashtags,omitzero"`
	Params   []message.Param  `json:"params,omitempty"`
	Short    bool             `json:"short,omitempty"`
}

type ruleRow struct {
	ID        int64           `db:"id"`
	SiteID    int64           `db:"site_id"`
	Kind      RuleKind        `db:"kind"`
	Name      string          `db:"name"`
	Position  int             `db:"position"`
	Condition json.RawMessage `db:"condition"`
	Cadence   json.RawMessage `db:"cadence"`
	Settings  json.RawMessage `db:"settings"`
	OwedOn    db.IDs          `db:"owed_on"`
	SpokeOn   db.ID           `db:"spoke_on"`
	Seed      int64           `db:"seed"`
	ArmedAt   *time.Time      `db:"armed_at"`
	ServedAt  *time.Time      `db:"served_at"`
	OwedAt    *time.Time      `db:"owed_at"`
	HeldAt    *time.Time      `db:"held_at"`
	HeldWhy   string          `db:"held_why"`
	Allowed   int             `db:"allowed"`
	Version   int             `db:"version"`
	CreatedAt time.Time       `db:"created_at"`
	UpdatedAt time.Time       `db:"updated_at"`
	DeletedAt *time.Time      `db:"deleted_at"`
}

func (row ruleRow) rule() (Rule, error) {
	r := Rule{ID: row.ID, SiteID: row.SiteID, Kind: row.Kind, Name: row.Name, Position: row.Position,
		Seed:    uint64(row.Seed),
		ArmedAt: row.ArmedAt, ServedAt: row.ServedAt, OwedAt: row.OwedAt, OwedOn: row.OwedOn, SpokeOn: int64(row.SpokeOn), HeldAt: row.HeldAt, HeldWhy: row.HeldWhy, Allowed: row.Allowed,
		Version: row.Version, CreatedAt: row.CreatedAt, UpdatedAt: row.UpdatedAt}
	if len(r.OwedOn) == 0 {
		r.OwedOn = nil
	}
	for _, part := range []struct {
		raw  json.RawMessage
		dest any
	}{{row.Condition, &r.Condition}, {row.Cadence, &r.Cadence}, {row.Settings, &r.Settings}} {
		if err := json.Unmarshal(part.raw, part.dest); err != nil {
			return r, err
		}
	}
	return r, nil
}

func (q Queries) rules(ctx context.Context, where string, args ...any) ([]Rule, error) {
	var rows []ruleRow
	kinds := fmt.Sprintf(`$%d::text[]`, len(args)+1)
	err := q.run.All(ctx, &rows, `select * from rules `+where+` order by array_position(`+kinds+`, kind), position, id`,
		append(args, RuleKinds)...)
	if err != nil {
		return nil, err
	}
	rules := make([]Rule, len(rows))
	for i, row := range rows {
		if rules[i], err = row.rule(); err != nil {
			return nil, err
		}
	}
	return rules, nil
}

// Rules lists a site's rules in the order in which those that are due at once take
// their turns.
func (q Queries) Rules(ctx context.Context, siteID int64) ([]Rule, error) {
	return q.rules(ctx, `where site_id = $1 and deleted_at is null`, siteID)
}

// Rule returns one rule of a site.
func (q Queries) Rule(ctx context.Context, siteID, id int64) (Rule, error) {
	rules, err := q.rules(ctx, `where site_id = $1 and id = $2 and deleted_at is null`, siteID, id)
	if err != nil {
		return Rule{}, err
	}
	if len(rules) == 0 {
		return Rule{}, db.ErrNotFound
	}
	return rules[0], nil
}

// parts are the columns of a rule that are kept as JSON.
func (r Rule) parts() (condition, cadence, settings string, err error) {
	var texts [3]string
	for i, part := range []any{r.Condition, r.Cadence, r.Settings} {
		raw, err := json.Marshal(part)
		if err != nil {
			return "", "", "", err
		}
		texts[i] = string(raw)
	}
	return texts[0], texts[1], texts[2], nil
}

// InsertRule adds a rule and returns its id.
func (q Queries) InsertRule(ctx context.Context, r Rule) (int64, error) {
	condition, cadence, settings, err := r.parts()
	if err != nil {
		return 0, err
	}
	var id int64
	err = q.run.One(ctx, &id, `
		insert into rules (site_id, kind, name, position, condition, cadence, settings, seed, armed_at, served_at, allowed, created_at, updated_at)
		values ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $12) returning id`,
		r.SiteID, r.Kind, r.Name, r.Position, condition, cadence, settings, int64(r.Seed), r.ArmedAt, r.ServedAt, r.Allowed, r.CreatedAt)
	return id, err
}

// SaveRule writes a rule and counts its version up.
func (t *Tx) SaveRule(ctx context.Context, r Rule, now time.Time) error {
	condition, cadence, settings, err := r.parts()
	if err != nil {
		return err
	}
	return t.run.Exec(ctx, `
		update rules set name = $3, position = $4, condition = $5, cadence = $6, settings = $7, seed = $8,
			armed_at = $9, served_at = $10, owed_at = case when served_at = $10 and armed_at = $9 then owed_at end,
			held_at = $11, held_why = $12, allowed = $13, version = version + 1, updated_at = $14
		where site_id = $1 and id = $2`,
		r.SiteID, r.ID, r.Name, r.Position, condition, cadence, settings, int64(r.Seed),
		r.ArmedAt, r.ServedAt, r.HeldAt, r.HeldWhy, r.Allowed, now)
}

// DeleteRule deletes a rule; what it did stays done. RestoreRule brings it back.
func (t *Tx) DeleteRule(ctx context.Context, siteID, id int64, now time.Time) error {
	return t.run.Exec(ctx, `update rules set deleted_at = $3, version = version + 1, updated_at = $3 where site_id = $1 and id = $2 and deleted_at is null`, siteID, id, now)
}

// RestoreRule brings a deleted rule back as it was. The turns of an armed one are counted
// from the moment on: what it missed is not made up for. It fails with db.ErrNotFound where
// there is no such deleted rule.
func (t *Tx) RestoreRule(ctx context.Context, siteID, id int64, now time.Time) error {
	var restored int64
	return t.run.One(ctx, &restored, `
		update rules set deleted_at = null, version = version + 1, updated_at = $3::timestamptz, owed_at = null,
			armed_at = case when armed_at is not null then $3::timestamptz end, served_at = case when armed_at is not null then $3::timestamptz end
		where site_id = $1 and id = $2 and deleted_at is not null returning id`, siteID, id, now)
}

// Served is what is noted of a rule after a turn.
type Served struct {
	At      time.Time // its turns up to here are served
	HeldWhy string    // it waits for an editor from now on; "": it does not
	Off     bool      // it has come to its end
	Allowed int
	SpokeOn int64 // the channel that spoke, where they take turns; 0: as before
}

// Serve notes what came of a rule's turn. The version stays: an editor's open form is not
// stale by it.
func (t *Tx) Serve(ctx context.Context, siteID, id int64, s Served) error {
	return t.run.Exec(ctx, `
		update rules set served_at = $3, owed_at = null, owed_on = '[]', held_at = case when $4 = '' then held_at else $3 end, held_why = case when $4 = '' then held_why else $4 end, allowed = $5,
			armed_at = case when $6 then null else armed_at end, spoke_on = coalesce($7, spoke_on)
		where site_id = $1 and id = $2`, siteID, id, s.At, s.HeldWhy, s.Allowed, s.Off, db.ID(s.SpokeOn))
}

// OrderRules has the rules of a kind take their turns in an order.
func (t *Tx) OrderRules(ctx context.Context, siteID int64, kind RuleKind, ids []int64) error {
	_, err := t.run.Do(ctx, `
		update rules set position = given.n from unnest($3::bigint[]) with ordinality given(id, n)
		where rules.site_id = $1 and rules.kind = $2 and rules.id = given.id`, siteID, kind, ids)
	return err
}

// HoldRule has a rule wait for an editor.
func (t *Tx) HoldRule(ctx context.Context, siteID, id int64, why string, now time.Time) error {
	_, err := t.run.Do(ctx, `
		update rules set held_at = $3, held_why = $4 where site_id = $1 and id = $2 and armed_at is not null`, siteID, id, now, why)
	return err
}

// Exclusions lists, by rule, the posts that were excluded by hand.
func (q Queries) Exclusions(ctx context.Context, siteID int64) (map[int64]map[int64]bool, error) {
	var rows []struct {
		Rule int64 `db:"rule_id"`
		Post int64 `db:"post_id"`
	}
	if err := q.run.All(ctx, &rows, `select rule_id, post_id from rule_exclusions where site_id = $1`, siteID); err != nil {
		return nil, err
	}
	excluded := make(map[int64]map[int64]bool)
	for _, row := range rows {
		if excluded[row.Rule] == nil {
			excluded[row.Rule] = make(map[int64]bool)
		}
		excluded[row.Rule][row.Post] = true
	}
	return excluded, nil
}

// Exclude leaves a post out of a rule, or lets it in again.
func (t *Tx) Exclude(ctx context.Context, siteID, rule, post int64, out bool) error {
	if !out {
		_, err := t.run.Do(ctx,
			`delete from rule_exclusions where site_id = $1 and rule_id = $2 and post_id = $3`, siteID, rule, post)
		return err
	}
	_, err := t.run.Do(ctx,
		`insert into rule_exclusions (site_id, rule_id, post_id) values ($1, $2, $3) on conflict do nothing`, siteID, rule, post)
	return err
}

// Picks lists, by rule, the posts that were picked by hand.
func (q Queries) Picks(ctx context.Context, siteID int64) (map[int64]map[int64]bool, error) {
	var rows []struct {
		Rule int64 `db:"rule_id"`
		Post int64 `db:"post_id"`
	}
	if err := q.run.All(ctx, &rows, `select rule_id, post_id from rule_picks where site_id = $1`, siteID); err != nil {
		return nil, err
	}
	picked := make(map[int64]map[int64]bool)
	for _, row := range rows {
		if picked[row.Rule] == nil {
			picked[row.Rule] = make(map[int64]bool)
		}
		picked[row.Rule][row.Post] = true
	}
	return picked, nil
}

// Pick picks posts for a rule, or takes them back.
func (t *Tx) Pick(ctx context.Context, siteID, rule int64, posts []int64, in bool) error {
	query := `delete from rule_picks where site_id = $1 and rule_id = $2 and post_id = any($3)`
	if in {
		query = `insert into rule_picks (site_id, rule_id, post_id) select $1, $2, id from posts where site_id = $1 and id = any($3) on conflict do nothing`
	}
	_, err := t.run.Do(ctx, query, siteID, rule, posts)
	return err
}

// RuleRun is one turn that a rule took.
type RuleRun struct {
	ID     int64     `db:"id"`
	SiteID int64     `db:"site_id"`
	Rule   int64     `db:"rule_id"`
	At     time.Time `db:"at"`
	Due    time.Time `db:"due"`
	Caught int       `db:"caught"`
	Took   int       `db:"took"`
	Note   string    `db:"note"`
	Act    *int64    `db:"act_id"`
	Actor  *int64    `db:"actor_id"`
	// LogID is the first line of the logbook of the run that can still be undone; read
	// only.
	LogID *int64 `db:"log_id"`
}

// InsertRun notes a turn.
func (t *Tx) InsertRun(ctx context.Context, r RuleRun) error {
	return t.run.Exec(ctx, `
		insert into rule_runs (site_id, rule_id, at, due, caught, took, note, act_id, actor_id) values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
		r.SiteID, r.Rule, r.At, r.Due, r.Caught, r.Took, r.Note, r.Act, r.Actor)
}

// Runs lists the turns that a rule took, latest first.
func (q Queries) Runs(ctx context.Context, siteID, rule int64, limit int) ([]RuleRun, error) {
	var runs []RuleRun
	err := q.run.All(ctx, &runs, `
		select rule_runs.*, (select min(logbook.id) from logbook join acts on acts.id = logbook.act_id
			where logbook.act_id = rule_runs.act_id and acts.undone_at is null and post_id is not null and before is not null) as log_id
		from rule_runs where site_id = $1 and rule_id = $2 order by at desc, id desc limit $3`, siteID, rule, limit)
	return runs, err
}

// Takes lists, by rule, how many posts its latest runs took, the latest last; those
// that took none are left out.
func (q Queries) Takes(ctx context.Context, siteID int64, limit int) (map[int64][]int, error) {
	var rows []struct {
		Rule int64 `db:"rule_id"`
		Took int   `db:"took"`
	}
	err := q.run.All(ctx, &rows, `
		select rules.id as rule_id, took from rules cross join lateral (
			select took, at, id from rule_runs where rule_id = rules.id and took > 0 order by at desc, id desc limit $2) latest
		where rules.site_id = $1 order by rules.id, latest.at, latest.id`, siteID, limit)
	takes := make(map[int64][]int)
	for _, row := range rows {
		takes[row.Rule] = append(takes[row.Rule], row.Took)
	}
	return takes, err
}

// NamedRun is a run with its rule's name.
type NamedRun struct {
	RuleRun
	Name string   `db:"name"`
	Kind RuleKind `db:"kind"`
}

// RunsBetween lists the runs of a span of time that took posts or had something to say, in order.
func (q Queries) RunsBetween(ctx context.Context, siteID int64, from, to time.Time) ([]NamedRun, error) {
	var runs []NamedRun
	err := q.run.All(ctx, &runs, `
		select rule_runs.*, rules.name, rules.kind, null::bigint as log_id from rule_runs join rules on rules.id = rule_id
		where rule_runs.site_id = $1 and at > $2 and at <= $3 and kind <> 'reshare' and (took > 0 or note <> '' and note <> 'No post matches.') order by at, rule_runs.id`, siteID, from, to)
	return runs, err
}
