package plan

import (
	"context"
	"fmt"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"dapper.example/internal/api/operation"
	"dapper.example/internal/core/civil"
	"dapper.example/internal/core/queue"
	"dapper.example/internal/core/reflow"
	"dapper.example/internal/planning"
)

func (s part) reflowOperations(api huma.API) {
	const path = "/api/v1/sites/{site}/reflow"
	huma.Register(api, operation.Question(huma.Operation{
		OperationID: "propose-reflow", Method: http.MethodPost, Path: path +
			"/proposal", Summary: "What a change of many posts' places would come to",
		Description: "Place chosen drafts, make room for one post, shift a stretch of the plan by days, or take it back to the shelf. Nothing is changed.",
	}), s.proposeReflow)
	huma.Register(api, operation.Conflict[StaleReflow](api, huma.Operation{
		OperationID: "apply-reflow", Method: http.MethodPost, Path: path, Summary: "Do exactly what was shown",
		Description:   "If the plan has changed meanwhile, nothing is done and the answer (409) holds the new proposal.",
		DefaultStatus: http.StatusNoContent,
	}), s.applyReflow)
}

// Wish says what is to be done to many posts' places.
type Wish struct {
	Do      string          `json:"do" enum:"place,room,shift,unplace,rest" doc:"place: chosen drafts get slots; room: one post is put in and later ones move down; shift: a stretch moves by days; unplace: a stretch goes back to the shelf; rest: posts on rest days move on to days that are none"`
	Posts   []int64         `json:"posts,omitempty" maxItems:"2000" doc:"place: the drafts, in their order; room: the one post"`
	Start   *civil.Date     `json:"start,omitempty" doc:"place: first date, which may be past; room: not before it; shift and unplace: first date of the stretch. Today where absent"`
	End     *civil.Date     `json:"end,omitempty" doc:"shift and unplace: last date of the stretch; without one it has no end"`
	Days    int             `json:"days,omitempty" doc:"shift: days down, or up where negative"`
	Order   string          `json:"order,omitempty" enum:"hand,oldest,newest,shuffled,categories" doc:"place: in which order; hand is that of posts"`
	Pattern *reflow.Pattern `json:"pattern,omitempty" doc:"place: a one-off pattern in place of the rhythm"`
}

func (w Wish) of() planning.Wish {
	wish := planning.Wish{Do: planning.WishKind(w.Do), Posts: w.Posts, Days: w.Days, Order: queue.Order(w.Order), Pattern: w.Pattern}
	if wish.Order == "" {
		wish.Order = queue.ByHand
	}
	if w.Start != nil {
		wish.Start = *w.Start
	}
	if w.End != nil {
		wish.End = *w.End
	}
	return wish
}

// Step is one post's way.
type Step struct {
	ID       int64            `json:"id"`
	Title    string           `json:"title"`
	Author   string           `json:"author"`
	Category string           `json:"category,omitempty"`
	From     *operation.Place `json:"from,omitempty" doc:"absent: a draft"`
	To       *operation.Place `json:"to,omitempty" doc:"absent: the shelf"`
	Pinned   bool             `json:"pinned"`
	Past     bool             `json:"past" doc:"it comes out at once, with that date"`
	Reason   string           `json:"reason"`
}

// LeftPost is a post that is not moved, and why.
type LeftPost struct {
	ID     int64  `json:"id"`
	Title  string `json:"title"`
	Reason string `json:"reason"`
}

// Reflow is what a wish comes to.
type Reflow struct {
	Token    string     `json:"token" doc:"stands for exactly these steps, for taking them"`
	Steps    []Step     `json:"steps"`
	Left     []LeftPost `json:"left" doc:"posts that are not moved"`
	Unproven bool       `json:"unproven,omitempty" doc:"more deadlines might be met than are: there are too many to try every way"`
	Near     []NearLine `json:"near,omitempty" doc:"adjusted lines that come nearer to another post than the gap"`
}

// NearLine says of an adjusted line what it is nearer to than the gap.
type NearLine struct {
	ID   int64  `json:"id"`
	Note string `json:"note" doc:"a sentence"`
}

// StaleReflow answers who takes a reflow that would no longer be done so.
type StaleReflow struct {
	operation.Problem
	Reflow *Reflow `json:"reflow,omitempty" doc:"the reflow as it is now"`
}

func reflowOf(zone civil.Zone, found planning.Reflow) *Reflow {
	r := &Reflow{Token: found.Token(), Steps: []Step{}, Left: []LeftPost{}, Unproven: found.Unproven}
	for _, s := range found.Steps {
		r.Steps = append(r.Steps, Step{s.Post.ID, s.Post.Title, s.Post.AuthorName,
			operation.OrEmpty(s.Post.CategoryName),
			operation.MaybePlace(zone, s.From), operation.MaybePlace(zone, s.To), s.Pinned, s.Past, s.Reason})
	}
	for _, l := range found.Left {
		r.Left = append(r.Left, LeftPost(l))
	}
	return r
}

type wishInput struct {
	operation.SitePath
	Body struct {
		Wish
		Adjusted []ByHand `json:"adjusted,omitempty" maxItems:"2000" doc:"lines that are to get another time by hand; the steps stay as proposed"`
	}
}

func (s part) proposeReflow(ctx context.Context, in *wishInput) (*struct{ Body Reflow }, error) {
	site := operation.DeskOf(ctx).Site
	found, err := planning.ProposeReflow(ctx, s.Store.Queries, site, in.Body.of(), s.Clock.Now())
	if err != nil {
		return nil, s.Problem(err)
	}
	proposal := reflowOf(site.Zone(), found)
	near, err := planning.NearAdjusted(ctx, s.Store.Queries, site, found.Steps, byHand(site.Zone(), in.Body.Adjusted))
	if err != nil {
		return nil, s.Problem(err)
	}
	for _, n := range near {
		_, at := site.Zone().Local(n.At)
		proposal.Near = append(proposal.Near, NearLine{n.Post,
			fmt.Sprintf("That is nearer than the gap to “%s” at %s.", n.Title, at)})
	}
	return &struct{ Body Reflow }{*proposal}, nil
}

// ByHand is a time that an editor gave to a line of a proposal, by the site's clocks.
type ByHand struct {
	ID   int64       `json:"id"`
	Date civil.Date  `json:"date"`
	Time civil.Clock `json:"time"`
}

func byHand(zone civil.Zone, lines []ByHand) (adjusted []planning.Adjusted) {
	for _, a := range lines {
		adjusted = append(adjusted, planning.Adjusted{Post: a.ID, At: zone.At(a.Date, a.Time)})
	}
	return adjusted
}

type applyInput struct {
	operation.SitePath
	Body struct {
		Wish     Wish     `json:"wish"`
		Token    string   `json:"token" minLength:"1" doc:"of the proposal that was shown"`
		Adjusted []ByHand `json:"adjusted,omitempty" maxItems:"2000" doc:"lines that get another time by hand, and are pinned there"`
	}
}

func (s part) applyReflow(ctx context.Context, in *applyInput) (*struct{}, error) {
	desk := operation.DeskOf(ctx)
	err := planning.ApplyReflow(ctx, desk, in.Body.Wish.of(), in.Body.Token, byHand(desk.Site.Zone(), in.Body.Adjusted),
		s.Clock.Now())
	return nil, operation.Outdated(s.Tools, err, func(p operation.Problem, now planning.Reflow) error {
		return &StaleReflow{p, reflowOf(desk.Site.Zone(), now)}
	})
}
