// Package rules has the operations of rules, channels and planned outings.
package rules

import (
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/go-chi/chi/v5"

	"dapper.example/internal/act"
	"dapper.example/internal/api/channels"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/channel"
	"dapper.example/internal/core/check"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/message"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

type part struct{ *operation.Tools }

// Register adds the operations.
func Register(api huma.API, tools *operation.Tools) {
	s := part{tools}
	s.ruleOperations(api)
	s.outingOperations(api)
	s.preparedOperations(api)
	s.upkeepOperations(api)
}

// Rules is what the screens of rules work with.
type Rules struct {
	Rules      []Rule              `json:"rules" doc:"in the order in which those that are due at once take their turns"`
	Forms      []condition.Form    `json:"forms" doc:"every test of a condition with its ways of comparing"`
	Vocabulary Vocabulary          `json:"vocabulary"`
	Channels   []channels.Channel  `json:"channels"`
	Published  int                 `json:"published" doc:"how many posts are published"`
	Begin      map[string]RuleBody `json:"begin" doc:"a new rule of each kind"`
	Tests      []condition.Node    `json:"tests" doc:"a new test of each form, in each of its ways"`
	Now        operation.Place     `json:"now"`
}

// Vocabulary is what posts can be asked for by name.
type Vocabulary struct {
	Categories   []string `json:"categories"`
	Tags         []string `json:"tags"`
	Authors      []string `json:"authors"`
	Imports      []string `json:"imports"`
	Fields       []string `json:"fields" doc:"custom fields"`
	Placeholders []string `json:"placeholders" doc:"of wordings"`
}

// CaughtPost is a post of a catch with the reasons.
type CaughtPost struct {
	ID       int64              `json:"id"`
	Title    string             `json:"title"`
	Category string             `json:"category,omitempty"`
	Status   string             `json:"status"`
	Caught   bool               `json:"caught"`
	Excluded bool               `json:"excluded" doc:"left out by hand"`
	Reason   string             `json:"reason"`
	Because  []condition.Reason `json:"because"`
}

// ComingEvent is what a rule does next.
type ComingEvent struct {
	operation.Place
	Turn      time.Time `json:"turn" doc:"the turn of the rule that it belongs to, by which it is changed"`
	ChannelID int64     `json:"channelId,omitempty"`
	Channel   string    `json:"channel,omitempty"`
	OutingID  int64     `json:"outingId,omitempty" doc:"where it is planned already: change that"`
	Version   int       `json:"version,omitempty" doc:"of the outing"`
	InHand    bool      `json:"inHand,omitempty" doc:"an editor took the turn in hand"`
	IsReply   bool      `json:"isReply,omitempty" doc:"it follows under another message"`
	Own       string    `json:"own,omitempty" doc:"its text with placeholders"`
	PostID    int64     `json:"postId"`
	Title     string    `json:"title"`
	Reason    string    `json:"reason"`
	Text      string    `json:"text,omitempty" doc:"the whole message"`
	Graphemes int       `json:"graphemes,omitempty"`
	Wording   int       `json:"wording" doc:"counted from 0"`
	Fit       string    `json:"fit,omitempty" doc:"what the composer had to give up"`
}

// RulePreview is what a rule would do.
type RulePreview struct {
	Problems  []check.FieldProblem `json:"problems" doc:"while there are any, the rest is empty"`
	Sentence  string               `json:"sentence"`
	Often     string               `json:"often"`
	Count     int                  `json:"count" doc:"posts that it catches, or that may come out by it now"`
	Published int                  `json:"published"`
	Token     string               `json:"token" doc:"stands for exactly this catch, for arming"`
	Later     int                  `json:"later" doc:"how many of an expiry's catch wait for later runs, since a run takes fewer"`
	Wide      bool                 `json:"wide" doc:"an expiry of more than a fifth of the published posts: its size must be confirmed"`
	ForGood   bool                 `json:"forGood" doc:"it deletes for good: the size must be confirmed"`
	All       bool                 `json:"all" doc:"an expiry of every published post: it is refused"`
	Posts     []CaughtPost         `json:"posts" doc:"some of them, in the order in which they would be taken"`
	BadDates  []CaughtPost         `json:"badDates" doc:"posts of which a field that should hold a date does not"`
	Warnings  []string             `json:"warnings"`
	Coming    []ComingEvent        `json:"coming" doc:"what it would do next, were it armed"`
	Round     *operation.Place     `json:"round,omitempty" doc:"about when every post of its pool will have had its turn"`
	Dry       *operation.Place     `json:"dry,omitempty" doc:"from when on it has no post for a turn, as far as was looked"`
	Unfit     []Unfit              `json:"unfit" doc:"messages that the channel cannot take, those of posts that would go out next first"`
}

// Unfit is a message that a channel cannot take.
type Unfit struct {
	PostID  int64  `json:"postId"`
	Title   string `json:"title"`
	Channel string `json:"channel"`
	Wording int    `json:"wording" doc:"counted from 0"`
	Over    int    `json:"over" doc:"by how many characters it is too long; 0: it is not"`
	Reason  string `json:"reason"`
}

const (
	rulesPath    = "/api/v1/sites/{site}/rules"
	rulePath     = rulesPath + "/{id}"
	caughtAPage  = 100
	comingEvents = 20
	runsShown    = 20
)

func (s part) ruleOperations(api huma.API) {
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{
		OperationID: "list-rules", Method: http.MethodGet, Path: rulesPath,
		Summary: "The site's rules, and what they can be made of",
	}, s.listRules)
	huma.Register(api, huma.Operation{
		OperationID: "create-rule", Method: http.MethodPost, Path: rulesPath, Summary: "Make a rule",
		DefaultStatus: http.StatusCreated,
		Description:   "It is not turned on yet.",
	}, s.createRule)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "preview-rule", Method: http.MethodPost, Path: rulesPath +
			"/preview", Summary: "What a rule catches, and what it would do next",
		Description: "Nothing is saved. The rule may be a new one, or a kept one with changes.",
	}), s.previewRule)
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "explain-rule", Method: http.MethodPost, Path: rulesPath +
			"/why", Summary: "Why a rule catches a post, or does not",
	}), s.explainRule)
	huma.Register(api, huma.Operation{
		OperationID: "save-rule", Method: http.MethodPut, Path: rulePath, Summary: "Save a rule", Errors: stale,
		Description: "An expiry rule whose condition or action changes must be turned on again.",
	}, s.saveRule)
	huma.Register(api, huma.Operation{
		OperationID: "delete-rule", Method: http.MethodDelete, Path: rulePath, Summary: "Delete a rule",
		DefaultStatus: http.StatusNoContent, Errors: stale,
		Description: "What it did stays as it is.",
	}, s.deleteRule)
	huma.Register(api, operation.Conflict[StaleCatch](api, huma.Operation{
		OperationID: "arm-rule", Method: http.MethodPost, Path: rulePath +
			"/arm", Summary: "Arm a rule, or let one that holds go on",
		Description: "From the preview of its catch: with another catch meanwhile, nothing is done and the answer (409) holds the new one.",
	}), s.armRule)
	huma.Register(api, huma.Operation{
		OperationID: "disarm-rule", Method: http.MethodPost, Path: rulePath +
			"/disarm", Summary: "Put a rule out of action", Errors: stale,
	}, s.disarmRule)
	huma.Register(api, operation.Conflict[StaleCatch](api, huma.Operation{
		OperationID: "run-rule", Method: http.MethodPost, Path: rulePath +
			"/run", Summary: "Have an expiry rule take its catch now",
	}), s.runRule)
	huma.Register(api, huma.Operation{
		OperationID: "set-exclusion", Method: http.MethodPut, Path: rulePath +
			"/exclusions/{post}", Summary: "Leave a post out of a rule, or let it in again",
		DefaultStatus: http.StatusNoContent,
	}, s.setExclusion)
	huma.Register(api, huma.Operation{
		OperationID: "set-pick", Method: http.MethodPut, Path: rulePath +
			"/picks/{post}", Summary: "Pick a post for a rule that shares only picked ones, or take it back",
		DefaultStatus: http.StatusNoContent,
	}, s.setPick)
	huma.Register(api, huma.Operation{
		OperationID: "list-runs", Method: http.MethodGet, Path: rulePath +
			"/runs", Summary: "The latest turns of a rule, and what it shared",
	}, s.listRuns)
}

// ConditionSchema serves the JSON Schema of conditions.
func ConditionSchema(r chi.Router) {
	r.Get("/api/v1/condition.schema.json", func(w http.ResponseWriter, _ *http.Request) {
		w.Header().Set("Content-Type", "application/schema+json")
		json.NewEncoder(w).Encode(condition.Schema())
	})
}

// ruleEditor is who asks, at work on the rules of the site.
func (s part) ruleEditor(ctx context.Context) siterules.Editor {
	return siterules.Editor{Desk: operation.DeskOf(ctx), Public: s.Public, Queue: s.Queue}
}

func (s part) listRules(ctx context.Context, in *operation.SitePath) (*struct{ Body Rules }, error) {
	desk := operation.DeskOf(ctx)
	body, err := s.rules(ctx, desk.Site)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body Rules }{body}, nil
}

func (s part) rules(ctx context.Context, site store.Site) (Rules, error) {
	body := Rules{Now: operation.PlaceAt(site.Zone(), s.Clock.Now()), Rules: []Rule{}, Forms: condition.Forms,
		Channels: []channels.Channel{}}
	rules, err := s.Store.Rules(ctx, site.ID)
	if err != nil {
		return body, err
	}
	kept, err := s.Store.Channels(ctx, site.ID)
	if err != nil {
		return body, err
	}
	turns, err := s.Book(site).Turns(ctx, s.Store.Queries, s.Clock.Now())
	if err != nil {
		return body, err
	}
	var leads []int64
	for _, r := range rules {
		view := viewRule(site.Zone(), r, kept, turns[r.ID])
		runs, err := s.Store.Runs(ctx, site.ID, r.ID, 1)
		if err != nil {
			return body, err
		}
		if len(runs) > 0 {
			last := viewRun(site.Zone(), runs[0])
			view.Last, view.LastOnServer = &last, onServer(runs[0].At)
		}
		if r.Settings.LeadsTo != 0 {
			leads = append(leads, r.Settings.LeadsTo)
		}
		body.Rules = append(body.Rules, view)
	}
	titles, err := s.Store.Titles(ctx, site.ID, leads)
	if err != nil {
		return body, err
	}
	for i := range body.Rules {
		body.Rules[i].LeadsToTitle = titles[body.Rules[i].LeadsTo]
	}
	if body.Channels, err = channels.Views(ctx, s.Store.Queries, site, s.Clock.Now()); err != nil {
		return body, err
	}
	v, err := s.Store.Vocabulary(ctx, site.ID)
	if err != nil {
		return body, err
	}
	body.Vocabulary = Vocabulary{Categories: v.Categories, Tags: v.Tags, Authors: v.Authors, Imports: v.Imports,
		Fields: v.Fields}
	for _, p := range message.Placeholders {
		body.Vocabulary.Placeholders = append(body.Vocabulary.Placeholders, string(p))
	}
	var ids []int64
	for _, c := range kept {
		ids = append(ids, c.ID)
	}
	body.Begin = make(map[string]RuleBody)
	for _, kind := range store.RuleKinds {
		body.Begin[string(kind)] = viewRuleBody(siterules.Begin(kind, ids))
	}
	for _, f := range condition.Forms {
		for _, w := range f.Ways {
			body.Tests = append(body.Tests, condition.Begin(f, w))
		}
	}
	body.Published, err = s.Store.CountPublished(ctx, site.ID)
	return body, err
}

type ruleOutput struct {
	Body Rule
}

func (s part) rule(ctx context.Context, site store.Site, id int64) (*ruleOutput, error) {
	r, err := s.Store.Rule(ctx, site.ID, id)
	if err != nil {
		return nil, s.Problem(err)
	}
	channels, err := s.Store.Channels(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	turns, err := s.Book(site).Turns(ctx, s.Store.Queries, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	view := viewRule(site.Zone(), r, channels, turns[id])
	if view.LeadsTo != 0 {
		titles, err := s.Store.Titles(ctx, site.ID, []int64{view.LeadsTo})
		if err != nil {
			return nil, s.Problem(err)
		}
		view.LeadsToTitle = titles[view.LeadsTo]
	}
	return &ruleOutput{view}, nil
}

// checked turns a body into a rule, or fails with all that is wrong with it.
func checked(ctx context.Context, db *store.Store, site store.Site, id int64, body RuleBody) (store.Rule,
	[]*act.Invalid, error) {
	body.Name = strings.TrimSpace(body.Name)
	r, problems := body.kept(id)
	channels, err := db.Channels(ctx, site.ID)
	if err != nil {
		return r, nil, err
	}
	lists, err := siterules.Lists(ctx, db.Queries, site.ID)
	if err != nil {
		return r, nil, err
	}
	return r, append(problems, siterules.Problems(r, site, channels, lists)...), nil
}

// valid is checked for what is to be saved: all that is wrong is the answer.
func (s part) valid(ctx context.Context, site store.Site, id int64, body RuleBody) (store.Rule, error) {
	r, problems, err := checked(ctx, s.Store, site, id, body)
	if err == nil && len(problems) > 0 {
		err = operation.Invalid(problems...)
	}
	return r, s.Problem(err)
}

type ruleInput struct {
	operation.SitePath
	Body RuleBody
}

func (s part) createRule(ctx context.Context, in *ruleInput) (*ruleOutput, error) {
	desk := s.ruleEditor(ctx)
	r, err := s.valid(ctx, desk.Site, 0, in.Body)
	if err != nil {
		return nil, err
	}
	r.Seed = act.NewSeed()
	id, err := desk.Create(ctx, r, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.rule(ctx, desk.Site, id)
}

type saveRuleInput struct {
	operation.ItemPath
	Body RuleBody
}

func (s part) saveRule(ctx context.Context, in *saveRuleInput) (*ruleOutput, error) {
	desk := s.ruleEditor(ctx)
	r, err := s.valid(ctx, desk.Site, in.ID, in.Body)
	if err != nil {
		return nil, err
	}
	kept, err := s.Store.Rule(ctx, desk.Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	r.Seed = kept.Seed
	if err := desk.Save(ctx, r, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.rule(ctx, desk.Site, in.ID)
}

type deleteRuleInput struct {
	operation.ItemPath
	Version int `query:"version" required:"true" minimum:"1" doc:"the version that was seen"`
}

func (s part) deleteRule(ctx context.Context, in *deleteRuleInput) (*struct{}, error) {
	desk := s.ruleEditor(ctx)
	return nil, s.Problem(desk.Delete(ctx, in.ID, in.Version, s.Clock.Now()))
}

type previewInput struct {
	operation.SitePath
	Body struct {
		ID     int64    `json:"id" required:"false" doc:"of a kept rule; 0 of a new one"`
		Rule   RuleBody `json:"rule"`
		Offset int      `json:"offset" required:"false" minimum:"0"`
		Coming bool     `json:"coming" required:"false" doc:"also foretell what it does next"`
	}
}

// Proposed is a rule as it would be, with what is kept of it beside.
func Proposed(ctx context.Context, db *store.Store, site store.Site, id int64, body RuleBody) (store.Rule,
	[]*act.Invalid, error) {
	r, problems, err := checked(ctx, db, site, id, body)
	if err != nil || id == 0 {
		r.SiteID = site.ID
		return r, problems, err
	}
	kept, err := db.Rule(ctx, site.ID, id)
	if err != nil {
		return r, problems, err
	}
	r.SiteID, r.Position, r.Seed, r.Allowed = site.ID, kept.Position, kept.Seed, kept.Allowed
	r.ArmedAt, r.ServedAt, r.HeldAt, r.SpokeOn = kept.ArmedAt, kept.ServedAt, kept.HeldAt, kept.SpokeOn
	return r, problems, nil
}

func (s part) previewRule(ctx context.Context, in *previewInput) (*struct{ Body RulePreview }, error) {
	desk := operation.DeskOf(ctx)
	r, problems, err := Proposed(ctx, s.Store, desk.Site, in.Body.ID, in.Body.Rule)
	if err != nil {
		return nil, s.Problem(err)
	}
	view := emptyPreview(r)
	for _, p := range problems {
		view.Problems = append(view.Problems, check.FieldProblem{Path: p.Field, Message: p.Message})
	}
	if len(problems) > 0 {
		return &struct{ Body RulePreview }{view}, nil
	}
	page := siterules.PreviewPage{Offset: in.Body.Offset, Limit: caughtAPage}
	if in.Body.Coming {
		page.Coming = comingEvents
	}
	now := s.Clock.Now()
	// How old posts are changes by the minute.
	minute := deed.Minute(now)
	question := fmt.Sprintf("a rule's preview at %d: %s", minute.Unix(), act.TokenOf("preview", r, page))
	view, err = operation.Remember(ctx, s.Tools, desk.Site, question, now, func() (RulePreview, time.Time, error) {
		preview, err := s.Book(desk.Site).Preview(ctx, s.Store.Queries, r, page, now)
		if err != nil {
			return RulePreview{}, now, err
		}
		titles, err := s.titlesOf(ctx, desk.Site.ID, preview)
		return viewPreview(desk.Site, r, preview, titles), minute.Add(time.Minute), err
	})
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body RulePreview }{view}, nil
}

func (s part) titlesOf(ctx context.Context, siteID int64, p siterules.Preview) (map[int64]string, error) {
	ids := []int64{}
	for _, e := range p.Coming {
		ids = append(ids, e.Post)
	}
	for _, u := range p.Unfit {
		ids = append(ids, u.Post)
	}
	return s.Store.Titles(ctx, siteID, ids)
}

func emptyPreview(r store.Rule) RulePreview {
	return RulePreview{Problems: []check.FieldProblem{}, Sentence: condition.Sentence(r.Condition),
		Often: r.Cadence.String(),
		Posts: []CaughtPost{}, BadDates: []CaughtPost{}, Warnings: []string{}, Coming: []ComingEvent{},
		Unfit: []Unfit{}}
}

func viewPreview(site store.Site, r store.Rule, p siterules.Preview, titles map[int64]string) RulePreview {
	view := emptyPreview(r)
	view.Count, view.Published, view.Token, view.Wide, view.All = p.Count, p.Published, p.Token(), p.Wide, p.All
	view.Later, view.ForGood = p.Later, p.ForGood
	view.Warnings = append(view.Warnings, p.Warnings...)
	for _, c := range p.Posts {
		view.Posts = append(view.Posts, viewCaught(c))
	}
	for _, c := range p.BadDates {
		view.BadDates = append(view.BadDates, viewCaught(c))
	}
	for _, u := range p.Unfit {
		view.Unfit = append(view.Unfit, Unfit{PostID: u.Post, Title: titles[u.Post], Channel: p.Channels[u.Channel],
			Wording: u.Wording, Over: u.Over, Reason: u.Why})
	}
	for _, end := range []struct {
		at time.Time
		to **operation.Place
	}{{p.Round, &view.Round}, {p.Dry, &view.Dry}} {
		if !end.at.IsZero() {
			place := operation.PlaceAt(site.Zone(), end.at)
			*end.to = &place
		}
	}
	for _, e := range p.Coming {
		coming := ComingEvent{Place: operation.PlaceAt(site.Zone(), e.At), PostID: e.Post, Title: titles[e.Post],
			Reason: e.Reason, Text: e.Text}
		if s, sends := e.Deed.(deed.Share); sends {
			coming.Graphemes, coming.Wording, coming.Fit = s.Message.Graphemes, s.Wording, s.Message.Fit.String()
			coming.ChannelID, coming.Channel = s.Channel, p.Channels[s.Channel]
			coming.Turn, coming.IsReply = siterules.TurnOf(e, s), s.Parent != 0
			if o, planned := p.Planned[s.Outing]; planned {
				coming.OutingID, coming.Version, coming.InHand, coming.Own = o.ID, o.Version, o.Turn != nil, o.OwnText
			} else {
				coming.Own = s.Own
			}
		}
		view.Coming = append(view.Coming, coming)
	}
	return view
}

func viewCaught(c siterules.Caught) CaughtPost {
	return CaughtPost{ID: c.Post.Post, Title: c.Post.Title, Category: c.Post.Category, Status: c.Post.Status,
		Caught:   c.Verdict.Caught,
		Excluded: c.Excluded, Reason: c.Verdict.String(), Because: append([]condition.Reason{}, c.Verdict.Because...)}
}

type explainInput struct {
	operation.SitePath
	Body struct {
		ID   int64    `json:"id" required:"false"`
		Rule RuleBody `json:"rule"`
		Post int64    `json:"post" minimum:"1"`
	}
}

func (s part) explainRule(ctx context.Context, in *explainInput) (*struct{ Body CaughtPost }, error) {
	desk := operation.DeskOf(ctx)
	r, problems, err := Proposed(ctx, s.Store, desk.Site, in.Body.ID, in.Body.Rule)
	if err != nil {
		return nil, s.Problem(err)
	}
	if len(problems) > 0 {
		return nil, operation.Invalid(problems...)
	}
	c, err := s.Book(desk.Site).Why(ctx, s.Store.Queries, r, in.Body.Post, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body CaughtPost }{viewCaught(c)}, nil
}

type agreementInput struct {
	operation.ItemPath
	Body struct {
		Version int    `json:"version" doc:"the version that was seen"`
		Token   string `json:"token" required:"false" doc:"of the preview that was seen; expiry rules need it"`
		Confirm int    `json:"confirm" required:"false" doc:"the size of a wide catch, written by hand"`
	}
}

func (s part) armRule(ctx context.Context, in *agreementInput) (*ruleOutput, error) {
	desk := s.ruleEditor(ctx)
	err := desk.Arm(ctx, in.ID, in.Body.Version, siterules.Agreement{Token: in.Body.Token, Confirm: in.Body.Confirm},
		s.Clock.Now())
	if err != nil {
		return nil, s.another(ctx, desk, in.ID, err)
	}
	return s.rule(ctx, desk.Site, in.ID)
}

// another answers 409 with the catch as it is now where it is not the one that was
// shown.
func (s part) another(ctx context.Context, desk siterules.Editor, id int64, err error) error {
	r, failed := s.Store.Rule(ctx, desk.Site.ID, id)
	if failed != nil {
		return s.Problem(failed)
	}
	return operation.Outdated(s.Tools, err, func(p operation.Problem, now siterules.Preview) error {
		view := viewPreview(desk.Site, r, now, nil)
		return &StaleCatch{p, &view}
	})
}

// StaleCatch answers who agrees to a catch that is no longer the rule's.
type StaleCatch struct {
	operation.Problem
	Catch *RulePreview `json:"catch,omitempty" doc:"the rule's catch as it is now"`
}

type versionInput struct {
	operation.ItemPath
	Body struct {
		Version int `json:"version" doc:"the version that was seen"`
	}
}

func (s part) disarmRule(ctx context.Context, in *versionInput) (*ruleOutput, error) {
	desk := s.ruleEditor(ctx)
	if err := desk.Disarm(ctx, in.ID, in.Body.Version, s.Clock.Now()); err != nil {
		return nil, s.Problem(err)
	}
	return s.rule(ctx, desk.Site, in.ID)
}

// Ran tells what a run by hand took.
type Ran struct {
	Took int `json:"took"`
}

func (s part) runRule(ctx context.Context, in *agreementInput) (*struct{ Body Ran }, error) {
	desk := s.ruleEditor(ctx)
	took, err := desk.Run(ctx, in.ID, in.Body.Version, siterules.Agreement{Token: in.Body.Token,
		Confirm: in.Body.Confirm}, s.Clock.Now())
	if err != nil {
		return nil, s.another(ctx, desk, in.ID, err)
	}
	return &struct{ Body Ran }{Ran{took}}, nil
}

type excludeInput struct {
	operation.ItemPath
	Post int64 `path:"post" minimum:"1"`
	Body struct {
		Excluded bool `json:"excluded"`
	}
}

func (s part) setExclusion(ctx context.Context, in *excludeInput) (*struct{}, error) {
	desk := s.ruleEditor(ctx)
	return nil, s.Problem(desk.Exclude(ctx, in.ID, in.Post, in.Body.Excluded, s.Clock.Now()))
}

type pickInput struct {
	operation.ItemPath
	Post int64 `path:"post" minimum:"1"`
	Body struct {
		Picked bool `json:"picked"`
	}
}

func (s part) setPick(ctx context.Context, in *pickInput) (*struct{}, error) {
	desk := s.ruleEditor(ctx)
	return nil, s.Problem(desk.Pick(ctx, in.ID, in.Post, in.Body.Picked, s.Clock.Now()))
}

// Outing is a message that was sent, or waits to be.
type Outing struct {
	ID int64 `json:"id"`
	operation.Place
	PostID  int64  `json:"postId"`
	Title   string `json:"title"`
	Channel string `json:"channel"`
	Rule    string `json:"rule,omitempty"`
	Text    string `json:"text"`
	State   string `json:"state" enum:"planned,waiting,sent,failed,skipped,set aside"`
	Error   string `json:"error,omitempty" doc:"what went wrong last"`
	Tries   int    `json:"tries"`
	URL     string `json:"url,omitempty" doc:"where it can be read"`
	Clicks  int    `json:"clicks"`
}

// RuleHistory is what a rule did.
type RuleHistory struct {
	Runs     []RuleRun    `json:"runs" doc:"latest first"`
	Outings  []Outing     `json:"outings" doc:"latest first"`
	Excluded []CaughtPost `json:"excluded" doc:"posts that were left out by hand"`
	Picked   []CaughtPost `json:"picked" doc:"posts that were picked by hand"`
	Refused  []Refused    `json:"refused" doc:"messages that the network refused for good and that have not changed since, latest first"`
}

// Refused is a message that a network refused for good.
type Refused struct {
	operation.Place
	PostID  int64  `json:"postId"`
	Title   string `json:"title"`
	Channel string `json:"channel"`
	Wording int    `json:"wording" doc:"counted from 0"`
	Text    string `json:"text"`
	Reason  string `json:"reason" doc:"the network's"`
	Over    int    `json:"over,omitempty" doc:"by how many characters it is too long for the channel, where it is"`
}

func (s part) refused(ctx context.Context, site store.Site, rule store.Rule) ([]Refused, error) {
	refused := []Refused{}
	if len(rule.Settings.Channels) == 0 {
		return refused, nil
	}
	channels, err := s.Store.Channels(ctx, site.ID)
	if err != nil {
		return nil, err
	}
	limits := make(map[int64]message.Limits, len(channels))
	for _, c := range channels {
		limits[c.ID] = limitsOf(c.Kind)
	}
	all, err := s.Store.RefusedOf(ctx, site.ID, rule.ID, runsShown)
	for _, r := range all {
		refused = append(refused, Refused{Place: operation.PlaceAt(site.Zone(), r.At), PostID: r.Post, Title: r.Title,
			Channel: r.Network, Wording: r.Wording,
			Text: r.Text, Reason: r.Reason, Over: limits[r.Channel].Over(r.Text)})
	}
	return refused, err
}

// limitsOf are what a kind of network takes; nothing where there is none of that kind.
func limitsOf(kind string) message.Limits {
	if n, ok := channel.Of(kind); ok {
		return n.Limits()
	}
	return message.Limits{}
}

func (s part) viewOuting(site store.Site, o store.Outing) Outing {
	return Outing{ID: o.ID, Place: operation.PlaceAt(site.Zone(), o.At), PostID: int64(o.Post), Title: o.Title,
		Channel: o.Network,
		Rule:    o.RuleName, Text: o.Text,
		State: o.State, Error: o.Error, Tries: o.Tries, URL: o.RemoteURL, Clicks: o.Clicks}
}

func (s part) listRuns(ctx context.Context, in *operation.ItemPath) (*struct{ Body RuleHistory }, error) {
	desk := operation.DeskOf(ctx)
	rule, err := s.Store.Rule(ctx, desk.Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	history := RuleHistory{Runs: []RuleRun{}, Outings: []Outing{}, Excluded: []CaughtPost{}}
	runs, err := s.Store.Runs(ctx, desk.Site.ID, in.ID, runsShown)
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, r := range runs {
		history.Runs = append(history.Runs, viewRun(desk.Site.Zone(), r))
	}
	outings, err := s.Store.OutingsOf(ctx, desk.Site.ID, in.ID, runsShown)
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, o := range outings {
		history.Outings = append(history.Outings, s.viewOuting(desk.Site, o))
	}
	if history.Refused, err = s.refused(ctx, desk.Site, rule); err != nil {
		return nil, s.Problem(err)
	}
	excluded, err := s.Store.Exclusions(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	if history.Excluded, err = s.namedPosts(ctx, desk.Site.ID, excluded[in.ID], true); err != nil {
		return nil, s.Problem(err)
	}
	picked, err := s.Store.Picks(ctx, desk.Site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	if history.Picked, err = s.namedPosts(ctx, desk.Site.ID, picked[in.ID], false); err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body RuleHistory }{history}, nil
}

// namedPosts are posts by their ids, with their titles.
func (s part) namedPosts(ctx context.Context, siteID int64, all map[int64]bool, excluded bool) ([]CaughtPost, error) {
	ids := []int64{}
	for id := range all {
		ids = append(ids, id)
	}
	facts, err := s.Store.Facts(ctx, siteID, store.FactsFilter{IDs: ids})
	posts := []CaughtPost{}
	for _, f := range facts {
		posts = append(posts, CaughtPost{ID: f.Post, Title: f.Title, Category: f.Category, Status: f.Status,
			Excluded: excluded, Because: []condition.Reason{}})
	}
	return posts, err
}
