// Package imports keeps what is brought in: files, the lines that they have, what becomes of them, and setups by name.
package imports

import (
	"context"
	"encoding/json"
	"time"

	"dapper.example/internal/store/db"
)

// Queries runs its statements on a pool or in a transaction.
type Queries struct{ run db.Runner }

// On returns the statements on a pool or a transaction.
func On(run db.Runner) Queries { return Queries{run} }

// Tx has, beside them, those that want a transaction.
type Tx struct{ Queries }

// In returns the statements in a transaction.
func In(run db.Runner) Tx { return Tx{On(run)} }

// ImportState is how far an import has come.
type ImportState string

// The states of imports.
const (
	Collecting ImportState = "collecting" // its files are being brought, or it is being set up
	Reading    ImportState = "reading"
	Proposed   ImportState = "proposed" // it waits for the editor to commit it
	Landing    ImportState = "landing"
	Paused     ImportState = "paused"
	Done       ImportState = "done"
	Cancelled  ImportState = "cancelled" // what has landed by then stays
	Failed     ImportState = "failed"
	Undoing    ImportState = "undoing"
	Undone     ImportState = "undone"
)

// LineState is what becomes of a line, or has.
type LineState string

// The states of lines.
const (
	LineReady   LineState = "ready"   // it becomes a post
	LineUpdate  LineState = "update"  // it changes the post that it became before
	LineLeft    LineState = "left"    // it is left out
	LineSame    LineState = "same"    // its post says so already
	LineClash   LineState = "clash"   // both it and its post have changed since
	LineLanded  LineState = "landed"  // it became a post
	LineUpdated LineState = "updated" // it changed its post
	LineUndone  LineState = "undone"  // its post is in the bin again
	LineKept    LineState = "kept"    // its post was changed since, and stayed
)

// Import is one bringing in of files.
type Import struct {
	ID        int64           `db:"id"`
	SiteID    int64           `db:"site_id"`
	User      int64           `db:"user_id"` // who brings them in
	Source    string          `db:"source"`  // its lines are known again by their keys within it
	Kind      string          `db:"kind"`    // articles or sheet; "" until it was looked at
	State     ImportState     `db:"state"`
	PausedIn  ImportState     `db:"paused_in"` // what goes on when it is resumed; "" where it is not paused
	Setup     json.RawMessage `db:"setup"`
	Problem   string          `db:"problem"`
	Read      int             `db:"read"`
	Total     int             `db:"total"`
	LeftFiles json.RawMessage `db:"left_files"`
	Act       *int64          `db:"act_id"`
	Portion   int             `db:"portion"` // lines of the present portion that are still to land
	Trigger   []byte          `db:"trigger"` // of the secret by which the next portion is asked for from outside; nil: there is none
	NextAt    *time.Time      `db:"next_at"` // when the next portion comes; nil: at once
	Spent     float64         `db:"spent"`   // seconds it has run since it was begun or resumed
	Version   int             `db:"version"`
	CreatedAt time.Time       `db:"created_at"`
	BegunAt   *time.Time      `db:"begun_at"`
	EndedAt   *time.Time      `db:"ended_at"`
	Who       string          `db:"who"` // the user's name; read only
}

// IsAtWork tells whether it goes on by itself.
func (i Import) IsAtWork() bool {
	return i.State == Reading || i.State == Landing || i.State == Undoing
}

// ImportFile is a file of an import.
type ImportFile struct {
	ID     int64  `db:"id"`
	Import int64  `db:"import_id"`
	Path   string `db:"path"`
	Size   int64  `db:"size"`
	Whole  bool   `db:"whole"` // it arrived to its end
}

// ImportLine is a line of an import, and what becomes of it.
type ImportLine struct {
	Import  int64           `db:"import_id" json:"import_id"`
	Nr      int             `db:"nr" json:"nr"`
	Rank    int64           `db:"rank" json:"rank"`
	Key     string          `db:"key" json:"key"`
	Place   string          `db:"place" json:"place"`
	State   LineState       `db:"state" json:"state"`
	Title   string          `db:"title" json:"title"`
	Reason  string          `db:"reason" json:"reason"`
	Notes   db.Strings      `db:"notes" json:"notes"`
	Post    json.RawMessage `db:"post" json:"post"` // what it becomes; null once it has landed
	At      *time.Time      `db:"at" json:"at"`
	Rhythm  *int64          `db:"rhythm_id" json:"rhythm_id"`
	Date    *time.Time      `db:"slot_date" json:"slot_date"`
	Opening *string         `db:"slot_opening" json:"slot_opening"`
	Ordinal *int            `db:"slot_ordinal" json:"slot_ordinal"`
	PostID  *int64          `db:"post_id" json:"post_id"`
	Former  json.RawMessage `db:"former" json:"former"` // of a line that changed a post: what that was before; else null
}

// ImportPost says which post came of which line of a source.
type ImportPost struct {
	SiteID int64  `db:"site_id"`
	Source string `db:"source"`
	Key    string `db:"key"`
	Post   int64  `db:"post_id"`
	Text   int64  `db:"text_id"`
	Digest []byte `db:"digest"`
	Place  string `db:"place"`
	Live   int64  `db:"live"`   // the version of the post's text that is live; read only
	Status string `db:"status"` // of the post; read only
	Title  string `db:"title"`  // of the post; read only
}

const selectImport = `select imports.*, users.name as who from imports join users on users.id = user_id`

// Imports lists a site's imports, the latest first.
func (q Queries) Imports(ctx context.Context, siteID int64, limit int) ([]Import, error) {
	var all []Import
	err := q.run.All(ctx, &all, selectImport+` where site_id = $1 order by imports.id desc limit $2`, siteID, limit)
	return all, err
}

// Import returns one import of a site.
func (q Queries) Import(ctx context.Context, siteID, id int64) (Import, error) {
	var i Import
	err := q.run.One(ctx, &i, selectImport+` where site_id = $1 and imports.id = $2`, siteID, id)
	return i, err
}

// ImportsAtWork lists the imports that are to go on at a moment.
func (q Queries) ImportsAtWork(ctx context.Context, now time.Time) ([]Import, error) {
	var all []Import
	err := q.run.All(ctx, &all, selectImport+` where state in ('reading', 'landing', 'undoing') and (next_at is null or next_at <= $1) order by next_at nulls first, imports.id limit 50`, now)
	return all, err
}

// ImportByTrigger is the import whose next portion a secret asks for. It fails with db.ErrNotFound.
func (q Queries) ImportByTrigger(ctx context.Context, hash []byte) (Import, error) {
	var i Import
	err := q.run.One(ctx, &i, selectImport+` where trigger = $1`, hash)
	return i, err
}

// TidyImports deletes the imports that nobody has committed since a moment, and the logs of those that have been over for as long as their
// sites keep them; their posts stay.
func (q Queries) TidyImports(ctx context.Context, stale, now time.Time) error {
	_, err := q.run.Do(ctx, `
		delete from imports using sites where sites.id = site_id and (
			begun_at is null and state in ('collecting', 'proposed', 'failed', 'cancelled', 'paused') and imports.created_at < $1
			or state in ('done', 'cancelled', 'failed', 'undone') and ended_at < $2::timestamptz - make_interval(days => import_days))`, stale, now)
	return err
}

// SaveImportDays says for how many days a site keeps the logs of imports that are over.
func (q Queries) SaveImportDays(ctx context.Context, siteID int64, days int) error {
	return q.run.Exec(ctx, `update sites set import_days = $2 where id = $1`, siteID, days)
}

// LockImport returns one import and keeps others from changing it until the transaction ends.
func (t *Tx) LockImport(ctx context.Context, siteID, id int64) (Import, error) {
	var i Import
	err := t.run.One(ctx, &i, selectImport+` where site_id = $1 and imports.id = $2 for update of imports`, siteID, id)
	return i, err
}

// InsertImport adds an import.
func (t *Tx) InsertImport(ctx context.Context, i Import) (id int64, err error) {
	err = t.run.One(ctx, &id, `insert into imports (site_id, user_id, source, created_at) values ($1, $2, $3, $4) returning id`,
		i.SiteID, i.User, i.Source, i.CreatedAt)
	return id, err
}

// SaveImport writes how far a locked import has come. Who does something to it that others must see first counts its version up.
func (t *Tx) SaveImport(ctx context.Context, i Import) error {
	return t.run.Exec(ctx, `
		update imports set source = $3, kind = $4, state = $5, paused_in = $6, setup = $7, problem = $8, read = $9, total = $10, left_files = $11,
			act_id = $12, next_at = $13, spent = $14, version = $15, begun_at = $16, ended_at = $17, portion = $18, trigger = $19
		where site_id = $1 and id = $2`, i.SiteID, i.ID, i.Source, i.Kind, i.State, i.PausedIn, orObject(i.Setup), i.Problem, i.Read, i.Total, orList(i.LeftFiles),
		i.Act, i.NextAt, i.Spent, i.Version, i.BegunAt, i.EndedAt, i.Portion, i.Trigger)
}

func orObject(raw json.RawMessage) string {
	if len(raw) == 0 {
		return "{}"
	}
	return string(raw)
}

func orList(raw json.RawMessage) string {
	if len(raw) == 0 {
		return "[]"
	}
	return string(raw)
}

// DeleteImport deletes an import with its files and lines; its posts stay.
func (t *Tx) DeleteImport(ctx context.Context, siteID, id int64) error {
	return t.run.Exec(ctx, `delete from imports where site_id = $1 and id = $2`, siteID, id)
}

// ImportFiles lists the files of an import that arrived, in the order of their paths.
func (q Queries) ImportFiles(ctx context.Context, importID int64) ([]ImportFile, error) {
	var all []ImportFile
	err := q.run.All(ctx, &all, `select * from import_files where import_id = $1 and whole order by path`, importID)
	return all, err
}

// ImportSize is how many bytes, and how many files, an import has so far.
func (q Queries) ImportSize(ctx context.Context, importID int64) (bytes int64, files int, err error) {
	var found struct {
		Bytes int64 `db:"bytes"`
		Files int   `db:"files"`
	}
	err = q.run.One(ctx, &found, `select coalesce(sum(size), 0)::bigint as bytes, count(*) as files from import_files where import_id = $1`, importID)
	return found.Bytes, found.Files, err
}

// BeginFile adds a file of an import, in the place of one of the same path, and returns its id.
func (t *Tx) BeginFile(ctx context.Context, importID int64, path string) (id int64, err error) {
	if _, err := t.run.Do(ctx, `delete from import_files where import_id = $1 and path = $2`, importID, path); err != nil {
		return 0, err
	}
	err = t.run.One(ctx, &id, `insert into import_files (import_id, path) values ($1, $2) returning id`, importID, path)
	return id, err
}

// FileAt is the file of an import at a path. It fails with db.ErrNotFound.
func (q Queries) FileAt(ctx context.Context, importID int64, path string) (ImportFile, error) {
	var f ImportFile
	err := q.run.One(ctx, &f, `select * from import_files where import_id = $1 and path = $2`, importID, path)
	return f, err
}

// AddChunk adds a part of a file.
func (q Queries) AddChunk(ctx context.Context, file int64, nr int, data []byte) error {
	return q.run.Exec(ctx, `
		with part as (insert into import_chunks (file_id, nr, data) values ($1, $2, $3) returning file_id)
		update import_files set size = size + $4 from part where id = part.file_id`, file, nr, data, len(data))
}

// EndFile notes that a file has arrived to its end.
func (q Queries) EndFile(ctx context.Context, file int64) error {
	return q.run.Exec(ctx, `update import_files set whole = true where id = $1`, file)
}

// DropFiles deletes all files of an import: it needs them no more.
func (q Queries) DropFiles(ctx context.Context, importID int64) error {
	_, err := q.run.Do(ctx, `delete from import_files where import_id = $1`, importID)
	return err
}

// Chunk returns a part of a file.
func (q Queries) Chunk(ctx context.Context, file int64, nr int) (data []byte, err error) {
	err = q.run.One(ctx, &data, `select data from import_chunks where file_id = $1 and nr = $2`, file, nr)
	return data, err
}

// CountLines counts the lines of an import by their states.
func (q Queries) CountLines(ctx context.Context, importID int64) (map[LineState]int, error) {
	all, err := q.CountLinesOf(ctx, []int64{importID})
	return all[importID], err
}

// CountLinesOf counts the lines of imports by their states; each of them has an entry.
func (q Queries) CountLinesOf(ctx context.Context, importIDs []int64) (map[int64]map[LineState]int, error) {
	var rows []struct {
		Import int64     `db:"import_id"`
		State  LineState `db:"state"`
		N      int       `db:"n"`
	}
	err := q.run.All(ctx, &rows, `select import_id, state, count(*) as n from import_lines where import_id = any($1) group by import_id, state`, importIDs)
	counts := make(map[int64]map[LineState]int, len(importIDs))
	for _, id := range importIDs {
		counts[id] = make(map[LineState]int)
	}
	for _, r := range rows {
		counts[r.Import][r.State] = r.N
	}
	return counts, err
}

const selectLine = `select import_id, nr, rank, key, place, state, title, reason, notes, coalesce(post, 'null') as post, at, rhythm_id, slot_date, slot_opening, slot_ordinal, post_id, coalesce(former, 'null') as former
	from import_lines`

// ImportLines lists lines of an import in the source's order, after a number; with states only those.
func (q Queries) ImportLines(ctx context.Context, importID int64, states []LineState, after, limit int) ([]ImportLine, error) {
	var all []ImportLine
	err := q.run.All(ctx, &all, selectLine+` where import_id = $1 and nr > $2 and ($3::text[] is null or state = any($3)) order by nr limit $4`,
		importID, after, states, limit)
	return all, err
}

// LinesToLand lists the next lines that are to land, in the order in which they do, after one that has; the zero line: from the first.
func (q Queries) LinesToLand(ctx context.Context, importID int64, after ImportLine, limit int) ([]ImportLine, error) {
	var all []ImportLine
	err := q.run.All(ctx, &all, selectLine+` where import_id = $1 and state in ('ready', 'update') and (rank, nr) > ($2, $3) order by rank, nr limit $4`,
		importID, after.Rank, after.Nr, limit)
	return all, err
}

// ReadyTitles lists the lines that become posts in the order in which they land, without what they become but for its category and author.
func (q Queries) ReadyTitles(ctx context.Context, importID int64, limit int) ([]ReadyLine, error) {
	var all []ReadyLine
	err := q.run.All(ctx, &all, `
		select nr, title, coalesce(post->'post'->>'category', '') as category, coalesce(post->'post'->>'author', '') as author, coalesce((post->'post'->>'page')::boolean, false) as page,
			coalesce(post->'post'->>'status' = 'draft', false) as draft
		from import_lines where import_id = $1 and state = 'ready' order by rank, nr limit $2`, importID, limit)
	return all, err
}

// ReadyLine is a line that becomes a post, as a placement needs it.
type ReadyLine struct {
	Nr       int    `db:"nr"`
	Title    string `db:"title"`
	Category string `db:"category"`
	Author   string `db:"author"`
	Page     bool   `db:"page"`
	Draft    bool   `db:"draft"` // its source says that it is one
}

// AddLines adds lines to an import. One that is there already stays as it is.
func (t *Tx) AddLines(ctx context.Context, lines []ImportLine) error {
	raw, err := json.Marshal(lines)
	if err != nil {
		return err
	}
	_, err = t.run.Do(ctx, `
		insert into import_lines (import_id, nr, rank, key, place, state, title, reason, notes, post, post_id)
		select import_id, nr, rank, key, place, state, title, reason, coalesce(notes, '[]'), nullif(post, 'null'), post_id
		from jsonb_to_recordset($1::jsonb) l (import_id bigint, nr integer, rank bigint, key text, place text, state text, title text, reason text, notes jsonb, post jsonb, post_id bigint)
		on conflict do nothing`, string(raw))
	return err
}

// KeysOfLines says which of some keys lines of an import before a number have, and at which place.
func (q Queries) KeysOfLines(ctx context.Context, importID int64, keys []string) (map[string]string, error) {
	var rows []struct {
		Key   string `db:"key"`
		Place string `db:"place"`
	}
	err := q.run.All(ctx, &rows, `select key, min(place) as place from import_lines where import_id = $1 and key = any($2) group by key`, importID, keys)
	places := make(map[string]string)
	for _, r := range rows {
		places[r.Key] = r.Place
	}
	return places, err
}

// DropLines deletes the lines of an import: it is read anew.
func (t *Tx) DropLines(ctx context.Context, importID int64) error {
	_, err := t.run.Do(ctx, `delete from import_lines where import_id = $1`, importID)
	return err
}

// numbersOf are the numbers of lines: by them their rows are found, however many the import has.
func numbersOf(lines []ImportLine) []int {
	numbers := make([]int, len(lines))
	for i, l := range lines {
		numbers[i] = l.Nr
	}
	return numbers
}

// SettleLines writes what became of lines of one import: their states, reasons, notes and posts, and
// what those were before.
func (t *Tx) SettleLines(ctx context.Context, lines []ImportLine) error {
	if len(lines) == 0 {
		return nil
	}
	raw, err := json.Marshal(lines)
	if err != nil {
		return err
	}
	_, err = t.run.Do(ctx, `
		update import_lines set state = l.state, reason = l.reason, notes = coalesce(l.notes, '[]'), post_id = l.post_id, former = l.former, post = null
		from jsonb_to_recordset($1::jsonb) l (nr integer, state text, reason text, notes jsonb, post_id bigint, former jsonb)
		where import_lines.import_id = $2 and import_lines.nr = any($3) and import_lines.nr = l.nr`, string(raw), lines[0].Import, numbersOf(lines))
	return err
}

// TimeLines gives lines of one import their times and slots.
func (t *Tx) TimeLines(ctx context.Context, lines []ImportLine) error {
	if len(lines) == 0 {
		return nil
	}
	raw, err := json.Marshal(lines)
	if err != nil {
		return err
	}
	_, err = t.run.Do(ctx, `
		update import_lines set at = l.at, rhythm_id = l.rhythm_id, slot_date = l.slot_date, slot_opening = l.slot_opening, slot_ordinal = l.slot_ordinal, reason = l.reason
		from jsonb_to_recordset($1::jsonb) l (nr integer, at timestamptz, rhythm_id bigint, slot_date date, slot_opening text, slot_ordinal integer, reason text)
		where import_lines.import_id = $2 and import_lines.nr = any($3) and import_lines.nr = l.nr`, string(raw), lines[0].Import, numbersOf(lines))
	return err
}

// Imported returns, by their keys, the posts that lines of a source became.
func (q Queries) Imported(ctx context.Context, siteID int64, source string, keys []string) (map[string]ImportPost, error) {
	var rows []ImportPost
	err := q.run.All(ctx, &rows, `
		select import_posts.*, posts.text_id as live, posts.status, posts.title from import_posts join posts on posts.id = post_id
		where import_posts.site_id = $1 and source = $2 and key = any($3)`, siteID, source, keys)
	found := make(map[string]ImportPost, len(rows))
	for _, r := range rows {
		found[r.Key] = r
	}
	return found, err
}

// NoteImported notes which posts lines of a source became, with the texts that they have now.
func (t *Tx) NoteImported(ctx context.Context, all []ImportPost) error {
	keys, places := make([]string, len(all)), make([]string, len(all))
	posts, digests := make([]int64, len(all)), make([][]byte, len(all))
	if len(all) == 0 {
		return nil
	}
	for i, p := range all {
		keys[i], places[i], posts[i], digests[i] = p.Key, p.Place, p.Post, p.Digest
	}
	_, err := t.run.Do(ctx, `
		insert into import_posts (site_id, source, key, post_id, text_id, digest, place)
		select $1, $2, given.key, posts.id, posts.text_id, given.digest, given.place
		from unnest($3::text[], $4::bigint[], $5::bytea[], $6::text[]) given (key, post, digest, place) join posts on posts.id = given.post and posts.site_id = $1
		on conflict (site_id, source, key) do update set post_id = excluded.post_id, text_id = excluded.text_id, digest = excluded.digest, place = excluded.place`,
		all[0].SiteID, all[0].Source, keys, posts, digests, places)
	return err
}

// ForgetImported forgets which lines posts of a site came from.
func (t *Tx) ForgetImported(ctx context.Context, siteID int64, posts []int64) error {
	_, err := t.run.Do(ctx, `delete from import_posts where site_id = $1 and post_id = any($2)`, siteID, posts)
	return err
}

// OriginOf says which source a post came from, and from where in it. It fails with db.ErrNotFound.
func (q Queries) OriginOf(ctx context.Context, siteID, post int64) (ImportPost, error) {
	var p ImportPost
	err := q.run.One(ctx, &p, `
		select import_posts.*, posts.text_id as live, posts.status, posts.title from import_posts join posts on posts.id = post_id
		where import_posts.site_id = $1 and post_id = $2 limit 1`, siteID, post)
	return p, err
}

// UnchangedSince tells which of some posts still have the text that their import gave them, and are not in the bin.
func (q Queries) UnchangedSince(ctx context.Context, siteID int64, source string, posts []int64) (map[int64]bool, error) {
	var ids []int64
	err := q.run.All(ctx, &ids, `
		select post_id from import_posts join posts on posts.id = post_id
		where import_posts.site_id = $1 and source = $2 and post_id = any($3) and import_posts.text_id = posts.text_id and status <> 'binned'`, siteID, source, posts)
	unchanged := make(map[int64]bool, len(ids))
	for _, id := range ids {
		unchanged[id] = true
	}
	return unchanged, err
}

// ImportPictures returns, by their paths, the pictures that an import has put into the library.
func (q Queries) ImportPictures(ctx context.Context, importID int64, paths []string) (map[string]int64, error) {
	var rows []struct {
		Path    string `db:"path"`
		Picture int64  `db:"picture_id"`
	}
	err := q.run.All(ctx, &rows, `select path, picture_id from import_pictures where import_id = $1 and path = any($2)`, importID, paths)
	found := make(map[string]int64, len(rows))
	for _, r := range rows {
		found[r.Path] = r.Picture
	}
	return found, err
}

// NotePicture notes which picture of the library a file became.
func (t *Tx) NotePicture(ctx context.Context, importID int64, path string, picture int64) error {
	return t.run.Exec(ctx, `insert into import_pictures (import_id, path, picture_id) values ($1, $2, $3)`, importID, path, picture)
}

// ImportRecipe is a setup that is kept by name.
type ImportRecipe struct {
	SiteID int64           `db:"site_id"`
	Name   string          `db:"name"`
	Setup  json.RawMessage `db:"setup"`
	At     time.Time       `db:"at"`
}

// ImportRecipes lists the setups of a site by name.
func (q Queries) ImportRecipes(ctx context.Context, siteID int64) ([]ImportRecipe, error) {
	var all []ImportRecipe
	err := q.run.All(ctx, &all, `select * from import_recipes where site_id = $1 order by lower(name), name`, siteID)
	return all, err
}

// SaveImportRecipe keeps a setup by name, in the place of one of that name.
func (q Queries) SaveImportRecipe(ctx context.Context, r ImportRecipe) error {
	return q.run.Exec(ctx, `insert into import_recipes (site_id, name, setup, at) values ($1, $2, $3, $4)
		on conflict (site_id, name) do update set setup = excluded.setup, at = excluded.at`, r.SiteID, r.Name, string(r.Setup), r.At)
}

// DeleteImportRecipe deletes a setup that was kept.
func (q Queries) DeleteImportRecipe(ctx context.Context, siteID int64, name string) error {
	return q.run.Exec(ctx, `delete from import_recipes where site_id = $1 and name = $2`, siteID, name)
}
