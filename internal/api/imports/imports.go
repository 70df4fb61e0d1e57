// Package imports has the operations that bring writing in.
package imports

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strconv"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/gate"
	"dapper.example/internal/imports"
	"dapper.example/internal/secrets"
	"dapper.example/internal/store"
)

type part struct{ *operation.Tools }

const (
	path     = "/api/v1/sites/{site}/imports"
	setups   = "/api/v1/sites/{site}/import-setups"
	triggers = "/api/v1/import-triggers"
	mostList = 100
)

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	huma.Register(api, huma.Operation{
		OperationID: "list-imports", Method: http.MethodGet, Path: path, Summary: "Imports, latest first",
	}, s.list)
	huma.Register(api, huma.Operation{
		OperationID: "save-import-days", Method: http.MethodPut, Path: "/api/v1/sites/{site}/import-days", Summary: "Say for how many days the logs of imports are kept", DefaultStatus: http.StatusNoContent,
	}, s.saveDays)
	huma.Register(api, huma.Operation{
		OperationID: "begin-import", Method: http.MethodPost, Path: path, Summary: "Begin an import",
		Description:   "Files are added next. The source is the name by which its lines are known again when it is brought in another time.",
		DefaultStatus: http.StatusCreated,
	}, s.begin)
	huma.Register(api, huma.Operation{
		OperationID: "get-import", Method: http.MethodGet, Path: path + "/{id}", Summary: "An import, and what it comes to",
	}, s.get)
	huma.Register(api, huma.Operation{
		OperationID: "delete-import", Method: http.MethodDelete, Path: path + "/{id}", Summary: "Delete an import and its log",
		Description: "Its posts stay. One that is at work is cancelled first.", DefaultStatus: http.StatusNoContent,
	}, s.delete)
	huma.Register(api, huma.Operation{
		OperationID: "add-import-file", Method: http.MethodPut, Path: path + "/{id}/file", Summary: "Add a file, or a part of one",
		Description: "Files come in parts of 1 to 4 whole megabytes, in their order; only the last part may be of any size. An archive (.zip), articles (.md, .txt, .html, .docx) with their pictures, " +
			"or a sheet (.xlsx, .csv, .tsv), perhaps with an archive of pictures.", MaxBodyBytes: imports.MaxPart + 1024, DefaultStatus: http.StatusNoContent,
	}, s.addFile)
	api.OpenAPI().Paths[path+"/{id}/file"].Put.RequestBody.Required = false // a file may be empty
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "look-at-import", Method: http.MethodPost, Path: path + "/{id}/look", Summary: "What the files hold, and how a sheet may be read",
	}), s.look)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "preview-import", Method: http.MethodPost, Path: path + "/{id}/preview", Summary: "Try a setup on the first lines", MaxBodyBytes: maxSetup,
	}), s.preview)
	huma.Register(api, huma.Operation{
		OperationID: "read-import", Method: http.MethodPost, Path: path + "/{id}/read", Summary: "Read all lines by a setup, in the background",
		Description: "Nothing is brought in by that: what comes of each line is shown, and committed then.", MaxBodyBytes: maxSetup, Errors: []int{http.StatusConflict},
	}, s.read)
	huma.Register(api, operation.Conflict[StaleImport](api, huma.Operation{
		OperationID: "commit-import", Method: http.MethodPost, Path: path + "/{id}/commit", Summary: "Bring in exactly what was shown, in the background",
		Description: "If it comes to something else by now, nothing is done and the answer (409) holds it.",
	}), s.commit)
	for _, one := range []struct{ id, end, summary string }{{"pause-import", "pause", "Pause an import"}, {"resume-import", "resume", "Have a paused import go on"},
		{"cancel-import", "cancel", "Cancel an import; what has been brought in stays"}} {
		huma.Register(api, huma.Operation{OperationID: one.id, Method: http.MethodPost, Path: path + "/{id}/" + one.end, Summary: one.summary, Errors: []int{http.StatusConflict}},
			func(ctx context.Context, in *paceInput) (*struct{ Body Import }, error) {
				return s.pace(ctx, in, one.end)
			})
	}
	huma.Register(api, huma.Operation{
		OperationID: "hurry-import", Method: http.MethodPost, Path: path + "/{id}/hurry", Summary: "Have the next portion of an import come now",
	}, s.hurry)
	huma.Register(api, huma.Operation{
		OperationID: "make-import-trigger", Method: http.MethodPost, Path: path + "/{id}/trigger", Summary: "Make an address by which the next portion is asked for from outside",
		Description: "It is shown once. Another one ends it.", Errors: []int{http.StatusConflict},
	}, s.makeTrigger)
	huma.Register(api, huma.Operation{
		OperationID: "pull-import-trigger", Method: http.MethodPost, Path: triggers + "/{secret}", Summary: "Ask for the next portion of an import, by its address",
		DefaultStatus: http.StatusNoContent, MaxBodyBytes: gate.MaxOpenBody,
	}, s.pullTrigger)
	s.lineOperations(api)
	s.feedOperations(api)
	huma.Register(api, huma.Operation{
		OperationID: "list-import-setups", Method: http.MethodGet, Path: setups, Summary: "Setups of imports that are kept by name",
	}, s.listSetups)
	huma.Register(api, huma.Operation{
		OperationID: "save-import-setup", Method: http.MethodPut, Path: setups, Summary: "Keep a setup by name", MaxBodyBytes: maxSetup, DefaultStatus: http.StatusNoContent,
	}, s.saveSetup)
	huma.Register(api, huma.Operation{
		OperationID: "delete-import-setup", Method: http.MethodDelete, Path: setups, Summary: "Delete a setup that is kept", DefaultStatus: http.StatusNoContent,
	}, s.deleteSetup)
}

// maxSetup is the largest body with a setup, in bytes.
const maxSetup = 1 << 20

// problem answers what went wrong; files that cannot be read are the sender's.
func (s part) problem(err error) error {
	if u, ok := errors.AsType[*imports.Unreadable](err); ok {
		return operation.Invalid(&act.Invalid{Field: "files", Message: u.Why})
	}
	return s.Problem(err)
}

// ImportCounts are how many lines stand how.
type ImportCounts struct {
	Ready   int `json:"ready" doc:"lines that become posts"`
	Update  int `json:"update" doc:"lines that change the posts which they became before"`
	Left    int `json:"left" doc:"lines that are left out"`
	Same    int `json:"same" doc:"lines whose posts say so already"`
	Clash   int `json:"clash" doc:"lines that changed as their posts did"`
	Landed  int `json:"landed" doc:"lines that became posts"`
	Updated int `json:"updated" doc:"lines that changed their posts"`
	Undone  int `json:"undone"`
	Kept    int `json:"kept" doc:"lines whose posts were changed since, so that undoing left them"`
}

func countsOf(all map[store.LineState]int) ImportCounts {
	return ImportCounts{all[store.LineReady], all[store.LineUpdate], all[store.LineLeft], all[store.LineSame], all[store.LineClash], all[store.LineLanded], all[store.LineUpdated],
		all[store.LineUndone], all[store.LineKept]}
}

// Import is one bringing in of files.
type Import struct {
	ID      int64        `json:"id"`
	Source  string       `json:"source"`
	Kind    string       `json:"kind" enum:",articles,sheet,feed"`
	State   string       `json:"state" enum:"collecting,reading,proposed,landing,paused,done,cancelled,failed,undoing,undone"`
	Paused  string       `json:"pausedIn,omitempty" enum:"reading,landing" doc:"what goes on when it is resumed"`
	Problem string       `json:"problem,omitempty" doc:"why it is paused or failed"`
	By      string       `json:"by"`
	Made    time.Time    `json:"made"`
	Begun   *time.Time   `json:"begun,omitempty" doc:"when it was committed"`
	Ended   *time.Time   `json:"ended,omitempty"`
	Read    int          `json:"read" doc:"lines that were read"`
	Total   int          `json:"total,omitempty" doc:"lines that there are to read, where that is known"`
	Spent   float64      `json:"spent" doc:"seconds it has run since it was begun or resumed"`
	Next    *time.Time   `json:"next,omitempty" doc:"when its next portion comes; absent where none comes by itself, or it is coming"`
	Rests   bool         `json:"rests,omitempty" doc:"it rests between two portions"`
	Version int          `json:"version"`
	Counts  ImportCounts `json:"counts"`
}

func (s part) view(i store.Import, counts map[store.LineState]int) Import {
	var next *time.Time
	now := s.Clock.Now()
	rests := i.State == store.ImportLanding && i.NextAt != nil && i.NextAt.After(now)
	if rests && i.NextAt.Before(now.AddDate(50, 0, 0)) {
		next = i.NextAt
	}
	return Import{Next: next, Rests: rests, ID: i.ID, Source: i.Source, Kind: i.Kind, State: string(i.State), Paused: string(i.PausedIn), Problem: i.Problem, By: i.Who, Made: i.CreatedAt.UTC(), Begun: i.BegunAt,
		Ended: i.EndedAt, Read: i.Read, Total: i.Total, Spent: i.Spent, Version: i.Version, Counts: countsOf(counts)}
}

// ImportList is the site's imports.
type ImportList struct {
	Imports []Import `json:"imports"`
	Days    int      `json:"days" doc:"for how many days the logs of those are kept that are over"`
}

func (s part) saveDays(ctx context.Context, in *struct {
	operation.SitePath
	Body struct {
		Days int `json:"days" minimum:"1" maximum:"3660"`
	}
}) (*struct{}, error) {
	return nil, s.Problem(s.Store.SaveImportDays(ctx, operation.DeskOf(ctx).Site.ID, in.Body.Days))
}

func (s part) list(ctx context.Context, _ *operation.SitePath) (*struct{ Body ImportList }, error) {
	all, err := s.Store.Imports(ctx, operation.DeskOf(ctx).Site.ID, mostList)
	if err != nil {
		return nil, s.Problem(err)
	}
	ids := make([]int64, len(all))
	for n, i := range all {
		ids[n] = i.ID
	}
	counts, err := s.Store.CountLinesOf(ctx, ids)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := ImportList{Imports: []Import{}, Days: operation.DeskOf(ctx).Site.ImportDays}
	for _, i := range all {
		body.Imports = append(body.Imports, s.view(i, counts[i.ID]))
	}
	return &struct{ Body ImportList }{body}, nil
}

type beginInput struct {
	operation.SitePath
	Body struct {
		Source string `json:"source" doc:"a name, such as that of the file"`
	}
}

func (s part) begin(ctx context.Context, in *beginInput) (*struct{ Body Import }, error) {
	i, err := imports.Begin(ctx, operation.DeskOf(ctx), in.Body.Source, s.Clock.Now())
	return s.answer(ctx, i, err)
}

func (s part) answer(ctx context.Context, i store.Import, err error) (*struct{ Body Import }, error) {
	if err != nil {
		return nil, s.problem(err)
	}
	counts, err := s.Store.CountLines(ctx, i.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Import }{s.view(i, counts)}, nil
}

// LeftFile is a file that is left out.
type LeftFile struct {
	Path string `json:"path"`
	Why  string `json:"why"`
}

// TimedLine is a line with the time that it is to have.
type TimedLine struct {
	Nr     int             `json:"nr"`
	At     operation.Place `json:"at"`
	Past   bool            `json:"past,omitempty" doc:"it comes out at once, with that date"`
	Reason string          `json:"reason"`
}

// WholeImport is an import with all that is said of it.
type WholeImport struct {
	Import
	Setup imports.Setup `json:"setup"`
	Files int           `json:"files" doc:"that it has still"`
	Left  []LeftFile    `json:"leftFiles"`
	// Token stands for exactly this.
	Token  string      `json:"token,omitempty" doc:"of a proposal: stands for exactly this, for committing it"`
	Times  []TimedLine `json:"times,omitempty" doc:"of a proposal with times: the first ones"`
	Timed  int         `json:"timed,omitempty" doc:"how many get times"`
	Last   *TimedLine  `json:"last,omitempty" doc:"the last of them"`
	Untime int         `json:"untimed,omitempty" doc:"how many find no time, and go to the shelf"`
	Cannot string      `json:"cannot,omitempty" doc:"why it cannot be committed as it is"`
	Line   int64       `json:"line,omitempty" doc:"its line of the logbook, for undoing it"`
}

// timesShown is how many times are shown of a proposal.
const timesShown = 200

func (s part) whole(ctx context.Context, site store.Site, p imports.Proposal) (WholeImport, error) {
	w := WholeImport{Import: s.view(p.Import, p.Counts), Setup: p.Setup, Left: []LeftFile{}, Timed: len(p.Times), Untime: len(p.Untime), Cannot: p.Problem}
	left, err := imports.LeftFiles(p.Import)
	if err != nil {
		return w, err
	}
	for _, l := range left {
		w.Left = append(w.Left, LeftFile(l))
	}
	files, err := s.Store.ImportFiles(ctx, p.Import.ID)
	if err != nil {
		return w, err
	}
	if w.Files = len(files); p.Import.State == store.ImportProposed {
		w.Token = p.Token()
	}
	for _, t := range p.Times[:min(len(p.Times), timesShown)] {
		w.Times = append(w.Times, timedOf(site.Zone(), t))
	}
	if n := len(p.Times); n > 0 {
		last := timedOf(site.Zone(), p.Times[n-1])
		w.Last = &last
	}
	if p.Import.Act != nil && p.Import.State != store.ImportUndone && p.Import.State != store.ImportUndoing {
		lines, err := s.Store.LinesOf(ctx, site.ID, *p.Import.Act)
		if err != nil {
			return w, err
		}
		if len(lines) > 0 && lines[0].UndoneAt == nil {
			w.Line = lines[0].ID
		}
	}
	return w, nil
}

func timedOf(zone civil.Zone, t imports.Timed) TimedLine {
	return TimedLine{Nr: t.Nr, At: *operation.MaybePlace(zone, &t.At), Past: t.Past, Reason: t.Reason}
}

func (s part) get(ctx context.Context, in *operation.ItemPath) (*struct{ Body WholeImport }, error) {
	site := operation.DeskOf(ctx).Site
	i, err := s.Store.Import(ctx, site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	p, err := imports.Propose(ctx, s.Store.Queries, site, i, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	w, err := s.whole(ctx, site, p)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body WholeImport }{w}, nil
}

func (s part) delete(ctx context.Context, in *operation.ItemPath) (*struct{}, error) {
	return nil, s.Problem(imports.Delete(ctx, operation.DeskOf(ctx), in.ID))
}

type fileInput struct {
	operation.SitePath
	ID      int64  `path:"id" minimum:"1"`
	Path    string `query:"path" required:"true" maxLength:"1000" doc:"of the file, with its folders"`
	From    int64  `query:"from" minimum:"0" doc:"how many bytes of the file came before"`
	More    bool   `query:"more" doc:"more of the file is to follow"`
	RawBody []byte `contentType:"application/octet-stream"`
}

func (s part) addFile(ctx context.Context, in *fileInput) (*struct{}, error) {
	return nil, s.problem(imports.AddFile(ctx, operation.DeskOf(ctx), in.ID, imports.Part{Path: in.Path, From: in.From, Last: !in.More, Data: in.RawBody}))
}

// SheetRow is a row of a sheet as it stands.
type SheetRow struct {
	Row   int      `json:"row" doc:"counted from 1"`
	Cells []string `json:"cells"`
}

// ImportLook is what the files of an import hold.
type ImportLook struct {
	Kind     string        `json:"kind" enum:"articles,sheet"`
	Articles int           `json:"articles"`
	Pictures int           `json:"pictures"`
	Left     []LeftFile    `json:"left" doc:"files that are left out"`
	Sheets   []string      `json:"sheets,omitempty" doc:"names; one without a name is empty"`
	Sheet    string        `json:"sheet,omitempty" doc:"the one that is shown"`
	Rows     []SheetRow    `json:"rows,omitempty" doc:"its first rows"`
	Headings []string      `json:"headings,omitempty" doc:"of its columns; numbers where there are none"`
	Guess    imports.Setup `json:"guess" doc:"how it may be meant"`
}

type lookInput struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Sheet imports.Sheet `json:"sheet,omitempty"`
	}
}

func (s part) look(ctx context.Context, in *lookInput) (*struct{ Body ImportLook }, error) {
	i, err := s.Store.Import(ctx, operation.DeskOf(ctx).Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	l, err := imports.LookAt(ctx, s.Store.Queries, i, in.Body.Sheet)
	if err != nil {
		return nil, s.problem(err)
	}
	body := ImportLook{Kind: l.Kind, Articles: l.Articles, Pictures: l.Pictures, Left: []LeftFile{}, Sheets: l.Sheet.Names, Sheet: l.Sheet.Name, Headings: l.Sheet.Headings, Guess: l.Guess}
	for _, one := range l.Left {
		body.Left = append(body.Left, LeftFile(one))
	}
	for _, r := range l.Sheet.Rows {
		body.Rows = append(body.Rows, SheetRow{r.Line, r.Cells})
	}
	return &struct{ Body ImportLook }{body}, nil
}

type setupInput struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Setup imports.Setup `json:"setup"`
	}
}

// previewed is how many lines a preview shows.
const previewed = 8

// ImportPreview is what the first lines become.
type ImportPreview struct {
	Lines []ImportLine `json:"lines"`
}

func (s part) preview(ctx context.Context, in *setupInput) (*struct{ Body ImportPreview }, error) {
	site := operation.DeskOf(ctx).Site
	i, err := s.Store.Import(ctx, site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	shown, err := imports.Preview(ctx, s.Store.Queries, i, in.Body.Setup, previewed, s.Clock.Now())
	if err != nil {
		return nil, s.problem(err)
	}
	body := ImportPreview{Lines: []ImportLine{}}
	for _, one := range shown {
		line, err := s.line(ctx, site, one, cut)
		if err != nil {
			return nil, s.Problem(err)
		}
		body.Lines = append(body.Lines, line)
	}
	return &struct{ Body ImportPreview }{body}, nil
}

type readInput struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Version int           `json:"version"`
		Setup   imports.Setup `json:"setup"`
	}
}

func (s part) read(ctx context.Context, in *readInput) (*struct{ Body Import }, error) {
	i, err := imports.Read(ctx, operation.DeskOf(ctx), in.ID, in.Body.Version, in.Body.Setup, s.Clock.Now())
	return s.answer(ctx, i, err)
}

// StaleImport answers who commits what it would no longer come to.
type StaleImport struct {
	operation.Problem
	Import *WholeImport `json:"import,omitempty" doc:"the import as it is now"`
}

type commitInput struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Token string `json:"token"`
	}
}

func (s part) commit(ctx context.Context, in *commitInput) (*struct{ Body Import }, error) {
	site := operation.DeskOf(ctx).Site
	i, err := imports.Commit(ctx, operation.DeskOf(ctx), in.ID, in.Body.Token, s.Clock.Now())
	if err != nil {
		return nil, operation.Outdated(s.Tools, err, func(p operation.Problem, now imports.Proposal) error {
			w, err := s.whole(ctx, site, now)
			if err != nil {
				return s.Problem(err)
			}
			return &StaleImport{p, &w}
		})
	}
	return s.answer(ctx, i, nil)
}

type paceInput struct {
	operation.SitePath
	ID   int64 `path:"id" minimum:"1"`
	Body struct {
		Version int `json:"version"`
	}
}

func (s part) pace(ctx context.Context, in *paceInput, how string) (*struct{ Body Import }, error) {
	d := operation.DeskOf(ctx)
	var i store.Import
	var err error
	switch how {
	case "pause":
		i, err = imports.Pause(ctx, d, in.ID, in.Body.Version)
	case "resume":
		i, err = imports.Resume(ctx, d, in.ID, in.Body.Version)
	default:
		i, err = imports.Cancel(ctx, d, in.ID, in.Body.Version, s.Clock.Now())
	}
	return s.answer(ctx, i, err)
}

func (s part) hurry(ctx context.Context, in *operation.ItemPath) (*struct{ Body Import }, error) {
	i, err := imports.Hurry(ctx, s.Store, operation.DeskOf(ctx).Site.ID, in.ID)
	return s.answer(ctx, i, err)
}

// Trigger is an address by which the next portion of an import is asked for.
type Trigger struct {
	Address string `json:"address" doc:"for POST requests; shown once"`
}

func (s part) makeTrigger(ctx context.Context, in *paceInput) (*struct{ Body Trigger }, error) {
	secret, _, err := imports.MakeTrigger(ctx, operation.DeskOf(ctx), in.ID, in.Body.Version)
	if err != nil {
		return nil, s.problem(err)
	}
	return &struct{ Body Trigger }{Trigger{s.Public + triggers + "/" + secret}}, nil
}

func (s part) pullTrigger(ctx context.Context, in *struct {
	Secret string `path:"secret" maxLength:"200"`
}) (*struct{}, error) {
	i, err := s.Store.ImportByTrigger(ctx, secrets.Hash(in.Secret))
	if err != nil {
		return nil, s.Problem(err)
	}
	_, err = imports.Hurry(ctx, s.Store, i.SiteID, i.ID)
	return nil, s.Problem(err)
}

// KeptSetup is a setup that is kept by name.
type KeptSetup struct {
	Name  string        `json:"name"`
	Setup imports.Setup `json:"setup"`
}

// KeptSetupList are the site's.
type KeptSetupList struct {
	Setups []KeptSetup `json:"setups"`
}

func (s part) listSetups(ctx context.Context, _ *operation.SitePath) (*struct{ Body KeptSetupList }, error) {
	all, err := s.Store.ImportRecipes(ctx, operation.DeskOf(ctx).Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := KeptSetupList{Setups: []KeptSetup{}}
	for _, r := range all {
		setup, err := imports.SetupOf(store.Import{Setup: r.Setup})
		if err != nil {
			return nil, s.Problem(err)
		}
		body.Setups = append(body.Setups, KeptSetup{r.Name, setup})
	}
	return &struct{ Body KeptSetupList }{body}, nil
}

type saveSetupInput struct {
	operation.SitePath
	Name string `query:"name" required:"true" maxLength:"200"`
	Body imports.Setup
}

func (s part) saveSetup(ctx context.Context, in *saveSetupInput) (*struct{}, error) {
	return nil, s.Problem(imports.SaveRecipe(ctx, operation.DeskOf(ctx), in.Name, in.Body, s.Clock.Now()))
}

func (s part) deleteSetup(ctx context.Context, in *struct {
	operation.SitePath
	Name string `query:"name" required:"true" maxLength:"200"`
}) (*struct{}, error) {
	return nil, s.Problem(s.Store.DeleteImportRecipe(ctx, operation.DeskOf(ctx).Site.ID, in.Name))
}

// picturePath is where a picture of an import's files is shown before it is in the library.
func picturePath(site store.Site, id int64, file string) string {
	return "/api/v1/sites/" + site.Slug + "/imports/" + strconv.FormatInt(id, 10) + "/picture?path=" + url.QueryEscape(file)
}
