package rules

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"strings"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/act"
	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/check"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/condition"
	"dapper.example/internal/core/deed"
	"dapper.example/internal/core/upkeep"
	"dapper.example/internal/notices"
	"dapper.example/internal/siterules"
	"dapper.example/internal/store"
)

const (
	upkeepPath = "/api/v1/sites/{site}/upkeep"
	postPath   = "/api/v1/sites/{site}/posts/{id}"
)

func (s part) upkeepOperations(api huma.API) {
	stale := []int{http.StatusConflict}
	huma.Register(api, huma.Operation{OperationID: "get-age-map", Method: http.MethodGet, Path: upkeepPath + "/map",
		Summary: "Every published post by its age, and the rules that look after it"}, s.getAgeMap)
	huma.Register(api, huma.Operation{OperationID: "list-notices", Method: http.MethodGet, Path: upkeepPath + "/notices",
		Summary: "What rules are about to do, of which people were told"}, s.listNotices)
	huma.Register(api, operation.Question(huma.Operation{OperationID: "preview-once", Method: http.MethodPost, Path: upkeepPath + "/once/preview",
		Summary: "What an action would do once, to posts that were chosen or that match"}), s.previewOnce)
	huma.Register(api, operation.Conflict[StaleCatch](api, huma.Operation{OperationID: "do-once", Method: http.MethodPost, Path: upkeepPath + "/once",
		Summary: "Do an action once", Description: "To exactly the posts of the preview: with others meanwhile, nothing is done and the answer (409) holds the new preview. One undo takes all of it back, but what was deleted for good."}), s.doOnce)
	huma.Register(api, huma.Operation{OperationID: "order-rules", Method: http.MethodPut, Path: rulesPath + "/order", DefaultStatus: http.StatusNoContent,
		Summary: "Put the rules of a kind in order"}, s.orderRules)
	huma.Register(api, huma.Operation{OperationID: "confirm-read", Method: http.MethodPut, Path: rulePath + "/read/{post}", DefaultStatus: http.StatusNoContent,
		Summary: "Say that a post may come out again by a rule that asked for it to be read"}, s.confirmRead)
	huma.Register(api, huma.Operation{OperationID: "get-post-upkeep", Method: http.MethodGet, Path: postPath + "/upkeep",
		Summary: "Which rules catch a post, and what becomes of it next"}, s.getPostUpkeep)
	huma.Register(api, huma.Operation{OperationID: "keep-post", Method: http.MethodPut, Path: postPath + "/keep", Errors: stale,
		Summary: "Keep a post from expiring for a while"}, s.keepPost)
	huma.Register(api, huma.Operation{OperationID: "save-post-answer", Method: http.MethodPut, Path: postPath + "/answer", Errors: stale,
		Summary: "Say what readers get of a post once it is archived"}, s.savePostAnswer)
}

// AgeMap is what the age map shows.
type AgeMap struct {
	Now        time.Time  `json:"now"`
	Categories []string   `json:"categories" doc:"the lanes, in the blog's order; posts without a category are in the last one, which is empty"`
	Posts      []AgedPost `json:"posts" doc:"oldest first"`
	Total      int        `json:"total" doc:"published posts; where they are too many to show, more than there are in posts"`
	Lines      []RuleLine `json:"lines"`
}

// AgedPost is a published post. What is not so is left out.
type AgedPost struct {
	ID        int64     `json:"id"`
	Title     string    `json:"title"`
	Published time.Time `json:"published"`
	Lane      int       `json:"lane" doc:"the number of its category"`
	Page      bool      `json:"page,omitempty"`
	Evergreen bool      `json:"evergreen,omitempty"`
	Never     bool      `json:"never,omitempty" doc:"it never expires"`
	Kept      bool      `json:"kept,omitempty" doc:"it is kept for now"`
	Expires   bool      `json:"expires,omitempty" doc:"it has an expiry of its own"`
	Edited    bool      `json:"edited,omitempty" doc:"a timed edit waits"`
	Shared    int       `json:"shared,omitempty"`
	Again     int       `json:"again,omitempty" doc:"how often it came out again"`
	Looked    bool      `json:"looked,omitempty" doc:"a rule that is on catches it now or would some day, or it has an expiry of its own"`
	Rules     []int64   `json:"rules,omitempty" doc:"the rules of upkeep that catch it now, whether or not they are on"`
}

// RuleLine is a rule of upkeep with the age from which it catches posts.
type RuleLine struct {
	ID      int64           `json:"id"`
	Name    string          `json:"name"`
	Kind    string          `json:"kind" enum:"expire,republish"`
	Action  string          `json:"action,omitempty"`
	State   string          `json:"state" enum:"off,armed,held"`
	Lanes   []int           `json:"lanes" doc:"those that it may catch posts of"`
	HasAge  bool            `json:"hasAge" doc:"it draws a line"`
	Age     *condition.Span `json:"age,omitempty"`
	Days    float64         `json:"days,omitempty" doc:"the age, in days"`
	Over    bool            `json:"over,omitempty" doc:"it catches posts that are at least so old; otherwise those that are younger"`
	Path    string          `json:"path,omitempty" doc:"of the test in its condition"`
	Setting bool            `json:"setting,omitempty" doc:"the age is the rule's least age rather than a test of its condition"`
	Count   int             `json:"count" doc:"posts that it catches now"`
	Rule    RuleBody        `json:"rule" doc:"all of it, for a preview with another age"`
}

func stateOf(r store.Rule) string {
	switch {
	case r.ArmedAt != nil && r.HeldAt != nil:
		return "held"
	case r.ArmedAt != nil:
		return "armed"
	}
	return "off"
}

func (s part) getAgeMap(ctx context.Context, _ *operation.SitePath) (*struct{ Body AgeMap }, error) {
	site, now := operation.DeskOf(ctx).Site, s.Clock.Now()
	minute := deed.Minute(now)
	view, err := operation.Remember(ctx, s.Tools, site, fmt.Sprint("the age map at ", minute.Unix()), now, func() (AgeMap, time.Time, error) {
		m, err := s.Book(site).AgeMap(ctx, s.Store.Queries, now)
		if err != nil {
			return AgeMap{}, now, err
		}
		categories, err := s.Store.Categories(ctx, site.ID)
		return viewAgeMap(m, categories, now), minute.Add(time.Minute), err
	})
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body AgeMap }{view}, nil
}

func viewAgeMap(m siterules.AgeMap, categories []store.Category, now time.Time) AgeMap {
	view := AgeMap{Now: now, Categories: []string{}, Posts: make([]AgedPost, 0, len(m.Posts)), Total: m.Total, Lines: []RuleLine{}}
	lanes := make(map[string]int)
	for i, c := range categories {
		view.Categories = append(view.Categories, c.Name)
		lanes[strings.ToLower(c.Name)] = i
	}
	none := len(view.Categories)
	view.Categories = append(view.Categories, "")
	for _, p := range m.Posts {
		lane, known := lanes[strings.ToLower(p.Category)]
		if !known {
			lane = none
		}
		view.Posts = append(view.Posts, AgedPost{ID: p.Post, Title: p.Title, Published: p.Published, Lane: lane, Page: p.Kind == "page", Evergreen: p.Evergreen,
			Never: p.NeverExpires, Kept: p.KeptUntil.After(now), Expires: !p.Expires.IsZero(), Edited: p.Edited, Shared: p.Shared, Again: p.Republished, Looked: p.Looked, Rules: p.Rules})
	}
	for _, l := range m.Lines {
		line := RuleLine{ID: l.Rule.ID, Name: l.Rule.Name, Kind: string(l.Rule.Kind), Action: l.Rule.Settings.Action, State: stateOf(l.Rule), Lanes: []int{}, HasAge: l.HasAge,
			Count: l.Count, Rule: viewRuleBody(l.Rule)}
		for i, name := range view.Categories {
			if l.Categories == nil || slices.ContainsFunc(l.Categories, func(c string) bool { return strings.EqualFold(c, name) }) {
				line.Lanes = append(line.Lanes, i)
			}
		}
		if l.HasAge {
			span := l.Span
			line.Age, line.Days, line.Over, line.Path, line.Setting = &span, span.Days(), l.Over, l.Path, l.Setting
		}
		view.Lines = append(view.Lines, line)
	}
	return view
}

// Notices are what people were told of.
type Notices struct {
	Notices []Notice `json:"notices" doc:"what is due first coming first"`
}

// Notice is what people were told of before a rule acts on a post.
type Notice struct {
	PostID  int64           `json:"postId"`
	Title   string          `json:"title"`
	RuleID  int64           `json:"ruleId"`
	Rule    string          `json:"rule"`
	Kind    string          `json:"kind" enum:"expire,republish"`
	ToldAt  operation.Place `json:"toldAt"`
	DueOn   operation.Place `json:"dueOn" doc:"the rule does not act before"`
	Read    bool            `json:"read" doc:"somebody said that it may come out again"`
	Waiting bool            `json:"waiting" doc:"the rule still catches the post"`
}

// noticesLast is how long after its day a notice is shown.
const noticesLast = 90 * 24 * time.Hour

func (s part) listNotices(ctx context.Context, _ *operation.SitePath) (*struct{ Body Notices }, error) {
	site, now := operation.DeskOf(ctx).Site, s.Clock.Now()
	all, err := s.Store.Notices(ctx, site.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	all = slices.DeleteFunc(all, func(n store.Notice) bool { return now.Sub(n.DueOn) >= noticesLast })
	waiting, err := s.Book(site).Told(ctx, s.Store.Queries, all, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	body := Notices{Notices: []Notice{}}
	for i, n := range all {
		if waiting[i] {
			body.Notices = append(body.Notices, viewNotice(site, n, true))
		}
	}
	return &struct{ Body Notices }{body}, nil
}

func viewNotice(site store.Site, n store.Notice, waiting bool) Notice {
	return Notice{PostID: n.Post, Title: n.Title, RuleID: n.Rule, Rule: n.RuleName, Kind: string(n.Kind), ToldAt: operation.PlaceAt(site.Zone(), n.At),
		DueOn: operation.PlaceAt(site.Zone(), n.DueOn), Read: n.ReadAt != nil && !n.ReadAt.Before(n.At), Waiting: waiting}
}

type orderInput struct {
	operation.SitePath
	Body struct {
		Kind string  `json:"kind" enum:"expire,republish,reshare"`
		IDs  []int64 `json:"ids" minItems:"1" maxItems:"1000" doc:"each rule of the kind once"`
	}
}

func (s part) orderRules(ctx context.Context, in *orderInput) (*struct{}, error) {
	return nil, s.Problem(s.ruleEditor(ctx).Reorder(ctx, store.RuleKind(in.Body.Kind), in.Body.IDs, s.Clock.Now()))
}

type readInput struct {
	operation.ItemPath
	Post int64 `path:"post" minimum:"1"`
}

func (s part) confirmRead(ctx context.Context, in *readInput) (*struct{}, error) {
	return nil, s.Problem(notices.Confirm(ctx, operation.DeskOf(ctx), in.ID, in.Post, s.Clock.Now()))
}

// PostUpkeep is what becomes of a post.
type PostUpkeep struct {
	Title      string           `json:"title"`
	Status     string           `json:"status"`
	Version    int              `json:"version"`
	Rules      []PostRule       `json:"rules" doc:"all rules of the blog that expire or republish, those that catch the post first"`
	Next       *PostFate        `json:"next,omitempty" doc:"what is foretold to become of it next"`
	Fights     []string         `json:"fights" doc:"where rules disagree about it, in words"`
	Notices    []Notice         `json:"notices"`
	KeptUntil  *operation.Place `json:"keptUntil,omitempty"`
	Answer     string           `json:"answer" enum:",page,redirect,gone" doc:"what readers get once it is archived; empty: as the rule says"`
	LeadsTo    int64            `json:"leadsTo,omitempty" doc:"with redirect"`
	LeadsTitle string           `json:"leadsTitle,omitempty"`
	CanKeep    bool             `json:"canKeep" doc:"you may keep it a while longer"`
}

// PostRule is what a rule says of a post.
type PostRule struct {
	ID     int64            `json:"id"`
	Name   string           `json:"name"`
	Kind   string           `json:"kind" enum:"expire,republish"`
	State  string           `json:"state" enum:"off,armed,held"`
	Caught bool             `json:"caught"`
	Reason string           `json:"reason"`
	Next   *operation.Place `json:"next,omitempty" doc:"when it is foretold to do something to the post"`
}

// PostFate is what is foretold of a post.
type PostFate struct {
	operation.Place
	Kind   string `json:"kind" doc:"the deed"`
	RuleID int64  `json:"ruleId,omitempty" doc:"absent where it is its own expiry, or the limit of the bin"`
	Rule   string `json:"rule,omitempty"`
}

type fates struct{ of map[int64][]siterules.Fate }

func (s part) getPostUpkeep(ctx context.Context, in *operation.ItemPath) (*struct{ Body PostUpkeep }, error) {
	site, now := operation.DeskOf(ctx).Site, s.Clock.Now()
	view, err := s.postUpkeep(ctx, site, in.ID, now)
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body PostUpkeep }{view}, nil
}

func (s part) postUpkeep(ctx context.Context, site store.Site, id int64, now time.Time) (PostUpkeep, error) {
	view := PostUpkeep{Rules: []PostRule{}, Fights: []string{}, Notices: []Notice{}}
	p, err := s.Store.Post(ctx, site.ID, id)
	if err != nil {
		return view, err
	}
	view.Title, view.Status, view.Version, view.KeptUntil = p.Title, string(p.Status), p.Version, operation.MaybePlace(site.Zone(), p.KeptUntil)
	view.CanKeep = operation.OfOwn(ctx, "keep-post", p.AuthorID) == nil
	if p.OwnAnswer != nil {
		view.Answer, view.LeadsTo = *p.OwnAnswer, int64(p.OwnLeadsTo)
		titles, err := s.Store.Titles(ctx, site.ID, []int64{view.LeadsTo})
		if err != nil {
			return view, err
		}
		view.LeadsTitle = titles[view.LeadsTo]
	}
	verdicts, err := s.Book(site).Care(ctx, s.Store.Queries, id, now)
	if err != nil {
		return view, err
	}
	told, err := operation.Remember(ctx, s.Tools, site, "what becomes of posts", now, func() (fates, time.Time, error) {
		of, till, err := s.Book(site).Fates(ctx, s.Store.Queries, now)
		return fates{of}, till, err
	})
	if err != nil {
		return view, err
	}
	mine := told.of[id]
	view.Fights = fightsOf(verdicts)
	names := make(map[int64]string)
	for _, v := range verdicts {
		names[v.Rule.ID] = v.Rule.Name
		if v.Rule.Kind == store.Reshare {
			continue
		}
		one := PostRule{ID: v.Rule.ID, Name: v.Rule.Name, Kind: string(v.Rule.Kind), State: stateOf(v.Rule), Caught: v.Verdict.Caught, Reason: v.Verdict.String()}
		for _, f := range mine {
			if f.Rule == v.Rule.ID {
				place := operation.PlaceAt(site.Zone(), f.At)
				one.Next = &place
			}
		}
		view.Rules = append(view.Rules, one)
	}
	var caught, others []PostRule
	for _, r := range view.Rules {
		if r.Caught {
			caught = append(caught, r)
		} else {
			others = append(others, r)
		}
	}
	view.Rules = append(caught, others...)
	if view.Rules == nil {
		view.Rules = []PostRule{}
	}
	for _, f := range mine {
		if view.Next == nil || f.At.Before(view.Next.At) {
			view.Next = &PostFate{operation.PlaceAt(site.Zone(), f.At), string(f.What), f.Rule, names[f.Rule]}
		}
	}
	all, err := s.Store.NoticesOfPost(ctx, site.ID, id)
	if err != nil {
		return view, err
	}
	waiting, err := s.Book(site).Told(ctx, s.Store.Queries, all, now)
	for i, n := range all {
		if waiting[i] {
			view.Notices = append(view.Notices, viewNotice(site, n, true))
		}
	}
	return view, err
}

// fightsOf says where rules disagree about a post: one takes away what another brings out, or two do different things.
func fightsOf(all []siterules.Verdict) []string {
	fights := []string{}
	for i, a := range all {
		action := upkeep.Action(a.Rule.Settings.Action)
		if !a.Verdict.Caught || a.Rule.ArmedAt == nil || a.Rule.Kind != store.Expire || !action.TakesAway() {
			continue
		}
		for j, b := range all {
			other := upkeep.Action(b.Rule.Settings.Action)
			switch {
			case i == j || !b.Verdict.Caught || b.Rule.ArmedAt == nil:
			case b.Rule.Kind == store.Republish:
				fights = append(fights, fmt.Sprintf("“%s” takes it away, while “%s” would bring it out again.", a.Rule.Name, b.Rule.Name))
			case b.Rule.Kind == store.Reshare:
				fights = append(fights, fmt.Sprintf("“%s” takes it away, while “%s” would share it.", a.Rule.Name, b.Rule.Name))
			case j > i && other.TakesAway() && other != action:
				fights = append(fights, fmt.Sprintf("“%s” and “%s” do different things to it; whichever runs first wins.", a.Rule.Name, b.Rule.Name))
			}
		}
	}
	return fights
}

type keepInput struct {
	operation.ItemPath
	Body struct {
		Version int    `json:"version" doc:"the version that was seen"`
		Until   string `json:"until" required:"false" maxLength:"10" doc:"a date; empty lets it expire again"`
	}
}

func (s part) keepPost(ctx context.Context, in *keepInput) (*struct{ Body PostUpkeep }, error) {
	desk, now := operation.DeskOf(ctx), s.Clock.Now()
	p, err := s.Store.Post(ctx, desk.Site.ID, in.ID)
	if err != nil {
		return nil, s.Problem(err)
	}
	if err := operation.OfOwn(ctx, "keep-post", p.AuthorID); err != nil {
		return nil, err
	}
	var until time.Time
	if in.Body.Until != "" {
		date, err := civil.ParseDate(in.Body.Until)
		if err != nil {
			return nil, operation.Invalid(act.Invalidf("until", "Enter a date such as 2026-12-24."))
		}
		until = desk.Site.Zone().At(date, 0)
	}
	if err := notices.Keep(ctx, desk, in.ID, in.Body.Version, until, now); err != nil {
		return nil, s.Problem(err)
	}
	return s.getPostUpkeep(ctx, &in.ItemPath)
}

type archivedAnswerInput struct {
	operation.ItemPath
	Body struct {
		Version int    `json:"version" doc:"the version that was seen"`
		Answer  string `json:"answer" enum:",page,redirect,gone" doc:"empty: as the rule says that archives it"`
		LeadsTo int64  `json:"leadsTo" required:"false" doc:"with redirect: the post that readers are sent on to"`
	}
}

func (s part) savePostAnswer(ctx context.Context, in *archivedAnswerInput) (*struct{ Body PostUpkeep }, error) {
	err := notices.SetAnswer(ctx, operation.DeskOf(ctx), in.ID, in.Body.Version, notices.Wish(in.Body.Answer), in.Body.LeadsTo, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return s.getPostUpkeep(ctx, &in.ItemPath)
}

// OnceBody is what is to be done once.
type OnceBody struct {
	Action     string          `json:"action" enum:"archive,draft,bin,category,tag,notice,comments,delete"`
	CategoryID int64           `json:"categoryId" required:"false"`
	Tag        string          `json:"tag" required:"false" maxLength:"500"`
	Notice     string          `json:"notice" required:"false" maxLength:"5000"`
	Answer     string          `json:"answer" required:"false"`
	LeadsTo    int64           `json:"leadsTo" required:"false"`
	IDs        []int64         `json:"ids" required:"false" maxItems:"20000" doc:"the posts that were chosen; otherwise those that match the condition"`
	Condition  *condition.Node `json:"condition" required:"false"`
}

func (b OnceBody) rule(site store.Site) (store.Rule, []*act.Invalid) {
	r := siterules.Begin(store.Expire, nil)
	r.Name, r.SiteID, r.Cadence.By = "", site.ID, "hand"
	r.Settings = store.RuleSettings{Action: b.Action, Category: b.CategoryID, Tag: b.Tag, Notice: b.Notice, Answer: b.Answer, LeadsTo: b.LeadsTo}
	switch {
	case len(b.IDs) > 0:
		r.Settings.Only = b.IDs
	case b.Condition != nil:
		r.Condition = *b.Condition
	default:
		return r, []*act.Invalid{act.Invalidf("ids", "Choose posts, or say which ones match.")}
	}
	r = siterules.Own(r)
	return r, siterules.OnceProblems(r, site)
}

type oncePreviewInput struct {
	operation.SitePath
	Body OnceBody
}

func (s part) previewOnce(ctx context.Context, in *oncePreviewInput) (*struct{ Body RulePreview }, error) {
	site := operation.DeskOf(ctx).Site
	r, problems := in.Body.rule(site)
	view := emptyPreview(r)
	for _, p := range problems {
		view.Problems = append(view.Problems, check.FieldProblem{Path: p.Field, Message: p.Message})
	}
	if len(problems) > 0 {
		return &struct{ Body RulePreview }{view}, nil
	}
	preview, err := s.Book(site).Preview(ctx, s.Store.Queries, r, siterules.PreviewPage{Limit: caughtAPage}, s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	return &struct{ Body RulePreview }{viewPreview(site, r, preview, nil)}, nil
}

type onceInput struct {
	operation.SitePath
	Body struct {
		OnceBody
		Token   string `json:"token" doc:"of the preview that was seen"`
		Confirm int    `json:"confirm" required:"false" doc:"the size of a wide catch, or of one that is deleted for good, written by hand"`
	}
}

func (s part) doOnce(ctx context.Context, in *onceInput) (*struct{ Body Ran }, error) {
	desk := s.ruleEditor(ctx)
	r, problems := in.Body.rule(desk.Site)
	if len(problems) > 0 {
		return nil, operation.Invalid(problems...)
	}
	took, err := desk.Once(ctx, r, siterules.Agreement{Token: in.Body.Token, Confirm: in.Body.Confirm}, s.Clock.Now())
	if err != nil {
		return nil, operation.Outdated(s.Tools, err, func(p operation.Problem, now siterules.Preview) error {
			view := viewPreview(desk.Site, r, now, nil)
			return &StaleCatch{p, &view}
		})
	}
	return &struct{ Body Ran }{Ran{took}}, nil
}
